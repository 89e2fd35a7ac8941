using System.Text;
using CsCheck;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using Xunit;

namespace LitFuse.Core.Tests;

public sealed class PayloadTests
{
    private static Payload Json(string text) => Payload.FromJson(Encoding.UTF8.GetBytes(text));

    [Fact]
    public void JSON_is_read_into_answers_in_their_order()
    {
        var read = Json(
            """{"id":"s-1","first_name":" Ines ","fleet":{"size":"25+"},"carries":["food","tools"],"depots":[{"code":"QX1"},{"code":"QX2"}],"van":true,"bikes":12,"note":null}"""
        );
        Assert.Null(read.Unreadable);
        Assert.Equal("s-1", read.OwnId);
        Assert.Equal(
            [
                new("first_name", "Ines"),
                new("fleet.size", "25+"),
                new("carries", "food, tools"),
                new("depots.0.code", "QX1"),
                new("depots.1.code", "QX2"),
                new("van", "yes"),
                new("bikes", "12"),
                new("note", ""),
            ],
            read.Answers
        );
    }

    [Theory]
    [InlineData("{\"first_name\": ", "not readable as JSON at line 1, byte 16")]
    [InlineData("[1,2]", "the JSON is not an object with field names as keys")]
    [InlineData("{}", "there is no answer in it")]
    [InlineData("""{"id":"only-an-id"}""", "there is no answer in it")]
    public void What_cannot_be_read_says_why_and_where(string body, string reason) =>
        Assert.Equal(reason, Json(body).Unreadable);

    [Fact]
    public void More_answers_than_any_form_has_are_not_read()
    {
        var body =
            "{" + string.Join(",", Enumerable.Range(0, Payload.MostAnswers + 1).Select(i => $"\"f{i}\":\"x\"")) + "}";
        Assert.Contains("at most 500", Json(body).Unreadable, StringComparison.Ordinal);
    }

    [Fact]
    public void A_name_that_comes_several_times_is_one_answer()
    {
        var read = Payload.FromPairs([
            new("cargo", "food"),
            new("cargo", ""),
            new("cargo", "tools"),
            new("", "lost"),
            new("id", " 7 "),
        ]);
        Assert.Equal([new("cargo", "food, tools")], read.Answers);
        Assert.Equal("7", read.OwnId);
    }

    [Fact]
    public void The_digest_knows_the_same_content_in_any_order_and_encoding()
    {
        var gen = Gen.Select(Gen.String[Gen.Char['a', 'z'], 1, 6], Gen.String[0, 8]).List[1, 8];
        gen.Sample(pairs =>
        {
            var distinct = pairs
                .DistinctBy(p => p.Item1)
                .Where(p => p.Item1 != "id")
                .Select(p => KeyValuePair.Create(p.Item1, p.Item2))
                .ToList();
            var there = Payload.FromPairs(distinct);
            var back = Payload.FromPairs(distinct.AsEnumerable().Reverse());
            return distinct.Count == 0 || there.Digest([1]).AsSpan().SequenceEqual(back.Digest([2]));
        });
        Assert.NotEqual(Json("""{"a":"1"}""").Digest([]), Json("""{"a":"2"}""").Digest([]));
        Assert.NotEqual(Payload.Bad("x").Digest([1]), Payload.Bad("x").Digest([2]));
    }

    [Fact]
    public void Reading_never_throws_whatever_comes() =>
        Gen
            .Byte.Array[0, 200]
            .Sample(bytes =>
                Payload.FromJson(bytes) is { } read && (read.Unreadable is null || read.Answers.Count == 0)
            );

    [Fact]
    public void A_map_puts_answers_where_they_belong_and_keeps_the_rest()
    {
        var map = new FieldMap([
            new("your_name", "full_name"),
            new("mobile", "phone"),
            new("mail", "email"),
            new("size", "fleet_size"),
            new("robot", null),
        ]);
        var mapped = MapReader.Apply(
            map,
            [
                new("your_name", "Dr. Ines Calloway"),
                new("mobile", "07700 900512"),
                new("mail", "INES@example.com"),
                new("size", "25+"),
                new("robot", "no"),
                new("favourite_hill", "Box Hill"),
            ],
            "GB"
        );
        Assert.Equal(
            new Dictionary<string, string>
            {
                ["first_name"] = "Ines",
                ["last_name"] = "Calloway",
                ["phone"] = "+447700900512",
                ["email"] = "ines@example.com",
                ["fleet_size"] = "25+",
            },
            mapped.Values
        );
        Assert.Equal(new Dictionary<string, string> { ["favourite_hill"] = "Box Hill" }, mapped.Unmapped);
        Assert.Empty(mapped.Faults);
        Assert.Equal(2, mapped.Keys().Count);
    }

    [Fact]
    public void An_answer_that_is_not_what_it_was_mapped_to_is_kept_as_typed_with_its_fault()
    {
        var mapped = MapReader.Apply(
            new([new("mobile", "phone"), new("mail", "email")]),
            [new("mobile", "ask my office"), new("mail", "none")],
            "GB"
        );
        Assert.Equal("ask my office", mapped.Values["phone"]);
        Assert.Equal(["mail", "mobile"], mapped.Faults.Keys.Order());
        Assert.Empty(mapped.Keys());
    }
}

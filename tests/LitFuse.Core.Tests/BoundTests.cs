using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>
/// Each limit of what is read and written at what is just allowed and at what is just too much; each text at its last
/// character.
/// </summary>
public sealed class BoundTests
{
    [Fact]
    public void What_is_not_readable_as_json_is_said_with_its_place() =>
        Assert.StartsWith(
            "not readable as JSON at line 2, byte 4",
            Payload.FromJson("{\n\"a\"x}"u8.ToArray()).Unreadable,
            StringComparison.Ordinal
        );

    [Fact]
    public void A_number_stands_for_no_word()
    {
        Assert.Throws<JsonException>(() => JsonSerializer.Deserialize<EntryKind>("1", CoreJson.Options));
        Assert.Equal(EntryKind.Otherwise, JsonSerializer.Deserialize<EntryKind>("\"otherwise\"", CoreJson.Options));
    }

    [Theory]
    [InlineData(75, 1)]
    [InlineData(76, 2)]
    [InlineData(149, 2)]
    [InlineData(150, 3)]
    public void A_line_of_a_card_has_seventy_five_octets(int octets, int lines)
    {
        const string Property = "litfuse.NOTE:";
        var card = VCard
            .Write(
                new CardOf("u", "Ines", null, null) { Note = new string('n', octets - Property.Length) },
                At("24 12:00:00")
            )
            .Split("\r\n");
        var folded = card.SkipWhile(l => !l.StartsWith(Property, StringComparison.Ordinal))
            .TakeWhile((l, i) => i == 0 || l.StartsWith(' '))
            .ToList();
        Assert.Equal(lines, folded.Count);
        Assert.All(folded.SkipLast(1), l => Assert.Equal(75, l.Length));
    }

    [Fact]
    public void A_letter_without_blocks_has_no_box_for_them()
    {
        Assert.DoesNotContain("border-top", LetterHtml.Of(new LetterParts("Hello", "T")), StringComparison.Ordinal);
        Assert.Contains(
            "border-top",
            LetterHtml.Of(new LetterParts("Hello", "T") { Blocks = [new("a", "b")] }),
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("a\n  b", "a\nb")]
    [InlineData("a  b", "a b")]
    [InlineData("a , b", "a, b")]
    [InlineData("a \nb", "a\nb")]
    [InlineData("{{ lead.none }} b", "b")]
    [InlineData("a\n{{ lead.none }} b", "a\nb")]
    public void Blanks_that_nobody_sees_are_not_sent(string words, string sent) =>
        Assert.Equal(sent, MessageWords.Parse(words).Words!.Render(Lead().Words).Text);

    [Fact]
    public void Words_may_be_as_long_as_the_longest()
    {
        Assert.Null(MessageWords.Parse(new string('w', MessageWords.Longest)).Fault);
        Assert.NotNull(MessageWords.Parse(new string('w', MessageWords.Longest + 1)).Fault);
    }

    [Theory]
    [InlineData("01.01.69", "2069-01-01")]
    [InlineData("01.01.70", "1970-01-01")]
    [InlineData("1 January 2026", "2026-01-01")]
    [InlineData("31 December 2026", "2026-12-31")]
    [InlineData("1.1.1900", "1900-01-01")]
    [InlineData("1.1.1899", null)]
    [InlineData("1.1.2200", "2200-01-01")]
    [InlineData("1.1.2201", null)]
    [InlineData("29.2.2027", null)]
    [InlineData("0.2.2027", null)]
    public void A_date_is_read_up_to_its_bounds(string typed, string? date)
    {
        var read = ValueReader.Read(
            typed,
            new LeadField("start", "Start", LeadFieldType.Date, []),
            ReadingLocale.For(null, "GB")
        );
        Assert.Equal(date, read.Fault is null ? read.Value : null);
    }

    [Theory]
    [InlineData("", null)]
    [InlineData("brackenwheel.example", "https://brackenwheel.example")]
    [InlineData("brackenwheel", null)]
    [InlineData("ride desk.example", null)]
    public void An_address_on_the_web_may_come_without_its_beginning(string typed, string? url)
    {
        var read = ValueReader.Read(
            typed,
            new LeadField("site", "Site", LeadFieldType.Link, []),
            ReadingLocale.For(null, "GB")
        );
        Assert.Equal(url, read.Fault is null ? read.Value : null);
    }

    [Theory]
    [InlineData("xkcd", null)]
    [InlineData("bcdfgx", "bcdfgx")]
    [InlineData("bcd", null)]
    [InlineData("Strengths", null)]
    [InlineData("Schwartz", null)]
    [InlineData("aGeHeR", "aGeHeR")]
    [InlineData("aGeHer", null)]
    [InlineData("McDonald", null)]
    [InlineData("qwerty", "qwerty")]
    public void What_is_no_word_of_any_language_has_signs_of_it(string typed, string? said)
    {
        var why = GibberishSigns.Of(typed);
        if (said is null)
            Assert.Null(why);
        else
            Assert.Contains(said, why, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("12a", false, 35)]
    [InlineData("123a", false, 35)]
    [InlineData("1234a", false, 25)]
    [InlineData("12a", true, 25)]
    public void A_number_that_cannot_be_one_weighs_less_where_somebody_tried(string typed, bool email, int score)
    {
        var map = CompiledMap.From(new([new("phone", "phone"), new("email", "email")]), "GB", []);
        var payload = Payload.FromPairs([
            new("phone", typed),
            .. email ? [KeyValuePair.Create("email", "ines@example.com")] : Array.Empty<KeyValuePair<string, string>>(),
        ]);
        Assert.Equal(score, JunkScore.OfAnswers(JunkReading.Clean, payload, map.Read(payload.Answers), 0).Score);
    }

    [Theory]
    [InlineData("AB", "ab")]
    [InlineData("ABc", "a bc")]
    [InlineData("aB", "a b")]
    [InlineData("a1", "a 1")]
    [InlineData("1a", "1 a")]
    [InlineData("don't", "dont")]
    [InlineData("l'entreprise", "l entreprise")]
    [InlineData("'", "")]
    public void A_text_falls_into_words(string text, string words) => Assert.Equal(words, Tokens.PlainOf(text));

    [Theory]
    [InlineData("a_b", "$.a_b")]
    [InlineData("a1", "$.a1")]
    [InlineData("a b", "$['a b']")]
    [InlineData("a.b", "$['a.b']")]
    [InlineData("", "$['']")]
    [InlineData("a'b", "$['a\\'b']")]
    public void A_place_in_a_body_is_named_as_it_is_read_again(string name, string path)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(new Dictionary<string, string> { [name] = "x" });
        Assert.Equal(path, Assert.Single(Picks.Paths(body)).Field);
        Assert.Equal("x", Assert.Single(Picks.Read([new(path, "it")], body).Answers).Value);
    }

    [Fact]
    public void As_many_answers_are_read_at_one_place_as_a_submission_may_have()
    {
        int Of(int count) =>
            Assert
                .Single(
                    Picks
                        .Read(
                            [new("$.all[*]", "it")],
                            JsonSerializer.SerializeToUtf8Bytes(new { all = Enumerable.Range(0, count) })
                        )
                        .Answers
                )
                .Value.Split(", ")
                .Length;
        Assert.Equal(20, Of(20));
        Assert.Equal(Payload.MostAnswers, Of(Payload.MostAnswers));
        Assert.Equal(Of(Payload.MostAnswers + 1), Of(Payload.MostAnswers + 2));
    }

    [Theory]
    [InlineData("1/2/99", "US", DateOrder.MonthDayYear)]
    [InlineData("25/1/99", "US", DateOrder.DayMonthYear)]
    [InlineData("1/25/99", "GB", DateOrder.MonthDayYear)]
    [InlineData("13/1/31", "US", DateOrder.MonthDayYear)]
    [InlineData("13/1/32", "US", DateOrder.DayMonthYear)]
    [InlineData("13/1/0031", "US", DateOrder.DayMonthYear)]
    [InlineData("12/12/2026", "US", DateOrder.MonthDayYear)]
    [InlineData("12/12/2026", "GB", DateOrder.DayMonthYear)]
    [InlineData("31/1/2026", "US", DateOrder.DayMonthYear)]
    public void Years_of_two_digits_tell_how_dates_stand_where_they_can_be_no_day(
        string date,
        string country,
        DateOrder order
    ) =>
        Assert.Equal(
            order,
            FileLook.DatesOf(
                [
                    [date],
                ],
                country
            )
        );

    [Fact]
    public void A_campaign_without_a_value_is_none()
    {
        var map = CompiledMap.From(new([new("email", "email")]), "GB", []);
        var read = map.Read([new("utm_source", " "), new("utm_medium", "cpc"), new("other", " "), new("more", "x")]);
        Assert.Equal(["utm_medium"], read.Values.Keys);
        Assert.Equal("x", read.Unmapped["more"]);
    }

    [Fact]
    public void Each_number_in_words_chooses_its_place()
    {
        string[] five = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday"];
        string[] places =
        [
            "first 1st one erste ersten eins premier premiere un primero primera uno primo prima eerste een primeiro primeira pierwszy pierwsza jeden forsta forste a",
            "second 2nd two zweite zweiten zwei deuxieme deux segundo segunda dos secondo seconda due tweede twee dois duas drugi druga dwa andra anden b",
            "third 3rd three dritte dritten drei troisieme trois tercero tercera tres terzo terza tre derde drie terceiro terceira trzeci trzecia trzy tredje c",
            "fourth 4th four",
        ];
        for (var i = 0; i < places.Length; i++)
            Assert.All(places[i].Split(' '), word =>
                Assert.Equal(five[i], Replies.ReplyReader.Read(word, five).Choice)
            );
    }

    [Fact]
    public void A_made_up_answer_of_several_is_always_one_of_them()
    {
        FormField cargo = new("cargo", "Cargo", FormFieldType.Choices, true, ["food", "tools"]),
            one = cargo with { Choices = ["food"] };
        var answers = Enumerable
            .Range(0, 60)
            .Select(s => MadeUpAnswers.For([cargo], "GB", new Random(s)).Single().Value)
            .Distinct()
            .Order(StringComparer.Ordinal)
            .ToList();
        Assert.Equal(["food", "food, tools", "tools"], answers);
        Assert.All(Enumerable.Range(0, 20), s =>
            Assert.Equal("food", MadeUpAnswers.For([one], "GB", new Random(s)).Single().Value)
        );
    }

    [Fact]
    public void A_constant_of_one_letter_is_a_value() =>
        Assert.Equal(
            "x",
            CompiledMap.From(new([new("", "company", Constant: "x")]), "GB", []).Read([]).Values["company"]
        );

    [Theory]
    [InlineData("{{ lead.first_name.size }}", "lead.first_name")]
    [InlineData("{{ steps.a.url.size }}", "steps.a.url")]
    [InlineData("{{ lead }}", "lead")]
    public void Words_use_a_field_whatever_is_asked_of_it(string words, string uses) =>
        Assert.Equal([uses], MessageWords.Parse(words).Words!.Uses);

    [Fact]
    public void Json_may_be_as_long_and_as_deep_as_the_most()
    {
        string Deep(int levels) =>
            string.Concat(Enumerable.Repeat("[", levels)) + string.Concat(Enumerable.Repeat("]", levels));
        Assert.Null(Picks.Read([new("$", "it")], System.Text.Encoding.UTF8.GetBytes(Deep(64))).Unreadable);
        Assert.NotNull(Picks.Read([new("$", "it")], System.Text.Encoding.UTF8.GetBytes(Deep(65))).Unreadable);
        string Long(int length) => "\"" + new string('j', length - 2) + "\"";
        var longest = int.Parse(
            JsonWords.Parse(Long(1_000_000)).Fault!.Split("at most ")[1].Split(' ')[0],
            System.Globalization.CultureInfo.InvariantCulture
        );
        Assert.Null(JsonWords.Parse(Long(longest)).Fault);
        Assert.Contains($"at most {longest} ", JsonWords.Parse(Long(longest + 1)).Fault, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("fleet_size", "Anything", true)]
    [InlineData("x1", "fleet_size", true)]
    [InlineData("x1", "How large is your fleet?", true)]
    [InlineData("x1", "Anything", false)]
    public void A_field_called_as_ones_own_is_ones_own(string name, string label, bool mine)
    {
        LeadField own = new("fleet_size", "How large is your fleet?", LeadFieldType.Text, []);
        Assert.Equal(
            mine ? "fleet_size" : null,
            MapSuggester.Suggest([new(name, label, FormFieldType.Text, [], null, [])], [own], [], "GB").Single()
                is var s
            && s.LeadField == "fleet_size"
                ? s.LeadField
                : null
        );
    }

    [Fact]
    public void A_lead_without_contacts_has_none()
    {
        var map = CompiledMap.From(new([new("mail", "email"), new("tel", "phone")]), "GB", []);
        Assert.Equal((null, null), (map.Read([]).Email, map.Read([]).Phone));
        var read = map.Read([new("mail", "ines@example.com"), new("tel", "07700 900123")]);
        Assert.Equal(("ines@example.com", "+447700900123"), (read.Email, read.Phone?.E164));
    }

    [Theory]
    [InlineData("now", "27 November 2026 11:30")]
    [InlineData("today", "27 November 2026 11:30")]
    [InlineData("2026-11-30T02:30:00Z", "29 November 2026 21:30")]
    [InlineData("2026-11-30", "30 November 2026 00:00")]
    [InlineData("12,5", "12,5")]
    [InlineData("5 December", "5 December")]
    [InlineData("1200", "1200")]
    [InlineData("0099-01-01", "01 January 0099 00:00")]
    public void A_moment_in_words_is_one_of_their_clock_whatever_this_machine_says(string typed, string said)
    {
        var facts = Lead().Words with
        {
            Lead = new Dictionary<string, string> { ["x"] = typed },
            Now = At("27 16:30:00"),
            Zone = NodaTime.DateTimeZoneProviders.Tzdb["America/Toronto"],
        };
        Assert.Equal(said, MessageWords.Parse("{{ lead.x | date: \"%d %B %Y %H:%M\" }}").Words!.Render(facts).Text);
    }

    [Theory]
    [InlineData("9999-12-31T23:30:00Z")]
    [InlineData("-9998-01-01T00:00:00Z")]
    public void A_moment_beyond_the_calendar_is_a_fault_and_no_more(string typed)
    {
        var facts = Lead().Words with
        {
            Lead = new Dictionary<string, string> { ["x"] = typed },
            Zone = NodaTime.DateTimeZoneProviders.Tzdb["Asia/Kathmandu"],
        };
        foreach (var filter in new[] { "date: \"%Y\"", "time_zone: \"UTC\"", "day", "clock", "add_days: 3" })
        {
            var said = MessageWords.Parse($"{{{{ lead.x | {filter} }}}}").Words!.Render(facts);
            Assert.True(said.Fault is not null || said.Text.Length > 0, filter);
        }
    }

    [Fact]
    public void A_moment_is_moved_to_another_zone() =>
        Assert.Equal(
            "11:30",
            MessageWords
                .Parse("{{ now | time_zone: \"America/New_York\" | date: \"%H:%M\" }}")
                .Words!.Render(Lead().Words with { Now = At("27 16:30:00"), Zone = London })
                .Text
        );
}

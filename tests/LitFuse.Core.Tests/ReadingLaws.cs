using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Words;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>What holds for whatever people type.</summary>
public sealed class ReadingLaws
{
    private static readonly Gen<string> Typed = Gen.OneOf(
        Gen.String[0, 40],
        Gen.String[Gen.Char[' ', '~'], 0, 40],
        Gen.String[Gen.Char['0', '9'], 3, 16].Select(d => "+" + d)
    );

    private static readonly string[] Domains = ["example.com", "example.org", "exämple.net"];

    [Fact]
    public void A_number_that_was_read_reads_as_itself() =>
        Gen.OneOf(
                Gen.Int[0, 999].Select(n => $"07700 900{n:000}"),
                Gen.Int[0, 999].Select(n => $"0113 496 0{n:000}"),
                Gen.Int[0, 99].Select(n => $"+1 416 555 01{n:00}"),
                Gen.Int[0, 99_999].Select(n => $"+353 20 91{n:00000}")
            )
            .Sample(typed =>
            {
                var once = PhoneReader.Read(typed, "GB").Phone!;
                return once.Fictional && PhoneReader.Read(once.E164, "CA").Phone == once;
            });

    [Fact]
    public void Reading_a_number_never_throws_and_gives_a_number_or_a_reason_but_not_both() =>
        Typed.Sample(typed =>
        {
            var read = PhoneReader.Read(typed, "GB");
            return string.IsNullOrWhiteSpace(typed)
                ? read == new PhoneReading(null, null)
                : read.Phone is null != read.Fault is null;
        });

    [Fact]
    public void An_address_that_was_read_reads_as_itself() =>
        Gen.Select(Gen.String[Gen.Char['a', 'z'], 1, 12], Gen.Int[0, 2])
            .Sample(
                (name, domain) =>
                {
                    var once = EmailReader.Read($" {name.ToUpperInvariant()}.B+x@{Domains[domain]} ").Email!;
                    return EmailReader.Read(once).Email == once && once == once.ToLowerInvariant();
                }
            );

    [Fact]
    public void Reading_an_address_never_throws_and_gives_an_address_or_a_reason_but_not_both() =>
        Typed.Sample(typed =>
        {
            var read = EmailReader.Read(typed);
            return string.IsNullOrWhiteSpace(typed)
                ? read == new EmailReading(null, null)
                : read.Email is null != read.Fault is null;
        });

    [Fact]
    public void A_name_of_two_words_comes_apart_and_together_again() =>
        Gen.Select(Gen.String[Gen.Char['a', 'z'], 4, 9], Gen.String[Gen.Char['a', 'z'], 5, 9])
            .Sample(
                (first, last) =>
                    PersonNames.Split($"Q{first}  Q{last}") is var (f, l)
                    && PersonNames.Join(f, l) == $"Q{first} Q{last}"
            );

    [Fact]
    public void A_map_loses_no_answer()
    {
        var field = Gen.String[Gen.Char['a', 'z'], 1, 5];
        Gen.Select(field, Gen.String[Gen.Char['a', 'z'], 1, 8])
            .List[1, 8]
            .Sample(pairs =>
            {
                var answers = pairs.DistinctBy(p => p.Item1).Select(p => new Answer("q_" + p.Item1, p.Item2)).ToList();
                var mapped = MapReader.Apply(new([]), answers, "GB");
                return mapped.Values.Count == 0 && answers.TrueForAll(a => mapped.Unmapped[a.Field] == a.Value);
            });
    }

    [Fact]
    public void A_guard_and_its_opposite_never_both_hold() =>
        Gen.Select(Typed, Gen.String[Gen.Char['a', 'c'], 1, 2].List[1, 3])
            .Sample(
                (given, values) =>
                {
                    bool Ask(RuleOp op) =>
                        Guard
                            .Compile(new(RuleMatch.All, [new("x", op, values)]))
                            .Guard!.Ask(new Dictionary<string, string> { ["x"] = given })
                            .Holds;
                    return Ask(RuleOp.OneOf) != Ask(RuleOp.NotOneOf) && Ask(RuleOp.Filled) != Ask(RuleOp.Empty);
                }
            );

    [Fact]
    public void All_is_any_for_one_rule_and_never_more_than_any_for_several() =>
        Gen.Select(Gen.String[Gen.Char['a', 'c'], 1, 1], Gen.String[Gen.Char['a', 'c'], 1, 1].List[1, 4])
            .Sample(
                (given, wanted) =>
                {
                    var rules = wanted.ConvertAll(w => new Rule("x", RuleOp.OneOf, [w]));
                    bool Ask(RuleMatch match) =>
                        Guard
                            .Compile(new(match, rules))
                            .Guard!.Ask(new Dictionary<string, string> { ["x"] = given })
                            .Holds;
                    return rules.Count == 1
                        ? Ask(RuleMatch.All) == Ask(RuleMatch.Any)
                        : !Ask(RuleMatch.All) || Ask(RuleMatch.Any);
                }
            );

    [Fact]
    public void Segments_grow_with_the_text_and_hold_all_of_it() =>
        Gen.Select(Gen.String[Gen.Char['a', 'z'], 0, 900], Gen.Bool)
            .Sample(
                (text, unicode) =>
                {
                    var size = TextSegments.Count(unicode ? text + "–" : text);
                    var (whole, part) = size.Unicode ? (70, 67) : (160, 153);
                    return size.Segments == 1
                        ? size.Units <= whole
                        : size.Units <= size.Segments * part && size.Units > (size.Segments - 1) * part;
                }
            );

    [Fact]
    public void Words_without_fields_come_out_as_they_are() =>
        Gen.String[Gen.Char['a', 'z'], 1, 60]
            .Sample(text => MessageWords.Parse(text).Words!.Render(Fixtures.Lead().Words).Text == text);

    [Fact]
    public void What_a_lead_typed_is_never_read_as_words() =>
        Gen.String[0, 30]
            .Sample(typed =>
            {
                var name =
                    "{{ lead.phone }}{% raw %}"
                    + typed.Replace(" ", "", StringComparison.Ordinal).ReplaceLineEndings("");
                var facts = new WordFacts(
                    new Dictionary<string, string> { ["name"] = name, ["phone"] = "SECRET" },
                    new Dictionary<string, string>(),
                    new Dictionary<string, string>(),
                    []
                );
                return !MessageWords
                    .Parse("Hello {{ lead.name }}")
                    .Words!.Render(facts)
                    .Text.Contains("SECRET", StringComparison.Ordinal);
            });

    [Fact]
    public void A_fuse_goes_to_JSON_and_back_unchanged()
    {
        var fuse = Fixtures.Fuse(
            Fixtures.Whenever(Fixtures.Post("p")),
            Fixtures.Big(Fixtures.Text("t", 90)),
            Fixtures.Otherwise(Fixtures.Post("o", 3600))
        );
        var text = System.Text.Json.JsonSerializer.Serialize(fuse, CoreJson.Options);
        Assert.Equal(
            text,
            System.Text.Json.JsonSerializer.Serialize(
                System.Text.Json.JsonSerializer.Deserialize<FuseDefinition>(text, CoreJson.Options),
                CoreJson.Options
            )
        );
        Assert.Contains("\"one-of\"", text, StringComparison.Ordinal);
        Assert.ThrowsAny<System.Text.Json.JsonException>(() =>
            System.Text.Json.JsonSerializer.Deserialize<FuseDefinition>(
                "{\"name\":\"x\",\"litBy\":null,\"bands\":[]}",
                CoreJson.Options
            )
        );
        Assert.ThrowsAny<System.Text.Json.JsonException>(() =>
            System.Text.Json.JsonSerializer.Deserialize<BandEntry>("{\"kind\":\"sometimes\"}", CoreJson.Options)
        );
    }
}

using CsCheck;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>What real burns decide by: rules, groups of them, and values as people write them.</summary>
public sealed class GuardTests
{
    private static Gen<T> OneOf<T>(params T[] of) => Gen.Int[0, of.Length - 1].Select(i => of[i]);

    private static readonly Gen<Rule> GenRule = Gen.Select(
        OneOf("a", "b", "c"),
        OneOf(RuleOp.OneOf, RuleOp.NotOneOf, RuleOp.Contains, RuleOp.Filled, RuleOp.Empty),
        OneOf("1", "2", "1, 2"),
        (field, op, value) => new Rule(field, op, op is RuleOp.Filled or RuleOp.Empty ? [] : [value])
    );

    private static readonly Gen<RuleSet> GenRules = Gen.Select(
        OneOf(RuleMatch.All, RuleMatch.Any),
        GenRule.Array[1, 3],
        Gen.Select(OneOf(RuleMatch.All, RuleMatch.Any), GenRule.Array[1, 3], (m, r) => new RuleSet(m, r)).Array[0, 3],
        (match, rules, groups) => new RuleSet(match, rules, groups.Length == 0 ? null : groups)
    );

    private static readonly Gen<Dictionary<string, string>> GenFields = Gen.Select(
        OneOf("", "1", "2", "1, 2"),
        OneOf("", "1", "2", "1, 2"),
        OneOf("", "1", "2", "1, 2"),
        (a, b, c) =>
            new Dictionary<string, string>
            {
                ["a"] = a,
                ["b"] = b,
                ["c"] = c,
            }
    );

    private static GuardFacts Of(Dictionary<string, string> fields) => new(fields.GetValueOrDefault, new(2026, 11, 25));

    // By the rules one by one, as anybody would with a pencil.
    private static bool ByHand(RuleSet rules, Dictionary<string, string> fields)
    {
        var each = rules
            .Rules.Select(r => Guard.Compile(new(RuleMatch.All, [r])).Guard!.Ask(Of(fields)).Holds)
            .Concat((rules.Groups ?? []).Select(g => ByHand(g, fields)))
            .ToList();
        return rules.Match == RuleMatch.All ? each.TrueForAll(e => e) : each.Exists(e => e);
    }

    [Fact]
    public void Groups_count_as_their_rules_do_with_the_sentence_and_without() =>
        Gen.Select(GenRules, GenFields)
            .Sample(
                (rules, fields) =>
                {
                    var guard = Guard.Compile(rules).Guard!;
                    var expected = ByHand(rules, fields);
                    return guard.Ask(Of(fields)).Holds == expected && guard.Holds(Of(fields)) == expected;
                }
            );

    [Theory]
    [InlineData("Yes, soon", RuleOp.OneOf, "Yes, soon", true)]
    [InlineData("blue, yes, soon", RuleOp.OneOf, "Yes, soon", true)] // one of several that were ticked
    [InlineData("yes, blue, soon", RuleOp.OneOf, "Yes, soon", false)]
    [InlineData("yes", RuleOp.OneOf, "Yes, soon", false)]
    [InlineData("yes, soon", RuleOp.NotOneOf, "Yes, soon", false)]
    [InlineData("soon", RuleOp.NotOneOf, "Yes, soon", true)]
    [InlineData("blue\nyes, soon", RuleOp.HasAll, "Yes, soon", true)]
    [InlineData("yes", RuleOp.HasAll, "Yes, soon", false)]
    [InlineData("25", RuleOp.OneOf, "5", false)] // whole entries, no parts of them
    [InlineData("10-24, 25+", RuleOp.OneOf, "10–24", true)]
    [InlineData("วันอังคาร", RuleOp.OneOf, "วันอังคาร", true)]
    public void A_value_may_have_a_comma_in_it(string typed, RuleOp op, string value, bool holds) =>
        Assert.Equal(
            holds,
            Guard.Compile(new(RuleMatch.All, [new("a", op, [value])])).Guard!.Holds(Of(new() { ["a"] = typed }))
        );

    [Theory]
    [InlineData(27, 9, 30, true)] // a Friday
    [InlineData(27, 21, 15, true)]
    [InlineData(28, 9, 30, false)] // a Saturday
    [InlineData(28, 10, 30, true)]
    [InlineData(29, 17, 59, true)]
    [InlineData(29, 18, 30, false)]
    public void At_the_weekend_Canadian_hours_are_shorter(int day, int hour, int minute, bool open)
    {
        var zone = DateTimeZoneProviders.Tzdb["America/Toronto"];
        var at = new LocalDateTime(2026, 11, day, hour, minute).InZoneStrictly(zone).ToInstant();
        foreach (var voice in new[] { Voice.Text, Voice.Call })
            Assert.Equal(open, HoursLaw.For(voice, "CA").Hours.Any(h => h.IsOpen(at, zone)));
    }
}

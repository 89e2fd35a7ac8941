using System.Globalization;

namespace LitFuse.Core.Guards;

/// <summary>How a rule compares a lead field with its values.</summary>
public enum RuleOp
{
    /// <summary>Equal to one of the values.</summary>
    OneOf,

    /// <summary>Equal to none of the values; an empty field is none of them.</summary>
    NotOneOf,

    /// <summary>Holds one of the values as a part.</summary>
    Contains,

    /// <summary>A number of at least the value.</summary>
    AtLeast,

    /// <summary>A number of at most the value.</summary>
    AtMost,

    /// <summary>Has any value.</summary>
    Filled,

    /// <summary>Has no value.</summary>
    Empty,
}

/// <summary>One comparison. Text is compared without regard to case, outer spaces or the kind of dash.</summary>
/// <param name="Field">A lead field's key.</param>
/// <param name="Op">How it is compared.</param>
/// <param name="Values">With what; none for <see cref="RuleOp.Filled"/> and <see cref="RuleOp.Empty"/>.</param>
public sealed record Rule(string Field, RuleOp Op, IReadOnlyList<string> Values);

/// <summary>Whether all rules are to hold or any of them.</summary>
public enum RuleMatch
{
    /// <summary>All of them.</summary>
    All,

    /// <summary>At least one.</summary>
    Any,
}

/// <summary>Rules and how they are joined.</summary>
public sealed record RuleSet(RuleMatch Match, IReadOnlyList<Rule> Rules);

/// <summary>Whether a guard holds for a lead, and the sentence that says why.</summary>
public sealed record GuardAnswer(bool Holds, string Because);

/// <summary>A condition compiled once and asked often.</summary>
public sealed class Guard
{
    private readonly RuleMatch match;
    private readonly List<(Rule Rule, Func<string?, bool> Test)> tests;

    private Guard(RuleMatch match, List<(Rule, Func<string?, bool>)> tests)
    {
        this.match = match;
        this.tests = tests;
    }

    /// <summary>Compiles <paramref name="rules"/>; a rule that cannot hold as written is a fault with its place.</summary>
    /// <returns>The guard, or <c>null</c> with the faults.</returns>
    public static (Guard? Guard, IReadOnlyList<string> Faults) Compile(RuleSet rules)
    {
        var faults = new List<string>();
        if (rules.Rules.Count == 0) faults.Add("there is no rule in it");
        var tests = new List<(Rule, Func<string?, bool>)>();
        foreach (var rule in rules.Rules)
        {
            if (string.IsNullOrWhiteSpace(rule.Field))
            {
                faults.Add("a rule names no field");
                continue;
            }

            var needsValues = rule.Op is not (RuleOp.Filled or RuleOp.Empty);
            var values = rule.Values.Where(v => !string.IsNullOrWhiteSpace(v)).Select(Plain).ToList();
            if (needsValues && values.Count == 0)
            {
                faults.Add($"the rule on {rule.Field} has nothing to compare with");
                continue;
            }

            double? bound = null;
            if (rule.Op is RuleOp.AtLeast or RuleOp.AtMost)
            {
                bound = Number(values[0]);
                if (bound is null)
                {
                    faults.Add($"the rule on {rule.Field} compares with '{rule.Values[0]}', which is not a number");
                    continue;
                }
            }

            tests.Add((rule, rule.Op switch
            {
                RuleOp.OneOf => v => v is not null && values.Contains(v),
                RuleOp.NotOneOf => v => v is null || !values.Contains(v),
                RuleOp.Contains => v => v is not null && values.Exists(x => v.Contains(x, StringComparison.Ordinal)),
                RuleOp.AtLeast => v => Number(v) is { } n && n >= bound,
                RuleOp.AtMost => v => Number(v) is { } n && n <= bound,
                RuleOp.Filled => v => v is not null,
                RuleOp.Empty => v => v is null,
                _ => throw new ArgumentOutOfRangeException(nameof(rules), rule.Op, "an unknown comparison"),
            }));
        }

        return faults.Count > 0 ? (null, faults) : (new Guard(rules.Match, tests), faults);
    }

    /// <summary>Asks the guard about a lead's fields.</summary>
    public GuardAnswer Ask(IReadOnlyDictionary<string, string> fields)
    {
        var told = new List<string>(tests.Count);
        bool? all = true, any = false;
        foreach (var (rule, test) in tests)
        {
            fields.TryGetValue(rule.Field, out var typed);
            var value = string.IsNullOrWhiteSpace(typed) ? null : Plain(typed);
            var holds = test(value);
            all &= holds;
            any |= holds;
            told.Add($"{FieldWords(rule.Field)} {(value is null ? "was empty" : $"was {typed!.Trim()}")}, {(holds ? "" : "not ")}{Say(rule)}");
        }

        return new((match == RuleMatch.All ? all : any) == true, string.Join("; ", told));
    }

    /// <summary>A rule as part of a sentence, after the field's name: <c>one of 10–24, 25+</c>.</summary>
    public static string Say(Rule rule) => rule.Op switch
    {
        RuleOp.OneOf when rule.Values.Count == 1 => rule.Values[0],
        RuleOp.OneOf => "one of " + string.Join(", ", rule.Values),
        RuleOp.NotOneOf => "other than " + string.Join(", ", rule.Values),
        RuleOp.Contains => "with " + string.Join(" or ", rule.Values) + " in it",
        RuleOp.AtLeast => "at least " + rule.Values[0],
        RuleOp.AtMost => "at most " + rule.Values[0],
        RuleOp.Filled => "filled in",
        _ => "left empty",
    };

    /// <summary>A field's key as words: <c>fleet_size</c> → <c>fleet size</c>.</summary>
    public static string FieldWords(string field) => field.Replace('_', ' ');

    // En and em dashes, minus signs and hyphens are typed for one another: "10-24" and "10–24" are one choice.
    private static string Plain(string text) =>
        string.Concat(text.Trim().Select(c => c is '\u2010' or '\u2011' or '\u2012' or '\u2013' or '\u2014' or '\u2212' ? '-' : char.ToLowerInvariant(c)));

    private static double? Number(string? text) =>
        double.TryParse(text, NumberStyles.Float | NumberStyles.AllowThousands, CultureInfo.InvariantCulture, out var n) && double.IsFinite(n) ? n : null;
}

using System.Collections.Concurrent;
using System.Globalization;
using System.Text;
using LitFuse.Core.Fields;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Guards;

/// <summary>Whether a guard holds for a lead, and the sentence that says why.</summary>
public sealed record GuardAnswer(bool Holds, string Because);

/// <summary>What a guard is asked about.</summary>
/// <param name="Fact">The value behind a path, or <c>null</c>; the parts of a list are joined with commas.</param>
/// <param name="Today">For days.</param>
public readonly record struct GuardFacts(Func<string, string?> Fact, LocalDate Today);

/// <summary>A condition compiled once and asked often.</summary>
public sealed class Guard
{
    private const int DeepestGroup = 4;
    private readonly RuleMatch match;
    private readonly List<Asked> tests;
    private readonly List<Guard> groups;

    private Guard(RuleMatch match, List<Asked> tests, List<Guard> groups)
    {
        this.match = match;
        this.tests = tests;
        this.groups = groups;
    }

    /// <summary>
    /// Compiles <paramref name="rules"/>; a rule that cannot hold as written is a fault with its place.
    /// </summary>
    /// <returns>The guard, or <c>null</c> with the faults.</returns>
    public static (Guard? Guard, IReadOnlyList<string> Faults) Compile(RuleSet rules)
    {
        var faults = new List<string>();
        var guard = Compile(rules, faults, 0);
        return faults.Count > 0 ? (null, faults) : (guard, faults);
    }

    /// <summary>Asks the guard about a lead's fields, where no day is compared.</summary>
    public GuardAnswer Ask(IReadOnlyDictionary<string, string> fields) =>
        Ask(new GuardFacts(path => fields.GetValueOrDefault(path), LocalDate.MinIsoValue));

    /// <summary>Asks the guard.</summary>
    public GuardAnswer Ask(in GuardFacts facts)
    {
        var told = new List<string>(tests.Count + groups.Count);
        bool all = true,
            any = false;
        foreach (var test in tests)
        {
            var typed = facts.Fact(test.Rule.Field);
            var holds = test.Holds(typed, facts.Today);
            all &= holds;
            any |= holds;
            told.Add(
                $"{Facts.Say(test.Rule.Field)} {(string.IsNullOrWhiteSpace(typed) ? "was empty" : $"was {typed.Trim()}")}, {(holds ? "" : "not ")}{Say(test.Rule)}"
            );
        }

        foreach (var group in groups)
        {
            var answer = group.Ask(facts);
            all &= answer.Holds;
            any |= answer.Holds;
            told.Add($"({answer.Because})");
        }

        return new(match == RuleMatch.All ? all : any, string.Join("; ", told));
    }

    /// <summary>The same without the sentence.</summary>
    public bool Holds(in GuardFacts facts)
    {
        var until = match == RuleMatch.Any;
        foreach (var test in tests)
            if (test.Holds(facts.Fact(test.Rule.Field), facts.Today) == until)
                return until;
        foreach (var group in groups)
            if (group.Holds(facts) == until)
                return until;
        return !until;
    }

    /// <summary>A rule as part of a sentence, after the field's name: <c>one of 10–24, 25+</c>.</summary>
    public static string Say(Rule rule)
    {
        // A draft may have rules that are not complete yet.
        var values = rule.Values.Count > 0 ? rule.Values : ["…"];
        if (rule.Op == RuleOp.OneOf && values.Count == 1)
            return values[0];
        var words = RuleOps.Of(rule.Op);
        var said = words.Takes == RuleTakes.One ? values[0] : string.Join(words.Between, values);
        return words.Being.Replace("{0}", said, StringComparison.Ordinal);
    }

    /// <summary>Rules as a sentence: <c>fleet size is one of 10–24, 25+ and stage is New</c>.</summary>
    public static string Say(RuleSet rules)
    {
        var parts = rules.Rules.Select(SayWhole).Concat((rules.Groups ?? []).Select(g => $"({Say(g)})"));
        return string.Join(rules.Match == RuleMatch.Any ? " or " : " and ", parts);
    }

    // The front end says it in the same words (ruleParts; the sentences in tests/web/ruleSentences.json hold both).
    private static string SayWhole(Rule rule)
    {
        var words = rule is { Op: RuleOp.OneOf, Values.Count: 1 } ? "is" : RuleOps.Of(rule.Op).Words;
        var values = rule.Values.Count > 0 ? string.Join(RuleOps.Of(rule.Op).Between, rule.Values) : "…";
        var said =
            !RuleOps.NeedsValues(rule.Op) ? words
            : words.Contains('…', StringComparison.Ordinal) ? words.Replace("…", values, StringComparison.Ordinal)
            : $"{words} {values}";
        return $"{Facts.Say(rule.Field)} {said}";
    }

    /// <summary>True when two texts are the same but for case, accents, outer spaces and the kind of dash.</summary>
    public static bool Same(string a, string b) =>
        string.Equals(a, b, StringComparison.Ordinal) || Plain(a) == Plain(b);

    private static Guard? Compile(RuleSet rules, List<string> faults, int depth)
    {
        if (rules.Rules.Count == 0 && (rules.Groups ?? []).Count == 0)
            faults.Add("there is no rule in it");
        if (depth > DeepestGroup)
        {
            faults.Add("groups stand too deep in one another");
            return null;
        }

        var tests = new List<Asked>();
        foreach (var rule in rules.Rules)
        {
            if (Fault(rule) is { } fault)
                faults.Add(fault);
            else
                tests.Add(new(rule, TestOf(rule)));
        }

        var groups = (rules.Groups ?? []).Select(g => Compile(g, faults, depth + 1)).OfType<Guard>().ToList();
        return new(rules.Match, tests, groups);
    }

    private static string? Fault(Rule rule)
    {
        if (string.IsNullOrWhiteSpace(rule.Field))
            return "a rule names no field";
        if (!RuleOps.NeedsValues(rule.Op))
            return null;
        var values = rule.Values.Where(v => !string.IsNullOrWhiteSpace(v)).ToList();
        if (values.Count == 0)
            return $"the rule on {rule.Field} has nothing to compare with";
        return rule.Op switch
        {
            RuleOp.AtLeast
            or RuleOp.AtMost
            or RuleOp.InNextDays
            or RuleOp.InLastDays when Number(Plain(values[0])) is null =>
                $"the rule on {rule.Field} compares with '{rule.Values[0]}', which is not a number",
            RuleOp.Between when values.Count != 2 || values.Exists(v => Number(Plain(v)) is null) =>
                $"the rule on {rule.Field} needs two numbers",
            RuleOp.Before
            or RuleOp.After when Plain(values[0]) != "today" && !LocalDatePattern.Iso.Parse(values[0].Trim()).Success =>
                $"the rule on {rule.Field} compares with '{rule.Values[0]}', which is not a day such as 2026-11-25, or today",
            _ => null,
        };
    }

    private static Func<string?, LocalDate, bool> TestOf(Rule rule)
    {
        var values = rule.Values.Where(v => !string.IsNullOrWhiteSpace(v)).Select(Plain).ToList();
        var bound = values.Count > 0 ? Number(values[0]) : null;
        // A choice may have a comma in it, and so may several together: what is compared is whole entries, one after
        // another.
        var entries = values.ConvertAll(Listed);
        return rule.Op switch
        {
            RuleOp.OneOf => (v, _) =>
                v is not null
                && Listed(v) is var list
                && entries.Exists(e => list.Contains(e, StringComparison.Ordinal)),
            RuleOp.NotOneOf => (v, _) =>
                v is null
                || (Listed(v) is var list && !entries.Exists(e => list.Contains(e, StringComparison.Ordinal))),
            RuleOp.HasAll => (v, _) =>
                v is not null
                && Listed(v) is var list
                && entries.TrueForAll(e => list.Contains(e, StringComparison.Ordinal)),
            RuleOp.Contains => (v, _) => v is not null && values.Exists(x => v.Contains(x, StringComparison.Ordinal)),
            RuleOp.NotContains => (v, _) => v is null || !values.Exists(x => v.Contains(x, StringComparison.Ordinal)),
            RuleOp.StartsWith => (v, _) =>
                v is not null && values.Exists(x => v.StartsWith(x, StringComparison.Ordinal)),
            RuleOp.AtLeast => (v, _) => Number(v) is { } n && n >= bound,
            RuleOp.AtMost => (v, _) => Number(v) is { } n && n <= bound,
            RuleOp.Between when Number(values[1]) is var upper => (v, _) =>
                Number(v) is { } n && n >= bound && n <= upper,
            RuleOp.Before => (v, today) => Day(v, today) is { } day && Day(values[0], today) is { } than && day < than,
            RuleOp.After => (v, today) => Day(v, today) is { } day && Day(values[0], today) is { } than && day > than,
            RuleOp.InNextDays => (v, today) =>
                Day(v, today) is { } day && Period.DaysBetween(today, day) is var ahead && ahead >= 0 && ahead <= bound,
            RuleOp.InLastDays => (v, today) =>
                Day(v, today) is { } day && Period.DaysBetween(day, today) is var ago && ago >= 0 && ago <= bound,
            RuleOp.Yes => (v, _) => v is not null && ValueReader.YesNo(v) == true,
            RuleOp.No => (v, _) => v is null || ValueReader.YesNo(v) == false,
            RuleOp.Filled => (v, _) => v is not null,
            RuleOp.Empty => (v, _) => v is null,
            _ => throw new ArgumentOutOfRangeException(nameof(rule), rule.Op, "an unknown comparison"),
        };
    }

    // The entries of a list between marks that no text has.
    private static string Listed(string value) =>
        "\0"
        + string.Join(
            '\0',
            value.Split([',', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
        )
        + "\0";

    // En and em dashes, minus signs and hyphens are typed for one another: "10-24" and "10–24" are one choice.
    private static string Plain(string text)
    {
        var trimmed = text.Trim();
        if (Ascii.IsValid(trimmed))
            return trimmed.ToLowerInvariant();
        var plain = new StringBuilder(trimmed.Length);
        foreach (var c in trimmed.Normalize(NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
                continue;
            plain.Append(
                c is '\u2010' or '\u2011' or '\u2012' or '\u2013' or '\u2014' or '\u2212'
                    ? '-'
                    : char.ToLowerInvariant(c)
            );
        }

        return plain.ToString();
    }

    private static LocalDate? Day(string? text, LocalDate today) =>
        text is null ? null
        : text == "today" ? today
        : text.Length >= 10 && LocalDatePattern.Iso.Parse(text[..10]) is { Success: true, Value: var day } ? day
        : null;

    // An amount may have its currency behind it: "1200 usd".
    private static double? Number(string? text)
    {
        if (text is null)
            return null;
        var bare = text.Length > 4 && text[^4] == ' ' && text[^3..].All(char.IsAsciiLetter) ? text[..^4] : text;
        return
            double.TryParse(
                bare,
                NumberStyles.Float | NumberStyles.AllowThousands,
                CultureInfo.InvariantCulture,
                out var n
            ) && double.IsFinite(n)
            ? n
            : null;
    }

    // A rule with its test. Answers come from short lists, so what a value came to is remembered.
    private sealed class Asked(Rule rule, Func<string?, LocalDate, bool> test)
    {
        private const int MostRemembered = 500;
        private const int LongestRemembered = 100;
        private readonly ConcurrentDictionary<string, bool> known = new(StringComparer.Ordinal);
        private readonly bool byDay =
            rule.Op is RuleOp.Before or RuleOp.After or RuleOp.InNextDays or RuleOp.InLastDays;
        private int remembered;

        public Rule Rule { get; } = rule;

        public bool Holds(string? typed, LocalDate today)
        {
            if (string.IsNullOrWhiteSpace(typed))
                return test(null, today);
            if (byDay || typed.Length > LongestRemembered)
                return test(Plain(typed), today);
            if (known.TryGetValue(typed, out var holds))
                return holds;
            holds = test(Plain(typed), today);
            if (remembered < MostRemembered && known.TryAdd(typed, holds))
                Interlocked.Increment(ref remembered);
            return holds;
        }
    }
}

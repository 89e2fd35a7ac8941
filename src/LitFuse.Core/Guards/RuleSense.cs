using System.Globalization;

namespace LitFuse.Core.Guards;

/// <summary>
/// What can be known of rules without asking anybody: that they cannot hold together, and which choices they leave.
/// </summary>
public static class RuleSense
{
    /// <summary>
    /// Why these rules can never all hold, or <c>null</c> where nothing says so. Only what is certain is said: rules in
    /// groups of which any may hold are not judged, nor are facts that can have several values at once.
    /// </summary>
    /// <param name="rules">Rules that must all hold, perhaps from several places.</param>
    /// <param name="several">Paths of facts that can have several values at once.</param>
    public static string? Contradiction(IEnumerable<RuleSet> rules, Func<string, bool> several)
    {
        foreach (var field in rules.SelectMany(Certain).GroupBy(r => r.Field, StringComparer.Ordinal))
        {
            if (several(field.Key))
                continue;
            var all = field.ToList();
            var name = Facts.Say(field.Key);
            if (all.Exists(r => r.Op is RuleOp.Empty) && all.Find(NeedsValue) is { } other)
                return $"{name} cannot be left empty and be {Guard.Say(other)}";
            if (all.Exists(r => r.Op == RuleOp.Yes) && all.Exists(r => r.Op == RuleOp.No))
                return $"{name} cannot say both yes and no";
            if (Allowed(all) is { Count: 0 })
                return $"{name} cannot be {string.Join(" and ", all.Where(r => r.Op is RuleOp.OneOf or RuleOp.NotOneOf).Select(Guard.Say))}";
            var (least, most) = Bounds(all);
            if (least > most)
                return string.Create(
                    CultureInfo.InvariantCulture,
                    $"{name} cannot be at least {least} and at most {most}"
                );
        }

        return null;
    }

    /// <summary>
    /// Those of <paramref name="choices"/> of a field for which the rules may hold; rules on other facts are taken to
    /// hold.
    /// </summary>
    public static IReadOnlyList<string> Taken(RuleSet rules, string field, IReadOnlyList<string> choices) =>
        [.. choices.Where(c => MayHold(rules, field, c))];

    private static bool MayHold(RuleSet rules, string field, string value)
    {
        var parts = rules
            .Rules.Select(r => r.Field != field || Holds(r, value))
            .Concat((rules.Groups ?? []).Select(g => MayHold(g, field, value)));
        return rules.Match == RuleMatch.All ? parts.All(p => p) : parts.Any(p => p);
    }

    private static bool Holds(Rule rule, string value) =>
        Guard.Compile(new(RuleMatch.All, [rule])).Guard is not { } guard
        || guard.Ask(new GuardFacts(_ => value, NodaTime.LocalDate.MinIsoValue)).Holds;

    // Rules that hold whenever the whole does.
    private static IEnumerable<Rule> Certain(RuleSet rules) =>
        rules.Match == RuleMatch.All || rules.Rules.Count + (rules.Groups?.Count ?? 0) == 1
            ? rules.Rules.Concat((rules.Groups ?? []).SelectMany(Certain))
            : [];

    private static bool NeedsValue(Rule rule) =>
        rule.Op
            is RuleOp.Filled
                or RuleOp.OneOf
                or RuleOp.Contains
                or RuleOp.StartsWith
                or RuleOp.AtLeast
                or RuleOp.AtMost
                or RuleOp.Between
                or RuleOp.Yes;

    private static List<string>? Allowed(List<Rule> rules)
    {
        List<string>? allowed = null;
        foreach (var rule in rules.Where(r => r.Op == RuleOp.OneOf))
            allowed = allowed is null ? [.. rule.Values] : allowed.FindAll(a => rule.Values.Any(v => Guard.Same(a, v)));
        return allowed?.FindAll(a =>
            !rules.Exists(r => r.Op == RuleOp.NotOneOf && r.Values.Any(v => Guard.Same(a, v)))
        );
    }

    private static (double Least, double Most) Bounds(List<Rule> rules)
    {
        var (least, most) = (double.NegativeInfinity, double.PositiveInfinity);
        foreach (var rule in rules)
        {
            var numbers = rule
                .Values.Select(v =>
                    double.TryParse(v, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) ? n : (double?)null
                )
                .OfType<double>()
                .ToList();
            if (rule.Op == RuleOp.AtLeast && numbers.Count == 1)
                least = Math.Max(least, numbers[0]);
            else if (rule.Op == RuleOp.AtMost && numbers.Count == 1)
                most = Math.Min(most, numbers[0]);
            else if (rule.Op == RuleOp.Between && numbers.Count == 2)
                (least, most) = (Math.Max(least, numbers[0]), Math.Min(most, numbers[1]));
        }

        return (least, most);
    }
}

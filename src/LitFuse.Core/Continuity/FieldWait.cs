using LitFuse.Core.Guards;
using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>
/// A field that has stopped coming, and which submissions without it wait for its mend: those that come at once to a
/// step that cannot do without.
/// </summary>
/// <param name="Field">The lead field's key.</param>
/// <param name="When">Rules on the way to the step; without any, every submission comes to it.</param>
/// <param name="Unless">Rules each of which keeps a submission from the step.</param>
public sealed record FieldWait(string Field, IReadOnlyList<RuleSet> When, IReadOnlyList<RuleSet> Unless)
{
    /// <summary>What is to be waited for.</summary>
    /// <param name="lost">Lead fields that have stopped coming.</param>
    /// <param name="needs">What steps cannot do without.</param>
    public static IReadOnlyList<FieldWait> Of(IReadOnlyCollection<string> lost, IEnumerable<FieldNeed> needs) =>
        [
            .. needs
                .Where(n => n.AtOnce is not null && lost.Contains(n.Field))
                .GroupBy(n => n.Field, StringComparer.Ordinal)
                .OrderBy(g => g.Key, StringComparer.Ordinal)
                .SelectMany(Least),
        ];

    /// <summary>True when a submission with these values comes to the step, as far as its values say.</summary>
    public bool Keeps(IReadOnlyDictionary<string, string> values, LocalDate today)
    {
        var facts = new GuardFacts(path => values.GetValueOrDefault(path), today);
        return When.All(r => Holds(r, facts) != false) && !Unless.Any(r => Holds(r, facts) == true);
    }

    /// <summary>True when the same is waited for.</summary>
    public static bool Same(IReadOnlyList<FieldWait> one, IReadOnlyList<FieldWait> other) =>
        one.Count == other.Count
        && one.Zip(other)
            .All(w =>
                w.First.Field == w.Second.Field
                && Same(w.First.When, w.Second.When)
                && Same(w.First.Unless, w.Second.Unless)
            );

    private static bool Same(IReadOnlyList<RuleSet> one, IReadOnlyList<RuleSet> other) =>
        one.Select(Guard.Say).SequenceEqual(other.Select(Guard.Say));

    // One that every submission meets makes the others needless.
    private static IEnumerable<FieldWait> Least(IGrouping<string, FieldNeed> needs) =>
        needs.Any(n => n is { AtOnce.Count: 0, Unless.Count: 0 })
            ? [new(needs.Key, [], [])]
            : needs.Select(n => new FieldWait(n.Field, n.AtOnce!, n.Unless));

    // Nothing can be said (null) of what is known of the lead besides its answers, nor of the answer that is lost.
    private bool? Holds(RuleSet rules, GuardFacts facts)
    {
        bool? One(Rule rule) =>
            rule.Field.Contains('.', StringComparison.Ordinal) || rule.Field == Field
                ? null
                : Guard.Compile(new(RuleMatch.All, [rule])).Guard?.Holds(facts);
        var each = rules.Rules.Select(One).Concat((rules.Groups ?? []).Select(g => Holds(g, facts))).ToList();
        var decides = rules.Match == RuleMatch.Any;
        return each.Contains(decides) ? decides
            : each.Contains(null) ? null
            : !decides;
    }
}

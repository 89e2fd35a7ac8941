using LitFuse.Core.Guards;
using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>A field that has stopped coming, and which submissions without it wait for its mend: those that come at once to a step that cannot do without.</summary>
/// <param name="Field">The lead field's key.</param>
/// <param name="When">Rules on the way to the step; without any, every submission comes to it.</param>
public sealed record FieldWait(string Field, IReadOnlyList<RuleSet> When)
{
    /// <summary>What is to be waited for.</summary>
    /// <param name="lost">Lead fields that have stopped coming.</param>
    /// <param name="needs">What steps cannot do without.</param>
    public static IReadOnlyList<FieldWait> Of(IReadOnlyCollection<string> lost, IEnumerable<FieldNeed> needs) =>
        [.. needs.Where(n => n.AtOnce is not null && lost.Contains(n.Field)).GroupBy(n => n.Field, StringComparer.Ordinal).OrderBy(g => g.Key, StringComparer.Ordinal).SelectMany(Least)];

    /// <summary>True when a submission with these values comes to the step, as far as its values say.</summary>
    public bool Keeps(IReadOnlyDictionary<string, string> values, LocalDate today) => When.All(r => MayHold(r, new(path => values.GetValueOrDefault(path), today)));

    /// <summary>True when the same is waited for.</summary>
    public static bool Same(IReadOnlyList<FieldWait> one, IReadOnlyList<FieldWait> other) =>
        one.Count == other.Count && one.Zip(other).All(w => w.First.Field == w.Second.Field && w.First.When.Select(Guard.Say).SequenceEqual(w.Second.When.Select(Guard.Say)));

    // One that every submission meets makes the others needless.
    private static IEnumerable<FieldWait> Least(IGrouping<string, FieldNeed> needs) =>
        needs.Any(n => n.AtOnce!.Count == 0) ? [new(needs.Key, [])] : needs.Select(n => new FieldWait(n.Field, n.AtOnce!));

    // What is known of the lead besides its answers may be so.
    private static bool MayHold(RuleSet rules, GuardFacts facts)
    {
        bool One(Rule rule) => rule.Field.Contains('.', StringComparison.Ordinal) || Guard.Compile(new(RuleMatch.All, [rule])).Guard?.Holds(facts) != false;
        var each = rules.Rules.Select(One).Concat((rules.Groups ?? []).Select(g => MayHold(g, facts)));
        return rules.Match == RuleMatch.All ? each.All(h => h) : each.Any(h => h);
    }
}

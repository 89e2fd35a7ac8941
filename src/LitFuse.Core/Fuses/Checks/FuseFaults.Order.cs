using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Words;

namespace LitFuse.Core.Fuses.Checks;

public static partial class FuseFaults
{
    // Steps that wait for one another would wait for ever; so would those that stand in for one another.
    private static void OfOrder(FuseDefinition fuse, List<FuseFault> faults)
    {
        var steps = fuse
            .Bands.SelectMany(b => b.Steps.Select(s => (Band: b, Step: s)))
            .GroupBy(s => s.Step.Id)
            .ToDictionary(g => g.Key, g => g.First(), StringComparer.Ordinal);
        foreach (var (band, step) in steps.Values)
        {
            if (GoesRound(step.Id, id => steps.TryGetValue(id, out var s) ? Needs(s.Step) : []))
                faults.Add(
                    new(
                        band.Id,
                        step.Id,
                        FuseFaultCode.WaitsForItself,
                        $"'{step.Name}' waits for a result that waits for it.",
                        "Let one of them do without the other's result."
                    )
                );
            if (
                GoesRound(step.Id, id =>
                    steps.TryGetValue(id, out var s)
                    && s.Step.OnFailure is { Next: FailureThen.Instead, Step: { } other }
                        ? [other]
                        : []
                )
            )
                faults.Add(
                    new(
                        band.Id,
                        step.Id,
                        FuseFaultCode.StandsForItself,
                        $"'{step.Name}' and what takes its place stand in for one another.",
                        "Let the last of them go on."
                    )
                );
        }
    }

    /// <summary>The facts that a step's words speak of, as paths.</summary>
    public static IEnumerable<string> UsesOf(Step step, StepCatalog catalog)
    {
        var bodies = catalog
            .Find(step.Kind)
            ?.Settings.Where(s => s.Type == SettingType.Json)
            .Select(s => s.Key)
            .ToHashSet(StringComparer.Ordinal)
            ?? [];
        return step.Settings.SelectMany(s =>
            (bodies.Contains(s.Key) ? JsonWords.Parse(s.Value).Words?.Uses : MessageWords.Parse(s.Value).Words?.Uses)
            ?? []
        );
    }

    private static List<string> Needs(Step step)
    {
        var words = step
            .Settings.Values.Concat(step.Choices ?? [])
            .SelectMany(v => JsonWords.Parse(v).Words?.Uses ?? MessageWords.Parse(v).Words?.Uses ?? []);
        return
        [
            .. words
                .Concat(step.When?.Every.Select(r => r.Field) ?? [])
                .Where(p => p.StartsWith(Facts.Steps, StringComparison.Ordinal) && p.Count(c => c == '.') == 2)
                .Select(p => p.Split('.')[1]),
        ];
    }

    private static bool GoesRound(string start, Func<string, List<string>> next)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        var ahead = new Stack<string>(next(start));
        while (ahead.TryPop(out var id))
        {
            if (id == start)
                return true;
            if (seen.Add(id))
                foreach (var other in next(id))
                    ahead.Push(other);
        }

        return false;
    }
}

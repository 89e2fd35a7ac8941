using System.Globalization;
using LitFuse.Core.Figures;
using LitFuse.Core.Tests.Continuity;

namespace LitFuse.Bench;

/// <summary>
/// How often drift and silence are said of forms that go on as they were, and how soon of those that do not: on
/// generated histories.
/// </summary>
internal static class Histories
{
    /// <summary>Prints the figures of drift.</summary>
    public static void Drift(int forms, int each, int seed)
    {
        var (findings, submissions) = DriftHistories.FalseAlarms(forms, each, seed);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"drift (seed {seed}): {findings} false findings in {submissions} submissions of {forms} forms that did not change: one in {submissions / Math.Max(1, findings)}"
            )
        );
        foreach (
            var (what, after) in DriftHistories.FoundAfter(forms, seed + 1).OrderBy(a => a.Key, StringComparer.Ordinal)
        )
        {
            var sorted = after.Order().ToList();
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  {what, -14} {sorted.Count} made: found after {sorted[sorted.Count / 2]} (median), {sorted[(int)(sorted.Count * 0.95)]} (95 %) submissions; within five {100.0 * sorted.Count(a => a <= 5) / sorted.Count:0.0} %"
                )
            );
        }
    }

    /// <summary>Prints the figures of silence.</summary>
    public static void Silence(int forms, int seed)
    {
        var (alarms, months) = SilenceHistories.FalseAlarms(forms, seed);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"silence (seed {seed}): {alarms} false alarms in {months:0} months of {forms} forms of five habits: {alarms / months:0.00} a form a month"
            )
        );
        var found = SilenceHistories.FoundAfter(forms, seed + 1);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  forms that stopped: {found.Count} of {forms} said, after {Percentiles.At([.. found.Select(f => f.Expected)], 0.5):0.0} leads that were to be expected (median), {Percentiles.At([.. found.Select(f => f.Hours)], 0.5):0.0} h (median), {Percentiles.At([.. found.Select(f => f.Hours)], 0.9):0.0} h (90 %)"
            )
        );
    }
}

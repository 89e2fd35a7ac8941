using LitFuse.Core.Figures;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Features.Backtests;

/// <summary>Adds up what became of leads on one side of a backtest.</summary>
/// <param name="fuse">Whose bands and steps the marks are of.</param>
public sealed class BacktestSide(CompiledFuse fuse)
{
    /// <summary>Leads with so many messages, or more, are counted together.</summary>
    public const int MostTold = 6;
    private const int MostDesks = 30;
    private readonly BacktestMarks bits = new(fuse);
    private readonly int[] counts = new int[new BacktestMarks(fuse).Count];
    private readonly int[] perLead = new int[MostTold + 1];
    private readonly List<double> first = [];
    private readonly Dictionary<(string Who, long Hour), int> told = [];
    private int messages;
    private int texts;
    private int segments;

    /// <summary>Which bit means what.</summary>
    public BacktestMarks Bits => bits;

    /// <summary>Takes in what became of one lead.</summary>
    public void Add(in PastOutcome outcome)
    {
        outcome.CountInto(counts);
        perLead[Math.Min(outcome.ToLead, MostTold)]++;
        messages += outcome.ToLead;
        texts += outcome.Texts;
        segments += outcome.Segments;
        if (outcome.FirstAfter is { } after)
            first.Add(after.TotalSeconds);
    }

    /// <summary>Takes in whom a step of the team's lane went to.</summary>
    public void Tell(string who, Instant at)
    {
        var hour = (who, at.ToUnixTimeSeconds() / 3600);
        told[hour] = told.GetValueOrDefault(hour) + 1;
    }

    /// <summary>The sums.</summary>
    public SideTold Sum()
    {
        var steps = fuse
            .Definition.Bands.SelectMany(b => b.Steps.Select(s => (Band: b, Step: s)))
            .Select(
                (s, i) =>
                    new StepTold(
                        s.Step.Id,
                        s.Band.Id,
                        s.Step.Name,
                        fuse.LaneOf(s.Step),
                        counts[bits.Sent(i)],
                        counts[bits.StepWaited(i)],
                        counts[bits.Cancelled(i)],
                        counts[bits.Failed(i)]
                    )
            );
        var desks = told.GroupBy(t => t.Key.Who, StringComparer.Ordinal)
            .Select(g =>
            {
                var most = g.MaxBy(h => h.Value);
                return new DeskTold(
                    g.Key,
                    g.Sum(h => h.Value),
                    Math.Round(g.Average(h => h.Value), 1),
                    most.Value,
                    Instant.FromUnixTimeSeconds(most.Key.Hour * 3600)
                );
            });
        return new(
            counts[BacktestMarks.Lit],
            counts[BacktestMarks.NoBand],
            counts[BacktestMarks.Waited],
            counts[BacktestMarks.Spoken],
            messages,
            texts,
            segments,
            [.. perLead],
            Percentiles.At(first, 0.5),
            Percentiles.At(first, 0.9),
            [.. fuse.Definition.Bands.Select((b, i) => new BandTold(b.Id, b.Name, counts[bits.Entered(i)]))],
            [.. steps],
            [.. desks.OrderByDescending(d => d.Leads).Take(MostDesks)]
        );
    }
}

using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>
/// Says of one form whether its line is whole, from what is known. Each joint is judged by itself, so that a break
/// further on is told too; the first one is the first in the order in which a lead passes.
/// </summary>
public static class LineCheck
{
    /// <summary>How long a proof counts when nothing was changed.</summary>
    public static readonly Duration ProofGood = Duration.FromDays(30);

    /// <summary>Judges one line.</summary>
    /// <param name="form">The form.</param>
    /// <param name="fuses">The client's fuses that a submission on it can light, armed ones and others.</param>
    /// <param name="connections">The client's connections, by id.</param>
    /// <param name="client">The client.</param>
    /// <param name="now">The present moment.</param>
    public static FormLine Of(
        LineForm form,
        IReadOnlyList<FuseLine> fuses,
        IReadOnlyDictionary<string, LineConnection> connections,
        LineClient client,
        Instant now
    )
    {
        var making = new LineMaking(form, fuses, now);
        making.Access();
        making.Standing();
        making.Thanks();
        making.Arrivals();
        making.Map();
        making.Fields();
        making.Fuse();
        making.Services(connections);
        making.Hours(client);
        return making.Done();
    }

    /// <summary>The same line where a connection is another and nothing else: many lines hang on one.</summary>
    internal static FormLine Served(
        FormLine line,
        LineForm form,
        IReadOnlyList<FuseLine> fuses,
        IReadOnlyDictionary<string, LineConnection> connections
    )
    {
        var making = new LineMaking(form, fuses, default);
        making.Take(line, kind => kind < JointKind.Service);
        making.Services(connections);
        making.Take(line, kind => kind > JointKind.Service);
        return making.AsJudged() with { Fuses = line.Fuses, Waits = line.Waits, Lived = line.Lived };
    }
}

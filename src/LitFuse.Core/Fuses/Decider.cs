using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>
/// The engine: what happens next in a burn, as a pure function. The real run, the dry run and the backtest are three
/// drivers of it. Deciding twice from the same facts gives the same; a step's effect is asked for at most once under a key.
/// </summary>
public static class Decider
{
    /// <summary>A band is entered at most so often in one burn: nothing goes round for ever.</summary>
    public const int MostEntries = 100;

    /// <summary>So many fuses may light one another in a row.</summary>
    public const int MostDepth = 8;

    /// <summary>Decides what <paramref name="happened"/> leads to at <paramref name="now"/>.</summary>
    public static Decision Decide(CompiledFuse fuse, BurnState burn, BurnEvent happened, LeadFacts lead, Instant now) => new BurnDesk(fuse, burn, lead, now).Decide(happened);

    /// <summary>True when deciding this needs the words of the lead's answers: something may go out.</summary>
    public static bool MaySpeak(CompiledFuse fuse, BurnState burn, BurnEvent happened, Instant now) => happened switch
    {
        BurnEvent.StepEnded ended => fuse.EndMatters(ended.StepId, ended.Status) || burn.HasDue(now),
        BurnEvent.Ended or BurnEvent.Skipped => burn.HasDue(now),
        BurnEvent.Happened => fuse.Hears || burn.HasDue(now),
        _ => true,
    };
}

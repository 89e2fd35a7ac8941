using LitFuse.Core.Mapping;
using LitFuse.Core.Replies;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Something that happens from outside during a rehearsal.</summary>
public sealed record Scripted(Instant At, BurnEvent What);

/// <summary>How the outside answers one delivery in a rehearsal.</summary>
/// <param name="Took">From hand-over to the answer.</param>
/// <param name="Status"><see cref="StepStatus.Done"/>, <see cref="StepStatus.Failed"/> or <see cref="StepStatus.Struck"/>.</param>
/// <param name="Reason">What came back, in words.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record Reaction(Duration Took, StepStatus Status, string Reason, IReadOnlyDictionary<string, string>? Results = null)
{
    /// <summary>It is tried again and again in between: until it ends, it can be taken back.</summary>
    public bool Retried { get; init; }
}

/// <summary>One moment of a rehearsal.</summary>
/// <param name="At">On the virtual clock.</param>
/// <param name="Effect">What the engine asked for; <c>null</c> when this moment is something that happened.</param>
/// <param name="What">What happened; <c>null</c> when this moment is an effect.</param>
/// <param name="Words">What a silent step changed, in words.</param>
public sealed record RehearsedMoment(Instant At, BurnEffect? Effect, BurnEvent? What, string? Words = null)
{
    /// <summary>The delivery that ended, where this moment is that.</summary>
    public BurnEvent.StepEnded? Ended => What as BurnEvent.StepEnded;
}

/// <summary>The outcome of a rehearsal.</summary>
/// <param name="Lead">The lead as the fuse has left it.</param>
public sealed record Rehearsed(BurnState State, LeadFacts Lead, IReadOnlyList<RehearsedMoment> Moments);

/// <summary>Drives <see cref="Decider"/> on a virtual clock against scripted reactions. Nothing leaves.</summary>
/// <param name="fuse">The fuse.</param>
/// <param name="react">How the outside answers.</param>
/// <param name="known">A lead field by its key, for steps that set one; <c>null</c> for one that nobody has described.</param>
public sealed class Rehearsal(CompiledFuse fuse, Func<BurnEffect.Deliver, Instant, Reaction> react, Func<string, LeadField?>? known = null)
{
    private readonly List<RehearsedMoment> moments = [];
    private readonly PriorityQueue<BurnEvent, (Instant At, int Order)> ahead = new();
    private readonly Dictionary<string, string> retried = new(StringComparer.Ordinal);
    private int order;
    private BurnState burn = null!;
    private LeadFacts lead = null!;

    /// <summary>
    /// Runs a burn from its lighting until it has ended or <paramref name="until"/> is reached. Moments come in time
    /// order; outcomes and events later than <paramref name="until"/> have not happened.
    /// </summary>
    public static Rehearsed Run(
        CompiledFuse fuse, BurnState burn, LeadFacts lead, IEnumerable<Scripted> script, Func<BurnEffect.Deliver, Instant, Reaction> react, Instant until, Func<string, LeadField?>? known = null) =>
        new Rehearsal(fuse, react, known).Run(burn, lead, script, until);

    private Rehearsed Run(BurnState lit, LeadFacts asked, IEnumerable<Scripted> script, Instant until)
    {
        (burn, lead) = (lit, asked);
        Enqueue(new BurnEvent.Lit(), burn.LitAt);
        foreach (var one in script) Enqueue(one.What, one.At);
        while (ahead.TryDequeue(out var happened, out var when) && when.At <= until)
        {
            if (happened is BurnEvent.StepEnded or BurnEvent.Happened { What.Depth: 0 }) moments.Add(new(when.At, null, happened));
            if (happened is BurnEvent.Happened { What: var what }) Hear(what, when.At);
            if (happened is not BurnEvent.Happened { What.Event: var key } || fuse.Minds(key)) Decide(happened, when.At);
        }

        return new(burn, lead, moments);
    }

    private void Enqueue(BurnEvent what, Instant at) => ahead.Enqueue(what, (at, order++));

    private void Decide(BurnEvent happened, Instant now)
    {
        var before = burn.NextWake;
        var decision = Decider.Decide(fuse, burn, happened, lead, now);
        burn = decision.State;
        foreach (var effect in decision.Effects) Follow(effect, now);
        if (burn.NextWake is { } wake && wake != before) Enqueue(new BurnEvent.Woken(), wake);
    }

    private void Follow(BurnEffect effect, Instant now)
    {
        switch (effect)
        {
            case BurnEffect.Deliver deliver:
                moments.Add(new(now, effect, null));
                var reaction = react(deliver, now);
                if (reaction.Retried) retried[deliver.StepId] = deliver.Key;
                Enqueue(new BurnEvent.StepEnded(deliver.StepId, reaction.Status, reaction.Reason, reaction.Results, deliver.Key), now + reaction.Took);
                break;
            case BurnEffect.Do step when LeadChanging.Decide(step, lead.Standing(), known ?? (_ => null), lead.Words.Country, now) is { } change:
                moments.Add(new(now, effect, null, change.Words));
                lead = lead.After(change.Now);
                foreach (var one in change.Happened) Enqueue(new BurnEvent.Happened(one with { Depth = burn.Depth + 1 }), now);
                break;
            case BurnEffect.Withdraw withdraw:
                moments.Add(new(now, effect, null));
                // What is under way comes to its own end; what only waits to be tried again is taken back.
                if (retried.Remove(withdraw.StepId, out var key)) Enqueue(new BurnEvent.StepEnded(withdraw.StepId, StepStatus.Struck, withdraw.Reason, Key: key), now);
                break;
            default:
                moments.Add(new(now, effect, null));
                break;
        }
    }

    // They want no more messages: true of the lead before any fuse hears of it, as in a real burn.
    private void Hear(Happening what, Instant now)
    {
        if (lead.OptedOut) return;
        if (what.Event == EventKeys.OptedOut) lead = lead with { OptedOut = true };
        if (what.Event != EventKeys.Replied || ReplyReader.Read(what.Detail("text") ?? "", []).Meaning != ReplyMeaning.Stop) return;
        lead = lead with { OptedOut = true };
        Enqueue(new BurnEvent.Happened(Happening.Of(EventKeys.OptedOut, what.At, "they wrote that they want no more messages")), now);
    }
}

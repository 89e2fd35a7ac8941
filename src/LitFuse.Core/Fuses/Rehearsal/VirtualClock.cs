using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Replies;
using NodaTime;

namespace LitFuse.Core.Fuses.Rehearsal;

/// <summary>Something that happens from outside during a rehearsal.</summary>
public sealed record Scripted(Instant At, BurnEvent What);

/// <summary>How the outside answers one delivery in a rehearsal.</summary>
/// <param name="Took">From hand-over to the answer.</param>
/// <param name="Status"><see cref="StepStatus.Done"/>, <see cref="StepStatus.Failed"/> or
/// <see cref="StepStatus.Cancelled"/>.</param>
/// <param name="Reason">What came back, in words.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record Reaction(
    Duration Took,
    StepStatus Status,
    string Reason,
    IReadOnlyDictionary<string, string>? Results = null
)
{
    /// <summary>It is tried again and again in between: until it ends, it can be taken back.</summary>
    public bool Retried { get; init; }

    /// <summary>The call that it was, where it was one.</summary>
    public CallEnding? Call { get; init; }

    /// <summary>A call that came to this.</summary>
    public static Reaction Of(CallEnding call) =>
        new((call.Talk ?? Duration.Zero) + Duration.FromSeconds(30), call.Status, call.Because, call.Results)
        {
            Call = call,
        };
}

/// <summary>
/// Drives a <see cref="BurnDesk"/> on a virtual clock. Dry runs and backtests differ in whom they tell, and in nothing
/// that is decided. One can be used for one burn after another; it is not for several threads.
/// </summary>
internal abstract class VirtualClock : DeskOutput
{
    private readonly CompiledFuse fuse;
    private readonly Func<string, LeadField?> known;
    private readonly Func<LeadFacts, string, LeadFacts> give;
    private readonly List<Ahead> ahead = [];
    private int order;

    protected VirtualClock(CompiledFuse fuse, Func<string, LeadField?>? known, Func<LeadFacts, string, LeadFacts>? give)
    {
        (this.fuse, this.known, this.give) = (fuse, known ?? (_ => null), give ?? ((lead, _) => lead));
        Desk = new(fuse, this);
    }

    protected BurnDesk Desk { get; }

    protected LeadFacts Lead { get; private set; } = null!;

    protected Instant Now { get; private set; }

    // What lies ahead: something that happens, or the end of a delivery.
    private readonly struct Ahead(
        Instant at,
        int order,
        BurnEvent? what,
        CompiledStep? step = null,
        int entry = 0,
        Reaction? outcome = null
    )
    {
        public readonly Instant At = at;
        public readonly int Order = order;
        public readonly int Entry = entry;
        public readonly BurnEvent? What = what;
        public readonly CompiledStep? Step = step;
        public readonly Reaction? Outcome = outcome;
    }

    /// <summary>
    /// Burns what lies on the desk from its lighting until nothing is left to happen, or <paramref name="until"/> is
    /// reached.
    /// </summary>
    protected void Burn(LeadFacts lead, Instant lit, IReadOnlyList<Scripted> script, Instant until)
    {
        (Lead, order) = (lead, 0);
        ahead.Clear();
        Enqueue(new(lit, order++, LitEvent));
        for (var i = 0; i < script.Count; i++)
            Enqueue(new(script[i].At, order++, script[i].What));
        while (true)
        {
            var first = First();
            var wake = Desk.NextWake;
            // What happens comes before what only wakes at the same moment; a wake that moved nothing is none.
            if (first >= 0 && (wake is null || ahead[first].At <= wake))
            {
                var next = ahead[first];
                ahead[first] = ahead[^1];
                ahead.RemoveAt(ahead.Count - 1);
                if (next.At > until)
                    return;
                Now = next.At;
                Happen(next);
            }
            else
            {
                if (wake is null || wake > until)
                    return;
                Now = wake.Value;
                Desk.Decide(WokenEvent, Lead, Now);
                if (Desk.NextWake <= Now)
                    return;
            }
        }
    }

    /// <summary>How the outside answers.</summary>
    protected abstract Reaction React(in StepSlot slot, IReadOnlyDictionary<string, string> settings);

    protected virtual void Happened(BurnEvent what) { }

    protected virtual void Ended(CompiledStep step, int entry, Reaction outcome) { }

    /// <summary>
    /// A step of ours was done; <paramref name="change"/> is what it made of the lead, where it made anything.
    /// </summary>
    protected virtual void Done(in StepSlot slot, IReadOnlyDictionary<string, string> settings, LeadChange? change) { }

    protected virtual void TakenBack(in StepSlot slot, string because) { }

    public sealed override void Deliver(BurnDesk desk, in StepSlot slot, IReadOnlyDictionary<string, string> settings)
    {
        var outcome = React(slot, settings);
        if (Lead.MostADay > 0 && slot.Step.Kind.Key is StepKinds.Text or StepKinds.Email)
            Lead = Lead with { Sent = [.. Lead.Sent, Now] };
        Enqueue(new(Now + outcome.Took, order++, null, slot.Step, slot.Entry, outcome));
    }

    public sealed override void Do(in StepSlot slot, IReadOnlyDictionary<string, string> settings)
    {
        var change = LeadChanging.Decide(
            slot.Step.Kind.Key,
            settings,
            Lead.Standing(),
            known,
            Lead.Words.Country,
            Now,
            Telling ? null : fuse.Minds
        );
        Done(slot, settings, change);
        if (slot.Step.Kind.Key == StepKinds.SetOwner)
            Lead = give(Lead, settings.GetValueOrDefault("colleague")?.Trim() ?? "");
        if (change is null)
            return;
        Lead = Lead.After(change.Now);
        foreach (var one in change.Happened)
            if (fuse.Minds(one.Event))
                Enqueue(new(Now, order++, new BurnEvent.Happened(one with { Depth = Desk.Depth + 1 })));
    }

    public sealed override void Withdraw(in StepSlot slot, string because)
    {
        TakenBack(slot, because);
        // What is under way comes to its own end; what only waits to be tried again is taken back.
        for (var i = 0; i < ahead.Count; i++)
        {
            if (ahead[i].Step != slot.Step || ahead[i].Entry != slot.Entry || ahead[i].Outcome is not { Retried: true })
                continue;
            ahead[i] = new(
                Now,
                order++,
                null,
                slot.Step,
                slot.Entry,
                new(Duration.Zero, StepStatus.Cancelled, because)
            );
            return;
        }
    }

    private static readonly BurnEvent LitEvent = new BurnEvent.Lit();
    private static readonly BurnEvent WokenEvent = new BurnEvent.Woken();

    private void Enqueue(in Ahead what) => ahead.Add(what);

    // There are never many at once: looking through them is quicker than keeping a heap.
    private int First()
    {
        var first = -1;
        var all = System.Runtime.InteropServices.CollectionsMarshal.AsSpan(ahead);
        for (var i = 0; i < all.Length; i++)
        {
            if (
                first < 0
                || all[i].At < all[first].At
                || (all[i].At == all[first].At && all[i].Order < all[first].Order)
            )
                first = i;
        }

        return first;
    }

    private void Happen(in Ahead next)
    {
        if (next.Step is { } step)
        {
            // Two who talk are a first touch before the call is over; a machine that is talked to is none.
            if (next.Outcome!.Call is { Talk: not null, Outcome: Calling.CallOutcome.Spoke } call)
                Desk.Decide(
                    new BurnEvent.Happened(
                        LeadEvent.Of(EventKeys.Touched, Now, $"{call.By} reached out (by phone, rung through)")
                    ),
                    Lead,
                    Now
                );
            Ended(step, next.Entry, next.Outcome);
            Desk.DecideEnd(step, next.Entry, next.Outcome.Status, next.Outcome.Reason, next.Outcome.Results, Lead, Now);
            if (next.Outcome.Call is not { } ended)
                return;
            var key = string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{step.Step.Id}.{next.Entry}");
            foreach (var one in new[] { ended.Rang(Now, key), ended.Called(Now, key) })
                if (one is not null && fuse.Minds(one.Event))
                    Enqueue(new(Now, order++, new BurnEvent.Happened(one)));
            return;
        }

        if (next.What is BurnEvent.Happened { What: var what })
        {
            if (what.Depth == 0)
                Happened(next.What);
            Hear(what);
            if (!fuse.Minds(what.Event))
                return;
        }

        Desk.Decide(next.What!, Lead, Now);
    }

    // They want no more messages: true of the lead before any fuse hears of it, as in a real burn.
    private void Hear(LeadEvent what)
    {
        if (Lead.OptedOut)
            return;
        if (what.Event == EventKeys.OptedOut)
            Lead = Lead with { OptedOut = true };
        if (
            what.Event != EventKeys.Replied
            || ReplyReader.Read(what.Detail("text") ?? "", []).Meaning != ReplyMeaning.Stop
        )
            return;
        Lead = Lead with { OptedOut = true };
        Enqueue(
            new(
                Now,
                order++,
                new BurnEvent.Happened(
                    LeadEvent.Of(EventKeys.OptedOut, what.At, "they wrote that they want no more messages")
                )
            )
        );
    }
}

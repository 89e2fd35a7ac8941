using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Replies;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>What happens to the lead, and what people do with the burn.</summary>
internal sealed partial class BurnDesk
{
    private void Hear(LeadEvent what)
    {
        if (!Hears)
            return;
        if (what.Key is { } key)
        {
            if (heard.Contains(key))
                return;
            if (heard.Count >= BurnState.MostHeard)
                heard.RemoveAt(0);
            heard.Add(key);
        }

        if (what.Event == EventKeys.Replied)
            what = Read(what);
        foreach (var rule in fuse.StopOn)
        {
            if (!rule.Picks(what))
                continue;
            StopWaiting(what.Because);
            break;
        }

        var late = Duration.Max(Duration.Zero, now - what.At);
        foreach (var band in fuse.Bands)
        {
            var entry = band.Band.Entry;
            if (band.On?.Picks(what) == true)
                Enter(band, what.Because, now, late, what);
            else if (
                entry.Kind == EntryKind.Failed
                && what.Event == EventKeys.DeliveryFailed
                && (entry.Of is null || entry.Of == what.Detail("step"))
            )
                Enter(band, what.Because, now, late, what, hush: HushOf(what.Detail("step")));
        }
    }

    // A delivery of before a stop that comes back late is told, and answered by no further message to the lead.
    private Hush HushOf(string? stepId)
    {
        for (var i = steps.Count - 1; i >= 0; i--)
            if (steps[i].Step.Step.Id == stepId)
                return IsHushed(steps[i]) ? Hush.ToLead : Hush.Nothing;
        return stop is null ? Hush.Nothing : Hush.ToLead;
    }

    // What a reply means depends on what this burn asked.
    private LeadEvent Read(LeadEvent what)
    {
        var text = what.Detail("text") ?? "";
        var reading = ReplyReader.Read(text, Offered());
        var meaning = reading.Meaning.ToString().ToLowerInvariant();
        reply = new(Clip.To(text, 500), meaning, reading.Choice);
        silences.Clear();
        var because =
            !Telling ? ""
            : reading.Choice is { } choice ? $"they chose {choice}: {reading.Because}"
            : $"their reply reads as {meaning}: {reading.Because}";
        Tell(StoryKind.ReplyRead, null, null, because);
        var details = new Dictionary<string, string>(what.Details, StringComparer.Ordinal) { ["meaning"] = meaning };
        if (reading.Choice is { } chosen)
            details["choice"] = chosen;
        return what with { Details = details, Because = because };
    }

    // The choices of the latest step that went out with some.
    private List<string> Offered()
    {
        var latest = -1;
        for (var i = 0; i < steps.Count; i++)
        {
            if (
                steps[i].Status is not (StepStatus.Done or StepStatus.Sent)
                || (!steps[i].Offered && steps[i].Results?.ContainsKey("choice.1") != true)
            )
                continue;
            if (latest < 0 || steps[i].PlannedAt > steps[latest].PlannedAt)
                latest = i;
        }

        if (latest < 0)
            return [];
        ref var slot = ref Slots[latest];
        if (slot.Offered)
        {
            // Their words were not wanted when they went out; now they are.
            slot.Results = Joined(slot.Results, CompiledFuse.Offer(slot.Step, Words(slot.DueAt)));
            slot.Offered = false;
        }

        var offered = new List<string>();
        while (
            offered.Count < 20
            && slot.Results?.GetValueOrDefault(
                string.Create(CultureInfo.InvariantCulture, $"choice.{offered.Count + 1}")
            )
                is { } choice
        )
            offered.Add(choice);
        return offered;
    }

    // Ends what waits in the lanes of lead and team; systems of record still get the whole truth, and what only notes
    // something goes on.
    private void StopWaiting(string because, CompiledStep? but = null)
    {
        bool any = false,
            under = false;
        for (var i = 0; i < steps.Count; i++)
        {
            ref var slot = ref Slots[i];
            var step = slot.Step;
            under |= slot.Status == StepStatus.Sent;
            if (!Chases(step) || slot.Over || step == but)
                continue;
            // Called back or not, what was under way when it stopped leads on to nothing.
            if (PlaceOf(step.In) is >= 0 and var place)
                bands[place] = bands[place] with { Cut = true };
            if (slot is { Status: StepStatus.Sent, Reason: null } && step.Kind.Lane == Lane.Lead)
            {
                output.Withdraw(slot, because);
                slot.Reason = because;
            }

            if (slot.Status != StepStatus.Waiting)
                continue;
            if (!any)
                Tell(StoryKind.BurnStopped, null, null, because);
            any = true;
            Strike(ref slot, because);
        }

        for (var i = 0; i < bands.Count; i++)
            bands[i] = bands[i] with { Hushed = bands[i].Entry };

        if (!any && stop is null && (silences.Count > 0 || under))
            Tell(StoryKind.BurnStopped, null, null, because);
        silences.Clear();
        held = null;
        stop = because;
    }

    private void End(string because)
    {
        if (!Hears)
            return;
        StopWaiting(because);
        Status = BurnStatus.Stopped;
    }

    private void Skip(BurnEvent.Skipped skipped)
    {
        var i = steps.FindIndex(s => s.Step.Step.Id == skipped.StepId && s.Status == StepStatus.Waiting);
        if (i >= 0)
            Strike(ref Slots[i], skipped.Because);
    }

    private void Replay(BurnEvent.Replayed replayed)
    {
        var at = steps.FindIndex(s =>
            s.Step.Step.Id == replayed.StepId && s.Status is StepStatus.Failed or StepStatus.Cancelled
        );
        if (at < 0)
            return;
        var (from, reason) = (steps[at].PlannedAt, steps[at].Reason);
        var failed = steps[at].Status == StepStatus.Failed;
        if (replayed.AsSent && !failed)
            return;
        Tell(StoryKind.StepReplayed, null, steps[at].Step, replayed.Because);
        for (var i = 0; i < steps.Count; i++)
        {
            ref var slot = ref Slots[i];
            // What stopped because this failed goes on after it, as far behind it as it was meant to be.
            var follows = slot.Status == StepStatus.Cancelled && slot.Reason == StoppedBy(replayed.StepId, reason);
            if (i != at && !follows)
                continue;
            if (i == at && replayed.AsSent)
            {
                Move(ref slot, StepStatus.Sent, null);
            }
            else
            {
                slot.PlannedAt = slot.DueAt = now + Duration.Max(Duration.Zero, slot.PlannedAt - from);
                Move(ref slot, StepStatus.Waiting, null);
                (slot.Results, slot.Offered) = (null, false);
                slot.Try++;
            }

            if (PlaceOf(slot.Step.In) is >= 0 and var band)
                bands[band] = bands[band] with { Over = false, Cut = false, Hushed = 0 };
        }

        Status = BurnStatus.Burning;
        hearsUntil = null;
    }

    private void LetGo(string because)
    {
        if (held is null)
            return;
        Tell(StoryKind.BurnLetGo, null, null, because);
        held = null;
    }

    private void Strike(ref StepSlot slot, string because, GateRule rule = GateRule.None)
    {
        Tell(StoryKind.StepCancelled, null, slot.Step, because);
        Move(ref slot, StepStatus.Cancelled, because);
        output.Cancelled(slot, rule);
    }
}

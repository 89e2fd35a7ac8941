using System.Runtime.InteropServices;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>Entering bands, and how they come to their end.</summary>
internal sealed partial class BurnDesk
{
    private int PlaceOf(CompiledBand band)
    {
        for (var i = 0; i < bands.Count; i++)
            if (bands[i].Band == band)
                return i;
        return -1;
    }

    private void Light()
    {
        if (bands.Count > 0 || steps.Count > 0 || Status != BurnStatus.Burning)
            return;
        var late = Duration.Max(Duration.Zero, litAt - submittedAt);
        var anyWhen = false;
        foreach (var band in fuse.Bands)
        {
            if (band.Band.Entry.Kind == EntryKind.Always)
            {
                Enter(band, "whenever it is lit", litAt, late);
                continue;
            }

            if (band.Band.Entry.Kind != EntryKind.When)
                continue;
            if (anyWhen && fuse.Definition.BandChoice == BandChoice.First)
            {
                Tell(StoryKind.BandPassed, band, null, "an earlier band's rules held, and only the first is taken");
                continue;
            }

            if (!Holds(band.Guard!, null, out var because))
            {
                Tell(StoryKind.BandPassed, band, null, because);
                continue;
            }

            anyWhen = true;
            Enter(band, because, litAt, late, asked: true);
        }

        foreach (var band in fuse.Bands)
        {
            if (band.Band.Entry.Kind != EntryKind.Otherwise)
                continue;
            if (anyWhen)
                Tell(StoryKind.BandPassed, band, null, "another band's rules held");
            else
                Enter(band, "no other band's rules held", litAt, late);
        }
    }

    // at: when its clock begins. late: how far behind what caused it that is, which counts against the age limit.
    // hush: it follows from what was lit before a stop, so that its steps in these lanes are cancelled at once.
    private void Enter(
        CompiledBand band,
        string because,
        Instant at,
        Duration late,
        LeadEvent? what = null,
        bool asked = false,
        Hush hush = Hush.Nothing
    )
    {
        var place = PlaceOf(band);
        var before = place < 0 ? 0 : bands[place].Entry;
        if (before > 0 && !band.Band.EachTime)
            return;
        if (before >= Decider.MostEntries)
        {
            if (before == Decider.MostEntries)
                Tell(
                    StoryKind.BandPassed,
                    band,
                    null,
                    $"it was entered {Decider.MostEntries} times already; that is all there is of one burn"
                );
            bands[place] = bands[place] with { Entry = Decider.MostEntries + 1 };
            return;
        }

        if (!asked && band.Guard is { } guard)
        {
            if (!Holds(guard, what, out var held))
            {
                Tell(StoryKind.BandPassed, band, null, held);
                return;
            }

            if (Telling)
                because = $"{because}; {held}";
        }

        var entry = before + 1;
        if (entry == 1)
            Tell(StoryKind.BandLit, band, null, because);
        else
            Tell(StoryKind.BandLit, band, null, $"{because} (for the {entry}. time: its clock begins anew)");
        var slot = new BandSlot
        {
            Band = band,
            Entry = entry,
            At = at,
            Hushed =
                hush != Hush.Nothing ? entry
                : before > 0 ? bands[place].Hushed
                : 0,
        };
        if (place < 0)
            bands.Add(slot);
        else
            bands[place] = slot;
        output.Entered(band);
        ends |= band.Steps.Count == 0;
        // What still waited of an earlier entering gives way; what is under way comes to its own end beside the new.
        if (entry > 1 || opened)
            for (var i = steps.Count - 1; i >= 0; i--)
                if (steps[i].Step.In == band && steps[i].Status != StepStatus.Sent)
                    Remove(i);
        foreach (var step in band.Steps)
            Add(step, entry, at, late);
        if (hush != Hush.Nothing)
            Silence(band, entry, hush);
    }

    private void Silence(CompiledBand band, int entry, Hush hush)
    {
        foreach (ref var added in Slots)
            if (
                added.Step.In == band
                && added.Entry == entry
                && added.Status == StepStatus.Waiting
                && (hush == Hush.Chasers ? Chases(added.Step) : ToLead(added.Step))
            )
                Strike(ref added, stop!);
    }

    // It was lit before a stop, or by what was.
    private bool IsHushed(in StepSlot slot) =>
        PlaceOf(slot.Step.In) is >= 0 and var place && slot.Entry <= bands[place].Hushed;

    private void Add(CompiledStep step, int entry, Instant at, Duration late)
    {
        var moment = step.Step.Moment;
        var meant = moment.On(
            at,
            submittedAt,
            step.Kind.Lane == Lane.Lead ? lead.Zone : lead.ClientZone,
            lead.WorkHours
        );
        var due = Instant.Max(at, meant);
        // Planned from what caused it, so that whatever held that up counts as lateness.
        Add(
            new()
            {
                Step = step,
                Status = StepStatus.Waiting,
                PlannedAt = moment.From == MomentFrom.Submission ? meant : due - late,
                DueAt = due,
                Entry = entry,
                Try = 1,
            }
        );
    }

    private CompiledStep? EndStep(BurnEvent.StepEnded ended)
    {
        for (var i = 0; i < steps.Count; i++)
        {
            if (
                steps[i].Status != StepStatus.Sent
                || steps[i].Step.Step.Id != ended.StepId
                || (ended.Key is not null && KeyOf(steps[i]) != ended.Key)
            )
                continue;
            var step = steps[i].Step;
            EndStep(i, ended.Status, ended.Reason, ended.Results);
            return step;
        }

        return null;
    }

    // Nothing waits for it, its band goes on, and nothing else is due: all stays as it was.
    private bool LeadsOnToNothing(CompiledStep step, StepStatus status) =>
        status == StepStatus.Done && !step.Awaited && openOf[step.In.Place] > 0 && !(NextWake <= now);

    private void EndStep(int i, StepStatus status, string reason, IReadOnlyDictionary<string, string>? results)
    {
        ref var slot = ref Slots[i];
        // Choices were noted when it was handed over; what came back joins them.
        if (results is not null)
            slot.Results = Joined(slot.Results, results);
        Move(ref slot, status, reason);
        if (status == StepStatus.Done && !IsHushed(slot))
            ArmSilences(slot.Step);
        if (status == StepStatus.Cancelled)
            output.Cancelled(slot, GateRule.None);
        if (status == StepStatus.Failed)
            AfterFailure(slot);
    }

    private void AfterFailure(StepSlot failed)
    {
        output.Failed(failed);
        var step = failed.Step.Step;
        var reason = failed.Reason ?? "it failed";
        // What was ended by a person leads on to nothing.
        if (!Hears)
            return;
        var hush = IsHushed(failed) ? Hush.ToLead : Hush.Nothing;
        switch (step.OnFailure?.Next)
        {
            case FailureThen.Stop:
                StopWaiting(StoppedBy(step.Id, reason));
                break;
            case FailureThen.Tell:
                output.Notify(failed.Step, step.OnFailure.Person ?? "owner", $"“{step.Name}” failed: {reason}");
                break;
            case FailureThen.Instead
                when step.OnFailure.Step is { } id
                    && fuse.Knows(id)
                    && fuse.Step(id) is var other
                    && !steps.Exists(s => s.Step == other):
                Tell(StoryKind.StepInstead, null, other, $"instead of “{step.Name}”, which failed");
                Add(
                    new()
                    {
                        Step = other,
                        Status = StepStatus.Waiting,
                        PlannedAt = failed.PlannedAt,
                        DueAt = now,
                        Entry = failed.Entry,
                        Try = 1,
                    }
                );
                if (hush != Hush.Nothing && ToLead(other))
                    Strike(ref Slots[^1], stop!);
                break;
            default:
                break;
        }

        foreach (var band in fuse.Bands)
        {
            if (
                band.Band.Entry.Kind == EntryKind.Failed
                && (band.Band.Entry.Of is null || band.Band.Entry.Of == step.Id)
            )
                Enter(band, $"“{step.Name}” failed: {reason}", now, Duration.Zero, hush: hush);
        }
    }

    private void ArmSilences(CompiledStep step)
    {
        if (!Hears)
            return;
        foreach (var band in step.AfterSilence)
        {
            if (!band.Band.EachTime && PlaceOf(band) >= 0)
                continue;
            silences.RemoveAll(s => s.Band == band);
            silences.Add(new(band, now + Duration.FromSeconds(Math.Max(1, band.Band.Entry.ForSeconds))));
        }
    }

    private bool SilencesDue()
    {
        if (held is not null)
            return false;
        var any = false;
        while (true)
        {
            var first = -1;
            for (var i = 0; i < silences.Count; i++)
                if (silences[i].Until <= now && (first < 0 || silences[i].Until < silences[first].Until))
                    first = i;
            if (first < 0)
                return any;
            any = true;
            var silence = silences[first];
            silences.RemoveAt(first);
            var entry = silence.Band.Band.Entry;
            var because = !Telling
                ? ""
                : $"no reply for {FuseSentence.Span(entry.ForSeconds)} after “{(fuse.Knows(entry.Of ?? "") ? fuse.Step(entry.Of!).Step.Name : "the last message")}”";
            Enter(silence.Band, because, silence.Until, Duration.Zero);
        }
    }

    // A band ends with its last step. One that a stop cut short ends without leading on.
    private bool CloseBands()
    {
        if (!ends)
            return false;
        ends = false;
        var any = false;
        for (var i = 0; i < bands.Count; i++)
        {
            ref var slot = ref CollectionsMarshal.AsSpan(bands)[i];
            if (slot.Over || openOf[slot.Band.Place] > 0)
                continue;
            slot.Over = any = true;
            if (slot.Cut || !Hears)
                continue;
            var (band, hushed) = (slot.Band, slot.Entry <= slot.Hushed);
            foreach (var follows in band.AfterEnd)
                Enter(
                    follows,
                    Telling ? $"“{band.Band.Name}” has come to its end" : "",
                    now,
                    Duration.Zero,
                    hush: hushed ? Hush.Chasers : Hush.Nothing
                );
        }

        return any;
    }

    // What of a band that follows from something stopped is cancelled.
    private enum Hush
    {
        Nothing,

        /// <summary>
        /// What speaks to the lead: that something failed may still be told to the team and put on record.
        /// </summary>
        ToLead,

        /// <summary>What speaks to the lead or chases the team: only the record goes on.</summary>
        Chasers,
    }

    private static bool ToLead(CompiledStep step) =>
        step.Kind.Lane == Lane.Lead || step.Kind.Key == StepKinds.LightFuse;

    internal static bool Chases(CompiledStep step) => ToLead(step) || step.Kind.Lane == Lane.Team;

    private static string StoppedBy(string stepId, string? reason) =>
        $"stopped, because a step failed ({stepId}): {reason}";

    private static IReadOnlyDictionary<string, string>? Joined(
        IReadOnlyDictionary<string, string>? before,
        IReadOnlyDictionary<string, string> more
    )
    {
        if (more.Count == 0)
            return before;
        var joined = before is null
            ? new Dictionary<string, string>(more.Count, StringComparer.Ordinal)
            : new Dictionary<string, string>(before, StringComparer.Ordinal);
        foreach (var (key, value) in more)
            joined[key] = Clip.To(value, 2000);
        return joined;
    }
}

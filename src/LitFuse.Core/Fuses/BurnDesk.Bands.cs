using System.Globalization;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Entering bands, and how they come to their end.</summary>
internal sealed partial class BurnDesk
{
    private void Light()
    {
        if (bands.Count > 0 || steps.Count > 0 || burn.Status != BurnStatus.Burning) return;
        var late = Duration.Max(Duration.Zero, burn.LitAt - burn.SubmittedAt);
        var anyWhen = false;
        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind is EntryKind.Always or EntryKind.When))
        {
            if (band.Entry.Kind == EntryKind.Always)
            {
                Enter(band, "whenever it is lit", burn.LitAt, late);
                continue;
            }

            if (anyWhen && fuse.Definition.BandChoice == BandChoice.First)
            {
                Tell(StoryKind.BandPassed, band.Id, null, "an earlier band's rules held, and only the first is taken");
                continue;
            }

            var answer = Ask(fuse.GuardOf(band)!);
            if (!answer.Holds)
            {
                Tell(StoryKind.BandPassed, band.Id, null, answer.Because);
                continue;
            }

            anyWhen = true;
            Enter(band, answer.Because, burn.LitAt, late, asked: true);
        }

        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind == EntryKind.Otherwise))
        {
            if (anyWhen) Tell(StoryKind.BandPassed, band.Id, null, "another band's rules held");
            else Enter(band, "no other band's rules held", burn.LitAt, late);
        }
    }

    // at: when its clock begins. late: how far behind what caused it that is, which counts against the age limit.
    private void Enter(Band band, string because, Instant at, Duration late, Happening? what = null, bool asked = false)
    {
        var place = bands.FindIndex(b => b.BandId == band.Id);
        var before = place < 0 ? null : bands[place];
        if (before is not null && !band.EachTime) return;
        if (before?.Entry >= Decider.MostEntries)
        {
            if (before.Entry == Decider.MostEntries) Tell(StoryKind.BandPassed, band.Id, null, string.Create(CultureInfo.InvariantCulture, $"it was entered {Decider.MostEntries} times already; that is all there is of one burn"));
            bands[place] = before with { Entry = Decider.MostEntries + 1 };
            return;
        }

        if (!asked && fuse.GuardOf(band) is { } guard)
        {
            var answer = Ask(guard, what);
            if (!answer.Holds)
            {
                Tell(StoryKind.BandPassed, band.Id, null, answer.Because);
                return;
            }

            because = $"{because}; {answer.Because}";
        }

        var entry = (before?.Entry ?? 0) + 1;
        Tell(StoryKind.BandLit, band.Id, null, entry == 1 ? because : string.Create(CultureInfo.InvariantCulture, $"{because} (for the {entry}. time: its clock begins anew)"));
        if (place < 0) bands.Add(new(band.Id, entry, at));
        else bands[place] = new(band.Id, entry, at);
        // What still waited of an earlier entering gives way; what is under way comes to its own end beside the new.
        steps.RemoveAll(s => s.BandId == band.Id && s.Status != StepStatus.Sent);
        foreach (var step in band.Steps.Where(s => !fuse.Step(s.Id).Standby)) Add(step.Id, entry, at, late);
    }

    private void Add(string stepId, int entry, Instant at, Duration late)
    {
        var step = fuse.Step(stepId);
        var moment = step.Step.Moment;
        var meant = moment.On(at, burn.SubmittedAt, step.Kind.Lane == Lane.Lead ? lead.Zone : lead.ClientZone, lead.WorkHours);
        var due = Instant.Max(at, meant);
        // Planned from what caused it, so that whatever held that up counts as lateness.
        steps.Add(new(step.Band.Id, stepId, StepStatus.Waiting, moment.From == MomentFrom.Submission ? meant : due - late, due, Entry: entry));
    }

    private void EndStep(BurnEvent.StepEnded ended)
    {
        var i = steps.FindIndex(s => s.StepId == ended.StepId && s.Status == StepStatus.Sent && (ended.Key is null || KeyOf(s) == ended.Key));
        if (i < 0) return;
        // Choices were noted when it was handed over; what came back joins them.
        var results = ended.Results is null ? steps[i].Results : Joined(steps[i].Results, ended.Results);
        steps[i] = steps[i] with { Status = ended.Status, Reason = ended.Reason, Results = results };
        if (ended.Status == StepStatus.Done) ArmSilences(ended.StepId);
        if (ended.Status == StepStatus.Failed) AfterFailure(steps[i]);
    }

    private void AfterFailure(BurnStep failed)
    {
        var step = fuse.Step(failed.StepId).Step;
        var reason = failed.Reason ?? "it failed";
        // What was ended by a person leads on to nothing.
        if (!burn.Hears) return;
        switch (step.OnFailure?.Next)
        {
            case FailureThen.Stop:
                StopWaiting(StoppedBy(failed.StepId, reason));
                break;
            case FailureThen.Tell:
                effects.Add(new BurnEffect.Notify(failed.StepId, step.OnFailure.Person ?? "owner", $"“{step.Name}” failed: {reason}"));
                break;
            case FailureThen.Instead when step.OnFailure.Step is { } other && fuse.Knows(other) && !steps.Exists(s => s.StepId == other):
                Tell(StoryKind.StepInstead, failed.BandId, other, $"instead of “{step.Name}”, which failed");
                steps.Add(new(failed.BandId, other, StepStatus.Waiting, failed.PlannedAt, now, Entry: failed.Entry));
                break;
            default:
                break;
        }

        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind == EntryKind.Failed && (b.Entry.Of is null || b.Entry.Of == failed.StepId)))
        {
            Enter(band, $"“{step.Name}” failed: {reason}", now, Duration.Zero);
        }
    }

    private void ArmSilences(string stepId)
    {
        if (!burn.Hears) return;
        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind == EntryKind.Silence && b.Entry.Of == stepId))
        {
            if (!band.EachTime && bands.Exists(b => b.BandId == band.Id)) continue;
            silences.RemoveAll(s => s.BandId == band.Id);
            silences.Add(new(band.Id, now + Duration.FromSeconds(Math.Max(1, band.Entry.ForSeconds))));
        }
    }

    private bool SilencesDue()
    {
        if (burn.Held is not null) return false;
        var due = silences.Where(s => s.Until <= now).OrderBy(s => s.Until).ToList();
        foreach (var silence in due)
        {
            silences.Remove(silence);
            if (fuse.Band(silence.BandId) is not { } band) continue;
            var after = fuse.Knows(band.Entry.Of ?? "") ? fuse.Step(band.Entry.Of!).Step.Name : "the last message";
            Enter(band, $"no reply for {FuseSentence.Span(band.Entry.ForSeconds)} after “{after}”", silence.Until, Duration.Zero);
        }

        return due.Count > 0;
    }

    // A band ends with its last step. One that a stop cut short ends without leading on.
    private bool CloseBands()
    {
        var any = false;
        for (var i = 0; i < bands.Count; i++)
        {
            var band = bands[i];
            if (band.Over || steps.Exists(s => s.BandId == band.BandId && !s.Over)) continue;
            bands[i] = band with { Over = true };
            any = true;
            if (band.Cut || !burn.Hears) continue;
            foreach (var follows in fuse.Definition.Bands.Where(b => b.Entry.Kind == EntryKind.End && b.Entry.Of == band.BandId)) Enter(follows, $"“{fuse.Band(band.BandId)?.Name}” has come to its end", now, Duration.Zero);
        }

        return any;
    }

    private static string StoppedBy(string stepId, string? reason) => $"stopped, because a step failed ({stepId}): {reason}";

    private static Dictionary<string, string> Joined(IReadOnlyDictionary<string, string>? before, IReadOnlyDictionary<string, string> more)
    {
        var joined = before is null ? new Dictionary<string, string>(StringComparer.Ordinal) : new Dictionary<string, string>(before, StringComparer.Ordinal);
        foreach (var (key, value) in more) joined[key] = value.Length > 2000 ? value[..2000] : value;
        return joined;
    }
}

using System.Globalization;
using LitFuse.Core.Guards;
using LitFuse.Core.Replies;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>The desk on which one decision is made: the burn's state opened up, and what the decision asks for.</summary>
internal sealed partial class BurnDesk
{
    private readonly CompiledFuse fuse;
    private readonly LeadFacts lead;
    private readonly Instant now;
    private readonly List<BurnEffect> effects = [];
    private readonly List<BurnStep> steps;
    private readonly List<BurnBand> bands;
    private readonly List<BurnSilence> silences;
    private BurnState burn;

    public BurnDesk(CompiledFuse fuse, BurnState burn, LeadFacts lead, Instant now)
    {
        (this.fuse, this.burn, this.lead, this.now) = (fuse, burn, lead, now);
        (steps, bands, silences) = ([.. burn.Steps], [.. burn.Bands], [.. burn.Silences]);
    }

    public Decision Decide(BurnEvent happened)
    {
        switch (happened)
        {
            case BurnEvent.Lit: Light(); break;
            case BurnEvent.Woken: break;
            case BurnEvent.StepEnded ended: EndStep(ended); break;
            case BurnEvent.Happened what: Hear(what.What); break;
            case BurnEvent.Ended ended: End(ended.Because); break;
            case BurnEvent.Skipped skipped: Skip(skipped); break;
            case BurnEvent.Replayed replayed: Replay(replayed); break;
            case BurnEvent.LetGo let: LetGo(let.Because); break;
            default: throw new ArgumentOutOfRangeException(nameof(happened), happened, "an unknown event");
        }

        // Each round either enters a band, of which there are at most so many, or moves a step on.
        while (SilencesDue() | SendDue() | CloseBands())
        {
        }

        return new(Finish(), effects);
    }

    private void Tell(StoryKind kind, string? bandId, string? stepId, string words) => effects.Add(new BurnEffect.Tell(kind, bandId, stepId, words));

    private GuardAnswer Ask(Guard guard, Happening? what = null) => guard.Ask(lead.ForGuards(now, path => Own(path, what)));

    // What the burn itself knows: results of its steps, their reply, the event.
    private string? Own(string path, Happening? what)
    {
        if (path.StartsWith(Facts.Steps, StringComparison.Ordinal))
        {
            var parts = path.Split('.');
            if (parts.Length != 3 || steps.FindLast(s => s.StepId == parts[1]) is not { } step) return null;
            return parts[2] == "status" ? step.Status.ToString().ToLowerInvariant() : step.Results?.GetValueOrDefault(parts[2]);
        }

        return path switch
        {
            Facts.ReplyMeaning => burn.Reply?.Meaning,
            Facts.ReplyChoice => burn.Reply?.Choice,
            Facts.ReplyText => burn.Reply?.Text,
            _ when path.StartsWith("event.", StringComparison.Ordinal) => what?.Detail(path[6..]),
            _ => null,
        };
    }

    private void Hear(Happening what)
    {
        if (!burn.Hears) return;
        if (what.Key is { } key)
        {
            if (burn.Heard.Contains(key)) return;
            burn = burn with { Heard = [.. burn.Heard.TakeLast(BurnState.MostHeard - 1), key] };
        }

        if (what.Event == EventKeys.Replied) what = Read(what);
        if (fuse.Definition.StopOn.Any(rule => what.Is(rule.Event, rule.Only))) StopWaiting(what.Because);
        var late = Duration.Max(Duration.Zero, now - what.At);
        foreach (var band in fuse.Definition.Bands)
        {
            if (band.Entry.Kind == EntryKind.On && what.Is(band.Entry.Event!, band.Entry.Only)) Enter(band, what.Because, now, late, what);
            else if (band.Entry.Kind == EntryKind.Failed && what.Event == EventKeys.DeliveryFailed && (band.Entry.Of is null || band.Entry.Of == what.Detail("step"))) Enter(band, what.Because, now, late, what);
        }
    }

    // What a reply means depends on what this burn asked.
    private Happening Read(Happening what)
    {
        var text = what.Detail("text") ?? "";
        var offered = steps.Where(s => s.Status is StepStatus.Done or StepStatus.Sent && s.Results?.ContainsKey("choice.1") == true).MaxBy(s => s.PlannedAt)?.Results is { } results
            ? Enumerable.Range(1, 20).Select(i => results.GetValueOrDefault(string.Create(CultureInfo.InvariantCulture, $"choice.{i}"))).TakeWhile(c => c is not null).ToList() : [];
        var reading = ReplyReader.Read(text, offered!);
        var meaning = reading.Meaning.ToString().ToLowerInvariant();
        burn = burn with { Reply = new(text.Length > 500 ? text[..500] : text, meaning, reading.Choice) };
        silences.Clear();
        var because = reading.Choice is { } choice ? $"they chose {choice}: {reading.Because}" : $"their reply reads as {meaning}: {reading.Because}";
        Tell(StoryKind.ReplyRead, null, null, because);
        var details = new Dictionary<string, string>(what.Details, StringComparer.Ordinal) { ["meaning"] = meaning };
        if (reading.Choice is { } chosen) details["choice"] = chosen;
        return what with { Details = details, Because = because };
    }

    // Ends what waits in the lanes of lead and team; systems of record still get the whole truth, and what only notes something goes on.
    private void StopWaiting(string because, string? but = null)
    {
        var any = false;
        for (var i = 0; i < steps.Count; i++)
        {
            var step = fuse.Step(steps[i].StepId);
            var ends = step.Kind.Lane is Lane.Lead or Lane.Team || step.Kind.Key == StepKinds.LightFuse;
            if (!ends || steps[i].Over || steps[i].StepId == but) continue;
            if (steps[i] is { Status: StepStatus.Sent, Reason: null } && step.Kind.Lane == Lane.Lead)
            {
                effects.Add(new BurnEffect.Withdraw(steps[i].StepId, because));
                steps[i] = steps[i] with { Reason = because };
            }

            if (steps[i].Status != StepStatus.Waiting) continue;
            if (!any) Tell(StoryKind.BurnStopped, null, null, because);
            any = true;
            Strike(i, because);
            Cut(steps[i].BandId);
        }

        if (!any && burn.Stop is null && (silences.Count > 0 || steps.Exists(s => s.Status == StepStatus.Sent))) Tell(StoryKind.BurnStopped, null, null, because);
        silences.Clear();
        if (burn.Held is not null) burn = burn with { Held = null };
        burn = burn with { Stop = because };
    }

    private void End(string because)
    {
        if (!burn.Hears) return;
        StopWaiting(because);
        burn = burn with { Status = BurnStatus.Stopped };
    }

    private void Skip(BurnEvent.Skipped skipped)
    {
        var i = steps.FindIndex(s => s.StepId == skipped.StepId && s.Status == StepStatus.Waiting);
        if (i >= 0) Strike(i, skipped.Because);
    }

    private void Replay(BurnEvent.Replayed replayed)
    {
        var at = steps.FindIndex(s => s.StepId == replayed.StepId && s.Status is StepStatus.Failed or StepStatus.Struck);
        if (at < 0) return;
        var (from, reason) = (steps[at].PlannedAt, steps[at].Reason);
        var failed = steps[at].Status == StepStatus.Failed;
        if (replayed.AsSent && !failed) return;
        Tell(StoryKind.StepReplayed, steps[at].BandId, steps[at].StepId, replayed.Because);
        for (var i = 0; i < steps.Count; i++)
        {
            // What stopped because this failed goes on after it, as far behind it as it was meant to be.
            var follows = failed && steps[i].Status == StepStatus.Struck && steps[i].Reason == StoppedBy(replayed.StepId, reason);
            if (i != at && !follows) continue;
            var due = now + Duration.Max(Duration.Zero, steps[i].PlannedAt - from);
            steps[i] = i == at && replayed.AsSent
                ? steps[i] with { Status = StepStatus.Sent, Reason = null }
                : steps[i] with { Status = StepStatus.Waiting, PlannedAt = due, DueAt = due, Reason = null, Try = steps[i].Try + 1, Results = null };
            var band = bands.FindIndex(b => b.BandId == steps[i].BandId);
            if (band >= 0) bands[band] = bands[band] with { Over = false, Cut = false };
        }

        burn = burn with { Status = BurnStatus.Burning, HearsUntil = null };
    }

    private void LetGo(string because)
    {
        if (burn.Held is null) return;
        Tell(StoryKind.BurnLetGo, null, null, because);
        burn = burn with { Held = null };
    }

    private void Strike(int i, string because)
    {
        Tell(StoryKind.StepStruck, steps[i].BandId, steps[i].StepId, because);
        steps[i] = steps[i] with { Status = StepStatus.Struck, Reason = because };
    }

    private void Cut(string bandId)
    {
        var i = bands.FindIndex(b => b.BandId == bandId);
        if (i >= 0) bands[i] = bands[i] with { Cut = true };
    }

    private BurnState Finish()
    {
        var open = steps.Exists(s => !s.Over) || silences.Count > 0 || burn.Held is not null;
        var status = burn.Status;
        Instant? hears = null;
        if (status == BurnStatus.Ended)
        {
            // It stays so; a replay has made it burn again before.
        }
        else if (status == BurnStatus.Stopped)
        {
            if (!steps.Exists(s => !s.Over)) status = BurnStatus.Ended;
        }
        else if (open)
        {
            status = BurnStatus.Burning;
        }
        else
        {
            hears = burn.HearsUntil ?? now + Duration.FromDays(fuse.Definition.HearsForDays);
            status = CanStillEnter() && hears > now ? BurnStatus.Listening : BurnStatus.Ended;
            if (status == BurnStatus.Ended) hears = null;
        }

        if (status == BurnStatus.Ended && burn.Status != BurnStatus.Ended) Tell(StoryKind.BurnEnded, null, null, Summary());
        var next = burn with { Status = status, Steps = steps, Bands = bands, Silences = silences, HearsUntil = hears };
        return next with { NextWake = Wake(next) };
    }

    private bool CanStillEnter() => fuse.Definition.Bands.Any(b => b.Entry.Kind is EntryKind.On && (b.EachTime || !bands.Exists(x => x.BandId == b.Id)));

    private Instant? Wake(BurnState state)
    {
        if (state.Status == BurnStatus.Ended) return null;
        var wake = state.HearsUntil;
        if (state.Held is null)
        {
            foreach (var step in steps) if (step.Status == StepStatus.Waiting && !Blocked(step)) wake = wake is { } w ? Instant.Min(w, step.DueAt) : step.DueAt;
            foreach (var silence in silences) wake = wake is { } w ? Instant.Min(w, silence.Until) : silence.Until;
        }

        return wake;
    }

    private string Summary()
    {
        if (steps.Count == 0) return "no band was entered, so there was nothing to do";
        var parts = new[] { (StepStatus.Done, "done"), (StepStatus.Failed, "failed"), (StepStatus.Struck, "struck out") }
            .Select(p => (Count: steps.Count(s => s.Status == p.Item1), Word: p.Item2))
            .Where(p => p.Count > 0)
            .Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Count} {p.Word}"));
        return "steps: " + string.Join(", ", parts);
    }
}

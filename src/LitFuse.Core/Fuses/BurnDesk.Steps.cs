using System.Globalization;
using LitFuse.Core.Stories;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Doing the steps whose time has come.</summary>
internal sealed partial class BurnDesk
{
    // From this age on the team is told that a submission is not fresh.
    private static readonly Duration WorthSaying = Duration.FromMinutes(30);

    private bool SendDue()
    {
        if (burn.Held is not null || burn.Status == BurnStatus.Stopped && !steps.Exists(s => s.Status == StepStatus.Waiting)) return false;
        var any = false;
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Status != StepStatus.Waiting || steps[i].DueAt > now || Blocked(steps[i]) || burn.Held is not null) continue;
            var before = steps[i];
            steps[i] = Do(before);
            any |= steps[i] != before;
            if (steps[i].Status == StepStatus.Failed) AfterFailure(steps[i]);
        }

        return any;
    }

    // A step that uses another's result waits for it while there is one to come.
    private bool Blocked(BurnStep state)
    {
        foreach (var need in fuse.Step(state.StepId).Needs)
        {
            if (need != state.StepId && steps.Exists(s => s.StepId == need && !s.Over)) return true;
        }

        return false;
    }

    private BurnStep Do(BurnStep state)
    {
        var step = fuse.Step(state.StepId);
        if (step.When is { } when && Ask(when) is { Holds: false } not)
        {
            Tell(StoryKind.StepStruck, state.BandId, state.StepId, "not taken, because " + not.Because);
            return state with { Status = StepStatus.Struck, Reason = not.Because };
        }

        if (Gate(state, step) is { } stopped) return stopped;
        var settings = CompiledFuse.Fill(step, Words());
        if (Unsendable(step, settings) is { } unsendable)
        {
            Tell(StoryKind.StepFailed, state.BandId, state.StepId, unsendable);
            return state with { Status = StepStatus.Failed, Reason = unsendable };
        }

        if (step.Kind.Lane == Lane.Team) settings = WithAge(settings, now - state.PlannedAt);
        return step.Kind.Service is null ? DoOurselves(state, step, settings) : Send(state, step, settings);
    }

    private BurnStep? Gate(BurnStep state, CompiledStep step)
    {
        var answer = step.Kind.Lane switch
        {
            Lane.Lead => LeadGate.Ask(lead, state.PlannedAt, Duration.FromHours(fuse.Definition.AgeLimitHours), now, StepVoices.Of(step.Kind.Key), step.Step.Hours),
            Lane.Team => LeadGate.AskTeam(lead, step.Step.Hours, now),
            _ => new GateAnswer.Go(),
        };
        switch (answer)
        {
            case GateAnswer.Never never:
                Tell(StoryKind.StepStruck, state.BandId, state.StepId, never.Reason);
                return state with { Status = StepStatus.Struck, Reason = never.Reason };
            case GateAnswer.Wait wait:
                Tell(StoryKind.StepWaits, state.BandId, state.StepId, wait.Reason);
                return state with { DueAt = wait.Until, Reason = wait.Reason };
            default:
                return null;
        }
    }

    private BurnStep Send(BurnStep state, CompiledStep step, Dictionary<string, string> settings)
    {
        var choices = settings.Where(s => s.Key.StartsWith("choice.", StringComparison.Ordinal)).ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);
        foreach (var key in choices.Keys) settings.Remove(key);
        effects.Add(new BurnEffect.Deliver(state.BandId, state.StepId, step.Kind.Key, step.Kind.Lane, KeyOf(state), state.PlannedAt, settings, step.Step.Hours, RetryOf(step)));
        return state with { Status = StepStatus.Sent, Reason = null, Results = choices.Count == 0 ? null : choices };
    }

    // What a system of record lacks today is still wanted tomorrow; what people are told is not.
    private static RetryProfile RetryOf(CompiledStep step) =>
        step.Step.OnFailure?.Retry is { } asked and not RetryProfile.Usual ? asked : step.Kind.Lane == Lane.Systems ? RetryProfile.Patient : RetryProfile.Usual;

    private BurnStep DoOurselves(BurnStep state, CompiledStep step, Dictionary<string, string> settings)
    {
        var done = state with { Status = StepStatus.Done, Reason = "done" };
        switch (step.Kind.Key)
        {
            case StepKinds.Stop:
                Tell(StoryKind.StepDone, state.BandId, state.StepId, "the fuse stops here");
                StopWaiting($"“{step.Step.Name}” stops it", but: state.StepId);
                break;
            case StepKinds.Hold when burn.Hears:
                var why = settings.GetValueOrDefault("words") is { Length: > 0 } words ? words : step.Step.Name;
                Tell(StoryKind.BurnHeld, state.BandId, state.StepId, why);
                burn = burn with { Held = why };
                break;
            case StepKinds.Hold:
                break;
            default:
                effects.Add(new BurnEffect.Do(state.BandId, state.StepId, step.Kind.Key, settings));
                break;
        }

        return done;
    }

    private WordFacts Words() => lead.Words with
    {
        Now = now,
        Zone = lead.Zone,
        Fuse = lead.Words.Fuse,
        Steps = steps.Where(s => s.Results is not null).GroupBy(s => s.StepId, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Last().Results!, StringComparer.Ordinal),
        Reply = burn.Reply is { } reply
            ? new Dictionary<string, string>(StringComparer.Ordinal) { ["text"] = reply.Text, ["meaning"] = reply.Meaning, ["choice"] = reply.Choice ?? "" }
            : lead.Words.Reply,
    };

    private static Dictionary<string, string> WithAge(Dictionary<string, string> settings, Duration late)
    {
        if (late < WorthSaying || !settings.TryGetValue("words", out var words)) return settings;
        var age = late.TotalHours < 2 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalMinutes:0} min") : late.TotalHours < 48 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalHours:0} h") : string.Create(CultureInfo.InvariantCulture, $"{late.TotalDays:0} days");
        return new Dictionary<string, string>(settings, StringComparer.Ordinal) { ["words"] = $"({age} old) {words}" };
    }

    // Words can only be judged with a lead's answers in them.
    private static string? Unsendable(CompiledStep step, Dictionary<string, string> settings)
    {
        foreach (var setting in step.Kind.Settings.Where(s => s is { Type: SettingType.Words or SettingType.Line, Optional: false } && s.CountsFor(step.Step.Settings)))
        {
            var words = settings.GetValueOrDefault(setting.Key) ?? "";
            if (words.Length == 0 && step.Kind.Key != StepKinds.Hold) return "with their answers in it, there were no words left to send";
            if (!StepKinds.IsText(step.Kind.Key)) continue;
            var size = TextSegments.Count(words);
            if (size.Segments > TextSegments.Most) return string.Create(CultureInfo.InvariantCulture, $"it came to {size.Segments} segments; at most {TextSegments.Most} go out in one text");
        }

        return null;
    }

    // The first time is the plain key; a band entered again, or a step replayed, is another thing.
    private string KeyOf(BurnStep step)
    {
        var key = $"{burn.BurnId:N}.{step.BandId}.{step.StepId}";
        if (step.Entry > 1) key += string.Create(CultureInfo.InvariantCulture, $".e{step.Entry}");
        return step.Try > 1 ? key + string.Create(CultureInfo.InvariantCulture, $".t{step.Try}") : key;
    }
}

/// <summary>How steps speak to the lead.</summary>
public static class StepVoices
{
    /// <summary>By a step's kind.</summary>
    public static Voice Of(string kind) => kind == StepKinds.Letter ? Voice.Letter : Voice.Text;
}

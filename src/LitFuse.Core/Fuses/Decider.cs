using System.Globalization;
using LitFuse.Core.Stories;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>
/// The engine: what happens next in a burn, as a pure function. The real run, the dry run and the backtest are three
/// drivers of it. Deciding twice from the same facts gives the same; a step's effect is asked for at most once.
/// </summary>
public static class Decider
{
    /// <summary>
    /// Decides what <paramref name="happened"/> leads to at <paramref name="now"/>.
    /// </summary>
    public static Decision Decide(CompiledFuse fuse, BurnState burn, BurnEvent happened, LeadFacts lead, Instant now)
    {
        var effects = new List<BurnEffect>();
        var next = happened switch
        {
            BurnEvent.Lit => Light(fuse, burn, lead, effects),
            BurnEvent.StepEnded ended => EndStep(burn, ended),
            BurnEvent.Stopped stop => Stop(fuse, burn, stop, effects),
            BurnEvent.Woken => burn,
            _ => throw new ArgumentOutOfRangeException(nameof(happened), happened, "an unknown event"),
        };
        next = SendDue(fuse, next, lead, now, effects);
        if (next.Status != BurnStatus.Ended && next.Steps.All(s => s.Status is StepStatus.Done or StepStatus.Failed or StepStatus.Struck))
        {
            next = next with { Status = BurnStatus.Ended };
            effects.Add(new BurnEffect.Tell(StoryKind.BurnEnded, null, null, Summary(next)));
        }

        return new(next, effects);
    }

    private static BurnState Light(CompiledFuse fuse, BurnState burn, LeadFacts lead, List<BurnEffect> effects)
    {
        if (burn.Steps.Count > 0) return burn;
        var steps = new List<BurnStep>();
        var anyWhen = false;
        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind != EntryKind.Otherwise))
        {
            if (band.Entry.Kind == EntryKind.When)
            {
                var answer = fuse.GuardOf(band).Ask(lead.Fields);
                if (!answer.Holds)
                {
                    effects.Add(new BurnEffect.Tell(StoryKind.BandPassed, band.Id, null, answer.Because));
                    continue;
                }

                anyWhen = true;
                Enter(band, answer.Because);
            }
            else
            {
                Enter(band, "whenever it is lit");
            }
        }

        foreach (var band in fuse.Definition.Bands.Where(b => b.Entry.Kind == EntryKind.Otherwise))
        {
            if (anyWhen) effects.Add(new BurnEffect.Tell(StoryKind.BandPassed, band.Id, null, "another band's rules held"));
            else Enter(band, "no other band's rules held");
        }

        return burn with { Steps = steps };

        void Enter(Band band, string because)
        {
            effects.Add(new BurnEffect.Tell(StoryKind.BandLit, band.Id, null, because));
            foreach (var step in band.Steps)
            {
                var due = burn.LitAt + Duration.FromSeconds(step.AfterSeconds);
                // Planned from the moment they asked, so that whatever held the lighting up counts as lateness.
                steps.Add(new BurnStep(band.Id, step.Id, StepStatus.Waiting, due - (burn.LitAt - burn.SubmittedAt), due));
            }
        }
    }

    private static BurnState EndStep(BurnState burn, BurnEvent.StepEnded ended) =>
        burn with
        {
            Steps = burn.Steps.Select(s => s.StepId == ended.StepId && s.Status == StepStatus.Sent
                ? s with { Status = ended.Status, Reason = ended.Reason }
                : s).ToList(),
        };

    // Ends what waits in the lanes of lead and team; systems of record still get the whole truth.
    private static BurnState Stop(CompiledFuse fuse, BurnState burn, BurnEvent.Stopped stop, List<BurnEffect> effects)
    {
        if (burn.Status != BurnStatus.Burning || (!stop.Whatever && !fuse.Definition.StopOn.Contains(stop.Rule))) return burn;
        effects.Add(new BurnEffect.Tell(StoryKind.BurnStopped, null, null, stop.Because));
        var steps = burn.Steps.Select(state =>
        {
            var lane = LaneOf(fuse, state.StepId);
            if (lane == Lane.Systems) return state;
            if (state.Status == StepStatus.Sent && lane == Lane.Lead) effects.Add(new BurnEffect.Withdraw(state.StepId, stop.Because));
            if (state.Status != StepStatus.Waiting) return state;
            effects.Add(new BurnEffect.Tell(StoryKind.StepStruck, state.BandId, state.StepId, stop.Because));
            return state with { Status = StepStatus.Struck, Reason = stop.Because };
        }).ToList();
        return burn with { Status = BurnStatus.Stopped, Stop = stop.Because, Steps = steps };
    }

    private static BurnState SendDue(CompiledFuse fuse, BurnState burn, LeadFacts lead, Instant now, List<BurnEffect> effects)
    {
        if (!burn.HasDue(now)) return burn;
        var age = Duration.FromHours(fuse.Definition.AgeLimitHours);
        var steps = burn.Steps.Select(state =>
        {
            if (state.Status != StepStatus.Waiting || state.DueAt > now) return state;
            var step = StepOf(fuse, state.StepId);
            var kind = StepKinds.Find(step.Kind)!;
            if (kind.Lane == Lane.Lead)
            {
                switch (LeadGate.Ask(lead, state.PlannedAt, age, now))
                {
                    case GateAnswer.Never never:
                        effects.Add(new BurnEffect.Tell(StoryKind.StepStruck, state.BandId, state.StepId, never.Reason));
                        return state with { Status = StepStatus.Struck, Reason = never.Reason };
                    case GateAnswer.Wait wait:
                        effects.Add(new BurnEffect.Tell(StoryKind.StepWaits, state.BandId, state.StepId, wait.Reason));
                        return state with { DueAt = wait.Until, Reason = wait.Reason };
                    default:
                        break;
                }
            }

            var settings = fuse.Fill(step, lead.Words);
            if (Unsendable(kind, settings) is { } unsendable)
            {
                effects.Add(new BurnEffect.Tell(StoryKind.StepFailed, state.BandId, state.StepId, unsendable));
                return state with { Status = StepStatus.Failed, Reason = unsendable };
            }

            if (kind.Lane == Lane.Team) settings = WithAge(settings, now - state.PlannedAt);
            effects.Add(new BurnEffect.Deliver(state.BandId, state.StepId, step.Kind, kind.Lane, KeyOf(burn.BurnId, state), state.PlannedAt, settings));
            return state with { Status = StepStatus.Sent, Reason = null };
        }).ToList();
        return burn with { Steps = steps };
    }

    /// <summary>How late a word to the team must be for it to say so.</summary>
    public static readonly Duration WorthSaying = Duration.FromMinutes(10);

    // What was held up, released or reprocessed tells the team how old it is: nobody rings as if it were new.
    private static IReadOnlyDictionary<string, string> WithAge(IReadOnlyDictionary<string, string> settings, Duration late)
    {
        if (late < WorthSaying || !settings.TryGetValue("words", out var words)) return settings;
        var age = late.TotalHours < 2 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalMinutes:0} min") : late.TotalHours < 48 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalHours:0} h") : string.Create(CultureInfo.InvariantCulture, $"{late.TotalDays:0} days");
        return new Dictionary<string, string>(settings, StringComparer.Ordinal) { ["words"] = $"({age} old) {words}" };
    }

    // Words can only be judged with a lead's answers in them.
    private static string? Unsendable(StepKind kind, IReadOnlyDictionary<string, string> settings)
    {
        foreach (var setting in kind.Settings.Where(s => s.Type == SettingType.Words))
        {
            var words = settings.GetValueOrDefault(setting.Key) ?? "";
            if (words.Length == 0) return "with their answers in it, there were no words left to send";
            if (kind.Lane != Lane.Lead) continue;
            var size = TextSegments.Count(words);
            if (size.Segments > TextSegments.Most) return string.Create(CultureInfo.InvariantCulture, $"it came to {size.Segments} segments; at most {TextSegments.Most} go out in one text");
        }

        return null;
    }

    private static string KeyOf(Guid burnId, BurnStep step) => $"{burnId:N}.{step.BandId}.{step.StepId}";

    private static Step StepOf(CompiledFuse fuse, string stepId) =>
        fuse.Definition.Bands.SelectMany(b => b.Steps).First(s => s.Id == stepId);

    private static Lane LaneOf(CompiledFuse fuse, string stepId) => StepKinds.Find(StepOf(fuse, stepId).Kind)!.Lane;

    private static string Summary(BurnState burn)
    {
        if (burn.Steps.Count == 0) return "no band was entered, so there was nothing to do";
        var parts = new[] { (StepStatus.Done, "done"), (StepStatus.Failed, "failed"), (StepStatus.Struck, "struck out") }
            .Select(p => (Count: burn.Steps.Count(s => s.Status == p.Item1), Word: p.Item2))
            .Where(p => p.Count > 0)
            .Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Count} {p.Word}"));
        return "steps: " + string.Join(", ", parts);
    }
}

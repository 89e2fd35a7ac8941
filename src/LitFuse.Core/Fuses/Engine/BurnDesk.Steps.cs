using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using LitFuse.Core.Stories;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>Doing the steps whose time has come.</summary>
internal sealed partial class BurnDesk
{
    // From this age on the team is told that a submission is not fresh.
    private static readonly Duration WorthSaying = Duration.FromMinutes(30);

    private bool SendDue()
    {
        if (held is not null || !look)
            return false;
        look = false;
        var any = false;
        for (var i = 0; i < steps.Count && held is null; i++)
        {
            // Doing a step adds no other; only what follows its failure does.
            ref var slot = ref Slots[i];
            if (slot.Status != StepStatus.Waiting || slot.DueAt > now || Blocked(slot.Step))
                continue;
            Do(ref slot);
            any = true;
            if (slot.Status == StepStatus.Failed)
                AfterFailure(slot);
        }

        return any;
    }

    // A step that uses another's result waits for it while there is one to come.
    private bool Blocked(CompiledStep step)
    {
        foreach (var awaited in step.Awaits)
        {
            foreach (ref readonly var slot in Slots)
                if (!slot.Over && slot.Step == awaited)
                    return true;
        }

        return false;
    }

    private void Do(ref StepSlot slot)
    {
        var step = slot.Step;
        if (step.When is { } when && !Holds(when, null, out var not))
        {
            Tell(StoryKind.StepCancelled, null, step, $"not taken, because {not}");
            Move(ref slot, StepStatus.Cancelled, not);
            output.Cancelled(slot, GateRule.None);
            return;
        }

        if (Shut(ref slot))
            return;
        if (step.Plain || (!output.Wording && step.Kind.Lane != Lane.Silent))
        {
            Hand(ref slot, step.Step.Settings);
            return;
        }

        var (settings, fault) = CompiledFuse.Fill(step, Words(now));
        if ((fault ?? Unsendable(step, settings)) is { } unsendable)
        {
            Tell(StoryKind.StepFailed, null, step, unsendable);
            Move(ref slot, StepStatus.Failed, unsendable);
            return;
        }

        if (step.Kind.Lane == Lane.Team)
            settings = WithAge(settings, now - slot.PlannedAt);
        Hand(ref slot, settings);
    }

    // True when it may not go out now; then it waits, or is cancelled.
    private bool Shut(ref StepSlot slot)
    {
        var step = slot.Step;
        var look = step.Kind.Lane switch
        {
            Lane.Lead => ContactPolicy.Look(
                lead,
                slot.PlannedAt,
                ageLimit,
                now,
                step.Voice,
                step.Step.Hours,
                step.OwnHours
            ),
            Lane.Team when step.Step.Hours is { } hours => ContactPolicy.LookTeam(lead, hours, now),
            _ => default,
        };
        if (look.Verdict == GateVerdict.Go)
            return false;
        var reason = Telling ? look.Say() : look.Rule.ToString();
        if (look.Verdict == GateVerdict.Never)
        {
            Strike(ref slot, reason, look.Rule);
            return true;
        }

        Tell(StoryKind.StepWaits, null, step, reason);
        (slot.DueAt, slot.Reason) = (look.Until, reason);
        output.Waits(slot);
        return true;
    }

    private void Hand(ref StepSlot slot, IReadOnlyDictionary<string, string> settings)
    {
        var step = slot.Step;
        if (step.Kind.Service is null)
        {
            DoOurselves(ref slot, settings);
            return;
        }

        if (step.Choices.Count > 0)
        {
            if (output.Wording)
            {
                var choices = settings
                    .Where(s => s.Key.StartsWith("choice.", StringComparison.Ordinal))
                    .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);
                if (choices.Count > 0)
                    settings = settings
                        .Where(s => !choices.ContainsKey(s.Key))
                        .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);
                slot.Results = choices.Count == 0 ? null : choices;
            }
            else
            {
                (slot.Offered, slot.DueAt) = (true, now);
            }
        }

        Move(ref slot, StepStatus.Sent, null);
        output.Deliver(this, slot, settings);
    }

    private void DoOurselves(ref StepSlot slot, IReadOnlyDictionary<string, string> settings)
    {
        var step = slot.Step;
        Move(ref slot, StepStatus.Done, "done");
        switch (step.Kind.Key)
        {
            case StepKinds.Stop:
                Tell(StoryKind.StepDone, null, step, "the fuse stops here");
                StopWaiting(Telling ? $"“{step.Step.Name}” stops it" : "", but: step);
                break;
            case StepKinds.Hold when Hears:
                var why = settings.GetValueOrDefault("words") is { Length: > 0 } words ? words : step.Step.Name;
                Tell(StoryKind.BurnHeld, null, step, why);
                held = why;
                break;
            case StepKinds.Hold:
                break;
            default:
                output.Do(slot, settings);
                break;
        }
    }

    private WordFacts Words(Instant at)
    {
        var said = lead.WordsNow();
        return said with
        {
            Now = at,
            Zone = lead.Zone,
            Steps = Results(),
            Reply = reply is null
                ? said.Reply
                : new Dictionary<string, string>(StringComparer.Ordinal)
                {
                    ["text"] = reply.Text,
                    ["meaning"] = reply.Meaning,
                    ["choice"] = reply.Choice ?? "",
                },
        };
    }

    private Dictionary<string, IReadOnlyDictionary<string, string>> Results()
    {
        var results = new Dictionary<string, IReadOnlyDictionary<string, string>>(StringComparer.Ordinal);
        foreach (ref readonly var slot in Slots)
            if (slot.Results is { } left)
                results[slot.Step.Step.Id] = left;
        return results;
    }

    private static Dictionary<string, string> WithAge(Dictionary<string, string> settings, Duration late)
    {
        if (late < WorthSaying || !settings.TryGetValue("words", out var words))
            return settings;
        var age =
            late.TotalHours < 2 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalMinutes:0} min")
            : late.TotalHours < 48 ? string.Create(CultureInfo.InvariantCulture, $"{late.TotalHours:0} h")
            : string.Create(CultureInfo.InvariantCulture, $"{late.TotalDays:0} days");
        settings["words"] = $"({age} old) {words}";
        return settings;
    }

    // Words can only be judged with a lead's answers in them.
    private static string? Unsendable(CompiledStep step, Dictionary<string, string> settings)
    {
        foreach (var key in step.MustSay)
        {
            var words = settings.GetValueOrDefault(key) ?? "";
            if (words.Length == 0 && step.Kind.Key != StepKinds.Hold)
                return "with their answers in it, there were no words left to send";
            if (!StepKinds.IsText(step.Kind.Key))
                continue;
            var size = TextSegments.Count(words);
            if (size.Segments > TextSegments.Most)
                return string.Create(
                    CultureInfo.InvariantCulture,
                    $"it came to {size.Segments} segments; at most {TextSegments.Most} go out in one text"
                );
        }

        return null;
    }
}

/// <summary>How steps speak to the lead.</summary>
public static class StepVoices
{
    /// <summary>By a step's kind.</summary>
    public static Voice Of(string kind) =>
        kind switch
        {
            StepKinds.Email => Voice.Letter,
            StepKinds.RingThrough => Voice.Call,
            _ => Voice.Text,
        };
}

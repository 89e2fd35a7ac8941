using LitFuse.Core.Fuses.Definition;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>What moving a burn to another version does to one step.</summary>
/// <param name="Step">Its name.</param>
/// <param name="Words">What becomes of it.</param>
public sealed record MoveChange(string Step, string Words);

/// <summary>A burn as it stands after moving, and what that changed.</summary>
public sealed record MovedBurn(BurnState State, IReadOnlyList<MoveChange> Changes);

/// <summary>
/// Takes a burn from the version it was lit with to another one of the same fuse. What has been done stays done; a step
/// that waits keeps its place by its id, at the time that the other version gives it; one that is gone is cancelled;
/// one that is new in a band already entered is done if its time is still to come.
/// </summary>
public static class FuseMove
{
    /// <summary>Moves it.</summary>
    public static MovedBurn To(CompiledFuse from, CompiledFuse to, BurnState burn, LeadFacts lead, Instant now)
    {
        var changes = new List<MoveChange>();
        var steps = new List<BurnStep>();
        foreach (var step in burn.Steps)
        {
            var name = from.Knows(step.StepId) ? from.Step(step.StepId).Step.Name : step.StepId;
            if (!to.Knows(step.StepId))
            {
                // One that is under way cannot be called back by a version that does not know it.
                if (step.Status == StepStatus.Waiting)
                    changes.Add(new(name, "is not done any more"));
                continue;
            }

            if (step.Status != StepStatus.Waiting)
            {
                steps.Add(step with { BandId = to.Step(step.StepId).Band.Id });
                continue;
            }

            var due = DueOf(to, burn, step.StepId, step.BandId, lead);
            var later =
                due is { } planned && planned != step.PlannedAt
                    ? step with
                    {
                        PlannedAt = planned,
                        DueAt = Instant.Max(planned, now),
                        Reason = null,
                    }
                    : step;
            if (later.DueAt != step.DueAt)
                changes.Add(
                    new(
                        name,
                        $"is due {FuseSentence.Until(now, later.DueAt)} instead of {FuseSentence.Until(now, step.DueAt)}"
                    )
                );
            steps.Add(later with { BandId = to.Step(step.StepId).Band.Id });
        }

        AddNew(from, to, burn, lead, now, steps, changes);
        var bands = burn
            .Bands.Where(b => to.Band(b.BandId) is not null)
            .Select(b => b with { Over = !steps.Exists(s => s.BandId == b.BandId && !s.Over) })
            .ToList();
        var next = burn with
        {
            Steps = steps,
            Bands = bands,
            Silences = [.. burn.Silences.Where(s => to.Band(s.BandId) is not null)],
        };
        // Any event makes the desk work out when to wake it.
        return new(next with { NextWake = now }, changes);
    }

    private static void AddNew(
        CompiledFuse from,
        CompiledFuse to,
        BurnState burn,
        LeadFacts lead,
        Instant now,
        List<BurnStep> steps,
        List<MoveChange> changes
    )
    {
        foreach (var entered in burn.Bands)
        {
            foreach (var step in to.Band(entered.BandId)?.Band.Steps ?? [])
            {
                // A band that a stop has silenced does not begin to speak because a version says more.
                if (entered.Entry <= entered.Hushed && BurnDesk.Chases(to.Step(step.Id)))
                    continue;
                if (
                    to.Step(step.Id).Standby
                    || from.Knows(step.Id)
                    || steps.Exists(s => s.StepId == step.Id)
                    || DueOf(to, burn, step.Id, entered.BandId, lead) is not { } due
                )
                    continue;
                if (due < now)
                    changes.Add(new(step.Name, "is new, and its time has passed"));
                else
                {
                    changes.Add(new(step.Name, $"is new, due {FuseSentence.Until(now, due)}"));
                    steps.Add(new(entered.BandId, step.Id, StepStatus.Waiting, due, due, Entry: entered.Entry));
                }
            }
        }
    }

    private static Instant? DueOf(CompiledFuse fuse, BurnState burn, string stepId, string bandId, LeadFacts lead)
    {
        if (burn.Bands.FirstOrDefault(b => b.BandId == bandId) is not { } band)
            return null;
        var step = fuse.Step(stepId);
        return Instant.Max(
            band.At,
            step.Step.Moment.On(
                band.At,
                burn.SubmittedAt,
                step.Kind.Lane == Lane.Lead ? lead.Zone : lead.ClientZone,
                lead.WorkHours
            )
        );
    }
}

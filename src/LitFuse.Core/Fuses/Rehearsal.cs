using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Something that happens from outside during a rehearsal.</summary>
public sealed record Scripted(Instant At, BurnEvent What);

/// <summary>How the outside answers one delivery in a rehearsal.</summary>
/// <param name="Took">From hand-over to the answer.</param>
/// <param name="Status"><see cref="StepStatus.Done"/>, <see cref="StepStatus.Failed"/> or <see cref="StepStatus.Struck"/>.</param>
/// <param name="Reason">What came back, in words.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record Reaction(Duration Took, StepStatus Status, string Reason, IReadOnlyDictionary<string, string>? Results = null);

/// <summary>One moment of a rehearsal.</summary>
/// <param name="At">On the virtual clock.</param>
/// <param name="Effect">What the engine asked for; <c>null</c> when this moment is an outcome.</param>
/// <param name="Ended">The delivery that ended; <c>null</c> when this moment is an effect.</param>
public sealed record RehearsedMoment(Instant At, BurnEffect? Effect, BurnEvent.StepEnded? Ended);

/// <summary>The outcome of a rehearsal.</summary>
public sealed record Rehearsed(BurnState State, IReadOnlyList<RehearsedMoment> Moments);

/// <summary>Drives <see cref="Decider"/> on a virtual clock against scripted reactions. Nothing leaves.</summary>
public static class Rehearsal
{
    /// <summary>
    /// Runs a burn from its lighting until it has ended or <paramref name="until"/> is reached. Moments come in time
    /// order; outcomes and events later than <paramref name="until"/> have not happened.
    /// </summary>
    public static Rehearsed Run(
        CompiledFuse fuse, BurnState burn, LeadFacts lead, IEnumerable<Scripted> script, Func<BurnEffect.Deliver, Instant, Reaction> react, Instant until)
    {
        var moments = new List<RehearsedMoment>();
        var ahead = new PriorityQueue<BurnEvent, (Instant At, int Order)>();
        var order = 0;
        ahead.Enqueue(new BurnEvent.Lit(), (burn.LitAt, order++));
        foreach (var one in script) ahead.Enqueue(one.What, (one.At, order++));

        while (ahead.TryDequeue(out var happened, out var when) && when.At <= until)
        {
            if (happened is BurnEvent.StepEnded ended) moments.Add(new(when.At, null, ended));
            var before = burn.NextWake;
            var decision = Decider.Decide(fuse, burn, happened, lead, when.At);
            burn = decision.State;
            foreach (var effect in decision.Effects)
            {
                moments.Add(new(when.At, effect, null));
                if (effect is not BurnEffect.Deliver deliver) continue;
                var reaction = react(deliver, when.At);
                ahead.Enqueue(new BurnEvent.StepEnded(deliver.StepId, reaction.Status, reaction.Reason, reaction.Results, deliver.Key), (when.At + reaction.Took, order++));
            }

            if (burn.NextWake is { } wake && wake != before) ahead.Enqueue(new BurnEvent.Woken(), (wake, order++));
        }

        return new(burn, moments);
    }
}

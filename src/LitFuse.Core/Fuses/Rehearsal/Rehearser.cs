using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses.Rehearsal;

/// <summary>One moment of a rehearsal.</summary>
/// <param name="At">On the virtual clock.</param>
/// <param name="Effect">What the engine asked for; <c>null</c> when this moment is something that happened.</param>
/// <param name="What">What happened; <c>null</c> when this moment is an effect.</param>
/// <param name="Words">What a silent step changed, in words.</param>
public sealed record RehearsedMoment(Instant At, BurnEffect? Effect, BurnEvent? What, string? Words = null)
{
    /// <summary>The delivery that ended, where this moment is that.</summary>
    public BurnEvent.StepEnded? Ended => What as BurnEvent.StepEnded;
}

/// <summary>The outcome of a rehearsal.</summary>
/// <param name="Lead">The lead as the fuse has left it.</param>
public sealed record Rehearsed(BurnState State, LeadFacts Lead, IReadOnlyList<RehearsedMoment> Moments)
{
    /// <summary>Some step is not done because it could only have gone after the age limit.</summary>
    public bool TooLate { get; init; }
}

/// <summary>One burn on a virtual clock against scripted reactions, every moment of it told. Nothing leaves.</summary>
public static class Rehearser
{
    /// <summary>
    /// Runs a burn from its lighting until it has ended or <paramref name="until"/> is reached. Moments come in time
    /// order; outcomes and events later than <paramref name="until"/> have not happened.
    /// </summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="burn">A burn that has not been lit yet.</param>
    /// <param name="lead">Whose.</param>
    /// <param name="script">What happens meanwhile.</param>
    /// <param name="react">How the outside answers.</param>
    /// <param name="until">How far it is looked at.</param>
    /// <param name="known">A lead field by its key, for steps that set one; <c>null</c> for one that nobody has
    /// described.</param>
    /// <param name="give">The lead once it is given to somebody, by the step's setting.</param>
    public static Rehearsed Run(
        CompiledFuse fuse,
        BurnState burn,
        LeadFacts lead,
        IEnumerable<Scripted> script,
        Func<BurnEffect.Deliver, Instant, Reaction> react,
        Instant until,
        Func<string, LeadField?>? known = null,
        Func<LeadFacts, string, LeadFacts>? give = null
    ) => new Played(fuse, react, known, give).Run(burn, lead, [.. script], until);

    private sealed class Played(
        CompiledFuse fuse,
        Func<BurnEffect.Deliver, Instant, Reaction> react,
        Func<string, LeadField?>? known,
        Func<LeadFacts, string, LeadFacts>? give
    ) : VirtualClock(fuse, known, give)
    {
        private readonly List<RehearsedMoment> moments = [];
        private readonly Dictionary<(CompiledStep, int), string> keys = [];
        private bool tooLate;

        public Rehearsed Run(BurnState burn, LeadFacts lead, IReadOnlyList<Scripted> script, Instant until)
        {
            Desk.Open(burn);
            Burn(lead, burn.LitAt, script, until);
            return new(Desk.State(), Lead, moments) { TooLate = tooLate };
        }

        protected override Reaction React(in StepSlot slot, IReadOnlyDictionary<string, string> settings)
        {
            var deliver = slot.Step.Deliver(Desk.KeyOf(slot), slot.PlannedAt, settings);
            Told(deliver);
            keys[(slot.Step, slot.Entry)] = deliver.Key;
            return react(deliver, Now);
        }

        protected override void Happened(BurnEvent what) => moments.Add(new(Now, null, what));

        protected override void Ended(CompiledStep step, int entry, Reaction outcome) =>
            moments.Add(
                new(
                    Now,
                    null,
                    new BurnEvent.StepEnded(
                        step.Step.Id,
                        outcome.Status,
                        outcome.Reason,
                        outcome.Results,
                        keys[(step, entry)]
                    )
                )
            );

        protected override void Done(
            in StepSlot slot,
            IReadOnlyDictionary<string, string> settings,
            LeadChange? change
        ) =>
            moments.Add(
                new(
                    Now,
                    new BurnEffect.Do(slot.Step.Band.Id, slot.Step.Step.Id, slot.Step.Kind.Key, settings),
                    null,
                    change?.Words
                )
            );

        protected override void TakenBack(in StepSlot slot, string because) =>
            Told(new BurnEffect.Withdraw(slot.Step.Step.Id, because));

        public override void Tell(StoryKind kind, string? bandId, string? stepId, string words) =>
            Told(new BurnEffect.Tell(kind, bandId, stepId, words));

        public override void Cancelled(in StepSlot slot, GateRule rule) =>
            tooLate |= rule is GateRule.TooLate or GateRule.OpenTooLate or GateRule.TooManyTooLate;

        public override void Notify(CompiledStep step, string person, string words) =>
            Told(new BurnEffect.Notify(step.Step.Id, person, words));

        private void Told(BurnEffect effect) => moments.Add(new(Now, effect, null));
    }
}

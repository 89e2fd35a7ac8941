using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>
/// The engine: what happens next in a burn, as a pure function. The real run, the dry run and the backtest are three
/// drivers of it. Deciding twice from the same facts gives the same; a step's effect is asked for at most once under a
/// key.
/// </summary>
public static class Decider
{
    /// <summary>A band is entered at most so often in one burn: nothing goes round for ever.</summary>
    public const int MostEntries = 100;

    /// <summary>So many fuses may light one another in a row.</summary>
    public const int MostDepth = 8;

    /// <summary>Decides what <paramref name="happened"/> leads to at <paramref name="now"/>.</summary>
    public static Decision Decide(CompiledFuse fuse, BurnState burn, BurnEvent happened, LeadFacts lead, Instant now)
    {
        var asked = new Effects();
        var desk = new BurnDesk(fuse, asked);
        desk.Open(burn);
        desk.Decide(happened, lead, now);
        return new(desk.State(), asked.All);
    }

    /// <summary>
    /// True when deciding this may need the words of the lead's answers. Only the end of a step, of which there are
    /// thousands, is looked at closely: what people do and what happens to a lead is seldom, and what a stop lets go
    /// of, or a band that so comes to its end leads to, speaks too.
    /// </summary>
    public static bool MaySpeak(CompiledFuse fuse, BurnState burn, BurnEvent happened, Instant now) =>
        happened switch
        {
            BurnEvent.StepEnded ended => fuse.EndMatters(ended.StepId, ended.Status) || burn.HasDue(now),
            _ => true,
        };

    // Writes down what the desk asks for.
    private sealed class Effects : DeskOutput
    {
        public List<BurnEffect> All { get; } = [];

        public override void Tell(StoryKind kind, string? bandId, string? stepId, string words) =>
            All.Add(new BurnEffect.Tell(kind, bandId, stepId, words));

        public override void Deliver(BurnDesk desk, in StepSlot slot, IReadOnlyDictionary<string, string> settings) =>
            All.Add(slot.Step.Deliver(desk.KeyOf(slot), slot.PlannedAt, settings));

        public override void Do(in StepSlot slot, IReadOnlyDictionary<string, string> settings) =>
            All.Add(new BurnEffect.Do(slot.Step.Band.Id, slot.Step.Step.Id, slot.Step.Kind.Key, settings));

        public override void Notify(CompiledStep step, string person, string words) =>
            All.Add(new BurnEffect.Notify(step.Step.Id, person, words));

        public override void Withdraw(in StepSlot slot, string because) =>
            All.Add(new BurnEffect.Withdraw(slot.Step.Step.Id, because));
    }
}

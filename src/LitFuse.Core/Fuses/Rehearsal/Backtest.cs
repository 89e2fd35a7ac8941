using System.Numerics;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses.Rehearsal;

/// <summary>A lead of the past, to be put through a fuse.</summary>
/// <param name="Facts">What is known of them.</param>
/// <param name="AskedAt">When they asked.</param>
/// <param name="Sent">The submission, as an event; <c>null</c>: the fuse is taken as lit.</param>
/// <param name="Did">What they and the team did then; it is taken to have happened all the same.</param>
public sealed record PastLead(LeadFacts Facts, Instant AskedAt, LeadEvent? Sent, IReadOnlyList<Scripted> Did);

/// <summary>What became of one lead that was put through a fuse.</summary>
/// <param name="Marks">What happened, as bits; <see cref="BacktestMarks"/> says which is which.</param>
/// <param name="ToLead">Messages to the lead.</param>
/// <param name="Texts">Texts among them.</param>
/// <param name="Segments">What the texts came to; 0 where words were not wanted.</param>
/// <param name="FirstAfter">From asking to the first message to them, or <c>null</c>.</param>
public readonly record struct PastOutcome(ulong[] Marks, int ToLead, int Texts, int Segments, Duration? FirstAfter)
{
    /// <summary>None at all: it was not lit.</summary>
    public static PastOutcome None(BacktestMarks bits) => new(bits.None(), 0, 0, 0, null);

    /// <summary>Counts each bit that is set.</summary>
    public void CountInto(int[] counts)
    {
        for (var word = 0; word < Marks.Length; word++)
        {
            for (var left = Marks[word]; left != 0; left &= left - 1)
                counts[(word << 6) + BitOperations.TrailingZeroCount(left)]++;
        }
    }

    /// <summary>Sets a bit.</summary>
    public void Mark(int bit) => Marks[bit >> 6] |= 1UL << (bit & 63);

    /// <summary>True when this bit is set.</summary>
    public bool Has(int bit) => (Marks[bit >> 6] & (1UL << (bit & 63))) != 0;
}

/// <summary>Which bit means what in the outcomes of one fuse.</summary>
/// <param name="fuse">The fuse.</param>
public sealed class BacktestMarks(CompiledFuse fuse)
{
    /// <summary>The fuse was lit.</summary>
    public const int Lit = 0;

    /// <summary>It was lit, and no band took them.</summary>
    public const int NoBand = 1;

    /// <summary>Something to them waited for its hours.</summary>
    public const int Waited = 2;

    /// <summary>Something went out to them by itself.</summary>
    public const int Spoken = 3;

    private const int Begin = 4;

    /// <summary>How many there are.</summary>
    public int Count => Begin + fuse.BandPlaces + (4 * fuse.StepPlaces);

    /// <summary>Nothing marked.</summary>
    public ulong[] None() => new ulong[(Count + 63) / 64];

    /// <summary>The band of this place was entered.</summary>
    public int Entered(int band) => Begin + band;

    /// <summary>The step of this place went out, or was done.</summary>
    public int Sent(int step) => Begin + fuse.BandPlaces + (4 * step);

    /// <summary>The step of this place waited for its hours.</summary>
    public int StepWaited(int step) => Sent(step) + 1;

    /// <summary>The step of this place was cancelled.</summary>
    public int Cancelled(int step) => Sent(step) + 2;

    /// <summary>The step of this place had nothing left to say, or could not be delivered.</summary>
    public int Failed(int step) => Sent(step) + 3;
}

/// <summary>
/// Puts leads of the past through a fuse: the engine that burns, on a clock that does not wait, in a world that answers
/// as it is told. Not for several threads; each has one of its own.
/// </summary>
public sealed class Backtest
{
    private readonly CompiledFuse fuse;
    private readonly Duration horizon;
    private readonly Player player;

    /// <summary>Makes one ready.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="words">Each message is put into words, as it would have been sent, and its segments are
    /// counted.</param>
    /// <param name="horizon">How long each burn is looked at.</param>
    /// <param name="react">How the outside answers a step.</param>
    /// <param name="known">A lead field by its key.</param>
    /// <param name="give">The lead once it is given to somebody, by the step's setting.</param>
    /// <param name="told">Hears whom a step of the team's lane went to (its setting, so perhaps <c>owner</c>), and
    /// when.</param>
    public Backtest(
        CompiledFuse fuse,
        bool words,
        Duration horizon,
        Func<Step, StepKind, Reaction> react,
        Func<string, LeadField?>? known = null,
        Func<LeadFacts, string, LeadFacts>? give = null,
        Action<LeadFacts, string, Instant>? told = null
    )
    {
        (this.fuse, this.horizon) = (fuse, horizon);
        player = new(fuse, words, [.. fuse.Steps.Select(s => react(s.Step, s.Kind))], known, give, told);
    }

    /// <summary>Puts one lead through.</summary>
    /// <param name="lead">The lead.</param>
    /// <param name="notBecause">Why the fuse was not lit, where only its rules kept it from being so.</param>
    public PastOutcome Put(PastLead lead, out string? notBecause)
    {
        notBecause = null;
        if (lead.Sent is { } sent && !fuse.LitByOne(sent, lead.Facts, lead.AskedAt, out notBecause))
            return PastOutcome.None(player.Bits);
        return player.Put(lead, lead.AskedAt + horizon);
    }

    private sealed class Player(
        CompiledFuse fuse,
        bool wording,
        Reaction[] reactions,
        Func<string, LeadField?>? known,
        Func<LeadFacts, string, LeadFacts>? give,
        Action<LeadFacts, string, Instant>? told
    ) : VirtualClock(fuse, known, give)
    {
        private readonly string?[] who =
        [
            .. fuse.Steps.Select(s =>
                s.Kind.Lane == Lane.Team
                    ? s.Step.Settings.GetValueOrDefault("person")
                        ?? s.Step.Settings.GetValueOrDefault("colleague")
                        ?? s.Step.Settings.GetValueOrDefault("channel")
                    : null
            ),
        ];
        private ulong[] marks = [];
        private int toLead;
        private int texts;
        private int segments;
        private Instant? first;
        private bool entered;

        public override bool Telling => false;

        public override bool Wording => wording;

        public BacktestMarks Bits { get; } = new(fuse);

        public PastOutcome Put(PastLead lead, Instant until)
        {
            marks = Bits.None();
            (toLead, texts, segments, first, entered) = (0, 0, 0, null, false);
            Desk.Clear(Guid.Empty, lead.AskedAt, lead.AskedAt);
            Burn(lead.Facts, lead.AskedAt, lead.Did, until);
            Mark(BacktestMarks.Lit);
            if (!entered)
                Mark(BacktestMarks.NoBand);
            return new(marks, toLead, texts, segments, first is { } at ? at - lead.AskedAt : null);
        }

        protected override Reaction React(in StepSlot slot, IReadOnlyDictionary<string, string> settings)
        {
            var step = slot.Step;
            Mark(Bits.Sent(step.Place));
            // Whether anybody would have taken a call, the past does not tell.
            if (step.Kind.Lane == Lane.Lead && step.Kind.Key != StepKinds.RingThrough)
            {
                Mark(BacktestMarks.Spoken);
                toLead++;
                first ??= Now;
                if (step.Kind.Key == StepKinds.Text)
                {
                    texts++;
                    if (wording)
                        segments += TextSegments.Count(settings["words"]).Segments;
                }
            }

            if (told is not null && who[step.Place] is { } whom)
                told(Lead, whom, Now);
            return reactions[step.Place];
        }

        public override void Entered(CompiledBand band)
        {
            entered = true;
            Mark(Bits.Entered(band.Place));
        }

        public override void Waits(in StepSlot slot)
        {
            Mark(Bits.StepWaited(slot.Step.Place));
            if (slot.Step.Kind.Lane == Lane.Lead)
                Mark(BacktestMarks.Waited);
        }

        public override void Cancelled(in StepSlot slot, GateRule rule) => Mark(Bits.Cancelled(slot.Step.Place));

        public override void Failed(in StepSlot slot) => Mark(Bits.Failed(slot.Step.Place));

        protected override void Done(in StepSlot slot, IReadOnlyDictionary<string, string> settings, LeadChange? change)
        {
            Mark(Bits.Sent(slot.Step.Place));
            if (told is not null && who[slot.Step.Place] is { } whom)
                told(Lead, whom, Now);
        }

        private void Mark(int bit) => marks[bit >> 6] |= 1UL << (bit & 63);
    }
}

namespace LitFuse.Core.Calling;

/// <summary>How a phone's part in a call came to its end, as the carrier says.</summary>
public enum LegEnding
{
    /// <summary>Somebody hung up.</summary>
    HungUp,

    /// <summary>It rang, and nobody picked up.</summary>
    Unanswered,

    /// <summary>It was engaged.</summary>
    Busy,

    /// <summary>It was turned away.</summary>
    Declined,

    /// <summary>It could not be rung.</summary>
    Failed,
}

/// <summary>
/// What a ring-through is told: by the carrier, by a clock, by a person. Any of it may come late, twice, or never.
/// </summary>
public abstract record CallEvent
{
    /// <summary>It is to begin.</summary>
    public sealed record Begun : CallEvent;

    /// <summary>Time has passed.</summary>
    public sealed record Woken : CallEvent;

    /// <summary>A phone was picked up.</summary>
    public sealed record Answered(int Leg) : CallEvent;

    /// <summary>A key was pressed.</summary>
    public sealed record KeyPressed(int Leg, string Key) : CallEvent;

    /// <summary>The carrier takes what answered to be a machine.</summary>
    public sealed record Guessed(int Leg) : CallEvent;

    /// <summary>The carrier has joined it with the other.</summary>
    public sealed record Joined(int Leg) : CallEvent;

    /// <summary>A phone's part is over.</summary>
    public sealed record LegEnded(int Leg, LegEnding Ending, string? Reason = null) : CallEvent;

    /// <summary>Somebody here hangs it up, or a rule does.</summary>
    public sealed record HungUp(string Because) : CallEvent;
}

/// <summary>What a ring-through wants done.</summary>
public abstract record CallEffect
{
    /// <summary>Ring one of the team, with the words.</summary>
    public sealed record RingTeam(int Leg, int Person) : CallEffect;

    /// <summary>Ring the lead.</summary>
    public sealed record RingLead(int Leg) : CallEffect;

    /// <summary>Join the two.</summary>
    public sealed record Join(int TeamLeg, int LeadLeg) : CallEffect;

    /// <summary>Hang a phone up, once it has been told so much.</summary>
    public sealed record HangUp(int Leg, string? Say = null) : CallEffect;

    /// <summary>Ask the carrier whether it still talks.</summary>
    public sealed record Look(int Leg) : CallEffect;

    /// <summary>A line of the story.</summary>
    /// <param name="Person">Place in the team of who it is about; <c>null</c>: about the lead.</param>
    public sealed record Tell(string Words, int? Person = null) : CallEffect;

    /// <summary>One of the team accepted: they have the lead.</summary>
    public sealed record Accepted(int Person) : CallEffect;

    /// <summary>Two people talk: this is the moment of first touch.</summary>
    /// <param name="Person">Place in the team.</param>
    /// <param name="Machine">It is a machine that answered.</param>
    public sealed record Talking(int Person, bool Machine) : CallEffect;

    /// <summary>It is decided how it ended. Comes exactly once.</summary>
    public sealed record Ended(CallOutcome Outcome, string Because) : CallEffect;
}

/// <summary>What comes of an event.</summary>
public sealed record CallDecision(CallState State, IReadOnlyList<CallEffect> Effects);

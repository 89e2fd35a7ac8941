using NodaTime;

namespace LitFuse.Core.Calling;

/// <summary>Somebody of the team who can be rung.</summary>
/// <param name="Id">Theirs.</param>
/// <param name="Name">As the story calls them.</param>
/// <param name="Phone">E.164.</param>
public sealed record CallPerson(string Id, string Name, string Phone);

/// <summary>How one ring-through is to go; it does not change while it goes.</summary>
/// <param name="Team">Who is rung, in their order; those who cannot be rung now are left out before.</param>
/// <param name="Lead">As the story calls them.</param>
/// <param name="LeadPhone">E.164.</param>
/// <param name="Words">What the team hears on picking up; the lead hears none of it.</param>
public sealed record CallPlan(IReadOnlyList<CallPerson> Team, string Lead, string LeadPhone, string Words)
{
    /// <summary>All are rung at once, and the first to accept has it; else one after the other.</summary>
    public bool AtOnce { get; init; }

    /// <summary>A key accepts. Without: whoever picks up has asked for the call themselves.</summary>
    public bool Asks { get; init; } = true;

    /// <summary>How long the phone of one of the team rings, in seconds.</summary>
    public int RingSeconds { get; init; } = 20;

    /// <summary>How long the lead's phone rings, in seconds.</summary>
    public int LeadRingSeconds { get; init; } = 30;

    /// <summary>A machine that answers for the lead is spoken to; else it is hung up on.</summary>
    public bool SpeaksToMachines { get; init; }

    /// <summary>It is recorded, and both hear so first.</summary>
    public string? RecordingWords { get; init; }

    /// <summary>The number that the team sees (E.164); <c>null</c>: the connection's own.</summary>
    public string? TeamSees { get; init; }

    /// <summary>The number that the lead sees.</summary>
    public string? LeadSees { get; init; }

    /// <summary>
    /// How long it waits for a key: until the words are spoken, at about fourteen characters a second, and ten seconds
    /// more.
    /// </summary>
    public Duration AskFor => Duration.FromSeconds(10 + Math.Min(60, (Words.Length + CallWords.Keys.Length) / 14));
}

/// <summary>Where a ring-through stands.</summary>
public enum CallStage
{
    /// <summary>Somebody of the team is being rung, or asked.</summary>
    /// <remarks>Set when the step is due. Ends when one accepts, or nobody is left to ring.</remarks>
    RingingTeam,

    /// <summary>Somebody accepted; the lead is being rung.</summary>
    /// <remarks>Set when one of the team presses 1. Ends when the lead picks up, or does not.</remarks>
    RingingLead,

    /// <summary>Two people talk.</summary>
    /// <remarks>Set when both are on the line. Ends when either hangs up.</remarks>
    Joined,

    /// <summary>It is decided how it ended; phones are being hung up.</summary>
    /// <remarks>Set when the outcome is known. Ends when the carrier has said of every phone that it is over.</remarks>
    Closing,

    /// <summary>All over.</summary>
    /// <remarks>Set when no phone is left. For good.</remarks>
    Over,
}

/// <summary>How a ring-through ended.</summary>
public enum CallOutcome
{
    /// <summary>Two people were joined.</summary>
    Spoke,

    /// <summary>A machine answered for the lead.</summary>
    Machine,

    /// <summary>The lead did not answer.</summary>
    NoAnswer,

    /// <summary>Nobody of the team took it, or whoever did was gone before the lead answered.</summary>
    Nobody,

    /// <summary>It was hung up before anybody was joined.</summary>
    Stopped,
}

/// <summary>Where one phone stands.</summary>
public enum LegState
{
    /// <summary>It rings.</summary>
    /// <remarks>Set when the carrier took the call. Ends when it is picked up, or not.</remarks>
    Ringing,

    /// <summary>One of the team picked up, hears the words, and has pressed nothing yet.</summary>
    /// <remarks>Set when one of the team picks up. Ends with the key that is pressed, or none.</remarks>
    Asked,

    /// <summary>One of the team accepted, and waits for the lead.</summary>
    /// <remarks>Set by the key for yes. Ends when the lead picks up, or does not.</remarks>
    Accepted,

    /// <summary>The lead picked up, and is being joined.</summary>
    /// <remarks>Set when the lead picks up. Ends when the carrier has joined the two.</remarks>
    Joining,

    /// <summary>It talks.</summary>
    /// <remarks>Set when the carrier says so. Ends when either hangs up.</remarks>
    Joined,

    /// <summary>It was hung up here; the carrier has not said so yet.</summary>
    /// <remarks>Set when we hang up. Ends when the carrier says that it is over.</remarks>
    Closing,

    /// <summary>It is over.</summary>
    /// <remarks>Set by the carrier's word. For good.</remarks>
    Over,
}

/// <summary>One phone of a ring-through.</summary>
/// <param name="Person">Place in <see cref="CallPlan.Team"/>; -1: the lead's.</param>
/// <param name="Until">When its state runs out.</param>
public sealed record CallLeg(int Person, LegState State, Instant Until)
{
    /// <summary>The lead's.</summary>
    public const int OfLead = -1;

    /// <summary>When somebody picked it up.</summary>
    public Instant? AnsweredAt { get; init; }
}

/// <summary>A ring-through as it stands. Its legs are known by their places, which never change.</summary>
/// <param name="Next">The place in the team of who is rung next, in turn.</param>
public sealed record CallState(CallStage Stage, IReadOnlyList<CallLeg> Legs, int Next)
{
    /// <summary>Before it began.</summary>
    public static CallState New { get; } = new(CallStage.RingingTeam, [], 0);

    /// <summary>How it ended, once that is decided.</summary>
    public CallOutcome? Outcome { get; init; }

    /// <summary>In words.</summary>
    public string? Because { get; init; }

    /// <summary>The place in the team of who accepted.</summary>
    public int? AcceptedBy { get; init; }

    /// <summary>When two people were joined.</summary>
    public Instant? JoinedAt { get; init; }

    /// <summary>The carrier takes what answered for the lead to be a machine.</summary>
    public bool MachineGuessed { get; init; }

    /// <summary>It took it to be one before the two were joined, so that whoever spoke, spoke to it.</summary>
    public bool MachineAnswered { get; init; }

    /// <summary>When it wants to be woken; <c>null</c> once it is over.</summary>
    public Instant? NextWake { get; init; }
}

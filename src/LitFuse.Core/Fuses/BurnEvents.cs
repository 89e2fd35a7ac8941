using LitFuse.Core.Hours;
using LitFuse.Core.Stories;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>What can happen to a burn.</summary>
public abstract record BurnEvent
{
    /// <summary>The fuse is lit.</summary>
    public sealed record Lit : BurnEvent;

    /// <summary>Time has passed.</summary>
    public sealed record Woken : BurnEvent;

    /// <summary>A delivery came to its end.</summary>
    public sealed record StepEnded(string StepId, StepStatus Status, string Reason) : BurnEvent;

    /// <summary>Something that stop rules know happened.</summary>
    /// <param name="Whatever">It stops, whatever the fuse's own stop rules say.</param>
    public sealed record Stopped(StopRule Rule, string Because, bool Whatever = false) : BurnEvent;
}

/// <summary>What a decision asks of the world.</summary>
public abstract record BurnEffect
{
    /// <summary>Hand this to delivery, once, under this key.</summary>
    /// <param name="BandId">The band.</param>
    /// <param name="StepId">The step.</param>
    /// <param name="Kind">The step's kind.</param>
    /// <param name="Lane">Who it is for.</param>
    /// <param name="Key">The idempotency key: the same decision always makes the same key.</param>
    /// <param name="PlannedAt">When the fuse's clock meant it, for the age limit at retries.</param>
    /// <param name="Settings">With the words filled in.</param>
    public sealed record Deliver(
        string BandId, string StepId, string Kind, Lane Lane, string Key, Instant PlannedAt, IReadOnlyDictionary<string, string> Settings) : BurnEffect;

    /// <summary>Take back what was handed to delivery but has not gone out.</summary>
    public sealed record Withdraw(string StepId, string Reason) : BurnEffect;

    /// <summary>Write this into the lead's story.</summary>
    public sealed record Tell(StoryKind Kind, string? BandId, string? StepId, string Words) : BurnEffect;
}

/// <summary>What a decision knows of the lead and its client.</summary>
/// <param name="Fields">By lead field key, for guards.</param>
/// <param name="Words">For the words of messages.</param>
/// <param name="HasPhone">A telephone number could be read.</param>
/// <param name="OptedOut">Wants no texts.</param>
/// <param name="Zone">The lead's time zone.</param>
/// <param name="SendHours">The client's send hours.</param>
/// <param name="DoNotContact">On the client's do-not-contact list.</param>
public sealed record LeadFacts(
    IReadOnlyDictionary<string, string> Fields, WordFacts Words, bool HasPhone, bool OptedOut, DateTimeZone Zone, OpenHours SendHours, bool DoNotContact = false);

/// <summary>The outcome of <see cref="Decider.Decide"/>.</summary>
public sealed record Decision(BurnState State, IReadOnlyList<BurnEffect> Effects)
{
    /// <summary>When to wake the burn next, or <c>null</c>.</summary>
    public Instant? NextWake => State.NextWake;
}

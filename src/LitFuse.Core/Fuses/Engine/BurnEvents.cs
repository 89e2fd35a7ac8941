using System.Text.Json.Serialization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>What can happen to a burn.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(Lit), "lit")]
[JsonDerivedType(typeof(Woken), "woken")]
[JsonDerivedType(typeof(StepEnded), "step-ended")]
[JsonDerivedType(typeof(Happened), "happened")]
[JsonDerivedType(typeof(Ended), "ended")]
[JsonDerivedType(typeof(Skipped), "skipped")]
[JsonDerivedType(typeof(Replayed), "replayed")]
[JsonDerivedType(typeof(LetGo), "let-go")]
public abstract record BurnEvent
{
    /// <summary>The fuse is lit.</summary>
    public sealed record Lit : BurnEvent;

    /// <summary>Time has passed.</summary>
    public sealed record Woken : BurnEvent;

    /// <summary>A delivery came to its end.</summary>
    /// <param name="StepId">The step.</param>
    /// <param name="Status"><see cref="StepStatus.Done"/>, <see cref="StepStatus.Failed"/> or
    /// <see cref="StepStatus.Cancelled"/>.</param>
    /// <param name="Reason">In words.</param>
    /// <param name="Results">What it left for later steps.</param>
    /// <param name="Key">The idempotency key it went out under; left out, the one that is under way.</param>
    public sealed record StepEnded(
        string StepId,
        StepStatus Status,
        string Reason,
        IReadOnlyDictionary<string, string>? Results = null,
        string? Key = null
    ) : BurnEvent;

    /// <summary>Something happened to the lead: it may stop the fuse and enter bands.</summary>
    public sealed record Happened(LeadEvent What) : BurnEvent;

    /// <summary>It is ended, whatever its own stop rules say, and hears no more.</summary>
    public sealed record Ended(string Because) : BurnEvent;

    /// <summary>A person leaves out a step that waits.</summary>
    public sealed record Skipped(string StepId, string Because) : BurnEvent;

    /// <summary>
    /// A person has a step that failed or was cancelled done again, and with it what was cancelled because of it.
    /// </summary>
    /// <param name="AsSent">The very delivery that failed goes out again, under its own key and with the words it
    /// had.</param>
    public sealed record Replayed(string StepId, string Because, bool AsSent = false) : BurnEvent;

    /// <summary>A person lets go what was held.</summary>
    public sealed record LetGo(string Because) : BurnEvent;
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
    /// <param name="Hours">The step's hours, for the gate at retries.</param>
    /// <param name="Retry">How long it is tried.</param>
    public sealed record Deliver(
        string BandId,
        string StepId,
        string Kind,
        Lane Lane,
        string Key,
        Instant PlannedAt,
        IReadOnlyDictionary<string, string> Settings,
        StepHours? Hours = null,
        RetryProfile Retry = RetryProfile.Usual
    ) : BurnEffect;

    /// <summary>Do this ourselves, in the same transaction: the step is done with the decision.</summary>
    public sealed record Do(string BandId, string StepId, string Kind, IReadOnlyDictionary<string, string> Settings)
        : BurnEffect;

    /// <summary>Tell a colleague, in Lit Fuse, that a step failed.</summary>
    /// <param name="Person"><c>owner</c> or a person's id.</param>
    public sealed record Notify(string StepId, string Person, string Words) : BurnEffect;

    /// <summary>Take back what was handed to delivery but has not gone out.</summary>
    public sealed record Withdraw(string StepId, string Reason) : BurnEffect;

    /// <summary>Write this into the lead's story.</summary>
    public sealed record Tell(StoryKind Kind, string? BandId, string? StepId, string Words) : BurnEffect;
}

/// <summary>The outcome of <see cref="Decider.Decide"/>.</summary>
public sealed record Decision(BurnState State, IReadOnlyList<BurnEffect> Effects)
{
    /// <summary>When to wake the burn next, or <c>null</c>.</summary>
    public Instant? NextWake => State.NextWake;
}

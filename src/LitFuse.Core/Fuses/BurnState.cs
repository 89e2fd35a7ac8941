using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Where a burn stands.</summary>
public enum BurnStatus
{
    /// <summary>Something may still happen.</summary>
    Burning,

    /// <summary>A stop rule ended what was waiting; what was under way goes on to its end.</summary>
    Stopped,

    /// <summary>All steps are done, failed or struck.</summary>
    Ended,
}

/// <summary>Where a step of a burn stands.</summary>
public enum StepStatus
{
    /// <summary>Its time has not come.</summary>
    Waiting,

    /// <summary>Handed to delivery; no outcome yet.</summary>
    Sent,

    /// <summary>The outside service took it.</summary>
    Done,

    /// <summary>Given up.</summary>
    Failed,

    /// <summary>Will not be done, by rule.</summary>
    Struck,
}

/// <summary>One step of one burn.</summary>
/// <param name="BandId">The band it belongs to.</param>
/// <param name="StepId">The step.</param>
/// <param name="Status">Where it stands.</param>
/// <param name="PlannedAt">When the fuse's clock meant it to be done.</param>
/// <param name="DueAt">When it is next to be looked at; later than planned while it waits for send hours.</param>
/// <param name="Reason">Why it waits, failed or was struck.</param>
public sealed record BurnStep(string BandId, string StepId, StepStatus Status, Instant PlannedAt, Instant DueAt, string? Reason = null);

/// <summary>
/// One fuse burning for one lead. Invariants: each step stands in it at most once; a step's status never goes back;
/// <see cref="Status"/> is <see cref="BurnStatus.Ended"/> exactly when no step is waiting or sent.
/// </summary>
/// <param name="BurnId">Unique; the first part of every idempotency key.</param>
/// <param name="Status">Where it stands.</param>
/// <param name="SubmittedAt">When the person asked.</param>
/// <param name="LitAt">When it was lit.</param>
/// <param name="Stop">Why it stopped, where it did.</param>
/// <param name="Steps">The steps of the bands entered.</param>
public sealed record BurnState(
    Guid BurnId, BurnStatus Status, Instant SubmittedAt, Instant LitAt, string? Stop, IReadOnlyList<BurnStep> Steps)
{
    /// <summary>A burn that has not been lit yet.</summary>
    public static BurnState New(Guid burnId, Instant submittedAt, Instant litAt) =>
        new(burnId, BurnStatus.Burning, submittedAt, litAt, null, []);

    /// <summary>True when a step waits whose time has come.</summary>
    public bool HasDue(Instant now) => Steps.Any(s => s.Status == StepStatus.Waiting && s.DueAt <= now);

    /// <summary>When it must next be looked at, or <c>null</c>.</summary>
    public Instant? NextWake =>
        Steps.Where(s => s.Status == StepStatus.Waiting).Select(s => (Instant?)s.DueAt).Min();
}

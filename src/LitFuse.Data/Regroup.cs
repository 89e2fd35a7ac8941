using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a conflict stands.</summary>
public enum ConflictState
{
    /// <summary>Nobody has said yet whether it is the same person.</summary>
    /// <remarks>
    /// Set when a submission's address and number lead to two leads, and when a merge is undone. Ends when a person
    /// decides.
    /// </remarks>
    Open,

    /// <summary>One person: the two leads are one.</summary>
    /// <remarks>Set by a person. Ends when the merge is undone.</remarks>
    Merged,

    /// <summary>Two people.</summary>
    /// <remarks>Set by a person. For good; the same two are not asked about again.</remarks>
    Apart,
}

/// <summary>A submission whose email is one lead's and whose telephone number another's: one person, or two?</summary>
public sealed class LeadConflict : IOfClient, IEntityTypeConfiguration<LeadConflict>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>The lead that the submission went to.</summary>
    public Guid LeadId { get; set; }

    /// <summary>The other one.</summary>
    public Guid OtherId { get; set; }

    public Guid? SubmissionId { get; set; }

    /// <summary>Which address is whose.</summary>
    public string Words { get; set; } = "";

    public Instant FoundAt { get; set; }

    public ConflictState State { get; set; }

    public Instant? DecidedAt { get; set; }

    public Guid? DecidedBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LeadConflict> builder)
    {
        builder.HasIndex(c => new { c.ClientId, c.State });
        builder.HasIndex(c => c.LeadId);
    }
}

/// <summary>Two leads made one, or one made two.</summary>
public enum RegroupKind
{
    Merge,
    Split,
}

/// <summary>What a merge or a split moved, by id, so that undoing moves just that back.</summary>
public sealed record Moved(
    IReadOnlyList<Guid> Submissions,
    IReadOnlyList<string> Emails,
    IReadOnlyList<string> Phones,
    IReadOnlyList<long> Story,
    IReadOnlyList<Guid> Burns,
    IReadOnlyList<Guid> Deliveries,
    IReadOnlyList<Guid> Consents
);

/// <summary>A lead's own values before it was merged or split.</summary>
public sealed record LeadBefore(
    IReadOnlyDictionary<string, string> Fields,
    Guid FormId,
    Instant AskedAt,
    Instant TargetAt,
    Guid? TakenBy,
    Instant? TakenAt,
    Instant? FirstTouchAt,
    Guid? FirstTouchBy,
    Instant? AutoTouchAt,
    bool Quiet,
    Guid? OwnerId,
    IReadOnlyList<string> Tags,
    Instant? ReachedAt = null
);

/// <summary>One merge or split, which can be undone.</summary>
public sealed class Regroup : IOfClient, IEntityTypeConfiguration<Regroup>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public RegroupKind Kind { get; set; }

    /// <summary>What was moved was its.</summary>
    public Guid FromId { get; set; }

    /// <summary>And is this one's now.</summary>
    public Guid IntoId { get; set; }

    public Moved Moved { get; set; } = new([], [], [], [], [], [], []);

    public LeadBefore FromBefore { get; set; } = null!;

    public LeadBefore? IntoBefore { get; set; }

    public Instant At { get; set; }

    public Guid By { get; set; }

    public Instant? UndoneAt { get; set; }

    public Guid? UndoneBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Regroup> builder)
    {
        builder.HasIndex(r => r.FromId);
        builder.HasIndex(r => r.IntoId);
        builder.Property(r => r.Moved).AsJson();
        builder.Property(r => r.FromBefore).AsJson();
        builder.Property(r => r.IntoBefore).AsJson();
    }
}

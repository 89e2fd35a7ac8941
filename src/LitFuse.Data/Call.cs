using LitFuse.Core.Calling;
using LitFuse.Core.Fuses.Engine;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A ring-through: the team's phones first, then the lead's, then two who talk.</summary>
public sealed class Call : IOfClient, IEntityTypeConfiguration<Call>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public Guid ConnectionId { get; set; }

    /// <summary>Unique: what was decided once is begun once.</summary>
    public string Key { get; set; } = "";

    public Guid? BurnId { get; set; }

    public string? StepId { get; set; }

    /// <summary>The delivery's key, by which the burn knows its step again.</summary>
    public string? StepKey { get; set; }

    public string? Fuse { get; set; }

    public string? Band { get; set; }

    public string? Step { get; set; }

    /// <summary>The person who wanted it, where no fuse did.</summary>
    public Guid? AskedBy { get; set; }

    public CallPlan Plan { get; set; } = null!;

    public CallState State { get; set; } = CallState.New;

    /// <summary>As in <see cref="State"/>, to be looked for.</summary>
    public CallStage Stage { get; set; }

    /// <summary>
    /// The carrier's ids of its phones, in the order of <see cref="CallState.Legs"/>; empty while it has not said.
    /// </summary>
    public IReadOnlyList<string> References { get; set; } = [];

    public Instant BeganAt { get; set; }

    /// <summary>When something runs out.</summary>
    public Instant? WakeAt { get; set; }

    /// <summary>Why it is to be hung up, where a rule wants it.</summary>
    public string? HangUpBecause { get; set; }

    /// <summary>When it was decided how it ended.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>Where its recording is.</summary>
    public string? Recording { get; set; }

    /// <summary>How it ended, once that is decided.</summary>
    public CallEnding? Ending =>
        State.Outcome is not { } outcome
            ? null
            : new(
                outcome,
                State.Because ?? "",
                State.AcceptedBy is { } by ? Plan.Team[by].Name : null,
                State.JoinedAt is { } from ? (EndedAt ?? from) - from : null,
                Recording
            );

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Call> builder)
    {
        builder.HasIndex(c => c.Key).IsUnique();
        builder.HasIndex(c => new { c.LeadId, c.BeganAt });
        builder
            .HasIndex(c => c.WakeAt)
            .HasFilter("wake_at is not null or hang_up_because is not null")
            .HasDatabaseName("ix_calls_live");
        builder
            .HasIndex(c => c.BurnId)
            .HasFilter("ended_at is null and burn_id is not null")
            .HasDatabaseName("ix_calls_of_burns");
        builder.Property(c => c.Plan).AsJson();
        builder.Property(c => c.State).AsJson();
        builder.Property(c => c.References).HasColumnType("text[]").HasDefaultValueSql("'{}'::text[]");
        builder.Ignore(c => c.Ending);
        builder.HasOne<Lead>().WithMany().HasForeignKey(c => c.LeadId);
        builder.HasOne<Connection>().WithMany().HasForeignKey(c => c.ConnectionId);
    }
}

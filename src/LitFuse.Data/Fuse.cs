using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Whether a fuse can be lit.</summary>
public enum FuseState
{
    /// <summary>Never armed.</summary>
    /// <remarks>Set when a fuse is made. Ends when it is armed.</remarks>
    Draft,

    /// <summary>Its armed version burns.</summary>
    /// <remarks>
    /// Set when a person arms it. Ends when somebody disarms it, or everything of the client is stopped.
    /// </remarks>
    Armed,

    /// <summary>Was armed; nothing lights it now.</summary>
    /// <remarks>
    /// Set when a person disarms it; burns under way go on to their end. Ends when it is armed again.
    /// </remarks>
    Disarmed,
}

/// <summary>A fuse: its draft, and which version is armed.</summary>
public sealed class Fuse : IOfClient, IEntityTypeConfiguration<Fuse>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public string Name { get; set; } = "";

    public FuseState State { get; set; }

    public Guid? ArmedVersionId { get; set; }

    /// <summary>The working copy, saved as it is edited, faults and all; <c>null</c> while it is as armed.</summary>
    public FuseDefinition? Draft { get; set; }

    /// <summary>Counts the draft's saves: a save says which one it began from.</summary>
    public int DraftRevision { get; set; }

    public Guid? DraftBy { get; set; }

    public Instant? DraftAt { get; set; }

    /// <summary>It is also being lit for who asked since then, before it was armed.</summary>
    public Instant? CatchUpSince { get; set; }

    public Instant? CatchUpUntil { get; set; }

    /// <summary>The last lead that it was tried for.</summary>
    public Guid? CatchUpAfter { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Fuse> builder)
    {
        builder.HasIndex(f => f.ClientId);
        builder
            .HasIndex(f => f.CatchUpUntil)
            .HasFilter("catch_up_since is not null")
            .HasDatabaseName("ix_fuses_catching_up");
        builder.Property(f => f.Draft).AsFuse();
        builder.Property(f => f.DraftRevision).IsConcurrencyToken();
    }
}

/// <summary>A version that was armed. Never changes.</summary>
public sealed class FuseVersion : IOfClient, IEntityTypeConfiguration<FuseVersion>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FuseId { get; set; }

    public int Number { get; set; }

    public FuseDefinition Definition { get; set; } = null!;

    public Instant ArmedAt { get; set; }

    public Guid? ArmedBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FuseVersion> builder)
    {
        builder.HasIndex(v => new { v.FuseId, v.Number }).IsUnique();
        builder.Property<FuseDefinition?>(nameof(Definition)).AsFuse().IsRequired();
        builder.HasOne<Fuse>().WithMany().HasForeignKey(v => v.FuseId);
    }
}

/// <summary>When a clock next lights an armed version: one row a way of lighting.</summary>
public sealed class FuseClock : IOfClient, IEntityTypeConfiguration<FuseClock>
{
    public Guid FuseVersionId { get; set; }

    /// <summary>Which of the version's ways of lighting.</summary>
    public int Place { get; set; }

    public Guid ClientId { get; set; }

    public Instant NextAt { get; set; }

    /// <summary>While it strikes: the last lead it came to.</summary>
    public Guid? AfterLead { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FuseClock> builder)
    {
        builder.HasKey(c => new { c.FuseVersionId, c.Place });
        builder.HasIndex(c => c.NextAt);
        builder.HasOne<FuseVersion>().WithMany().HasForeignKey(c => c.FuseVersionId);
    }
}

/// <summary>One fuse burning for one lead.</summary>
public sealed class Burn : IOfClient, IEntityTypeConfiguration<Burn>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public Guid FuseId { get; set; }

    public Guid FuseVersionId { get; set; }

    public Guid SubmissionId { get; set; }

    public BurnStatus Status { get; set; }

    public BurnState State { get; set; } = null!;

    public Instant LitAt { get; set; }

    public Instant? WakeAt { get; set; }

    /// <summary>
    /// Since when it is set aside: deciding for it failed, and it does nothing until a person runs it again.
    /// </summary>
    public Instant? SetAsideAt { get; set; }

    /// <summary>Why, in words.</summary>
    public string? SetAsideBecause { get; set; }

    /// <summary>What it was to decide and could not, oldest first: brought again when it is run again.</summary>
    public IReadOnlyList<BurnEvent> SetAside { get; set; } = [];

    /// <summary>Counts its changes: who writes it says which one was read.</summary>
    public int Version { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Burn> builder)
    {
        builder.HasIndex(b => new { b.LeadId, b.FuseId });
        builder.HasIndex(b => b.WakeAt).HasFilter("wake_at is not null").HasDatabaseName("ix_burns_due");
        builder.HasIndex(b => new { b.FuseId, b.LitAt });
        builder
            .Property(b => b.State)
            .HasConversion(
                state => state.Written(),
                text => BurnState.Read(text),
                new ValueComparer<BurnState>(
                    (a, b) => ReferenceEquals(a, b),
                    state => state.GetHashCode(),
                    state => state
                )
            )
            .HasColumnType("jsonb");
        builder.Property(b => b.SetAside).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder
            .HasIndex(b => new { b.ClientId, b.SetAsideAt })
            .HasFilter("set_aside_at is not null")
            .HasDatabaseName("ix_burns_set_aside");
        builder.Property(b => b.Version).IsConcurrencyToken().HasDefaultValue(0);
        builder
            .HasIndex(b => b.LeadId)
            .HasFilter("status in ('burning', 'listening')")
            .HasDatabaseName("ix_burns_hearing");
        builder.HasOne<Lead>().WithMany().HasForeignKey(b => b.LeadId);
        builder.HasOne<FuseVersion>().WithMany().HasForeignKey(b => b.FuseVersionId);
    }
}

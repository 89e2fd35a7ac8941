using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>
/// When a form proves itself, without anybody pressing: with tests that go to one person's own addresses.
/// </summary>
/// <param name="AfterMend">Whenever a cut was mended.</param>
/// <param name="DailyAt">Every day at this hour of the client's clock, as in <c>07:30</c>; <c>null</c>: not by the
/// clock.</param>
/// <param name="For">Whose addresses.</param>
public sealed record ProofPlan(bool AfterMend, string? DailyAt, Guid For);

/// <summary>What is kept of a form's line: what its last submissions say, and where it stands.</summary>
public sealed class FormWatch : IOfClient, IEntityTypeConfiguration<FormWatch>
{
    public Guid FormId { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>When the latest submission came that was looked at.</summary>
    public Instant? SampledTo { get; set; }

    /// <summary>The map's version that it was looked at through.</summary>
    public int? LookedVersion { get; set; }

    /// <summary>A mark of the form's fields as it was looked at.</summary>
    public int LookedFields { get; set; }

    /// <summary>How often each lead field was filled in the last submissions.</summary>
    public IReadOnlyDictionary<string, Filled> Filled { get; set; } =
        new Dictionary<string, Filled>(StringComparer.Ordinal);

    /// <summary>What has changed about its fields.</summary>
    public IReadOnlyList<DriftFinding> Drift { get; set; } = [];

    /// <summary>Keys of findings that a person has said are as they are to be.</summary>
    public string[] Accepted { get; set; } = [];

    /// <summary>Why it is said to be silent; <c>null</c>: it is not.</summary>
    public string? Silent { get; set; }

    /// <summary>What is known of how often it has a lead.</summary>
    public string? Habit { get; set; }

    /// <summary>The address that was asked.</summary>
    public string? ThanksAddress { get; set; }

    public Instant? ThanksAskedAt { get; set; }

    public string? ThanksFault { get; set; }

    /// <summary>How many its network has that we have not.</summary>
    public int Missing { get; set; }

    /// <summary>The latest lead that went all the way.</summary>
    public LineProof? Proof { get; set; }

    public Instant? MendedAt { get; set; }

    /// <summary>
    /// Since when a person has said that it is meant to rest: a cut at the form itself raises no alarm.
    /// </summary>
    public Instant? RestsSince { get; set; }

    public ProofPlan? Plan { get; set; }

    public Instant? ProveDueAt { get; set; }

    /// <summary>As it was judged last; <c>null</c>: not yet.</summary>
    public FormLine? Line { get; set; }

    /// <summary>As the line says, for finding it.</summary>
    public LineState? State { get; set; }

    public Instant? JudgedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FormWatch> builder)
    {
        builder.ToTable("form_watches");
        builder.HasKey(w => w.FormId);
        builder.HasIndex(w => new { w.ClientId, w.State });
        builder.HasIndex(w => w.ProveDueAt).HasFilter("prove_due_at is not null");
        builder.Property(w => w.LookedFields).HasDefaultValue(0);
        builder.Property(w => w.Missing).HasDefaultValue(0);
        builder.Property(w => w.Filled).AsJson().HasDefaultValueSql("'{}'::jsonb");
        builder.Property(w => w.Drift).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.Property(w => w.Accepted).HasDefaultValueSql("'{}'::text[]");
        builder.Property(w => w.Proof).AsJson();
        builder.Property(w => w.Plan).AsJson();
        builder.Property(w => w.Line).AsJson();
        builder.HasOne<Form>().WithMany().HasForeignKey(w => w.FormId);
    }
}

/// <summary>One cut of a form's line, for as long as it lasted.</summary>
public sealed class LineCut : IOfClient, IEntityTypeConfiguration<LineCut>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    /// <summary>As in <see cref="Cut.Key"/>.</summary>
    public string Key { get; set; } = "";

    public JointKind Joint { get; set; }

    public string Cause { get; set; } = "";

    public Mend Mend { get; set; } = null!;

    public Instant FromAt { get; set; }

    /// <summary><c>null</c>: it lasts.</summary>
    public Instant? ToAt { get; set; }

    /// <summary>People were told of it: not while its form rests or is being set up.</summary>
    public bool Told { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LineCut> builder)
    {
        // What lasted before this was kept had been told.
        builder.Property(c => c.Told).HasDefaultValue(true).HasSentinel(true);
        builder.ToTable("line_cuts");
        builder
            .HasIndex(c => new { c.FormId, c.Key })
            .IsUnique()
            .HasFilter("to_at is null")
            .HasDatabaseName("ix_line_cuts_lasting");
        builder.HasIndex(c => new { c.FormId, c.FromAt });
        builder.Property(c => c.Mend).AsJson();
        builder.HasOne<Form>().WithMany().HasForeignKey(c => c.FormId);
    }
}

/// <summary>
/// A time in which nothing was to come from a form: it was paused or archived, or its ad did not run.
/// </summary>
public sealed class FormQuietTime : IOfClient, IEntityTypeConfiguration<FormQuietTime>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public Instant FromAt { get; set; }

    public Instant? ToAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FormQuietTime> builder)
    {
        builder.ToTable("form_quiet_times");
        builder
            .HasIndex(q => q.FormId)
            .IsUnique()
            .HasFilter("to_at is null")
            .HasDatabaseName("ix_form_quiet_times_lasting");
        builder.HasIndex(q => new { q.FormId, q.FromAt });
        builder.HasOne<Form>().WithMany().HasForeignKey(q => q.FormId);
    }
}

/// <summary>When a client's lines are next judged whole.</summary>
public sealed class LineRound : IOfClient, IEntityTypeConfiguration<LineRound>
{
    public Guid ClientId { get; set; }

    public Instant DueAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LineRound> builder)
    {
        builder.ToTable("line_rounds");
        builder.HasKey(r => r.ClientId);
        builder.HasIndex(r => r.DueAt);
    }
}

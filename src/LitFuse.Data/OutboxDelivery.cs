using LitFuse.Core.Fuses.Definition;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a delivery stands.</summary>
public enum DeliveryStatus
{
    /// <summary>To be attempted when its time comes.</summary>
    /// <remarks>
    /// Set when a step is handed over, and when an attempt failed and may be repeated. Ends when a worker takes it, or
    /// it is cancelled.
    /// </remarks>
    Due,

    /// <summary>A worker holds it under a lease.</summary>
    /// <remarks>
    /// Set by the worker that holds it. Ends with the service's answer; if the worker dies, with the end of its lease,
    /// and it is due again.
    /// </remarks>
    Sending,

    /// <summary>The outside service took it.</summary>
    /// <remarks>Set when the service says that it took it. For good; a receipt may follow.</remarks>
    Done,

    /// <summary>Refused for good, or given up after the last attempt.</summary>
    /// <remarks>
    /// Set when the service refuses it for good, after the last attempt, or when a person gives it up. Ends when a
    /// person sends it again.
    /// </remarks>
    Failed,

    /// <summary>Withdrawn by rule before it went.</summary>
    /// <remarks>
    /// Set by an opt-out, the do-not-contact list, the age limit or a stop. For good.
    /// </remarks>
    Cancelled,
}

/// <summary>
/// One outbound thing for one outside service, with its record. Written in the transaction that decided it; the key
/// is unique, so deciding twice cannot send twice.
/// </summary>
public sealed class OutboxDelivery : IOfClient, IEntityTypeConfiguration<OutboxDelivery>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public Guid ConnectionId { get; set; }

    public Guid? BurnId { get; set; }

    public string? Band { get; set; }

    public string? StepId { get; set; }

    public string? Step { get; set; }

    public string? Fuse { get; set; }

    /// <summary>The step's kind.</summary>
    public string Kind { get; set; } = "";

    public Lane Lane { get; set; }

    /// <summary>Unique; what the decision that made it is known by.</summary>
    public string Key { get; set; } = "";

    /// <summary>What is to be sent, filled in.</summary>
    public IReadOnlyDictionary<string, string> Settings { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    public Instant PlannedAt { get; set; }

    public int AgeLimitHours { get; set; }

    /// <summary>The hours its step keeps; <c>null</c>: the usual ones of its lane.</summary>
    public StepHours? Hours { get; set; }

    /// <summary>How long it is tried.</summary>
    public RetryProfile Retry { get; set; }

    /// <summary>The person who wrote it, for a text written by hand.</summary>
    public Guid? WrittenBy { get; set; }

    /// <summary>For a test: the person whose own addresses it goes to instead.</summary>
    public Guid? OnlyTo { get; set; }

    public DeliveryStatus Status { get; set; }

    /// <summary>Why it stands so, in words; never empty once attempted.</summary>
    public string? Reason { get; set; }

    public Instant MadeAt { get; set; }

    public Instant DueAt { get; set; }

    public int Attempts { get; set; }

    /// <summary>How many of them were spent before it was last replayed.</summary>
    public int AttemptsBefore { get; set; }

    /// <summary>How often it was sent again after it had been taken: each time as another thing.</summary>
    public int Again { get; set; }

    /// <summary>
    /// When it took its place among the messages that the lead may get in a day; good while it is being sent.
    /// </summary>
    public Instant? ReservedAt { get; set; }

    /// <summary>The idempotency key as the service sees it.</summary>
    public string KeySent =>
        Again == 0 ? Key : string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{Key}.again{Again}");

    public string? LeasedBy { get; set; }

    public Instant? LeasedUntil { get; set; }

    public Instant? SentAt { get; set; }

    public Instant? EndedAt { get; set; }

    /// <summary>Of a text: how many segments it is cut into, each of which is paid for.</summary>
    public int? Segments { get; set; }

    /// <summary>How many segments words of this kind come to; <c>null</c> where they are no text.</summary>
    public static int? SegmentsOf(string kind, IReadOnlyDictionary<string, string> settings) =>
        StepKinds.IsText(kind) || kind == StepKinds.StopConfirmed
            ? Core.Words.TextSegments.Count(settings.GetValueOrDefault("words") ?? "").Segments
            : null;

    /// <summary>The outside service's own id.</summary>
    public string? Reference { get; set; }

    /// <summary>When the carrier said that it reached the phone.</summary>
    public Instant? ReceiptAt { get; set; }

    /// <summary>
    /// One that no step asked for, due now: what the application itself has to tell a service about a lead.
    /// </summary>
    public static OutboxDelivery Of(
        Lead lead,
        Guid connectionId,
        StepKind kind,
        string key,
        IReadOnlyDictionary<string, string> settings,
        Instant now
    ) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            ConnectionId = connectionId,
            Step = kind.Label,
            Kind = kind.Key,
            Lane = kind.Lane,
            Key = key,
            Settings = settings,
            PlannedAt = now,
            AgeLimitHours = 24,
            Retry = RetryProfile.Usual,
            Status = DeliveryStatus.Due,
            MadeAt = now,
            DueAt = now,
            Segments = SegmentsOf(kind.Key, settings),
        };

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<OutboxDelivery> builder)
    {
        builder.ToTable("deliveries");
        builder.Ignore(d => d.KeySent);
        builder.Property(d => d.Settings).AsJson();
        builder.Property(d => d.Hours).AsJson();
        builder.Property(d => d.Retry).HasDefaultValue(RetryProfile.Usual).HasSentinel(RetryProfile.Usual);
        builder.HasOne<Lead>().WithMany().HasForeignKey(d => d.LeadId);
        builder.HasOne<Connection>().WithMany().HasForeignKey(d => d.ConnectionId);
        Index(builder);
    }

    private static void Index(EntityTypeBuilder<OutboxDelivery> builder)
    {
        builder.HasIndex(d => d.Key).IsUnique();
        builder
            .HasIndex(d => new { d.ConnectionId, d.DueAt })
            .HasFilter("status = 'due'")
            .HasDatabaseName("ix_deliveries_due");
        builder.HasIndex(d => d.LeasedUntil).HasFilter("status = 'sending'").HasDatabaseName("ix_deliveries_leased");
        builder.HasIndex(d => d.LeadId);
        builder
            .HasIndex(d => d.ConnectionId)
            .HasFilter("status = 'sending'")
            .HasDatabaseName("ix_deliveries_under_way");
        builder
            .HasIndex(d => new
            {
                d.ConnectionId,
                d.LeadId,
                d.MadeAt,
            })
            .HasFilter("status in ('due', 'sending')")
            .HasDatabaseName("ix_deliveries_open");
        builder
            .HasIndex(d => new
            {
                d.ClientId,
                d.MadeAt,
                d.Id,
            })
            .IsDescending(false, true, true)
            .HasDatabaseName("ix_deliveries_newest");
        builder
            .HasIndex(d => new
            {
                d.ConnectionId,
                d.MadeAt,
                d.Id,
            })
            .IsDescending(false, true, true)
            .HasDatabaseName("ix_deliveries_newest_through");
        builder
            .HasIndex(d => new { d.ClientId, d.MadeAt }, "ix_deliveries_failed")
            .HasDatabaseName("ix_deliveries_failed")
            .HasFilter("status = 'failed'");
        // By when they ended, not by where they stand: while statistics say that little waits, the planner would read
        // all that waits, of every connection, for each one's claim, and all the more once a service is down.
        builder
            .HasIndex(d => new { d.ClientId, d.MadeAt }, "ix_deliveries_waiting")
            .HasDatabaseName("ix_deliveries_waiting")
            .HasFilter("ended_at is null");
        builder
            .HasIndex(d => new { d.ConnectionId, d.EndedAt })
            .HasFilter("ended_at is not null")
            .HasDatabaseName("ix_deliveries_ended");
        builder.HasIndex(d => new { d.ConnectionId, d.Reference }).HasFilter("reference is not null");
        builder
            .HasIndex(d => d.BurnId)
            .HasFilter("burn_id is not null and status = 'due'")
            .HasDatabaseName("ix_deliveries_of_burns");
    }
}

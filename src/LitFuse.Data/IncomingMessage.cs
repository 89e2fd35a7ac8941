using LitFuse.Core.Replies;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>How somebody wrote to us.</summary>
public enum MessageWay
{
    /// <summary>A text to one of the client's numbers.</summary>
    Text,

    /// <summary>A letter, by email.</summary>
    Email,
}

/// <summary>
/// A text or a letter that somebody wrote to a client, kept as it came, whoever it is from. One from nobody we know
/// lies in the tray.
/// </summary>
public sealed class IncomingMessage : IOfClient, IEntityTypeConfiguration<IncomingMessage>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid ConnectionId { get; set; }

    public MessageWay Way { get; set; }

    /// <summary>The service's own id: the same message told twice is one.</summary>
    public string Reference { get; set; } = "";

    public string From { get; set; } = "";

    public string To { get; set; } = "";

    /// <summary>Of a letter.</summary>
    public string? Subject { get; set; }

    public string Words { get; set; } = "";

    /// <summary>What is wrong with it: it could not be read, or does not say who wrote it.</summary>
    public string? Fault { get; set; }

    /// <summary>As it came, where something is wrong with it.</summary>
    public byte[]? Raw { get; set; }

    /// <summary>A machine wrote it, as for somebody out of the office: it stops nothing.</summary>
    public bool Automatic { get; set; }

    public Instant At { get; set; }

    public Instant KnownAt { get; set; }

    /// <summary>Whose it is; <c>null</c>: it lies in the tray until somebody says.</summary>
    public Guid? LeadId { get; set; }

    /// <summary>What it means by itself; a burn may read more in it.</summary>
    public ReplyMeaning Meaning { get; set; }

    /// <summary>When somebody said that it is nobody's.</summary>
    public Instant? DismissedAt { get; set; }

    public Guid? DismissedBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<IncomingMessage> builder)
    {
        builder.HasIndex(t => new { t.ConnectionId, t.Reference }).IsUnique();
        builder.HasIndex(t => new { t.LeadId, t.At });
        builder
            .HasIndex(t => new { t.ClientId, t.At })
            .HasFilter("lead_id is null and dismissed_at is null")
            .HasDatabaseName("ix_incoming_messages_tray");
        builder.HasOne<Connection>().WithMany().HasForeignKey(t => t.ConnectionId);
    }
}

using LitFuse.Core.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>The words of a form's consent, as they were from one time on.</summary>
public sealed class ConsentText : IOfClient, IEntityTypeConfiguration<ConsentText>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public int Version { get; set; }

    /// <summary>
    /// What tells these words from others, on a page that carries them: <see cref="Core.Forms.FormConsent.MarkOf"/>.
    /// </summary>
    public string Mark { get; set; } = "";

    public string Words { get; set; } = "";

    public string? PrivacyUrl { get; set; }

    public Instant MadeAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ConsentText> builder) =>
        builder.HasIndex(t => new { t.FormId, t.Mark }).IsUnique();
}

/// <summary>How a consent was given.</summary>
public enum ConsentHow
{
    /// <summary>The words stood beside the button they pressed.</summary>
    Shown,

    /// <summary>They ticked a box, or answered yes.</summary>
    Ticked,

    /// <summary>They pressed the button behind the link in a letter.</summary>
    Confirmed,

    /// <summary>They said no, or took it back.</summary>
    Declined,
}

/// <summary>One consent of a lead: its words, when, from where. Never changed.</summary>
public sealed class ConsentGiven : IOfClient, IEntityTypeConfiguration<ConsentGiven>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public Guid? SubmissionId { get; set; }

    public Guid TextId { get; set; }

    public ConsentHow How { get; set; }

    public Instant At { get; set; }

    /// <summary>The network address they gave it from, where it is known.</summary>
    public string? FromAddress { get; set; }

    /// <summary>The form and the page.</summary>
    public string Source { get; set; } = "";

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ConsentGiven> builder)
    {
        builder.ToTable("consents");
        builder.HasIndex(c => c.LeadId);
        builder.HasOne<ConsentText>().WithMany().HasForeignKey(c => c.TextId);
    }
}

/// <summary>An address that nobody may write to or ring, whatever form it comes with.</summary>
public sealed class DoNotContact : IOfClient, IEntityTypeConfiguration<DoNotContact>
{
    public Guid ClientId { get; set; }

    public ContactKind Kind { get; set; }

    /// <summary>Normalised as a lead's addresses are.</summary>
    public string Value { get; set; } = "";

    public string Reason { get; set; } = "";

    public Instant At { get; set; }

    public Guid? By { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<DoNotContact> builder)
    {
        builder.ToTable("do_not_contact");
        builder.HasKey(d => new
        {
            d.ClientId,
            d.Kind,
            d.Value,
        });
    }
}

/// <summary>A lead asked to confirm the address before anything happens.</summary>
public sealed class OptIn : IOfClient, IEntityTypeConfiguration<OptIn>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public Guid FormId { get; set; }

    public Guid SubmissionId { get; set; }

    /// <summary>SHA-256 of the link's token: who reads the database cannot confirm for others.</summary>
    public byte[] TokenHash { get; set; } = [];

    public string Email { get; set; } = "";

    public Instant AskedAt { get; set; }

    public Instant ExpiresAt { get; set; }

    public Instant? ConfirmedAt { get; set; }

    /// <summary>Set when it ran out unconfirmed and the story said so.</summary>
    public Instant? ExpiredAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<OptIn> builder)
    {
        builder.HasIndex(o => o.TokenHash).IsUnique();
        builder.HasIndex(o => o.LeadId);
        builder
            .HasIndex(o => o.ExpiresAt)
            .HasFilter("confirmed_at is null and expired_at is null")
            .HasDatabaseName("ix_opt_ins_open");
        builder.HasOne<Lead>().WithMany().HasForeignKey(o => o.LeadId);
    }
}

using LitFuse.Core.Identity;
using LitFuse.Core.Stories;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>
/// A person for a client. The times are those of the present asking: a new submission after first touch begins anew,
/// and the story keeps what was before.
/// </summary>
public sealed class Lead : IOfClient, IEntityTypeConfiguration<Lead>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>The form of the present asking.</summary>
    public Guid FormId { get; set; }

    public string? FirstName { get; set; }

    public string? LastName { get; set; }

    /// <summary>
    /// Normalised, and always one that a letter can go to: what they typed that is none stands in <see cref="Fields"/>
    /// alone.
    /// </summary>
    public string? Email { get; set; }

    /// <summary>E.164, or as typed where it could not be read.</summary>
    public string? Phone { get; set; }

    /// <summary>True when <see cref="Phone"/> is a number one can send to.</summary>
    public bool PhoneReadable { get; set; }

    public string Zone { get; set; } = "";

    /// <summary>What told the zone, in words.</summary>
    public string ZoneBecause { get; set; } = "";

    /// <summary>One of the client's stages.</summary>
    public string Stage { get; set; } = "New";

    /// <summary>How often they have asked.</summary>
    public int TimesAsked { get; set; } = 1;

    /// <summary>All values by lead field key.</summary>
    public IReadOnlyDictionary<string, string> Fields { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>
    /// What they answered to fields that nobody mapped, by the form's own names. Kept to be read, and never acted on.
    /// </summary>
    public IReadOnlyDictionary<string, string> Unmapped { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    public Instant AskedAt { get; set; }

    /// <summary>When a person must have reached out.</summary>
    public Instant TargetAt { get; set; }

    public Guid? TakenBy { get; set; }

    public Instant? TakenAt { get; set; }

    public Instant? AutoTouchAt { get; set; }

    public Instant? FirstTouchAt { get; set; }

    public Guid? FirstTouchBy { get; set; }

    /// <summary>When they answered: on the phone, or in writing.</summary>
    public Instant? ReachedAt { get; set; }

    public Instant? OptedOutAt { get; set; }

    /// <summary>When a letter to their present address came back for good.</summary>
    public Instant? EmailBouncedAt { get; set; }

    /// <summary>What the mail server said.</summary>
    public string? EmailBouncedBecause { get; set; }

    /// <summary>When they were put on the do-not-contact list, or came while they were on it.</summary>
    public Instant? DoNotContactAt { get; set; }

    /// <summary>Who answers for them.</summary>
    public Guid? OwnerId { get; set; }

    public IReadOnlyList<string> Tags { get; set; } = [];

    /// <summary>The lead that this one turned out to be; it is then shown nowhere.</summary>
    public Guid? MergedInto { get; set; }

    /// <summary>For a test: the person whose own addresses everything goes to; <c>null</c> for the real line.</summary>
    public Guid? OnlyTo { get; set; }

    /// <summary>Only a test: in no figure.</summary>
    public bool Test { get; set; }

    /// <summary>It came with an import that lights nothing: nobody waits for it, until it asks again.</summary>
    public bool Quiet { get; set; }

    /// <summary>The import that made it.</summary>
    public Guid? ImportId { get; set; }

    /// <summary>Name, email, phone and answers, lower case, for the search.</summary>
    public string SearchText { get; set; } = "";

    /// <summary>The name to show.</summary>
    public string ShownName() => PersonNames.Join(FirstName, LastName) ?? Email ?? Phone ?? "no name given";

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Lead> builder)
    {
        builder.HasIndex(l => new { l.ClientId, l.AskedAt });
        builder
            .HasIndex(l => new { l.ClientId, l.TargetAt })
            .HasFilter("first_touch_at is null and not quiet")
            .HasDatabaseName("ix_leads_in_the_air");
        builder.HasIndex(l => l.ImportId).HasFilter("import_id is not null");
        builder.Property(l => l.Fields).AsJson();
        builder.Property(l => l.Unmapped).AsJson().HasDefaultValueSql("'{}'::jsonb");
        builder.Property(l => l.ZoneBecause).HasDefaultValue("");
        builder.Property(l => l.Stage).HasDefaultValue("New");
        builder.Property(l => l.TimesAsked).HasDefaultValue(1);
        builder.HasIndex(l => new { l.ClientId, l.Stage });
        builder.HasIndex(l => l.SearchText).HasMethod("gin").HasOperators("gin_trgm_ops");
        builder.Property(l => l.Tags).HasColumnType("text[]").HasDefaultValueSql("'{}'::text[]");
        builder.HasIndex(l => l.Tags).HasMethod("gin").HasFilter("tags <> '{}'");
        builder.HasIndex(l => l.OwnerId).HasFilter("owner_id is not null");
        builder.HasIndex(l => l.ClientId).HasFilter("test").HasDatabaseName("ix_leads_tests");
        builder.HasOne<Form>().WithMany().HasForeignKey(l => l.FormId);
    }
}

/// <summary>A search and filter that a person keeps by name.</summary>
public sealed class LeadView : IEntityTypeConfiguration<LeadView>
{
    public Guid Id { get; set; }

    public Guid UserId { get; set; }

    public string Name { get; set; } = "";

    /// <summary>As in the address: <c>q=…&amp;state=…</c>.</summary>
    public string Query { get; set; } = "";

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LeadView> builder) =>
        builder.HasIndex(v => new { v.UserId, v.Name }).IsUnique();
}

/// <summary>
/// One address a lead is recognised by. Unless different people share it, it is one lead's alone, by a unique index.
/// Whatever address a lead has is a contact of it: the database sees to that at the end of every transaction
/// (<see cref="ContactTriggers"/>).
/// </summary>
public sealed class LeadContact : IOfClient, IEntityTypeConfiguration<LeadContact>
{
    public Guid ClientId { get; set; }

    public ContactKind Kind { get; set; }

    public string Value { get; set; } = "";

    public Guid LeadId { get; set; }

    /// <summary>
    /// A test lead's: tests know only one another, so that trying a form with one's own address touches nobody.
    /// </summary>
    public bool Test { get; set; }

    /// <summary>
    /// Different people have it: it identifies none of them by itself, and what is asked of it (to stop, not to be
    /// contacted) is asked for all.
    /// </summary>
    public bool Shared { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LeadContact> builder)
    {
        builder.HasKey(c => new
        {
            c.ClientId,
            c.Kind,
            c.Value,
            c.Test,
            c.LeadId,
        });
        builder
            .HasIndex(c => new
            {
                c.ClientId,
                c.Kind,
                c.Value,
                c.Test,
            })
            .IsUnique()
            .HasFilter("not shared")
            .HasDatabaseName("ix_lead_contacts_one_lead_each");
        builder.HasIndex(c => c.LeadId);
        builder.HasOne<Lead>().WithMany().HasForeignKey(c => c.LeadId);
    }
}

/// <summary>One thing that happened to a lead. Written once, never changed.</summary>
public sealed class StoryEvent : IOfClient, IEntityTypeConfiguration<StoryEvent>
{
    public long Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    public StoryKind Kind { get; set; }

    /// <summary>When it happened.</summary>
    public Instant At { get; set; }

    /// <summary>When we knew.</summary>
    public Instant KnownAt { get; set; }

    /// <summary>What or why, in words.</summary>
    public string Words { get; set; } = "";

    /// <summary>The fuse's name and version as they were.</summary>
    public string? Fuse { get; set; }

    public string? Band { get; set; }

    public string? Step { get; set; }

    public Guid? BurnId { get; set; }

    public Guid? DeliveryId { get; set; }

    public Guid? SubmissionId { get; set; }

    /// <summary>The person who did it.</summary>
    public Guid? UserId { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<StoryEvent> builder)
    {
        builder.ToTable("story");
        // No foreign key: a line is written with its lead in sight, and the check would cost every line of every lead.
        builder.HasIndex(s => new { s.LeadId, s.At });
    }
}

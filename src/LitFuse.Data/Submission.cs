using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a submission stands.</summary>
public enum SubmissionStatus
{
    /// <summary>Acknowledged; the engine has not looked at it yet. The row is its own work item.</summary>
    /// <remarks>
    /// Set by the door when it is on disk, and again when its reading is asked for anew. Ends with the engine's next
    /// look.
    /// </remarks>
    Received,

    /// <summary>It became a lead or was attached to one.</summary>
    /// <remarks>
    /// Set when it became a lead or was attached to one. For good; reading it again changes the lead, not this.
    /// </remarks>
    Processed,

    /// <summary>Its form's map is not confirmed.</summary>
    /// <remarks>
    /// Set while its form is paused, not chosen or without a confirmed map, or a field that a step needs does not come
    /// any more. Ends when the form is resumed or the map confirmed: it is read again.
    /// </remarks>
    Waiting,

    /// <summary>It cannot be read; the reason stands beside it.</summary>
    /// <remarks>
    /// Set when its body cannot be read. Ends with “Read again”, once the form or the reading is mended.
    /// </remarks>
    Unreadable,

    /// <summary>Processing failed again and again; the reason stands beside it.</summary>
    /// <remarks>Set when processing has failed five times. Ends with “Read again”.</remarks>
    Stuck,

    /// <summary>In the holding pen; the reason stands beside it.</summary>
    /// <remarks>Set by the form's rule of the holding pen. Ends when a person approves or refuses it.</remarks>
    Held,

    /// <summary>A person refused it in the holding pen. It is kept, and can be approved after all.</summary>
    /// <remarks>Set by a person in the holding pen. Ends when somebody approves it after all.</remarks>
    Refused,

    /// <summary>The lead is asked to confirm the address first.</summary>
    /// <remarks>
    /// Set when the form asks for confirmation by email. Ends with the button behind the letter's link; else it stays,
    /// with the reason that nobody confirmed in time.
    /// </remarks>
    Unconfirmed,
}

/// <summary>What arrived, raw and never changed. Only where it stands changes.</summary>
public sealed class Submission : IOfClient, IEntityTypeConfiguration<Submission>
{
    /// <summary>Also the receipt.</summary>
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public Instant ReceivedAt { get; set; }

    public string ContentType { get; set; } = "";

    public byte[] Raw { get; set; } = [];

    /// <summary>The sender's own id for it.</summary>
    public string? OwnId { get; set; }

    /// <summary>
    /// Makes a second copy impossible: 8 bytes of the own id (or of the ten minutes it came in), then 16 of the
    /// content.
    /// </summary>
    public byte[] DedupeKey { get; set; } = [];

    public SubmissionStatus Status { get; set; }

    public string? Reason { get; set; }

    public int Attempts { get; set; }

    public Instant DueAt { get; set; }

    public Guid? LeadId { get; set; }

    /// <summary>When the person pressed, by the sender's clock; <c>null</c> where nobody told.</summary>
    public Instant? SentAt { get; set; }

    /// <summary>Only a test.</summary>
    public bool Test { get; set; }

    /// <summary>Lights no fuse.</summary>
    public bool Quiet { get; set; }

    /// <summary>How it came: an <see cref="Envelope"/> as JSON.</summary>
    public string? Envelope { get; set; }

    /// <summary>The import it came with.</summary>
    public Guid? ImportId { get; set; }

    /// <summary>The version of its form's map that it was read through last.</summary>
    public int? MapVersion { get; set; }

    /// <summary>0 to 100, as it was read; <see cref="Core.Junk.JunkScore"/>.</summary>
    public int Junk { get; set; }

    /// <summary>Why, each reason in words.</summary>
    public IReadOnlyList<string>? JunkBecause { get; set; }

    public Instant? HeldAt { get; set; }

    /// <summary>When a person approved or refused it.</summary>
    public Instant? DecidedAt { get; set; }

    public Guid? DecidedBy { get; set; }

    /// <summary>When they confirmed their address.</summary>
    public Instant? ConfirmedAt { get; set; }

    /// <summary>When the person asked, as far as it is known: not later than we had it.</summary>
    public Instant AskedAt => SentAt is { } sent && sent < ReceivedAt ? sent : ReceivedAt;

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Submission> builder)
    {
        builder.HasIndex(s => new { s.FormId, s.DedupeKey }).IsUnique();
        builder.HasIndex(s => s.DueAt).HasFilter("status = 'received'").HasDatabaseName("ix_submissions_due");
        // Only what has been processed stands in these: intake pays for the primary key, the double and the work item
        // alone. No foreign key to the form either: intake knows the form, forms are not deleted, and the check costs
        // each insert.
        builder.HasIndex(s => new { s.FormId, s.OwnId }).HasFilter("lead_id is not null");
        builder.HasIndex(s => new { s.FormId, s.ReceivedAt }).HasFilter("status <> 'received'");
        builder
            .HasIndex(s => new { s.FormId, s.ReceivedAt }, "ix_submissions_waiting")
            .HasFilter("status = 'waiting'")
            .HasDatabaseName("ix_submissions_waiting");
        builder.HasIndex(s => s.LeadId).HasFilter("lead_id is not null");
        builder.HasIndex(s => s.ImportId).HasFilter("import_id is not null");
        builder
            .HasIndex(s => new { s.ClientId, s.HeldAt })
            .HasFilter("status in ('held', 'refused')")
            .HasDatabaseName("ix_submissions_pen");
        builder.Property(s => s.JunkBecause).AsJson();
        builder.Ignore(s => s.AskedAt);
    }
}

/// <summary>How a submission came.</summary>
/// <param name="Via"><c>door</c>, <c>fetched</c>, <c>polled</c>, <c>passed-through</c>, <c>import</c>, <c>hand</c>,
/// <c>api</c> or <c>test</c>.</param>
/// <param name="From">The sender's address.</param>
/// <param name="Agent">What the sender calls itself.</param>
/// <param name="Page">The page it was sent from.</param>
/// <param name="ToldAt">When its network said that it was there.</param>
/// <param name="Junk">0 to 100.</param>
/// <param name="JunkBecause">Why.</param>
/// <param name="AmendsReceipt">The submission that it amends.</param>
/// <param name="Person">Who typed it in, or the key that sent it.</param>
/// <param name="OnlyTo">For a test: the person whose own addresses all of it goes to.</param>
public sealed record Envelope(
    string Via,
    string? From = null,
    string? Agent = null,
    string? Page = null,
    Instant? ToldAt = null,
    int Junk = 0,
    IReadOnlyList<string>? JunkBecause = null,
    Guid? AmendsReceipt = null,
    string? Person = null,
    Guid? OnlyTo = null
)
{
    /// <summary>Reads one that was stored.</summary>
    public static Envelope? Read(string? text) =>
        text is null ? null : System.Text.Json.JsonSerializer.Deserialize<Envelope>(text, Core.CoreJson.Options);

    /// <summary>For storing. Written by hand: it is made for every submission before it is answered.</summary>
    public string Write()
    {
        var buffer = new System.Buffers.ArrayBufferWriter<byte>(256);
        using (var json = new System.Text.Json.Utf8JsonWriter(buffer, new() { SkipValidation = true }))
        {
            json.WriteStartObject();
            json.WriteString("via"u8, Via);
            if (From is not null)
                json.WriteString("from"u8, From);
            if (Agent is not null)
                json.WriteString("agent"u8, Agent);
            if (Page is not null)
                json.WriteString("page"u8, Page);
            if (ToldAt is { } told)
                json.WriteString("toldAt"u8, NodaTime.Text.InstantPattern.ExtendedIso.Format(told));
            json.WriteNumber("junk"u8, Junk);
            if (JunkBecause is not null)
            {
                json.WriteStartArray("junkBecause"u8);
                foreach (var why in JunkBecause)
                    json.WriteStringValue(why);
                json.WriteEndArray();
            }

            if (AmendsReceipt is { } amends)
                json.WriteString("amendsReceipt"u8, amends);
            if (Person is not null)
                json.WriteString("person"u8, Person);
            if (OnlyTo is { } only)
                json.WriteString("onlyTo"u8, only);
            json.WriteEndObject();
        }

        return System.Text.Encoding.UTF8.GetString(buffer.WrittenSpan);
    }
}

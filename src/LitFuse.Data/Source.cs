using LitFuse.Core.Continuity;
using LitFuse.Core.Forms;
using LitFuse.Core.Junk;
using LitFuse.Core.Payloads;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A page, an ad account: what a source is narrowed to.</summary>
public sealed record ChosenPlace(string Id, string Name);

/// <summary>A connected place that sends submissions.</summary>
public sealed class Source : IOfClient, IEntityTypeConfiguration<Source>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>The kind of place: <c>pagewright</c>, <c>plaza</c>…</summary>
    public string Kind { get; set; } = "";

    public string Name { get; set; } = "";

    /// <summary>The access it uses, where its kind needs one.</summary>
    public Guid? ConnectionId { get; set; }

    /// <summary>
    /// In the address that its kind sends to (<c>/in/{key}</c>, <c>/told/{key}</c>), where the address is the source's
    /// and not a form's.
    /// </summary>
    public string? Key { get; set; }

    /// <summary>The key or signing secret that its sender proves itself with, encrypted.</summary>
    public string? Secret { get; set; }

    /// <summary>Pages or ad accounts chosen; none means all of them.</summary>
    public IReadOnlyList<ChosenPlace> Places { get; set; } = [];

    /// <summary>How far it has been read, for kinds that are asked.</summary>
    public string? Cursor { get; set; }

    /// <summary>What is wrong, in words; <c>null</c> when nothing is.</summary>
    public string? Fault { get; set; }

    /// <summary>When forms and fields were last looked for.</summary>
    public Instant? LookedAt { get; set; }

    public Instant? LookDueAt { get; set; }

    public Instant? PollDueAt { get; set; }

    /// <summary>Where its daily file is; <c>{date}</c> stands for the day before, as 2026-11-25.</summary>
    public string? DailyFile { get; set; }

    public Instant? DailyFileDueAt { get; set; }

    /// <summary>When its own list was last compared with what is here.</summary>
    public Instant? ComparedAt { get; set; }

    public Instant? CompareDueAt { get; set; }

    /// <summary>Why it could not be, in words.</summary>
    public string? CompareFault { get; set; }

    public Instant? MadeAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Source> builder)
    {
        builder.HasIndex(s => s.ClientId);
        builder.HasIndex(s => s.Key).IsUnique();
        builder.HasIndex(s => s.ConnectionId);
        builder.Property(s => s.Places).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.HasOne<Connection>().WithMany().HasForeignKey(s => s.ConnectionId);
    }
}

/// <summary>Whether what a form sends is acted upon.</summary>
public enum FormState
{
    /// <summary>Submissions flow.</summary>
    /// <remarks>Set when a form is made, chosen at its network, or resumed. Ends when somebody pauses it.</remarks>
    Receiving,

    /// <summary>Submissions are kept and wait.</summary>
    /// <remarks>Set by a person. Ends when somebody resumes it: what waited is read.</remarks>
    Paused,

    /// <summary>Found at the network and not chosen.</summary>
    /// <remarks>Set when a network shows a form that is new. Ends when a person chooses it.</remarks>
    Offered,
}

/// <summary>How the senders of a form prove themselves.</summary>
/// <param name="Kind"><c>signature</c> (Standard Webhooks), <c>key</c> (bearer or <c>Lit-Fuse-Key</c>) or <c>basic</c>
/// (RFC 7617).</param>
/// <param name="User">For <c>basic</c>.</param>
/// <param name="Secret">Encrypted.</param>
public sealed record FormProof(string Kind, string? User, string Secret);

/// <summary>Something found about a form at its network.</summary>
public sealed record FormNews(Instant At, string Words);

/// <summary>The letter of a double opt-in.</summary>
/// <param name="Words">With <c>{link}</c> where the confirming link goes.</param>
/// <param name="Hours">How long the link is good.</param>
public sealed record OptInLetter(string Subject, string Words, int Hours);

/// <summary>One form of a source.</summary>
public sealed class Form : IOfClient, IEntityTypeConfiguration<Form>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid SourceId { get; set; }

    /// <summary>In the address submissions are sent to: <c>/in/{key}</c>.</summary>
    public string Key { get; set; } = "";

    public string Name { get; set; } = "";

    public IReadOnlyList<FormField> Fields { get; set; } = [];

    /// <summary>Where a visitor goes after sending it.</summary>
    public string? ThankYouUrl { get; set; }

    /// <summary>The page it stands on.</summary>
    public string? PageUrl { get; set; }

    public FormState State { get; set; }

    /// <summary>The network's own id.</summary>
    public string? ExternalId { get; set; }

    /// <summary>The page or ad account it belongs to.</summary>
    public ChosenPlace? Place { get; set; }

    /// <summary>What the network says of the ad that carries it.</summary>
    public string? AdState { get; set; }

    /// <summary>When it was found archived at the network.</summary>
    public Instant? ArchivedAt { get; set; }

    /// <summary>What was found about it lately, newest first.</summary>
    public IReadOnlyList<FormNews> News { get; set; } = [];

    /// <summary>As it is being built; only for forms of our own.</summary>
    public FormDesign? Draft { get; set; }

    /// <summary>As it was published.</summary>
    public FormDesign? Design { get; set; }

    public Instant? PublishedAt { get; set; }

    /// <summary>Fields picked from JSON of any shape.</summary>
    public IReadOnlyList<Pick> Picks { get; set; } = [];

    /// <summary>What senders must show; <c>null</c> asks for nothing.</summary>
    public FormProof? Proof { get; set; }

    public Instant? MadeAt { get; set; }

    /// <summary>What is held for approval; <c>null</c> holds what is called junk.</summary>
    public HoldRule? Hold { get; set; }

    /// <summary>
    /// The letter that asks them to confirm their address before anything happens; <c>null</c> asks for nothing.
    /// </summary>
    public OptInLetter? OptIn { get; set; }

    /// <summary>Lead fields that have stopped coming, and which submissions without them wait for the mend.</summary>
    public IReadOnlyList<FieldWait> WaitsFor { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Form> builder)
    {
        builder.HasIndex(f => f.Key).IsUnique();
        builder.HasIndex(f => f.ClientId);
        builder.HasIndex(f => new { f.SourceId, f.ExternalId }).IsUnique().HasFilter("external_id is not null");
        builder.Property(f => f.Fields).AsJson();
        builder.Property(f => f.State).HasDefaultValue(FormState.Receiving);
        builder.Property(f => f.Place).AsJson();
        builder.Property(f => f.News).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.Property(f => f.Draft).AsJson();
        builder.Property(f => f.Design).AsJson();
        builder.Property(f => f.Picks).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.Property(f => f.Proof).AsJson();
        builder.Property(f => f.Hold).AsJson();
        builder.Property(f => f.OptIn).AsJson();
        builder.Property(f => f.WaitsFor).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.HasOne<Source>().WithMany().HasForeignKey(f => f.SourceId);
    }

    /// <summary>A field's question, or its name where the form does not know it.</summary>
    public string LabelOf(string field) => Fields.FirstOrDefault(f => f.Name == field)?.Label ?? field;
}

/// <summary>What was counted of a form on one day (UTC).</summary>
public sealed class FormDay : IOfClient, IEntityTypeConfiguration<FormDay>
{
    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public DateOnly Day { get; set; }

    /// <summary>Times it was shown.</summary>
    public int Views { get; set; }

    /// <summary>Times somebody began to fill it in.</summary>
    public int Starts { get; set; }

    /// <summary>Times it was sent, of those that were shown.</summary>
    public int Sends { get; set; }

    /// <summary>Visits that should have carried answers and carried none.</summary>
    public int EmptyVisits { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FormDay> builder)
    {
        builder.HasKey(d => new { d.FormId, d.Day });
        builder.HasOne<Form>().WithMany().HasForeignKey(d => d.FormId);
    }
}

/// <summary>
/// Something that was sent to a source and refused. The same refusal again within the hour counts up.
/// </summary>
public sealed class Refusal : IOfClient, IEntityTypeConfiguration<Refusal>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid SourceId { get; set; }

    public Guid? FormId { get; set; }

    /// <summary>The problem's code.</summary>
    public string Code { get; set; } = "";

    /// <summary>What was wrong, in words.</summary>
    public string Detail { get; set; } = "";

    /// <summary>What to do about it.</summary>
    public string Mend { get; set; } = "";

    public string FromAddress { get; set; } = "";

    public Instant FirstAt { get; set; }

    public Instant LastAt { get; set; }

    public int Times { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Refusal> builder) => builder.HasIndex(r => new { r.SourceId, r.LastAt });
}

/// <summary>Where a notice stands.</summary>
public enum NoticeStatus
{
    /// <summary>Its answers are to be fetched.</summary>
    /// <remarks>
    /// Set when a network tells of a submission, and again when its form is chosen. Ends when its answers were fetched,
    /// or could not be.
    /// </remarks>
    Due,

    /// <summary>They were, and are a submission.</summary>
    /// <remarks>Set when its answers are kept as a submission. For good.</remarks>
    Done,

    /// <summary>It is of a form that is not chosen.</summary>
    /// <remarks>Set when the form it is of is not chosen. Ends when it is chosen.</remarks>
    NotChosen,

    /// <summary>Given up; the reason stands beside it.</summary>
    /// <remarks>
    /// Set when the network refuses it for good, or has been asked often enough. For good; the comparison with the
    /// network's own list finds what is missing.
    /// </remarks>
    Failed,
}

/// <summary>
/// A network said that there is a submission; its answers are fetched. On disk before the network is answered.
/// </summary>
public sealed class SourceNotice : IOfClient, IEntityTypeConfiguration<SourceNotice>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid SourceId { get; set; }

    /// <summary>The network's id of the form.</summary>
    public string ExternalForm { get; set; } = "";

    /// <summary>The network's id of the submission.</summary>
    public string ExternalId { get; set; } = "";

    public NoticeStatus Status { get; set; }

    public string? Reason { get; set; }

    public Instant ToldAt { get; set; }

    public Instant DueAt { get; set; }

    public int Attempts { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<SourceNotice> builder)
    {
        builder.HasIndex(n => n.DueAt).HasFilter("status = 'due'").HasDatabaseName("ix_source_notices_due");
        builder.HasIndex(n => new { n.SourceId, n.ToldAt });
    }
}

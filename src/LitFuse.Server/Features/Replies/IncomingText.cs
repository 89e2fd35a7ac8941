using LitFuse.Core.Fuses;
using LitFuse.Core.Identity;
using LitFuse.Core.Replies;
using LitFuse.Core.Stories;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Connections;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Server.Features.Replies;

/// <summary>A text that somebody wrote to one of a client's numbers, kept as it came, whoever it is from.</summary>
public sealed class IncomingText : IOfClient, IEntityTypeConfiguration<IncomingText>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid ConnectionId { get; set; }

    /// <summary>The carrier's own id: the same text told twice is one.</summary>
    public string Reference { get; set; } = "";

    public string From { get; set; } = "";

    public string To { get; set; } = "";

    public string Words { get; set; } = "";

    public Instant At { get; set; }

    public Instant KnownAt { get; set; }

    /// <summary>Whose it is; <c>null</c> where nobody has that number.</summary>
    public Guid? LeadId { get; set; }

    /// <summary>What it means by itself; a burn may read more in it.</summary>
    public ReplyMeaning Meaning { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<IncomingText> builder)
    {
        builder.HasIndex(t => new { t.ConnectionId, t.Reference }).IsUnique();
        builder.HasIndex(t => new { t.LeadId, t.At });
        builder.HasOne<Connection>().WithMany().HasForeignKey(t => t.ConnectionId);
    }
}

/// <summary>Takes texts that people write to us: into the story, to the burns that wait for them, and out of all texting where they say stop.</summary>
public sealed class IncomingTexts(AppDb db, LeadEvents events, TimeProvider time)
{
    private const int Longest = 2000;

    private static readonly HashSet<string> StartWords = new(StringComparer.OrdinalIgnoreCase) { "start", "unstop", "yes start", "restart" };

    /// <summary>Takes one.</summary>
    /// <returns>True, also for one that was there before.</returns>
    public async Task<bool> TakeAsync(Connection connection, ServiceNotice.IncomingText text, CancellationToken stop)
    {
        var now = time.Now();
        var at = text.At == Instant.MinValue || text.At > now ? now : text.At;
        var words = (text.Words.Length > Longest ? text.Words[..Longest] : text.Words).Replace("\0", "", StringComparison.Ordinal);
        var country = await db.Clients.Where(c => c.Id == connection.ClientId).Select(c => c.Country).SingleAsync(stop);
        var from = PhoneReader.Read(text.From, country).Phone?.E164 ?? text.From;
        var leadId = await LeadOfAsync(connection.ClientId, from, stop);

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        // The lead before all else, as everywhere; then the text, which is there once.
        var lead = leadId is null ? null : await db.Leads.FromSql($"select * from leads where id = {leadId} for update").SingleOrDefaultAsync(stop);
        var reading = ReplyReader.Read(words, []);
        var word = Platform.Words.Of(reading.Meaning);
        var fresh = await db.Database.ExecuteSqlAsync(
            $"""
            insert into incoming_texts (id, client_id, connection_id, reference, "from", "to", words, at, known_at, lead_id, meaning)
            values ({Guid.CreateVersion7()}, {connection.ClientId}, {connection.Id}, {text.Reference}, {from}, {text.To}, {words}, {at}, {now}, {lead?.Id}, {word})
            on conflict (connection_id, reference) do nothing
            """,
            stop) == 1;
        if (fresh && lead is not null) await ReplyAsync(lead, words, reading, at, $"{connection.Id:N}.{text.Reference}", now, stop);
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private async Task ReplyAsync(Lead lead, string words, ReplyReading reading, Instant at, string key, Instant now, CancellationToken stop)
    {
        Tell(lead, StoryKind.Replied, words, at, now);
        db.Tell(lead.ClientId, "lead", lead.Id);
        if (reading.Meaning != ReplyMeaning.Stop) lead.ReachedAt ??= at;
        var meaning = reading.Meaning.ToString().ToLowerInvariant();
        var happened = new List<Happening> { Happening.Of(EventKeys.Replied, at, $"they replied: {reading.Because}", ("text", words), ("meaning", meaning)) with { Key = key } };
        if (reading.Meaning == ReplyMeaning.Stop && lead.OptedOutAt is null)
        {
            lead.OptedOutAt = now;
            Tell(lead, StoryKind.OptedOut, reading.Because, at, now);
            happened.Add(Happening.Of(EventKeys.OptedOut, at, "they wrote that they want no more messages") with { Key = key + ".out" });
        }
        else if (lead.OptedOutAt is not null && StartWords.Contains(words.Trim()))
        {
            lead.OptedOutAt = null;
            Tell(lead, StoryKind.OptedIn, "they wrote start", at, now);
        }

        await events.HappenAsync(lead, happened, null, now, stop);
    }

    // Of two leads with one number, a test and a real one, the text answers whoever was written to last.
    private async Task<Guid?> LeadOfAsync(Guid clientId, string from, CancellationToken stop)
    {
        var known = await db.LeadContacts.Where(c => c.ClientId == clientId && c.Kind == ContactKind.Phone && c.Value == from).Select(c => c.LeadId).ToListAsync(stop);
        if (known.Count < 2) return known.Count == 0 ? null : known[0];
        var last = await db.Deliveries.Where(d => known.Contains(d.LeadId) && d.Kind == StepKinds.Text && d.SentAt != null).OrderByDescending(d => d.SentAt).Select(d => (Guid?)d.LeadId).FirstOrDefaultAsync(stop);
        return last ?? known[0];
    }

    private void Tell(Lead lead, StoryKind kind, string words, Instant at, Instant now) => db.Story.Add(new() { ClientId = lead.ClientId, LeadId = lead.Id, Kind = kind, At = at, KnownAt = now, Words = words });
}

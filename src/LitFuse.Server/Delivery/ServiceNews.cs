using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Connections;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>Something that a service told us about a lead's record there.</summary>
public sealed class ServiceNews : IOfClient, IEntityTypeConfiguration<ServiceNews>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid ConnectionId { get; set; }

    /// <summary>The service's own id: the same news told twice is one.</summary>
    public string Reference { get; set; } = "";

    public string Event { get; set; } = "";

    public string Words { get; set; } = "";

    /// <summary>By the kind's details, so that past leads can be put through bands that pick by them.</summary>
    public IReadOnlyDictionary<string, string> Details { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    public Guid LeadId { get; set; }

    public Instant At { get; set; }

    public Instant KnownAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ServiceNews> builder)
    {
        builder.ToTable("service_news");
        builder.HasIndex(n => new { n.ConnectionId, n.Reference }).IsUnique();
        builder.HasOne<Connection>().WithMany().HasForeignKey(n => n.ConnectionId);
        builder.HasIndex(n => n.LeadId);
        builder.Property(n => n.Details).AsJson().HasDefaultValueSql("'{}'::jsonb");
    }
}

/// <summary>Takes what services tell of leads' records: into the story, onto the lead, and to the fuses that wait for it.</summary>
public sealed class ServiceNewsRun(AppDb db, LeadEvents events, FirstTouch touch, TimeProvider time)
{
    private const int Longest = 1000;

    /// <summary>Takes one.</summary>
    /// <returns>False when nothing that went out has that reference yet: then it is to be told again.</returns>
    public async Task<bool> TakeAsync(Connection connection, ServiceNotice.Happened told, CancellationToken stop)
    {
        var now = time.Now();
        var at = told.At == Instant.MinValue || told.At > now ? now : told.At;
        var words = Clip.To(told.Because, Longest);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (
            await HeldLead.OfAsync(
                db,
                () =>
                    db
                        .Deliveries.Where(d => d.ConnectionId == connection.Id && d.Reference == told.Reference)
                        .OrderByDescending(d => d.MadeAt)
                        .Select(d => d.LeadId)
                        .Take(1)
                        .ToListAsync(stop),
                stop
            )
            is not [var held]
        )
            return false;
        var lead = held.Lead;
        var fresh =
            await db.Database.ExecuteSqlAsync(
                $"""
                insert into service_news (id, client_id, connection_id, reference, event, words, details, lead_id, at, known_at)
                values ({Guid.CreateVersion7()}, {connection.ClientId}, {connection.Id}, {told.Id}, {told.Event}, {words}, {JsonSerializer.Serialize(
                    told.Details,
                    CoreJson.Options
                )}::jsonb, {lead.Id}, {at}, {now}) on conflict (connection_id, reference) do nothing
                """,
                stop
            ) == 1;
        if (!fresh)
            return true;
        lead.Fields = told.Fields.Aggregate(
            new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal),
            (all, f) =>
            {
                if (f.Value.Length == 0)
                    all.Remove(f.Key);
                else
                    all[f.Key] = Clip.To(f.Value, Longest);
                return all;
            }
        );
        LeadFiller.Index(lead);
        if (told.Event == EventKeys.CallOutcome && told.Details.GetValueOrDefault("outcome") is "reached" or "booked")
            lead.ReachedAt ??= at;
        db.Story.Add(
            new()
            {
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                Kind = told.Event == EventKeys.CallOutcome ? StoryKind.OutcomeNoted : StoryKind.RecordMoved,
                At = at,
                KnownAt = now,
                Words = $"{connection.Name}: {words}",
            }
        );
        db.Tell(lead.ClientId, ChangeKind.Lead, lead.Id);
        if (told.By is { } name && await PersonAsync(connection.ClientId, name, stop) is { } person)
            await touch.MarkAsync(held, person, at, "called them, through " + connection.Name, stop);
        await events.HappenAsync(
            held,
            [new Happening(told.Event, at, words, told.Details, $"{connection.Id:N}.{told.Id}")],
            null,
            now,
            stop
        );
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private Task<Guid?> PersonAsync(Guid clientId, string name, CancellationToken stop) =>
        db
            .Memberships.Where(m => m.ClientId == null || m.ClientId == clientId)
            .Join(db.Users, m => m.UserId, u => u.Id, (_, u) => u)
            .Where(u => u.Name == name)
            .Select(u => (Guid?)u.Id)
            .FirstOrDefaultAsync(stop);
}

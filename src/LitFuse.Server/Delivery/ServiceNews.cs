using System.Text.Json;
using LitFuse.Connectors;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Takes what services tell of leads' records: into the story, onto the lead, and to the fuses that wait for it.
/// </summary>
public sealed class ServiceNewsReceiver(AppDb db, LeadEventRouter events, FirstTouch touch, TimeProvider time)
{
    private const int Longest = 1000;

    /// <summary>Takes one.</summary>
    /// <returns>False when nothing that went out has that reference yet: then it is to be told again.</returns>
    public async Task<bool> ReceiveAsync(Connection connection, ServiceNotice.Happened told, CancellationToken stop)
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
        Put(lead, told.Fields);
        if (told.Event == EventKeys.CallOutcome && told.Details.GetValueOrDefault("outcome") is "reached" or "booked")
            lead.ReachedAt ??= at;
        db.AddStory(
            lead,
            told.Event == EventKeys.CallOutcome ? StoryKind.OutcomeNoted : StoryKind.RecordMoved,
            $"{connection.Name}: {words}",
            now,
            at: at
        );
        if (told.By is { } name && await PersonAsync(connection.ClientId, name, stop) is { } person)
            await touch.MarkAsync(held, person, at, "called them, through " + connection.Name, stop);
        await events.HappenAsync(
            held,
            [new LeadEvent(told.Event, at, words, told.Details, $"{connection.Id:N}.{told.Id}")],
            null,
            now,
            stop
        );
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static void Put(Lead lead, IReadOnlyDictionary<string, string> told)
    {
        var fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
        foreach (var (key, value) in told)
        {
            if (value.Length == 0)
                fields.Remove(key);
            else
                fields[key] = Clip.To(value, Longest);
        }

        lead.Fields = fields;
        LeadFiller.Index(lead);
    }

    private Task<Guid?> PersonAsync(Guid clientId, string name, CancellationToken stop) =>
        db
            .Memberships.Where(m => m.ClientId == null || m.ClientId == clientId)
            .Join(db.Users, m => m.UserId, u => u.Id, (_, u) => u)
            .Where(u => u.Name == name)
            .Select(u => (Guid?)u.Id)
            .FirstOrDefaultAsync(stop);
}

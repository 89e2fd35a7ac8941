using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Connections;

/// <summary>How deliveries through a connection went in the last 24 hours.</summary>
/// <param name="LastGood">When the service last took one.</param>
/// <param name="Failed">Given up or refused for good.</param>
/// <param name="Waiting">Still to be sent, or tried again.</param>
/// <param name="MedianMs">From the decision to when the service had it.</param>
public sealed record ConnectionHealth(Instant? LastGood, int Taken, int Failed, int Waiting, double? MedianMs);

/// <summary>Reads connections as rows: who uses them, and how they do.</summary>
public sealed class ConnectionRows(
    AppDb db,
    SourceKinds kinds,
    ConnectorKinds connectors,
    ClientConfigCache setups,
    StepCatalog catalog,
    TimeProvider time
)
{
    private sealed record HealthOf(
        Guid ConnectionId,
        Instant? LastGood,
        int Taken,
        int Failed,
        int Waiting,
        double? MedianMs
    );

    /// <summary>Reads them, by name.</summary>
    public async Task<IReadOnlyList<ConnectionRow>> ReadAsync(
        IQueryable<Connection> connections,
        CancellationToken stop
    )
    {
        var rows = await connections.AsNoTracking().OrderBy(c => c.Name).ToListAsync(stop);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var used = (
            await db
                .Sources.AsNoTracking()
                .Where(s => s.ConnectionId != null)
                .Select(s => new { s.ConnectionId, s.Name })
                .ToListAsync(stop)
        ).ToLookup(s => s.ConnectionId!.Value, s => s.Name);
        var people = await db.PeopleAsync(rows.SelectMany(r => new[] { r.MadeBy, r.PausedBy }), stop);
        var health = await HealthAsync([.. rows.Select(r => r.Id)], stop);
        var told = new List<ConnectionRow>(rows.Count);
        foreach (var c in rows)
        {
            var (source, connector) = (kinds.Find(c.Kind), connectors.Find(c.Kind));
            var how = health.GetValueOrDefault(c.Id);
            told.Add(
                new(
                    c.Id,
                    clients[c.ClientId],
                    c.Kind,
                    source?.Card.Name ?? connector?.Card.Name ?? c.Kind,
                    c.Name,
                    c.Account,
                    c.State,
                    c.Fault,
                    c.Granted,
                    c.ExpiresAt,
                    c.VerifiedAt,
                    Later(c.GoodAt, how?.LastGood),
                    c.MadeAt,
                    PeopleNames.Of(people, c.MadeBy),
                    [.. used[c.Id], .. await FusesAsync(c, stop)],
                    source?.Card.Access == AccessBy.Consent,
                    source is INetwork || connector is not null,
                    connector?.Card.Asks ?? [],
                    how is null ? null : new(how.LastGood, how.Taken, how.Failed, how.Waiting, how.MedianMs),
                    c.PausedAt,
                    PeopleNames.Of(people, c.PausedBy),
                    c.AtOnce,
                    c.PerMinute,
                    c.OlderUntil > time.Now() ? c.OlderUntil : null,
                    connector?.Card.MakesSecret == true
                )
            );
        }

        return told;
    }

    /// <summary>Names of the armed fuses whose steps go through it.</summary>
    public async Task<IReadOnlyList<string>> FusesAsync(Connection connection, CancellationToken stop)
    {
        var setup = await setups.ReadAsync(db, connection.ClientId, stop);
        var first = setup.Connections.FirstOrDefault(c => c.Kind == connection.Kind)?.Id == connection.Id;
        bool Through(Step step) =>
            catalog.Find(step.Kind)?.Service == connection.Kind
            && (
                step.Settings.GetValueOrDefault(StepKinds.Connection) is { Length: > 0 } named
                    ? named == connection.Id.ToString()
                    : first
            );
        return
        [
            .. setup
                .Armed.Where(v => v.Definition.Bands.SelectMany(b => b.Steps).Any(Through))
                .Select(v => v.Definition.Name)
                .Order(StringComparer.Ordinal),
        ];
    }

    private static Instant? Later(Instant? a, Instant? b) =>
        a is null ? b
        : b is null ? a
        : Instant.Max(a.Value, b.Value);

    private async Task<Dictionary<Guid, HealthOf>> HealthAsync(Guid[] ids, CancellationToken stop)
    {
        var since = time.Now() - Duration.FromHours(24);
        var found = await db
            .Database.SqlQuery<HealthOf>(
                $"""
                select c.id as connection_id,
                       (select max(d.sent_at) from deliveries d where d.connection_id = c.id and d.ended_at >= {since}) as last_good,
                       (select count(*) from deliveries d where d.connection_id = c.id and d.ended_at >= {since} and d.status = 'done')::int as taken,
                       (select count(*) from deliveries d where d.connection_id = c.id and d.ended_at >= {since} and d.status = 'failed')::int as failed,
                       (select count(*) from deliveries d where d.connection_id = c.id and d.status = 'due')::int as waiting,
                       (select percentile_cont(0.5) within group (order by extract(epoch from d.sent_at - d.made_at) * 1000) from deliveries d where d.connection_id = c.id and d.ended_at >= {since} and d.sent_at is not null) as median_ms
                from connections c where c.id = any({ids}) and exists (select 1 from deliveries d where d.connection_id = c.id)
                """
            )
            .ToListAsync(stop);
        return found.ToDictionary(h => h.ConnectionId);
    }
}

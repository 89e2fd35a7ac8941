using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Deliveries;

/// <summary>A delivery as a row.</summary>
/// <param name="What">The kind of step, as people call it.</param>
/// <param name="Connection">The connection's name.</param>
/// <param name="SentAt">When the service took it.</param>
public sealed record DeliveryRow(
    Guid Id,
    string Client,
    Guid LeadId,
    string Lead,
    bool Test,
    Guid ConnectionId,
    string Connection,
    string Kind,
    string What,
    Lane Lane,
    string? Step,
    string? Fuse,
    DeliveryStatus Status,
    string? Reason,
    int Attempts,
    Instant MadeAt,
    Instant DueAt,
    Instant? SentAt,
    Instant? EndedAt
);

/// <summary>A connection with what waits for it and what failed.</summary>
/// <param name="Stuck">Tried, and to be tried again.</param>
/// <param name="Failed">In the last seven days.</param>
/// <param name="Oldest">Since when the oldest waits.</param>
/// <param name="LastWord">Why the one that was tried last has not gone.</param>
public sealed record ConnectionQueue(
    Guid Id,
    string Client,
    string Name,
    Instant? PausedAt,
    string? PausedBy,
    int Waiting,
    int Stuck,
    int Failed,
    Instant? Oldest,
    string? LastWord
);

/// <summary>
/// A page of deliveries, newest first; with nothing else chosen, those that are stuck before all others.
/// </summary>
/// <param name="Next">What the next page is asked for with; <c>null</c> at the end.</param>
/// <param name="Queues">Connections with something that waits or failed; with the first page only.</param>
public sealed record DeliveryList(
    IReadOnlyList<DeliveryRow> Items,
    string? Next,
    IReadOnlyList<ConnectionQueue> Queues
);

/// <summary>One attempt.</summary>
public sealed record DeliveryAttemptTold(
    int Number,
    Instant BeganAt,
    int TookMs,
    DeliveryStatus Status,
    string Reason,
    IReadOnlyList<Exchange> Exchanges
);

/// <summary>A delivery with all that is kept of it.</summary>
/// <param name="Settings">What it was to send, filled in.</param>
/// <param name="Key">The idempotency key that the service sees.</param>
/// <param name="Reference">The service's own id for what it took.</param>
public sealed record DeliveryDetail(
    DeliveryRow Row,
    string Key,
    string? Reference,
    IReadOnlyDictionary<string, string> Settings,
    IReadOnlyList<DeliveryAttemptTold> Attempts
);

/// <summary>What was sent out, what waits, what failed, and why.</summary>
public static class DeliveriesEndpoints
{
    private const int OnPage = 50;
    private const int MostStuckFirst = 20;
    private const int FailedDays = 7;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var deliveries = app.MapGroup("/api/deliveries").WithTags("Deliveries");
        deliveries
            .MapGet("/", ListAsync)
            .Needs(Act.SeeSources)
            .WithSummary("Deliveries, stuck ones first, then newest first");
        deliveries
            .MapGet("/{deliveryId}", OneAsync)
            .Needs(Act.SeeLeads)
            .WithSummary("A delivery with every attempt: what was sent and what came back, secrets masked");
        DeliveryReplay.Map(deliveries);
        PushEndpoints.Map(deliveries);
    }

    private static async Task<Results<Ok<DeliveryList>, ProblemHttpResult>> ListAsync(
        [AsParameters] DeliveryFilter filter,
        AppDb db,
        ClientScope scope,
        DeliveryRows rows,
        TimeProvider time,
        CancellationToken stop,
        string? after = null
    )
    {
        var (clients, deliveries, fault) = await filter.ApplyAsync(db, scope, stop);
        if (fault is not null)
            return fault;
        (Instant At, Guid Id)? from = null;
        if (after is not null && (from = Read(after)) is null)
            return Problems.Bad("after", "That is not how a page ended. Begin with the first.");

        // Each client's own newest, from its own index; then the newest of those.
        var mine = deliveries!;
        if (from is { } last)
            mine = mine.Where(d => d.MadeAt < last.At || (d.MadeAt == last.At && d.Id < last.Id));
        var found = new List<OutboxDelivery>();
        if (filter.Lead is not null || filter.Connection is not null || filter.Search is not null)
            found = await Newest(mine.Where(d => clients.Contains(d.ClientId))).Take(OnPage + 1).ToListAsync(stop);
        else
            foreach (var client in clients)
                found.AddRange(await Newest(mine.Where(d => d.ClientId == client)).Take(OnPage + 1).ToListAsync(stop));
        found = [.. found.OrderByDescending(d => d.MadeAt).ThenByDescending(d => d.Id).Take(OnPage + 1)];
        var next = found.Count > OnPage ? Written(found[OnPage - 1]) : null;
        List<OutboxDelivery> page = [.. found.Take(OnPage)];
        if (string.IsNullOrEmpty(filter.State) && from is null)
        {
            var stuck = await deliveries!
                .Where(d =>
                    clients.Contains(d.ClientId)
                    && d.EndedAt == null
                    && d.Status == DeliveryStatus.Due
                    && d.Attempts > 0
                )
                .OrderBy(d => d.MadeAt)
                .Take(MostStuckFirst)
                .ToListAsync(stop);
            page = [.. stuck, .. page.ExceptBy(stuck.Select(s => s.Id), d => d.Id)];
        }

        return TypedResults.Ok(
            new DeliveryList(
                await rows.ReadAsync(page, stop),
                next,
                from is null ? await QueuesAsync(db, clients, time.Now(), stop) : []
            )
        );
    }

    private static IQueryable<OutboxDelivery> Newest(IQueryable<OutboxDelivery> of) =>
        of.OrderByDescending(d => d.MadeAt).ThenByDescending(d => d.Id);

    private static async Task<Results<Ok<DeliveryDetail>, ProblemHttpResult>> OneAsync(
        Guid deliveryId,
        AppDb db,
        DeliveryRows rows,
        CancellationToken stop
    )
    {
        if (await db.Deliveries.AsNoTracking().SingleOrDefaultAsync(d => d.Id == deliveryId, stop) is not { } delivery)
            return Problems.No("delivery");
        var tries = await db
            .DeliveryTries.AsNoTracking()
            .Where(t => t.DeliveryId == deliveryId)
            .OrderBy(t => t.BeganAt)
            .ToListAsync(stop);
        // What is kept sealed in it is for the recipient's eyes alone.
        var settings = delivery
            .Settings.Where(s => s.Key != "link")
            .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);
        return TypedResults.Ok(
            new DeliveryDetail(
                (await rows.ReadAsync([delivery], stop))[0],
                delivery.KeySent,
                delivery.Reference,
                settings,
                tries.ConvertAll(t => new DeliveryAttemptTold(
                    t.Number,
                    t.BeganAt,
                    t.TookMs,
                    t.Status,
                    t.Reason,
                    t.Exchanges
                ))
            )
        );
    }

    private sealed record QueueOf(
        Guid ConnectionId,
        int Waiting,
        int Stuck,
        int Failed,
        Instant? Oldest,
        string? LastWord
    );

    private static async Task<IReadOnlyList<ConnectionQueue>> QueuesAsync(
        AppDb db,
        IReadOnlyList<Guid> clients,
        Instant now,
        CancellationToken stop
    )
    {
        var since = now - Duration.FromDays(FailedDays);
        var ids = clients.ToArray();
        var counted = await db
            .Database.SqlQuery<QueueOf>(
                $"""
                select connection_id, count(*) filter (where status <> 'failed')::int as waiting, count(*) filter (where status <> 'failed' and attempts > 0)::int as stuck, count(*) filter (where status = 'failed')::int as failed,
                       min(made_at) filter (where status <> 'failed') as oldest, (array_agg(reason order by due_at desc) filter (where status <> 'failed' and reason is not null))[1] as last_word
                from (select connection_id, status, attempts, made_at, due_at, reason from deliveries where client_id = any({ids}) and ended_at is null
                      union all select connection_id, status, attempts, made_at, due_at, reason from deliveries where client_id = any({ids}) and status = 'failed' and made_at >= {since}) d
                group by connection_id
                """
            )
            .ToDictionaryAsync(q => q.ConnectionId, stop);
        var known = counted.Keys.ToList();
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => clients.Contains(c.ClientId) && (known.Contains(c.Id) || c.PausedAt != null))
            .OrderBy(c => c.Name)
            .ToListAsync(stop);
        var people = await db.PeopleAsync(connections.Select(c => c.PausedBy), stop);
        var keys = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        return connections.ConvertAll(c =>
            counted.GetValueOrDefault(c.Id) is { } q
                ? new ConnectionQueue(
                    c.Id,
                    keys[c.ClientId],
                    c.Name,
                    c.PausedAt,
                    PeopleNames.Of(people, c.PausedBy),
                    q.Waiting,
                    q.Stuck,
                    q.Failed,
                    q.Oldest,
                    q.LastWord
                )
                : new ConnectionQueue(
                    c.Id,
                    keys[c.ClientId],
                    c.Name,
                    c.PausedAt,
                    PeopleNames.Of(people, c.PausedBy),
                    0,
                    0,
                    0,
                    null,
                    null
                )
        );
    }

    private static string Written(OutboxDelivery last) =>
        string.Create(CultureInfo.InvariantCulture, $"{last.MadeAt.ToUnixTimeTicks()}.{last.Id:N}");

    private static (Instant At, Guid Id)? Read(string after) =>
        after.Split('.') is [var ticks, var id]
        && long.TryParse(ticks, CultureInfo.InvariantCulture, out var at)
        && at is > 0 and < 100_000_000_000_000_000
        && Guid.TryParse(id, out var read)
            ? (Instant.FromUnixTimeTicks(at), read)
            : null;
}

/// <summary>Reads deliveries as rows.</summary>
public sealed class DeliveryRows(AppDb db, StepCatalog catalog)
{
    /// <summary>In the order given.</summary>
    public async Task<IReadOnlyList<DeliveryRow>> ReadAsync(
        IReadOnlyList<OutboxDelivery> deliveries,
        CancellationToken stop
    )
    {
        Guid[] leadIds = [.. deliveries.Select(d => d.LeadId).Distinct()];
        Guid[] through = [.. deliveries.Select(d => d.ConnectionId).Distinct()];
        var leads = await db
            .Leads.AsNoTracking()
            .IgnoreQueryFilters()
            .Where(l => leadIds.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, stop);
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => through.Contains(c.Id))
            .ToDictionaryAsync(c => c.Id, c => c.Name, stop);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        return
        [
            .. deliveries.Select(d => new DeliveryRow(
                d.Id,
                clients.GetValueOrDefault(d.ClientId, ""),
                d.LeadId,
                leads[d.LeadId].ShownName(),
                leads[d.LeadId].Test,
                d.ConnectionId,
                connections.GetValueOrDefault(d.ConnectionId, ""),
                d.Kind,
                catalog.Find(d.Kind)?.Label ?? d.Kind,
                d.Lane,
                d.Step,
                d.Fuse,
                d.Status,
                d.Reason,
                d.Attempts,
                d.MadeAt,
                d.DueAt,
                d.SentAt,
                d.EndedAt
            )),
        ];
    }
}

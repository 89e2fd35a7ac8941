using System.Text.Json;
using LitFuse.Core;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Claims due deliveries under leases. Every later change is fenced by worker and attempt: a worker that lost its
/// lease changes nothing.
/// </summary>
public sealed class DeliveryClaim(AppDb db)
{
    /// <summary>How long a claim holds without renewal.</summary>
    public static readonly Duration Lease = Duration.FromSeconds(15);

    // How soon what waits behind another is looked at again.
    private static readonly Duration Behind = Duration.FromMilliseconds(100);

    // How soon a connection is looked at again that has as many under way as it takes. One that ends here wakes the
    // loop at once.
    private static readonly Duration Full = Duration.FromSeconds(1);

    /// <summary>
    /// When there is next something to claim: what falls due, of a connection that does not rest then and has not had
    /// its share; <c>null</c>: nothing waits. Connections that are paused, or whose client is held, have none.
    /// </summary>
    public async Task<Instant?> NextAsync(Instant now, Guid[] answered, CancellationToken stop) =>
        (
            await db
                .Database.SqlQuery<Instant?>(
                    $"""
                    select min(greatest(d.due_at, c.rest_until,
                        case when c.per_minute is not null and c.tokens < 1 then c.tokens_at + (1 - c.tokens) * 60 / c.per_minute * interval '1 second' end,
                        case when d.due_at <= {now} and (select count(*) from deliveries s where s.connection_id = c.id and s.status = 'sending' and s.id <> all({answered})) >= least(coalesce(c.at_once, {ConnectionThrottle.Wide}), coalesce(c.width, {ConnectionThrottle.Wide})) then {now
                        + Full} end)) as "Value"
                    from connections c join clients k on k.id = c.client_id
                    cross join lateral (select due_at from deliveries where connection_id = c.id and status = 'due' order by due_at limit 1) d where c.paused_at is null and k.held_at is null
                    """
                )
                .ToListAsync(stop)
        ).Single();

    /// <summary>Gives back what a dead worker held.</summary>
    public Task<int> RecoverAsync(Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"update deliveries set status = 'due', leased_by = null, leased_until = null where status = 'sending' and leased_until < {now}",
            stop
        );

    /// <summary>
    /// Claims what is due of each connection that is not paused, of clients that are not held, up to what it takes at
    /// once, in a minute, or while it opens. To a system of record, and to the lead, what was decided earlier goes
    /// first: what would overtake it is put off until after it. What the team is told overtakes: an alert waits for
    /// nothing.
    /// </summary>
    /// <remarks>
    /// It does not wait for the disk: a claim that is lost when the database falls is a lease that nobody holds, and
    /// what it was for is due again under the same key. Ids go on as arrays: joined to the candidates, of which the
    /// planner expects thousands, it would read the whole table for a handful of rows. The connection's row is held
    /// meanwhile, so that what two processes take together is within its limits; what another holds at this moment is
    /// left to it.
    /// </remarks>
    /// <param name="worker">Who claims.</param>
    /// <param name="now">What is due by then.</param>
    /// <param name="answered">Those of this worker's that the service has answered, and whose outcome is being written:
    /// they take no room there any more.</param>
    /// <param name="stop">Cancels.</param>
    public Task<List<OutboxDelivery>> ClaimAsync(string worker, Instant now, Guid[] answered, CancellationToken stop) =>
        db
            .Deliveries.FromSql(
                $"""
                with open as (
                    select c.id, c.per_minute, c.failures, coalesce(c.at_once, {ConnectionThrottle.Wide}) as most, coalesce(c.width, {ConnectionThrottle.Wide}) as width, greatest(1, c.per_minute / 60.0) as share, c.tokens, c.tokens_at
                    from connections c join clients k on k.id = c.client_id cross join (select set_config('synchronous_commit', 'off', true)) unhurried
                    where c.paused_at is null and k.held_at is null and (c.rest_until is null or c.rest_until <= {now}) and exists (select 1 from deliveries where connection_id = c.id and status = 'due' and due_at <= {now})
                    order by c.id for no key update of c skip locked),
                room as (
                    select o.id, o.per_minute, o.failures, t.tokens,
                        greatest(0, least(case when o.failures >= {ConnectionThrottle.Trips} then 1 else least(o.most, o.width) end - (select count(*) from deliveries s where s.connection_id = o.id and s.status = 'sending' and s.id <> all({answered})), coalesce(floor(t.tokens), {ConnectionThrottle.Wide}))) as free
                    from open o cross join lateral (select case when o.per_minute is not null then least(o.share, coalesce(o.tokens + greatest(0, extract(epoch from {now} - o.tokens_at)) * o.per_minute / 60.0, o.share)) end as tokens) t),
                candidate as (
                    select d.id, r.id as connection_id, ahead.until from room r
                    cross join lateral (
                        select id, lead_id, lane, made_at from deliveries where connection_id = r.id and status = 'due' and due_at <= {now}
                        order by due_at limit r.free for update skip locked) d
                    left join lateral (
                        select max(e.due_at) as until from deliveries e
                        where d.lane in ('systems', 'lead') and e.connection_id = r.id and e.lead_id = d.lead_id and e.made_at < d.made_at and e.lane = d.lane and e.status in ('due', 'sending') and (e.status = 'sending' or e.attempts > 0 or e.due_at <= {now})) ahead on true),
                put_off as (
                    update deliveries d set due_at = greatest(c.until + interval '1 millisecond', {now + Behind})
                    from unnest(array(select id from candidate where until is not null order by id), array(select until from candidate where until is not null order by id)) as c(id, until) where d.id = c.id),
                taken as (
                    update connections c set tokens = r.tokens - n.count, tokens_at = case when r.per_minute is not null then {now} end, rest_until = case when r.failures >= {ConnectionThrottle.Trips} then {now
                    + Lease} else c.rest_until end
                    from room r join (select connection_id, count(*) as count from candidate where until is null group by connection_id) n on n.connection_id = r.id
                    where c.id = r.id and (r.per_minute is not null or r.failures >= {ConnectionThrottle.Trips}))
                update deliveries d set status = 'sending', attempts = attempts + 1, leased_by = {worker}, leased_until = {now
                    + Lease}
                where d.id = any(array(select id from candidate where until is null))
                returning d.*
                """
            )
            .IgnoreQueryFilters()
            .AsNoTracking()
            .ToListAsync(stop);

    /// <summary>
    /// A connection works again: what waits for another attempt at it, and what waits behind that, is due now.
    /// </summary>
    /// <remarks>
    /// In the order in which it was decided: what waits behind another thing for the same lead then comes well after
    /// it, and is seldom put off again.
    /// </remarks>
    public Task<int> HurryAsync(Guid connectionId, Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"""
            update deliveries d set due_at = {now} - (w.places - w.place) * interval '1 microsecond'
            from (select id, row_number() over (order by made_at) as place, count(*) over () as places from deliveries
                  where connection_id = {connectionId} and status = 'due' and due_at > {now} and (attempts > 0 or lane = 'systems')) w
            where d.id = w.id and d.status = 'due'
            """,
            stop
        );

    /// <summary>Renews the leases a worker holds.</summary>
    public Task<int> RenewAsync(string worker, Guid[] ids, Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"update deliveries set leased_until = {now + Lease} where id = any({ids}) and leased_by = {worker} and status = 'sending'",
            stop
        );

    /// <summary>Takes deliveries out of their leases into other statuses.</summary>
    /// <returns>Those whose lease still held; of the others nothing changed, and nothing more may be written.</returns>
    public async Task<IReadOnlySet<Guid>> EndAsync(
        string worker,
        IReadOnlyList<Outcome> outcomes,
        Instant now,
        CancellationToken stop
    )
    {
        Guid[] ids = [.. outcomes.Select(o => o.Delivery.Id)];
        int[] held = [.. outcomes.Select(o => o.Delivery.Attempts)];
        string[] statuses = [.. outcomes.Select(o => Words.Of(o.Status))];
        string[] reasons = [.. outcomes.Select(o => o.Reason)];
        Instant[] due = [.. outcomes.Select(o => o.DueAt)];
        // What the gate held back before anything was sent is no attempt.
        int[] spent = [.. outcomes.Select(o => o.Answer.Spent ? o.Delivery.Attempts : o.Delivery.Attempts - 1)];
        string?[] references = [.. outcomes.Select(o => o.Answer.Reference)];
        bool[] went = [.. outcomes.Select(o => o.Answer.SentAt is not null)];
        Instant[] sent = [.. outcomes.Select(o => o.Answer.SentAt ?? now)];
        bool[] tried = [.. outcomes.Select(o => o.Answer.Spent)];
        Guid[] records = [.. outcomes.Select(_ => Guid.CreateVersion7())];
        Instant[] began = [.. outcomes.Select(o => o.Began)];
        int[] took = [.. outcomes.Select(o => o.Answer.TookMs)];
        string[] exchanges = [.. outcomes.Select(o => JsonSerializer.Serialize(o.Answer.Exchanges, CoreJson.Options))];
        var ended = await db
            .Database.SqlQuery<Guid>(
                $"""
                with o as (select * from unnest({ids}, {held}, {statuses}, {reasons}, {due}, {spent}, {references}, {went}, {sent}, {tried}, {records}, {began}, {took}, {exchanges})
                    as o(id, held, status, reason, due_at, spent, reference, went, sent_at, tried, record, began, took, exchanges)),
                ended as (
                    update deliveries d set status = o.status, reason = o.reason, due_at = o.due_at, ended_at = case when o.status = 'due' then null else {now} end, attempts = o.spent,
                           reference = coalesce(o.reference, d.reference), sent_at = case when o.went then o.sent_at else d.sent_at end, leased_by = null, leased_until = null
                    from o where d.id = o.id and d.leased_by = {worker} and d.attempts = o.held and d.status = 'sending'
                    returning d.id, d.client_id),
                noted as (
                    insert into delivery_tries (id, client_id, delivery_id, number, began_at, took_ms, status, reason, exchanges)
                    select o.record, e.client_id, e.id, o.held, o.began, o.took, o.status, o.reason, o.exchanges::jsonb from ended e join o on o.id = e.id where o.tried)
                select id as "Value" from ended
                """
            )
            .ToListAsync(stop);
        return ended.ToHashSet();
    }
}

/// <summary>What an attempt leaves on the delivery's record.</summary>
/// <param name="Spent">False when the gate held it back before anything was sent: that is no attempt.</param>
/// <param name="Reference">The service's id.</param>
/// <param name="SentAt">When it went out.</param>
/// <param name="TookMs">How long it took.</param>
/// <param name="Exchanges">What was said and heard.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record AttemptAnswer(
    bool Spent,
    string? Reference,
    Instant? SentAt,
    int TookMs,
    IReadOnlyList<Exchange> Exchanges,
    IReadOnlyDictionary<string, string>? Results = null
)
{
    /// <summary>The address that it was for is not there.</summary>
    public bool NoSuchAddress { get; init; }

    /// <summary>It was held back before anything was sent.</summary>
    public static readonly AttemptAnswer NotSent = new(Spent: false, null, null, 0, []);
}

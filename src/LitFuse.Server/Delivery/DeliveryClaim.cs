using LitFuse.Server.Platform;
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

    /// <summary>When the next falls due, connection by connection.</summary>
    public async Task<IReadOnlyDictionary<Guid, Instant>> NextAsync(CancellationToken stop) =>
        await db.Connections.AsNoTracking().SelectMany(
            c => db.Deliveries.Where(d => d.ConnectionId == c.Id && d.Status == DeliveryStatus.Due).OrderBy(d => d.DueAt).Take(1),
            (c, d) => new { c.Id, d.DueAt }).ToDictionaryAsync(d => d.Id, d => d.DueAt, stop);

    /// <summary>Gives back what a dead worker held.</summary>
    public Task<int> RecoverAsync(Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"update deliveries set status = 'due', leased_by = null, leased_until = null where status = 'sending' and leased_until < {now}", stop);

    /// <summary>Claims what is due of each connection, up to <see cref="ConnectionSlots.Wide"/>, or to what is said of it.</summary>
    /// <param name="worker">Who claims.</param>
    /// <param name="free">Connections with less room than that.</param>
    /// <param name="now">What is due by then.</param>
    /// <param name="stop">Cancels.</param>
    public Task<List<OutboxDelivery>> ClaimAsync(string worker, IReadOnlyDictionary<Guid, int> free, Instant now, CancellationToken stop)
    {
        var (connections, rooms) = (free.Keys.ToArray(), free.Values.ToArray());
        return db.Deliveries.FromSql(
            $"""
            update deliveries set status = 'sending', attempts = attempts + 1, leased_by = {worker}, leased_until = {now + Lease}
            where id in (
                select d.id from connections c left join unnest({connections}, {rooms}) as f(id, free) on f.id = c.id
                cross join lateral (
                    select id from deliveries where connection_id = c.id and status = 'due' and due_at <= {now}
                    order by due_at limit coalesce(f.free, {ConnectionSlots.Wide}) for update skip locked) d)
            returning *
            """).IgnoreQueryFilters().AsNoTracking().ToListAsync(stop);
    }

    /// <summary>Renews the leases a worker holds.</summary>
    public Task<int> RenewAsync(string worker, Guid[] ids, Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"update deliveries set leased_until = {now + Lease} where id = any({ids}) and leased_by = {worker} and status = 'sending'", stop);

    /// <summary>Takes deliveries out of their leases into other statuses.</summary>
    /// <returns>Those whose lease still held; of the others nothing changed, and nothing more may be written.</returns>
    public async Task<IReadOnlySet<Guid>> EndAsync(string worker, IReadOnlyList<Outcome> outcomes, Instant now, CancellationToken stop)
    {
        Guid[] ids = [.. outcomes.Select(o => o.Delivery.Id)];
        int[] held = [.. outcomes.Select(o => o.Delivery.Attempts)];
        string[] statuses = [.. outcomes.Select(o => Words.Of(o.Status))];
        string[] reasons = [.. outcomes.Select(o => o.Reason)];
        Instant[] due = [.. outcomes.Select(o => o.DueAt)];
        // What the gate held back before anything was sent is no attempt.
        int[] spent = [.. outcomes.Select(o => o.Answer.Spent ? o.Delivery.Attempts : o.Delivery.Attempts - 1)];
        string?[] answers = [.. outcomes.Select(o => o.Answer.Text)];
        string?[] references = [.. outcomes.Select(o => o.Answer.Reference)];
        bool[] went = [.. outcomes.Select(o => o.Answer.SentAt is not null)];
        Instant[] sent = [.. outcomes.Select(o => o.Answer.SentAt ?? now)];
        var ended = await db.Database.SqlQuery<Guid>(
            $"""
            update deliveries d set status = o.status, reason = o.reason, due_at = o.due_at, ended_at = case when o.status = 'due' then null else {now} end, attempts = o.spent,
                   answer = o.answer, reference = o.reference, sent_at = case when o.went then o.sent_at end, leased_by = null, leased_until = null
            from unnest({ids}, {held}, {statuses}, {reasons}, {due}, {spent}, {answers}, {references}, {went}, {sent}) as o(id, held, status, reason, due_at, spent, answer, reference, went, sent_at)
            where d.id = o.id and d.leased_by = {worker} and d.attempts = o.held and d.status = 'sending'
            returning d.id as "Value"
            """).ToListAsync(stop);
        return ended.ToHashSet();
    }
}

/// <summary>What an attempt leaves on the delivery's record.</summary>
/// <param name="Spent">False when the gate held it back before anything was sent: that is no attempt.</param>
/// <param name="Text">The answer as received.</param>
/// <param name="Reference">The service's id.</param>
/// <param name="SentAt">When it went out.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record AttemptAnswer(bool Spent, string? Text, string? Reference, Instant? SentAt, IReadOnlyDictionary<string, string>? Results = null)
{
    /// <summary>It was held back before anything was sent.</summary>
    public static readonly AttemptAnswer NotSent = new(Spent: false, null, null, null);
}

using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>One delivery held under a lease.</summary>
public sealed record ClaimedDelivery(Guid Id, Guid ConnectionId, int Attempt);

/// <summary>A connection that has deliveries due.</summary>
public sealed record DueConnection(Guid ConnectionId, Instant DueAt);

/// <summary>
/// Claims due deliveries under leases. Every later change is fenced by worker and attempt: a worker that lost its
/// lease changes nothing.
/// </summary>
public sealed class DeliveryClaim(AppDb db)
{
    /// <summary>How long a claim holds without renewal.</summary>
    public static readonly Duration Lease = Duration.FromSeconds(15);

    /// <summary>Which connections have something due now, or next, and when.</summary>
    public async Task<IReadOnlyList<DueConnection>> DueAsync(CancellationToken stop) =>
        await db.Connections.AsNoTracking().SelectMany(
            c => db.Deliveries.Where(d => d.ConnectionId == c.Id && d.Status == DeliveryStatus.Due).OrderBy(d => d.DueAt).Take(1),
            (c, d) => new DueConnection(c.Id, d.DueAt)).ToListAsync(stop);

    /// <summary>Gives back what a dead worker held.</summary>
    public Task<int> RecoverAsync(Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"update deliveries set status = 'due', leased_by = null, leased_until = null where status = 'sending' and leased_until < {now}", stop);

    /// <summary>Claims up to so many of each connection.</summary>
    public async Task<IReadOnlyList<ClaimedDelivery>> ClaimAsync(string worker, Guid[] connections, int[] free, Instant now, CancellationToken stop) =>
        await db.Database.SqlQuery<ClaimedDelivery>(
            $"""
            update deliveries set status = 'sending', attempts = attempts + 1, leased_by = {worker}, leased_until = {now + Lease}
            where id in (
                select d.id from unnest({connections}, {free}) as c(id, free)
                cross join lateral (
                    select id from deliveries where connection_id = c.id and status = 'due' and due_at <= {now}
                    order by due_at limit c.free for update skip locked) d)
            returning id, connection_id, attempts as attempt
            """).ToListAsync(stop);

    /// <summary>Renews the leases a worker holds.</summary>
    public Task<int> RenewAsync(string worker, Guid[] ids, Instant now, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"update deliveries set leased_until = {now + Lease} where id = any({ids}) and leased_by = {worker} and status = 'sending'", stop);

    /// <summary>Takes a delivery out of its lease into another status.</summary>
    /// <returns>False when the lease was lost: then nothing changed and nothing more may be written.</returns>
    public async Task<bool> EndAsync(ClaimedDelivery held, string worker, DeliveryStatus status, string reason, Instant dueAt, Instant now, AttemptAnswer answer, CancellationToken stop)
    {
        var word = Words.Of(status);
        Instant? ended = status == DeliveryStatus.Due ? null : now;
        var attempts = answer.Spent ? held.Attempt : held.Attempt - 1;
        return await db.Database.ExecuteSqlAsync(
            $"""
            update deliveries set status = {word}, reason = {reason}, due_at = {dueAt}, ended_at = {ended}, attempts = {attempts},
                   answer = {answer.Text}, reference = {answer.Reference}, sent_at = {answer.SentAt}, leased_by = null, leased_until = null
            where id = {held.Id} and leased_by = {worker} and attempts = {held.Attempt} and status = 'sending'
            """,
            stop) == 1;
    }
}

/// <summary>What an attempt leaves on the delivery's record.</summary>
/// <param name="Spent">False when the gate held it back before anything was sent: that is no attempt.</param>
/// <param name="Text">The answer as received.</param>
/// <param name="Reference">The service's id.</param>
/// <param name="SentAt">When it went out.</param>
public sealed record AttemptAnswer(bool Spent, string? Text, string? Reference, Instant? SentAt);

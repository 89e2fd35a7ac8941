using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// How much may be under way to each connection and how much may begin in a minute, and a breaker for one that keeps
/// failing: after <see cref="Trips"/> temporary failures in a row it is left alone for a while, then tried with one
/// delivery. When that goes through it opens slowly: two at once, then four, then eight, each after some went through,
/// and half as many after one that did not. Others do not wait for it, and no attempt is spent while it rests.
/// </summary>
/// <remarks>
/// All of it stands on the connection's row, which a claim holds while it takes from it: however many processes
/// deliver, they share one limit and one breaker. <see cref="DeliveryClaim.ClaimAsync"/> takes; here is what comes
/// back.
/// </remarks>
public sealed class ConnectionThrottle(AppDb db)
{
    /// <summary>Deliveries at once to one connection, where nothing else is said.</summary>
    public const int Wide = 24;

    /// <summary>Failures in a row that open the breaker.</summary>
    public const int Trips = 5;

    /// <summary>How many may be under way at once when the first went through again.</summary>
    private const int Opening = 2;

    private const int LongestRestSeconds = 30;

    /// <summary>
    /// Notes how attempts ended, within the caller's transaction. Nothing is written of a connection that all went well
    /// with.
    /// </summary>
    /// <param name="ended">By connection: whether the service was in trouble.</param>
    /// <param name="now">The present moment.</param>
    /// <param name="stop">Cancels.</param>
    /// <returns>
    /// Connections that work again after they rested: what waits for them may hurry; and all that began to fail, or
    /// ceased to.
    /// </returns>
    public async Task<(IReadOnlyList<Guid> Recovered, IReadOnlyList<Guid> Turned)> NoteAsync(
        IEnumerable<(Guid Connection, bool InTrouble)> ended,
        Instant now,
        CancellationToken stop
    )
    {
        var lots = ended
            .GroupBy(e => e.Connection)
            .OrderBy(g => g.Key)
            .Select(g => (Connection: g.Key, Failed: g.Count(e => e.InTrouble), Well: g.Any(e => !e.InTrouble)))
            .ToList();
        Guid[] well = [.. lots.Where(l => l.Well).Select(l => l.Connection)],
            bad = [.. lots.Where(l => !l.Well).Select(l => l.Connection)];
        int[] failed = [.. lots.Where(l => !l.Well).Select(l => l.Failed)];
        // Of a lot in which one went through, the service is there.
        var mended =
            well.Length == 0
                ? []
                : await db
                    .Database.SqlQuery<Mended>(
                        $"""
                        with old as (select id, failures from connections where id = any({well}) and (failures > 0 or width is not null) order by id for no key update),
                        reset as (
                            update connections c set failures = 0, rest_until = null,
                                width = case when o.failures >= {Trips} then {Opening} when c.width * 2 >= coalesce(c.at_once, {Wide}) then null else c.width * 2 end
                            from old o where c.id = o.id returning c.id)
                        select o.id, o.failures from old o join reset r on r.id = o.id where o.failures > 0
                        """
                    )
                    .ToListAsync(stop);
        var broken =
            bad.Length == 0
                ? []
                : await db
                    .Database.SqlQuery<Guid>(
                        $"""
                        with failed as (select c.id, c.failures as before, c.failures + f.count as failures from unnest({bad}, {failed}) as f(id, count) join connections c on c.id = f.id order by c.id for no key update of c),
                        noted as (
                            update connections c set failures = f.failures, width = case when c.width is not null then greatest(1, c.width / 2) end,
                                rest_until = case when f.failures >= {Trips} then {now} + least({LongestRestSeconds}, power(2, least(5, f.failures - {Trips}))) * interval '1 second' end
                            from failed f where c.id = f.id returning c.id)
                        select f.id as "Value" from failed f join noted n on n.id = f.id where f.before = 0
                        """
                    )
                    .ToListAsync(stop);
        return (
            [.. mended.Where(m => m.Failures >= Trips).Select(m => m.Id)],
            [.. mended.Select(m => m.Id), .. broken]
        );
    }

    private sealed record Mended(Guid Id, int Failures);
}

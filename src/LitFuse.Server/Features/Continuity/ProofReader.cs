using LitFuse.Core.Continuity;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>
/// Finds the latest lead of a form that went all the way: read, matched, lit, and all that was due at once delivered.
/// </summary>
public sealed class ProofReader(AppDb db)
{
    private const int LooksAt = 20;

    /// <summary>The latest proof of a form, which is <paramref name="known"/> where there is no later one.</summary>
    public async Task<LineProof?> LatestAsync(Guid formId, LineProof? known, CancellationToken stop)
    {
        var rows = await db
            .Database.SqlQuery<ProofRow>(
                $"""
                select s.lead_id, s.test, s.sent_at, s.received_at, s.envelope, coalesce(s.map_version, 0) as map_version, coalesce(max(d.sent_at), max(b.lit_at)) as acted_at, array_agg(distinct b.fuse_version_id) as versions
                from (select * from submissions where form_id = {formId} and status <> 'received' and lead_id is not null order by received_at desc limit {LooksAt}) s
                join burns b on b.lead_id = s.lead_id and b.submission_id = s.id
                left join deliveries d on d.lead_id = s.lead_id and d.burn_id = b.id and d.made_at <= b.lit_at + interval '10 seconds' and d.status <> 'cancelled' and not (d.status = 'due' and d.attempts = 0 and d.due_at > d.made_at + interval '1 minute')
                where s.status = 'processed'
                group by s.id, s.lead_id, s.test, s.sent_at, s.received_at, s.envelope, s.map_version
                having bool_and(d.id is null or d.status = 'done')
                order by s.received_at desc limit 1
                """
            )
            .ToListAsync(stop);
        if (rows is not [{ ActedAt: { } acted } row])
            return known;
        if (known is not null && known.At >= acted)
            return known;
        var knew = Envelope.Read(row.Envelope)?.ToldAt ?? row.ReceivedAt;
        return new(
            acted,
            row.Test,
            row.LeadId,
            row.SentAt is { } sent ? Math.Max(0, Math.Round((knew - sent).TotalSeconds, 3)) : null,
            Math.Round(Math.Max(0, (acted - knew).TotalSeconds), 3),
            row.MapVersion,
            row.Versions
        );
    }

    private sealed record ProofRow(
        Guid LeadId,
        bool Test,
        Instant? SentAt,
        Instant ReceivedAt,
        string? Envelope,
        int MapVersion,
        Instant? ActedAt,
        Guid[] Versions
    );
}

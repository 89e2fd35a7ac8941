using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Has taken back, at the services, what must not stay there once somebody refuses to be contacted: each kind of step
/// says whether and how.
/// </summary>
public sealed class RecordRecall(AppDb db, BurnService burns, StepCatalog catalog)
{
    private const string Unwanted = "they do not want to be contacted";

    /// <summary>Writes the deliveries that do it.</summary>
    public async Task RecallAsync(HeldLead held, Instant now, CancellationToken stop)
    {
        var lead = held.Lead;
        var by = catalog
            .All.Where(k => k.TakenBackBy is not null)
            .ToDictionary(k => k.Key, k => catalog.Find(k.TakenBackBy!)!, StringComparer.Ordinal);
        var kinds = by.Keys.ToArray();
        // What has not gone yet does not go at all, and its burn hears of it: it would wait for ever, and never be lit
        // again.
        foreach (
            var due in await db
                .Deliveries.FromSql(
                    $"select * from deliveries where lead_id = {lead.Id} and kind = any({kinds}) and status = 'due' order by made_at for update"
                )
                .ToListAsync(stop)
        )
        {
            (due.Status, due.Reason, due.EndedAt) = (DeliveryStatus.Cancelled, Unwanted, now);
            if (due is { BurnId: { } burnId, StepId: { } stepId })
                await burns.EndStepAsync(
                    burnId,
                    held,
                    new BurnEvent.StepEnded(stepId, StepStatus.Cancelled, Unwanted, Key: due.Key),
                    now,
                    stop
                );
        }

        var there = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.LeadId == lead.Id && kinds.Contains(d.Kind) && d.Status == DeliveryStatus.Done)
            .OrderBy(d => d.MadeAt)
            .ToListAsync(stop);
        foreach (
            var last in there
                .Where(d => d.Reference is not null)
                .GroupBy(d => (d.ConnectionId, d.Reference))
                .Select(g => g.Last())
        )
        {
            var kind = by[last.Kind];
            var taking = OutboxDelivery.Of(
                lead,
                last.ConnectionId,
                kind,
                $"back.{last.Id:N}.{now.ToUnixTimeMilliseconds()}",
                new Dictionary<string, string>(StringComparer.Ordinal) { ["reference"] = last.Reference! },
                now
            );
            (taking.Retry, taking.OnlyTo) = (RetryProfile.Patient, lead.OnlyTo);
            db.Deliveries.Add(taking);
        }
    }
}

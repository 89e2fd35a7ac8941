using LitFuse.Core.Fuses;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>Has taken back, at the services, what must not stay there once somebody refuses to be contacted: each kind of step says whether and how.</summary>
public sealed class TakingBack(AppDb db, StepCatalog catalog)
{
    /// <summary>Writes the deliveries that do it. Call inside a transaction that holds the lead.</summary>
    public async Task TakeAsync(Lead lead, Instant now, CancellationToken stop)
    {
        var by = catalog.All.Where(k => k.TakenBackBy is not null).ToDictionary(k => k.Key, k => catalog.Find(k.TakenBackBy!)!, StringComparer.Ordinal);
        var kinds = by.Keys.ToArray();
        // What has not gone yet does not go at all.
        await db.Deliveries.Where(d => d.LeadId == lead.Id && kinds.Contains(d.Kind) && d.Status == DeliveryStatus.Due).ExecuteUpdateAsync(d => d.SetProperty(x => x.Status, DeliveryStatus.Struck).SetProperty(x => x.Reason, "they do not want to be contacted").SetProperty(x => x.EndedAt, now), stop);
        var there = await db.Deliveries.AsNoTracking().Where(d => d.LeadId == lead.Id && kinds.Contains(d.Kind) && d.Status == DeliveryStatus.Done).OrderBy(d => d.MadeAt).ToListAsync(stop);
        foreach (var last in there.Where(d => d.Reference is not null).GroupBy(d => (d.ConnectionId, d.Reference)).Select(g => g.Last()))
        {
            var kind = by[last.Kind];
            db.Deliveries.Add(new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                ConnectionId = last.ConnectionId,
                Step = kind.Label,
                Kind = kind.Key,
                Lane = kind.Lane,
                Key = $"back.{last.Id:N}.{now.ToUnixTimeMilliseconds()}",
                Settings = new Dictionary<string, string>(StringComparer.Ordinal) { ["reference"] = last.Reference! },
                PlannedAt = now,
                AgeLimitHours = 24,
                Retry = RetryProfile.Patient,
                OnlyTo = lead.OnlyTo,
                Status = DeliveryStatus.Due,
                MadeAt = now,
                DueAt = now,
            });
        }
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Deliveries;

/// <summary>What a list of deliveries is narrowed to. All that is left out narrows nothing.</summary>
/// <param name="Client">By its key.</param>
/// <param name="Connection">Through which.</param>
/// <param name="State"><c>stuck</c> (tried, and to be tried again), <c>waiting</c>, <c>failed</c>, <c>taken</c>, or
/// <c>cancelled</c> (withdrawn by rule).</param>
/// <param name="Lane">For whom: <c>lead</c>, <c>team</c> or <c>systems</c>.</param>
/// <param name="Lead">About whom.</param>
/// <param name="Search">Words of a lead, as in the list of leads.</param>
/// <param name="From">Decided at or after.</param>
/// <param name="To">Decided before.</param>
public sealed record DeliveryFilter(
    string? Client = null,
    Guid? Connection = null,
    string? State = null,
    string? Lane = null,
    Guid? Lead = null,
    string? Search = null,
    DateTimeOffset? From = null,
    DateTimeOffset? To = null
)
{
    private const int MostFound = 200;

    /// <summary>The deliveries that are meant, of the clients chosen.</summary>
    public async Task<(
        IReadOnlyList<Guid> Clients,
        IQueryable<OutboxDelivery>? Deliveries,
        ProblemHttpResult? Fault
    )> ApplyAsync(AppDb db, ClientScope scope, CancellationToken stop)
    {
        if (await db.ChosenAsync(scope, Client, stop) is not { } clients)
            return ([], null, Problems.NotThere.Because($"There is no client '{Client}' for you."));
        if (From > To)
            return ([], null, Problems.Bad("to", "The end lies before the beginning."));
        IQueryable<OutboxDelivery> found = db.Deliveries.AsNoTracking();
        if (Connection is { } connection)
            found = found.Where(d => d.ConnectionId == connection);
        Lane? who = Lane switch
        {
            "lead" => Core.Fuses.Definition.Lane.Lead,
            "team" => Core.Fuses.Definition.Lane.Team,
            "systems" => Core.Fuses.Definition.Lane.Systems,
            _ => null,
        };
        if (who is null && !string.IsNullOrEmpty(Lane))
            return ([], null, Problems.Bad("lane", "Say lead, team or systems."));
        if (State is not (null or "" or "stuck" or "waiting" or "failed" or "taken" or "cancelled"))
            return ([], null, Problems.Bad("state", "Say stuck, waiting, failed, taken or cancelled."));
        if (who is { } lane)
            found = found.Where(d => d.Lane == lane);
        if (Lead is { } lead)
            found = found.Where(d => d.LeadId == lead);
        if (From is { } from)
            found = found.Where(d => d.MadeAt >= Instant.FromDateTimeOffset(from));
        if (To is { } to)
            found = found.Where(d => d.MadeAt < Instant.FromDateTimeOffset(to));
        if (Search?.Trim() is { Length: > 1 } words)
        {
            var leads = await LeadFilter
                .Matching(db.Leads.Where(l => clients.Contains(l.ClientId)), words)
                .OrderByDescending(l => l.AskedAt)
                .Select(l => l.Id)
                .Take(MostFound)
                .ToListAsync(stop);
            found = found.Where(d => leads.Contains(d.LeadId));
        }

        found = State switch
        {
            "stuck" => found.Where(d => d.EndedAt == null && d.Attempts > 0),
            "waiting" => found.Where(d => d.EndedAt == null),
            "failed" => found.Where(d => d.Status == DeliveryStatus.Failed),
            "taken" => found.Where(d => d.Status == DeliveryStatus.Done),
            "cancelled" => found.Where(d => d.Status == DeliveryStatus.Cancelled),
            _ => found,
        };
        return (clients, found, null);
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Identity;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>Leads to light a fuse for: by id, or by the filter of the list.</summary>
public sealed record LeadsToLight(IReadOnlyList<Guid>? Ids, LeadFilter? Filter);

/// <summary>What came of it.</summary>
/// <param name="Lit">How many began to burn.</param>
/// <param name="NotRelit">How many did not, by the fuse's rule for lighting again; each story says why.</param>
public sealed record LeadsLit(int Lit, int NotRelit);

/// <summary>A program's wish to light a fuse.</summary>
/// <param name="Fuse">The fuse's id or name.</param>
/// <param name="Lead">A lead's id, email or telephone number.</param>
/// <param name="Because">For the story.</param>
public sealed record LightByKey(string? Fuse, string? Lead, string? Because);

/// <summary>Lighting fuses by hand and by API.</summary>
public static class LightingEndpoints
{
    private const int MostAtOnce = 500;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/fuses/{fuseId}/light", LightAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Fuses")
            .WithSummary("Light an armed fuse by hand, for one lead or many");
        app.MapPost("/api/light", ByKeyAsync)
            .Needs(Act.EditFuses)
            .TakesKeys()
            .WithTags("Fuses")
            .WithSummary("Light a fuse with an API key")
            .WithDescription(
                "The fuse must be armed and have 'a program lights it' among what lights it. Its rules of lighting and relighting hold; the lead's story says what came of it."
            );
    }

    private static async Task<Results<Ok<LeadsLit>, ProblemHttpResult>> LightAsync(
        Guid fuseId,
        LeadsToLight light,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        LeadEventRouter events,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (fuse.State != FuseState.Armed)
            return Problems.NotNow.Because("It is not armed.");
        var now = time.Now();
        IQueryable<Lead> leads;
        if (light.Ids is { Count: > 0 and <= MostAtOnce } ids)
            leads = db.Leads.Where(l => ids.Contains(l.Id));
        else if (light is { Ids: null, Filter: { } filter })
        {
            var (found, fault) = await filter.ApplyAsync(db, scope, now, stop);
            if (fault is not null)
                return fault;
            leads = found!;
        }
        else
            return Problems.Bad("ids", $"Choose between one and {MostAtOnce} leads.");
        var chosen = await leads
            .Where(l => l.ClientId == fuse.ClientId)
            .OrderBy(l => l.Id)
            .Select(l => l.Id)
            .Take(MostAtOnce + 1)
            .ToArrayAsync(stop);
        if (chosen.Length == 0)
            return Problems.Bad("ids", "None of these leads is of the fuse's client.");
        if (chosen.Length > MostAtOnce)
            return Problems.Bad("filter", $"That is more than {MostAtOnce} leads at once. Narrow it down.");

        var me = await db.PeopleAsync([ClientAccess.UserId(http.User)], stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var held = await HeldLead.ManyAsync(db, chosen, stop);
        await events.ReadBurnsAsync(held, stop);
        var lit = 0;
        foreach (var lead in held)
        {
            var before = db.ChangeTracker.Entries<Burn>().Count(e => e.State == EntityState.Added);
            await events.LightAsync(
                lead,
                fuseId,
                LeadEvent.Of(EventKeys.ByHand, now, $"by {me.Values.FirstOrDefault() ?? "a person"}, by hand"),
                now,
                stop
            );
            if (db.ChangeTracker.Entries<Burn>().Count(e => e.State == EntityState.Added) > before)
                lit++;
        }

        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.Ok(new LeadsLit(lit, held.Count - lit));
    }

    private static async Task<Results<Ok<LeadsLit>, ProblemHttpResult>> ByKeyAsync(
        LightByKey light,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        LeadEventRouter events,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuseId = Guid.TryParse(light.Fuse, out var id) ? id : Guid.Empty;
        var fuse = await db.Fuses.AsNoTracking().FirstOrDefaultAsync(f => f.Id == fuseId || f.Name == light.Fuse, stop);
        if (fuse is null)
            return Problems.NotThere.Because($"There is no fuse '{light.Fuse}' for you.");
        var armed =
            fuse.State == FuseState.Armed
                ? await db.FuseVersions.AsNoTracking().SingleOrDefaultAsync(v => v.Id == fuse.ArmedVersionId, stop)
                : null;
        if (armed is null)
            return Problems.NotNow.Because("It is not armed.");
        if (armed.Definition.LitBy.All(l => l.Event != EventKeys.ByApi))
            return Problems.NotNow.Because(
                "Programs do not light this fuse. Add it to what lights it, and arm it again."
            );
        if (await LeadOfAsync(db, fuse.ClientId, light.Lead ?? "", stop) is not { } leadId)
            return Problems.Bad("lead", "No lead of this client has that id, email or telephone number.");
        if (light.Because is { Length: > 200 })
            return Problems.Bad("because", "At most 200 characters.");

        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { } lead)
            return Problems.Bad("lead", "No lead of this client has that id, email or telephone number.");
        var who = http.Features.Get<KeyHolder>()?.Name ?? "a program";
        await events.HappenAsync(
            lead,
            [
                LeadEvent.Of(
                    EventKeys.ByApi,
                    now,
                    $"by {who}{(string.IsNullOrWhiteSpace(light.Because) ? "" : $": {light.Because.Trim()}")}",
                    ("fuse", fuse.Id.ToString())
                ),
            ],
            null,
            now,
            stop,
            only: fuse.Id
        );
        var lit = db.ChangeTracker.Entries<Burn>().Any(e => e.State == EntityState.Added && e.Entity.FuseId == fuse.Id)
            ? 1
            : 0;
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.Ok(new LeadsLit(lit, 1 - lit));
    }

    private static async Task<Guid?> LeadOfAsync(AppDb db, Guid clientId, string named, CancellationToken stop)
    {
        if (Guid.TryParse(named, out var id))
            return await db
                .Leads.Where(l => l.Id == id && l.ClientId == clientId)
                .Select(l => (Guid?)l.Id)
                .SingleOrDefaultAsync(stop);
        var country = await db.Clients.Where(c => c.Id == clientId).Select(c => c.Country).SingleAsync(stop);
        var value = EmailReader.Read(named) is { Email: { } email }
            ? email
            : PhoneReader.Read(named, country).Phone?.E164;
        return value is null
            ? null
            : await db
                .LeadContacts.Where(c => c.ClientId == clientId && c.Value == value && !c.Test)
                .Select(c => (Guid?)c.LeadId)
                .FirstOrDefaultAsync(stop);
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>A page of leads.</summary>
public sealed record LeadList(IReadOnlyList<LeadRow> Items, int Total, int Page, int PageSize);

/// <summary>Somebody who can answer for leads.</summary>
public sealed record OwnerChoice(Guid Id, string Name);

/// <summary>What a list can be narrowed to.</summary>
public sealed record LeadChoices(
    IReadOnlyList<OwnerChoice> Owners,
    IReadOnlyList<string> Tags,
    IReadOnlyList<OwnerChoice> Forms,
    IReadOnlyList<OwnerChoice> Sources,
    IReadOnlyList<OwnedView> Views,
    IReadOnlyList<string> Stages,
    IReadOnlyList<FuseChoice> Fuses
);

/// <summary>An armed fuse that can be lit by hand.</summary>
public sealed record FuseChoice(Guid Id, Guid ClientId, string Name);

/// <summary>A view kept by name.</summary>
public sealed record OwnedView(Guid Id, string Name, string Query);

/// <summary>A view to keep.</summary>
public sealed record ViewToKeep(string? Name, string? Query);

/// <summary>Something to do to many leads: those named, or all that a filter means.</summary>
/// <param name="Ids">These; or <c>null</c> for all that <paramref name="Filter"/> means.</param>
/// <param name="Tag">To put on.</param>
/// <param name="Untag">To take off.</param>
/// <param name="Owner">A person's id, or <c>nobody</c>.</param>
/// <param name="Stage">One of the client's stages.</param>
public sealed record LeadsToChange(
    IReadOnlyList<Guid>? Ids,
    LeadFilter? Filter,
    string? Tag,
    string? Untag,
    string? Owner,
    string? Stage
);

/// <summary>How many were changed.</summary>
public sealed record LeadsChanged(int Changed);

/// <summary>The list of leads, and what is done to many at once.</summary>
public static class LeadListEndpoints
{
    private const int MostOnPage = 100;
    private const int MostAtOnce = 5000;
    private const int LongestTag = 40;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var leads = app.MapGroup("/api/leads").WithTags("Leads");
        leads.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Leads, newest asking first");
        leads
            .MapGet("/choices", ChoicesAsync)
            .Needs(Act.SeeLeads)
            .WithSummary("What a list of leads can be narrowed to");
        leads
            .MapGet("/export", LeadExport.WriteAsync)
            .Needs(Act.SeeLeads)
            .WithSummary("The leads shown, as CSV or XLSX");
        leads.MapPost("/change", ChangeAsync).Needs(Act.TouchLeads).WithSummary("Tag many, or give them to somebody");
        leads.MapPost("/views", KeepAsync).Needs(Act.SeeLeads).WithSummary("Keep a search and filter by name");
        leads.MapDelete("/views/{viewId}", DropAsync).Needs(Act.SeeLeads).WithSummary("Forget a kept view");
    }

    private static async Task<Results<Ok<LeadList>, ProblemHttpResult>> ListAsync(
        [AsParameters] LeadFilter filter,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        int page = 1
    )
    {
        if (page is < 1 or > 10_000)
            return Problems.Bad("page", "Pages are numbered from 1.");
        if (filter.SortFault() is { } odd)
            return odd;
        var (leads, fault) = await filter.ApplyAsync(db, scope, time.Now(), stop);
        if (fault is not null)
            return fault;
        var total = await leads!.CountAsync(stop);
        var ids = await filter
            .Order(leads!)
            .Skip((page - 1) * MostOnPage)
            .Take(MostOnPage)
            .Select(l => l.Id)
            .ToListAsync(stop);
        var rows = (await db.RowsAsync(db.Leads.Where(l => ids.Contains(l.Id)), stop)).ToDictionary(r => r.Id);
        return TypedResults.Ok(
            new LeadList([.. ids.Where(rows.ContainsKey).Select(id => rows[id])], total, page, MostOnPage)
        );
    }

    private static async Task<Results<Ok<LeadChoices>, ProblemHttpResult>> ChoicesAsync(
        HttpContext http,
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var tags = await db
            .Database.SqlQuery<string>(
                $"select distinct t as \"Value\" from leads, unnest(tags) t where client_id = any({clients.ToArray()}) and tags <> '{{}}' order by 1 limit 200"
            )
            .ToListAsync(stop);
        var forms = await db
            .Forms.AsNoTracking()
            .Where(f => clients.Contains(f.ClientId) && f.State != FormState.Offered)
            .OrderBy(f => f.Name)
            .Select(f => new OwnerChoice(f.Id, f.Name))
            .ToListAsync(stop);
        var sources = await db
            .Sources.AsNoTracking()
            .Where(s => clients.Contains(s.ClientId))
            .OrderBy(s => s.Name)
            .Select(s => new OwnerChoice(s.Id, s.Name))
            .ToListAsync(stop);
        var me = ClientAccess.UserId(http.User);
        var views = await db
            .LeadViews.AsNoTracking()
            .Where(v => v.UserId == me)
            .OrderBy(v => v.Name)
            .Select(v => new OwnedView(v.Id, v.Name, v.Query))
            .ToListAsync(stop);
        var stages = (
            await db
                .Clients.AsNoTracking()
                .Where(c => clients.Contains(c.Id))
                .OrderBy(c => c.Name)
                .Select(c => c.Stages)
                .ToListAsync(stop)
        )
            .SelectMany(s => s)
            .Distinct(StringComparer.Ordinal)
            .ToList();
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => clients.Contains(f.ClientId) && f.State == FuseState.Armed)
            .OrderBy(f => f.Name)
            .Select(f => new FuseChoice(f.Id, f.ClientId, f.Name))
            .ToListAsync(stop);
        return TypedResults.Ok(
            new LeadChoices(await OwnersAsync(db, clients, stop), tags, forms, sources, views, stages, fuses)
        );
    }

    private static async Task<Results<Ok<LeadsChanged>, ProblemHttpResult>> ChangeAsync(
        LeadsToChange change,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        LeadEventRouter events,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var (tag, untag) = (change.Tag?.Trim().ToLowerInvariant(), change.Untag?.Trim().ToLowerInvariant());
        if (tag is { Length: 0 or > LongestTag } || tag?.Contains(',', StringComparison.Ordinal) == true)
            return Problems.Bad("tag", $"A tag has at most {LongestTag} characters and no comma.");
        if (tag is null && untag is null && change.Owner is null && change.Stage is null)
            return Problems.Bad("tag", "Say what to change: a tag to put on or take off, an owner, or a stage.");
        var now = time.Now();
        var (leads, fault) = await MeantAsync(change, db, scope, now, stop);
        if (leads is null)
            return fault!;
        OwnerChoice? owner = null;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var ids2 = await leads.Select(l => l.Id).ToArrayAsync(stop);
        var held = await HeldLead.ManyAsync(db, ids2, stop);
        await events.ReadBurnsAsync(held, stop);
        var picked = held.Select(h => h.Lead).ToList();
        if (change.Owner is not null and not "nobody")
        {
            var all = await OwnersAsync(db, [.. picked.Select(l => l.ClientId).Distinct()], stop);
            owner = Guid.TryParse(change.Owner, out var id) ? all.FirstOrDefault(o => o.Id == id) : null;
            if (owner is null)
                return Problems.Bad("owner", "That person does not work for all of these clients.");
        }

        if (change.Stage is { } wanted && await StageFaultAsync(db, picked, wanted, stop) is { } gone)
            return Problems.Bad("stage", gone);
        var me = ClientAccess.UserId(http.User);
        var changed = 0;
        foreach (var one in held)
        {
            var told = new List<(StoryKind Kind, string Words)>();
            var happened = Change(one.Lead, change with { Tag = tag, Untag = untag }, owner, now, told);
            if (told.Count == 0)
                continue;
            changed++;
            foreach (var (kind, words) in told)
                db.AddStory(one.Lead, kind, words, now, by: me);
            if (happened.Count > 0)
                await events.HappenAsync(one, happened, null, now, stop);
        }
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.Ok(new LeadsChanged(changed));
    }

    // The leads meant, or what is wrong with how they were chosen.
    private static async Task<(IQueryable<Lead>? Leads, ProblemHttpResult? Fault)> MeantAsync(
        LeadsToChange change,
        AppDb db,
        ClientScope scope,
        Instant now,
        CancellationToken stop
    )
    {
        if (change.Ids is { Count: > 0 and <= MostAtOnce } ids)
            return (db.Leads.Where(l => ids.Contains(l.Id)), null);
        if (change is not { Ids: null, Filter: { } filter })
            return (null, Problems.Bad("ids", $"Choose between one and {MostAtOnce} leads."));
        var (found, fault) = await filter.ApplyAsync(db, scope, now, stop);
        return fault is null && await found!.CountAsync(stop) > MostAtOnce
            ? (null, Problems.Bad("filter", $"That is more than {MostAtOnce} leads at once. Narrow it down."))
            : (found, fault);
    }

    private static async Task<string?> StageFaultAsync(
        AppDb db,
        IReadOnlyList<Lead> leads,
        string stage,
        CancellationToken stop
    )
    {
        var of = leads.Select(l => l.ClientId).Distinct().ToList();
        var clients = await db.Clients.AsNoTracking().Where(c => of.Contains(c.Id)).ToListAsync(stop);
        return clients.Find(c => !c.Stages.Contains(stage)) is { } without
            ? $"{without.Name} has no stage '{stage}'; its stages are {string.Join(", ", without.Stages)}."
            : null;
    }

    // Changes one; what happened by that lights and stops fuses, what is told stands in its story.
    private static List<LeadEvent> Change(
        Lead lead,
        LeadsToChange change,
        OwnerChoice? owner,
        Instant now,
        List<(StoryKind Kind, string Words)> told
    )
    {
        var happened = new List<LeadEvent>();
        if (change.Tag is { } tag && LeadChanges.Tag(lead, tag, now) is { } tagged)
        {
            happened.Add(tagged);
            told.Add((StoryKind.Tagged, $"tagged {tag}"));
        }

        if (change.Untag is { } untag && LeadChanges.Untag(lead, untag))
            told.Add((StoryKind.Tagged, $"the tag {untag} was taken off"));
        if (change.Owner is not null && lead.OwnerId != owner?.Id)
        {
            lead.OwnerId = owner?.Id;
            told.Add(
                (
                    StoryKind.OwnerChanged,
                    owner is null ? "nobody answers for them now" : $"{owner.Name} answers for them now"
                )
            );
        }

        if (change.Stage is { } stage && LeadChanges.Stage(lead, stage, now) is { } reached)
        {
            happened.Add(reached);
            told.Add((StoryKind.StageReached, stage));
        }

        return happened;
    }

    private static async Task<Results<Ok<OwnedView>, ProblemHttpResult>> KeepAsync(
        ViewToKeep keep,
        HttpContext http,
        AppDb db,
        CancellationToken stop
    )
    {
        var (name, query) = ((keep.Name ?? "").Trim(), (keep.Query ?? "").TrimStart('?'));
        if (name.Length is 0 or > 60)
            return Problems.Bad("name", "Give it a name of at most 60 characters.");
        if (query.Length > 1500)
            return Problems.Bad("query", "That is too long to keep.");
        var me = ClientAccess.UserId(http.User)!.Value;
        var view = await db.LeadViews.SingleOrDefaultAsync(v => v.UserId == me && v.Name == name, stop);
        if (view is null && await db.LeadViews.CountAsync(v => v.UserId == me, stop) >= 100)
            return Problems.Bad("name", "You keep a hundred views already. Forget one first.");
        if (view is null)
            db.LeadViews.Add(
                view = new()
                {
                    Id = Guid.CreateVersion7(),
                    UserId = me,
                    Name = name,
                }
            );
        view.Query = query;
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(new OwnedView(view.Id, name, query));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DropAsync(
        Guid viewId,
        HttpContext http,
        AppDb db,
        CancellationToken stop
    )
    {
        var me = ClientAccess.UserId(http.User);
        return await db.LeadViews.Where(v => v.Id == viewId && v.UserId == me).ExecuteDeleteAsync(stop) > 0
            ? TypedResults.NoContent()
            : Problems.NotThere.Because("You keep no such view.");
    }

    // Whoever works for all of these clients.
    private static async Task<IReadOnlyList<OwnerChoice>> OwnersAsync(
        AppDb db,
        IReadOnlyList<Guid> clients,
        CancellationToken stop
    )
    {
        var rows = await db
            .Memberships.AsNoTracking()
            .Where(m => m.ClientId == null || clients.Contains(m.ClientId.Value))
            .Join(
                db.Users,
                m => m.UserId,
                u => u.Id,
                (m, u) =>
                    new
                    {
                        u.Id,
                        u.Name,
                        m.ClientId,
                    }
            )
            .ToListAsync(stop);
        return
        [
            .. rows.GroupBy(r => (r.Id, r.Name))
                .Where(g => g.Any(r => r.ClientId is null) || clients.All(c => g.Any(r => r.ClientId == c)))
                .Select(g => new OwnerChoice(g.Key.Id, g.Key.Name))
                .OrderBy(o => o.Name, StringComparer.Ordinal),
        ];
    }
}

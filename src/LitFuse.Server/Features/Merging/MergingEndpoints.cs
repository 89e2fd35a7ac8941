using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Merging;

/// <summary>One of the two of a conflict.</summary>
public sealed record ConflictSide(
    Guid Id,
    string Name,
    string? Email,
    string? Phone,
    Instant AskedAt,
    int Submissions,
    IReadOnlyDictionary<string, string> Fields
);

/// <summary>Two leads that may be one person.</summary>
/// <param name="RegroupId">Of the merge, where it was decided so, and can be undone.</param>
public sealed record ConflictRow(
    Guid Id,
    string Client,
    string Words,
    Instant FoundAt,
    ConflictState State,
    string? DecidedBy,
    Instant? DecidedAt,
    ConflictSide? Left,
    ConflictSide? Right,
    Guid? RegroupId
);

/// <summary>Conflicts, the open ones first.</summary>
public sealed record ConflictList(IReadOnlyList<ConflictRow> Rows, int Open);

/// <summary>Which of the two stays.</summary>
public sealed record MergeChoice(Guid Keep, Guid Gone);

/// <summary>Submissions that are another person's.</summary>
public sealed record SplitChoice(IReadOnlyList<Guid>? Submissions);

/// <summary>What was done, to be undone by.</summary>
public sealed record RegroupMade(Guid Id, Guid LeadId);

/// <summary>Same person or not: conflicts, merging, splitting, and taking it back.</summary>
public static class MergingEndpoints
{
    private const int MostOnPage = 100;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var conflicts = app.MapGroup("/api/conflicts").WithTags("Same person?");
        conflicts.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Leads that may be one person");
        conflicts.MapPost("/{conflictId}/apart", ApartAsync).Needs(Act.TouchLeads).WithSummary("They are two people");
        app.MapPost("/api/leads/merge", MergeAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Same person?")
            .WithSummary("They are one person");
        app.MapPost("/api/leads/{leadId}/split", SplitAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Same person?")
            .WithSummary("Some of its submissions are another person's");
        app.MapPost("/api/regroups/{regroupId}/undo", UndoAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Same person?")
            .WithSummary("Take a merge or a split back");
    }

    private static async Task<Results<Ok<ConflictList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var rows = await db
            .Conflicts.AsNoTracking()
            .Where(c => clients.Contains(c.ClientId))
            .OrderBy(c => c.State == ConflictState.Open ? 0 : 1)
            .ThenByDescending(c => c.FoundAt)
            .Take(MostOnPage)
            .ToListAsync(stop);
        var ids = rows.SelectMany(r => new[] { r.LeadId, r.OtherId }).Distinct().ToList();
        var leads = await db
            .Leads.AsNoTracking()
            .Where(l => ids.Contains(l.Id))
            .Select(l => new { Lead = l, Submissions = db.Submissions.Count(s => s.LeadId == l.Id) })
            .ToDictionaryAsync(l => l.Lead.Id, stop);
        var names = await db
            .Clients.AsNoTracking()
            .Where(c => clients.Contains(c.Id))
            .ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var people = await db.PeopleAsync(rows.Select(r => r.DecidedBy), stop);
        var merges = await db
            .Regroups.AsNoTracking()
            .Where(r => r.Kind == RegroupKind.Merge && r.UndoneAt == null && ids.Contains(r.FromId))
            .ToListAsync(stop);
        ConflictSide? Side(Guid id) =>
            leads.TryGetValue(id, out var l)
                ? new(id, l.Lead.ShownName(), l.Lead.Email, l.Lead.Phone, l.Lead.AskedAt, l.Submissions, l.Lead.Fields)
                : null;
        return TypedResults.Ok(
            new ConflictList(
                [
                    .. rows.Select(r => new ConflictRow(
                        r.Id,
                        names[r.ClientId],
                        r.Words,
                        r.FoundAt,
                        r.State,
                        PeopleNames.Of(people, r.DecidedBy),
                        r.DecidedAt,
                        Side(r.LeadId),
                        Side(r.OtherId),
                        r.State == ConflictState.Merged
                            ? merges.Find(m => m.FromId == r.LeadId || m.FromId == r.OtherId)?.Id
                            : null
                    )),
                ],
                await db.Conflicts.CountAsync(c => clients.Contains(c.ClientId) && c.State == ConflictState.Open, stop)
            )
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ApartAsync(
        Guid conflictId,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Conflicts.SingleOrDefaultAsync(c => c.Id == conflictId, stop) is not { } conflict)
            return Problems.No("conflict");
        if (conflict.State != ConflictState.Open)
            return Problems.NotNow.Because("Somebody has decided it already.");
        (conflict.State, conflict.DecidedAt, conflict.DecidedBy) = (
            ConflictState.Apart,
            time.Now(),
            ClientAccess.UserId(http.User)
        );
        db.NoteChange(conflict.ClientId, ChangeKind.Conflict, conflict.LeadId);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<RegroupMade>, ProblemHttpResult>> MergeAsync(
        MergeChoice choice,
        HttpContext http,
        AppDb db,
        LeadRegrouper run,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (choice.Keep == choice.Gone)
            return Problems.Bad("gone", "A lead cannot be merged with itself.");
        var two = await db
            .Leads.AsNoTracking()
            .Where(l => l.Id == choice.Keep || l.Id == choice.Gone)
            .ToListAsync(stop);
        if (two.Count < 2)
            return Problems.NotThere.Because("One of the two is not there, or not yours to see.");
        if (two[0].ClientId != two[1].ClientId)
            return Problems.Bad("gone", "They are leads of different clients.");
        if (two[0].Test != two[1].Test)
            return Problems.Bad("gone", "One of them is a test.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, two[0].ClientId, stop);
        var me = ClientAccess.UserId(http.User)!.Value;
        if (await run.MergeAsync(choice.Keep, choice.Gone, me, stop) is not { } made)
            return Problems.NotNow.Because("Somebody merged one of the two meanwhile.");
        var now = time.Now();
        await db
            .Conflicts.Where(c =>
                (c.LeadId == choice.Keep && c.OtherId == choice.Gone)
                || (c.LeadId == choice.Gone && c.OtherId == choice.Keep)
            )
            .ExecuteUpdateAsync(
                c =>
                    c.SetProperty(x => x.State, ConflictState.Merged)
                        .SetProperty(x => x.DecidedAt, now)
                        .SetProperty(x => x.DecidedBy, me),
                stop
            );
        // A conflict of either with a third goes on with the one that stays.
        await db
            .Conflicts.Where(c => c.State == ConflictState.Open && c.LeadId == choice.Gone)
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.LeadId, choice.Keep), stop);
        await db
            .Conflicts.Where(c => c.State == ConflictState.Open && c.OtherId == choice.Gone)
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.OtherId, choice.Keep), stop);
        db.NoteChange(two[0].ClientId, ChangeKind.Conflict, choice.Keep);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new RegroupMade(made.Id, choice.Keep));
    }

    private static async Task<Results<Ok<RegroupMade>, ProblemHttpResult>> SplitAsync(
        Guid leadId,
        SplitChoice choice,
        HttpContext http,
        AppDb db,
        LeadRegrouper run,
        CancellationToken stop
    )
    {
        var lead = await db.Leads.AsNoTracking().SingleOrDefaultAsync(l => l.Id == leadId, stop);
        if (lead is null)
            return Problems.No("lead");
        var own = await db.Submissions.Where(s => s.LeadId == leadId).Select(s => s.Id).ToListAsync(stop);
        var wanted = (choice.Submissions ?? []).Distinct().ToList();
        if (wanted.Count == 0 || wanted.Exists(w => !own.Contains(w)))
            return Problems.Bad("submissions", "Choose at least one of this lead's submissions.");
        if (wanted.Count == own.Count)
            return Problems.Bad("submissions", "Leave it at least one.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, lead.ClientId, stop);
        if (await run.SplitAsync(leadId, wanted, ClientAccess.UserId(http.User)!.Value, stop) is not { } made)
            return Problems.NotNow.Because("Somebody merged them with another lead meanwhile.");
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new RegroupMade(made.Id, made.IntoId));
    }

    private static async Task<Results<Ok<RegroupMade>, ProblemHttpResult>> UndoAsync(
        Guid regroupId,
        HttpContext http,
        AppDb db,
        LeadRegrouper run,
        CancellationToken stop
    )
    {
        var regroup = await db.Regroups.SingleOrDefaultAsync(r => r.Id == regroupId, stop);
        if (regroup is null)
            return Problems.No("merge or split");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, regroup.ClientId, stop);
        await db.Entry(regroup).ReloadAsync(stop);
        if (regroup.UndoneAt is not null)
            return Problems.NotNow.Because("It was taken back already.");
        if (await run.UndoAsync(regroup, ClientAccess.UserId(http.User)!.Value, stop) is { } hindrance)
            return Problems.NotNow.Because(hindrance);
        db.NoteChange(regroup.ClientId, ChangeKind.Conflict, regroup.FromId);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new RegroupMade(regroup.Id, regroup.FromId));
    }

    // As an import: nobody becomes or joins a lead of this client meanwhile.
    private static Task<int> LockAsync(AppDb db, Guid clientId, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({clientId.ToString("N")}, 1))",
            stop
        );
}

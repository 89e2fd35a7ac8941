using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A step of a burn, by its id.</summary>
public sealed record StepOfBurn(string StepId);

/// <summary>A burn that would go on by another version.</summary>
/// <param name="Changes">What that does to it; none where it goes on as it is.</param>
public sealed record BurnToMove(
    Guid BurnId,
    Guid LeadId,
    string Lead,
    int FromVersion,
    IReadOnlyList<MoveChange> Changes
);

/// <summary>Burns in flight on earlier versions of a fuse.</summary>
/// <param name="Total">How many there are; only the first hundred are listed.</param>
public sealed record MovePreview(int ToVersion, int Total, IReadOnlyList<BurnToMove> Burns);

/// <summary>How many were moved.</summary>
public sealed record BurnsMoved(int Moved);

/// <summary>What people do with burns: stop, skip, replay, let go, move to the newest version.</summary>
public static class BurnsEndpoints
{
    private const int MostListed = 100;
    private const int MostMoved = 2000;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var burns = app.MapGroup("/api/burns/{burnId}").WithTags("Burns");
        burns
            .MapPost("/stop", StopAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Stop a burn: what waits for lead and team is cancelled, and it hears no more");
        burns.MapPost("/skip", SkipAsync).Needs(Act.TouchLeads).WithSummary("Leave out a step that waits");
        burns
            .MapPost("/replay", ReplayAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Do a step that failed again, and what stopped because of it");
        burns.MapPost("/let-go", LetGoAsync).Needs(Act.TouchLeads).WithSummary("Let a burn that is held go on");
        burns
            .MapPost("/run-again", RunAgainAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Run a burn again that was set aside because deciding for it failed");
        app.MapGet("/api/fuses/{fuseId}/move", PreviewAsync)
            .Needs(Act.EditFuses)
            .WithTags("Burns")
            .WithSummary("What moving burns in flight to the armed version would change");
        app.MapPost("/api/fuses/{fuseId}/move", MoveAsync)
            .Needs(Act.EditFuses)
            .WithTags("Burns")
            .WithSummary("Move burns in flight to the armed version");
    }

    private static Task<Results<NoContent, ProblemHttpResult>> StopAsync(
        Guid burnId,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    ) =>
        BringAsync(
            burnId,
            http,
            db,
            burns,
            signals,
            time,
            (_, who) => new BurnEvent.Ended($"{who} stopped it"),
            b => b.Hears ? null : "It has ended already.",
            stop
        );

    private static Task<Results<NoContent, ProblemHttpResult>> SkipAsync(
        Guid burnId,
        StepOfBurn step,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    ) =>
        BringAsync(
            burnId,
            http,
            db,
            burns,
            signals,
            time,
            (_, who) => new BurnEvent.Skipped(step.StepId, $"{who} left it out"),
            b =>
                b.Steps.Any(s => s.StepId == step.StepId && s.Status == StepStatus.Waiting)
                    ? null
                    : "That step does not wait.",
            stop
        );

    private static Task<Results<NoContent, ProblemHttpResult>> ReplayAsync(
        Guid burnId,
        StepOfBurn step,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    ) =>
        BringAsync(
            burnId,
            http,
            db,
            burns,
            signals,
            time,
            (_, who) => new BurnEvent.Replayed(step.StepId, $"{who} has it done again"),
            b =>
                b.Steps.Any(s => s.StepId == step.StepId && s.Status is StepStatus.Failed or StepStatus.Cancelled)
                    ? null
                    : "That step neither failed nor was cancelled.",
            stop
        );

    private static Task<Results<NoContent, ProblemHttpResult>> LetGoAsync(
        Guid burnId,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    ) =>
        BringAsync(
            burnId,
            http,
            db,
            burns,
            signals,
            time,
            (_, who) => new BurnEvent.LetGo($"{who} let it go on"),
            b => b.Held is null ? "It is not held." : null,
            stop
        );

    private static Task<Results<NoContent, ProblemHttpResult>> RunAgainAsync(
        Guid burnId,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    ) =>
        WithAsync(
            burnId,
            http,
            db,
            signals,
            (burn, lead, who) => burns.RunAgainAsync(burn, lead, who, time.Now(), stop),
            stop
        );

    private static Task<Results<NoContent, ProblemHttpResult>> BringAsync(
        Guid burnId,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        Func<Burn, string, BurnEvent> what,
        Func<BurnState, string?> fault,
        CancellationToken stop
    ) =>
        WithAsync(
            burnId,
            http,
            db,
            signals,
            async (burn, lead, who) =>
            {
                if (fault(burn.State) is { } why)
                    return why;
                await burns.BringAsync(burnId, lead, what(burn, who), time.Now(), stop);
                return null;
            },
            stop
        );

    private static async Task<Results<NoContent, ProblemHttpResult>> WithAsync(
        Guid burnId,
        HttpContext http,
        AppDb db,
        Signals signals,
        Func<Burn, HeldLead, string, Task<string?>> act,
        CancellationToken stop
    )
    {
        if (!await db.Burns.AnyAsync(b => b.Id == burnId, stop))
            return Problems.No("burn");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (
            await HeldLead.OfAsync(
                db,
                () => db.Burns.Where(b => b.Id == burnId).Select(b => b.LeadId).ToListAsync(stop),
                stop
            )
                is not [{ Lead.MergedInto: null } lead]
            || await HeldLead.BurnsAsync(db, [lead], [burnId], stop) is not [var burn]
        )
            return Problems.No("lead");
        var who = (await db.PeopleAsync([ClientAccess.UserId(http.User)], stop)).Values.FirstOrDefault() ?? "A person";
        if (await act(burn, lead, who) is { } why)
            return Problems.NotNow.Because(why);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<MovePreview>, ProblemHttpResult>> PreviewAsync(
        Guid fuseId,
        AppDb db,
        ClientConfigCache setups,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await ArmedAsync(db, fuseId, stop) is not { } to)
            return Problems.NotThere.Because("There is no such fuse for you, or it is not armed.");
        var flying = db
            .Burns.AsNoTracking()
            .Where(b =>
                b.FuseId == fuseId
                && b.FuseVersionId != to.Id
                && (b.Status == BurnStatus.Burning || b.Status == BurnStatus.Listening)
            );
        var total = await flying.CountAsync(stop);
        var rows = await flying
            .OrderByDescending(b => b.LitAt)
            .Take(MostListed)
            .Join(db.Leads, b => b.LeadId, l => l.Id, (b, l) => new { Burn = b, Lead = l })
            .ToListAsync(stop);
        var listed = new List<BurnToMove>();
        foreach (var row in rows)
        {
            var (from, fuse) = await setups.VersionAsync(db, row.Burn.FuseVersionId, stop);
            var setup = await setups.ReadAsync(db, row.Burn.ClientId, stop);
            var moved = FuseMove.To(
                fuse,
                setups.Compiled(to).Fuse,
                row.Burn.State,
                LeadFactsReader.Bare(row.Lead, setup.Client),
                time.Now()
            );
            listed.Add(new(row.Burn.Id, row.Lead.Id, row.Lead.ShownName(), from.Number, moved.Changes));
        }

        return TypedResults.Ok(new MovePreview(to.Number, total, listed));
    }

    private static async Task<Results<Ok<BurnsMoved>, ProblemHttpResult>> MoveAsync(
        Guid fuseId,
        HttpContext http,
        AppDb db,
        ClientConfigCache setups,
        LeadEventRouter events,
        StoryWriter writer,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await ArmedAsync(db, fuseId, stop) is not { } to)
            return Problems.NotThere.Because("There is no such fuse for you, or it is not armed.");
        var (now, who) = (
            time.Now(),
            (await db.PeopleAsync([ClientAccess.UserId(http.User)], stop)).Values.FirstOrDefault() ?? "A person"
        );
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var ids = await db
            .Burns.Where(b =>
                b.FuseId == fuseId
                && b.FuseVersionId != to.Id
                && (b.Status == BurnStatus.Burning || b.Status == BurnStatus.Listening)
            )
            .OrderBy(b => b.Id)
            .Take(MostMoved)
            .Select(b => b.LeadId)
            .Distinct()
            .ToArrayAsync(stop);
        var leads = (await HeldLead.ManyAsync(db, ids, stop)).ToDictionary(l => l.Id);
        var burns = (await HeldLead.HearingAsync(db, leads.Values, stop)).FindAll(b =>
            b.FuseId == fuseId && b.FuseVersionId != to.Id
        );
        foreach (var burn in burns)
        {
            var lead = leads[burn.LeadId];
            var (from, fuse) = await setups.VersionAsync(db, burn.FuseVersionId, stop);
            var setup = await setups.ReadAsync(db, burn.ClientId, stop);
            var moved = FuseMove.To(
                fuse,
                setups.Compiled(to).Fuse,
                burn.State,
                LeadFactsReader.Bare(lead.Lead, setup.Client),
                now
            );
            (burn.State, burn.FuseVersionId) = (moved.State, to.Id);
            writer.Add(
                burn,
                lead.Lead,
                to,
                StoryKind.BurnMoved,
                null,
                null,
                $"{who} moved it from v{from.Number}{(moved.Changes.Count == 0 ? "" : ": " + string.Join("; ", moved.Changes.Select(c => $"“{c.Step}” {c.Words}")))}",
                now
            );
            await events.BringAsync(burn, lead, new BurnEvent.Woken(), now, stop);
        }

        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("burns", stop);
        await transaction.CommitAsync(stop);
        signals.Burns.Pulse();
        signals.Deliveries.Pulse();
        return TypedResults.Ok(new BurnsMoved(burns.Count));
    }

    private static async Task<FuseVersion?> ArmedAsync(AppDb db, Guid fuseId, CancellationToken stop) =>
        await db
            .Fuses.Where(f => f.Id == fuseId && f.State == FuseState.Armed)
            .Join(db.FuseVersions, f => f.ArmedVersionId, v => v.Id, (_, v) => v)
            .AsNoTracking()
            .SingleOrDefaultAsync(stop);
}

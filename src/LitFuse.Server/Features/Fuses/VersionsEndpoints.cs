using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A version that was armed.</summary>
/// <param name="Burns">How many burns it has lit.</param>
/// <param name="Burning">How many of them may still do something.</param>
/// <param name="Sentence">What it does, said from its content.</param>
/// <param name="Changes">How it differs from the version before it.</param>
public sealed record FuseVersionRow(
    int Number,
    Instant ArmedAt,
    string? ArmedBy,
    bool Armed,
    int Burns,
    int Burning,
    string Sentence,
    IReadOnlyList<FuseDifference> Changes
);

/// <summary>All versions of a fuse, newest first.</summary>
/// <param name="Draft">How the draft differs from what is armed, or was last; <c>null</c> where there is none.</param>
public sealed record FuseVersionList(IReadOnlyList<FuseVersionRow> Versions, IReadOnlyList<FuseDifference>? Draft);

/// <summary>Two versions side by side.</summary>
/// <param name="From">The definition of the one.</param>
/// <param name="To">The definition of the other.</param>
public sealed record FuseComparison(FuseDefinition From, FuseDefinition To, IReadOnlyList<FuseDifference> Differences);

/// <summary>A version to be brought back as the draft.</summary>
/// <param name="Revision">The draft that was looked at.</param>
public sealed record VersionToBringBack(int Revision);

/// <summary>
/// Versions of a fuse: each that was armed is kept; they are compared, and one is brought back as a draft.
/// </summary>
public static class VersionsEndpoints
{
    private const int Most = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var versions = app.MapGroup("/api/fuses/{fuseId}/versions").WithTags("Fuses");
        versions
            .MapGet("/", ListAsync)
            .Needs(Act.SeeFuses)
            .WithSummary("Versions that were armed, by whom, and what changed");
        versions
            .MapGet("/compare", CompareAsync)
            .Needs(Act.SeeFuses)
            .WithSummary("Two versions side by side; 0 is the draft");
        versions
            .MapPost("/{number}/bring-back", BringBackAsync)
            .Needs(Act.EditFuses)
            .WithSummary("Make a version the draft again");
    }

    private static async Task<Results<Ok<FuseVersionList>, ProblemHttpResult>> ListAsync(
        Guid fuseId,
        AppDb db,
        StepCatalog catalog,
        EventCatalog events,
        CancellationToken stop
    )
    {
        if (await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop) is not { } fuse)
            return Problems.No("fuse");
        var versions = await db
            .FuseVersions.AsNoTracking()
            .Where(v => v.FuseId == fuseId)
            .OrderByDescending(v => v.Number)
            .Take(Most)
            .ToListAsync(stop);
        var people = await db.PeopleAsync(versions.Select(v => v.ArmedBy), stop);
        var burns = await db
            .Burns.Where(b => b.FuseId == fuseId)
            .GroupBy(b => b.FuseVersionId)
            .Select(g => new
            {
                g.Key,
                All = g.Count(),
                Open = g.Count(b => b.Status == BurnStatus.Burning || b.Status == BurnStatus.Listening),
            })
            .ToDictionaryAsync(g => g.Key, stop);
        var rows = versions
            .Select(
                (v, i) =>
                    new FuseVersionRow(
                        v.Number,
                        v.ArmedAt,
                        PeopleNames.Of(people, v.ArmedBy),
                        fuse.State == FuseState.Armed && v.Id == fuse.ArmedVersionId,
                        burns.GetValueOrDefault(v.Id)?.All ?? 0,
                        burns.GetValueOrDefault(v.Id)?.Open ?? 0,
                        FuseSentence.Say(v.Definition),
                        i + 1 < versions.Count
                            ? FuseComparer.Compare(versions[i + 1].Definition, v.Definition, catalog, events)
                            : []
                    )
            )
            .ToList();
        return TypedResults.Ok(
            new FuseVersionList(
                rows,
                fuse.Draft is { } draft && versions.Count > 0
                    ? FuseComparer.Compare(
                        versions.Find(v => v.Id == fuse.ArmedVersionId)?.Definition ?? versions[0].Definition,
                        draft,
                        catalog,
                        events
                    )
                    : null
            )
        );
    }

    private static async Task<Results<Ok<FuseComparison>, ProblemHttpResult>> CompareAsync(
        Guid fuseId,
        AppDb db,
        StepCatalog catalog,
        EventCatalog events,
        CancellationToken stop,
        int from = 0,
        int to = 0
    )
    {
        if (await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop) is not { } fuse)
            return Problems.No("fuse");
        async Task<FuseDefinition?> Of(int number) =>
            number == 0
                ? fuse.Draft
                : await db
                    .FuseVersions.AsNoTracking()
                    .Where(v => v.FuseId == fuseId && v.Number == number)
                    .Select(v => v.Definition)
                    .SingleOrDefaultAsync(stop);
        if (await Of(from) is not { } one || await Of(to) is not { } other)
            return Problems.NotThere.Because("There is no such version of it.");
        return TypedResults.Ok(new FuseComparison(one, other, FuseComparer.Compare(one, other, catalog, events)));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> BringBackAsync(
        Guid fuseId,
        int number,
        VersionToBringBack back,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Fuses.SingleOrDefaultAsync(f => f.Id == fuseId, stop) is not { } fuse)
            return Problems.No("fuse");
        if (
            await db
                .FuseVersions.AsNoTracking()
                .SingleOrDefaultAsync(v => v.FuseId == fuseId && v.Number == number, stop)
            is not { } version
        )
            return Problems.NotThere.Because("There is no such version of it.");
        if (fuse.DraftRevision != back.Revision)
            return Problems.DraftMoved.Because();
        (fuse.Draft, fuse.Name, fuse.DraftBy, fuse.DraftAt) = (
            version.Definition,
            version.Definition.Name,
            ClientAccess.UserId(http.User),
            time.Now()
        );
        fuse.DraftRevision++;
        db.NoteChange(fuse.ClientId, ChangeKind.Fuse, fuse.Id);
        try
        {
            await db.SaveAndNotifyAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Problems.DraftMoved.Because();
        }

        return TypedResults.NoContent();
    }
}

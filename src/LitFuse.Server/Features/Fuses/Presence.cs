using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>One says that one is here.</summary>
/// <param name="Edited">One has unsaved edits, or has just saved some.</param>
/// <param name="Left">One goes.</param>
public sealed record HereTold(bool Edited, bool Left);

/// <summary>Somebody else who is here.</summary>
/// <param name="Edits">They changed something within the last minutes.</param>
public sealed record HereToo(Guid Id, string Name, bool Edits);

/// <summary>Who else is here.</summary>
public sealed record WhoIsHere(IReadOnlyList<HereToo> People);

/// <summary>Who looks at a fuse's sheet just now.</summary>
public static class Presence
{
    private static readonly Duration Fresh = Duration.FromSeconds(50);
    private static readonly Duration Editing = Duration.FromMinutes(3);

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/fuses/{fuseId}/here", HereAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Fuses")
            .WithSummary("Say that one looks at a fuse, and hear who else does; to be said again every twenty seconds");

    private static async Task<Results<Ok<WhoIsHere>, ProblemHttpResult>> HereAsync(
        Guid fuseId,
        HereTold told,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var clientId = await db
            .Fuses.Where(f => f.Id == fuseId)
            .Select(f => (Guid?)f.ClientId)
            .SingleOrDefaultAsync(stop);
        if (clientId is null)
            return Problems.No("fuse");
        var (now, me) = (time.Now(), ClientAccess.UserId(http.User)!.Value);
        Instant? edited = told.Edited ? now : null;
        var before = await db
            .FusePresences.AsNoTracking()
            .SingleOrDefaultAsync(p => p.FuseId == fuseId && p.UserId == me, stop);
        if (told.Left)
            await db.FusePresences.Where(p => p.FuseId == fuseId && p.UserId == me).ExecuteDeleteAsync(stop);
        else
        {
            await db.Database.ExecuteSqlAsync(
                $"""
                insert into fuse_presences (fuse_id, user_id, client_id, seen_at, edited_at) values ({fuseId}, {me}, {clientId}, {now}, {edited})
                on conflict (fuse_id, user_id) do update set seen_at = excluded.seen_at, edited_at = coalesce(excluded.edited_at, case when fuse_presences.seen_at < {now
                    - Fresh} then null else fuse_presences.edited_at end)
                """,
                stop
            );
        }

        // Others hear at once of who comes and goes; the rest can wait for their own turn.
        var begins = told.Edited && !(before?.EditedAt > now - Editing / 3);
        if (told.Left || before is null || before.SeenAt < now - Fresh || begins)
        {
            db.NoteChange(clientId.Value, ChangeKind.Here, fuseId);
            await db.SaveAndNotifyAsync(stop);
        }

        var people = await db
            .FusePresences.AsNoTracking()
            .Where(p => p.FuseId == fuseId && p.UserId != me && p.SeenAt > now - Fresh)
            .Join(
                db.Users,
                p => p.UserId,
                u => u.Id,
                (p, u) =>
                    new
                    {
                        u.Id,
                        u.Name,
                        p.EditedAt,
                    }
            )
            .OrderBy(p => p.Name)
            .ToListAsync(stop);
        return TypedResults.Ok(
            new WhoIsHere(people.ConvertAll(p => new HereToo(p.Id, p.Name, p.EditedAt > now - Editing)))
        );
    }
}

using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Notices;

/// <summary>A notice as it is read.</summary>
/// <param name="About">The lead's name, or the form's.</param>
public sealed record NoticeRow(
    Guid Id,
    Guid? LeadId,
    Guid? FormId,
    string About,
    string Words,
    Instant At,
    Instant? ReadAt
);

/// <summary>My notices, newest first.</summary>
public sealed record NoticeList(IReadOnlyList<NoticeRow> Notices, int Unread);

/// <summary>What fuses told me in Lit Fuse.</summary>
public static class NoticesEndpoints
{
    private const int MostShown = 100;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var notices = app.MapGroup("/api/notices").WithTags("Notices");
        notices.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("My notices, newest first");
        notices.MapPost("/read", ReadAsync).Needs(Act.SeeLeads).WithSummary("I have read them");
    }

    private static async Task<Ok<NoticeList>> ListAsync(HttpContext http, AppDb db, CancellationToken stop)
    {
        var me = ClientAccess.UserId(http.User);
        var rows = await db
            .Notices.AsNoTracking()
            .Where(n => n.UserId == me)
            .OrderByDescending(n => n.At)
            .Take(MostShown)
            .Select(n => new
            {
                Notice = n,
                Lead = db.Leads.FirstOrDefault(l => l.Id == n.LeadId),
                Form = db.Forms.Where(f => f.Id == n.FormId).Select(f => f.Name).FirstOrDefault(),
            })
            .ToListAsync(stop);
        var unread = await db.Notices.CountAsync(n => n.UserId == me && n.ReadAt == null, stop);
        return TypedResults.Ok(
            new NoticeList(
                [
                    .. rows.Where(r => r.Lead is not null || r.Form is not null)
                        .OrderByDescending(r => r.Notice.At)
                        .Select(r => new NoticeRow(
                            r.Notice.Id,
                            r.Lead?.Id,
                            r.Lead is null ? r.Notice.FormId : null,
                            r.Lead?.ShownName() ?? r.Form!,
                            r.Notice.Words,
                            r.Notice.At,
                            r.Notice.ReadAt
                        )),
                ],
                unread
            )
        );
    }

    private static async Task<NoContent> ReadAsync(
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var (me, now) = (ClientAccess.UserId(http.User), time.Now());
        await db
            .Notices.Where(n => n.UserId == me && n.ReadAt == null)
            .ExecuteUpdateAsync(n => n.SetProperty(x => x.ReadAt, now), stop);
        return TypedResults.NoContent();
    }
}

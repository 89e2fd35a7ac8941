using LitFuse.Core.Continuity;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>A cut as it is shown.</summary>
/// <param name="Since">Since when.</param>
public sealed record CutRow(JointKind Joint, string Cause, Mend Mend, Instant Since);

/// <summary>
/// A form's line as it is shown, wherever the form, a fuse that it lights, or a connection that it goes through is.
/// </summary>
/// <param name="Joints">In the order in which a lead passes them.</param>
/// <param name="Cuts">The first from the form's end first.</param>
/// <param name="Waiting">Submissions that wait.</param>
/// <param name="WaitingSince">When the first of them came.</param>
/// <param name="RestsSince">Since when somebody has said that the form is meant to rest.</param>
/// <param name="ProvedAt">When a lead last went all the way.</param>
/// <param name="ProvedByTest">That was a test.</param>
/// <param name="JudgedAt">When it last was judged another.</param>
/// <param name="Fuses">The armed fuses that the form lights.</param>
public sealed record LineRow(
    Guid FormId,
    string Form,
    Guid ClientId,
    string Client,
    Guid SourceId,
    string Source,
    LineState State,
    IReadOnlyList<Joint> Joints,
    IReadOnlyList<CutRow> Cuts,
    int Waiting,
    Instant? WaitingSince,
    Instant? RestsSince,
    Instant? ProvedAt,
    bool ProvedByTest,
    Instant? JudgedAt,
    IReadOnlyList<Guid> Fuses
);

/// <summary>A line that was mended and that no lead has gone down since.</summary>
/// <param name="Proving">A test is on its way down it.</param>
public sealed record MendedRow(Guid FormId, string Form, Guid ClientId, string Client, Instant MendedAt, bool Proving);

/// <summary>Reads lines as they are shown.</summary>
public static class LineRows
{
    private const int MostMended = 100;

    /// <summary>The lines of these watches, cut ones first, the longest cut first.</summary>
    public static async Task<IReadOnlyList<LineRow>> LinesAsync(
        this AppDb db,
        IQueryable<FormWatch> watches,
        CancellationToken stop
    )
    {
        var found = await watches
            .AsNoTracking()
            .Where(w => w.Line != null)
            .Join(
                db.Forms,
                w => w.FormId,
                f => f.Id,
                (w, f) =>
                    new NamedWatch(
                        w,
                        f.Name,
                        f.SourceId,
                        db.Clients.Where(c => c.Id == w.ClientId).Select(c => c.ShortName).First(),
                        db.Sources.Where(s => s.Id == f.SourceId).Select(s => s.Name).First()
                    )
            )
            .ToListAsync(stop);
        var ids = found.ConvertAll(f => f.Watch.FormId);
        var since = (
            await db.LineCuts.AsNoTracking().Where(c => ids.Contains(c.FormId) && c.ToAt == null).ToListAsync(stop)
        ).ToLookup(c => (c.FormId, c.Key), c => c.FromAt);
        var waiting = await db
            .Submissions.Where(s => ids.Contains(s.FormId) && s.Status == SubmissionStatus.Waiting)
            .GroupBy(s => s.FormId)
            .Select(g => new Waits(g.Key, g.Count(), g.Min(s => s.ReceivedAt)))
            .ToDictionaryAsync(g => g.FormId, stop);
        return
        [
            .. found
                .Select(f => RowOf(f, since, waiting.GetValueOrDefault(f.Watch.FormId)))
                .OrderBy(l => l.State)
                .ThenByDescending(l => l.Waiting > 0)
                .ThenBy(l => l.Cuts.Count > 0 ? l.Cuts[0].Since : Instant.MaxValue)
                .ThenBy(l => l.Form, StringComparer.Ordinal),
        ];
    }

    private sealed record NamedWatch(FormWatch Watch, string Form, Guid SourceId, string Client, string Source);

    private sealed record Waits(Guid FormId, int Count, Instant Since);

    private static LineRow RowOf(NamedWatch of, ILookup<(Guid FormId, string Key), Instant> since, Waits? waits)
    {
        var (watch, line) = (of.Watch, of.Watch.Line!);
        return new(
            watch.FormId,
            of.Form,
            watch.ClientId,
            of.Client,
            of.SourceId,
            of.Source,
            line.State,
            line.Joints,
            [
                .. line.Cuts.Select(c => new CutRow(
                    c.Joint,
                    c.Cause,
                    c.Mend,
                    since[(watch.FormId, c.Key)].FirstOrDefault(watch.JudgedAt ?? Instant.MinValue)
                )),
            ],
            waits?.Count ?? 0,
            waits?.Since,
            watch.RestsSince,
            watch.Proof?.At,
            watch.Proof?.Test == true,
            watch.JudgedAt,
            line.Fuses
        );
    }

    /// <summary>Cut lines that somebody has to look after.</summary>
    public static IQueryable<FormWatch> Down(this IQueryable<FormWatch> watches) =>
        watches.Where(w => w.State == LineState.Cut && w.RestsSince == null);

    /// <summary>Lines mended in the last day that are still to be proved, the latest first.</summary>
    public static async Task<IReadOnlyList<MendedRow>> MendedAsync(
        this AppDb db,
        IReadOnlyList<Guid> clients,
        Instant now,
        CancellationToken stop
    )
    {
        var lately = now - Duration.FromDays(1);
        return await db
            .FormWatches.Where(w =>
                clients.Contains(w.ClientId) && w.State == LineState.Unproven && w.MendedAt > lately
            )
            .OrderByDescending(w => w.MendedAt)
            .ThenBy(w => w.FormId)
            .Take(MostMended)
            .Join(
                db.Forms,
                w => w.FormId,
                f => f.Id,
                (w, f) =>
                    new MendedRow(
                        w.FormId,
                        f.Name,
                        w.ClientId,
                        db.Clients.Where(c => c.Id == w.ClientId).Select(c => c.ShortName).First(),
                        w.MendedAt!.Value,
                        db.ProofRuns.Any(p => p.FormId == w.FormId && p.State == ProofState.Running)
                    )
            )
            .ToListAsync(stop);
    }
}

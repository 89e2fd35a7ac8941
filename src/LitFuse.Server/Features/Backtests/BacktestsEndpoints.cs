using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Fuses;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Features.Backtests;

/// <summary>A backtest to be run.</summary>
/// <param name="Definition">The fuse as it stands on the sheet.</param>
/// <param name="Forms">Keys of the forms whose leads are put through.</param>
/// <param name="Since">The first day, in the client's zone: <c>2026-10-01</c>.</param>
/// <param name="Until">The last day.</param>
/// <param name="SegmentPrice">What a text's segment costs, in the client's currency; may be left out.</param>
public sealed record BacktestToRun(
    FuseDefinition? Definition,
    IReadOnlyList<string>? Forms,
    string? Since,
    string? Until,
    decimal? SegmentPrice
);

/// <summary>A backtest that was begun.</summary>
public sealed record BacktestBegun(Guid Id);

/// <summary>A backtest as a row.</summary>
/// <param name="Since">The first day.</param>
/// <param name="Until">The last day.</param>
/// <param name="Beside">The number of the armed version beside it.</param>
public sealed record BacktestRow(
    Guid Id,
    BacktestStatus Status,
    IReadOnlyList<string> Forms,
    string Since,
    string Until,
    int Total,
    int LeadsDone,
    int? Beside,
    string? By,
    Instant MadeAt,
    Instant? EndedAt,
    string? Reason
);

/// <summary>Backtests of a fuse, newest first.</summary>
public sealed record BacktestList(IReadOnlyList<BacktestRow> Backtests);

/// <summary>A backtest, whole.</summary>
/// <param name="Same">The sheet it was made from is what the fuse is now.</param>
public sealed record BacktestDetail(
    BacktestRow Row,
    BacktestTold? Told,
    FuseDefinition Definition,
    FuseDefinition? BesideDefinition,
    decimal? SegmentPrice,
    string Currency,
    bool Same
);

/// <summary>A lead behind a number.</summary>
/// <param name="Messages">To them, by the fuse as it stands.</param>
/// <param name="TruthMessages">To them, in truth.</param>
/// <param name="NotLit">Why the fuse was not lit.</param>
public sealed record BacktestLeadRow(
    Guid LeadId,
    string Name,
    Instant AskedAt,
    int Messages,
    int? BesideMessages,
    int TruthMessages,
    string? NotLit
);

/// <summary>The leads behind a number.</summary>
public sealed record BacktestLeadList(IReadOnlyList<BacktestLeadRow> Leads, int Total, int Page, int PageSize);

/// <summary>Backtests: past leads through a fuse, in the background.</summary>
public static class BacktestsEndpoints
{
    private const int MostKept = 20;
    private const int MostUnderWay = 3;
    private const int MostOnPage = 50;
    private const int MostDays = 400;
    private static readonly LocalDatePattern Day = LocalDatePattern.Iso;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/fuses/{fuseId}/backtests", StartAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Backtests")
            .WithSummary("Put a period's leads through a fuse; nothing leaves");
        app.MapGet("/api/fuses/{fuseId}/backtests", ListAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Backtests")
            .WithSummary("Backtests of a fuse");
        app.MapGet("/api/backtests/{backtestId}", GetAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Backtests")
            .WithSummary("A backtest, whole");
        app.MapGet("/api/backtests/{backtestId}/leads", LeadsAsync)
            .Needs(Act.SeeLeads)
            .WithTags("Backtests")
            .WithSummary("The leads behind a number of a backtest");
        app.MapPost("/api/backtests/{backtestId}/cancel", CancelAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Backtests")
            .WithSummary("Stop it");
    }

    private static async Task<Results<Accepted<BacktestBegun>, ProblemHttpResult>> StartAsync(
        Guid fuseId,
        BacktestToRun run,
        HttpContext http,
        AppDb db,
        StepCatalog catalog,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (run.Definition is not { } definition || FusesEndpoints.Oversized(definition) is not null)
            return Problems.Bad("definition", "Say which fuse, and none larger than any fuse can be.");
        if (!Day.Parse(run.Since ?? "").TryGetValue(default, out var since))
            return Problems.Bad("since", "Write the first day as 2026-10-01.");
        if (!Day.Parse(run.Until ?? "").TryGetValue(default, out var until))
            return Problems.Bad("until", "Write the last day as 2026-10-31.");
        if (until < since || Period.DaysBetween(since, until) > MostDays)
            return Problems.Bad("until", $"The last day comes after the first, at most {MostDays} days.");
        if (run.SegmentPrice is < 0 or > 100)
            return Problems.Bad("segmentPrice", "A segment costs between 0 and 100.");
        var keys = (run.Forms ?? []).Distinct(StringComparer.Ordinal).ToList();
        var known = await db
            .Forms.Where(f => f.ClientId == fuse.ClientId && keys.Contains(f.Key))
            .Select(f => f.Key)
            .ToListAsync(stop);
        if (keys.Count is 0 or > 100 || known.Count < keys.Count)
            return Problems.Bad("forms", "Choose at least one of the client's forms.");
        try
        {
            CompiledFuse.From(definition, catalog);
        }
        catch (ArgumentException e)
        {
            return Problems.Bad("definition", DryRun.CannotRun(e));
        }

        var underWay = db.Backtests.Where(b => b.ClientId == fuse.ClientId && b.Status == BacktestStatus.Running);
        if (await underWay.CountAsync(stop) >= MostUnderWay)
            return Problems.NotNow.Because(
                $"{MostUnderWay} backtests of this client are under way already. Wait for one, or cancel it."
            );
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == fuse.ClientId, stop);
        var zone = client.DateTimeZone();
        var armed =
            fuse.State == FuseState.Armed
                ? await db.FuseVersions.AsNoTracking().SingleOrDefaultAsync(v => v.Id == fuse.ArmedVersionId, stop)
                : null;
        var job = new BacktestJob
        {
            Id = Guid.CreateVersion7(),
            ClientId = fuse.ClientId,
            FuseId = fuseId,
            Definition = definition,
            BesideVersionId = armed is not null && !FuseFile.Same(armed.Definition, definition) ? armed.Id : null,
            Forms = known,
            Since = zone.AtStartOfDay(since).ToInstant(),
            Until = zone.AtStartOfDay(until.PlusDays(1)).ToInstant(),
            SegmentPrice = run.SegmentPrice,
            MadeBy = ClientAccess.UserId(http.User)!.Value,
            MadeAt = time.Now(),
        };
        await SweepAsync(db, fuseId, stop);
        db.Backtests.Add(job);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("backtests", stop);
        signals.Backtests.Pulse();
        return TypedResults.Accepted($"/api/backtests/{job.Id}", new BacktestBegun(job.Id));
    }

    // The oldest make room for the new one.
    private static async Task SweepAsync(AppDb db, Guid fuseId, CancellationToken stop)
    {
        var old = await db
            .Backtests.Where(b => b.FuseId == fuseId && b.Status != BacktestStatus.Running)
            .OrderByDescending(b => b.MadeAt)
            .Skip(MostKept - 1)
            .Select(b => b.Id)
            .ToListAsync(stop);
        await db.Backtests.Where(b => old.Contains(b.Id)).ExecuteDeleteAsync(stop);
    }

    private static async Task<Results<Ok<BacktestList>, ProblemHttpResult>> ListAsync(
        Guid fuseId,
        AppDb db,
        CancellationToken stop
    ) =>
        await db.Fuses.AnyAsync(f => f.Id == fuseId, stop)
            ? TypedResults.Ok(
                new BacktestList(
                    await RowsAsync(
                        db,
                        db.Backtests.Where(b => b.FuseId == fuseId).OrderByDescending(b => b.MadeAt).Take(MostKept),
                        stop
                    )
                )
            )
            : Problems.No("fuse");

    private static async Task<Results<Ok<BacktestDetail>, ProblemHttpResult>> GetAsync(
        Guid backtestId,
        AppDb db,
        CancellationToken stop
    )
    {
        // How it stands first: what is done by then has its figures.
        if (await RowsAsync(db, db.Backtests.Where(b => b.Id == backtestId), stop) is not [var row])
            return Problems.No("backtest");
        var job = await db.Backtests.AsNoTracking().SingleAsync(b => b.Id == backtestId, stop);
        var fuse = await db.Fuses.AsNoTracking().SingleAsync(f => f.Id == job.FuseId, stop);
        var beside = job.BesideVersionId is { } id
            ? await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == id, stop)
            : null;
        var now = fuse.Draft
            ?? await db
                .FuseVersions.Where(v => v.Id == fuse.ArmedVersionId)
                .Select(v => v.Definition)
                .SingleAsync(stop);
        var currency = await db.Clients.Where(c => c.Id == job.ClientId).Select(c => c.Currency).SingleAsync(stop);
        return TypedResults.Ok(
            new BacktestDetail(
                row,
                job.Told,
                job.Definition,
                beside?.Definition,
                job.SegmentPrice,
                currency,
                FuseFile.Same(now, job.Definition)
            )
        );
    }

    private static async Task<Results<Ok<BacktestLeadList>, ProblemHttpResult>> LeadsAsync(
        Guid backtestId,
        AppDb db,
        StepCatalog catalog,
        CancellationToken stop,
        string side = "this",
        string mark = "all",
        int page = 1
    )
    {
        if (await db.Backtests.AsNoTracking().SingleOrDefaultAsync(b => b.Id == backtestId, stop) is not { } job)
            return Problems.No("backtest");
        if (page is < 1 or > 10_000)
            return Problems.Bad("page", "Pages are numbered from 1.");
        var definition = side switch
        {
            "this" or "truth" => job.Definition,
            "beside" when job.BesideVersionId is { } id => (
                await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == id, stop)
            ).Definition,
            _ => null,
        };
        if (definition is null)
            return Problems.Bad("side", "A side is this, beside (where there is one) or truth.");
        var (rows, fault) = Marked(db, backtestId, CompiledFuse.From(definition, catalog), side, mark);
        if (rows is null)
            return Problems.Bad("mark", fault);

        var total = await rows.CountAsync(stop);
        var shown = await rows.AsNoTracking()
            .OrderByDescending(l => l.AskedAt)
            .ThenBy(l => l.LeadId)
            .Skip((page - 1) * MostOnPage)
            .Take(MostOnPage)
            .ToListAsync(stop);
        var ids = shown.ConvertAll(l => l.LeadId);
        var names = await db
            .Leads.AsNoTracking()
            .Where(l => ids.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, l => l.ShownName(), stop);
        return TypedResults.Ok(
            new BacktestLeadList(
                shown.ConvertAll(l => new BacktestLeadRow(
                    l.LeadId,
                    names.GetValueOrDefault(l.LeadId, "no longer there"),
                    l.AskedAt,
                    l.ToLead,
                    l.BesideMarks is null ? null : l.BesideToLead,
                    l.TruthToLead,
                    l.NotLit
                )),
                total,
                page,
                MostOnPage
            )
        );
    }

    // The leads of a side that have this mark, or what is wrong with it.
    private static (IQueryable<BacktestLead>? Rows, string Fault) Marked(
        AppDb db,
        Guid backtestId,
        CompiledFuse fuse,
        string side,
        string mark
    )
    {
        var rows = db.BacktestLeads.Where(l => l.BacktestId == backtestId);
        if (mark.StartsWith("messages:", StringComparison.Ordinal))
        {
            if (!int.TryParse(mark[9..], CultureInfo.InvariantCulture, out var count))
                return (null, "Say how many messages: messages:2.");
            var more = count >= BacktestSide.MostTold;
            rows = side switch
            {
                "this" => rows.Where(l => more ? l.ToLead >= count : l.ToLead == count),
                "beside" => rows.Where(l => more ? l.BesideToLead >= count : l.BesideToLead == count),
                _ => rows.Where(l => more ? l.TruthToLead >= count : l.TruthToLead == count),
            };
        }
        else if (mark != "all")
        {
            if (BitOf(fuse, mark) is not { } bit)
                return (null, $"Nothing is counted as “{mark}”.");
            var wanted = bit.Set ? 1 : 0;
            rows = side switch
            {
                "this" => db.BacktestLeads.FromSql(
                    $"select * from backtest_leads where backtest_id = {backtestId} and get_bit(marks, {bit.Bit}) = {wanted}"
                ),
                "beside" => db.BacktestLeads.FromSql(
                    $"select * from backtest_leads where backtest_id = {backtestId} and get_bit(beside_marks, {bit.Bit}) = {wanted}"
                ),
                _ => db.BacktestLeads.FromSql(
                    $"select * from backtest_leads where backtest_id = {backtestId} and get_bit(truth_marks, {bit.Bit}) = {wanted}"
                ),
            };
        }

        return (rows, "");
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> CancelAsync(
        Guid backtestId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Backtests.AsNoTracking().SingleOrDefaultAsync(b => b.Id == backtestId, stop) is not { } job)
            return Problems.No("backtest");
        var now = time.Now();
        var stopped = await db
            .Backtests.Where(b => b.Id == backtestId && b.Status == BacktestStatus.Running)
            .ExecuteUpdateAsync(
                b => b.SetProperty(x => x.Status, BacktestStatus.Cancelled).SetProperty(x => x.EndedAt, now),
                stop
            );
        if (stopped == 0)
            return Problems.NotNow.Because("It is over already.");
        db.NoteChange(job.ClientId, ChangeKind.Backtest, backtestId);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }

    private static (int Bit, bool Set)? BitOf(CompiledFuse fuse, string mark)
    {
        var bits = new BacktestMarks(fuse);
        var (what, id) = mark.Split(':', 2) is [var w, var i] ? (w, i) : (mark, "");
        return what switch
        {
            "lit" => (BacktestMarks.Lit, true),
            "not-lit" => (BacktestMarks.Lit, false),
            "no-band" => (BacktestMarks.NoBand, true),
            "waited" => (BacktestMarks.Waited, true),
            "spoken" => (BacktestMarks.Spoken, true),
            "not-spoken" => (BacktestMarks.Spoken, false),
            "band" when fuse.PlaceOfBand(id) is { } place => (bits.Entered(place), true),
            "step-sent" when fuse.PlaceOfStep(id) is { } place => (bits.Sent(place), true),
            "step-waited" when fuse.PlaceOfStep(id) is { } place => (bits.StepWaited(place), true),
            "step-cancelled" when fuse.PlaceOfStep(id) is { } place => (bits.Cancelled(place), true),
            "step-failed" when fuse.PlaceOfStep(id) is { } place => (bits.Failed(place), true),
            _ => null,
        };
    }

    private static async Task<List<BacktestRow>> RowsAsync(
        AppDb db,
        IQueryable<BacktestJob> jobs,
        CancellationToken stop
    )
    {
        var rows = await jobs.AsNoTracking()
            .Select(j => new
            {
                j.Id,
                j.Status,
                j.Forms,
                j.Since,
                j.Until,
                j.Total,
                j.LeadsDone,
                j.MadeBy,
                j.MadeAt,
                j.EndedAt,
                j.Reason,
                Zone = db.Clients.Where(c => c.Id == j.ClientId).Select(c => c.Zone).First(),
                Beside = db
                    .FuseVersions.Where(v => v.Id == j.BesideVersionId)
                    .Select(v => (int?)v.Number)
                    .FirstOrDefault(),
            })
            .ToListAsync(stop);
        var people = await db.PeopleAsync(rows.Select(r => (Guid?)r.MadeBy), stop);
        return rows.ConvertAll(r =>
        {
            var zone = DateTimeZoneProviders.Tzdb[r.Zone];
            return new BacktestRow(
                r.Id,
                r.Status,
                r.Forms,
                Day.Format(r.Since.InZone(zone).Date),
                Day.Format(r.Until.InZone(zone).Date.PlusDays(-1)),
                r.Total,
                r.LeadsDone,
                r.Beside,
                PeopleNames.Of(people, r.MadeBy),
                r.MadeAt,
                r.EndedAt,
                r.Reason
            );
        });
    }
}

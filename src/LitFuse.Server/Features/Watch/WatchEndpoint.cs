using LitFuse.Core.Continuity;
using LitFuse.Core.Figures;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Continuity;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Sources;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Watch;

/// <summary>The home screen: who waits.</summary>
/// <param name="InTheAir">Nearest to, or furthest past, their target first.</param>
/// <param name="Total">How many are in the air; the list holds the first hundred.</param>
/// <param name="LinesDown">Lines that are cut, those where somebody waits first.</param>
/// <param name="LinesMended">Lines that were mended and are still to be proved, the latest first.</param>
/// <param name="Held">In the holding pen.</param>
/// <param name="Accesses">Connections that something is wrong with, or that soon run out; the nearest to it
/// first.</param>
/// <param name="Conflicts">Leads that may be one person, undecided.</param>
/// <param name="Tray">Messages from nobody we know.</param>
/// <param name="SetAside">Burns that are set aside because deciding for them failed, by fuse.</param>
public sealed record WatchPage(
    IReadOnlyList<LeadRow> InTheAir,
    int Total,
    IReadOnlyList<LineRow> LinesDown,
    IReadOnlyList<MendedRow> LinesMended,
    IReadOnlyList<AccessAilment> Accesses,
    int Held,
    int Conflicts,
    int Tray,
    IReadOnlyList<SetAsideBurns> SetAside,
    Instant Now
);

/// <summary>Burns of one fuse that are set aside.</summary>
/// <param name="Because">Why the latest of them is.</param>
public sealed record SetAsideBurns(
    Guid FuseId,
    string Fuse,
    Guid ClientId,
    string Client,
    int Burns,
    string Because,
    Instant Since
);

/// <summary>A connection that somebody has to look after.</summary>
/// <param name="Fault">What is wrong, in words; <c>null</c> where it only runs out soon.</param>
/// <param name="ExpiresAt">When it runs out, where that is known.</param>
public sealed record AccessAilment(
    Guid ConnectionId,
    string Name,
    Guid ClientId,
    string Client,
    ConnectionState State,
    string? Fault,
    Instant? ExpiresAt
);

/// <summary>Today against a usual day, by the client's own clock (the first one's where several are shown).</summary>
/// <param name="UsualByNow">The median of the same weekday's count up to this time, over the last 8 weeks.</param>
/// <param name="MedianSpeedSeconds">Submitted → first touch, of today's touched leads.</param>
/// <param name="WithinTarget">Share (0–1) of today's leads that are decided: touched, or past their target.</param>
/// <param name="CostPerLead">In minor units; <c>null</c> where nothing was spent, or several currencies are
/// shown.</param>
/// <param name="ByHour">Leads in each hour of the day.</param>
/// <param name="UsualByHour">The usual day's mean.</param>
public sealed record WatchToday(
    int Leads,
    double? UsualByNow,
    double? MedianSpeedSeconds,
    double? WithinTarget,
    double? CostPerLead,
    string? Currency,
    IReadOnlyList<int> ByHour,
    IReadOnlyList<double> UsualByHour,
    string? Zone,
    Instant Now
);

/// <summary>The strip across the top and the counts on the rail.</summary>
/// <param name="Held">In the holding pen of the clients chosen.</param>
/// <param name="Conflicts">Undecided, of the clients chosen.</param>
/// <param name="Tray">Messages from nobody we know, of the clients chosen.</param>
public sealed record FrameCounts(
    IReadOnlyList<FrameClient> Clients,
    int Leads,
    int Forms,
    int Fuses,
    int Held,
    int Conflicts,
    int Stuck,
    int Tray,
    Instant Now
);

/// <summary>One client's chip.</summary>
/// <param name="LinesCut">Lines that are cut, those left out that are meant to rest.</param>
/// <param name="Waiting">Submissions that wait for that.</param>
/// <param name="HeldAt">Since when everything is held for it.</param>
/// <param name="HeldBy">By whom.</param>
/// <param name="HeldBack">Deliveries that wait for it to be let go.</param>
public sealed record FrameClient(
    Guid Id,
    string Key,
    int InTheAir,
    int Late,
    int LinesCut,
    int Waiting,
    Instant? HeldAt,
    string? HeldBy,
    int HeldBack
);

/// <summary>Watch and frame.</summary>
public static class WatchEndpoint
{
    private const int Most = 100;
    private const int Weeks = 8;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/watch", GetAsync).Needs(Act.SeeWatch).WithTags("Watch").WithSummary("Leads in the air");
        app.MapGet("/api/watch/today", TodayOfAsync)
            .Needs(Act.SeeWatch)
            .WithTags("Watch")
            .WithSummary("Today against a usual day");
        app.MapGet("/api/frame", FrameAsync).Needs(Act.SeeWatch).WithTags("Watch").WithSummary("Counts for the frame");
    }

    private static async Task<Results<Ok<WatchPage>, ProblemHttpResult>> GetAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var now = time.Now();
        var air = db.Leads.Where(l => clients.Contains(l.ClientId)).InTheAir();
        var down = await db.LinesAsync(db.FormWatches.Where(w => clients.Contains(w.ClientId)).Down(), stop);
        var rows = await db.RowsAsync(air.OrderBy(l => l.TargetAt).Take(Most), stop);
        return TypedResults.Ok(
            new WatchPage(
                [.. rows.OrderBy(r => r.TargetAt)],
                await air.CountAsync(stop),
                down,
                await db.MendedAsync(clients, now, stop),
                await AccessesAsync(db, clients, down, now, stop),
                await HeldAsync(db, clients, stop),
                await ConflictsAsync(db, clients, stop),
                await TrayAsync(db, clients, stop),
                await SetAsideAsync(db, clients, stop),
                now
            )
        );
    }

    private static async Task<Results<Ok<WatchToday>, ProblemHttpResult>> TodayOfAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(await TodayAsync(db, clients, time.Now(), stop));
    }

    private static async Task<Ok<FrameCounts>> FrameAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        var now = time.Now();
        var clients = await db
            .Clients.AsNoTracking()
            .Where(c => scope.Ids.Contains(c.Id))
            .OrderBy(c => c.Name)
            .Select(c => new
            {
                c.Id,
                c.Key,
                c.HeldAt,
                c.HeldBy,
                Back = c.HeldAt == null
                    ? 0
                    : db.Deliveries.Count(d => d.ClientId == c.Id && d.Status == DeliveryStatus.Due),
            })
            .ToListAsync(stop);
        var people = await db.PeopleAsync(clients.Select(c => c.HeldBy), stop);
        var air = await ByClientAsync(db.Leads.InTheAir(), stop);
        var late = await ByClientAsync(db.Leads.Late(now), stop);
        var chosen = await db.ChosenAsync(scope, client, stop) ?? [];
        var (cut, waiting) = await CutAsync(db, stop);
        return TypedResults.Ok(
            new FrameCounts(
                [
                    .. clients.Select(c => new FrameClient(
                        c.Id,
                        c.Key,
                        air.GetValueOrDefault(c.Id),
                        late.GetValueOrDefault(c.Id),
                        cut.GetValueOrDefault(c.Id),
                        waiting.GetValueOrDefault(c.Id),
                        c.HeldAt,
                        PeopleNames.Of(people, c.HeldBy),
                        c.Back
                    )),
                ],
                await db.Leads.CountAsync(l => chosen.Contains(l.ClientId), stop),
                await db.Forms.CountAsync(f => chosen.Contains(f.ClientId) && f.State != FormState.Offered, stop),
                await db.Fuses.CountAsync(f => chosen.Contains(f.ClientId), stop),
                await HeldAsync(db, chosen, stop),
                await ConflictsAsync(db, chosen, stop),
                await db.Deliveries.CountAsync(
                    d => chosen.Contains(d.ClientId) && d.EndedAt == null && d.Attempts > 0,
                    stop
                ),
                await TrayAsync(db, chosen, stop),
                now
            )
        );
    }

    private static Task<Dictionary<Guid, int>> ByClientAsync(IQueryable<Lead> leads, CancellationToken stop) =>
        leads
            .GroupBy(l => l.ClientId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);

    // Lines that are cut, by client, and what waits because of them.
    private static async Task<(Dictionary<Guid, int> Lines, Dictionary<Guid, int> Waiting)> CutAsync(
        AppDb db,
        CancellationToken stop
    ) =>
        (
            await db
                .FormWatches.Down()
                .GroupBy(w => w.ClientId)
                .Select(g => new { g.Key, Count = g.Count() })
                .ToDictionaryAsync(g => g.Key, g => g.Count, stop),
            await db
                .Submissions.Where(s =>
                    s.Status == SubmissionStatus.Waiting
                    && db.FormWatches.Any(w => w.FormId == s.FormId && w.State == LineState.Cut && w.RestsSince == null)
                )
                .GroupBy(s => s.ClientId)
                .Select(g => new { g.Key, Count = g.Count() })
                .ToDictionaryAsync(g => g.Key, g => g.Count, stop)
        );

    private static async Task<IReadOnlyList<AccessAilment>> AccessesAsync(
        AppDb db,
        IReadOnlyList<Guid> clients,
        IReadOnlyList<LineRow> down,
        Instant now,
        CancellationToken stop
    )
    {
        // What cuts a line stands there already, with its mend.
        var told = down.SelectMany(l => l.Cuts)
            .Where(c => c.Mend is { Place: MendPlace.Connection, Id: not null })
            .Select(c => Guid.Parse(c.Mend.Id!))
            .ToHashSet();
        var sources = down.Where(l => l.Cuts.Any(c => c.Joint is JointKind.Access or JointKind.Permissions))
            .Select(l => l.SourceId)
            .ToHashSet();
        told.UnionWith(
            await db
                .Sources.Where(s => s.ConnectionId != null && sources.Contains(s.Id))
                .Select(s => s.ConnectionId!.Value)
                .ToListAsync(stop)
        );
        var soon = now + Connection.RunsOutSoon;
        return await db
            .Connections.Where(c =>
                clients.Contains(c.ClientId)
                && !told.Contains(c.Id)
                && (c.State != ConnectionState.Whole || c.ExpiresAt < soon)
            )
            .OrderByDescending(c => c.State == ConnectionState.Expired || c.State == ConnectionState.Withdrawn)
            .ThenBy(c => c.ExpiresAt)
            .ThenBy(c => c.Name)
            .Select(c => new AccessAilment(
                c.Id,
                c.Name,
                c.ClientId,
                db.Clients.Where(x => x.Id == c.ClientId).Select(x => x.ShortName).First(),
                c.State,
                c.Fault,
                c.ExpiresAt
            ))
            .ToListAsync(stop);
    }

    private static async Task<IReadOnlyList<SetAsideBurns>> SetAsideAsync(
        AppDb db,
        IReadOnlyList<Guid> clients,
        CancellationToken stop
    )
    {
        var aside = await db
            .Burns.Where(b => clients.Contains(b.ClientId) && b.SetAsideAt != null)
            .GroupBy(b => b.FuseId)
            .Select(g => new
            {
                g.Key,
                Count = g.Count(),
                Since = g.Min(b => b.SetAsideAt),
                Latest = g.Max(b => b.Id.ToString()),
            })
            .ToListAsync(stop);
        if (aside.Count == 0)
            return [];
        var (ids, latest) = (aside.ConvertAll(a => a.Key), aside.ConvertAll(a => Guid.Parse(a.Latest!)));
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => ids.Contains(f.Id))
            .Select(f => new
            {
                f.Id,
                f.Name,
                f.ClientId,
                Client = db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
            })
            .ToDictionaryAsync(f => f.Id, stop);
        var because = await db
            .Burns.AsNoTracking()
            .Where(b => latest.Contains(b.Id))
            .ToDictionaryAsync(b => b.FuseId, b => b.SetAsideBecause ?? "", stop);
        return
        [
            .. aside
                .Select(a => new SetAsideBurns(
                    a.Key,
                    fuses[a.Key].Name,
                    fuses[a.Key].ClientId,
                    fuses[a.Key].Client,
                    a.Count,
                    because.GetValueOrDefault(a.Key, ""),
                    a.Since!.Value
                ))
                .OrderBy(a => a.Since),
        ];
    }

    private static Task<int> HeldAsync(AppDb db, IReadOnlyList<Guid> clients, CancellationToken stop) =>
        db.Submissions.CountAsync(s => clients.Contains(s.ClientId) && s.Status == SubmissionStatus.Held, stop);

    private static Task<int> ConflictsAsync(AppDb db, IReadOnlyList<Guid> clients, CancellationToken stop) =>
        db.Conflicts.CountAsync(c => clients.Contains(c.ClientId) && c.State == ConflictState.Open, stop);

    private static Task<int> TrayAsync(AppDb db, IReadOnlyList<Guid> clients, CancellationToken stop) =>
        db.IncomingMessages.CountAsync(
            m => clients.Contains(m.ClientId) && m.LeadId == null && m.DismissedAt == null,
            stop
        );

    private static async Task<WatchToday> TodayAsync(
        AppDb db,
        IReadOnlyList<Guid> clientIds,
        Instant now,
        CancellationToken stop
    )
    {
        var clients = await db
            .Clients.AsNoTracking()
            .Where(c => clientIds.Contains(c.Id))
            .OrderBy(c => c.Name)
            .ToListAsync(stop);
        if (clients.Count == 0)
            return new(0, null, null, null, null, null, new int[24], new double[24], null, now);
        var zone = clients[0].DateTimeZone();
        var local = now.InZone(zone);
        var midnight = local.Date.AtStartOfDayInZone(zone).ToInstant();
        var today = await db
            .Leads.Where(l => clientIds.Contains(l.ClientId) && !l.Test && !l.Quiet && l.AskedAt >= midnight)
            .Select(l => new
            {
                l.AskedAt,
                l.FirstTouchAt,
                l.TargetAt,
            })
            .ToListAsync(stop);

        var since = local.Date.PlusWeeks(-Weeks).AtStartOfDayInZone(zone).ToInstant();
        var before = (
            await db
                .Leads.Where(l =>
                    clientIds.Contains(l.ClientId) && !l.Test && !l.Quiet && l.AskedAt >= since && l.AskedAt < midnight
                )
                .Select(l => l.AskedAt)
                .ToListAsync(stop)
        )
            .ConvertAll(a => a.InZone(zone).LocalDateTime)
            .Where(d => d.DayOfWeek == local.DayOfWeek)
            .ToList();
        double ByNow(int week) =>
            before.Count(d => d.Date == local.Date.PlusWeeks(-week) && d.TimeOfDay <= local.TimeOfDay);
        var usual = Enumerable.Range(1, Weeks).Select(ByNow).ToList();
        var speeds = today
            .Where(l => l.FirstTouchAt is not null)
            .Select(l => (l.FirstTouchAt!.Value - l.AskedAt).TotalSeconds)
            .ToList();
        var currencies = clients.Select(c => c.Currency).Distinct(StringComparer.Ordinal).ToList();
        var day = new DateOnly(local.Year, local.Month, local.Day);
        var spent = await db
            .SpendDays.Where(s => clientIds.Contains(s.ClientId) && s.Day == day)
            .SumAsync(s => s.AmountMinor, stop);
        // A day's spend is known as a whole; what has been spent by now is taken in proportion to the day gone by.
        var spentByNow = spent * (local.TimeOfDay.TickOfDay / (double)NodaConstants.TicksPerDay);
        return new(
            today.Count,
            before.Count == 0 ? null : Percentiles.At(usual, 0.5),
            Percentiles.At(speeds, 0.5),
            Lateness.ShareInTime(today.ConvertAll(l => (l.FirstTouchAt, l.TargetAt)), now),
            currencies.Count == 1 && today.Count > 0 && spent > 0 ? spentByNow / today.Count : null,
            currencies.Count == 1 ? currencies[0] : null,
            [.. Enumerable.Range(0, 24).Select(h => today.Count(l => l.AskedAt.InZone(zone).Hour == h))],
            [.. Enumerable.Range(0, 24).Select(h => before.Count(d => d.Hour == h) / (double)Weeks)],
            zone.Id,
            now
        );
    }
}

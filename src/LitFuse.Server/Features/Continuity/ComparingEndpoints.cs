using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>One day of a form, at its network and here.</summary>
/// <param name="Theirs">On the network's own list.</param>
/// <param name="Ours">Of those, here.</param>
/// <param name="Recovered">Of those, the ones that were fetched because nobody told of them.</param>
public sealed record ComparedDay(Guid FormId, DateOnly Day, int Theirs, int Ours, int Recovered);

/// <summary>A source's own list beside what is here.</summary>
/// <param name="Can">It has a list, and the way to it is known.</param>
/// <param name="Fault">Why it could not be compared last.</param>
/// <param name="Days">Of the last fourteen days, newest first.</param>
public sealed record SideBySide(bool Can, Instant? At, Instant? DueAt, string? Fault, IReadOnlyList<ComparedDay> Days);

/// <summary>Percentiles of a span, in seconds.</summary>
/// <param name="Of">Of how many.</param>
public sealed record SpanFigures(int Of, double? P50, double? P90, double? P99);

/// <summary>
/// How long what came in the last thirty days was under way: filled in → we knew, and we knew → the first thing went
/// out.
/// </summary>
/// <param name="FormId"><c>null</c>: all of the source.</param>
/// <param name="Network">Where its sender tells when it was filled in.</param>
public sealed record DelayFigures(Guid? FormId, SpanFigures Network, SpanFigures Ours);

/// <summary>Delays of a source and of each of its forms.</summary>
public sealed record DelayList(IReadOnlyList<DelayFigures> Delays);

/// <summary>A source's own list and its delays.</summary>
public static class ComparingEndpoints
{
    private const int MostDays = 30;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var source = app.MapGroup("/api/sources/{sourceId}").WithTags("Continuity");
        source
            .MapGet("/compared", GetAsync)
            .Needs(Act.SeeSources)
            .WithSummary("The source's own list beside what is here, day by day");
        source
            .MapPost("/compare", NowAsync)
            .Needs(Act.EditSources)
            .WithSummary("Compare now, up to thirty days back; what is missing is fetched");
        source
            .MapGet("/delays", DelaysAsync)
            .Needs(Act.SeeSources)
            .WithSummary("How long submissions were under way at the network and with us: percentiles of thirty days");
    }

    private static async Task<Results<Ok<SideBySide>, ProblemHttpResult>> GetAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop) is not { } source)
            return Problems.No("source");
        var today = time.Now().InUtc().Date;
        var since = new DateOnly(today.Year, today.Month, today.Day).AddDays(-14);
        var days = await db
            .NetworkDays.Where(d => d.Day > since && db.Forms.Any(f => f.Id == d.FormId && f.SourceId == sourceId))
            .OrderByDescending(d => d.Day)
            .Select(d => new ComparedDay(d.FormId, d.Day, d.Theirs, d.Ours, d.Recovered))
            .ToListAsync(stop);
        return TypedResults.Ok(
            new SideBySide(
                NetworkReconciler.Can(kinds.Of(source.Kind), source),
                source.ComparedAt,
                source.CompareDueAt,
                source.CompareFault,
                days
            )
        );
    }

    private static async Task<Results<Ok<Compared>, ProblemHttpResult>> NowAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        NetworkReconciler comparing,
        CancellationToken stop,
        int days = 7
    )
    {
        if (await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop) is not { } source)
            return Problems.No("source");
        if (!NetworkReconciler.Can(kinds.Of(source.Kind), source))
            return Problems.NotNow.Because(
                source.Kind == "lanternfind"
                    ? "Say first where its daily file is: that is its own list."
                    : $"{source.Name} has no list of its own."
            );
        if (days is < 0 or > MostDays)
            return Problems.Bad("days", $"Compare between today alone (0) and {MostDays} days back.");
        try
        {
            return TypedResults.Ok(await comparing.RunAsync(source, days, stop));
        }
        catch (NetworkTroubleException e)
        {
            return Problems.NotConnected.Because($"{source.Name} {e.Message}");
        }
    }

    private static async Task<Results<Ok<DelayList>, ProblemHttpResult>> DelaysAsync(
        Guid sourceId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!await db.Sources.AnyAsync(s => s.Id == sourceId, stop))
            return Problems.No("source");
        var since = time.Now() - Duration.FromDays(30);
        var rows = await db
            .Database.SqlQuery<DelayRow>(
                $"""
                with came as (
                  select s.form_id, s.sent_at, coalesce((s.envelope::jsonb ->> 'toldAt')::timestamptz, s.received_at) as knew_at,
                         (select min(d.sent_at) from burns b join deliveries d on d.burn_id = b.id and d.lead_id = b.lead_id where b.lead_id = s.lead_id and b.submission_id = s.id and d.status = 'done' and d.made_at <= b.lit_at + interval '10 seconds') as acted_at
                  from submissions s join forms f on f.id = s.form_id
                  where f.source_id = {sourceId} and s.status <> 'received' and s.received_at > {since} and not s.test and not s.quiet and coalesce(s.envelope, '') not like '%"recovered"%'
                ), spans as (
                  select form_id, case when sent_at is not null then greatest(0, extract(epoch from knew_at - sent_at)) end as network, case when acted_at is not null then greatest(0, extract(epoch from acted_at - knew_at)) end as ours from came
                )
                select form_id, count(network)::int as network_of, percentile_cont(0.5) within group (order by network) as network50, percentile_cont(0.9) within group (order by network) as network90, percentile_cont(0.99) within group (order by network) as network99,
                       count(ours)::int as ours_of, percentile_cont(0.5) within group (order by ours) as ours50, percentile_cont(0.9) within group (order by ours) as ours90, percentile_cont(0.99) within group (order by ours) as ours99
                from spans group by grouping sets ((), (form_id)) order by form_id nulls first
                """
            )
            .ToListAsync(stop);
        return TypedResults.Ok(
            new DelayList([
                .. rows.Where(r => r.NetworkOf + r.OursOf > 0)
                    .Select(r => new DelayFigures(
                        r.FormId,
                        new(r.NetworkOf, r.Network50, r.Network90, r.Network99),
                        new(r.OursOf, r.Ours50, r.Ours90, r.Ours99)
                    )),
            ])
        );
    }

    private sealed record DelayRow(
        Guid? FormId,
        int NetworkOf,
        double? Network50,
        double? Network90,
        double? Network99,
        int OursOf,
        double? Ours50,
        double? Ours90,
        double? Ours99
    );
}

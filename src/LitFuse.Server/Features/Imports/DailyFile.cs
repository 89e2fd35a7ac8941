using LitFuse.Core.Forms;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Where a source's daily file is; <c>{date}</c> stands for its day. Empty picks up none.</summary>
public sealed record DailyFileToSet(string? Url);

/// <summary>Where a source's daily file is, and when the next one is picked up.</summary>
public sealed record DailyFilePlan(string? Url, Instant? DueAt);

/// <summary>
/// Picks up the daily file that a source offers, and imports it into the source's own forms: what was pushed already
/// adds nothing.
/// </summary>
public sealed class DailyFile(AppDb db, ImportKeeping keeping, NetworkHttp http, Secrets secrets, TimeProvider time)
{
    // Some hours into the new day: the file of the day before is whole by then, whatever the zone.
    private static readonly Duration AfterMidnight = Duration.FromHours(6);

    /// <summary>Maps what a person can say about it.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var file = app.MapGroup("/api/sources/{sourceId}/daily-file").WithTags("Imports");
        file.MapGet("/", GetAsync).Needs(Act.SeeSources).WithSummary("Where the daily file is picked up");
        file.MapPut("/", SetAsync)
            .Needs(Act.EditSources)
            .WithSummary("Say where; with the source's key as the bearer token it is fetched every morning");
        file.MapPost("/", NowAsync).Needs(Act.EditSources).WithSummary("Pick up today's file now");
    }

    private static async Task<Results<Ok<DailyFilePlan>, ProblemHttpResult>> GetAsync(
        Guid sourceId,
        AppDb db,
        CancellationToken stop
    ) =>
        await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop) is { } source
            ? TypedResults.Ok(new DailyFilePlan(source.DailyFile, source.DailyFileDueAt))
            : Problems.No("source");

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        Guid sourceId,
        DailyFileToSet set,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var source = await db.Sources.SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (source.Kind != "lanternfind")
            return Problems.NotNow.Because($"{source.Name} offers no daily file.");
        var url = string.IsNullOrWhiteSpace(set.Url) ? null : set.Url.Trim();
        if (url is not null && (!DesignFaults.IsWeb(url) || !url.Contains("{date}", StringComparison.Ordinal)))
            return Problems.Bad("url", "Write a whole address with {date} where the day stands.");
        (source.DailyFile, source.DailyFileDueAt) = (url, url is null ? null : time.Now());
        db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("daily-files", stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Created<MadeImport>, ProblemHttpResult>> NowAsync(
        Guid sourceId,
        HttpContext http,
        AppDb db,
        DailyFile file,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var source = await db.Sources.SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (source.DailyFile is null)
            return Problems.NotNow.Because("Say first where its daily file is.");
        try
        {
            var import = await file.PickUpAsync(source, time.Now().InUtc().Date, ClientAccess.UserId(http.User), stop);
            return TypedResults.Created($"/api/imports/{import!.Id}", new MadeImport(import.Id));
        }
        catch (Exception e) when (e is NetworkTroubleException or ImportFileException)
        {
            return Problems.NotConnected.Because($"{source.Name} {e.Message}");
        }
    }

    /// <summary>Picks up what is due of this source.</summary>
    public async Task RunAsync(Source source, CancellationToken stop)
    {
        var now = time.Now();
        var day = now.InUtc().Date.PlusDays(-1);
        try
        {
            await PickUpAsync(source, day, null, stop);
            source.DailyFileDueAt = now.InUtc().Date.PlusDays(1).AtMidnight().InUtc().ToInstant() + AfterMidnight;
        }
        catch (Exception e) when (e is NetworkTroubleException or ImportFileException)
        {
            source.Fault =
                $"The daily file of {day.ToString("yyyy-MM-dd", null)} could not be picked up: {source.Name} {e.Message} It is tried again in an hour.";
            source.DailyFileDueAt = now + Duration.FromHours(1);
        }

        db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
        await db.SaveAndNotifyAsync(stop);
    }

    private async Task<Import?> PickUpAsync(Source source, LocalDate day, Guid? by, CancellationToken stop)
    {
        var date = day.ToString("yyyy-MM-dd", null);
        if (by is null && await db.Imports.AnyAsync(i => i.SourceId == source.Id && i.PickedUp == date, stop))
            return null;
        var url = new Uri(source.DailyFile!.Replace("{date}", date, StringComparison.Ordinal));
        var bytes = await http.GetAsync(new NetworkAccess(url, secrets.Open(source.Secret!)), "", stop);
        using var file = new MemoryStream(bytes, writable: false);
        var import = await keeping.KeepAsync(
            source.ClientId,
            $"{source.Name} {date}.csv",
            source.Id,
            by,
            by is null ? date : null,
            file,
            stop
        );
        await keeping.StartAsync(import, stop);
        source.Fault = null;
        return import;
    }
}

/// <summary>Picks up daily files when they are due.</summary>
public sealed class DailyFileLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<DailyFileLoop> log
) : EngineLoop(signals.DailyFiles, scopes, time, log)
{
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var source = (
            await db
                .Sources.FromSql(
                    $"""
                    update sources set daily_file_due_at = {now + Duration.FromMinutes(5)}
                    where id = (select id from sources where daily_file_due_at <= {now} order by daily_file_due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (source is null)
            return (false, await db.Sources.MinAsync(s => s.DailyFileDueAt, stop));
        await services.GetRequiredService<DailyFile>().RunAsync(source, stop);
        return (true, null);
    }
}

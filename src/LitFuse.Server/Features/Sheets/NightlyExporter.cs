using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Leads;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sheets;

/// <summary>Makes the files that are due, and sends them.</summary>
public sealed class NightlyExporter(AppDb db, ConnectorKinds connectors, ConnectionOpener opener, TimeProvider time)
{
    /// <summary>When a file is next due.</summary>
    public static Instant NextOf(NightlyFile file, DateTimeZone zone, Instant after) => zone.NextAt(file.At, after);

    /// <summary>Sends one. What goes wrong is noted on it, and it is tried again as long as it makes sense.</summary>
    public async Task SendAsync(NightlyFile file, CancellationToken stop)
    {
        var now = time.Now();
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == file.ClientId, stop);
        var connection = await db.Connections.AsNoTracking().SingleAsync(c => c.Id == file.ConnectionId, stop);
        var zone = client.DateTimeZone();
        var day = now.InZone(zone).Date.PlusDays(-1);
        var leads = db.Leads.AsNoTracking().Where(l => l.ClientId == file.ClientId && !l.Test);
        if (file.OfTheDay)
        {
            var (from, to) = (zone.AtStartOfDay(day).ToInstant(), zone.AtStartOfDay(day.PlusDays(1)).ToInstant());
            leads = leads.Where(l => l.AskedAt >= from && l.AskedAt < to);
        }

        var ids = await leads.OrderBy(l => l.AskedAt).Select(l => l.Id).ToListAsync(stop);
        if (ids.Count > LeadExport.MostWhole)
        {
            // Half a file would be taken for the whole.
            (file.Fault, file.Attempts, file.DueAt) = (
                string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"There are {ids.Count:#,0} leads; a file has at most {LeadExport.MostWhole:#,0}. Let it have those of the day."
                ),
                0,
                NextOf(file, zone, now)
            );
            return;
        }

        var result = await SendAsync(file, client, connection, day, ids, stop);
        file.Attempts++;
        if (result.End == AttemptEnd.Accepted)
        {
            (file.SentAt, file.Rows, file.Fault, file.Attempts, file.DueAt) = (
                now,
                ids.Count,
                null,
                0,
                NextOf(file, zone, now)
            );
            return;
        }

        file.Fault = $"{connection.Name} {result.Reason}.";
        var next = NextOf(file, zone, now);
        var again =
            result.End == AttemptEnd.Temporary
            && Trouble.WaitAfter(file.Attempts, Random.Shared.NextDouble(), result.RetryAfter, RetryProfile.Patient)
                is { } wait
                ? now + wait
                : next;
        if (again >= next)
            (file.Attempts, again) = (0, next);
        file.DueAt = again;
    }

    private async Task<AttemptResult> SendAsync(
        NightlyFile file,
        Client client,
        Connection connection,
        LocalDate day,
        List<Guid> ids,
        CancellationToken stop
    )
    {
        var bytes = await LeadExport.FileAsync(
            db,
            ids,
            file.Columns.Count > 0 ? file.Columns : LeadExport.UsualColumns,
            file.Format,
            stop
        );
        // The same name each try of a day: a second one takes the place of the first.
        var name = $"{TableFile.Safe(client.Key + "-" + file.Name)}-{day.ToString("uuuu-MM-dd", null)}.{file.Format}";
        return connection.PausedAt is not null
            ? new(AttemptEnd.Temporary, "is paused")
            : await connectors
                .Of(connection.Kind)
                .SendFileAsync(
                    opener.Open(connection),
                    new(
                        $"{file.Id:N}.{day.ToString("uuuuMMdd", null)}",
                        file.To,
                        $"{file.Name}, {day.ToString("d MMMM uuuu", System.Globalization.CultureInfo.InvariantCulture)}",
                        $"{ids.Count} leads of {client.Name}.",
                        name,
                        bytes,
                        TableFile.TypeOf(file.Format)!
                    ),
                    stop
                )
                ?? new(AttemptEnd.Final, "takes no files");
    }
}

/// <summary>Sends nightly files when their hour comes.</summary>
public sealed class NightlyLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<NightlyLoop> log
) : EngineLoop(signals.NightlyFiles, scopes, time, log)
{
    private static readonly Duration Meanwhile = Duration.FromMinutes(10);
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        // Put off first, then made and sent with nothing held: another process takes another, and one that dies is made
        // up for.
        var file = (
            await db
                .NightlyFiles.FromSql(
                    $"""
                    update nightly_files set due_at = {now
                        + Meanwhile} where id = (select id from nightly_files where due_at <= {now} order by due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (file is null)
            return (false, await db.NightlyFiles.MinAsync(f => (Instant?)f.DueAt, stop));
        await services.GetRequiredService<NightlyExporter>().SendAsync(file, stop);
        db.NoteChange(file.ClientId, ChangeKind.Nightly, file.Id);
        await db.SaveAndNotifyAsync(stop);
        return (true, null);
    }
}

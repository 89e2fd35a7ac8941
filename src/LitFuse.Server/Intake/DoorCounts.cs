using System.Collections.Concurrent;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace LitFuse.Server.Intake;

/// <summary>What is counted of a form.</summary>
public enum FormCount
{
    View,
    Start,
    Send,
    EmptyVisit,
}

/// <summary>
/// Counts views, starts, sends and refusals in memory and writes them once a second: what is asked for thousands of
/// times must not be a write each time. A process that is killed loses at most its last second of counts; never a
/// submission.
/// </summary>
public sealed class DoorCounts(
    NpgsqlDataSource database,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<DoorCounts> log
) : BackgroundService
{
    private const int MostKept = 2000;
    private readonly ConcurrentDictionary<(Guid Client, Guid Form), int[]> counts = new();
    private readonly ConcurrentDictionary<
        (Guid Client, Guid Source, Guid? Form, string Code, string Detail, string Mend),
        (int Times, string From)
    > refusals = new();

    /// <summary>Counts one.</summary>
    public void Count(Guid clientId, Guid formId, FormCount what) =>
        Interlocked.Increment(ref counts.GetOrAdd((clientId, formId), static _ => new int[4])[(int)what]);

    /// <summary>Notes that something was refused.</summary>
    public void Refused(Guid clientId, Guid sourceId, Guid? formId, ProblemKind kind, string detail, string from)
    {
        if (refusals.Count < MostKept)
            refusals.AddOrUpdate(
                (clientId, sourceId, formId, kind.Code, Clip.To(detail, 300), kind.Mend),
                (1, from),
                static (_, n) => (n.Times + 1, n.From)
            );
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            await Task.WhenAny(Task.Delay(TimeSpan.FromSeconds(1), stoppingToken));
            try
            {
                await WriteAsync();
            }
            catch (Exception e) when (e is NpgsqlException or IOException or DbUpdateException)
            {
                log.LogWarning("Counts could not be written: {Reason}", e.Message);
            }
        }
    }

    private async Task WriteAsync()
    {
        await WriteCountsAsync();
        if (!refusals.IsEmpty)
            await WriteRefusalsAsync();
    }

    private async Task WriteCountsAsync()
    {
        var day = time.Now().InUtc().Date;
        // The counters stay, one array a form; what they hold is taken out.
        var rows = new List<KeyValuePair<(Guid Client, Guid Form), int[]>>();
        foreach (var (key, held) in counts)
        {
            if (Array.TrueForAll(held, n => n == 0))
                continue;
            rows.Add(new(key, [Take(held, 0), Take(held, 1), Take(held, 2), Take(held, 3)]));
        }

        if (rows.Count == 0)
            return;
        await using var write = database.CreateCommand(
            """
            insert into form_days (client_id, form_id, day, views, starts, sends, empty_visits)
            select * from unnest($1, $2, $3, $4, $5, $6, $7)
            on conflict (form_id, day) do update set views = form_days.views + excluded.views, starts = form_days.starts + excluded.starts,
                sends = form_days.sends + excluded.sends, empty_visits = form_days.empty_visits + excluded.empty_visits
            """
        );
        write.Parameters.Add(new() { Value = rows.ConvertAll(r => r.Key.Client).ToArray() });
        write.Parameters.Add(new() { Value = rows.ConvertAll(r => r.Key.Form).ToArray() });
        write.Parameters.Add(
            new() { Value = rows.ConvertAll(_ => new DateOnly(day.Year, day.Month, day.Day)).ToArray() }
        );
        for (var i = 0; i < 4; i++)
        {
            var column = i;
            write.Parameters.Add(new() { Value = rows.ConvertAll(r => r.Value[column]).ToArray() });
        }

        await write.ExecuteNonQueryAsync();
        await TellAsync(rows.ConvertAll(r => (r.Key.Client, ChangeKind.Form, r.Key.Form)));
    }

    private static int Take(int[] held, int which) => Interlocked.Exchange(ref held[which], 0);

    private async Task WriteRefusalsAsync()
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        var now = time.Now();
        foreach (var key in refusals.Keys)
        {
            if (!refusals.TryRemove(key, out var said))
                continue;
            var recent = now - Duration.FromHours(1);
            var known = await db.Refusals.FirstOrDefaultAsync(r =>
                r.SourceId == key.Source
                && r.FormId == key.Form
                && r.Code == key.Code
                && r.Detail == key.Detail
                && r.FirstAt > recent
            );
            if (known is null)
            {
                db.Refusals.Add(
                    new()
                    {
                        Id = Guid.CreateVersion7(),
                        ClientId = key.Client,
                        SourceId = key.Source,
                        FormId = key.Form,
                        Code = key.Code,
                        Detail = key.Detail,
                        Mend = key.Mend,
                        FromAddress = said.From,
                        FirstAt = now,
                        LastAt = now,
                        Times = said.Times,
                    }
                );
            }
            else
            {
                (known.LastAt, known.Times, known.FromAddress) = (now, known.Times + said.Times, said.From);
            }

            db.NoteChange(key.Client, ChangeKind.Source, key.Source);
        }

        await db.SaveAndNotifyAsync();
    }

    private async Task TellAsync(List<(Guid Client, ChangeKind Kind, Guid Id)> changed)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        foreach (var (client, kind, id) in changed)
            db.NoteChange(client, kind, id);
        await db.SaveAndNotifyAsync();
    }
}

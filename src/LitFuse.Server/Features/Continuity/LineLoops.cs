using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>Judges lines: at once what was told to have changed, and everything every minute.</summary>
public sealed class LineLoop(
    Signals signals,
    LineBoards boards,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<LineLoop> log
) : EngineLoop(signals.Lines, scopes, time, log)
{
    private static readonly Duration Every = Duration.FromMinutes(1);
    private static readonly TimeSpan Breath = TimeSpan.FromMilliseconds(700);
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        boards.Told = signals.Lines.Pulse;
        var db = services.GetRequiredService<AppDb>();
        var run = services.GetRequiredService<LineEvaluator>();
        var told = boards.Take();
        var faults = new List<Exception>();
        foreach (var (client, changed) in told)
            await ByItselfAsync(client, () => run.TouchedAsync(client, changed, stop));
        // Putting the next round off is the claim; a round that dies is made by the next one.
        var now = time.Now();
        await db.Database.ExecuteSqlAsync(
            $"insert into line_rounds (client_id, due_at) select id, {now} from clients c where not exists (select 1 from line_rounds r where r.client_id = c.id) on conflict do nothing",
            stop
        );
        var due = await db
            .Database.SqlQuery<Guid>(
                $"update line_rounds set due_at = {now + Every} where client_id = (select client_id from line_rounds where due_at <= {now} order by due_at limit 1 for update skip locked) returning client_id as \"Value\""
            )
            .ToListAsync(stop);
        foreach (var client in due)
            await ByItselfAsync(client, () => run.WholeAsync(client, stop));
        if (faults.Count > 0)
            throw new AggregateException("Lines could not be judged; they are with the next try.", faults);
        if (due.Count > 0)
            return (true, null);
        // Under load the next changes are taken together.
        if (told.Count > 0)
            await Task.Delay(Breath, stop);
        return (false, await db.LineRounds.MinAsync(r => (Instant?)r.DueAt, stop));

        // One client's trouble is not another's; what could not be judged is judged with the next try, not with the
        // next minute.
        async Task ByItselfAsync(Guid client, Func<Task> judge)
        {
            try
            {
                await judge();
            }
            catch (Exception e) when (!stop.IsCancellationRequested)
            {
                db.ChangeTracker.Clear();
                boards.Again(client);
                faults.Add(e);
            }
        }
    }
}

/// <summary>
/// Asks thank-you addresses whether they answer: each every ten minutes, and one that does not every half a minute.
/// </summary>
public sealed class ThanksLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<ThanksLoop> log)
    : EngineLoop(signals.Thanks, scopes, time, log)
{
    private static readonly Duration Every = Duration.FromMinutes(10),
        Again = Duration.FromSeconds(30);
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var due = await db
            .FormWatches.Join(
                db.Forms.Where(f => f.ThankYouUrl != null && f.State == FormState.Receiving),
                w => w.FormId,
                f => f.Id,
                (w, f) => new { Watch = w, f.ThankYouUrl }
            )
            .Where(x =>
                x.Watch.ThanksAddress != x.ThankYouUrl
                || x.Watch.ThanksAskedAt == null
                || x.Watch.ThanksAskedAt < now - Every
                || (x.Watch.ThanksFault != null && x.Watch.ThanksAskedAt < now - Again)
            )
            .OrderBy(x => x.Watch.ThanksAskedAt)
            .Select(x => new
            {
                x.Watch.FormId,
                x.Watch.ClientId,
                x.ThankYouUrl,
            })
            .Take(20)
            .ToListAsync(stop);
        if (due.Count == 0)
            return (false, now + Again);
        var asker = services.GetRequiredService<ThanksAsker>();
        foreach (var form in due)
            await asker.AskAsync(db, form.ClientId, form.FormId, form.ThankYouUrl!, stop);
        return (true, null);
    }
}

/// <summary>Asks one thank-you address.</summary>
public sealed class ThanksAsker(IHttpClientFactory http, TimeProvider time)
{
    /// <summary>The name of its client.</summary>
    public const string Name = "thanks";

    /// <summary>Asks, and keeps the answer. One that fails is asked a second time before it is said to.</summary>
    public async Task AskAsync(AppDb db, Guid clientId, Guid formId, string address, CancellationToken stop)
    {
        var fault = await OnceAsync(address, stop);
        if (fault is not null)
        {
            await Task.Delay(TimeSpan.FromSeconds(1), stop);
            fault = await OnceAsync(address, stop);
        }

        var now = time.Now();
        await db
            .FormWatches.Where(w => w.FormId == formId)
            .ExecuteUpdateAsync(
                w =>
                    w.SetProperty(x => x.ThanksAddress, address)
                        .SetProperty(x => x.ThanksAskedAt, now)
                        .SetProperty(x => x.ThanksFault, fault),
                stop
            );
        db.NoteChange(clientId, ChangeKind.Form, formId);
        await db.SaveAndNotifyAsync(stop);
    }

    private async Task<string?> OnceAsync(string address, CancellationToken stop)
    {
        try
        {
            using var client = http.CreateClient(Name);
            using var answer = await client.GetAsync(new Uri(address), HttpCompletionOption.ResponseHeadersRead, stop);
            return (int)answer.StatusCode < 400
                ? null
                : string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"answered {(int)answer.StatusCode}"
                );
        }
        catch (OutboundRefusedException e)
        {
            return "may not be called: " + e.Message;
        }
        catch (HttpRequestException e)
        {
            return "could not be reached: " + e.GetBaseException().Message.TrimEnd('.');
        }
        catch (Exception e) when (e is UriFormatException or NotSupportedException or InvalidOperationException)
        {
            return "is no address that can be asked";
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            return "gave no answer in ten seconds";
        }
    }
}

using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>Looks at each network's access and forms from time to time.</summary>
public sealed class LookLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<LookLoop> log)
    : EngineLoop(signals.Looks, scopes, time, log)
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
        // Putting the next look off is the claim: another process finds it no longer due, and a look that dies is made
        // again then.
        var source = (
            await db
                .Sources.FromSql(
                    $"""
                    update sources set look_due_at = {now + Duration.FromMinutes(2)}
                    where id = (select id from sources where look_due_at <= {now} and connection_id is not null order by look_due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (source is null)
            return (false, await db.Sources.Where(s => s.ConnectionId != null).MinAsync(s => s.LookDueAt, stop));
        await services.GetRequiredService<NetworkLook>().LookAsync(source, stop);
        return (true, null);
    }
}

/// <summary>Asks polled networks for what is new.</summary>
public sealed class PollLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<PollLoop> log)
    : EngineLoop(signals.Polls, scopes, time, log)
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
                    update sources set poll_due_at = {now + Duration.FromMinutes(2)}
                    where id = (select id from sources where poll_due_at <= {now} order by poll_due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (source is null)
            return (false, await db.Sources.MinAsync(s => s.PollDueAt, stop));
        await services.GetRequiredService<NetworkPoll>().PollAsync(source, stop);
        return (true, null);
    }
}

/// <summary>Fetches the answers behind notices.</summary>
public sealed class NoticeLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<NoticeLoop> log)
    : EngineLoop(signals.Notices, scopes, time, log)
{
    private const int MostAtOnce = 16;
    private readonly IServiceScopeFactory scopes = scopes;
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var held = await db
            .SourceNotices.FromSql(
                $"""
                update source_notices set due_at = {now + Duration.FromSeconds(30)}, attempts = attempts + 1
                where id in (select id from source_notices where status = 'due' and due_at <= {now} order by due_at limit {MostAtOnce} for update skip locked) returning *
                """
            )
            .IgnoreQueryFilters()
            .AsNoTracking()
            .ToListAsync(stop);
        if (held.Count == 0)
            return (
                false,
                await db.SourceNotices.Where(n => n.Status == NoticeStatus.Due).MinAsync(n => (Instant?)n.DueAt, stop)
            );
        await Task.WhenAll(
            held.Select(async notice =>
            {
                await using var scope = scopes.CreateAsyncScope();
                scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
                await scope.ServiceProvider.GetRequiredService<NoticeFetch>().FetchAsync(notice, stop);
            })
        );
        return (true, null);
    }
}

/// <summary>Reads what is new at a polled network.</summary>
public sealed class NetworkPoll(
    AppDb db,
    SourceKinds kinds,
    Secrets secrets,
    FormDirectory directory,
    NetworkIntake intake,
    TimeProvider time
)
{
    /// <summary>An answer shows that it is reached, whatever was found before.</summary>
    internal static void Reached(Connection connection, Source source)
    {
        if (connection.State is ConnectionState.Unreachable)
            (connection.State, connection.Fault, source.Fault) = (ConnectionState.Whole, null, null);
    }

    /// <summary>Reads until there is no more. Saves how far after every page that is on disk.</summary>
    public async Task PollAsync(Source source, CancellationToken stop)
    {
        var kind = kinds.Of(source.Kind);
        var network = (IPolledNetwork)kind;
        var connection = await db.Connections.SingleAsync(c => c.Id == source.ConnectionId, stop);
        source.PollDueAt = time.Now() + network.Every;
        try
        {
            var access = NetworkLook.Open(connection, secrets);
            PolledPage page;
            string? before;
            do
            {
                before = source.Cursor;
                page = await network.PollAsync(access, source.Places, source.Cursor, stop);
                var forms = (await directory.SourceAsync(source.Id, stop))?.Forms;
                await Task.WhenAll(
                    page.Bodies.Where(b => forms?.ContainsKey(b.FormId) == true)
                        .Select(b => intake.StoreAsync(forms![b.FormId], b.Raw, "polled", null, stop))
                );
                source.Cursor = page.Cursor;
                await db.SaveChangesAsync(stop);
            } while (page.More && source.Cursor != before);
            Reached(connection, source);
            connection.GoodAt = time.Now();
        }
        catch (NetworkTroubleException e)
        {
            NetworkLook.Note(connection, kind, e);
            source.Fault = connection.Fault;
            db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
        }

        await db.SaveAndNotifyAsync(stop);
    }
}

/// <summary>Puts what was fetched or polled through the same writer as what came through the door.</summary>
public sealed class NetworkIntake(IntakeWriter writer, IServiceScopeFactory scopes)
{
    /// <summary>Stores one and waits until it is on disk.</summary>
    public async Task<Stored> StoreAsync(
        FormAddress form,
        byte[] raw,
        string via,
        Instant? toldAt,
        CancellationToken stop
    )
    {
        var payload = await form.Kind.ReadAsync(form.Picks, "application/json", raw);
        var arrival = new Arrival(form.ClientId, form.FormId, "application/json", raw, payload, payload.OwnId)
        {
            SentAt = payload.SentAt,
            Test = payload.Test,
            Envelope = new Envelope(
                via,
                ToldAt: toldAt,
                OnlyTo: payload.Test ? await OnlyToAsync(form.FormId, stop) : null
            ).Write(),
        };
        while (!writer.TryQueue(arrival))
            await Task.Delay(TimeSpan.FromMilliseconds(50), stop);
        return await arrival.Done.Task;
    }

    // A test that was asked for from here goes to whoever asked, where they said so.
    private async Task<Guid?> OnlyToAsync(Guid formId, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        return (
            await db
                .Database.SqlQuery<Guid?>(
                    $"select only_to as \"Value\" from proof_runs where form_id = {formId} and state = 'running' and \"from\" = 'network' order by began_at desc limit 1"
                )
                .ToListAsync(stop)
        ).FirstOrDefault();
    }
}

/// <summary>Fetches the answers behind one notice.</summary>
public sealed class NoticeFetch(
    AppDb db,
    SourceKinds kinds,
    Secrets secrets,
    FormDirectory directory,
    NetworkIntake intake,
    TimeProvider time
)
{
    private const int MostAttempts = 40;

    /// <summary>Fetches, stores, and notes what became of it.</summary>
    public async Task FetchAsync(SourceNotice notice, CancellationToken stop)
    {
        var source = await db.Sources.SingleAsync(s => s.Id == notice.SourceId, stop);
        var connection = await db.Connections.SingleAsync(c => c.Id == source.ConnectionId, stop);
        var kind = kinds.Of(source.Kind);
        var (status, reason, wait) = (NoticeStatus.Done, (string?)null, Duration.Zero);
        if (
            (await directory.SourceAsync(source.Id, stop))?.Forms.TryGetValue(notice.ExternalForm, out var form) != true
        )
        {
            (status, reason) = (NoticeStatus.NotChosen, "its form is not chosen");
        }
        else
        {
            try
            {
                var body = await ((INotifyingNetwork)kind).FetchAsync(
                    NetworkLook.Open(connection, secrets),
                    notice.ExternalId,
                    stop
                );
                NetworkPoll.Reached(connection, source);
                if (db.ChangeTracker.HasChanges())
                    db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
                await intake.StoreAsync(form!, body.Raw, "fetched", notice.ToldAt, stop);
            }
            catch (NetworkTroubleException e)
            {
                reason = $"{kind.Card.Name} {e.Message}";
                var final = e.Trouble == NetworkTrouble.Gone || notice.Attempts >= MostAttempts;
                status = final ? NoticeStatus.Failed : NoticeStatus.Due;
                wait =
                    e.Trouble == NetworkTrouble.Temporary
                        ? Duration.FromSeconds(Math.Min(300, 1 << Math.Min(notice.Attempts, 9)))
                        : Duration.FromMinutes(5);
                if (e.Trouble is not NetworkTrouble.Gone)
                {
                    NetworkLook.Note(connection, kind, e);
                    source.Fault = connection.Fault;
                }

                db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
            }
        }

        await db
            .SourceNotices.Where(n => n.Id == notice.Id && n.Attempts == notice.Attempts)
            .ExecuteUpdateAsync(
                n =>
                    n.SetProperty(x => x.Status, status)
                        .SetProperty(x => x.Reason, reason)
                        .SetProperty(x => x.DueAt, time.Now() + wait),
                stop
            );
        await db.SaveAndNotifyAsync(stop);
    }
}

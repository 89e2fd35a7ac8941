using System.Text.Json;
using LitFuse.Core;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.SignalR;
using Npgsql;

namespace LitFuse.Server.Live;

/// <summary>Hears in this process what changed in any. What it is told is a hint: it looks by itself, too.</summary>
public interface IChangeListener
{
    /// <summary>Something of a client changed.</summary>
    /// <param name="ids">Which; none means many.</param>
    void Hint(Guid client, ChangeKind kind, IReadOnlyCollection<Guid> ids);

    /// <summary>Something may have been missed: everything is looked at anew.</summary>
    void HintAll();
}

/// <summary>The live line to screens. A screen hears only of the clients whose Watch its person may see.</summary>
public sealed class LiveHub(ClientAccess access) : Hub
{
    /// <inheritdoc />
    public override async Task OnConnectedAsync()
    {
        foreach (var client in await access.ClientsForAsync(Context.User!, Act.SeeWatch, Context.ConnectionAborted))
        {
            await Groups.AddToGroupAsync(Context.ConnectionId, GroupOf(client), Context.ConnectionAborted);
        }

        await base.OnConnectedAsync();
    }

    /// <summary>The group that hears of a client.</summary>
    public static string GroupOf(Guid clientId) => "client:" + clientId.ToString("N");
}

/// <summary>
/// Listens on PostgreSQL's notices: passes what changed on to screens, and wakes the engine for work that another
/// process wrote. A notice is a hint; nothing is lost with it.
/// </summary>
public sealed class LiveListener(
    NpgsqlDataSource database,
    IHubContext<LiveHub> hub,
    Signals signals,
    IEnumerable<IChangeListener> listeners,
    TimeProvider time,
    ILogger<LiveListener> log
) : BackgroundService
{
    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await ListenAsync(stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is NpgsqlException or System.IO.IOException)
            {
                log.LogWarning("Lost the database's notices ({Reason}); listening again in a second.", e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), time, stoppingToken);
                signals.All();
            }
        }
    }

    private async Task ListenAsync(CancellationToken stop)
    {
        await using var connection = await database.OpenConnectionAsync(stop);
        connection.Notification += (_, notice) =>
        {
            if (notice.Channel == "litfuse_changed")
                _ = PassOnAsync(notice.Payload);
            else
                signals.Named(notice.Payload);
        };
        await using (var listen = new NpgsqlCommand("listen litfuse_changed; listen litfuse_work", connection))
            await listen.ExecuteNonQueryAsync(stop);
        foreach (var listener in listeners)
            listener.HintAll();
        signals.All();
        while (true)
            await connection.WaitAsync(stop);
    }

    private async Task PassOnAsync(string payload)
    {
        try
        {
            var notice = JsonSerializer.Deserialize<LiveNotice>(payload, CoreJson.Options)!;
            foreach (var listener in listeners)
                listener.Hint(notice.ClientId, notice.Kind, notice.Ids);
            await hub.Clients.Group(LiveHub.GroupOf(notice.ClientId)).SendAsync("changed", notice);
        }
        catch (Exception e) when (e is JsonException or IOException or InvalidOperationException)
        {
            log.LogWarning("A change could not be passed on to screens: {Reason}", e.Message);
        }
    }
}

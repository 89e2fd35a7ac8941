using System.Collections.Concurrent;
using LitFuse.Server.Engine;
using LitFuse.Server.Platform;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>Who this worker is, in leases. New with each start: a worker that comes back is another one.</summary>
public sealed record WorkerName(string Name)
{
    /// <summary>A name nobody else has.</summary>
    public static WorkerName New() => new($"{Environment.MachineName}-{Environment.ProcessId}-{Guid.NewGuid():N}");
}

/// <summary>
/// Schedules: claims what is due for connections that have room, and hands each to <see cref="DeliveryAttempt"/>
/// without waiting for it. Renews the leases of what is under way, and gives back what a dead worker
/// held.
/// </summary>
public sealed class DeliveryLoop(
    Signals signals, IServiceScopeFactory scopes, ConnectionSlots slots, WorkerName worker, TimeProvider time, IHostApplicationLifetime life, ILogger<DeliveryLoop> log)
    : EngineLoop(signals.Deliveries, scopes, time, log)
{
    private static readonly TimeSpan RenewEvery = TimeSpan.FromSeconds(5);
    private readonly IServiceScopeFactory scopes = scopes;
    private readonly TimeProvider time = time;
    private readonly ConcurrentDictionary<Guid, byte> underWay = new();

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var renewing = RenewAsync(stoppingToken);
        await base.ExecuteAsync(stoppingToken);
        await renewing;
        // What is under way may have reached the other side: let it come to its end rather than leave it to the lease.
        for (var tries = 0; tries < 200 && !underWay.IsEmpty; tries++) await Task.Delay(TimeSpan.FromMilliseconds(50), CancellationToken.None);
    }

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(IServiceProvider services, CancellationToken stop)
    {
        var claim = services.GetRequiredService<DeliveryClaim>();
        var now = time.Now();
        var due = await claim.DueAsync(stop);
        var open = due.Where(d => d.DueAt <= now).Select(d => (d.ConnectionId, Free: slots.Free(d.ConnectionId, now))).Where(c => c.Free > 0).ToList();
        if (open.Count > 0)
        {
            var held = await claim.ClaimAsync(worker.Name, [.. open.Select(c => c.ConnectionId)], [.. open.Select(c => c.Free)], now, stop);
            foreach (var delivery in held)
            {
                slots.Begin(delivery.ConnectionId);
                underWay.TryAdd(delivery.Id, 0);
                _ = Task.Run(() => AttemptAsync(delivery), CancellationToken.None);
            }

            if (held.Count > 0) return (true, null);
        }

        // A connection without room wakes the loop when one of its deliveries ends; one at rest, when its rest is over.
        var next = due.Select(d => slots.RestsUntil(d.ConnectionId, now) ?? (d.DueAt > now ? d.DueAt : (Instant?)null)).Min();
        return (false, next);
    }

    private async Task AttemptAsync(ClaimedDelivery held)
    {
        var trouble = false;
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            trouble = await scope.ServiceProvider.GetRequiredService<DeliveryAttempt>().RunAsync(held, worker.Name, life.ApplicationStopped);
        }
        catch (Exception e)
        {
            log.LogError(e, "Delivery {Id} broke off; its lease will run out and it will be tried again.", held.Id);
        }
        finally
        {
            slots.End(held.ConnectionId, trouble, time.Now());
            underWay.TryRemove(held.Id, out _);
            signals.Deliveries.Pulse();
        }
    }

    private async Task RenewAsync(CancellationToken stop)
    {
        using var timer = new PeriodicTimer(RenewEvery, time);
        try
        {
            while (await timer.WaitForNextTickAsync(stop))
            {
                try
                {
                    await using var scope = scopes.CreateAsyncScope();
                    scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
                    var claim = scope.ServiceProvider.GetRequiredService<DeliveryClaim>();
                    if (!underWay.IsEmpty) await claim.RenewAsync(worker.Name, [.. underWay.Keys], time.Now(), stop);
                    if (await claim.RecoverAsync(time.Now(), stop) > 0) signals.Deliveries.Pulse();
                }
                catch (Exception e) when (e is not OperationCanceledException)
                {
                    log.LogWarning("Leases could not be renewed: {Reason}", e.Message);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // Stopping.
        }
    }
}

using System.Collections.Concurrent;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Schedules: claims what is due for connections that have room, and hands each to <see cref="DeliveryAttempt"/>
/// without waiting for it. Renews the leases of what is under way, and gives back what a dead worker
/// held.
/// </summary>
public sealed class DeliveryLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    DeliveryAttempt attempt,
    OutcomeWriter outcomes,
    WorkerName worker,
    TimeProvider time,
    IHostApplicationLifetime life,
    ILogger<DeliveryLoop> log
) : EngineLoop(signals.Deliveries, scopes, time, log)
{
    private const int Handful = 16;
    private const int MostUnderWay = 500;
    private static readonly TimeSpan Breath = TimeSpan.FromMilliseconds(20);
    private static readonly TimeSpan RenewEvery = TimeSpan.FromSeconds(5);
    private readonly IServiceScopeFactory scopes = scopes;
    private readonly TimeProvider time = time;
    private readonly ConcurrentDictionary<Guid, byte> underWay = new();

    // Answered by the service, and not yet written down: a slow disk must not narrow what a connection takes.
    private readonly ConcurrentDictionary<Guid, byte> answered = new();

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var renewing = RenewAsync(stoppingToken);
        await base.ExecuteAsync(stoppingToken);
        await renewing;
        // What is under way may have reached the other side: let it come to its end rather than leave it to the lease.
        for (var tries = 0; tries < 200 && !underWay.IsEmpty; tries++)
            await Task.Delay(TimeSpan.FromMilliseconds(50), CancellationToken.None);
    }

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        // The database is behind: what is claimed now would only wait here instead of there.
        if (underWay.Count >= MostUnderWay)
            return (false, time.Now() + Duration.FromMilliseconds(50));
        var claim = services.GetRequiredService<DeliveryClaim>();
        var now = time.Now();
        var held = await claim.ClaimAsync(worker.Name, now, [.. answered.Keys], stop);
        // A connection without room wakes the loop when one of its deliveries ends; one at rest, when its rest is over.
        if (held.Count == 0)
            return (false, await claim.NextAsync(now, [.. answered.Keys], stop));
        foreach (var one in await services.GetRequiredService<DeliveryContextReader>().ReadAsync(held, stop))
        {
            underWay.TryAdd(one.Delivery.Id, 0);
            _ = Task.Run(() => AttemptAsync(one), CancellationToken.None);
        }

        // Deliveries end one by one; claiming them a handful at a time costs a fraction of claiming each as a slot
        // falls free.
        if (held.Count < Handful)
            await Task.Delay(Breath, stop);
        return (true, null);
    }

    private async Task AttemptAsync(DeliveryToMake one)
    {
        var id = one.Delivery.Id;
        Outcome? outcome = null;
        try
        {
            outcome = await attempt.RunAsync(one, life.ApplicationStopped);
        }
        catch (Exception e)
        {
            log.LogError(e, "Delivery {Id} broke off; its lease will run out and it will be tried again.", id);
        }

        answered.TryAdd(id, 0);
        signals.Deliveries.Pulse();

        try
        {
            if (outcome is not null)
                await outcomes.WriteAsync(outcome);
        }
        catch (Exception e)
        {
            log.LogError(
                e,
                "What became of delivery {Id} could not be written down; its lease will run out and it will be tried again.",
                id
            );
        }
        finally
        {
            underWay.TryRemove(id, out _);
            answered.TryRemove(id, out _);
            // What it leads on to, or its next attempt.
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
                    if (!underWay.IsEmpty)
                        await claim.RenewAsync(worker.Name, [.. underWay.Keys], time.Now(), stop);
                    if (await claim.RecoverAsync(time.Now(), stop) > 0)
                        signals.Deliveries.Pulse();
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

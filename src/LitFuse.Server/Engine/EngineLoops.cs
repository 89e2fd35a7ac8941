using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>A loop that does work until there is none, then sleeps until woken, or until work falls due.</summary>
public abstract class EngineLoop(Signal signal, IServiceScopeFactory scopes, TimeProvider time, ILogger log)
    : BackgroundService
{
    /// <summary>The longest sleep: what a lost notice can cost.</summary>
    public static readonly TimeSpan LongestSleep = TimeSpan.FromSeconds(5);

    /// <summary>Does some work, in a scope that sees every client.</summary>
    /// <returns>True when there may be more at once; else when the next falls due.</returns>
    protected abstract Task<(bool More, Instant? Next)> WorkAsync(IServiceProvider services, CancellationToken stop);

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            var sleep = LongestSleep;
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
                var (more, next) = await WorkAsync(scope.ServiceProvider, stoppingToken);
                if (more)
                    continue;
                if (next is { } due)
                {
                    var until = (due - time.Now()).ToTimeSpan();
                    sleep =
                        until < sleep
                            ? (until > TimeSpan.FromMilliseconds(1) ? until : TimeSpan.FromMilliseconds(1))
                            : sleep;
                }
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                if (Problems.IsDatabaseDown(e))
                    log.LogWarning(
                        "{Loop}: the database cannot be reached ({Reason}); trying again in a second.",
                        GetType().Name,
                        e.Message
                    );
                else
                    log.LogError(e, "{Loop} failed; trying again in a second.", GetType().Name);
                sleep = TimeSpan.FromSeconds(1);
            }

            try
            {
                await signal.WaitAsync(sleep, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }
}

/// <summary>Received submissions become leads.</summary>
public sealed class SubmissionLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<SubmissionLoop> log
) : EngineLoop(signals.Submissions, scopes, time, log)
{
    private const int Handful = 8;
    private static readonly TimeSpan Breath = TimeSpan.FromMilliseconds(20);

    // After a batch failed, so many are done one by one: the one that cannot be processed is found and set aside.
    private int singles;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var run = services.GetRequiredService<SubmissionProcessor>();
        try
        {
            var done = await run.RunAsync(singles > 0 ? 1 : SubmissionProcessor.MostAtOnce, stop);
            if (done > 0)
                signals.Deliveries.Pulse();
            if (run.Wakes)
                signals.Burns.Pulse();
            if (singles == 0)
            {
                // Under load the next few are done together; the first of a quiet time waits for nothing.
                if (done is > 0 and < Handful)
                    await Task.Delay(Breath, stop);
                return (done == SubmissionProcessor.MostAtOnce, null);
            }

            singles = done == 0 ? 0 : singles - 1;
            return (done > 0, null);
        }
        catch (Exception e) when (e is not OperationCanceledException && !Problems.IsDatabaseDown(e))
        {
            if (singles == 0)
            {
                log.LogWarning(
                    "A batch of submissions could not be processed together ({Reason}); going one by one.",
                    e.GetBaseException().Message
                );
                singles = SubmissionProcessor.MostAtOnce;
                return (true, null);
            }

            log.LogError(e, "A submission could not be processed");

            await using var scope = services.GetRequiredService<IServiceScopeFactory>().CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            await scope
                .ServiceProvider.GetRequiredService<SubmissionProcessor>()
                .SetBackAsync(e.GetBaseException().Message, stop);
            return (true, null);
        }
    }
}

/// <summary>Burns are woken when their time has come.</summary>
public sealed class BurnLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<BurnLoop> log)
    : EngineLoop(signals.Burns, scopes, time, log)
{
    private const int MostAtOnce = 200;

    // After a batch failed, so many are woken one by one: the one that cannot be is found and set aside, and harms
    // none.
    private int singles;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var run = services.GetRequiredService<BurnService>();
        try
        {
            var woken = await run.WakeAsync(singles > 0 ? 1 : MostAtOnce, stop);
            if (woken > 0)
                signals.Deliveries.Pulse();
            if (singles > 0)
                singles = woken == 0 ? 0 : singles - 1;
            return woken > 0 && (singles > 0 || woken == MostAtOnce)
                ? (true, null)
                : (false, await run.NextWakeAsync(stop));
        }
        catch (Exception e) when (e is not OperationCanceledException && !Problems.IsDatabaseDown(e))
        {
            if (singles == 0)
            {
                log.LogWarning(
                    "A batch of burns could not be woken together ({Reason}); going one by one.",
                    e.GetBaseException().Message
                );
                singles = MostAtOnce;
                return (true, null);
            }

            log.LogError(e, "A burn could not be woken");
            await using var scope = services.GetRequiredService<IServiceScopeFactory>().CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            await scope.ServiceProvider.GetRequiredService<BurnService>().SetFirstAsideAsync(e, stop);
            return (true, null);
        }
    }
}

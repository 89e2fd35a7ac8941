using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Carries imports on, one at a time: whichever process holds the lease reads on where it was left.</summary>
public sealed class ImportLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<ImportLoop> log)
    : EngineLoop(signals.Imports, scopes, time, log)
{
    /// <summary>How long a lease is good for without being renewed; each chunk renews it.</summary>
    public static readonly Duration Lease = Duration.FromSeconds(30);

    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var import = (
            await db
                .Imports.FromSql(
                    $"""
                    update imports set leased_until = {now + Lease}
                    where id = (select id from imports where status in ('running', 'undoing') and (leased_until is null or leased_until < {now}) order by made_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .AsNoTracking()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (import is null)
            return (false, null);
        if (import.Status == ImportStatus.Undoing)
            await services.GetRequiredService<ImportUndo>().RunAsync(import, stop);
        else
            await services.GetRequiredService<ImportProcessor>().RunAsync(import, stop);
        signals.Submissions.Pulse();
        return (true, null);
    }
}

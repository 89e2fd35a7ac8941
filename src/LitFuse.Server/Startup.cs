using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Demo;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Npgsql;

namespace LitFuse.Server;

/// <summary>What must be so before the first request.</summary>
public static class Startup
{
    private const long MigrationLock = 5_080_001;

    /// <summary>
    /// Migrates under a lock, so that several processes may start at once, and loads the demonstration where asked.
    /// </summary>
    /// <remarks>While the database is away it waits, and says so once.</remarks>
    public static async Task PrepareAsync(IServiceProvider services, CancellationToken stop)
    {
        await using var scope = services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        db.Database.SetCommandTimeout(TimeSpan.FromMinutes(5));
        await OpenAsync(db, stop);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_lock({MigrationLock})", stop);
        try
        {
            var known = db.Database.GetMigrations().ToHashSet(StringComparer.Ordinal);
            if (
                (await db.Database.GetAppliedMigrationsAsync(stop)).FirstOrDefault(m => !known.Contains(m)) is { } other
            )
                throw new SettingsException(
                    $"the database was made by another version of Lit Fuse (it knows the migration {other}, this version does not). Start that version, or give an empty database with LITFUSE_DB; a demonstration begins anew with ./demo --reset."
                );
            await db.Database.MigrateAsync(stop);
            if (services.GetRequiredService<Settings>().Demo)
                await scope.ServiceProvider.GetRequiredService<DemoLoader>().LoadAsync(stop);
            else if (!await db.Users.AnyAsync(stop))
                await Console.Error.WriteLineAsync($"{Problems.NobodyYet.Title} {Problems.NobodyYet.Mend}");
        }
        finally
        {
            await db.Database.ExecuteSqlAsync($"select pg_advisory_unlock({MigrationLock})", CancellationToken.None);
            await db.Database.CloseConnectionAsync();
        }
    }

    private static async Task OpenAsync(AppDb db, CancellationToken stop)
    {
        for (var told = false; ; told = true)
        {
            try
            {
                await db.Database.OpenConnectionAsync(stop);
                if (told)
                    await Console.Error.WriteLineAsync("The database answers; going on.");
                return;
            }
            catch (Exception e) when (Problems.IsDatabaseDown(e))
            {
                if (!told)
                    await Console.Error.WriteLineAsync(
                        $"{Problems.DatabaseDown.Title} {e.GetBaseException().Message}. Waiting for it."
                    );
                await Task.Delay(TimeSpan.FromSeconds(1), stop);
            }
        }
    }
}

/// <summary>Ready when the database answers.</summary>
public sealed class DatabaseHealth(NpgsqlDataSource database) : IHealthCheck
{
    /// <inheritdoc />
    public async Task<HealthCheckResult> CheckHealthAsync(
        HealthCheckContext context,
        CancellationToken cancellationToken = default
    )
    {
        try
        {
            await using var ask = database.CreateCommand("select 1");
            await ask.ExecuteScalarAsync(cancellationToken);
            return HealthCheckResult.Healthy();
        }
        catch (NpgsqlException e)
        {
            return HealthCheckResult.Unhealthy(Problems.DatabaseDown.Mend, e);
        }
    }
}

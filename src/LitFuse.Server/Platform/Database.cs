using LitFuse.Server.Features.Demo;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Npgsql;

namespace LitFuse.Server.Platform;

/// <summary>The connection to PostgreSQL.</summary>
public static class Database
{
    /// <summary>One pool for the hot paths and for EF.</summary>
    public static NpgsqlDataSource Open(string connectionString)
    {
        var builder = new NpgsqlDataSourceBuilder(connectionString);
        builder.ConnectionStringBuilder.MaxAutoPrepare = 100;
        builder.ConnectionStringBuilder.AutoPrepareMinUsages = 3;
        builder.ConnectionStringBuilder.MaxPoolSize = 50;
        // Nobody leaves anything in a session: what is set is set for a transaction, and the one lock is given back. Cleaning up
        // after each use took half as many statements again as the work itself.
        builder.ConnectionStringBuilder.NoResetOnClose = true;
        builder.ConnectionStringBuilder.Timeout = 5;
        builder.ConnectionStringBuilder.ApplicationName = "litfuse";
        // The search's index gathers what is new and takes it in later, in one go: not in the middle of a live lead's transaction.
        // Autovacuum does that, and every import for itself.
        // Every statement is over in milliseconds: compiling one first took the claim 150 ms once its tables had grown.
        builder.ConnectionStringBuilder.Options = "-c gin_pending_list_limit=64MB -c jit=off";
        builder.UseNodaTime();
        return builder.Build();
    }
}

/// <summary>What must be so before the first request.</summary>
public static class Startup
{
    private const long MigrationLock = 5_080_001;

    /// <summary>Migrates under a lock, so that several processes may start at once, and loads the demonstration where asked.</summary>
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

using Npgsql;

namespace LitFuse.Platform;

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
        // Nobody leaves anything in a session: what is set is set for a transaction, and the one lock is given back.
        // Cleaning up after each use took half as many statements again as the work itself.
        builder.ConnectionStringBuilder.NoResetOnClose = true;
        builder.ConnectionStringBuilder.Timeout = 5;
        builder.ConnectionStringBuilder.ApplicationName = "litfuse";
        // The search's index gathers what is new and takes it in later, in one go: not in the middle of a live lead's
        // transaction. Autovacuum does that, and every import for itself. Every statement is over in milliseconds:
        // compiling one first took the claim 150 ms once its tables had grown.
        builder.ConnectionStringBuilder.Options = "-c gin_pending_list_limit=64MB -c jit=off";
        builder.UseNodaTime();
        return builder.Build();
    }
}

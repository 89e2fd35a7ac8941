using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Npgsql;
using NpgsqlTypes;

namespace LitFuse.Data;

/// <summary>
/// Writes what the context has been given to add by PostgreSQL's COPY instead of row by row: a hundred thousand rows
/// in seconds. Columns and conversions are those of the model, so nothing is said twice.
/// </summary>
public static class BulkCopy
{
    // In the order in which they refer to one another.
    private static readonly Type[] Order =
    [
        typeof(Submission),
        typeof(Lead),
        typeof(LeadContact),
        typeof(Burn),
        typeof(OutboxDelivery),
        typeof(StoryEvent),
        typeof(ConsentGiven),
        typeof(ImportBadRow),
        typeof(ImportChange),
        typeof(BacktestLead),
    ];

    private static readonly System.Collections.Concurrent.ConcurrentDictionary<IEntityType, Column[]> Columns = new();

    /// <summary>Copies all rows of the kinds above that were added to <paramref name="gathered"/>.</summary>
    public static async Task WriteAsync(AppDb gathered, NpgsqlConnection connection, CancellationToken stop)
    {
        var added = gathered
            .ChangeTracker.Entries()
            .Where(e => e.State == EntityState.Added)
            .Select(e => e.Entity)
            .ToLookup(e => e.GetType());
        await WriteAsync(gathered, added, connection, stop);
    }

    /// <summary>Copies <paramref name="added"/>, by kind.</summary>
    public static async Task WriteAsync(
        AppDb gathered,
        ILookup<Type, object> added,
        NpgsqlConnection connection,
        CancellationToken stop
    )
    {
        foreach (var type in Order)
        {
            if (added[type].Any())
                await CopyAsync(connection, gathered.Model.FindEntityType(type)!, added[type], stop);
        }
    }

    private static async Task CopyAsync(
        NpgsqlConnection connection,
        IEntityType type,
        IEnumerable<object> rows,
        CancellationToken stop
    )
    {
        var columns = Columns.GetOrAdd(type, ColumnsOf);
        await using var copy = await connection.BeginBinaryImportAsync(
            $"copy {type.GetTableName()} ({string.Join(", ", columns.Select(c => c.Name))}) from stdin (format binary)",
            stop
        );
        foreach (var row in rows)
        {
            await copy.StartRowAsync(stop);
            foreach (var (_, read, converter, store) in columns)
            {
                var value = read.GetClrValue(row);
                if (converter is not null && value is not null)
                    value = converter(value);
                if (value is null)
                    await copy.WriteNullAsync(stop);
                else
                    await copy.WriteAsync(value, store, stop);
            }
        }

        await copy.CompleteAsync(stop);
    }

    // By number rather than by name: a name is looked up anew for every value.
    private static readonly Dictionary<string, NpgsqlDbType> Stores = new(StringComparer.Ordinal)
    {
        ["uuid"] = NpgsqlDbType.Uuid,
        ["text"] = NpgsqlDbType.Text,
        ["jsonb"] = NpgsqlDbType.Jsonb,
        ["timestamp with time zone"] = NpgsqlDbType.TimestampTz,
        ["boolean"] = NpgsqlDbType.Boolean,
        ["integer"] = NpgsqlDbType.Integer,
        ["bytea"] = NpgsqlDbType.Bytea,
        ["text[]"] = NpgsqlDbType.Array | NpgsqlDbType.Text,
    };

    private static Column[] ColumnsOf(IEntityType type) =>
        [
            .. type.GetProperties()
                .Where(p => p is not { ValueGenerated: ValueGenerated.OnAdd, ClrType.Name: nameof(Int64) })
                .Select(p => new Column(
                    p.GetColumnName(),
                    p.GetGetter(),
                    p.GetTypeMapping().Converter?.ConvertToProvider,
                    Stores[p.GetRelationalTypeMapping().StoreType]
                )),
        ];

    private readonly record struct Column(
        string Name,
        IClrPropertyGetter Read,
        Func<object?, object?>? Convert,
        NpgsqlDbType Store
    );
}

using Npgsql;

namespace LitFuse.Server.Features.Intake;

/// <summary>What intake needs to know of a form before it answers.</summary>
public sealed record FormAddress(Guid FormId, Guid ClientId, string Key, string Name, string? ThankYouUrl, string? PageUrl);

/// <summary>
/// Forms by key, kept in memory: intake must not ask the database who a form is before it can answer. Re-read when a
/// key is unknown (at most once a second) and every few seconds.
/// </summary>
public sealed class FormDirectory(NpgsqlDataSource database, TimeProvider time)
{
    private static readonly TimeSpan Stale = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan Soonest = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim one = new(1, 1);
    private volatile Snapshot known = new(new Dictionary<string, FormAddress>(StringComparer.Ordinal), DateTimeOffset.MinValue);

    /// <summary>The form with this key, or <c>null</c>.</summary>
    public async ValueTask<FormAddress?> FindAsync(string key, CancellationToken stop)
    {
        var age = time.GetUtcNow() - known.ReadAt;
        if (known.Forms.TryGetValue(key, out var form) && age < Stale) return form;
        if (form is null && age < Soonest) return null;
        if (form is not null && one.CurrentCount == 0) return form;
        await one.WaitAsync(stop);
        try
        {
            if (time.GetUtcNow() - known.ReadAt >= Soonest) known = await ReadAsync(stop);
        }
        catch (NpgsqlException) when (form is not null)
        {
            // The database is away; the writer will say so. What was known still tells where a submission belongs.
            return form;
        }
        finally
        {
            one.Release();
        }

        return known.Forms.GetValueOrDefault(key);
    }

    private async Task<Snapshot> ReadAsync(CancellationToken stop)
    {
        var forms = new Dictionary<string, FormAddress>(StringComparer.Ordinal);
        await using var read = database.CreateCommand("select id, client_id, key, name, thank_you_url, page_url from forms");
        await using var rows = await read.ExecuteReaderAsync(stop);
        while (await rows.ReadAsync(stop))
        {
            var form = new FormAddress(rows.GetGuid(0), rows.GetGuid(1), rows.GetString(2), rows.GetString(3), rows.IsDBNull(4) ? null : rows.GetString(4), rows.IsDBNull(5) ? null : rows.GetString(5));
            forms[form.Key] = form;
        }

        return new(forms, time.GetUtcNow());
    }

    private sealed record Snapshot(IReadOnlyDictionary<string, FormAddress> Forms, DateTimeOffset ReadAt);
}

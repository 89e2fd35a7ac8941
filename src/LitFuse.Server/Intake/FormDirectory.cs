using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Ways;
using Npgsql;

namespace LitFuse.Server.Intake;

/// <summary>What intake needs to know of a form before it answers.</summary>
public sealed record FormAddress(
    Guid FormId,
    Guid ClientId,
    Guid SourceId,
    string Key,
    string Name,
    string? ThankYouUrl,
    string? PageUrl,
    SourceKind Kind,
    OpenProof? Proof,
    IReadOnlyList<Pick> Picks,
    FormDesign? Design
)
{
    /// <summary>Its source.</summary>
    public SourceAddress Source { get; internal set; } = null!;
}

/// <summary>An address that takes all forms of one source.</summary>
/// <param name="Secret">What its sender must show.</param>
/// <param name="Forms">By the sender's own id.</param>
public sealed record SourceAddress(
    Guid SourceId,
    Guid ClientId,
    string Key,
    SourceKind Kind,
    string? Secret,
    IReadOnlyDictionary<string, FormAddress> Forms
);

/// <summary>
/// Forms and sources by key, kept in memory: intake must not ask the database who a form is before it can answer.
/// Re-read when a key is unknown (at most once a second) and every few seconds.
/// </summary>
public sealed class FormDirectory(NpgsqlDataSource database, SourceKinds kinds, Secrets secrets, TimeProvider time)
{
    private static readonly TimeSpan Stale = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan Soonest = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim one = new(1, 1);
    private volatile Snapshot known = new(
        new Dictionary<string, FormAddress>(StringComparer.Ordinal),
        new Dictionary<string, SourceAddress>(StringComparer.Ordinal),
        new Dictionary<Guid, SourceAddress>(),
        DateTimeOffset.MinValue
    );

    /// <summary>The form with this key, or <c>null</c>.</summary>
    public ValueTask<FormAddress?> FindAsync(string key, CancellationToken stop)
    {
        // The usual case, without anything made for it.
        var now = known;
        return now.Forms.TryGetValue(key, out var form) && time.GetUtcNow() - now.ReadAt < Stale
            ? new(form)
            : AskAsync(s => s.Forms.GetValueOrDefault(key), stop);
    }

    /// <summary>The source with this key, or <c>null</c>.</summary>
    public ValueTask<SourceAddress?> SourceAsync(string key, CancellationToken stop) =>
        AskAsync(s => s.Sources.GetValueOrDefault(key), stop);

    /// <summary>The source with this id, or <c>null</c>.</summary>
    public ValueTask<SourceAddress?> SourceAsync(Guid id, CancellationToken stop) =>
        AskAsync(s => s.ById.GetValueOrDefault(id), stop);

    /// <summary>Reads it all again at once: something here has just changed it.</summary>
    public async Task ReadAgainAsync(CancellationToken stop)
    {
        await one.WaitAsync(stop);
        try
        {
            known = await ReadAsync(stop);
        }
        finally
        {
            one.Release();
        }
    }

    private async ValueTask<T?> AskAsync<T>(Func<Snapshot, T?> ask, CancellationToken stop)
        where T : class
    {
        var age = time.GetUtcNow() - known.ReadAt;
        var found = ask(known);
        if (found is not null && age < Stale)
            return found;
        if (found is null && age < Soonest)
            return null;
        if (found is not null && one.CurrentCount == 0)
            return found;
        await one.WaitAsync(stop);
        try
        {
            if (time.GetUtcNow() - known.ReadAt >= Soonest)
                known = await ReadAsync(stop);
        }
        catch (NpgsqlException) when (found is not null)
        {
            // The database is away; the writer will say so. What was known still tells where a submission belongs.
            return found;
        }
        finally
        {
            one.Release();
        }

        return ask(known);
    }

    private async Task<Snapshot> ReadAsync(CancellationToken stop)
    {
        var sources = new List<(Guid Id, Guid ClientId, string Kind, string? Key, string? Secret)>();
        var forms = new List<(FormAddress Form, string? External)>();
        await using var connection = await database.OpenConnectionAsync(stop);
        await using (var read = new NpgsqlCommand("select id, client_id, kind, key, secret from sources", connection))
        await using (var rows = await read.ExecuteReaderAsync(stop))
        {
            while (await rows.ReadAsync(stop))
                sources.Add((rows.GetGuid(0), rows.GetGuid(1), rows.GetString(2), Text(rows, 3), Text(rows, 4)));
        }

        var kindOf = sources.ToDictionary(s => s.Id, s => kinds.Of(s.Kind));
        await using (
            var read = new NpgsqlCommand(
                "select id, client_id, source_id, key, name, thank_you_url, page_url, proof, picks, design, external_id from forms where state <> 'offered'",
                connection
            )
        )
        await using (var rows = await read.ExecuteReaderAsync(stop))
        {
            while (await rows.ReadAsync(stop))
                forms.Add((AddressOf(rows, kindOf[rows.GetGuid(2)]), Text(rows, 10)));
        }

        var bySource = forms.Where(f => f.External is not null).ToLookup(f => f.Form.SourceId);
        var addresses = sources.ConvertAll(s => new SourceAddress(
            s.Id,
            s.ClientId,
            s.Key ?? "",
            kinds.Of(s.Kind),
            s.Secret is null ? null : secrets.Open(s.Secret),
            bySource[s.Id].ToDictionary(f => f.External!, f => f.Form, StringComparer.Ordinal)
        ));
        var byId = addresses.ToDictionary(a => a.SourceId);
        foreach (var (form, _) in forms)
            form.Source = byId[form.SourceId];
        return new(
            forms.ToDictionary(f => f.Form.Key, f => f.Form, StringComparer.Ordinal),
            addresses.Where(a => a.Key.Length > 0).ToDictionary(a => a.Key, StringComparer.Ordinal),
            byId,
            time.GetUtcNow()
        );
    }

    private FormAddress AddressOf(NpgsqlDataReader rows, SourceKind kind)
    {
        var proof = Text(rows, 7) is { } sealedProof
            ? JsonSerializer.Deserialize<FormProof>(sealedProof, CoreJson.Options)
            : null;
        return new(
            rows.GetGuid(0),
            rows.GetGuid(1),
            rows.GetGuid(2),
            rows.GetString(3),
            rows.GetString(4),
            Text(rows, 5),
            Text(rows, 6),
            kind,
            proof is null ? null : new(proof.Kind, proof.User, secrets.Open(proof.Secret)),
            JsonSerializer.Deserialize<IReadOnlyList<Pick>>(rows.GetString(8), CoreJson.Options)!,
            Text(rows, 9) is { } design ? JsonSerializer.Deserialize<FormDesign>(design, CoreJson.Options) : null
        );
    }

    private static string? Text(NpgsqlDataReader rows, int column) =>
        rows.IsDBNull(column) ? null : rows.GetString(column);

    private sealed record Snapshot(
        IReadOnlyDictionary<string, FormAddress> Forms,
        IReadOnlyDictionary<string, SourceAddress> Sources,
        IReadOnlyDictionary<Guid, SourceAddress> ById,
        DateTimeOffset ReadAt
    );
}

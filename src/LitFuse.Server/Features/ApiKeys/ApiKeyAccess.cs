using System.Security.Cryptography;
using System.Text;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.ApiKeys;

/// <summary>Lets a program in by its key, where an endpoint takes keys.</summary>
public sealed class ApiKeyAccess(AppDb db, TimeProvider time) : IKeyAccess
{
    /// <summary>What keys begin with, so that one is recognised where it does not belong.</summary>
    public const string Prefix = "lf_key_";

    // When it was last used is told to the hour; more would be a write for each call.
    private static readonly Duration Fresh = Duration.FromHours(1);

    /// <summary>The hash that is kept of a key.</summary>
    public static byte[] HashOf(string key) => SHA256.HashData(Encoding.UTF8.GetBytes(key));

    /// <inheritdoc />
    public async Task<KeyHolder?> FindAsync(string key, CancellationToken stop)
    {
        if (!key.StartsWith(Prefix, StringComparison.Ordinal) || key.Length > 200)
            return null;
        var hash = HashOf(key);
        var found = await db
            .ApiKeys.IgnoreQueryFilters()
            .SingleOrDefaultAsync(k => k.Hash == hash && k.RevokedAt == null, stop);
        if (found is null)
            return null;
        var now = time.Now();
        if (found.UsedAt is null || now - found.UsedAt > Fresh)
        {
            found.UsedAt = now;
            await db.SaveChangesAsync(stop);
        }

        return new(found.ClientId, found.Name);
    }
}

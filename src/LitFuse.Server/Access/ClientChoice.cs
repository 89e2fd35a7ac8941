using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Access;

/// <summary>Finds the client that a request names.</summary>
public static class ClientChoice
{
    /// <summary>
    /// The clients meant by <paramref name="client"/> (a key or an id), or all that the request may see when none is
    /// named. <c>null</c> when there is none by that name for this person.
    /// </summary>
    public static async Task<IReadOnlyList<Guid>?> ChosenAsync(
        this AppDb db,
        ClientScope scope,
        string? client,
        CancellationToken stop
    )
    {
        if (string.IsNullOrWhiteSpace(client))
            return scope.Ids;
        var id = Guid.TryParse(client, out var parsed) ? parsed : Guid.Empty;
        var found = await db
            .Clients.AsNoTracking()
            .Where(c => scope.Ids.Contains(c.Id) && (c.Key == client || c.Id == id))
            .Select(c => c.Id)
            .ToListAsync(stop);
        return found.Count == 0 ? null : found;
    }
}

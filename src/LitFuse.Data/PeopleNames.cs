using Microsoft.EntityFrameworkCore;

namespace LitFuse.Data;

/// <summary>Names of the people of the team.</summary>
public static class PeopleNames
{
    /// <summary>Names by user id.</summary>
    public static async Task<IReadOnlyDictionary<Guid, string>> PeopleAsync(
        this AppDb db,
        IEnumerable<Guid?> ids,
        CancellationToken stop
    )
    {
        var wanted = ids.OfType<Guid>().Distinct().ToList();
        return wanted.Count == 0
            ? new Dictionary<Guid, string>()
            : await db.Set<User>().Where(u => wanted.Contains(u.Id)).ToDictionaryAsync(u => u.Id, u => u.Name, stop);
    }

    /// <summary>The name of one person, where there is one.</summary>
    public static string? Of(IReadOnlyDictionary<Guid, string> people, Guid? id) =>
        id is { } known ? people.GetValueOrDefault(known) : null;
}

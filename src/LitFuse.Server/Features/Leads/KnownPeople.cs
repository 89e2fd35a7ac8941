using LitFuse.Core.Identity;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Leads;

/// <summary>Finds who is known by what. Each address is looked up by the whole of its key, so that it costs the same however many leads there are.</summary>
public static class KnownPeople
{
    /// <summary>The contacts that these addresses are, each with its lead; tracked or not as <paramref name="db"/> is asked.</summary>
    public static async Task<IReadOnlyList<(LeadContact Contact, Lead Lead)>> KnownAsync(this AppDb db, IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses, bool tracked, CancellationToken stop)
    {
        if (addresses.Count == 0) return [];
        var clients = addresses.Select(a => a.ClientId).ToArray();
        var kinds = addresses.Select(a => Words.Of(a.Key.Kind)).ToArray();
        var values = addresses.Select(a => a.Key.Value).ToArray();
        var contacts = await db.LeadContacts.FromSql($"""
            select c.* from unnest({clients}, {kinds}, {values}) as k(client_id, kind, value)
            join lead_contacts c on c.client_id = k.client_id and c.kind = k.kind and c.value = k.value
            """).AsNoTracking().ToListAsync(stop);
        if (contacts.Count == 0) return [];
        var ids = contacts.Select(c => c.LeadId).Distinct().ToArray();
        var query = db.Leads.FromSql($"select l.* from unnest({ids}) as k(id) join leads l on l.id = k.id");
        var leads = await (tracked ? query : query.AsNoTracking()).ToDictionaryAsync(l => l.Id, stop);
        return contacts.ConvertAll(c => (c, leads[c.LeadId]));
    }
}

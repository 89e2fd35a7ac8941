using LitFuse.Core.Identity;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Engine;

/// <summary>
/// Finds who is known by what. Each address is looked up by the whole of its key, so that it costs the same however
/// many leads there are.
/// </summary>
public static class KnownPeople
{
    /// <summary>
    /// The contacts that these addresses are, real and tests', each with its lead as it stands; not tracked.
    /// </summary>
    public static async Task<IReadOnlyList<(LeadContact Contact, Lead Lead)>> KnownAsync(
        this AppDb db,
        IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses,
        CancellationToken stop
    )
    {
        var contacts = await ContactsAsync(db, addresses, stop);
        if (contacts.Count == 0)
            return [];
        var ids = contacts.Select(c => c.LeadId).Distinct().ToArray();
        var leads = await db
            .Leads.FromSql($"select l.* from unnest({ids}) as k(id) join leads l on l.id = k.id")
            .AsNoTracking()
            .ToDictionaryAsync(l => l.Id, stop);
        return contacts.ConvertAll(c => (c, leads[c.LeadId]));
    }

    /// <summary>The same, for who will change them: each lead held.</summary>
    public static async Task<IReadOnlyList<(LeadContact Contact, HeldLead Lead)>> HeldByAsync(
        this AppDb db,
        IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses,
        CancellationToken stop
    )
    {
        var contacts = await ContactsAsync(db, addresses, stop);
        if (contacts.Count == 0)
            return [];
        var leads = (await HeldLead.ManyAsync(db, contacts.Select(c => c.LeadId), stop)).ToDictionary(l => l.Id);
        return contacts.ConvertAll(c => (c, leads[c.LeadId]));
    }

    private static async Task<List<LeadContact>> ContactsAsync(
        AppDb db,
        IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses,
        CancellationToken stop
    )
    {
        if (addresses.Count == 0)
            return [];
        var (clients, kinds, values) = Split(addresses);
        return await db
            .LeadContacts.FromSql(
                $"""
                select c.* from unnest({clients}, {kinds}, {values}) as k(client_id, kind, value)
                join lead_contacts c on c.client_id = k.client_id and c.kind = k.kind and c.value = k.value
                """
            )
            .AsNoTracking()
            .ToListAsync(stop);
    }

    /// <summary>Those of these addresses that are on the do-not-contact list.</summary>
    public static async Task<IReadOnlyList<DoNotContact>> UnwantedAsync(
        this AppDb db,
        IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses,
        CancellationToken stop
    )
    {
        if (addresses.Count == 0)
            return [];
        var (clients, kinds, values) = Split(addresses);
        return await db
            .DoNotContact.FromSql(
                $"""
                select d.* from unnest({clients}, {kinds}, {values}) as k(client_id, kind, value)
                join do_not_contact d on d.client_id = k.client_id and d.kind = k.kind and d.value = k.value
                """
            )
            .AsNoTracking()
            .ToListAsync(stop);
    }

    /// <summary>
    /// Writes an address down for a lead that it was not known by; where others have it, people share it from now on.
    /// </summary>
    public static Task<int> KnowContactAsync(this AppDb db, Guid leadId, ContactKey key, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"select know_contact({leadId}, {Words.Of(key.Kind)}, {key.Value})", stop);

    private static (Guid[] Clients, string[] Kinds, string[] Values) Split(
        IReadOnlyCollection<(Guid ClientId, ContactKey Key)> addresses
    ) =>
        (
            [.. addresses.Select(a => a.ClientId)],
            [.. addresses.Select(a => Words.Of(a.Key.Kind))],
            [.. addresses.Select(a => a.Key.Value)]
        );
}

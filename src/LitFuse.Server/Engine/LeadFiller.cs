using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using LitFuse.Core.Texts;
using LitFuse.Data;

namespace LitFuse.Server.Engine;

/// <summary>Puts values into a lead.</summary>
public static class LeadFiller
{
    /// <summary>Sets the lead's own columns from <paramref name="fields"/>.</summary>
    public static void Fill(Lead lead, IReadOnlyDictionary<string, string> fields, Phone? phone, string clientZone)
    {
        lead.Fields = fields;
        lead.FirstName = fields.GetValueOrDefault("first_name");
        lead.LastName = fields.GetValueOrDefault("last_name");
        var email = EmailReader.Read(fields.GetValueOrDefault("email")).Email;
        if (lead.Email != email)
            (lead.EmailBouncedAt, lead.EmailBouncedBecause) = (null, null);
        lead.Email = email;
        var readable = phone is not null && phone.E164 == fields.GetValueOrDefault("phone");
        if (readable || !lead.PhoneReadable)
        {
            lead.Phone = fields.GetValueOrDefault("phone");
            lead.PhoneReadable = readable;
        }

        var zone = LeadZone.Read(
            lead.PhoneReadable ? lead.Phone : null,
            readable ? phone!.Country
                : lead.PhoneReadable ? PhoneReader.Read(lead.Phone, "ZZ").Phone?.Country
                : null,
            fields,
            clientZone
        );
        (lead.Zone, lead.ZoneBecause) = (zone.Zone, zone.Because);

        Index(lead);
    }

    /// <summary>Keeps beside them what nobody mapped; the newest of each name stays.</summary>
    public static void Keep(Lead lead, IReadOnlyDictionary<string, string> unmapped)
    {
        if (unmapped.Count == 0)
            return;
        var all = new Dictionary<string, string>(unmapped, StringComparer.Ordinal);
        foreach (var (name, value) in lead.Unmapped)
            if (all.Count < Core.Mapping.MappedLead.MostUnmapped)
                all.TryAdd(name, value);
        lead.Unmapped = all;
    }

    /// <summary>
    /// The same, where the telephone number is read from the fields themselves: after a merge, or another map.
    /// </summary>
    public static void Refill(Lead lead, IReadOnlyDictionary<string, string> fields, string country, string clientZone)
    {
        lead.PhoneReadable = false;
        Fill(lead, fields, PhoneReader.Read(fields.GetValueOrDefault("phone"), country).Phone, clientZone);
    }

    /// <summary>Writes anew what the search looks in.</summary>
    public static void Index(Lead lead)
    {
        var search = string.Join(
                '\n',
                lead.Fields.Values.Prepend(lead.ShownName()).Concat(lead.Tags).Concat(lead.Unmapped.Values)
            )
            .ToLowerInvariant();
        lead.SearchText = Clip.To(search, 2000);
    }
}

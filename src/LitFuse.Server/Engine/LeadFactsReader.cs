using LitFuse.Core.Fuses;
using LitFuse.Core.Payloads;
using LitFuse.Core.Words;
using LitFuse.Server.Features.Clients;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Sources;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Gathers what a decision knows of a lead.</summary>
public static class LeadFactsReader
{
    /// <summary>The facts for a lead whose burn was lit by <paramref name="answers"/> on <paramref name="form"/>.</summary>
    public static LeadFacts Of(Lead lead, Client client, Form form, IReadOnlyList<Answer> answers, PublicAddress address)
    {
        var words = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal)
        {
            ["name"] = lead.ShownName(),
            ["link"] = address.OfLead(lead.Id),
        };
        var asked = answers
            .Where(a => a.Value.Length > 0 && form.Fields.Any(f => f.Name == a.Field))
            .Select(a => KeyValuePair.Create(form.LabelOf(a.Field), a.Value))
            .ToList();
        return new(
            lead.Fields,
            new WordFacts(words, One("name", client.Name), One("name", form.Name), asked),
            lead.PhoneReadable,
            lead.OptedOutAt is not null,
            DateTimeZoneProviders.Tzdb.GetZoneOrNull(lead.Zone) ?? client.DateTimeZone(),
            client.SendHours(), lead.DoNotContactAt is not null);
    }

    private static Dictionary<string, string> One(string key, string value) => new(StringComparer.Ordinal) { [key] = value };
}

/// <summary>Where people and services reach this server.</summary>
public sealed record PublicAddress(string Url)
{
    /// <summary>A lead's page.</summary>
    public string OfLead(Guid id) => $"{Url}/leads/{id:N}";

    /// <summary>Where a connection's service sends its notices.</summary>
    public string OfNotices(Guid connectionId) => $"{Url}/receive/{connectionId:N}";
}

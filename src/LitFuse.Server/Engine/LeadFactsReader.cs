using System.Globalization;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Somebody who works for a client, as steps reach them.</summary>
/// <param name="Phone">Where their texts and calls go.</param>
/// <param name="ChatPerson">Who they are in the team's chat.</param>
public sealed record Colleague(Guid Id, string Name, string? Email, string? Phone, string? ChatPerson)
{
    /// <summary>Reaches out for this client.</summary>
    public bool Reaches { get; init; }
}

/// <summary>Gathers what a decision knows of a lead.</summary>
public static class LeadFactsReader
{
    /// <summary>
    /// The facts for a lead whose burn was lit by <paramref name="answers"/> on <paramref name="form"/>.
    /// </summary>
    public static LeadFacts Of(
        Lead lead,
        Client client,
        Form form,
        IReadOnlyList<Answer> answers,
        PublicAddress address,
        Colleague? owner = null,
        string source = "",
        IReadOnlyDictionary<string, LeadField>? fields = null
    )
    {
        var words = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal)
        {
            ["name"] = lead.ShownName(),
            ["link"] = address.OfLead(lead.Id),
            ["stage"] = lead.Stage,
        };
        var asked = answers
            // A form that nobody has described asks whatever it sends.
            .Where(a =>
                a.Value.Length > 0
                && (
                    form.Fields.Count == 0
                        ? !ObviousMap.Tracking.Contains(a.Field) && a.Field != "page"
                        : form.Fields.Any(f => f.Name == a.Field)
                )
            )
            .Select(a => KeyValuePair.Create(form.LabelOf(a.Field), a.Value))
            .ToList();
        var tracking = answers
            .Where(a => a.Value.Length > 0 && (ObviousMap.Tracking.Contains(a.Field) || a.Field == "page"))
            .GroupBy(a => a.Field, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.First().Value, StringComparer.Ordinal);
        return Bare(lead, client) with
        {
            Words = new WordFacts(words, One("name", client.Name), One("name", form.Name), asked)
            {
                Owner = owner is null ? [] : WordsOf(owner),
                Tracking = tracking,
                WorkDays = client.WorkHours().Days,
                Currency = client.Currency,
                Country = client.Country,
                Known = fields is null ? null : key => fields.GetValueOrDefault(key),
            },
            More = More(lead, form, answers, tracking, owner, source),
        };
    }

    /// <summary>A submission as something that happened, with what fuses can pick by.</summary>
    /// <param name="key">A key of an event about submissions.</param>
    /// <param name="form">The form.</param>
    /// <param name="answers">What was answered.</param>
    /// <param name="source">The name of the form's source.</param>
    /// <param name="at">When.</param>
    /// <param name="how">In words before the form's name: <c>by the submission on</c>.</param>
    /// <param name="page">Where the visitor was, where the envelope says so.</param>
    public static LeadEvent Sent(
        string key,
        Form form,
        IReadOnlyList<Answer> answers,
        string source,
        Instant at,
        string how = "by the submission on",
        string? page = null
    )
    {
        string? Said(string field) => answers.FirstOrDefault(a => a.Field == field)?.Value;
        return LeadEvent.Of(
            key,
            at,
            $"{how} {form.Name}",
            ("form", form.Key),
            ("page", page ?? Said("landing_path") ?? Said("page") ?? ""),
            ("source", source),
            ("account", form.Place?.Name ?? ""),
            ("campaign", Said("utm_campaign") ?? Said("campaign") ?? "")
        );
    }

    /// <summary>The same lead, given to somebody.</summary>
    public static LeadFacts OwnedBy(LeadFacts facts, Colleague owner) =>
        facts with
        {
            Words = facts.Words with { Owner = WordsOf(owner) },
            More = new Dictionary<string, string>(facts.More, StringComparer.Ordinal) { [Facts.Owner] = owner.Name },
        };

    private static Dictionary<string, string> WordsOf(Colleague owner) =>
        new(StringComparer.Ordinal)
        {
            ["name"] = owner.Name,
            ["first_name"] = PersonNames.Split(owner.Name).First ?? owner.Name,
            ["email"] = owner.Email ?? "",
            ["phone"] = owner.Phone ?? "",
        };

    /// <summary>What the gate needs, and nothing of the words.</summary>
    public static LeadFacts Bare(Lead lead, Client client) =>
        new(
            lead.Fields,
            NoWords,
            lead.PhoneReadable,
            lead.OptedOutAt is not null,
            DateTimeZoneProviders.Tzdb.GetZoneOrNull(lead.Zone) ?? client.DateTimeZone(),
            client.SendHours(),
            lead.DoNotContactAt is not null
        )
        {
            ZoneBecause = lead.ZoneBecause,
            AskedAt = lead.AskedAt,
            MostADay = client.MostADay,
            EmailBounces = lead.EmailBouncedAt is not null,
            HasEmail = !string.IsNullOrEmpty(lead.Email),
            PhoneCountry =
                lead.PhoneReadable && lead.Phone is { } phone
                    ? PhoneReader.Read(phone, client.Country).Phone?.Country
                    : null,
            ClientZone = client.DateTimeZone(),
            WorkHours = client.WorkHours(),
            Tags = lead.Tags,
            Stage = lead.Stage,
        };

    private static readonly WordFacts NoWords = new(One("name", ""), One("name", ""), One("name", ""), []);

    private static Dictionary<string, string> More(
        Lead lead,
        Form form,
        IReadOnlyList<Answer> answers,
        Dictionary<string, string> tracking,
        Colleague? owner,
        string source
    )
    {
        var more = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            [Facts.CameBefore] = lead.TimesAsked > 1 ? "yes" : "no",
            [Facts.TimesAsked] = lead.TimesAsked.ToString(CultureInfo.InvariantCulture),
            [Facts.Owner] = owner?.Name ?? "",
            [Facts.Form] = form.Key,
            [Facts.Source] = source,
        };
        foreach (var answer in answers)
            more.TryAdd(Facts.Answer + answer.Field, answer.Value);
        foreach (var (key, value) in tracking)
            more[Facts.Tracking + key] = value;
        return more;
    }

    private static Dictionary<string, string> One(string key, string value) =>
        new(StringComparer.Ordinal) { [key] = value };
}

using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>What a decision knows of the lead and its client.</summary>
/// <param name="Fields">By lead field key, for guards.</param>
/// <param name="Words">For the words of messages.</param>
/// <param name="HasPhone">A telephone number could be read.</param>
/// <param name="OptedOut">Wants no messages.</param>
/// <param name="Zone">The lead's time zone.</param>
/// <param name="SendHours">The client's send hours.</param>
/// <param name="DoNotContact">On the client's do-not-contact list.</param>
public sealed record LeadFacts(
    IReadOnlyDictionary<string, string> Fields,
    WordFacts Words,
    bool HasPhone,
    bool OptedOut,
    DateTimeZone Zone,
    OpenHours SendHours,
    bool DoNotContact = false
)
{
    private static readonly OpenHours AnyHour = new(LocalTime.Midnight, LocalTime.MaxValue, OpenHours.EveryDay);

    /// <summary>How <see cref="Zone"/> is known, in words.</summary>
    public string ZoneBecause { get; init; } = "";

    /// <summary>There is an email address.</summary>
    public bool HasEmail { get; init; }

    /// <summary>Letters to it come back.</summary>
    public bool EmailBounces { get; init; }

    /// <summary>When automatic messages went to them lately, in any order; only those of the last day count.</summary>
    public IReadOnlyList<Instant> Sent { get; init; } = [];

    /// <summary>How many automatic messages they get in a day at most; 0: any number.</summary>
    public int MostADay { get; init; }

    /// <summary>The country of the phone (ISO 3166-1 alpha-2).</summary>
    public string? PhoneCountry { get; init; }

    /// <summary>The client's zone, by which the team lives.</summary>
    public DateTimeZone ClientZone { get; init; } = Zone;

    /// <summary>The client's working hours.</summary>
    public OpenHours WorkHours { get; init; } = AnyHour;

    /// <summary>In lower case.</summary>
    public IReadOnlyList<string> Tags { get; init; } = [];

    /// <summary>The client's stage they stand at.</summary>
    public string Stage { get; init; } = "";

    /// <summary>When they asked last; <c>null</c> where nobody looks.</summary>
    public Instant? AskedAt { get; init; }

    /// <summary>Other facts that are no lead fields, by path (<see cref="Facts"/>).</summary>
    public IReadOnlyDictionary<string, string> More { get; init; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>As a step of a fuse can change it.</summary>
    public LeadStanding Standing() => new(Fields, Tags, Stage);

    /// <summary>The same lead after a step has changed it.</summary>
    public LeadFacts After(LeadStanding now)
    {
        var changed = this with { Fields = now.Fields, Tags = now.Tags, Stage = now.Stage };
        if (ReferenceEquals(now.Fields, Fields))
            return changed;
        var lead = Words
            .Lead.Where(w => !Fields.ContainsKey(w.Key))
            .Concat(now.Fields)
            .GroupBy(w => w.Key, StringComparer.Ordinal)
            .ToDictionary(w => w.Key, w => w.Last().Value, StringComparer.Ordinal);
        var phone = PhoneReader.Read(now.Fields.GetValueOrDefault("phone"), Words.Country).Phone;
        if (phone is not null && phone.E164 != now.Fields["phone"])
            phone = null;
        var email = now.Fields.GetValueOrDefault("email");
        var zone = LeadZone.Read(phone?.E164, phone?.Country, now.Fields, ClientZone.Id);
        lead["name"] = PersonNames.Join(
            now.Fields.GetValueOrDefault("first_name"),
            now.Fields.GetValueOrDefault("last_name")
        )
            ?? email
            ?? now.Fields.GetValueOrDefault("phone")
            ?? "no name given";
        return changed with
        {
            Words = Words with { Lead = lead },
            HasPhone = phone is not null,
            HasEmail = !string.IsNullOrEmpty(email),
            EmailBounces = EmailBounces && email == Fields.GetValueOrDefault("email"),
            PhoneCountry = phone?.Country,
            Zone = DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone.Zone) ?? ClientZone,
            ZoneBecause = zone.Because,
        };
    }

    /// <summary>What words can speak of, with the stage as it is by now.</summary>
    public WordFacts WordsNow() =>
        Words.Lead.GetValueOrDefault("stage", "") == Stage
            ? Words
            : Words with
            {
                Lead = new Dictionary<string, string>(Words.Lead, StringComparer.Ordinal) { ["stage"] = Stage },
            };

    /// <summary>For guards, at <paramref name="now"/>.</summary>
    public GuardFacts ForGuards(Instant now) => new(path => Fact(path, now), now.InZone(ClientZone).Date);

    /// <summary>The fact behind a path, or <c>null</c>.</summary>
    public string? Fact(string path, Instant now)
    {
        if (!path.Contains('.', StringComparison.Ordinal))
            return Fields.GetValueOrDefault(path);
        return path switch
        {
            Facts.WorkingHours => WorkHours.IsOpen(now, ClientZone) ? "yes" : "no",
            Facts.Weekday => now.InZone(ClientZone).DayOfWeek.ToString(),
            Facts.Hour => now.InZone(ClientZone).Hour.ToString(System.Globalization.CultureInfo.InvariantCulture),
            Facts.HoursSinceAsked => AskedAt is { } asked
                ? Math.Max(0, (now - asked).TotalHours)
                    .ToString("0.##", System.Globalization.CultureInfo.InvariantCulture)
                : null,
            Facts.PhoneCountry => PhoneCountry,
            Facts.Tags => Tags.Count == 0 ? null : string.Join(", ", Tags),
            Facts.Stage => Stage,
            _ => More.GetValueOrDefault(path) ?? Fields.GetValueOrDefault(path),
        };
    }
}

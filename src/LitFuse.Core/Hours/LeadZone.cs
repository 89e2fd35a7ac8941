using NodaTime.TimeZones;
using PhoneNumbers;

namespace LitFuse.Core.Hours;

/// <summary>A time zone and what told it.</summary>
public sealed record ZoneReading(string Zone, string Because);

/// <summary>Chooses the time zone a person lives by.</summary>
public static class LeadZone
{
    private static readonly ILookup<string, string> ZonesByCountry = (
        TzdbDateTimeZoneSource.Default.ZoneLocations ?? []
    ).ToLookup(l => l.CountryCode, l => l.ZoneId, StringComparer.Ordinal);

    private static readonly Lazy<PhoneNumberToTimeZonesMapper> ByNumber = new(PhoneNumberToTimeZonesMapper.GetInstance);

    // The first letter of a Canadian postal code is its province (Canada Post).
    private static readonly Dictionary<char, string> CanadianPostal = new()
    {
        ['A'] = "America/St_Johns",
        ['B'] = "America/Halifax",
        ['C'] = "America/Halifax",
        ['E'] = "America/Moncton",
        ['G'] = "America/Toronto",
        ['H'] = "America/Toronto",
        ['J'] = "America/Toronto",
        ['K'] = "America/Toronto",
        ['L'] = "America/Toronto",
        ['M'] = "America/Toronto",
        ['N'] = "America/Toronto",
        ['P'] = "America/Toronto",
        ['R'] = "America/Winnipeg",
        ['S'] = "America/Regina",
        ['T'] = "America/Edmonton",
        ['V'] = "America/Vancouver",
        ['X'] = "America/Yellowknife",
        ['Y'] = "America/Whitehorse",
    };

    // The first digit of a ZIP code is a group of states (USPS); groups that lie in more than one zone go by their
    // larger part.
    private static readonly string[] UnitedStatesZip =
    [
        "America/New_York",
        "America/New_York",
        "America/New_York",
        "America/New_York",
        "America/New_York",
        "America/Chicago",
        "America/Chicago",
        "America/Chicago",
        "America/Denver",
        "America/Los_Angeles",
    ];

    /// <summary>
    /// The client's own zone when it is one of the phone's country (or the country is unknown), else that country's
    /// first zone in the tz database.
    /// </summary>
    public static string For(string? phoneCountry, string clientZone)
    {
        if (phoneCountry is null)
            return clientZone;
        var zones = ZonesByCountry[phoneCountry].ToList();
        return zones.Count == 0 || zones.Contains(clientZone) ? clientZone : zones[0];
    }

    /// <summary>
    /// The zone by what is known: a zone among the answers, the postcode where the country has several zones, the
    /// phone's area code, the phone's country, else the client's own.
    /// </summary>
    /// <param name="e164">A number that could be read, or <c>null</c>.</param>
    /// <param name="country">Its country.</param>
    /// <param name="fields">The lead's fields: <c>time_zone</c> and <c>postcode</c> are looked at.</param>
    /// <param name="clientZone">The client's own.</param>
    public static ZoneReading Read(
        string? e164,
        string? country,
        IReadOnlyDictionary<string, string> fields,
        string clientZone
    )
    {
        if (
            fields.TryGetValue("time_zone", out var said)
            && NodaTime.DateTimeZoneProviders.Tzdb.GetZoneOrNull(said.Trim()) is { } zone
        )
            return new(zone.Id, "they said so");
        if (country is null)
            return new(clientZone, "the client's own");
        if (fields.TryGetValue("postcode", out var postcode) && OfPostcode(country, postcode.Trim()) is { } byPost)
            return new(byPost, "by their postcode");
        if (e164 is not null && ZonesByCountry[country].Skip(1).Any() && OfAreaCode(e164) is { } byArea)
            return new(byArea, "by their number's area code");
        return new(For(country, clientZone), "by their number's country");
    }

    private static string? OfPostcode(string country, string postcode) =>
        (country, postcode) switch
        {
            ("CA", [var letter, ..]) => CanadianPostal.GetValueOrDefault(char.ToUpperInvariant(letter)),
            ("US", [>= '0' and <= '9', _, _, _, _, ..]) => UnitedStatesZip[postcode[0] - '0'],
            _ => null,
        };

    private static string? OfAreaCode(string e164)
    {
        try
        {
            var zones = ByNumber.Value.GetTimeZonesForGeographicalNumber(
                PhoneNumberUtil.GetInstance().Parse(e164, null)
            );
            return zones.Count == 1 && NodaTime.DateTimeZoneProviders.Tzdb.GetZoneOrNull(zones[0]) is { } zone
                ? zone.Id
                : null;
        }
        catch (NumberParseException)
        {
            return null;
        }
    }
}

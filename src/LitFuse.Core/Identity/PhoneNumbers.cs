using PhoneNumbers;

namespace LitFuse.Core.Identity;

/// <summary>A telephone number in E.164 form.</summary>
/// <param name="E164">With the plus sign, for example <c>+447700900512</c>.</param>
/// <param name="Country">ISO 3166-1 alpha-2, or <c>null</c> where the number belongs to no single country.</param>
/// <param name="Fictional">True for a number from a range that a regulator keeps for stories and
/// demonstrations.</param>
public sealed record Phone(string E164, string? Country, bool Fictional);

/// <summary>What became of one typed telephone number: a number, or the reason it is none.</summary>
public sealed record PhoneReading(Phone? Phone, string? Fault);

/// <summary>Reads telephone numbers as people type them into E.164 (ITU-T E.164).</summary>
public static class PhoneReader
{
    private static readonly PhoneNumberUtil Util = PhoneNumberUtil.GetInstance();

    /// <summary>
    /// Reads <paramref name="typed"/>, taking <paramref name="defaultCountry"/> where no country code was typed.
    /// Empty input is no number and no fault.
    /// </summary>
    public static PhoneReading Read(string? typed, string defaultCountry)
    {
        if (string.IsNullOrWhiteSpace(typed))
            return new(null, null);
        if (typed.Length > 60)
            return new(null, "a telephone number has at most 15 digits (E.164); this is far longer");
        PhoneNumber parsed;
        try
        {
            parsed = Util.Parse(typed.Trim(), defaultCountry);
        }
        catch (NumberParseException e)
        {
            return new(
                null,
                e.ErrorType switch
                {
                    ErrorType.INVALID_COUNTRY_CODE =>
                        "the country code is missing or unknown; write it as +44 7700 900512",
                    ErrorType.TOO_SHORT_NSN or ErrorType.TOO_SHORT_AFTER_IDD => "too short for a telephone number",
                    ErrorType.TOO_LONG => "too long for a telephone number",
                    _ => "this is not a telephone number",
                }
            );
        }

        var e164 = Util.Format(parsed, PhoneNumberFormat.E164);
        var fictional = FictionalNumbers.CountryOf(e164);
        if (fictional is not null)
            return new(new Phone(e164, fictional, Fictional: true), null);
        // What only has the right length (00000, 1234, a date) is typed by strangers to be rid of the question: it is
        // nobody's number.
        if (!Util.IsPossibleNumber(parsed))
            return new(null, "the number of digits does not fit its country");
        if (!Util.IsValidNumber(parsed))
            return new(null, "no telephone has this number: it is in no range that is in use");
        return new(new Phone(e164, Util.GetRegionCodeForNumber(parsed) ?? RegionOf(parsed), Fictional: false), null);
    }

    /// <summary>
    /// Reads one answer with one or several numbers in it (<c>0113 496 0012 / 07700 900123</c>, <c>… or …</c>). A part
    /// that is none is a fault only where no part is one.
    /// </summary>
    public static (IReadOnlyList<Phone> Phones, string? Fault) ReadAll(string typed, string defaultCountry)
    {
        var whole = Read(typed, defaultCountry);
        if (whole.Phone is not null && !Several(typed))
            return ([whole.Phone], null);
        if (!Several(typed))
            return ([], whole.Fault);
        var found = new List<Phone>();
        foreach (
            var part in typed.Split(Between, 8, StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
        )
        {
            if (Read(part, defaultCountry).Phone is { } phone && !found.Contains(phone))
                found.Add(phone);
        }

        return found.Count > 0 ? (found, null)
            : whole.Phone is not null ? ([whole.Phone], null)
            : ([], whole.Fault);
    }

    private static readonly string[] Between =
    [
        "/",
        ";",
        ",",
        "|",
        "\n",
        " or ",
        " oder ",
        " ou ",
        " o ",
        " and ",
        " und ",
        " & ",
    ];

    private static bool Several(string typed) =>
        typed.Length > 14 && Between.Any(b => typed.Contains(b, StringComparison.OrdinalIgnoreCase));

    private static string? RegionOf(PhoneNumber parsed)
    {
        var region = Util.GetRegionCodeForCountryCode(parsed.CountryCode);
        return region is "ZZ" or "001" ? null : region;
    }
}

/// <summary>
/// The ranges that regulators keep free for drama and demonstrations. General libraries call some of them invalid,
/// so they are known here: Ofcom (numbers for drama use), NANPA (555 line numbers 0100–0199), ComReg (020 91x).
/// </summary>
public static class FictionalNumbers
{
    private static readonly (string Prefix, int Length, string Country)[] Ranges =
    [
        ("+447700900", 13, "GB"), // Ofcom: mobile, 07700 900000–900999
        ("+442079460", 13, "GB"), // Ofcom: London, 020 7946 0000–0999
        ("+441134960", 13, "GB"), // Ofcom: Leeds, 0113 496 0000–0999
        ("+441174960", 13, "GB"), // Ofcom: Bristol, 0117 496 0000–0999
        ("+442920180", 13, "GB"), // Ofcom: Cardiff, 029 2018 0000–0999
        ("+441632960", 13, "GB"), // Ofcom: no area, 01632 960000–960999
        ("+3532091", 13, "IE"), // ComReg: 020 91x xxxx
    ];

    /// <summary>The country of a fictional number, or <c>null</c> for any other.</summary>
    public static string? CountryOf(string e164)
    {
        foreach (var (prefix, length, country) in Ranges)
        {
            if (e164.Length == length && e164.StartsWith(prefix, StringComparison.Ordinal))
                return country;
        }

        // NANPA: +1 NPA 555 01XX, with any area code; the country follows the area code.
        if (
            e164.Length == 12
            && e164.StartsWith("+1", StringComparison.Ordinal)
            && e164.AsSpan(5, 5).SequenceEqual("55501")
        )
        {
            return CanadianAreaCodes.Contains(e164.Substring(2, 3)) ? "CA" : "US";
        }

        return null;
    }

    private static readonly HashSet<string> CanadianAreaCodes = new(StringComparer.Ordinal)
    {
        "204",
        "226",
        "236",
        "249",
        "250",
        "289",
        "306",
        "343",
        "365",
        "403",
        "416",
        "418",
        "431",
        "437",
        "438",
        "450",
        "506",
        "514",
        "519",
        "548",
        "579",
        "581",
        "587",
        "604",
        "613",
        "639",
        "647",
        "672",
        "705",
        "709",
        "778",
        "780",
        "782",
        "807",
        "819",
        "825",
        "867",
        "873",
        "902",
        "905",
    };
}

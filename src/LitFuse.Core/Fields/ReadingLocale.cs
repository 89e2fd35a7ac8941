namespace LitFuse.Core.Fields;

/// <summary>How numbers and dates are written where a form is filled in.</summary>
/// <param name="DecimalComma"><c>1.234,5</c> rather than <c>1,234.5</c>.</param>
public sealed record ReadingLocale(bool DecimalComma, DateOrder Dates)
{
    // Unicode CLDR: countries that write a decimal point, and those that do not write the day first.
    private static readonly HashSet<string> PointCountries = new(StringComparer.OrdinalIgnoreCase)
    {
        "GB",
        "IE",
        "US",
        "CA",
        "AU",
        "NZ",
        "IN",
        "PK",
        "BD",
        "LK",
        "JP",
        "CN",
        "TW",
        "HK",
        "KR",
        "MX",
        "MT",
        "IL",
        "TH",
        "PH",
        "MY",
        "SG",
        "NG",
        "KE",
        "GH",
        "CH",
        "LI",
        "PR",
        "DO",
        "GT",
        "HN",
        "NI",
        "PA",
        "PE",
        "SV",
    };

    private static readonly HashSet<string> MonthFirst = new(StringComparer.OrdinalIgnoreCase)
    {
        "US",
        "PH",
        "PR",
        "FM",
        "MH",
        "PW",
        "GU",
    };

    private static readonly HashSet<string> YearFirst = new(StringComparer.OrdinalIgnoreCase)
    {
        "JP",
        "CN",
        "TW",
        "KR",
        "HU",
        "LT",
        "SE",
        "CA",
        "MN",
    };

    /// <summary>For a BCP 47 tag (<c>de-AT</c>, <c>fr</c>), else for a country.</summary>
    public static ReadingLocale For(string? tag, string country)
    {
        var parts = (tag ?? "").Split('-', '_');
        var region =
            parts.Length > 1 && parts[^1].Length == 2
                ? parts[^1]
                : parts[0].ToLowerInvariant() switch
                {
                    "" => country,
                    "en" => country,
                    "sv" => "SE",
                    "da" => "DK",
                    "cs" => "CZ",
                    "ja" => "JP",
                    "zh" => "CN",
                    "ko" => "KR",
                    var language => language,
                };
        // Canada's French writes a comma, its English a point.
        var comma = !PointCountries.Contains(region) || parts[0].Equals("fr", StringComparison.OrdinalIgnoreCase);
        return new(
            comma,
            MonthFirst.Contains(region) ? DateOrder.MonthDayYear
                : YearFirst.Contains(region) ? DateOrder.YearMonthDay
                : DateOrder.DayMonthYear
        );
    }
}

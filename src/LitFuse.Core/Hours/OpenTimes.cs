using NodaTime;

namespace LitFuse.Core.Hours;

/// <summary>Hours from several sides that must all be open: a step's own, and what the law says.</summary>
public static class OpenTimes
{
    /// <summary>True when one part is open at a moment on that clock.</summary>
    public static bool AnyOpen(IReadOnlyList<OpenHours> parts, LocalDateTime local)
    {
        for (var i = 0; i < parts.Count; i++) if (parts[i].IsOpen(local)) return true;
        return false;
    }

    /// <summary>
    /// The first moment at or after <paramref name="at"/> when <paramref name="own"/> and one part of <paramref name="law"/>
    /// are open, or <c>null</c> when there is none within two months. What is left out is open always.
    /// </summary>
    public static Instant? Next(OpenHours? own, IReadOnlyList<OpenHours>? law, Instant at, DateTimeZone zone)
    {
        for (var tries = 0; tries < 64; tries++)
        {
            var later = at;
            if (own is not null)
            {
                if (own.NextOpen(at, zone) is not { } open) return null;
                later = open;
            }

            if (law is not null)
            {
                Instant? first = null;
                for (var i = 0; i < law.Count; i++) if (law[i].NextOpen(later, zone) is { } open && !(first <= open)) first = open;
                if (first is null) return null;
                later = first.Value;
            }

            if (later == at || (own?.IsOpen(later, zone) ?? true)) return later;
            at = later;
        }

        return null;
    }
}

/// <summary>
/// The outer hours for texts that no fuse can go beyond, on the lead's own clock. Where a law names hours they are
/// those; elsewhere they are ours: nobody is texted at night.
/// </summary>
public static class TextLaw
{
    private static readonly IsoDayOfWeek[] Weekdays = [IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday];
    private static readonly IsoDayOfWeek[] Weekend = [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday];

    private static readonly OpenHours[] Decent = [new(new(7, 0), new(22, 0), OpenHours.EveryDay)];

    private static readonly Dictionary<string, OpenHours[]> ByCountry = new(StringComparer.Ordinal)
    {
        ["US"] = [new(new(8, 0), new(21, 0), OpenHours.EveryDay)], // 47 CFR § 64.1200(c)(1)
        ["CA"] = [new(new(9, 0), new(21, 30), Weekdays), new(new(10, 0), new(18, 0), Weekend)], // CRTC Unsolicited Telecommunications Rules, part III
    };

    /// <summary>The hours in a country (ISO 3166-1 alpha-2).</summary>
    public static IReadOnlyList<OpenHours> For(string? country) => country is not null && ByCountry.TryGetValue(country, out var hours) ? hours : Decent;
}

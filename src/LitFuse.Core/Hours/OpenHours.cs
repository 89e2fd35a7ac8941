using NodaTime;

namespace LitFuse.Core.Hours;

/// <summary>
/// Hours of the day on days of the week in which something may be done: send hours (when a lead may be written to)
/// and working hours (when the target's clock runs). <see cref="From"/> is inside, <see cref="To"/> is not.
/// </summary>
/// <param name="From">Local opening time.</param>
/// <param name="To">Local closing time, later than <paramref name="From"/> on the same day.</param>
/// <param name="Days">The days on which it opens; none means never.</param>
public sealed record OpenHours(LocalTime From, LocalTime To, IReadOnlyList<IsoDayOfWeek> Days)
{
    /// <summary>Every day of the week.</summary>
    public static IReadOnlyList<IsoDayOfWeek> EveryDay { get; } =
        [IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday, IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday];

    /// <summary>True when <paramref name="at"/> lies within the hours on the clock of <paramref name="zone"/>.</summary>
    public bool IsOpen(Instant at, DateTimeZone zone)
    {
        var local = at.InZone(zone).LocalDateTime;
        return Days.Contains(local.DayOfWeek) && local.TimeOfDay >= From && local.TimeOfDay < To;
    }

    /// <summary>
    /// The first moment at or after <paramref name="at"/> when it is open, or <c>null</c> when it never opens.
    /// On a day when the clock skips the opening time, it opens as the clock jumps.
    /// </summary>
    public Instant? NextOpen(Instant at, DateTimeZone zone)
    {
        if (IsOpen(at, zone)) return at;
        var date = at.InZone(zone).Date;
        for (var day = 0; day <= 7; day++, date = date.PlusDays(1))
        {
            if (!Days.Contains(date.DayOfWeek) || From >= To) continue;
            var opens = zone.AtLeniently(date + From).ToInstant();
            if (opens >= at) return opens;
        }

        return null;
    }

    /// <summary>
    /// The moment when <paramref name="span"/> of open time has passed since <paramref name="from"/>: how a target of
    /// five minutes is due at 08:05 for who asked at night. Where it never opens, the plain clock counts.
    /// </summary>
    public Instant AfterOpenTime(Instant from, Duration span, DateTimeZone zone)
    {
        var at = from;
        var left = span;
        for (var guard = 0; guard < 400; guard++)
        {
            if (NextOpen(at, zone) is not { } open) return from + span;
            var closes = zone.AtLeniently(open.InZone(zone).Date + To).ToInstant();
            if (open + left <= closes) return open + left;
            left -= closes - open;
            at = closes;
        }

        return at + left;
    }
}

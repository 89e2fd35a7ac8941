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
    private const int LookAhead = 60;

    /// <summary>Days on which it does not open, whatever day of the week they are.</summary>
    public IReadOnlySet<LocalDate>? Closed { get; init; }

    /// <summary>Every day of the week.</summary>
    public static IReadOnlyList<IsoDayOfWeek> EveryDay { get; } =
    [
        IsoDayOfWeek.Monday,
        IsoDayOfWeek.Tuesday,
        IsoDayOfWeek.Wednesday,
        IsoDayOfWeek.Thursday,
        IsoDayOfWeek.Friday,
        IsoDayOfWeek.Saturday,
        IsoDayOfWeek.Sunday,
    ];

    /// <summary>
    /// True when <paramref name="at"/> lies within the hours on the clock of <paramref name="zone"/>.
    /// </summary>
    public bool IsOpen(Instant at, DateTimeZone zone) => IsOpen(at.InZone(zone).LocalDateTime);

    /// <summary>True when a moment on that clock lies within the hours.</summary>
    public bool IsOpen(LocalDateTime local) =>
        OnDay(local.DayOfWeek)
        && local.TimeOfDay >= From
        && local.TimeOfDay < To
        && Closed?.Contains(local.Date) != true;

    /// <summary>True when it opens on that day of the week.</summary>
    public bool OnDay(IsoDayOfWeek day)
    {
        for (var i = 0; i < Days.Count; i++)
            if (Days[i] == day)
                return true;
        return false;
    }

    /// <summary>
    /// The first moment at or after <paramref name="at"/> when it is open, or <c>null</c> when it never opens.
    /// On a day when the clock skips the opening time, it opens as the clock jumps.
    /// </summary>
    public Instant? NextOpen(Instant at, DateTimeZone zone)
    {
        var local = at.InZone(zone).LocalDateTime;
        if (IsOpen(local))
            return at;
        if (From >= To)
            return null;
        var last = local.Date.PlusDays(LookAhead);
        for (var date = local.Date; date <= last; date = date.PlusDays(1))
        {
            if (!OnDay(date.DayOfWeek) || Closed?.Contains(date) == true)
                continue;
            var opens = zone.Shows(date + From);
            // Where the clock skips all the hours of a day, it opens and closes in the same moment.
            if (opens >= at && opens < zone.Shows(date + To))
                return opens;
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
        while (NextOpen(at, zone) is { } open)
        {
            var closes = zone.Shows(open.InZone(zone).Date + To);
            if (open + left <= closes)
                return open + left;
            left -= closes - open;
            at = closes;
        }

        return from + span;
    }
}

using NodaTime;
using NodaTime.TimeZones;

namespace LitFuse.Core.Hours;

/// <summary>Moments on the clocks of zones.</summary>
public static class Clocks
{
    private static readonly Duration Far = Duration.FromDays(1);
    private static readonly ZoneLocalMappingResolver Resolver = Resolvers.CreateMappingResolver(
        Resolvers.ReturnEarlier,
        Resolvers.ReturnStartOfIntervalAfter
    );

    /// <summary>The next moment after <paramref name="after"/> when a clock of the zone shows that hour.</summary>
    public static Instant NextAt(this DateTimeZone zone, LocalTime hour, Instant after)
    {
        var today = after.InZone(zone).Date;
        var next = zone.Shows(today + hour);
        return next > after ? next : zone.Shows(today.PlusDays(1) + hour);
    }

    /// <summary>
    /// When a clock of the zone shows this: the earlier of two moments that do, and the moment the clock jumps where
    /// none does. Quicker away from the days on which clocks change.
    /// </summary>
    public static Instant Shows(this DateTimeZone zone, LocalDateTime local)
    {
        var near = local.InUtc().ToInstant();
        var interval = zone.GetZoneInterval(near);
        // No offset is as long as a day: so far from a change the interval is that of the moment itself.
        if ((!interval.HasStart || near - interval.Start > Far) && (!interval.HasEnd || interval.End - near > Far))
            return local.WithOffset(interval.WallOffset).ToInstant();
        return zone.ResolveLocal(local, Resolver).ToInstant();
    }
}

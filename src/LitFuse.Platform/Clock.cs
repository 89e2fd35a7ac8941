using NodaTime;

namespace LitFuse.Platform;

/// <summary>The server's only clock: <see cref="TimeProvider"/>, read as an <see cref="Instant"/>.</summary>
public static class Clock
{
    /// <summary>The present moment, cut to microseconds so that PostgreSQL gives back what was stored.</summary>
    public static Instant Now(this TimeProvider time)
    {
        var ticks = time.GetUtcNow().UtcTicks - DateTimeOffset.UnixEpoch.UtcTicks;
        return Instant.FromUnixTimeTicks(ticks - (ticks % 10));
    }
}

/// <summary>
/// Real time, moved by a fixed span: lets a demonstration begin at a chosen hour, so that send hours can be seen open
/// and shut at any time of the day.
/// </summary>
public sealed class ShiftedTime(TimeSpan shift) : TimeProvider
{
    /// <inheritdoc />
    public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + shift;
}

using System.Collections.Concurrent;
using LitFuse.Server.Features.Connections;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// How much may be under way to each connection and how much may begin in a minute, and a breaker for one that keeps
/// failing: after <see cref="Trips"/> temporary failures in a row it is left alone for a while, then tried with one
/// delivery. Others do not wait for it, and no attempt is spent while it rests.
/// </summary>
public sealed class ConnectionSlots
{
    /// <summary>Deliveries at once to one connection, where nothing else is said.</summary>
    public const int Wide = 24;

    /// <summary>Failures in a row that open the breaker.</summary>
    public const int Trips = 5;

    private static readonly Duration LongestRest = Duration.FromSeconds(30);
    private readonly ConcurrentDictionary<Guid, State> states = new();

    /// <summary>How many more may be sent now, of connections that have less room than they have as a rule.</summary>
    public IReadOnlyDictionary<Guid, int> Free(Instant now)
    {
        var free = new Dictionary<Guid, int>();
        foreach (var (connection, state) in states)
        {
            lock (state)
            {
                var room = state.RestUntil > now ? 0 : Math.Max(0, (state.Failures >= Trips ? 1 : state.AtOnce) - state.UnderWay);
                if (state.PerMinute is not null) room = Math.Min(room, (int)state.Tokens(now));
                if (room < state.AtOnce) free[connection] = room;
            }
        }

        return free;
    }

    /// <summary>When a connection that rests, or has had its share of this minute, may next be tried, or <c>null</c>.</summary>
    public Instant? RestsUntil(Guid connection, Instant now)
    {
        if (!states.TryGetValue(connection, out var state)) return null;
        lock (state)
        {
            if (state.RestUntil > now) return state.RestUntil;
            return state.PerMinute is { } rate && state.Tokens(now) is var tokens and < 1 ? now + Duration.FromMilliseconds(1 + ((1 - tokens) * 60_000 / rate)) : null;
        }
    }

    /// <summary>A delivery begins.</summary>
    public void Begin(Connection connection, Instant now)
    {
        var state = states.GetOrAdd(connection.Id, _ => new());
        lock (state)
        {
            state.AtOnce = connection.AtOnce ?? Wide;
            if (state.PerMinute != connection.PerMinute) (state.PerMinute, state.Left, state.LeftAt) = (connection.PerMinute, Math.Max(1, (connection.PerMinute ?? 0) / 60), now);
            state.UnderWay++;
            if (state.PerMinute is not null) state.Left = state.Tokens(now) - 1;
        }
    }

    /// <summary>A delivery is over; <paramref name="failed"/> when the service was in trouble.</summary>
    /// <returns>True when it works again after it rested.</returns>
    public bool End(Guid connection, bool failed, Instant now)
    {
        var state = states.GetOrAdd(connection, _ => new());
        lock (state)
        {
            var recovered = !failed && state.Failures >= Trips;
            state.UnderWay--;
            state.Failures = failed ? state.Failures + 1 : 0;
            state.RestUntil = state.Failures < Trips
                ? Instant.MinValue
                : now + Duration.Min(LongestRest, Duration.FromSeconds(1 << Math.Min(5, state.Failures - Trips)));
            return recovered;
        }
    }

    private sealed class State
    {
        public int AtOnce { get; set; } = Wide;

        public int? PerMinute { get; set; }

        public double Left { get; set; }

        public Instant LeftAt { get; set; }

        public int UnderWay { get; set; }

        public int Failures { get; set; }

        public Instant RestUntil { get; set; } = Instant.MinValue;

        // They come back evenly, up to a second's worth.
        public double Tokens(Instant now)
        {
            if (PerMinute is not { } rate) return double.MaxValue;
            if (now > LeftAt) (Left, LeftAt) = (Math.Min(Math.Max(1, rate / 60.0), Left + ((now - LeftAt).TotalMinutes * rate)), now);
            return Left;
        }
    }
}

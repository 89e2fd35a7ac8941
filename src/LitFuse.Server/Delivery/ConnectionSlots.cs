using System.Collections.Concurrent;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// How much may be under way to each connection, and a breaker for one that keeps failing: after
/// <see cref="Trips"/> temporary failures in a row it is left alone for a while, then tried with one delivery. Others
/// do not wait for it, and no attempt is spent while it rests.
/// </summary>
public sealed class ConnectionSlots
{
    /// <summary>Deliveries at once to one connection.</summary>
    public const int Wide = 24;

    /// <summary>Failures in a row that open the breaker.</summary>
    public const int Trips = 5;

    private static readonly Duration LongestRest = Duration.FromSeconds(30);
    private readonly ConcurrentDictionary<Guid, State> states = new();

    /// <summary>How many more may be sent now, of connections that have less room than <see cref="Wide"/>.</summary>
    public IReadOnlyDictionary<Guid, int> Free(Instant now)
    {
        var free = new Dictionary<Guid, int>();
        foreach (var (connection, state) in states)
        {
            lock (state)
            {
                var room = state.RestUntil > now ? 0 : Math.Max(0, (state.Failures >= Trips ? 1 : Wide) - state.UnderWay);
                if (room < Wide) free[connection] = room;
            }
        }

        return free;
    }

    /// <summary>When a resting connection may next be tried, or <c>null</c>.</summary>
    public Instant? RestsUntil(Guid connection, Instant now)
    {
        if (!states.TryGetValue(connection, out var state)) return null;
        lock (state) return state.RestUntil > now ? state.RestUntil : null;
    }

    /// <summary>A delivery begins.</summary>
    public void Begin(Guid connection)
    {
        var state = states.GetOrAdd(connection, _ => new());
        lock (state) state.UnderWay++;
    }

    /// <summary>A delivery is over; <paramref name="failed"/> when the service was in trouble.</summary>
    public void End(Guid connection, bool failed, Instant now)
    {
        var state = states.GetOrAdd(connection, _ => new());
        lock (state)
        {
            state.UnderWay--;
            state.Failures = failed ? state.Failures + 1 : 0;
            state.RestUntil = state.Failures < Trips
                ? Instant.MinValue
                : now + Duration.Min(LongestRest, Duration.FromSeconds(1 << Math.Min(5, state.Failures - Trips)));
        }
    }

    private sealed class State
    {
        public int UnderWay { get; set; }

        public int Failures { get; set; }

        public Instant RestUntil { get; set; } = Instant.MinValue;
    }
}

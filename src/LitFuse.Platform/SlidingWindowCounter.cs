using System.Collections.Concurrent;
using System.Runtime.CompilerServices;

namespace LitFuse.Platform;

/// <summary>
/// How many submissions came from one address to one form in about the last ten minutes. In this process's memory, and
/// bounded.
/// </summary>
public sealed class SlidingWindowCounter(TimeProvider time)
{
    private const int Most = 50_000;
    private static readonly TimeSpan Half = TimeSpan.FromMinutes(5);
    private readonly Lock turning = new();
    private ConcurrentDictionary<(Guid Form, string Address), StrongBox<int>> now = new();
    private ConcurrentDictionary<(Guid Form, string Address), StrongBox<int>> before = new();
    private int senders;
    private DateTimeOffset turnAt = DateTimeOffset.MinValue;

    /// <summary>Counts one, and says how many there are with it.</summary>
    public int Count(Guid formId, string address)
    {
        if (time.GetUtcNow() >= turnAt || Volatile.Read(ref senders) > Most)
            Turn();
        var key = (formId, address);
        var own = now.GetOrAdd(key, static _ => new StrongBox<int>());
        var count = Interlocked.Increment(ref own.Value);
        // Asking the dictionary itself how many it holds takes all of its locks.
        if (count == 1)
            Interlocked.Increment(ref senders);
        return count + (before.TryGetValue(key, out var earlier) ? earlier.Value : 0);
    }

    private void Turn()
    {
        lock (turning)
        {
            var at = time.GetUtcNow();
            if (at < turnAt && Volatile.Read(ref senders) <= Most)
                return;
            before = at < turnAt + Half ? now : new();
            now = new();
            senders = 0;
            turnAt = at + Half;
        }
    }
}

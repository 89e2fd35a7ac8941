using System.Collections.Concurrent;

namespace LitFuse.Server.Features.Intake;

/// <summary>How many submissions came from one address to one form in about the last ten minutes. In this process's memory, and bounded.</summary>
public sealed class LatelyCounter(TimeProvider time)
{
    private const int Most = 50_000;
    private static readonly TimeSpan Half = TimeSpan.FromMinutes(5);
    private readonly Lock turning = new();
    private ConcurrentDictionary<(Guid Form, string Address), int> now = new();
    private ConcurrentDictionary<(Guid Form, string Address), int> before = new();
    private DateTimeOffset turnAt = DateTimeOffset.MinValue;

    /// <summary>Counts one, and says how many there are with it.</summary>
    public int Count(Guid formId, string address)
    {
        if (time.GetUtcNow() >= turnAt || now.Count > Most) Turn();
        var key = (formId, address);
        return now.AddOrUpdate(key, 1, static (_, n) => n + 1) + before.GetValueOrDefault(key);
    }

    private void Turn()
    {
        lock (turning)
        {
            var at = time.GetUtcNow();
            if (at < turnAt && now.Count <= Most) return;
            before = at < turnAt + Half ? now : new();
            now = new();
            turnAt = at + Half;
        }
    }
}

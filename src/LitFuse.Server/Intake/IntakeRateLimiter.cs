using System.Threading.RateLimiting;
using LitFuse.Platform;

namespace LitFuse.Server.Intake;

/// <summary>Keeps one address from flooding one form.</summary>
public sealed class IntakeRateLimiter(IntakeLimits limits) : IDisposable
{
    private readonly PartitionedRateLimiter<(Guid Form, string Address)> limiter = PartitionedRateLimiter.Create<
        (Guid, string),
        (Guid, string)
    >(sender => RateLimitPartition.GetTokenBucketLimiter(sender, _ => new TokenBucketRateLimiterOptions
        {
            TokenLimit = limits.Burst,
            TokensPerPeriod = Math.Max(1, limits.PerSecond / 4),
            ReplenishmentPeriod = TimeSpan.FromMilliseconds(250),
            QueueLimit = 0,
        }));

    /// <summary>How many seconds this sender must wait, or <c>null</c> to come in.</summary>
    public int? WaitFor(Guid formId, string address)
    {
        using var lease = limiter.AttemptAcquire((formId, address));
        if (lease.IsAcquired)
            return null;
        return lease.TryGetMetadata(MetadataName.RetryAfter, out var wait)
            ? Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds))
            : 1;
    }

    /// <inheritdoc />
    public void Dispose() => limiter.Dispose();
}

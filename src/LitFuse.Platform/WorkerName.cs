namespace LitFuse.Platform;

/// <summary>Who this worker is, in leases. New with each start: a worker that comes back is another one.</summary>
public sealed record WorkerName(string Name)
{
    /// <summary>A name nobody else has.</summary>
    public static WorkerName New() => new($"{Environment.MachineName}-{Environment.ProcessId}-{Guid.NewGuid():N}");
}

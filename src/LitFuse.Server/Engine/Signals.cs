namespace LitFuse.Server.Engine;

/// <summary>Wakes a loop of this process. Pulses while it is busy are remembered as one.</summary>
public sealed class Signal : IDisposable
{
    private readonly SemaphoreSlim pulse = new(0, 1);

    /// <summary>There may be work.</summary>
    public void Pulse()
    {
        try
        {
            pulse.Release();
        }
        catch (SemaphoreFullException)
        {
            // A pulse is already waiting; it stands for this one too.
        }
    }

    /// <summary>Waits for a pulse, at most so long.</summary>
    public Task WaitAsync(TimeSpan most, CancellationToken stop) => pulse.WaitAsync(most, stop);

    /// <inheritdoc />
    public void Dispose() => pulse.Dispose();
}

/// <summary>The engine's three loops, by what wakes them.</summary>
public sealed class Signals : IDisposable
{
    /// <summary>Submissions to be mapped and matched.</summary>
    public Signal Submissions { get; } = new();

    /// <summary>Deliveries to be carried.</summary>
    public Signal Deliveries { get; } = new();

    /// <summary>Burns whose time has come.</summary>
    public Signal Burns { get; } = new();

    /// <summary>Wakes the loop that a notice names.</summary>
    public void Named(string name)
    {
        (name switch { "submissions" => Submissions, "deliveries" => Deliveries, _ => Burns }).Pulse();
    }

    /// <summary>Wakes all three.</summary>
    public void All()
    {
        Submissions.Pulse();
        Deliveries.Pulse();
        Burns.Pulse();
    }

    /// <inheritdoc />
    public void Dispose()
    {
        Submissions.Dispose();
        Deliveries.Dispose();
        Burns.Dispose();
    }
}

namespace LitFuse.Platform;

/// <summary>Wakes a loop of this process. Pulses while it is busy are remembered as one.</summary>
public sealed class Signal : IDisposable
{
    private readonly SemaphoreSlim pulse = new(0, 1);

    /// <summary>There may be work.</summary>
    public void Pulse()
    {
        if (pulse.CurrentCount > 0)
            return;
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

/// <summary>The engine's loops, by what wakes them.</summary>
public sealed class Signals : IDisposable
{
    private readonly Dictionary<string, Signal> byName;

    /// <summary>Makes them.</summary>
    public Signals() =>
        byName = new(StringComparer.Ordinal)
        {
            ["submissions"] = Submissions,
            ["deliveries"] = Deliveries,
            ["burns"] = Burns,
            ["notices"] = Notices,
            ["looks"] = Looks,
            ["verifies"] = Verifies,
            ["polls"] = Polls,
            ["imports"] = Imports,
            ["daily-files"] = DailyFiles,
            ["reprocessings"] = Reprocessings,
            ["opt-ins"] = OptIns,
            ["clocks"] = Clocks,
            ["nightly-files"] = NightlyFiles,
            ["backtests"] = Backtests,
            ["catch-ups"] = CatchUps,
            ["calls"] = Calls,
            ["lines"] = Lines,
            ["thanks"] = Thanks,
            ["proofs"] = Proofs,
            ["comparisons"] = Comparisons,
        };

    /// <summary>Fuses to be lit for leads that came before they were armed.</summary>
    public Signal CatchUps { get; } = new();

    /// <summary>Lines to be judged.</summary>
    public Signal Lines { get; } = new();

    /// <summary>Thank-you addresses to be asked.</summary>
    public Signal Thanks { get; } = new();

    /// <summary>Forms that are to prove themselves.</summary>
    public Signal Proofs { get; } = new();

    /// <summary>Networks' own lists to be compared with what is here.</summary>
    public Signal Comparisons { get; } = new();

    /// <summary>Calls whose time runs out.</summary>
    public Signal Calls { get; } = new();

    /// <summary>Past leads to be put through fuses.</summary>
    public Signal Backtests { get; } = new();

    /// <summary>Files that go out at night.</summary>
    public Signal NightlyFiles { get; } = new();

    /// <summary>Submissions to be mapped and matched.</summary>
    public Signal Submissions { get; } = new();

    /// <summary>Deliveries to be carried.</summary>
    public Signal Deliveries { get; } = new();

    /// <summary>Burns whose time has come.</summary>
    public Signal Burns { get; } = new();

    /// <summary>Notices whose answers are to be fetched.</summary>
    public Signal Notices { get; } = new();

    /// <summary>Networks to be looked at.</summary>
    public Signal Looks { get; } = new();

    /// <summary>Connections to ask about.</summary>
    public Signal Verifies { get; } = new();

    /// <summary>Networks to be asked for what is new.</summary>
    public Signal Polls { get; } = new();

    /// <summary>Files to be imported.</summary>
    public Signal Imports { get; } = new();

    /// <summary>Daily files to be picked up.</summary>
    public Signal DailyFiles { get; } = new();

    /// <summary>Earlier submissions to be processed again.</summary>
    public Signal Reprocessings { get; } = new();

    /// <summary>Clocks that light fuses.</summary>
    public Signal Clocks { get; } = new();

    /// <summary>Confirming links that run out.</summary>
    public Signal OptIns { get; } = new();

    /// <summary>Wakes the loop that a notice names.</summary>
    public void Named(string name)
    {
        if (byName.TryGetValue(name, out var signal))
            signal.Pulse();
    }

    /// <summary>Wakes all of them.</summary>
    public void All()
    {
        foreach (var signal in byName.Values)
            signal.Pulse();
    }

    /// <inheritdoc />
    public void Dispose()
    {
        foreach (var signal in byName.Values)
            signal.Dispose();
    }
}

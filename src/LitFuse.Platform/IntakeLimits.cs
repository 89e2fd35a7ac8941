namespace LitFuse.Platform;

/// <summary>How much one sender may send.</summary>
public sealed class IntakeLimits
{
    /// <summary>Submissions a second from one address to one form, in the long run.</summary>
    [Setting("Submissions a second from one address to one form, in the long run.", Unit = "submissions a second")]
    public int PerSecond { get; set; } = 500;

    /// <summary>How many may come at once on top of that.</summary>
    [Setting("How many may come at once on top of that.", Unit = "submissions")]
    public int Burst { get; set; } = 5000;
}

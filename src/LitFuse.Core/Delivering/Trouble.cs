using LitFuse.Core.Fuses.Definition;
using NodaTime;

namespace LitFuse.Core.Delivering;

/// <summary>How one attempt at a delivery ended.</summary>
public enum AttemptEnd
{
    /// <summary>The other side has it.</summary>
    Accepted,

    /// <summary>It may go through later: worth trying again.</summary>
    Temporary,

    /// <summary>It will never go through as it is.</summary>
    Final,
}

/// <summary>What came of one attempt.</summary>
/// <param name="End">Whether it went, may go later, or never will.</param>
/// <param name="Reason">In words, never empty.</param>
/// <param name="RetryAfter">What the other side asked for, where it did.</param>
/// <param name="Reference">The other side's own id for what it took, where it gave one.</param>
/// <param name="Results">What it left for later steps, by name.</param>
public sealed record AttemptResult(
    AttemptEnd End,
    string Reason,
    Duration? RetryAfter = null,
    string? Reference = null,
    IReadOnlyDictionary<string, string>? Results = null
)
{
    /// <summary>
    /// The address that it was for is not there, and never will be: nothing more is to be written to it.
    /// </summary>
    public bool NoSuchAddress { get; init; }
}

/// <summary>
/// What counts as temporary and what as final, and how long to wait: the one place where this is said
/// (status codes: RFC 9110 § 15, RFC 6585 § 4).
/// </summary>
public static class Trouble
{
    /// <summary>After so many attempts a delivery is given up, as usual.</summary>
    public const int MostAttempts = 12;

    /// <summary>The longest wait between two attempts.</summary>
    public static Duration LongestWait { get; } = Duration.FromMinutes(30);

    /// <summary>After how many attempts a delivery is given up and kept as a dead letter.</summary>
    public static int AttemptsOf(RetryProfile profile) =>
        profile switch
        {
            RetryProfile.Quick => 3,
            RetryProfile.Patient => 76,
            _ => MostAttempts,
        };

    /// <summary>Reads an HTTP status.</summary>
    public static AttemptEnd OfStatus(int status) =>
        status switch
        {
            >= 200 and < 300 => AttemptEnd.Accepted,
            408 or 423 or 425 or 429 => AttemptEnd.Temporary,
            501 or 505 => AttemptEnd.Final,
            >= 500 => AttemptEnd.Temporary,
            _ => AttemptEnd.Final,
        };

    /// <summary>
    /// How long to wait before attempt <paramref name="attempt"/> + 1: 1 s, 2 s, 4 s … bounded at
    /// <see cref="LongestWait"/>, between half and the whole of it by <paramref name="jitter"/> (0 to 1), and never
    /// less than the other side asked for (itself bounded at six hours). <c>null</c>: give up.
    /// </summary>
    public static Duration? WaitAfter(
        int attempt,
        double jitter,
        Duration? retryAfter,
        RetryProfile profile = RetryProfile.Usual
    )
    {
        if (attempt >= AttemptsOf(profile))
            return null;
        var full = Duration.Min(Duration.FromSeconds(Math.Pow(2, Math.Min(attempt - 1, 20))), LongestWait);
        var wait = full * (0.5 + (0.5 * Math.Clamp(jitter, 0, 1)));
        return retryAfter is { } asked ? Duration.Max(wait, Duration.Min(asked, Duration.FromHours(6))) : wait;
    }
}

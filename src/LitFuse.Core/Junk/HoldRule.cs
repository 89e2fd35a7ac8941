using System.Globalization;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Junk;

/// <summary>What a form holds for approval.</summary>
public enum HoldKind
{
    /// <summary>Nothing.</summary>
    Nothing,

    /// <summary>What is called junk from a score on.</summary>
    Junk,

    /// <summary>What a rule is about, and what is called junk.</summary>
    Rules,

    /// <summary>All of it.</summary>
    All,
}

/// <summary>Which submissions of a form wait for a person's approval.</summary>
/// <param name="JunkFrom">The score (1–100) from which junk is held; for <see cref="HoldKind.Junk"/> and
/// <see cref="HoldKind.Rules"/>.</param>
/// <param name="When">For <see cref="HoldKind.Rules"/>.</param>
public sealed record HoldRule(HoldKind Kind, int JunkFrom, RuleSet? When)
{
    /// <summary>Of a form where nobody has said anything.</summary>
    public static HoldRule Usual { get; } = new(HoldKind.Junk, JunkReading.Junk, null);

    /// <summary>Why this rule makes no sense, or <c>null</c>.</summary>
    public string? Fault() =>
        Kind is HoldKind.Junk or HoldKind.Rules && JunkFrom is < 1 or > 100 ? "A junk score is between 1 and 100."
        : Kind == HoldKind.Rules && (When is null || Guard.Compile(When).Faults is [_, ..])
            ? "Say which submissions: " + (When is null ? "there is no rule" : Guard.Compile(When).Faults[0]) + "."
        : null;

    /// <summary>Why a submission waits, or <c>null</c> when it does not.</summary>
    /// <param name="junk">As scored.</param>
    /// <param name="values">Through the map.</param>
    public string? Why(JunkReading junk, IReadOnlyDictionary<string, string> values)
    {
        if (Kind == HoldKind.Nothing)
            return null;
        if (Kind == HoldKind.All)
            return "everything on this form waits for approval";
        if (junk.Score >= JunkFrom)
            return string.Create(CultureInfo.InvariantCulture, $"junk {junk.Score}: {string.Join("; ", junk.Because)}");
        if (
            Kind == HoldKind.Rules
            && When is { } rules
            && Guard.Compile(rules).Guard is { } guard
            && guard.Ask(values) is { Holds: true } answer
        )
            return answer.Because;
        return null;
    }
}

using LitFuse.Core.Guards;

namespace LitFuse.Core.Fuses;

/// <summary>
/// A fuse as data: what lights it, what happens then, and what stops it. Stored and exchanged as JSON
/// (<c>fuse.schema.json</c> beside this file); never code.
/// </summary>
public sealed record FuseDefinition
{
    /// <summary>The version of this shape.</summary>
    public int Schema { get; init; } = 1;

    /// <summary>What it does, in a few words; never empty.</summary>
    public required string Name { get; init; }

    /// <summary>What lights it; any one of them.</summary>
    public required IReadOnlyList<LitBy> LitBy { get; init; }

    /// <summary>What a second lighting by the same lead does.</summary>
    public Relight Relight { get; init; } = Relight.WhenLastEnded;

    /// <summary>How late, in hours, it may still speak to the lead.</summary>
    public int AgeLimitHours { get; init; } = 24;

    /// <summary>What stops it.</summary>
    public IReadOnlyList<StopRule> StopOn { get; init; } = [StopRule.Touched, StopRule.Replied, StopRule.OptedOut];

    /// <summary>Its bands, in the order they are read.</summary>
    public required IReadOnlyList<Band> Bands { get; init; }
}

/// <summary>An event that lights a fuse.</summary>
/// <param name="Event">The event's name; <c>submission</c>.</param>
/// <param name="Forms">Keys of the forms whose submissions count.</param>
public sealed record LitBy(string Event, IReadOnlyList<string> Forms)
{
    /// <summary>A submission on one of the chosen forms.</summary>
    public const string Submission = "submission";
}

/// <summary>What the same lead's second lighting does.</summary>
public enum Relight
{
    /// <summary>Burns again only when the last burn has ended.</summary>
    WhenLastEnded,

    /// <summary>Burns again each time.</summary>
    Always,

    /// <summary>Burns once for a lead, ever.</summary>
    Once,
}

/// <summary>What stops a burn.</summary>
public enum StopRule
{
    /// <summary>A person reached out: first touch.</summary>
    Touched,

    /// <summary>The lead wrote back.</summary>
    Replied,

    /// <summary>The lead wants no more messages.</summary>
    OptedOut,
}

/// <summary>A part of a fuse with one condition for entering, and a clock of its own.</summary>
/// <param name="Id">Unique in the fuse; stays the same across versions.</param>
/// <param name="Name">What the story calls it.</param>
/// <param name="Entry">When it is entered.</param>
/// <param name="Steps">What is done.</param>
public sealed record Band(string Id, string Name, BandEntry Entry, IReadOnlyList<Step> Steps);

/// <summary>When a band is entered.</summary>
public enum EntryKind
{
    /// <summary>Whenever the fuse is lit.</summary>
    Always,

    /// <summary>When its rules hold at lighting.</summary>
    When,

    /// <summary>When no <see cref="When"/> band was entered.</summary>
    Otherwise,
}

/// <summary>A band's entry condition.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Rules">For <see cref="EntryKind.When"/>.</param>
public sealed record BandEntry(EntryKind Kind, RuleSet? Rules = null);

/// <summary>One thing done.</summary>
/// <param name="Id">Unique in the fuse; stays the same across versions.</param>
/// <param name="Name">What the story calls it.</param>
/// <param name="Kind">A key of <see cref="StepKinds"/>.</param>
/// <param name="AfterSeconds">Seconds after the band lit.</param>
/// <param name="Settings">By the kind's setting keys; words hold Liquid.</param>
public sealed record Step(string Id, string Name, string Kind, int AfterSeconds, IReadOnlyDictionary<string, string> Settings)
{
    /// <summary>The latest a step may be set: 90 days.</summary>
    public const int LatestSeconds = 90 * 24 * 3600;
}

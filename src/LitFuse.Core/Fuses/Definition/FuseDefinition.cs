using System.Text.Json.Serialization;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>
/// A fuse as data: what lights it, what happens then, and what stops it. Stored and exchanged as JSON
/// (<c>fuse.schema.json</c> beside this file); never code.
/// </summary>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record FuseDefinition
{
    /// <summary>The version of this shape; <see cref="FuseFile"/> reads older ones.</summary>
    public int Schema { get; init; } = FuseFile.Schema;

    /// <summary>What it does, in a few words; never empty.</summary>
    public required string Name { get; init; }

    /// <summary>What lights it; any one of them.</summary>
    public required IReadOnlyList<LitBy> LitBy { get; init; }

    /// <summary>What a second lighting by the same lead does.</summary>
    public Relight Relight { get; init; } = Relight.WhenLastEnded;

    /// <summary>For <see cref="Relight.OnceInDays"/>.</summary>
    public int RelightDays { get; init; } = 30;

    /// <summary>How late, in hours, it may still speak to the lead.</summary>
    public int AgeLimitHours { get; init; } = 24;

    /// <summary>For so many days after its last step it still hears what its bands are entered by.</summary>
    public int HearsForDays { get; init; } = 7;

    /// <summary>What stops it.</summary>
    public IReadOnlyList<StopRule> StopOn { get; init; } = StopRule.Usual;

    /// <summary>
    /// Whether all <see cref="EntryKind.When"/> bands whose rules hold are entered, or the first of them.
    /// </summary>
    public BandChoice BandChoice { get; init; } = BandChoice.All;

    /// <summary>Its bands, in the order they are read.</summary>
    public required IReadOnlyList<Band> Bands { get; init; }
}

/// <summary>An event that lights a fuse.</summary>
/// <param name="Event">A key of <see cref="EventCatalog"/>.</param>
/// <param name="Only">By detail of the event: the values that count (<c>form</c> → keys of forms). A detail that is not
/// named may be anything.</param>
/// <param name="When">What must hold of the lead.</param>
/// <param name="Timer">For events that a clock makes.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record LitBy(
    string Event,
    IReadOnlyDictionary<string, IReadOnlyList<string>>? Only = null,
    RuleSet? When = null,
    FuseTimer? Timer = null
);

/// <summary>When a clock lights a fuse, in the client's zone.</summary>
/// <param name="At">The hour: <c>09:30</c>.</param>
/// <param name="Field">For a date that is reached: the lead field that holds it.</param>
/// <param name="Days">So many days after that date; before it when negative.</param>
/// <param name="Weekdays">For a recurring hour: ISO numbers of the days, Monday = 1; none means every day.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record FuseTimer(string At, string? Field = null, int Days = 0, IReadOnlyList<int>? Weekdays = null);

/// <summary>An event that stops a fuse.</summary>
/// <param name="Event">A key of <see cref="EventCatalog"/>.</param>
/// <param name="Only">As in <see cref="LitBy"/>.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record StopRule(string Event, IReadOnlyDictionary<string, IReadOnlyList<string>>? Only = null)
{
    /// <summary>On by default: a person reached out, they wrote back, they want no more.</summary>
    public static IReadOnlyList<StopRule> Usual { get; } =
    [new(EventKeys.Touched), new(EventKeys.Replied), new(EventKeys.OptedOut)];
}

/// <summary>What the same lead's second lighting does.</summary>
public enum Relight
{
    /// <summary>Burns again only when the last burn has ended.</summary>
    WhenLastEnded,

    /// <summary>Burns again each time.</summary>
    Always,

    /// <summary>Burns again when so many days have passed since it was last lit.</summary>
    OnceInDays,

    /// <summary>Burns once for a lead, ever.</summary>
    Once,
}

/// <summary>Which of the bands whose rules hold are entered.</summary>
public enum BandChoice
{
    /// <summary>All of them.</summary>
    All,

    /// <summary>The first that holds, as read.</summary>
    First,
}

/// <summary>A part of a fuse with one condition for entering, and a clock of its own.</summary>
/// <param name="Id">Unique in the fuse; stays the same across versions.</param>
/// <param name="Name">What the story calls it.</param>
/// <param name="Entry">When it is entered.</param>
/// <param name="Steps">What is done.</param>
/// <param name="EachTime">It may be entered again; its clock then begins anew.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record Band(string Id, string Name, BandEntry Entry, IReadOnlyList<Step> Steps, bool EachTime = false);

/// <summary>When a band is entered.</summary>
public enum EntryKind
{
    /// <summary>Whenever the fuse is lit.</summary>
    Always,

    /// <summary>When its rules hold at lighting.</summary>
    When,

    /// <summary>When no <see cref="When"/> band was entered.</summary>
    Otherwise,

    /// <summary>When something happens: a reply that means something, a tag, any registered event.</summary>
    On,

    /// <summary>When they have not written back for a time after a step was done.</summary>
    Silence,

    /// <summary>When a step could not be delivered.</summary>
    Failed,

    /// <summary>When another band has come to its end.</summary>
    End,
}

/// <summary>A band's entry condition.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Rules">Must hold: for <see cref="EntryKind.When"/> at lighting, for others as they are entered.</param>
/// <param name="Event">For <see cref="EntryKind.On"/>: a key of <see cref="EventCatalog"/>.</param>
/// <param name="Only">For <see cref="EntryKind.On"/>, as in <see cref="LitBy"/>.</param>
/// <param name="Of">The step after which there is silence, or that failed (any, where it is left out); the band that
/// ended.</param>
/// <param name="ForSeconds">How long a silence.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BandEntry(
    EntryKind Kind,
    RuleSet? Rules = null,
    string? Event = null,
    IReadOnlyDictionary<string, IReadOnlyList<string>>? Only = null,
    string? Of = null,
    int ForSeconds = 0
);

/// <summary>One thing done.</summary>
/// <param name="Id">Unique in the fuse; stays the same across versions.</param>
/// <param name="Name">What the story calls it.</param>
/// <param name="Kind">A key of <see cref="StepCatalog"/>.</param>
/// <param name="Moment">When, on the band's clock.</param>
/// <param name="Settings">By the kind's setting keys; words hold Liquid.</param>
/// <param name="When">Must hold at its moment; else it is passed over.</param>
/// <param name="Hours">In which hours it may go out; <c>null</c>: the client's send hours for what speaks to the lead,
/// any hour for the rest.</param>
/// <param name="OnFailure">What to do when it could not be delivered; <c>null</c>: try as usual, then go on.</param>
/// <param name="Choices">What they may answer with, in words; numbered from 1 where the words say <c>{{ choices
/// }}</c>.</param>
/// <param name="Ready">The words ready for use that its words were taken from.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record Step(
    string Id,
    string Name,
    string Kind,
    StepMoment Moment,
    IReadOnlyDictionary<string, string> Settings,
    RuleSet? When = null,
    StepHours? Hours = null,
    StepFailure? OnFailure = null,
    IReadOnlyList<string>? Choices = null,
    ReadyWordsUsed? Ready = null
)
{
    /// <summary>The latest a step may be set: 400 days.</summary>
    public const int LatestSeconds = 400 * 24 * 3600;

    /// <summary>
    /// The words for columns of a list, by <c>setting.column</c>; columns left empty are not among them.
    /// </summary>
    public IEnumerable<KeyValuePair<string, string>> Columns(string setting) =>
        Settings.Where(s =>
            s.Key.StartsWith(setting + ".", StringComparison.Ordinal) && !string.IsNullOrWhiteSpace(s.Value)
        );
}

/// <summary>Words ready for use, as a step took them.</summary>
/// <param name="Key">Which.</param>
/// <param name="Version">The version that was taken.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record ReadyWordsUsed(string Key, int Version);

/// <summary>What becomes of a step that could not be delivered.</summary>
/// <param name="Retry">How long it is tried.</param>
/// <param name="Next">What follows.</param>
/// <param name="Person">For <see cref="FailureThen.Tell"/>: whom; <c>owner</c> or a person's id.</param>
/// <param name="Step">For <see cref="FailureThen.Instead"/>: the step of the same band that takes its place, and is
/// done only then.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record StepFailure(
    RetryProfile Retry = RetryProfile.Usual,
    FailureThen Next = FailureThen.GoOn,
    string? Person = null,
    string? Step = null
);

/// <summary>How long a delivery is tried before it is given up.</summary>
public enum RetryProfile
{
    /// <summary>Three attempts within ten seconds: for what is worth nothing later.</summary>
    Quick,

    /// <summary>Twelve attempts, over half an hour, for people; for a day, for systems of record.</summary>
    Usual,

    /// <summary>For a day.</summary>
    Patient,
}

/// <summary>What follows when a step could not be delivered.</summary>
public enum FailureThen
{
    /// <summary>The others go on.</summary>
    GoOn,

    /// <summary>The fuse stops.</summary>
    Stop,

    /// <summary>Somebody is told.</summary>
    Tell,

    /// <summary>Another step is done instead.</summary>
    Instead,
}

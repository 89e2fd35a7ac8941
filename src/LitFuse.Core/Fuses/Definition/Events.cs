using NodaTime;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>Keys of the events that come with Lit Fuse.</summary>
public static class EventKeys
{
    public const string Submission = "submission";
    public const string Edited = "submission-edited";
    public const string LeadMade = "lead-made";
    public const string Tagged = "tagged";
    public const string FieldChanged = "field-changed";
    public const string CameToMatch = "came-to-match";
    public const string StageReached = "stage-reached";
    public const string Replied = "replied";
    public const string Touched = "touched";
    public const string OptedOut = "opted-out";
    public const string Approved = "approved";
    public const string OptInConfirmed = "opt-in-confirmed";
    public const string DateReached = "date-reached";
    public const string Hour = "hour";
    public const string ByHand = "by-hand";
    public const string ByApi = "by-api";
    public const string ByFuse = "by-fuse";
    public const string CallOutcome = "call-outcome";
    public const string RangThrough = "rang-through";
    public const string RecordMoved = "record-moved";
    public const string DeliveryFailed = "delivery-failed";
}

/// <summary>What a kind of event can do in a fuse.</summary>
[Flags]
public enum EventUse
{
    /// <summary>Light it.</summary>
    Light = 1,

    /// <summary>Stop it.</summary>
    Stop = 2,

    /// <summary>Enter a band.</summary>
    Enter = 4,
}

/// <summary>A detail of an event by which a fuse can pick.</summary>
/// <param name="Key">As in <see cref="LeadEvent.Details"/>.</param>
/// <param name="Label">As read in a sentence.</param>
/// <param name="Values">The values there are, where they are fixed; else the client's forms, tags, stages and so
/// on.</param>
public sealed record EventDetail(string Key, string Label, IReadOnlyList<string>? Values = null);

/// <summary>A kind of event. The list is open: a feature registers its own.</summary>
/// <param name="Key">In fuses and in the story.</param>
/// <param name="Sentence">As it is read: <c>they reply</c>.</param>
/// <param name="Details">What a fuse can pick by.</param>
/// <param name="Uses">What it can do.</param>
public sealed record EventKind(string Key, string Sentence, IReadOnlyList<EventDetail> Details, EventUse Uses)
{
    /// <summary>A clock makes it; a fuse says when.</summary>
    public bool Timed => Key is EventKeys.DateReached or EventKeys.Hour;
}

/// <summary>The kinds of event there are.</summary>
public sealed class EventCatalog
{
    private const EventUse Every = EventUse.Light | EventUse.Stop | EventUse.Enter;

    private static readonly EventDetail[] Places =
    [
        new("form", "on the form"),
        new("page", "on the page"),
        new("source", "from the source"),
        new("account", "from the account"),
        new("campaign", "of the campaign"),
    ];

    private static IReadOnlyList<EventKind> Standard { get; } =
    [
        new(EventKeys.Submission, "they send a form", Places, Every),
        new(EventKeys.Edited, "they send it again with other answers", Places, Every),
        new(EventKeys.LeadMade, "a new lead is made", Places, EventUse.Light),
        new(EventKeys.Approved, "a submission is approved", Places, EventUse.Light),
        new(EventKeys.OptInConfirmed, "they confirm their address", Places, EventUse.Light),
        new(
            EventKeys.Replied,
            "they reply",
            [
                new("meaning", "meaning", ["yes", "no", "choice", "question", "stop", "other"]),
                new("choice", "choosing"),
            ],
            Every
        ),
        new(EventKeys.Touched, "somebody of the team reaches out", [], Every),
        new(EventKeys.OptedOut, "they want no more messages", [], Every),
        new(EventKeys.Tagged, "a tag is put on", [new("tag", "the tag")], Every),
        new(EventKeys.StageReached, "a stage is reached", [new("stage", "the stage")], Every),
        new(
            EventKeys.CallOutcome,
            "a call with them ends",
            [
                new(
                    "outcome",
                    "ending",
                    ["reached", "no-answer", "voicemail", "call-back", "booked", "not-interested", "wrong-number"]
                ),
            ],
            Every
        ),
        new(
            EventKeys.RangThrough,
            "ringing through ends",
            [new("outcome", "with", ["spoke", "machine", "no-answer", "nobody", "stopped"])],
            EventUse.Stop | EventUse.Enter
        ),
        new(
            EventKeys.RecordMoved,
            "their record at a service moves on",
            [new("status", "to", ["reached", "won", "lost"])],
            Every
        ),
        new(EventKeys.FieldChanged, "a field changes", [new("field", "the field")], Every),
        new(EventKeys.CameToMatch, "they come to match", [], EventUse.Light),
        new(EventKeys.DateReached, "a date is reached", [], EventUse.Light),
        new(EventKeys.Hour, "an hour comes round", [], EventUse.Light),
        new(EventKeys.ByHand, "somebody lights it by hand", [], EventUse.Light),
        new(EventKeys.ByApi, "a program lights it", [], EventUse.Light),
        new(EventKeys.ByFuse, "another fuse lights it", [], EventUse.Light),
        new(
            EventKeys.DeliveryFailed,
            "a message does not arrive",
            [new("step", "the step")],
            EventUse.Stop | EventUse.Enter
        ),
    ];

    private readonly Dictionary<string, EventKind> byKey;

    /// <summary>The standard kinds, and those that features bring.</summary>
    /// <exception cref="ArgumentException">Two kinds share a key.</exception>
    public EventCatalog(IEnumerable<EventKind>? more = null)
    {
        All = [.. Standard, .. more ?? []];
        byKey = All.ToDictionary(k => k.Key, StringComparer.Ordinal);
    }

    /// <summary>All of them, in the order they are offered.</summary>
    public IReadOnlyList<EventKind> All { get; }

    /// <summary>Only the standard kinds.</summary>
    public static EventCatalog Plain { get; } = new();

    /// <summary>The kind with this key, or <c>null</c>.</summary>
    public EventKind? Find(string? key) => key is null ? null : byKey.GetValueOrDefault(key);
}

/// <summary>Something that happened to a lead.</summary>
/// <param name="Event">A key of <see cref="EventCatalog"/>.</param>
/// <param name="At">When it happened, which may be well before we knew.</param>
/// <param name="Because">In words, for the story.</param>
/// <param name="Details">By the kind's details.</param>
/// <param name="Key">Unique to it, where it can come more than once.</param>
/// <param name="Depth">How many fuses lit one another to make it happen; 0 when the world did.</param>
public sealed record LeadEvent(
    string Event,
    Instant At,
    string Because,
    IReadOnlyDictionary<string, string> Details,
    string? Key = null,
    int Depth = 0
)
{
    private static readonly Dictionary<string, string> Nothing = new(StringComparer.Ordinal);

    /// <summary>For <see cref="EventKeys.CameToMatch"/>: the lead's fields as they were.</summary>
    public IReadOnlyDictionary<string, string>? FieldsBefore { get; init; }

    /// <summary>One with these details.</summary>
    public static LeadEvent Of(string key, Instant at, string because, params (string Key, string Value)[] details) =>
        new(
            key,
            at,
            because,
            details.Length == 0 ? Nothing : details.ToDictionary(d => d.Key, d => d.Value, StringComparer.Ordinal)
        );

    /// <summary>A detail, or nothing.</summary>
    public string? Detail(string key) => Details.GetValueOrDefault(key);
}

using System.Text.Json;
using System.Text.Json.Serialization;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>Where a burn stands.</summary>
public enum BurnStatus
{
    /// <summary>Something may still happen by itself.</summary>
    /// <remarks>
    /// Set when the fuse is lit, and when an event enters a band of a burn that listens. Ends when no step waits or is
    /// under way.
    /// </remarks>
    Burning,

    /// <summary>Nothing waits, but an event may still enter a band.</summary>
    /// <remarks>
    /// Set when nothing waits and a band may still be entered. Ends with such an event, or when the fuse's listening
    /// time is over.
    /// </remarks>
    Listening,

    /// <summary>Somebody ended it: what was under way goes on to its end, and it hears no more.</summary>
    /// <remarks>
    /// Set by what stops the fuse (a touch, a reply, an opt-out, as the fuse says), or by a person. For good.
    /// </remarks>
    Stopped,

    /// <summary>All steps are done, failed or cancelled, and it hears no more.</summary>
    /// <remarks>Set when nothing waits and nothing is listened for. For good; the fuse can be lit again.</remarks>
    Ended,
}

/// <summary>Where a step of a burn stands.</summary>
public enum StepStatus
{
    /// <summary>Its time has not come, or it waits for another's result.</summary>
    /// <remarks>
    /// Set when its band is entered. Ends when it is due and its condition holds, or does not, or a stop cancels it.
    /// </remarks>
    Waiting,

    /// <summary>Handed to delivery; no outcome yet.</summary>
    /// <remarks>Set when it is handed to delivery. Ends with the service's answer.</remarks>
    Sent,

    /// <summary>The outside service took it.</summary>
    /// <remarks>Set when the service took it, or the engine did it itself. For good.</remarks>
    Done,

    /// <summary>Given up.</summary>
    /// <remarks>
    /// Set when delivery gives up, or nobody is there to carry it. For good; the fuse says what happens then, and a
    /// person can send it again.
    /// </remarks>
    Failed,

    /// <summary>Will not be done, by rule.</summary>
    /// <remarks>
    /// Set by a stop, an opt-out, the age limit, a condition that does not hold, or a version without it. For good.
    /// </remarks>
    Cancelled,
}

/// <summary>One step of one burn.</summary>
/// <param name="BandId">The band it belongs to.</param>
/// <param name="StepId">The step.</param>
/// <param name="Status">Where it stands.</param>
/// <param name="PlannedAt">When the fuse's clock meant it to be done.</param>
/// <param name="DueAt">When it is next to be looked at; later than planned while it waits for send hours.</param>
/// <param name="Reason">Why it waits, failed or was cancelled.</param>
/// <param name="Entry">Which entering of its band it belongs to, from 1.</param>
/// <param name="Try">Counts replays, from 1.</param>
/// <param name="Results">What it left for later steps.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BurnStep(
    string BandId,
    string StepId,
    StepStatus Status,
    Instant PlannedAt,
    Instant DueAt,
    string? Reason = null,
    int Entry = 1,
    int Try = 1,
    IReadOnlyDictionary<string, string>? Results = null
)
{
    /// <summary>Done, failed or cancelled.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool Over => Status is StepStatus.Done or StepStatus.Failed or StepStatus.Cancelled;
}

/// <summary>A band that was entered.</summary>
/// <param name="Entry">How often, so far.</param>
/// <param name="At">When it was entered last.</param>
/// <param name="Over">All its steps are over.</param>
/// <param name="Cut">A stop cancelled or called back some of them: its end leads on to nothing.</param>
/// <param name="Hushed">Enterings up to this one were lit before a stop, or by what was: nothing that follows from them
/// speaks to the lead.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BurnBand(
    string BandId,
    int Entry,
    Instant At,
    bool Over = false,
    bool Cut = false,
    int Hushed = 0
);

/// <summary>A band that will be entered unless they write back before.</summary>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BurnSilence(string BandId, Instant Until);

/// <summary>What they replied last, as this burn read it.</summary>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BurnReply(string Text, string Meaning, string? Choice);

/// <summary>
/// One fuse burning for one lead. Invariants: a step stands in it at most once; a step's status never goes back, but
/// by a replay or a new entering of its band; <see cref="Status"/> is <see cref="BurnStatus.Ended"/> only when no step
/// is waiting or sent. Its size is bounded by the fuse, not by how much has happened.
/// </summary>
/// <param name="BurnId">Unique; the first part of every idempotency key.</param>
/// <param name="Status">Where it stands.</param>
/// <param name="SubmittedAt">When the person asked.</param>
/// <param name="LitAt">When it was lit.</param>
/// <param name="Stop">Why it stopped last, where it did.</param>
/// <param name="Steps">The steps of the bands entered.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record BurnState(
    Guid BurnId,
    BurnStatus Status,
    Instant SubmittedAt,
    Instant LitAt,
    string? Stop,
    IReadOnlyList<BurnStep> Steps
)
{
    /// <summary>How many events' keys are remembered.</summary>
    public const int MostHeard = 40;

    /// <summary>The bands entered.</summary>
    public IReadOnlyList<BurnBand> Bands { get; init; } = [];

    /// <summary>Silences that run.</summary>
    public IReadOnlyList<BurnSilence> Silences { get; init; } = [];

    /// <summary>Keys of the latest events, so that one that comes again changes nothing.</summary>
    public IReadOnlyList<string> Heard { get; init; } = [];

    /// <summary>What they replied last.</summary>
    public BurnReply? Reply { get; init; }

    /// <summary>Why it is held for a person, where it is.</summary>
    public string? Held { get; init; }

    /// <summary>While it only listens: until when.</summary>
    public Instant? HearsUntil { get; init; }

    /// <summary>When it must next be looked at, or <c>null</c>.</summary>
    public Instant? NextWake { get; init; }

    /// <summary>How many fuses lit one another before it.</summary>
    public int Depth { get; init; }

    /// <summary>
    /// What is stored, where it cannot be read as a state: by itself it says nothing, is kept as it is, and whatever
    /// happens to the burn sets it aside. That one row is torn keeps nobody from reading the others.
    /// </summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string? Torn { get; private init; }

    /// <summary>Why it cannot be read.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string? TornBecause { get; private init; }

    /// <summary>Reads what is stored.</summary>
    public static BurnState Read(string text)
    {
        try
        {
            return JsonSerializer.Deserialize<BurnState>(text, CoreJson.Options) is { Steps: not null } state
                ? state
                : throw new JsonException("it has no steps");
        }
        catch (JsonException e)
        {
            return new(Guid.Empty, BurnStatus.Burning, Instant.MinValue, Instant.MinValue, null, [])
            {
                Torn = text,
                TornBecause = CoreJson.InWords(e),
            };
        }
    }

    /// <summary>As it is stored.</summary>
    public string Written() => Torn ?? JsonSerializer.Serialize(this, CoreJson.Options);

    /// <summary>A burn that has not been lit yet.</summary>
    public static BurnState New(Guid burnId, Instant submittedAt, Instant litAt, int depth = 0) =>
        new(burnId, BurnStatus.Burning, submittedAt, litAt, null, []) { Depth = depth };

    /// <summary>True when something waits whose time has come.</summary>
    public bool HasDue(Instant now) => NextWake <= now;

    /// <summary>True when an event may still change it.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool Hears => Status is BurnStatus.Burning or BurnStatus.Listening;
}

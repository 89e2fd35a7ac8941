using LitFuse.Core.Drift;
using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>Where an access stands.</summary>
public enum AccessStanding
{
    Whole,
    RanOut,
    TakenBack,
    Unreachable,
}

/// <summary>The access that a source is reached by.</summary>
/// <param name="Missing">Permissions that are needed and were not given: what each is called, and what does not work
/// without it; <c>null</c>: the service has not been asked yet.</param>
/// <param name="Fault">What the service said, where it cannot be reached.</param>
public sealed record LineAccess(
    AccessStanding Standing,
    IReadOnlyList<(string Name, string Without)>? Missing,
    string? Fault = null
);

/// <summary>Whether what a form sends is acted upon.</summary>
public enum FormStanding
{
    Receiving,
    Paused,
    NotChosen,

    /// <summary>Built here, and not published yet.</summary>
    NotPublished,
}

/// <summary>What a form's thank-you address answered when it was asked last.</summary>
/// <param name="Fault">Why it does not answer; <c>null</c>: it does.</param>
public sealed record LineThanks(string Address, Instant? AskedAt, string? Fault);

/// <summary>How often a lead field was filled, of the last submissions.</summary>
/// <param name="Times">How many filled it.</param>
/// <param name="Of">How many were looked at.</param>
/// <param name="EmptyLately">How many of the latest left it empty, one after another.</param>
public sealed record Filled(int Times, int Of, int EmptyLately = 0)
{
    /// <summary>Fewer say nothing.</summary>
    public const int Least = 5;

    /// <summary>
    /// How likely a run of empty ones may be, by how often the field was filled before it, and still be chance.
    /// </summary>
    private const double Chance = 0.01;

    /// <summary>
    /// True when it was filled and is not any more. A field that every second person leaves empty has to be missing
    /// seven times running; one that everybody fills, five times.
    /// </summary>
    public bool Stopped
    {
        get
        {
            if (Times == 0)
                return Of >= Least;
            // Laplace's rule of succession: what was always filled so far is not certain to be.
            var share = (Times + 1.0) / (Of - EmptyLately + 2);
            return EmptyLately >= Least && Math.Pow(1 - share, EmptyLately) < Chance;
        }
    }
}

/// <summary>What was refused at a form's door since the last that was taken.</summary>
/// <param name="Times">How often.</param>
/// <param name="FirstAt">When the first was.</param>
/// <param name="LastAt">When the latest was.</param>
/// <param name="Detail">What was wrong with the latest.</param>
public sealed record DoorRefusals(int Times, Instant FirstAt, Instant LastAt, string Detail)
{
    private const int Least = 3;
    private static readonly Duration LeastSpan = Duration.FromMinutes(10);

    /// <summary>
    /// True when it may well be the real sender that is refused: it comes again and again, over some time, and nothing
    /// good in between. A stranger's one post, or many within a minute, say nothing of the line.
    /// </summary>
    public bool Cuts => Times >= Least && LastAt - FirstAt >= LeastSpan;
}

/// <summary>What is known of one form, for saying whether its line is whole.</summary>
public sealed record LineForm(Guid Id, string Key, string Name, Guid SourceId, string Source, string Network)
{
    /// <summary>
    /// The access it is reached by; <c>null</c> where it needs none, as what it sends comes by itself.
    /// </summary>
    public LineAccess? Access { get; init; }

    /// <summary>Its kind needs an access and it has none.</summary>
    public bool NeedsAccess { get; init; }

    /// <summary>What was refused at its door since the last that was taken; or <c>null</c>.</summary>
    public DoorRefusals? Refused { get; init; }

    public FormStanding Standing { get; init; }

    /// <summary>Something came from it once: it is no longer only being set up.</summary>
    public bool Lived { get; init; }

    /// <summary>Submissions that wait.</summary>
    public int Waiting { get; init; }

    /// <summary>Since when it is archived at its network.</summary>
    public Instant? ArchivedAt { get; init; }

    /// <summary>
    /// What the network says of the ad that carries it: <c>running</c>, <c>waiting</c>, <c>stopped</c>; <c>null</c>
    /// where none tells.
    /// </summary>
    public string? AdState { get; init; }

    public LineThanks? Thanks { get; init; }

    /// <summary>
    /// Visits of the last days that brought answers, and that brought none; <c>null</c> where nobody is sent through
    /// us.
    /// </summary>
    public (int WithAnswers, int Empty)? Visits { get; init; }

    /// <summary>Why it is said to be silent, or <c>null</c>.</summary>
    public string? Silent { get; init; }

    /// <summary>How many its network has that we have not.</summary>
    public int Missing { get; init; }

    /// <summary>The confirmed map's version; <c>null</c>: none is confirmed.</summary>
    public int? MapVersion { get; init; }

    /// <summary>Lead fields that the map fills.</summary>
    public IReadOnlySet<string> Fills { get; init; } = new HashSet<string>(StringComparer.Ordinal);

    /// <summary>By lead field, of the last submissions.</summary>
    public IReadOnlyDictionary<string, Filled> Filled { get; init; } =
        new Dictionary<string, Filled>(StringComparer.Ordinal);

    /// <summary>By lead field: the values that the form offers, as the map makes them.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Offers { get; init; } =
        new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);

    /// <summary>What has changed about its fields.</summary>
    public IReadOnlyList<DriftFinding> Drift { get; init; } = [];

    /// <summary>The latest lead that went all the way.</summary>
    public LineProof? Proof { get; init; }

    /// <summary>When its last cut was mended: what went through before proves nothing.</summary>
    public Instant? MendedAt { get; init; }
}

/// <summary>What is known of a client, for saying whether its lines are whole.</summary>
/// <param name="HeldAt">Since when everything is held for it.</param>
/// <param name="HeldBy">By whom.</param>
public sealed record LineClient(Guid Id, string Name, Instant? HeldAt, string? HeldBy);

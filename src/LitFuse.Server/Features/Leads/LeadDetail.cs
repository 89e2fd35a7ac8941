using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>One line of a lead's story.</summary>
/// <param name="At">When it happened.</param>
/// <param name="KnownAt">When we knew.</param>
/// <param name="AfterSeconds">Since the asking it belongs to.</param>
/// <param name="Words">What or why.</param>
/// <param name="Sent">What was sent, in full.</param>
/// <param name="Answer">What came back.</param>
public sealed record StoryLine(
    long Id,
    StoryKind Kind,
    Instant At,
    Instant KnownAt,
    double AfterSeconds,
    string Words,
    string? Fuse,
    string? Band,
    string? Step,
    string? Person,
    StorySent? Sent,
    string? Answer
);

/// <summary>What a delivery sent.</summary>
/// <param name="Segments">Of a text: into how many it is cut.</param>
public sealed record StorySent(
    string Kind,
    string? To,
    string Words,
    int Attempts,
    DeliveryStatus Status,
    int? Segments
);

/// <summary>One submission of a lead.</summary>
/// <param name="Tracking">What came along: campaign, ad, landing path…</param>
public sealed record LeadSubmission(
    Guid Id,
    Guid FormId,
    string Form,
    Instant AskedAt,
    Instant ReceivedAt,
    bool Test,
    int Junk,
    string Via,
    string? Page,
    IReadOnlyList<AnswerLine> Answers,
    IReadOnlyList<AnswerLine> Tracking
);

/// <summary>An address they are known by.</summary>
public sealed record LeadAddress(Core.Identity.ContactKind Kind, string Value, bool Unwanted);

/// <summary>A consent, as it was given.</summary>
public sealed record LeadConsent(
    ConsentHow How,
    string Words,
    int Version,
    string? PrivacyUrl,
    Instant At,
    string? FromAddress,
    string Source
);

/// <summary>A lead that may be the same person.</summary>
public sealed record LeadTwin(Guid ConflictId, Guid LeadId, string Name, string Words);

/// <summary>A merge or a split of this lead that can be undone.</summary>
public sealed record LeadRegroup(Guid Id, RegroupKind Kind, string Other, Instant At, string? By);

/// <summary>What else is known of a lead.</summary>
/// <param name="Values">By lead field, with the field's label.</param>
/// <param name="WaitsToConfirm">Since when they are asked to confirm their address.</param>
public sealed record LeadContext(
    IReadOnlyList<AnswerLine> Values,
    IReadOnlyList<LeadAddress> Addresses,
    IReadOnlyList<LeadConsent> Consents,
    IReadOnlyList<LeadTwin> Twins,
    IReadOnlyList<LeadRegroup> Regroups,
    string? Owner,
    IReadOnlyList<string> Tags,
    Instant? DoNotContactAt,
    Instant? WaitsToConfirm,
    Instant? ConfirmExpiresAt,
    string? OnlyTo
);

/// <summary>A fuse burning for a lead.</summary>
/// <param name="Held">Why it is held for a person.</param>
/// <param name="Stop">Why it stopped last.</param>
/// <param name="Hears">An event may still change it.</param>
/// <param name="Armed">Its fuse can be lit again.</param>
/// <param name="Silences">Bands that are entered unless they write back before.</param>
/// <param name="SetAside">Why it is set aside, where it is.</param>
public sealed record LeadBurn(
    Guid Id,
    Guid FuseId,
    string Fuse,
    BurnStatus Status,
    Instant LitAt,
    string? Held,
    string? Stop,
    string? SetAside,
    bool Hears,
    bool Armed,
    IReadOnlyList<LeadBurnStep> Steps,
    IReadOnlyList<LeadBurnSilence> Silences
);

/// <summary>A step of a burn that waits, failed or was cancelled.</summary>
public sealed record LeadBurnStep(
    string StepId,
    string Step,
    string Band,
    Lane Lane,
    StepStatus Status,
    Instant DueAt,
    string? Reason
);

/// <summary>A band that silence enters.</summary>
public sealed record LeadBurnSilence(string Band, Instant Until);

/// <summary>A lead, whole.</summary>
public sealed record LeadDetail(
    LeadRow Lead,
    string ClientKey,
    string Zone,
    string ZoneBecause,
    string Stage,
    IReadOnlyList<string> Stages,
    bool CanText,
    string? CannotTextBecause,
    Instant? TextsOpenAt,
    Instant? HeldAt,
    Instant? OptedOutAt,
    Instant? EmailBouncedAt,
    string? EmailBouncedBecause,
    IReadOnlyList<LeadSubmission> Submissions,
    IReadOnlyList<StoryLine> Story,
    IReadOnlyList<LeadBurn> Burns,
    LeadContext Around
);

/// <summary>How a person reached out.</summary>
/// <param name="How"><c>spoke</c>, <c>called</c> or <c>wrote</c>.</param>
public sealed record TouchMade(string How);

/// <summary>A text written by a person.</summary>
public sealed record TextToWrite(string Words);

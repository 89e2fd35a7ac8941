using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>The joints of a line, in the order in which a lead passes them.</summary>
public enum JointKind
{
    /// <summary>The access to where the form is, authorised and not run out.</summary>
    Access,

    /// <summary>Every permission that is needed.</summary>
    Permissions,

    /// <summary>The form: chosen, receiving, not archived, on an ad that runs.</summary>
    Form,

    /// <summary>The address that people are sent on to answers.</summary>
    ThankYou,

    /// <summary>Visitors who are sent through us bring answers.</summary>
    Visits,

    /// <summary>Leads come as they usually do, and all that the network has.</summary>
    Arrivals,

    /// <summary>The field map, confirmed.</summary>
    Map,

    /// <summary>Fields that steps need: mapped, and usually filled.</summary>
    Fields,

    /// <summary>An armed fuse that it lights.</summary>
    Fuse,

    /// <summary>An outside service that steps go through.</summary>
    Service,

    /// <summary>Hours that open some time.</summary>
    Hours,

    /// <summary>A lead that went all the way.</summary>
    Proof,
}

/// <summary>Where a joint, or a line, stands.</summary>
public enum LineState
{
    /// <summary>Nothing gets past it.</summary>
    /// <remarks>Set while any joint of it is cut. Ends when the cause is gone; it is unproven then.</remarks>
    Cut,

    /// <summary>Nothing is wrong with it that is known, and nothing has shown that it holds.</summary>
    /// <remarks>
    /// Set where no real lead and no proof has gone through since it was made or mended. Ends with the first that does.
    /// </remarks>
    Unproven,

    /// <summary>It holds.</summary>
    /// <remarks>Set when a real lead or a proof got what the fuse means it to get. Ends with the next cut.</remarks>
    Whole,
}

/// <summary>What kind of place mends a cut.</summary>
public enum MendPlace
{
    /// <summary>The source: its access, its forms.</summary>
    Source,

    /// <summary>The form's own page.</summary>
    Form,

    /// <summary>The form's field map.</summary>
    Map,

    /// <summary>A fuse, or with a step one step of it.</summary>
    Fuse,

    /// <summary>A new fuse.</summary>
    NewFuse,

    /// <summary>A connection under Setup.</summary>
    Connection,

    /// <summary>Connecting a service of a kind.</summary>
    NewConnection,

    /// <summary>The client's hours.</summary>
    Hours,

    /// <summary>Letting go what is held.</summary>
    Held,
}

/// <summary>What mends a cut, and where.</summary>
/// <param name="Words">What to do.</param>
/// <param name="Place">The kind of place.</param>
/// <param name="Id">Which source, form, fuse or connection; a kind of service for one that is to be connected; the
/// form's key for a new fuse.</param>
/// <param name="Step">Which step of a fuse.</param>
/// <param name="Part">Which part of a page.</param>
public sealed record Mend(string Words, MendPlace Place, string? Id = null, string? Step = null, string? Part = null);

/// <summary>One cut of a line.</summary>
/// <param name="Key">The same for the same cut for as long as it lasts.</param>
/// <param name="Joint">Which joint.</param>
/// <param name="Cause">Why, in a plain sentence.</param>
/// <param name="Mend">What mends it.</param>
public sealed record Cut(string Key, JointKind Joint, string Cause, Mend Mend);

/// <summary>One joint of a line, as it stands.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Name">What it is called on this line: <c>Plaza</c>, <c>Ridgeboard</c>.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Words">What is known of it, in a sentence.</param>
public sealed record Joint(JointKind Kind, string Name, LineState State, string Words);

/// <summary>The line of one form, from its network to the phone.</summary>
/// <param name="FormId">Whose it is.</param>
/// <param name="State">Cut when one joint is, whole when all are.</param>
/// <param name="Joints">In order; those that do not apply are left out.</param>
/// <param name="Cuts">The first is the first from the form's end.</param>
public sealed record FormLine(Guid FormId, LineState State, IReadOnlyList<Joint> Joints, IReadOnlyList<Cut> Cuts)
{
    /// <summary>The armed fuses that the form lights.</summary>
    public IReadOnlyList<Guid> Fuses { get; init; } = [];

    /// <summary>Fields that have stopped coming, and which submissions without them wait.</summary>
    public IReadOnlyList<FieldWait> Waits { get; init; } = [];

    /// <summary>Something came from the form once: whoever can mend its cuts is told of them.</summary>
    public bool Lived { get; init; }

    /// <summary>True when the same would be shown and done.</summary>
    public bool SameAs(FormLine? other) =>
        other is not null
        && State == other.State
        && Lived == other.Lived
        && Joints.SequenceEqual(other.Joints)
        && Cuts.SequenceEqual(other.Cuts)
        && Fuses.SequenceEqual(other.Fuses)
        && FieldWait.Same(Waits, other.Waits);
}

/// <summary>A lead that went all the way.</summary>
/// <param name="At">When the last thing that was due at once had gone out.</param>
/// <param name="Test">It was a test.</param>
/// <param name="LeadId">Whose.</param>
/// <param name="NetworkSeconds">Filled in → we knew; <c>null</c> where the network tells no time.</param>
/// <param name="OurSeconds">We knew → all that was due at once had gone out.</param>
/// <param name="MapVersion">The version of the map it was read through.</param>
/// <param name="Versions">The fuse versions it lit.</param>
public sealed record LineProof(
    Instant At,
    bool Test,
    Guid LeadId,
    double? NetworkSeconds,
    double OurSeconds,
    int MapVersion,
    IReadOnlyList<Guid> Versions
);

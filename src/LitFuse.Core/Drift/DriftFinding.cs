using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using NodaTime;

namespace LitFuse.Core.Drift;

/// <summary>What has changed about a field of a form.</summary>
public enum DriftKind
{
    /// <summary>A mapped field does not come any more.</summary>
    Gone,

    /// <summary>A mapped field comes under another name.</summary>
    Renamed,

    /// <summary>A field comes that the map does not know.</summary>
    Fresh,

    /// <summary>Answers come that are none of its choices.</summary>
    Choices,

    /// <summary>Values come that cannot be read as what it is mapped to.</summary>
    OtherKind,
}

/// <summary>Something that changed about a form's fields, with a mend that is one press away.</summary>
/// <param name="Key">The same for the same finding.</param>
/// <param name="Kind">What changed.</param>
/// <param name="Field">The form's field; for one that was renamed, its old name.</param>
/// <param name="LeadField">Where the map puts it; <c>null</c>: nowhere.</param>
/// <param name="Words">What was found, in a sentence.</param>
/// <param name="Mend">What the press does, in a few words.</param>
/// <param name="After">How many submissions showed it; 0 where the network itself says so.</param>
/// <param name="NewField">For <see cref="DriftKind.Renamed"/>: its new name.</param>
/// <param name="Suggested">For <see cref="DriftKind.Fresh"/>: the lead field it seems to go to; for
/// <see cref="DriftKind.Choices"/>, nothing.</param>
/// <param name="Values">For <see cref="DriftKind.Choices"/>: the answers that are new.</param>
public sealed record DriftFinding(
    string Key,
    DriftKind Kind,
    string Field,
    string? LeadField,
    string Words,
    string Mend,
    int After,
    string? NewField = null,
    string? Suggested = null,
    IReadOnlyList<string>? Values = null
)
{
    /// <summary>
    /// The form does not send it under the name that the map knows: what comes without it is better kept until that is
    /// mended. A field that people leave empty is none.
    /// </summary>
    public bool Lost { get; init; }

    // A list is compared by what is in it: findings are the same as long as they say the same.
    public bool Equals(DriftFinding? other) =>
        other is not null
        && Key == other.Key
        && Kind == other.Kind
        && Words == other.Words
        && Mend == other.Mend
        && LeadField == other.LeadField
        && NewField == other.NewField
        && Suggested == other.Suggested;

    public override int GetHashCode() => HashCode.Combine(Key, Words);
}

/// <summary>A submission as far as drift goes.</summary>
/// <param name="At">When it came.</param>
/// <param name="Answers">By form field; an empty answer is one that was asked and not given.</param>
public sealed record DriftSample(Instant At, IReadOnlyDictionary<string, string> Answers);

/// <summary>A form as it is known, against which what comes is held.</summary>
/// <param name="Fields">As the form itself tells them.</param>
/// <param name="Tells">The network tells its fields whenever it is looked at: what is not among them is not
/// asked.</param>
/// <param name="Map">The confirmed map.</param>
/// <param name="Own">The client's own lead fields.</param>
/// <param name="Country">ISO 3166-1 alpha-2, for telephone numbers.</param>
/// <param name="Accepted">Keys of findings that a person has said are as they are to be.</param>
public sealed record DriftForm(
    IReadOnlyList<FormField> Fields,
    bool Tells,
    FieldMap Map,
    IReadOnlyList<LeadField> Own,
    string Country,
    IReadOnlySet<string> Accepted
);

using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using LitFuse.Core.Payloads;

namespace LitFuse.Core.Mapping;

/// <summary>Where one field of a form goes, or several joined, or a constant.</summary>
/// <param name="FormField">The form's own field name; empty for a constant.</param>
/// <param name="LeadField">The lead field's key (<c>first_name</c>, <c>phone</c>, a custom field's key), or <c>null</c>
/// to ignore it.</param>
/// <param name="With">Further fields joined behind it.</param>
/// <param name="Joiner">What stands between joined fields; a space where nothing is said.</param>
/// <param name="Constant">The value itself, for a row without a field.</param>
/// <param name="Choices">The form's choice → the lead field's, where their words differ.</param>
public sealed record MapRow(
    string FormField,
    string? LeadField,
    IReadOnlyList<string>? With = null,
    string? Joiner = null,
    string? Constant = null,
    IReadOnlyDictionary<string, string>? Choices = null
)
{
    /// <summary>All fields it reads, in order.</summary>
    public IReadOnlyList<string> Fields() =>
        FormField.Length == 0 ? []
        : With is null ? [FormField]
        : [FormField, .. With];
}

/// <summary>Form field → lead field, for one version of one form's map.</summary>
/// <param name="Locale">How the form's people write dates and numbers (BCP 47); <c>null</c> for the client's own
/// country's way.</param>
public sealed record FieldMap(IReadOnlyList<MapRow> Rows, string? Locale = null)
{
    /// <summary>Lead fields that every client has.</summary>
    public static IReadOnlyList<string> StandardFields { get; } = [.. LeadField.Standard.Select(f => f.Key)];
}

/// <summary>The values a submission gives a lead.</summary>
/// <param name="Values">By lead field key; each is normalised.</param>
/// <param name="Phones">The telephone numbers that could be read, the lead's own first.</param>
/// <param name="Emails">The email addresses that could be read, the lead's own first.</param>
/// <param name="Faults">What could not be read as what it was mapped to, by form field.</param>
public sealed record MappedLead(
    IReadOnlyDictionary<string, string> Values,
    IReadOnlyList<Phone> Phones,
    IReadOnlyList<string> Emails,
    IReadOnlyDictionary<string, string> Faults
)
{
    /// <summary>How many unmapped answers are kept with a lead.</summary>
    public const int MostUnmapped = 100;

    /// <summary>
    /// Answers that the map says nothing of, by the form's own names: never lead fields, whatever they are called.
    /// </summary>
    public IReadOnlyDictionary<string, string> Unmapped { get; init; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>The telephone number, where one could be read.</summary>
    public Phone? Phone => Phones.Count > 0 ? Phones[0] : null;

    /// <summary>The email address, where one could be read.</summary>
    public string? Email => Emails.Count > 0 ? Emails[0] : null;

    /// <summary>The keys the person is recognised by, emails first.</summary>
    public IReadOnlyList<ContactKey> Keys()
    {
        var keys = new List<ContactKey>(Emails.Count + Phones.Count);
        foreach (var email in Emails)
            keys.Add(new(ContactKind.Email, email));
        foreach (var phone in Phones)
            keys.Add(new(ContactKind.Phone, phone.E164));
        return keys;
    }
}

/// <summary>Puts answers through a field map.</summary>
public static class MapReader
{
    /// <summary>Applies <paramref name="map"/> once; see <see cref="CompiledMap.Read"/>.</summary>
    public static MappedLead Apply(
        FieldMap map,
        IReadOnlyList<Answer> answers,
        string defaultCountry,
        IReadOnlyList<LeadField>? own = null
    ) => CompiledMap.From(map, defaultCountry, own ?? []).Read(answers);
}

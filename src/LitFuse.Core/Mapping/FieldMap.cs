using LitFuse.Core.Identity;
using LitFuse.Core.Payloads;

namespace LitFuse.Core.Mapping;

/// <summary>Where one field of a form goes.</summary>
/// <param name="FormField">The form's own field name.</param>
/// <param name="LeadField">The lead field's key (<c>first_name</c>, <c>phone</c>, a custom field's key), or <c>null</c> to ignore it.</param>
public sealed record MapRow(string FormField, string? LeadField);

/// <summary>Form field → lead field, for one version of one form's map.</summary>
public sealed record FieldMap(IReadOnlyList<MapRow> Rows)
{
    /// <summary>Lead fields that every client has.</summary>
    public static IReadOnlyList<string> StandardFields { get; } =
        ["first_name", "last_name", "full_name", "email", "phone", "company", "message"];
}

/// <summary>The values a submission gives a lead.</summary>
/// <param name="Values">By lead field key; names, email and phone are normalised.</param>
/// <param name="Phone">The telephone number, where one could be read.</param>
/// <param name="Email">The email address, where one could be read.</param>
/// <param name="Faults">What could not be read as what it was mapped to, by form field.</param>
public sealed record MappedLead(
    IReadOnlyDictionary<string, string> Values, Phone? Phone, string? Email, IReadOnlyDictionary<string, string> Faults)
{
    /// <summary>The keys the person is recognised by, email first.</summary>
    public IReadOnlyList<ContactKey> Keys()
    {
        var keys = new List<ContactKey>(2);
        if (Email is not null) keys.Add(new(ContactKind.Email, Email));
        if (Phone is not null) keys.Add(new(ContactKind.Phone, Phone.E164));
        return keys;
    }
}

/// <summary>Puts answers through a field map.</summary>
public static class MapReader
{
    /// <summary>
    /// Applies <paramref name="map"/>. A field the map does not know is kept under its own name; an answer that
    /// cannot be read as a phone or an email is kept as typed, with the fault beside it.
    /// </summary>
    public static MappedLead Apply(FieldMap map, IReadOnlyList<Answer> answers, string defaultCountry)
    {
        var targets = map.Rows.ToDictionary(r => r.FormField, r => r.LeadField, StringComparer.Ordinal);
        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        var faults = new Dictionary<string, string>(StringComparer.Ordinal);
        Phone? phone = null;
        string? email = null;

        foreach (var (field, value) in answers)
        {
            if (value.Length == 0) continue;
            var target = targets.TryGetValue(field, out var mapped) ? mapped : field;
            switch (target)
            {
                case null:
                    break;
                case "full_name":
                    var (first, last) = PersonNames.Split(value);
                    if (first is not null) values.TryAdd("first_name", first);
                    if (last is not null) values.TryAdd("last_name", last);
                    break;
                case "phone":
                    var number = PhoneReader.Read(value, defaultCountry);
                    phone ??= number.Phone;
                    if (number.Fault is not null) faults[field] = number.Fault;
                    values["phone"] = phone?.E164 ?? value;
                    break;
                case "email":
                    var address = EmailReader.Read(value);
                    email ??= address.Email;
                    if (address.Fault is not null) faults[field] = address.Fault;
                    values["email"] = email ?? value;
                    break;
                default:
                    values[target] = value;
                    break;
            }
        }

        return new(values, phone, email, faults);
    }
}

using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Mapping;

/// <summary>A field map made ready for many submissions.</summary>
public sealed class CompiledMap
{
    private static readonly Dictionary<string, LeadField> StandardByKey = LeadField.Standard.ToDictionary(
        f => f.Key,
        StringComparer.Ordinal
    );
    private readonly Dictionary<string, Target> single = new(StringComparer.Ordinal);
    private readonly HashSet<string> claimed = new(StringComparer.Ordinal);
    private readonly List<(MapRow Row, Target Target)> whole = [];
    private readonly string country;
    private readonly ReadingLocale locale;

    private CompiledMap(string country, ReadingLocale locale)
    {
        this.country = country;
        this.locale = locale;
    }

    /// <summary>Makes one.</summary>
    /// <param name="map">The map.</param>
    /// <param name="country">ISO 3166-1 alpha-2: of telephone numbers without a country code, and of dates and numbers
    /// where the map names no locale.</param>
    /// <param name="own">The client's own fields.</param>
    public static CompiledMap From(FieldMap map, string country, IReadOnlyList<LeadField> own)
    {
        var fields = own.ToDictionary(f => f.Key, StringComparer.Ordinal);
        var compiled = new CompiledMap(country, ReadingLocale.For(map.Locale, country));
        foreach (var row in map.Rows)
        {
            var field = row.LeadField is null
                ? null
                : StandardByKey.GetValueOrDefault(row.LeadField)
                    ?? fields.GetValueOrDefault(row.LeadField)
                    ?? new LeadField(row.LeadField, row.LeadField, LeadFieldType.Text, []);
            var target = new Target(field, row.Choices);
            if (row.With is null && row.Constant is null)
                compiled.single.TryAdd(row.FormField, target);
            else
                compiled.whole.Add((row, target));
            foreach (var name in row.Fields())
                compiled.claimed.Add(name);
        }

        return compiled;
    }

    /// <summary>
    /// Reads one submission. A field the map does not know is kept apart under its own name, whatever that is; an
    /// answer that cannot be read as what its field holds is kept as typed, with the fault beside it. Of two fields
    /// that go to one, the first that was answered is taken, but for telephone numbers and emails: all of them are
    /// known.
    /// </summary>
    public MappedLead Read(IReadOnlyList<Answer> answers)
    {
        var reading = new Reading(country, locale);
        foreach (var (field, value) in answers)
        {
            if (value.Length == 0)
                continue;
            if (single.TryGetValue(field, out var target))
                reading.Put(field, value, target.Field, target.Choices);
            else if (!claimed.Contains(field))
                reading.Keep(field, value);
        }

        foreach (var (row, target) in whole)
        {
            var value = row.Constant ?? Joined(row, answers);
            if (value.Length > 0)
                reading.Put(
                    row.FormField.Length > 0 ? row.FormField : target.Field?.Key ?? "",
                    value,
                    target.Field,
                    target.Choices
                );
        }

        return reading.Done();
    }

    private static string Joined(MapRow row, IReadOnlyList<Answer> answers)
    {
        var parts = new List<string>();
        foreach (var name in row.Fields())
        {
            foreach (var answer in answers)
            {
                if (answer.Field == name && answer.Value.Length > 0)
                    parts.Add(answer.Value);
            }
        }

        return string.Join(row.Joiner ?? " ", parts);
    }

    private readonly record struct Target(LeadField? Field, IReadOnlyDictionary<string, string>? Choices);

    private sealed class Reading(string country, ReadingLocale locale)
    {
        private const int LongestName = 200;
        private const int LongestLine = 4000;
        private static readonly Dictionary<string, string> NoFaults = [];
        private readonly Dictionary<string, string> values = new(StringComparer.Ordinal);
        private readonly List<Phone> phones = new(1);
        private readonly List<string> emails = new(1);
        private Dictionary<string, string>? faults;
        private Dictionary<string, string>? unmapped;

        // What came along (a campaign, a visitor) is known by its name; anything else that nobody mapped is no lead
        // field, even one called email.
        public void Keep(string field, string value)
        {
            if (ObviousMap.Tracking.Contains(field))
            {
                var line = PlainText.Line(value, LongestLine);
                if (line.Length > 0)
                    values.TryAdd(field, line);
                return;
            }

            var text = PlainText.Of(Clip.To(value, LongestLine));
            if (text.Length > 0 && (unmapped ??= new(StringComparer.Ordinal)).Count < MappedLead.MostUnmapped)
                unmapped.TryAdd(PlainText.Line(field, LongestName), text);
        }

        public void Put(string from, string value, LeadField? field, IReadOnlyDictionary<string, string>? choices)
        {
            // Kept raw with the submission; on the lead, nothing turns writing round or breaks a line that is one.
            value =
                field?.Type == LeadFieldType.LongText
                    ? PlainText.Of(value)
                    : PlainText.Line(value, field?.Type == LeadFieldType.Name ? LongestName : LongestLine);
            if (string.IsNullOrWhiteSpace(value))
                return;
            switch (field?.Type)
            {
                case null:
                    break;
                case LeadFieldType.Name:
                    var (first, last) = PersonNames.Split(value, country);
                    if (first is not null)
                        values.TryAdd("first_name", first);
                    if (last is not null)
                        values.TryAdd("last_name", last);
                    break;
                case LeadFieldType.Phone:
                    PutPhones(from, value);
                    break;
                case LeadFieldType.Email:
                    PutEmails(from, value);
                    break;
                case LeadFieldType.Text or LeadFieldType.LongText:
                    values.TryAdd(
                        field.Key,
                        choices is not null && choices.TryGetValue(value, out var other) ? other : value
                    );
                    break;
                default:
                    var meant = choices is not null && choices.TryGetValue(value, out var said) ? said : value;
                    var read = ValueReader.Read(meant, field, locale);
                    if (read.Fault is not null)
                        Fault(from, read.Fault);
                    values.TryAdd(field.Key, read.Value);
                    break;
            }
        }

        public MappedLead Done()
        {
            if (phones.Count > 1)
                values["other_phones"] = string.Join(", ", phones.Skip(1).Select(p => p.E164));
            if (emails.Count > 1)
                values["other_emails"] = string.Join(", ", emails.Skip(1));
            return new(values, phones, emails, faults ?? NoFaults) { Unmapped = unmapped ?? NoFaults };
        }

        private void PutPhones(string from, string value)
        {
            var (read, fault) = PhoneReader.ReadAll(value, country);
            foreach (var phone in read)
            {
                if (!phones.Exists(p => p.E164 == phone.E164))
                    phones.Add(phone);
            }

            if (fault is not null)
                Fault(from, fault);
            if (phones.Count > 0)
                values["phone"] = phones[0].E164;
            else
                values.TryAdd("phone", value);
        }

        private void PutEmails(string from, string value)
        {
            var (read, fault) = EmailReader.ReadAll(value);
            foreach (var email in read)
            {
                if (!emails.Contains(email))
                    emails.Add(email);
            }

            if (fault is not null)
                Fault(from, fault);
            if (emails.Count > 0)
                values["email"] = emails[0];
            else
                values.TryAdd("email", value);
        }

        private void Fault(string field, string what) => (faults ??= new(StringComparer.Ordinal))[field] = what;
    }
}

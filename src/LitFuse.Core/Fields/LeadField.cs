using LitFuse.Core.Texts;

namespace LitFuse.Core.Fields;

/// <summary>What a lead field holds, and so how an answer is read into it.</summary>
public enum LeadFieldType
{
    /// <summary>A line of words.</summary>
    Text,

    /// <summary>Several lines.</summary>
    LongText,

    /// <summary>A number, kept with a point and without grouping: <c>1234.5</c>.</summary>
    Number,

    /// <summary>An amount; a currency other than the client's own stands behind it: <c>1200 USD</c>.</summary>
    Money,

    /// <summary>One of the field's choices.</summary>
    Choice,

    /// <summary>Some of them, joined with commas.</summary>
    Choices,

    /// <summary>A day (ISO 8601): <c>2026-03-09</c>.</summary>
    Date,

    /// <summary><c>yes</c> or <c>no</c>.</summary>
    YesNo,

    /// <summary>An absolute http or https address.</summary>
    Link,

    /// <summary>A person's whole name, split into first and last.</summary>
    Name,

    /// <summary>Email addresses, the first of them the lead's.</summary>
    Email,

    /// <summary>Telephone numbers, the first of them the lead's.</summary>
    Phone,
}

/// <summary>What a later answer does to a value that is there.</summary>
public enum FillRule
{
    /// <summary>The newest answer stands.</summary>
    NewestWins,

    /// <summary>Only an empty field takes it.</summary>
    FillEmpties,

    /// <summary>What the first submission said stays, even if it said nothing.</summary>
    Keep,
}

/// <summary>One field of a lead.</summary>
/// <param name="Key">Small letters, digits and underscores.</param>
/// <param name="Label">As people read it.</param>
/// <param name="Choices">For <see cref="LeadFieldType.Choice"/> and <see cref="LeadFieldType.Choices"/>.</param>
public sealed record LeadField(
    string Key,
    string Label,
    LeadFieldType Type,
    IReadOnlyList<string> Choices,
    FillRule Rule = FillRule.NewestWins
)
{
    /// <summary>Those that every client has, in the order they are offered.</summary>
    public static IReadOnlyList<LeadField> Standard { get; } =
    [
        Of("full_name", "Full name", LeadFieldType.Name),
        Of("first_name", "First name"),
        Of("last_name", "Last name"),
        Of("email", "Email", LeadFieldType.Email),
        Of("phone", "Phone", LeadFieldType.Phone),
        Of("company", "Company"),
        Of("job_title", "Job title"),
        Of("website", "Website", LeadFieldType.Link),
        Of("street", "Street"),
        Of("postcode", "Postcode"),
        Of("city", "City"),
        Of("region", "Region"),
        Of("country", "Country"),
        Of("message", "Message", LeadFieldType.LongText),
        Of("consent", "Consent", LeadFieldType.YesNo),
    ];

    /// <summary>A field as people read it; its key in words where nobody has described it.</summary>
    public static string LabelOf(string field, Func<string, LeadField?> own)
    {
        var label = (Standard.FirstOrDefault(f => f.Key == field) ?? own(field))?.Label;
        if (!string.IsNullOrEmpty(label))
            return label;
        var words = field.Replace('_', ' ');
        return words.Length == 0 ? field : char.ToUpperInvariant(words[0]) + words[1..];
    }

    /// <summary>The types a client's own fields may have.</summary>
    public static IReadOnlyList<LeadFieldType> OwnTypes { get; } =
    [
        LeadFieldType.Text,
        LeadFieldType.LongText,
        LeadFieldType.Number,
        LeadFieldType.Money,
        LeadFieldType.Choice,
        LeadFieldType.Choices,
        LeadFieldType.Date,
        LeadFieldType.YesNo,
        LeadFieldType.Link,
    ];

    /// <summary>A key as it is read in a sentence: <c>fleet_size</c> is <c>fleet size</c>.</summary>
    public static string WordsOf(string key) => key.Replace('_', ' ');

    /// <summary>A key for a label: <c>Number of desks?</c> → <c>number_of_desks</c>.</summary>
    public static string KeyFor(string label)
    {
        var key = string.Join('_', Tokens.Of(label));
        key = new string([.. key.Where(c => c is (>= 'a' and <= 'z') or (>= '0' and <= '9') or '_')]).Trim('_');
        if (key.Length == 0 || !char.IsAsciiLetterLower(key[0]))
            key = "field_" + key;
        return Clip.To(key, 60).Trim('_');
    }

    private static LeadField Of(string key, string label, LeadFieldType type = LeadFieldType.Text) =>
        new(key, label, type, []);
}

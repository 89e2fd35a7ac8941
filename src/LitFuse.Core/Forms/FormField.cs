namespace LitFuse.Core.Forms;

/// <summary>How a field of a form is asked.</summary>
public enum FormFieldType
{
    Text,
    Email,
    Phone,
    Choice,
    LongText,
    Choices,
    Number,
    Date,
    YesNo,
    Hidden,
}

/// <summary>One field of a form.</summary>
/// <param name="Name">As submitted.</param>
/// <param name="Label">The question as the person read it.</param>
/// <param name="Type">How it is asked.</param>
/// <param name="Required">Must be answered.</param>
/// <param name="Choices">For a choice.</param>
/// <param name="Means">The lead field that its maker says it is (<c>email</c>, <c>first_name</c>…); <c>null</c> for a
/// question of their own.</param>
public sealed record FormField(
    string Name,
    string Label,
    FormFieldType Type,
    bool Required,
    IReadOnlyList<string> Choices,
    string? Means = null
);

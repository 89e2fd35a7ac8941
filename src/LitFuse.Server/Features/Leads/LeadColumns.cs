using System.Globalization;
using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Data;
using NodaTime.Text;

namespace LitFuse.Server.Features.Leads;

/// <summary>A lead as a file has it: with its form, and the names of people.</summary>
public sealed record LeadInFile(
    Lead Lead,
    string? Form,
    string? Source,
    IReadOnlyList<FormField>? Fields,
    IReadOnlyDictionary<Guid, string> People
);

/// <summary>A column of the list of leads and of files of them.</summary>
/// <param name="Key">By what it is chosen, and its name in NDJSON.</param>
/// <param name="Heading">What stands above it, on the screen and in a file.</param>
/// <param name="Write">What a file has in it; <c>null</c>: it has others in its place.</param>
/// <param name="InFile">The columns that a file has in its place.</param>
/// <param name="Shown">Whether the list can have it.</param>
public sealed record LeadColumn(
    string Key,
    string Heading,
    Func<LeadInFile, string?>? Write,
    IReadOnlyList<string>? InFile = null,
    bool Shown = true
);

/// <summary>
/// The columns of the list of leads and of files of them, beside the lead fields of a client. Said here and nowhere
/// else: the front end has them by way of <c>web/src/api/words.json</c>, and draws each in <c>LeadTable.tsx</c>.
/// </summary>
public static class LeadColumns
{
    /// <summary>All of them, in the order in which they are offered.</summary>
    public static IReadOnlyList<LeadColumn> All { get; } =
    [
        new("name", "name", f => f.Lead.ShownName(), Shown: false),
        new("what", "what they asked", f => f.Fields is null ? null : LeadQueries.Asked(f.Lead, f.Fields)),
        new("through", "through", null, ["form", "source"]),
        new("form", "form", f => f.Form, Shown: false),
        new("source", "source", f => f.Source, Shown: false),
        new("asked", "asked", f => InstantPattern.General.Format(f.Lead.AskedAt)),
        new("speed", "speed to lead", f => SpeedOf(f.Lead)),
        new("who", "taken by", f => PeopleNames.Of(f.People, f.Lead.FirstTouchBy ?? f.Lead.TakenBy)),
        new("owner", "owner", f => PeopleNames.Of(f.People, f.Lead.OwnerId)),
        new("tags", "tags", f => string.Join(", ", f.Lead.Tags)),
        new("email", "email", f => f.Lead.Email),
        new("phone", "phone", f => f.Lead.Phone),
    ];

    /// <summary>Those of the list where none are chosen.</summary>
    public static IReadOnlyList<string> Usual { get; } = ["what", "through", "asked", "speed", "who"];

    /// <summary>Those of a file where none are chosen.</summary>
    public static IReadOnlyList<string> UsualInFiles { get; } =
    ["name", "email", "phone", "form", "source", "asked", "speed", "owner", "tags"];

    private static readonly Dictionary<string, LeadColumn> ByKey = All.ToDictionary(c => c.Key, StringComparer.Ordinal);

    /// <summary>A column's heading; a lead field's is its words.</summary>
    public static string HeadingOf(string key) => ByKey.GetValueOrDefault(key)?.Heading ?? LeadField.WordsOf(key);

    /// <summary>What a file has in a column; of a lead field, its value.</summary>
    public static string ValueOf(string key, LeadInFile of) =>
        (ByKey.GetValueOrDefault(key)?.Write is { } write ? write(of) : of.Lead.Fields.GetValueOrDefault(key)) ?? "";

    // In seconds, so that a spreadsheet can reckon with it.
    private static string? SpeedOf(Lead lead) =>
        lead.FirstTouchAt is { } touched
            ? ((long)(touched - lead.AskedAt).TotalSeconds).ToString(CultureInfo.InvariantCulture)
            : null;
}

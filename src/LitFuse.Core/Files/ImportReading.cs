using LitFuse.Core.Fields;

namespace LitFuse.Core.Files;

/// <summary>One column of a file.</summary>
/// <param name="Index">From 0.</param>
/// <param name="Header">As written, or <c>column 3</c> where the file has no headers.</param>
/// <param name="LeadField">Where its values go: a lead field's key; <c>id</c> is the row's own id, <c>sent_at</c> when
/// the person asked; <c>null</c> leaves it out.</param>
/// <param name="Because">Why it was suggested so.</param>
/// <param name="IsDate">Its values are dates.</param>
public sealed record FileColumn(int Index, string Header, string? LeadField, string? Because, bool IsDate);

/// <summary>How a file is read: found by looking, and changed by a person where it is wrong.</summary>
/// <param name="Kind"><c>csv</c> or <c>xlsx</c>.</param>
/// <param name="Delimiter">Of a CSV.</param>
/// <param name="Charset">Of a CSV, by its IANA name.</param>
/// <param name="HasHeader">The first row holds names.</param>
/// <param name="Sheet">Of a workbook.</param>
/// <param name="Dates">How dates are written.</param>
/// <param name="Country">Taken where a telephone number has no country code.</param>
/// <param name="Columns">In the order of the file.</param>
public sealed record ImportReading(
    string Kind,
    string Delimiter,
    string Charset,
    bool HasHeader,
    string? Sheet,
    DateOrder Dates,
    string Country,
    IReadOnlyList<FileColumn> Columns
)
{
    /// <summary>Before anything was looked at.</summary>
    public static ImportReading Nothing { get; } =
        new("csv", ",", "utf-8", true, null, DateOrder.YearMonthDay, "GB", []);
}

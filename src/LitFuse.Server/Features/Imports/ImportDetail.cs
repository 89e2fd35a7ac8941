using LitFuse.Core.Files;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>An import as a row.</summary>
public sealed record ImportLine(
    Guid Id,
    Guid ClientId,
    string Client,
    string Source,
    Guid? FormId,
    string FileName,
    long Bytes,
    ImportStatus Status,
    bool Lights,
    int RowsDone,
    long BytesDone,
    int NewLeads,
    int Updates,
    int Doubles,
    int BadRows,
    string? Reason,
    string? MadeBy,
    Instant MadeAt,
    Instant? StartedAt,
    Instant? EndedAt
);

/// <summary>Imports of the clients chosen.</summary>
public sealed record ImportList(IReadOnlyList<ImportLine> Imports);

/// <summary>A row of the preview.</summary>
public sealed record PreviewRow(int Row, IReadOnlyList<string> Cells, RowOutcome Outcome, string? Reason);

/// <summary>What importing would do, decided for the first rows as it will be for all.</summary>
/// <param name="Of">How many rows were looked at.</param>
/// <param name="Whole">That was the whole file.</param>
/// <param name="PhoneExample">How telephone numbers are read.</param>
/// <param name="DateExample">How dates are read.</param>
public sealed record ImportPreview(
    int Of,
    bool Whole,
    int NewLeads,
    int Updates,
    int Doubles,
    int BadRows,
    IReadOnlyList<PreviewRow> Rows,
    int PhonesRead,
    int PhonesUnread,
    string? PhoneExample,
    string? DateExample
);

/// <summary>An import, whole.</summary>
public sealed record ImportDetail(
    ImportLine Import,
    ImportReading Reading,
    IReadOnlyList<string> Sheets,
    IReadOnlyList<string> LeadFields,
    bool OfSource,
    ImportPreview? Preview
);

/// <summary>How it is to be read.</summary>
public sealed record ReadingToSet(ImportReading? Reading);

/// <summary>Begin.</summary>
/// <param name="Lights">The rows light fuses, as submissions do.</param>
public sealed record ImportToStart(bool Lights);

/// <summary>What was made.</summary>
public sealed record MadeImport(Guid Id);

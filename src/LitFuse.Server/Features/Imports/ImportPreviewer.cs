using LitFuse.Core.Files;
using LitFuse.Core.Identity;
using LitFuse.Data;
using LitFuse.Server.Ways;

namespace LitFuse.Server.Features.Imports;

/// <summary>Says what importing would do: the first rows are decided as they will be.</summary>
public sealed class ImportPreviewer(AppDb db, SourceKinds kinds, ImportProcessor run)
{
    private const int Looked = 2000;
    private const int Shown = 12;
    private const int ShownBad = 8;

    /// <summary>The preview; nothing is written.</summary>
    /// <exception cref="ImportFileException">It cannot be read.</exception>
    public async Task<ImportPreview> PreviewAsync(Import import, CancellationToken stop)
    {
        var setup = await ImportProcessor.SetupAsync(db, kinds, import, stop);
        var header = setup.Reading.HasHeader ? 1 : 0;
        using var file = new ChunkStream(db, import.Id);
        var cells = ImportFile.Rows(file, setup.Reading).Skip(header).Take(Looked + 1).ToList();
        var whole = cells.Count <= Looked;
        var rows = new List<ImportRow>(cells.Count);
        for (var i = 0; i < Math.Min(Looked, cells.Count); i++)
            rows.Add(await ImportRows.ReadAsync(setup, i + 1 + header, cells[i]));
        var decided = await DecideAsync(import, rows, stop);
        int Of(RowOutcome outcome) => decided.Count(d => d.Outcome == outcome);
        var shown = decided
            .Where(d => d.Outcome == RowOutcome.Bad)
            .Take(ShownBad)
            .Concat(decided.Where(d => d.Outcome != RowOutcome.Bad).Take(Shown))
            .OrderBy(d => d.Row)
            .ToList();
        var phones = PhonesOf(setup, rows);
        return new(
            rows.Count,
            whole,
            Of(RowOutcome.New),
            Of(RowOutcome.Update),
            Of(RowOutcome.Double),
            Of(RowOutcome.Bad),
            shown,
            phones.Count(p => p.Read is not null),
            phones.Count(p => p.Read is null),
            phones.Where(p => p.Read is not null).Select(p => $"{p.Typed} is read as {p.Read}").FirstOrDefault(),
            DateOf(setup, rows)
        );
    }

    private async Task<List<PreviewRow>> DecideAsync(Import import, List<ImportRow> rows, CancellationToken stop)
    {
        var chunk = new ImportChunkProcessor(db, await run.KindsAsync(db, import.SourceId, stop));
        await chunk.ReadAsync(import.ClientId, rows, stop);
        var decided = new List<PreviewRow>(rows.Count);
        foreach (var row in rows)
        {
            var (outcome, lead, _) = await chunk.DecideAsync(row, static () => new Lead { Id = Guid.CreateVersion7() });
            var why = outcome switch
            {
                RowOutcome.Update => lead!.ShownName() is { } name && name != "no name given"
                    ? $"is {name}"
                    : "is known by an earlier row",
                _ => row.Fault,
            };
            decided.Add(new(row.Number, row.Cells, outcome, why));
        }

        return decided;
    }

    private static List<(string Typed, string? Read)> PhonesOf(ImportSetup setup, List<ImportRow> rows)
    {
        var column = setup.Reading.Columns.FirstOrDefault(c => c.LeadField == "phone");
        return column is null
            ? []
            :
            [
                .. rows.Where(r => column.Index < r.Cells.Length && r.Cells[column.Index].Trim().Length > 0)
                    .Select(r =>
                        (
                            r.Cells[column.Index],
                            PhoneReader.Read(r.Cells[column.Index], setup.Reading.Country).Phone?.E164
                        )
                    ),
            ];
    }

    private static string? DateOf(ImportSetup setup, List<ImportRow> rows)
    {
        var column = setup.Reading.Columns.FirstOrDefault(c => c.IsDate || c.LeadField == "sent_at");
        if (column is null)
            return null;
        var typed = rows.Where(r => column.Index < r.Cells.Length)
            .Select(r => r.Cells[column.Index])
            .FirstOrDefault(c => c.Length > 0);
        return typed is null ? null
            : FileLook.Moment(typed, setup.Reading.Dates) is { } moment
                ? $"{typed} is read as {moment.InUtc().Date.ToString("d MMMM yyyy", System.Globalization.CultureInfo.InvariantCulture)}"
            : $"{typed} is not read as a date";
    }
}

using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Leads;

/// <summary>The leads shown, as a file: CSV (RFC 4180) or XLSX.</summary>
public static class LeadExport
{
    /// <summary>
    /// How many leads a file may have that is put together whole: XLSX and NDJSON. CSV is written as it is read,
    /// however many there are.
    /// </summary>
    public const int MostWhole = 100_000;

    private const int InOneGo = 2000;

    /// <summary>Writes it.</summary>
    public static async Task<IResult> WriteAsync(
        [AsParameters] LeadFilter filter,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string format = "csv",
        string? columns = null
    )
    {
        if (TableFile.TypeOf(format) is null)
            return Problems.Bad("format", "Choose csv, xlsx or ndjson.");
        if (filter.SortFault() is { } odd)
            return odd;
        var (leads, fault) = await filter.ApplyAsync(db, scope, time.Now(), stop);
        if (fault is not null)
            return fault;
        string[] wanted = string.IsNullOrWhiteSpace(columns)
            ? [.. UsualColumns]
            : [.. columns.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Take(100)];
        var ids = await filter.Order(leads!).Select(l => l.Id).ToListAsync(stop);
        if (format != "csv" && ids.Count > MostWhole)
            return Problems.Bad(
                "format",
                $"These are {ids.Count:#,0} leads; a file of this kind has at most {MostWhole:#,0}. Take CSV, or narrow the list."
            );
        http.Response.Headers.ContentDisposition =
            $"attachment; filename=\"leads-{time.Now().InUtc().Date:yyyy-MM-dd}.{format}\"";
        if (format != "csv")
            return Results.File(await FileAsync(db, ids, wanted, format, stop), TableFile.TypeOf(format));

        http.Response.ContentType = "text/csv; charset=utf-8";
        // Spreadsheets take a file without this mark for the machine's own charset.
        await http.Response.WriteAsync("\ufeff" + Csv.Line(wanted.Select(LeadColumns.HeadingOf)), stop);
        await foreach (var row in RowsAsync(db, ids, wanted, stop))
            await http.Response.WriteAsync(Csv.Line(row), stop);
        return Results.Empty;
    }

    /// <summary>Leads as a file, whole.</summary>
    public static async Task<byte[]> FileAsync(
        AppDb db,
        List<Guid> ids,
        IReadOnlyList<string> columns,
        string format,
        CancellationToken stop
    )
    {
        var rows = new List<string[]>(ids.Count);
        await foreach (var row in RowsAsync(db, ids, [.. columns], stop))
            rows.Add(row);
        return await TableFile.WriteAsync(
            format,
            [.. columns.Select(c => format == "ndjson" ? c : LeadColumns.HeadingOf(c))],
            rows,
            stop
        );
    }

    /// <summary>The columns of a file where none are chosen.</summary>
    public static IReadOnlyList<string> UsualColumns => LeadColumns.UsualInFiles;

    private static async IAsyncEnumerable<string[]> RowsAsync(
        AppDb db,
        List<Guid> ids,
        string[] columns,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop
    )
    {
        var forms = await db
            .Forms.AsNoTracking()
            .Join(
                db.Sources,
                f => f.SourceId,
                s => s.Id,
                (f, s) =>
                    new
                    {
                        f.Id,
                        f.Name,
                        Source = s.Name,
                        f.Fields,
                    }
            )
            .ToDictionaryAsync(f => f.Id, stop);
        foreach (var chunk in ids.Chunk(InOneGo))
        {
            var leads = await db
                .Leads.AsNoTracking()
                .Where(l => chunk.Contains(l.Id))
                .ToDictionaryAsync(l => l.Id, stop);
            var people = await db.PeopleAsync(
                leads.Values.SelectMany(l => new[] { l.OwnerId, l.TakenBy, l.FirstTouchBy }),
                stop
            );
            foreach (var id in chunk)
            {
                if (!leads.TryGetValue(id, out var l))
                    continue;
                var form = forms.GetValueOrDefault(l.FormId);
                yield return
                [
                    .. columns.Select(c =>
                        LeadColumns.ValueOf(c, new(l, form?.Name, form?.Source, form?.Fields, people))
                    ),
                ];
            }
        }
    }
}

using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using LitFuse.Platform;
using MiniExcelLibs;

namespace LitFuse.Server.Features.Leads;

/// <summary>A table as a file: CSV (RFC 4180), XLSX (ECMA-376), or a JSON object a line (NDJSON).</summary>
public static class TableFile
{
    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The media type of a format, or <c>null</c> where there is no such format.</summary>
    public static string? TypeOf(string? format) =>
        format switch
        {
            "csv" => "text/csv; charset=utf-8",
            "xlsx" => "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
            "ndjson" => "application/x-ndjson",
            _ => null,
        };

    /// <summary>Writes it whole.</summary>
    /// <exception cref="ArgumentException">There is no such format.</exception>
    public static async Task<byte[]> WriteAsync(
        string format,
        IReadOnlyList<string> columns,
        IEnumerable<IReadOnlyList<string>> rows,
        CancellationToken stop
    )
    {
        using var file = new MemoryStream();
        switch (format)
        {
            case "xlsx":
                var named = rows.Select(r =>
                        columns.Zip(r).ToDictionary(p => p.First, object? (p) => p.Second, StringComparer.Ordinal)
                    )
                    .ToList();
                if (named.Count == 0)
                    named.Add(columns.ToDictionary(c => c, static object? (_) => null, StringComparer.Ordinal));
                await file.SaveAsAsync(named, cancellationToken: stop);
                break;
            case "ndjson":
                foreach (var row in rows)
                    await file.WriteAsync(
                        Encoding.UTF8.GetBytes(
                            JsonSerializer.Serialize(
                                columns.Zip(row).ToDictionary(p => p.First, p => p.Second, StringComparer.Ordinal),
                                Plain
                            ) + "\n"
                        ),
                        stop
                    );
                break;
            case "csv":
                // Spreadsheets take a file without this mark for the machine's own charset.
                await file.WriteAsync(Encoding.UTF8.GetBytes("\ufeff" + Csv.Line(columns)), stop);
                foreach (var row in rows)
                    await file.WriteAsync(Encoding.UTF8.GetBytes(Csv.Line(row)), stop);
                break;
            default:
                throw new ArgumentException($"There is no format '{format}'.", nameof(format));
        }

        return file.ToArray();
    }

    /// <summary>A name that can be a file's.</summary>
    public static string Safe(string name) =>
        string.Concat(name.Trim().Select(c => char.IsLetterOrDigit(c) || c is '-' or '_' or '.' ? c : '-'))
            .Trim('-', '.')
            is { Length: > 0 } safe
            ? safe
            : "file";
}

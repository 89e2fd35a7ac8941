using System.Globalization;
using System.IO.Compression;
using System.Text;
using CsvHelper;
using LitFuse.Core.Files;
using LitFuse.Core.Texts;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using MiniExcelLibs;

namespace LitFuse.Server.Features.Imports;

/// <summary>A file that cannot be read, and how to mend it.</summary>
public sealed class ImportFileException(string message) : Exception(message);

/// <summary>An import's file, read back piece by piece from the database: it never lies in memory whole.</summary>
public sealed class ChunkStream(AppDb db, Guid importId) : Stream
{
    private byte[] chunk = [];
    private int at;
    private int next;

    /// <summary>Bytes read so far.</summary>
    public long Done { get; private set; }

    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => Done;
        set => throw new NotSupportedException();
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        if (at == chunk.Length)
        {
            var number = next++;
            chunk = db.ImportChunks.AsNoTracking()
                .IgnoreQueryFilters()
                .Where(c => c.ImportId == importId && c.Number == number)
                .Select(c => c.Data)
                .SingleOrDefault()
                ?? [];
            at = 0;
            if (chunk.Length == 0)
                return 0;
        }

        var count = Math.Min(buffer.Length, chunk.Length - at);
        chunk.AsSpan(at, count).CopyTo(buffer);
        at += count;
        Done += count;
        return count;
    }

    public override void Flush()
    {
        // Only for reading.
    }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}

/// <summary>Reads the rows of a CSV (RFC 4180) or a workbook.</summary>
public static class ImportFile
{
    /// <summary>The most cells of a row that are read.</summary>
    public const int MostColumns = 200;

    /// <summary>The longest cell that is kept whole.</summary>
    public const int LongestCell = 4000;

    private const string Damaged = "The workbook is damaged: save it again, or as CSV.";
    private const long MostUnpacked = 1L << 30;
    private const int LongestRow = 1024 * 1024;
    private const int Head = 64 * 1024;

    /// <summary>All rows, the header row too.</summary>
    /// <exception cref="ImportFileException">It cannot be read.</exception>
    public static IEnumerable<string[]> Rows(Stream file, ImportReading reading) =>
        reading.Kind == "xlsx" ? Workbook(file, reading.Sheet) : Csv(file, reading);

    /// <summary>Finds out how a file is written.</summary>
    /// <exception cref="ImportFileException">It cannot be read.</exception>
    public static (ImportReading Reading, IReadOnlyList<string> Sheets) Look(Func<Stream> open, string country)
    {
        var head = new byte[Head];
        int length;
        using (var stream = open())
            length = stream.ReadAtLeast(head, Head, throwOnEndOfStream: false);
        if (length == 0)
            throw new ImportFileException("The file is empty.");
        var bytes = head.AsSpan(0, length);
        if (bytes.StartsWith("PK\u0003\u0004"u8))
        {
            using var file = open();
            using var copy = Unpacked(file);
            var sheets = SheetsOf(copy);
            return (
                Guess(ImportReading.Nothing with { Kind = "xlsx", Sheet = sheets[0], Country = country }, open),
                sheets
            );
        }

        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xD0, 0xCF, 0x11, 0xE0]))
            throw new ImportFileException(
                "This is a workbook in the old .xls format. Save it as .xlsx or CSV, and choose that."
            );
        var charset = FileLook.CharsetOf(bytes);
        if (charset is "utf-8" or "windows-1252" && bytes.IndexOf((byte)0) >= 0)
            throw new ImportFileException("This is no text: choose a CSV or an .xlsx file.");
        var text = Encoding.GetEncoding(charset).GetString(bytes);
        return (
            Guess(
                ImportReading.Nothing with
                {
                    Delimiter = FileLook.DelimiterOf(text).ToString(),
                    Charset = charset,
                    Country = country,
                },
                open
            ),
            []
        );
    }

    private static ImportReading Guess(ImportReading reading, Func<Stream> open)
    {
        List<string[]> rows;
        using (var stream = open())
            rows = [.. Rows(stream, reading).Take(200)];
        if (rows.Count == 0)
            throw new ImportFileException("There is no row in it.");
        return With(
            reading with
            {
                HasHeader = FileLook.HasHeader(rows),
                Dates = FileLook.DatesOf(rows, reading.Country),
            },
            rows
        );
    }

    /// <summary>The reading with its columns guessed from <paramref name="rows"/>.</summary>
    public static ImportReading With(ImportReading reading, IReadOnlyList<string[]> rows)
    {
        var width = Math.Min(MostColumns, rows.Max(r => r.Length));
        var headers = Enumerable
            .Range(0, width)
            .Select(i =>
                reading.HasHeader && i < rows[0].Length && rows[0][i].Trim().Length > 0
                    ? rows[0][i].Trim()
                    : string.Create(CultureInfo.InvariantCulture, $"column {i + 1}")
            )
            .ToList();
        for (var i = 0; i < headers.Count; i++)
        {
            if (headers.IndexOf(headers[i]) < i)
                headers[i] = string.Create(CultureInfo.InvariantCulture, $"{headers[i]} ({i + 1})");
        }

        return reading with
        {
            Columns = FileLook.Columns(headers, [.. rows.Skip(reading.HasHeader ? 1 : 0)], reading.Country),
        };
    }

    private static IEnumerable<string[]> Csv(Stream file, ImportReading reading)
    {
        Encoding encoding;
        try
        {
            encoding = Encoding.GetEncoding(reading.Charset);
        }
        catch (ArgumentException)
        {
            throw new ImportFileException(
                $"“{reading.Charset}” is no charset that is known here; try utf-8 or windows-1252."
            );
        }

        using var text = new StreamReader(
            file,
            encoding,
            detectEncodingFromByteOrderMarks: true,
            bufferSize: Head,
            leaveOpen: true
        );
        using var rows = CsvReader.Create(
            text,
            new CsvReaderOptions
            {
                HasHeader = false,
                Separator = reading.Delimiter[0],
                MaxRecordSize = LongestRow,
            },
            leaveOpen: true
        );
        while (Next(rows))
        {
            var row = new string[Math.Min(MostColumns, rows.FieldCount)];
            for (var i = 0; i < row.Length; i++)
                row[i] = Cell(rows.GetString(i));
            yield return row;
        }
    }

    private static bool Next(CsvReader rows)
    {
        try
        {
            return rows.Read();
        }
        catch (CsvFormatException e)
        {
            throw new ImportFileException(
                $"It cannot be read on after row {rows.RowNumber}: {e.Message} Most often a quotation mark was opened there and not closed."
            );
        }
    }

    private static IEnumerable<string[]> Workbook(Stream file, string? sheet)
    {
        using var copy = Unpacked(file);
        if (sheet is not null && !SheetsOf(copy).Contains(sheet))
            throw new ImportFileException($"There is no sheet “{sheet}” in the workbook.");
        using var rows = Readable(() => copy.Query(useHeaderRow: false, sheetName: sheet)).GetEnumerator();
        while (Readable(rows.MoveNext))
        {
            IDictionary<string, object?> row = rows.Current;
            var cells = row
                .Values.Take(MostColumns)
                .Select(v =>
                    Cell(
                        v switch
                        {
                            null => "",
                            DateTime { TimeOfDay.Ticks: 0 } day => day.ToString(
                                "yyyy-MM-dd",
                                CultureInfo.InvariantCulture
                            ),
                            DateTime moment => moment.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture),
                            IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
                            _ => v.ToString() ?? "",
                        }
                    )
                )
                .ToArray();
            if (Array.Exists(cells, c => c.Length > 0))
                yield return cells;
        }
    }

    private static List<string> SheetsOf(Stream workbook)
    {
        workbook.Position = 0;
        var sheets = Readable(() => workbook.GetSheetNames());
        workbook.Position = 0;
        return sheets.Count > 0 ? sheets : throw new ImportFileException("There is no sheet in the workbook.");
    }

    // What the reader of workbooks throws at one that is damaged is whatever it stumbles over.
    private static T Readable<T>(Func<T> read)
    {
        try
        {
            return read();
        }
        catch (Exception e) when (e is not ImportFileException and not OutOfMemoryException)
        {
            throw new ImportFileException(Damaged);
        }
    }

    // A workbook is a zip, which wants to be sought in: it lies in a file that is gone when it is closed.
    private static FileStream Unpacked(Stream file)
    {
        var copy = new FileStream(
            Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()),
            FileMode.CreateNew,
            FileAccess.ReadWrite,
            FileShare.None,
            64 * 1024,
            FileOptions.DeleteOnClose
        );
        try
        {
            file.CopyTo(copy);
            copy.Position = 0;
            using (var zip = new ZipArchive(copy, ZipArchiveMode.Read, leaveOpen: true))
            {
                if (zip.Entries.Sum(e => e.Length) > MostUnpacked)
                    throw new ImportFileException("Unpacked, the workbook is larger than 1 GB. Save it as CSV.");
                if (zip.GetEntry("xl/workbook.xml") is null)
                {
                    throw new ImportFileException(
                        zip.GetEntry("content.xml") is not null
                            ? "This is an OpenDocument file (.ods). Save it as .xlsx or CSV, and choose that."
                            : "This is a zip archive and no workbook. Unpack it, and choose the CSV or .xlsx in it."
                    );
                }
            }

            copy.Position = 0;
            return copy;
        }
        catch (Exception e)
        {
            copy.Dispose();
            if (e is InvalidDataException)
                throw new ImportFileException(Damaged);
            throw;
        }
    }

    private static string Cell(string text)
    {
        var clean = text.Contains('\0', StringComparison.Ordinal)
            ? text.Replace("\0", "", StringComparison.Ordinal)
            : text;
        return Clip.To(clean, LongestCell);
    }
}

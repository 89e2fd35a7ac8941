using System.Text;

namespace LitFuse.Platform;

/// <summary>Writes CSV.</summary>
public static class Csv
{
    /// <summary>
    /// A row as CSV (RFC 4180), a line with its end. Text that a spreadsheet would take for a formula is quoted away.
    /// </summary>
    public static string Line(IEnumerable<string> cells)
    {
        var line = new StringBuilder();
        foreach (var cell in cells)
        {
            if (line.Length > 0)
                line.Append(',');
            var safe = cell.Length > 0 && cell[0] is '=' or '@' or '\t' ? "'" + cell : cell;
            if (safe.AsSpan().IndexOfAny("\",\r\n") >= 0)
                line.Append('"').Append(safe.Replace("\"", "\"\"", StringComparison.Ordinal)).Append('"');
            else
                line.Append(safe.Length == 0 && line.Length == 0 ? "\"\"" : safe);
        }

        return line.Append("\r\n").ToString();
    }
}

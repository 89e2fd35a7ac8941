namespace LitFuse.Backlot.Gridlet;

/// <summary>A row of a tab.</summary>
/// <param name="Mark">The writer's own mark, kept beside the row and shown nowhere on it.</param>
public sealed record GridRow(int Number, string? Mark, IReadOnlyDictionary<string, string> Cells);

/// <summary>A tab: its header row, and the rows under it.</summary>
public sealed class GridTab(string key, string name, IReadOnlyList<string> header)
{
    private const int Most = 60_000;
    private readonly Lock hold = new();
    private readonly List<GridRow> rows = [];
    private readonly Dictionary<string, int> byKey = new(StringComparer.Ordinal);
    private readonly Dictionary<string, int> byMark = new(StringComparer.Ordinal);
    private List<string> header = [.. header];
    private int last = header.Count == 0 ? 0 : 1;

    /// <summary>As in addresses.</summary>
    public string Key { get; } = key;

    /// <summary>As people call it.</summary>
    public string Name { get; } = name;

    /// <summary>The first row: names of the columns.</summary>
    public IReadOnlyList<string> Header
    {
        get
        {
            lock (hold)
                return [.. header];
        }
    }

    /// <summary>All rows.</summary>
    public IReadOnlyList<GridRow> Rows
    {
        get
        {
            lock (hold)
                return [.. rows];
        }
    }

    /// <summary>Writes a name into the header row.</summary>
    public void AddColumn(string column)
    {
        lock (hold)
        {
            if (!header.Contains(column, StringComparer.Ordinal))
                header = [.. header, column];
            last = Math.Max(last, 1);
        }
    }

    /// <summary>Adds a row under the others; once for each key.</summary>
    /// <returns>It, or which column there is none of.</returns>
    public (GridRow? Row, string? Unknown) Append(IReadOnlyDictionary<string, string> cells, string? mark, string? key)
    {
        lock (hold)
        {
            if (cells.Keys.FirstOrDefault(c => !header.Contains(c, StringComparer.Ordinal)) is { } unknown)
                return (null, unknown);
            if (key is not null && byKey.TryGetValue(key, out var before))
                return (rows.Find(r => r.Number == before), null);
            if (rows.Count >= Most)
                rows.RemoveAt(0);
            var row = new GridRow(++last, mark, new Dictionary<string, string>(cells, StringComparer.Ordinal));
            rows.Add(row);
            if (key is not null)
                byKey[key] = row.Number;
            if (mark is not null)
                byMark[mark] = row.Number;
            return (row, null);
        }
    }

    /// <summary>The row with this mark, or the first with this value in a column.</summary>
    public GridRow? Find(string? mark, string? column, string? value)
    {
        lock (hold)
        {
            if (mark is not null)
                return byMark.TryGetValue(mark, out var number) ? rows.Find(r => r.Number == number) : null;
            return column is null
                ? null
                : rows.Find(r =>
                    string.Equals(r.Cells.GetValueOrDefault(column), value, StringComparison.OrdinalIgnoreCase)
                );
        }
    }

    /// <summary>Writes into a row.</summary>
    public (GridRow? Row, string? Unknown) Write(int number, IReadOnlyDictionary<string, string> cells)
    {
        lock (hold)
        {
            if (cells.Keys.FirstOrDefault(c => !header.Contains(c, StringComparer.Ordinal)) is { } unknown)
                return (null, unknown);
            var place = rows.FindIndex(r => r.Number == number);
            if (place < 0)
                return (null, null);
            return (
                rows[place] = rows[place] with
                {
                    Cells = rows[place]
                        .Cells.Concat(cells)
                        .GroupBy(c => c.Key)
                        .ToDictionary(g => g.Key, g => g.Last().Value, StringComparer.Ordinal),
                },
                null
            );
        }
    }

    /// <summary>Takes a row out.</summary>
    public bool Remove(int number)
    {
        lock (hold)
            return rows.RemoveAll(r => r.Number == number) > 0;
    }
}

/// <summary>A sheet of tabs.</summary>
public sealed record GridSheet(string Key, string Name, IReadOnlyList<GridTab> Tabs);

/// <summary>All sheets.</summary>
public sealed class Grids
{
    /// <summary>What there is.</summary>
    public IReadOnlyList<GridSheet> Sheets { get; } =
    [
        new(
            "rides",
            "Test rides",
            [
                new("asked", "Asked", ["When", "First name", "Last name", "Email", "Phone", "Fleet size", "Form"]),
                new("later", "Later", []),
            ]
        ),
        new(
            "quotes",
            "Booth quotes",
            [new("asked", "Asked", ["When", "Full name", "Email", "Phone", "Booths", "Every answer"])]
        ),
        new(
            "dates",
            "Marquee dates",
            [new("asked", "Asked", ["When", "Full name", "Email", "Phone", "Event date", "Guests"])]
        ),
    ];

    /// <summary>A tab, or <c>null</c>.</summary>
    public GridTab? Tab(string sheet, string tab) =>
        Sheets.FirstOrDefault(s => s.Key == sheet)?.Tabs.FirstOrDefault(t => t.Key == tab);
}

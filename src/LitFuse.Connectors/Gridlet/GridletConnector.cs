using System.Globalization;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;

namespace LitFuse.Connectors.Gridlet;

/// <summary>
/// Sheets. A row carries the delivery's key as a mark, so that a second try finds what the first one wrote.
/// </summary>
public sealed class GridletConnector(ConnectorHttp http) : IConnector
{
    /// <summary>The step that writes a row.</summary>
    public const string Row = "sheet-row";

    private const string Change = "change";

    /// <inheritdoc />
    public int Place => 50;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "gridlet",
            "Gridlet",
            "sheets with a row for each lead",
            [
                new(
                    ConnectorCard.Address,
                    "Address",
                    Hint: "As in the browser when a sheet is open, up to the first single slash."
                ),
                new("token", "Token", Secret: true, Hint: "Gridlet, “Tokens for programs”. It is shown once."),
            ],
            [
                new("read", "read sheets", "sheets, tabs and columns cannot be listed, and rows cannot be found again"),
                new("write", "write into sheets", "no row is written"),
            ],
            [
                "Sign in to Gridlet as somebody who may open the sheet.",
                "Give the sheet a first row with the names of its columns.",
                "Open “Tokens for programs” and make one that may read and write.",
                "Copy it from there: it is shown once. Paste it here.",
            ]
        );

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Row,
            "Row in a sheet",
            Lane.Systems,
            "gridlet",
            [
                new("sheet", "Sheet", SettingType.Listed) { List = "sheets" },
                new("tab", "Tab", SettingType.Listed) { List = "tabs", ListNeeds = ["sheet"] },
                new("mode", "Each time", SettingType.Choice)
                {
                    Choices =
                    [
                        new("add", "a row is added"),
                        new(Change, "their row is changed, or added where there is none"),
                    ],
                },
                new("key", "Their row is the one with the same", SettingType.Listed, Optional: true)
                {
                    List = "columns",
                    ListNeeds = ["sheet", "tab"],
                    Hint = "For rows that are changed.",
                },
                new("columns", "Columns", SettingType.Columns) { List = "columns", ListNeeds = ["sheet", "tab"] },
            ],
            ["row", "url"]
        ),
    ];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var tab = TabOf(outgoing.Settings);
        var cells = new Dictionary<string, string>(outgoing.Columns("columns"), StringComparer.Ordinal);
        if (cells.Count == 0)
            return new(AttemptEnd.Final, "was given nothing to write: all columns came out empty");
        if (outgoing.Test)
            cells[cells.Keys.First()] = "TEST · " + cells.Values.First();
        var (found, trouble) = await FindAsync(access, tab, outgoing, cells, stop);
        if (trouble is not null)
            return trouble;
        if (found is { } number && !Changes(outgoing))
            return new(
                AttemptEnd.Accepted,
                "had it already",
                null,
                Reference(tab, number),
                new Dictionary<string, string>(StringComparer.Ordinal)
                {
                    ["row"] = number.ToString(CultureInfo.InvariantCulture),
                }
            );
        var answer = found is { } row
            ? await http.CallAsync(
                access,
                HttpMethod.Put,
                string.Create(CultureInfo.InvariantCulture, $"{tab}/rows/{row}"),
                outgoing.Key,
                new GridCells(cells, null),
                stop
            )
            : await http.CallAsync(
                access,
                HttpMethod.Post,
                tab + "/rows",
                outgoing.Key,
                new GridCells(cells, outgoing.Key),
                stop
            );
        var left = answer.Pick("row", "url");
        return answer.AsResult(left.TryGetValue("row", out var at) ? $"{tab}/rows/{at}" : null, left);
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    )
    {
        if (list != "columns")
        {
            var found = await http.GetAsync<List<ConnectionTarget>>(
                access,
                list == "sheets"
                    ? "api/gridlet/sheets"
                    : $"api/gridlet/sheets/{Uri.EscapeDataString(settings["sheet"])}/tabs",
                stop
            );
            return found.ConvertAll(f => new ListItem(f.Key, f.Name));
        }

        var header = await http.GetAsync<List<string>>(access, TabOf(settings) + "/header", stop);
        var named = header.Where(h => !string.IsNullOrWhiteSpace(h)).Distinct(StringComparer.Ordinal).ToList();
        if (named.Count == 0)
            throw new ServiceTroubleException(
                "has no names of columns in this tab. Write them into its first row there, then refresh."
            );
        return named.ConvertAll(h => new ListItem(h, h));
    }

    /// <inheritdoc />
    public Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop) =>
        http.AskWhoAsync(access, "api/gridlet/me", stop);

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(
        ConnectionAccess access,
        string kind,
        string reference,
        CancellationToken stop
    ) => await http.DeleteAsync(access, reference, stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    // A first try has nothing to look for but the row that is to be changed.
    private async Task<(int? Row, AttemptResult? Trouble)> FindAsync(
        ConnectionAccess access,
        string tab,
        Outgoing outgoing,
        Dictionary<string, string> cells,
        CancellationToken stop
    )
    {
        string? by = null;
        if (Changes(outgoing))
        {
            var key = outgoing.Settings.GetValueOrDefault("key") ?? "";
            if (!cells.TryGetValue(key, out var value))
                return (null, new(AttemptEnd.Final, $"cannot find their row: nothing stands in “{key}”"));
            by = $"column={Uri.EscapeDataString(key)}&value={Uri.EscapeDataString(value)}";
        }
        else if (outgoing.Attempt > 1)
        {
            by = "mark=" + Uri.EscapeDataString(outgoing.Key);
        }

        if (by is null)
            return (null, null);
        var answer = await http.CallAsync(access, HttpMethod.Get, $"{tab}/rows?{by}", stop);
        if (!answer.Ok)
            return (null, answer.AsResult());
        return (
            answer.Json is { ValueKind: System.Text.Json.JsonValueKind.Array } rows && rows.GetArrayLength() > 0
                ? rows[0].GetProperty("number").GetInt32()
                : null,
            null
        );
    }

    // A test has a row of its own, which can be swept away: never one that is somebody's.
    private static bool Changes(Outgoing outgoing) =>
        !outgoing.Test && outgoing.Settings.GetValueOrDefault("mode") == Change;

    private static string TabOf(IReadOnlyDictionary<string, string> settings) =>
        $"api/gridlet/sheets/{Uri.EscapeDataString(settings.GetValueOrDefault("sheet") ?? "")}/tabs/{Uri.EscapeDataString(settings.GetValueOrDefault("tab") ?? "")}";

    private static string Reference(string tab, int row) =>
        string.Create(CultureInfo.InvariantCulture, $"{tab}/rows/{row}");

    private sealed record GridCells(IReadOnlyDictionary<string, string> Cells, string? Mark);
}

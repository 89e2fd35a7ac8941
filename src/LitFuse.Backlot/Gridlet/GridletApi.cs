using LitFuse.Backlot.Access;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Gridlet;

/// <summary>Cells to write.</summary>
public sealed record RowToWrite(IReadOnlyDictionary<string, string>? Cells, string? Mark);

/// <summary>Gridlet's API and screens: sheets with header rows.</summary>
public static class GridletApi
{
    private const string Service = "gridlet";

    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        var desk = new TokenDesk(
            Service,
            "Gridlet",
            "Noor Abernathy-Voss",
            [("read", "read sheets"), ("write", "write into sheets")],
            app.Services.GetRequiredService<Grounds>(),
            app.Services.GetRequiredService<TimeProvider>()
        );
        desk.Map(app);
        var sheets = app.MapGroup("/api/gridlet/sheets");
        sheets.MapGet("/", (HttpContext http, Grids grids) =>
            desk.Refusal(http, "read") ?? Results.Ok(grids.Sheets.Select(s => new { s.Key, s.Name }))
        );
        sheets.MapGet("/{sheet}/tabs", (string sheet, HttpContext http, Grids grids) =>
            desk.Refusal(http, "read")
            ?? (
                grids.Sheets.FirstOrDefault(s => s.Key == sheet) is { } found
                    ? Results.Ok(found.Tabs.Select(t => new { t.Key, t.Name }))
                    : Results.Problem($"There is no sheet “{sheet}”.", statusCode: 404)
            )
        );
        MapTab(sheets, desk);
        MapPages(app);
    }

    private static void MapTab(RouteGroupBuilder sheets, TokenDesk desk)
    {
        var tab = sheets.MapGroup("/{sheet}/tabs/{tab}");
        tab.MapGet("/header", (string sheet, string tab, HttpContext http, Grids grids) =>
            desk.Refusal(http, "read") ?? (grids.Tab(sheet, tab) is { } found ? Results.Ok(found.Header) : NoTab(tab))
        );
        tab.MapGet(
            "/rows",
            (string sheet, string tab, string? mark, string? column, string? value, HttpContext http, Grids grids) =>
                desk.Refusal(http, "read")
                ?? (
                    grids.Tab(sheet, tab) is { } found
                        ? Results.Ok(new[] { found.Find(mark, column, value) }.OfType<GridRow>())
                        : NoTab(tab)
                )
        );
        tab.MapPost(
            "/rows",
            (
                string sheet,
                string tab,
                RowToWrite write,
                HttpContext http,
                Grids grids,
                Grounds grounds,
                FaultBoard faults
            ) =>
            {
                if (desk.Refusal(http, "write") is { } refusal)
                    return refusal;
                if (grids.Tab(sheet, tab) is not { } found)
                    return NoTab(tab);
                var fault = faults.Of(Service);
                var key = fault.IgnoreKeys ? null : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
                var (row, unknown) = found.Append(
                    write.Cells ?? new Dictionary<string, string>(StringComparer.Ordinal),
                    write.Mark,
                    key
                );
                if (fault.Repeat)
                    found.Append(
                        write.Cells ?? new Dictionary<string, string>(StringComparer.Ordinal),
                        write.Mark,
                        key
                    );
                return row is null
                    ? NoColumn(unknown)
                    : Results.Json(
                        new
                        {
                            Row = row.Number,
                            Url = $"{grounds.Url}/gridlet?sheet={sheet}&tab={tab}#row-{row.Number}",
                        },
                        statusCode: 201
                    );
            }
        );
        MapRows(tab, desk);
    }

    private static void MapRows(RouteGroupBuilder tab, TokenDesk desk)
    {
        tab.MapPut(
            "/rows/{number:int}",
            (string sheet, string tab, int number, RowToWrite write, HttpContext http, Grids grids, Grounds grounds) =>
            {
                if (desk.Refusal(http, "write") is { } refusal)
                    return refusal;
                if (grids.Tab(sheet, tab) is not { } found)
                    return NoTab(tab);
                var (row, unknown) = found.Write(
                    number,
                    write.Cells ?? new Dictionary<string, string>(StringComparer.Ordinal)
                );
                return row is not null
                        ? Results.Ok(
                            new
                            {
                                Row = row.Number,
                                Url = $"{grounds.Url}/gridlet?sheet={sheet}&tab={tab}#row-{row.Number}",
                            }
                        )
                    : unknown is null ? Results.Problem("There is no such row.", statusCode: 404)
                    : NoColumn(unknown);
            }
        );
        tab.MapDelete("/rows/{number:int}", (string sheet, string tab, int number, HttpContext http, Grids grids) =>
            desk.Refusal(http, "write")
            ?? (
                grids.Tab(sheet, tab)?.Remove(number) == true
                    ? Results.NoContent()
                    : Results.Problem("There is no such row.", statusCode: 404)
            )
        );
    }

    private static void MapPages(WebApplication app)
    {
        app.MapGet("/api/seen/gridlet/{sheet}/{tab}", (string sheet, string tab, Grids grids) =>
            grids.Tab(sheet, tab) is { } found ? Results.Ok(found.Rows) : Results.NotFound()
        );
        app.MapGet("/gridlet", (Grids grids, string? sheet, string? tab) =>
            Paper.Page("Gridlet", Screen(grids, sheet ?? "rides", tab ?? "asked"), refresh: "rows")
        );
        app.MapPost("/gridlet/columns", ([FromForm] IFormCollection given, Grids grids) =>
            {
                var (sheet, tab) = (given["sheet"].ToString(), given["tab"].ToString());
                if (grids.Tab(sheet, tab) is { } found && given["name"].ToString().Trim() is { Length: > 0 } name)
                    found.AddColumn(name);
                return Results.Redirect(
                    $"/gridlet?sheet={Uri.EscapeDataString(sheet)}&tab={Uri.EscapeDataString(tab)}"
                );
            })
            .DisableAntiforgery();
    }

    private static IResult NoTab(string tab) => Results.Problem($"There is no tab “{tab}”.", statusCode: 404);

    private static IResult NoColumn(string? column) =>
        Results.Problem($"There is no column “{column}”.", statusCode: 422);

    private static string Screen(Grids grids, string sheet, string tab)
    {
        var found = grids.Tab(sheet, tab);
        var places = grids.Sheets.SelectMany(s =>
            s.Tabs.Select(t =>
                $"<li><a href=\"/gridlet?sheet={s.Key}&tab={t.Key}\"{(s.Key == sheet && t.Key == tab ? " aria-current=\"page\"" : "")}>{Paper.Text(s.Name)}: {Paper.Text(t.Name)}</a> <span>{t.Rows.Count}</span></li>"
            )
        );
        if (found is null)
            return "<p>There is no such tab.</p>";
        var head = string.Concat(found.Header.Select(h => $"<th>{Paper.Text(h)}</th>"));
        var rows = found
            .Rows.TakeLast(100)
            .Select(r =>
                $"<tr id=\"row-{r.Number}\"><td>{r.Number}</td>{string.Concat(found.Header.Select(h => $"<td>{Paper.Text(r.Cells.GetValueOrDefault(h) ?? "")}</td>"))}</tr>"
            );
        return $"""
            <div class="two"><nav aria-label="Tabs"><p><a href="/gridlet/tokens">Tokens for programs</a></p><ul>{string.Concat(
                places
            )}</ul>
            <form method="post" action="/gridlet/columns"><input type="hidden" name="sheet" value="{Paper.Text(
                sheet
            )}"><input type="hidden" name="tab" value="{Paper.Text(
                tab
            )}"><p><label>A name for the first row<br><input name="name" required></label></p><button>Write it there</button></form></nav>
            <section id="rows"><h1>{Paper.Text(
                found.Name
            )}</h1><table><thead><tr><th>1</th>{head}</tr></thead><tbody>{string.Concat(
                rows.DefaultIfEmpty("<tr><td>Nothing under it yet.</td></tr>")
            )}</tbody></table></section></div>
            """;
    }
}

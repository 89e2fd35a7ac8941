using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sheets;

/// <summary>A file sheet.</summary>
/// <param name="Rows">As it stands.</param>
/// <param name="LastAt">When the newest was written.</param>
public sealed record SheetRow(string Client, string Name, int Rows, Instant LastAt);

/// <summary>File sheets of the clients chosen.</summary>
public sealed record SheetList(IReadOnlyList<SheetRow> Sheets);

/// <summary>File sheets that fuses fill: looked at, and had as a file at any time.</summary>
public static class SheetsEndpoints
{
    private const int MostRows = 200_000;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var sheets = app.MapGroup("/api/sheets").WithTags("Sheets");
        sheets.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Files that fuses fill, row by row");
        sheets.MapGet("/file", FileAsync).Needs(Act.SeeLeads).WithSummary("One of them, as CSV, XLSX or NDJSON");
    }

    private sealed record Counted(Guid ClientId, string Sheet, int Rows, Instant LastAt);

    private static async Task<Results<Ok<SheetList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var ids = clients.ToArray();
        var names = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var counted = await db
            .Database.SqlQuery<Counted>(
                $"select client_id, sheet, count(distinct row_key)::int as rows, max(at) as last_at from file_rows where client_id = any({ids}) group by 1, 2 order by 2"
            )
            .ToListAsync(stop);
        return TypedResults.Ok(
            new SheetList([.. counted.Select(c => new SheetRow(names[c.ClientId], c.Sheet, c.Rows, c.LastAt))])
        );
    }

    private static async Task<IResult> FileAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null,
        string? name = null,
        string format = "csv"
    )
    {
        if (string.IsNullOrWhiteSpace(client))
            return Problems.Bad("client", "Say of which client.");
        if (await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        if (TableFile.TypeOf(format) is not { } type)
            return Problems.Bad("format", "Choose csv, xlsx or ndjson.");
        var rows = await db
            .FileRows.FromSql(
                $"select distinct on (row_key) * from file_rows where client_id = {clientId} and sheet = {name} order by row_key, id desc"
            )
            .AsNoTracking()
            .OrderBy(r => r.Id)
            .Take(MostRows)
            .ToListAsync(stop);
        if (rows.Count == 0)
            return Problems.NotThere.Because($"There is no file “{name}”.");
        // In the order in which columns came up.
        var columns = rows.SelectMany(r => r.Cells.Keys).Distinct(StringComparer.Ordinal).ToList();
        var bytes = await TableFile.WriteAsync(
            format,
            columns,
            rows.Select(r => columns.ConvertAll(c => r.Cells.GetValueOrDefault(c) ?? "")),
            stop
        );
        return Results.File(bytes, type, $"{TableFile.Safe(name!)}.{format}");
    }
}

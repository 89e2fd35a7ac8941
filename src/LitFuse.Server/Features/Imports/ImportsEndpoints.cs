using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Files of leads.</summary>
public static class ImportsEndpoints
{
    private const long MostBytes = 256L * 1024 * 1024;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var imports = app.MapGroup("/api/imports").WithTags("Imports");
        imports.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Imports, newest first");
        imports
            .MapPost("/", UploadAsync)
            .Needs(Act.EditSources)
            .WithSummary("Upload a CSV or XLSX as the body, at most 256 MB; nothing is imported yet")
            .WithMetadata(new Microsoft.AspNetCore.Mvc.RequestSizeLimitAttribute(MostBytes));
        imports
            .MapGet("/{importId}", GetAsync)
            .Needs(Act.SeeSources)
            .WithSummary("An import: how it is read, what it would do, or how far it is");
        imports.MapPut("/{importId}/reading", SetAsync).Needs(Act.EditSources).WithSummary("Say how it is to be read");
        imports.MapPost("/{importId}/start", StartAsync).Needs(Act.EditSources).WithSummary("Import it");
        imports
            .MapPost("/{importId}/cancel", (Guid importId, AppDb db, TimeProvider time, CancellationToken stop) =>
                TurnAsync(importId, [ImportStatus.Running, ImportStatus.Ready], ImportStatus.Cancelled, db, time, stop)
            )
            .Needs(Act.EditSources)
            .WithSummary("Stop it; what was imported stays until it is undone");
        imports
            .MapPost("/{importId}/undo", (Guid importId, AppDb db, TimeProvider time, CancellationToken stop) =>
                TurnAsync(
                    importId,
                    [ImportStatus.Done, ImportStatus.Cancelled, ImportStatus.Failed],
                    ImportStatus.Undoing,
                    db,
                    time,
                    stop
                )
            )
            .Needs(Act.EditSources)
            .WithSummary("Take out again what it made");
        imports
            .MapGet("/{importId}/bad-rows.csv", BadRowsAsync)
            .Needs(Act.SeeSources)
            .WithSummary("The rows that could not be imported, each with its reason");
    }

    private static async Task<Results<Ok<ImportList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(
            new ImportList(
                await LinesAsync(
                    db,
                    db.Imports.Where(i => clients.Contains(i.ClientId)).OrderByDescending(i => i.MadeAt).Take(50),
                    stop
                )
            )
        );
    }

    private static async Task<Results<Created<MadeImport>, ProblemHttpResult>> UploadAsync(
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        ImportKeeping keeping,
        CancellationToken stop,
        string? client = null,
        string? name = null,
        Guid? source = null
    )
    {
        if (string.IsNullOrWhiteSpace(client) || await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.Bad("client", "Say for which client.");
        var fileName = Path.GetFileName((name ?? "").Replace('\\', '/')).Trim();
        if (fileName.Length is 0 or > 200)
            return Problems.Bad("name", "Give the file's name, of at most 200 characters.");
        if (http.Request.ContentLength > MostBytes)
            return Problems.TooBig.Because("A file of leads has at most 256 MB. Cut it in two.");
        if (
            source is { } id
            && !await db.Sources.AnyAsync(s => s.Id == id && s.ClientId == clientId && s.Kind == "lanternfind", stop)
        )
            return Problems.Bad("source", "There is no such source that offers files, for this client.");
        try
        {
            var import = await keeping.KeepAsync(
                clientId,
                fileName,
                source,
                ClientAccess.UserId(http.User),
                null,
                http.Request.Body,
                stop
            );
            return TypedResults.Created($"/api/imports/{import.Id}", new MadeImport(import.Id));
        }
        catch (ImportFileException e)
        {
            return Problems.Bad("file", e.Message);
        }
    }

    private static async Task<Results<Ok<ImportDetail>, ProblemHttpResult>> GetAsync(
        Guid importId,
        AppDb db,
        SourceKinds kinds,
        ImportPreviewer previewer,
        CancellationToken stop
    )
    {
        var import = await db.Imports.AsNoTracking().SingleOrDefaultAsync(i => i.Id == importId, stop);
        if (import is null)
            return Problems.No("import");
        var line = (await LinesAsync(db, db.Imports.Where(i => i.Id == importId), stop))[0];
        var own = await db
            .LeadFields.AsNoTracking()
            .Where(f => f.ClientId == import.ClientId)
            .Select(f => f.Key)
            .ToListAsync(stop);
        try
        {
            var sheets =
                import.Reading.Kind == "xlsx"
                    ? ImportFile.Look(() => new ChunkStream(db, importId), import.Reading.Country).Sheets
                    : [];
            return TypedResults.Ok(
                new ImportDetail(
                    line,
                    import.Reading,
                    sheets,
                    [.. FieldMap.StandardFields, .. own],
                    import.FormId is null,
                    import.Status == ImportStatus.Ready ? await previewer.PreviewAsync(import, stop) : null
                )
            );
        }
        catch (ImportFileException e)
        {
            return Problems.Bad("reading", e.Message);
        }
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        Guid importId,
        ReadingToSet set,
        AppDb db,
        CancellationToken stop
    )
    {
        var import = await db.Imports.SingleOrDefaultAsync(i => i.Id == importId, stop);
        if (import is null)
            return Problems.No("import");
        if (import.Status != ImportStatus.Ready)
            return Problems.NotNow.Because("It is under way, or over.");
        if (set.Reading is not { Columns: not null, Delimiter: not null, Charset: not null, Country: not null } reading)
            return Problems.Bad("reading", "Send the whole reading.");
        if (reading.Kind != import.Reading.Kind)
            return Problems.Bad("reading.kind", "The kind of file cannot be changed.");
        if (
            reading.Kind == "csv"
            && (
                reading.Delimiter.Length != 1
                || !char.IsAscii(reading.Delimiter[0])
                || reading.Delimiter[0] is '"' or '\r' or '\n'
            )
        )
            return Problems.Bad("reading.delimiter", "A delimiter is one ASCII character.");
        if (reading.Country.Length != 2)
            return Problems.Bad("reading.country", "A country has two letters (ISO 3166-1), such as GB.");
        if (
            reading
                .Columns.Where(c => c.LeadField is "email" or "phone" or "id" or "sent_at")
                .GroupBy(c => c.LeadField, StringComparer.Ordinal)
                .FirstOrDefault(g => g.Count() > 1) is
            { } twice
        )
            return Problems.Bad("reading.columns", $"Two columns go to {twice.Key}.");
        if (reading.Columns.FirstOrDefault(c => c.LeadField is { Length: 0 or > 100 }) is { } odd)
            return Problems.Bad("reading.columns", $"“{odd.LeadField}” is no lead field.");
        var before = import.Reading;
        try
        {
            // Read otherwise, the columns are others too.
            if (
                reading.Delimiter != before.Delimiter
                || reading.Charset != before.Charset
                || reading.HasHeader != before.HasHeader
                || reading.Sheet != before.Sheet
            )
            {
                using var file = new ChunkStream(db, importId);
                var rows = ImportFile.Rows(file, reading).Take(200).ToList();
                if (rows.Count == 0)
                    return Problems.Bad("reading.sheet", "There is no row in it.");
                reading = ImportFile.With(reading, rows);
            }
        }
        catch (ImportFileException e)
        {
            return Problems.Bad("reading", e.Message);
        }

        import.Reading = reading;
        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> StartAsync(
        Guid importId,
        ImportToStart start,
        AppDb db,
        ImportKeeping keeping,
        CancellationToken stop
    )
    {
        var import = await db.Imports.SingleOrDefaultAsync(i => i.Id == importId, stop);
        if (import is null)
            return Problems.No("import");
        if (import.Status != ImportStatus.Ready)
            return Problems.NotNow.Because("It is under way already, or over.");
        if (import.FormId is not null && !import.Reading.Columns.Any(c => c.LeadField is "email" or "phone"))
            return Problems.Bad(
                "reading.columns",
                "Say which column holds the email address or the telephone number: by one of them people are recognised."
            );
        import.Lights = start.Lights;
        await keeping.StartAsync(import, stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> TurnAsync(
        Guid importId,
        ImportStatus[] from,
        ImportStatus to,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var import = await db.Imports.AsNoTracking().SingleOrDefaultAsync(i => i.Id == importId, stop);
        if (import is null)
            return Problems.No("import");
        var now = time.Now();
        var turned = await db
            .Imports.Where(i => i.Id == importId && from.Contains(i.Status))
            .ExecuteUpdateAsync(
                i =>
                    i.SetProperty(x => x.Status, to)
                        .SetProperty(x => x.EndedAt, now)
                        .SetProperty(x => x.LeasedUntil, (Instant?)null),
                stop
            );
        if (turned == 0)
            return Problems.NotNow.Because(
                to == ImportStatus.Undoing ? "Only what has been imported can be undone." : "It is not under way."
            );
        db.NoteChange(import.ClientId, ChangeKind.Import, importId);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("imports", stop);
        return TypedResults.NoContent();
    }

    private static async Task<IResult> BadRowsAsync(Guid importId, HttpContext http, AppDb db, CancellationToken stop)
    {
        var import = await db.Imports.AsNoTracking().SingleOrDefaultAsync(i => i.Id == importId, stop);
        if (import is null)
            return Problems.No("import");
        http.Response.ContentType = "text/csv; charset=utf-8";
        http.Response.Headers.ContentDisposition = new Microsoft.Net.Http.Headers.ContentDispositionHeaderValue(
            "attachment"
        )
        {
            FileName = "bad-rows.csv",
            FileNameStar = "bad rows of " + Path.ChangeExtension(import.FileName, ".csv"),
        }.ToString();
        await http.Response.WriteAsync(
            Csv.Line([.. import.Reading.Columns.Select(c => c.Header), "row", "what is wrong"]),
            stop
        );
        await foreach (
            var row in db
                .ImportBadRows.AsNoTracking()
                .Where(r => r.ImportId == importId)
                .OrderBy(r => r.Row)
                .AsAsyncEnumerable()
                .WithCancellation(stop)
        )
        {
            var cells = Enumerable
                .Range(0, import.Reading.Columns.Count)
                .Select(i => i < row.Cells.Count ? row.Cells[i] : "");
            await http.Response.WriteAsync(
                Csv.Line([.. cells, row.Row.ToString(System.Globalization.CultureInfo.InvariantCulture), row.Reason]),
                stop
            );
        }

        return Results.Empty;
    }

    private static async Task<IReadOnlyList<ImportLine>> LinesAsync(
        AppDb db,
        IQueryable<Import> imports,
        CancellationToken stop
    )
    {
        var rows = await imports.AsNoTracking().ToListAsync(stop);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var ids = rows.ConvertAll(i => i.SourceId);
        var sources = await db
            .Sources.AsNoTracking()
            .Where(s => ids.Contains(s.Id))
            .ToDictionaryAsync(s => s.Id, s => s.Name, stop);
        var people = await db.PeopleAsync(rows.Select(r => r.MadeBy), stop);
        return rows.ConvertAll(i => new ImportLine(
            i.Id,
            i.ClientId,
            clients[i.ClientId],
            sources[i.SourceId],
            i.FormId,
            i.FileName,
            i.Bytes,
            i.Status,
            i.Lights,
            i.RowsDone,
            i.BytesDone,
            i.NewLeads,
            i.Updates,
            i.Doubles,
            i.BadRows,
            i.Reason,
            PeopleNames.Of(people, i.MadeBy),
            i.MadeAt,
            i.StartedAt,
            i.EndedAt
        ));
    }
}

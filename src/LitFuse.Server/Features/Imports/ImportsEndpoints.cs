using System.Buffers;
using LitFuse.Core.Files;
using LitFuse.Core.Mapping;
using LitFuse.Core.Texts;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>An import as a row.</summary>
public sealed record ImportLine(
    Guid Id,
    Guid ClientId,
    string Client,
    string Source,
    Guid? FormId,
    string FileName,
    long Bytes,
    ImportStatus Status,
    bool Lights,
    int RowsDone,
    long BytesDone,
    int NewLeads,
    int Updates,
    int Doubles,
    int BadRows,
    string? Reason,
    string? MadeBy,
    Instant MadeAt,
    Instant? StartedAt,
    Instant? EndedAt
);

/// <summary>Imports of the clients chosen.</summary>
public sealed record ImportList(IReadOnlyList<ImportLine> Imports);

/// <summary>A row of the preview.</summary>
public sealed record PreviewRow(int Row, IReadOnlyList<string> Cells, RowOutcome Outcome, string? Reason);

/// <summary>What importing would do, decided for the first rows as it will be for all.</summary>
/// <param name="Of">How many rows were looked at.</param>
/// <param name="Whole">That was the whole file.</param>
/// <param name="PhoneExample">How telephone numbers are read.</param>
/// <param name="DateExample">How dates are read.</param>
public sealed record ImportPreview(
    int Of,
    bool Whole,
    int NewLeads,
    int Updates,
    int Doubles,
    int BadRows,
    IReadOnlyList<PreviewRow> Rows,
    int PhonesRead,
    int PhonesUnread,
    string? PhoneExample,
    string? DateExample
);

/// <summary>An import, whole.</summary>
public sealed record ImportWhole(
    ImportLine Import,
    ImportReading Reading,
    IReadOnlyList<string> Sheets,
    IReadOnlyList<string> LeadFields,
    bool OfSource,
    ImportPreview? Preview
);

/// <summary>How it is to be read.</summary>
public sealed record ReadingToSet(ImportReading? Reading);

/// <summary>Begin.</summary>
/// <param name="Lights">The rows light fuses, as submissions do.</param>
public sealed record ImportToStart(bool Lights);

/// <summary>What was made.</summary>
public sealed record MadeImport(Guid Id);

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
                Access.UserId(http.User),
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

    private static async Task<Results<Ok<ImportWhole>, ProblemHttpResult>> GetAsync(
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
                new ImportWhole(
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
        db.Tell(import.ClientId, ChangeKind.Import, importId);
        await db.SaveAndTellAsync(stop);
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
            LeadQueries.Name(people, i.MadeBy),
            i.MadeAt,
            i.StartedAt,
            i.EndedAt
        ));
    }
}

/// <summary>Keeps uploaded and picked-up files.</summary>
public sealed class ImportKeeping(AppDb db, Signals signals, TimeProvider time)
{
    private const int ChunkBytes = 1024 * 1024;

    /// <summary>Keeps a file and looks at how it is written. Saves.</summary>
    /// <param name="sourceId">The source whose forms its rows belong to; <c>null</c> for a file that gets a form of its own.</param>
    /// <param name="pickedUp">What keeps the same file from being picked up twice.</param>
    /// <exception cref="ImportFileException">It cannot be read.</exception>
    public async Task<Import> KeepAsync(
        Guid clientId,
        string fileName,
        Guid? sourceId,
        Guid? by,
        string? pickedUp,
        Stream file,
        CancellationToken stop
    )
    {
        var (client, now) = (await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop), time.Now());
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var import = new Import
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            FileName = fileName,
            MadeBy = by,
            MadeAt = now,
            PickedUp = pickedUp,
        };
        import.Bytes = await ChunksAsync(import, file, stop);
        import.Reading = ImportFile.Look(() => new ChunkStream(db, import.Id), client.Country).Reading;
        if (sourceId is { } known)
            import.SourceId = known;
        else
            (import.SourceId, import.FormId) = await FormAsync(clientId, fileName, import.Reading, now, stop);
        db.Imports.Add(import);
        db.Tell(clientId, ChangeKind.Import, import.Id);
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return import;
    }

    /// <summary>Puts it under way; a form of its own gets the map that its columns say. Saves.</summary>
    public async Task StartAsync(Import import, CancellationToken stop)
    {
        var now = time.Now();
        (import.Status, import.StartedAt) = (ImportStatus.Running, now);
        if (import.FormId is { } formId)
        {
            var form = await db.Forms.SingleAsync(f => f.Id == formId, stop);
            form.State = FormState.Receiving;
            form.Fields = FieldsOf(import.Reading);
            db.FormMaps.Add(
                new()
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = import.ClientId,
                    FormId = formId,
                    Version = 1,
                    Status = MapStatus.Confirmed,
                    Map = ImportRows.MapOf(import.Reading),
                    MadeAt = now,
                    ConfirmedBy = import.MadeBy,
                    ConfirmedAt = now,
                }
            );
        }

        db.Tell(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndTellAsync(stop);
        await db.WakeAsync("imports", stop);
        signals.Imports.Pulse();
    }

    private async Task<long> ChunksAsync(Import import, Stream file, CancellationToken stop)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(ChunkBytes);
        try
        {
            long all = 0;
            for (var number = 0; ; number++)
            {
                var length = await file.ReadAtLeastAsync(
                    buffer.AsMemory(0, ChunkBytes),
                    ChunkBytes,
                    throwOnEndOfStream: false,
                    stop
                );
                if (length == 0)
                    return all;
                var data = buffer[..length];
                await db.Database.ExecuteSqlAsync(
                    $"insert into import_chunks (import_id, number, client_id, data) values ({import.Id}, {number}, {import.ClientId}, {data})",
                    stop
                );
                all += length;
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    // Its form is offered until the import begins: a file that was only looked at is no form of the client's.
    private async Task<(Guid SourceId, Guid FormId)> FormAsync(
        Guid clientId,
        string fileName,
        ImportReading reading,
        Instant now,
        CancellationToken stop
    )
    {
        var source = await db.Sources.FirstOrDefaultAsync(s => s.ClientId == clientId && s.Kind == "file", stop);
        if (source is null)
            db.Sources.Add(
                source = new()
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = clientId,
                    Kind = "file",
                    Name = "Files",
                    MadeAt = now,
                }
            );
        var form = FormsFound.Fresh(clientId, source.Id, Clip.To(fileName, 120), FieldsOf(reading), now);
        form.State = FormState.Offered;
        db.Forms.Add(form);
        return (source.Id, form.Id);
    }

    private static IReadOnlyList<Core.Forms.FormField> FieldsOf(ImportReading reading) =>
        [
            .. reading.Columns.Select(c => new Core.Forms.FormField(
                c.Header,
                c.Header,
                Core.Forms.FormFieldType.Text,
                false,
                []
            )),
        ];
}

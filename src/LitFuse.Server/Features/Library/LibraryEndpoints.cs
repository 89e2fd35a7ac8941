using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Library;

/// <summary>A file of the library.</summary>
/// <param name="UsedBy">Armed fuses whose letters bring it.</param>
public sealed record LibraryRow(
    Guid Id,
    string Client,
    string Name,
    string Type,
    int Size,
    Instant MadeAt,
    string? MadeBy,
    IReadOnlyList<string> UsedBy
);

/// <summary>Files of the clients chosen.</summary>
public sealed record LibraryList(IReadOnlyList<LibraryRow> Files);

/// <summary>A client's library of files for its letters.</summary>
public static class LibraryEndpoints
{
    private const int MostBytes = 3 * 1024 * 1024;
    private const int MostFiles = 40;

    private static readonly Dictionary<string, string> Types = new(StringComparer.OrdinalIgnoreCase)
    {
        [".pdf"] = "application/pdf",
        [".png"] = "image/png",
        [".jpg"] = "image/jpeg",
        [".jpeg"] = "image/jpeg",
        [".txt"] = "text/plain; charset=utf-8",
        [".csv"] = "text/csv; charset=utf-8",
        [".ics"] = "text/calendar; charset=utf-8",
        [".xlsx"] = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        [".docx"] = "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
    };

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var library = app.MapGroup("/api/library").WithTags("Library");
        library.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Files that letters can bring");
        library
            .MapPost("/", AddAsync)
            .Needs(Act.EditSources)
            .WithMetadata(new MostBody(MostBytes))
            .WithSummary("Put a file in: its bytes are the body");
        library.MapGet("/{libraryFileId}", GetAsync).Needs(Act.SeeSources).WithSummary("The file itself");
        library
            .MapDelete("/{libraryFileId}", RemoveAsync)
            .Needs(Act.EditSources)
            .WithSummary("Take it out; refused while an armed fuse brings it");
    }

    private static async Task<Results<Ok<LibraryList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var files = await db
            .LibraryFiles.Where(f => clients.Contains(f.ClientId))
            .OrderBy(f => f.Name)
            .Select(f => new
            {
                f.Id,
                f.ClientId,
                Client = db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
                f.Name,
                f.Type,
                f.Size,
                f.MadeAt,
                f.MadeBy,
            })
            .ToListAsync(stop);
        var people = await db.PeopleAsync(files.Select(f => (Guid?)f.MadeBy), stop);
        var uses = await UsesAsync(db, clients, stop);
        return TypedResults.Ok(
            new LibraryList([
                .. files.Select(f => new LibraryRow(
                    f.Id,
                    f.Client,
                    f.Name,
                    f.Type,
                    f.Size,
                    f.MadeAt,
                    PeopleNames.Of(people, f.MadeBy),
                    [.. uses[f.Id.ToString()]]
                )),
            ])
        );
    }

    private static async Task<Results<Created<LibraryRow>, ProblemHttpResult>> AddAsync(
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null,
        string? name = null
    )
    {
        if (string.IsNullOrWhiteSpace(client) || await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.Bad("client", "Say for which client.");
        var plain = PlainText.Line(name ?? "", 120).Replace('/', '-').Replace('\\', '-');
        if (plain.Length == 0)
            return Problems.Bad("name", "Say what it is called.");
        if (!Types.TryGetValue(Path.GetExtension(plain), out var type))
            return Problems.Bad("name", $"Letters bring files that end in {string.Join(", ", Types.Keys)}.");
        var bytes = await ReadAsync(http.Request.Body, stop);
        if (bytes is null)
            return Problems.TooBig.Because($"A file of the library has at most {MostBytes / 1024 / 1024} MB.");
        if (bytes.Length == 0)
            return Problems.Bad("body", "The file is empty.");
        if (await db.LibraryFiles.CountAsync(f => f.ClientId == clientId, stop) >= MostFiles)
            return Problems.NotNow.Because($"The library holds {MostFiles} files. Take one out first.");
        if (await db.LibraryFiles.AnyAsync(f => f.ClientId == clientId && f.Name == plain, stop))
            return Problems.Bad(
                "name",
                "There is a file of this name already. Take it out first, or give this one another."
            );
        var me = ClientAccess.UserId(http.User)!.Value;
        var file = new LibraryFile
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Name = plain,
            Type = type,
            Size = bytes.Length,
            Bytes = bytes,
            MadeAt = time.Now(),
            MadeBy = me,
        };
        db.LibraryFiles.Add(file);
        await db.SaveChangesAsync(stop);
        var (names, of) = (
            await db.PeopleAsync([me], stop),
            await db.Clients.Where(c => c.Id == clientId).Select(c => c.ShortName).SingleAsync(stop)
        );
        return TypedResults.Created(
            $"/api/library/{file.Id}",
            new LibraryRow(file.Id, of, file.Name, file.Type, file.Size, file.MadeAt, PeopleNames.Of(names, me), [])
        );
    }

    private static async Task<IResult> GetAsync(Guid libraryFileId, AppDb db, CancellationToken stop) =>
        await db.LibraryFiles.AsNoTracking().SingleOrDefaultAsync(f => f.Id == libraryFileId, stop) is { } file
            ? Results.File(file.Bytes, "application/octet-stream", file.Name)
            : Problems.No("file");

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(
        Guid libraryFileId,
        AppDb db,
        CancellationToken stop
    )
    {
        if (
            await db
                .LibraryFiles.Where(f => f.Id == libraryFileId)
                .Select(f => new { f.ClientId })
                .SingleOrDefaultAsync(stop)
            is not { } file
        )
            return Problems.No("file");
        if ((await UsesAsync(db, [file.ClientId], stop))[libraryFileId.ToString()].ToList() is { Count: > 0 } uses)
            return Problems.StillUsed.Because($"Letters of armed fuses bring it: {string.Join(", ", uses)}.");
        await db.LibraryFiles.Where(f => f.Id == libraryFileId).ExecuteDeleteAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<ILookup<string, string>> UsesAsync(
        AppDb db,
        IReadOnlyList<Guid> clients,
        CancellationToken stop
    )
    {
        var armed = await db
            .Fuses.Where(f => clients.Contains(f.ClientId) && f.ArmedVersionId != null)
            .Join(db.FuseVersions, f => f.ArmedVersionId, v => v.Id, (_, v) => v.Definition)
            .ToListAsync(stop);
        return armed
            .SelectMany(d =>
                d.Bands.SelectMany(b => b.Steps)
                    .Where(s => s.Kind == StepKinds.Email)
                    .SelectMany(s =>
                        (s.Settings.GetValueOrDefault(StepKinds.Files) ?? "").Split(
                            ',',
                            StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
                        )
                    )
                    .Distinct()
                    .Select(id => (Id: id, d.Name))
            )
            .ToLookup(u => u.Id, u => u.Name, StringComparer.OrdinalIgnoreCase);
    }

    private static async Task<byte[]?> ReadAsync(Stream body, CancellationToken stop)
    {
        using var all = new MemoryStream();
        var chunk = new byte[64 * 1024];
        while (await body.ReadAsync(chunk, stop) is > 0 and var read)
        {
            if (all.Length + read > MostBytes)
                return null;
            all.Write(chunk, 0, read);
        }

        return all.ToArray();
    }

    private sealed record MostBody(long Bytes) : IRequestSizeLimitMetadata
    {
        public long? MaxRequestBodySize => Bytes + 1;
    }
}

using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Features.Sheets;

/// <summary>A nightly file to make.</summary>
/// <param name="ConnectionId">A mail server, or an address book service with a folder.</param>
/// <param name="To">An email address; or the folder's path, as in <c>files/leads</c>.</param>
/// <param name="Format"><c>csv</c>, <c>xlsx</c> or <c>ndjson</c>.</param>
/// <param name="Columns">As in the list of leads; empty: the usual ones.</param>
/// <param name="OfTheDay">Only those who asked on the day before; else all.</param>
/// <param name="At">As in <c>02:30</c>, on the client's clock.</param>
public sealed record NightlyToMake(
    string? Client,
    string? Name,
    Guid ConnectionId,
    string? To,
    string? Format,
    IReadOnlyList<string>? Columns,
    bool OfTheDay,
    string? At
);

/// <summary>A nightly file.</summary>
public sealed record NightlyRow(
    Guid Id,
    string Client,
    string Name,
    string Connection,
    string To,
    string Format,
    IReadOnlyList<string> Columns,
    bool OfTheDay,
    string At,
    Instant DueAt,
    Instant? SentAt,
    int? Rows,
    string? Fault
);

/// <summary>Nightly files, and what they can go through.</summary>
public sealed record NightlyList(IReadOnlyList<NightlyRow> Files, IReadOnlyList<NightlyDoor> Doors);

/// <summary>A connection that takes files.</summary>
/// <param name="Asks">What <c>to</c> is there.</param>
public sealed record NightlyDoor(Guid Id, string Client, string Name, string Asks);

/// <summary>Files of leads that go out every night.</summary>
public static class NightlyEndpoints
{
    private const int MostOfClient = 20;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var files = app.MapGroup("/api/nightly-files").WithTags("Sheets");
        files.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Files that go out every night");
        files.MapPost("/", MakeAsync).Needs(Act.EditSources).WithSummary("Send one every night");
        files.MapPost("/{fileId}/now", NowAsync).Needs(Act.EditSources).WithSummary("Send it now");
        files.MapDelete("/{fileId}", RemoveAsync).Needs(Act.EditSources).WithSummary("Send it no more");
    }

    private static async Task<Results<Ok<NightlyList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var names = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => clients.Contains(c.ClientId))
            .OrderBy(c => c.Name)
            .ToListAsync(stop);
        var files = await db
            .NightlyFiles.AsNoTracking()
            .Where(f => clients.Contains(f.ClientId))
            .OrderBy(f => f.Name)
            .ToListAsync(stop);
        return TypedResults.Ok(
            new NightlyList(
                [
                    .. files.Select(f =>
                        Row(f, names[f.ClientId], connections.Find(c => c.Id == f.ConnectionId)?.Name ?? "")
                    ),
                ],
                [
                    .. connections
                        .Where(c => connectors.Find(c.Kind)?.FilesGoTo is not null)
                        .Select(c => new NightlyDoor(
                            c.Id,
                            names[c.ClientId],
                            c.Name,
                            connectors.Of(c.Kind).FilesGoTo!
                        )),
                ]
            )
        );
    }

    private static async Task<Results<Created<NightlyRow>, ProblemHttpResult>> MakeAsync(
        NightlyToMake asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(asked.Client)
            || await db.ChosenAsync(scope, asked.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if ((asked.Name ?? "").Trim() is not { Length: > 0 and <= 60 } name)
            return Problems.Bad("name", "Give it a name of at most 60 characters.");
        if (TableFile.TypeOf(asked.Format) is null)
            return Problems.Bad("format", "Choose csv, xlsx or ndjson.");
        if (LocalTimePattern.CreateWithInvariantCulture("HH:mm").Parse(asked.At ?? "") is not { Success: true } at)
            return Problems.Bad("at", "Write the hour as 02:30.");
        if (asked.Columns is { Count: > 100 })
            return Problems.Bad("columns", "At most 100 columns.");
        var connection = await db
            .Connections.AsNoTracking()
            .SingleOrDefaultAsync(c => c.Id == asked.ConnectionId && c.ClientId == clientId, stop);
        if (connection is null || connectors.Find(connection.Kind) is not { FilesGoTo: not null } connector)
            return Problems.Bad("connectionId", "Choose a connection of this client that takes files.");
        var to = (asked.To ?? "").Trim();
        if (connector.FaultOfFilesTo(to) is { } fault)
            return Problems.Bad("to", fault);
        if (await db.NightlyFiles.CountAsync(f => f.ClientId == clientId, stop) >= MostOfClient)
            return Problems.NotNow.Because($"A client has at most {MostOfClient} of them. Take one out first.");
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var file = new NightlyFile
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Name = name,
            ConnectionId = connection.Id,
            To = to,
            Format = asked.Format!,
            Columns = asked.Columns ?? [],
            OfTheDay = asked.OfTheDay,
            At = at.Value,
            MadeBy = ClientAccess.UserId(http.User),
        };
        file.DueAt = NightlyExporter.NextOf(file, client.DateTimeZone(), time.Now());
        db.NightlyFiles.Add(file);
        await db.SaveChangesAsync(stop);
        signals.NightlyFiles.Pulse();
        await db.WakeAsync("nightly-files", stop);
        return TypedResults.Created($"/api/nightly-files/{file.Id}", Row(file, client.ShortName, connection.Name));
    }

    private static async Task<Results<Ok<NightlyRow>, ProblemHttpResult>> NowAsync(
        Guid fileId,
        AppDb db,
        NightlyExporter run,
        CancellationToken stop
    )
    {
        var file = await db.NightlyFiles.SingleOrDefaultAsync(f => f.Id == fileId, stop);
        if (file is null)
            return Problems.No("file");
        await run.SendAsync(file, stop);
        await db.SaveChangesAsync(stop);
        if (file.Fault is { } fault)
            return Problems.NotConnected.Because(fault);
        var client = await db
            .Clients.AsNoTracking()
            .Where(c => c.Id == file.ClientId)
            .Select(c => c.ShortName)
            .SingleAsync(stop);
        return TypedResults.Ok(
            Row(
                file,
                client,
                await db.Connections.Where(c => c.Id == file.ConnectionId).Select(c => c.Name).SingleAsync(stop)
            )
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(
        Guid fileId,
        AppDb db,
        CancellationToken stop
    ) =>
        await db.NightlyFiles.Where(f => f.Id == fileId).ExecuteDeleteAsync(stop) == 1
            ? TypedResults.NoContent()
            : Problems.No("file");

    private static NightlyRow Row(NightlyFile f, string client, string connection) =>
        new(
            f.Id,
            client,
            f.Name,
            connection,
            f.To,
            f.Format,
            f.Columns,
            f.OfTheDay,
            LocalTimePattern.CreateWithInvariantCulture("HH:mm").Format(f.At),
            f.DueAt,
            f.SentAt,
            f.Rows,
            f.Fault
        );
}

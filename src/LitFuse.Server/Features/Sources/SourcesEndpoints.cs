using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A source with its forms.</summary>
/// <param name="Offered">Forms found there and not chosen.</param>
public sealed record SourceRow(
    Guid Id,
    Guid ClientId,
    string Client,
    string Kind,
    string Name,
    string? Fault,
    ConnectionState? Access,
    Instant? ExpiresAt,
    Instant? LookedAt,
    int Refusals,
    int Offered,
    IReadOnlyList<FormRow> Forms
);

/// <summary>The sources of the clients chosen.</summary>
public sealed record SourceList(IReadOnlyList<SourceRow> Sources);

/// <summary>What was refused at a source.</summary>
public sealed record RefusalLine(
    string Code,
    string Detail,
    string Mend,
    string FromAddress,
    string? Form,
    Instant FirstAt,
    Instant LastAt,
    int Times
);

/// <summary>A permission, and whether it was given.</summary>
public sealed record PermissionGiven(string Key, string Name, string Without, bool Given);

/// <summary>Notices whose answers were not fetched.</summary>
public sealed record NoticeLine(NoticeStatus Status, int Count, string? Reason, Instant LastAt);

/// <summary>A source, whole.</summary>
/// <param name="SendTo">Where its sender is to send, where it sends to the source.</param>
/// <param name="HasKey">It has a key to be pasted at its sender.</param>
/// <param name="All">All its forms, those not chosen too.</param>
public sealed record SourceDetail(
    SourceRow Source,
    SourceKindCard Card,
    Guid? ConnectionId,
    string? Account,
    string? AccessFault,
    IReadOnlyList<PermissionGiven> Permissions,
    IReadOnlyList<ChosenPlace> Places,
    string? SendTo,
    bool HasKey,
    IReadOnlyList<FormRow> All,
    IReadOnlyList<FoundLine> Found,
    IReadOnlyList<RefusalLine> Refused,
    IReadOnlyList<NoticeLine> Notices
);

/// <summary>Something found about a form at its network.</summary>
public sealed record FoundLine(Guid FormId, string Form, Instant At, string Words);

/// <summary>What is to be connected.</summary>
public sealed record SourceToMake(string? Client, string? Kind, string? Name);

/// <summary>What was made.</summary>
public sealed record MadeSource(Guid Id);

/// <summary>A key, told to who may set sources up.</summary>
public sealed record SourceSecret(string Key);

/// <summary>The places that can be chosen.</summary>
public sealed record PlaceList(IReadOnlyList<ChosenPlace> Places);

/// <summary>The places chosen: none means all.</summary>
public sealed record PlacesToChoose(IReadOnlyList<string>? Ids);

/// <summary>The kinds of source there are.</summary>
public sealed record KindList(IReadOnlyList<SourceKindCard> Kinds);

/// <summary>Sources: what leads come from.</summary>
public static class SourcesEndpoints
{
    private const int MostRefusals = 30;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/source-kinds", static (SourceKinds kinds) =>
                TypedResults.Ok(new KindList([.. kinds.All.Select(k => k.Card)]))
            )
            .Needs(Act.SeeSources)
            .WithTags("Sources")
            .WithSummary("The ways in that there are, each with its guide");
        var sources = app.MapGroup("/api/sources").WithTags("Sources");
        sources.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Sources with their forms");
        sources.MapPost("/", MakeAsync).Needs(Act.EditSources).WithSummary("Connect a source that needs no consent");
        sources.MapGet("/{sourceId}", GetAsync).Needs(Act.SeeSources).WithSummary("A source, whole");
        sources
            .MapPost("/{sourceId}/refresh", RefreshAsync)
            .Needs(Act.EditSources)
            .WithSummary("Look at the network now: its access, its forms and their fields");
        sources
            .MapGet("/{sourceId}/places", PlacesAsync)
            .Needs(Act.SeeSources)
            .WithSummary("The pages or ad accounts that can be chosen");
        sources
            .MapPut("/{sourceId}/places", ChoosePlacesAsync)
            .Needs(Act.EditSources)
            .WithSummary("Choose pages or ad accounts; none means all");
        sources
            .MapGet("/{sourceId}/key", KeyAsync)
            .Needs(Act.EditSources)
            .WithSummary("The key to paste at the sender");
        sources
            .MapPost("/{sourceId}/key", NewKeyAsync)
            .Needs(Act.EditSources)
            .WithSummary("A new key; the old one is refused from now on");
    }

    private static async Task<Results<Ok<SourceList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(
            new SourceList(await RowsAsync(db, db.Sources.Where(s => clients.Contains(s.ClientId)), time.Now(), stop))
        );
    }

    private static async Task<Results<Created<MadeSource>, ProblemHttpResult>> MakeAsync(
        SourceToMake make,
        AppDb db,
        ClientScope scope,
        SourceKinds kinds,
        Secrets secrets,
        FormDirectory directory,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(make.Client)
            || await db.ChosenAsync(scope, make.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if (
            kinds.Find(make.Kind ?? "") is not { } kind
            || kind.Card.Access == AccessBy.Consent
            || !(kind.Card.MakesForms || kind.Card.Access == AccessBy.KeyOfOurs)
        )
            return Problems.Bad("kind", $"'{make.Kind}' is not made so; networks are connected by consent.");
        var name = (make.Name ?? "").Trim() is { Length: > 0 } given ? given : kind.Card.Name;
        if (name.Length > 80)
            return Problems.Bad("name", "Give it a name of at most 80 characters.");
        var keyed = kind.Card.Access == AccessBy.KeyOfOurs;
        var source = new Source
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Kind = kind.Card.Kind,
            Name = name,
            Key = keyed ? Keys.New() : null,
            Secret = keyed ? secrets.Seal(kind.NewSecret()) : null,
            MadeAt = time.Now(),
        };
        db.Sources.Add(source);
        db.NoteChange(clientId, ChangeKind.Source, source.Id);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.Created($"/api/sources/{source.Id}", new MadeSource(source.Id));
    }

    private static async Task<Results<Ok<SourceDetail>, ProblemHttpResult>> GetAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        PublicAddress address,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var source = await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        var now = time.Now();
        var card = kinds.Of(source.Kind).Card;
        var connection = source.ConnectionId is { } id
            ? await db.Connections.AsNoTracking().SingleAsync(c => c.Id == id, stop)
            : null;
        var row = (await RowsAsync(db, db.Sources.Where(s => s.Id == sourceId), now, stop))[0];
        var forms = db.Forms.Where(f => f.SourceId == sourceId);
        var names = await forms
            .AsNoTracking()
            .Select(f => new
            {
                f.Id,
                f.Name,
                f.News,
            })
            .ToListAsync(stop);
        var refused = await db
            .Refusals.AsNoTracking()
            .Where(r => r.SourceId == sourceId)
            .OrderByDescending(r => r.LastAt)
            .Take(MostRefusals)
            .ToListAsync(stop);
        var notices = await db
            .SourceNotices.Where(n => n.SourceId == sourceId && n.Status != NoticeStatus.Done)
            .GroupBy(n => new { n.Status, n.Reason })
            .Select(g => new NoticeLine(g.Key.Status, g.Count(), g.Key.Reason, g.Max(n => n.ToldAt)))
            .ToListAsync(stop);
        return TypedResults.Ok(
            new SourceDetail(
                row,
                card,
                source.ConnectionId,
                connection?.Account,
                connection?.Fault,
                [.. card.Permissions.Select(p => GivenOf(p, connection?.Granted.Contains(p.Key) == true))],
                source.Places,
                card.Access == AccessBy.KeyOfOurs ? $"{address.Url}/in/{source.Key}" : null,
                card.Access == AccessBy.KeyOfOurs,
                await db.RowsAsync(forms, now, stop),
                [
                    .. names
                        .SelectMany(f => f.News.Select(n => new FoundLine(f.Id, f.Name, n.At, n.Words)))
                        .OrderByDescending(n => n.At)
                        .Take(20),
                ],
                [.. refused.Select(r => LineOf(r, names.Find(f => f.Id == r.FormId)?.Name))],
                notices
            )
        );
    }

    private static PermissionGiven GivenOf(PermissionNeed need, bool given) =>
        new(need.Key, need.Name, need.Without, given);

    private static RefusalLine LineOf(Refusal refusal, string? form) =>
        new(
            refusal.Code,
            refusal.Detail,
            refusal.Mend,
            refusal.FromAddress,
            form,
            refusal.FirstAt,
            refusal.LastAt,
            refusal.Times
        );

    private static async Task<Results<NoContent, ProblemHttpResult>> RefreshAsync(
        Guid sourceId,
        AppDb db,
        NetworkLook look,
        CancellationToken stop
    )
    {
        var source = await db.Sources.SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (source.ConnectionId is null)
            return Problems.NotNow.Because($"{source.Name} is no network that could be looked at.");
        await look.LookAsync(source, stop);
        if (source.PollDueAt is not null)
            await PollNowAsync(db, source, stop);
        return TypedResults.NoContent();
    }

    private static async Task PollNowAsync(AppDb db, Source source, CancellationToken stop)
    {
        source.PollDueAt = source.LookedAt;
        await db.SaveChangesAsync(stop);
        await db.WakeAsync("polls", stop);
    }

    private static async Task<Results<Ok<PlaceList>, ProblemHttpResult>> PlacesAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        Secrets secrets,
        CancellationToken stop
    )
    {
        var source = await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (source.ConnectionId is null)
            return TypedResults.Ok(new PlaceList([]));
        var connection = await db.Connections.AsNoTracking().SingleAsync(c => c.Id == source.ConnectionId, stop);
        try
        {
            return TypedResults.Ok(
                new PlaceList(
                    await ((INetwork)kinds.Of(source.Kind)).PlacesAsync(NetworkLook.Open(connection, secrets), stop)
                )
            );
        }
        catch (NetworkTroubleException e)
        {
            return Problems.NotConnected.Because($"{source.Name} {e.Message}.");
        }
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ChoosePlacesAsync(
        Guid sourceId,
        PlacesToChoose chosen,
        AppDb db,
        SourceKinds kinds,
        Secrets secrets,
        NetworkLook look,
        CancellationToken stop
    )
    {
        var source = await db.Sources.SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (source.ConnectionId is null)
            return Problems.NotNow.Because($"{source.Name} has no parts to choose from.");
        var connection = await db.Connections.AsNoTracking().SingleAsync(c => c.Id == source.ConnectionId, stop);
        try
        {
            var all = await ((INetwork)kinds.Of(source.Kind)).PlacesAsync(NetworkLook.Open(connection, secrets), stop);
            if ((chosen.Ids ?? []).FirstOrDefault(id => !all.Any(p => p.Id == id)) is { } unknown)
                return Problems.Bad("ids", $"There is no '{unknown}' there.");
            source.Places = [.. all.Where(p => chosen.Ids?.Contains(p.Id) == true)];
        }
        catch (NetworkTroubleException e)
        {
            return Problems.NotConnected.Because($"{source.Name} {e.Message}.");
        }

        await look.LookAsync(source, stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<SourceSecret>, ProblemHttpResult>> KeyAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        Secrets secrets,
        CancellationToken stop
    )
    {
        var source = await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        return source.Secret is { } secret && kinds.Of(source.Kind).Card.Access == AccessBy.KeyOfOurs
            ? TypedResults.Ok(new SourceSecret(secrets.Open(secret)))
            : Problems.NotNow.Because($"{source.Name} has no key.");
    }

    private static async Task<Results<Ok<SourceSecret>, ProblemHttpResult>> NewKeyAsync(
        Guid sourceId,
        AppDb db,
        SourceKinds kinds,
        Secrets secrets,
        FormDirectory directory,
        CancellationToken stop
    )
    {
        var source = await db.Sources.SingleOrDefaultAsync(s => s.Id == sourceId, stop);
        if (source is null)
            return Problems.No("source");
        if (kinds.Of(source.Kind).Card.Access != AccessBy.KeyOfOurs)
            return Problems.NotNow.Because($"{source.Name} has no key.");
        var key = kinds.Of(source.Kind).NewSecret();
        source.Secret = secrets.Seal(key);
        await db.SaveChangesAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.Ok(new SourceSecret(key));
    }

    private static async Task<IReadOnlyList<SourceRow>> RowsAsync(
        AppDb db,
        IQueryable<Source> sources,
        Instant now,
        CancellationToken stop
    )
    {
        var found = await sources.AsNoTracking().OrderBy(s => s.Name).ToListAsync(stop);
        var ids = found.ConvertAll(s => s.Id);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var connections = await db.Connections.AsNoTracking().ToDictionaryAsync(c => c.Id, stop);
        var day = now - Duration.FromDays(1);
        var refusals = await db
            .Refusals.Where(r => ids.Contains(r.SourceId) && r.LastAt > day)
            .GroupBy(r => r.SourceId)
            .Select(g => new { g.Key, Sum = g.Sum(r => r.Times) })
            .ToDictionaryAsync(g => g.Key, g => g.Sum, stop);
        var offered = await db
            .Forms.Where(f => ids.Contains(f.SourceId) && f.State == FormState.Offered && f.ArchivedAt == null)
            .GroupBy(f => f.SourceId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        var forms = (
            await db.RowsAsync(db.Forms.Where(f => ids.Contains(f.SourceId) && f.State != FormState.Offered), now, stop)
        ).ToLookup(f => f.SourceId);
        return found.ConvertAll(s =>
        {
            var connection = s.ConnectionId is { } id ? connections[id] : null;
            return new SourceRow(
                s.Id,
                s.ClientId,
                clients[s.ClientId],
                s.Kind,
                s.Name,
                s.Fault ?? connection?.Fault,
                connection?.State,
                connection?.ExpiresAt,
                s.LookedAt,
                refusals.GetValueOrDefault(s.Id),
                offered.GetValueOrDefault(s.Id),
                [.. forms[s.Id]]
            );
        });
    }
}

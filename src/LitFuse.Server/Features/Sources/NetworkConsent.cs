using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>Which network to consent at, for which client; or which connection to renew.</summary>
public sealed record ConsentToAsk(string? Client, string? Kind, Guid? ConnectionId);

/// <summary>Where a person consents.</summary>
public sealed record ConsentPlace(string GoTo);

/// <summary>
/// Connecting a network by a person's consent (OAuth 2.0 authorization code, RFC 6749 §4.1, with PKCE, RFC 7636).
/// </summary>
public sealed class NetworkConsent(
    IDataProtectionProvider provider,
    SourceKinds kinds,
    Settings settings,
    PublicAddress address
)
{
    private static readonly TimeSpan GoodFor = TimeSpan.FromMinutes(15);
    private readonly SourceKinds kinds = kinds;
    private readonly Settings settings = settings;
    private readonly ITimeLimitedDataProtector protector = provider
        .CreateProtector("LitFuse.Consent.v1")
        .ToTimeLimitedDataProtector();

    private sealed record ConsentState(Guid ClientId, string Kind, Guid UserId, Guid? ConnectionId, string Verifier);

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/connections/consent", BeginAsync)
            .Needs(Act.EditSources)
            .WithTags("Connections")
            .WithSummary("Begin connecting a network: where its consent page is");
        app.MapGet("/connect/back", BackAsync).Needs(Act.EditSources).ExcludeFromDescription();
    }

    private static async Task<Results<Ok<ConsentPlace>, ProblemHttpResult>> BeginAsync(
        ConsentToAsk asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        NetworkConsent consent,
        CancellationToken stop
    )
    {
        var (kind, connectionId) = (asked.Kind ?? "", asked.ConnectionId);
        Guid clientId;
        if (connectionId is { } id)
        {
            var connection = await db.Connections.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, stop);
            if (connection is null)
                return Problems.No("connection");
            (clientId, kind) = (connection.ClientId, connection.Kind);
        }
        else
        {
            if (
                string.IsNullOrWhiteSpace(asked.Client)
                || await db.ChosenAsync(scope, asked.Client, stop) is not [var only]
            )
                return Problems.Bad("client", "Say for which client.");
            clientId = only;
        }

        if (consent.kinds.Find(kind) is not { Card.Access: AccessBy.Consent } found)
            return Problems.Bad("kind", $"'{kind}' is not connected by consent.");
        return TypedResults.Ok(
            new ConsentPlace(
                consent.PlaceFor(
                    found,
                    await db.Clients.Where(c => c.Id == clientId).Select(c => c.Name).SingleAsync(stop),
                    clientId,
                    ClientAccess.UserId(http.User)!.Value,
                    connectionId
                )
            )
        );
    }

    private string PlaceFor(SourceKind kind, string client, Guid clientId, Guid userId, Guid? connectionId)
    {
        var verifier = Keys.Secret() + Keys.Secret();
        var state = protector.Protect(
            JsonSerializer.Serialize(
                new ConsentState(clientId, kind.Card.Kind, userId, connectionId, verifier),
                CoreJson.Options
            ),
            GoodFor
        );
        return QueryHelpers.AddQueryString(
            new Uri(settings.NetworkUrl(kind.Card.Kind), ((INetwork)kind).Paths.Consent).ToString(),
            new Dictionary<string, string?>(StringComparer.Ordinal)
            {
                ["response_type"] = "code",
                ["client_id"] = settings.AppId,
                ["redirect_uri"] = address.Url + "/connect/back",
                ["scope"] = string.Join(' ', kind.Card.Permissions.Select(p => p.Key)),
                ["state"] = state,
                ["code_challenge"] = WebEncoders.Base64UrlEncode(SHA256.HashData(Encoding.ASCII.GetBytes(verifier))),
                ["code_challenge_method"] = "S256",
                // No parameter of the standard: a network that does not know it passes it over (RFC 6749 §3.1).
                ["for"] = client,
            }
        );
    }

    private static async Task<IResult> BackAsync(
        HttpContext http,
        AppDb db,
        ClientScope scope,
        NetworkConsent consent,
        NetworkHttp network,
        NetworkLook look,
        Secrets secrets,
        TimeProvider time,
        CancellationToken stop,
        string? state = null,
        string? code = null,
        string? error = null
    )
    {
        if (
            consent.Open(state, ClientAccess.UserId(http.User)!.Value) is not { } asked
            || !scope.Ids.Contains(asked.ClientId)
        )
            return Results.Redirect("/sources/new?told=stale");
        if (code is null)
            return Results.Redirect(
                $"/sources/new/{asked.Kind}?told={(error == "access_denied" ? "refused" : "broken")}"
            );
        var (kind, baseUrl) = (consent.kinds.Of(asked.Kind), consent.settings.NetworkUrl(asked.Kind));
        NetworkToken token;
        try
        {
            token = await network.ExchangeAsync(
                new Uri(baseUrl, ((INetwork)kind).Paths.Token),
                consent.Exchange(code, asked.Verifier),
                stop
            );
        }
        catch (NetworkTroubleException)
        {
            return Results.Redirect($"/sources/new/{asked.Kind}?told=broken");
        }

        var now = time.Now();
        var connection = asked.ConnectionId is { } id
            ? await db.Connections.SingleAsync(c => c.Id == id, stop)
            : Fresh(asked, kind, baseUrl, now);
        connection.Secret = secrets.Seal(token.AccessToken);
        if (asked.ConnectionId is null)
            db.Connections.Add(connection);
        await look.VerifyAsync(connection, stop);
        var source = await db.Sources.FirstOrDefaultAsync(s => s.ConnectionId == connection.Id, stop);
        if (source is null)
            db.Sources.Add(source = SourceOf(connection, kind, secrets, now));
        source.LookDueAt = now;
        if (source.PollDueAt is not null)
            source.PollDueAt = now;
        // What it never told us of while it could not be reached is on its own list.
        source.CompareDueAt = now;
        await db.SaveChangesAsync(stop);
        await look.LookAsync(source, stop);
        // What could not be fetched meanwhile is fetched now.
        await db
            .SourceNotices.Where(n => n.SourceId == source.Id && n.Status == NoticeStatus.Due)
            .ExecuteUpdateAsync(n => n.SetProperty(x => x.DueAt, now), stop);
        await db.WakeAsync("notices", stop);
        await db.WakeAsync("polls", stop);
        await db.WakeAsync("comparisons", stop);
        return Results.Redirect($"/sources/from/{source.Id}?told=connected");
    }

    private Dictionary<string, string> Exchange(string code, string verifier) =>
        new(StringComparer.Ordinal)
        {
            ["grant_type"] = "authorization_code",
            ["code"] = code,
            ["redirect_uri"] = address.Url + "/connect/back",
            ["client_id"] = settings.AppId,
            ["client_secret"] = settings.AppSecret,
            ["code_verifier"] = verifier,
        };

    private ConsentState? Open(string? state, Guid userId)
    {
        try
        {
            var asked = JsonSerializer.Deserialize<ConsentState>(protector.Unprotect(state ?? ""), CoreJson.Options);
            return asked?.UserId == userId ? asked : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    private static Connection Fresh(ConsentState asked, SourceKind kind, Uri baseUrl, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = asked.ClientId,
            Kind = kind.Card.Kind,
            Name = kind.Card.Name,
            BaseUrl = baseUrl.ToString(),
            MadeAt = now,
            MadeBy = asked.UserId,
        };

    private static Source SourceOf(Connection connection, SourceKind kind, Secrets secrets, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = connection.ClientId,
            Kind = connection.Kind,
            Name = connection.Name,
            ConnectionId = connection.Id,
            Key = Keys.New(),
            Secret = secrets.Seal(Keys.Signing()),
            MadeAt = now,
            PollDueAt = kind is IPolledNetwork ? now : null,
        };
}

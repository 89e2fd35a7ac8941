using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Adverts;

/// <summary>Access that a person gave.</summary>
public sealed record Granted(
    string Token,
    string App,
    IReadOnlySet<string> Permissions,
    IReadOnlyList<string> Places,
    DateTimeOffset? Until,
    bool Withdrawn
);

/// <summary>
/// Who was given access to what, and the consent page (OAuth 2.0 authorization code, RFC 6749, with PKCE, RFC 7636).
/// </summary>
/// <param name="service">As in the address.</param>
/// <param name="title">As people call it.</param>
/// <param name="placeWord">What its parts are called.</param>
/// <param name="permissions">Keys and words of what can be given.</param>
public sealed class AccessBook(
    string service,
    string title,
    string placeWord,
    IReadOnlyList<(string Key, string Words)> permissions,
    AdForms forms,
    Grounds grounds,
    TimeProvider time
)
{
    private readonly ConcurrentDictionary<string, Granted> byToken = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, (Granted Granted, string RedirectUri, string Challenge)> codes = new(
        StringComparer.Ordinal
    );

    /// <summary>Whose account it is.</summary>
    public const string Account = "Noor Abernathy-Voss, Quillon Street Media";

    /// <summary>Maps the consent page, the token endpoint and the list of those who have access.</summary>
    public void Map(WebApplication app)
    {
        app.MapGet(
            $"/{service}/consent",
            (
                string client_id,
                string redirect_uri,
                string? state,
                string? scope,
                string? code_challenge,
                [FromQuery(Name = "for")] string? client
            ) =>
                Asks(client_id, redirect_uri)
                    ? Paper.Page(
                        title,
                        Page(client_id, redirect_uri, state ?? "", scope ?? "", code_challenge ?? "", client ?? "")
                    )
                    : Results.BadRequest("This application is not known here, or its address is another.")
        );
        app.MapPost($"/{service}/consent", ([FromForm] IFormCollection given) => Answer(given)).DisableAntiforgery();
        app.MapPost($"/api/{service}/token", ([FromForm] IFormCollection given) => Exchange(given))
            .DisableAntiforgery();
        app.MapGet($"/{service}/access", () => Paper.Page(title, List()));
        app.MapPost($"/{service}/access/{{token}}/{{act}}", (string token, string act) =>
            {
                if (!byToken.TryGetValue(token, out var known))
                    return Results.NotFound();
                byToken[token] =
                    act == "withdraw" ? known with { Withdrawn = true } : known with { Until = time.GetUtcNow() };
                return Results.Redirect($"/{service}/access");
            })
            .DisableAntiforgery();
    }

    /// <summary>What a request may do; or the refusal.</summary>
    public (Granted? Granted, IResult? Refusal) Check(HttpContext http, string? permission)
    {
        var authorization = http.Request.Headers.Authorization.ToString();
        var token = authorization.StartsWith("Bearer ", StringComparison.Ordinal) ? authorization[7..] : "";
        var granted = token == grounds.TokenOf(service) ? Demo() : byToken.GetValueOrDefault(token);
        if (granted is null || granted.Withdrawn)
            return (null, Refuse(401, "access-withdrawn", "The access was taken back, or never was."));
        if (granted.Until <= time.GetUtcNow())
            return (null, Refuse(401, "access-expired", "The access ran out."));
        if (permission is not null && !granted.Permissions.Contains(permission))
            return (null, Refuse(403, "permission-missing", $"The permission “{permission}” was not given."));
        return (granted, null);
    }

    private Granted Demo() =>
        byToken.GetOrAdd(grounds.TokenOf(service), t =>
            new(
                t,
                "lit-fuse",
                permissions.Select(p => p.Key).ToHashSet(StringComparer.Ordinal),
                [.. forms.Places.Select(p => p.Id)],
                null,
                false
            )
        );

    private bool Asks(string app, string redirect) =>
        app == "lit-fuse" && redirect.StartsWith(grounds.ServerUrl + "/", StringComparison.Ordinal);

    private string Page(string app, string redirect, string state, string scope, string challenge, string client)
    {
        var asked = permissions.Where(p => scope.Split(' ').Contains(p.Key));
        return $"""
            <h1>May Lit Fuse come in?</h1><p>You are signed in to {title} as {Account}.</p>
            <form method="post" action="/{service}/consent">
            <input type="hidden" name="app" value="{Paper.Text(
                app
            )}"><input type="hidden" name="redirect" value="{Paper.Text(
                redirect
            )}"><input type="hidden" name="state" value="{Paper.Text(
                state
            )}"><input type="hidden" name="challenge" value="{Paper.Text(challenge)}">
            <fieldset><legend>To which {placeWord}s</legend>{string.Concat(
                forms.Places.Select(p =>
                    $"<p><label><input type=\"checkbox\" name=\"place\" value=\"{p.Id}\"{(Of(p.Name, client) ? " checked" : "")}> {Paper.Text(p.Name)}</label></p>"
                )
            )}</fieldset>
            <fieldset><legend>It may</legend>{string.Concat(
                asked.Select(p =>
                    $"<p><label><input type=\"checkbox\" name=\"may\" value=\"{p.Key}\" checked> {Paper.Text(p.Words)}</label></p>"
                )
            )}</fieldset>
            <p><label>For <select name="days"><option value="60">sixty days</option><option value="0.0007">one minute</option><option value="">ever</option></select></label></p>
            <p><button name="answer" value="allow">Allow</button> <button name="answer" value="refuse">Refuse</button></p></form>
            """;
    }

    // Whose pages the program asks for, where it says so: the others are left to be ticked.
    private static bool Of(string place, string client) =>
        client.Split(' ')[0] is { Length: > 0 } first && place.StartsWith(first, StringComparison.OrdinalIgnoreCase);

    private IResult Answer(IFormCollection given)
    {
        var (redirect, state) = (given["redirect"].ToString(), Uri.EscapeDataString(given["state"].ToString()));
        if (!Asks(given["app"].ToString(), redirect))
            return Results.BadRequest();
        if (given["answer"] == "refuse")
            return Results.Redirect($"{redirect}?error=access_denied&state={state}");
        DateTimeOffset? until = double.TryParse(
            given["days"],
            System.Globalization.CultureInfo.InvariantCulture,
            out var days
        )
            ? time.GetUtcNow().AddDays(days)
            : null;
        var code = New();
        codes[code] = (
            new(
                New(),
                given["app"].ToString(),
                given["may"].OfType<string>().ToHashSet(StringComparer.Ordinal),
                [.. given["place"].OfType<string>()],
                until,
                false
            ),
            redirect,
            given["challenge"].ToString()
        );
        return Results.Redirect($"{redirect}?code={code}&state={state}");
    }

    private IResult Exchange(IFormCollection given)
    {
        IResult Wrong(string why) =>
            Results.Json(new { error = "invalid_grant", error_description = why }, statusCode: 400);
        if (given["client_secret"] != grounds.TokenOf("app"))
            return Results.Json(
                new { error = "invalid_client", error_description = "The application's secret is not right." },
                statusCode: 401
            );
        if (!codes.TryRemove(given["code"].ToString(), out var kept))
            return Wrong("There is no such code, or it was used.");
        if (given["redirect_uri"] != kept.RedirectUri)
            return Wrong("The address is another.");
        var challenge = Convert
            .ToBase64String(SHA256.HashData(Encoding.ASCII.GetBytes(given["code_verifier"].ToString())))
            .TrimEnd('=')
            .Replace('+', '-')
            .Replace('/', '_');
        if (kept.Challenge.Length > 0 && challenge != kept.Challenge)
            return Wrong("The verifier does not fit.");
        byToken[kept.Granted.Token] = kept.Granted;
        return Results.Json(
            new
            {
                access_token = kept.Granted.Token,
                token_type = "Bearer",
                expires_in = kept.Granted.Until is { } until ? (long?)(until - time.GetUtcNow()).TotalSeconds : null,
                scope = string.Join(' ', kept.Granted.Permissions),
            }
        );
    }

    private string List()
    {
        Demo();
        string Row(Granted g) =>
            $"<tr><td>{Paper.Text(g.App)}</td><td>{Paper.Text(string.Join(", ", g.Permissions))}</td><td>{(g.Withdrawn ? "withdrawn" : g.Until is { } u ? (u <= time.GetUtcNow() ? "ran out" : $"until {u:d MMM HH:mm}") : "for ever")}</td><td><form method=\"post\" action=\"/{service}/access/{g.Token}/withdraw\"><button>Withdraw</button></form></td><td><form method=\"post\" action=\"/{service}/access/{g.Token}/expire\"><button>Let it run out</button></form></td></tr>";
        return $"<p><a href=\"/{service}\">{title}</a></p><h1>Who was let in</h1><table><tbody>{string.Concat(byToken.Values.Select(Row))}</tbody></table>";
    }

    private static IResult Refuse(int status, string code, string detail) =>
        Results.Json(new { code, detail }, statusCode: status, contentType: "application/problem+json");

    private static string New() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20));
}

using System.Collections.Concurrent;
using System.Security.Cryptography;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Access;

/// <summary>A token that somebody made for a program.</summary>
public sealed record ProgramToken(
    string Token,
    string Name,
    IReadOnlySet<string> May,
    DateTimeOffset? Until,
    bool Withdrawn
);

/// <summary>
/// A service's page where tokens for programs are made, with permissions given in part, and where they are taken back.
/// </summary>
/// <param name="service">As in the address.</param>
/// <param name="title">As people call it.</param>
/// <param name="account">Whose it is.</param>
/// <param name="permissions">Keys and words of what can be given.</param>
public sealed class TokenDesk(
    string service,
    string title,
    string account,
    IReadOnlyList<(string Key, string Words)> permissions,
    Grounds grounds,
    TimeProvider time
)
{
    private readonly ConcurrentDictionary<string, ProgramToken> tokens = new(StringComparer.Ordinal);

    /// <summary>Maps the page, and the question what a token may do.</summary>
    public void Map(WebApplication app)
    {
        app.MapGet($"/{service}/tokens", (string? made) => Paper.Page(title, Page(made)));
        app.MapPost($"/{service}/tokens", ([FromForm] IFormCollection given) =>
            {
                DateTimeOffset? until = double.TryParse(
                    given["days"],
                    System.Globalization.CultureInfo.InvariantCulture,
                    out var days
                )
                    ? time.GetUtcNow().AddDays(days)
                    : null;
                var token = $"{service}-{Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(12))}";
                tokens[token] = new(
                    token,
                    given["name"].ToString(),
                    given["may"].OfType<string>().ToHashSet(StringComparer.Ordinal),
                    until,
                    false
                );
                return Results.Redirect($"/{service}/tokens?made={token}");
            })
            .DisableAntiforgery();
        app.MapPost($"/{service}/tokens/{{token}}/{{act}}", (string token, string act) =>
            {
                if (!Known().TryGetValue(token, out var known))
                    return Results.NotFound();
                tokens[token] = act switch
                {
                    "withdraw" => known with { Withdrawn = true },
                    "expire" => known with { Until = time.GetUtcNow() },
                    _ => known with { Withdrawn = false, Until = null },
                };
                return Results.Redirect($"/{service}/tokens");
            })
            .DisableAntiforgery();
        app.MapGet($"/api/{service}/me", (HttpContext http) => Refusal(http, null)
            ?? Results.Ok(
                new
                {
                    account,
                    permissions = Of(http)!.May,
                    until = Of(http)!.Until,
                }
            ));
    }

    /// <summary>Why a call may not do this, or <c>null</c>.</summary>
    public IResult? Refusal(HttpContext http, string? permission)
    {
        var token = Of(http);
        if (token is null || token.Withdrawn)
            return Results.Problem("The token is not known, or was taken back.", statusCode: 401);
        if (token.Until <= time.GetUtcNow())
            return Results.Problem("The token ran out.", statusCode: 401);
        return permission is null || token.May.Contains(permission)
            ? null
            : Results.Problem($"The token “{token.Name}” may not use {permission}.", statusCode: 403);
    }

    private ProgramToken? Of(HttpContext http) =>
        http.Request.Headers.Authorization.ToString() is ['B', 'e', 'a', 'r', 'e', 'r', ' ', .. var token]
            ? Known().GetValueOrDefault(token)
            : null;

    private ConcurrentDictionary<string, ProgramToken> Known()
    {
        tokens.GetOrAdd(grounds.TokenOf(service), t =>
            new(t, "Lit Fuse", permissions.Select(p => p.Key).ToHashSet(StringComparer.Ordinal), null, false)
        );
        return tokens;
    }

    private string Page(string? made)
    {
        string Row(ProgramToken t) =>
            $"<tr><td>{Paper.Text(t.Name)}</td><td>{Paper.Text(string.Join(", ", t.May))}</td><td>{(t.Withdrawn ? "taken back" : t.Until is { } u ? (u <= time.GetUtcNow() ? "ran out" : $"until {u:d MMM HH:mm}") : "for ever")}</td>{Act(t, "withdraw", "Take back")}{Act(t, "expire", "Let it run out")}{Act(t, "renew", "Renew")}</tr>";
        string Act(ProgramToken t, string act, string words) =>
            $"<td><form method=\"post\" action=\"/{service}/tokens/{t.Token}/{act}\"><button>{words}</button></form></td>";
        return $"""
            <h1>Tokens for programs</h1><p>{Paper.Text(title)} of {Paper.Text(account)}</p>
            {(
                made is null
                    ? ""
                    : $"<p role=\"status\">The new token, shown once: <code id=\"token\">{Paper.Text(made)}</code></p>"
            )}
            <form method="post" action="/{service}/tokens"><p><label>For what <input name="name" value="Lit Fuse" required></label></p>
            <fieldset><legend>It may</legend>{string.Concat(
                permissions.Select(p =>
                    $"<p><label><input type=\"checkbox\" name=\"may\" value=\"{p.Key}\" checked> {Paper.Text(p.Words)}</label></p>"
                )
            )}</fieldset>
            <p><label>For <select name="days"><option value="">ever</option><option value="60">sixty days</option><option value="0.0007">one minute</option></select></label> <button>Make a token</button></p></form>
            <table><tbody>{string.Concat(Known().Values.Select(Row))}</tbody></table>
            """;
    }
}

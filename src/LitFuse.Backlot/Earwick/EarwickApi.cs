using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Earwick;

/// <summary>An event as it was heard.</summary>
/// <param name="Mode">How it was written: <c>structured</c> or <c>binary</c>.</param>
/// <param name="Proof">What its signature is worth.</param>
/// <param name="Times">How often it came.</param>
public sealed record HeardEvent(
    string Id,
    string Type,
    string? Subject,
    string? Source,
    string? Time,
    string Mode,
    string Proof,
    string Data,
    int Signatures,
    int Times,
    DateTimeOffset At
);

/// <summary>
/// Earwick: a program of a client's own, which hears signed events (CloudEvents 1.0, Standard Webhooks) and takes each
/// once.
/// </summary>
public sealed class Ear(TimeProvider time)
{
    private readonly ConcurrentDictionary<string, HeardEvent> heard = new(StringComparer.Ordinal);

    /// <summary>The secret that it checks with; empty: it checks nothing.</summary>
    public string Secret { get; set; } = "";

    /// <summary>Newest first.</summary>
    public IReadOnlyList<HeardEvent> Heard => [.. heard.Values.OrderByDescending(h => h.At)];

    /// <summary>Maps its door and its page.</summary>
    public static void Map(WebApplication app)
    {
        app.MapPost("/api/earwick/events", async (HttpContext http, Ear ear) =>
        {
            using var body = new MemoryStream();
            await http.Request.Body.CopyToAsync(body, http.RequestAborted);
            return ear.Take(http.Request.Headers, http.Request.ContentType ?? "", body.ToArray());
        });
        app.MapGet("/api/seen/earwick/events", (Ear ear) => ear.Heard);
        app.MapGet("/earwick", (Ear ear, Grounds grounds) =>
            Paper.Page("Earwick", ear.Page(grounds), refresh: "heard")
        );
        app.MapPost("/earwick", ([FromForm] IFormCollection given, Ear ear) =>
            {
                ear.Secret = given["secret"].ToString().Trim();
                return Results.Redirect("/earwick");
            })
            .DisableAntiforgery();
    }

    private IResult Take(IHeaderDictionary headers, string type, byte[] body)
    {
        var proof = ProofOf(headers, body);
        if (proof == "wrong")
            return Results.Problem("The signature does not fit the secret.", statusCode: 401);
        JsonElement json;
        try
        {
            json = JsonDocument.Parse(body).RootElement;
        }
        catch (JsonException)
        {
            return Results.Problem("That is no JSON.", statusCode: 400);
        }

        var structured = type.StartsWith("application/cloudevents+json", StringComparison.OrdinalIgnoreCase);
        string? Of(string name) =>
            structured ? (json.TryGetProperty(name, out var v) ? v.GetString() : null)
            : headers.TryGetValue("ce-" + name, out var h) ? Uri.UnescapeDataString(h.ToString())
            : null;
        if (
            Of("specversion") != "1.0"
            || Of("id") is not { Length: > 0 } id
            || Of("type") is not { Length: > 0 } kind
            || Of("source") is null
        )
            return Results.Problem("That is no CloudEvent 1.0.", statusCode: 400);
        if (kind == "ping")
            return Results.NoContent();
        var data = structured ? (json.TryGetProperty("data", out var d) ? d.GetRawText() : "") : json.GetRawText();
        var signatures = headers["webhook-signature"]
            .ToString()
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Length;
        heard.AddOrUpdate(
            id,
            _ =>
                new(
                    id,
                    kind,
                    Of("subject"),
                    Of("source"),
                    Of("time"),
                    structured ? "structured" : "binary",
                    proof,
                    data,
                    signatures,
                    1,
                    time.GetUtcNow()
                ),
            (_, before) => before with { Times = before.Times + 1 }
        );
        return Results.NoContent();
    }

    private string ProofOf(IHeaderDictionary headers, byte[] body)
    {
        if (Secret.Length == 0)
            return "not checked";
        if (
            !long.TryParse(headers["webhook-timestamp"], NumberStyles.None, CultureInfo.InvariantCulture, out var stamp)
            || Math.Abs(time.GetUtcNow().ToUnixTimeSeconds() - stamp) > 300
        )
            return "wrong";
        var key = Secret.StartsWith("whsec_", StringComparison.Ordinal)
            ? Convert.FromBase64String(Secret[6..])
            : Encoding.UTF8.GetBytes(Secret);
        var right =
            "v1,"
            + Convert.ToBase64String(
                HMACSHA256.HashData(
                    key,
                    (byte[])
                        [.. Encoding.UTF8.GetBytes($"{headers["webhook-id"]}.{headers["webhook-timestamp"]}."), .. body]
                )
            );
        return headers["webhook-signature"].ToString().Split(' ').Contains(right) ? "right" : "wrong";
    }

    private string Page(Grounds grounds)
    {
        var rows = Heard
            .Take(100)
            .Select(h =>
                $"<tr><td>{Paper.Text(h.Type)}</td><td>{Paper.Text(h.Mode)}</td><td>{Paper.Text(h.Proof)}</td><td>{h.Times}</td><td><pre>{Paper.Text(h.Data.Length > 1500 ? h.Data[..1500] : h.Data)}</pre></td></tr>"
            );
        return $"""
            <h1>A program of one's own, which hears events</h1><p>It hears at <code id="address">{grounds.Url}/api/earwick/events</code></p>
            <form method="post" action="/earwick"><p><label>Checks signatures with <input name="secret" size="60" value="{Paper.Text(
                Secret
            )}" placeholder="nothing: it checks none"></label> <button>Keep it</button></p></form>
            <section id="heard"><table><thead><tr><th>type</th><th>written</th><th>signature</th><th>times</th><th>data</th></tr></thead><tbody>{string.Concat(
                rows.DefaultIfEmpty("<tr><td colspan=\"5\">Nothing yet.</td></tr>")
            )}</tbody></table></section>
            """;
    }
}

using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using System.Threading.Channels;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Copperline;

/// <summary>A text.</summary>
/// <param name="Status"><c>accepted</c>, then <c>delivered</c>.</param>
public sealed record TextMessage(string Id, string From, string To, string Text, DateTimeOffset At, string Status, DateTimeOffset? DeliveredAt, string? IdempotencyKey);

/// <summary>What a caller wants sent.</summary>
public sealed record TextToSend(string? From, string? To, string? Text, string? NoticesTo);

/// <summary>The carrier: takes texts, brings them to phones a moment later, and tells who sent them.</summary>
public sealed class Carrier(TimeProvider time, Caller caller, Grounds grounds, FaultBoard faults) : BackgroundService
{
    private static readonly TimeSpan Air = TimeSpan.FromMilliseconds(400);
    private readonly ConcurrentDictionary<string, TextMessage> byId = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> byKey = new(StringComparer.Ordinal);
    private readonly Channel<(string Id, string? NoticesTo)> onAir = Channel.CreateUnbounded<(string, string?)>();
    private int count;

    /// <summary>Takes a text, once per key.</summary>
    public TextMessage Take(TextToSend text, string? key)
    {
        var id = string.Create(CultureInfo.InvariantCulture, $"text-{Interlocked.Increment(ref count):000000}");
        var taken = key is null ? id : byKey.GetOrAdd(key, id);
        if (taken != id) return byId[taken];
        var message = byId[id] = new(id, text.From ?? "", text.To!, text.Text!, time.GetUtcNow(), "accepted", null, key);
        onAir.Writer.TryWrite((id, text.NoticesTo));
        return message;
    }

    /// <summary>Texts to a number, or all, oldest first. Numbers are compared by their digits.</summary>
    public IReadOnlyList<TextMessage> To(string? number)
    {
        var digits = Digits(number);
        return byId.Values.Where(m => digits.Length == 0 || Digits(m.To) == digits).OrderBy(m => m.Id, StringComparer.Ordinal).ToList();
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var (id, noticesTo) in onAir.Reader.ReadAllAsync(stoppingToken)) _ = BringAsync(id, noticesTo, stoppingToken);
    }

    private async Task BringAsync(string id, string? noticesTo, CancellationToken stop)
    {
        await Task.Delay(Air, time, stop);
        var message = byId[id] = byId[id] with { Status = "delivered", DeliveredAt = time.GetUtcNow() };
        if (noticesTo is null) return;
        var body = JsonSerializer.SerializeToUtf8Bytes(new { type = "text.delivered", id, at = message.DeliveredAt!.Value.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture) });
        var times = faults.Of("copperline").Repeat ? 2 : 1;
        for (var i = 0; i < times; i++) await caller.TellAsync(new(noticesTo, $"{id}-delivered", body, grounds.TokenOf("copperline-notices")), stop);
    }

    private static string Digits(string? number) => string.Concat((number ?? "").Where(char.IsAsciiDigit));
}

/// <summary>Copperline's API and screen.</summary>
public static class CopperlineApi
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/copperline/messages", (Carrier carrier, string? to) => carrier.To(to));
        app.MapPost("/api/copperline/messages", (TextToSend text, HttpContext http, Carrier carrier, Grounds grounds, FaultBoard faults) =>
        {
            if (http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("copperline")) return Results.Problem("The token is not right.", statusCode: 401);
            if (string.IsNullOrWhiteSpace(text.Text)) return Results.Problem("There is no text.", statusCode: 422);
            if (text.To is not ['+', .. { Length: >= 7 and <= 15 } rest] || !rest.All(char.IsAsciiDigit)) return Results.Problem($"'{text.To}' is not a number in E.164.", statusCode: 422);
            var key = faults.Of("copperline").IgnoreKeys ? null : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
            return Results.Ok(carrier.Take(text, key));
        });
        app.MapGet("/copperline", (Carrier carrier, string? phone) => Paper.Page("Copperline", Screen(carrier, phone), refresh: "phone"));
    }

    private static string Screen(Carrier carrier, string? phone)
    {
        var all = carrier.To(null);
        var shown = phone ?? all.LastOrDefault()?.To;
        var phones = all.GroupBy(m => m.To).OrderByDescending(g => g.Max(m => m.At)).Take(60)
            .Select(g => $"<li><a href=\"/copperline?phone={Uri.EscapeDataString(g.Key)}\"{(g.Key == shown ? " aria-current=\"page\"" : "")}>{Paper.Text(g.Key)}</a> <span>{g.Count()}</span></li>");
        var texts = shown is null ? [] : carrier.To(shown).TakeLast(50).Select(m => $"<article><h2>from {Paper.Text(m.From)} <time>{m.At:HH:mm:ss.fff}</time></h2><p>{Paper.Text(m.Text)}</p><p class=\"small\">{Paper.Text(m.Status)}{(m.DeliveredAt is { } d ? $" {d:HH:mm:ss.fff}" : "")}</p></article>");
        return $"<div class=\"two\"><nav aria-label=\"Phones\"><ul>{string.Concat(phones.DefaultIfEmpty("<li>No phone has had a text yet.</li>"))}</ul></nav><section id=\"phone\" aria-live=\"polite\"><h1>The phone {Paper.Text(shown ?? "")}</h1><div class=\"handset\">{string.Concat(texts.DefaultIfEmpty("<p>Nothing yet.</p>"))}</div></section></div>";
    }
}

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

/// <summary>A call: it rings for a while, and somebody answers or not.</summary>
/// <param name="Status"><c>ringing</c>, then <c>answered</c> or <c>unanswered</c>.</param>
public sealed record PhoneCall(string Id, string From, string To, string Say, DateTimeOffset At, string Status, string? IdempotencyKey);

/// <summary>A call that a caller wants made.</summary>
public sealed record CallToMake(string? From, string? To, string? Say, string? NoticesTo);

/// <summary>A text that the holder of a phone writes.</summary>
public sealed record TextToWrite(string? To, string? Text);

/// <summary>What a caller wants sent.</summary>
public sealed record TextToSend(string? From, string? To, string? Text, string? NoticesTo);

/// <summary>The carrier: takes texts, brings them to phones a moment later, and tells who sent them.</summary>
public sealed class Carrier(TimeProvider time, Caller caller, Grounds grounds, FaultBoard faults) : BackgroundService
{
    private static readonly TimeSpan Air = TimeSpan.FromMilliseconds(400);
    private readonly ConcurrentDictionary<string, TextMessage> byId = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> byKey = new(StringComparer.Ordinal);
    private readonly Channel<(string Id, string? NoticesTo)> onAir = Channel.CreateUnbounded<(string, string?)>();
    private readonly ConcurrentDictionary<string, PhoneCall> calls = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> callsByKey = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> noticesOf = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> callNotices = new(StringComparer.Ordinal);
    private int count;

    /// <summary>How long a phone rings.</summary>
    public static readonly TimeSpan Rings = TimeSpan.FromSeconds(20);

    /// <summary>Calls to a number, or all, oldest first.</summary>
    public IReadOnlyList<PhoneCall> CallsTo(string? number)
    {
        var digits = Digits(number);
        return calls.Values.Where(c => digits.Length == 0 || Digits(c.To) == digits).OrderBy(c => c.Id, StringComparer.Ordinal).ToList();
    }

    /// <summary>Rings a phone, once per key.</summary>
    public PhoneCall Ring(CallToMake call, string? key)
    {
        var id = string.Create(CultureInfo.InvariantCulture, $"call-{Interlocked.Increment(ref count):000000}");
        var taken = key is null ? id : callsByKey.GetOrAdd(key, id);
        if (taken != id) return calls[taken];
        if (call.NoticesTo is { } to) callNotices[id] = to;
        calls[id] = new(id, call.From ?? "", call.To!, call.Say ?? "", time.GetUtcNow(), "ringing", key);
        _ = RingOutAsync(id);
        return calls[id];
    }

    /// <summary>Somebody takes the call, or turns it away.</summary>
    public async Task<bool> PickUpAsync(string id, bool answers)
    {
        if (!calls.TryGetValue(id, out var call) || call.Status != "ringing") return false;
        var next = call with { Status = answers ? "answered" : "unanswered" };
        if (!calls.TryUpdate(id, next, call)) return false;
        if (callNotices.TryGetValue(id, out var to)) await TellAsync(to, $"{id}-{next.Status}", new { type = "call." + next.Status, id, at = Stamp(time.GetUtcNow()) }, CancellationToken.None);
        return true;
    }

    /// <summary>Brings a text from a phone to whoever has the number it is written to.</summary>
    public async Task<TextMessage?> WriteAsync(string from, string to, string text, CancellationToken stop)
    {
        if (!noticesOf.TryGetValue(Digits(to), out var noticesTo)) return null;
        var id = string.Create(CultureInfo.InvariantCulture, $"text-{Interlocked.Increment(ref count):000000}");
        var message = byId[id] = new(id, from, to, text, time.GetUtcNow(), "delivered", time.GetUtcNow(), null);
        await TellAsync(noticesTo, $"{id}-received", new { type = "text.received", id, from, to, text, at = Stamp(message.At) }, stop);
        return message;
    }

    /// <summary>Texts that a phone sent or got, oldest first.</summary>
    public IReadOnlyList<TextMessage> Of(string number)
    {
        var digits = Digits(number);
        return byId.Values.Where(m => Digits(m.To) == digits || Digits(m.From) == digits).OrderBy(m => m.Id, StringComparer.Ordinal).ToList();
    }

    /// <summary>Takes a text, once per key.</summary>
    public TextMessage Take(TextToSend text, string? key)
    {
        var id = string.Create(CultureInfo.InvariantCulture, $"text-{Interlocked.Increment(ref count):000000}");
        var taken = key is null ? id : byKey.GetOrAdd(key, id);
        if (taken != id) return byId[taken];
        var message = byId[id] = new(id, text.From ?? "", text.To!, text.Text!, time.GetUtcNow(), "accepted", null, key);
        if (text is { From: { } sender, NoticesTo: { } noticesTo }) noticesOf[Digits(sender)] = noticesTo;
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
        await TellAsync(noticesTo, $"{id}-delivered", new { type = "text.delivered", id, at = Stamp(message.DeliveredAt!.Value) }, stop);
    }

    private async Task RingOutAsync(string id)
    {
        await Task.Delay(Rings, time);
        await PickUpAsync(id, answers: false);
    }

    private async Task TellAsync(string noticesTo, string id, object notice, CancellationToken stop)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(notice);
        var times = faults.Of("copperline").Repeat ? 2 : 1;
        for (var i = 0; i < times; i++) await caller.TellAsync(new(noticesTo, id, body, grounds.TokenOf("copperline-notices")), stop);
    }

    private static string Stamp(DateTimeOffset at) => at.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture);

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
        app.MapGet("/api/copperline/account", (HttpContext http, Grounds grounds) => http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("copperline") ? Results.Problem("The token is not right.", statusCode: 401) : Results.Ok(new { Name = "Quillon Street Media" }));
        app.MapGet("/api/copperline/calls", (Carrier carrier, string? to) => carrier.CallsTo(to));
        app.MapPost("/api/copperline/calls", (CallToMake call, HttpContext http, Carrier carrier, Grounds grounds, FaultBoard faults) =>
        {
            if (http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("copperline")) return Results.Problem("The token is not right.", statusCode: 401);
            if (call.To is not ['+', .. { Length: >= 7 and <= 15 } rest] || !rest.All(char.IsAsciiDigit)) return Results.Problem($"'{call.To}' is not a number in E.164.", statusCode: 422);
            var key = faults.Of("copperline").IgnoreKeys ? null : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
            return Results.Ok(carrier.Ring(call, key));
        });
        app.MapPost("/api/copperline/calls/{id}/{how}", async (string id, string how, Carrier carrier) => how is "answer" or "decline" && await carrier.PickUpAsync(id, how == "answer") ? Results.NoContent() : Results.NotFound());
        app.MapPost("/api/copperline/phones/{number}/texts", async (string number, TextToWrite text, Carrier carrier, CancellationToken stop) =>
            text is not { To: { Length: > 0 } to, Text: { Length: > 0 } words } ? Results.Problem("Say to whom, and what.", statusCode: 422)
            : await carrier.WriteAsync(number, to, words, stop) is { } sent ? Results.Ok(sent) : Results.Problem($"Nobody has written from {to} yet, so nobody is there.", statusCode: 404));
        app.MapPost("/copperline", async (HttpContext http, Carrier carrier, CancellationToken stop) =>
        {
            var form = await http.Request.ReadFormAsync(stop);
            var phone = form["phone"].ToString();
            if (form["call"].ToString() is { Length: > 0 } call) await carrier.PickUpAsync(call, form["how"] == "answer");
            else if (form["text"].ToString() is { Length: > 0 } text) await carrier.WriteAsync(phone, form["to"].ToString(), text, stop);
            return Results.Redirect("/copperline?phone=" + Uri.EscapeDataString(phone));
        }).DisableAntiforgery();
        app.MapGet("/copperline", (Carrier carrier, string? phone) => Paper.Page("Copperline", Screen(carrier, phone), refresh: "phone"));
    }

    private static string Screen(Carrier carrier, string? phone)
    {
        // The phones of people: numbers that services write from are not among them.
        var all = carrier.To(null);
        var services = all.Where(m => m.IdempotencyKey is not null).Select(m => m.From).Concat(carrier.CallsTo(null).Select(c => c.From)).ToHashSet(StringComparer.Ordinal);
        var numbers = all.SelectMany(m => new[] { (Number: m.From, m.At), (Number: m.To, m.At) }).Concat(carrier.CallsTo(null).Select(c => (Number: c.To, c.At))).Where(n => !services.Contains(n.Number));
        var known = numbers.GroupBy(n => n.Number).OrderByDescending(g => g.Max(n => n.At)).Take(60).ToList();
        var shown = phone ?? known.FirstOrDefault()?.Key;
        var phones = known.Select(g => $"<li><a href=\"/copperline?phone={Uri.EscapeDataString(g.Key)}\"{(g.Key == shown ? " aria-current=\"page\"" : "")}>{Paper.Text(g.Key)}</a> <span>{g.Count()}</span></li>");
        return $"<div class=\"two\"><nav aria-label=\"Phones\"><ul>{string.Concat(phones.DefaultIfEmpty("<li>No phone has had a text yet.</li>"))}</ul></nav><section><div id=\"phone\" aria-live=\"polite\"><h1>The phone {Paper.Text(shown ?? "")}</h1>{(shown is null ? "" : Handset(carrier, shown))}</div><div id=\"answer\">{(shown is null ? "" : Answer(carrier, shown))}</div></section></div>";
    }

    private static string Handset(Carrier carrier, string phone)
    {
        var calls = carrier.CallsTo(phone).TakeLast(5).Select(c => c.Status == "ringing"
            ? $"<article><h2>RINGING: {Paper.Text(c.From)} <time>{c.At:HH:mm:ss}</time></h2><p>“{Paper.Text(c.Say)}”</p><form method=\"post\" action=\"/copperline\"><input type=\"hidden\" name=\"phone\" value=\"{Paper.Text(phone)}\"><input type=\"hidden\" name=\"call\" value=\"{Paper.Text(c.Id)}\"><button name=\"how\" value=\"answer\">Answer</button> <button name=\"how\" value=\"decline\">Decline</button></form></article>"
            : $"<article><h2>call from {Paper.Text(c.From)} <time>{c.At:HH:mm:ss}</time></h2><p>“{Paper.Text(c.Say)}”</p><p class=\"small\">{Paper.Text(c.Status)}</p></article>");
        var texts = carrier.Of(phone).TakeLast(50).Select(m => $"<article><h2>{(m.From == phone ? $"to {Paper.Text(m.To)}" : $"from {Paper.Text(m.From)}")} <time>{m.At:HH:mm:ss.fff}</time></h2><p>{Paper.Text(m.Text)}</p><p class=\"small\">{Paper.Text(m.Status)}{(m.DeliveredAt is { } d ? $" {d:HH:mm:ss.fff}" : "")}</p></article>");
        return $"<div class=\"handset\">{string.Concat(texts.Concat(calls).DefaultIfEmpty("<p>Nothing yet.</p>"))}</div>";
    }

    private static string Answer(Carrier carrier, string phone)
    {
        var last = carrier.To(phone).LastOrDefault()?.From;
        return last is null ? "" : $"<form method=\"post\" action=\"/copperline\"><input type=\"hidden\" name=\"phone\" value=\"{Paper.Text(phone)}\"><input type=\"hidden\" name=\"to\" value=\"{Paper.Text(last)}\"><label>Write back to {Paper.Text(last)}<br><textarea name=\"text\" rows=\"2\" cols=\"40\" required></textarea></label><br><button>Send</button></form>";
    }
}

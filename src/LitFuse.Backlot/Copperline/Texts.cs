using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using System.Threading.Channels;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Copperline;

/// <summary>A text.</summary>
/// <param name="Status"><c>accepted</c>, then <c>delivered</c>.</param>
public sealed record TextMessage(
    string Id,
    string From,
    string To,
    string Text,
    DateTimeOffset At,
    string Status,
    DateTimeOffset? DeliveredAt,
    string? IdempotencyKey
);

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
    private readonly ConcurrentDictionary<string, string> noticesOf = new(StringComparer.Ordinal);
    private int count;

    /// <summary>Brings a text from a phone to whoever has the number it is written to.</summary>
    public async Task<TextMessage?> WriteAsync(string from, string to, string text, CancellationToken stop)
    {
        if (!noticesOf.TryGetValue(Digits(to), out var noticesTo))
            return null;
        var id = string.Create(CultureInfo.InvariantCulture, $"text-{Interlocked.Increment(ref count):000000}");
        var message = byId[id] = new(id, from, to, text, time.GetUtcNow(), "delivered", time.GetUtcNow(), null);
        await TellAsync(
            noticesTo,
            $"{id}-received",
            new
            {
                type = "text.received",
                id,
                from,
                to,
                text,
                at = Stamp(message.At),
            },
            stop
        );
        return message;
    }

    /// <summary>Texts that a phone sent or got, oldest first.</summary>
    public IReadOnlyList<TextMessage> Of(string number)
    {
        var digits = Digits(number);
        return byId
            .Values.Where(m => Digits(m.To) == digits || Digits(m.From) == digits)
            .OrderBy(m => m.Id, StringComparer.Ordinal)
            .ToList();
    }

    /// <summary>Takes a text, once per key.</summary>
    public TextMessage Take(TextToSend text, string? key)
    {
        var id = string.Create(CultureInfo.InvariantCulture, $"text-{Interlocked.Increment(ref count):000000}");
        var taken = key is null ? id : byKey.GetOrAdd(key, id);
        if (taken != id)
            return byId[taken];
        var message = byId[id] = new(
            id,
            text.From ?? "",
            text.To!,
            text.Text!,
            time.GetUtcNow(),
            "accepted",
            null,
            key
        );
        if (text is { From: { } sender, NoticesTo: { } noticesTo })
            noticesOf[Digits(sender)] = noticesTo;
        onAir.Writer.TryWrite((id, text.NoticesTo));
        return message;
    }

    /// <summary>Texts to a number, or all, oldest first. Numbers are compared by their digits.</summary>
    public IReadOnlyList<TextMessage> To(string? number)
    {
        var digits = Digits(number);
        return byId
            .Values.Where(m => digits.Length == 0 || Digits(m.To) == digits)
            .OrderBy(m => m.Id, StringComparer.Ordinal)
            .ToList();
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var (id, noticesTo) in onAir.Reader.ReadAllAsync(stoppingToken))
            _ = BringAsync(id, noticesTo, stoppingToken);
    }

    private async Task BringAsync(string id, string? noticesTo, CancellationToken stop)
    {
        await Task.Delay(Air, time, stop);
        var message = byId[id] = byId[id] with { Status = "delivered", DeliveredAt = time.GetUtcNow() };
        if (noticesTo is null)
            return;
        await TellAsync(
            noticesTo,
            $"{id}-delivered",
            new
            {
                type = "text.delivered",
                id,
                at = Stamp(message.DeliveredAt!.Value),
            },
            stop
        );
    }

    private async Task TellAsync(string noticesTo, string id, object notice, CancellationToken stop)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(notice);
        var times = faults.Of("copperline").Repeat ? 2 : 1;
        for (var i = 0; i < times; i++)
            await caller.TellAsync(new(noticesTo, id, body, grounds.TokenOf("copperline-notices")), stop);
    }

    /// <summary>A moment as notices write it.</summary>
    public static string Stamp(DateTimeOffset at) =>
        at.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture);

    /// <summary>A number by its digits.</summary>
    public static string Digits(string? number) => string.Concat((number ?? "").Where(char.IsAsciiDigit));
}

/// <summary>The part of Copperline's API that is about texts.</summary>
public static class TextsApi
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/copperline/messages", (Carrier carrier, string? to) => carrier.To(to));
        app.MapPost(
            "/api/copperline/messages",
            (TextToSend text, HttpContext http, Carrier carrier, Grounds grounds, FaultBoard faults) =>
            {
                if (http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("copperline"))
                    return Results.Problem("The token is not right.", statusCode: 401);
                if (string.IsNullOrWhiteSpace(text.Text))
                    return Results.Problem("There is no text.", statusCode: 422);
                if (text.To is not ['+', .. { Length: >= 7 and <= 15 } rest] || !rest.All(char.IsAsciiDigit))
                    return Results.Problem($"'{text.To}' is not a number in E.164.", statusCode: 422);
                var key = faults.Of("copperline").IgnoreKeys
                    ? null
                    : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
                return Results.Ok(carrier.Take(text, key));
            }
        );
        app.MapGet("/api/copperline/account", (HttpContext http, Grounds grounds) =>
            http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("copperline")
                ? Results.Problem("The token is not right.", statusCode: 401)
                : Results.Ok(new { Name = "Quillon Street Media" })
        );
        app.MapPost(
            "/api/copperline/phones/{number}/texts",
            async (string number, TextToWrite text, Carrier carrier, CancellationToken stop) =>
                text is not { To: { Length: > 0 } to, Text: { Length: > 0 } words }
                    ? Results.Problem("Say to whom, and what.", statusCode: 422)
                : await carrier.WriteAsync(number, to, words, stop) is { } sent ? Results.Ok(sent)
                : Results.Problem($"Nobody has written from {to} yet, so nobody is there.", statusCode: 404)
        );
    }
}

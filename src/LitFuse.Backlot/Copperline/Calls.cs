using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Copperline;

/// <summary>One phone's part in a call: it rings for a while, and somebody answers or not.</summary>
/// <param name="Status"><c>ringing</c>, <c>answered</c>, <c>joined</c>, then <c>over</c>; a call that only speaks:
/// <c>ringing</c>, then <c>answered</c> or <c>unanswered</c>.</param>
public sealed record PhoneCall(
    string Id,
    string From,
    string To,
    string Say,
    DateTimeOffset At,
    string Status,
    string? IdempotencyKey
)
{
    /// <summary>Comes back with each notice; <c>null</c>: a call that only speaks.</summary>
    public string? Tag { get; init; }

    /// <summary>Keys pressed are told.</summary>
    public bool Keys { get; init; }

    /// <summary>The other phone that it was joined with.</summary>
    public string? With { get; init; }

    /// <summary>What was said on it, oldest first.</summary>
    public IReadOnlyList<string> Lines { get; init; } = [];

    /// <summary>Why it is over.</summary>
    public string? Why { get; init; }

    /// <summary>Where its recording is.</summary>
    public string? Recording { get; init; }

    /// <summary>It can still ring, be answered or talk.</summary>
    public bool Live => Status is "ringing" or "answered" or "joined" && (Tag is not null || Status == "ringing");
}

/// <summary>A call that a caller wants made.</summary>
public sealed record CallToMake(
    string? From,
    string? To,
    string? Say,
    string? NoticesTo,
    bool Keys = false,
    int RingSeconds = 0,
    string? Tag = null
);

/// <summary>Two phones to be joined.</summary>
public sealed record PhonesToJoin(string? With, string? Recording);

/// <summary>Words said on a phone.</summary>
public sealed record WordsSaid(string? Say);

/// <summary>
/// Where calls are switched: phones ring, are picked up, joined and hung up, and whoever asked for it hears of each
/// turn.
/// </summary>
public sealed class Switchboard(TimeProvider time, Caller caller, Grounds grounds, FaultBoard faults)
{
    private static readonly TimeSpan Rings = TimeSpan.FromSeconds(20);
    private readonly ConcurrentDictionary<string, PhoneCall> calls = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> byKey = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, string> notices = new(StringComparer.Ordinal);
    private readonly Lock turning = new();
    private int count;

    /// <summary>Calls to a number, or all, oldest first.</summary>
    public IReadOnlyList<PhoneCall> CallsTo(string? number)
    {
        var digits = Carrier.Digits(number);
        return calls
            .Values.Where(c => digits.Length == 0 || Carrier.Digits(c.To) == digits)
            .OrderBy(c => c.Id, StringComparer.Ordinal)
            .ToList();
    }

    /// <summary>One by its id.</summary>
    public PhoneCall? Find(string id) => calls.GetValueOrDefault(id);

    /// <summary>Rings a phone, once per key.</summary>
    public PhoneCall Ring(CallToMake call, string? key)
    {
        var id = string.Create(CultureInfo.InvariantCulture, $"call-{Interlocked.Increment(ref count):000000}");
        var made = new PhoneCall(id, call.From ?? "", call.To!, call.Say ?? "", time.GetUtcNow(), "ringing", key)
        {
            Tag = call.Tag,
            Keys = call.Keys,
        };
        calls[id] = made;
        var taken = key is null ? id : byKey.GetOrAdd(key, id);
        if (taken != id)
        {
            calls.TryRemove(id, out _);
            return calls[taken];
        }

        if (call.NoticesTo is { } to)
            notices[id] = to;
        _ = RingOutAsync(id, call.RingSeconds > 0 ? TimeSpan.FromSeconds(call.RingSeconds) : Rings);
        return made;
    }

    /// <summary>
    /// What whoever holds the phone does: <c>answer</c>, <c>decline</c>, <c>machine</c> (one answers), <c>end</c>, or a
    /// key.
    /// </summary>
    /// <returns>False when that cannot be done now.</returns>
    public bool Do(string id, string how) =>
        how switch
        {
            "answer" => Turn(
                id,
                c => c.Status == "ringing",
                c =>
                    c with
                    {
                        Status = "answered",
                        Lines = c.Tag is null || c.Say.Length == 0 ? c.Lines : [.. c.Lines, "voice: " + c.Say],
                    },
                "answered"
            ),
            "machine" => Do(id, "answer")
                && Turn(
                    id,
                    c => c.Tag is not null,
                    c => c with { Lines = [.. c.Lines, "machine: Please leave a word after the tone."] },
                    "machine"
                ),
            "decline" => TurnTo(
                id,
                c => c.Status == "ringing",
                c => Over(c, c.Tag is null ? "unanswered" : "declined"),
                c => c.Tag is null ? "unanswered" : "over"
            ),
            "end" => Turn(id, c => c.Live && c.Status != "ringing", c => Over(c, "hung up"), "over"),
            _ when how.Length == 1 && (char.IsAsciiDigit(how[0]) || how is "*" or "#") => Turn(
                id,
                c => c is { Keys: true, Status: "answered" },
                c => c with { Lines = [.. c.Lines, "key: " + how] },
                "key",
                how
            ),
            _ => false,
        };

    /// <summary>Says something on a phone; who is joined with it hears it.</summary>
    public bool Talk(string id, string words)
    {
        lock (turning)
        {
            if (!calls.TryGetValue(id, out var call) || !call.Live || call.Status == "ringing")
                return false;
            var line = $"{call.To}: {words}";
            calls[id] = call with { Lines = [.. call.Lines, line] };
            if (call is { Status: "joined", With: { } with } && calls.TryGetValue(with, out var other))
                calls[with] = other with { Lines = [.. other.Lines, line] };
            return true;
        }
    }

    /// <summary>Joins two that were picked up.</summary>
    /// <returns>Why it cannot, or <c>null</c>.</returns>
    public string? Join(string id, string with, string? recording)
    {
        lock (turning)
        {
            if (!calls.TryGetValue(id, out var one) || !calls.TryGetValue(with, out var other))
                return "There is no such call.";
            if (one.Status == "joined" && one.With == with)
                return null;
            if (one.Status != "answered" || other.Status != "answered")
                return "Only calls that were answered can be joined.";
            string[] said = recording is null ? [] : ["voice: " + recording];
            var kept = recording is null ? null : $"{grounds.Url}/copperline/recordings/{id}";
            calls[id] = one with { Status = "joined", With = with, Lines = [.. one.Lines, .. said], Recording = kept };
            calls[with] = other with
            {
                Status = "joined",
                With = id,
                Lines = [.. other.Lines, .. said],
                Recording = kept,
            };
        }

        Tell(calls[id], "joined");
        Tell(calls[with], "joined");
        return null;
    }

    /// <summary>Hangs a phone up from this side.</summary>
    public bool HangUp(string id, string? say) =>
        Turn(
            id,
            c => c.Live,
            c =>
                Over(
                    c with
                    {
                        Lines = say is null || c.Status == "ringing" ? c.Lines : [.. c.Lines, "voice: " + say],
                    },
                    "hung up there"
                ),
            "over"
        );

    private static PhoneCall Over(PhoneCall call, string why) =>
        call with
        {
            Status = call.Tag is null ? why : "over",
            Why = why,
        };

    private bool Turn(
        string id,
        Func<PhoneCall, bool> may,
        Func<PhoneCall, PhoneCall> next,
        string what,
        string? key = null
    ) => TurnTo(id, may, next, _ => what, key);

    private bool TurnTo(
        string id,
        Func<PhoneCall, bool> may,
        Func<PhoneCall, PhoneCall> next,
        Func<PhoneCall, string> what,
        string? key = null
    )
    {
        PhoneCall turned;
        lock (turning)
        {
            if (!calls.TryGetValue(id, out var call) || !may(call))
                return false;
            calls[id] = turned = next(call);
        }

        Tell(turned, what(turned), key);
        return true;
    }

    private async Task RingOutAsync(string id, TimeSpan after)
    {
        await Task.Delay(after, time);
        TurnTo(id, c => c.Status == "ringing", c => Over(c, "unanswered"), c => c.Tag is null ? "unanswered" : "over");
    }

    private void Tell(PhoneCall call, string what, string? key = null)
    {
        if (!notices.TryGetValue(call.Id, out var to))
            return;
        var body = JsonSerializer.SerializeToUtf8Bytes(
            new
            {
                type = "call." + what,
                id = call.Id,
                tag = call.Tag,
                key,
                reason = call.Why,
                recording = what == "over" ? call.Recording : null,
                at = Carrier.Stamp(time.GetUtcNow()),
            }
        );
        var times = faults.Of("copperline").Repeat ? 2 : 1;
        for (var i = 0; i < times; i++)
            caller.Tell(new(to, $"{call.Id}-{what}{key}", body, grounds.TokenOf("copperline-notices")));
    }
}

/// <summary>The part of Copperline's API that is about calls.</summary>
public static class CallsApi
{
    /// <summary>Maps it.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/copperline/calls", (Switchboard board, string? to) => board.CallsTo(to));
        app.MapGet("/api/copperline/calls/{id}", (string id, Switchboard board) =>
            board.Find(id) is { } call ? Results.Ok(call) : Results.NotFound()
        );
        app.MapPost(
            "/api/copperline/calls",
            (CallToMake call, HttpContext http, Switchboard board, Grounds grounds, FaultBoard faults) =>
            {
                if (!Allowed(http, grounds))
                    return Results.Problem("The token is not right.", statusCode: 401);
                if (call.To is not ['+', .. { Length: >= 7 and <= 15 } rest] || !rest.All(char.IsAsciiDigit))
                    return Results.Problem($"'{call.To}' is not a number in E.164.", statusCode: 422);
                var key = faults.Of("copperline").IgnoreKeys
                    ? null
                    : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
                return Results.Ok(board.Ring(call, key));
            }
        );
        app.MapPost(
            "/api/copperline/calls/{id}/join",
            (string id, PhonesToJoin join, HttpContext http, Switchboard board, Grounds grounds) =>
                !Allowed(http, grounds) ? Results.Problem("The token is not right.", statusCode: 401)
                : board.Join(id, join.With ?? "", join.Recording) is { } because
                    ? Results.Problem(because, statusCode: 409)
                : Results.NoContent()
        );
        app.MapPost(
            "/api/copperline/calls/{id}/hang-up",
            (string id, WordsSaid words, HttpContext http, Switchboard board, Grounds grounds) =>
            {
                if (!Allowed(http, grounds))
                    return Results.Problem("The token is not right.", statusCode: 401);
                board.HangUp(id, words.Say);
                return Results.NoContent();
            }
        );
        app.MapPost("/api/copperline/calls/{id}/talk", (string id, WordsSaid words, Switchboard board) =>
            words.Say is { Length: > 0 } say && board.Talk(id, say) ? Results.NoContent() : Results.NotFound()
        );
        app.MapPost("/api/copperline/calls/{id}/{how}", (string id, string how, Switchboard board) =>
            board.Do(id, how) ? Results.NoContent() : Results.NotFound()
        );
    }

    private static bool Allowed(HttpContext http, Grounds grounds) =>
        http.Request.Headers.Authorization == "Bearer " + grounds.TokenOf("copperline");
}

using System.Collections.Concurrent;
using System.Text.Json;

namespace LitFuse.Backlot.Faults;

/// <summary>What is wrong with a service at the moment.</summary>
/// <param name="Down">Connections break off.</param>
/// <param name="Slow">Answers take <paramref name="Seconds"/>.</param>
/// <param name="Error">Every call is answered with 500.</param>
/// <param name="Repeat">What it does, it does twice.</param>
/// <param name="IgnoreKeys">Idempotency keys are not looked at.</param>
/// <param name="Seconds">How slow.</param>
/// <param name="Half">It takes what it is given, then the connection breaks off before the answer.</param>
/// <param name="Busy">Every call is answered with 429, and to come back in two seconds.</param>
/// <param name="Lose">Of what it is to tell, it forgets one in five.</param>
public sealed record Fault(
    bool Down,
    bool Slow,
    bool Error,
    bool Repeat,
    bool IgnoreKeys,
    double Seconds,
    bool Half = false,
    bool Busy = false,
    bool Lose = false
)
{
    /// <summary>Nothing wrong.</summary>
    public static Fault None { get; } = new(false, false, false, false, false, 4);

    /// <summary>
    /// Reads a switch setting: <c>{"mode":"slow","seconds":8}</c>, <c>{"down":true,"slow":false}</c> or the bare word.
    /// </summary>
    /// <returns>The fault, or <c>null</c> when it names none that is known.</returns>
    public static Fault? Read(JsonElement body)
    {
        var words = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        var seconds = None.Seconds;
        if (body.ValueKind == JsonValueKind.String)
            words.Add(body.GetString()!);
        if (body.ValueKind == JsonValueKind.Object)
        {
            foreach (var part in body.EnumerateObject())
            {
                if (part.Value.ValueKind == JsonValueKind.String)
                    words.Add(part.Value.GetString()!);
                else if (part.Value.ValueKind == JsonValueKind.True)
                    words.Add(part.Name);
                else if (part.Value.ValueKind == JsonValueKind.Number && part.Name == "seconds")
                    seconds = Math.Clamp(part.Value.GetDouble(), 0, 60);
            }
        }

        words.Remove("none");
        var fault = new Fault(
            words.Remove("down"),
            words.Remove("slow"),
            words.Remove("error"),
            words.Remove("repeat"),
            words.Remove("ignoreKeys"),
            seconds,
            words.Remove("half"),
            words.Remove("busy"),
            words.Remove("lose")
        );
        return words.Count == 0 ? fault : null;
    }
}

/// <summary>The row of switches.</summary>
public sealed class FaultBoard
{
    private readonly ConcurrentDictionary<string, Fault> faults = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, int> told = new(StringComparer.Ordinal);

    /// <summary>The services that have switches.</summary>
    public static IReadOnlyList<string> Services { get; } =
    [
        "plaza",
        "tradehall",
        "lanternfind",
        "formbench",
        "pagewright",
        "ridgeboard",
        "copperline",
        "pillarpost",
        "ledgerhouse",
        "gridlet",
        "jobrack",
        "namewell",
        "ringbarrow",
        "earwick",
    ];

    /// <summary>What is wrong with one.</summary>
    public Fault Of(string service) => faults.GetValueOrDefault(service, Fault.None);

    /// <summary>How often a service tells a piece of news that is new now: not at all, once, or twice.</summary>
    public int TimesTold(string service)
    {
        var fault = Of(service);
        // Every fifth, so that it is a fifth of few as well.
        if (fault.Lose && told.AddOrUpdate(service, 1, (_, n) => n + 1) % 5 == 0)
            return 0;
        return fault.Repeat ? 2 : 1;
    }

    /// <summary>Maps the switches' API.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/faults", (FaultBoard board) => Services.ToDictionary(s => s, board.Of));
        app.MapPut("/api/faults/{service}", (string service, JsonElement body, FaultBoard board) =>
        {
            if (!Services.Contains(service))
                return Results.Problem(
                    $"There is no service '{service}' here; there are {string.Join(", ", Services)}.",
                    statusCode: 404
                );
            if (Fault.Read(body) is not { } fault)
                return Results.Problem(
                    "Say {\"mode\": \"down\"}, \"slow\" (with \"seconds\"), \"error\", \"repeat\", \"ignoreKeys\", \"half\", \"busy\", \"lose\" or \"none\".",
                    statusCode: 400
                );
            board.faults[service] = fault;
            return Results.Ok(fault);
        });
        app.MapDelete("/api/faults", (FaultBoard board) =>
        {
            board.faults.Clear();
            return Results.NoContent();
        });
    }
}

/// <summary>
/// Makes the faults felt on what outside callers use. People looking at the Backlot's own pages, and reads of its
/// state, are spared.
/// </summary>
public sealed class FaultMiddleware(RequestDelegate next, FaultBoard board)
{
    /// <summary>Runs for each request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        var parts = http.Request.Path.Value!.Split('/', StringSplitOptions.RemoveEmptyEntries);
        var service = parts switch
        {
            ["api", var name, ..]
                when name is not ("faults" or "seen")
                    && (
                        !HttpMethods.IsGet(http.Request.Method)
                        || name is "plaza" or "tradehall" or "ledgerhouse" or "gridlet" or "jobrack" or "ringbarrow"
                        || (name == "ridgeboard" && parts is [_, _, "places"])
                    ) => name,
            ["pagewright", ..] => "pagewright",
            ["dav", ..] => "namewell",
            _ => null,
        };
        var fault = service is null ? Fault.None : board.Of(service);
        if (fault.Slow)
            await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), http.RequestAborted);
        if (fault.Down)
        {
            http.Abort();
            return;
        }

        if (fault.Error)
        {
            http.Response.StatusCode = 500;
            await http.Response.WriteAsync("Something broke (the switch is on).");
            return;
        }

        if (fault.Busy)
        {
            http.Response.StatusCode = 429;
            http.Response.Headers.RetryAfter = "2";
            return;
        }

        if (!fault.Half)
        {
            await next(http);
            return;
        }

        var answer = http.Response.Body;
        using var unsent = new MemoryStream();
        http.Response.Body = unsent;
        await next(http);
        http.Response.Body = answer;
        http.Abort();
    }
}

using LitFuse.Backlot.Access;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Jobrack;

/// <summary>What a caller wants of a ticket.</summary>
public sealed record TicketToPut(
    string? Queue,
    string? Summary,
    string? Description,
    string? Assignee,
    string? Reporter,
    string? Status,
    string? Due,
    string? Ref
);

/// <summary>A ticket.</summary>
/// <param name="Ref">The caller's own id for what it is about.</param>
public sealed record Ticket(
    string Key,
    string Queue,
    string Summary,
    string? Description,
    string? Assignee,
    string? Reporter,
    string Status,
    string? Due,
    string? Ref,
    DateTimeOffset At,
    int Changes
);

/// <summary>One of a fixed list.</summary>
public sealed record Entry(string Key, string Name);

/// <summary>The rack of tickets.</summary>
public sealed class Rack(TimeProvider time)
{
    private const int Most = 60_000;
    private readonly Lock hold = new();
    private readonly List<Ticket> tickets = [];
    private readonly Dictionary<string, string> byKey = new(StringComparer.Ordinal);
    private int last = 100;

    /// <summary>Queues.</summary>
    public static IReadOnlyList<Entry> Queues { get; } =
    [new("RIDE", "Test rides"), new("BOOTH", "Booth surveys"), new("DATE", "Marquee dates")];

    /// <summary>People.</summary>
    public static IReadOnlyList<Entry> People { get; } =
    [
        new("imke", "Imke Sandoval"),
        new("tobias", "Tobias Renn"),
        new("adaeze", "Adaeze Whitlock"),
        new("marguerite", "Marguerite Oyelaran"),
        new("pim", "Pim Castellan"),
        new("siobhra", "Siobhra Quill"),
    ];

    /// <summary>Where a ticket can stand.</summary>
    public static IReadOnlyList<Entry> Statuses { get; } =
    [new("open", "Open"), new("doing", "Doing"), new("done", "Done")];

    /// <summary>All, newest first.</summary>
    public IReadOnlyList<Ticket> Tickets
    {
        get
        {
            lock (hold)
                return [.. tickets.OrderByDescending(t => t.At)];
        }
    }

    /// <summary>Makes one; once for each key.</summary>
    public (Ticket? Ticket, string? Fault) Make(TicketToPut put, string? key)
    {
        lock (hold)
        {
            if (key is not null && byKey.TryGetValue(key, out var before))
                return (tickets.Find(t => t.Key == before), null);
            if (string.IsNullOrWhiteSpace(put.Summary))
                return (null, "A ticket needs a summary.");
            if (Queues.All(q => q.Key != put.Queue))
                return (null, $"There is no queue “{put.Queue}”.");
            if (FaultOf(put) is { } fault)
                return (null, fault);
            var ticket = new Ticket(
                $"{put.Queue}-{++last}",
                put.Queue!,
                put.Summary,
                put.Description,
                put.Assignee,
                put.Reporter,
                put.Status ?? "open",
                put.Due,
                put.Ref,
                time.GetUtcNow(),
                1
            );
            if (tickets.Count >= Most)
                tickets.RemoveAt(0);
            tickets.Add(ticket);
            if (key is not null)
                byKey[key] = ticket.Key;
            return (ticket, null);
        }
    }

    /// <summary>Changes one.</summary>
    public (Ticket? Ticket, string? Fault) Change(string key, TicketToPut put)
    {
        lock (hold)
        {
            var place = tickets.FindIndex(t => t.Key == key);
            if (place < 0)
                return (null, null);
            if (FaultOf(put) is { } fault)
                return (null, fault);
            var t = tickets[place];
            return (
                tickets[place] = t with
                {
                    Summary = put.Summary ?? t.Summary,
                    Description = put.Description ?? t.Description,
                    Assignee = put.Assignee ?? t.Assignee,
                    Reporter = put.Reporter ?? t.Reporter,
                    Status = put.Status ?? t.Status,
                    Due = put.Due ?? t.Due,
                    Changes = t.Changes + 1,
                },
                null
            );
        }
    }

    /// <summary>The newest that is not done about something of the caller's.</summary>
    public Ticket? Open(string about, string? queue)
    {
        lock (hold)
            return tickets.FindLast(t => t.Ref == about && t.Status != "done" && (queue is null || t.Queue == queue));
    }

    /// <summary>Takes one out.</summary>
    public bool Remove(string key)
    {
        lock (hold)
            return tickets.RemoveAll(t => t.Key == key) > 0;
    }

    private static string? FaultOf(TicketToPut put) =>
        new[] { put.Assignee, put.Reporter }.FirstOrDefault(p => p is not null && People.All(x => x.Key != p))
            is { } nobody
            ? $"There is nobody “{nobody}”."
        : put.Status is { } status && Statuses.All(s => s.Key != status) ? $"There is no status “{status}”."
        : put.Due is { } due && !DateOnly.TryParseExact(due, "yyyy-MM-dd", out _) ? $"“{due}” is no date."
        : null;
}

/// <summary>Jobrack's API and screens: tickets.</summary>
public static class JobrackApi
{
    private const string Service = "jobrack";

    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        var desk = new TokenDesk(
            Service,
            "Jobrack",
            "Quillon Street Media",
            [("tickets", "read and write tickets")],
            app.Services.GetRequiredService<Grounds>(),
            app.Services.GetRequiredService<TimeProvider>()
        );
        desk.Map(app);
        app.MapGet("/api/jobrack/lists/{list}", (string list, HttpContext http) => desk.Refusal(http, "tickets")
            ?? list switch
            {
                "queues" => Results.Ok(Rack.Queues),
                "people" => Results.Ok(Rack.People),
                "statuses" => Results.Ok(Rack.Statuses),
                _ => Results.Problem($"There is no list “{list}”.", statusCode: 404),
            });
        app.MapGet("/api/jobrack/tickets", (string about, string? queue, HttpContext http, Rack rack) =>
            desk.Refusal(http, "tickets") ?? Results.Ok(new[] { rack.Open(about, queue) }.OfType<Ticket>())
        );
        app.MapPost(
            "/api/jobrack/tickets",
            (TicketToPut put, HttpContext http, Rack rack, Grounds grounds, FaultBoard faults) =>
            {
                if (desk.Refusal(http, "tickets") is { } refusal)
                    return refusal;
                var fault = faults.Of(Service);
                var key = fault.IgnoreKeys ? null : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
                var made = rack.Make(put, key);
                if (fault.Repeat)
                    rack.Make(put, key);
                return Told(made, grounds, 201);
            }
        );
        app.MapPatch(
            "/api/jobrack/tickets/{key}",
            (string key, TicketToPut put, HttpContext http, Rack rack, Grounds grounds) =>
                desk.Refusal(http, "tickets") ?? Told(rack.Change(key, put), grounds, 200)
        );
        app.MapDelete("/api/jobrack/tickets/{key}", (string key, HttpContext http, Rack rack) =>
            desk.Refusal(http, "tickets")
            ?? (rack.Remove(key) ? Results.NoContent() : Results.Problem("There is no such ticket.", statusCode: 404))
        );
        app.MapGet("/api/seen/jobrack/tickets", (Rack rack) => rack.Tickets);
        app.MapGet("/jobrack", (Rack rack) => Paper.Page("Jobrack", All(rack), refresh: "tickets"));
        app.MapGet("/jobrack/{key}", (string key, Rack rack) =>
            rack.Tickets.FirstOrDefault(t => t.Key == key) is { } ticket
                ? Paper.Page("Jobrack", One(ticket))
                : Results.NotFound()
        );
    }

    private static IResult Told((Ticket? Ticket, string? Fault) made, Grounds grounds, int status) =>
        made.Ticket is { } t
            ? Results.Json(
                new
                {
                    Id = t.Key,
                    t.Key,
                    Url = $"{grounds.Url}/jobrack/{t.Key}",
                    DueDate = t.Due,
                },
                statusCode: status
            )
        : made.Fault is null ? Results.Problem("There is no such ticket.", statusCode: 404)
        : Results.Problem(made.Fault, statusCode: 422);

    private static string NameOf(IReadOnlyList<Entry> list, string? key) =>
        list.FirstOrDefault(e => e.Key == key)?.Name ?? key ?? "";

    private static string All(Rack rack)
    {
        var rows = rack
            .Tickets.Take(200)
            .Select(t =>
                $"<tr><td><a href=\"/jobrack/{t.Key}\">{t.Key}</a></td><td>{Paper.Text(t.Summary)}</td><td>{Paper.Text(NameOf(Rack.Statuses, t.Status))}</td><td>{Paper.Text(NameOf(Rack.People, t.Assignee))}</td><td>{Paper.Text(t.Due ?? "")}</td></tr>"
            );
        return $"<p><a href=\"/jobrack/tokens\">Tokens for programs</a></p><h1>Tickets</h1><section id=\"tickets\"><table><thead><tr><th>key</th><th>what</th><th>status</th><th>who</th><th>due</th></tr></thead><tbody>{string.Concat(rows.DefaultIfEmpty("<tr><td colspan=\"5\">None yet.</td></tr>"))}</tbody></table></section>";
    }

    private static string One(Ticket t) =>
        $"<p><a href=\"/jobrack\">All tickets</a></p><h1>{t.Key}: {Paper.Text(t.Summary)}</h1><table><tbody><tr><th scope=\"row\">Status</th><td>{Paper.Text(NameOf(Rack.Statuses, t.Status))}</td></tr><tr><th scope=\"row\">Assignee</th><td>{Paper.Text(NameOf(Rack.People, t.Assignee))}</td></tr><tr><th scope=\"row\">Reporter</th><td>{Paper.Text(NameOf(Rack.People, t.Reporter))}</td></tr><tr><th scope=\"row\">Due</th><td>{Paper.Text(t.Due ?? "")}</td></tr></tbody></table><pre>{Paper.Text(t.Description ?? "")}</pre>";
}

using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Connectors.Jobrack;

/// <summary>
/// Tickets: one is made, and changed as long as it is open. A second try looks for what the first one made.
/// </summary>
public sealed class JobrackConnector(ConnectorHttp http) : IConnector
{
    /// <summary>The step that makes or changes a ticket.</summary>
    public const string Ticket = "ticket";

    private const string Tickets = "api/jobrack/tickets";

    /// <inheritdoc />
    public int Place => 60;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "jobrack",
            "Jobrack",
            "tickets with somebody to do them and a day they are due",
            [
                new(
                    ConnectorCard.Address,
                    "Address",
                    Hint: "As in the browser when you are signed in there, up to the first single slash."
                ),
                new("token", "Token", Secret: true, Hint: "Jobrack, “Tokens for programs”. It is shown once."),
            ],
            [new("tickets", "read and write tickets", "no ticket is made or changed")],
            [
                "Sign in to Jobrack as somebody who may make tickets in the queue.",
                "Open “Tokens for programs” and make one that may read and write tickets.",
                "Copy it from there: it is shown once. Paste it here.",
            ]
        );

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Ticket,
            "Ticket in Jobrack",
            Lane.Systems,
            "jobrack",
            [
                new("queue", "Queue", SettingType.Listed) { List = "queues" },
                new("again", "Where one about them is open", SettingType.Choice)
                {
                    Choices = [new("change", "it is changed"), new("add", "another is made")],
                },
                new("summary", "Summary", SettingType.Line),
                new("description", "Description", SettingType.Words, Optional: true),
                new("assignee", "Assignee", SettingType.Listed, Optional: true) { List = "people" },
                new("reporter", "Reporter", SettingType.Listed, Optional: true) { List = "people" },
                new("status", "Status", SettingType.Listed, Optional: true) { List = "statuses" },
                new("due", "Due", SettingType.Line, Optional: true)
                {
                    Hint = "A day, as in {{ now | add_working_days: 2 }}.",
                },
            ],
            ["id", "key", "url", "due_date"]
        ),
    ];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        string? Or(string key) =>
            outgoing.Settings.GetValueOrDefault(key) is { } value && !string.IsNullOrWhiteSpace(value)
                ? value.Trim()
                : null;
        var due = Or("due");
        if (due is not null && DayOf(due, outgoing.Zone) is null)
            return new(AttemptEnd.Final, $"cannot take the day it is due: “{due}” is no day");
        var adds = Or("again") == "add";
        // Another one is made each time: then the delivery itself is what it is known again by.
        var about = adds ? outgoing.Key : outgoing.Lead;
        var ticket = new RackTicket(
            Or("queue"),
            (outgoing.Test ? "TEST · " : "") + Or("summary"),
            Or("description"),
            Or("assignee"),
            Or("reporter"),
            Or("status"),
            due is null ? null : DayOf(due, outgoing.Zone),
            about
        );
        ServiceAnswer? open =
            adds && outgoing.Attempt == 1
                ? null
                : await http.CallAsync(
                    access,
                    HttpMethod.Get,
                    $"{Tickets}?about={Uri.EscapeDataString(about)}&queue={Uri.EscapeDataString(ticket.Queue ?? "")}",
                    stop
                );
        if (open is { Ok: false })
            return open.AsResult();
        var answer =
            open?.Json is { ValueKind: System.Text.Json.JsonValueKind.Array } found && found.GetArrayLength() > 0
                ? await http.CallAsync(
                    access,
                    HttpMethod.Patch,
                    $"{Tickets}/{Uri.EscapeDataString(found[0].GetProperty("key").GetString()!)}",
                    outgoing.Key,
                    ticket,
                    stop
                )
                : await http.CallAsync(access, HttpMethod.Post, Tickets, outgoing.Key, ticket, stop);
        var left = answer.Pick("id", "key", "url", "dueDate");
        if (left.Remove("dueDate", out var day))
            left["due_date"] = day;
        return answer.AsResult(left.GetValueOrDefault("key"), left);
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    ) =>
        (await http.GetAsync<List<ConnectionTarget>>(access, "api/jobrack/lists/" + list, stop)).ConvertAll(
            i => new ListItem(i.Key, i.Name)
        );

    /// <inheritdoc />
    public Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop) =>
        http.AskWhoAsync(access, "api/jobrack/me", stop);

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(
        ConnectionAccess access,
        string kind,
        string reference,
        CancellationToken stop
    ) => await http.DeleteAsync(access, $"{Tickets}/{Uri.EscapeDataString(reference)}", stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    // A moment is due on its day at the client's; a day is that day.
    private static string? DayOf(string written, DateTimeZone zone) =>
        InstantPattern.ExtendedIso.Parse(written) is { Success: true, Value: var at }
            ? LocalDatePattern.Iso.Format(at.InZone(zone).Date)
        : LocalDatePattern.Iso.Parse(written) is { Success: true, Value: var day } ? LocalDatePattern.Iso.Format(day)
        : null;

    private sealed record RackTicket(
        string? Queue,
        string Summary,
        string? Description,
        string? Assignee,
        string? Reporter,
        string? Status,
        string? Due,
        string Ref
    );
}

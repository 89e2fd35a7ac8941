using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Connectors.Ringbarrow;

/// <summary>A power dialer: people go onto dial lists under the lead's own id; how calls ended comes back.</summary>
public sealed class RingbarrowConnector(ConnectorHttp http) : IConnector
{
    /// <summary>The step that puts somebody on a list.</summary>
    public const string Entry = "dial-entry";

    /// <inheritdoc />
    public int Place => 80;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "ringbarrow",
            "Ringbarrow",
            "a power dialer: lists of people to ring, and how the calls ended",
            [
                new(ConnectorCard.Address, "Address", Hint: "As in the browser, up to the first single slash."),
                new("token", "Token", Secret: true, Hint: "Ringbarrow, “Tokens for programs”. It is shown once."),
            ],
            [
                new("lists", "put people on dial lists", "nobody is put on a list"),
                new("outcomes", "tell how calls ended", "outcomes and notes do not come back"),
            ],
            [
                "Sign in to Ringbarrow as somebody who may change lists.",
                "Open “Tokens for programs” and make one that may do both things.",
                "Copy it from there: it is shown once. Paste it here.",
            ]
        )
        {
            Fills = ["last_outcome", "last_note"],
        };

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Entry,
            "Onto a dial list",
            Lane.Systems,
            "ringbarrow",
            [
                new("list", "List", SettingType.Listed) { List = "lists" },
                new("name", "Name", SettingType.Line) { Default = "{{ lead.name }}" },
                new("phone", "Number", SettingType.Line) { Default = "{{ lead.phone }}" },
                new("phone2", "Another number", SettingType.Line, Optional: true),
                new("email", "Email", SettingType.Line, Optional: true) { Default = "{{ lead.email }}" },
                new("priority", "In the list", SettingType.Choice, Optional: true)
                {
                    Choices = [new("5", "behind those before them"), new("1", "at the top")],
                },
                new("tags", "Tags", SettingType.Line, Optional: true) { Hint = "With commas between them." },
                new("answers", "Answers", SettingType.Columns, Optional: true) { List = "fields" },
                new("note", "Note", SettingType.Words, Optional: true),
            ],
            ["id", "url"]
        ),
    ];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        string? Or(string key) =>
            outgoing.Settings.GetValueOrDefault(key) is { } value && !string.IsNullOrWhiteSpace(value)
                ? value.Trim()
                : null;
        IReadOnlyList<string> phones = [.. new[] { Or("phone"), Or("phone2") }.OfType<string>().Distinct()];
        if (phones.Count == 0)
            return new(AttemptEnd.Final, "cannot dial them: there is no telephone number");
        var answer = await http.CallAsync(
            access,
            HttpMethod.Put,
            $"api/ringbarrow/lists/{Uri.EscapeDataString(Or("list") ?? "")}/entries/{Uri.EscapeDataString(outgoing.Lead)}",
            outgoing.Key,
            new DialerEntry(
                (outgoing.Test ? "TEST · " : "") + Or("name"),
                phones,
                Or("email"),
                [
                    .. (Or("tags") ?? "").Split(
                        ',',
                        StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
                    ),
                    .. outgoing.Test ? ["test"] : Array.Empty<string>(),
                ],
                Or("note"),
                outgoing.Columns("answers"),
                Or("priority") == "1" ? 1 : 5
            ),
            stop
        );
        return answer.AsResult(answer.Pick("id").GetValueOrDefault("id"), answer.Pick("id", "url"));
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    )
    {
        var found = await http.GetAsync<List<ConnectionTarget>>(access, "api/ringbarrow/" + list, stop);
        return found.ConvertAll(f => new ListItem(f.Key, f.Name));
    }

    /// <inheritdoc />
    public Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop) =>
        http.AskWhoAsync(access, "api/ringbarrow/me", stop);

    /// <inheritdoc />
    public Task<bool> ListenAsync(ConnectionAccess access, CancellationToken stop) =>
        http.ListenAsync(access, "api/ringbarrow/hearers", stop);

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(
        ConnectionAccess access,
        string kind,
        string reference,
        CancellationToken stop
    ) => await http.DeleteAsync(access, $"api/ringbarrow/entries/{Uri.EscapeDataString(reference)}", stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body)
    {
        var told = JsonSerializer.Deserialize<DialerNotice>(body, JsonSerializerOptions.Web);
        if (
            told
            is not {
                Type: "outcome",
                Entry: { Length: > 0 } entry,
                Id: { Length: > 0 } id,
                Outcome: { Length: > 0 } outcome
            }
        )
            return null;
        var read = OffsetDateTimePattern.Rfc3339.Parse(told.At ?? "");
        var words =
            $"{(string.IsNullOrEmpty(told.By) ? "a call" : told.By + " rang them")}: {outcome.Replace('-', ' ')}{(string.IsNullOrWhiteSpace(told.Note) ? "" : $", “{told.Note.Trim()}”")}";
        return new ServiceNotice.Happened(
            entry,
            id,
            EventKeys.CallOutcome,
            words,
            new Dictionary<string, string>(StringComparer.Ordinal) { ["outcome"] = outcome },
            new Dictionary<string, string>(StringComparer.Ordinal)
            {
                ["last_outcome"] = outcome.Replace('-', ' '),
                ["last_note"] = told.Note ?? "",
            },
            read.Success ? read.Value.ToInstant() : Instant.MinValue
        )
        {
            By = told.By,
        };
    }

    private sealed record DialerEntry(
        string Name,
        IReadOnlyList<string> Phones,
        string? Email,
        IReadOnlyList<string> Tags,
        string? Note,
        IReadOnlyDictionary<string, string> Answers,
        int Priority
    );

    private sealed record DialerNotice(
        string? Type,
        string? Id,
        string? Entry,
        string? Outcome,
        string? Note,
        string? By,
        string? At
    );
}

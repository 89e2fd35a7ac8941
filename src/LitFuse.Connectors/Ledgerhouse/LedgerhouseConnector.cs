using System.Globalization;
using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Connectors.Ledgerhouse;

/// <summary>
/// Customer records. Both calls are an upsert by a key of ours, so that a call made twice, or taken and not answered,
/// makes one record.
/// </summary>
public sealed class LedgerhouseConnector(ConnectorHttp http) : IConnector
{
    /// <summary>The step that makes or changes a contact.</summary>
    public const string Contact = "crm-contact";

    /// <summary>The step that makes or moves a deal.</summary>
    public const string Deal = "crm-deal";

    /// <summary>The step that puts somebody on a mailing list, or takes them off.</summary>
    public const string MailList = "crm-list";

    /// <inheritdoc />
    public int Place => 40;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "ledgerhouse",
            "Ledgerhouse",
            "customer records: contacts, deals, mailing lists",
            [
                new(
                    ConnectorCard.Address,
                    "Address",
                    Hint: "As in the browser when you are signed in there, up to the first single slash."
                ),
                new("token", "Token", Secret: true, Hint: "Ledgerhouse, “Tokens for programs”. It is shown once."),
            ],
            [
                new("contacts", "read and write contacts", "no contact is made or changed"),
                new("deals", "read and write deals", "no deal is made or moved, and pipelines cannot be listed"),
            ],
            [
                "Sign in to Ledgerhouse as somebody who may make tokens.",
                "Open “Tokens for programs” and make one that may read and write contacts and deals, nothing else.",
                "Copy it from there: it is shown once. Paste it here.",
            ]
        );

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Contact,
            "Contact in Ledgerhouse",
            Lane.Systems,
            "ledgerhouse",
            [
                new("match", "Known again by", SettingType.Choice)
                {
                    Choices =
                    [
                        new("email", "their email"),
                        new("phone", "their telephone number"),
                        new("own-id", "the lead's own id"),
                    ],
                },
                new("fields", "Fields", SettingType.Columns) { List = "contact-fields" },
                new("type", "Type", SettingType.Listed, Optional: true) { List = "types" },
                new("status", "Status", SettingType.Listed, Optional: true) { List = "statuses" },
                new("owner", "Owner there", SettingType.Listed, Optional: true) { List = "people" },
                new("source", "Source", SettingType.Line, Optional: true),
                new("captured", "How captured", SettingType.Line, Optional: true),
                new("tags", "Tags, with commas between", SettingType.Line, Optional: true),
                new("list", "Mailing list", SettingType.Listed, Optional: true) { List = "mailing-lists" },
                new("note", "Note", SettingType.Words, Optional: true),
            ],
            ["id", "url", "created"]
        ),
        new(
            Deal,
            "Deal in Ledgerhouse",
            Lane.Systems,
            "ledgerhouse",
            [
                new("contact", "Contact's id there", SettingType.Line)
                {
                    Hint = "The id that an earlier step left: {{ steps.….id }}.",
                },
                new("name", "Name of the deal", SettingType.Line),
                new("pipeline", "Pipeline", SettingType.Listed) { List = "pipelines" },
                new("stage", "Stage", SettingType.Listed) { List = "stages", ListNeeds = ["pipeline"] },
                new("value", "Value", SettingType.Line, Optional: true)
                {
                    Hint = "A number, with the client's currency.",
                },
                new("source", "Source", SettingType.Line, Optional: true),
            ],
            ["id", "url", "created"]
        ),
        new(
            MailList,
            "Mailing list in Ledgerhouse",
            Lane.Systems,
            "ledgerhouse",
            [
                new("contact", "Contact's id there", SettingType.Line)
                {
                    Hint = "The id that an earlier step left: {{ steps.….id }}.",
                },
                new("way", "They are", SettingType.Choice)
                {
                    Choices = [new("on", "put on it"), new("off", "taken off it")],
                },
                new("list", "Mailing list", SettingType.Listed, Optional: true) { List = "mailing-lists" },
                new("tags", "Tags there, with commas between", SettingType.Line, Optional: true),
            ],
            ["id"]
        ),
    ];

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop) =>
        outgoing.Kind switch
        {
            Contact => ContactAsync(access, outgoing, stop),
            Deal => DealAsync(access, outgoing, stop),
            _ => ListAsync(access, outgoing, stop),
        };

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    )
    {
        var of =
            list == "stages" ? "?pipeline=" + Uri.EscapeDataString(settings.GetValueOrDefault("pipeline") ?? "") : "";
        var found = await http.GetAsync<List<LedgerItem>>(access, $"api/ledgerhouse/lists/{list}{of}", stop);
        return found.ConvertAll(i => new ListItem(i.Key, i.Name, i.Required, i.Kind));
    }

    /// <inheritdoc />
    public Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop) =>
        http.AskWhoAsync(access, "api/ledgerhouse/me", stop);

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(
        ConnectionAccess access,
        string kind,
        string reference,
        CancellationToken stop
    ) =>
        await http.DeleteAsync(
            access,
            $"api/ledgerhouse/{(kind == Deal ? "deals" : "contacts")}/{Uri.EscapeDataString(reference)}",
            stop
        );

    /// <inheritdoc />
    public Task<bool> ListenAsync(ConnectionAccess access, CancellationToken stop) =>
        http.ListenAsync(access, "api/ledgerhouse/hearers", stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body)
    {
        var told = JsonSerializer.Deserialize<LedgerNotice>(body, JsonSerializerOptions.Web);
        if (
            told
            is not {
                Type: "status",
                Contact: { Length: > 0 } contact,
                Id: { Length: > 0 } id,
                Status: { Length: > 0 } status
            }
        )
            return null;
        var read = OffsetDateTimePattern.Rfc3339.Parse(told.At ?? "");
        return new ServiceNotice.Happened(
            contact,
            id,
            EventKeys.RecordMoved,
            $"the contact there is now “{status}”",
            new Dictionary<string, string>(StringComparer.Ordinal) { ["status"] = status },
            new Dictionary<string, string>(StringComparer.Ordinal) { ["record_status"] = status },
            read.Success ? read.Value.ToInstant() : Instant.MinValue
        );
    }

    private async Task<AttemptResult> ContactAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        // A test makes a contact of its own, which can be swept away: never one that somebody is.
        var match =
            outgoing.Test ? "own-id"
            : outgoing.Settings.GetValueOrDefault("match") is { Length: > 0 } chosen ? chosen
            : "email";
        var values = outgoing.Columns("fields");
        var by = match switch
        {
            "email" => values.GetValueOrDefault("email"),
            "phone" => values.GetValueOrDefault("phone"),
            _ => outgoing.Lead,
        };
        if (string.IsNullOrEmpty(by))
            return new(
                AttemptEnd.Final,
                $"cannot know them again: there is no {(match == "email" ? "email" : "telephone number")} to go by"
            );
        var answer = await http.CallAsync(
            access,
            HttpMethod.Put,
            "api/ledgerhouse/contacts?match=" + match,
            outgoing.Key,
            new LedgerContact(
                outgoing.Lead,
                values,
                Or(outgoing, "type"),
                Or(outgoing, "status"),
                Or(outgoing, "source"),
                Or(outgoing, "captured"),
                Or(outgoing, "owner"),
                [
                    .. (Or(outgoing, "tags") ?? "").Split(
                        ',',
                        StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
                    ),
                    .. outgoing.Test ? ["test"] : Array.Empty<string>(),
                ],
                Or(outgoing, "list") is { } list ? [list] : [],
                Or(outgoing, "note")
            ),
            stop
        );
        return answer.AsResult(answer.Pick("id").GetValueOrDefault("id"), answer.Pick("id", "url", "created"));
    }

    private async Task<AttemptResult> ListAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        if (Or(outgoing, "contact") is not { } contact)
            return new(AttemptEnd.Final, "was given no contact's id");
        string[] lists = Or(outgoing, "list") is { } list ? [list] : [];
        string[] tags = (Or(outgoing, "tags") ?? "").Split(
            ',',
            StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
        );
        if (lists.Length + tags.Length == 0)
            return new(AttemptEnd.Final, "was given neither a list nor a tag");
        var answer = await http.CallAsync(
            access,
            HttpMethod.Put,
            $"api/ledgerhouse/contacts/{Uri.EscapeDataString(contact)}/lists",
            outgoing.Key,
            new LedgerLists(lists, tags, outgoing.Settings.GetValueOrDefault("way") == "off"),
            stop
        );
        // No reference of its own: the contact's is another step's.
        return answer.AsResult(null, answer.Pick("id"));
    }

    private async Task<AttemptResult> DealAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        decimal? value = null;
        if (Or(outgoing, "value") is { } written)
        {
            if (!decimal.TryParse(written, NumberStyles.Number, CultureInfo.InvariantCulture, out var read))
                return new(AttemptEnd.Final, $"cannot take the value: “{written}” is no number");
            value = read;
        }

        // One deal of a lead in a pipeline: lit again, it is moved, not doubled.
        var pipeline = outgoing.Settings.GetValueOrDefault("pipeline") ?? "";
        var answer = await http.CallAsync(
            access,
            HttpMethod.Put,
            "api/ledgerhouse/deals",
            outgoing.Key,
            new LedgerDeal(
                $"{outgoing.Lead}/{pipeline}",
                Or(outgoing, "contact"),
                (outgoing.Test ? "TEST · " : "") + Or(outgoing, "name"),
                pipeline,
                Or(outgoing, "stage"),
                value,
                value is null ? null : outgoing.Currency,
                Or(outgoing, "source")
            ),
            stop
        );
        return answer.AsResult(answer.Pick("id").GetValueOrDefault("id"), answer.Pick("id", "url", "created"));
    }

    private static string? Or(Outgoing outgoing, string key) =>
        outgoing.Settings.GetValueOrDefault(key) is { } value && !string.IsNullOrWhiteSpace(value)
            ? value.Trim()
            : null;

    private sealed record LedgerNotice(string? Type, string? Id, string? Contact, string? Status, string? At);

    private sealed record LedgerLists(IReadOnlyList<string> Lists, IReadOnlyList<string> Tags, bool Off);

    private sealed record LedgerItem(string Key, string Name, bool Required = false, string? Kind = null);

    private sealed record LedgerContact(
        string OwnId,
        IReadOnlyDictionary<string, string> Values,
        string? Type,
        string? Status,
        string? Source,
        string? CapturedBy,
        string? Owner,
        IReadOnlyList<string> Tags,
        IReadOnlyList<string> Lists,
        string? Note
    );

    private sealed record LedgerDeal(
        string OwnId,
        string? ContactId,
        string? Name,
        string Pipeline,
        string? Stage,
        decimal? Value,
        string? Currency,
        string? Source
    );
}

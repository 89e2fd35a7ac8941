using CsvHelper;
using LitFuse.Core;
using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using NodaTime;

namespace LitFuse.Server.Ways.Kinds.Lanternfind;

/// <summary>A search engine with form ads: it pushes all answers with a shared key, and offers a daily file.</summary>
public sealed class LanternfindKind(NetworkHttp http) : SourceKind, IListing
{
    private const string KeyHeader = "Lantern-Key";

    private static readonly Dictionary<string, string> Standard = new(StringComparer.Ordinal)
    {
        ["full_name"] = "full_name",
        ["first_name"] = "first_name",
        ["last_name"] = "last_name",
        ["email"] = "email",
        ["phone"] = "phone",
        ["company"] = "company",
    };

    /// <inheritdoc />
    public override int Place => 30;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "lanternfind",
            "Lanternfind",
            "Form ads on a search engine",
            "It pushes every submission, with all answers, to an address of yours.",
            AccessBy.KeyOfOurs,
            "",
            [],
            [
                "In Lanternfind open the form ad and its tab “Send answers on”.",
                "Paste the address and the key that stand here. Both are this source's own: do not use them elsewhere.",
                "Press its button “Try this address”. Within a second the trial stands below, marked as a test.",
                "Where you also download its daily file: import it here, and what was pushed already is not added again.",
            ],
            MakesForms: false
        );

    /// <inheritdoc />
    public override string? Refuse(string secret, DoorCall call)
    {
        var shown = call.Headers[KeyHeader].ToString();
        if (shown.Length == 0)
            return $"There is no {KeyHeader} header: the key was not pasted into Lanternfind.";
        return SenderProof.Same(shown, secret)
            ? null
            : $"The key in {KeyHeader} is not this source's key; it begins with “{Shown(shown)}”. Copy the key from the source's page again.";
    }

    /// <inheritdoc />
    public override async ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    )
    {
        if (Read(raw) is not ({ } push, { } columns))
            return await base.ReadAsync(picks, contentType, raw);
        var answers = columns.Select(c => new Answer(c.Key, c.Value)).ToList();
        if (push.Campaign is { Length: > 0 } campaign)
            answers.Add(new("campaign", campaign));
        if (push.Click is { Length: > 0 } click)
            answers.Add(new("click_id", click));
        return Payload.FromAnswers(answers) with
        {
            OwnId = push.Submission,
            SentAt = push.PressedAt,
            Test = push.Trial,
            Form = push.Asset is { Length: > 0 and <= 100 } asset
                ? new(asset, push.AssetName is { Length: > 0 } name ? name : asset)
                : null,
        };
    }

    /// <inheritdoc />
    public override IReadOnlyList<FormField> Learn(ReadOnlyMemory<byte> raw) =>
        [
            .. Read(raw)
                .Columns?.DistinctBy(c => c.Key)
                .Select(c => new FormField(
                    c.Key,
                    c.Column ?? c.Key,
                    c.Key switch
                    {
                        "email" => FormFieldType.Email,
                        "phone" => FormFieldType.Phone,
                        _ => FormFieldType.Text,
                    },
                    false,
                    [],
                    Standard.GetValueOrDefault(c.Key)
                ))
                ?? [],
        ];

    /// <inheritdoc />
    public override ReadOnlyMemory<byte> OfRow(IReadOnlyDictionary<string, string> row)
    {
        string? Own(string name) => row.GetValueOrDefault(name) is { Length: > 0 } value ? value : null;
        var columns = row.Where(r => !Others.Contains(r.Key) && r.Value.Length > 0)
            .Select(r => new LanternColumn(r.Key, r.Key, r.Value))
            .ToList();
        var pressed = NodaTime.Text.InstantPattern.ExtendedIso.Parse(Own("pressed_at") ?? "");
        return System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(
            new LanternPush(
                Own("submission"),
                Own("asset"),
                Own("asset_name"),
                pressed.Success ? pressed.Value : null,
                false,
                columns,
                Own("campaign"),
                Own("click")
            ),
            CoreJson.Options
        );
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListedSubmission>> ListAsync(ListingAsk ask, CancellationToken stop)
    {
        var listed = new List<ListedSubmission>();
        for (var day = ask.From.InUtc().Date; day <= ask.To.InUtc().Date; day = day.PlusDays(1))
        {
            var file = await http.GetAsync(
                ask.Access with
                {
                    BaseUrl = new Uri(
                        ask.DailyFile!.Replace(
                            "{date}",
                            NodaTime.Text.LocalDatePattern.Iso.Format(day),
                            StringComparison.Ordinal
                        )
                    ),
                },
                "",
                stop
            );
            try
            {
                listed.AddRange(
                    RowsOf(file)
                        .Select(row => OfRow(row).ToArray())
                        .Select(raw =>
                            Read(raw).Push is { Submission: { Length: > 0 } id, Asset: { } form, PressedAt: { } at }
                            && ask.Forms.Contains(form)
                            && at >= ask.From
                            && at <= ask.To
                                ? new ListedSubmission(form, id, at, raw)
                                : null
                        )
                        .OfType<ListedSubmission>()
                );
            }
            catch (CsvFormatException e)
            {
                throw new NetworkTroubleException(
                    NetworkTrouble.Temporary,
                    $"offers a file of {NodaTime.Text.LocalDatePattern.Iso.Format(day)} that cannot be read: {e.Message}"
                );
            }
        }

        return listed;
    }

    private const int LongestRow = 256 * 1024;

    private static IEnumerable<Dictionary<string, string>> RowsOf(byte[] file)
    {
        using var text = new StreamReader(new MemoryStream(file, writable: false));
        using var csv = CsvReader.Create(text, new CsvReaderOptions { HasHeader = false, MaxRecordSize = LongestRow });
        if (!csv.Read())
            yield break;
        var head = Enumerable.Range(0, csv.FieldCount).Select(i => csv.GetString(i)).ToList();
        while (csv.Read())
            yield return head.Take(csv.FieldCount)
                .Select((name, i) => (Name: name, Value: csv.GetString(i)))
                .DistinctBy(c => c.Name, StringComparer.Ordinal)
                .ToDictionary(c => c.Name, c => c.Value, StringComparer.Ordinal);
    }

    private static readonly HashSet<string> Others = new(StringComparer.Ordinal)
    {
        "submission",
        "asset",
        "asset_name",
        "pressed_at",
        "campaign",
        "click",
    };

    private static (LanternPush? Push, IReadOnlyList<LanternColumn>? Columns) Read(ReadOnlyMemory<byte> raw)
    {
        var push = NetworkBodies.Read<LanternPush>(raw);
        return (
            push,
            push?.Columns is null ? null : [.. push.Columns.Where(c => c is { Key: not null, Value: not null })]
        );
    }

    private static string Shown(string key) => key.Length > 4 ? key[..4] + "…" : "…";

    private sealed record LanternColumn(string Key, string Column, string Value);

    private sealed record LanternPush(
        string? Submission,
        string? Asset,
        string? AssetName,
        Instant? PressedAt,
        bool Trial,
        IReadOnlyList<LanternColumn>? Columns,
        string? Campaign,
        string? Click
    );
}

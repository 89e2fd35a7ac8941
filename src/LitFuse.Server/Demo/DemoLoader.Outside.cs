using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Demo;

// What is outside of the demonstration's clients: their sources, and the services that they send to.
public sealed partial class DemoLoader
{
    // Access to the networks is as if Noor had consented long ago; what a sender must show is known to the Backlot,
    // too.
    private Source SourceOf(DemoClient client, string kind, string name, List<Connection> connections, Instant now)
    {
        var keyed = kind is "lanternfind" or "formbench";
        var network = connections.Find(c => c.Kind == kind);
        return new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = client.Client.Id,
            Kind = kind,
            Name = name,
            ConnectionId = network?.Id,
            LookDueAt = network is null ? null : now,
            PollDueAt = kind == "tradehall" ? now : null,
            Key = keyed || network is not null ? $"{client.Client.Key}-{kind}" : null,
            Secret =
                keyed ? secrets.Seal($"backlot-demo-{client.Client.Key}-{kind}")
                : network is not null ? secrets.Seal(Keys.Secret())
                : null,
            Places = [.. PlacesOf(client.Client.Key, kind)],
            DailyFile = kind == "lanternfind" ? DailyFileOf(client.Client.Key) : null,
            DailyFileDueAt = null,
            MadeAt = now - Duration.FromDays(Days + 1),
        };
    }

    private string DailyFileOf(string client) => $"{settings.BacklotUrl}/lanternfind/file/la-{client}/{{date}}.csv";

    private static IEnumerable<ChosenPlace> PlacesOf(string client, string kind) =>
        (client, kind) switch
        {
            ("brackenwheel", "plaza") => [new("pp-brackenwheel", "Brackenwheel Cargo Cycles")],
            ("tarn-valley", "plaza") => [new("pp-tarn-valley", "Tarn Valley Marquees")],
            ("brackenwheel", "tradehall") =>
            [
                new("ta-brackenwheel", "Brackenwheel, fleets"),
                new("ta-brackenwheel-city", "Brackenwheel, city councils"),
            ],
            ("hollin-vane", "tradehall") => [new("ta-hollin-vane", "Hollin Vane, workplaces")],
            _ => [],
        };

    private static readonly string[] Networks = ["plaza", "tradehall"];

    private static readonly (string Kind, string Name, string[] May)[] Records =
    [
        ("ledgerhouse", "Ledgerhouse", ["contacts", "deals"]),
        ("gridlet", "Gridlet", ["read", "write"]),
        ("jobrack", "Jobrack", ["tickets"]),
        ("ringbarrow", "Ringbarrow", ["lists", "outcomes"]),
        ("namewell", "Namewell", []),
    ];

    private List<Connection> Connections(DemoClient client)
    {
        var before = time.Now() - Duration.FromDays(Days + 1);
        var connections = Networks
            .Where(n => client.Forms.Any(f => f.SourceKind == n))
            .Select(n => To(client, n, client.Forms.First(f => f.SourceKind == n).SourceName, before))
            .ToList();
        var board = To(client, "ridgeboard", "Ridgeboard");
        board.Sender = "Lit Fuse";
        connections.Add(board);
        foreach (var (kind, name, may) in Records)
        {
            var record = To(client, kind, name, before);
            (record.Granted, record.NoticeSecret) = (may, secrets.Seal(Keys.Signing()));
            if (kind == "namewell")
            {
                record.BaseUrl += "dav/";
                record.Details = new Dictionary<string, string>(StringComparer.Ordinal) { ["user"] = "team" };
            }

            connections.Add(record);
        }

        var texts = To(client, "copperline", "Copperline");
        (texts.Sender, texts.NoticeSecret) = (client.Sender, secrets.Seal("backlot-demo-copperline-notices"));
        var letters = To(client, "pillarpost", "Pillarpost", before);
        var mailbox = $"hello@{client.Client.Key}.example";
        (letters.BaseUrl, letters.Account) = (MailOf(client.Client.Key), mailbox);
        (letters.Sender, letters.NoticeSecret) = (
            $"{client.Client.Name} <{mailbox}>",
            secrets.Seal("backlot-demo-pillarpost-notices")
        );
        return [.. connections, texts, letters];
    }

    private Connection To(DemoClient client, string kind, string name, Instant madeAt = default) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = client.Client.Id,
            Kind = kind,
            Name = name,
            BaseUrl = settings.BacklotUrl + "/",
            Secret = secrets.Seal("backlot-demo-" + kind),
            MadeAt = madeAt,
        };

    private string MailOf(string client) => new UriBuilder(settings.BacklotMail!) { UserName = client }.Uri.ToString();
}

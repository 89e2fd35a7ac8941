using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Connectors;
using LitFuse.Connectors.AnyApi;
using LitFuse.Connectors.Gridlet;
using LitFuse.Connectors.Jobrack;
using LitFuse.Connectors.Ledgerhouse;
using LitFuse.Connectors.Namewell;
using LitFuse.Connectors.Ringbarrow;
using LitFuse.Connectors.SignedEvents;
using LitFuse.Core.Delivering;
using LitFuse.Platform;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

public sealed class LedgerhouseContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "ledgerhouse";

    protected override IConnector Make(ConnectorHttp http) => new LedgerhouseConnector(http);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "crm-contact",
            new()
            {
                ["match"] = "email",
                ["fields.first_name"] = "Ines",
                ["fields.last_name"] = "Carrow",
                ["fields.email"] = marker,
                ["pipeline"] = "leases",
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["match"] = "phone",
                ["fields.last_name"] = "Carrow",
                ["fields.email"] = marker,
            },
            "there is no telephone number to go by"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/ledgerhouse/contacts"))!.Count(c =>
            c.GetProperty("values").Text("email") == marker
        );
}

public sealed class GridletContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "gridlet";

    protected override IConnector Make(ConnectorHttp http) => new GridletConnector(http);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "sheet-row",
            new()
            {
                ["sheet"] = "rides",
                ["tab"] = "asked",
                ["mode"] = "add",
                ["columns.Fleet size"] = "4–9",
                ["columns.Email"] = marker,
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["sheet"] = "rides",
                ["tab"] = "gone",
                ["mode"] = "add",
                ["columns.Email"] = marker,
            },
            "404"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/gridlet/rides/asked"))!.Count(r =>
            r.GetProperty("cells").Text("Email") == marker
        );
}

public sealed class JobrackContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "jobrack";

    protected override IConnector Make(ConnectorHttp http) => new JobrackConnector(http);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "ticket",
            new()
            {
                ["queue"] = "RIDE",
                ["again"] = "change",
                ["summary"] = "Ring " + marker,
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["queue"] = "RIDE",
                ["again"] = "add",
                ["summary"] = marker,
                ["assignee"] = "nobody",
            },
            "There is nobody “nobody”"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/jobrack/tickets"))!.Count(t =>
            t.Text("summary")!.EndsWith(marker, StringComparison.Ordinal)
        );
}

public sealed class NamewellContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "namewell";

    protected override Uri Address => new(base.Address, "/dav/");

    protected override Dictionary<string, string> Details => new() { ["user"] = "team" };

    protected override IConnector Make(ConnectorHttp http) =>
        new NamewellConnector(new CardDav(http), TimeProvider.System);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "address-card",
            new()
            {
                ["whose"] = "book",
                ["book"] = "/dav/books/everybody/",
                ["name"] = "Ines Carrow",
                ["phone"] = "+447700900123",
                ["email"] = marker,
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["whose"] = "book",
                ["book"] = "/dav/books/everybody/",
                ["name"] = "Ines Carrow",
                ["email"] = marker,
            },
            "there is no number to know them by"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/namewell/cards"))!.Count(c =>
            VCard.Values(c.Text("text")!, "EMAIL").Contains(marker)
        );
}

public sealed class RingbarrowContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "ringbarrow";

    protected override IConnector Make(ConnectorHttp http) => new RingbarrowConnector(http);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "dial-entry",
            new()
            {
                ["list"] = "now",
                ["name"] = "Ines Carrow",
                ["phone"] = "+447700900123",
                ["email"] = marker,
                ["answers.fleet"] = "4–9",
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["list"] = "never",
                ["name"] = "Ines Carrow",
                ["phone"] = "+447700900123",
                ["email"] = marker,
            },
            "There is no list “never”"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/ringbarrow/entries"))!.Count(e =>
            e.Text("email") == marker
        );
}

public sealed class SignedEventsContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    protected override string Service => "earwick";

    protected override Uri Address => new(base.Address, "/api/earwick/events");

    protected override string Token => "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw";

    // It hears nothing that is not signed with the secret that it was given.
    public override async ValueTask InitializeAsync() =>
        await Seen.PostAsync("/earwick", new FormUrlEncodedContent([new("secret", Token)]));

    protected override IConnector Make(ConnectorHttp http) =>
        new SignedEventsConnector(http, new PublicAddress("http://127.0.0.1"), TimeProvider.System);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "signed-event",
            new()
            {
                ["event"] = "lead.asked",
                ["mode"] = "binary",
                ["body"] = JsonSerializer.Serialize(new { email = marker }),
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["event"] = "",
                ["mode"] = "structured",
                ["body"] = "{}",
            },
            "400"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/earwick/events"))!.Count(e =>
            e.Text("data")!.Contains(marker, StringComparison.Ordinal)
        );
}

public sealed class AnyApiContract(Outdoors outdoors) : ConnectorContract(outdoors)
{
    [Theory]
    [InlineData("\\\\elsewhere.example\\x")] // backslashes are strokes to addresses of the web
    [InlineData("/\\elsewhere.example/x")]
    [InlineData("http://127.0.0.1:1/x")]
    [InlineData("https:elsewhere.example")]
    public async Task A_path_made_with_a_leads_words_leads_to_no_other_address(string path)
    {
        var result = await Make(Http())
            .DeliverAsync(
                Access(),
                Of(
                    (
                        "api-call",
                        new()
                        {
                            ["method"] = "GET",
                            ["path"] = path,
                            ["send"] = "nothing",
                        }
                    )
                ),
                CancellationToken.None
            );
        Assert.Equal(AttemptEnd.Final, result.End);
        Assert.True(
            result.Reason.Contains("leads to another address", StringComparison.Ordinal)
                || result.Reason.Contains("404", StringComparison.Ordinal),
            result.Reason
        );
    }

    protected override string Service => "jobrack";

    protected override Uri Address => new(base.Address, "/api/jobrack/");

    protected override bool VerifiesKeys => false;

    protected override IConnector Make(ConnectorHttp http) => new AnyApiConnector(http);

    protected override (string, Dictionary<string, string>) Good(string marker) =>
        (
            "api-call",
            new()
            {
                ["method"] = "POST",
                ["path"] = "tickets",
                ["send"] = "json",
                ["body"] = JsonSerializer.Serialize(new { queue = "RIDE", summary = "Ring " + marker }),
                ["results.number"] = "/id",
            }
        );

    protected override (Dictionary<string, string>, string) Refused(string marker) =>
        (
            new()
            {
                ["method"] = "POST",
                ["path"] = "https://elsewhere.example/tickets",
                ["send"] = "nothing",
            },
            "leads to another address"
        );

    protected override async Task<int> CountAsync(string marker) =>
        (await Seen.GetFromJsonAsync<List<JsonElement>>("/api/seen/jobrack/tickets"))!.Count(t =>
            t.Text("summary")!.EndsWith(marker, StringComparison.Ordinal)
        );
}

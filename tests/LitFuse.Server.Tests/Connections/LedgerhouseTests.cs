using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>Customer records, from the token page to the deal that moves.</summary>
public sealed class LedgerhouseTests(World world) : LedgerWork(world)
{
    private readonly World world = world;
    private static readonly Dictionary<string, string> Nothing = [];

    [Fact]
    public async Task A_lead_becomes_a_contact_with_a_deal_and_the_post_has_its_link_and_again_changes_them()
    {
        var noor = await world.NoorAsync();
        var (lead, person, form, _) = await world.LitAsync(noor, f => Fuse(f, Contact(), Deal, Post));
        await world.ToldAsync(noor, lead, "step-done", "Deal");
        var contact = Assert.Single(await ContactsAsync(person["email"]));
        Assert.Equal(
            ("Ines", "4–9", "imke"),
            (
                contact.GetProperty("values").Text("first_name"),
                contact.GetProperty("values").Text("fleet_size"),
                contact.Text("owner")
            )
        );
        Assert.Equal(["ride", "4–9"], contact.GetProperty("tags").EnumerateArray().Select(t => t.GetString()));
        Assert.Contains("4–9", contact.GetProperty("notes")[0].GetString(), StringComparison.Ordinal);
        await world.ToldAsync(noor, lead, "step-done", "Post");
        Assert.EndsWith(
            $"/ledgerhouse/contacts/{contact.Text("id")}",
            (await world.PostsAsync("#ride-desk", person["email"])).Single().Text("text"),
            StringComparison.Ordinal
        );

        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "25+" }, form);
        await World.EventuallyAsync(
            async () =>
                (await ContactsAsync(person["email"])).Single().GetProperty("values").Text("fleet_size") == "25+",
            "changed contact"
        );
        await World.EventuallyAsync(
            async () =>
                (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/ledgerhouse/deals"))!
                    .Single(d => d.Text("contactId") == contact.Text("id"))
                    .GetProperty("changes")
                    .GetInt32() == 2,
            "changed deal"
        );
    }

    [Theory]
    [InlineData("half")]
    [InlineData("repeat")]
    [InlineData("busy")]
    [InlineData("down")]
    public async Task Whatever_the_service_does_there_is_one_contact(string mode)
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("ledgerhouse", mode);
        try
        {
            var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact()));
            if (mode != "repeat")
                Assert.Contains(
                    "Ledgerhouse",
                    (await world.ToldAsync(noor, lead, "step-retries")).Text("words"),
                    StringComparison.Ordinal
                );
            await world.WorksAgainAsync();
            await World.EventuallyAsync(
                async () =>
                {
                    world.Time.Move(TimeSpan.FromSeconds(2));
                    return (await world.StoryAsync(noor, lead)).Exists(l =>
                        l.Text("kind") == "step-done" && l.Text("step") == "Contact"
                    );
                },
                "contact in the end"
            );
            Assert.Single(await ContactsAsync(person["email"]));
        }
        finally
        {
            await world.WorksAgainAsync();
        }
    }

    [Fact]
    public async Task What_is_refused_says_why_and_is_not_tried_again()
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact(("match", "phone"))));
        Assert.Contains(
            "there is no telephone number to go by",
            (await world.ToldAsync(noor, lead, "step-failed")).Text("words"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task What_the_service_demands_is_known_before_arming()
    {
        var noor = await world.NoorAsync();
        var id = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        )!;
        async Task<List<string?>> FaultsOf(Step step)
        {
            var revision = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}"))
                .GetProperty("revision")
                .GetInt32();
            var saved = await (
                await noor.PutAsync(
                    $"/api/fuses/{id}/draft",
                    JsonContent.Create(
                        new { definition = Fuse(World.Form, step), revision },
                        options: Core.CoreJson.Options
                    )
                )
            ).BodyAsync();
            return [.. saved.GetProperty("faults").EnumerateArray().Select(f => f.Text("what"))];
        }

        Assert.Contains(
            "'Contact' puts nothing into “Last name”, which is demanded there.",
            await FaultsOf(Contact(("fields.last_name", "")))
        );
        Assert.Contains(
            "'Contact' fills “shoe_size”, which is not there any more.",
            await FaultsOf(Contact(("fields.shoe_size", "{{ lead.email }}")))
        );
        Assert.Contains(
            "'Contact' speaks of 'lead.hat', which nothing fills.",
            await FaultsOf(Contact(("fields.company", "{{ lead.hat }}")))
        );
        Assert.Contains("The owner there 'nobody' is not there.", await FaultsOf(Contact(("owner", "nobody"))));
        Assert.Contains(
            "The stage 'ridden' is not there.",
            await FaultsOf(
                Deal with
                {
                    Settings = new Dictionary<string, string>(Deal.Settings)
                    {
                        ["stage"] = "ridden",
                        ["contact"] = "C-1",
                    },
                }
            )
        );

        // A field made there a minute ago can be filled after a refresh.
        await world.Backlot.PostAsync("/ledgerhouse/fields", new FormUrlEncodedContent([new("name", "Hat size")]));
        async Task<bool> Has(bool again) => (
                await (
                    await noor.PostAsJsonAsync(
                        "/api/connections/lists",
                        new
                        {
                            client = "brackenwheel",
                            step = "crm-contact",
                            setting = "fields",
                            settings = Nothing,
                            again,
                        }
                    )
                ).BodyAsync()
            ).GetProperty("items").EnumerateArray().Any(i => i.Text("key") == "hat_size");
        Assert.False(await Has(again: false));
        Assert.True(await Has(again: true));
        Assert.Empty(await FaultsOf(Contact(("fields.hat_size", "{{ lead.email }}"))));
        var needs = await (
            await noor.PostAsJsonAsync(
                "/api/connections/lists",
                new
                {
                    client = "brackenwheel",
                    step = "crm-deal",
                    setting = "stage",
                    settings = Nothing,
                    again = false,
                }
            )
        ).BodyAsync();
        Assert.Equal("Pipeline", needs.GetProperty("needs")[0].GetString());
    }

    [Fact]
    public async Task A_connection_is_tried_before_it_is_kept_and_tells_what_it_may_not()
    {
        var noor = await world.NoorAsync();
        Assert.Contains(
            "answered 401 Unauthorized: The token is not known, or was taken back.",
            (await (await ConnectAsync(noor, "wrong")).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "not-connected",
            await (await ConnectAsync(noor, "x", address: $"http://127.0.0.1:{World.FreePort()}")).RefusalAsync(
                HttpStatusCode.BadGateway
            )
        );
        foreach (
            var (address, token) in new[]
            {
                ("ftp://127.0.0.1", "x"),
                ("https://me:pw@ledger.example", "x"),
                ("", "x"),
                (world.Backlot.BaseAddress!.ToString(), ""),
            }
        )
        {
            Assert.Equal(
                "bad-input",
                await (await ConnectAsync(noor, token, address: address)).RefusalAsync(HttpStatusCode.BadRequest)
            );
        }

        var part = await (await ConnectAsync(noor, await TokenAsync("contacts"))).BodyAsync();
        Assert.Equal(("partial", "Brackenwheel Cargo Cycles"), (part.Text("state"), part.Text("account")));
        Assert.StartsWith(
            "“read and write deals” was not given: no deal is made or moved",
            part.Text("fault"),
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(
            "token",
            part.GetRawText()
                .Replace("\"token\"", "", StringComparison.Ordinal)
                .Replace("Token", "", StringComparison.Ordinal)
                .Replace("tokens", "", StringComparison.OrdinalIgnoreCase),
            StringComparison.Ordinal
        );

        // Another token mends it, without any fuse being touched; a wrong one changes nothing.
        var id = part.Text("id")!;
        var access = $"/api/connections/{id}/access";
        Assert.Equal(
            "not-connected",
            await (await noor.PutAsJsonAsync(access, new { values = new { token = "wrong" } })).RefusalAsync(
                HttpStatusCode.BadGateway
            )
        );
        Assert.Equal("partial", (await RowAsync(noor, id)).Text("state"));
        var elsewhere = await (
            await noor.PutAsJsonAsync(access, new { values = new { address = $"http://127.0.0.1:{World.FreePort()}" } })
        ).BodyAsync();
        Assert.Equal(
            "Another address needs the token anew.",
            elsewhere.GetProperty("errors").GetProperty("token")[0].GetString()
        );
        var whole = await TokenAsync("contacts", "deals");
        Assert.Equal(
            "whole",
            (await (await noor.PutAsJsonAsync(access, new { values = new { token = whole } })).BodyAsync()).Text(
                "state"
            )
        );

        // Taken back there: the schedule finds it.
        await world.Backlot.PostAsync($"/ledgerhouse/tokens/{whole}/withdraw", null);
        world.Time.Move(TimeSpan.FromMinutes(16));
        await World.EventuallyAsync(
            async () => (await RowAsync(noor, id)).Text("state") == "withdrawn",
            "withdrawn access found by schedule"
        );
        world.Time.Move(TimeSpan.FromMinutes(-16));
        (await noor.DeleteAsync($"/api/connections/{id}")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task An_access_that_runs_out_soon_stands_on_the_watch_until_it_is_renewed()
    {
        var noor = await world.NoorAsync();
        async Task<List<JsonElement>> AilingAsync(string client) =>
            [
                .. (await noor.GetFromJsonAsync<JsonElement>($"/api/watch?client={client}"))
                    .GetProperty("accesses")
                    .EnumerateArray()
                    .Where(a => a.Text("name") == "Short ledger"),
            ];
        var id = (
            await (
                await ConnectAsync(noor, await TokenForAsync(30, "contacts", "deals"), name: "Short ledger")
            ).BodyAsync()
        ).Text("id")!;
        Assert.Empty(await AilingAsync("tarn-valley"));
        (
            await noor.PutAsJsonAsync(
                $"/api/connections/{id}/access",
                new { values = new { token = await TokenForAsync(3, "contacts", "deals") } }
            )
        ).EnsureSuccessStatusCode();
        var soon = Assert.Single(await AilingAsync("tarn-valley"));
        Assert.Equal(("whole", null, id), (soon.Text("state"), soon.Text("fault"), soon.Text("connectionId")));
        Assert.InRange(
            DateTimeOffset.Parse(soon.Text("expiresAt")!, CultureInfo.InvariantCulture) - world.Time.GetUtcNow(),
            TimeSpan.FromDays(2),
            TimeSpan.FromDays(4)
        );
        Assert.Empty(await AilingAsync("brackenwheel"));
        (
            await noor.PutAsJsonAsync(
                $"/api/connections/{id}/access",
                new { values = new { token = await TokenForAsync(3, "contacts") } }
            )
        ).EnsureSuccessStatusCode();
        Assert.Contains(
            "read and write deals",
            Assert.Single(await AilingAsync("tarn-valley")).Text("fault"),
            StringComparison.Ordinal
        );
        // One that lasts for ever takes the older one's end with it.
        (
            await noor.PutAsJsonAsync(
                $"/api/connections/{id}/access",
                new { values = new { token = await TokenAsync("contacts", "deals") } }
            )
        ).EnsureSuccessStatusCode();
        Assert.Empty(await AilingAsync("tarn-valley"));
        Assert.Null((await RowAsync(noor, id)).Text("expiresAt"));
        (await noor.DeleteAsync($"/api/connections/{id}")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task Reps_and_other_clients_connect_nothing()
    {
        var imke = await world.ImkeAsync();
        Assert.Equal(HttpStatusCode.Forbidden, (await ConnectAsync(imke, "x")).StatusCode);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (
                await imke.PostAsJsonAsync(
                    "/api/connections/lists",
                    new
                    {
                        client = "brackenwheel",
                        step = "crm-contact",
                        setting = "fields",
                        settings = Nothing,
                        again = false,
                    }
                )
            ).StatusCode
        );
    }
}

/// <summary>Steps into the ledger, tokens for it, and what stands in it.</summary>
public abstract class LedgerWork(World world) : IClassFixture<World>
{
    protected static Step Contact(params (string Key, string Value)[] more) =>
        new(
            "contact",
            "Contact",
            "crm-contact",
            StepMoment.AtOnce,
            new Dictionary<string, string>(
                new Dictionary<string, string>
                {
                    ["match"] = "email",
                    ["fields.first_name"] = "{{ lead.first_name }}",
                    ["fields.last_name"] = "{{ lead.last_name }}",
                    ["fields.email"] = "{{ lead.email }}",
                    ["fields.fleet_size"] = "{{ lead.fleet_size }}",
                    ["owner"] = "imke",
                    ["source"] = "{{ form.name }}",
                    ["tags"] = "ride, {{ lead.fleet_size }}",
                    ["note"] = "{{ answers }}",
                }
                    .Concat(more.Select(m => new KeyValuePair<string, string>(m.Key, m.Value)))
                    .GroupBy(p => p.Key)
                    .ToDictionary(g => g.Key, g => g.Last().Value)
            )
        );

    protected static readonly Step Deal = new(
        "deal",
        "Deal",
        "crm-deal",
        StepMoment.AtOnce,
        new Dictionary<string, string>
        {
            ["contact"] = "{{ steps.contact.id }}",
            ["name"] = "Lease for {{ lead.name }}",
            ["pipeline"] = "leases",
            ["stage"] = "new",
            ["value"] = "1200",
        }
    );

    protected static readonly Step Post = new(
        "post",
        "Post",
        StepKinds.ChannelPost,
        StepMoment.AtOnce,
        new Dictionary<string, string>
        {
            ["channel"] = "#ride-desk",
            ["words"] = "{{ lead.email }} stands at {{ steps.contact.url }}",
        }
    );

    protected static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "Into the ledger",
            Relight = Relight.Always,
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands = [new("always", "Always", new(EntryKind.Always), steps)],
        };

    protected async Task<List<JsonElement>> ContactsAsync(string email) =>
        [
            .. (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/ledgerhouse/contacts"))!.Where(c =>
                c.GetProperty("values").Text("email") == email
            ),
        ];

    protected Task<string> TokenAsync(params string[] may) => TokenForAsync(null, may);

    protected async Task<string> TokenForAsync(int? days, params string[] may)
    {
        var answer = await world.Backlot.PostAsync(
            "/ledgerhouse/tokens",
            new FormUrlEncodedContent([
                new("name", "Lit Fuse"),
                new("days", days?.ToString(CultureInfo.InvariantCulture) ?? ""),
                .. may.Select(m => new KeyValuePair<string, string>("may", m)),
            ])
        );
        var page = answer.Headers.Location?.ToString() is { } to ? to : answer.RequestMessage!.RequestUri!.ToString();
        return Regex
            .Match(page, "made=(?<token>[a-z0-9-]+)", RegexOptions.ExplicitCapture, TimeSpan.FromSeconds(1))
            .Groups["token"]
            .Value;
    }

    protected Task<HttpResponseMessage> ConnectAsync(
        HttpClient noor,
        string token,
        string client = "tarn-valley",
        string? address = null,
        string name = "Second ledger"
    ) =>
        noor.PostAsJsonAsync(
            "/api/connections",
            new
            {
                client,
                kind = "ledgerhouse",
                name,
                values = new { address = address ?? world.Backlot.BaseAddress!.ToString(), token },
            }
        );

    protected static async Task<JsonElement> RowAsync(HttpClient noor, string id) =>
        (await noor.GetFromJsonAsync<JsonElement>("/api/connections"))
            .GetProperty("connections")
            .EnumerateArray()
            .Single(c => c.Text("id") == id);
}

/// <summary>Two connections of one kind.</summary>
public sealed class TwoLedgersTests(World world) : LedgerWork(world)
{
    private readonly World world = world;

    [Fact]
    public async Task What_armed_fuses_need_is_not_taken_out_and_two_of_a_kind_are_told_apart()
    {
        var noor = await world.NoorAsync();
        var (_, _, form, fuse) = await world.LitAsync(noor, f => Fuse(f, Contact()));
        var second = (
            await (await ConnectAsync(noor, await TokenAsync("contacts", "deals"), "brackenwheel")).BodyAsync()
        ).Text("id")!;
        var revision = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}"))
            .GetProperty("revision")
            .GetInt32();
        var refused = await noor.PostAsJsonAsync($"/api/fuses/{fuse}/arm", new { revision });
        Assert.Contains(
            "does not say through which of 2 connections it goes",
            (await refused.BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );

        await World.ArmAsync(
            noor,
            Fuse(form, Contact(("connection", second))) with
            {
                Name = "Through the second",
            },
            fuse
        );
        Assert.Equal(
            ["Through the second"],
            (await RowAsync(noor, second)).GetProperty("usedBy").EnumerateArray().Select(u => u.GetString())
        );
        Assert.Contains(
            "Through the second",
            (await (await noor.DeleteAsync($"/api/connections/{second}")).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
        var person = world.Person("4–9");
        await world.SubmitAsync(person, form);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        Assert.Equal("handed to Second ledger", (await world.ToldAsync(noor, lead, "step-sent")).Text("words"));
        await world.ToldAsync(noor, lead, "step-done");
        Assert.Equal(1, (await RowAsync(noor, second)).GetProperty("health").GetProperty("taken").GetInt32());
        (await noor.PostAsync($"/api/fuses/{fuse}/disarm", null)).EnsureSuccessStatusCode();
        Assert.Equal(
            "still-used",
            await (await noor.DeleteAsync($"/api/connections/{second}")).RefusalAsync(HttpStatusCode.Conflict)
        );
    }
}

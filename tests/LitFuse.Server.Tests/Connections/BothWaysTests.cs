using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>One lead into every system of record from one fuse, and what the systems tell back.</summary>
public sealed class BothWaysTests(World world) : LedgerWork(world)
{
    private readonly World world = world;

    private static Step Of(string id, string kind, params (string Key, string Value)[] settings) =>
        new(id, id, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private static readonly Step Card = Of(
        "card",
        "address-card",
        ("whose", "book"),
        ("book", "/dav/books/everybody/"),
        ("name", "{{ lead.name }}, {{ lead.fleet_size }}"),
        ("phone", "{{ lead.phone }}"),
        ("email", "{{ lead.email }}"),
        ("link", "{{ lead.link }}")
    );

    private static readonly Step Dial = Of(
        "dial",
        "dial-entry",
        ("list", "now"),
        ("name", "{{ lead.name }}"),
        ("phone", "{{ lead.phone }}"),
        ("email", "{{ lead.email }}"),
        ("answers.fleet", "{{ lead.fleet_size }}"),
        ("tags", "ride, {{ form.name }}")
    );

    private async Task<JsonElement> ConnectAsync(HttpClient noor, string kind, object values, string? client = null)
    {
        var made = await noor.PostAsJsonAsync(
            "/api/connections",
            new
            {
                client = client ?? "brackenwheel",
                kind,
                name = "",
                values,
            }
        );
        Assert.True(made.IsSuccessStatusCode, await made.Content.ReadAsStringAsync());
        return await made.BodyAsync();
    }

    private async Task<List<JsonElement>> SeenAsync(string what) =>
        (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/" + what))!;

    private async Task<JsonElement> EntryAsync(string email) =>
        (await SeenAsync("ringbarrow/entries")).Single(e => e.Text("email") == email);

    [Fact]
    public async Task One_fuse_carries_a_lead_into_a_card_a_list_and_a_signed_event_and_calls_an_api_whose_answer_goes_on()
    {
        var noor = await world.NoorAsync();
        var events = await ConnectAsync(
            noor,
            "signed-events",
            new { address = world.BacklotUrl + "/api/earwick/events" }
        );
        var secret = events.Text("secret")!;
        Assert.StartsWith("whsec_", secret, StringComparison.Ordinal);
        Assert.Null((await RowAsync(noor, events.Text("id")!)).Text("secret")); // told once
        await world.Backlot.PostAsync("/earwick", new FormUrlEncodedContent([new("secret", secret)]));
        await ConnectAsync(
            noor,
            "any-api",
            new { address = world.BacklotUrl + "/api/jobrack", token = "backlot-demo-jobrack" }
        );
        var said = Of("said", "signed-event", ("event", "lead.asked"), ("mode", "structured"), ("body", ""));
        var call = Of(
            "call",
            "api-call",
            ("method", "POST"),
            ("path", "tickets"),
            ("send", "json"),
            ("body", """{"queue": "RIDE", "summary": "Ring \"{{ lead.name }}\" of {{ lead.email }}"}"""),
            ("results.number", "/id")
        );
        var post = Of(
            "post",
            StepKinds.ChannelPost,
            ("channel", "#ride-desk"),
            ("words", "{{ lead.email }} is {{ steps.call.number }}, answered {{ steps.call.code }}")
        );
        var file = Of(
            "file",
            StepKinds.FileRow,
            ("sheet", "All who asked"),
            ("mode", "change"),
            ("columns.Who", "{{ lead.name }}"),
            ("columns.Email", "{{ lead.email }}"),
            ("columns.Fleet", "{{ lead.fleet_size }}")
        );
        var (lead, person, form, _) = await world.LitAsync(noor, f => Fuse(f, Card, Dial, said, call, post, file));
        foreach (var step in new[] { "card", "dial", "said", "call", "post", "file" })
            await world.ToldAsync(noor, lead, "step-done", step);

        var card = (await SeenAsync("namewell/cards")).Single(c =>
            VCard.Values(c.Text("text")!, "EMAIL").Contains(person["email"])
        );
        Assert.Equal(
            $"{person["first_name"]} {person["last_name"]}, 4–9",
            VCard.Values(card.Text("text")!, "FN").Single()
        );
        Assert.Equal(["tel:" + World.E164(person)], VCard.Values(card.Text("text")!, "TEL"));
        var entry = await EntryAsync(person["email"]);
        Assert.Equal(("now", "4–9"), (entry.Text("list"), entry.GetProperty("answers").Text("fleet")));
        var heard = (await SeenAsync("earwick/events")).Single(e =>
            e.Text("data")!.Contains(person["email"], StringComparison.Ordinal)
        );
        Assert.Equal(
            ("lead.asked", "structured", "right", lead),
            (heard.Text("type"), heard.Text("mode"), heard.Text("proof"), heard.Text("subject"))
        );
        Assert.Equal("4–9", JsonDocument.Parse(heard.Text("data")!).RootElement.GetProperty("lead").Text("fleet_size"));
        var ticket = (await SeenAsync("jobrack/tickets")).Single(t =>
            t.Text("summary")!.EndsWith("of " + person["email"], StringComparison.Ordinal)
        );
        Assert.Equal(
            $"{person["email"]} is {ticket.Text("key")}, answered 201",
            (await world.PostsAsync("#ride-desk", person["email"])).Single().Text("text")
        );

        // Lit again, the records are changed, not doubled; our own file keeps their newest row.
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "25+" }, form);
        await World.EventuallyAsync(
            async () => (await EntryAsync(person["email"])).GetProperty("answers").Text("fleet") == "25+",
            "changed entry"
        );
        await World.EventuallyAsync(
            async () =>
                VCard
                    .Values(
                        (await SeenAsync("namewell/cards"))
                            .Single(c => VCard.Values(c.Text("text")!, "EMAIL").Contains(person["email"]))
                            .Text("text")!,
                        "FN"
                    )
                    .Single()
                    .EndsWith("25+", StringComparison.Ordinal),
            "changed card"
        );
        var sheet = (await noor.GetFromJsonAsync<JsonElement>("/api/sheets?client=brackenwheel"))
            .GetProperty("sheets")
            .EnumerateArray()
            .Single(s => s.Text("name") == "All who asked");
        Assert.Equal(1, sheet.GetProperty("rows").GetInt32());
        var csv = await noor.GetStringAsync("/api/sheets/file?client=brackenwheel&name=All%20who%20asked&format=csv");
        Assert.Equal(
            ["Who,Email,Fleet", $"{person["first_name"]} {person["last_name"]},{person["email"]},25+"],
            csv.TrimStart('\uFEFF').Split("\r\n", StringSplitOptions.RemoveEmptyEntries)
        );
        Assert.Equal(
            "25+",
            JsonDocument
                .Parse(
                    await noor.GetStringAsync(
                        "/api/sheets/file?client=brackenwheel&name=All%20who%20asked&format=ndjson"
                    )
                )
                .RootElement.Text("Fleet")
        );
        Assert.Equal(
            "PK",
            System.Text.Encoding.ASCII.GetString(
                (
                    await noor.GetByteArrayAsync(
                        "/api/sheets/file?client=brackenwheel&name=All%20who%20asked&format=xlsx"
                    )
                )[..2]
            )
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await (await world.AsAsync("marguerite@hollinvane.example")).GetAsync(
                    "/api/sheets/file?client=brackenwheel&name=All%20who%20asked"
                )
            ).StatusCode
        ); // not her client

        // Who refuses to be contacted stands in no rep's phone any more.
        (
            await noor.PostAsJsonAsync(
                "/api/do-not-contact",
                new
                {
                    client = "brackenwheel",
                    addresses = person["email"],
                    reason = "asked for it",
                }
            )
        ).EnsureSuccessStatusCode();
        await World.EventuallyAsync(
            async () =>
                !(await SeenAsync("namewell/cards")).Exists(c =>
                    VCard.Values(c.Text("text")!, "EMAIL").Contains(person["email"])
                ),
            "card taken out"
        );
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "1–3" }, form);
        await World.EventuallyAsync(
            async () =>
                (await world.StoryAsync(noor, lead)).Exists(l =>
                    l.Text("kind") == "step-cancelled" && l.Text("step") == "card"
                ),
            "no card again"
        );
    }

    [Fact]
    public async Task A_secret_is_replaced_with_both_signing_for_a_while()
    {
        var noor = await world.NoorAsync();
        var made = await ConnectAsync(
            noor,
            "signed-events",
            new { address = world.BacklotUrl + "/api/earwick/events" },
            "tarn-valley"
        );
        var id = made.Text("id");
        var rotated = await (
            await noor.PostAsJsonAsync($"/api/connections/{id}/secret", new { overlapHours = 24 })
        ).BodyAsync();
        Assert.NotEqual(made.Text("secret"), rotated.Text("secret"));
        Assert.NotNull(rotated.Text("olderUntil"));
        async Task<bool> HearsAsync(string secret)
        {
            await world.Backlot.PostAsync("/earwick", new FormUrlEncodedContent([new("secret", secret)]));
            return (await (await noor.PostAsync($"/api/connections/{id}/verify", null)).BodyAsync()).Text("state")
                == "whole";
        }

        Assert.True(await HearsAsync(made.Text("secret")!)); // who has the older one still hears
        Assert.True(await HearsAsync(rotated.Text("secret")!));
        Assert.False(await HearsAsync("whsec_" + Convert.ToBase64String(new byte[24])));
        world.Time.Move(TimeSpan.FromHours(25));
        Assert.False(await HearsAsync(made.Text("secret")!));
        Assert.True(await HearsAsync(rotated.Text("secret")!));
        world.Time.Move(TimeSpan.FromHours(-25));
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync($"/api/connections/{id}/secret", new { overlapHours = -1 })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        var ledger = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .First(c => c.Text("kind") == "ledgerhouse")
            .Text("id");
        Assert.Equal(
            "not-now",
            await (
                await noor.PostAsJsonAsync($"/api/connections/{ledger}/secret", new { overlapHours = 1 })
            ).RefusalAsync(HttpStatusCode.Conflict)
        );
    }

    [Fact]
    public async Task Outcomes_come_back_touch_the_lead_and_go_out_to_other_systems_once()
    {
        var noor = await world.NoorAsync();
        await HearersAsync("ringbarrow");
        var (lead, person, form, _) = await world.LitAsync(noor, f => Fuse(f, Contact(), Dial));
        await World.ArmAsync(
            noor,
            new()
            {
                Name = "Outcomes into the ledger",
                Relight = Relight.Always,
                LitBy =
                [
                    new(
                        EventKeys.CallOutcome,
                        new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = ["call-back", "reached"] }
                    ),
                ],
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            Contact(("note", "Rung: {{ lead.last_outcome }}, {{ lead.last_note }}")),
                            Post with
                            {
                                Settings = new Dictionary<string, string>(Post.Settings)
                                {
                                    ["words"] = "{{ lead.email }} → {{ lead.last_outcome }}",
                                },
                            },
                        ]
                    ),
                ],
            }
        );
        await world.ToldAsync(noor, lead, "step-done", "dial");
        var entry = (await EntryAsync(person["email"])).Text("id");
        await world.FaultAsync("ringbarrow", "repeat"); // it tells everything twice
        await world.Backlot.PostAsync(
            $"/ringbarrow/entries/{entry}",
            new FormUrlEncodedContent([new("outcome", "call-back"), new("note", "after <six>; \"maybe\"")])
        );
        Assert.Equal(
            "Ringbarrow: Imke Sandoval rang them: call back, “after <six>; \"maybe\"”",
            (await world.ToldAsync(noor, lead, "outcome-noted")).Text("words")
        );
        await world.WorksAgainAsync();
        await World.EventuallyAsync(
            async () =>
                (await ContactsAsync(person["email"]))
                    .Single()
                    .GetProperty("notes")
                    .EnumerateArray()
                    .Any(n => n.GetString() == "Rung: call back, after <six>; \"maybe\""),
            "note in the ledger"
        );
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", person["email"])).Count == 1,
            "one post"
        );
        var whole = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("lead");
        Assert.Equal("Imke Sandoval", whole.Text("firstTouchBy"));
        Assert.Single(await world.StoryAsync(noor, lead), l => l.Text("kind") == "outcome-noted");

        // Put through a fuse of another day, they come to the band of their outcome and to no other.
        Band Rung(string outcome) =>
            new(
                outcome,
                outcome,
                new(
                    EntryKind.On,
                    Event: EventKeys.CallOutcome,
                    Only: new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = [outcome] }
                ),
                [
                    Of(
                        "post-" + outcome,
                        StepKinds.ChannelPost,
                        ("channel", "#ride-desk"),
                        ("words", "{{ lead.email }} was rung")
                    ),
                ]
            );
        var past = new FuseDefinition
        {
            Name = "By outcome",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [Of("asked", StepKinds.ChannelPost, ("channel", "#ride-desk"), ("words", "{{ lead.email }} asked"))]
                ),
                Rung("call-back"),
                Rung("reached"),
            ],
        };
        var fuse = await World.ArmAsync(noor, past);
        var (since, until) = (
            world.Now.InUtc().Date.PlusDays(-1).ToString("yyyy-MM-dd", null),
            world.Now.InUtc().Date.PlusDays(1).ToString("yyyy-MM-dd", null)
        );
        var id = (
            await (
                await noor.PostAsync(
                    $"/api/fuses/{fuse}/backtests",
                    JsonContent.Create(
                        new
                        {
                            definition = past,
                            forms = new[] { form },
                            since,
                            until,
                        },
                        options: CoreJson.Options
                    )
                )
            ).BodyAsync()
        ).Text("id");
        JsonElement backtest = default;
        await World.EventuallyAsync(
            async () =>
                (backtest = await noor.GetFromJsonAsync<JsonElement>($"/api/backtests/{id}"))
                    .GetProperty("row")
                    .Text("status") == "done",
            "end of the backtest"
        );
        Assert.Equal(
            [1, 1, 0],
            backtest
                .GetProperty("told")
                .GetProperty("this")
                .GetProperty("bands")
                .EnumerateArray()
                .Select(b => b.GetProperty("leads").GetInt32())
        );
    }

    [Fact]
    public async Task A_status_there_lights_a_fuse_here()
    {
        var noor = await world.NoorAsync();
        await HearersAsync("ledgerhouse");
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact()));
        await World.ArmAsync(
            noor,
            new()
            {
                Name = "Won there, won here",
                LitBy =
                [
                    new(EventKeys.RecordMoved, new Dictionary<string, IReadOnlyList<string>> { ["status"] = ["won"] }),
                ],
                Bands =
                [
                    new("always", "Always", new(EntryKind.Always), [Of("stage", StepKinds.SetStage, ("stage", "Won"))]),
                ],
            }
        );
        await world.ToldAsync(noor, lead, "step-done", "Contact");
        var contact = (await ContactsAsync(person["email"])).Single().Text("id");
        await world.Backlot.PostAsync(
            $"/ledgerhouse/contacts/{contact}",
            new FormUrlEncodedContent([new("status", "won")])
        );
        Assert.Contains(
            "the contact there is now “won”",
            (await world.ToldAsync(noor, lead, "record-moved")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.Equal("stage: Won", (await world.ToldAsync(noor, lead, "step-done", "stage")).Text("words"));
    }

    [Fact]
    public async Task A_step_is_tried_as_a_test_and_what_it_left_is_taken_back()
    {
        var noor = await world.NoorAsync();
        var tried = await (
            await noor.PostAsync(
                "/api/connections/try",
                JsonContent.Create(new { client = "brackenwheel", step = Dial }, options: Core.CoreJson.Options)
            )
        ).BodyAsync();
        Assert.Equal(("accepted", "Ringbarrow took it"), (tried.Text("end"), tried.Text("reason")));
        Assert.Equal(201, tried.GetProperty("exchanges")[0].GetProperty("status").GetInt32());
        Assert.StartsWith("curl -X PUT 'http://127.0.0.1:", tried.Text("curl"), StringComparison.Ordinal);
        Assert.Contains("-H 'Authorization: Bearer •••'", tried.Text("curl"), StringComparison.Ordinal);
        var reference = tried.Text("reference");
        Assert.StartsWith(
            "TEST · ",
            (await SeenAsync("ringbarrow/entries")).Single(e => e.Text("id") == reference).Text("name"),
            StringComparison.Ordinal
        );
        var back = await (
            await noor.PostAsJsonAsync(
                $"/api/connections/{tried.Text("connectionId")}/take-back",
                new { kind = "dial-entry", reference }
            )
        ).BodyAsync();
        Assert.True(back.GetProperty("gone").GetBoolean());
        Assert.DoesNotContain(await SeenAsync("ringbarrow/entries"), e => e.Text("id") == reference);

        var broken = Dial with { Settings = new Dictionary<string, string>(Dial.Settings) { ["list"] = "never" } };
        Assert.Contains(
            "The list 'never' is not there.",
            (
                await (
                    await noor.PostAsync(
                        "/api/connections/try",
                        JsonContent.Create(
                            new { client = "brackenwheel", step = broken },
                            options: Core.CoreJson.Options
                        )
                    )
                ).BodyAsync()
            ).Text("detail"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (
                await (await world.ImkeAsync()).PostAsJsonAsync("/api/connections/try", new { client = "brackenwheel" })
            ).StatusCode
        );
    }

    [Fact]
    public async Task Chosen_leads_are_sent_by_hand_as_a_step_of_a_fuse_does_it()
    {
        var noor = await world.NoorAsync();
        var (_, person, form, fuse) = await world.LitAsync(noor, f =>
            Fuse(
                f,
                Dial,
                Post with
                {
                    Settings = new Dictionary<string, string>(Post.Settings) { ["words"] = "x {{ lead.email }}" },
                }
            )
        );
        await World.EventuallyAsync(
            async () => (await SeenAsync("ringbarrow/entries")).Exists(e => e.Text("email") == person["email"]),
            "on the list"
        );
        (await noor.PostAsync($"/api/fuses/{fuse}/disarm", null)).EnsureSuccessStatusCode();
        var others = new[] { world.Person("1–3"), world.Person("25+") };
        foreach (var other in others)
            await world.SubmitAsync(other, form);
        var ids = new List<string?>();
        foreach (var other in others)
            ids.Add((await World.FoundAsync(noor, other["email"])).Text("id"));
        var steps = (await noor.GetFromJsonAsync<JsonElement>("/api/deliveries/pushable?client=brackenwheel"))
            .GetProperty("steps")
            .EnumerateArray()
            .Where(s => s.Text("fuseId") == fuse)
            .ToList();
        Assert.Equal(("dial", "Ringbarrow"), (steps.Single().Text("stepId"), steps.Single().Text("connection")));
        Assert.Equal(2, (
                await (
                    await noor.PostAsJsonAsync(
                        "/api/deliveries/push",
                        new
                        {
                            client = "brackenwheel",
                            ids,
                            fuseId = fuse,
                            stepId = "dial",
                            justCount = true,
                        }
                    )
                ).BodyAsync()
            ).GetProperty("pushed").GetInt32());
        (
            await noor.PostAsJsonAsync(
                "/api/deliveries/push",
                new
                {
                    client = "brackenwheel",
                    ids,
                    fuseId = fuse,
                    stepId = "dial",
                    justCount = false,
                }
            )
        ).EnsureSuccessStatusCode();
        foreach (var other in others)
            await World.EventuallyAsync(
                async () => (await SeenAsync("ringbarrow/entries")).Exists(e => e.Text("email") == other["email"]),
                "sent by hand"
            );
        Assert.Contains(await world.StoryAsync(noor, ids[0]!), l => l.Text("words") == "sent to Ringbarrow by hand");
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/deliveries/push",
                    new
                    {
                        client = "brackenwheel",
                        ids,
                        fuseId = fuse,
                        stepId = "Post",
                        justCount = true,
                    }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task A_file_goes_out_every_night_into_a_folder_or_by_mail()
    {
        var noor = await world.NoorAsync();
        var doors = (await noor.GetFromJsonAsync<JsonElement>("/api/nightly-files?client=brackenwheel"))
            .GetProperty("doors")
            .EnumerateArray()
            .ToList();
        var folder = doors.Single(d => d.Text("name") == "Namewell").Text("id");
        var mail = doors.Single(d => d.Text("name") == "Pillarpost").Text("id");
        foreach (
            var (connectionId, to, format) in new[]
            {
                (folder, "../up", "csv"),
                (mail, "nobody", "csv"),
                (folder, "files/x", "pdf"),
            }
        )
        {
            Assert.Equal(
                "bad-input",
                await (
                    await noor.PostAsJsonAsync(
                        "/api/nightly-files",
                        new
                        {
                            client = "brackenwheel",
                            name = "X",
                            connectionId,
                            to,
                            format,
                            ofTheDay = true,
                            at = "02:30",
                        }
                    )
                ).RefusalAsync(HttpStatusCode.BadRequest)
            );
        }

        var made = await (
            await noor.PostAsJsonAsync(
                "/api/nightly-files",
                new
                {
                    client = "brackenwheel",
                    name = "All leads",
                    connectionId = folder,
                    to = "files/leads",
                    format = "ndjson",
                    columns = new[] { "name", "email", "fleet_size" },
                    ofTheDay = false,
                    at = "02:30",
                }
            )
        ).BodyAsync();
        Assert.Contains(
            "These files go out through it every night: All leads",
            (await (await noor.DeleteAsync($"/api/connections/{folder}")).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
        await noor.PostAsJsonAsync(
            "/api/nightly-files",
            new
            {
                client = "brackenwheel",
                name = "Yesterday",
                connectionId = mail,
                to = "noor@quillonstreet.example",
                format = "csv",
                ofTheDay = true,
                at = "02:45",
            }
        );
        await world.FaultAsync("namewell", "error");
        world.Time.Move(TimeSpan.FromHours(15)); // over 02:30 the next day
        try
        {
            await World.EventuallyAsync(
                async () =>
                    (await FilesAsync(noor))
                        .Single(f => f.Text("name") == "All leads")
                        .Text("fault")
                        ?.Contains("answered 500", StringComparison.Ordinal) == true,
                "fault told"
            );
            await world.WorksAgainAsync();
            await World.EventuallyAsync(
                async () =>
                {
                    world.Time.Move(TimeSpan.FromSeconds(1));
                    return (await FilesAsync(noor)).All(f => f.Text("sentAt") is not null);
                },
                "both sent"
            );
            (await noor.PostAsync($"/api/nightly-files/{made.Text("id")}/now", null)).EnsureSuccessStatusCode();
        }
        finally
        {
            world.Time.Move(TimeSpan.FromHours(-15));
        }

        var file = (await SeenAsync("namewell/files")).Single(f =>
            f.Text("path")!.StartsWith("leads/brackenwheel-All-leads-", StringComparison.Ordinal)
        );
        var lines = (await world.Backlot.GetStringAsync("/api/seen/namewell/files/" + file.Text("path"))).Split(
            '\n',
            StringSplitOptions.RemoveEmptyEntries
        );
        Assert.Equal(
            ["name", "email", "fleet_size"],
            JsonDocument.Parse(lines[0]).RootElement.EnumerateObject().Select(p => p.Name)
        );
        Assert.Equal(
            lines.Length,
            (await FilesAsync(noor)).Single(f => f.Text("name") == "All leads").GetProperty("rows").GetInt32()
        );
        Assert.Contains(
            "Yesterday, ",
            await world.Backlot.GetStringAsync("/api/pillarpost/letters?to=noor@quillonstreet.example"),
            StringComparison.Ordinal
        );
        Assert.Single(await SeenAsync("namewell/files"), f =>
            f.Text("path")!.Contains("All-leads", StringComparison.Ordinal)
        ); // the same day, the same file
        (await noor.DeleteAsync($"/api/nightly-files/{made.Text("id")}")).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task What_is_taken_back_before_it_went_ends_its_burn()
    {
        var noor = await world.NoorAsync();
        var namewell = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .First(c => c.Text("kind") == "namewell")
            .Text("id");
        (await noor.PostAsync($"/api/connections/{namewell}/pause", null)).EnsureSuccessStatusCode();
        try
        {
            var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(form, Card));
            await world.ToldAsync(noor, lead, "step-sent", "card");
            (
                await noor.PostAsJsonAsync(
                    "/api/do-not-contact",
                    new { client = "brackenwheel", addresses = person["email"] }
                )
            ).EnsureSuccessStatusCode();
            await World.EventuallyAsync(
                async () =>
                    (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                        .GetProperty("burns")
                        .EnumerateArray()
                        .All(b => b.Text("status") == "ended"),
                "the end of the burn"
            );
        }
        finally
        {
            await noor.PostAsync($"/api/connections/{namewell}/resume", null);
        }
    }

    [Fact]
    public async Task A_test_leads_records_are_swept_away_with_it()
    {
        var noor = await world.NoorAsync();
        // A form whose made-up answers have an email and a number.
        await World.ArmAsync(
            noor,
            Fuse(
                World.Form,
                Contact(),
                Dial,
                Card,
                Of(
                    "file",
                    StepKinds.FileRow,
                    ("sheet", "Tests too"),
                    ("mode", "add"),
                    ("columns.Who", "{{ lead.name }}")
                )
            ) with
            {
                Name = "Test everything",
            }
        );
        var form = await World.FormIdAsync(noor, World.Form);
        (await noor.PostAsync($"/api/forms/{form}/test-lead?onlyMe=false", null)).EnsureSuccessStatusCode();
        async Task<List<string>> TestsAsync() =>
            [
                .. (await noor.GetFromJsonAsync<JsonElement>("/api/leads?client=brackenwheel&tests=only"))
                    .GetProperty("items")
                    .EnumerateArray()
                    .Select(i => i.Text("id")!),
            ];
        await World.EventuallyAsync(async () => (await TestsAsync()).Count > 0, "the test lead");
        var lead = (await TestsAsync())[0];
        foreach (var step in new[] { "Contact", "dial", "card", "file" })
            await world.ToldAsync(noor, lead, "step-done", step);
        Assert.Contains(await SeenAsync("ringbarrow/entries"), e => e.Text("ownId") == Guid.Parse(lead).ToString());
        Assert.Contains(await SeenAsync("ledgerhouse/contacts"), c => c.Text("ownId") == Guid.Parse(lead).ToString());
        var swept = await (await noor.PostAsync("/api/tests/sweep?client=brackenwheel", null)).BodyAsync();
        Assert.Empty(swept.GetProperty("failed").EnumerateArray());
        Assert.DoesNotContain(await SeenAsync("ringbarrow/entries"), e =>
            e.Text("ownId") == Guid.Parse(lead).ToString()
        );
        Assert.DoesNotContain(await SeenAsync("ledgerhouse/contacts"), c =>
            c.Text("ownId") == Guid.Parse(lead).ToString()
        );
        Assert.DoesNotContain(await SeenAsync("namewell/cards"), c =>
            c.Text("text")!.Contains(Guid.Parse(lead).ToString(), StringComparison.Ordinal)
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/sheets?client=brackenwheel"))
                .GetProperty("sheets")
                .EnumerateArray(),
            s => s.Text("name") == "Tests too"
        );
    }

    private static async Task<List<JsonElement>> FilesAsync(HttpClient noor) =>
        [
            .. (await noor.GetFromJsonAsync<JsonElement>("/api/nightly-files?client=brackenwheel"))
                .GetProperty("files")
                .EnumerateArray(),
        ];

    // The service is asked at the start, and again when it forgot: then it tells us.
    private async Task HearersAsync(string kind)
    {
        var noor = await world.NoorAsync();
        var id = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .First(c => c.Text("kind") == kind)
            .Text("id");
        Assert.Equal(
            "whole",
            (await (await noor.PostAsync($"/api/connections/{id}/verify", null)).BodyAsync()).Text("state")
        );
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// What stands around the run sheet: burns step by step, holding everything, arming for earlier leads, who is here,
/// trying a message on oneself.
/// </summary>
public sealed class RunSheetTests(World world) : IClassFixture<World>
{
    private static Step Post(string id, string words, int after = 0) =>
        new(
            id,
            id,
            StepKinds.ChannelPost,
            StepMoment.After(after),
            new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = words }
        );

    private static Step Text(string id, int after = 0) =>
        new(
            id,
            id,
            StepKinds.Text,
            StepMoment.After(after),
            new Dictionary<string, string> { ["words"] = "{{ lead.first_name }}, thank you." }
        );

    private static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "Run sheet: made for a test",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands =
            [
                new("always", "Always", new(EntryKind.Always), steps),
                new(
                    "said",
                    "They wrote back",
                    new(EntryKind.On, Event: EventKeys.Replied),
                    [Post("told", "{{ lead.name }} wrote")]
                ),
            ],
        };

    private static async Task<JsonElement> BurnAsync(HttpClient noor, string fuse) =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/burns?fuse={fuse}"))
            .GetProperty("items")
            .EnumerateArray()
            .Single();

    [Fact]
    public async Task A_burn_is_found_by_fuse_band_and_state_and_told_step_by_step()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, fuse) = await world.LitAsync(noor, form =>
            Fuse(form, Post("now", "{{ lead.name }} asked"), Post("later", "{{ lead.name }} still waits", 7200))
        );
        await world.ToldAsync(noor, lead, "step-done", "now");
        var row = await BurnAsync(noor, fuse);
        Assert.Equal(
            ("burning", 1, 1),
            (row.Text("status"), row.GetProperty("waiting").GetInt32(), row.GetProperty("done").GetInt32())
        );
        Assert.Equal(["Always"], row.GetProperty("bands").EnumerateArray().Select(b => b.GetString()!));
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/burns/{row.Text("id")}");
        var now = whole.GetProperty("steps").EnumerateArray().Single(s => s.Text("stepId") == "now");
        Assert.Equal(
            ("done", $"Ines {person["last_name"]} asked"),
            (now.Text("status"), now.GetProperty("settings").Text("words"))
        );
        Assert.False(string.IsNullOrEmpty(now.GetProperty("results").Text("id")));
        Assert.Contains(whole.GetProperty("moments").EnumerateArray(), m =>
            m.Text("kind") == "band-lit" && m.Text("band") == "Always"
        );

        async Task<int> CountAsync(string query) =>
            (await noor.GetFromJsonAsync<JsonElement>($"/api/burns?fuse={fuse}&{query}"))
                .GetProperty("items")
                .GetArrayLength();
        Assert.Equal(
            (1, 0, 1, 0, 0),
            (
                await CountAsync("state=burning"),
                await CountAsync("state=failed"),
                await CountAsync("band=always"),
                await CountAsync("band=said"),
                await CountAsync("state=done")
            )
        );
        await (await noor.GetAsync($"/api/burns?fuse={fuse}&state=odd")).RefusalAsync(HttpStatusCode.BadRequest);
        var counts = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}/burn-counts");
        Assert.Equal((1, 1), (counts.GetProperty("lit").GetInt32(), counts.GetProperty("burning").GetInt32()));
        Assert.Equal(
            1,
            counts
                .GetProperty("steps")
                .EnumerateArray()
                .Single(s => s.Text("stepId") == "later")
                .GetProperty("waiting")
                .GetInt32()
        );

        (await noor.PostAsync($"/api/burns/{row.Text("id")}/stop", null)).EnsureSuccessStatusCode();
        Assert.Equal((1, 0), (await CountAsync("state=stopped"), await CountAsync("state=burning")));
    }

    [Fact]
    public async Task Everything_is_held_with_one_press_and_goes_on_in_order_when_let_go()
    {
        var noor = await world.NoorAsync();
        var client = (await noor.GetFromJsonAsync<JsonElement>("/api/session"))
            .GetProperty("clients")
            .EnumerateArray()
            .Single(c => c.Text("key") == "brackenwheel")
            .Text("id")!;
        (await noor.PostAsync($"/api/clients/{client}/hold", null)).EnsureSuccessStatusCode();
        try
        {
            await (await noor.PostAsync($"/api/clients/{client}/hold", null)).RefusalAsync(HttpStatusCode.Conflict);
            var (lead, _, _, fuse) = await world.LitAsync(noor, form =>
                Fuse(form, Post("now", "{{ lead.name }} asked"), Post("soon", "and again", 5))
            );
            await world.ToldAsync(noor, lead, "fuse-lit");
            world.Time.Move(TimeSpan.FromSeconds(30));
            await world.IdleAsync();
            Assert.DoesNotContain(await world.StoryAsync(noor, lead), l =>
                l.Text("kind") == "step-done" || l.Text("step") == "soon"
            );
            var chip = (await noor.GetFromJsonAsync<JsonElement>("/api/frame"))
                .GetProperty("clients")
                .EnumerateArray()
                .Single(c => c.Text("key") == "brackenwheel");
            Assert.Equal("Noor Abernathy-Voss", chip.Text("heldBy"));
            Assert.True(chip.GetProperty("heldBack").GetInt32() >= 1);
            Assert.Equal("burning", (await BurnAsync(noor, fuse)).Text("status"));
            Assert.False(
                string.IsNullOrEmpty((await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).Text("heldAt"))
            );
            (await noor.PostAsync($"/api/clients/{client}/let-go", null)).EnsureSuccessStatusCode();
            await world.ToldAsync(noor, lead, "step-done", "now");
            await world.ToldAsync(noor, lead, "step-done", "soon");
        }
        finally
        {
            await noor.PostAsync($"/api/clients/{client}/let-go", null);
            world.Time.Move(TimeSpan.FromSeconds(-30));
        }

        await (await noor.PostAsync($"/api/clients/{client}/let-go", null)).RefusalAsync(HttpStatusCode.Conflict);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await (await world.ImkeAsync()).PostAsync($"/api/clients/{client}/hold", null)).StatusCode
        );
    }

    [Fact]
    public async Task Armed_for_earlier_leads_too_it_says_for_how_many_and_lights_each_once()
    {
        var noor = await world.NoorAsync();
        var (lead, person, form, first) = await world.LitAsync(noor, f =>
            Fuse(f, Post("now", "{{ lead.name }} asked"))
        );
        await world.ToldAsync(noor, lead, "step-done", "now");
        (await noor.PostAsync($"/api/fuses/{first}/disarm", null)).EnsureSuccessStatusCode();

        var id = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        )!;
        var definition = Fuse(form, Post("caught", "{{ lead.name }} asked before"), Text("text"));
        var saved = await (
            await noor.PutAsync(
                $"/api/fuses/{id}/draft",
                JsonContent.Create(new { definition, revision = 1 }, options: CoreJson.Options)
            )
        ).BodyAsync();
        var preview = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/catch-up?days=2");
        Assert.Equal(
            (1, 1, 0),
            (
                preview.GetProperty("asked").GetInt32(),
                preview.GetProperty("lit").GetInt32(),
                preview.GetProperty("tooLate").GetInt32()
            )
        );
        Assert.Contains(preview.GetProperty("first").EnumerateArray(), f =>
            f.Text("words") == $"Ines {person["last_name"]} asked before"
        );
        await (await noor.GetAsync($"/api/fuses/{id}/catch-up?days=0")).RefusalAsync(HttpStatusCode.BadRequest);
        var armed = await noor.PostAsJsonAsync(
            $"/api/fuses/{id}/arm",
            new { revision = saved.GetProperty("revision").GetInt32(), alsoDays = 2 }
        );
        Assert.True(armed.IsSuccessStatusCode, await armed.Content.ReadAsStringAsync());
        await world.ToldAsync(noor, lead, "step-done", "caught");
        Assert.Equal(
            0,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/catch-up?days=2")).GetProperty("lit").GetInt32()
        );
        Assert.Single(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/burns?fuse={id}")).GetProperty("items").EnumerateArray()
        );
    }

    [Fact]
    public async Task Who_looks_at_a_sheet_hears_who_else_does_and_who_edits()
    {
        var (noor, lucan) = (await world.NoorAsync(), await world.AsAsync("lucan@quillonstreet.example"));
        var fuse = await World.ArmAsync(noor, Fuse(World.Form, Post("now", "x")));
        async Task<List<(string, bool)>> HereAsync(HttpClient who, bool edited = false, bool left = false) =>
            [
                .. (await (await who.PostAsJsonAsync($"/api/fuses/{fuse}/here", new { edited, left })).BodyAsync())
                    .GetProperty("people")
                    .EnumerateArray()
                    .Select(p => (p.Text("name")!.Split(' ')[0], p.GetProperty("edits").GetBoolean())),
            ];
        Assert.Empty(await HereAsync(noor, edited: true));
        Assert.Equal([("Noor", true)], await HereAsync(lucan));
        Assert.Equal([("Lucan", false)], await HereAsync(noor));
        await HereAsync(lucan, left: true);
        Assert.Empty(await HereAsync(noor));
        world.Time.Move(TimeSpan.FromMinutes(2));
        Assert.Empty(await HereAsync(lucan));
        world.Time.Move(TimeSpan.FromMinutes(-2));
    }

    [Fact]
    public async Task A_message_is_tried_on_oneself_and_goes_to_nobody_else()
    {
        var noor = await world.NoorAsync();
        (
            await noor.PutAsJsonAsync(
                "/api/tests/addresses",
                new
                {
                    phone = "+447700900555",
                    email = "noor@quillonstreet.example",
                    person = (string?)null,
                }
            )
        ).EnsureSuccessStatusCode();
        var step = JsonSerializer.SerializeToElement(Text("text"), CoreJson.Options);
        var tried = await (
            await noor.PostAsJsonAsync("/api/connections/try", new { client = "brackenwheel", step })
        ).BodyAsync();
        Assert.Equal("accepted", tried.Text("end"));
        var texts = await world.TextsAsync("+447700900555");
        Assert.StartsWith("TEST · ", texts[^1].Text("text"), StringComparison.Ordinal);
        var direct = JsonSerializer.SerializeToElement(Post("post", "x"), CoreJson.Options);
        await (
            await noor.PostAsJsonAsync("/api/connections/try", new { client = "brackenwheel", step = direct })
        ).RefusalAsync(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_fuse_tells_what_is_worth_a_look_and_proposes_a_name_and_is_armed_all_the_same()
    {
        var noor = await world.NoorAsync();
        var (_, key) = await World.OwnFormAsync(noor);
        var rules = new RuleSet(
            RuleMatch.All,
            [new("fleet_size", RuleOp.OneOf, ["25+"]), new("fleet_size", RuleOp.OneOf, ["1–3"])]
        );
        var fuse = Fuse(key, Post("now", "x"), Text("text"));
        var id = await World.ArmAsync(
            noor,
            fuse with
            {
                Bands = [.. fuse.Bands, new("never", "Never", new(EntryKind.When, rules), [Post("p", "y")])],
            }
        );
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}");
        Assert.EndsWith(": post in #ride-desk, text the lead", whole.Text("proposedName"), StringComparison.Ordinal);
        var doubt = whole.GetProperty("faults").EnumerateArray().Single();
        Assert.False(doubt.GetProperty("blocks").GetBoolean());
        Assert.Equal("never", doubt.Text("bandId"));
        await World.ArmAsync(noor, fuse with { Name = "The same again" });
        Assert.Contains(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}")).GetProperty("faults").EnumerateArray(),
            f => f.Text("what")!.StartsWith("“The same again” is armed too", StringComparison.Ordinal)
        );
    }
}

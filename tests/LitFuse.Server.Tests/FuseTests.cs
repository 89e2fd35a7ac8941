using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Xunit;

namespace LitFuse.Server.Tests;

public sealed class FuseTests(World world) : IClassFixture<World>
{
    private static async Task<JsonNode> WholeAsync(HttpClient noor, string id) =>
        (await noor.GetFromJsonAsync<JsonNode>($"/api/fuses/{id}"))!;

    private static async Task<string> IdOfAsync(HttpClient noor, string client, string begins) =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses?client={client}"))
            .GetProperty("fuses")
            .EnumerateArray()
            .First(f => f.Text("name")!.StartsWith(begins, StringComparison.Ordinal))
            .Text("id")!;

    private static Task<HttpResponseMessage> SaveAsync(HttpClient noor, string id, JsonNode whole) =>
        noor.PutAsJsonAsync(
            $"/api/fuses/{id}/draft",
            new { definition = whole["definition"], revision = (int)whole["revision"]! }
        );

    [Fact]
    public async Task An_edit_is_a_draft_until_it_is_armed_and_then_burns_as_the_next_version()
    {
        var noor = await world.NoorAsync();
        var id = await IdOfAsync(noor, "brackenwheel", "Test ride");
        var whole = await WholeAsync(noor, id);
        whole["definition"]!["bands"]![0]!["steps"]![0]!["settings"]!["words"] = "NEW WORDS for {{ lead.email }}";
        var saved = JsonNode.Parse(await (await SaveAsync(noor, id, whole)).Content.ReadAsStringAsync())!;
        Assert.True((bool)saved["fuse"]!["draftDiffers"]!);
        Assert.Equal(1, (int)saved["fuse"]!["armedVersion"]!);

        var before = world.Person();
        await world.LeadOfAsync(noor, before);
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", before["email"])).Count == 1,
            "post"
        );
        Assert.DoesNotContain(
            "NEW WORDS",
            (await world.PostsAsync("#ride-desk", before["email"]))[0].Text("text"),
            StringComparison.Ordinal
        );

        var armed = await noor.PostAsJsonAsync($"/api/fuses/{id}/arm", new { revision = (int)saved["revision"]! });
        Assert.Equal(2, (await armed.BodyAsync()).GetProperty("fuse").GetProperty("armedVersion").GetInt32());
        var after = world.Person();
        var lead = await world.LeadOfAsync(noor, after);
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", "NEW WORDS for " + after["email"])).Count == 1,
            "post in the new words"
        );
        Assert.EndsWith(
            ", v2",
            (await world.ToldAsync(noor, lead.Text("id")!, "fuse-lit")).Text("fuse"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Who_saves_over_somebody_is_told()
    {
        var noor = await world.NoorAsync();
        var id = await IdOfAsync(noor, "hollin-vane", "Quote");
        var mine = await WholeAsync(noor, id);
        var lucan = await world.AsAsync("lucan@quillonstreet.example");
        var theirs = await WholeAsync(lucan, id);
        theirs["definition"]!["name"] = "Quote: theirs";
        Assert.Equal(HttpStatusCode.OK, (await SaveAsync(lucan, id, theirs)).StatusCode);
        var refused = await SaveAsync(noor, id, mine);
        Assert.Equal("draft-moved", await refused.RefusalAsync(HttpStatusCode.Conflict));
        Assert.Equal("Lucan Thistlewood saved it last.", (await refused.BodyAsync()).Text("detail"));

        var dropped = await lucan.DeleteAsync($"/api/fuses/{id}/draft");
        Assert.Equal("Quote: tell the team, thank them", (await dropped.BodyAsync()).GetProperty("fuse").Text("name"));
    }

    [Fact]
    public async Task Faults_keep_it_from_being_armed_and_are_all_listed()
    {
        var noor = await world.NoorAsync();
        var made = await (await noor.PostAsJsonAsync("/api/fuses", new { client = "tarn-valley" })).BodyAsync();
        var id = made.Text("id")!;
        var whole = await WholeAsync(noor, id);
        Assert.Equal("Ask about a date: tell the team", (string?)whole["definition"]!["name"]); // named by what it does
        Assert.Contains("Nothing happens", (string?)whole["faults"]![0]!["what"], StringComparison.Ordinal);
        var refused = await noor.PostAsJsonAsync($"/api/fuses/{id}/arm", new { revision = (int)whole["revision"]! });
        Assert.Equal("cannot-arm", await refused.RefusalAsync(HttpStatusCode.UnprocessableEntity));
        Assert.Equal(1, (await refused.BodyAsync()).GetProperty("faults").GetArrayLength());
        Assert.Equal(
            "not-now",
            await (await noor.DeleteAsync($"/api/fuses/{id}/draft")).RefusalAsync(HttpStatusCode.Conflict)
        );
    }

    [Fact]
    public async Task A_disarmed_fuse_is_lit_by_nothing()
    {
        var noor = await world.NoorAsync();
        var id = await IdOfAsync(noor, "brackenwheel", "Running-cost");
        Assert.Equal(HttpStatusCode.OK, (await noor.PostAsync($"/api/fuses/{id}/disarm", null)).StatusCode);
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/fuses/{id}/disarm", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
        await world.FillAsync(
            "formbench/fill/fb-brackenwheel-costs",
            new()
            {
                ["full_name"] = "Hal Wetherby",
                ["email"] = "hal.wetherby@example.net",
                ["fleet_size"] = "1–3",
            }
        );
        var lead = await World.FoundAsync(noor, "hal.wetherby@example.net");
        Assert.DoesNotContain(await world.StoryAsync(noor, lead.Text("id")!), l => l.Text("kind") == "fuse-lit");

        var whole = await WholeAsync(noor, id);
        var again = await noor.PostAsJsonAsync($"/api/fuses/{id}/arm", new { revision = (int)whole["revision"]! });
        Assert.Equal(
            ("armed", 1),
            (
                (await again.BodyAsync()).GetProperty("fuse").Text("state"),
                (await again.BodyAsync()).GetProperty("fuse").GetProperty("armedVersion").GetInt32()
            )
        );
    }

    [Fact]
    public async Task A_preview_shows_the_words_as_a_lead_the_band_is_for_would_get_them()
    {
        var noor = await world.NoorAsync();
        var id = await IdOfAsync(noor, "brackenwheel", "Test ride");
        await world.LeadOfAsync(noor, world.Person("25+"));
        await world.LeadOfAsync(noor, world.Person("1–3"));
        async Task<JsonElement> Preview(string words, object? rules = null, int place = 0) =>
            await (
                await noor.PostAsJsonAsync(
                    $"/api/fuses/{id}/preview",
                    new
                    {
                        words,
                        place,
                        forms = new[] { World.Form },
                        rules,
                    }
                )
            ).BodyAsync();
        Assert.Equal("1–3", (await Preview("{{ lead.fleet_size }}")).Text("rendered"));
        var big = await Preview(
            "{{ lead.fleet_size }} bikes",
            new
            {
                match = "all",
                rules = new[]
                {
                    new
                    {
                        field = "fleet_size",
                        op = "one-of",
                        values = new[] { "25+" },
                    },
                },
            }
        );
        Assert.Equal(("25+ bikes", 9), (big.Text("rendered"), big.GetProperty("size").GetProperty("units").GetInt32()));
        Assert.NotNull((await Preview("{{ lead.fleet_size")).Text("fault"));
        Assert.Null((await Preview("x", place: 499)).Text("rendered"));
    }

    [Fact]
    public async Task A_draft_may_have_any_fault_but_not_any_size()
    {
        var noor = await world.NoorAsync();
        var id = await IdOfAsync(noor, "tarn-valley", "Date enquiry");
        var whole = await WholeAsync(noor, id);
        whole["definition"]!["bands"]![0]!["steps"]![0]!["settings"]!["words"] = new string('x', 20_001);
        Assert.Equal("bad-input", await (await SaveAsync(noor, id, whole)).RefusalAsync(HttpStatusCode.BadRequest));
    }
}

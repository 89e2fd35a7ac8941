using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using MiniExcelLibs;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>The list of leads: narrowed, kept, exported, changed in bulk; and tests: aimed and swept.</summary>
public sealed class ListAndTestsTests(World world) : IClassFixture<World>
{
    private static async Task<List<JsonElement>> ListAsync(HttpClient noor, string query) =>
        [.. (await noor.GetFromJsonAsync<JsonElement>("/api/leads?" + query)).GetProperty("items").EnumerateArray()];

    [Fact]
    public async Task A_list_is_narrowed_by_whatever_the_address_says()
    {
        var noor = await world.NoorAsync();
        var (big, small) = (world.Person("25+"), world.Person("1–3"));
        big["company"] = "Narrow Boats";
        await world.LeadOfAsync(noor, big);
        await world.LeadOfAsync(noor, small);
        var form = await World.FormIdAsync(noor, World.Form);
        async Task<bool> HasAsync(string query, Dictionary<string, string> who) =>
            (await ListAsync(noor, query)).Exists(l => l.Text("email") == who["email"]);
        Assert.True(await HasAsync("field=fleet_size&is=25%2B&q=narrow", big));
        Assert.False(await HasAsync("field=fleet_size&is=25%2B", small));
        Assert.True(await HasAsync("field=company&client=brackenwheel", big));
        Assert.False(await HasAsync("field=company&client=hollin-vane", big));
        Assert.True(await HasAsync($"form={form}&state=in-the-air&tests=without&owner=nobody", small));
        Assert.False(await HasAsync("tests=only", small));
        var today = world.Time.GetUtcNow().ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
        Assert.True(await HasAsync($"since={today}&until={today}", small));
        Assert.False(await HasAsync("until=2020-01-01", small));
        foreach (var odd in new[] { "state=asleep", "sort=height", "since=yesterday", "page=0" })
            Assert.Equal(
                "bad-input",
                await (await noor.GetAsync("/api/leads?" + odd)).RefusalAsync(HttpStatusCode.BadRequest)
            );
        var byTarget = await ListAsync(noor, "state=in-the-air&sort=target&client=brackenwheel");
        Assert.Equal(
            byTarget.Select(l => l.Text("targetAt")).Order(StringComparer.Ordinal),
            byTarget.Select(l => l.Text("targetAt"))
        );
        var byName = await ListAsync(noor, "sort=name&client=tarn-valley");
        Assert.True(byName.Count > 3);
    }

    [Fact]
    public async Task Many_are_tagged_and_given_to_somebody_at_once_and_each_story_says_so()
    {
        var noor = await world.NoorAsync();
        var ids = new List<string>();
        for (var i = 0; i < 3; i++)
        {
            var person = world.Person();
            person["company"] = "Bulk Buyers";
            ids.Add((await world.LeadOfAsync(noor, person)).Text("id")!);
        }

        var choices = await noor.GetFromJsonAsync<JsonElement>("/api/leads/choices?client=brackenwheel");
        var tobias = choices
            .GetProperty("owners")
            .EnumerateArray()
            .Single(o => o.Text("name") == "Tobias Renn")
            .Text("id");
        Assert.Equal(3, (
                await (
                    await noor.PostAsJsonAsync(
                        "/api/leads/change",
                        new
                        {
                            filter = new { client = "brackenwheel", q = "bulk buyers" },
                            tag = "Spring Push",
                            owner = tobias,
                        }
                    )
                ).BodyAsync()
            ).GetProperty("changed").GetInt32());
        Assert.Equal(
            ids.Order(StringComparer.Ordinal),
            (await ListAsync(noor, $"tag=spring%20push&owner={tobias}"))
                .Select(l => l.Text("id"))
                .Order(StringComparer.Ordinal)
        );
        Assert.Equal("Tobias Renn", (await ListAsync(noor, "tag=spring%20push"))[0].Text("owner"));
        await world.ToldAsync(noor, ids[0], "tagged");
        Assert.Equal(
            "Tobias Renn answers for them now",
            (await world.ToldAsync(noor, ids[1], "owner-changed")).Text("words")
        );
        Assert.Equal(3, (await ListAsync(noor, "q=spring%20push")).Count); // a tag is found as any word is
        Assert.Equal(1, (
                await (
                    await noor.PostAsJsonAsync(
                        "/api/leads/change",
                        new
                        {
                            ids = ids[..1],
                            untag = "spring push",
                            owner = "nobody",
                        }
                    )
                ).BodyAsync()
            ).GetProperty("changed").GetInt32());
        Assert.Contains(choices.GetProperty("forms").EnumerateArray(), f => f.Text("name") == "Book a test ride");
        var marguerite = (await noor.GetFromJsonAsync<JsonElement>("/api/leads/choices?client=hollin-vane"))
            .GetProperty("owners")
            .EnumerateArray()
            .Single(o => o.Text("name") == "Marguerite Oyelaran")
            .Text("id");
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/leads/change", new { ids, owner = marguerite })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/leads/change", new { ids, tag = "a,b" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/leads/change", new { tag = "x" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
    }

    [Fact]
    public async Task A_view_is_one_s_own_and_what_is_shown_comes_as_a_file()
    {
        var (noor, imke) = (await world.NoorAsync(), await world.ImkeAsync());
        var view = await (
            await noor.PostAsJsonAsync("/api/leads/views", new { name = "Late ones", query = "state=late&sort=target" })
        ).BodyAsync();
        await noor.PostAsJsonAsync("/api/leads/views", new { name = "Late ones", query = "state=late" });
        Assert.Equal(
            "state=late",
            Assert
                .Single(
                    (await noor.GetFromJsonAsync<JsonElement>("/api/leads/choices"))
                        .GetProperty("views")
                        .EnumerateArray()
                )
                .Text("query")
        );
        Assert.Empty(
            (await imke.GetFromJsonAsync<JsonElement>("/api/leads/choices")).GetProperty("views").EnumerateArray()
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await imke.DeleteAsync($"/api/leads/views/{view.Text("id")}")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.DeleteAsync($"/api/leads/views/{view.Text("id")}")).StatusCode
        );

        var person = world.Person();
        person["company"] = "Comma, \"Quote\" & Co";
        await world.LeadOfAsync(noor, person);
        var csv = await noor.GetAsync(
            $"/api/leads/export?q={person["email"]}&format=csv&columns=name,email,company,fleet_size"
        );
        Assert.StartsWith(
            "attachment; filename=\"leads-",
            csv.Content.Headers.ContentDisposition!.ToString(),
            StringComparison.Ordinal
        );
        var lines = (await csv.Content.ReadAsStringAsync()).Trim('\ufeff').Split("\r\n");
        Assert.Equal("name,email,company,fleet size", lines[0]);
        Assert.Equal($"Ines {person["last_name"]},{person["email"]},\"Comma, \"\"Quote\"\" & Co\",4–9", lines[1]);
        var xlsx = await noor.GetByteArrayAsync(
            $"/api/leads/export?q={person["email"]}&format=xlsx&columns=name,company"
        );
        var row = new MemoryStream(xlsx).Query(useHeaderRow: true).Cast<IDictionary<string, object?>>().Single();
        Assert.Equal("Comma, \"Quote\" & Co", row["company"]);
        Assert.Equal(
            "bad-input",
            await (await noor.GetAsync("/api/leads/export?format=pdf")).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task A_test_goes_where_it_was_aimed_knows_no_real_lead_and_is_swept_here_and_out_there()
    {
        var noor = await world.NoorAsync();
        var form = await World.FormIdAsync(noor, World.Form);
        Assert.Equal(
            "bad-input",
            await (await noor.PutAsJsonAsync("/api/tests/addresses", new { phone = "12" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        (
            await noor.PutAsJsonAsync(
                "/api/tests/addresses",
                new { phone = "0113 496 0950", email = "noor.tests@example.com" }
            )
        ).EnsureSuccessStatusCode();

        async Task<(string Id, string Email)> SendAsync(bool onlyMe)
        {
            var made = await (await noor.PostAsync($"/api/forms/{form}/test-lead?onlyMe={onlyMe}", null)).BodyAsync();
            var email = made.GetProperty("answers")
                .EnumerateArray()
                .First(a => a.Text("question") == "Email")
                .Text("answer")!;
            return ((await World.FoundAsync(noor, email)).Text("id")!, email);
        }

        var real = await SendAsync(onlyMe: false);
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", real.Email)).Count == 1,
            "post down the real line"
        );
        Assert.StartsWith(
            "TEST · ",
            (await world.PostsAsync("#ride-desk", real.Email)).Single().Text("text"),
            StringComparison.Ordinal
        );
        var mine = await SendAsync(onlyMe: true);
        Assert.Equal(
            "Noor Abernathy-Voss",
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{mine.Id}")).GetProperty("around").Text("onlyTo")
        );
        Assert.Contains(
            "has given no name in the team's chat",
            (await world.ToldAsync(noor, mine.Id, "step-cancelled")).Text("words"),
            StringComparison.Ordinal
        );
        (
            await noor.PutAsJsonAsync(
                "/api/tests/addresses",
                new
                {
                    phone = "0113 496 0950",
                    email = "noor.tests@example.com",
                    person = "tobias.renn",
                }
            )
        ).EnsureSuccessStatusCode();
        var aimed = await SendAsync(onlyMe: true);
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("@tobias.renn", aimed.Email)).Count == 1,
            "post to one person"
        );
        Assert.StartsWith(
            "TEST · to #ride-desk: ",
            (await world.PostsAsync("@tobias.renn", aimed.Email)).Single().Text("text"),
            StringComparison.Ordinal
        );
        Assert.Empty(await world.PostsAsync("#ride-desk", aimed.Email));

        // The same address, for real: nobody's test is their history.
        var person = world.Person();
        person["email"] = real.Email;
        await world.SubmitAsync(person);
        await World.EventuallyAsync(
            async () => (await ListAsync(noor, $"q={real.Email}")).Count == 2,
            "a lead of its own"
        );
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", real.Email)).Count == 2,
            "a post of its own"
        );

        Assert.Equal(
            3,
            (await noor.GetFromJsonAsync<JsonElement>("/api/tests?client=brackenwheel")).GetProperty("leads").GetInt32()
        );
        var swept = await (await noor.PostAsync("/api/tests/sweep?client=brackenwheel", null)).BodyAsync();
        Assert.Equal((3, 0), (swept.GetProperty("leads").GetInt32(), swept.GetProperty("failed").GetArrayLength()));
        Assert.True(swept.GetProperty("takenBack").GetInt32() >= 2);
        Assert.Empty(await world.PostsAsync("@tobias.renn", aimed.Email));
        Assert.Equal(real.Email, Assert.Single(await ListAsync(noor, $"q={real.Email}")).Text("email"));
        Assert.Single(await world.PostsAsync("#ride-desk", real.Email));
        Assert.Equal(HttpStatusCode.NotFound, (await noor.GetAsync($"/api/leads/{aimed.Id}")).StatusCode);
        Assert.Equal(
            0,
            (await (await noor.PostAsync("/api/tests/sweep?client=brackenwheel", null)).BodyAsync())
                .GetProperty("leads")
                .GetInt32()
        );
        var imke = await world.ImkeAsync();
        Assert.Equal(
            "not-allowed",
            await (await imke.PostAsync("/api/tests/sweep", null)).RefusalAsync(HttpStatusCode.Forbidden)
        );
    }
}

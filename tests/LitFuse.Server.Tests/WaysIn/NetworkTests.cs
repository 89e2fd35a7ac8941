using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>Tradehall, which is asked, and Lanternfind, which pushes and offers a file.</summary>
public sealed class NetworkTests(World world) : IClassFixture<World>
{
    private static Dictionary<string, string> Bikes(string email) =>
        new()
        {
            ["full_name"] = "Greer Ashdown",
            ["email"] = email,
            ["fleet_size"] = "10–24",
            ["cargo"] = "tools",
        };

    private static Task<JsonElement> WholeAsync(HttpClient noor, string id) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/sources/{id}");

    [Fact]
    public async Task Tradehall_is_asked_and_shows_a_response_minutes_late()
    {
        var noor = await world.NoorAsync();
        var id = (await World.SourceAsync(noor, "tradehall")).Text("id")!;
        await world.FillAsync("tradehall/fill/tf-brackenwheel-fleet", Bikes("hall.late@example.org"));
        await noor.PostAsync($"/api/sources/{id}/refresh", null);
        await world.IdleAsync();
        Assert.Equal(
            0,
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?q=hall.late@example.org"))
                .GetProperty("total")
                .GetInt32()
        );
        world.Time.Move(TimeSpan.FromMinutes(2.1));
        var lead = await World.FoundAsync(noor, "hall.late@example.org");
        var form = await World.FormAsync(noor, await World.FormIdAsync(noor, "brackenwheel-tradehall-fleet"));
        var sample = form.GetProperty("samples")
            .EnumerateArray()
            .First(s => s.Text("raw")!.Contains("hall.late", StringComparison.Ordinal));
        Assert.True(sample.GetProperty("lateSeconds").GetDouble() > 100);
        Assert.Equal("polled", sample.Text("via"));
        Assert.Contains(sample.GetProperty("answers").EnumerateArray(), a =>
            a.Text("question") == "utm_campaign" && a.Text("answer") == "Operations managers"
        );
        Assert.Equal(sample.Text("sentAt"), lead.Text("askedAt"));
    }

    [Fact]
    public async Task A_sign_up_for_an_event_is_a_submission_too()
    {
        var noor = await world.NoorAsync();
        var id = (await World.SourceAsync(noor, "tradehall")).Text("id")!;
        await noor.PostAsync($"/api/sources/{id}/refresh", null);
        var openDay = (await WholeAsync(noor, id))
            .GetProperty("all")
            .EnumerateArray()
            .Single(f => f.Text("name") == "Open day at the depot");
        await noor.PostAsync($"/api/forms/{openDay.Text("id")}/choose", null);
        await World.ConfirmAsync(noor, openDay.Text("id")!);
        await world.FillAsync(
            "tradehall/fill/tf-brackenwheel-open-day",
            new()
            {
                ["full_name"] = "Maren Abara",
                ["email"] = "event@example.org",
                ["fleet_size"] = "1–3",
            }
        );
        world.Time.Move(TimeSpan.FromMinutes(4));
        var lead = await World.FoundAsync(noor, "event@example.org");
        var answers = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
            .GetProperty("submissions")[0]
            .GetProperty("answers")
            .EnumerateArray();
        Assert.Contains(answers, a => a.Text("question") == "event" && a.Text("answer") == "Open day at the depot");
    }

    [Fact]
    public async Task A_pushed_submission_is_a_lead_and_the_daily_file_adds_nothing_to_it()
    {
        var noor = await world.NoorAsync();
        var source = (await World.SourceAsync(noor, "lanternfind")).Text("id")!;
        for (var i = 0; i < 3; i++)
            await world.FillAsync("lanternfind/fill/lf-brackenwheel-lease", Bikes($"lantern.{i}@example.org"));
        for (var i = 0; i < 3; i++)
            await World.FoundAsync(noor, $"lantern.{i}@example.org");
        var day = world.Now.InUtc().Date.ToString("yyyy-MM-dd", null);
        var file = await world.Backlot.GetByteArrayAsync($"/lanternfind/download/la-brackenwheel/{day}.csv");
        var import = await UploadAsync(noor, file, source);
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/imports/{import}");
        Assert.Equal(
            (0, 0),
            (
                whole.GetProperty("preview").GetProperty("newLeads").GetInt32(),
                whole.GetProperty("preview").GetProperty("updates").GetInt32()
            )
        );
        await noor.PostAsJsonAsync($"/api/imports/{import}/start", new { lights = false });
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/imports/{import}"))
                    .GetProperty("import")
                    .Text("status") == "done",
            "end of the import"
        );
        var line = (await noor.GetFromJsonAsync<JsonElement>($"/api/imports/{import}")).GetProperty("import");
        Assert.Equal(
            (0, 0, 0),
            (
                line.GetProperty("newLeads").GetInt32(),
                line.GetProperty("updates").GetInt32(),
                line.GetProperty("badRows").GetInt32()
            )
        );
        Assert.True(line.GetProperty("doubles").GetInt32() >= 3);
    }

    [Fact]
    public async Task The_daily_file_is_picked_up_by_itself_once()
    {
        var noor = await world.NoorAsync();
        var source = (await World.SourceAsync(noor, "lanternfind")).Text("id")!;
        var plan = await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{source}/daily-file");
        await world.FillAsync("lanternfind/fill/lf-brackenwheel-lease", Bikes("lantern.morning@example.org"));
        await World.FoundAsync(noor, "lantern.morning@example.org");
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync(
                    $"/api/sources/{source}/daily-file",
                    new { url = "https://example.com/file.csv" }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PutAsJsonAsync($"/api/sources/{source}/daily-file", new { url = plan.Text("url") })).StatusCode
        );
        async Task<List<JsonElement>> PickedUp() =>
            [
                .. (await noor.GetFromJsonAsync<JsonElement>("/api/imports?client=brackenwheel"))
                    .GetProperty("imports")
                    .EnumerateArray()
                    .Where(i => i.Text("madeBy") is null),
            ];
        await World.EventuallyAsync(async () => (await PickedUp()).Count > 0, "picked-up file");
        world.Time.Move(TimeSpan.FromDays(1));
        await World.EventuallyAsync(
            async () =>
                (await PickedUp()).Any(i =>
                    i.GetProperty("doubles").GetInt32() > 0 && i.GetProperty("newLeads").GetInt32() == 0
                ),
            "file of the day with what was pushed"
        );
        var before = (await PickedUp()).Count;
        await noor.PutAsJsonAsync($"/api/sources/{source}/daily-file", new { url = plan.Text("url") });
        await world.IdleAsync();
        Assert.Equal(before, (await PickedUp()).Count);
        var now = await noor.PostAsync($"/api/sources/{source}/daily-file", null);
        Assert.Equal(HttpStatusCode.Created, now.StatusCode);
    }

    [Theory]
    [InlineData("", "There is no Lantern-Key header")]
    [InlineData("wrong-key-entirely", "it begins with “wron…”")]
    public async Task A_wrong_key_is_refused_there_and_shown_here(string key, string said)
    {
        var noor = await world.NoorAsync();
        await world.FillAsync(
            "lanternfind/send-on/lf-brackenwheel-repair",
            new() { ["address"] = $"{world.Url}/in/brackenwheel-lanternfind", ["key"] = key }
        );
        var tried = await (
            await world.FillAsync("lanternfind/try/lf-brackenwheel-repair", [])
        ).Content.ReadAsStringAsync();
        Assert.Contains("The address refused it", tried, StringComparison.Ordinal);
        Assert.Contains("Copy the key", tried, StringComparison.Ordinal);
        var source = (await World.SourceAsync(noor, "lanternfind")).Text("id")!;
        await World.EventuallyAsync(
            async () =>
                (await WholeAsync(noor, source))
                    .GetProperty("refused")
                    .EnumerateArray()
                    .Any(r => r.Text("detail")!.Contains(said, StringComparison.Ordinal)),
            "refusal on the source's page"
        );
    }

    [Fact]
    public async Task Trying_the_address_makes_a_test_lead_and_a_form_nobody_knew_stands_here_until_its_map_is_confirmed()
    {
        var noor = await world.NoorAsync();
        var source = (await World.SourceAsync(noor, "lanternfind")).Text("id")!;
        var key = (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{source}/key")).Text("key")!;
        await world.FillAsync(
            "lanternfind/send-on/lf-brackenwheel-repair",
            new() { ["address"] = $"{world.Url}/in/brackenwheel-lanternfind", ["key"] = key }
        );
        Assert.Contains(
            "The address took it",
            await (await world.FillAsync("lanternfind/try/lf-brackenwheel-repair", [])).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        var form = (await WholeAsync(noor, source))
            .GetProperty("all")
            .EnumerateArray()
            .Single(f => f.Text("name") == "Ask about repairs");
        Assert.Null(form.Text("map"));
        await World.ConfirmAsync(noor, form.Text("id")!);
        var lead = await World.FoundAsync(noor, "trial.");
        Assert.True(lead.GetProperty("test").GetBoolean());
        var today = await noor.GetFromJsonAsync<JsonElement>("/api/watch/today?client=brackenwheel");
        await noor.PostAsync($"/api/forms/{form.Text("id")}/test-lead", null);
        Assert.Equal(
            today.GetProperty("leads").GetInt32(),
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch/today?client=brackenwheel"))
                .GetProperty("leads")
                .GetInt32()
        );
    }

    [Fact]
    public async Task A_new_key_makes_the_old_one_worthless()
    {
        var noor = await world.NoorAsync();
        var source = (await World.SourceAsync(noor, "lanternfind", "hollin-vane")).Text("id")!;
        var old = (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{source}/key")).Text("key")!;
        var made = (await (await noor.PostAsync($"/api/sources/{source}/key", null)).BodyAsync()).Text("key")!;
        async Task<HttpStatusCode> With(string key)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "/in/hollin-vane-lanternfind")
            {
                Content = JsonContent.Create(
                    new
                    {
                        submission = "x" + key[..4],
                        asset = "lf-hollin-vane-booths",
                        columns = new[]
                        {
                            new
                            {
                                key = "email",
                                column = "Email",
                                value = "key@example.com",
                            },
                        },
                    }
                ),
            };
            request.Headers.Add("Lantern-Key", key);
            return (await world.Anyone.SendAsync(request)).StatusCode;
        }

        Assert.Equal((HttpStatusCode.Unauthorized, HttpStatusCode.Accepted), (await With(old), await With(made)));
    }

    [Fact]
    public async Task A_networks_form_takes_no_posts() =>
        Assert.Equal(
            "not-there",
            await (
                await world.SubmitAsync(new { email = "sneaky@example.com" }, "brackenwheel-plaza-test-ride")
            ).RefusalAsync(HttpStatusCode.NotFound)
        );

    private static async Task<string> UploadAsync(HttpClient noor, byte[] file, string source)
    {
        var made = await noor.PostAsync(
            $"/api/imports?client=brackenwheel&name=daily.csv&source={source}",
            new ByteArrayContent(file)
        );
        Assert.Equal(HttpStatusCode.Created, made.StatusCode);
        return (await made.BodyAsync()).Text("id")!;
    }
}

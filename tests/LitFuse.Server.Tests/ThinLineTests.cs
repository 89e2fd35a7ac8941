using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Data;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>From the press of a button to the message in the team's chat, and what may come between.</summary>
public sealed class ThinLineTests(World world) : IClassFixture<World>
{
    private const string Desk = "Post to the ride desk",
        Text = "Text: someone is on it",
        Imke = "Tell Imke directly";

    private static async Task<int> CountAsync(Task<List<JsonElement>> list) => (await list).Count;

    [Fact]
    public async Task A_big_fleet_is_posted_texted_and_told_to_Imke_and_the_story_tells_it_all()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person("25+");
        var id = (await world.LeadOfAsync(noor, answers)).Text("id")!;
        await world.ToldAsync(noor, id, "text-delivered");
        await world.ToldAsync(noor, id, "burn-ended");

        var post = Assert.Single(await world.PostsAsync("#ride-desk", answers["email"]));
        Assert.Contains("How many bikes would your fleet need?: 25+", post.Text("text"), StringComparison.Ordinal);
        Assert.Contains($"{world.Url}/leads/", post.Text("text"), StringComparison.Ordinal);
        var direct = Assert.Single(await world.PostsAsync("@imke.sandoval", answers["last_name"]));
        Assert.StartsWith("A big one:", direct.Text("text"), StringComparison.Ordinal);
        var text = Assert.Single(await world.TextsAsync(World.E164(answers)));
        Assert.Equal(
            (
                "Ines, thank you for asking about 25+ cargo bikes. Imke from Brackenwheel Cargo Cycles will ring you in a few minutes.",
                "+447700900512"
            ),
            (text.Text("text"), text.Text("from"))
        );

        var story = await world.StoryAsync(noor, id);
        string[] kinds =
        [
            "submitted",
            "acknowledged",
            "lead-made",
            "fuse-lit",
            "band-lit",
            "band-lit",
            "step-sent",
            "step-sent",
            "step-sent",
        ];
        Assert.Equal(kinds, story.Take(kinds.Length).Select(l => l.Text("kind")));
        Assert.All(story, l => Assert.InRange(l.GetProperty("afterSeconds").GetDouble(), 0, 10));
        var sent = story.Single(l => l.Text("kind") == "step-sent" && l.Text("step") == Text);
        Assert.Equal(
            ("Test ride: tell the desk, text the big fleets, v1", "Big fleets"),
            (sent.Text("fuse"), sent.Text("band"))
        );
        Assert.Equal(text.Text("text"), sent.GetProperty("sent").Text("words"));
        Assert.Contains(
            "fleet size was 25+",
            story.Last(l => l.Text("kind") == "band-lit").Text("words"),
            StringComparison.Ordinal
        );
        Assert.NotNull(story.Single(l => l.Text("kind") == "step-done" && l.Text("step") == Text).Text("answer"));
    }

    [Fact]
    public async Task A_small_fleet_is_posted_alone_and_the_story_says_why()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person("1–3");
        var id = (await world.LeadOfAsync(noor, answers)).Text("id")!;
        var passed = await world.ToldAsync(noor, id, "band-passed");
        Assert.Equal(
            ("Big fleets", "fleet size was 1–3, not one of 10–24, 25+"),
            (passed.Text("band"), passed.Text("words"))
        );
        await world.ToldAsync(noor, id, "burn-ended");
        Assert.Single(await world.PostsAsync("#ride-desk", answers["email"]));
        Assert.Empty(await world.PostsAsync("@imke.sandoval", answers["last_name"]));
    }

    [Fact]
    public async Task The_Watch_has_the_lead_with_its_ticks()
    {
        var imke = await world.ImkeAsync();
        var answers = world.Person("10–24");
        var id = (await world.LeadOfAsync(await world.NoorAsync(), answers)).Text("id")!;
        await World.EventuallyAsync(
            async () =>
            {
                var row = (await imke.GetFromJsonAsync<JsonElement>("/api/watch"))
                    .GetProperty("inTheAir")
                    .EnumerateArray()
                    .Single(l => l.Text("id") == id);
                var ticks = row.GetProperty("ticks").EnumerateArray().Select(t => t.Text("kind")).ToList();
                return ticks.Contains("acknowledged")
                    && ticks.Count(t => t == "team") == 2
                    && ticks.Contains("text")
                    && ticks.Contains("delivered");
            },
            "row with every tick"
        );
        var today = await imke.GetFromJsonAsync<JsonElement>("/api/watch/today");
        Assert.True(today.GetProperty("leads").GetInt32() > 0);
        Assert.Equal(24, today.GetProperty("byHour").GetArrayLength());
        var frame = await imke.GetFromJsonAsync<JsonElement>("/api/frame");
        Assert.True(frame.GetProperty("clients")[0].GetProperty("inTheAir").GetInt32() > 0);
    }

    [Fact]
    public async Task Two_who_take_at_once_one_has_it_and_the_other_is_told_by_whom()
    {
        var noor = await world.NoorAsync();
        var id = (await world.LeadOfAsync(noor, world.Person())).Text("id")!;
        var reps = await Task.WhenAll(
            world.ImkeAsync(),
            world.AsAsync("tobias@brackenwheel.example"),
            world.AsAsync("adaeze@brackenwheel.example")
        );
        var takes = await Task.WhenAll(reps.Select(r => r.PostAsync($"/api/leads/{id}/take", null)));
        Assert.Single(takes, t => t.StatusCode == HttpStatusCode.NoContent);
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}");
        var has = whole.GetProperty("lead").Text("takenBy")!;
        foreach (var refused in takes.Where(t => t.StatusCode != HttpStatusCode.NoContent))
        {
            Assert.Equal("already-taken", await refused.RefusalAsync(HttpStatusCode.Conflict));
            Assert.Contains(has, (await refused.BodyAsync()).Text("detail"), StringComparison.Ordinal);
        }

        Assert.Null(whole.GetProperty("lead").Text("firstTouchAt")); // the line burns on
        Assert.Single(await world.StoryAsync(noor, id), l => l.Text("kind") == "taken");
    }

    [Fact]
    public async Task Taking_can_be_given_back_until_one_has_reached_out()
    {
        var imke = await world.ImkeAsync();
        var id = (await world.LeadOfAsync(await world.NoorAsync(), world.Person())).Text("id")!;
        Assert.Equal(
            "not-now",
            await (await imke.PostAsync($"/api/leads/{id}/release", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
        await imke.PostAsync($"/api/leads/{id}/take", null);
        Assert.Equal(HttpStatusCode.NoContent, (await imke.PostAsync($"/api/leads/{id}/release", null)).StatusCode);
        await imke.PostAsync($"/api/leads/{id}/take", null);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await imke.PostAsJsonAsync($"/api/leads/{id}/touch", new { how = "spoke" })).StatusCode
        );
        Assert.Equal(
            "not-now",
            await (await imke.PostAsync($"/api/leads/{id}/release", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
        Assert.Equal(
            "bad-input",
            await (await imke.PostAsJsonAsync($"/api/leads/{id}/touch", new { how = "waved" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
    }

    [Fact]
    public async Task A_text_written_by_a_person_is_the_first_touch_and_the_line_stops()
    {
        var imke = await world.ImkeAsync();
        var answers = world.Person();
        var id = (await world.LeadOfAsync(await world.NoorAsync(), answers)).Text("id")!;
        Assert.Equal(
            HttpStatusCode.Accepted,
            (
                await imke.PostAsJsonAsync($"/api/leads/{id}/texts", new { words = "Imke here. Tuesday at ten?" })
            ).StatusCode
        );
        var touched = await world.ToldAsync(imke, id, "touched");
        Assert.Equal(("first touch: by text", "Imke Sandoval"), (touched.Text("words"), touched.Text("person")));
        var whole = await imke.GetFromJsonAsync<JsonElement>($"/api/leads/{id}");
        Assert.Equal(
            ("Imke Sandoval", "Imke Sandoval"),
            (whole.GetProperty("lead").Text("firstTouchBy"), whole.GetProperty("lead").Text("takenBy"))
        );
        Assert.DoesNotContain(
            (await imke.GetFromJsonAsync<JsonElement>("/api/watch")).GetProperty("inTheAir").EnumerateArray(),
            l => l.Text("id") == id
        );
        Assert.Equal(
            "Imke here. Tuesday at ten?",
            Assert.Single(await world.TextsAsync(whole.GetProperty("lead").Text("phone")!)).Text("text")
        );
    }

    [Theory]
    [InlineData("", "words")]
    [InlineData("  ", "words")]
    public async Task An_empty_text_is_not_sent(string words, string field)
    {
        var imke = await world.ImkeAsync();
        var id = (await world.LeadOfAsync(await world.NoorAsync(), world.Person())).Text("id")!;
        var refused = await imke.PostAsJsonAsync($"/api/leads/{id}/texts", new { words });
        Assert.Equal("bad-input", await refused.RefusalAsync(HttpStatusCode.BadRequest));
        Assert.True((await refused.BodyAsync()).GetProperty("errors").TryGetProperty(field, out _));
    }

    [Fact]
    public async Task A_service_that_fails_is_tried_again_and_gets_it_once()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        await world.FaultAsync("ridgeboard", "error");
        var id = (await world.LeadOfAsync(noor, answers)).Text("id")!;
        var again = await world.ToldAsync(noor, id, "step-retries");
        Assert.Contains("answered 500", again.Text("words"), StringComparison.Ordinal);
        Assert.Empty(await world.PostsAsync("#ride-desk", answers["email"]));
        await world.WorksAgainAsync();
        await world.ToldAsync(noor, id, "step-done", Desk);
        Assert.Single(await world.PostsAsync("#ride-desk", answers["email"]));
        Assert.True(
            (await world.StoryAsync(noor, id))
                .Single(l => l.Text("kind") == "step-sent")
                .GetProperty("sent")
                .GetProperty("attempts")
                .GetInt32() > 1
        );
    }

    [Fact]
    public async Task A_service_that_repeats_itself_does_no_harm()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("ridgeboard", "repeat");
        await world.FaultAsync("copperline", "repeat");
        try
        {
            var answers = world.Person("25+");
            var id = (await world.LeadOfAsync(noor, answers)).Text("id")!;
            await world.ToldAsync(noor, id, "text-delivered");
            await world.ToldAsync(noor, id, "burn-ended");
            Assert.Single(await world.PostsAsync("#ride-desk", answers["email"]));
            Assert.Single(await world.StoryAsync(noor, id), l => l.Text("kind") == "text-delivered");
        }
        finally
        {
            await world.WorksAgainAsync();
        }
    }

    [Fact]
    public async Task Somebody_who_asks_again_is_the_same_lead_and_the_fuse_burns_again_once_the_last_has_ended()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        var id = (await world.LeadOfAsync(noor, answers)).Text("id")!;
        await world.ToldAsync(noor, id, "burn-ended");
        await (await world.ImkeAsync()).PostAsJsonAsync($"/api/leads/{id}/touch", new { how = "called" });
        await world.SubmitAsync(new Dictionary<string, string>(answers) { ["start_month"] = "June" });
        await world.ToldAsync(noor, id, "lead-matched");
        await World.EventuallyAsync(
            async () => await CountAsync(world.PostsAsync("#ride-desk", answers["email"])) == 2,
            "second post"
        );
        var lead = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}")).GetProperty("lead");
        Assert.Null(lead.Text("firstTouchAt")); // they wait anew
    }

    [Fact]
    public async Task Notices_are_taken_only_when_they_are_signed()
    {
        var connection = await world.InsideAsync(s =>
            Task.FromResult(((AppDb)s.GetService(typeof(AppDb))!).Connections.First(c => c.Kind == "copperline").Id)
        );
        Assert.Equal(
            "bad-signature",
            await (
                await world.Anyone.PostAsJsonAsync($"/receive/{connection}", new { type = "text.delivered", id = "x" })
            ).RefusalAsync(HttpStatusCode.Unauthorized)
        );
        Assert.Equal(
            "not-there",
            await (await world.Anyone.PostAsJsonAsync($"/receive/{Guid.NewGuid()}", new { })).RefusalAsync(
                HttpStatusCode.NotFound
            )
        );
    }
}

/// <summary>The same line at night, when texts must wait.</summary>
public sealed class NightTests(World world) : IClassFixture<World>
{
    private static readonly TimeSpan ToNight = TimeSpan.FromHours(11),
        ToMorning = TimeSpan.FromHours(9.5);
    private const string Text = "Text: someone is on it";

    [Fact]
    public async Task At_night_the_text_waits_and_opting_out_and_the_morning_are_both_obeyed()
    {
        var noor = await world.NoorAsync();
        world.Time.Move(ToNight);
        var (sleeper, leaver, texted) = (world.Person("25+"), world.Person("25+"), world.Person());
        var sleeperId = (await world.LeadOfAsync(noor, sleeper)).Text("id")!;
        var leaverId = (await world.LeadOfAsync(noor, leaver)).Text("id")!;
        var textedId = (await world.LeadOfAsync(noor, texted)).Text("id")!;
        var waits = await world.ToldAsync(noor, sleeperId, "step-waits");
        Assert.Contains("08:00 in Europe/London", waits.Text("words"), StringComparison.Ordinal);
        await world.ToldAsync(noor, sleeperId, "step-done", "Post to the ride desk"); // the team is told at once

        // What a person writes waits too, and says so before it is sent.
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{textedId}");
        Assert.NotNull(whole.Text("textsOpenAt"));
        Assert.Equal(
            HttpStatusCode.Accepted,
            (await noor.PostAsJsonAsync($"/api/leads/{textedId}/texts", new { words = "Good morning" })).StatusCode
        );
        await world.ToldAsync(noor, textedId, "step-waits");

        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/leads/{leaverId}/opt-out", null)).StatusCode
        );
        await world.ToldAsync(noor, leaverId, "step-cancelled", Text);
        Assert.Equal(
            "not-now",
            await (await noor.PostAsJsonAsync($"/api/leads/{leaverId}/texts", new { words = "Hello?" })).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        Assert.Empty(await world.TextsAsync(World.E164(sleeper)));

        world.Time.Move(ToMorning);
        await world.ToldAsync(noor, sleeperId, "text-delivered");
        await world.ToldAsync(noor, textedId, "touched");
        Assert.Empty(await world.TextsAsync(World.E164(leaver)));
    }
}

/// <summary>Send hours and opt-out are asked again at every attempt.</summary>
public sealed class GateAtRetryTests(World world) : IClassFixture<World>
{
    [Fact]
    public async Task Who_opts_out_between_two_attempts_gets_no_text_and_who_reaches_the_night_waits()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("copperline", "error");
        var (leaver, sleeper) = (world.Person("25+"), world.Person("25+"));
        var leaverId = (await world.LeadOfAsync(noor, leaver)).Text("id")!;
        var sleeperId = (await world.LeadOfAsync(noor, sleeper)).Text("id")!;
        await world.ToldAsync(noor, leaverId, "step-retries");
        await world.ToldAsync(noor, sleeperId, "step-retries");
        // Marked behind the burn's back, so that only the gate at the attempt can know.
        await World.SqlAsync(
            new Npgsql.NpgsqlConnectionStringBuilder(world.ConnectionString).Database!,
            $"update leads set opted_out_at = now() where id = '{leaverId}'"
        );
        world.Time.Move(TimeSpan.FromHours(11));
        await world.WorksAgainAsync();
        Assert.Contains(
            "opted out",
            (await world.ToldAsync(noor, leaverId, "step-cancelled")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "send hours",
            (await world.ToldAsync(noor, sleeperId, "step-waits")).Text("words"),
            StringComparison.Ordinal
        );
        foreach (var person in new[] { leaver, sleeper })
            Assert.Empty(await world.TextsAsync(World.E164(person)));
    }
}

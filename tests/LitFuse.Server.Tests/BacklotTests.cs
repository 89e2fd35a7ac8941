using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>The stand-ins keep their word, and break it when they are told to.</summary>
public sealed class BacklotTests(World world) : IClassFixture<World>
{
    private async Task<HttpResponseMessage> PostAsync(string path, object body, string? token, string? key = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body) };
        if (token is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        if (key is not null)
            request.Headers.Add("Idempotency-Key", key);
        return await world.Backlot.SendAsync(request);
    }

    private Task<HttpResponseMessage> SayAsync(
        string to,
        string text,
        string? key = null,
        string? token = "backlot-demo-ridgeboard"
    ) =>
        PostAsync(
            "/api/ridgeboard/posts",
            new
            {
                to,
                from = "Lit Fuse",
                text,
            },
            token,
            key
        );

    private Task<HttpResponseMessage> TextAsync(string to, string text, string? key = null) =>
        PostAsync(
            "/api/copperline/messages",
            new
            {
                from = "+447700900512",
                to,
                text,
            },
            "backlot-demo-copperline",
            key
        );

    [Fact]
    public async Task Ridgeboard_takes_a_post_once_for_a_key()
    {
        var first = await (await SayAsync("#ride-desk", "once-for-a-key", "k1")).BodyAsync();
        var again = await (await SayAsync("#ride-desk", "once-for-a-key", "k1")).BodyAsync();
        Assert.Equal(first.GetProperty("id").GetInt32(), again.GetProperty("id").GetInt32());
        Assert.Single(await world.PostsAsync("#ride-desk", "once-for-a-key"));
    }

    [Fact]
    public async Task Told_to_ignore_keys_it_posts_twice()
    {
        await world.FaultAsync("ridgeboard", "ignoreKeys");
        await SayAsync("#ride-desk", "keys-ignored", "k2");
        await SayAsync("#ride-desk", "keys-ignored", "k2");
        await world.WorksAgainAsync();
        Assert.Equal(2, (await world.PostsAsync("#ride-desk", "keys-ignored")).Count);
    }

    [Theory]
    [InlineData("#ride-desk", "hello", null, HttpStatusCode.Unauthorized)]
    [InlineData("#ride-desk", "hello", "wrong", HttpStatusCode.Unauthorized)]
    [InlineData("#nowhere", "hello", "backlot-demo-ridgeboard", HttpStatusCode.NotFound)]
    [InlineData("#ride-desk", "", "backlot-demo-ridgeboard", HttpStatusCode.UnprocessableEntity)]
    public async Task Ridgeboard_refuses_what_makes_no_sense(
        string to,
        string text,
        string? token,
        HttpStatusCode status
    ) => Assert.Equal(status, (await SayAsync(to, text, token: token)).StatusCode);

    [Fact]
    public async Task A_post_to_a_person_is_theirs_alone()
    {
        await SayAsync("imke.sandoval", "for-imke-alone");
        Assert.Single(await world.PostsAsync("@imke.sandoval", "for-imke-alone"));
        Assert.Empty(await world.PostsAsync("#ride-desk", "for-imke-alone"));
        Assert.Contains(
            "for-imke-alone",
            await world.Backlot.GetStringAsync("/ridgeboard?channel=%40imke.sandoval"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task What_is_posted_cannot_write_into_the_page()
    {
        await SayAsync("#ride-desk", "<script>alert(1)</script>");
        var page = await world.Backlot.GetStringAsync("/ridgeboard");
        Assert.DoesNotContain("<script>alert(1)", page, StringComparison.Ordinal);
        Assert.Contains("&lt;script&gt;alert(1)", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Copperline_brings_a_text_to_the_phone_a_moment_later()
    {
        var taken = await (await TextAsync("+441174960001", "Your ride is booked.", "t1")).BodyAsync();
        Assert.Equal("accepted", taken.Text("status"));
        await TextAsync("+441174960001", "Your ride is booked.", "t1");
        await World.EventuallyAsync(
            async () => (await world.TextsAsync("+441174960001")).Single().Text("status") == "delivered",
            "delivered text"
        );
        Assert.Contains(
            "Your ride is booked.",
            await world.Backlot.GetStringAsync("/copperline?phone=%2B441174960001"),
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("07700 900512")]
    [InlineData("+44")]
    [InlineData("+44abc700900512")]
    public async Task Copperline_takes_E164_alone(string to) =>
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await TextAsync(to, "x")).StatusCode);

    [Fact]
    public async Task Switches_break_a_service_and_mend_it()
    {
        await world.FaultAsync("copperline", "error");
        Assert.Equal(HttpStatusCode.InternalServerError, (await TextAsync("+441174960002", "x")).StatusCode);
        await world.FaultAsync("copperline", "down");
        await Assert.ThrowsAnyAsync<HttpRequestException>(() => TextAsync("+441174960002", "x"));
        (
            await world.Backlot.PutAsJsonAsync("/api/faults/copperline", new { mode = "slow", seconds = 0.3 })
        ).EnsureSuccessStatusCode();
        var took = System.Diagnostics.Stopwatch.StartNew();
        Assert.Equal(HttpStatusCode.OK, (await TextAsync("+441174960002", "x")).StatusCode);
        Assert.True(took.Elapsed >= TimeSpan.FromMilliseconds(290));
        await world.WorksAgainAsync();
        var faults = await world.Backlot.GetFromJsonAsync<JsonElement>("/api/faults");
        Assert.Equal(
            [
                "plaza",
                "tradehall",
                "lanternfind",
                "formbench",
                "pagewright",
                "ridgeboard",
                "copperline",
                "pillarpost",
                "ledgerhouse",
                "gridlet",
                "jobrack",
                "namewell",
                "ringbarrow",
                "earwick",
            ],
            faults.EnumerateObject().Select(p => p.Name)
        );
        Assert.All(faults.EnumerateObject(), p => Assert.False(p.Value.GetProperty("down").GetBoolean()));
    }

    [Theory]
    [InlineData("/api/faults/telegraph", "{\"mode\":\"down\"}", HttpStatusCode.NotFound)]
    [InlineData("/api/faults/ridgeboard", "{\"mode\":\"asleep\"}", HttpStatusCode.BadRequest)]
    public async Task A_switch_that_is_not_there_is_said_to_be_not_there(
        string path,
        string body,
        HttpStatusCode status
    ) =>
        Assert.Equal(
            status,
            (
                await world.Backlot.PutAsync(
                    path,
                    new StringContent(body, System.Text.Encoding.UTF8, "application/json")
                )
            ).StatusCode
        );

    [Fact]
    public async Task The_first_page_leads_everywhere()
    {
        var page = await world.Backlot.GetStringAsync("/");
        Assert.All(
            new[]
            {
                "/plaza",
                "/tradehall",
                "/lanternfind",
                "/formbench",
                "/pagewright",
                "/ridgeboard",
                "/copperline",
                "/pillarpost",
                "/ledgerhouse",
                "/gridlet",
                "/jobrack",
                "/ringbarrow",
                "/namewell",
                "/earwick",
            },
            path => Assert.Contains($"href=\"{path}\"", page, StringComparison.Ordinal)
        );
        Assert.Contains(
            "Thank you",
            await world.Backlot.GetStringAsync("/pagewright/brackenwheel/thank-you"),
            StringComparison.Ordinal
        );
    }
}

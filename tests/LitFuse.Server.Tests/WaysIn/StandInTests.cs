using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>
/// The stand-ins of networks and tools keep their word, so that what is tried against them means something.
/// </summary>
public sealed class StandInTests(World world) : IClassFixture<World>
{
    private const string Token = "backlot-demo-plaza";

    private async Task<HttpResponseMessage> GetAsync(string path, string? token)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, path);
        if (token is not null)
            request.Headers.Authorization = new("Bearer", token);
        return await world.Backlot.SendAsync(request);
    }

    private async Task<string> CodeAsync(string challenge = "", string may = "pages.see")
    {
        var sent = await world.FillAsync(
            "plaza/consent",
            new()
            {
                ["app"] = "lit-fuse",
                ["redirect"] = world.Url + "/connect/back",
                ["state"] = "s",
                ["challenge"] = challenge,
                ["answer"] = "allow",
                ["may"] = may,
                ["place"] = "pp-brackenwheel",
                ["days"] = "",
            }
        );
        return System.Web.HttpUtility.ParseQueryString(sent.Headers.Location!.Query)["code"]!;
    }

    private Task<HttpResponseMessage> ExchangeAsync(
        string code,
        string secret = "backlot-demo-app",
        string verifier = "",
        string? redirect = null
    ) =>
        world.FillAsync(
            "api/plaza/token",
            new()
            {
                ["grant_type"] = "authorization_code",
                ["code"] = code,
                ["redirect_uri"] = redirect ?? world.Url + "/connect/back",
                ["client_secret"] = secret,
                ["code_verifier"] = verifier,
            }
        );

    [Fact]
    public async Task A_code_is_good_once_for_who_asked_from_where_they_asked()
    {
        Assert.Equal(HttpStatusCode.Unauthorized, (await ExchangeAsync(await CodeAsync(), secret: "wrong")).StatusCode);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await ExchangeAsync(await CodeAsync(), redirect: "https://elsewhere.example/")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await ExchangeAsync(await CodeAsync(challenge: "abc"), verifier: "does-not-fit")).StatusCode
        );
        var code = await CodeAsync();
        Assert.Equal(HttpStatusCode.OK, (await ExchangeAsync(code)).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await ExchangeAsync(code)).StatusCode);
    }

    [Fact]
    public async Task Nobody_is_sent_to_an_address_that_is_not_the_applications()
    {
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await world.Backlot.GetAsync(
                    "/plaza/consent?client_id=lit-fuse&redirect_uri=https%3A%2F%2Fevil.example"
                )
            ).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await world.Backlot.GetAsync(
                    "/plaza/consent?client_id=other&redirect_uri=" + Uri.EscapeDataString(world.Url)
                )
            ).StatusCode
        );
    }

    [Theory]
    [InlineData("pages.see", "api/plaza/pages", HttpStatusCode.OK)]
    [InlineData("pages.see", "api/plaza/pages/pp-brackenwheel/forms", HttpStatusCode.Forbidden)]
    [InlineData("forms.read", "api/plaza/pages/pp-brackenwheel/forms", HttpStatusCode.OK)]
    [InlineData("forms.read", "api/plaza/pages/pp-tarn-valley/forms", HttpStatusCode.NotFound)]
    [InlineData("forms.read", "api/plaza/leads/none", HttpStatusCode.Forbidden)]
    [InlineData("answers.read", "api/plaza/leads/none", HttpStatusCode.NotFound)]
    public async Task A_token_opens_what_was_given_and_nothing_else(string may, string path, HttpStatusCode status)
    {
        var token = (await (await ExchangeAsync(await CodeAsync(may: may))).BodyAsync()).Text("access_token");
        Assert.Equal(status, (await GetAsync("/" + path, token)).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await GetAsync("/" + path, null)).StatusCode);
    }

    [Fact]
    public async Task What_must_be_answered_is_asked_for_again_and_an_archived_form_is_gone()
    {
        var page = await (
            await world.FillAsync("plaza/fill/pf-brackenwheel-ride", new() { ["full_name"] = "Hal" })
        ).Content.ReadAsStringAsync();
        Assert.Contains("must be answered", page, StringComparison.Ordinal);
        var made = (
            await world.FillAsync("plaza/make", new() { ["place"] = "pp-tarn-valley", ["title"] = "Short-lived" })
        )
            .Headers
            .Location!
            .OriginalString;
        await world.FillAsync(made.TrimStart('/') + "/archive", []);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await world.Backlot.GetAsync(made.Replace("forms", "fill", StringComparison.Ordinal))).StatusCode
        );
        var forms = await (await GetAsync("/api/plaza/pages/pp-tarn-valley/forms", Token)).BodyAsync();
        Assert.Contains(forms.GetProperty("forms").EnumerateArray(), f =>
            f.Text("name") == "Short-lived" && f.GetProperty("archived").GetBoolean()
        );
    }

    [Fact]
    public async Task Tradehall_goes_on_from_where_one_was_and_passes_nothing_by()
    {
        await world.Backlot.PostAsync("/tradehall/many/tf-hollin-vane-quote/1200", null);
        async Task<JsonElement> Page(string after) =>
            await (
                await GetAsync(
                    $"/api/tradehall/responses?most=500&account=ta-hollin-vane&after={after}",
                    "backlot-demo-tradehall"
                )
            ).BodyAsync();
        var (seen, after, more) = (new HashSet<string?>(), "", true);
        while (more)
        {
            var page = await Page(after);
            foreach (var response in page.GetProperty("responses").EnumerateArray())
                Assert.True(seen.Add(response.Text("response")));
            (after, more) = (page.Text("next")!, page.GetProperty("more").GetBoolean());
        }

        Assert.Equal(1200, seen.Count);
        // Sent now, it is shown in two minutes; what is behind it waits with it.
        await world.FillAsync(
            "tradehall/fill/tf-hollin-vane-quote",
            new()
            {
                ["full_name"] = "Pim Later",
                ["email"] = "later@example.org",
                ["booths"] = "one",
                ["needed_by"] = "this week",
            }
        );
        await world.Backlot.PostAsync("/tradehall/many/tf-hollin-vane-quote/3", null);
        Assert.Empty((await Page(after)).GetProperty("responses").EnumerateArray());
        world.Time.Move(TimeSpan.FromMinutes(2.1));
        Assert.Equal(4, (await Page(after)).GetProperty("responses").GetArrayLength());
    }

    [Fact]
    public async Task Lanternfinds_file_is_a_days_own_and_asks_for_a_key()
    {
        await world.FillAsync(
            "lanternfind/fill/lf-hollin-vane-booths",
            new()
            {
                ["full_name"] = "Orla \"Quoted\", Jr",
                ["email"] = "file@example.org",
                ["booths"] = "one",
                ["needed_by"] = "this week",
            }
        );
        var day = world.Now.InUtc().Date;
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await GetAsync($"/lanternfind/file/la-hollin-vane/{day:yyyy-MM-dd}.csv", "wrong")).StatusCode
        );
        var file = await (
            await GetAsync(
                $"/lanternfind/file/la-hollin-vane/{day:yyyy-MM-dd}.csv",
                "backlot-demo-hollin-vane-lanternfind"
            )
        ).Content.ReadAsStringAsync();
        Assert.Contains("\"Orla \"\"Quoted\"\", Jr\"", file, StringComparison.Ordinal);
        var other = await (
            await GetAsync(
                $"/lanternfind/file/la-hollin-vane/{day.PlusDays(-1):yyyy-MM-dd}.csv",
                "backlot-demo-hollin-vane-lanternfind"
            )
        ).Content.ReadAsStringAsync();
        Assert.Single(Regex.Matches(other, "\r\n", RegexOptions.None, TimeSpan.FromSeconds(1)));
    }

    [Fact]
    public async Task A_page_is_made_by_pasting_and_shows_what_was_pasted()
    {
        var made = await world.FillAsync(
            "pagewright/pages",
            new() { ["title"] = "Spring <tour>", ["html"] = "<form id=\"pasted\"></form>" }
        );
        var page = await world.Backlot.GetStringAsync(made.Headers.Location!.OriginalString);
        Assert.Contains("<form id=\"pasted\"></form>", page, StringComparison.Ordinal);
        Assert.Contains("Spring &lt;tour&gt;", page, StringComparison.Ordinal);
        Assert.Contains(
            "/pagewright/pages/spring--tour",
            await world.Backlot.GetStringAsync("/pagewright"),
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("down")]
    [InlineData("error")]
    public async Task A_network_in_trouble_is_said_and_asked_again_when_it_is_well(string mode)
    {
        var noor = await world.NoorAsync();
        var id = (await World.SourceAsync(noor, "plaza")).Text("id")!;
        await world.FaultAsync("plaza", mode);
        await noor.PostAsync($"/api/sources/{id}/refresh", null);
        var source = (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{id}")).GetProperty("source");
        Assert.Equal("unreachable", source.Text("access"));
        Assert.Contains("It is asked again by itself.", source.Text("fault"), StringComparison.Ordinal);
        await world.WorksAgainAsync();
        await noor.PostAsync($"/api/sources/{id}/refresh", null);
        Assert.Equal(
            "whole",
            (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{id}")).GetProperty("source").Text("access")
        );
    }
}

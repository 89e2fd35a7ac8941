using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using LitFuse.Data;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>Plaza: consent, pages, forms, notices and answers.</summary>
public sealed class PlazaTests(World world) : IClassFixture<World>
{
    private static readonly string[] All = ["pages.see", "forms.read", "answers.read", "notices.send"];

    // Goes to the consent page as a person would, ticks, and comes back.
    private async Task<string> ConsentAsync(
        HttpClient noor,
        string[] may,
        string[] pages,
        string answer = "allow",
        string days = "",
        object? what = null
    )
    {
        var begun = await (
            await noor.PostAsJsonAsync(
                "/api/connections/consent",
                what ?? new { client = "hollin-vane", kind = "plaza" }
            )
        ).BodyAsync();
        var asked = System.Web.HttpUtility.ParseQueryString(new Uri(begun.Text("goTo")!).Query);
        Assert.Contains("Lit Fuse", await world.Backlot.GetStringAsync(begun.Text("goTo")), StringComparison.Ordinal);
        var fields = new List<KeyValuePair<string, string>>
        {
            new("app", asked["client_id"]!),
            new("redirect", asked["redirect_uri"]!),
            new("state", asked["state"]!),
            new("challenge", asked["code_challenge"]!),
            new("answer", answer),
            new("days", days),
        };
        fields.AddRange(
            may.Select(m => KeyValuePair.Create("may", m)).Concat(pages.Select(p => KeyValuePair.Create("place", p)))
        );
        using var person = new HttpClient(new SocketsHttpHandler { AllowAutoRedirect = false });
        var sent = await person.PostAsync($"{world.BacklotUrl}/plaza/consent", new FormUrlEncodedContent(fields));
        var back = await noor.GetAsync(sent.Headers.Location!.PathAndQuery);
        Assert.Equal(HttpStatusCode.Redirect, back.StatusCode);
        return back.Headers.Location!.OriginalString;
    }

    private static string IdIn(string address) =>
        Regex
            .Match(address, "from/(?<id>[0-9a-f-]{36})", RegexOptions.ExplicitCapture, TimeSpan.FromSeconds(1))
            .Groups["id"]
            .Value;

    private static Task<JsonElement> WholeAsync(HttpClient noor, string sourceId) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/sources/{sourceId}");

    private static Dictionary<string, string> Bikes(string email) =>
        new()
        {
            ["full_name"] = "Ines Calloway",
            ["email"] = email,
            ["fleet_size"] = "25+",
            ["cargo"] = "food",
        };

    [Fact]
    public async Task What_a_person_sends_there_is_a_lead_here_with_the_clock_begun_when_they_pressed()
    {
        var noor = await world.NoorAsync();
        await ListeningAsync(noor);
        await world.FillAsync("plaza/fill/pf-brackenwheel-ride", Bikes("plaza.one@example.com"));
        var lead = await World.FoundAsync(noor, "plaza.one@example.com");
        Assert.Equal(
            ("Ines Calloway", "Test ride", "Plaza"),
            (lead.Text("name"), lead.Text("form"), lead.Text("source"))
        );
        await world.ToldAsync(noor, lead.Text("id")!, "fuse-lit");
        var form = await World.FormAsync(noor, await World.FormIdAsync(noor, "brackenwheel-plaza-test-ride"));
        var sample = form.GetProperty("samples")
            .EnumerateArray()
            .First(s => s.Text("raw")!.Contains("plaza.one", StringComparison.Ordinal));
        Assert.Equal(("fetched", lead.Text("askedAt")), (sample.Text("via"), sample.Text("sentAt")));
        Assert.True(sample.GetProperty("lateSeconds").GetDouble() >= sample.GetProperty("toldSeconds").GetDouble());
        Assert.Contains(sample.GetProperty("answers").EnumerateArray(), a =>
            a.Text("question") == "campaign" && a.Text("answer") == "Depots, spring"
        );
    }

    [Fact]
    public async Task A_changed_submission_updates_the_same_lead_and_both_are_kept()
    {
        var noor = await world.NoorAsync();
        await ListeningAsync(noor);
        await world.FillAsync("plaza/fill/pf-brackenwheel-ride", Bikes("plaza.edit@example.com"));
        var lead = await World.FoundAsync(noor, "plaza.edit@example.com");
        var kept = (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/plaza/leads"))!.First(l =>
            l.GetProperty("answers").Text("email") == "plaza.edit@example.com"
        );
        await world.Backlot.PostAsJsonAsync($"/plaza/leads/{kept.Text("lead")}/again", new { fleet_size = "1–3" });
        await world.ToldAsync(noor, lead.Text("id")!, "submission-edited");
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}");
        Assert.Equal(2, whole.GetProperty("submissions").GetArrayLength());
        Assert.StartsWith("1–3", whole.GetProperty("lead").Text("asked"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Told_twice_it_is_one_submission()
    {
        var noor = await world.NoorAsync();
        await ListeningAsync(noor);
        await world.FaultAsync("plaza", "repeat");
        await world.FillAsync("plaza/fill/pf-brackenwheel-ride", Bikes("plaza.twice@example.com"));
        var lead = await World.FoundAsync(noor, "plaza.twice@example.com");
        await world.WorksAgainAsync();
        await world.IdleAsync();
        Assert.Equal(
            1,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
                .GetProperty("submissions")
                .GetArrayLength()
        );
    }

    [Fact]
    public async Task A_missing_permission_is_named_with_what_it_costs_and_connecting_again_mends_it()
    {
        var noor = await world.NoorAsync();
        var id = IdIn(
            await ConsentAsync(
                noor,
                ["pages.see", "forms.read", "notices.send"],
                ["pp-tarn-valley"],
                what: new { client = "tarn-valley", kind = "plaza" }
            )
        );
        var whole = await WholeAsync(noor, id);
        Assert.Equal("partial", whole.GetProperty("source").Text("access"));
        Assert.Contains(
            "“read the answers” was not given: we hear that somebody answered and cannot fetch what",
            whole.GetProperty("source").Text("fault"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            ["answers.read"],
            whole
                .GetProperty("permissions")
                .EnumerateArray()
                .Where(p => !p.GetProperty("given").GetBoolean())
                .Select(p => p.Text("key"))
        );
        var form = whole.GetProperty("all").EnumerateArray().Single(f => f.Text("name") == "Is your date free?");
        // It comes through the other connection already: received twice, each submission would come twice.
        var other = await World.FormIdAsync(noor, "tarn-valley-plaza-date");
        Assert.Equal(
            "still-used",
            await (await noor.PostAsync($"/api/forms/{form.Text("id")}/choose", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        await noor.PostAsync($"/api/forms/{other}/pause", null);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/forms/{form.Text("id")}/choose", null)).StatusCode
        );
        Assert.Equal(
            "still-used",
            await (await noor.PostAsync($"/api/forms/{other}/resume", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
        await World.ConfirmAsync(noor, form.Text("id")!);
        await world.FillAsync(
            "plaza/fill/pf-tarn-valley-date",
            new()
            {
                ["full_name"] = "Una Yardley",
                ["email"] = "una.partial@example.com",
                ["event_date"] = "3 May",
                ["guests"] = "50–120",
            }
        );
        await World.EventuallyAsync(
            async () =>
                (await WholeAsync(noor, id))
                    .GetProperty("notices")
                    .EnumerateArray()
                    .Any(n => n.Text("reason")?.Contains("answers.read", StringComparison.Ordinal) == true),
            "word that the answers may not be fetched"
        );

        await ConsentAsync(noor, All, ["pp-tarn-valley"], what: new { connectionId = whole.Text("connectionId") });
        await World.FoundAsync(noor, "una.partial@example.com", "tarn-valley");
        Assert.Equal("whole", (await WholeAsync(noor, id)).GetProperty("source").Text("access"));
        await noor.PostAsync($"/api/forms/{form.Text("id")}/pause", null);
        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync($"/api/forms/{other}/resume", null)).StatusCode);
    }

    [Fact]
    public async Task Of_an_agency_s_account_a_client_is_offered_its_own_pages_and_forms()
    {
        var noor = await world.NoorAsync();
        var begun = await (
            await noor.PostAsJsonAsync("/api/connections/consent", new { client = "tarn-valley", kind = "plaza" })
        ).BodyAsync();
        var page = await world.Backlot.GetStringAsync(begun.Text("goTo"));
        Assert.Equal(
            ["pp-tarn-valley"],
            Regex
                .Matches(
                    page,
                    "name=\"place\" value=\"(?<id>[^\"]+)\" checked",
                    RegexOptions.ExplicitCapture,
                    TimeSpan.FromSeconds(1)
                )
                .Select(m => m.Groups["id"].Value)
        );
        var whole = await WholeAsync(
            noor,
            IdIn(
                await ConsentAsync(
                    noor,
                    All,
                    ["pp-brackenwheel", "pp-hollin-vane", "pp-tarn-valley"],
                    what: new { client = "hollin-vane", kind = "plaza" }
                )
            )
        );
        Assert.Equal(
            ["Hollin Vane Acoustics"],
            whole.GetProperty("places").EnumerateArray().Select(p => p.Text("name"))
        );
        Assert.All(whole.GetProperty("all").EnumerateArray(), f =>
            Assert.Equal("Hollin Vane Acoustics", f.Text("place"))
        );
        // Whoever wants another's page says so.
        var id = whole.GetProperty("source").Text("id");
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.PutAsJsonAsync(
                    $"/api/sources/{id}/places",
                    new { ids = new[] { "pp-hollin-vane", "pp-brackenwheel" } }
                )
            ).StatusCode
        );
        await noor.PostAsync($"/api/sources/{id}/refresh", null);
        Assert.Equal(2, (await WholeAsync(noor, id!)).GetProperty("places").GetArrayLength());
    }

    [Fact]
    public async Task A_form_that_is_chosen_later_brings_what_its_network_told_of_before()
    {
        var noor = await world.NoorAsync();
        var id = IdIn(await ConsentAsync(noor, All, ["pp-brackenwheel"]));
        await world.FillAsync("plaza/fill/pf-brackenwheel-winter", Bikes("plaza.later@example.com"));
        await World.EventuallyAsync(
            async () =>
                (await WholeAsync(noor, id))
                    .GetProperty("notices")
                    .EnumerateArray()
                    .Any(n => n.Text("status") == "not-chosen"),
            "notice of a form that is not chosen"
        );
        var form = (await WholeAsync(noor, id))
            .GetProperty("all")
            .EnumerateArray()
            .Single(f => f.Text("name") == "Winter test ride");
        Assert.Equal(("offered", "waiting"), (form.Text("state"), form.Text("adState")));
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/forms/{form.Text("id")}/test-lead", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/forms/{form.Text("id")}/choose", null)).StatusCode
        );
        await World.EventuallyAsync(
            async () =>
                (await World.FormAsync(noor, form.Text("id")!)).GetProperty("form").GetProperty("waiting").GetInt32()
                == 1,
            "a submission that waits for its map"
        );
        await World.ConfirmAsync(noor, form.Text("id")!);
        await World.FoundAsync(noor, "plaza.later@example.com", "hollin-vane");
        var whole = await World.FormAsync(noor, form.Text("id")!);
        Assert.Equal(
            ("confirmed", "Noor Abernathy-Voss"),
            (whole.GetProperty("form").Text("map"), whole.Text("confirmedBy"))
        );
    }

    [Theory]
    [InlineData("expire", "expired")]
    [InlineData("withdraw", "withdrawn")]
    public async Task Access_that_is_gone_is_found_and_said(string act, string state)
    {
        var noor = await world.NoorAsync();
        var before = await TokensAsync();
        var id = IdIn(await ConsentAsync(noor, All, ["pp-hollin-vane"], days: "60"));
        var token = (await TokensAsync()).Except(before).Single();
        await world.Backlot.PostAsync($"/plaza/access/{token}/{act}", null);
        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync($"/api/sources/{id}/refresh", null)).StatusCode);
        var source = (await WholeAsync(noor, id)).GetProperty("source");
        Assert.Equal(state, source.Text("access"));
        Assert.Contains("Connect again", source.Text("fault"), StringComparison.Ordinal);
        Assert.Equal(
            "not-connected",
            await (await noor.GetAsync($"/api/sources/{id}/places")).RefusalAsync(HttpStatusCode.BadGateway)
        );
    }

    [Fact]
    public async Task Forms_made_copied_renamed_changed_and_archived_there_are_found_by_looking()
    {
        var noor = await world.NoorAsync();
        var id = IdIn(await ConsentAsync(noor, All, ["pp-hollin-vane"]));
        async Task<List<JsonElement>> Forms() => [.. (await WholeAsync(noor, id)).GetProperty("all").EnumerateArray()];
        async Task LookAsync() =>
            Assert.Equal(
                HttpStatusCode.NoContent,
                (await noor.PostAsync($"/api/sources/{id}/refresh", null)).StatusCode
            );
        var made = (
            await world.FillAsync("plaza/make", new() { ["place"] = "pp-hollin-vane", ["title"] = "Autumn booths" })
        )
            .Headers
            .Location!
            .OriginalString;
        await LookAsync();
        var form = (await Forms()).Single(f => f.Text("name") == "Autumn booths");
        await world.FillAsync($"{made.TrimStart('/')}/rename", new() { ["title"] = "Autumn quiet rooms" });
        await world.FillAsync(
            $"{made.TrimStart('/')}/ask",
            new() { ["words"] = "Which city?", ["choices"] = "Quillon, Tarn" }
        );
        await world.FillAsync(
            $"{made.TrimStart('/')}/reword",
            new() { ["ask"] = "company", ["words"] = "Where do you work?" }
        );
        await world.FillAsync($"{made.TrimStart('/')}/copy", []);
        await LookAsync();
        Assert.Contains(await Forms(), f => f.Text("name") == "Copy of Autumn quiet rooms");
        await world.FillAsync($"{made.TrimStart('/')}/archive", []);
        await LookAsync();
        var whole = await World.FormAsync(noor, form.Text("id")!);
        var news = string.Join('\n', whole.GetProperty("news").EnumerateArray().Select(n => n.Text("words")));
        Assert.All(
            new[]
            {
                "renamed from “Autumn booths” to “Autumn quiet rooms”",
                "asks something new: “Which city?”",
                "“Business” now reads “Where do you work?”",
                "archived at Plaza",
            },
            said => Assert.Contains(said, news, StringComparison.Ordinal)
        );
        Assert.NotNull(whole.GetProperty("form").Text("archivedAt"));
        Assert.Contains(whole.GetProperty("fields").EnumerateArray(), f => f.Text("name") == "which_city");
    }

    [Fact]
    public async Task A_notice_that_is_not_signed_right_is_refused_and_shown()
    {
        var noor = await world.NoorAsync();
        var id = IdIn(await ConsentAsync(noor, All, ["pp-hollin-vane"]));
        var key = await world.InsideAsync(async s =>
            (
                await Microsoft.EntityFrameworkCore.EntityFrameworkQueryableExtensions.SingleAsync(
                    ((AppDb)s.GetService(typeof(AppDb))!).Sources,
                    x => x.Id == Guid.Parse(id)
                )
            ).Key
        );
        var answer = await world.Anyone.PostAsJsonAsync($"/told/{key}", new { form = "pf-x", lead = "pl-x" });
        Assert.Equal("bad-signature", await answer.RefusalAsync(HttpStatusCode.Unauthorized));
        await World.EventuallyAsync(
            async () =>
                (await WholeAsync(noor, id))
                    .GetProperty("refused")
                    .EnumerateArray()
                    .Any(r => r.Text("code") == "bad-signature"),
            "refusal on the source's page"
        );
        Assert.Equal(
            "not-there",
            await (await world.Anyone.PostAsJsonAsync("/told/nothing", new { })).RefusalAsync(HttpStatusCode.NotFound)
        );
    }

    [Fact]
    public async Task Refusing_consent_or_coming_back_with_another_state_connects_nothing()
    {
        var noor = await world.NoorAsync();
        Assert.Equal("/sources/new/plaza?told=refused", await ConsentAsync(noor, [], [], answer: "refuse"));
        Assert.Equal(
            "/sources/new?told=stale",
            (await noor.GetAsync("/connect/back?code=x&state=made-up")).Headers.Location!.OriginalString
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync("/api/connections/consent", new { client = "hollin-vane", kind = "hook" })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task Pages_are_chosen_and_one_that_was_not_given_is_no_page()
    {
        var noor = await world.NoorAsync();
        var id = IdIn(await ConsentAsync(noor, All, ["pp-brackenwheel", "pp-tarn-valley"]));
        Assert.Equal(
            2,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{id}/places"))
                .GetProperty("places")
                .GetArrayLength()
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.PutAsJsonAsync($"/api/sources/{id}/places", new { ids = new[] { "pp-tarn-valley" } })
            ).StatusCode
        );
        Assert.Equal(
            "Tarn Valley Marquees",
            (await WholeAsync(noor, id)).GetProperty("places").EnumerateArray().Single().Text("name")
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync($"/api/sources/{id}/places", new { ids = new[] { "pp-hollin-vane" } })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task A_connection_says_who_uses_it_and_is_not_taken_out_while_something_does()
    {
        var noor = await world.NoorAsync();
        var rows = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .ToList();
        var plaza = rows.Single(c => c.Text("kind") == "plaza");
        Assert.Equal(["Plaza"], plaza.GetProperty("usedBy").EnumerateArray().Select(u => u.GetString()));
        Assert.Equal(
            "still-used",
            await (await noor.DeleteAsync($"/api/connections/{plaza.Text("id")}")).RefusalAsync(HttpStatusCode.Conflict)
        );
        var verified = await (await noor.PostAsync($"/api/connections/{plaza.Text("id")}/verify", null)).BodyAsync();
        Assert.Equal(("whole", 4), (verified.Text("state"), verified.GetProperty("granted").GetArrayLength()));
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PutAsJsonAsync($"/api/connections/{plaza.Text("id")}", new { name = "Plaza" })).StatusCode
        );
        Assert.DoesNotContain(
            "backlot-demo-plaza",
            await noor.GetStringAsync("/api/connections"),
            StringComparison.Ordinal
        );

        var id = IdIn(await ConsentAsync(noor, All, ["pp-hollin-vane"]));
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.DeleteAsync($"/api/connections/{(await WholeAsync(noor, id)).Text("connectionId")}")).StatusCode
        );
        Assert.Equal(HttpStatusCode.NotFound, (await noor.GetAsync($"/api/sources/{id}")).StatusCode);
    }

    // The demonstration's source asks to be told when it is first looked at.
    private static async Task ListeningAsync(HttpClient noor) =>
        (
            await noor.PostAsync($"/api/sources/{(await World.SourceAsync(noor, "plaza")).Text("id")}/refresh", null)
        ).EnsureSuccessStatusCode();

    private async Task<List<string>> TokensAsync() =>
        [
            .. Regex
                .Matches(
                    await world.Backlot.GetStringAsync("/plaza/access"),
                    "/plaza/access/(?<t>[0-9a-f]{40})/withdraw",
                    RegexOptions.ExplicitCapture,
                    TimeSpan.FromSeconds(1)
                )
                .Select(m => m.Groups["t"].Value),
        ];
}

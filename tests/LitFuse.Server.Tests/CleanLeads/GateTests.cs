using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>
/// What stands between a submission and its fuse: the pen, the lead's own confirming, the list of who is not to be
/// contacted.
/// </summary>
public sealed class GateTests(World world) : IClassFixture<World>
{
    private static readonly object Letter = new
    {
        subject = "One press, {client}",
        words = "Hello {name}, press this: {link}",
        hours = 48,
    };

    private async Task<(string Id, string Key)> FormAsync(
        HttpClient noor,
        string name,
        object? hold = null,
        object? letter = null
    )
    {
        var (_, id) = await World.MakeFormAsync(noor, "website", name);
        (
            await noor.PutAsJsonAsync(
                $"/api/forms/{id}/map",
                new
                {
                    version = 0,
                    rows = new[]
                    {
                        new { formField = "who", leadField = "full_name" },
                        new { formField = "mail", leadField = "email" },
                        new { formField = "ring", leadField = "phone" },
                        new { formField = "agree", leadField = "consent" },
                    },
                }
            )
        ).EnsureSuccessStatusCode();
        if (hold is not null)
            Assert.Equal(
                HttpStatusCode.NoContent,
                (await noor.PutAsJsonAsync($"/api/forms/{id}/hold", new { hold })).StatusCode
            );
        if (letter is not null)
            Assert.Equal(
                HttpStatusCode.NoContent,
                (await noor.PutAsJsonAsync($"/api/forms/{id}/opt-in", new { letter })).StatusCode
            );
        return (id, (await World.FormAsync(noor, id)).GetProperty("form").Text("key")!);
    }

    private static Task<JsonElement> HeldAsync(HttpClient noor, string email, bool refused = false) =>
        World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/pen?refused={refused}"))
                    .GetProperty("rows")
                    .EnumerateArray()
                    .Where(r => r.Text("email") == email)
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            $"{email} in the pen"
        );

    private Task<JsonElement> LetterAsync(string to) =>
        World.EventuallyAsync(
            async () =>
                (await world.Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/pillarpost/letters?to={to}"))!
                    .Cast<JsonElement?>()
                    .LastOrDefault(),
            $"letter to {to}"
        );

    private static string LinkIn(JsonElement letter) =>
        Regex
            .Match(letter.Text("text")!, @"http://[^\s]+/confirm/\w+", RegexOptions.None, TimeSpan.FromSeconds(1))
            .Value;

    private static async Task<int> CountAsync(HttpClient noor, string email) =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={email}")).GetProperty("total").GetInt32();

    [Fact]
    public async Task What_is_held_becomes_a_lead_when_somebody_approves_and_the_story_says_who()
    {
        var noor = await world.NoorAsync();
        await noor.PutAsJsonAsync(
            $"/api/forms/{await World.FormIdAsync(noor, World.Form)}/hold",
            new
            {
                hold = new
                {
                    kind = "rules",
                    junkFrom = 60,
                    when = new
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
                    },
                },
            }
        );
        var (big, small) = (world.Person("25+"), world.Person("1–3"));
        await world.SubmitAsync(big);
        await world.LeadOfAsync(noor, small);
        var held = await HeldAsync(noor, big["email"]);
        Assert.Equal(("fleet size was 25+, 25+", 0), (held.Text("why"), await CountAsync(noor, big["email"])));
        Assert.Empty(await world.TextsAsync(World.E164(big)));

        var imke = await world.ImkeAsync();
        world.Time.Move(TimeSpan.FromMinutes(7));
        Assert.Equal(
            1,
            (
                await (
                    await imke.PostAsJsonAsync("/api/pen/approve", new { ids = new[] { held.Text("id") } })
                ).BodyAsync()
            )
                .GetProperty("done")
                .GetInt32()
        );
        var lead = await World.FoundAsync(noor, big["email"]);
        var told = await world.ToldAsync(noor, lead.Text("id")!, "approved");
        Assert.Equal(("Imke Sandoval", "after 7 min in the holding pen"), (told.Text("person"), told.Text("words")));
        await world.ToldAsync(noor, lead.Text("id")!, "step-done", "Text: someone is on it");
        Assert.Equal(
            0,
            (
                await (
                    await imke.PostAsJsonAsync("/api/pen/approve", new { ids = new[] { held.Text("id") } })
                ).BodyAsync()
            )
                .GetProperty("done")
                .GetInt32()
        );
        await noor.PutAsJsonAsync(
            $"/api/forms/{await World.FormIdAsync(noor, World.Form)}/hold",
            new { hold = new { kind = "junk", junkFrom = 60 } }
        );
    }

    [Fact]
    public async Task What_is_refused_is_kept_with_its_reason_and_may_be_approved_after_all()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await FormAsync(noor, "All held", hold: new { kind = "all", junkFrom = 60 });
        await world.SubmitAsync(new { who = "Odalys Fenwick", mail = "held.1@example.com" }, key);
        await world.SubmitAsync(new { who = "Jorun Ashdown", mail = "held.2@example.com" }, key);
        var ids = new[]
        {
            (await HeldAsync(noor, "held.1@example.com")).Text("id"),
            (await HeldAsync(noor, "held.2@example.com")).Text("id"),
        };
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/pen/refuse", new { ids })).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            2,
            (await (await noor.PostAsJsonAsync("/api/pen/refuse", new { ids, reason = "sells shoes" })).BodyAsync())
                .GetProperty("done")
                .GetInt32()
        );
        var refused = await HeldAsync(noor, "held.1@example.com", refused: true);
        Assert.Equal(("sells shoes", "Noor Abernathy-Voss"), (refused.Text("why"), refused.Text("decidedBy")));
        Assert.Equal(
            ("refused", "sells shoes"),
            (
                (await World.FormAsync(noor, id)).GetProperty("samples")[0].Text("status"),
                (await World.FormAsync(noor, id)).GetProperty("samples")[0].Text("reason")
            )
        );
        Assert.Equal(0, await CountAsync(noor, "held.1@example.com"));
        await noor.PostAsJsonAsync("/api/pen/approve", new { ids = ids[..1] });
        await World.FoundAsync(noor, "held.1@example.com");
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync($"/api/forms/{id}/hold", new { hold = new { kind = "junk", junkFrom = 0 } })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task Double_opt_in_waits_for_the_button_and_no_scanner_presses_it()
    {
        var noor = await world.NoorAsync();
        await world.Backlot.PutAsync("/api/pillarpost/scanner?on=true", null);
        var (_, key) = await FormAsync(noor, "Asked twice", letter: Letter);
        await world.SubmitAsync(
            new
            {
                who = "Ines Calloway",
                mail = "twice@example.com",
                ring = "0113 496 0901",
            },
            key
        );
        var letter = await LetterAsync("twice@example.com");
        Assert.Equal("One press, Brackenwheel Cargo Cycles", letter.Text("subject"));
        Assert.StartsWith("Hello Ines, press this: http", letter.Text("text"), StringComparison.Ordinal);
        var lead = await World.FoundAsync(noor, "twice@example.com");
        var id = lead.Text("id")!;
        await world.ToldAsync(noor, id, "step-done");
        await world.IdleAsync(); // the scanner has been there
        Assert.NotNull(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}")).GetProperty("around").Text("waitsToConfirm")
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                .GetProperty("inTheAir")
                .EnumerateArray(),
            l => l.Text("id") == id
        );
        Assert.Equal(
            1,
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?state=unconfirmed&q=twice@example.com"))
                .GetProperty("total")
                .GetInt32()
        );
        var sent = (await world.ToldAsync(noor, id, "opt-in-asked")).GetProperty("sent");
        Assert.DoesNotContain("/confirm/", sent.Text("words"), StringComparison.Ordinal);

        world.Time.Move(TimeSpan.FromHours(3));
        var link = LinkIn(letter);
        Assert.Contains("Yes, it was me", await world.Anyone.GetStringAsync(link), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await world.Anyone.PostAsync(link, null)).StatusCode);
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                    .GetProperty("inTheAir")
                    .EnumerateArray()
                    .Any(l => l.Text("id") == id),
            "them in the air"
        );
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}");
        Assert.True(
            DateTimeOffset.Parse(
                whole.GetProperty("lead").Text("askedAt")!,
                System.Globalization.CultureInfo.InvariantCulture
            )
                > DateTimeOffset
                    .Parse(lead.Text("askedAt")!, System.Globalization.CultureInfo.InvariantCulture)
                    .AddHours(2.9)
        );
        Assert.Equal(
            "confirmed",
            Assert.Single(whole.GetProperty("around").GetProperty("consents").EnumerateArray()).Text("how")
        );
        await world.ToldAsync(noor, id, "opt-in-confirmed");
        Assert.Contains(
            "Thank you",
            await (await world.Anyone.PostAsync(link, null)).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        // They have confirmed: asking again asks them nothing.
        await world.SubmitAsync(
            new
            {
                who = "Ines Calloway",
                mail = "twice@example.com",
                day = "another",
            },
            key
        );
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}"))
                    .GetProperty("submissions")
                    .GetArrayLength() == 2,
            "second asking"
        );
        Assert.Single(
            (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/pillarpost/letters?to=twice@example.com"))!
        );
        await world.Backlot.PutAsync("/api/pillarpost/scanner?on=false", null);
    }

    [Fact]
    public async Task A_link_that_ran_out_lights_nothing_and_the_story_says_so()
    {
        var noor = await world.NoorAsync();
        var (_, key) = await FormAsync(
            noor,
            "Ran out",
            letter: new
            {
                subject = "Press",
                words = "{link}",
                hours = 2,
            }
        );
        await world.SubmitAsync(new { who = "Hal Wetherby", mail = "late.press@example.com" }, key);
        var link = LinkIn(await LetterAsync("late.press@example.com"));
        var id = (await World.FoundAsync(noor, "late.press@example.com")).Text("id")!;
        world.Time.Move(TimeSpan.FromHours(2.1));
        await world.ToldAsync(noor, id, "opt-in-expired");
        Assert.Equal(HttpStatusCode.Gone, (await world.Anyone.GetAsync(link)).StatusCode);
        Assert.Equal(HttpStatusCode.Gone, (await world.Anyone.PostAsync(link, null)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await world.Anyone.PostAsync(link[..^3] + "zzz", null)).StatusCode);
        Assert.DoesNotContain(await world.StoryAsync(noor, id), l =>
            l.Text("kind") is "fuse-lit" or "opt-in-confirmed"
        );
    }

    [Fact]
    public async Task Mail_trouble_is_tried_again_or_said_and_who_left_no_address_waits_for_a_person()
    {
        var noor = await world.NoorAsync();
        var (_, key) = await FormAsync(noor, "Mail trouble", letter: Letter);
        await world.SubmitAsync(new { who = "No Mail", ring = "0113 496 0902" }, key);
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>("/api/pen"))
                    .GetProperty("rows")
                    .EnumerateArray()
                    .Any(r => r.Text("why") == "there is no email address that could be asked to confirm"),
            "the one without an address in the pen"
        );
        await world.SubmitAsync(new { who = "Not There", mail = "nobody@example.com" }, key);
        var lost = (await World.FoundAsync(noor, "nobody@example.com")).Text("id")!;
        Assert.Contains(
            "550",
            (await world.ToldAsync(noor, lost, "step-failed")).Text("words"),
            StringComparison.Ordinal
        );

        await world.FaultAsync("pillarpost", "error");
        await world.SubmitAsync(new { who = "Try Again", mail = "again.mail@example.com" }, key);
        var again = (await World.FoundAsync(noor, "again.mail@example.com")).Text("id")!;
        Assert.Contains(
            "451",
            (await world.ToldAsync(noor, again, "step-retries")).Text("words"),
            StringComparison.Ordinal
        );
        await world.WorksAgainAsync();
        world.Time.Move(TimeSpan.FromMinutes(5));
        await LetterAsync("again.mail@example.com");
        Assert.Single(
            (
                await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                    "/api/pillarpost/letters?to=again.mail@example.com"
                )
            )!
        );
    }

    [Fact]
    public async Task A_mail_server_is_tried_before_it_is_kept()
    {
        var noor = await world.NoorAsync();
        object Server(string password, int port, string sender = "Tarn <hello@tarnvalley.example>") =>
            new
            {
                client = "tarn-valley",
                host = "127.0.0.1",
                port,
                secure = false,
                user = "tarn",
                password,
                sender,
            };
        Assert.Contains(
            "does not take the user and password",
            (
                await (await noor.PostAsJsonAsync("/api/connections/mail", Server("wrong", world.MailPort))).BodyAsync()
            ).Text("detail"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "not-connected",
            await (await noor.PostAsJsonAsync("/api/connections/mail", Server("x", World.FreePort()))).RefusalAsync(
                HttpStatusCode.BadGateway
            )
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync("/api/connections/mail", Server("x", world.MailPort, "nobody in particular"))
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var made = await (
            await noor.PostAsJsonAsync("/api/connections/mail", Server("backlot-demo-pillarpost", world.MailPort))
        ).BodyAsync();
        Assert.Equal(("hello@tarnvalley.example", "whole"), (made.Text("account"), made.Text("state")));
        Assert.DoesNotContain("backlot-demo", made.ToString(), StringComparison.Ordinal);
        Assert.Equal(
            "whole",
            (await (await noor.PostAsync($"/api/connections/{made.Text("id")}/verify", null)).BodyAsync()).Text("state")
        );
    }

    [Fact]
    public async Task Who_is_on_the_list_is_left_alone_whatever_form_they_come_with()
    {
        var noor = await world.NoorAsync();
        var (known, fresh) = (world.Person("25+"), world.Person("25+"));
        var id = (await world.LeadOfAsync(noor, known)).Text("id")!;
        var csv =
            $"name;mail;tel\nSomebody;{known["email"].ToUpperInvariant()};\nOther;;{fresh["phone"]}\nNeither;none;\n";
        var added = await (
            await noor.PostAsJsonAsync(
                "/api/do-not-contact",
                new
                {
                    client = "brackenwheel",
                    addresses = csv,
                    reason = "asked by post",
                }
            )
        ).BodyAsync();
        Assert.Equal(
            (2, 0, 1),
            (
                added.GetProperty("added").GetInt32(),
                added.GetProperty("there").GetInt32(),
                added.GetProperty("leads").GetInt32()
            )
        );
        Assert.Contains(added.GetProperty("unreadable").EnumerateArray(), u => u.GetString() == "Neither, none");
        Assert.Contains(
            "asked by post",
            (await world.ToldAsync(noor, id, "do-not-contact")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "not-now",
            await (await noor.PostAsJsonAsync($"/api/leads/{id}/texts", new { words = "hello" })).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );

        var later = (await world.LeadOfAsync(noor, fresh)).Text("id")!;
        Assert.Contains(
            "they are on the do-not-contact list",
            (await world.ToldAsync(noor, later, "step-cancelled")).Text("words"),
            StringComparison.Ordinal
        );
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", fresh["email"])).Count == 1,
            "word to the team all the same"
        );
        Assert.Empty(await world.TextsAsync(World.E164(fresh)));
        Assert.Equal(
            2,
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?client=brackenwheel&state=do-not-contact"))
                .GetProperty("total")
                .GetInt32()
        );

        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.DeleteAsync(
                    $"/api/do-not-contact?client=brackenwheel&value={Uri.EscapeDataString(World.E164(fresh))}"
                )
            ).StatusCode
        );
        Assert.Null(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{later}"))
                .GetProperty("around")
                .Text("doNotContactAt")
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync("/api/do-not-contact", new { client = "brackenwheel", addresses = "  " })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            0,
            (await noor.GetFromJsonAsync<JsonElement>("/api/do-not-contact?client=hollin-vane"))
                .GetProperty("total")
                .GetInt32()
        );
    }

    [Fact]
    public async Task Each_consent_is_kept_with_its_words_their_version_and_from_where()
    {
        var noor = await world.NoorAsync();
        var (_, key) = await FormAsync(noor, "Consented");
        await world.SubmitAsync(
            new
            {
                who = "Ines",
                mail = "agreed@example.com",
                agree = "ja",
            },
            key
        );
        await world.SubmitAsync(
            new
            {
                who = "Bram",
                mail = "declined@example.com",
                agree = "no",
            },
            key
        );
        async Task<JsonElement> ConsentAsync(string email) =>
            Assert.Single(
                (
                    await noor.GetFromJsonAsync<JsonElement>(
                        $"/api/leads/{(await World.FoundAsync(noor, email)).Text("id")}"
                    )
                )
                    .GetProperty("around")
                    .GetProperty("consents")
                    .EnumerateArray()
            );
        Assert.Equal(
            ("ticked", "agree", "127.0.0.1"),
            (
                (await ConsentAsync("agreed@example.com")).Text("how"),
                (await ConsentAsync("agreed@example.com")).Text("words"),
                (await ConsentAsync("agreed@example.com")).Text("fromAddress")
            )
        );
        Assert.Equal("declined", (await ConsentAsync("declined@example.com")).Text("how"));

        // Our own form says which words stood on the page, even where the page is older than the form.
        var page = await world.Anyone.GetStringAsync($"/f/{World.Form}");
        var mark = Regex
            .Match(
                page,
                "name=\"lf_consent\" value=\"(?<mark>\\w+)\"",
                RegexOptions.ExplicitCapture,
                TimeSpan.FromSeconds(1)
            )
            .Groups["mark"]
            .Value;
        var person = world.Person();
        person["lf_consent"] = mark;
        var lead = (await world.LeadOfAsync(noor, person)).Text("id");
        var shown = Assert.Single(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                .GetProperty("around")
                .GetProperty("consents")
                .EnumerateArray()
        );
        Assert.Equal(
            ("shown", "We use your answers to arrange your ride, and for nothing else.", 1),
            (shown.Text("how"), shown.Text("words"), shown.GetProperty("version").GetInt32())
        );
        Assert.EndsWith("/privacy", shown.Text("privacyUrl"), StringComparison.Ordinal);
    }
}

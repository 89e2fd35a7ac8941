using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Kits;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>The language of fuses, lived against the Backlot with a clock that is moved.</summary>
public sealed class FuseLanguageTests(World world) : IClassFixture<World>
{
    private static Step Text(string id, string words, int after = 0) =>
        new(id, id, StepKinds.Text, StepMoment.After(after), new Dictionary<string, string> { ["words"] = words });

    private static Step Post(string id, string words, int after = 0) =>
        new(
            id,
            id,
            StepKinds.ChannelPost,
            StepMoment.After(after),
            new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = words }
        );

    private static Step Silently(string id, string kind, params (string Key, string Value)[] settings) =>
        new(id, id, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private static Band Always(params Step[] steps) => new("always", "Always", new(EntryKind.Always), steps);

    private static Dictionary<string, IReadOnlyList<string>> Only(string key, params string[] values) =>
        new() { [key] = values };

    private async Task<JsonElement> LeadAsync(HttpClient noor, Dictionary<string, string> person, string form)
    {
        var lead = await world.LeadOfAsync(noor, person, form);
        await world.ToldAsync(noor, lead.Text("id")!, "lead-made");
        return lead;
    }

    private async Task ReplyAsync(Dictionary<string, string> person, string text)
    {
        var ours = (await world.TextsAsync(World.E164(person)))[^1].Text("from")!;
        var answer = await world.Backlot.PostAsJsonAsync(
            $"/api/copperline/phones/{Uri.EscapeDataString(World.E164(person))}/texts",
            new { to = ours, text }
        );
        Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync());
    }

    private static FuseDefinition Fuse(string form, params Band[] bands) =>
        new()
        {
            Name = "Made for a test",
            LitBy = [new(EventKeys.Submission, Only("form", form))],
            Bands = bands,
        };

    [Fact]
    public async Task A_slot_is_picked_by_reply_and_the_reminder_never_goes()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(Text("offer", "When? {{ choices }}") with { Choices = ["Tuesday 10:00", "Wednesday 15:00"] }),
                new(
                    "chose",
                    "They chose",
                    new(EntryKind.On, Event: EventKeys.Replied, Only: Only("meaning", "choice")),
                    [
                        Text("booked", "Noted: {{ reply.choice }}."),
                        Post("booked-post", "{{ lead.name }} chose {{ reply.choice }}"),
                        Silently("slot", StepKinds.Tag, ("tag", "time chosen")),
                    ]
                ),
                new(
                    "remind",
                    "No reply",
                    new(EntryKind.Silence, Of: "offer", ForSeconds: 3600),
                    [Text("reminder", "Still glad to ring.")]
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "offer");
        Assert.Contains(
            "1) Tuesday 10:00\n2) Wednesday 15:00",
            (await world.TextsAsync(World.E164(person)))[^1].Text("text"),
            StringComparison.Ordinal
        );
        await ReplyAsync(person, "the second please");
        await world.ToldAsync(noor, lead, "step-done", "booked");
        Assert.Equal(
            "Noted: Wednesday 15:00.",
            (await world.TextsAsync(World.E164(person))).Last(t => t.Text("to") == World.E164(person)).Text("text")
        );
        Assert.Equal("the second please", (await world.ToldAsync(noor, lead, "replied")).Text("words"));
        Assert.StartsWith(
            "they chose Wednesday 15:00",
            (await world.ToldAsync(noor, lead, "reply-read")).Text("words"),
            StringComparison.Ordinal
        );
        world.Time.Move(TimeSpan.FromHours(2));
        await world.IdleAsync();
        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("step") == "reminder");
        Assert.Contains(
            "time chosen",
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                .GetProperty("around")
                .GetProperty("tags")
                .EnumerateArray()
                .Select(t => t.GetString())
        );
        world.Time.Move(TimeSpan.FromHours(-2));
    }

    [Fact]
    public async Task Silence_reminds_once_and_hands_over()
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(Text("offer", "When may we ring?")),
                new(
                    "remind",
                    "No reply",
                    new(EntryKind.Silence, Of: "offer", ForSeconds: 3600),
                    [Text("reminder", "Still glad to ring.")]
                ),
                new(
                    "hand",
                    "Still none",
                    new(EntryKind.Silence, Of: "reminder", ForSeconds: 3600),
                    [Post("hand-over", "{{ lead.name }} has not replied.")]
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "offer");
        world.Time.Move(TimeSpan.FromMinutes(61));
        await world.ToldAsync(noor, lead, "step-done", "reminder");
        world.Time.Move(TimeSpan.FromMinutes(61));
        await world.ToldAsync(noor, lead, "step-done", "hand-over");
        Assert.Single(await world.StoryAsync(noor, lead), l =>
            l.Text("kind") == "step-done" && l.Text("step") == "reminder"
        );
        world.Time.Move(TimeSpan.FromMinutes(-122));
    }

    [Theory]
    [InlineData("25+", "large", "fleet size was 25+, one of 10–24, 25+")]
    [InlineData("4–9", "small", "no other band's rules held")]
    public async Task Large_and_small_go_to_different_people_and_the_story_says_why(
        string fleet,
        string step,
        string because
    )
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, _) = await world.LitAsync(
            noor,
            form =>
                Fuse(
                    form,
                    new Band(
                        "big",
                        "Large",
                        new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["10–24", "25+"])])),
                        [Post("large", "large {{ lead.name }}")]
                    ),
                    new Band("others", "Small", new(EntryKind.Otherwise), [Post("small", "small {{ lead.name }}")])
                ),
            fleet
        );
        await world.ToldAsync(noor, lead, "step-done", step);
        Assert.Equal(because, (await world.ToldAsync(noor, lead, "band-lit")).Text("words"));
        if (step == "small")
            Assert.Equal(
                "fleet size was 4–9, not one of 10–24, 25+",
                (await world.ToldAsync(noor, lead, "band-passed")).Text("words")
            );
    }

    [Fact]
    public async Task A_result_is_passed_on_to_the_step_that_waits_for_it()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(
                    Post("task", "Prepare an offer for {{ lead.name }}"),
                    Post("link", "New task for {{ lead.name }}: {{ steps.task.url }}")
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "link");
        var post = Assert.Single(await world.PostsAsync("#ride-desk", "New task for Ines " + person["last_name"]));
        Assert.Matches(@"http://127\.0\.0\.1:\d+/ridgeboard\?channel=%23ride-desk#post-\d+", post.Text("text"));
        var steps = (await world.StoryAsync(noor, lead))
            .Where(l => l.Text("kind") is "step-sent" or "step-done")
            .Select(l => $"{l.Text("kind")} {l.Text("step")}")
            .ToList();
        Assert.Equal(["step-sent task", "step-done task", "step-sent link", "step-done link"], steps);
    }

    [Fact]
    public async Task Letters_over_nine_days_are_stopped_by_a_reply()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            StarterKits.Find("four-letters")!.Build(new([form], [], ["#ride-desk"], [], [], [])) with
            {
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            Text("hello", "Hello, letters follow."),
                            .. StarterKits.Find("four-letters")!.Build(new([form], [], [], [], [], [])).Bands[0].Steps,
                        ]
                    ),
                ],
            }
        );
        await world.ToldAsync(noor, lead, "step-done", "hello");
        world.Time.Move(TimeSpan.FromMinutes(6));
        await world.ToldAsync(noor, lead, "step-done", "Letter 1: thank you");
        world.Time.Move(TimeSpan.FromDays(2));
        await world.ToldAsync(noor, lead, "step-done", "Letter 2: how it works");
        await ReplyAsync(person, "Could you ring me?");
        var cancelled = await world.ToldAsync(noor, lead, "step-cancelled", "Letter 3: what others ask");
        Assert.Contains("question", cancelled.Text("words"), StringComparison.Ordinal);
        world.Time.Move(TimeSpan.FromDays(9));
        await world.ToldAsync(noor, lead, "step-done", "Tag: not answered"); // what only notes something goes on
        Assert.Equal(
            2,
            (await world.StoryAsync(noor, lead)).Count(l =>
                l.Text("kind") == "step-done" && l.Text("step")!.StartsWith("Letter", StringComparison.Ordinal)
            )
        );
        world.Time.Move(-TimeSpan.FromDays(11) - TimeSpan.FromMinutes(6));
    }

    [Fact]
    public async Task Stop_by_text_ends_all_speech_and_start_takes_it_up_again()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(form, Always(Text("hello", "Hello"), Text("later", "Later", 600)))
        );
        await world.ToldAsync(noor, lead, "step-done", "hello");
        await ReplyAsync(person, "STOP");
        await world.ToldAsync(noor, lead, "opted-out");
        await world.ToldAsync(noor, lead, "step-cancelled", "later");
        Assert.False(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("canText").GetBoolean()
        );
        await ReplyAsync(person, "start");
        await world.ToldAsync(noor, lead, "opted-in");
        Assert.True(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("canText").GetBoolean()
        );
    }

    [Fact]
    public async Task A_text_told_twice_is_one_and_one_from_a_stranger_is_kept()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(form, Always(Text("hello", "Hello"))));
        await world.ToldAsync(noor, lead, "step-done", "hello");
        await world.FaultAsync("copperline", "repeat");
        await ReplyAsync(person, "yes please");
        await world.ToldAsync(noor, lead, "replied");
        await world.IdleAsync();
        await world.WorksAgainAsync();
        Assert.Single(await world.StoryAsync(noor, lead), l => l.Text("kind") == "replied");
        var ours =
            (await world.TextsAsync(World.E164(person)))[^1].Text("to") == World.E164(person)
                ? (await world.TextsAsync(World.E164(person)))[^1].Text("from")!
                : (await world.TextsAsync(World.E164(person)))[0].Text("from")!;
        Assert.True(
            (
                await world.Backlot.PostAsJsonAsync(
                    "/api/copperline/phones/%2B447700900999/texts",
                    new { to = ours, text = "who are you" }
                )
            ).IsSuccessStatusCode
        );
    }

    [Theory]
    [InlineData(Relight.WhenLastEnded, "the last one still burns")]
    [InlineData(Relight.Once, "it burns once for a lead, and has")]
    [InlineData(Relight.OnceInDays, "it burns once in 30 days")]
    [InlineData(Relight.Always, null)]
    public async Task Relighting_is_by_rule_and_never_silent(Relight relight, string? because)
    {
        var noor = await world.NoorAsync();
        var (lead, person, form, _) = await world.LitAsync(noor, key =>
            Fuse(key, Always(Post("now", "now"), Post("later", "later", 7200))) with
            {
                Relight = relight,
            }
        );
        await world.ToldAsync(noor, lead, "step-done", "now");
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["cargo"] = "tools" }, form);
        if (because is not null)
            Assert.StartsWith(
                "not relit, because " + because,
                (await world.ToldAsync(noor, lead, "fuse-not-relit")).Text("words"),
                StringComparison.Ordinal
            );
        else
            await World.EventuallyAsync(
                async () => (await world.StoryAsync(noor, lead)).Count(l => l.Text("kind") == "fuse-lit") == 2,
                "a second burn"
            );
    }

    [Fact]
    public async Task A_tag_a_stage_and_another_fuse_light_fuses_and_a_ring_of_them_ends()
    {
        var noor = await world.NoorAsync();
        var ring = new FuseDefinition
        {
            Name = "Ring",
            LitBy = [new(EventKeys.Tagged, Only("tag", "ring"))],
            Relight = Relight.Always,
            Bands =
            [
                Always(
                    Silently("off", StepKinds.Untag, ("tag", "ring")),
                    Silently("on", StepKinds.Tag, ("tag", "ring"))
                ),
            ],
        };
        await World.ArmAsync(noor, ring);
        var won = await World.ArmAsync(
            noor,
            new()
            {
                Name = "Won: tell the desk",
                LitBy = [new(EventKeys.StageReached, Only("stage", "Won"))],
                Bands = [Always(Post("won", "{{ lead.name }} is won"))],
            }
        );
        var (lead, _, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(
                    Silently("stage", StepKinds.SetStage, ("stage", "Spoken")),
                    Silently(
                        "field",
                        StepKinds.SetField,
                        ("field", "company"),
                        ("value", "Bracken {{ lead.last_name }}")
                    ),
                    Silently("more", StepKinds.LightFuse, ("fuse", won))
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "won"); // lit by the other fuse
        Assert.Equal("Spoken", (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).Text("stage"));
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync("/api/leads/change", new { ids = new[] { lead }, stage = "Married" })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        await noor.PostAsJsonAsync("/api/leads/change", new { ids = new[] { lead }, stage = "Won" });
        await World.EventuallyAsync(
            async () =>
                (await world.StoryAsync(noor, lead)).Count(l =>
                    l.Text("kind") == "step-done" && l.Text("step") == "won"
                ) == 2,
            "the desk told by the stage"
        );

        await noor.PostAsJsonAsync("/api/leads/change", new { ids = new[] { lead }, tag = "ring" });
        var end = await world.ToldAsync(noor, lead, "fuse-not-lit");
        Assert.Contains("8 fuses have lit one another in a row", end.Text("words"), StringComparison.Ordinal);
        Assert.Equal(
            9,
            (await world.StoryAsync(noor, lead)).Count(l =>
                l.Text("kind") == "fuse-lit" && l.Text("fuse")!.StartsWith("Ring", StringComparison.Ordinal)
            )
        );
    }

    [Fact]
    public async Task A_date_that_is_reached_lights_a_fuse_once()
    {
        var noor = await world.NoorAsync();
        var field = await noor.PostAsJsonAsync(
            "/api/lead-fields",
            new
            {
                client = "brackenwheel",
                label = "Ride day",
                type = "date",
            }
        );
        Assert.True(field.IsSuccessStatusCode, await field.Content.ReadAsStringAsync());
        var day = world.Now.InUtc().Date.PlusDays(8);
        var (lead, _, form, _) = await world.LitAsync(noor, key =>
            Fuse(
                key,
                Always(
                    Silently(
                        "day",
                        StepKinds.SetField,
                        ("field", "ride_day"),
                        ("value", NodaTime.Text.LocalDatePattern.Iso.Format(day))
                    )
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "day");
        await World.ArmAsync(
            noor,
            new()
            {
                Name = "A week before the ride",
                LitBy = [new(EventKeys.DateReached, Timer: new("09:00", "ride_day", -7))],
                Bands = [Always(Post("week", "{{ lead.name }} rides in a week"))],
            }
        );
        await world.IdleAsync();
        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("step") == "week");
        world.Time.Move(TimeSpan.FromHours(22)); // tomorrow at ten in the morning
        await world.ToldAsync(noor, lead, "step-done", "week");
        Assert.Contains(
            $"7 days before ride day at 09:00 ({NodaTime.Text.LocalDatePattern.Iso.Format(day)})",
            (await world.StoryAsync(noor, lead)).Last(l => l.Text("kind") == "fuse-lit").Text("words"),
            StringComparison.Ordinal
        );
        world.Time.Move(TimeSpan.FromDays(2));
        await world.IdleAsync();
        Assert.Single(await world.StoryAsync(noor, lead), l =>
            l.Text("kind") == "step-done" && l.Text("step") == "week"
        );
        world.Time.Move(-TimeSpan.FromHours(22) - TimeSpan.FromDays(2));
    }

    [Fact]
    public async Task What_fails_is_replaced_told_and_replayed()
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(
                    new Step(
                        "ring",
                        "ring",
                        StepKinds.Ring,
                        StepMoment.AtOnce,
                        new Dictionary<string, string> { ["colleague"] = "owner", ["words"] = "A lead" },
                        OnFailure: new(Next: FailureThen.Instead, Step: "instead")
                    ),
                    Post("instead", "Nobody to ring for {{ lead.name }}")
                ),
                new Band("broken", "Broken", new(EntryKind.Failed, Of: "ring"), [Post("cry", "cry {{ lead.name }}")])
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "instead");
        await world.ToldAsync(noor, lead, "step-done", "cry");
        Assert.Equal(
            "nobody answers for them, so there was nobody to tell",
            (await world.ToldAsync(noor, lead, "step-failed", "ring")).Text("words")
        );
        var burn = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("burns")[0].Text("id");
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsJsonAsync($"/api/burns/{burn}/replay", new { stepId = "ring" })).StatusCode
        );
        await world.ToldAsync(noor, lead, "step-replayed", "ring");
        Assert.Equal(
            "not-now",
            await (await noor.PostAsJsonAsync($"/api/burns/{burn}/skip", new { stepId = "ring" })).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
    }

    [Fact]
    public async Task A_colleague_is_rung_and_the_answer_stands_in_the_story()
    {
        var noor = await world.NoorAsync();
        await noor.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = "+44 7700 900321",
                email = "noor@quillonstreet.example",
                person = "imke.sandoval",
            }
        );
        var me = (await noor.GetFromJsonAsync<JsonElement>("/api/session")).GetProperty("id").GetString()!;
        var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(
                form,
                Always(
                    new Step(
                        "ring",
                        "ring",
                        StepKinds.Ring,
                        StepMoment.AtOnce,
                        new Dictionary<string, string> { ["colleague"] = me, ["words"] = "A new lead, {{ lead.name }}" }
                    ),
                    new Step(
                        "text",
                        "team text",
                        StepKinds.TeamText,
                        StepMoment.AtOnce,
                        new Dictionary<string, string>
                        {
                            ["colleague"] = me,
                            ["words"] = "{{ lead.name }}",
                            ["links"] = "lead,fuse",
                        }
                    ),
                    new Step(
                        "letter",
                        "team letter",
                        StepKinds.TeamEmail,
                        StepMoment.AtOnce,
                        new Dictionary<string, string>
                        {
                            ["colleague"] = me,
                            ["subject"] = "Lead {{ lead.last_name }}",
                            ["words"] = "{{ answers }}",
                        }
                    ),
                    new Step(
                        "notice",
                        "notice",
                        StepKinds.Notice,
                        StepMoment.AtOnce,
                        new Dictionary<string, string> { ["colleague"] = me, ["words"] = "{{ lead.name }} waits" }
                    )
                )
            ));
        await world.ToldAsync(noor, lead, "step-done", "ring");
        var call = (
            await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/copperline/calls?to=%2B447700900321")
        )!.Single(c => c.Text("say")!.Contains(person["last_name"], StringComparison.Ordinal));
        Assert.True(
            (await world.Backlot.PostAsync($"/api/copperline/calls/{call.Text("id")}/answer", null)).IsSuccessStatusCode
        );
        Assert.Equal("they answered", (await world.ToldAsync(noor, lead, "rang", "ring")).Text("words"));
        await world.ToldAsync(noor, lead, "step-done", "team letter");
        await World.EventuallyAsync(
            async () =>
                (await world.TextsAsync("+447700900321")).Exists(t =>
                    t.Text("text")!.Contains($"/leads/{Guid.Parse(lead):N}", StringComparison.Ordinal)
                    && t.Text("text")!.Contains("/fuses/", StringComparison.Ordinal)
                ),
            "the text with its links"
        );
        var notices = await noor.GetFromJsonAsync<JsonElement>("/api/notices");
        Assert.Contains(notices.GetProperty("notices").EnumerateArray(), n =>
            n.Text("words")!.Contains(person["last_name"], StringComparison.Ordinal)
        );
        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync("/api/notices/read", null)).StatusCode);
        Assert.Equal(0, (await noor.GetFromJsonAsync<JsonElement>("/api/notices")).GetProperty("unread").GetInt32());
    }

    [Fact]
    public async Task Held_stopped_and_lit_again_by_hand()
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, fuse) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Always(
                    Silently("hold", StepKinds.Hold, ("words", "check the depot")),
                    Post("after", "after {{ lead.name }}", 1),
                    Post("later", "later", 7200)
                )
            )
        );
        Assert.Equal("check the depot", (await world.ToldAsync(noor, lead, "burn-held")).Text("words"));
        var burn = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("burns")[0];
        Assert.Equal("check the depot", burn.Text("held"));
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/burns/{burn.Text("id")}/let-go", null)).StatusCode
        );
        await world.ToldAsync(noor, lead, "step-done", "after");
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/burns/{burn.Text("id")}/stop", null)).StatusCode
        );
        Assert.EndsWith(
            "stopped it",
            (await world.ToldAsync(noor, lead, "step-cancelled", "later")).Text("words"),
            StringComparison.Ordinal
        );
        await world.ToldAsync(noor, lead, "burn-ended");
        var again = await (
            await noor.PostAsJsonAsync($"/api/fuses/{fuse}/light", new { ids = new[] { lead } })
        ).BodyAsync();
        Assert.Equal((1, 0), (again.GetProperty("lit").GetInt32(), again.GetProperty("notRelit").GetInt32()));
        Assert.EndsWith(
            "by hand",
            (await world.StoryAsync(noor, lead)).Last(l => l.Text("kind") == "fuse-lit").Text("words"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            1,
            (await (await noor.PostAsJsonAsync($"/api/fuses/{fuse}/light", new { ids = new[] { lead } })).BodyAsync())
                .GetProperty("notRelit")
                .GetInt32()
        );
    }

    [Fact]
    public async Task A_program_lights_only_what_it_may()
    {
        var noor = await world.NoorAsync();
        var key = (
            await (
                await noor.PostAsJsonAsync("/api/keys", new { client = "brackenwheel", name = "The booking desk" })
            ).BodyAsync()
        ).Text("key")!;
        var open = await World.ArmAsync(
            noor,
            new()
            {
                Name = "By program",
                LitBy = [new(EventKeys.ByApi, When: new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]))],
                Bands = [Always(Post("told", "told {{ lead.name }}"))],
            }
        );
        var shut = await World.ArmAsync(
            noor,
            new()
            {
                Name = "By hand only",
                LitBy = [new(EventKeys.ByHand)],
                Bands = [Always(Post("p", "p"))],
            }
        );
        var big = world.Person("25+");
        var lead = (await world.LeadOfAsync(noor, big)).Text("id")!;
        var small = world.Person();
        await world.LeadOfAsync(noor, small);
        using var program = world.NewClient();
        program.DefaultRequestHeaders.Authorization = new("Bearer", key);
        Assert.Equal(1, (
                await (
                    await program.PostAsJsonAsync(
                        "/api/light",
                        new
                        {
                            fuse = open,
                            lead = big["email"],
                            because = "they booked",
                        }
                    )
                ).BodyAsync()
            ).GetProperty("lit").GetInt32());
        await world.ToldAsync(noor, lead, "step-done", "told");
        Assert.Contains((await world.StoryAsync(noor, lead)), l =>
            l.Text("words") == "by The booking desk: they booked"
        );
        Assert.Equal(
            0,
            (
                await (
                    await program.PostAsJsonAsync("/api/light", new { fuse = open, lead = small["phone"] })
                ).BodyAsync()
            )
                .GetProperty("lit")
                .GetInt32()
        );
        Assert.Equal(
            "not-now",
            await (await program.PostAsJsonAsync("/api/light", new { fuse = shut, lead = big["email"] })).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        Assert.Equal(
            "bad-input",
            await (
                await program.PostAsJsonAsync("/api/light", new { fuse = open, lead = "nobody@example.org" })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task Burns_in_flight_finish_on_their_version_or_are_moved()
    {
        var noor = await world.NoorAsync();
        FuseDefinition Of(string form, int after) =>
            Fuse(form, Always(Post("now", "now"), Post("later", "later", after)));
        var (lead, _, form, fuse) = await world.LitAsync(noor, key => Of(key, 7200));
        await world.ToldAsync(noor, lead, "step-done", "now");
        await World.ArmAsync(noor, Of(form, 3600), fuse);
        var preview = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}/move");
        Assert.Equal((2, 1), (preview.GetProperty("toVersion").GetInt32(), preview.GetProperty("total").GetInt32()));
        Assert.StartsWith(
            "is due in 60 min instead of in 2 h",
            preview
                .GetProperty("burns")[0]
                .GetProperty("changes")[0]
                .Text("words")!
                .Replace("in 59 min", "in 60 min", StringComparison.Ordinal)
                .Replace("in 120 min", "in 2 h", StringComparison.Ordinal)
                .Replace("in 119 min", "in 2 h", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        Assert.Equal(
            1,
            (await (await noor.PostAsync($"/api/fuses/{fuse}/move", null)).BodyAsync()).GetProperty("moved").GetInt32()
        );
        Assert.Contains(
            "moved it from v1",
            (await world.ToldAsync(noor, lead, "burn-moved")).Text("words"),
            StringComparison.Ordinal
        );
        world.Time.Move(TimeSpan.FromMinutes(61));
        await world.ToldAsync(noor, lead, "step-done", "later");
        world.Time.Move(TimeSpan.FromMinutes(-61));
    }

    [Fact]
    public async Task Words_ready_for_use_have_versions_and_what_is_armed_keeps_its_own()
    {
        var noor = await world.NoorAsync();
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/words",
                    new
                    {
                        client = "brackenwheel",
                        name = "Thank you",
                        words = "{{ lead.name | shout }}",
                    }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var first = await (
            await noor.PostAsJsonAsync(
                "/api/words",
                new
                {
                    client = "brackenwheel",
                    name = "Thank you",
                    words = "Thank you, {{ lead.first_name }}.",
                }
            )
        ).BodyAsync();
        var fuse = await World.ArmAsync(
            noor,
            new()
            {
                Name = "Uses kept words",
                LitBy = [new(EventKeys.ByHand)],
                Bands = [Always(Text("t", first.Text("words")!) with { Ready = new(first.Text("key")!, 1) })],
            }
        );
        var second = await (
            await noor.PostAsJsonAsync(
                "/api/words",
                new
                {
                    client = "brackenwheel",
                    key = first.Text("key"),
                    name = "Thank you",
                    words = "Many thanks, {{ lead.first_name }}.",
                }
            )
        ).BodyAsync();
        Assert.Equal(2, second.GetProperty("version").GetInt32());
        Assert.Equal(
            ["Uses kept words, words v1"],
            second.GetProperty("usedBy").EnumerateArray().Select(u => u.GetString())
        );
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}");
        Assert.Equal(
            "Thank you, {{ lead.first_name }}.",
            whole
                .GetProperty("armed")
                .GetProperty("bands")[0]
                .GetProperty("steps")[0]
                .GetProperty("settings")
                .Text("words")
        );
        Assert.Contains(whole.GetProperty("around").GetProperty("words").EnumerateArray(), w =>
            w.GetProperty("version").GetInt32() == 2
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/words",
                    new
                    {
                        client = "brackenwheel",
                        name = "Thank you",
                        words = "x",
                    }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task Kits_are_made_for_the_client_and_a_fuse_goes_out_and_in_as_a_file()
    {
        var noor = await world.NoorAsync();
        foreach (var client in new[] { "brackenwheel", "hollin-vane", "tarn-valley" })
        {
            var kits = (await noor.GetFromJsonAsync<JsonElement>($"/api/kits?client={client}"))
                .GetProperty("kits")
                .EnumerateArray()
                .ToList();
            Assert.Equal(StarterKits.All.Count, kits.Count);
            Assert.All(kits, k =>
                Assert.True(
                    k.GetProperty("faults").GetArrayLength() == 0,
                    $"{client} {k.Text("key")}: {k.GetProperty("faults")}"
                )
            );
        }

        var made = await (
            await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel", kit = "pick-a-slot" })
        ).BodyAsync();
        var file = await (await noor.GetAsync($"/api/fuses/{made.Text("id")}/file")).Content.ReadAsStringAsync();
        var copy = await (await noor.PostAsJsonAsync("/api/fuses", new { client = "hollin-vane", file })).BodyAsync();
        Assert.Equal(
            file,
            await (await noor.GetAsync($"/api/fuses/{copy.Text("id")}/file")).Content.ReadAsStringAsync()
        );
        var wrong = await noor.PostAsJsonAsync(
            "/api/fuses",
            new { client = "hollin-vane", file = "{\"schema\": 2,\n\"name\" 5}" }
        );
        Assert.Contains(
            "(line 2)",
            (await wrong.BodyAsync()).GetProperty("errors").GetProperty("file")[0].GetString(),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/fuses", new { client = "hollin-vane", file = "{}" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/fuses", new { client = "hollin-vane", kit = "none" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
    }

    [Fact]
    public async Task The_example_in_the_documents_is_read_in_and_can_be_armed_as_it_is()
    {
        var noor = await world.NoorAsync();
        var file = await File.ReadAllTextAsync(
            Path.Combine(Root.Path, "docs/examples/test-ride.fuse.json"),
            TestContext.Current.CancellationToken
        );
        var id = (
            await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel", file })).BodyAsync()
        ).Text("id");
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}");
        Assert.DoesNotContain(whole.GetProperty("faults").EnumerateArray(), f => f.GetProperty("blocks").GetBoolean());
        Assert.Equal(
            25,
            whole
                .GetProperty("definition")
                .GetProperty("bands")
                .EnumerateArray()
                .Sum(b => b.GetProperty("steps").GetArrayLength())
        );
        var read = FuseFile.Parse(file).Fuse!;
        Assert.True(
            FuseFile.Same(
                read,
                FuseFile.Parse(await (await noor.GetAsync($"/api/fuses/{id}/file")).Content.ReadAsStringAsync()).Fuse!
            )
        );
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Ring-through over the real carrier stand-in: the team's phones first, then the lead's.</summary>
public sealed class RingThroughTests(World world) : IClassFixture<World>
{
    private const string Imke = "+442920180101",
        Tobias = "+442920180102";

    private static FuseDefinition Fuse(string form, string colleagues, params (string Key, string Value)[] settings) =>
        new()
        {
            Name = "Ring through",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "ring",
                            "ring",
                            StepKinds.RingThrough,
                            StepMoment.AtOnce,
                            settings
                                .Append(("colleagues", colleagues))
                                .Append(("order", settings.Any(s => s.Key == "at") ? "at-once" : "in-turn"))
                                .Append(("words", "{{ lead.name }}, {{ lead.fleet_size }} bikes."))
                                .Where(s => s.Item1 != "at")
                                .ToDictionary(s => s.Item1, s => s.Item2),
                            Hours: new(HoursKind.None)
                        ),
                        new(
                            "later",
                            "later",
                            StepKinds.Text,
                            StepMoment.After(7200),
                            new Dictionary<string, string> { ["words"] = "Still there?" }
                        ),
                    ]
                ),
                new(
                    "nobody",
                    "Nobody",
                    new(
                        EntryKind.On,
                        Event: EventKeys.RangThrough,
                        Only: new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = ["nobody"] }
                    ),
                    [
                        new(
                            "tag",
                            "tag",
                            StepKinds.Tag,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["tag"] = "nobody was there" }
                        ),
                    ]
                ),
                new(
                    "spoke",
                    "Spoke",
                    new(
                        EntryKind.On,
                        Event: EventKeys.CallOutcome,
                        Only: new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = ["reached"] }
                    ),
                    [
                        new(
                            "tag2",
                            "tag2",
                            StepKinds.Tag,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["tag"] = "spoken" }
                        ),
                    ]
                ),
            ],
        };

    private async Task<string> IdOfAsync(string name) =>
        (
            await (
                await world.AsAsync($"{name.Split(' ')[0].ToLowerInvariant()}@brackenwheel.example")
            ).GetFromJsonAsync<JsonElement>("/api/session")
        ).Text("id")!;

    private static string E164(Dictionary<string, string> person) =>
        "+44" + person["phone"].Replace(" ", "", StringComparison.Ordinal)[1..];

    private async Task<JsonElement> PhoneAsync(string number, string said, string status = "ringing")
    {
        JsonElement found = default;
        await World.EventuallyAsync(
            async () =>
            {
                found = (
                    await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                        $"/api/copperline/calls?to={Uri.EscapeDataString(number)}"
                    )
                )!.LastOrDefault(c =>
                    c.Text("status") == status && c.Text("say")!.Contains(said, StringComparison.Ordinal)
                );
                return found.ValueKind == JsonValueKind.Object;
            },
            $"the phone {number} {status}"
        );
        return found;
    }

    private async Task DoAsync(JsonElement phone, string how) =>
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await world.Backlot.PostAsync($"/api/copperline/calls/{phone.Text("id")}/{how}", null)).StatusCode
        );

    private async Task<(HttpClient Noor, string Lead, Dictionary<string, string> Person)> RungAsync(
        string who,
        params (string, string)[] settings
    )
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(form, who, settings));
        return (noor, lead, person);
    }

    [Fact]
    public async Task Taken_joined_talked_and_over()
    {
        var (noor, lead, person) = await RungAsync(
            $"{await IdOfAsync("Imke Sandoval")},{await IdOfAsync("Tobias Renn")}",
            ("recording", "This call is recorded.")
        );
        var imke = await PhoneAsync(Imke, person["last_name"]);
        Assert.EndsWith(
            "4–9 bikes. Press 1 to speak to them now, 2 to pass it on.",
            imke.Text("say"),
            StringComparison.Ordinal
        );
        await DoAsync(imke, "answer");
        await DoAsync(imke, "1");
        var theirs = await PhoneAsync(E164(person), "");
        Assert.Equal("", theirs.Text("say"));
        var live = (await noor.GetFromJsonAsync<JsonElement>("/api/calls?client=brackenwheel"))
            .GetProperty("calls")
            .EnumerateArray()
            .Single(c => c.Text("leadId") == lead);
        Assert.Equal("ringing-lead", live.Text("stage"));
        await DoAsync(theirs, "answer");
        await world.ToldAsync(noor, lead, "talking");
        var touched = await world.ToldAsync(noor, lead, "touched");
        Assert.Equal("first touch: by phone", touched.Text("words"));
        await World.EventuallyAsync(
            async () =>
                (await world.Backlot.GetFromJsonAsync<JsonElement>($"/api/copperline/calls/{theirs.Text("id")}")).Text(
                    "status"
                ) == "joined",
            "the two joined"
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await world.Backlot.PostAsJsonAsync(
                    $"/api/copperline/calls/{theirs.Text("id")}/talk",
                    new { say = "Hello, how many bikes fit a depot?" }
                )
            ).StatusCode
        );
        await DoAsync(theirs, "end");
        Assert.Contains(
            "hung up after 0:0",
            (await world.ToldAsync(noor, lead, "call-ended")).Text("words"),
            StringComparison.Ordinal
        );
        var heard = (await PhoneAsync(Imke, person["last_name"], "over"))
            .GetProperty("lines")
            .EnumerateArray()
            .Select(l => l.GetString())
            .ToList();
        Assert.Contains("voice: This call is recorded.", heard);
        Assert.Contains(heard, l => l!.EndsWith("how many bikes fit a depot?", StringComparison.Ordinal));
        // Somebody reached out: the text that was to follow is cancelled, and what waits for the outcome goes on.
        await world.ToldAsync(noor, lead, "step-cancelled", "later");
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                    .GetProperty("lead")
                    .GetProperty("tags")
                    .EnumerateArray()
                    .Any(t => t.GetString() == "spoken"),
            "the tag of the outcome"
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/calls?client=brackenwheel"))
                .GetProperty("calls")
                .EnumerateArray(),
            c => c.Text("leadId") == lead
        );
    }

    [Fact]
    public async Task Passed_on_then_nobody_and_the_band_for_that()
    {
        var (noor, lead, person) = await RungAsync(
            $"{await IdOfAsync("Imke Sandoval")},{await IdOfAsync("Tobias Renn")}"
        );
        var imke = await PhoneAsync(Imke, person["last_name"]);
        await DoAsync(imke, "answer");
        await DoAsync(imke, "2");
        await DoAsync(await PhoneAsync(Tobias, person["last_name"]), "decline");
        await world.ToldAsync(noor, lead, "call-ended");
        Assert.Equal(
            [
                "Imke Sandoval is being rung",
                "Imke Sandoval passed it on",
                "Tobias Renn is being rung",
                "Tobias Renn turned it away",
                "nobody took it",
            ],
            (await world.StoryAsync(noor, lead))
                .Where(l => l.Text("kind") is "ringing" or "ring-passed" or "call-ended")
                .Select(l => l.Text("words"))
        );
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                    .GetProperty("lead")
                    .GetProperty("tags")
                    .EnumerateArray()
                    .Any(t => t.GetString() == "nobody was there"),
            "the tag"
        );
        Assert.Equal("nobody took it", (await world.ToldAsync(noor, lead, "call-ended", "ring")).Text("words"));
        Assert.DoesNotContain(
            await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                $"/api/copperline/calls?to={Uri.EscapeDataString(E164(person))}"
            ) ?? [],
            c => c.Text("tag") is not null
        );
    }

    [Fact]
    public async Task Who_is_not_available_is_not_rung_and_the_story_says_so()
    {
        var imke = await world.ImkeAsync();
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await imke.PutAsJsonAsync("/api/session/calls", new { takes = false })).StatusCode
        );
        Assert.False((await imke.GetFromJsonAsync<JsonElement>("/api/session")).GetProperty("takesCalls").GetBoolean());
        try
        {
            var (noor, lead, person) = await RungAsync(
                $"{await IdOfAsync("Imke Sandoval")},{await IdOfAsync("Tobias Renn")},owner"
            );
            await DoAsync(await PhoneAsync(Tobias, person["last_name"]), "decline");
            await world.ToldAsync(noor, lead, "call-ended");
            var passed = (await world.StoryAsync(noor, lead))
                .Where(l => l.Text("kind") == "ring-passed")
                .Select(l => l.Text("words"))
                .ToList();
            Assert.Contains("Imke Sandoval was not rung: not available for calls", passed);
            Assert.Contains("nobody answers for them yet, so nobody was rung as such", passed);
        }
        finally
        {
            await imke.PutAsJsonAsync("/api/session/calls", new { takes = true });
        }
    }

    [Fact]
    public async Task At_once_the_first_to_accept_has_it_and_anyone_here_can_hang_it_up()
    {
        var (noor, lead, person) = await RungAsync(
            $"{await IdOfAsync("Imke Sandoval")},{await IdOfAsync("Tobias Renn")}",
            ("at", "once")
        );
        var (imke, tobias) = (
            await PhoneAsync(Imke, person["last_name"]),
            await PhoneAsync(Tobias, person["last_name"])
        );
        await DoAsync(imke, "answer");
        await DoAsync(tobias, "answer");
        await DoAsync(tobias, "1");
        Assert.Contains(
            "voice: Somebody else has it. Thank you.",
            (await PhoneAsync(Imke, person["last_name"], "over"))
                .GetProperty("lines")
                .EnumerateArray()
                .Select(l => l.GetString())
        );
        await PhoneAsync(E164(person), "");
        var live = (await noor.GetFromJsonAsync<JsonElement>("/api/calls?client=brackenwheel"))
            .GetProperty("calls")
            .EnumerateArray()
            .Single(c => c.Text("leadId") == lead);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/calls/{live.Text("id")}/hang-up", null)).StatusCode
        );
        Assert.Equal("Noor Abernathy-Voss hung it up", (await world.ToldAsync(noor, lead, "call-ended")).Text("words"));
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/calls/{live.Text("id")}/hang-up", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        await PhoneAsync(Tobias, person["last_name"], "over");
    }

    [Fact]
    public async Task Touched_by_somebody_else_it_stops_ringing()
    {
        var (noor, lead, person) = await RungAsync(await IdOfAsync("Imke Sandoval"));
        await PhoneAsync(Imke, person["last_name"]);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsJsonAsync($"/api/leads/{lead}/touch", new { how = "spoke" })).StatusCode
        );
        Assert.Contains(
            "Noor Abernathy-Voss reached out",
            (await world.ToldAsync(noor, lead, "call-ended")).Text("words"),
            StringComparison.Ordinal
        );
        await PhoneAsync(Imke, person["last_name"], "over");
    }

    [Fact]
    public async Task Rung_by_hand_ones_own_phone_first_and_no_key()
    {
        var imke = await world.ImkeAsync();
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(form, "owner"));
        await world.ToldAsync(noor, lead, "call-ended");
        Assert.Equal(HttpStatusCode.Accepted, (await imke.PostAsync($"/api/leads/{lead}/ring", null)).StatusCode);
        await DoAsync(await PhoneAsync(Imke, $"Ringing {person["first_name"]}"), "answer");
        await DoAsync(await PhoneAsync(E164(person), ""), "machine");
        // A machine that answers a call by hand may be spoken to: an attempt that the story shows, and no first touch.
        await World.EventuallyAsync(
            async () =>
                (await world.StoryAsync(noor, lead)).Exists(l =>
                    l.Text("kind") == "talking" && l.Text("words")!.Contains("’s machine", StringComparison.Ordinal)
                ),
            "the talk to the machine in the story"
        );
        await DoAsync(await PhoneAsync(Imke, $"Ringing {person["first_name"]}", "joined"), "end");
        await World.EventuallyAsync(
            async () => (await world.StoryAsync(noor, lead)).Count(l => l.Text("kind") == "call-ended") == 2,
            "the end of the second call"
        );
        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("kind") == "touched");
        Assert.Null(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("lead").Text("firstTouchAt")
        );
        Assert.Equal(
            "not-now",
            await (await (await world.NoorAsync()).PostAsync($"/api/leads/{lead}/ring", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
    }

    [Fact]
    public async Task A_carrier_that_is_down_is_a_phone_that_could_not_be_rung()
    {
        await world.FaultAsync("copperline", "error");
        try
        {
            var (noor, lead, _) = await RungAsync(await IdOfAsync("Imke Sandoval"));
            Assert.Contains(
                "Imke Sandoval could not be rung: answered 500",
                (await world.ToldAsync(noor, lead, "call-ended")).Text("words"),
                StringComparison.Ordinal
            );
        }
        finally
        {
            await world.FaultAsync("copperline", "none");
        }
    }

    [Fact]
    public async Task Told_twice_over_it_goes_as_if_told_once()
    {
        await world.FaultAsync("copperline", "repeat");
        try
        {
            var (noor, lead, person) = await RungAsync(await IdOfAsync("Imke Sandoval"));
            var imke = await PhoneAsync(Imke, person["last_name"]);
            await DoAsync(imke, "answer");
            await DoAsync(imke, "1");
            var theirs = await PhoneAsync(E164(person), "");
            await DoAsync(theirs, "answer");
            await world.ToldAsync(noor, lead, "talking");
            await DoAsync(imke, "end");
            await world.ToldAsync(noor, lead, "call-ended");
            var story = await world.StoryAsync(noor, lead);
            foreach (var kind in new[] { "talking", "touched", "call-ended" })
                Assert.Single(story, l => l.Text("kind") == kind);
        }
        finally
        {
            await world.FaultAsync("copperline", "none");
        }
    }
}

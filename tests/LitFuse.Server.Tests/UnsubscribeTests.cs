using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Hearing no more: by the link in a letter, and by one click in a mail program (RFC 8058).</summary>
public sealed class UnsubscribeTests(World world) : IClassFixture<World>
{
    private static FuseDefinition Letters(string form)
    {
        Step Letter(string id, int after) =>
            new(
                id,
                id,
                StepKinds.Email,
                StepMoment.After(after),
                new Dictionary<string, string> { ["subject"] = id, ["words"] = "Hello {{ lead.first_name }}." }
            );
        return new()
        {
            Name = "Two letters",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands =
            [
                new("always", "Always", new(EntryKind.Always), [Letter("first", 0), Letter("second", 7200)]),
                new(
                    "out",
                    "They want no more",
                    new(EntryKind.On, Event: EventKeys.OptedOut),
                    [
                        new(
                            "tag",
                            "tag",
                            StepKinds.Tag,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["tag"] = "wants peace" }
                        ),
                    ]
                ),
            ],
            StopOn = StopRule.Usual,
        };
    }

    private async Task<(HttpClient Noor, string Lead, JsonElement Letter)> WrittenAsync()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, Letters);
        await world.ToldAsync(noor, lead, "step-done", "first");
        return (
            noor,
            lead,
            Assert.Single(
                (
                    await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                        $"/api/pillarpost/letters?to={person["email"]}"
                    )
                )!
            )
        );
    }

    private static string LinkIn(JsonElement letter) => letter.Text("text")!.Split("No more messages: ")[1].Trim();

    private async Task<string> OptedOutAsync(HttpClient noor, string lead) =>
        (await world.ToldAsync(noor, lead, "opted-out")).Text("words")!;

    [Fact]
    public async Task Every_letter_to_a_lead_says_how_in_its_words_and_in_its_headers()
    {
        var (_, _, letter) = await WrittenAsync();
        Assert.Equal(LinkIn(letter), letter.Text("unsubscribe"));
        Assert.Contains($"href=\"{LinkIn(letter)}\"", letter.Text("html"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task One_click_ends_it_at_once_for_what_waits_and_lights_what_waits_for_it()
    {
        var (noor, lead, letter) = await WrittenAsync();
        var clicked = await (
            await world.Backlot.PostAsync($"/api/pillarpost/letters/{letter.GetProperty("id")}/unsubscribe", null)
        ).BodyAsync();
        Assert.Equal(200, clicked.GetProperty("answered").GetInt32());
        Assert.Equal("unsubscribed with one click in their mail program", await OptedOutAsync(noor, lead));
        Assert.Contains(
            "unsubscribed",
            (await world.ToldAsync(noor, lead, "step-cancelled", "second")).Text("words"),
            StringComparison.Ordinal
        );
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                    .GetProperty("lead")
                    .GetProperty("tags")
                    .EnumerateArray()
                    .Any(t => t.GetString() == "wants peace"),
            "the tag of who wants peace"
        );
    }

    [Fact]
    public async Task Looking_changes_nothing_the_button_does_and_twice_is_once()
    {
        var (noor, lead, letter) = await WrittenAsync();
        var link = LinkIn(letter);
        var looked = await (await world.Anyone.GetAsync(link)).Content.ReadAsStringAsync();
        Assert.Contains("Hear no more from Brackenwheel Cargo Cycles?", looked, StringComparison.Ordinal);
        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("kind") == "opted-out");
        for (var n = 0; n < 2; n++)
            Assert.Contains(
                "No more messages.",
                await (await world.Anyone.PostAsync(link, null)).Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
        Assert.Contains("pressed", await OptedOutAsync(noor, lead), StringComparison.Ordinal);
        Assert.Single(await world.StoryAsync(noor, lead), l => l.Text("kind") == "opted-out");
        Assert.Contains(
            "No more messages.",
            await (await world.Anyone.GetAsync(link)).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_link_that_was_cut_in_two_says_so()
    {
        var (noor, lead, letter) = await WrittenAsync();
        foreach (var link in new[] { LinkIn(letter)[..^5], $"{world.Url}/unsubscribe/nothing" })
        {
            (await world.Anyone.GetAsync(link)).RefusedAs(HttpStatusCode.NotFound);
            (await world.Anyone.PostAsync(link, null)).RefusedAs(HttpStatusCode.NotFound);
        }

        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("kind") == "opted-out");
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// Whom of the team a fuse reaches: whoever answers for the lead, all who reach out, or addresses outside; and how a
/// post looks.
/// </summary>
public sealed class TeamHearsTests(World world) : IClassFixture<World>
{
    private static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "The team hears",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands = [new("always", "Always", new(EntryKind.Always), steps)],
        };

    private static Step Of(string id, string kind, params (string Key, string Value)[] settings) =>
        new(id, id, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private async Task<List<JsonElement>> LettersAsync(string to, string subject) =>
        [
            .. (await world.Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/pillarpost/letters?to={to}"))!.Where(l =>
                l.Text("subject") == subject
            ),
        ];

    [Fact]
    public async Task A_post_has_its_sender_its_picture_and_the_fields_chosen_in_their_order()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Of(
                    "post",
                    StepKinds.ChannelPost,
                    ("channel", "#ride-desk"),
                    ("words", "{{ lead.name }}"),
                    ("blocks", "cargo,company,fleet_size"),
                    ("sender", "Rides of {{ client.name }}"),
                    ("picture", "https://brackenwheel.example/bell.png")
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "post");
        var post = Assert.Single(await world.PostsAsync("#ride-desk", person["last_name"]));
        Assert.Equal(
            ("Rides of Brackenwheel Cargo Cycles", "https://brackenwheel.example/bell.png"),
            (post.Text("from"), post.Text("picture"))
        );
        Assert.Equal(
            [("Cargo", "food"), ("Fleet size", "4–9")],
            post.GetProperty("blocks").EnumerateArray().Select(b => (b.Text("label")!, b.Text("value")!))
        );
    }

    [Fact]
    public async Task A_post_goes_to_whoever_answers_for_them_or_says_why_it_cannot()
    {
        var (noor, imke) = (await world.NoorAsync(), await world.ImkeAsync());
        await imke.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = "+442920180101",
                email = "imke@brackenwheel.example",
                person = "imke.sandoval",
            }
        );
        var me = (await imke.GetFromJsonAsync<JsonElement>("/api/session")).Text("id")!;
        FuseDefinition Make(string form) =>
            Fuse(
                form,
                Of("before", StepKinds.DirectPost, ("person", "owner"), ("words", "before {{ lead.last_name }}")),
                Of("give", StepKinds.SetOwner, ("colleague", me)),
                Of("after", StepKinds.DirectPost, ("person", "owner"), ("words", "after {{ lead.last_name }}")) with
                {
                    Moment = StepMoment.After(1),
                }
            );
        var (lead, person, _, _) = await world.LitAsync(noor, Make);
        Assert.Equal(
            "nobody answers for them, so there was nobody to tell",
            (await world.ToldAsync(noor, lead, "step-failed", "before")).Text("words")
        );
        await world.ToldAsync(noor, lead, "step-done", "after");
        Assert.Single(await world.PostsAsync("@imke.sandoval", "after " + person["last_name"]));
    }

    [Fact]
    public async Task A_letter_goes_to_all_who_reach_out_or_to_addresses_outside_alone_with_what_they_answered()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                Of(
                    "team",
                    StepKinds.TeamEmail,
                    ("colleague", "team"),
                    ("subject", "Team {{ lead.last_name }}"),
                    ("words", "A lead."),
                    ("blocks", "name,company,fleet_size")
                ),
                Of(
                    "outside",
                    StepKinds.TeamEmail,
                    ("colleague", "nobody"),
                    ("copies", "partner@elsewhere.example.com, assistant@elsewhere.example.com"),
                    ("subject", "Outside {{ lead.last_name }}"),
                    ("words", "A lead.")
                )
            )
        );
        await world.ToldAsync(noor, lead, "step-done", "team");
        await world.ToldAsync(noor, lead, "step-done", "outside");
        foreach (var rep in new[] { "imke", "tobias", "adaeze" })
        {
            var letter = Assert.Single(
                await LettersAsync($"{rep}@brackenwheel.example", "Team " + person["last_name"])
            );
            Assert.Contains(
                $"Name: Ines {person["last_name"]}\nFleet size: 4–9",
                letter.Text("text")!.ReplaceLineEndings("\n"),
                StringComparison.Ordinal
            );
            Assert.Contains(person["email"], letter.Text("replyTo"), StringComparison.Ordinal);
        }

        Assert.Empty(await LettersAsync("noor@quillonstreet.example", "Team " + person["last_name"]));
        foreach (var other in new[] { "partner", "assistant" })
            Assert.Single(await LettersAsync($"{other}@elsewhere.example.com", "Outside " + person["last_name"]));
    }

    [Theory]
    [InlineData(StepKinds.TeamEmail, "copies", "", "goes to nobody")]
    [InlineData(StepKinds.Email, "from", "not an address", "where an email address belongs")]
    [InlineData(StepKinds.Email, "reply", "nor this", "where an email address belongs")]
    [InlineData(StepKinds.ChannelPost, "picture", "javascript:alert(1)", "is no address")]
    [InlineData(StepKinds.ChannelPost, "blocks", "no_such_field", "which nothing fills")]
    [InlineData(StepKinds.Email, "files", "11111111-1111-1111-1111-111111111111", "is not in the library any more")]
    [InlineData(StepKinds.RingThrough, "lead-sees", "twelve", "is no telephone number")]
    public async Task What_cannot_go_keeps_a_fuse_from_being_armed(string kind, string key, string value, string fault)
    {
        var noor = await world.NoorAsync();
        var (_, form) = await World.OwnFormAsync(noor);
        var settings = new Dictionary<string, string>
        {
            ["channel"] = "#ride-desk",
            ["words"] = "Hello",
            ["subject"] = "Hello",
            ["colleague"] = "nobody",
            ["colleagues"] = "team",
            ["order"] = "in-turn",
            [key] = value,
        };
        var id = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        )!;
        var saved = await noor.PutAsync(
            $"/api/fuses/{id}/draft",
            JsonContent.Create(
                new
                {
                    definition = Fuse(form, new Step("one", "one", kind, StepMoment.AtOnce, settings)),
                    revision = 1,
                },
                options: Core.CoreJson.Options
            )
        );
        Assert.Equal(HttpStatusCode.OK, saved.StatusCode);
        Assert.Contains((await saved.BodyAsync()).GetProperty("faults").EnumerateArray(), f =>
            f.Text("what")!.Contains(fault, StringComparison.Ordinal)
        );
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>One lead through a fuse on a made-up clock: what would be said, when, and that nothing leaves.</summary>
public sealed class DryRunTests(World world) : IClassFixture<World>
{
    private static readonly FuseDefinition PickASlot = new()
    {
        Name = "Test ride: offer two slots",
        LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [World.Form] })],
        Relight = Relight.Always,
        Bands =
        [
            new(
                "always",
                "Always",
                new(EntryKind.Always),
                [
                    new(
                        "post",
                        "Post",
                        StepKinds.ChannelPost,
                        StepMoment.AtOnce,
                        new Dictionary<string, string>
                        {
                            ["channel"] = "#ride-desk",
                            ["words"] = "{{ lead.name }} asked.",
                        }
                    ),
                    new(
                        "offer",
                        "Offer",
                        StepKinds.Text,
                        StepMoment.After(5),
                        new Dictionary<string, string>
                        {
                            ["words"] = "{{ lead.first_name }}, when suits you? {{ choices }}",
                        },
                        Choices: ["Tuesday 10:00", "Thursday 15:00"]
                    ),
                ]
            ),
            new(
                "chosen",
                "They chose",
                new(
                    EntryKind.On,
                    Event: EventKeys.Replied,
                    Only: new Dictionary<string, IReadOnlyList<string>> { ["meaning"] = ["choice"] }
                ),
                [
                    new(
                        "yes",
                        "Confirm",
                        StepKinds.Text,
                        StepMoment.AtOnce,
                        new Dictionary<string, string> { ["words"] = "See you on {{ reply.choice }}." }
                    ),
                ]
            ),
            new(
                "silent",
                "No answer",
                new(EntryKind.Silence, Of: "offer", ForSeconds: 3600),
                [
                    new(
                        "ring",
                        "Ring them",
                        StepKinds.ChannelPost,
                        StepMoment.AtOnce,
                        new Dictionary<string, string>
                        {
                            ["channel"] = "#ride-desk",
                            ["words"] = "Ring {{ lead.phone }}.",
                        }
                    ),
                ]
            ),
        ],
    };

    private static async Task<JsonElement> RunAsync(
        HttpClient who,
        string fuse,
        object run,
        HttpStatusCode expected = HttpStatusCode.OK
    )
    {
        var answer = await who.PostAsync(
            $"/api/fuses/{fuse}/dry-run",
            JsonContent.Create(run, options: CoreJson.Options)
        );
        Assert.Equal(expected, answer.StatusCode);
        return await answer.BodyAsync();
    }

    private static List<string> Said(JsonElement run) =>
        [
            .. run.GetProperty("moments")
                .EnumerateArray()
                .Where(m => m.Text("kind") == "step-sent")
                .Select(m => $"{m.Text("stepId")}: {m.GetProperty("message").GetProperty("settings").Text("words")}"),
        ];

    private async Task<(HttpClient Noor, string Fuse, string Lead, Dictionary<string, string> Person)> BeginAsync(
        string fleet = "4–9"
    )
    {
        var noor = await world.NoorAsync();
        var fuse = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        )!;
        var person = world.Person(fleet);
        await world.SubmitAsync(person);
        return (noor, fuse, (await World.FoundAsync(noor, person["email"])).Text("id")!, person);
    }

    [Fact]
    public async Task What_would_be_said_is_told_in_full_with_the_clock_and_nothing_leaves()
    {
        var (noor, fuse, leadId, person) = await BeginAsync();
        var quiet = await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                at = "2026-11-24T12:00",
                reactions = Array.Empty<object>(),
            }
        );
        Assert.Equal(
            [
                $"post: {person["first_name"]} {person["last_name"]} asked.",
                $"offer: {person["first_name"]}, when suits you? 1) Tuesday 10:00\n2) Thursday 15:00",
            ],
            Said(quiet).Take(2)
        );
        var phone = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{leadId}"))
            .GetProperty("lead")
            .Text("phone");
        Assert.Contains($"ring: Ring {phone}.", Said(quiet));
        Assert.Equal(
            (1, "Europe/London", "2026-11-24T12:00:00Z"),
            (quiet.GetProperty("texts").GetInt32(), quiet.Text("zone"), quiet.Text("litAt"))
        );
        var ring = quiet.GetProperty("moments").EnumerateArray().First(m => m.Text("stepId") == "ring");
        Assert.Equal("2026-11-24T13:00:05", ring.Text("at")![..19]);

        var chose = await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                at = "2026-11-24T12:00",
                reactions = new[]
                {
                    new
                    {
                        what = "replied",
                        afterSeconds = 180,
                        detail = "the second one",
                    },
                },
            }
        );
        Assert.Contains("yes: See you on Thursday 15:00.", Said(chose));
        Assert.DoesNotContain(Said(chose), s => s.StartsWith("ring", StringComparison.Ordinal));

        // The client's armed fuses speak of this lead too, whenever they come to it; this fuse's own words were never
        // posted.
        Assert.Empty(await world.PostsAsync("#ride-desk", $"{person["first_name"]} {person["last_name"]} asked."));
        Assert.Empty(await world.PostsAsync("#ride-desk", $"Ring {phone}."));
        Assert.DoesNotContain(await world.StoryAsync(noor, leadId), l =>
            l.Text("fuse")?.StartsWith(PickASlot.Name, StringComparison.Ordinal) == true
        );
    }

    [Fact]
    public async Task At_night_it_waits_and_a_service_that_is_down_is_given_up()
    {
        var (noor, fuse, leadId, _) = await BeginAsync();
        var night = await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                at = "2026-11-24T23:30",
                reactions = Array.Empty<object>(),
            }
        );
        var waits = night.GetProperty("moments").EnumerateArray().Single(m => m.Text("kind") == "step-waits");
        Assert.Equal(
            ("offer", "waits for send hours: Wednesday 08:00 in Europe/London (by their number's country)"),
            (waits.Text("stepId"), waits.Text("words"))
        );
        var down = await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                at = "2026-11-24T12:00",
                reactions = new[]
                {
                    new
                    {
                        what = "down",
                        afterSeconds = 0,
                        detail = "copperline",
                    },
                },
            }
        );
        Assert.Contains(down.GetProperty("moments").EnumerateArray(), m =>
            m.Text("kind") == "step-failed"
            && m.Text("words")!.Contains("given up after 12 attempts: Copperline is down", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task Typed_answers_go_through_the_map_and_what_keeps_it_from_being_lit_is_told()
    {
        var (noor, fuse, leadId, _) = await BeginAsync();
        var answers = new Dictionary<string, string>
        {
            ["first_name"] = "Quill",
            ["last_name"] = "Abara",
            ["email"] = "quill@example.com",
            ["phone"] = "07700 900123",
            ["fleet_size"] = "10–24",
        };
        var typed = await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                form = World.Form,
                answers,
                at = "2026-11-24T12:00",
            }
        );
        Assert.Contains("post: Quill Abara asked.", Said(typed));
        Assert.Null(typed.Text("leadId"));
        Assert.Equal(
            0,
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?client=brackenwheel&q=quill@example.com"))
                .GetProperty("items")
                .GetArrayLength()
        );

        var only = PickASlot with
        {
            LitBy = [PickASlot.LitBy[0] with { When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]) }],
        };
        var unlit = await RunAsync(noor, fuse, new { definition = only, leadId });
        Assert.Equal(
            "not lit, because fleet size was 4–9, not 25+",
            unlit.GetProperty("moments").EnumerateArray().Single().Text("words")
        );
        var elsewhere = PickASlot with { LitBy = [new(EventKeys.Tagged)] };
        Assert.Contains(
            "does not light it",
            (await RunAsync(noor, fuse, new { definition = elsewhere, leadId })).Text("note"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task What_cannot_be_run_says_why()
    {
        var (noor, fuse, leadId, _) = await BeginAsync();
        var broken = PickASlot with
        {
            Bands =
            [
                PickASlot.Bands[0] with
                {
                    Steps =
                    [
                        PickASlot.Bands[0].Steps[0] with
                        {
                            Settings = new Dictionary<string, string>
                            {
                                ["channel"] = "#x",
                                ["words"] = "{{ lead.first_name",
                            },
                        },
                    ],
                },
            ],
        };
        Assert.Contains(
            "cannot be run as it is",
            (await RunAsync(noor, fuse, new { definition = broken, leadId }, HttpStatusCode.BadRequest))
                .GetProperty("errors")
                .GetProperty("definition")[0]
                .GetString(),
            StringComparison.Ordinal
        );
        await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                at = "yesterday",
            },
            HttpStatusCode.BadRequest
        );
        await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                reactions = new[] { new { what = "a-miracle", afterSeconds = 1 } },
            },
            HttpStatusCode.BadRequest
        );
        await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                leadId,
                reactions = new[] { new { what = "replied", afterSeconds = -1 } },
            },
            HttpStatusCode.BadRequest
        );
        await RunAsync(
            noor,
            fuse,
            new
            {
                definition = PickASlot,
                form = "no-such-form",
                answers = new { email = "x" },
            },
            HttpStatusCode.BadRequest
        );
        await RunAsync(noor, fuse, new { definition = PickASlot, leadId = Guid.NewGuid() }, HttpStatusCode.NotFound);
    }
}

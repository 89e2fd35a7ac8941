using LitFuse.Core.Delivering;
using LitFuse.Core.Figures;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

public sealed class FaultsTests
{
    private static readonly FuseDefinition Sound = Fuse(Whenever(Post("post")), Big(Text("text")));

    [Fact]
    public void A_sound_fuse_has_no_fault() => Assert.Empty(FuseFaults.Find(Sound, Around()));

    public static TheoryData<string, FuseDefinition> Faulty() =>
        new()
        {
            { "The fuse has no name.", Sound with { Name = " " } },
            { "Nothing lights it.", Sound with { LitBy = [] } },
            { "The form 'gone' is not there.", Sound with { LitBy = [new(EventKeys.Submission, OnForm("gone"))] } },
            { "The event 'full-moon' cannot light it.", Sound with { LitBy = [new("full-moon")] } },
            { "It is lit by a submission, but on no form.", Sound with { LitBy = [new(EventKeys.Submission)] } },
            {
                "'moon' is not known of “they send a form”.",
                Sound with
                {
                    LitBy =
                    [
                        new(
                            EventKeys.Submission,
                            new Dictionary<string, IReadOnlyList<string>>
                            {
                                ["form"] = ["brackenwheel-test-ride"],
                                ["moon"] = ["full"],
                            }
                        ),
                    ],
                }
            },
            {
                "It is lit when they come to match, but what they are to match is not said.",
                Sound with
                {
                    LitBy = [new(EventKeys.CameToMatch)],
                }
            },
            {
                "It is lit when a field changes, but which one is not said.",
                Sound with
                {
                    LitBy = [new(EventKeys.FieldChanged)],
                }
            },
            {
                "A clock lights it, but at which hour is not said.",
                Sound with
                {
                    LitBy =
                    [
                        new(
                            EventKeys.Hour,
                            When: new(RuleMatch.All, [new("company", RuleOp.Filled, [])]),
                            Timer: new("9 o'clock")
                        ),
                    ],
                }
            },
            {
                "An hour lights it for every lead there is.",
                Sound with
                {
                    LitBy = [new(EventKeys.Hour, Timer: new("09:00"))],
                }
            },
            {
                "A date lights it, but which field holds the date is not said.",
                Sound with
                {
                    LitBy = [new(EventKeys.DateReached, Timer: new("09:00", "moon"))],
                }
            },
            { "The event 'hour' cannot stop it.", Sound with { StopOn = [new(EventKeys.Hour)] } },
            {
                "There is no stage 'Married'.",
                Sound with
                {
                    StopOn =
                    [
                        new(
                            EventKeys.StageReached,
                            new Dictionary<string, IReadOnlyList<string>> { ["stage"] = ["Married"] }
                        ),
                    ],
                }
            },
            { "It listens for more than 90 days.", Sound with { HearsForDays = 91 } },
            {
                "The days between two lightings are not between 1 and 3650.",
                Sound with
                {
                    Relight = Relight.OnceInDays,
                    RelightDays = 0,
                }
            },
            {
                "The event 'hour' cannot enter a band.",
                Fuse(Whenever(Post("p")) with { Entry = new(EntryKind.On, Event: EventKeys.Hour) })
            },
            {
                "'Always' waits for silence after a step that is not there.",
                Fuse(Whenever(Post("p")) with { Entry = new(EntryKind.Silence, Of: "gone", ForSeconds: 60) })
            },
            {
                "'Always' follows a band that is not there.",
                Fuse(Whenever(Post("p")) with { Entry = new(EntryKind.End, Of: "gone") })
            },
            {
                "'Always' is for the failure of a step that is not there.",
                Fuse(Whenever(Post("p")) with { Entry = new(EntryKind.Failed, Of: "gone") })
            },
            {
                "'Always' waits for the choice 'Tuesday', which no step offers.",
                Fuse(
                    Whenever(Post("p")) with
                    {
                        Entry = new(
                            EntryKind.On,
                            Event: EventKeys.Replied,
                            Only: new Dictionary<string, IReadOnlyList<string>> { ["choice"] = ["Tuesday"] }
                        ),
                    }
                )
            },
            {
                "'Text: someone is on it' offers choices, but its words do not say them.",
                Fuse(Whenever(Text("t") with { Choices = ["Tuesday", "Wednesday"] }))
            },
            {
                "'Post to the ride desk' offers choices, but only a text is answered.",
                Fuse(Whenever(Post("t") with { Choices = ["Tuesday"] }))
            },
            {
                "'Post to the ride desk' has send hours that never open.",
                Fuse(Whenever(Post("p") with { Hours = new(HoursKind.Own, From: "18:00", To: "09:00") }))
            },
            {
                "'Post to the ride desk' waits for a result that waits for it.",
                Fuse(
                    Whenever(
                        Post("p") with
                        {
                            Settings = Posting("{{ steps.q.url }}"),
                        },
                        Post("q") with
                        {
                            Settings = Posting("{{ steps.p.url }}"),
                        } with
                        {
                            Name = "The other",
                        }
                    )
                )
            },
            {
                "'Post to the ride desk' speaks of 'steps.gone.url', which nothing fills.",
                Fuse(Whenever(Post("p") with { Settings = Posting("{{ steps.gone.url }}") }))
            },
            {
                "What takes the place of 'Post to the ride desk' is no other step of its band.",
                Fuse(Whenever(Post("p") with { OnFailure = new(Next: FailureThen.Instead, Step: "p") }))
            },
            {
                "'Post to the ride desk' is for somebody who does not work for this client any more.",
                Fuse(Whenever(Post("p") with { OnFailure = new(Next: FailureThen.Tell, Person: "gone") }))
            },
            {
                "The words of 'Post to the ride desk' cannot be read: there is no filter 'shout'.",
                Fuse(Whenever(Post("p") with { Settings = Posting("{{ lead.name | shout }}") }))
            },
            {
                "'letter' has a copy to “Pim”, which is no email address.",
                Fuse(
                    Whenever(
                        new Step(
                            "l",
                            "letter",
                            StepKinds.TeamEmail,
                            StepMoment.AtOnce,
                            new Dictionary<string, string>
                            {
                                ["colleague"] = "owner",
                                ["subject"] = "x",
                                ["words"] = "x",
                                ["copies"] = "pim@hollinvane.example, Pim",
                            }
                        )
                    )
                )
            },
            {
                "'Post to the ride desk' has a link 'moon', which is none that it can have.",
                Fuse(
                    Whenever(
                        Post("p") with
                        {
                            Settings = new Dictionary<string, string>(Posting("x")) { ["links"] = "moon" },
                        }
                    )
                )
            },
            {
                "No step gives 'steps.gone.url'.",
                Fuse(Whenever(Post("p") with { When = new(RuleMatch.All, [new("steps.gone.url", RuleOp.Filled, [])]) }))
            },
            {
                "The time of 'Post to the ride desk' has the hour 'noon', which is none.",
                Fuse(Whenever(Post("p") with { Moment = new(Days: 1, At: "noon") }))
            },
            { "The age limit is not between 1 hour and 30 days.", Sound with { AgeLimitHours = 0 } },
            { "There is no band in it.", Sound with { Bands = [] } },
            { "Nothing happens in 'Always'.", Fuse(Whenever()) },
            {
                "The id 'post' is empty, too long, has a point or a blank in it or is used twice.",
                Fuse(Whenever(Post("post"), Post("post")))
            },
            { "'Otherwise' has no 'when' to differ from.", Fuse(Otherwise(Post("post"))) },
            { "In 'Big fleets': there is no rule in it.", Fuse(Big(Post("p")) with { Entry = new(EntryKind.When) }) },
            {
                "No form gives a field 'shoe_size'.",
                Fuse(
                    Big(Post("p")) with
                    {
                        Entry = new(EntryKind.When, new(RuleMatch.All, [new("shoe_size", RuleOp.Filled, [])])),
                    }
                )
            },
            {
                "'26+' is not a choice of fleet size.",
                Fuse(
                    Big(Post("p")) with
                    {
                        Entry = new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["26+"])])),
                    }
                )
            },
            { "The step has no name.", Fuse(Whenever(Post("p") with { Name = "" })) },
            { "The time of 'Post to the ride desk' is not within 400 days.", Fuse(Whenever(Post("p", -1))) },
            { "There is no step of kind 'pigeon'.", Fuse(Whenever(Post("p") with { Kind = "pigeon" })) },
            {
                "The channel '#gone' is not there.",
                Fuse(
                    Whenever(
                        Post("p") with
                        {
                            Settings = new Dictionary<string, string> { ["channel"] = "#gone", ["words"] = "x" },
                        }
                    )
                )
            },
            {
                "'Post to the ride desk' has no channel.",
                Fuse(Whenever(Post("p") with { Settings = new Dictionary<string, string> { ["words"] = "x" } }))
            },
            {
                "'Text: someone is on it' speaks of 'lead.shoe_size', which nothing fills.",
                Fuse(Big(Text("t", words: "{{ lead.shoe_size }}")))
            },
            {
                "The words of 'Text: someone is on it' cannot be read: there are no words in it.",
                Fuse(Big(Text("t", words: "")))
            },
        };

    [Theory]
    [MemberData(nameof(Faulty))]
    public void Each_fault_says_what_and_how_to_mend_it(string what, FuseDefinition fuse)
    {
        var fault = Assert.Single(FuseFaults.Find(fuse, Around()), f => f.What == what);
        Assert.False(string.IsNullOrEmpty(fault.Mend));
    }

    [Theory]
    [MemberData(nameof(Faulty))]
    public void A_fault_is_known_by_its_code_whatever_things_are_called(string what, FuseDefinition fuse)
    {
        static string Other(string name) => string.IsNullOrWhiteSpace(name) ? name : "นัดหมาย";
        static List<(string?, string?, FuseFaultCode, string)> Of(FuseDefinition fuse) =>
            [.. FuseFaults.Find(fuse, Around()).Select(f => (f.BandId, f.StepId, f.Code, f.About))];
        var renamed = fuse with
        {
            Name = Other(fuse.Name),
            Bands =
            [
                .. fuse.Bands.Select(b =>
                    b with
                    {
                        Name = Other(b.Name),
                        Steps = [.. b.Steps.Select(s => s with { Name = Other(s.Name) })],
                    }
                ),
            ],
        };
        Assert.True(Of(fuse).SequenceEqual(Of(renamed)), what);
    }

    [Fact]
    public void A_list_that_could_not_be_asked_for_is_no_fault() =>
        Assert.Empty(FuseFaults.Find(Sound, Around() with { Channels = null, People = null }));

    [Fact]
    public void A_step_without_a_service_to_carry_it_is_a_fault() =>
        Assert.Contains(FuseFaults.Find(Sound, Around() with { Services = ["ridgeboard"] }), f =>
            f is { StepId: "text", What: "'Text: someone is on it' has no connection to send through." }
        );

    [Theory]
    [InlineData(200, AttemptEnd.Accepted)]
    [InlineData(202, AttemptEnd.Accepted)]
    [InlineData(400, AttemptEnd.Final)]
    [InlineData(401, AttemptEnd.Final)]
    [InlineData(404, AttemptEnd.Final)]
    [InlineData(408, AttemptEnd.Temporary)]
    [InlineData(429, AttemptEnd.Temporary)]
    [InlineData(500, AttemptEnd.Temporary)]
    [InlineData(501, AttemptEnd.Final)]
    [InlineData(503, AttemptEnd.Temporary)]
    [InlineData(302, AttemptEnd.Final)] // redirects are not followed
    public void A_status_is_temporary_or_final(int status, AttemptEnd end) =>
        Assert.Equal(end, Trouble.OfStatus(status));

    [Fact]
    public void Waits_grow_are_bounded_and_end()
    {
        Assert.Equal(Duration.FromSeconds(1), Trouble.WaitAfter(1, 1, null));
        Assert.Equal(Duration.FromSeconds(0.5), Trouble.WaitAfter(1, 0, null));
        Assert.Equal(Duration.FromSeconds(8), Trouble.WaitAfter(4, 1, null));
        Assert.Equal(Duration.FromSeconds(1024), Trouble.WaitAfter(11, 1, null));
        // as the service asked
        Assert.Equal(Duration.FromSeconds(90), Trouble.WaitAfter(1, 1, Duration.FromSeconds(90)));
        Assert.Equal(Duration.FromHours(6), Trouble.WaitAfter(1, 1, Duration.FromDays(9)));
        Assert.Null(Trouble.WaitAfter(Trouble.MostAttempts, 1, null));
    }

    [Fact]
    public void A_webhook_is_signed_and_checked()
    {
        byte[] secret = [1, 2, 3],
            body = [4, 5];
        var now = At("24 12:00:00");
        var stamp = now.ToUnixTimeSeconds();
        var good = WebhookSignature.Sign(secret, "n1", stamp, body);
        string? Fault(
            byte[]? with_ = null,
            string? id = "n1",
            string? at = null,
            string? signature = null,
            byte[]? of = null
        ) => WebhookSignature.Fault(with_ ?? secret, id, at ?? $"{stamp}", signature ?? good, of ?? body, now);
        Assert.Null(Fault());
        Assert.Null(Fault(signature: "v1,AAAA " + good)); // several signatures while a secret changes
        Assert.NotNull(Fault(with_: [9]));
        Assert.NotNull(Fault(of: [4, 6]));
        Assert.NotNull(Fault(id: "n2"));
        Assert.NotNull(Fault(id: null));
        Assert.NotNull(Fault(at: "soon"));
        Assert.NotNull(WebhookSignature.Fault(secret, "n1", $"{stamp}", good, body, now + Duration.FromMinutes(6)));
    }

    [Theory]
    [InlineData("1|2|3|4", 0.5, 2.5)]
    [InlineData("5", 0.99, 5.0)]
    [InlineData("1|2|3|4|5", 0, 1.0)]
    [InlineData("4|1|3|2", 1, 4.0)]
    public void Percentiles_lie_between_neighbours(string values, double share, double at) =>
        Assert.Equal(at, Percentiles.At([.. values.Split('|').Select(double.Parse)], share));

    [Fact]
    public void Of_nothing_there_is_no_percentile() => Assert.Null(Percentiles.At([], 0.5));

    private static readonly StepCatalog WithLedger = new([
        new(
            "row",
            "Row",
            Lane.Systems,
            "ledger",
            [
                new("mode", "Mode", SettingType.Choice) { Choices = [new("add", "add"), new("change", "change")] },
                new("tab", "Tab", SettingType.Listed) { List = "tabs" },
                new("fields", "Fields", SettingType.Columns) { List = "columns", ListNeeds = ["tab"] },
            ],
            ["id"]
        ),
    ]);

    private static Step Row(params (string Key, string Value)[] settings) =>
        new("row", "Row", "row", StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private static FuseSurroundings WithLists(params KnownConnection[] connections) =>
        Around() with
        {
            Services = ["ridgeboard", "copperline", "pillarpost", "ledger"],
            Steps = WithLedger,
            Connections = connections,
            Lists = new Dictionary<string, IReadOnlyList<ListItem>>
            {
                ["row.tab"] = [new("one", "One")],
                ["row.fields"] = [new("name", "Name", Required: true), new("size", "Size")],
            },
        };

    [Theory]
    [InlineData(
        "mode=add;tab=one;fields.size={{ lead.first_name }}",
        "'Row' puts nothing into “Name”, which is demanded there."
    )]
    [InlineData(
        "mode=add;tab=one;fields.name={{ lead.first_name }};fields.hat=x",
        "'Row' fills “hat”, which is not there any more."
    )]
    [InlineData("mode=add;tab=one;fields.name={{ lead.hat }}", "'Row' speaks of 'lead.hat', which nothing fills.")]
    [InlineData("mode=add;tab=two;fields.name=x", "The tab 'two' is not there.")]
    [InlineData("mode=burn;tab=one;fields.name=x", "The mode 'burn' is not there.")]
    [InlineData("tab=one;fields.name=x", "'Row' has no mode.")]
    [InlineData(
        "mode=add;tab=one;fields.name=x;connection=gone",
        "The connection that 'Row' goes through is not there any more."
    )]
    public void A_service_s_lists_are_held_against_what_a_step_fills(string settings, string what)
    {
        var step = Row([.. settings.Split(';').Select(s => s.Split('=', 2)).Select(s => (s[0], s[1]))]);
        var fuse = Sound with { Bands = [Whenever(step)] };
        Assert.Contains(
            what,
            FuseFaults.Find(fuse, WithLists(new KnownConnection("a", "ledger", "Ledger"))).Select(f => f.What)
        );
    }

    [Fact]
    public void Where_there_are_two_connections_a_step_says_which_and_one_that_is_broken_is_said()
    {
        var step = Row(("mode", "add"), ("tab", "one"), ("fields.name", "{{ lead.first_name }}"));
        var (a, b) = (
            new KnownConnection("a", "ledger", "First"),
            new KnownConnection("b", "ledger", "Second", "the access ran out.")
        );
        List<string> Of(Step s, params KnownConnection[] connections) =>
            [.. FuseFaults.Find(Sound with { Bands = [Whenever(s)] }, WithLists(connections)).Select(f => f.What)];
        Assert.Empty(Of(step, a));
        Assert.Equal(["'Row' does not say through which of 2 connections it goes."], Of(step, a, b));
        Assert.Empty(
            Of(step with { Settings = new Dictionary<string, string>(step.Settings) { ["connection"] = "a" } }, a, b)
        );
        Assert.Equal(["'Row' goes through Second, where nothing gets through: the access ran out."], Of(step, b));
    }

    [Fact]
    public void Words_in_columns_are_filled_like_any_others_and_wait_for_results()
    {
        var noon = At("24 12:00:00");
        var (first, second) = (
            Row(("mode", "add"), ("tab", "one"), ("fields.name", "{{ lead.first_name }}")),
            Row(("mode", "add"), ("tab", "one"), ("fields.name", "{{ steps.row.id }}"), ("fields.size", "")) with
            {
                Id = "second",
            }
        );
        var fuse = CompiledFuse.From(Sound with { Bands = [Whenever(first, second)] }, WithLedger);
        var lit = Decider.Decide(fuse, NewBurn(noon), new BurnEvent.Lit(), Lead(), noon);
        var sent = Assert.Single(lit.Effects.OfType<BurnEffect.Deliver>());
        Assert.Equal(("row", "Ines"), (sent.StepId, sent.Settings["fields.name"]));
        var ended = Decider.Decide(
            fuse,
            lit.State,
            new BurnEvent.StepEnded("row", StepStatus.Done, "taken", new Dictionary<string, string> { ["id"] = "R-7" }),
            Lead(),
            noon
        );
        Assert.Equal("R-7", Assert.Single(ended.Effects.OfType<BurnEffect.Deliver>()).Settings["fields.name"]);
    }
}

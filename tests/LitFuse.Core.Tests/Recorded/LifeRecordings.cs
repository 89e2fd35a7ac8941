using LitFuse.Core.Calling;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using LitFuse.Core.Kits;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>
/// Every short life of small fuses that have one feature each: whatever up to three things can happen to them, in every
/// order. Of calls, too; and the catalogues as they are.
/// </summary>
public sealed class LifeRecordings
{
    private const int Lot = 40;
    private static readonly Instant Noon = At("24 12:00:00");

    private static string Lines(params object?[] parts) => string.Join(" │ ", parts.Select(Say));

    private static Band On(string id, string key, params Step[] steps) =>
        new(id, id, new(EntryKind.On, Event: key), steps);

    private static Band After(string id, EntryKind kind, string? of, params Step[] steps) =>
        new(id, id, new(kind, Of: of, ForSeconds: 60), steps);

    private static Step Of(string kind, string id, params (string, string)[] settings) =>
        new(id, id, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Item1, s => s.Item2));

    private static IEnumerable<(string Name, FuseDefinition Fuse)> Small()
    {
        var rules = new RuleSet(RuleMatch.All, [new("steps.a.status", RuleOp.OneOf, ["done"])]);
        yield return ("two", Fuse(Whenever(Text("a"), Post("b"), Text("c", 60))));
        yield return (
            "waits for results",
            Fuse(
                Whenever(
                    Text("a"),
                    Post("b") with
                    {
                        Settings = Posting("{{ steps.a.url }} {{ steps.a.status }}"),
                    },
                    Text("c") with
                    {
                        When = rules,
                    }
                )
            )
        );
        yield return (
            "instead",
            Fuse(
                Whenever(
                    Text("a") with
                    {
                        OnFailure = new(RetryProfile.Usual, FailureThen.Instead, Step: "b"),
                    },
                    Post("b"),
                    Text("c", 60)
                )
            )
        );
        yield return (
            "stops the band",
            Fuse(
                Whenever(
                    Text("a") with
                    {
                        OnFailure = new(RetryProfile.Quick, FailureThen.Stop),
                    },
                    Post("b", 60),
                    Text("c", 61)
                ),
                On("t", EventKeys.Tagged, Text("d"))
            )
        );
        yield return (
            "tells",
            Fuse(
                Whenever(
                    Text("a") with
                    {
                        OnFailure = new(RetryProfile.Usual, FailureThen.Tell, Person: "owner"),
                    },
                    Post("b", 60)
                )
            )
        );
        yield return ("silence", Fuse(Whenever(Text("a")), After("s", EntryKind.Silence, "a", Text("b"))));
        yield return (
            "silence each time",
            Fuse(
                On("t", EventKeys.Tagged, Text("a")) with
                {
                    EachTime = true,
                },
                After("s", EntryKind.Silence, "a", Text("b")) with
                {
                    EachTime = true,
                }
            )
        );
        yield return (
            "failed",
            Fuse(
                Whenever(Text("a"), Post("b")),
                After("f", EntryKind.Failed, "a", Post("c")),
                After("g", EntryKind.Failed, null, Text("d"))
            )
        );
        yield return (
            "ends",
            Fuse(
                Whenever(Text("a"), Post("b", 60)),
                After("e", EntryKind.End, "always", Text("c")),
                After("ee", EntryKind.End, "e", Post("d"))
            )
        );
        yield return (
            "each time",
            Fuse(
                On("t", EventKeys.Tagged, Text("a"), Post("b", 60)) with
                {
                    EachTime = true,
                },
                On("u", EventKeys.Replied, Post("c"))
            )
        );
        yield return (
            "choices",
            Fuse(
                Whenever(Text("a", words: "{{ choices }}") with { Choices = ["Tuesday", "Wednesday"] }),
                new Band(
                    "y",
                    "y",
                    new(
                        EntryKind.On,
                        Event: EventKeys.Replied,
                        Only: new Dictionary<string, IReadOnlyList<string>> { ["meaning"] = ["yes", "choice"] }
                    ),
                    [Post("b") with { Settings = Posting("{{ reply.choice }} {{ reply.text }}") }]
                )
            )
        );
        yield return (
            "our own",
            Fuse(
                Whenever(
                    Of(StepKinds.Tag, "a", ("tag", "hot")),
                    Of(StepKinds.SetStage, "b", ("stage", "Spoken")),
                    Of(StepKinds.SetField, "c", ("field", "company"), ("value", "{{ lead.first_name }}")),
                    Of(StepKinds.Hold, "d"),
                    Text("e")
                ),
                On("t", EventKeys.Tagged, Post("f"))
            )
        );
        yield return (
            "stop step",
            Fuse(
                Whenever(Text("a"), Text("b", 60)),
                On("t", EventKeys.Tagged, Of(StepKinds.Stop, "d", ("because", "enough")), Post("c"))
            )
        );
        yield return (
            "first band",
            Fuse(
                Big(Text("a")),
                new Band(
                    "w",
                    "w",
                    new(EntryKind.When, new(RuleMatch.All, [new("company", RuleOp.Filled, [])])),
                    [Post("b")]
                ),
                Otherwise(Text("c", 60))
            ) with
            {
                BandChoice = BandChoice.First,
            }
        );
        yield return (
            "hears not",
            Fuse(Whenever(Text("a"), Text("c", 60)), On("t", EventKeys.Tagged, Post("b"))) with
            {
                HearsForDays = 0,
                StopOn = [new(EventKeys.Replied)],
            }
        );
        yield return (
            "stops on all",
            Fuse(Whenever(Text("a"), Post("b", 60), Text("c", 60)), On("t", EventKeys.Tagged, Text("d"))) with
            {
                StopOn = [new(EventKeys.Tagged), new(EventKeys.Touched)],
            }
        );
        yield return (
            "hours",
            Fuse(
                Whenever(
                    Text("a", 40_000) with
                    {
                        Hours = new(HoursKind.Working, OutsideHours.Skip),
                    },
                    Text("b", 40_000) with
                    {
                        Hours = new(HoursKind.Working),
                    },
                    Post("c", 40_000) with
                    {
                        Hours = new(HoursKind.Working, OutsideHours.Wait),
                    },
                    Text("d", 40_000) with
                    {
                        Hours = new(HoursKind.None),
                    }
                )
            )
        );
        yield return (
            "calendar",
            Fuse(
                Whenever(
                    Text("a") with
                    {
                        Moment = new(0, 1, true, "09:30"),
                    },
                    Post("b") with
                    {
                        Moment = new(0, 0, false, "11:00"),
                    },
                    Text("c", 90) with
                    {
                        Moment = new(90, From: MomentFrom.Submission),
                    }
                )
            )
        );
        yield return (
            "torn words",
            Fuse(
                Whenever(
                    Text("a", words: "{{ lead.first_name | times: 2 }}"),
                    Text("b", words: "{{ lead.none }}"),
                    Post("c") with
                    {
                        When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["1–3"])]),
                    }
                )
            )
        );
    }

    // What may happen, by its name.
    private static readonly (string Name, Func<BurnLife, BurnLife> Does)[] Events =
    [
        ("done", life => Ends(life, 0, StepStatus.Done)),
        ("failed", life => Ends(life, 0, StepStatus.Failed)),
        ("last failed", life => Ends(life, 1, StepStatus.Failed)),
        ("tagged", life => life.Do(Fixtures.On(EventKeys.Tagged, "tagged", life.Now, ("tag", "hot")))),
        ("yes", life => life.Replies("yes, 1 please")),
        ("touched", life => life.Do(Fixtures.On(EventKeys.Touched, "Imke rang them", life.Now))),
        ("a minute", life => Passes(life, Duration.FromSeconds(60))),
        ("a night", life => Passes(life, Duration.FromHours(20))),
        ("skipped", life => life.Do(new BurnEvent.Skipped("c", "a person skipped it"))),
        ("again", life => life.Do(new BurnEvent.Replayed("a", "a person had it done again"))),
        ("let go", life => life.Do(new BurnEvent.LetGo("a person let it go"))),
        ("ended", life => life.Do(new BurnEvent.Ended("a person ended it"))),
    ];

    private static BurnLife Ends(BurnLife life, int which, StepStatus status)
    {
        var sent = life.State.Steps.Where(s => s.Status == StepStatus.Sent).ToList();
        return which < sent.Count
            ? life.Ends(sent[which == 0 ? 0 : ^1].StepId, status, ("url", "https://example.com/1"))
            : life;
    }

    // Time alone: what was sent stays under way.
    private static BurnLife Passes(BurnLife life, Duration span)
    {
        var until = life.Now + span;
        for (var guard = 0; guard < 50 && life.State.NextWake is { } wake && wake <= until; guard++)
        {
            life.Now = Instant.Max(wake, life.Now);
            life.Do(new BurnEvent.Woken());
        }

        life.Now = until;
        return life;
    }

    [Fact]
    public void Short_lives()
    {
        List<int[]> orders = [.. Rows(1), .. Rows(2), .. Rows(3)];
        var silent = Lead() with { HasEmail = false };
        Hold(
            "short-lives",
            Small()
                .SelectMany(small =>
                    orders
                        .Chunk(Lot)
                        .Select(
                            (lot, n) =>
                                $"{small.Name} │ {string.Join(", ", lot[0].Select(e => Events[e].Name))} │ {Mark(string.Join('\n', lot.Select((order, i) =>
        {
            var life = new BurnLife(small.Fuse, Noon, i % 7 == 0 ? silent : i % 7 == 1 ? Lead(hasPhone: false) : i % 7 == 2 ? Lead("1–3") with { MostADay = 1 } : null, i % 11 == 0 ? Noon - Duration.FromHours(23.99) : null);
            foreach (var e in order) Events[e].Does(life);
            return string.Join('\n', life.All.Select(e => $"{e.GetType().Name} {Say((object)e)}")) + Say(life.State) + life.State.NextWake;
        })))}"
                        )
                )
        );

        static IEnumerable<int[]> Rows(int length) =>
            length == 0
                ?
                [
                    [],
                ]
                : Rows(length - 1)
                    .SelectMany(row => Enumerable.Range(0, Events.Length).Select(e => (int[])[.. row, e]));
    }

    [Fact]
    public void Short_calls()
    {
        CallPerson Person(int n) => new($"p{n}", $"Person {n}", $"+44770090010{n}");
        CallPlan[] plans =
        [
            .. Enumerable
                .Range(0, 3)
                .Select(n => new CallPlan(
                    [.. Enumerable.Range(0, n).Select(Person)],
                    "Bram Okafor",
                    "+447700900300",
                    "Bram asks for a test ride."
                )),
        ];
        plans =
        [
            .. plans,
            plans[2] with
            {
                AtOnce = true,
            },
            plans[1] with
            {
                Asks = false,
            },
            plans[2] with
            {
                SpeaksToMachines = true,
                Asks = false,
            },
        ];
        CallEvent[] events =
        [
            new CallEvent.Answered(0),
            new CallEvent.Answered(1),
            new CallEvent.KeyPressed(0, "1"),
            new CallEvent.KeyPressed(0, "2"),
            new CallEvent.Guessed(2),
            new CallEvent.Joined(0),
            new CallEvent.LegEnded(0, LegEnding.Unanswered),
            new CallEvent.LegEnded(0, LegEnding.HungUp),
            new CallEvent.LegEnded(1, LegEnding.Busy),
            new CallEvent.Woken(),
            new CallEvent.HungUp("hung up here"),
        ];
        IEnumerable<int[]> Rows(int length) =>
            length == 0
                ?
                [
                    [],
                ]
                : Rows(length - 1)
                    .SelectMany(row => Enumerable.Range(0, events.Length).Select(e => (int[])[.. row, e]));
        List<int[]> orders = [.. Rows(1), .. Rows(2), .. Rows(3), .. Rows(4).Where((_, i) => i % 4 == 0)];
        Hold(
            "short-calls",
            plans.SelectMany(
                (plan, p) =>
                    orders
                        .Chunk(Lot * 5)
                        .Select(lot =>
                            $"{p} │ {string.Join(' ', lot[0].Select(e => events[e].GetType().Name))} │ {Mark(string.Join('\n', lot.Select(order =>
        {
            var now = Noon;
            var call = CallMachine.Next(plan, CallState.New, new CallEvent.Begun(), now);
            var said = string.Join(',', call.Effects);
            foreach (var e in order)
            {
                now = events[e] is CallEvent.Woken && call.State.NextWake is { } wake ? Instant.Max(now, wake) : now + Duration.FromSeconds(7);
                call = CallMachine.Next(plan, call.State, events[e], now);
                said += $"▸{string.Join(',', call.Effects)} {call.State.Stage} {Say(call.State.Legs)} {call.State.NextWake} {call.State.Outcome}";
            }

            return said;
        })))}"
                        )
            )
        );
    }

    [Fact]
    public void Catalogues()
    {
        var kinds = StepKinds.All.Select(k =>
            Lines(k.Key, k.Label, k.Lane.ToString(), k.Service, k.Settings, k.Results, k.ResultsFrom)
        );
        var events = EventCatalog.Plain.All.Select(e => Lines(e.Key, e.Sentence, e.Uses.ToString(), e.Details));
        var facts = Facts.Standing.Select(f => Lines(f.Path, f.Label, f.Type.ToString(), f.Values));
        var fields = LeadField.Standard.Select(f => Lines(f.Key, f.Label, f.Type.ToString(), f.Choices, f));
        KitField Field(string key, params string[] choices) =>
            new(key, key, choices, key == "when" ? FactType.Date : FactType.Choice);
        KitSurroundings[] clients =
        [
            new(["f"], [Field("colour", "red", "blue"), Field("when")], ["#one"], ["imke.sandoval"], ["c1"], ["New"]),
            new(
                ["f", "g", "h"],
                [Field("colour", "red"), Field("desks", "1", "2", "3")],
                ["#one", "#two", "#three"],
                ["a", "b", "c", "d"],
                ["c1", "c2", "c3"],
                ["New", "Spoken", "Booked", "Won"]
            ),
        ];
        var kits = StarterKits.All.SelectMany(k =>
            clients.Select((c, i) => Lines(k.Key, i, Mark(FuseFile.Print(k.Build(c)))))
        );
        Hold(
            "catalogues",
            [
                .. kinds,
                .. events,
                .. facts,
                .. fields,
                .. kits,
                .. WordFilters.Known.Select(f => Lines(f.Name, f.Example, f.Makes)),
                Lines(CallEnding.Usual),
                Lines(StopRule.Usual),
                Lines(
                    new FuseDefinition
                    {
                        Name = "n",
                        LitBy = [],
                        Bands = [],
                    }
                ),
            ]
        );
    }
}

using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Mapping;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>
/// Each limit of fuses, of when they may speak and of lines at what is just allowed and at what is just too much.
/// </summary>
public sealed class FuseBoundTests
{
    [Fact]
    public void Hours_that_the_clock_skips_are_no_hours_of_that_day()
    {
        // London, 29 March 2026: 01:00 is followed by 02:00.
        OpenHours skipped = new(new(1, 0), new(2, 0), OpenHours.EveryDay),
            half = new(new(1, 30), new(2, 30), OpenHours.EveryDay);
        var night = Instant.FromUtc(2026, 3, 28, 23, 0);
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 0), skipped.NextOpen(night, London));
        Assert.Equal(Instant.FromUtc(2026, 3, 29, 1, 0), half.NextOpen(night, London));
        Assert.Equal(
            Instant.FromUtc(2026, 3, 30, 0, 45),
            skipped.AfterOpenTime(night, Duration.FromMinutes(45), London)
        );
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 45), half.AfterOpenTime(night, Duration.FromMinutes(45), London));
    }

    [Fact]
    public void Time_that_is_open_is_counted_from_opening_to_closing()
    {
        OpenHours sunday = new(new(10, 0), new(12, 0), [IsoDayOfWeek.Sunday]);
        var closed = Instant.FromUtc(2026, 11, 22, 12, 0);
        Assert.Equal(Instant.FromUtc(2026, 11, 29, 10, 0), sunday.NextOpen(closed, London));
        Assert.Equal(Instant.FromUtc(2026, 11, 29, 12, 0), sunday.AfterOpenTime(closed, Duration.FromHours(2), London));
        Assert.Equal(
            Instant.FromUtc(2026, 12, 6, 10, 1),
            sunday.AfterOpenTime(closed, Duration.FromMinutes(121), London)
        );
        Assert.Equal(
            closed + Duration.FromHours(2),
            (sunday with { Days = [] }).AfterOpenTime(closed, Duration.FromHours(2), London)
        );
        Assert.Null((sunday with { To = new(10, 0) }).NextOpen(closed, London));
        Assert.Equal(
            Instant.FromUtc(2026, 12, 6, 10, 0),
            (sunday with { Closed = new HashSet<LocalDate> { new(2026, 11, 29) } }).NextOpen(closed, London)
        );
    }

    [Theory]
    [InlineData(null, null, "Europe/London", "the client's own")]
    [InlineData(null, "GB", "Europe/London", "by their number's country")]
    [InlineData("+442079460000", "GB", "Europe/London", "by their number's country")]
    [InlineData("+16045550123", "CA", "America/Toronto", "by their postcode")]
    public void A_zone_is_told_by_the_first_that_tells_it(string? phone, string? country, string zone, string because)
    {
        var read = LeadZone.Read(
            phone,
            country,
            new Dictionary<string, string> { ["postcode"] = "M5V 3L9" },
            "Europe/London"
        );
        Assert.Equal((zone, because), (read.Zone, read.Because));
    }

    [Theory]
    [InlineData(0, "whatever comes")]
    [InlineData(1, "1 submission waits")]
    [InlineData(2, "2 submissions wait")]
    public void What_waits_for_a_form_is_counted_where_anything_does(int waiting, string says)
    {
        var facts = new Continuity.LineFacts();
        IEnumerable<string> Said(LineForm form) => (facts with { Form = form }).Line().Cuts.Select(c => c.Cause);
        Assert.Contains(Said(facts.Form with { Standing = FormStanding.Paused, Waiting = waiting }), w =>
            w.Contains(says, StringComparison.Ordinal)
        );
        Assert.Contains(Said(facts.Form with { MapVersion = null, Waiting = waiting }), w =>
            w.Contains(says, StringComparison.Ordinal)
        );
    }

    [Fact]
    public void A_network_that_tells_no_fields_says_nothing_of_them()
    {
        FieldMap map = new([new("email", "email"), new("utm_source", "company"), new("", "message", Constant: "x")]);
        DriftSample[] samples =
        [
            .. Enumerable
                .Range(0, 20)
                .Select(n => new DriftSample(
                    At("24 12:00:00") - Duration.FromMinutes(n),
                    new Dictionary<string, string> { ["email"] = "i@example.com" }
                )),
        ];
        DriftForm form = new([], Tells: true, map, [], "GB", new HashSet<string>());
        Assert.Empty(DriftFinder.Find(form, samples));
        Assert.Single(
            DriftFinder.Find(form with { Fields = [new("other", "Other", FormFieldType.Hidden, false, [])] }, samples),
            f => f is { Kind: DriftKind.Gone, Field: "email" }
        );
    }

    [Fact]
    public void A_fuse_has_at_most_so_many_bands_and_steps()
    {
        IEnumerable<FuseFaultCode> Of(int bands, int steps) =>
            FuseFaults
                .Find(
                    Fuse([
                        .. Enumerable
                            .Range(0, bands)
                            .Select(b => new Band(
                                $"b{b}",
                                $"B{b}",
                                new(EntryKind.Always),
                                [.. Enumerable.Range(0, steps).Select(s => Post($"s{b}_{s}"))]
                            )),
                    ]),
                    Around()
                )
                .Select(f => f.Code);
        Assert.DoesNotContain(FuseFaultCode.TooManyBands, Of(50, 1));
        Assert.Contains(FuseFaultCode.TooManyBands, Of(50 + 1, 1));
        Assert.DoesNotContain(FuseFaultCode.TooManySteps, Of(1, 200));
        Assert.Contains(FuseFaultCode.TooManySteps, Of(1, 200 + 1));
    }

    [Theory]
    [InlineData("step", true)]
    [InlineData("a b", false)]
    [InlineData("a\u0001", false)]
    [InlineData("a.b", false)]
    [InlineData("", false)]
    public void An_id_is_written_without_blanks_and_dots(string id, bool good) =>
        Assert.Equal(good, !FuseFaults.Find(Fuse(Whenever(Post(id))), Around()).Any(f => f.Code == FuseFaultCode.Id));

    [Theory]
    [InlineData("A <a@brackenwheel.example>", true)]
    [InlineData("<a@brackenwheel.example>", true)]
    [InlineData("a@brackenwheel.example", true)]
    [InlineData("A <@brackenwheel.example>", false)]
    public void An_address_may_stand_in_angles_behind_its_name(string reply, bool good)
    {
        var step = new Step(
            "s",
            "Letter",
            StepKinds.Email,
            StepMoment.AtOnce,
            new Dictionary<string, string>
            {
                ["subject"] = "S",
                ["words"] = "W",
                ["reply"] = reply,
            }
        );
        Assert.Equal(good, !FuseFaults.Find(Fuse(Whenever(step)), Around()).Any(f => f.StepId == "s"));
    }

    [Fact]
    public void Two_bands_with_the_same_rules_are_doubted_and_with_others_are_not()
    {
        RuleSet rules = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]),
            grouped = rules with { Groups = [new(RuleMatch.Any, [new("company", RuleOp.Filled, [])])] };
        Band Of(string id, RuleSet when) => new(id, id, new(EntryKind.When, when), [Post("p" + id)]);
        int Doubts(RuleSet one, RuleSet other) =>
            FuseDoubts
                .Find(
                    Fuse(Of("a", one), Of("b", other)) with
                    {
                        BandChoice = BandChoice.First,
                    },
                    Around().Fields,
                    new HashSet<string>(),
                    []
                )
                .Count;
        Assert.True(Doubts(rules, rules) > Doubts(rules, grouped));
        Assert.Equal(Doubts(rules, grouped), Doubts(grouped, rules));
        Assert.Equal(
            Doubts(rules, grouped),
            Doubts(rules, rules with { Match = RuleMatch.Any, Rules = [.. rules.Rules, .. rules.Rules] })
        );
    }

    [Theory]
    [InlineData("x")]
    [InlineData("company_size")]
    public void A_field_that_no_form_gives_is_said(string field) =>
        Assert.Contains(
            FuseFaults.Find(
                Fuse(
                    new Band(
                        "b",
                        "B",
                        new(EntryKind.When, new(RuleMatch.All, [new(field, RuleOp.Filled, [])])),
                        [Post("p")]
                    )
                ),
                Around()
            ),
            f => f.Code == FuseFaultCode.FieldGone
        );

    [Fact]
    public void A_failure_with_rules_is_said_with_them() =>
        Assert.Equal(
            "When “A” fails, and company is filled in",
            FuseSentence.SayEntry(
                new(EntryKind.Failed, new(RuleMatch.All, [new("company", RuleOp.Filled, [])]), Of: "a"),
                Fuse(Whenever(Post("a") with { Name = "A" }))
            )
        );

    [Fact]
    public void A_fuse_of_a_source_is_lit_by_its_forms_and_one_of_a_form_by_that_alone()
    {
        FuseLine Of(params (string, string)[] only) =>
            FuseLine.Of(
                Guid.Empty,
                null,
                FuseStanding.Armed,
                Fuse(Whenever(Post("p"))) with
                {
                    LitBy =
                    [
                        new(
                            EventKeys.Submission,
                            only.ToDictionary(o => o.Item1, o => (IReadOnlyList<string>)[o.Item2])
                        ),
                    ],
                },
                Around(),
                new(SendHours, SendHours, London, "GB"),
                At("24 12:00:00")
            );
        Assert.Equal(["s"], Of(("source", "s")).Sources);
        Assert.Empty(Of(("source", "s"), ("form", "f")).Sources);
        Assert.True(Of(("page", "p")).ByAnyForm);
        Assert.False(Of(("source", "s")).ByAnyForm);
        Assert.False(Of(("form", "f")).ByAnyForm);
    }

    [Fact]
    public void Of_two_steps_with_choices_the_later_is_answered()
    {
        Step Asks(string id, int after, string choice) =>
            Text(id, after, "{{ choices }}") with
            {
                Choices = [choice, "Neither " + id],
            };
        foreach (var (first, second) in new[] { (0, 60), (60, 0) })
        {
            var life = new BurnLife(
                Fuse(
                    Whenever(Asks("a", first, "Tuesday"), Asks("b", second, "Wednesday")),
                    new Band("r", "R", new(EntryKind.On, Event: EventKeys.Replied), [Post("d")])
                ),
                At("24 12:00:00")
            );
            life.Pass(Duration.FromMinutes(5)).Replies("1");
            Assert.Contains(life.Told, t =>
                t.StartsWith(second == 60 ? "they chose Wednesday" : "they chose Tuesday", StringComparison.Ordinal)
            );
        }
    }

    [Fact]
    public void The_end_of_a_delivery_is_that_of_the_step_it_was_made_for()
    {
        Band each = new("t", "T", new(EntryKind.On, Event: EventKeys.Tagged), [Post("p")]) { EachTime = true };
        var life = new BurnLife(Fuse(each), At("24 12:00:00"));
        life.Do(On(EventKeys.Tagged, "tagged", life.Now, ("tag", "a")))
            .Do(On(EventKeys.Tagged, "tagged", life.Now, ("tag", "b")));
        var keys = life.All.OfType<BurnEffect.Deliver>().Select(d => d.Key).ToList();
        Assert.Equal(2, keys.Distinct().Count());
        life.Do(new BurnEvent.StepEnded("p", StepStatus.Failed, "it did not go", null, keys[1]));
        Assert.Equal([StepStatus.Sent, StepStatus.Failed], life.State.Steps.Select(s => s.Status));
        life.Do(new BurnEvent.StepEnded("p", StepStatus.Done, "it went", null, "another"));
        Assert.Equal([StepStatus.Sent, StepStatus.Failed], life.State.Steps.Select(s => s.Status));
    }

    [Theory]
    [InlineData(59, 0)]
    [InlineData(60, 1)]
    [InlineData(61, 1)]
    public void A_rehearsal_ends_with_its_last_moment(int until, int sent)
    {
        var run = Rehearser.Run(
            CompiledFuse.From(Fuse(Whenever(Post("p", 60)))),
            NewBurn(At("24 12:00:00")),
            Lead(),
            [],
            (_, _) => new(Duration.Zero, StepStatus.Done, "done"),
            At("24 12:00:00") + Duration.FromSeconds(until)
        );
        Assert.Equal(sent, run.Moments.Count(m => m.Effect is BurnEffect.Deliver));
    }

    [Fact]
    public void A_lead_that_enters_no_band_is_marked_so()
    {
        foreach (var (fleet, none) in new[] { ("1–3", true), ("25+", false), ("1–3", true) })
        {
            var test = new Backtest(
                CompiledFuse.From(Fuse(Big(Post("p")))),
                words: false,
                Duration.FromDays(1),
                (_, _) => new(Duration.Zero, StepStatus.Done, "done")
            );
            Assert.Equal(
                none,
                test.Put(new(Lead(fleet), At("24 12:00:00"), null, []), out _).Has(BacktestMarks.NoBand)
            );
        }
    }

    [Theory]
    [InlineData(86_399, typeof(GateAnswer.Wait))]
    [InlineData(86_400, typeof(GateAnswer.Go))]
    [InlineData(86_401, typeof(GateAnswer.Go))]
    public void A_message_counts_for_a_day(int secondsAgo, Type answer)
    {
        var now = At("24 12:00:00");
        Assert.IsType(
            answer,
            ContactPolicy.Ask(
                Lead() with
                {
                    MostADay = 1,
                    Sent = [now - Duration.FromSeconds(secondsAgo)],
                },
                now,
                Duration.FromDays(1),
                now
            )
        );
    }

    [Theory]
    [InlineData(EventKeys.Submission, "Choose among")]
    [InlineData(EventKeys.CameToMatch, "Take it out")]
    public void A_detail_that_an_event_does_not_have_is_taken_out_or_chosen_anew(string key, string mend)
    {
        var fault = FuseFaults
            .Find(
                Fuse(Whenever(Post("p"))) with
                {
                    LitBy = [new(key, new Dictionary<string, IReadOnlyList<string>> { ["nothing"] = ["x"] })],
                },
                Around()
            )
            .First(f => f.Code == FuseFaultCode.EventDetail);
        Assert.StartsWith(mend, fault.Mend, StringComparison.Ordinal);
    }

    [Fact]
    public void Nothing_is_waited_for_while_no_map_is_confirmed()
    {
        var facts = new Continuity.LineFacts();
        DriftFinding lost = new("gone.phone", DriftKind.Gone, "phone", "phone", "lost", "mend", 5) { Lost = true };
        var drifted = facts with { Form = facts.Form with { Drift = [lost] } };
        Assert.Contains("phone", drifted.Line().Waits.Select(w => w.Field));
        Assert.Empty((drifted with { Form = drifted.Form with { MapVersion = null } }).Line().Waits);
    }

    [Fact]
    public void A_kit_takes_the_field_that_tells_the_size()
    {
        Core.Kits.KitField Of(string key, params string[] choices) => new(key, key, choices, FactType.Choice);
        Core.Kits.KitSurroundings With(params Core.Kits.KitField[] fields) => new([], fields, [], [], [], []);
        Assert.Equal("fleet_size", With(Of("colour", "red", "blue"), Of("fleet_size", "1–3", "25+")).Size?.Key);
        Assert.Equal("colour", With(Of("colour", "red", "blue"), Of("fleet_size", "any")).Size?.Key);
        Assert.Null(With(Of("colour", "red"), Of("fleet_size")).Size);
    }

    [Theory]
    [InlineData(0, typeof(GateAnswer.Wait))]
    [InlineData(1, typeof(GateAnswer.Never))]
    public void A_message_that_waits_for_its_turn_may_wait_as_long_as_its_age_allows(int secondsMore, Type answer)
    {
        var now = At("24 12:00:00");
        var free = now + Duration.FromHours(3);
        Assert.IsType(
            answer,
            ContactPolicy.Ask(
                Lead() with
                {
                    MostADay = 1,
                    Sent = [free - Duration.FromDays(1)],
                },
                free - Duration.FromHours(5) - Duration.FromSeconds(secondsMore),
                Duration.FromHours(5),
                now
            )
        );
    }

    [Fact]
    public void An_entry_says_its_rules_once() =>
        Assert.Equal(
            "When company is filled in",
            FuseSentence.SayEntry(new(EntryKind.When, new(RuleMatch.All, [new("company", RuleOp.Filled, [])])))
        );

    [Fact]
    public void Of_two_silences_that_are_due_the_earlier_is_heard_first()
    {
        Band Silent(string id, int seconds) =>
            new(id, id, new(EntryKind.Silence, Of: "a", ForSeconds: seconds), [Post("p" + id)]);
        foreach (var (one, other) in new[] { (60, 120), (120, 60) })
        {
            var life = new BurnLife(
                Fuse(Whenever(Text("a")), Silent("x", one), Silent("y", other)),
                At("24 12:00:00")
            ).Ends("a");
            life.Now += Duration.FromMinutes(10);
            life.Do(new BurnEvent.Woken());
            Assert.Equal(
                one < other ? ["px", "py"] : ["py", "px"],
                life.Last.OfType<BurnEffect.Deliver>().Select(d => d.StepId)
            );
        }
    }

    [Fact]
    public void A_band_without_steps_is_entered_once_only()
    {
        var life = new BurnLife(
            Fuse(Whenever(), new Band("t", "T", new(EntryKind.On, Event: EventKeys.Tagged), [Post("p")])),
            At("24 12:00:00")
        );
        life.Do(new BurnEvent.Lit());
        Assert.Empty(life.Last);
    }

    [Fact]
    public void In_a_rehearsal_too_each_delivery_ends_its_own_step()
    {
        var noon = At("24 12:00:00");
        var fuse = CompiledFuse.From(
            Fuse(new Band("t", "T", new(EntryKind.On, Event: EventKeys.Tagged), [Post("p")]) { EachTime = true })
        );
        Scripted[] script =
        [
            .. new[] { 1, 10 }.Select(s => new Scripted(
                noon + Duration.FromSeconds(s),
                On(EventKeys.Tagged, "tagged", noon + Duration.FromSeconds(s), ("tag", "a"))
            )),
        ];
        var reactions = new Queue<Reaction>([
            new(Duration.FromSeconds(60), StepStatus.Done, "slow"),
            new(Duration.FromSeconds(5), StepStatus.Failed, "quick"),
        ]);
        var run = Rehearser.Run(
            fuse,
            NewBurn(noon),
            Lead(),
            script,
            (_, _) => reactions.Dequeue(),
            noon + Duration.FromMinutes(5)
        );
        Assert.Equal([StepStatus.Done, StepStatus.Failed], run.State.Steps.Select(s => s.Status));
    }

    [Fact]
    public void Every_step_of_a_long_fuse_has_its_own_mark()
    {
        var steps = Enumerable.Range(0, 40).Select(i => Post($"s{i}", i % 2 == 0 ? i : 90_000)).ToArray();
        var fuse = CompiledFuse.From(Fuse(Whenever(steps)));
        var test = new Backtest(fuse, words: false, Duration.FromHours(2), (_, _) =>
            new(Duration.Zero, StepStatus.Done, "done")
        );
        var outcome = test.Put(new(Lead(), At("24 12:00:00"), null, []), out _);
        Assert.Equal(
            Enumerable.Range(0, 40).Where(i => i % 2 == 0),
            Enumerable.Range(0, 40).Where(i => outcome.Has(new BacktestMarks(fuse).Sent(i)))
        );
    }
}

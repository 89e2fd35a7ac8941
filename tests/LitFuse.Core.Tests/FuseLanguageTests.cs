using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>Lives one burn step by step, as the engine would.</summary>
internal sealed class BurnLife
{
    private readonly CompiledFuse fuse;

    public BurnLife(FuseDefinition definition, Instant at, LeadFacts? lead = null, Instant? asked = null)
    {
        (fuse, Now, Lead) = (CompiledFuse.From(definition), at, lead ?? Fixtures.Lead());
        State = NewBurn(asked ?? at, at);
        Do(new BurnEvent.Lit());
    }

    public BurnState State { get; set; }

    public Instant Now { get; set; }

    public LeadFacts Lead { get; set; }

    public List<BurnEffect> All { get; } = [];

    public List<BurnEffect> Last { get; private set; } = [];

    public IEnumerable<string> Sent => All.OfType<BurnEffect.Deliver>().Select(d => d.StepId);

    public IEnumerable<string> Told => All.OfType<BurnEffect.Tell>().Select(t => t.Words);

    public BurnLife Do(BurnEvent what)
    {
        var decision = Decider.Decide(fuse, State, what, Lead, Now);
        State = decision.State;
        Last = [.. decision.Effects];
        All.AddRange(Last);
        return this;
    }

    public BurnLife Ends(
        string step,
        StepStatus status = StepStatus.Done,
        params (string Key, string Value)[] results
    ) =>
        Do(
            new BurnEvent.StepEnded(
                step,
                status,
                "as it came",
                results.Length == 0 ? null : results.ToDictionary(r => r.Key, r => r.Value)
            )
        );

    public BurnLife Replies(string text) => Do(On(EventKeys.Replied, "they replied", Now, ("text", text)));

    /// <summary>Lets time pass, waking where the burn asks for it, with every delivery done at once.</summary>
    public BurnLife Pass(Duration span)
    {
        var until = Now + span;
        for (var guard = 0; guard < 500; guard++)
        {
            foreach (var sent in State.Steps.Where(s => s.Status == StepStatus.Sent).ToList())
                Ends(sent.StepId);
            if (State.NextWake is not { } wake || wake > until)
                break;
            Now = Instant.Max(wake, Now);
            Do(new BurnEvent.Woken());
        }

        Now = until;
        return this;
    }

    public StepStatus? Step(string id) => State.Steps.LastOrDefault(s => s.StepId == id)?.Status;
}

public sealed class FuseLanguageTests
{
    private static readonly Instant Noon = At("24 12:00:00"); // a Tuesday

    private static Dictionary<string, IReadOnlyList<string>> Meaning(params string[] meanings) =>
        new() { ["meaning"] = meanings };

    private static Band OnReply(string id, string meaning, params Step[] steps) =>
        new(id, $"On {meaning}", new(EntryKind.On, Event: EventKeys.Replied, Only: Meaning(meaning)), steps);

    private static Band OnSilence(string id, string after, int seconds, params Step[] steps) =>
        new(id, "On silence", new(EntryKind.Silence, Of: after, ForSeconds: seconds), steps);

    private static Step Silently(string id, string kind, params (string Key, string Value)[] settings) =>
        new(id, kind, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private static FuseDefinition PickASlot =>
        Fuse(
            Whenever(
                Text("offer", words: "When? {{ choices }}") with
                {
                    Choices = ["Wednesday 10:00", "Thursday 15:00"],
                },
                Post("desk")
            ),
            OnReply("chose", "choice", Text("booked", words: "Noted: {{ reply.choice }}."), Post("booked-post")),
            OnReply("asked", "question", Post("answer")) with
            {
                EachTime = true,
            },
            OnSilence("remind", "offer", 3600, Text("reminder")),
            OnSilence("hand-over", "reminder", 7200, Post("hand"))
        );

    [Fact]
    public void A_choice_by_reply_stops_the_reminder_and_goes_on_in_its_own_band()
    {
        var life = new BurnLife(PickASlot, Noon).Ends("offer").Ends("desk");
        Assert.Equal(Noon + Duration.FromHours(1), life.State.NextWake);
        life.Now += Duration.FromMinutes(5);
        life.Replies("the second please");
        Assert.Equal(["offer", "desk", "booked", "booked-post"], life.Sent);
        Assert.Equal("Noted: Thursday 15:00.", life.Last.OfType<BurnEffect.Deliver>().First().Settings["words"]);
        Assert.Contains(life.Told, t => t.StartsWith("they chose Thursday 15:00", StringComparison.Ordinal));
        Assert.Empty(life.State.Silences);
        life.Pass(Duration.FromDays(2));
        Assert.DoesNotContain("reminder", life.Sent);
    }

    [Fact]
    public void Silence_reminds_once_and_then_hands_over()
    {
        var life = new BurnLife(PickASlot, Noon).Pass(Duration.FromHours(6));
        Assert.Equal(["offer", "desk", "reminder", "hand"], life.Sent);
        Assert.Contains(life.Told, t => t.StartsWith("no reply for 1 h after", StringComparison.Ordinal));
        Assert.Equal(BurnStatus.Listening, life.State.Status);
        life.Replies("2"); // late, and still heard
        Assert.Contains("booked", life.Sent);
        Assert.Equal(BurnStatus.Ended, life.Pass(Duration.FromDays(8)).State.Status);
        Assert.Empty(life.Do(On(EventKeys.Replied, "x", life.Now, ("text", "1"))).Last);
    }

    [Fact]
    public void A_band_entered_each_time_begins_its_clock_anew_under_new_keys()
    {
        var life = new BurnLife(PickASlot, Noon)
            .Ends("offer")
            .Ends("desk")
            .Replies("How much is it?")
            .Replies("And who comes?");
        var keys = life.All.OfType<BurnEffect.Deliver>().Where(d => d.StepId == "answer").Select(d => d.Key).ToList();
        Assert.Equal(2, keys.Distinct().Count());
        Assert.EndsWith(".e2", keys[1], StringComparison.Ordinal);
        life.Do(new BurnEvent.StepEnded("answer", StepStatus.Done, "took it", Key: keys[0]));
        Assert.Equal(1, life.State.Steps.Count(s => s is { StepId: "answer", Status: StepStatus.Sent }));
    }

    [Theory]
    [InlineData(StepStatus.Done, "sent", new[] { "post", "text", "by url" })]
    [InlineData(StepStatus.Done, "refused", new[] { "post" })]
    [InlineData(StepStatus.Failed, "sent", new[] { "post", "instead" })]
    public void A_rule_on_another_step_waits_for_its_result_and_goes_by_it(
        StepStatus ended,
        string answer,
        string[] sent
    )
    {
        static RuleSet Only(string field, string value) => new(RuleMatch.All, [new(field, RuleOp.OneOf, [value])]);
        var life = new BurnLife(
            Fuse(
                Whenever(
                    Post("post"),
                    Text("text") with
                    {
                        When = new(
                            RuleMatch.All,
                            [
                                new("steps.post.status", RuleOp.OneOf, ["done"]),
                                new("steps.post.answer", RuleOp.OneOf, ["sent"]),
                            ]
                        ),
                    },
                    Text("instead") with
                    {
                        When = Only("steps.post.status", "failed"),
                    },
                    Post("by url") with
                    {
                        When = Only("steps.post.answer", "sent"),
                    }
                )
            ),
            Noon
        );
        Assert.Equal(["post"], life.Sent);
        life.Now += Duration.FromMinutes(5);
        Assert.Empty(life.Do(new BurnEvent.Woken()).Last);
        life.Do(
            new BurnEvent.StepEnded(
                "post",
                ended,
                "as it came",
                ended == StepStatus.Failed ? null : new Dictionary<string, string> { ["answer"] = answer }
            )
        );
        Assert.Equal(sent, life.Sent);
    }

    [Fact]
    public void The_same_event_told_again_changes_nothing()
    {
        var life = new BurnLife(PickASlot, Noon).Ends("offer").Ends("desk");
        var reply = new BurnEvent.Happened(
            LeadEvent.Of(EventKeys.Replied, Noon, "x", ("text", "1")) with
            {
                Key = "text-7",
            }
        );
        life.Do(reply);
        Assert.Equal(2, life.Last.OfType<BurnEffect.Deliver>().Count());
        var state = life.State;
        Assert.Empty(life.Do(reply).Last);
        Assert.Equal(state.Steps[0], life.State.Steps[0]);
        Assert.Empty(life.Ends("offer", StepStatus.Failed).Last); // it ended before
    }

    [Fact]
    public void Stop_ends_lead_and_team_and_what_lights_more_but_what_only_notes_something_goes_on()
    {
        var life = new BurnLife(
            Fuse(
                Whenever(
                    Text("later", 600),
                    Post("chaser", 600),
                    Silently("tag", StepKinds.Tag, ("tag", "cold")) with
                    {
                        Moment = StepMoment.After(600),
                    },
                    Silently("more", StepKinds.LightFuse, ("fuse", "x")) with
                    {
                        Moment = StepMoment.After(600),
                    }
                ),
                new Band("end", "After that", new(EntryKind.End, Of: "always"), [Post("never")])
            ),
            Noon
        );
        life.Do(On(EventKeys.Touched, "Imke rang them", Noon));
        Assert.Equal(
            (StepStatus.Cancelled, StepStatus.Cancelled, StepStatus.Waiting, StepStatus.Cancelled),
            (life.Step("later")!.Value, life.Step("chaser")!.Value, life.Step("tag")!.Value, life.Step("more")!.Value)
        );
        life.Pass(Duration.FromHours(1));
        Assert.Equal("cold", life.All.OfType<BurnEffect.Do>().Single().Settings["tag"]);
        Assert.DoesNotContain("never", life.Sent); // a band cut short leads nowhere
        Assert.Equal(BurnStatus.Ended, life.State.Status);
    }

    [Theory]
    [InlineData(StepStatus.Cancelled)] // called back before it went
    [InlineData(StepStatus.Done)] // it was being sent already
    [InlineData(StepStatus.Failed)]
    public void After_a_stop_what_was_under_way_leads_on_to_no_word_to_the_lead(StepStatus ended)
    {
        var life = new BurnLife(
            Fuse(
                Whenever(
                    Text("first") with
                    {
                        OnFailure = new(Next: FailureThen.Instead, Step: "instead"),
                    },
                    Text("instead")
                ),
                new Band("end", "After that", new(EntryKind.End, Of: "always"), [Text("more"), Post("chase")]),
                new Band("silence", "Silence", new(EntryKind.Silence, Of: "first", ForSeconds: 60), [Text("nudge")]),
                new Band(
                    "failed",
                    "Failed",
                    new(EntryKind.Failed, Of: "first"),
                    [Text("by other means"), Post("tell")]
                ),
                new Band(
                    "record",
                    "Record",
                    new(EntryKind.Always),
                    [Silently("note", StepKinds.Tag, ("tag", "{{ steps.first.status }}x"))]
                )
            ),
            Noon
        );
        Assert.Equal(["first"], life.Sent);
        life.Do(On(EventKeys.Touched, "Imke rang them", Noon)).Ends("first", ended).Pass(Duration.FromDays(3));
        Assert.Equal(ended == StepStatus.Failed ? ["first", "tell"] : ["first"], life.Sent); // that a message failed is still worth telling the team
        Assert.Equal(StepStatus.Done, life.Step("note")); // the record waited for it, and goes on
        Assert.Equal(BurnStatus.Ended, life.State.Status);
    }

    [Fact]
    public void After_a_stop_the_record_goes_on_from_band_to_band_without_a_word()
    {
        var life = new BurnLife(
            Fuse(
                Whenever(Silently("stage", StepKinds.Tag, ("tag", "came")) with { Moment = StepMoment.After(600) }),
                new Band(
                    "end",
                    "After that",
                    new(EntryKind.End, Of: "always"),
                    [Text("speak"), Post("chase"), Silently("note", StepKinds.Tag, ("tag", "noted"))]
                )
            ),
            Noon
        );
        life.Do(On(EventKeys.Touched, "Imke rang them", Noon)).Pass(Duration.FromDays(1));
        Assert.Equal(
            (StepStatus.Cancelled, StepStatus.Cancelled, StepStatus.Done),
            (life.Step("speak")!.Value, life.Step("chase")!.Value, life.Step("note")!.Value)
        );
    }

    [Theory]
    [InlineData("big fleet", true)]
    [InlineData("small", false)]
    public void A_stop_rule_can_pick_by_detail(string tag, bool stops)
    {
        var fuse = Fuse(Whenever(Text("later", 600))) with
        {
            StopOn = [new(EventKeys.Tagged, new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["Big Fleet"] })],
        };
        Assert.Equal(
            stops ? StepStatus.Cancelled : StepStatus.Waiting,
            new BurnLife(fuse, Noon).Do(On(EventKeys.Tagged, "x", Noon, ("tag", tag))).Step("later")
        );
    }

    [Fact]
    public void All_that_hold_or_the_first_that_holds()
    {
        var second = new Band(
            "known",
            "Known",
            new(EntryKind.When, new(RuleMatch.All, [new("first_name", RuleOp.Filled, [])])),
            [Post("known")]
        );
        Assert.Equal(["text", "known"], new BurnLife(Fuse(Big(Text("text")), second), Noon).Sent);
        var first = new BurnLife(Fuse(Big(Text("text")), second) with { BandChoice = BandChoice.First }, Noon);
        Assert.Equal(["text"], first.Sent);
        Assert.Contains("an earlier band's rules held, and only the first is taken", first.Told);
    }

    [Fact]
    public void A_step_that_uses_a_result_waits_for_it_and_the_rest_goes_out_together()
    {
        var fuse = Fuse(
            Whenever(Post("task"), Post("link") with { Settings = Posting("See {{ steps.task.url }}") }, Text("text"))
        );
        var life = new BurnLife(fuse, Noon);
        Assert.Equal(["task", "text"], life.Sent);
        Assert.Null(life.State.NextWake); // nothing to wake for: the result wakes it
        life.Ends("task", StepStatus.Done, ("url", "http://127.0.0.1/post-7"));
        Assert.Equal("See http://127.0.0.1/post-7", life.Last.OfType<BurnEffect.Deliver>().Single().Settings["words"]);
    }

    [Fact]
    public void Without_the_result_it_goes_out_all_the_same_blank()
    {
        var fuse = Fuse(
            Whenever(
                Post("task"),
                Post("link") with
                {
                    Settings = Posting("See {{ steps.task.url | default: \"the desk\" }}"),
                }
            )
        );
        Assert.Equal(
            "See the desk",
            new BurnLife(fuse, Noon)
                .Ends("task", StepStatus.Failed)
                .Last.OfType<BurnEffect.Deliver>()
                .Single()
                .Settings["words"]
        );
    }

    [Fact]
    public void A_condition_passes_a_step_over_and_says_why()
    {
        var life = new BurnLife(
            Fuse(Whenever(Post("vip") with { When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]) })),
            Noon,
            Lead("4–9")
        );
        Assert.Empty(life.Sent);
        Assert.Contains("not taken, because fleet size was 4–9, not 25+", life.Told);
    }

    [Theory]
    [InlineData(1, true)]
    [InlineData(30, false)]
    public void Who_asked_long_ago_and_is_found_today_can_be_spared_a_text(int hours, bool sent)
    {
        var fuse = Fuse(
            Whenever(
                Text("hello") with
                {
                    When = new(RuleMatch.All, [new(Facts.HoursSinceAsked, RuleOp.AtMost, ["12"])]),
                },
                Post("desk")
            )
        );
        var life = new BurnLife(fuse, Noon, Lead() with { AskedAt = Noon - Duration.FromHours(hours) });
        Assert.Equal(sent ? ["hello", "desk"] : ["desk"], life.Sent);
        if (!sent)
            Assert.Contains("not taken, because hours since they asked was 30, not at most 12", life.Told);
    }

    [Fact]
    public void What_fails_can_stop_tell_or_be_replaced()
    {
        Step Failing(FailureThen then) =>
            Post("p") with
            {
                OnFailure = new(RetryProfile.Quick, then, "owner", "other"),
            };
        FuseDefinition With(FailureThen then) =>
            Fuse(
                Whenever(Failing(then), Post("other"), Text("later", 600)),
                new Band("broken", "Broken", new(EntryKind.Failed, Of: "p"), [Post("cry")])
            );
        var goOn = new BurnLife(With(FailureThen.GoOn), Noon).Ends("p", StepStatus.Failed);
        Assert.Equal(["p", "other", "cry"], goOn.Sent);
        Assert.Equal(RetryProfile.Quick, goOn.All.OfType<BurnEffect.Deliver>().First().Retry);
        Assert.Equal(
            StepStatus.Cancelled,
            new BurnLife(With(FailureThen.Stop), Noon).Ends("p", StepStatus.Failed).Step("later")
        );
        Assert.Equal(
            "owner",
            new BurnLife(With(FailureThen.Tell), Noon)
                .Ends("p", StepStatus.Failed)
                .Last.OfType<BurnEffect.Notify>()
                .Single()
                .Person
        );
        var instead = new BurnLife(With(FailureThen.Instead), Noon);
        Assert.Equal(["p"], instead.Sent); // what stands in is done only then
        Assert.Equal(["p", "other", "cry"], instead.Ends("p", StepStatus.Failed).Sent);
    }

    [Fact]
    public void A_person_replays_a_failure_with_what_stopped_because_of_it()
    {
        var life = new BurnLife(
            Fuse(Whenever(Post("p") with { OnFailure = new(Next: FailureThen.Stop) }, Text("later", 600))),
            Noon
        ).Ends("p", StepStatus.Failed);
        life.Now += Duration.FromMinutes(30);
        life.Do(new BurnEvent.Replayed("p", "Noor has it done again"));
        Assert.EndsWith(".t2", life.Last.OfType<BurnEffect.Deliver>().Single().Key, StringComparison.Ordinal);
        Assert.Equal(life.Now + Duration.FromMinutes(10), life.State.Steps.Single(s => s.StepId == "later").DueAt);
    }

    [Fact]
    public void Held_waits_for_a_person_and_skipped_is_left_out()
    {
        var life = new BurnLife(
            Fuse(
                Whenever(
                    Silently("hold", StepKinds.Hold, ("words", "Check the depot")),
                    Text("text", 60),
                    Post("post", 60)
                )
            ),
            Noon
        );
        Assert.Equal("Check the depot", life.State.Held);
        Assert.Empty(life.Pass(Duration.FromHours(1)).Sent);
        life.Do(new BurnEvent.Skipped("post", "Imke left it out")).Do(new BurnEvent.LetGo("Imke let it go on"));
        Assert.Equal(["text"], life.Sent);
    }

    [Fact]
    public void An_event_that_never_arrived_enters_the_band_for_failures()
    {
        var life = new BurnLife(
            Fuse(
                Whenever(Text("text")),
                new Band("broken", "Broken", new(EntryKind.Failed, Of: "text"), [Post("cry")]),
                OnReply("r", "yes", Post("y"))
            ),
            Noon
        ).Ends("text");
        Assert.Equal(
            ["text", "cry"],
            life.Do(On(EventKeys.DeliveryFailed, "the carrier could not deliver it", Noon, ("step", "text"))).Sent
        );
    }

    [Fact]
    public void A_band_is_entered_a_bounded_number_of_times_and_says_so()
    {
        var fuse = Fuse(
            Whenever(Post("p")),
            new Band(
                "two",
                "Two",
                new(EntryKind.On, Event: EventKeys.Tagged),
                [Silently("b", StepKinds.Tag, ("tag", "x"))],
                EachTime: true
            ),
            new Band(
                "three",
                "Three",
                new(EntryKind.End, Of: "two"),
                [Silently("c", StepKinds.Untag, ("tag", "x"))],
                EachTime: true
            )
        );
        var life = new BurnLife(fuse, Noon);
        for (var i = 0; i < 150; i++)
            life.Do(On(EventKeys.Tagged, "x", Noon, ("tag", "t")));
        Assert.Equal(Decider.MostEntries + 1, life.State.Bands.Single(b => b.BandId == "two").Entry);
        Assert.Equal(2 * Decider.MostEntries, life.All.OfType<BurnEffect.Do>().Count());
        Assert.Single(life.Told, t => t.Contains("that is all there is of one burn", StringComparison.Ordinal));
        Assert.Equal(3, life.State.Steps.Count); // bounded by the fuse, not by what happened
    }

    [Theory]
    [InlineData(0, 0, false, null, "24 12:00:00")]
    [InlineData(600, 0, false, null, "24 12:10:00")]
    [InlineData(0, 1, false, "09:30", "25 09:30:00")]
    [InlineData(0, 0, false, "09:30", "25 09:30:00")] // it has passed today
    [InlineData(0, 0, false, "15:00", "24 15:00:00")]
    [InlineData(0, 3, true, "09:00", "27 09:00:00")] // Tuesday and three working days
    [InlineData(0, 4, true, "09:00", "30 09:00:00")] // over the weekend
    [InlineData(0, 2, false, null, "26 12:00:00")]
    public void A_moment_on_the_band_s_clock(int after, int days, bool working, string? at, string meant) =>
        Assert.Equal(
            At(meant),
            new StepMoment(after, days, working, at).On(Noon, At("20 12:00:00"), London, Lead().WorkHours)
        );

    [Theory]
    [InlineData("at once", 0, 0, false, null, MomentFrom.Band)]
    [InlineData("after 10 min", 600, 0, false, null, MomentFrom.Band)]
    [InlineData("next day at 09:30", 0, 1, false, "09:30", MomentFrom.Band)]
    [InlineData("12 working days from submission", 0, 12, true, null, MomentFrom.Submission)]
    [InlineData("9 days after at 09:30", 0, 9, false, "09:30", MomentFrom.Band)]
    public void A_moment_is_said_as_it_is_meant(
        string said,
        int after,
        int days,
        bool working,
        string? at,
        MomentFrom from
    ) => Assert.Equal(said, new StepMoment(after, days, working, at, from).Say());

    [Fact]
    public void Days_from_the_submission_do_not_wait_for_the_band()
    {
        var fuse = Fuse(
            Whenever(
                Post("due") with
                {
                    Moment = new(Days: 3, Working: true, At: "09:00", From: MomentFrom.Submission),
                }
            )
        );
        Assert.Equal(At("23 09:00:00"), new BurnLife(fuse, At("20 12:00:00"), asked: At("18 10:00:00")).State.NextWake);
    }

    [Theory]
    [InlineData(HoursKind.Send, OutsideHours.Wait, "24 23:00:00", "25 08:00:00")]
    [InlineData(HoursKind.Send, OutsideHours.Skip, "24 23:00:00", null)]
    [InlineData(HoursKind.Send, OutsideHours.Send, "24 21:00:00", "24 21:00:00")]
    [InlineData(HoursKind.Send, OutsideHours.Send, "24 23:00:00", "25 07:00:00")] // the law's hours hold whatever the fuse says
    [InlineData(HoursKind.None, OutsideHours.Wait, "24 23:30:00", "25 07:00:00")]
    [InlineData(HoursKind.Working, OutsideHours.Wait, "27 19:00:00", "30 08:00:00")]
    [InlineData(HoursKind.Own, OutsideHours.Wait, "24 12:00:00", "24 14:00:00")]
    public void Send_hours_and_what_to_do_outside_them(HoursKind kind, OutsideHours outside, string now, string? goes)
    {
        var hours = new StepHours(kind, outside, "14:00", "16:00");
        var life = new BurnLife(
            Fuse(Whenever(Text("text") with { Hours = hours })) with
            {
                AgeLimitHours = 80,
            },
            At(now)
        );
        if (goes is null)
        {
            Assert.Equal(StepStatus.Cancelled, life.Step("text"));
            return;
        }

        if (At(goes) > life.Now)
            life.Pass(At(goes) - life.Now);
        Assert.Equal(["text"], life.Sent);
        Assert.Equal(At(goes), life.Now);
    }

    [Fact]
    public void A_letter_may_go_at_night_where_the_step_says_so_and_a_text_may_not()
    {
        var letter = new Step(
            "letter",
            "Letter",
            StepKinds.Email,
            StepMoment.AtOnce,
            new Dictionary<string, string> { ["subject"] = "We have it", ["words"] = "Hello." },
            Hours: new(HoursKind.None)
        );
        Assert.Equal(
            ["letter"],
            new BurnLife(
                Fuse(Whenever(letter, Text("text") with { Hours = new(HoursKind.None) })),
                At("24 23:30:00")
            ).Sent
        );
        Assert.Empty(new BurnLife(Fuse(Whenever(letter)), At("24 12:00:00"), Lead() with { HasEmail = false }).Sent);
    }

    [Theory]
    [InlineData("take", "Ines asked.", true)]
    [InlineData("lead,take", "/leads/1", true)]
    [InlineData("lead,fuse", "/fuses/2", false)]
    public void The_link_to_take_a_lead_is_left_to_who_sends_the_post(string links, string ends, bool takes)
    {
        var facts = Lead().Words with
        {
            Lead = new Dictionary<string, string> { ["name"] = "Ines", ["link"] = "http://x/leads/1" },
            Fuse = new Dictionary<string, string> { ["link"] = "http://x/fuses/2" },
        };
        var filled = CompiledFuse
            .Fill(
                Post("p") with
                {
                    Settings = new Dictionary<string, string>(Posting("{{ lead.name }} asked.")) { ["links"] = links },
                },
                facts,
                StepCatalog.Plain
            )
            .Settings;
        Assert.EndsWith(ends, filled["words"], StringComparison.Ordinal);
        Assert.Equal((takes, false), (filled.ContainsKey(StepKinds.TakeLink), filled.ContainsKey("links")));
    }

    [Fact]
    public void Another_version_takes_a_burn_over_with_what_is_done_done()
    {
        var before = Fuse(Whenever(Post("p"), Text("later", 3600), Text("gone", 7200)));
        var after = Fuse(Whenever(Post("p"), Text("later", 1800), Text("new", 10_800), Text("too-late", 10)));
        var life = new BurnLife(before, Noon).Ends("p");
        life.Now += Duration.FromMinutes(10);
        var moved = FuseMove.To(CompiledFuse.From(before), CompiledFuse.From(after), life.State, life.Lead, life.Now);
        Assert.Equal(["p", "later", "new"], moved.State.Steps.Select(s => s.StepId));
        Assert.Equal(Noon + Duration.FromMinutes(30), moved.State.Steps[1].DueAt);
        Assert.Equal(
            [
                "Text: someone is on it is due in 20 min instead of in 50 min",
                "Text: someone is on it is not done any more",
                "Text: someone is on it is new, due in 3 h",
                "Text: someone is on it is new, and its time has passed",
            ],
            moved.Changes.Select(c => $"{c.Step} {c.Words}")
        );
    }

    [Theory]
    [InlineData("25+", true, null)]
    [InlineData("4–9", false, "fleet size was 4–9, not 25+")]
    public void A_way_of_lighting_has_its_own_rules(string fleet, bool lit, string? not)
    {
        var fuse = CompiledFuse.From(
            Fuse(Whenever(Post("p"))) with
            {
                LitBy =
                [
                    new(
                        EventKeys.Submission,
                        OnForm("a"),
                        new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])
                    ),
                ],
            }
        );
        var (by, because) = fuse.LitByAny(
            [LeadEvent.Of(EventKeys.Submission, Noon, "x", ("form", "a"))],
            Lead(fleet).ForGuards(Noon)
        );
        Assert.Equal((lit, not), (by is not null, because));
        Assert.Equal(
            (null, null),
            fuse.LitByAny([LeadEvent.Of(EventKeys.Submission, Noon, "x", ("form", "b"))], Lead(fleet).ForGuards(Noon))
        );
    }

    [Fact]
    public void They_come_to_match_only_when_they_did_not_before()
    {
        var fuse = CompiledFuse.From(
            Fuse(Whenever(Post("p"))) with
            {
                LitBy =
                [
                    new(EventKeys.CameToMatch, When: new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])),
                ],
            }
        );
        bool Lit(string before) =>
            fuse.LitByAny(
                [
                    LeadEvent.Of(EventKeys.CameToMatch, Noon, "x") with
                    {
                        FieldsBefore = new Dictionary<string, string> { ["fleet_size"] = before },
                    },
                ],
                Lead("25+").ForGuards(Noon)
            ).LitBy
                is not null;
        Assert.True(Lit("4–9"));
        Assert.False(Lit("25+"));
    }

    [Fact]
    public void A_file_of_the_first_shape_is_read_as_one_of_this()
    {
        const string old =
            """{"schema":1,"name":"Tell the desk","litBy":[{"event":"submission","forms":["brackenwheel-test-ride"]}],"relight":"once","ageLimitHours":12,"stopOn":["touched","opted-out"],"bands":[{"id":"b","name":"Always","entry":{"kind":"always"},"steps":[{"id":"s","name":"Post","kind":"channel-post","afterSeconds":60,"settings":{"channel":"#ride-desk","words":"x"}}]}]}""";
        var fuse = FuseFile.Parse(old).Fuse!;
        Assert.Equal((2, 60, Relight.Once), (fuse.Schema, fuse.Bands[0].Steps[0].Moment.AfterSeconds, fuse.Relight));
        Assert.Equal(["touched", "opted-out"], fuse.StopOn.Select(s => s.Event));
        Assert.Equal("brackenwheel-test-ride", fuse.LitBy[0].Only!["form"][0]);
        Assert.Empty(FuseFaults.Find(fuse, Around()));
    }

    [Fact]
    public void Words_that_were_other_ones_are_read_as_what_they_are_now()
    {
        const string old =
            """{"schema":2,"name":"Write to them","litBy":[{"event":"submission"}],"bands":[{"id":"b","name":"Always","entry":{"kind":"always"},"steps":[{"id":"s","name":"Letter","kind":"letter","moment":{},"settings":{"subject":"letter","words":"struck"}},{"id":"t","name":"Team","kind":"team-letter","moment":{},"settings":{},"when":{"match":"all","rules":[],"groups":[{"match":"any","rules":[{"field":"steps.s.status","op":"one-of","values":["failed","struck"]},{"field":"cargo","op":"one-of","values":["struck"]}]}]}}]}]}""";
        var (fuse, fault) = FuseFile.Parse(old);
        Assert.Null(fault);
        var steps = fuse!.Bands[0].Steps;
        Assert.Equal([StepKinds.Email, StepKinds.TeamEmail], steps.Select(s => s.Kind));
        // What people wrote is theirs.
        Assert.Equal(("letter", "struck"), (steps[0].Settings["subject"], steps[0].Settings["words"]));
        var rules = steps[1].When!.Groups![0].Rules;
        Assert.Equal(["failed", "cancelled"], rules[0].Values);
        Assert.Equal(["struck"], rules[1].Values);
    }

    [Theory]
    [InlineData("[]", "a fuse is an object")]
    [InlineData("{", "it is not a fuse")]
    [InlineData("{\"schema\": 2,\n\"name\" 5}", "(line 2)")]
    [InlineData(
        """{"schema": 2, "name": 5, "litBy": [], "bands": []}""",
        "at name, a value is of another kind than belongs there"
    )]
    [InlineData("""{"schema": 2, "name": "x", "litBy": []}""", "it lacks 'bands'")]
    [InlineData(
        """{"schema": 2, "name": "x", "litBy": [], "bands": [{"id": "b", "name": "B", "entry": {"kind": "sometimes"}, "steps": []}]}""",
        "at bands[0].entry.kind, a value"
    )]
    [InlineData("""{"schema":9}""", "reads versions up to 2")]
    [InlineData("""{"schema":"2","name":"x","litBy":[],"bands":[]}""", "a whole number such as 2; it is \"2\"")]
    [InlineData("""{"schema":0,"name":"x","litBy":[],"bands":[]}""", "a whole number such as 2; it is 0")]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[],"priority":1}""",
        "'priority' is no key that is known here"
    )]
    [InlineData("""{"schema":2,"name":"x","Name":"y","litBy":[],"bands":[]}""", "'Name' is no key that is known here")]
    [InlineData("""{"schema":2,"name":"x","name":"y","litBy":[],"bands":[]}""", "'name' is there twice")]
    [InlineData("""{"schema":2,"name":null,"litBy":[],"bands":[]}""", "nothing (null) stands where something belongs")]
    [InlineData("""{"schema":2,"name":"x","litBy":[null],"bands":[]}""", "entry 1 of 'litBy' is nothing (null)")]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[{"event":"submission","only":{"form":[null]}}],"bands":[]}""",
        "null"
    )]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[{"id":"b","name":"B","entry":{"kind":"always"}}]}""",
        "at bands[0], it lacks 'steps'"
    )]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[{"id":"b","name":"B","steps":[]}]}""",
        "at bands[0], it lacks 'entry'"
    )]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[{"id":"b","name":"B","entry":{},"steps":[]}]}""",
        "at bands[0].entry, it lacks 'kind'"
    )]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[{"id":"b","name":"B","entry":{"kind":"always"},"steps":[{"id":"s","name":"S","kind":"text","moment":{}}]}]}""",
        "at bands[0].steps[0], it lacks 'settings'"
    )]
    [InlineData(
        """{"schema":2,"name":"x","litBy":[],"bands":[{"id":"b","name":"B","entry":{"kind":"when","rules":{"match":"all","rules":[{"field":"fleet_size","op":"one-of","values":[],"then":1}]}},"steps":[]}]}""",
        "'then' is no key that is known here"
    )]
    public void A_file_that_is_none_says_where(string text, string fault) =>
        Assert.Contains(fault, FuseFile.Parse(text).Fault, StringComparison.Ordinal);

    [Fact]
    public void An_old_burn_goes_on()
    {
        const string old =
            """{"burnId":"01a20fdf-9ae5-78c5-bc7b-b98a165a069e","status":"burning","submittedAt":"2026-11-24T12:00:00Z","litAt":"2026-11-24T12:00:00Z","steps":[{"bandId":"always","stepId":"later","status":"waiting","plannedAt":"2026-11-24T12:10:00Z","dueAt":"2026-11-24T12:10:00Z"}],"nextWake":"2026-11-24T12:10:00Z"}""";
        var state = System.Text.Json.JsonSerializer.Deserialize<BurnState>(old, CoreJson.Options)!;
        var woken = Decider.Decide(
            CompiledFuse.From(Fuse(Whenever(Post("later", 600)))),
            state,
            new BurnEvent.Woken(),
            Lead(),
            At("24 12:10:00")
        );
        Assert.Equal("later", woken.Effects.OfType<BurnEffect.Deliver>().Single().StepId);
    }

    [Fact]
    public void What_a_fuse_says_of_itself()
    {
        Assert.Equal(
            "Always: text the lead at once, post in #ride-desk at once. On a reply that means choice: text the lead at once, post in #ride-desk at once. On a reply that means question: post in #ride-desk at once. On silence for 1 h after “Text: someone is on it”: text the lead at once. On silence for 2 h after “Text: someone is on it”: post in #ride-desk at once.",
            FuseSentence.Say(PickASlot)
        );
        Assert.Equal(
            "a date is reached 7 days before start month at 09:00, when fleet size is 25+",
            FuseSentence.SayLitBy(
                new(
                    EventKeys.DateReached,
                    When: new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]),
                    Timer: new("09:00", "start_month", -7)
                ),
                EventCatalog.Plain
            )
        );
    }

    [Fact]
    public void A_feature_brings_its_own_events()
    {
        var catalog = new EventCatalog([
            new("call-ended", "a call ends", [new("outcome", "as")], EventUse.Light | EventUse.Enter),
        ]);
        var fuse = Fuse(Whenever(Post("p"))) with
        {
            LitBy = [new("call-ended", new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = ["no answer"] })],
        };
        Assert.Empty(FuseFaults.Find(fuse, Around() with { Events = catalog }));
        Assert.NotNull(
            CompiledFuse
                .From(fuse)
                .LitByAny([LeadEvent.Of("call-ended", Noon, "x", ("outcome", "No answer"))], Lead().ForGuards(Noon))
                .LitBy
        );
        Assert.Throws<ArgumentException>(() => new EventCatalog([new(EventKeys.Tagged, "again", [], EventUse.Light)]));
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Stories;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

public sealed class DeciderTests
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static Decision Light(
        FuseDefinition fuse,
        LeadFacts? lead = null,
        Instant? now = null,
        Instant? asked = null
    ) =>
        Decider.Decide(
            CompiledFuse.From(fuse),
            NewBurn(asked ?? now ?? Noon, now ?? Noon),
            new BurnEvent.Lit(),
            lead ?? Lead(),
            now ?? Noon
        );

    private static List<string> Sent(Decision d) => [.. d.Effects.OfType<BurnEffect.Deliver>().Select(e => e.StepId)];

    private static List<StoryKind> Told(Decision d) => [.. d.Effects.OfType<BurnEffect.Tell>().Select(e => e.Kind)];

    [Fact]
    public void What_is_due_at_the_same_moment_goes_out_together()
    {
        var lit = Light(Fuse(Whenever(Post("post")), Big(Text("text"))));
        Assert.Equal(["post", "text"], Sent(lit));
        Assert.Equal([StoryKind.BandLit, StoryKind.BandLit], Told(lit));
        Assert.Null(lit.NextWake);
    }

    [Fact]
    public void The_words_go_out_with_the_answers_in_them_under_a_key_of_their_own()
    {
        var deliver = Light(Fuse(Big(Text("text")))).Effects.OfType<BurnEffect.Deliver>().Single();
        Assert.Equal("Ines, we have it.", deliver.Settings["words"]);
        Assert.Equal("01a20fdf9ae578c5bc7bb98a165a069e.big.text", deliver.Key);
    }

    [Theory]
    [InlineData("4–9", "post,other")]
    [InlineData("25+", "post,text")]
    public void Otherwise_is_for_whom_no_when_held(string fleet, string sent) =>
        Assert.Equal(
            sent,
            string.Join(
                ',',
                Sent(Light(Fuse(Whenever(Post("post")), Big(Text("text")), Otherwise(Post("other"))), Lead(fleet)))
            )
        );

    [Fact]
    public void A_later_step_waits_for_its_time_and_is_sent_once()
    {
        var fuse = Fuse(Whenever(Post("now"), Post("later", 60)));
        var lit = Light(fuse);
        Assert.Equal(["now"], Sent(lit));
        Assert.Equal(Noon + Duration.FromMinutes(1), lit.NextWake);

        var early = Decider.Decide(
            CompiledFuse.From(fuse),
            lit.State,
            new BurnEvent.Woken(),
            Lead(),
            Noon + Duration.FromSeconds(59)
        );
        Assert.Empty(early.Effects);
        var due = Decider.Decide(
            CompiledFuse.From(fuse),
            early.State,
            new BurnEvent.Woken(),
            Lead(),
            Noon + Duration.FromSeconds(60)
        );
        Assert.Equal(["later"], Sent(due));
        Assert.Empty(
            Sent(
                Decider.Decide(
                    CompiledFuse.From(fuse),
                    due.State,
                    new BurnEvent.Woken(),
                    Lead(),
                    Noon + Duration.FromSeconds(61)
                )
            )
        );
    }

    [Fact]
    public void At_night_the_text_waits_for_the_morning_and_the_team_hears_at_once()
    {
        var fuse = Fuse(Whenever(Post("post")), Big(Text("text")));
        var night = Light(fuse, now: At("24 23:10:00"));
        Assert.Equal(["post"], Sent(night));
        Assert.Contains(StoryKind.StepWaits, Told(night));
        Assert.Equal(At("25 08:00:00"), night.NextWake);
        Assert.Equal(
            ["text"],
            Sent(Decider.Decide(CompiledFuse.From(fuse), night.State, new BurnEvent.Woken(), Lead(), At("25 08:00:00")))
        );
        var optedOut = Decider.Decide(
            CompiledFuse.From(fuse),
            night.State,
            new BurnEvent.Woken(),
            Lead(optedOut: true),
            At("25 08:00:00")
        );
        Assert.Empty(Sent(optedOut));
        Assert.Equal([StoryKind.StepCancelled], Told(optedOut));
    }

    [Fact]
    public void A_submission_that_comes_late_speaks_to_the_team_but_no_more_to_the_lead()
    {
        var late = Light(Fuse(Whenever(Post("post")), Big(Text("text"))), asked: At("22 12:00:00"));
        Assert.Equal(["post"], Sent(late));
        Assert.Equal("48 h late; the age limit is 24 h", late.State.Steps.Single(s => s.StepId == "text").Reason);
    }

    [Fact]
    public void First_touch_strikes_what_waits_and_takes_back_what_has_not_gone()
    {
        var fuse = Fuse(Whenever(Post("post"), Post("chaser", 300)), Big(Text("text")));
        var lit = Light(fuse);
        var stop = Decider.Decide(
            CompiledFuse.From(fuse),
            lit.State,
            On(EventKeys.Touched, "Imke Sandoval reached out", Noon),
            Lead(),
            Noon + Duration.FromSeconds(30)
        );
        Assert.Equal(("Imke Sandoval reached out", BurnStatus.Burning), (stop.State.Stop, stop.State.Status)); // the post is under way
        Assert.Equal([StoryKind.BurnStopped, StoryKind.StepCancelled], Told(stop));
        Assert.Equal(["text"], stop.Effects.OfType<BurnEffect.Withdraw>().Select(w => w.StepId));
        Assert.Null(stop.NextWake);
        Assert.Empty(
            Decider
                .Decide(
                    CompiledFuse.From(fuse),
                    stop.State,
                    On(EventKeys.Touched, "again", Noon),
                    Lead(),
                    Noon + Duration.FromSeconds(31)
                )
                .Effects
        );
    }

    [Fact]
    public void A_fuse_that_does_not_stop_on_touch_goes_on()
    {
        var fuse = Fuse(Whenever(Post("chaser", 300))) with { StopOn = [new(EventKeys.OptedOut)] };
        var stop = Decider.Decide(
            CompiledFuse.From(fuse),
            Light(fuse).State,
            On(EventKeys.Touched, "x", Noon),
            Lead(),
            Noon
        );
        Assert.Equal(BurnStatus.Burning, stop.State.Status);
        Assert.Empty(stop.Effects);
    }

    [Fact]
    public void When_all_deliveries_have_ended_the_burn_has_and_says_how()
    {
        var fuse = CompiledFuse.From(Fuse(Whenever(Post("post")), Big(Text("text"))));
        var state = Light(Fuse(Whenever(Post("post")), Big(Text("text")))).State;
        state = Decider
            .Decide(fuse, state, new BurnEvent.StepEnded("post", StepStatus.Done, "took it"), Lead(), Noon)
            .State;
        Assert.Equal(BurnStatus.Burning, state.Status);
        var last = Decider.Decide(
            fuse,
            state,
            new BurnEvent.StepEnded("text", StepStatus.Failed, "refused"),
            Lead(),
            Noon
        );
        Assert.Equal(BurnStatus.Ended, last.State.Status);
        Assert.Equal("steps: 1 done, 1 failed", last.Effects.OfType<BurnEffect.Tell>().Single().Words);
    }

    [Fact]
    public void A_fuse_whose_bands_are_all_passed_by_ends_at_once()
    {
        var lit = Light(Fuse(Big(Text("text"))), Lead("1–3"));
        Assert.Equal(BurnStatus.Ended, lit.State.Status);
        Assert.Equal([StoryKind.BandPassed, StoryKind.BurnEnded], Told(lit));
    }

    [Theory]
    [InlineData("{{ lead.nickname }}", "no words left")]
    [InlineData("{% for i in (1..900) %}ab{% endfor %}", "segments")]
    public void Words_that_cannot_be_sent_fail_that_step_alone(string words, string because)
    {
        var lit = Light(Fuse(Whenever(Post("post")), Big(Text("text", words: words))));
        Assert.Equal(["post"], Sent(lit));
        Assert.Contains(because, lit.State.Steps.Single(s => s.StepId == "text").Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void A_rehearsal_runs_to_the_end_on_a_virtual_clock()
    {
        var fuse = CompiledFuse.From(Fuse(Whenever(Post("post"), Post("chaser", 300)), Big(Text("text"))));
        var run = Rehearser.Run(
            fuse,
            NewBurn(Noon),
            Lead(),
            [
                new(
                    Noon + Duration.FromSeconds(100),
                    On(EventKeys.Touched, "Imke called", Noon + Duration.FromSeconds(100))
                ),
            ],
            (_, _) => new(Duration.FromMilliseconds(40), StepStatus.Done, "took it"),
            Noon + Duration.FromDays(1)
        );
        Assert.Equal(BurnStatus.Ended, run.State.Status);
        Assert.Equal(
            ["post", "text"],
            run.Moments.Select(m => m.Effect).OfType<BurnEffect.Deliver>().Select(d => d.StepId)
        );
        Assert.Equal(run.Moments.Select(m => m.At).Order(), run.Moments.Select(m => m.At));
    }

    [Fact]
    public void A_state_goes_to_JSON_and_back_unchanged()
    {
        var state = Light(Fuse(Whenever(Post("post"), Post("later", 60)), Big(Text("text")))).State;
        var text = System.Text.Json.JsonSerializer.Serialize(state, CoreJson.Options);
        var back = System.Text.Json.JsonSerializer.Deserialize<BurnState>(text, CoreJson.Options)!;
        Assert.Equal(state.Steps, back.Steps);
        Assert.Equal(text, System.Text.Json.JsonSerializer.Serialize(back, CoreJson.Options));
    }

    [Fact]
    public void The_schema_of_a_fuse_is_the_one_written_down()
    {
        var path = Path.Combine(Root.Path, "src/LitFuse.Core/Fuses/Definition/fuse.schema.json");
        if (Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1")
            File.WriteAllText(path, FuseSchema.Text());
        Assert.Equal(FuseSchema.Text(), File.ReadAllText(path)); // LITFUSE_WRITE=1 writes it anew
    }

    [Theory]
    [InlineData(5, "Ines Calloway asked.")]
    [InlineData(45, "(45 min old) Ines Calloway asked.")]
    [InlineData(300, "(5 h old) Ines Calloway asked.")]
    [InlineData(5000, "(3 days old) Ines Calloway asked.")]
    public void The_team_is_told_how_old_a_late_one_is(int minutes, string words)
    {
        var fuse = CompiledFuse.From(Fixtures.Fuse(Fixtures.Whenever(Fixtures.Post("desk"))));
        var asked = Fixtures.At("24 09:41:00");
        var now = asked + NodaTime.Duration.FromMinutes(minutes);
        var decision = Decider.Decide(fuse, Fixtures.NewBurn(asked, now), new BurnEvent.Lit(), Fixtures.Lead(), now);
        Assert.Equal(words, decision.Effects.OfType<BurnEffect.Deliver>().Single().Settings["words"]);
    }

    [Fact]
    public void Nothing_automatic_speaks_to_who_is_not_to_be_contacted()
    {
        var fuse = CompiledFuse.From(Fixtures.Fuse(Fixtures.Whenever(Fixtures.Post("desk"), Fixtures.Text("text"))));
        var now = Fixtures.At("24 09:41:00");
        var decision = Decider.Decide(
            fuse,
            Fixtures.NewBurn(now),
            new BurnEvent.Lit(),
            Fixtures.Lead() with
            {
                DoNotContact = true,
            },
            now
        );
        Assert.Equal("desk", decision.Effects.OfType<BurnEffect.Deliver>().Single().StepId);
        Assert.Equal(
            "they are on the do-not-contact list",
            decision.State.Steps.Single(s => s.StepId == "text").Reason
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.AskToConfirm(doNotContact: true, now, NodaTime.Duration.FromHours(48), now)
        );
        Assert.IsType<GateAnswer.Go>(
            ContactPolicy.AskToConfirm(
                doNotContact: false,
                now,
                NodaTime.Duration.FromHours(48),
                now + NodaTime.Duration.FromHours(47)
            )
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.AskToConfirm(
                doNotContact: false,
                now,
                NodaTime.Duration.FromHours(48),
                now + NodaTime.Duration.FromHours(49)
            )
        );
    }

    [Fact]
    public void What_must_stop_stops_whatever_the_fuse_s_own_rules_say()
    {
        var fuse = CompiledFuse.From(Fixtures.Fuse(Fixtures.Whenever(Fixtures.Text("text", 600))) with { StopOn = [] });
        var now = Fixtures.At("24 09:41:00");
        var lit = Decider.Decide(fuse, Fixtures.NewBurn(now), new BurnEvent.Lit(), Fixtures.Lead(), now).State;
        Assert.Equal(
            BurnStatus.Burning,
            Decider.Decide(fuse, lit, On(EventKeys.OptedOut, "why", now), Fixtures.Lead(), now).State.Status
        );
        var stopped = Decider.Decide(fuse, lit, new BurnEvent.Ended("why"), Fixtures.Lead(), now).State;
        Assert.Equal((StepStatus.Cancelled, "why"), (stopped.Steps.Single().Status, stopped.Steps.Single().Reason));
    }
}

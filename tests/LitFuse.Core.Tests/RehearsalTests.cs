using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>
/// A fuse on a virtual clock: what its own steps change, what the lead says, and what the services do, all count.
/// </summary>
public sealed class RehearsalTests
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static readonly Reaction Takes = new(Duration.FromMilliseconds(300), StepStatus.Done, "took it");

    private static Step Silent(string id, string kind, params (string Key, string Value)[] settings) =>
        new(id, id, kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Key, s => s.Value));

    private static Scripted Reply(int after, string text) =>
        new(
            Noon + Duration.FromSeconds(after),
            On(EventKeys.Replied, "they replied", Noon + Duration.FromSeconds(after), ("text", text))
        );

    private static Rehearsed Run(
        FuseDefinition fuse,
        IEnumerable<Scripted>? script = null,
        Func<BurnEffect.Deliver, Reaction>? react = null,
        LeadFacts? lead = null
    ) =>
        Rehearser.Run(
            CompiledFuse.From(fuse),
            NewBurn(Noon),
            lead ?? Lead(),
            script ?? [],
            (d, _) => react?.Invoke(d) ?? Takes,
            Noon + Duration.FromDays(60)
        );

    private static List<string> Sent(Rehearsed run) =>
        [
            .. run
                .Moments.Where(m => m.Effect is BurnEffect.Deliver)
                .Select(m => $"{((BurnEffect.Deliver)m.Effect!).StepId}@{(m.At - Noon).TotalSeconds}"),
        ];

    [Fact]
    public void A_tag_that_a_step_puts_on_enters_the_band_that_waits_for_it()
    {
        var fuse = Fuse(
            Whenever(Silent("tag", StepKinds.Tag, ("tag", "Hot"))),
            new Band(
                "hot",
                "Hot",
                new(
                    EntryKind.On,
                    Event: EventKeys.Tagged,
                    Only: new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["hot"] }
                ),
                [Post("post")]
            )
        );
        var run = Run(fuse);
        Assert.Equal(["post@0"], Sent(run));
        Assert.Equal(["hot"], run.Lead.Standing().Tags);
        Assert.Equal("tagged Hot", run.Moments.Single(m => m.Effect is BurnEffect.Do).Words);
        // One that is on already is no news.
        var tagged = Lead() with { Tags = ["hot"] };
        Assert.Equal(
            "tagged Hot already",
            Run(fuse, lead: tagged).Moments.Single(m => m.Effect is BurnEffect.Do).Words
        );
        Assert.Empty(Sent(Run(fuse, lead: tagged)));
    }

    [Theory]
    [InlineData(0, 24, false)]
    [InlineData(30, 24, true)] // it was asked for 30 hours ago
    [InlineData(23, 24, false)]
    [InlineData(0, 6, true)] // send hours open 8.5 hours later
    public void What_could_only_go_too_late_is_said_to_be_too_late(int hoursAgo, int limit, bool late)
    {
        var fuse = CompiledFuse.From(Fuse(Whenever(Text("text"))) with { AgeLimitHours = limit });
        var at = limit == 6 ? At("24 23:30:00") : Noon;
        Rehearsed Of(LeadFacts lead) =>
            Rehearser.Run(
                fuse,
                NewBurn(at - Duration.FromHours(hoursAgo), at),
                lead,
                [],
                (_, _) => Takes,
                at + Duration.FromDays(3)
            );
        Assert.Equal(late, Of(Lead()).TooLate);
        Assert.False(Of(Lead(optedOut: true)).TooLate);
    }

    [Fact]
    public void A_field_that_a_step_sets_is_in_the_words_and_rules_after_it()
    {
        var asks = Post("later", 60) with
        {
            Settings = Posting("{{ lead.name }}: {{ lead.fleet_size }}"),
            When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["1–3"])]),
        };
        var run = Run(
            Fuse(
                Whenever(
                    Silent("set", StepKinds.SetField, ("field", "fleet_size"), ("value", "1–3")),
                    Silent("name", StepKinds.SetField, ("field", "last_name"), ("value", "Ashdown")),
                    asks
                )
            )
        );
        Assert.Equal(
            "Ines Ashdown: 1–3",
            run.Moments.Select(m => m.Effect).OfType<BurnEffect.Deliver>().Single().Settings["words"]
        );
        Assert.Contains("Fleet size: 25+ → 1–3", run.Moments.Select(m => m.Words));
    }

    [Fact]
    public void A_number_that_a_step_sets_can_be_texted_and_tells_the_zone()
    {
        var without = Lead(hasPhone: false) with { ClientZone = London, Words = Lead().Words with { Country = "GB" } };
        var fuse = Fuse(
            Whenever(
                Silent("set", StepKinds.SetField, ("field", "phone"), ("value", "+1 604 555 0123")),
                Text("text", 3600)
            )
        );
        var run = Run(fuse, lead: without);
        Assert.Equal("+16045550123", run.Lead.Fields["phone"]);
        Assert.Equal((true, "CA"), (run.Lead.HasPhone, run.Lead.PhoneCountry));
        Assert.Equal("America/Vancouver", run.Lead.Zone.Id);
        // One o'clock in London is five in the morning there.
        Assert.Equal([$"text@{(At("24 16:00:00") - Noon).TotalSeconds}"], Sent(run));
    }

    [Fact]
    public void Who_writes_stop_hears_no_more_whatever_the_fuse_says()
    {
        var fuse = Fuse(
            Whenever(Text("first"), Text("second", 3600)),
            new Band("no", "No", new(EntryKind.On, Event: EventKeys.Replied), [Text("answer")])
        ) with
        {
            StopOn = [],
        };
        Assert.Equal(["first@0", "second@3600"], Sent(Run(fuse)));
        Assert.Equal(["first@0", "answer@600", "second@3600"], Sent(Run(fuse, [Reply(600, "tell me more")])));
        var run = Run(fuse, [Reply(600, "STOP")]);
        Assert.Equal(["first@0"], Sent(run));
        Assert.True(run.Lead.OptedOut);
    }

    [Fact]
    public void What_a_reply_stops_is_taken_back_where_it_only_waits_to_be_tried_again()
    {
        var fuse = Fuse(Whenever(Text("text")));
        var down = new Reaction(Duration.FromMinutes(25), StepStatus.Failed, "given up") { Retried = true };
        var run = Run(fuse, [Reply(60, "I have found one, thanks")], _ => down);
        Assert.Equal(StepStatus.Cancelled, run.State.Steps.Single().Status);
        Assert.Equal(BurnStatus.Ended, run.State.Status);
        Assert.Equal(StepStatus.Failed, Run(fuse, react: _ => down).State.Steps.Single().Status);
        // What is under way comes to its own end.
        Assert.Equal(StepStatus.Done, Run(fuse, [Reply(0, "x")]).State.Steps.Single().Status);
    }

    [Fact]
    public void Stages_and_tags_come_and_go_with_words_for_each()
    {
        var lead = new LeadStanding(new Dictionary<string, string> { ["budget"] = "1200" }, ["hot"], "New");
        LeadChange? Done(string kind, params (string, string)[] settings) =>
            LeadChanging.Decide(
                kind,
                settings.ToDictionary(s => s.Item1, s => s.Item2),
                lead,
                key => key == "budget" ? new LeadField("budget", "Budget", LeadFieldType.Number, []) : null,
                "GB",
                Noon
            );
        Assert.Equal(
            ("the tag Hot was taken off", 0),
            (Done(StepKinds.Untag, ("tag", "Hot"))!.Words, Done(StepKinds.Untag, ("tag", "Hot"))!.Now.Tags.Count)
        );
        Assert.Equal("not tagged cold anyway", Done(StepKinds.Untag, ("tag", "cold"))!.Words);
        Assert.Equal(
            ("stage: Won", "Won", EventKeys.StageReached),
            (
                Done(StepKinds.SetStage, ("stage", "Won"))!.Words,
                Done(StepKinds.SetStage, ("stage", "Won"))!.Now.Stage,
                Done(StepKinds.SetStage, ("stage", "Won"))!.Happened.Single().Event
            )
        );
        Assert.Equal("at New already", Done(StepKinds.SetStage, ("stage", "New"))!.Words);
        Assert.Equal("Budget: 1200 → empty", Done(StepKinds.SetField, ("field", "budget"), ("value", ""))!.Words);
        Assert.Equal(
            "Budget is 1200 already",
            Done(StepKinds.SetField, ("field", "budget"), ("value", "1,200"))!.Words
        );
        Assert.Equal(
            [EventKeys.FieldChanged, EventKeys.CameToMatch],
            Done(StepKinds.SetField, ("field", "budget"), ("value", "2500"))!.Happened.Select(h => h.Event)
        );
        Assert.Null(Done(StepKinds.Notice, ("words", "x")));
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>Past leads through a fuse.</summary>
public sealed class BacktestTests
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static readonly FuseDefinition Chased = Fuse(
        Whenever(Post("post"), Text("text", 20)),
        Big(Text("big", 3600)),
        new Band("said", "They wrote back", new(EntryKind.On, Event: EventKeys.Replied), [Post("told")]),
        new Band(
            "silence",
            "No reply",
            new(EntryKind.Silence, Of: "text", ForSeconds: 7200),
            [
                Text("remind"),
                new(
                    "tag",
                    "Tag",
                    StepKinds.Tag,
                    StepMoment.AtOnce,
                    new Dictionary<string, string> { ["tag"] = "silent" }
                ),
            ]
        ),
        new Band(
            "hot",
            "When tagged",
            new(
                EntryKind.On,
                Event: EventKeys.Tagged,
                Only: new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["silent"] }
            ),
            [Post("tagged")]
        )
    );

    private static (PastOutcome Outcome, HashSet<string> Marks, string? Not) Put(
        FuseDefinition definition,
        LeadFacts? lead = null,
        Instant? at = null,
        IReadOnlyList<Scripted>? did = null,
        bool words = true,
        string form = "brackenwheel-test-ride",
        Action<LeadFacts, string, Instant>? told = null
    )
    {
        var fuse = CompiledFuse.From(definition);
        var asked = at ?? Noon;
        var outcome = new Backtest(
            fuse,
            words,
            Duration.FromDays(30),
            (_, _) => new(Duration.FromSeconds(1), StepStatus.Done, "took it"),
            told: told
        ).Put(
            new(lead ?? Lead(), asked, LeadEvent.Of(EventKeys.Submission, asked, "x", ("form", form)), did ?? []),
            out var not
        );
        var bits = new BacktestMarks(fuse);
        var marks = new HashSet<string>();
        void Mark(int bit, string name)
        {
            if (outcome.Has(bit))
                marks.Add(name);
        }

        Mark(BacktestMarks.Lit, "lit");
        Mark(BacktestMarks.NoBand, "no band");
        Mark(BacktestMarks.Waited, "waited");
        Mark(BacktestMarks.Spoken, "spoken");
        foreach (var band in definition.Bands)
        {
            Mark(bits.Entered(fuse.PlaceOfBand(band.Id)!.Value), band.Id);
            foreach (var step in band.Steps)
            {
                var place = fuse.PlaceOfStep(step.Id)!.Value;
                Mark(bits.Sent(place), step.Id + " sent");
                Mark(bits.StepWaited(place), step.Id + " waited");
                Mark(bits.Cancelled(place), step.Id + " cancelled");
                Mark(bits.Failed(place), step.Id + " failed");
            }
        }

        return (outcome, marks, not);
    }

    [Fact]
    public void Nobody_answers_and_everything_goes_out()
    {
        var (outcome, marks, _) = Put(Chased);
        Assert.Equal(
            [
                "always",
                "big",
                "big sent",
                "hot",
                "lit",
                "post sent",
                "remind sent",
                "silence",
                "spoken",
                "tag sent",
                "tagged sent",
                "text sent",
            ],
            marks.Order(StringComparer.Ordinal)
        );
        Assert.Equal(
            (3, 3, 3, Duration.FromSeconds(20)),
            (outcome.ToLead, outcome.Texts, outcome.Segments, outcome.FirstAfter)
        );
    }

    [Fact]
    public void What_they_did_then_is_taken_to_happen()
    {
        var (outcome, marks, _) = Put(
            Chased,
            did: [new(At("24 12:10:00"), On(EventKeys.Replied, "they replied", At("24 12:10:00"), ("text", "yes")))]
        );
        Assert.Contains("said", marks);
        Assert.Contains("big cancelled", marks);
        Assert.DoesNotContain("silence", marks);
        Assert.Equal(1, outcome.ToLead);
    }

    [Fact]
    public void At_night_texts_wait_and_are_counted_as_waiting()
    {
        var (outcome, marks, _) = Put(Chased, at: At("24 23:00:00"));
        Assert.Superset(new HashSet<string> { "waited", "text waited", "text sent", "big waited", "big sent" }, marks);
        Assert.Equal(Duration.FromHours(9), outcome.FirstAfter);
    }

    [Fact]
    public void Who_does_not_light_it_is_told_why()
    {
        Assert.Empty(Put(Chased, form: "another").Marks);
        var rules = Chased with
        {
            LitBy = [Chased.LitBy[0] with { When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["1–3"])]) }],
        };
        var (_, marks, not) = Put(rules);
        Assert.Empty(marks);
        Assert.Contains("fleet size was 25+", not, StringComparison.Ordinal);
        Assert.Equal(["lit", "no band"], Put(Fuse(Big(Text("big"))), Lead("1–3")).Marks);
    }

    [Fact]
    public void Words_that_come_to_nothing_fail_only_where_words_are_wanted()
    {
        var fuse = Fuse(Whenever(Text("text", words: "{{ lead.nickname }}")));
        Assert.Contains("text failed", Put(fuse).Marks);
        Assert.Contains("text sent", Put(fuse, words: false).Marks);
    }

    [Fact]
    public void Choices_are_read_although_no_words_were_wanted()
    {
        var fuse = Fuse(
            Whenever(Text("offer") with { Choices = ["{{ lead.first_name }} comes by", "we ring"] }),
            new Band(
                "chose",
                "They chose",
                new(
                    EntryKind.On,
                    Event: EventKeys.Replied,
                    Only: new Dictionary<string, IReadOnlyList<string>> { ["choice"] = ["Ines comes by"] }
                ),
                [Post("told")]
            )
        );
        Assert.Contains(
            "chose",
            Put(
                fuse,
                words: false,
                did: [new(At("24 12:10:00"), On(EventKeys.Replied, "x", At("24 12:10:00"), ("text", "1")))]
            ).Marks
        );
    }

    [Fact]
    public void It_hears_whom_the_team_s_steps_tell()
    {
        var told = new List<string>();
        Put(Chased, told: (_, who, at) => told.Add($"{who} {(at - Noon).TotalMinutes:0}"));
        Assert.Equal(["#ride-desk 0", "#ride-desk 120"], told);
    }
}

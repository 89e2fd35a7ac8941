using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Words;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>
/// What is worth a look in a fuse, though it could be armed; names made from content; letters as HTML.
/// </summary>
public sealed class DoubtsTests
{
    private static readonly HashSet<string> Several = [Facts.Tags, "interests"];

    private static IEnumerable<string> Doubts(FuseDefinition fuse, params ArmedFuse[] others) =>
        FuseDoubts.Find(fuse, Around().Fields, Several, others).Select(d => d.What);

    private static RuleSet All(params Rule[] rules) => new(RuleMatch.All, rules);

    private static Rule Rule(string field, RuleOp op, params string[] values) => new(field, op, values);

    private static Band When(string id, params Rule[] rules) =>
        new(id, id, new(EntryKind.When, All(rules)), [Post(id + "-post")]);

    [Fact]
    public void A_sound_fuse_raises_none() =>
        Assert.Empty(Doubts(Fuse(Whenever(Post("p")), Big(Text("t")), Otherwise(Text("o")))));

    [Theory]
    [InlineData("25+", "1–3", "fleet size cannot be 25+ and 1–3")]
    [InlineData("25+", "25+", null)]
    public void Rules_that_contradict_one_another(string one, string other, string? why) =>
        Assert.Equal(
            why,
            RuleSense.Contradiction(
                [All(Rule("fleet_size", RuleOp.OneOf, one), Rule("fleet_size", RuleOp.OneOf, other))],
                Several.Contains
            )
        );

    [Fact]
    public void Contradictions_of_every_kind_and_none_where_it_is_not_certain()
    {
        string? Why(params Rule[] rules) => RuleSense.Contradiction([All(rules)], Several.Contains);
        Assert.Equal(
            "budget cannot be at least 500 and at most 100",
            Why(Rule("budget", RuleOp.AtLeast, "500"), Rule("budget", RuleOp.AtMost, "100"))
        );
        Assert.Null(Why(Rule("budget", RuleOp.AtLeast, "100"), Rule("budget", RuleOp.Between, "50", "200")));
        Assert.Contains(
            "both yes and no",
            Why(Rule("start", RuleOp.Yes), Rule("start", RuleOp.No)),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "left empty",
            Why(Rule("company", RuleOp.Empty), Rule("company", RuleOp.StartsWith, "H")),
            StringComparison.Ordinal
        );
        Assert.NotNull(Why(Rule("fleet_size", RuleOp.OneOf, "25+"), Rule("fleet_size", RuleOp.NotOneOf, "25+")));
        Assert.Null(Why(Rule("interests", RuleOp.OneOf, "bikes"), Rule("interests", RuleOp.OneOf, "lamps")));
        Assert.Null(
            RuleSense.Contradiction(
                [new(RuleMatch.Any, [Rule("a", RuleOp.OneOf, "1"), Rule("a", RuleOp.OneOf, "2")])],
                Several.Contains
            )
        );
        Assert.NotNull(
            RuleSense.Contradiction(
                [new(RuleMatch.All, [Rule("a", RuleOp.OneOf, "1")], [All(Rule("a", RuleOp.OneOf, "2"))])],
                Several.Contains
            )
        );
    }

    [Fact]
    public void A_band_whose_rules_the_fuse_or_a_step_contradicts_says_so()
    {
        var fuse = Fuse(Big(Text("t") with { When = All(Rule("fleet_size", RuleOp.OneOf, "1–3")) })) with
        {
            LitBy = [new(EventKeys.Submission, OnForm("x"), All(Rule("fleet_size", RuleOp.OneOf, "4–9")))],
        };
        var doubts = FuseDoubts.Find(fuse, [], Several, []);
        Assert.Contains(doubts, d =>
            d.BandId == "big"
            && d.What.Contains("because of what lights the fuse", StringComparison.Ordinal)
            && !d.Blocks
        );
        Assert.Contains(doubts, d => d.StepId == "t" && d.What.Contains("is never done", StringComparison.Ordinal));
    }

    [Fact]
    public void Bands_that_nothing_leads_to()
    {
        Band After(string id, string of) => new(id, id, new(EntryKind.End, Of: of), [Post(id + "-p")]);
        Assert.Equal(
            ["Nothing ever leads to “one”.", "Nothing ever leads to “two”."],
            Doubts(Fuse(Whenever(Post("p")), After("one", "two"), After("two", "one")))
        );
        var silent = new Band("silent", "silent", new(EntryKind.Silence, Of: "one-p", ForSeconds: 60), [Post("s")]);
        Assert.Contains(
            "Nothing ever leads to “silent”.",
            Doubts(Fuse(Whenever(Post("p")), After("one", "two"), After("two", "one"), silent))
        );
        Assert.Empty(Doubts(Fuse(Whenever(Post("p")), After("one", "always"), silent)));
    }

    [Fact]
    public void Replies_that_nothing_asks_for_and_bands_that_are_never_the_first()
    {
        Band Chooses(params string[] choices) =>
            new(
                "c",
                "c",
                new(
                    EntryKind.On,
                    Event: EventKeys.Replied,
                    Only: new Dictionary<string, IReadOnlyList<string>> { ["choice"] = choices }
                ),
                [Post("p2")]
            );
        Assert.Contains(
            "“c” waits for a choice, and no step offers one.",
            Doubts(Fuse(Whenever(Text("t")), Chooses("Tuesday")))
        );
        Assert.Contains(
            "“c” waits for the choice “Friday”, which no step offers.",
            Doubts(Fuse(Whenever(Text("t") with { Choices = ["Tuesday"] }), Chooses("Friday")))
        );
        Assert.Empty(Doubts(Fuse(Whenever(Text("t") with { Choices = ["{{ lead.day }}"] }), Chooses("Friday"))));
        var twice = Fuse(
            When("a", Rule("company", RuleOp.Filled)),
            When("b", Rule("company", RuleOp.Filled)),
            Otherwise(Post("o"))
        ) with
        {
            BandChoice = BandChoice.First,
        };
        Assert.Equal(["“b” has the rules of “a”, which is taken first."], Doubts(twice));
    }

    [Fact]
    public void Answers_that_no_band_takes()
    {
        Assert.Equal(["Nothing happens for fleet size 1–3, 4–9: no band takes them."], Doubts(Fuse(Big(Text("t")))));
        Assert.Empty(Doubts(Fuse(Big(Text("t")), When("small", Rule("fleet_size", RuleOp.NotOneOf, "10–24", "25+")))));
        Assert.Empty(Doubts(Fuse(Big(Text("t")), Whenever(Post("p")))));
    }

    [Fact]
    public void Another_armed_fuse_that_would_text_the_same_lead()
    {
        var ours = Fuse(Whenever(Text("t")));
        Assert.Equal(
            ["“Other” is armed too, is lit by the same submissions, and texts the lead as well."],
            Doubts(ours, new ArmedFuse("Other", Fuse(Otherwise(Text("o")))))
        );
        Assert.Empty(Doubts(ours, new ArmedFuse("Other", Fuse(Whenever(Post("p"))))));
        Assert.Empty(
            Doubts(
                ours,
                new ArmedFuse(
                    "Other",
                    Fuse(Whenever(Text("t"))) with
                    {
                        LitBy = [new(EventKeys.Submission, OnForm("another-form"))],
                    }
                )
            )
        );
        var big = ours with { LitBy = [ours.LitBy[0] with { When = All(Rule("fleet_size", RuleOp.OneOf, "25+")) }] };
        var small = ours with { LitBy = [ours.LitBy[0] with { When = All(Rule("fleet_size", RuleOp.OneOf, "1–3")) }] };
        Assert.Empty(Doubts(big, new ArmedFuse("Small", small)));
    }

    [Fact]
    public void A_name_is_made_from_what_the_fuse_does()
    {
        string Name(FuseDefinition fuse) =>
            FuseSentence.Name(fuse, EventCatalog.Plain, key =>
                key == "brackenwheel-test-ride" ? "Book a test ride" : key
            );
        Assert.Equal(
            "Book a test ride: post in #ride-desk, text the lead",
            Name(Fuse(Whenever(Post("p")), Big(Text("t"), Text("u"))))
        );
        Assert.Equal("Book a test ride: tell the team", Name(Fuse()));
        Assert.Equal(
            "A tag is put on nurture: text the lead",
            Name(
                Fuse(Whenever(Text("t"))) with
                {
                    LitBy =
                    [
                        new(EventKeys.Tagged, new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["nurture"] }),
                    ],
                }
            )
        );
        Assert.Equal("New leads: tell the team", Name(Fuse() with { LitBy = [] }));
    }

    [Fact]
    public void A_letter_s_HTML_says_what_its_text_says_and_nothing_a_stranger_typed_is_more_than_text()
    {
        var html = LetterHtml.Of(
            new(
                "Hello <script>alert(1)</script> & co,\n\nsee https://brackenwheel.example/ride?a=1&b=2.\nBye",
                "A \"ride\""
            )
        );
        Assert.Contains(">Hello &lt;script&gt;alert(1)&lt;/script&gt; &amp; co,</p>", html, StringComparison.Ordinal);
        Assert.Contains(
            "<a href=\"https://brackenwheel.example/ride?a=1&amp;b=2\">https://brackenwheel.example/ride?a=1&amp;b=2</a>.<br>\nBye</p>",
            html,
            StringComparison.Ordinal
        );
        Assert.Contains("<title>A &quot;ride&quot;</title>", html, StringComparison.Ordinal);
        Assert.DoesNotContain("<script", html, StringComparison.Ordinal);
        Assert.DoesNotContain("<p></p>", LetterHtml.Of(new("a\n\n\n\nb", "")), StringComparison.Ordinal);
    }
}

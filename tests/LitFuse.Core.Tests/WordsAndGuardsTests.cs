using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Words;
using Xunit;

namespace LitFuse.Core.Tests;

public sealed class WordsAndGuardsTests
{
    private static string Render(string words) => MessageWords.Parse(words).Words!.Render(Fixtures.Lead().Words).Text;

    [Theory]
    [InlineData("{{ lead.first_name }}, hello", "Ines, hello")]
    [InlineData(
        "{{ lead.nickname | default: \"Hello\" }}, it is {{ client.name }}.",
        "Hello, it is Brackenwheel Cargo Cycles."
    )]
    [InlineData("Dear {{ lead.title }} {{ lead.last_name }} ,\nthank  you", "Dear Calloway,\nthank you")] // gaps left by empty fields close
    [InlineData("{% for a in answers %}{{ a.label }} {{ a.value }}{% endfor %}", "How many bikes? 25+")]
    [InlineData("{% if lead.fleet_size == \"25+\" %}big{% else %}small{% endif %}", "big")]
    public void Words_take_the_facts_in(string words, string rendered) => Assert.Equal(rendered, Render(words));

    [Theory]
    [InlineData("")]
    [InlineData("{{ lead.first_name ")]
    [InlineData("{% if lead.x %}never ended")]
    public void Words_that_cannot_be_read_are_a_fault(string words) =>
        Assert.False(string.IsNullOrEmpty(MessageWords.Parse(words).Fault));

    [Fact]
    public void Words_tell_what_they_speak_of() =>
        Assert.Equal(
            ["lead.first_name", "client.name", "answers"],
            MessageWords
                .Parse("{{ lead.first_name }} {{ client.name }} {% for a in answers %}{{ a.value }}{% endfor %}")
                .Words!.Uses
        );

    [Theory]
    [InlineData("", 0, 1, false)]
    [InlineData("Thank you", 9, 1, false)]
    [InlineData("€", 2, 1, false)] // an extended character takes two septets
    [InlineData("4–9", 3, 1, true)] // the en dash is outside the alphabet
    public void Segments_are_counted(string text, int units, int segments, bool unicode) =>
        Assert.Equal(new TextSize(units, segments, unicode), TextSegments.Count(text));

    [Theory]
    [InlineData('a', 160, 1)]
    [InlineData('a', 161, 2)]
    [InlineData('a', 306, 2)]
    [InlineData('a', 307, 3)]
    [InlineData('–', 70, 1)]
    [InlineData('–', 71, 2)]
    [InlineData('–', 135, 3)]
    public void Long_texts_are_joined_from_shorter_parts(char c, int length, int segments) =>
        Assert.Equal(segments, TextSegments.Count(new string(c, length)).Segments);

    [Theory]
    [InlineData(RuleOp.OneOf, "10-24|25+", "10–24", true)] // hyphen or dash: one choice
    [InlineData(RuleOp.OneOf, "25+", " 25+ ", true)]
    [InlineData(RuleOp.OneOf, "25+", "4–9", false)]
    [InlineData(RuleOp.OneOf, "25+", null, false)]
    [InlineData(RuleOp.NotOneOf, "25+", "4–9", true)]
    [InlineData(RuleOp.NotOneOf, "25+", null, true)]
    [InlineData(RuleOp.Contains, "FOOD", "hot food", true)]
    [InlineData(RuleOp.AtLeast, "10", "12", true)]
    [InlineData(RuleOp.AtLeast, "10", "9.5", false)]
    [InlineData(RuleOp.AtLeast, "10", "many", false)]
    [InlineData(RuleOp.AtMost, "10", "10", true)]
    [InlineData(RuleOp.Filled, "", "x", true)]
    [InlineData(RuleOp.Filled, "", " ", false)]
    [InlineData(RuleOp.Empty, "", null, true)]
    public void A_rule_compares(RuleOp op, string values, string? given, bool holds)
    {
        var guard = Guard
            .Compile(
                new(RuleMatch.All, [new("fleet_size", op, values.Split('|', StringSplitOptions.RemoveEmptyEntries))])
            )
            .Guard!;
        var fields = given is null ? new Dictionary<string, string>() : new() { ["fleet_size"] = given };
        var answer = guard.Ask(fields);
        Assert.Equal(holds, answer.Holds);
        Assert.StartsWith("fleet size was ", answer.Because, StringComparison.Ordinal);
    }

    [Fact]
    public void A_guard_says_why_in_a_sentence() =>
        Assert.Equal(
            "fleet size was 25+, one of 10–24, 25+; company was empty, not filled in",
            Guard
                .Compile(
                    new(
                        RuleMatch.Any,
                        [new("fleet_size", RuleOp.OneOf, ["10–24", "25+"]), new("company", RuleOp.Filled, [])]
                    )
                )
                .Guard!.Ask(new Dictionary<string, string> { ["fleet_size"] = "25+" })
                .Because
        );

    [Theory]
    [InlineData(RuleOp.OneOf, "", "the rule on fleet_size has nothing to compare with")]
    [InlineData(RuleOp.AtLeast, "many", "the rule on fleet_size compares with 'many', which is not a number")]
    public void A_rule_that_cannot_hold_is_a_fault(RuleOp op, string value, string fault) =>
        Assert.Equal(
            [fault],
            Guard.Compile(new(RuleMatch.All, [new("fleet_size", op, value.Length == 0 ? [] : [value])])).Faults
        );

    [Fact]
    public void A_fuse_says_itself_in_plain_words() =>
        Assert.Equal(
            "Always: post in #ride-desk at once. When fleet size is one of 10–24, 25+: text the lead after 10 s. Otherwise: nothing yet.",
            FuseSentence.Say(
                Fixtures.Fuse(
                    Fixtures.Whenever(Fixtures.Post("p")),
                    Fixtures.Big(Fixtures.Text("t", 10)),
                    Fixtures.Otherwise()
                )
            )
        );

    [Theory]
    [InlineData(90, "90 s")]
    [InlineData(300, "5 min")]
    [InlineData(7200, "2 h")]
    [InlineData(86400, "1 day")]
    [InlineData(259200, "3 days")]
    public void A_span_is_told_in_the_largest_whole_unit(int seconds, string words) =>
        Assert.Equal(words, FuseSentence.Span(seconds));
}

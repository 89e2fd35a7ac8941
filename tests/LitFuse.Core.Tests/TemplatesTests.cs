using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Words;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>Words answer with a text or a fault, whatever is in them, and cost at most their budget.</summary>
public sealed class TemplatesTests
{
    private static Rendered Render(string words, string answer = "x") =>
        MessageWords.Parse(words) is (Words: { } parsed, _)
            ? parsed.Render(
                Lead().Words with
                {
                    Lead = new Dictionary<string, string> { ["first_name"] = answer },
                    Now = At("24 12:00:00"),
                }
            )
            : throw new InvalidOperationException(MessageWords.Parse(words).Fault);

    [Theory]
    [InlineData("{{ 1 | divided_by: 0 }}", "they divide by nought")]
    [InlineData("{{ 5 | modulo: 0 }}", "they divide by nought")]
    [InlineData("{{ 79228162514264337593543950335 | times: 10 }}", "a number in them is too large")]
    [InlineData("{{ 'x' | slice: 99999999999, 3 }}", "a number in them is too large")]
    [InlineData(
        "{% for a in (1..400) %}{% for b in (1..400) %}{% endfor %}{% endfor %}",
        "they take more than 5,000 steps"
    )]
    [InlineData(
        "{% assign s = 'xxxxxxxxxx' %}{% for a in (1..40) %}{% assign s = s | append: s %}{% endfor %}{{ s }}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% assign s = 'xxxxxxxxxx' %}{% for a in (1..12) %}{% assign s = s | append: s %}{% endfor %}{{ s | replace: 'x', s }}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% assign s = 'xxxxxxxxxx' %}{% for a in (1..12) %}{% assign s = s | append: s %}{% endfor %}{{ s | replace: '', s }}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% assign s = 'xxxxxxxxxx' %}{% for a in (1..11) %}{% assign s = s | append: s %}{% endfor %}{{ (1..1000) | join: s }}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% capture c %}{% for a in (1..1000) %}{{ answers }}{{ answers }}0123456789012345678901234567890123456789012345678901234567890123456789012345678901234567890123456789012345678901234567890123456789012345678901234567890123456789012345678901234567890123456789012345678901234567890123456789{% endfor %}{% endcapture %}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% assign l = (1..1000) %}{% for a in (1..40) %}{% assign l = l | concat: l %}{% endfor %}",
        "they make more than 200,000 characters on the way"
    )]
    [InlineData(
        "{% for a in (1..1000) %}{{ now | add_working_days: 4000 }}{% endfor %}",
        "they make more than 200,000 characters on the way"
    )]
    public void Words_that_go_too_far_answer_with_a_fault(string words, string fault)
    {
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Equal(Rendered.Not(fault), Render(words));
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 40_000_000);
    }

    [Theory]
    [InlineData("{{ lead.first_name | add_days: 30 | day }}", "9999-12-31", "Friday 31 December")] // past the end of the calendar there is no day to go to
    [InlineData("{{ lead.first_name | add_days: -4000 | day }}", "0001-01-01", "Monday 1 January")]
    [InlineData("{{ lead.first_name | add_working_days: 99999999999 }}", "9999-12-30", "9999-12-30")]
    [InlineData("{{ lead.first_name | in_zone: 'Nowhere/Land' }}", "9999-12-31T23:59:59Z", "31 December, 23:59")]
    [InlineData("{{ lead.first_name | times: 3 }}", "not a number", "0")]
    [InlineData("{{ lead.first_name | truncate: -5 }}", "long enough", "...")]
    [InlineData(
        "{{ lead.first_name | money }}",
        "999999999999999999999999999999999",
        "999999999999999999999999999999999"
    )]
    [InlineData("{{ lead.first_name | first_name }}", "สมชาย ใจดี", "สมชาย")]
    [InlineData("{{ lead.first_name | initials }}", "\U0001F525 Ines", "I")]
    [InlineData("Hello {{ lead.first_name }}", "{{ 1 | divided_by: 0 }}", "Hello {{ 1 | divided_by: 0 }}")] // what a lead writes is never words of ours
    public void Odd_answers_are_said_or_left_as_they_were(string words, string answer, string contains)
    {
        var made = Render(words, answer);
        Assert.Null(made.Fault);
        Assert.Contains(contains, made.Text, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("{% for i in (1..3) reversed %}{{ i }}{% endfor %}", "x", "321")]
    [InlineData("{% for i in (1..9) limit: 2 offset: 3 %}{{ i }}{% endfor %}", "x", "45")]
    [InlineData(
        "{% for a in answers %}{% for i in (1..2) %}{{ i }}{{ a.value }}{% if i == 1 %},{% endif %}{% endfor %}{% endfor %}",
        "x",
        "125+,225+"
    )]
    [InlineData("{% capture c %}{{ lead.first_name }}!{% endcapture %}{{ c | upcase }}", "ines", "INES!")]
    public void Loops_and_captures_do_what_Liquid_says(string words, string answer, string text) =>
        Assert.Equal(new Rendered(text, null), Render(words, answer));

    [Theory]
    [InlineData("{% include 'other' %}")]
    [InlineData("{% render 'other' %}")]
    [InlineData("{% macro m() %}x{% endmacro %}")]
    [InlineData("{% for a in (1..20000000) %}{% endfor %}")]
    [InlineData("{% assign a = (1..20000000) %}{{ a.size }}")]
    [InlineData("{% for a in (-2147483648..2147483647) %}{% endfor %}")]
    [InlineData("{% assign n = 20000000 %}{% for a in (1..n) %}{% endfor %}")]
    [InlineData("{% for a in (1..lead.first_name) %}{% endfor %}")]
    public void What_brings_in_other_words_or_has_no_bound_is_not_read(string words) =>
        Assert.False(string.IsNullOrEmpty(MessageWords.Parse(words).Fault));

    [Fact]
    public void What_a_capture_takes_is_known_to_be_used() =>
        Assert.Equal(
            ["lead.first_name", "steps.desk.url"],
            MessageWords
                .Parse("{% capture c %}{{ lead.first_name }}{{ steps.desk.url }}{% endcapture %}{{ c }}")
                .Words!.Uses.Where(u => u != "c")
        );

    [Fact]
    public void The_deepest_nesting_that_fits_is_read_or_refused()
    {
        foreach (
            var deep in new[]
            {
                string.Concat(Enumerable.Repeat("{%if 1%}", 480)),
                string.Concat(Enumerable.Repeat("{%if 1%}", 230))
                    + "x"
                    + string.Concat(Enumerable.Repeat("{%endif%}", 230)),
                "{{ a" + string.Concat(Enumerable.Repeat("[a", 1900)) + " }}",
                "{{ 1" + string.Concat(Enumerable.Repeat("|plus:1", 560)) + " }}",
            }
        )
        {
            var (words, fault) = MessageWords.Parse(deep);
            Assert.True(
                words is null
                    ? fault is { Length: > 0 }
                    : words.Render(Lead().Words) is { } made && (made.Fault is null || made.Text.Length == 0)
            );
        }
    }

    // Filters and values put together anyhow, with hostile arguments.
    private static readonly string[] Values =
    [
        "lead.first_name",
        "answers",
        "now",
        "steps",
        "(1..9)",
        "'a,b'",
        "0",
        "-1",
        "99999999999999999999",
        "nil",
        "true",
        "lead",
        "choices",
        "1.5",
    ];

    [Fact]
    public void Every_filter_on_every_value_answers_and_never_throws()
    {
        var filters = Templates.Filters;
        Assert.InRange(filters.Count, 40, 200);
        Gen.Select(
                Gen.Int[0, filters.Count - 1],
                Gen.Int[0, Values.Length - 1],
                Gen.Int[0, Values.Length - 1],
                Gen.Int[0, Values.Length - 1],
                Gen.Int[0, filters.Count - 1]
            )
            .Sample(
                (filter, value, first, second, then) =>
                {
                    var words =
                        $"{{{{ {Values[value]} | {filters[filter]}: {Values[first]}, {Values[second]} | {filters[then]} }}}}";
                    if (MessageWords.Parse(words).Words is not { } parsed)
                        return true;
                    var made = parsed.Render(Lead().Words with { Now = At("24 12:00:00") });
                    return made.Fault is null
                        || (made.Text.Length == 0 && !made.Fault.Contains("Exception", StringComparison.Ordinal));
                },
                iter: 4000
            );
    }

    [Fact]
    public void A_step_whose_words_fail_is_failed_with_the_reason_and_the_rest_goes_on()
    {
        var fuse = Fuse(
            new Band(
                "b",
                "Band",
                new(EntryKind.Always),
                [
                    Post("bad") with
                    {
                        Settings = new Dictionary<string, string>(Posting("{{ 1 | divided_by: 0 }}")),
                    },
                    Post("good"),
                ]
            )
        );
        var now = At("24 12:00:00");
        var lit = Decider.Decide(CompiledFuse.From(fuse), NewBurn(now), new BurnEvent.Lit(), Lead(), now);
        Assert.Equal(["good"], lit.Effects.OfType<BurnEffect.Deliver>().Select(d => d.StepId));
        Assert.Equal(
            (StepStatus.Failed, "its words cannot be put together: they divide by nought"),
            lit.State.Steps.Where(s => s.StepId == "bad").Select(s => (s.Status, s.Reason!)).Single()
        );
    }

    [Fact]
    public void A_fault_inside_a_json_body_fails_the_whole_body_and_leaves_no_half_of_it() =>
        Assert.Equal(
            Rendered.Not("they divide by nought"),
            JsonWords
                .Parse("""{"a":[{"b":"{{ 1 | divided_by: 0 }}"},"{{ lead.first_name }}"]}""")
                .Words!.Render(Lead().Words)
        );
}

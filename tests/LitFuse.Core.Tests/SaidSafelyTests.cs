using CsCheck;
using LitFuse.Core.Calling;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Hours;
using LitFuse.Core.Replies;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>
/// What strangers typed, in every place where it is said; and what they answered, without what was quoted.
/// </summary>
public sealed class SaidSafelyTests
{
    [Theory]
    [InlineData("Ines Calloway", "Ines Calloway")]
    [InlineData("Ines\u202eyawollaC", "InesyawollaC")] // right-to-left override
    [InlineData("a\u2066b\u2069c\u200ed\u200fe\u061cf\ufeffg", "abcdefg")]
    [InlineData("bell\u0007, escape\u001b[31m, null\u0000", "bell, escape[31m, null")]
    [InlineData("two\r\nlines\tand a tab", "two\r\nlines\tand a tab")]
    public void Plain_text_turns_nothing_round(string typed, string plain) => Assert.Equal(plain, PlainText.Of(typed));

    [Theory]
    [InlineData("Subject\r\nBcc: all@example.com", 250, "Subject Bcc: all@example.com")]
    [InlineData("  far   apart \u2028 and on ", 250, "far apart and on")]
    [InlineData("0123456789", 4, "0123")]
    [InlineData("abc\ud83d\ude00", 4, "abc")] // a pair is not cut in two
    public void A_line_stays_one(string typed, int longest, string line) =>
        Assert.Equal(line, PlainText.Line(typed, longest));

    // Halves of pairs cannot stand in an attribute.
    [Fact]
    public void Half_a_character_is_left_out() =>
        Assert.Equal("half  and whole \ud83d\ude00", PlainText.Of("half \ud83d and whole \ud83d\ude00"));

    [Fact]
    public void Whatever_is_typed_a_line_has_no_end_no_turn_and_no_more_than_its_length() =>
        Gen.String.Sample(typed =>
        {
            var line = PlainText.Line(typed, 40);
            return line.Length <= 40
                && !line.Any(c => char.IsControl(c) || c is >= '\u202a' and <= '\u202e' or >= '\u2066' and <= '\u2069')
                && PlainText.Line(line, 40) == line;
        });

    [Fact]
    public void Spoken_words_are_one_line_and_bounded()
    {
        Assert.Equal("Ines asks. Ring her.", SpokenWords.Of("Ines asks.\r\n\r\nRing\u200b her.\u0007"));
        Assert.Equal(SpokenWords.Longest, SpokenWords.Of(new string('x', 10_000)).Length);
        Assert.Equal("", SpokenWords.Of("\n\t "));
    }

    [Fact]
    public void Blocks_stand_in_the_order_chosen_without_empties_and_read_back()
    {
        var facts = new WordFacts(
            new Dictionary<string, string>
            {
                ["name"] = "Ines",
                ["company"] = "",
                ["fleet_size"] = "4–9",
                ["message"] = "two\nlines\tand a tab",
            },
            new Dictionary<string, string>(),
            new Dictionary<string, string>(),
            [new("How many?", "4–9"), new("Why?", " "), new("Since?", "May")]
        );
        var setting = Blocks.Fill("message, fleet_size,company,nothing,answers", facts);
        Assert.Equal(
            [
                new("Message", "two\nlines and a tab"),
                new("Fleet size", "4–9"),
                new("How many?", "4–9"),
                new("Since?", "May"),
            ],
            Blocks.Read(setting)
        );
        Assert.Equal(
            "Message: two\n  lines and a tab\nFleet size: 4–9\nHow many?: 4–9\nSince?: May",
            Blocks.AsWords(setting)
        );
        Assert.Empty(Blocks.Read(""));
        Assert.Single(Blocks.Read(Blocks.Write([new("a\tb\nc", "d")])));
    }

    [Fact]
    public void A_letter_says_the_same_in_both_its_parts()
    {
        var letter = new LetterParts("Hello,\n\nthank you.", "Thanks")
        {
            From = "Brackenwheel & Co",
            Blocks = [new("Fleet <size>", "4–9"), new("Why", "one\ntwo")],
            Unsubscribe = "https://brackenwheel.example/u/1?a=b&c",
        };
        Assert.Equal(
            "Hello,\n\nthank you.\n\nFleet <size>: 4–9\nWhy: one\n  two\n\nNo more messages: https://brackenwheel.example/u/1?a=b&c",
            LetterHtml.TextOf(letter)
        );
        var html = LetterHtml.Of(letter);
        foreach (
            var said in new[]
            {
                "Brackenwheel &amp; Co",
                ">Hello,</p>",
                ">thank you.</p>",
                "Fleet &lt;size&gt;",
                "4–9",
                "one<br>\ntwo",
                "href=\"https://brackenwheel.example/u/1?a=b&amp;c\"",
            }
        )
            Assert.Contains(said, html, StringComparison.Ordinal);
        // What is left out leaves nothing behind.
        Assert.DoesNotContain("No more messages", LetterHtml.Of(new("Hello", "Thanks")), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(
        "Yes please.\n\nOn Tue, 24 Nov 2026 at 09:31, Brackenwheel <hello@brackenwheel.example> wrote:\n> Hello Ines,",
        "Yes please."
    )]
    [InlineData("Gerne.\n\nAm 24.11.2026 um 09:31 schrieb Brackenwheel:\n> Hallo", "Gerne.")]
    [InlineData("D'accord\n\nLe mar. 24 nov. 2026 à 09:31, Brackenwheel a écrit :\n> Bonjour", "D'accord")]
    [InlineData("Two questions:\n> what do you carry?\nparcels\n> when?\nMay", "Two questions:\nparcels\nMay")]
    [InlineData("Call me.\n-- \nInes Calloway\nCalloway Works", "Call me.")]
    [InlineData("Fine\n\n-----Original Message-----\nFrom: Brackenwheel", "Fine")]
    [InlineData("On Tuesday I wrote: it is fine.", "On Tuesday I wrote: it is fine.")]
    [InlineData(
        "Broken over two lines\n\nOn Tue, 24 Nov 2026 at 09:31, Brackenwheel Cargo Cycles\n<hello@brackenwheel.example> wrote:\n> Hello",
        "Broken over two lines"
    )]
    [InlineData("", "")]
    public void What_they_wrote_is_what_they_did_not_quote(string letter, string words) =>
        Assert.Equal(words, LetterReply.WordsOf(letter));

    [Fact]
    public void A_letter_that_is_only_HTML_is_read_as_text() =>
        Assert.Equal(
            "Yes & no\nTuesday",
            HtmlText.Of(
                "<html><head><title>x</title><style>p{}</style></head><body><p>Yes &amp; no<br>Tuesday</p><blockquote>quoted</blockquote><script>alert(1)</script><!-- hidden --></body></html>"
            )
        );

    [Theory]
    [InlineData("DE", "Brackenwheel: Sie bekommen keine SMS mehr von uns. Mit START bekommen Sie wieder welche.")]
    [InlineData("GB", "Brackenwheel: you will get no more texts from us. Write START if you want them again.")]
    [InlineData(null, "Brackenwheel: you will get no more texts from us. Write START if you want them again.")]
    public void That_texts_stop_is_said_in_a_language_of_the_number(string? country, string said) =>
        Assert.Equal(said, OptOutConfirmations.Confirmed(country, "Brackenwheel"));

    [Theory]
    [InlineData("AT")]
    [InlineData("FR")]
    [InlineData("ES")]
    [InlineData("IT")]
    [InlineData("NL")]
    [InlineData("PT")]
    [InlineData("PL")]
    [InlineData("SE")]
    [InlineData("DK")]
    public void That_texts_stop_costs_a_segment_or_two(string country) =>
        Assert.InRange(
            TextSegments.Count(OptOutConfirmations.Confirmed(country, "Brackenwheel Cargo Cycles")).Segments,
            1,
            2
        );

    [Theory]
    [InlineData("stop")]
    [InlineData("STOPP")]
    [InlineData("Abmelden")]
    [InlineData("ARRÊT")]
    [InlineData("désabonner")]
    [InlineData("baja")]
    [InlineData("basta")]
    [InlineData("afmelden")]
    [InlineData("pare de me escrever")]
    [InlineData("wypisz mnie")]
    [InlineData("avsluta")]
    [InlineData("afmeld mig")]
    public void Stop_is_understood_in_ten_languages(string words) =>
        Assert.Equal(ReplyMeaning.Stop, ReplyReader.Read(words, []).Meaning);

    [Theory]
    [InlineData("FR", "2026-11-25T12:30:00", false)] // between the halves of the day
    [InlineData("FR", "2026-11-28T10:30:00", false)] // a Saturday
    [InlineData("FR", "2026-11-25T13:30:00", true)]
    [InlineData("AU", "2026-11-28T17:30:00", false)]
    [InlineData("GB", "2026-11-25T20:59:00", true)]
    [InlineData(null, "2026-11-25T21:00:00", false)]
    public void Calls_keep_the_hours_that_a_law_names(string? country, string utc, bool open)
    {
        // Paris is an hour ahead of UTC then.
        var at = NodaTime.Text.LocalDateTimePattern.GeneralIso.Parse(utc).Value.InUtc().ToInstant();
        var zone = country == "FR" ? DateTimeZoneProviders.Tzdb["Europe/Paris"] : DateTimeZone.Utc;
        var facts = Fixtures.Lead() with { PhoneCountry = country, Zone = zone, ClientZone = DateTimeZone.Utc };
        Assert.Equal(open, ContactPolicy.ByHand(facts, at) is null);
        var asked = ContactPolicy.Ask(facts, at, Duration.FromHours(72), at, Voice.Call, new(HoursKind.None));
        if (open)
            Assert.IsType<GateAnswer.Go>(asked);
        else
            Assert.StartsWith(
                $"waits for {HoursLaw.For(Voice.Call, country).Name}: ",
                Assert.IsType<GateAnswer.Wait>(asked).Reason,
                StringComparison.Ordinal
            );
    }

    [Fact]
    public void A_call_goes_to_nobody_who_wants_no_messages_or_has_no_number()
    {
        var now = Fixtures.At("24 12:00:00");
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Fixtures.Lead() with { OptedOut = true }, now, Duration.FromHours(1), now, Voice.Call)
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Fixtures.Lead() with { HasPhone = false }, now, Duration.FromHours(1), now, Voice.Call)
        );
        Assert.Equal(
            "there is no telephone number to ring",
            ContactPolicy.ByHand(Fixtures.Lead() with { HasPhone = false }, now)
        );
        Assert.NotNull(ContactPolicy.ByHand(Fixtures.Lead() with { DoNotContact = true }, now));
        var bounces = Fixtures.Lead() with { HasEmail = true, EmailBounces = true };
        Assert.Equal(
            "letters to their address come back",
            Assert
                .IsType<GateAnswer.Never>(ContactPolicy.Ask(bounces, now, Duration.FromHours(1), now, Voice.Letter))
                .Reason
        );
    }

    [Theory]
    [InlineData(CallOutcome.Spoke, 75, StepStatus.Done, "spoke", "reached")]
    [InlineData(CallOutcome.Machine, 20, StepStatus.Done, "machine", "voicemail")]
    [InlineData(CallOutcome.Machine, null, StepStatus.Failed, "machine", "voicemail")]
    [InlineData(CallOutcome.NoAnswer, null, StepStatus.Failed, "no-answer", "no-answer")]
    [InlineData(CallOutcome.Nobody, null, StepStatus.Failed, "nobody", null)]
    [InlineData(CallOutcome.Stopped, null, StepStatus.Cancelled, "stopped", null)]
    public void How_a_call_ended_is_told_to_its_burn_and_to_others(
        CallOutcome outcome,
        int? seconds,
        StepStatus status,
        string rang,
        string? called
    )
    {
        var ending = new CallEnding(
            outcome,
            "so it was",
            "Imke Sandoval",
            seconds is { } s ? Duration.FromSeconds(s) : null
        );
        Assert.Equal(status, ending.Status);
        Assert.Equal(rang, ending.Rang(Fixtures.At("24 12:00:00"), "k").Detail("outcome"));
        Assert.Equal(called, ending.Called(Fixtures.At("24 12:00:00"), "k")?.Detail("outcome"));
        Assert.Equal(outcome, CallEnding.OutcomeOf(rang));
        Assert.Equal(
            ((seconds ?? 0).ToString(System.Globalization.CultureInfo.InvariantCulture), "Imke Sandoval"),
            (ending.Results["seconds"], ending.Results["by"])
        );
    }

    [Fact]
    public void A_dry_run_of_a_ring_through_is_a_first_touch_and_enters_the_band_of_its_outcome()
    {
        var fuse = CompiledFuse.From(
            new()
            {
                Name = "Ring",
                LitBy = [new(EventKeys.Submission)],
                Bands =
                [
                    new(
                        "all",
                        "All",
                        new(EntryKind.Always),
                        [
                            new Step(
                                "ring",
                                "ring",
                                StepKinds.RingThrough,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["colleagues"] = "team", ["words"] = "Ring" }
                            ),
                            new Step(
                                "later",
                                "later",
                                StepKinds.Text,
                                StepMoment.After(3600),
                                new Dictionary<string, string> { ["words"] = "Still there?" }
                            ),
                        ]
                    ),
                    new(
                        "nobody",
                        "Nobody",
                        new(
                            EntryKind.On,
                            Event: EventKeys.RangThrough,
                            Only: new Dictionary<string, IReadOnlyList<string>> { ["outcome"] = ["nobody"] }
                        ),
                        [
                            new Step(
                                "tag",
                                "tag",
                                StepKinds.Tag,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["tag"] = "nobody" }
                            ),
                        ]
                    ),
                ],
            }
        );
        var now = Fixtures.At("24 12:00:00");
        BurnState Run(CallEnding ending) =>
            Rehearser
                .Run(
                    fuse,
                    BurnState.New(Guid.Empty, now, now),
                    Fixtures.Lead(),
                    [],
                    (d, _) =>
                        d.Kind == StepKinds.RingThrough
                            ? Reaction.Of(ending)
                            : new(Duration.FromSeconds(1), StepStatus.Done, "took it"),
                    now + Duration.FromDays(1)
                )
                .State;
        var spoke = Run(CallEnding.Usual);
        Assert.Equal(
            (StepStatus.Done, StepStatus.Cancelled),
            (spoke.Steps.Single(s => s.StepId == "ring").Status, spoke.Steps.Single(s => s.StepId == "later").Status)
        );
        var nobody = Run(new(CallOutcome.Nobody, "nobody took it"));
        Assert.Equal(
            (StepStatus.Failed, StepStatus.Done, StepStatus.Done),
            (
                nobody.Steps.Single(s => s.StepId == "ring").Status,
                nobody.Steps.Single(s => s.StepId == "later").Status,
                nobody.Steps.Single(s => s.StepId == "tag").Status
            )
        );
    }
}

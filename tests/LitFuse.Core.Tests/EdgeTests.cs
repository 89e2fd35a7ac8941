using CsCheck;
using LitFuse.Core.Calling;
using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Guards;
using LitFuse.Core.Identity;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Replies;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>
/// What stands at a bound and what stands just beside it; and what is decided without a lead's answers where they are
/// not needed.
/// </summary>
public sealed class EdgeTests
{
    private static readonly Dictionary<string, string> Empty = [];

    [Fact]
    public void What_needs_no_answers_is_decided_the_same_without_them()
    {
        var (silent, speaking) = (0, 0);
        Check.Sample(
            LanguageLaws.GenLife,
            life =>
            {
                var fuse = CompiledFuse.From(life.Fuse);
                foreach (var m in LanguageLaws.Live(life))
                {
                    if (Decider.MaySpeak(fuse, m.Before, m.What, m.At))
                    {
                        Interlocked.Increment(ref speaking);
                        continue;
                    }

                    Interlocked.Increment(ref silent);
                    var bare = m.Facts with { Words = new WordFacts(Empty, Empty, Empty, []) };
                    Assert.Equal(
                        Recorded.Recording.Say(m.Decision.State),
                        Recorded.Recording.Say(Decider.Decide(fuse, m.Before, m.What, bare, m.At).State)
                    );
                    Assert.Equal(
                        m.Decision.Effects.Select(e => Recorded.Recording.Say((object)e)),
                        Decider
                            .Decide(fuse, m.Before, m.What, bare, m.At)
                            .Effects.Select(e => Recorded.Recording.Say((object)e))
                    );
                }
            },
            iter: 4000
        );
        Assert.True(silent > 100 && speaking > 100, $"{silent} silent, {speaking} speaking");
    }

    [Theory]
    [InlineData(StepStatus.Done, false)]
    [InlineData(StepStatus.Failed, true)]
    public void The_end_of_a_step_that_nobody_waits_for_matters_where_it_failed_and_something_takes_its_place(
        StepStatus status,
        bool matters
    )
    {
        var plain = CompiledFuse.From(Fuse(Whenever(Post("p"), Post("q"))));
        var instead = CompiledFuse.From(
            Fuse(
                Whenever(
                    Post("p") with
                    {
                        OnFailure = new(RetryProfile.Usual, FailureThen.Instead, Step: "q"),
                    },
                    Post("q")
                )
            )
        );
        var goesOn = CompiledFuse.From(
            Fuse(Whenever(Post("p") with { OnFailure = new(RetryProfile.Usual, FailureThen.GoOn) }, Post("q")))
        );
        Assert.False(plain.EndMatters("p", status));
        Assert.False(goesOn.EndMatters("p", status));
        Assert.Equal(matters, instead.EndMatters("p", status));
        Assert.False(instead.EndMatters("gone", status));
    }

    [Fact]
    public void A_band_that_waits_for_the_choices_of_a_reply_asks_no_form_for_them()
    {
        Band Of(string id, params Rule[] rules) =>
            new(id, id, new(EntryKind.When, new(RuleMatch.All, rules)), [Post("p" + id)]);
        var fuse = Fuse(
            Of("a", new Rule("fleet_size", RuleOp.OneOf, ["25+"])),
            Of("b", new Rule("steps.pa.status", RuleOp.OneOf, ["done"])),
            Of("c", new Rule("company", RuleOp.Filled, []))
        );
        Assert.Equal(["fleet_size"], Line(fuse).Asks.Select(a => a.Field));
    }

    [Theory]
    [InlineData("{{ lead.email }}", "email")]
    [InlineData(" {{ lead.email }} ", "email")]
    [InlineData("{{ lead.email }}, {{ lead.company }}", null)]
    [InlineData("{{ lead.email }} x", null)]
    [InlineData("{{ lead.email | default: \"x\" }}", null)]
    [InlineData("{{ lead.name }}", null)]
    [InlineData("{{ client.name }}", null)]
    public void A_column_that_must_be_filled_needs_the_field_that_alone_fills_it(string words, string? field)
    {
        StepKind row = new(
            "row",
            "Row",
            Lane.Systems,
            "cardhouse",
            [new("fields", "Fields", SettingType.Columns) { List = "l" }],
            []
        );
        var around = Around() with
        {
            Steps = new([row]),
            Services = ["cardhouse"],
            Connections = [new("c1", "cardhouse", "Cardhouse")],
            Lists = new Dictionary<string, IReadOnlyList<ListItem>>
            {
                ["s.fields"] = [new("mail", "Mail", Required: true), new("other", "Other")],
            },
        };
        var step = new Step(
            "s",
            "Row",
            "row",
            StepMoment.AtOnce,
            new Dictionary<string, string> { ["fields.mail"] = words, ["fields.other"] = "{{ lead.company }}" }
        );
        Assert.Equal(field is null ? [] : [field], Line(Fuse(Whenever(step)), around).Needs.Select(n => n.Field));
    }

    private static FuseLine Line(FuseDefinition fuse, FuseSurroundings? around = null) =>
        FuseLine.Of(
            Guid.Empty,
            null,
            FuseStanding.Armed,
            fuse,
            around ?? Around(),
            new(SendHours, SendHours, London, "GB"),
            At("24 12:00:00")
        );

    [Theory]
    [InlineData(99, 0)]
    [InlineData(100, 0)]
    [InlineData(101, 1)]
    public void A_hundred_rules_are_not_too_many(int rules, int faults)
    {
        var band = new Band(
            "b",
            "Band",
            new(
                EntryKind.When,
                new(
                    RuleMatch.Any,
                    [.. Enumerable.Range(0, rules).Select(_ => new Rule("fleet_size", RuleOp.OneOf, ["25+"]))]
                )
            ),
            [Post("p")]
        );
        Assert.Equal(
            faults,
            FuseFaults.Find(Fuse(band, Otherwise(Post("q"))), Around()).Count(f => f.Code == FuseFaultCode.TooManyRules)
        );
    }

    [Fact]
    public void A_letter_to_nobody_needs_somebody_to_copy_it_to()
    {
        Step Letter(string? copies) =>
            new(
                "l",
                "Letter",
                StepKinds.TeamEmail,
                StepMoment.AtOnce,
                new Dictionary<string, string>
                {
                    ["colleague"] = StepKinds.Nobody,
                    ["subject"] = "S",
                    ["words"] = "W",
                }
                    .Concat(copies is null ? [] : [KeyValuePair.Create(StepKinds.Copies, copies)])
                    .ToDictionary()
            );
        Assert.Contains(FuseFaults.Find(Fuse(Whenever(Letter(null))), Around()), f => f.Code == FuseFaultCode.ToNobody);
        Assert.DoesNotContain(FuseFaults.Find(Fuse(Whenever(Letter("hall@brackenwheel.example"))), Around()), f =>
            f.Code is FuseFaultCode.ToNobody or FuseFaultCode.ColleagueGone
        );
    }

    [Fact]
    public void A_fuse_kept_before_files_had_versions_is_read_as_one_of_today()
    {
        const string First =
            """{"name":"Old","litBy":[{"event":"submission","forms":["f"]}],"stopOn":["touched"],"bands":[{"id":"b","name":"B","entry":{"kind":"always"},"steps":[{"id":"s","name":"S","kind":"text","afterSeconds":90,"settings":{"words":"Hello"}},{"id":"t","name":"T","kind":"text","settings":{"words":"Hello"}}]}],"bandChoice":"all","relight":"once","relightDays":1,"ageLimitHours":24,"hearsForDays":0}""";
        foreach (
            var text in new[]
            {
                First,
                First.Replace("{\"name\":\"Old\"", "{\"schema\":1,\"name\":\"Old\"", StringComparison.Ordinal),
            }
        )
        {
            var fuse = FuseFile.Read(text);
            Assert.Equal(["f"], fuse.LitBy[0].Only!["form"]);
            Assert.Equal([90, 0], fuse.Bands[0].Steps.Select(s => s.Moment.AfterSeconds));
            Assert.Equal("touched", fuse.StopOn[0].Event);
        }

        foreach (var none in new[] { "0", "-1", "\"2\"", "1.5" })
            Assert.Contains(
                "'schema' is the version",
                Assert
                    .Throws<System.Text.Json.JsonException>(() =>
                        FuseFile.Read(
                            First.Replace("{\"name\"", $"{{\"schema\":{none},\"name\"", StringComparison.Ordinal)
                        )
                    )
                    .Message,
                StringComparison.Ordinal
            );
    }

    [Theory]
    [InlineData("New → Won", "New", "Won")]
    [InlineData("nothing", "", "Won")]
    [InlineData("nothing", "New", "")]
    public void An_empty_side_of_a_change_is_called_nothing(string says, string before, string after)
    {
        var because = LeadChanging.FieldChanged("stage", before, after, At("24 12:00:00")).Because;
        Assert.Equal(says == "nothing", because.Contains("nothing", StringComparison.Ordinal));
    }

    [Fact]
    public void Marks_of_a_backtest_are_set_asked_and_counted_bit_by_bit()
    {
        var outcome = new PastOutcome(new ulong[2], 0, 0, 0, null);
        int[] bits = [0, 1, 62, 63, 64, 65, 127];
        foreach (var bit in bits)
            outcome.Mark(bit);
        Assert.Equal(bits, Enumerable.Range(0, 128).Where(outcome.Has));
        var counts = new int[128];
        outcome.CountInto(counts);
        outcome.CountInto(counts);
        Assert.Equal(bits, Enumerable.Range(0, 128).Where(i => counts[i] == 2));
        Assert.Equal(2 * bits.Length, counts.Sum());
    }

    [Fact]
    public void A_finding_is_another_where_any_part_of_it_is()
    {
        DriftFinding one = new("k", DriftKind.Gone, "f", "l", "w", "m", 5, "n", "s", ["v"]);
        Assert.Equal(one, one with { After = 6, Values = ["v"] });
        Assert.All(
            new[]
            {
                one with
                {
                    Key = "x",
                },
                one with
                {
                    Kind = DriftKind.Fresh,
                },
                one with
                {
                    LeadField = "x",
                },
                one with
                {
                    Words = "x",
                },
                one with
                {
                    Mend = "x",
                },
                one with
                {
                    NewField = "x",
                },
                one with
                {
                    Suggested = "x",
                },
            },
            other => Assert.NotEqual(one, other)
        );
    }

    [Fact]
    public void The_same_is_waited_for_only_where_field_and_rules_are_the_same()
    {
        RuleSet rules = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]),
            others = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["4–9"])]);
        FieldWait wait = new("phone", [rules], []);
        Assert.True(FieldWait.Same([wait], [new("phone", [rules], [])]));
        Assert.All(
            new[]
            {
                new FieldWait("email", [rules], []),
                new("phone", [others], []),
                new("phone", [rules], [others]),
                new("phone", [rules, rules], []),
            },
            other => Assert.False(FieldWait.Same([wait], [other]))
        );
        Assert.False(FieldWait.Same([wait], []));
    }

    [Theory]
    [InlineData("31/12/2026", DateOrder.DayMonthYear)]
    [InlineData("12/31/2026", DateOrder.MonthDayYear)]
    [InlineData("32/01/02", DateOrder.YearMonthDay)]
    [InlineData("2026-11-30", DateOrder.YearMonthDay)]
    [InlineData("13/12/31", DateOrder.DayMonthYear)]
    [InlineData("1/2/2026", DateOrder.DayMonthYear)]
    [InlineData("1/13/2026", DateOrder.MonthDayYear)]
    public void How_dates_stand_is_told_by_the_first_that_can_be_read_in_one_way_only(string date, DateOrder order) =>
        Assert.Equal(
            order,
            FileLook.DatesOf(
                [
                    ["x", "1.2", date],
                ],
                "GB"
            )
        );

    [Fact]
    public void A_header_has_no_values_in_it()
    {
        Assert.True(
            FileLook.HasHeader([
                ["Name", "When"],
            ])
        );
        Assert.False(FileLook.HasHeader([]));
        Assert.False(
            FileLook.HasHeader([
                ["", " "],
            ])
        );
        Assert.False(
            FileLook.HasHeader([
                ["Name", "ines@example.com"],
            ])
        );
        Assert.False(
            FileLook.HasHeader([
                ["Name", "07700 900123"],
            ])
        );
        Assert.True(
            FileLook.HasHeader([
                ["Name", "123456"],
            ])
        );
        Assert.True(
            FileLook.HasHeader([
                ["Name", "field 1234567"],
            ])
        );
    }

    [Theory]
    [InlineData("+441632960123", "GB")]
    [InlineData("+44163296012", null)]
    [InlineData("+4416329601234", null)]
    [InlineData("+353209112345", "IE")]
    [InlineData("+35320911234", null)]
    [InlineData("+3532091123456", null)]
    [InlineData("+12125550100", "US")]
    [InlineData("+12125550200", null)]
    [InlineData("+16045550199", "CA")]
    public void Numbers_kept_free_for_demonstrations_are_those_alone(string number, string? country) =>
        Assert.Equal(country, FictionalNumbers.CountryOf(number));

    [Fact]
    public void An_address_that_bounced_is_forgiven_with_another_address()
    {
        var lead = Lead() with { EmailBounces = true };
        lead = lead with { Fields = new Dictionary<string, string>(lead.Fields) { ["email"] = "old@example.com" } };
        LeadFacts With(string field, string value) =>
            lead.After(
                lead.Standing() with
                {
                    Fields = new Dictionary<string, string>(lead.Fields) { [field] = value },
                }
            );
        Assert.True(With("company", "x").EmailBounces);
        Assert.False(With("email", "new@example.com").EmailBounces);
    }

    [Fact]
    public void A_list_in_words_is_asked_by_place_and_by_whether_it_holds_anything()
    {
        string Say(string words, params string[] answers) =>
            MessageWords
                .Parse(words)
                .Words!.Render(
                    Lead().Words with
                    {
                        Answers = [.. answers.Select((a, i) => KeyValuePair.Create($"Q{i}", a))],
                    }
                )
                .Text;
        Assert.Equal(
            "a|b||",
            Say(
                "{{ answers[0].value }}|{{ answers[1].value }}|{{ answers[2].value }}|{{ answers[-1].value }}",
                "a",
                "b"
            )
        );
        Assert.Equal("none", Say("{% if answers.size > 0 %}some{% else %}none{% endif %}"));
        Assert.Equal("some 2", Say("{% if answers %}some {{ answers.size }}{% endif %}", "a", "b"));
        Assert.Equal("yes", Say("{% if answers.first %}yes{% endif %}", "a"));
        Assert.Equal("yes", Say("{% if lead %}yes{% endif %}"));
    }

    [Fact]
    public void What_our_own_script_says_of_a_visit_is_cut_at_two_thousand_characters()
    {
        var payload = Payload.FromPairs([
            new("lf_page", new string('p', 2000)),
            new("lf_from", new string('f', 2001)),
            new("name", "Ines"),
        ]);
        Assert.Equal([2000, 2000], payload.Signs.Values.Select(s => s.Length));
        Assert.Single(payload.Answers);
    }

    [Theory]
    [InlineData(500)]
    [InlineData(501)]
    public void A_reply_is_kept_with_five_hundred_characters(int length)
    {
        var life = new BurnLife(
            Fuse(
                new Band(
                    "r",
                    "R",
                    new(EntryKind.On, Event: EventKeys.Replied),
                    [Post("p") with { Settings = Posting("{{ reply.text }}") }]
                )
            ),
            At("24 12:00:00")
        );
        life.Replies(new string('w', length));
        Assert.Equal(500, life.All.OfType<BurnEffect.Deliver>().Single().Settings["words"].Length);
    }

    [Theory]
    [InlineData("11111111", false)]
    [InlineData("111111111", true)]
    [InlineData("121111111", true)]
    [InlineData("112111111", false)]
    public void A_number_of_one_digit_is_one_whose_last_seven_are_the_same(string number, bool junk)
    {
        var map = CompiledMap.From(new([new("phone", "phone")]), "GB", []);
        var payload = Payload.FromPairs([new("phone", number)]);
        var mapped = map.Read(payload.Answers) with { Phones = [new Phone(number, "GB", Fictional: false)] };
        var door = JunkScore.Of(payload, 0);
        Assert.Equal(junk, JunkScore.OfAnswers(door, payload, mapped, 0).Score > door.Score);
    }

    [Theory]
    [InlineData("stop", "kraft", 13)]
    [InlineData("yes", "kraft", 14)]
    [InlineData("yes", "kraft", 15)]
    public void After_fourteen_more_words_a_yes_is_for_a_person_to_read(string said, string more, int words) =>
        Assert.Equal(
            said == "stop" || words > 14,
            ReplyReader.Read(said + string.Concat(Enumerable.Repeat(" " + more, words)), []).Meaning
                is not ReplyMeaning.Yes
        );

    [Fact]
    public void A_phrase_is_found_where_it_stands_and_has_as_many_words_as_it_has()
    {
        var list = new PhraseList("stop", "stop it, leave me alone", "no");
        string[] words = ["please", "leave", "me", "alone", "stop", "it"];
        Assert.Equal(
            [(null, 0), ("leave me alone", 3), (null, 0), (null, 0), ("stop it", 2), (null, 0)],
            Enumerable.Range(0, 6).Select(i => list.At(words, i))
        );
        Assert.Equal(("stop", 1), list.At(["stop"], 0));
    }

    [Theory]
    [InlineData("x")]
    [InlineData("5")]
    public void A_field_of_one_character_is_read_too(string value)
    {
        LeadField bikes = new("bikes", "Bikes", LeadFieldType.Number, []);
        var change = LeadChanging.Decide(
            StepKinds.SetField,
            new Dictionary<string, string> { ["field"] = "email", ["value"] = "A" },
            new(Empty, [], "New"),
            _ => null,
            "GB",
            At("24 12:00:00")
        )!;
        Assert.Equal("A", change.Now.Fields["email"]);
        Assert.Equal(
            value,
            LeadChanging
                .Decide(
                    StepKinds.SetField,
                    new Dictionary<string, string> { ["field"] = "bikes", ["value"] = value },
                    new(Empty, [], "New"),
                    _ => bikes,
                    "GB",
                    At("24 12:00:00")
                )!
                .Now.Fields["bikes"]
        );
        LeadField sure = new("sure", "Sure", LeadFieldType.YesNo, []);
        Assert.Equal(
            "yes",
            LeadChanging
                .Decide(
                    StepKinds.SetField,
                    new Dictionary<string, string> { ["field"] = "sure", ["value"] = "1" },
                    new(Empty, [], "New"),
                    _ => sure,
                    "GB",
                    At("24 12:00:00")
                )!
                .Now.Fields["sure"]
        );
    }

    [Fact]
    public void Two_rules_on_a_number_contradict_each_other_exactly_where_no_number_holds_both() =>
        Check.Sample(Gen.Select(Gen.Int[0, 2], Gen.Int[0, 9], Gen.Int[0, 9]).List[2, 3], made =>
        {
            Rule Of((int Op, int A, int B) m) =>
                m.Op switch
                {
                    0 => new("x", RuleOp.AtLeast, [$"{m.A}"]),
                    1 => new("x", RuleOp.AtMost, [$"{m.A}"]),
                    _ => new("x", RuleOp.Between, [$"{Math.Min(m.A, m.B)}", $"{Math.Max(m.A, m.B)}"]),
                };
            RuleSet rules = new(RuleMatch.All, [.. made.Select(Of)]);
            var guard = Guard.Compile(rules).Guard!;
            var some = Enumerable
                .Range(-1, 12)
                .Any(n => guard.Holds(new GuardFacts(_ => $"{n}", LocalDate.MinIsoValue)));
            return some == (RuleSense.Contradiction([rules], _ => false) is null);
        });

    [Fact]
    public void Nothing_that_is_kept_is_half_a_character()
    {
        Check.Sample(
            Gen.OneOf(Gen.Char['a', 'c'], Gen.Char['\ud83d', '\ud83d'], Gen.Char['\udd25', '\udd26']).Array[0, 8],
            chars =>
            {
                var text = new string(chars);
                // What is whole is kept, in order; halves are not.
                var whole = new System.Text.StringBuilder();
                for (var i = 0; i < text.Length; i++)
                {
                    if (i + 1 < text.Length && char.IsSurrogatePair(text[i], text[i + 1]))
                        whole.Append(text[i]).Append(text[++i]);
                    else if (!char.IsSurrogate(text[i]))
                        whole.Append(text[i]);
                }

                Assert.Equal(
                    whole.ToString().Replace("\ud83d\udd25", "F", StringComparison.Ordinal),
                    PlainText.Of(text).Replace("\ud83d\udd25", "F", StringComparison.Ordinal)
                );
            }
        );
    }

    [Fact]
    public void A_call_that_was_begun_is_not_begun_again()
    {
        CallPlan plan = new(
            [new("imke", "Imke Sandoval", "+447700900101")],
            "Bram Okafor",
            "+447700900300",
            "Bram asks for a test ride."
        );
        var begun = CallMachine.Next(plan, CallState.New, new CallEvent.Begun(), At("24 12:00:00"));
        Assert.NotEmpty(begun.Effects);
        Assert.Empty(CallMachine.Next(plan, begun.State, new CallEvent.Begun(), At("24 12:00:01")).Effects);
        var over = CallMachine.Next(plan, CallState.New, new CallEvent.HungUp("never mind"), At("24 12:00:00"));
        if (over.State.Outcome is not null)
            Assert.Empty(CallMachine.Next(plan, over.State, new CallEvent.Begun(), At("24 12:00:01")).Effects);
    }

    [Theory]
    [InlineData(EndingKind.GoTo, null, null, "", "The ending leads on to no address.")]
    [InlineData(EndingKind.Download, null, null, "Here", "The ending has nothing to download.")]
    [InlineData(EndingKind.Call, null, " ", "Ring us", "The ending has no number to call.")]
    [InlineData(EndingKind.Message, null, null, " ", "The ending says nothing.")]
    [InlineData(EndingKind.Download, "https://brackenwheel.example/a.pdf", null, "", "The ending says nothing.")]
    [InlineData(EndingKind.GoTo, "https://brackenwheel.example/a", null, "", null)]
    [InlineData(EndingKind.Call, null, "+447700900512", "Ring us", null)]
    public void What_an_ending_lacks_is_said(
        EndingKind kind,
        string? url,
        string? phone,
        string words,
        string? fault
    ) =>
        Assert.Equal(
            fault is null ? [] : [fault],
            DesignFaults
                .Of(FormDesign.Fresh with { Ending = new(kind, words, url, phone) })
                .Where(f => f.Place.StartsWith("ending", StringComparison.Ordinal))
                .Select(f => f.What)
        );

    [Theory]
    [InlineData("why", null)]
    [InlineData("why not", null)]
    [InlineData("why me", "why")]
    [InlineData("and why", null)]
    [InlineData("and why me", "why")]
    [InlineData("and", null)]
    public void A_question_has_more_than_its_first_word(string text, string? asks) =>
        Assert.Equal(asks is not null, ReplyReader.Read(text, []).Because.Contains("asks", StringComparison.Ordinal));

    [Fact]
    public void A_colleague_is_nobody_only_where_a_step_can_be_for_nobody()
    {
        StepKind kind = new(
            "k",
            "K",
            Lane.Team,
            "ridgeboard",
            [new("who", "Who", SettingType.Colleague) { Choices = [new("one", "One")] }],
            []
        );
        var step = new Step(
            "s",
            "S",
            "k",
            StepMoment.AtOnce,
            new Dictionary<string, string> { ["who"] = StepKinds.Nobody }
        );
        Assert.Contains(FuseFaults.Find(Fuse(Whenever(step)), Around() with { Steps = new([kind]) }), f =>
            f.Code == FuseFaultCode.ColleagueGone
        );
        Assert.DoesNotContain(
            FuseFaults.Find(
                Fuse(Whenever(step with { Settings = new Dictionary<string, string> { ["who"] = "one" } })),
                Around() with
                {
                    Steps = new([kind]),
                }
            ),
            f => f.StepId == "s"
        );
    }

    [Theory]
    [InlineData("ab", "abel", true)]
    [InlineData("abe", "abel", false)]
    [InlineData("a", "abel", false)]
    [InlineData("abel", "ab", true)]
    [InlineData("bab", "abel", true)]
    public void A_first_name_of_three_letters_may_stand_for_a_longer_one(string one, string other, bool contradicts) =>
        Assert.Equal(
            contradicts,
            new PersonSketch(one, "Calloway", "a@example.com").Contradicts(
                new PersonSketch(other, "Calloway", "b@example.com")
            )
        );

    [Theory]
    [InlineData("山田", "太郎", "太郎 山田")]
    [InlineData("山田", "Taro", "山田 Taro")]
    [InlineData("Taro", "山田", "Taro 山田")]
    public void Names_of_the_east_are_turned_only_where_both_are(string first, string last, string whole) =>
        Assert.Equal(whole, PersonNames.Join(first, last));

    [Theory]
    [InlineData("mc", "Mc")]
    [InlineData("mca", "Mca")]
    [InlineData("mcad", "McAd")]
    [InlineData("o'", "O'")]
    [InlineData("o'b", "O'B")]
    [InlineData("d’angelo", "D’Angelo")]
    public void Names_are_cased(string typed, string cased) =>
        Assert.Equal(
            cased,
            MessageWords
                .Parse("{{ lead.x | name_case }}")
                .Words!.Render(Lead().Words with { Lead = new Dictionary<string, string> { ["x"] = typed } })
                .Text
        );

    [Fact]
    public void A_name_on_a_lead_is_no_longer_than_a_name()
    {
        var map = CompiledMap.From(new([new("n", "full_name"), new("c", "company")]), "GB", []);
        var read = map.Read([new("n", new string('n', 5000)), new("c", new string('c', 5000))]).Values;
        Assert.True(
            read["first_name"].Length < read["company"].Length,
            $"{read["first_name"].Length} and {read["company"].Length}"
        );
    }

    [Theory]
    [InlineData("12 Nov 99999999999")]
    [InlineData("99999999999 Nov 2026")]
    [InlineData("Nov 12345 2026")]
    [InlineData("99999999999/11/2026")]
    public void A_date_of_too_many_digits_is_none(string typed) =>
        Assert.NotNull(
            ValueReader
                .Read(typed, new LeadField("start", "Start", LeadFieldType.Date, []), ReadingLocale.For(null, "GB"))
                .Fault
        );

    [Fact]
    public void A_rule_that_is_not_complete_yet_is_said_all_the_same()
    {
        foreach (var op in Enum.GetValues<RuleOp>())
        {
            RuleSet rules = new(RuleMatch.All, [new("fleet_size", op, [])]);
            Assert.StartsWith("fleet size ", Guard.Say(rules), StringComparison.Ordinal);
            Assert.Equal(RuleOps.NeedsValues(op), Guard.Say(rules).Contains('…', StringComparison.Ordinal));
            Assert.NotEmpty(FuseSentence.Say(Fuse(new Band("b", "B", new(EntryKind.When, rules), [Post("p")]))));
        }
    }

    [Theory]
    [InlineData("abc", 3, "abc", "abc")]
    [InlineData("abcd", 3, "abc", "ab…")]
    [InlineData("ab\ud83d\udd25", 4, "ab\ud83d\udd25", "ab\ud83d\udd25")]
    [InlineData("ab\ud83d\udd25", 3, "ab", "ab…")]
    [InlineData("a\ud83d\udd25bc", 3, "a\ud83d\udd25", "a…")]
    [InlineData("a bcd", 3, "a b", "a…")]
    [InlineData("a", 0, "", "…")]
    public void A_text_is_cut_between_characters(string text, int most, string to, string shortened)
    {
        Assert.Equal(to, Texts.Clip.To(text, most));
        if (most > 0)
            Assert.Equal(shortened, Texts.Clip.Short(text, most));
    }

    [Theory]
    [InlineData("1")]
    [InlineData("null")]
    [InlineData("\"x\"")]
    [InlineData("[]")]
    [InlineData("{}")]
    [InlineData(
        "{\"burnId\":\"01a20fdf-9ae5-78c5-bc7b-b98a165a069e\",\"status\":\"burning\",\"submittedAt\":1,\"litAt\":\"soon\",\"steps\":[]}"
    )]
    [InlineData("{\"burnId\":7,\"status\":\"nothing\",\"steps\":\"torn\"}")]
    public void A_state_that_cannot_be_read_is_kept_as_it_is(string stored)
    {
        var state = BurnState.Read(stored);
        Assert.NotEmpty(state.TornBecause!);
        Assert.Equal(stored, state.Written());
        var whole = NewBurn(At("24 12:00:00"));
        Assert.Null(BurnState.Read(whole.Written()).Torn);
        Assert.Equal(whole.Written(), BurnState.Read(whole.Written()).Written());
    }

    [Fact]
    public void A_way_in_that_asks_for_a_detail_is_not_open_to_what_has_none()
    {
        var fuse = CompiledFuse.From(Fuse(Whenever(Post("p"))));
        var facts = new GuardFacts(_ => null, LocalDate.MinIsoValue);
        Assert.NotNull(
            fuse.LitByAny(
                [LeadEvent.Of(EventKeys.Submission, At("24 12:00:00"), "x", ("form", "brackenwheel-test-ride"))],
                facts
            ).LitBy
        );
        Assert.Null(
            fuse.LitByAny(
                [LeadEvent.Of(EventKeys.Submission, At("24 12:00:00"), "x", ("form", "another"))],
                facts
            ).LitBy
        );
        Assert.Null(fuse.LitByAny([LeadEvent.Of(EventKeys.Submission, At("24 12:00:00"), "x")], facts).LitBy);
    }

    [Fact]
    public void By_what_a_lead_was_known_is_said()
    {
        ContactKey mail = new(ContactKind.Email, "ines@example.com"),
            phone = new(ContactKind.Phone, "+447700900123");
        var ines = new PersonSketch("Ines", "Calloway", "ines@example.com");
        LeadMatch<PersonSketch> By(ContactKey key) =>
            LeadMatcher.Match(new[] { mail, phone }, ines, k => k == key ? new[] { ines } : [], l => l);
        Assert.Equal("same email", By(mail).Because);
        Assert.Equal("same telephone number", By(phone).Because);
    }

    [Fact]
    public void A_form_under_another_key_is_lit_by_the_fuses_of_that_key()
    {
        var facts = new Continuity.LineFacts();
        var board = new LineBoard();
        board.Put(facts.Form);
        board.Put(Line(Fuse(Whenever(Post("p")))));
        board.All(At("24 12:00:00"));
        Assert.NotEmpty(board.Lines[facts.Form.Id].Fuses);
        board.Put(facts.Form with { Key = "another" });
        board.Changed(At("24 12:00:00"));
        Assert.Empty(board.Lines[facts.Form.Id].Fuses);
        board.Put(facts.Form);
        board.Changed(At("24 12:00:00"));
        Assert.NotEmpty(board.Lines[facts.Form.Id].Fuses);
    }

    [Fact]
    public void Of_two_filters_that_are_not_there_the_first_is_named() =>
        Assert.Equal("there is no filter 'nope'", MessageWords.Parse("{{ lead.name | nope | none }}").Fault);

    [Fact]
    public void A_field_is_emptied_by_a_step_that_gives_no_value_and_filled_by_words()
    {
        Step Set(string? value) =>
            new(
                "s",
                "Set",
                StepKinds.SetField,
                StepMoment.AtOnce,
                new Dictionary<string, string> { ["field"] = "company" }
                    .Concat(value is null ? [] : [KeyValuePair.Create("value", value)])
                    .ToDictionary()
            );
        Assert.DoesNotContain(FuseFaults.Find(Fuse(Whenever(Set(null))), Around()), f => f.StepId == "s");
        var done = new BurnLife(Fuse(Whenever(Set("{{ lead.first_name }} & Co"))), At("24 12:00:00"))
            .All.OfType<BurnEffect.Do>()
            .Single();
        Assert.Equal("Ines & Co", done.Settings["value"]);
    }

    [Theory]
    [InlineData(",5", "0.5")]
    [InlineData(".5", "0.5")]
    [InlineData("5,", "5")]
    public void A_number_may_begin_with_its_mark(string typed, string read) =>
        Assert.Equal(
            decimal.Parse(read, System.Globalization.CultureInfo.InvariantCulture),
            ValueReader.Number(
                typed,
                ReadingLocale.For(typed.Contains(',', StringComparison.Ordinal) ? "de" : null, "GB")
            )
        );

    [Theory]
    [InlineData("ANNA- CALLOWAY", "Anna-")]
    [InlineData("O'NEILL CALLOWAY", "O'Neill")]
    public void A_name_all_in_capitals_is_cased(string typed, string first) =>
        Assert.Equal(first, PersonNames.Split(typed, "GB").First);

    [Theory]
    [InlineData("tuesday morning", "Tuesday morning")]
    [InlineData("tuesday morning wednesday", null)]
    public void What_tells_for_another_too_chooses_nothing(string said, string? choice) =>
        Assert.Equal(choice, ReplyReader.Read(said, ["Tuesday morning", "Wednesday noon"]).Choice);
}

using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests.Continuity;

public sealed class LineCheckTests
{
    private static readonly LineFacts Whole = new();

    [Fact]
    public void A_line_with_nothing_wrong_is_whole_and_names_its_joints_in_order()
    {
        var line = Whole.Line();
        Assert.Empty(line.Cuts);
        Assert.Equal(LineState.Whole, line.State);
        Assert.Equal(
            [
                "Plaza",
                "permissions",
                "form",
                "thank-you",
                "answers",
                "map",
                "fields",
                "fuse",
                "Ridgeboard",
                "Copperline",
                "Pillarpost",
                "Gridlet",
                "hours",
                "proof",
            ],
            line.Joints.Select(j => j.Name)
        );
        Assert.Equal("A lead went all the way: 4 s at the network, 180 ms with us.", line.Joints[^1].Words);
        Assert.Equal([LineFacts.FuseId], line.Fuses);
    }

    [Fact]
    public void Every_joint_broken_by_itself_is_named_with_its_cause_and_its_mend()
    {
        foreach (var broken in Break.All)
        {
            var line = broken.Do(Whole).Line();
            Assert.Equal(LineState.Cut, line.State);
            var first = line.Cuts[0];
            Assert.True(first.Joint == broken.Joint, $"{broken}: {first.Joint} is named");
            Assert.Contains(broken.Says, first.Cause, StringComparison.Ordinal);
            Assert.Equal(broken.Mend, first.Mend.Place);
            // Every other joint stands as it did, but for those that are not asked for without a fuse or a map.
            Assert.All(line.Joints.Where(j => j.Kind != broken.Joint), j => Assert.NotEqual(LineState.Cut, j.State));
            Assert.True(
                line.Cuts.Count == 1 || broken.Joint is JointKind.Service or JointKind.Hours,
                $"{broken}: {string.Join(" / ", line.Cuts.Select(c => c.Cause))}"
            );
        }
    }

    [Fact]
    public void A_cut_is_the_same_cut_when_a_step_is_renamed()
    {
        foreach (var broken in Break.All)
        {
            var facts = broken.Do(Whole);
            var renamed = facts with
            {
                Fuse = facts.Fuse with
                {
                    Bands =
                    [
                        .. facts.Fuse.Bands.Select(b =>
                            b with
                            {
                                Name = "แบนด์",
                                Steps = [.. b.Steps.Select(s => s with { Name = "ขั้น" })],
                            }
                        ),
                    ],
                },
            };
            Assert.Equal(facts.Line().Cuts.Select(c => c.Key), renamed.Line().Cuts.Select(c => c.Key));
        }
    }

    [Fact]
    public void A_cut_has_a_short_key_whatever_somebody_wrote()
    {
        // The key is in an index, which takes no entry of any length.
        var facts = Whole with
        {
            Fuse = Whole.Fuse with
            {
                Bands =
                [
                    Whenever(
                        new Step(
                            "s",
                            "s",
                            StepKinds.SetStage,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["stage"] = new string('ก', 100_000) }
                        )
                    ),
                ],
            },
        };
        Assert.InRange(Assert.Single(facts.Line().Cuts).Key.Length, 1, 120);
    }

    [Fact]
    public void Of_two_broken_joints_the_first_is_named_first_and_the_other_after_it()
    {
        var pairs = 0;
        foreach (var one in Break.All)
        {
            foreach (var two in Break.All.Where(b => b.Of != one.Of))
            {
                var line = two.Do(one.Do(Whole)).Line();
                var shown = new[] { one, two }.Where(b => Shows(b, one, two)).ToList();
                var first = shown.MinBy(b => b.Joint)!;
                Assert.True(
                    line.Cuts[0].Joint == first.Joint,
                    $"{one} and {two}: {line.Cuts[0].Joint} is named first ({line.Cuts[0].Cause})"
                );
                foreach (var each in shown)
                    Assert.True(
                        line.Cuts.Any(c =>
                            c.Joint == each.Joint && c.Cause.Contains(each.Says, StringComparison.Ordinal)
                        ),
                        $"{one} and {two}: “{each.Says}” is not told; told is {string.Join(" / ", line.Cuts.Select(c => c.Cause))}"
                    );
                Assert.Equal(line.Cuts.Select(c => c.Joint).Order(), line.Cuts.Select(c => c.Joint));
                pairs++;
            }
        }

        Assert.True(pairs > 1000, $"{pairs} pairs");
    }

    // Without a fuse nothing is needed of fields, services or hours; without a map no field is judged; without an
    // access no permission, without a connection no channel.
    private static bool Shows(Break broken, Break one, Break two)
    {
        var other = broken == one ? two : one;
        if (other.Disarms && (broken.Joint is JointKind.Fields or JointKind.Service))
            return false;
        if (other.Name == "the chat is not connected" && broken.Name == "the channel is gone")
            return false;
        if (other.Disarms && broken is { Joint: JointKind.Hours } && broken.Mend != MendPlace.Held)
            return false;
        if (other.Joint == JointKind.Map && broken.Joint == JointKind.Fields)
            return false;
        return !(other.Name == "not connected" && broken.Joint == JointKind.Permissions);
    }

    public static TheoryData<string, LineProof?, Instant?> Unproven() =>
        new()
        {
            { "No lead has gone all the way yet.", null, null },
            {
                "The map was changed since a lead last went all the way.",
                Whole.Form.Proof! with
                {
                    MapVersion = 2,
                },
                null
            },
            {
                "The fuse was changed since a test last went all the way.",
                Whole.Form.Proof! with
                {
                    Test = true,
                    Versions = [Guid.Empty],
                },
                null
            },
            {
                "It was mended since a lead last went all the way.",
                Whole.Form.Proof,
                LineFacts.Now - Duration.FromMinutes(1)
            },
            {
                "It is more than 30 days since a lead went all the way.",
                Whole.Form.Proof! with
                {
                    At = LineFacts.Now - Duration.FromDays(31),
                },
                null
            },
        };

    [Theory]
    [MemberData(nameof(Unproven))]
    public void A_line_is_unproven_until_a_lead_has_gone_all_the_way_as_it_is_now(
        string words,
        LineProof? proof,
        Instant? mended
    )
    {
        var line = (Whole with { Form = Whole.Form with { Proof = proof, MendedAt = mended } }).Line();
        Assert.Equal(LineState.Unproven, line.State);
        Assert.Empty(line.Cuts);
        Assert.Equal(words, line.Joints[^1].Words);
    }

    [Fact]
    public void A_step_that_asks_first_whether_there_is_a_phone_does_without_it()
    {
        var asks = Whole.Fuse with
        {
            Bands =
            [
                .. Whole.Fuse.Bands.Select(b =>
                    b with
                    {
                        Steps =
                        [
                            .. b.Steps.Select(s =>
                                s.Kind == StepKinds.Text
                                    ? s with
                                    {
                                        When = new(RuleMatch.All, [new("phone", RuleOp.Filled, [])]),
                                    }
                                    : s
                            ),
                        ],
                    }
                ),
            ],
        };
        var line = (
            Whole with
            {
                Fuse = asks,
                Form = Whole.Form with { Fills = Whole.Form.Fills.Where(f => f != "phone").ToHashSet() },
            }
        ).Line();
        Assert.Empty(line.Cuts);
    }

    [Theory]
    [InlineData("25+", true)]
    [InlineData("4–9", false)]
    public void Only_who_comes_at_once_to_a_step_that_needs_a_lost_field_waits_for_it(string fleet, bool waits)
    {
        var big = Fixtures.Fuse(Fixtures.Whenever(Fixtures.Post("post")), Fixtures.Big(Fixtures.Text("text")));
        var line = (Whole with { Fuse = big, Form = Lacking("phone") }).Line();
        Assert.Contains("goes to their phone", Assert.Single(line.Cuts).Cause, StringComparison.Ordinal);
        var wait = Assert.Single(line.Waits);
        Assert.Equal(
            ("phone", waits),
            (wait.Field, wait.Keeps(new Dictionary<string, string> { ["fleet_size"] = fleet }, new(2026, 11, 24)))
        );
    }

    [Theory]
    [InlineData("25+", true, false)]
    [InlineData("4–9", true, true)]
    [InlineData("25+", false, true)]
    public void Who_enters_another_band_does_not_wait_for_what_the_otherwise_band_needs(
        string fleet,
        bool surely,
        bool waits
    )
    {
        var big = Fixtures.Big(Fixtures.Post("post"));
        var entry = surely
            ? big.Entry
            : big.Entry with
            {
                Rules = new(RuleMatch.All, [.. big.Entry.Rules!.Rules, new(Facts.WorkingHours, RuleOp.Yes, [])]),
            };
        var fuse = Fixtures.Fuse(
            big with
            {
                Entry = entry,
            },
            new Band("rest", "Otherwise", new(EntryKind.Otherwise), [Fixtures.Text("text")])
        );
        var wait = Assert.Single((Whole with { Fuse = fuse, Form = Lacking("phone") }).Line().Waits);
        Assert.Equal(waits, wait.Keeps(new Dictionary<string, string> { ["fleet_size"] = fleet }, new(2026, 11, 24)));
    }

    [Fact]
    public void A_band_that_asks_for_the_lost_field_itself_lets_nobody_past_the_wait()
    {
        var none = new Band(
            "none",
            "No phone",
            new(EntryKind.When, new(RuleMatch.All, [new("phone", RuleOp.Empty, [])])),
            [Fixtures.Post("post")]
        );
        var fuse = Fixtures.Fuse(
            none,
            new Band("rest", "Otherwise", new(EntryKind.Otherwise), [Fixtures.Text("text")])
        );
        Assert.True(
            Assert
                .Single((Whole with { Fuse = fuse, Form = Lacking("phone") }).Line().Waits)
                .Keeps(new Dictionary<string, string>(), default)
        );
    }

    [Fact]
    public void An_access_that_was_not_asked_yet_what_it_may_is_no_cut()
    {
        var line = (
            Whole with
            {
                Form = Whole.Form with { Access = Whole.Form.Access! with { Missing = null } },
            }
        ).Line();
        Assert.Empty(line.Cuts);
        var joint = line.Joints.Single(j => j.Kind == JointKind.Permissions);
        Assert.Equal((LineState.Unproven, "Plaza has not been asked yet what we may do."), (joint.State, joint.Words));
    }

    [Fact]
    public void What_is_known_of_a_lead_besides_its_answers_may_bring_it_to_a_step_and_what_comes_later_waits_for_nothing()
    {
        var hours = Fixtures.Fuse(
            Fixtures.Whenever(
                Fixtures.Text("text") with
                {
                    When = new(RuleMatch.All, [new(Facts.WorkingHours, RuleOp.Yes, [])]),
                }
            )
        );
        Assert.True(
            Assert
                .Single((Whole with { Fuse = hours, Form = Lacking("phone") }).Line().Waits)
                .Keeps(new Dictionary<string, string>(), default)
        );
        var always = hours with
        {
            Bands = [hours.Bands[0], Fixtures.Whenever(Fixtures.Text("other")) with { Id = "b2" }],
        };
        Assert.Empty(Assert.Single((Whole with { Fuse = always, Form = Lacking("phone") }).Line().Waits).When);
        var later = Fixtures.Fuse(
            Fixtures.Whenever(Fixtures.Post("post")),
            new Band(
                "silent",
                "On silence",
                new(EntryKind.Silence, Of: "post", ForSeconds: 3600),
                [Fixtures.Text("text")]
            )
        );
        var line = (Whole with { Fuse = later, Form = Lacking("phone") }).Line();
        Assert.NotEmpty(line.Cuts);
        Assert.Empty(line.Waits);
        // A field that people leave empty is there all the same.
        var empty = Lacking("phone");
        Assert.Empty(
            (Whole with { Form = empty with { Drift = [.. empty.Drift.Select(d => d with { Lost = false })] } })
                .Line()
                .Waits
        );
    }

    private static LineForm Lacking(string field) =>
        Whole.Form with
        {
            Drift =
            [
                new(
                    $"gone.{field}",
                    DriftKind.Gone,
                    field,
                    field,
                    $"“{field}” has not come in the last 5 submissions.",
                    "Take it out of the map",
                    5
                )
                {
                    Lost = true,
                },
            ],
        };

    [Fact]
    public void What_a_service_demands_and_one_field_alone_fills_is_needed()
    {
        var only = Whole.Fuse with
        {
            Bands = [Whole.Fuse.Bands[0] with { Steps = [.. Whole.Fuse.Bands[0].Steps.Where(s => s.Id == "row")] }],
        };
        var without = Whole.Form with { Fills = new HashSet<string> { "phone" } };
        Assert.Contains(
            "No field goes to email",
            Assert.Single((Whole with { Fuse = only, Form = without }).Line().Cuts).Cause,
            StringComparison.Ordinal
        );
        // With a word to fall back on it is not.
        var falls = only with
        {
            Bands =
            [
                only.Bands[0] with
                {
                    Steps =
                    [
                        only.Bands[0].Steps[0] with
                        {
                            Settings = new Dictionary<string, string>
                            {
                                ["sheet"] = "Rides",
                                ["columns.mail"] = "{{ lead.email | default: \"none\" }}",
                            },
                        },
                    ],
                },
            ],
        };
        Assert.Empty((Whole with { Fuse = falls, Form = without }).Line().Cuts);
    }

    [Fact]
    public void A_field_that_is_filled_seldom_is_told_and_cuts_nothing()
    {
        var line = (
            Whole with
            {
                Form = Whole.Form with { Filled = new Dictionary<string, Filled> { ["phone"] = new(6, 20) } },
            }
        ).Line();
        Assert.Empty(line.Cuts);
        Assert.Equal(
            "What the steps need is mapped, and filled seldom: phone in 30 %.",
            line.Joints.Single(j => j.Kind == JointKind.Fields).Words
        );
    }

    [Fact]
    public void A_form_that_sends_by_itself_has_no_joint_of_access()
    {
        var line = (
            Whole with
            {
                Form = Whole.Form with
                {
                    NeedsAccess = false,
                    Access = null,
                    AdState = null,
                    Visits = null,
                    Thanks = null,
                },
            }
        ).Line();
        Assert.Equal(["form", "map", "fields", "fuse"], line.Joints.Take(4).Select(j => j.Name));
        Assert.Equal(LineState.Whole, line.State);
    }

    [Fact]
    public void A_service_that_is_down_is_one_cut_however_many_steps_and_fuses_go_through_it()
    {
        var down = Break
            .All.Single(b => b.Name == "the chat is down")
            .Do(
                Whole with
                {
                    Fuse = Fixtures.Fuse(
                        Fixtures.Whenever(Fixtures.Post("p1"), Fixtures.Post("p2") with { Name = "Another post" })
                    ),
                }
            );
        var other = FuseLine.Of(
            Guid.Parse("01a20fdf-0000-7000-8000-0000000000e9"),
            Guid.Empty,
            FuseStanding.Armed,
            down.Fuse with
            {
                Name = "Another fuse",
            },
            down.Around,
            down.Hours,
            LineFacts.Now
        );
        var line = LineCheck.Of(down.Form, [down.FuseLine(), other], down.Connections, down.Client, LineFacts.Now);
        Assert.Equal("connection.c-chat", Assert.Single(line.Cuts).Key);
    }

    [Fact]
    public void A_board_that_is_told_of_changes_says_what_judging_everything_would_say()
    {
        var chance = new Random(20261126);
        var board = new LineBoard();
        var forms = Enumerable
            .Range(0, 12)
            .Select(i =>
                Whole.Form with
                {
                    Id = Guid.Parse($"01a20fdf-0000-7000-8000-{i:x12}"),
                    Key = $"form-{i}",
                    Source = $"Source {i % 3}",
                }
            )
            .ToDictionary(f => f.Id);
        var fuses = new Dictionary<Guid, FuseLine>();
        var client = Whole.Client;
        var connections = new Dictionary<string, LineConnection>(Whole.Connections);
        foreach (var connection in connections.Values)
            board.Put(connection);
        FuseLine Fuse(int n)
        {
            var way = chance.Next(4) switch
            {
                0 => new Dictionary<string, IReadOnlyList<string>> { ["source"] = [$"Source {chance.Next(3)}"] },
                1 => new Dictionary<string, IReadOnlyList<string>> { ["campaign"] = ["spring"] },
                _ => Fixtures.OnForm($"form-{chance.Next(12)}", $"form-{chance.Next(12)}"),
            };
            var broken = chance.Next(3) == 0 ? Break.All[chance.Next(Break.All.Count)].Do(Whole) : Whole;
            return FuseLine.Of(
                Guid.Parse($"01a20fdf-0000-7000-9000-{n:x12}"),
                Guid.Empty,
                broken.Standing,
                broken.Fuse with
                {
                    LitBy = [new(EventKeys.Submission, way)],
                },
                broken.Around,
                broken.Hours,
                LineFacts.Now
            );
        }

        foreach (var form in forms.Values)
            board.Put(form);
        for (var turn = 0; turn < 400; turn++)
        {
            switch (chance.Next(6))
            {
                case 0 when fuses.Count > 2:
                    var gone = fuses.Keys.ElementAt(chance.Next(fuses.Count));
                    fuses.Remove(gone);
                    board.RemoveFuse(gone);
                    break;
                case 1:
                    var id = forms.Keys.ElementAt(chance.Next(forms.Count));
                    var changed = Break.All[chance.Next(Break.All.Count)].Do(Whole).Form;
                    board.Put(forms[id] = changed with { Id = id, Key = forms[id].Key, Source = forms[id].Source });
                    break;
                case 2 when turn % 7 == 0:
                    board.Put(client = client with { HeldAt = client.HeldAt is null ? LineFacts.Now : null });
                    break;
                case 3:
                    var one = connections.Keys.ElementAt(chance.Next(connections.Count));
                    board.Put(
                        connections[one] = connections[one] with
                        {
                            Fault = chance.Next(2) == 0 ? null : "It does not answer.",
                            Paused = chance.Next(4) == 0,
                        }
                    );
                    break;
                default:
                    var fuse = Fuse(chance.Next(8));
                    board.Put(fuses[fuse.Id] = fuse);
                    break;
            }

            board.Changed(LineFacts.Now);
            foreach (var form in forms.Values)
            {
                var fresh = LineCheck.Of(
                    form,
                    [.. fuses.Values.Where(f => f.LitBy(form)).OrderBy(f => f.Id)],
                    connections,
                    client,
                    LineFacts.Now
                );
                Assert.True(fresh.SameAs(board.Lines[form.Id]), $"turn {turn}, {form.Key}");
            }
        }
    }
}

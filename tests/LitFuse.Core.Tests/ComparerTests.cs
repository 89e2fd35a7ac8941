using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>Two versions of a fuse, told by what they do.</summary>
public sealed class ComparerTests
{
    private static readonly FuseDefinition Before = Fuse(Whenever(Post("post"), Text("text", 90)), Big(Text("big")));

    private static List<string> Told(FuseDefinition after, FuseDefinition? before = null) =>
        [
            .. FuseComparer
                .Compare(before ?? Before, after, StepCatalog.Plain, EventCatalog.Plain)
                .Select(d => $"{d.Where}{(d.What is null ? "" : ", " + d.What)}: {d.Before ?? "–"} → {d.After ?? "–"}"),
        ];

    private static FuseDefinition With(Func<Step, Step> change, string id = "text") =>
        Before with
        {
            Bands =
            [
                .. Before.Bands.Select(b => b with { Steps = [.. b.Steps.Select(s => s.Id == id ? change(s) : s)] }),
            ],
        };

    [Fact]
    public void The_same_does_the_same()
    {
        Assert.Empty(Told(Before));
        Assert.Empty(Told(FuseFile.Parse(FuseFile.Print(Before)).Fuse!));
    }

    [Fact]
    public void Every_part_of_a_step_is_told_by_its_name()
    {
        Assert.Equal(
            ["“Text: someone is on it”, when it is done: after 90 s → after 5 min"],
            Told(With(s => s with { Moment = StepMoment.After(300) }))
        );
        Assert.Equal(
            ["“Text: someone is on it”, words: {{ lead.first_name }}, we have it. → Hello"],
            Told(With(s => s with { Settings = new Dictionary<string, string> { ["words"] = "Hello" } }))
        );
        Assert.Equal(["“Hello”, name: Text: someone is on it → Hello"], Told(With(s => s with { Name = "Hello" })));
        Assert.Equal(
            ["“Text: someone is on it”, condition: – → fleet size is 25+"],
            Told(With(s => s with { When = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]) }))
        );
        Assert.Equal(
            ["“Text: someone is on it”, hours: – → 09:00–12:00, else left out"],
            Told(With(s => s with { Hours = new(HoursKind.Own, OutsideHours.Skip, "09:00", "12:00") }))
        );
        Assert.Equal(
            ["“Text: someone is on it”, when it fails: – → tried patient, then the fuse stops"],
            Told(With(s => s with { OnFailure = new(RetryProfile.Patient, FailureThen.Stop) }))
        );
        Assert.Equal(
            ["“Text: someone is on it”, choices: – → Tuesday; Thursday"],
            Told(With(s => s with { Choices = ["Tuesday", "Thursday"] }))
        );
    }

    [Fact]
    public void What_came_went_or_moved_is_told_with_where()
    {
        var (always, big) = (Before.Bands[0], Before.Bands[1]);
        Assert.Equal(
            ["“Text: someone is on it”: Text to the lead after 90 s, in “Always” → –"],
            Told(Before with { Bands = [always with { Steps = [always.Steps[0]] }, big] })
        );
        Assert.Equal(
            ["“Text: someone is on it”, band: Always → Big fleets"],
            Told(
                Before with
                {
                    Bands =
                    [
                        always with
                        {
                            Steps = [always.Steps[0]],
                        },
                        big with
                        {
                            Steps = [.. big.Steps, always.Steps[1]],
                        },
                    ],
                }
            )
        );
        Assert.Equal(
            ["“Otherwise”: – → Otherwise", "“Post to the ride desk”: – → Post in a channel at once, in “Otherwise”"],
            Told(Before with { Bands = [always, big, Otherwise(Post("new"))] })
                .Select(t => t.Replace("Post in the chat", "Post in a channel", StringComparison.Ordinal))
        );
        Assert.Equal(
            [
                "“Big fleets”: When fleet size is one of 10–24, 25+ → –",
                "“Text: someone is on it”: Text to the lead at once, in “Big fleets” → –",
            ],
            Told(Before with { Bands = [always] })
        );
        Assert.Equal(
            ["The fuse, order of bands: Always, Big fleets → Big fleets, Always"],
            Told(Before with { Bands = [big, always] })
        );
        Assert.Equal(
            ["“Big fleets”, when it is entered: When fleet size is one of 10–24, 25+ → Otherwise"],
            Told(Before with { Bands = [always, big with { Entry = new(EntryKind.Otherwise) }] })
        );
        Assert.Equal(
            ["“Big fleets”, how often it is entered: once → each time"],
            Told(Before with { Bands = [always, big with { EachTime = true }] })
        );
    }

    [Fact]
    public void The_fuse_itself_is_told_too() =>
        Assert.Equal(
            [
                "The fuse, name: Test ride: tell the desk → Other",
                "The fuse, what lights it: they send a form: brackenwheel-test-ride → a tag is put on the tag hot",
                "The fuse, relighting: only when the last has ended → once in 7 days",
                "The fuse, what stops it: somebody of the team reaches out; they reply; they want no more messages → –",
                "The fuse, age limit: 24 h → 48 h",
                "The fuse, how long it listens: 7 days → 3 days",
                "The fuse, bands whose rules hold: all are entered → only the first is entered",
            ],
            Told(
                Before with
                {
                    Name = "Other",
                    LitBy =
                    [
                        new(EventKeys.Tagged, new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["hot"] }),
                    ],
                    Relight = Relight.OnceInDays,
                    RelightDays = 7,
                    StopOn = [],
                    AgeLimitHours = 48,
                    HearsForDays = 3,
                    BandChoice = BandChoice.First,
                }
            )
        );
}

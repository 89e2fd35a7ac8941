using System.Text.Json.Nodes;
using CsCheck;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.GenFuses;

namespace LitFuse.Core.Tests;

/// <summary>What holds of every fuse, whatever is in it: how it is compared, checked, said and written down.</summary>
public sealed class FuseLaws
{
    private static readonly HashSet<string> Several = [Facts.Tags];

    private static IReadOnlyList<FuseDifference> Compare(FuseDefinition before, FuseDefinition after) =>
        FuseComparer.Compare(before, after, StepCatalog.Plain, EventCatalog.Plain);

    // Every single thing that can be changed about a fuse, as one edit each.
    private static readonly (string What, Func<FuseDefinition, FuseDefinition> Edit)[] Edits =
    [
        ("name", f => f with { Name = f.Name + "!" }),
        ("age limit", f => f with { AgeLimitHours = f.AgeLimitHours + 1 }),
        ("how long it listens", f => f with { HearsForDays = f.HearsForDays + 1 }),
        ("bands whose rules hold", f =>
            f with
            {
                BandChoice = f.BandChoice == BandChoice.First ? BandChoice.All : BandChoice.First,
            }
        ),
        ("relighting", f => f with { Relight = f.Relight == Relight.Once ? Relight.Always : Relight.Once }),
        ("what stops it", f =>
            f with
            {
                StopOn =
                [
                    .. f.StopOn,
                    new(EventKeys.Tagged, new Dictionary<string, IReadOnlyList<string>> { ["tag"] = ["bought"] }),
                ],
            }
        ),
        ("what lights it", f => f with { LitBy = [.. f.LitBy, new(EventKeys.Replied)] }),
        ("how often it is entered", f => OfFirstBand(f, b => b with { EachTime = !b.EachTime })),
        ("when it is entered", f =>
            OfFirstBand(f, b =>
                b with
                {
                    Entry = new(EntryKind.When, new(RuleMatch.All, [new("company", RuleOp.Filled, [])])),
                }
            )
        ),
        ("when it is done", f => OfFirstStep(f, s => s with { Moment = StepMoment.After(77) })),
        ("condition", f =>
            OfFirstStep(f, s => s with { When = new(RuleMatch.All, [new("company", RuleOp.Filled, [])]) })
        ),
        ("hours", f => OfFirstStep(f, s => s with { Hours = new(HoursKind.Own, From: "03:00", To: "04:00") })),
        ("choices", f => OfFirstStep(f, s => s with { Choices = ["Sunday"] })),
        ("kind", f =>
            OfFirstStep(f, s => s with { Kind = s.Kind == StepKinds.Text ? StepKinds.Email : StepKinds.Text })
        ),
        ("words", f =>
            OfFirstStep(f, s =>
                s with
                {
                    Settings = new Dictionary<string, string>(s.Settings) { ["words"] = "Quite other words" },
                }
            )
        ),
    ];

    private static FuseDefinition OfFirstBand(FuseDefinition fuse, Func<Band, Band> change) =>
        fuse with
        {
            Bands = [change(fuse.Bands[0]), .. fuse.Bands.Skip(1)],
        };

    private static FuseDefinition OfFirstStep(FuseDefinition fuse, Func<Step, Step> change) =>
        fuse with
        {
            Bands =
            [
                .. fuse.Bands.Select(
                    (b, i) =>
                        i == FirstWithSteps(fuse) ? b with { Steps = [change(b.Steps[0]), .. b.Steps.Skip(1)] } : b
                ),
            ],
        };

    private static int FirstWithSteps(FuseDefinition fuse) => fuse.Bands.ToList().FindIndex(b => b.Steps.Count > 0);

    [Fact]
    public void What_is_the_same_differs_in_nothing() =>
        GenFuse.Sample(fuse => Compare(fuse, FuseFile.Parse(FuseFile.Print(fuse)).Fuse!).Count == 0);

    [Fact]
    public void Each_edit_is_told_by_its_name_and_nothing_else_is() =>
        Gen.Select(GenFuse, Gen.Int[0, Edits.Length - 1])
            .Sample(
                (fuse, n) =>
                {
                    var (what, edit) = Edits[n];
                    var after = edit(fuse);
                    if (FuseFile.Same(fuse, after))
                        return true;
                    var told = Compare(fuse, after);
                    // Each kind of step calls its words what they are for it; and one that becomes another kind may
                    // have other settings told, too.
                    return what is "words"
                        ? told.Count == 1
                        : told.Any(d => d.What == what) && (what is "kind" || told.Count == 1);
                }
            );

    [Fact]
    public void Two_that_are_not_the_same_differ_in_something_that_is_told() =>
        Gen.Select(GenFuse, GenFuse).Sample((a, b) => FuseFile.Same(a, b) || Compare(a, b).Count > 0);

    [Fact]
    public void What_differs_one_way_differs_the_other_way_round() =>
        Gen.Select(GenFuse, GenFuse)
            .Sample(
                (a, b) =>
                {
                    static IEnumerable<string> Sorted(IEnumerable<(string? From, string? To)> of) =>
                        of.Select(d => $"{d.From} → {d.To}").Order(StringComparer.Ordinal);
                    return Sorted(Compare(a, b).Select(d => (d.Before, d.After)))
                        .SequenceEqual(Sorted(Compare(b, a).Select(d => (d.After, d.Before))));
                }
            );

    [Fact]
    public void Every_fault_and_doubt_has_a_place_that_is_there_and_a_mend() =>
        GenFuse.Sample(fuse =>
        {
            var bands = fuse.Bands.Select(b => b.Id).ToHashSet(StringComparer.Ordinal);
            var steps = fuse.Bands.SelectMany(b => b.Steps).Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
            return FuseFaults
                .Find(fuse, Around())
                .Concat(FuseDoubts.Find(fuse, Around().Fields, Several, []))
                .All(f =>
                    (f.BandId is null || bands.Contains(f.BandId))
                    && (f.StepId is null || steps.Contains(f.StepId))
                    && f.What.EndsWith('.')
                    && f.Mend.EndsWith('.')
                );
        });

    [Fact]
    public void It_is_said_in_sentences_without_a_word_of_the_language_it_is_written_in() =>
        GenFuse.Sample(fuse =>
        {
            var said = FuseSentence.Say(fuse);
            return said.EndsWith('.')
                && !said.Contains("{{", StringComparison.Ordinal)
                && !said.Contains("  ", StringComparison.Ordinal);
        });

    [Fact]
    public void Its_name_is_never_empty_and_never_longer_than_a_line() =>
        GenFuse.Sample(fuse =>
            FuseSentence.Name(fuse, EventCatalog.Plain, _ => "Book a test ride") is { Length: > 0 and <= 100 } name
            && name.Trim() == name
        );

    [Fact]
    public void As_a_file_it_names_its_schema_first_and_is_read_as_it_was() =>
        GenFuse.Sample(fuse =>
        {
            var text = FuseFile.Print(fuse, "http://127.0.0.1:5080/schemas/fuse.json");
            return text.TrimStart('{', '\n', ' ').StartsWith("\"$schema\"", StringComparison.Ordinal)
                && FuseFile.Parse(text).Fuse is { } back
                && FuseFile.Same(back, fuse);
        });

    [Fact]
    public void Whatever_is_cut_out_of_a_file_it_is_read_or_refused_in_words() =>
        Gen.Select(GenFuse, Gen.Int[0, 9999], Gen.Int[1, 40])
            .Sample(
                (fuse, from, length) =>
                {
                    var text = FuseFile.Print(fuse);
                    var at = from % text.Length;
                    var (read, fault) = FuseFile.Parse(text.Remove(at, Math.Min(length, text.Length - at)));
                    return read is not null || InWords(fault!);
                }
            );

    [Fact]
    public void A_key_that_is_not_known_is_refused_by_its_name_wherever_it_stands() =>
        Gen.Select(GenFuse, Gen.Int[0, 9999])
            .Sample(
                (fuse, which) =>
                {
                    var whole = JsonNode.Parse(FuseFile.Print(fuse))!;
                    var places = ShapedIn(whole).ToList();
                    places[which % places.Count]["burns_twice"] = 1;
                    return FuseFile.Parse(whole.ToJsonString()) is (null, { } fault)
                        && fault.Contains("'burns_twice' is no key", StringComparison.Ordinal)
                        && InWords(fault);
                }
            );

    private static bool InWords(string fault) =>
        fault.StartsWith("it is not a fuse: ", StringComparison.Ordinal)
        && !fault.Contains("System.", StringComparison.Ordinal)
        && !fault.Contains("LitFuse.", StringComparison.Ordinal)
        && !fault.Contains("`1", StringComparison.Ordinal);

    // Every object whose keys have a meaning; those of settings and details are the writer's own.
    private static IEnumerable<JsonObject> ShapedIn(JsonNode? node)
    {
        if (node is JsonArray list)
            foreach (var one in list.SelectMany(ShapedIn))
                yield return one;
        if (node is not JsonObject shaped)
            yield break;
        yield return shaped;
        foreach (var one in shaped.Where(p => p.Key is not ("settings" or "only")).SelectMany(p => ShapedIn(p.Value)))
            yield return one;
    }
}

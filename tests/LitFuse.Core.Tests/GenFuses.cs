using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Tests;

/// <summary>Fuses made of everything the language has.</summary>
internal static class GenFuses
{
    private static readonly string[] Kinds =
    [
        StepKinds.Text,
        StepKinds.Email,
        StepKinds.ChannelPost,
        StepKinds.DirectPost,
        StepKinds.TeamText,
        StepKinds.Tag,
        StepKinds.Notice,
        StepKinds.Stop,
        StepKinds.Hold,
        StepKinds.LightFuse,
        StepKinds.SetStage,
        StepKinds.SetOwner,
    ];

    public static readonly string[] Happens =
    [
        EventKeys.Replied,
        EventKeys.Touched,
        EventKeys.OptedOut,
        EventKeys.Tagged,
        EventKeys.StageReached,
        EventKeys.Submission,
        EventKeys.DeliveryFailed,
    ];

    private static readonly Gen<StepMoment> GenMoment = Gen.Select(
            Gen.Int[0, 5],
            Gen.Int[0, 90_000],
            Gen.Int[0, 12],
            Gen.Bool,
            Gen.Int[0, 23]
        )
        .Select(
            (kind, seconds, days, working, hour) =>
                kind switch
                {
                    < 2 => StepMoment.AtOnce,
                    2 or 3 => StepMoment.After(seconds),
                    4 => new StepMoment(Days: days, Working: working, At: $"{hour:00}:30"),
                    _ => new StepMoment(Days: days, Working: working, From: MomentFrom.Submission),
                }
        );

    private static readonly Gen<StepHours?> GenHours = Gen.Select(Gen.Int[0, 6], Gen.Int[0, 2], Gen.Int[6, 15])
        .Select(
            (kind, outside, from) =>
                kind switch
                {
                    0 => new StepHours(HoursKind.None, (OutsideHours)outside),
                    1 => new StepHours(HoursKind.Own, (OutsideHours)outside, $"{from:00}:00", $"{from + 4:00}:00"),
                    2 => new StepHours(HoursKind.Working, (OutsideHours)outside),
                    3 => new StepHours(HoursKind.Send, (OutsideHours)outside),
                    _ => (StepHours?)null,
                }
        );

    private static readonly Gen<Step> GenStep = Gen.Select(
            Gen.Int[0, Kinds.Length - 1],
            GenMoment,
            GenHours,
            Gen.Int[0, 9],
            Gen.Int[0, 7]
        )
        .Select(
            (kind, moment, hours, fail, uses) =>
                new Step(
                    "?",
                    "A step",
                    Kinds[kind],
                    moment,
                    new Dictionary<string, string>
                    {
                        ["words"] = uses == 0 ? "See {{ steps.b0s0.url }}" : "Hello {{ lead.first_name }}",
                        ["subject"] = "x",
                        ["channel"] = "#ride-desk",
                        ["person"] = "imke.sandoval",
                        ["colleague"] = "owner",
                        ["tag"] = "t",
                        ["stage"] = "Won",
                        ["fuse"] = "f",
                    },
                    uses switch
                    {
                        1 => new(
                            RuleMatch.Any,
                            [new("fleet_size", RuleOp.OneOf, ["25+"])],
                            [new(RuleMatch.All, [new(Facts.WorkingHours, RuleOp.Yes, [])])]
                        ),
                        3 => new(
                            RuleMatch.Any,
                            [
                                new("steps.b0s0.status", RuleOp.OneOf, ["done", "cancelled"]),
                                new("steps.b0s1.url", RuleOp.Filled, []),
                                new("steps.gone.status", RuleOp.Filled, []),
                            ]
                        ),
                        4 => new(
                            RuleMatch.Any,
                            [
                                new(Facts.ReplyMeaning, RuleOp.OneOf, ["yes"]),
                                new(Facts.ReplyChoice, RuleOp.Filled, []),
                                new(Facts.ReplyText, RuleOp.Contains, ["second"]),
                                new("event.tag", RuleOp.OneOf, ["t"]),
                            ]
                        ),
                        _ => null,
                    },
                    hours,
                    fail < 6 ? null : new StepFailure((RetryProfile)(fail % 3), (FailureThen)(fail % 4), "owner", "?"),
                    Choices: uses == 2 ? ["Tuesday", "Wednesday"] : null
                )
        );

    private static readonly Gen<BandEntry> GenEntry = Gen.Select(
            Gen.Int[0, 9],
            Gen.Int[0, Happens.Length - 1],
            Gen.Int[0, 7],
            Gen.Int[1, 80_000]
        )
        .Select(
            (kind, happens, of, span) =>
                kind switch
                {
                    < 3 => new BandEntry(EntryKind.Always),
                    3 => new BandEntry(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])),
                    4 => new BandEntry(EntryKind.Otherwise),
                    5 or 6 => new BandEntry(
                        EntryKind.On,
                        span % 3 == 0
                            ? new(
                                RuleMatch.All,
                                [
                                    new(
                                        happens % 2 == 0 ? "event.tag" : "fleet_size",
                                        RuleOp.OneOf,
                                        [happens % 2 == 0 ? "t" : "25+"]
                                    ),
                                ]
                            )
                            : null,
                        Event: Happens[happens],
                        Only: of < 2 && happens == 0
                            ? new Dictionary<string, IReadOnlyList<string>>
                            {
                                ["meaning"] = [of == 0 ? "yes" : "choice"],
                            }
                            : null
                    ),
                    7 => new BandEntry(EntryKind.Silence, Of: $"b{of % 4}s{of / 4}", ForSeconds: span),
                    8 => new BandEntry(EntryKind.Failed, Of: of < 4 ? null : $"b{of % 4}s0"),
                    _ => new BandEntry(EntryKind.End, Of: $"b{of % 4}"),
                }
        );

    // The first step waits for no other: what waits in a circle cannot be armed.
    public static readonly Gen<FuseDefinition> GenFuse = Gen.Select(
            Gen.Select(GenEntry, GenStep.List[0, 3], Gen.Bool).List[1, 5],
            Gen.Int[0, 3],
            Gen.Int[1, 48],
            Gen.Bool
        )
        .Select(
            (bands, stops, age, first) =>
                new FuseDefinition
                {
                    Name = "A fuse",
                    LitBy =
                    [
                        new(
                            EventKeys.Submission,
                            new Dictionary<string, IReadOnlyList<string>> { ["form"] = ["brackenwheel-test-ride"] }
                        ),
                    ],
                    Bands =
                    [
                        .. bands.Select(
                            (b, i) =>
                                new Band(
                                    $"b{i}",
                                    $"Band {i}",
                                    b.Item1,
                                    [
                                        .. b.Item2.Select(
                                            (s, j) =>
                                                s with
                                                {
                                                    Id = $"b{i}s{j}",
                                                    When =
                                                        (i, j) == (0, 0)
                                                        && s.When?.Every.Any(r =>
                                                            r.Field.StartsWith(Facts.Steps, StringComparison.Ordinal)
                                                        ) == true
                                                            ? null
                                                            : s.When,
                                                    OnFailure = s.OnFailure is { } f
                                                        ? f with
                                                        {
                                                            Step = $"b{i}s{(j + 1) % Math.Max(1, b.Item2.Count)}",
                                                        }
                                                        : null,
                                                }
                                        ),
                                    ],
                                    b.Item3
                                )
                        ),
                    ],
                    StopOn = stops == 0 ? [] : StopRule.Usual,
                    AgeLimitHours = age,
                    BandChoice = first ? BandChoice.First : BandChoice.All,
                    HearsForDays = stops,
                }
        );
}

using CsCheck;
using LitFuse.Core.Calling;
using LitFuse.Core.Continuity;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Kits;
using LitFuse.Core.Tests.Continuity;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>What fuses do, what is said of them, when one may speak, how lines are judged and calls go.</summary>
public sealed class EngineRecordings
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static List<T> Made<T>(Gen<T> gen, int count, uint seed)
    {
        var chance = new PCG(seed, 2026);
        return [.. Enumerable.Range(0, count).Select(_ => gen.Generate(chance, null, out var _))];
    }

    private static string Lines(params object?[] parts) => string.Join(" │ ", parts.Select(Say));

    // Traces are too long to be kept whole: their marks, ten on a line.
    private static IEnumerable<string> Traced(IEnumerable<string> traces) =>
        traces.Chunk(10).Select((ten, i) => $"{i * 10:000} {string.Join(' ', ten.Select(Mark))}");

    [Fact]
    public void Lives()
    {
        var lives = Made(LanguageLaws.GenLife, 2500, 1)
            .Select(life =>
                string.Join(
                    " ▸ ",
                    LanguageLaws
                        .Live(life)
                        .Select(m =>
                            $"{m.What.GetType().Name} {Say(m.Decision.Effects.Select(e => $"{e.GetType().Name} {Say((object)e)}"))} {Say(m.Decision.State)}"
                        )
                )
            );
        Hold("lives", Traced(lives));
    }

    [Fact]
    public void Rehearsals_and_backtests()
    {
        Reaction[] reactions =
        [
            new(
                Duration.FromMilliseconds(300),
                StepStatus.Done,
                "took it",
                new Dictionary<string, string> { ["url"] = "u" }
            ),
            new(Duration.FromSeconds(70), StepStatus.Failed, "it did not"),
            new(Duration.FromHours(3), StepStatus.Done, "late"),
        ];
        var script = new[] { 90, 4000, 90_000, 200_000 }
            .SelectMany(s =>
                new[] { EventKeys.Replied, EventKeys.Tagged, EventKeys.Submission, EventKeys.StageReached }.Select(
                    (key, i) =>
                        new Scripted(
                            Noon + Duration.FromSeconds(s + i),
                            On(
                                key,
                                "it happened",
                                Noon + Duration.FromSeconds(s + i),
                                ("text", i == 0 ? "yes" : "Tuesday"),
                                ("tag", "t"),
                                ("stage", "Won"),
                                ("form", "f")
                            )
                        )
                )
            )
            .ToList();
        var runs = Made(Gen.Select(GenFuses.GenFuse, Gen.Int[0, 9], Gen.Int[0, 100]), 1200, 2)
            .Select(
                (made, i) =>
                {
                    var (definition, answers, from) = made;
                    var fuse = CompiledFuse.From(definition);
                    var lead = Lead(fleet: i % 3 == 0 ? "1–3" : "25+", hasPhone: i % 5 != 0) with
                    {
                        MostADay = i % 4,
                        ClientZone = London,
                    };
                    var run = Rehearser.Run(
                        fuse,
                        NewBurn(Noon),
                        lead,
                        script.Skip(from % 16).Where((_, n) => n % (1 + answers) == 0),
                        (d, _) => reactions[(d.Key.Length + answers) % 3],
                        Noon + Duration.FromDays(20)
                    );
                    var test = new Backtest(fuse, words: i % 2 == 0, Duration.FromDays(20), (s, _) =>
                        reactions[(s.Id[1] + answers) % 3]
                    ).Put(
                        new(
                            lead,
                            Noon,
                            i % 7 == 0
                                ? null
                                : LeadEvent.Of(EventKeys.Submission, Noon, "x", ("form", "brackenwheel-test-ride")),
                            [.. script.Skip(from % 16)]
                        ),
                        out var not
                    );
                    return $"{Say(run.Moments.Select(m => $"{m.At} {(m.Effect is { } e ? $"{e.GetType().Name} {Say((object)e)}" : m.What!.GetType().Name)} {m.Words}"))} {run.TooLate} {Say(run.State)} ▸ {string.Join(',', test.Marks ?? [])} {test.ToLead} {test.Texts} {test.Segments} {test.FirstAfter} {not}";
                }
            );
        Hold("rehearsals", Traced(runs));
    }

    [Fact]
    public void Faults_doubts_differences_and_sentences()
    {
        var fuses = Made(GenFuses.GenFuse, 90, 3);
        var tampered = fuses
            .Select(
                (f, i) =>
                    f with
                    {
                        Name =
                            i % 9 == 0 ? ""
                            : i % 10 == 0 ? new string('n', 119 + (i / 10 % 3))
                            : f.Name,
                        AgeLimitHours = i % 8 == 0 ? 719 + (i / 8 % 3) : f.AgeLimitHours,
                        HearsForDays = i % 7 == 0 ? 89 + (i / 7 % 3) : f.HearsForDays,
                        RelightDays = i % 6 == 0 ? 3649 + (i / 6 % 3) : f.RelightDays,
                        Bands =
                            i % 11 == 0
                                ?
                                [
                                    .. Enumerable
                                        .Range(0, 49 + (i / 11 % 3))
                                        .Select(n => f.Bands[0] with { Id = $"n{n}" }),
                                ]
                                : f.Bands,
                        LitBy =
                            i % 5 == 0
                                ?
                                [
                                    .. Enumerable
                                        .Range(0, 19 + (i / 5 % 3))
                                        .Select(_ => new LitBy(
                                            EventKeys.DateReached,
                                            Timer: new(i % 2 == 0 ? "09:00" : "x", "start", 399 + (i / 5 % 3), [i % 9])
                                        )),
                                ]
                                : f.LitBy,
                    }
            )
            .ToList();
        Hold(
            "sayings",
            tampered
                .SelectMany(
                    (f, i) =>
                        new[]
                        {
                            Lines(i, FuseSentence.Say(f), FuseSentence.Name(f, EventCatalog.Plain, k => "Test ride")),
                            Lines(
                                i,
                                "faults",
                                Short(
                                    Say(
                                        FuseFaults
                                            .Find(f, Around())
                                            .Select(x => $"{x.BandId}/{x.StepId} {x.Code} {x.About}: {x.What}")
                                    ),
                                    400
                                )
                            ),
                            Lines(
                                i,
                                "doubts",
                                Short(
                                    Say(
                                        FuseDoubts
                                            .Find(
                                                f,
                                                Around().Fields,
                                                new HashSet<string> { Facts.Tags },
                                                [new("Other", fuses[(i + 1) % fuses.Count])]
                                            )
                                            .Select(x => $"{x.BandId}/{x.StepId} {x.Code} {x.About}: {x.What}")
                                    ),
                                    400
                                )
                            ),
                            Lines(
                                i,
                                "to next",
                                Short(
                                    Say(
                                        FuseComparer
                                            .Compare(
                                                f,
                                                tampered[(i + 1) % tampered.Count],
                                                StepCatalog.Plain,
                                                EventCatalog.Plain
                                            )
                                            .Select(d => $"{d.Where} {d.What}: {d.Before} → {d.After}")
                                    ),
                                    400
                                )
                            ),
                        }
                )
                .Concat(
                    new[]
                    {
                        0,
                        1,
                        59,
                        60,
                        61,
                        90,
                        3599,
                        3600,
                        5400,
                        7200,
                        86_399,
                        86_400,
                        90_000,
                        172_800,
                        604_800,
                        2_592_000,
                    }.Select(s =>
                        Lines(
                            s,
                            FuseSentence.Span(s),
                            FuseSentence.Roughly(Duration.FromSeconds(s)),
                            FuseSentence.Until(Noon, Noon + Duration.FromSeconds(s))
                        )
                    )
                )
        );
    }

    [Fact]
    public void Kits()
    {
        KitSurroundings whole = new(
            ["brackenwheel-test-ride"],
            [
                new("fleet_size", "Fleet size", ["1–3", "4–9", "10–24", "25+"], FactType.Choice),
                new("start_month", "Start month", [], FactType.Date),
            ],
            ["#ride-desk", "#hall"],
            ["imke.sandoval", "tobias.renn"],
            ["01a20fdf-0000-7000-8000-000000000001"],
            ["New", "Spoken", "Won"]
        );
        KitSurroundings[] clients = [whole, new([], [], [], [], [], [])];
        Hold(
            "kits",
            StarterKits.All.SelectMany(k =>
                clients.SelectMany(c =>
                    k.Build(c) is var f
                        ? f
                            .Bands.SelectMany(b =>
                                b.Steps.Select(s =>
                                    Lines(k.Key, b.Name, b.Entry, b.EachTime, Short(Say((object)s), 240))
                                )
                            )
                            .Prepend(Lines(k.Key, k.Name, k.For, f with { Bands = [] }))
                        : []
                )
            )
        );
    }

    [Fact]
    public void Gate_and_hours()
    {
        string[] times =
        [
            "24 06:59:59",
            "24 07:59:59",
            "24 08:00:00",
            "24 12:00:00",
            "24 17:59:00",
            "24 18:00:00",
            "24 20:29:59",
            "24 20:30:00",
            "24 21:00:00",
            "24 22:00:00",
            "28 12:00:00",
            "29 09:00:00",
        ];
        string[] countries = ["GB", "US", "CA", "FR", "IT", "BR", "DE", "XX"];
        StepHours?[] hours =
        [
            null,
            new(HoursKind.None),
            new(HoursKind.Working),
            new(HoursKind.Own, OutsideHours.Skip, "10:00", "11:30"),
            new(HoursKind.Own, OutsideHours.Send, "22:00", "23:30", [6, 7]),
            new(HoursKind.Own, OutsideHours.Wait, "09:00", "09:30", [2]),
        ];
        DateTimeZone[] zones =
        [
            London,
            DateTimeZoneProviders.Tzdb["America/Vancouver"],
            DateTimeZoneProviders.Tzdb["Pacific/Honolulu"],
            DateTimeZoneProviders.Tzdb["Asia/Kathmandu"],
        ];
        var asked =
            from voice in Enum.GetValues<Voice>()
            from c in countries.Select((c, i) => (c, i))
            from t in times.Select((t, i) => (t, i))
            let h = hours[(c.i + t.i) % hours.Length]
            let z = zones[(c.i + t.i + (int)voice) % zones.Length]
            select Lines(
                voice.ToString(),
                c.c,
                t.t,
                z.Id,
                ContactPolicy
                    .Ask(
                        Lead(zone: z) with
                        {
                            PhoneCountry = c.c,
                            ClientZone = London,
                            MostADay = t.i % 3,
                            Sent = [.. Enumerable.Range(0, t.i % 4).Select(n => At(t.t) - Duration.FromHours(5 * n))],
                        },
                        At(t.t) - Duration.FromMinutes(20 * t.i),
                        Duration.FromHours(3 + (c.i * 5)),
                        At(t.t),
                        voice,
                        h
                    )
                    .ToString()
            );
        Hold(
            "gate",
            asked
                .Concat(
                    countries.SelectMany(c =>
                        Enum.GetValues<Voice>().Select(v => Lines(c, v.ToString(), HoursLaw.For(v, c)))
                    )
                )
                .Concat(
                    from t in times
                    from c in countries
                    select Lines(
                        t,
                        c,
                        OpenTimes.Next(SendHours, London, HoursLaw.For(Voice.Call, c).Hours, zones[1], At(t)),
                        ContactPolicy.ByHand(Lead(zone: zones[1]) with { PhoneCountry = c }, At(t))
                    )
                )
                .Concat(
                    hours
                        .OfType<StepHours>()
                        .Concat([
                            new(HoursKind.Own, From: "18:00", To: "09:00"),
                            new(HoursKind.Own, From: "x", To: "y"),
                            new(HoursKind.Own, From: "09:00", To: "10:00", Weekdays: [0, 8]),
                            new(HoursKind.Own),
                        ])
                        .Select(h => Lines(h, h.Fault()))
                )
                .Concat(Moments())
        );
    }

    private static IEnumerable<string> Moments()
    {
        StepMoment[] moments =
        [
            StepMoment.AtOnce,
            StepMoment.After(90),
            StepMoment.After(3600),
            new(Days: 1),
            new(Days: 3, Working: true),
            new(Days: 1, At: "08:30"),
            new(Days: 2, Working: true, At: "17:00"),
            new(At: "06:00"),
            new(Days: 400),
            new(Days: 401),
            new(AfterSeconds: -1),
            new(At: "25:00"),
            new(AfterSeconds: 3600, Working: true),
            new(Days: 1, From: MomentFrom.Submission),
        ];
        foreach (var moment in moments)
        {
            if (moment.Fault() is { } fault)
            {
                yield return Lines(moment, fault);
                continue;
            }

            var fuse = CompiledFuse.From(Fuse(Whenever(Post("p") with { Moment = moment })));
            foreach (var at in new[] { "24 12:00:00", "27 17:30:00", "28 23:59:59" })
                yield return Lines(
                    moment,
                    at,
                    Decider
                        .Decide(fuse, NewBurn(At(at)), new BurnEvent.Lit(), Lead(), At(at))
                        .State.Steps.Select(s => s.DueAt)
                );
        }
    }

    [Fact]
    public void Guards()
    {
        string?[] values =
        [
            null,
            "",
            "25+",
            "Twenty",
            "5",
            "12.5",
            "1,200",
            "£300",
            "yes",
            "no",
            "2026-11-24",
            "2026-12-24",
            "2026-11-24T12:00:00Z",
            "a, b",
            "hot",
            "-3",
            "true",
        ];
        string[] others = ["25+", "5", "12", "yes", "2026-11-24", "7", "b", "Hot", "a, b"];
        var facts = (string? v) =>
            new GuardFacts(
                f =>
                    f == "x" ? v
                    : f == "steps.row.status" ? "done"
                    : null,
                new LocalDate(2026, 11, 24)
            );
        string Ask(RuleSet rules, string? value) =>
            Guard.Compile(rules) is (Guard: { } guard, _)
                ? Say((object)guard.Ask(facts(value)))
                : Say(Guard.Compile(rules).Faults);
        var single =
            from op in Enum.GetValues<RuleOp>()
            from v in values
            select Lines(
                op.ToString(),
                v,
                others.Select(o =>
                    Ask(new(RuleMatch.All, [new("x", op, RuleOps.NeedsValues(op) ? [o] : [])]), v) is var said
                    && said.Contains("\"holds\":true", StringComparison.Ordinal)
                        ? "1"
                        : "0"
                ),
                Ask(new(RuleMatch.All, [new("x", op, RuleOps.NeedsValues(op) ? ["5", "25+"] : [])]), v)
            );
        Rule[] rules =
        [
            new("x", RuleOp.Filled, []),
            new("x", RuleOp.OneOf, ["hot", "5"]),
            new("steps.row.status", RuleOp.OneOf, ["done"]),
            new("y", RuleOp.Empty, []),
        ];
        var groups =
            from m in Enum.GetValues<RuleMatch>()
            from inner in Enum.GetValues<RuleMatch>()
            from v in values
            select Lines(
                m.ToString(),
                inner.ToString(),
                v,
                Ask(new(m, [rules[0], rules[3]], [new(inner, [rules[1], rules[2]])]), v),
                Guard.Say(new RuleSet(m, [rules[0]], [new(inner, [rules[1]])]))
            );
        var sense =
            from a in Enum.GetValues<RuleOp>()
            from b in Enum.GetValues<RuleOp>()
            select Lines(
                a.ToString(),
                b.ToString(),
                RuleSense.Contradiction(
                    [
                        new(
                            RuleMatch.All,
                            [
                                new("x", a, RuleOps.NeedsValues(a) ? ["5"] : []),
                                new("x", b, RuleOps.NeedsValues(b) ? ["7"] : []),
                            ]
                        ),
                    ],
                    _ => false
                ),
                RuleSense.Contradiction(
                    [
                        new(RuleMatch.All, [new("x", a, RuleOps.NeedsValues(a) ? ["7"] : [])]),
                        new(RuleMatch.All, [new("x", b, RuleOps.NeedsValues(b) ? ["5", "7"] : [])]),
                    ],
                    _ => true
                ),
                RuleSense.Taken(
                    new(RuleMatch.Any, [new("x", a, RuleOps.NeedsValues(a) ? ["5"] : [])]),
                    "x",
                    ["5", "7", "9"]
                )
            );
        Hold(
            "guards",
            single
                .Concat(groups)
                .Concat(sense)
                .Concat(Enum.GetValues<FactType>().Select(t => Lines(t.ToString(), RuleOps.For(t))))
                .Concat(Facts.Standing.Select(f => Lines(f.Path, f.Label, Facts.Say(f.Path))))
        );
    }

    [Fact]
    public void Calls()
    {
        CallPlan plan = new(
            [new("imke", "Imke Sandoval", "+447700900101"), new("tobias", "Tobias Renn", "+447700900102")],
            "Bram Okafor",
            "+447700900300",
            "Bram asks for a test ride."
        );
        CallPlan[] plans =
        [
            plan,
            plan with
            {
                AtOnce = true,
            },
            plan with
            {
                SpeaksToMachines = true,
            },
            plan with
            {
                Asks = false,
            },
        ];
        var events = Gen.OneOf<CallEvent>(
            Gen.Int[0, 2].Select(l => (CallEvent)new CallEvent.Answered(l)),
            Gen.Select(Gen.Int[0, 2], Gen.Int[1, 3]).Select((l, k) => (CallEvent)new CallEvent.KeyPressed(l, Say(k))),
            Gen.Int[0, 2].Select(l => (CallEvent)new CallEvent.Guessed(l)),
            Gen.Int[0, 2].Select(l => (CallEvent)new CallEvent.Joined(l)),
            Gen.Select(Gen.Int[0, 2], Gen.Enum<LegEnding>()).Select((l, e) => (CallEvent)new CallEvent.LegEnded(l, e)),
            Gen.Const((CallEvent)new CallEvent.Woken()),
            Gen.Const((CallEvent)new CallEvent.HungUp("hung up here"))
        );
        var calls = Made(Gen.Select(Gen.Int[0, 3], Gen.Select(events, Gen.Int[0, 40]).List[3, 14]), 500, 5)
            .Select(made =>
            {
                var now = Noon;
                var one = CallMachine.Next(plans[made.Item1], CallState.New, new CallEvent.Begun(), now);
                var told = new List<string> { Effects(one) };
                foreach (var (what, after) in made.Item2)
                {
                    now =
                        what is CallEvent.Woken && one.State.NextWake is { } wake
                            ? Instant.Max(now, wake)
                            : now + Duration.FromSeconds(after);
                    one = CallMachine.Next(plans[made.Item1], one.State, what, now);
                    told.Add($"{what} → {Effects(one)} {one.State.Stage} {Say(one.State.Legs)} {one.State.NextWake}");
                }

                return string.Join(" ▸ ", told);
            });
        static string Effects(CallDecision decision) => string.Join(", ", decision.Effects.Select(e => e.ToString()));
        Hold(
            "calls",
            Traced(calls)
                .Concat(
                    Enum.GetValues<CallOutcome>()
                        .Select(o =>
                            Lines(
                                o.ToString(),
                                CallEnding.WordOf(o),
                                CallEnding.OutcomeOf(CallEnding.WordOf(o)).ToString()
                            )
                        )
                )
                .Concat(
                    new[] { 0, 1, 59, 60, 61, 3599, 3661 }.Select(s =>
                        Lines(s, CallWords.Talk(Duration.FromSeconds(s)))
                    )
                )
        );
    }

    [Fact]
    public void Lines_of_forms()
    {
        var facts = new LineFacts();
        var form = facts.Form;
        IEnumerable<LineFacts> near =
        [
            .. from with in new[] { 0, 1, 2, 3, 9 }
            from empty in new[] { 0, 1, 2, 3, 4, 5, 6, 9 }
            select facts with
            {
                Form = form with { Visits = (with, empty) },
            },
            .. from times in new[] { 0, 1, 2, 14, 19, 20 }
            from of in new[] { 1, 4, 5, 6, 20 }
            from late in new[] { 0, 2, 5, 6, 20 }
            where times <= of && late <= of
            select facts with
            {
                Form = form with { Filled = new Dictionary<string, Filled> { ["phone"] = new(times, of, late) } },
            },
            .. from times in new[] { 1, 2, 3, 4 }
            from minutes in new[] { 1, 9, 10, 11, 60 }
            from since in new[] { 0, 14, 15, 16, 90 }
            select facts with
            {
                Form = form with
                {
                    Refused = new(
                        times,
                        LineFacts.Now - Duration.FromMinutes(minutes + since),
                        LineFacts.Now - Duration.FromMinutes(since),
                        "no key"
                    ),
                },
            },
            .. from days in new[] { 0, 1, 29, 30, 31 }
            from version in new[] { 2, 3 }
            select facts with
            {
                Form = form with
                {
                    Proof = form.Proof! with { At = LineFacts.Now - Duration.FromDays(days), MapVersion = version },
                },
            },
            facts with
            {
                Form = form with { Proof = null },
            },
            facts with
            {
                Form = form with { Missing = 1 },
            },
            facts with
            {
                Form = form with { Waiting = 1 },
            },
            facts with
            {
                Standing = FuseStanding.Draft,
            },
        ];
        static string Of(FormLine line) =>
            Lines(
                line.State.ToString(),
                line.Joints.Select(j => $"{j.Name} {j.State}: {j.Words}"),
                line.Cuts.Select(c => $"{c.Key} {c.Mend.Place}")
            );
        Hold(
            "lines",
            Break
                .All.Select(b =>
                    Lines(
                        b.Name,
                        b.Do(facts).Line().Cuts.Select(c => $"{c.Key} {c.Cause} {c.Mend}"),
                        Mark(Of(b.Do(facts).Line()))
                    )
                )
                .Concat(
                    near.Select(n =>
                        Of(n.Line()) is var said
                            ? $"{Short(string.Join(" ; ", n.Line().Cuts.Select(c => c.Cause)), 120)} {Mark(said)}"
                            : ""
                    )
                )
        );
    }

    [Fact]
    public void Designs_and_versions()
    {
        var fresh = FormDesign.Fresh;
        DesignField field = new("name", "Name", FormFieldType.Text, true, [], null, null);
        FormDesign[] designs =
        [
            fresh,
            fresh with
            {
                Fields = [],
            },
            fresh with
            {
                Fields = [field, field],
            },
            fresh with
            {
                Fields = [field with { Name = "id" }],
            },
            fresh with
            {
                Fields = [field with { Name = "lf_x" }],
            },
            fresh with
            {
                Fields = [field with { Name = "bad name!" }],
            },
            fresh with
            {
                Fields = [field with { Label = "" }],
            },
            fresh with
            {
                Fields = [field with { Type = FormFieldType.Choice, Choices = ["one"] }],
            },
            fresh with
            {
                Fields = [.. Enumerable.Range(0, 61).Select(i => field with { Name = $"n{i}" })],
            },
            fresh with
            {
                Fields = [field with { Hidden = new(null, null) }],
            },
            fresh with
            {
                Fields = [field with { Hidden = new("x", "utm_source") }],
            },
            fresh with
            {
                Fields = [field with { Label = new string('l', 301) }],
            },
            fresh with
            {
                Fields = [field with { Name = new string('n', 65) }],
            },
            fresh with
            {
                Fields =
                [
                    field with
                    {
                        Type = FormFieldType.Choice,
                        Choices = [.. Enumerable.Range(0, 101).Select(i => $"c{i}")],
                    },
                ],
            },
        ];
        var moves = Made(Gen.Select(GenFuses.GenFuse, GenFuses.GenFuse, Gen.Int[0, 90_000]), 200, 7)
            .Select(m =>
            {
                var life = new BurnLife(m.Item1, Noon);
                life.Now += Duration.FromSeconds(m.Item3);
                var moved = FuseMove.To(
                    CompiledFuse.From(m.Item1),
                    CompiledFuse.From(m.Item2),
                    life.State,
                    life.Lead,
                    life.Now
                );
                return $"{Say(moved.Changes)} {Say(moved.State)}";
            });
        Hold(
            "versions",
            designs
                .Select((d, i) => Lines(i, DesignFaults.Of(d)))
                .Concat(
                    new[]
                    {
                        "https://a.example",
                        "http://a",
                        "ftp://a",
                        "a.example",
                        "",
                        null,
                        "https://",
                        "javascript:x",
                    }.Select(u => Lines(u, DesignFaults.IsWeb(u)))
                )
                .Concat(Traced(moves))
        );
    }
}

using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Hours;
using LitFuse.Core.Stories;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.GenFuses;

namespace LitFuse.Core.Tests;

/// <summary>
/// What holds whatever a fuse says, over fuses made of everything the language has. A failing sample prints its seed.
/// </summary>
public sealed class LanguageLaws
{
    // A life is short and half of them begin at night: a hundred of them hardly put a law to the test.
    private const int Lives = 1500;

    internal sealed record Chance(int Kind, int Seconds, int Pick);

    private static readonly Gen<Chance> GenChance = Gen.Select(Gen.Int[0, 11], Gen.Int[0, 60_000], Gen.Int[0, 40])
        .Select((k, s, p) => new Chance(k, s, p));

    internal static readonly Gen<(FuseDefinition Fuse, int Start, List<Chance> Chances)> GenLife = Gen.Select(
        GenFuse,
        Gen.Int[0, 7 * 86_400],
        GenChance.List[0, 30]
    );

    internal sealed record Moment(Instant At, LeadFacts Facts, BurnEvent What, BurnState Before, Decision Decision);

    // Lives one burn: wakes, ends of deliveries, replies, tags, people's acts, in a random order at growing times.
    internal static List<Moment> Live((FuseDefinition Fuse, int Start, List<Chance> Chances) life)
    {
        var fuse = CompiledFuse.From(life.Fuse);
        var now = At("20 00:00:00") + Duration.FromSeconds(life.Start);
        var facts = Lead();
        var all = new List<Moment>();
        void Do(BurnEvent what, BurnState state) =>
            all.Add(new(now, facts, what, state, Decider.Decide(fuse, state, what, facts, now)));
        Do(new BurnEvent.Lit(), NewBurn(now));
        foreach (var chance in life.Chances)
        {
            now += Duration.FromSeconds(chance.Seconds);
            var state = all[^1].Decision.State;
            var sent = state.Steps.Where(s => s.Status == StepStatus.Sent).ToList();
            var any = state.Steps.Count == 0 ? "b0s0" : state.Steps[chance.Pick % state.Steps.Count].StepId;
            if (chance is { Kind: 10, Pick: < 10 })
                facts = facts with { OptedOut = true };
            Do(
                chance.Kind switch
                {
                    < 3 => new BurnEvent.Woken(),
                    < 6 when sent.Count > 0 => new BurnEvent.StepEnded(
                        sent[chance.Pick % sent.Count].StepId,
                        chance.Pick % 3 == 0 ? StepStatus.Failed : StepStatus.Done,
                        "as it came",
                        new Dictionary<string, string> { ["url"] = "u" }
                    ),
                    < 9 => On(
                        Happens[chance.Pick % Happens.Length],
                        "something",
                        now,
                        ("text", chance.Pick % 2 == 0 ? "yes please" : "the second"),
                        ("tag", "t"),
                        ("stage", "Won"),
                        ("form", "f"),
                        ("step", any)
                    ),
                    9 when chance.Pick % 4 == 0 => new BurnEvent.Skipped(any, "left out"),
                    9 when chance.Pick % 4 == 1 => new BurnEvent.LetGo("let go"),
                    9 when chance.Pick % 4 == 2 => new BurnEvent.Ended("ended by hand"),
                    9 => new BurnEvent.Replayed(any, "once more", chance.Pick % 8 == 3),
                    10 => On(EventKeys.OptedOut, "opted out", now),
                    _ => new BurnEvent.Lit(),
                },
                state
            );
        }

        return all;
    }

    [Fact]
    public void Each_effect_is_asked_for_once() =>
        GenLife.Sample(life =>
        {
            var keys = Live(life)
                .SelectMany(m => m.Decision.Effects.OfType<BurnEffect.Deliver>())
                .Select(d => d.Key)
                .ToList();
            return keys.Count == keys.Distinct(StringComparer.Ordinal).Count();
        });

    [Fact]
    public void Hours_and_opting_out_hold_whatever_the_fuse_says() =>
        GenLife.Sample(
            life =>
            {
                var steps = life.Fuse.Bands.SelectMany(b => b.Steps).ToDictionary(s => s.Id);
                return Live(life)
                    .All(m =>
                        m.Decision.Effects.OfType<BurnEffect.Deliver>()
                            .Where(d => d.Lane == Lane.Lead)
                            .All(d =>
                            {
                                var hours = steps[d.StepId].Hours ?? new(HoursKind.Send);
                                var own = hours.Of(m.Facts.SendHours, m.Facts.WorkHours);
                                var text = d.Kind == StepKinds.Text;
                                return !m.Facts.OptedOut
                                    && (
                                        !text
                                        || HoursLaw.For(Voice.Text, "GB").Hours.Any(h => h.IsOpen(m.At, m.Facts.Zone))
                                    )
                                    && (
                                        own is null
                                        || hours.Outside == OutsideHours.Send
                                        || own.IsOpen(m.At, m.Facts.Zone)
                                    )
                                    && m.At - d.PlannedAt <= Duration.FromHours(life.Fuse.AgeLimitHours);
                            })
                    );
            },
            iter: Lives
        );

    // The other half of the law: what is due and allowed does go. Judged by the hours themselves and not by the gate.
    [Fact]
    public void What_is_due_and_allowed_does_go()
    {
        var went = 0;
        GenLife.Sample(
            life =>
            {
                var steps = life.Fuse.Bands.SelectMany(b => b.Steps).ToDictionary(s => s.Id);
                foreach (var m in Live(life))
                {
                    var after = m.Decision.State;
                    Interlocked.Add(
                        ref went,
                        m.Decision.Effects.OfType<BurnEffect.Deliver>().Count(d => d.Lane == Lane.Lead)
                    );
                    if (after.Status is BurnStatus.Stopped or BurnStatus.Ended || after.Held is not null)
                        continue;
                    foreach (var step in after.Steps.Where(s => s.Status == StepStatus.Waiting))
                    {
                        var speaksOf = (steps[step.StepId].When?.Every.Select(r => r.Field) ?? [])
                            .Append(steps[step.StepId].Settings["words"])
                            .ToList();
                        var awaits = after.Steps.Any(s =>
                            !s.Over
                            && s.StepId != step.StepId
                            && speaksOf.Exists(w => w.Contains($"steps.{s.StepId}.", StringComparison.Ordinal))
                        );
                        // Nothing whose time has come is left lying, but what waits for another.
                        if (step.DueAt <= m.At && !awaits)
                            return false;
                    }

                    // What was put off for hours was put off at an hour that is shut, and to one that is open.
                    foreach (
                        var told in m
                            .Decision.Effects.OfType<BurnEffect.Tell>()
                            .Where(t => t.Kind == StoryKind.StepWaits)
                    )
                    {
                        var (step, slot) = (steps[told.StepId!], after.Steps.Last(s => s.StepId == told.StepId));
                        if (Open(step, m.At, m.Facts) || !Open(step, slot.DueAt, m.Facts))
                            return false;
                    }
                }

                return true;
            },
            iter: Lives
        );
        Assert.True(went > 100, $"only {went} messages went: the law was hardly put to the test");
    }

    private static bool Open(Step step, Instant at, LeadFacts facts)
    {
        var hours = step.Hours ?? new(HoursKind.Send);
        var toLead = StepCatalog.Plain.Find(step.Kind)!.Lane == Lane.Lead;
        var own = hours.Of(facts.SendHours, facts.WorkHours);
        var law =
            step.Kind != StepKinds.Text || HoursLaw.For(Voice.Text, "GB").Hours.Any(h => h.IsOpen(at, facts.Zone));
        return law
            && (
                own is null
                || (toLead && hours.Outside == OutsideHours.Send)
                || own.IsOpen(at, toLead ? facts.Zone : facts.ClientZone)
            );
    }

    [Fact]
    public void Nothing_is_said_to_a_lead_who_cannot_be_reached_so() =>
        Gen.Select(GenFuse, Gen.Bool, Gen.Bool)
            .Sample(
                (fuse, phone, email) =>
                {
                    var run = Rehearser.Run(
                        CompiledFuse.From(fuse),
                        NewBurn(At("24 12:00:00")),
                        Lead(hasPhone: phone) with
                        {
                            HasEmail = email,
                        },
                        [],
                        (_, _) => new(Duration.FromSeconds(1), StepStatus.Done, "took it"),
                        At("24 12:00:00") + Duration.FromDays(30)
                    );
                    return run
                        .Moments.Select(m => m.Effect)
                        .OfType<BurnEffect.Deliver>()
                        .Where(d => d.Lane == Lane.Lead)
                        .All(d => d.Kind == StepKinds.Email ? email : phone);
                }
            );

    [Fact]
    public void Stop_means_stop() =>
        GenLife.Sample(
            life =>
                Live(life)
                    .All(m =>
                    {
                        var stops =
                            m.What is BurnEvent.Ended
                            || (
                                m.What is BurnEvent.Happened { What: var what }
                                && life.Fuse.StopOn.Any(s => s.Event == what.Event)
                            );
                        if (!stops || !m.Before.Hears)
                            return true;
                        // What waited for lead and team before the event is over, or its band was entered anew by the
                        // very event.
                        return m
                            .Before.Steps.Where(s =>
                                s.Status == StepStatus.Waiting
                                && StepCatalog
                                    .Plain.Find(
                                        life.Fuse.Bands.SelectMany(b => b.Steps).First(x => x.Id == s.StepId).Kind
                                    )!
                                    .Lane
                                    is Lane.Lead
                                        or Lane.Team
                            )
                            .All(s =>
                                m.Decision.State.Steps.Where(x => x.StepId == s.StepId && x.Entry == s.Entry)
                                    .All(x => x.Over)
                            );
                    }),
            iter: Lives
        );

    // Everything before the touch may have lit anything; after it nothing comes from outside but ends of deliveries and
    // the passing of time.
    [Fact]
    public void A_stopped_burn_does_not_speak_to_the_lead_again() =>
        Gen.Select(GenFuse, GenLife, GenChance.List[0, 30])
            .Sample(
                (fuse, before, after) =>
                {
                    var unmoved = fuse with
                    {
                        StopOn = StopRule.Usual,
                        Bands =
                        [
                            .. fuse.Bands.Select(b =>
                                b.Entry is { Kind: EntryKind.On, Event: EventKeys.Touched }
                                    ? b with
                                    {
                                        Entry = new(EntryKind.On, Event: EventKeys.StageReached),
                                    }
                                    : b
                            ),
                        ],
                    };
                    var compiled = CompiledFuse.From(unmoved);
                    var lived = Live((unmoved, before.Start, before.Chances))[^1];
                    var now = lived.At;
                    var state =
                        Decider.Decide(
                            compiled,
                            lived.Decision.State,
                            On(EventKeys.Touched, "Imke reached out", now),
                            lived.Facts,
                            now
                        )
                            is { } stopped
                        && !stopped.Effects.OfType<BurnEffect.Deliver>().Any(d => d.Lane == Lane.Lead)
                            ? stopped.State
                            : null;
                    if (state is null)
                        return false;
                    var spoke = 0;
                    foreach (var chance in after)
                    {
                        now += Duration.FromSeconds(chance.Seconds);
                        var sent = state.Steps.Where(s => s.Status == StepStatus.Sent).ToList();
                        BurnEvent what = chance.Kind switch
                        {
                            < 3 => new BurnEvent.Woken(),
                            3 when chance.Pick % 4 == 0 => new BurnEvent.LetGo("let go"),
                            4 when state.Steps.Count > 0 => On(
                                EventKeys.DeliveryFailed,
                                "it came back",
                                now,
                                ("step", state.Steps[chance.Pick % state.Steps.Count].StepId)
                            ),
                            _ when sent.Count == 0 => new BurnEvent.Woken(),
                            _ => new BurnEvent.StepEnded(
                                sent[chance.Pick % sent.Count].StepId,
                                (chance.Pick % 3) switch
                                {
                                    0 => StepStatus.Failed,
                                    1 => StepStatus.Cancelled,
                                    _ => StepStatus.Done,
                                },
                                "as it came",
                                new Dictionary<string, string> { ["url"] = "u" }
                            ),
                        };
                        // Whoever has it not waiting for this event to enter a band of its own: nothing that was lit
                        // before speaks.
                        if (
                            what is BurnEvent.Happened
                            && unmoved.Bands.Any(b =>
                                b.Entry is { Kind: EntryKind.On, Event: EventKeys.DeliveryFailed }
                            )
                        )
                            continue;
                        var decided = Decider.Decide(compiled, state, what, lived.Facts, now);
                        spoke += decided.Effects.OfType<BurnEffect.Deliver>().Count(d => d.Lane == Lane.Lead);
                        state = decided.State;
                    }

                    return spoke == 0;
                },
                iter: 3000
            );

    [Fact]
    public void Deciding_twice_gives_the_same() =>
        GenLife.Sample(life =>
        {
            string Print(List<Moment> moments) =>
                string.Join(
                    '\n',
                    moments.Select(m =>
                        System.Text.Json.JsonSerializer.Serialize(m.Decision.State, CoreJson.Options)
                        + m.Decision.Effects.Count
                    )
                );
            return Print(Live(life)) == Print(Live(life));
        });

    [Fact]
    public void But_for_a_replay_a_step_goes_forward_only_and_it_stands_once_an_entering() =>
        GenLife.Sample(life =>
        {
            var moments = Live(life);
            return moments.All(m => m.Decision.State.Steps.GroupBy(s => (s.StepId, s.Entry)).All(g => g.Count() == 1))
                && moments
                    .Where(m => m.What is not BurnEvent.Replayed)
                    .All(m =>
                        m.Before.Steps.All(a =>
                            m.Decision.State.Steps.FirstOrDefault(b => b.StepId == a.StepId && b.Entry == a.Entry)
                                is not { } b
                            || b.Status == a.Status
                            || b.Status > a.Status
                        )
                    );
        });

    [Fact]
    public void An_ended_burn_has_nothing_to_do_and_stays_ended_until_a_person_has_a_step_replayed() =>
        GenLife.Sample(life =>
            Live(life)
                .All(m =>
                    (
                        m.Decision.State.Status != BurnStatus.Ended
                        || (m.Decision.State.Steps.All(s => s.Over) && m.Decision.State.NextWake is null)
                    )
                    && (
                        m.Before.Status != BurnStatus.Ended
                        || m.What is BurnEvent.Replayed
                        || (
                            m.Decision.State.Status == BurnStatus.Ended
                            && !m.Decision.Effects.OfType<BurnEffect.Deliver>().Any()
                        )
                    )
                )
        );

    [Fact]
    public void Whatever_waits_is_woken_for_or_waits_for_something_under_way() =>
        GenLife.Sample(life =>
            Live(life)
                .All(m =>
                {
                    var s = m.Decision.State;
                    var waits = s.Steps.Any(x => x.Status == StepStatus.Waiting) || s.Silences.Count > 0;
                    return !waits
                        || s.NextWake is not null
                        || s.Held is not null
                        || s.Steps.Any(x => x.Status == StepStatus.Sent);
                })
        );

    [Fact]
    public void Nothing_burns_for_ever()
    {
        GenFuse.Sample(fuse =>
        {
            var run = Rehearser.Run(
                CompiledFuse.From(fuse),
                NewBurn(At("24 12:00:00")),
                Lead(),
                [
                    new(At("25 12:00:00"), On(EventKeys.Replied, "x", At("25 12:00:00"), ("text", "yes"))),
                    new(At("26 12:00:00"), new BurnEvent.LetGo("x")),
                ],
                (d, at) =>
                    new(
                        Duration.FromSeconds(1),
                        at.ToUnixTimeTicks() % 3 == 0 ? StepStatus.Failed : StepStatus.Done,
                        "as it came"
                    ),
                At("24 12:00:00") + Duration.FromDays(60_000)
            );
            return run.Moments.Count < 10_000 && (run.State.Status == BurnStatus.Ended || run.State.Held is not null);
        });
    }

    [Fact]
    public void A_backtest_comes_to_the_same_as_a_dry_run() =>
        Gen.Select(
                GenFuse,
                Gen.Int[0, 7 * 86_400],
                Gen.Select(Gen.Int[0, Happens.Length - 2], Gen.Int[1, 400_000], Gen.Int[0, 2]).List[0, 4]
            )
            .Sample(
                (fuse, start, happens) =>
                {
                    var compiled = CompiledFuse.From(fuse);
                    var asked = At("20 00:00:00") + Duration.FromSeconds(start);
                    var did = happens.ConvertAll(h => new Scripted(
                        asked + Duration.FromSeconds(h.Item2),
                        On(
                            Happens[h.Item1],
                            "x",
                            asked + Duration.FromSeconds(h.Item2),
                            (
                                "text",
                                h.Item3 switch
                                {
                                    0 => "yes please",
                                    1 => "the second",
                                    _ => "stop",
                                }
                            ),
                            ("tag", "t"),
                            ("stage", "Won"),
                            ("form", "f")
                        )
                    ));
                    var reaction = new Reaction(
                        Duration.FromMilliseconds(1300),
                        StepStatus.Done,
                        "took it",
                        new Dictionary<string, string> { ["url"] = "u" }
                    );
                    var dry = Rehearser.Run(
                        compiled,
                        NewBurn(asked),
                        Lead(),
                        did,
                        (_, _) => reaction,
                        asked + Duration.FromDays(60)
                    );
                    var outcome = new Backtest(compiled, words: true, Duration.FromDays(60), (_, _) => reaction).Put(
                        new(Lead(), asked, null, did),
                        out _
                    );
                    var bits = new BacktestMarks(compiled);
                    var sent = dry
                        .Moments.Select(m => m.Effect)
                        .Select(e =>
                            e switch
                            {
                                BurnEffect.Deliver d => d.StepId,
                                BurnEffect.Do d => d.StepId,
                                _ => null,
                            }
                        )
                        .OfType<string>()
                        .ToHashSet();
                    var bands = dry
                        .Moments.Select(m => m.Effect)
                        .OfType<BurnEffect.Tell>()
                        .Where(t => t.Kind == StoryKind.BandLit)
                        .Select(t => t.BandId)
                        .ToHashSet();
                    var first = dry.Moments.FirstOrDefault(m => m.Effect is BurnEffect.Deliver { Lane: Lane.Lead });
                    return fuse.Bands.All(b =>
                            outcome.Has(bits.Entered(compiled.PlaceOfBand(b.Id)!.Value)) == bands.Contains(b.Id)
                        )
                        && fuse.Bands.SelectMany(b => b.Steps)
                            .All(s => outcome.Has(bits.Sent(compiled.PlaceOfStep(s.Id)!.Value)) == sent.Contains(s.Id))
                        && outcome.ToLead == dry.Moments.Count(m => m.Effect is BurnEffect.Deliver { Lane: Lane.Lead })
                        && outcome.FirstAfter == (first is null ? null : first.At - asked);
                }
            );

    // Made independent: nothing follows from another's end, and no words use what another left.
    private static FuseDefinition Independent(FuseDefinition fuse) =>
        fuse with
        {
            Bands =
            [
                .. fuse.Bands.Select(b =>
                    b with
                    {
                        Entry = b.Entry.Kind is EntryKind.End or EntryKind.Failed or EntryKind.Silence
                            ? new(EntryKind.Always)
                            : b.Entry,
                        Steps =
                        [
                            .. b.Steps.Select(s =>
                                s with
                                {
                                    OnFailure = null,
                                    When = null,
                                    Settings = s.Settings.ToDictionary(
                                        x => x.Key,
                                        x => x.Key == "words" ? "Hello" : x.Value
                                    ),
                                }
                            ),
                        ],
                    }
                ),
            ],
        };

    [Fact]
    public void Events_that_do_not_concern_one_another_may_come_in_any_order()
    {
        var several = 0;
        Gen.Select(GenFuse, Gen.Int[0, 1000])
            .Sample(
                (any, seed) =>
                {
                    var compiled = CompiledFuse.From(Independent(any));
                    var noon = At("24 12:00:00");
                    var lit = Decider.Decide(compiled, NewBurn(noon), new BurnEvent.Lit(), Lead(), noon).State;
                    var ends = lit
                        .Steps.Where(s => s.Status == StepStatus.Sent)
                        .Select(
                            (s, i) =>
                                (BurnEvent)
                                    new BurnEvent.StepEnded(
                                        s.StepId,
                                        i % 2 == 0 ? StepStatus.Done : StepStatus.Failed,
                                        "ended"
                                    )
                        )
                        .ToArray();
                    if (ends.Length > 1)
                        Interlocked.Increment(ref several);
                    string Run(IEnumerable<BurnEvent> order)
                    {
                        var state = order.Aggregate(lit, (s, e) => Decider.Decide(compiled, s, e, Lead(), noon).State);
                        return string.Join('|', state.Steps.Select(s => $"{s.StepId}{s.Status}{s.Reason}"))
                            + state.Status;
                    }

                    var shuffled = ends.ToArray();
                    new Random(seed).Shuffle(shuffled);
                    return Run(ends) == Run(shuffled) && Run(ends) == Run(ends.Reverse());
                },
                iter: Lives
            );
        Assert.True(several > 20, $"only {several} fuses had more than one end to put in order");
    }

    [Fact]
    public void Print_and_parse_and_print_is_the_same() =>
        GenFuse.Sample(fuse =>
        {
            var text = FuseFile.Print(fuse);
            return FuseFile.Parse(text).Fuse is { } back && FuseFile.Print(back) == text;
        });

    [Fact]
    public void Moving_a_burn_to_its_own_version_changes_nothing() =>
        GenLife.Sample(life =>
        {
            var fuse = CompiledFuse.From(life.Fuse);
            return Live(life)
                .All(m =>
                {
                    var state = m.Decision.State;
                    var moved = FuseMove.To(fuse, fuse, state, m.Facts, m.At);
                    return moved.State.Steps.Count == state.Steps.Count
                        && moved
                            .State.Steps.Zip(state.Steps)
                            .All(p => p.First.Status == p.Second.Status && p.First.StepId == p.Second.StepId);
                });
        });

    [Fact]
    public void A_burn_s_size_does_not_grow_with_what_happens()
    {
        GenFuse.Sample(
            fuse =>
            {
                var compiled = CompiledFuse.From(fuse);
                var now = At("24 12:00:00");
                var state = Decider.Decide(compiled, NewBurn(now), new BurnEvent.Lit(), Lead(), now).State;
                for (var i = 0; i < 300; i++)
                {
                    now += Duration.FromSeconds(30);
                    state = Decider
                        .Decide(
                            compiled,
                            state,
                            new BurnEvent.Happened(
                                LeadEvent.Of(Happens[i % Happens.Length], now, "x", ("text", "yes"), ("tag", "t")) with
                                {
                                    Key = $"k{i}",
                                }
                            ),
                            Lead(),
                            now
                        )
                        .State;
                    foreach (var sent in state.Steps.Where(s => s.Status == StepStatus.Sent).ToList())
                        state = Decider
                            .Decide(
                                compiled,
                                state,
                                new BurnEvent.StepEnded(sent.StepId, StepStatus.Done, "x"),
                                Lead(),
                                now
                            )
                            .State;
                }

                return state.Steps.Count <= 2 * fuse.Bands.Sum(b => b.Steps.Count)
                    && state.Heard.Count <= BurnState.MostHeard
                    && state.Bands.Count <= fuse.Bands.Count;
            },
            iter: 30
        );
    }
}

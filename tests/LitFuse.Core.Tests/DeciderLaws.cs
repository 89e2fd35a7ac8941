using CsCheck;
using LitFuse.Core.Fuses;
using LitFuse.Core.Guards;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>What holds whatever the fuse says and whatever happens to it. A failing sample prints its seed.</summary>
public sealed class DeciderLaws
{
    private static readonly int[] Moments = [0, 5, 10, 60, 300, 3600, 40_000, 86_400];

    private static readonly Gen<Step> GenStep = Gen.Select(Gen.Int[0, 2], Gen.Int[0, 7].Select(i => Moments[i])).Select((kind, after) => kind == 0 ? Text("x", after) : Post("x", after));

    private static readonly Gen<FuseDefinition> GenFuse = Gen.Select(Gen.Select(Gen.Int[0, 2], GenStep.List[0, 4]).List[1, 4], Gen.Bool, Gen.Int[1, 48]).Select((bands, stops, age) =>
        Fuse([.. bands.Select((b, i) => new Band($"b{i}", $"Band {i}", Entry(b.Item1), [.. b.Item2.Select((s, j) => s with { Id = $"b{i}s{j}" })]))]) with
        {
            StopOn = stops ? StopRule.Usual : [],
            AgeLimitHours = age,
        });

    private static BandEntry Entry(int kind) => kind switch
    {
        0 => new(EntryKind.Always),
        1 => new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])),
        _ => new(EntryKind.Otherwise),
    };

    private sealed record Happening(int Kind, int Seconds, int Step);

    private static readonly Gen<Happening> GenHappening = Gen.Select(Gen.Int[0, 9], Gen.Int[0, 50_000], Gen.Int[0, 15]).Select((k, s, i) => new Happening(k, s, i));

    private static readonly Gen<(FuseDefinition Fuse, int Start, bool OptedOut, bool Phone, List<Happening> Happened)> GenLife =
        Gen.Select(GenFuse, Gen.Int[0, 7 * 86_400], Gen.Bool, Gen.Bool, GenHappening.List[0, 25]);

    // Lives one burn: wakes, ends of deliveries, touches, opting out, in a random order at growing times.
    private static List<(Instant At, LeadFacts Facts, Decision Decision)> Live((FuseDefinition Fuse, int Start, bool OptedOut, bool Phone, List<Happening> Happened) life)
    {
        var fuse = CompiledFuse.From(life.Fuse);
        var now = At("20 00:00:00") + Duration.FromSeconds(life.Start);
        var facts = Lead(optedOut: life.OptedOut, hasPhone: life.Phone);
        var all = new List<(Instant, LeadFacts, Decision)>();
        void Do(BurnEvent e, BurnState state) => all.Add((now, facts, Decider.Decide(fuse, state, e, facts, now)));
        Do(new BurnEvent.Lit(), NewBurn(now));
        foreach (var h in life.Happened)
        {
            now += Duration.FromSeconds(h.Seconds);
            var state = all[^1].Item3.State;
            if (h.Kind == 9) facts = facts with { OptedOut = true };
            BurnEvent e = h.Kind switch
            {
                < 4 => new BurnEvent.Woken(),
                < 7 => new BurnEvent.StepEnded($"b{h.Step % 4}s{h.Step / 4}", h.Kind == 6 ? StepStatus.Failed : StepStatus.Done, "ended"),
                7 => On(EventKeys.Touched, "touched", now),
                8 => new BurnEvent.Lit(),
                _ => On(EventKeys.OptedOut, "opted out", now),
            };
            Do(e, state);
        }

        return all;
    }

    [Fact]
    public void No_effect_is_asked_for_twice() =>
        GenLife.Sample(life =>
        {
            var keys = Live(life).SelectMany(d => d.Decision.Effects.OfType<BurnEffect.Deliver>()).Select(d => d.Key).ToList();
            return keys.Count == keys.Distinct().Count();
        });

    [Fact]
    public void Nothing_is_said_to_a_lead_outside_hours_or_after_opting_out_or_without_a_number() =>
        GenLife.Sample(life => Live(life).All(d => !d.Decision.Effects.OfType<BurnEffect.Deliver>().Any(e => e.Lane == Lane.Lead)
            || (!d.Facts.OptedOut && d.Facts.HasPhone && d.Facts.SendHours.IsOpen(d.At, d.Facts.Zone))));

    [Fact]
    public void Nothing_is_said_to_a_lead_past_the_age_limit() =>
        GenLife.Sample(life => Live(life).All(d => d.Decision.Effects.OfType<BurnEffect.Deliver>().Where(e => e.Lane == Lane.Lead)
            .All(e => d.At - e.PlannedAt <= Duration.FromHours(life.Fuse.AgeLimitHours))));

    [Fact]
    public void Deciding_twice_from_the_same_facts_gives_the_same() =>
        GenLife.Sample(life =>
        {
            var (once, again) = (Live(life), Live(life));
            return once.Zip(again).All(p => p.First.Decision.State.Steps.SequenceEqual(p.Second.Decision.State.Steps) && p.First.Decision.Effects.Count == p.Second.Decision.Effects.Count);
        });

    [Fact]
    public void A_step_never_goes_back_and_every_step_stands_once() =>
        GenLife.Sample(life =>
        {
            var states = Live(life).ConvertAll(d => d.Decision.State);
            return states.All(s => s.Steps.Select(x => x.StepId).Distinct().Count() == s.Steps.Count)
                && states.Zip(states.Skip(1)).All(p => p.First.Steps.All(a => p.Second.Steps.Single(b => b.StepId == a.StepId) is { } b && (b.Status == a.Status || b.Status > a.Status)));
        });

    [Fact]
    public void A_burn_has_ended_exactly_when_nothing_waits_and_nothing_is_under_way() =>
        GenLife.Sample(life => Live(life).All(d => d.Decision.State.Status == BurnStatus.Ended == d.Decision.State.Steps.All(s => s.Status is not (StepStatus.Waiting or StepStatus.Sent))));

    [Fact]
    public void Where_a_step_waits_there_is_a_wake_for_it() =>
        GenLife.Sample(life => Live(life).All(d => d.Decision.State.Steps.Any(s => s.Status == StepStatus.Waiting) == (d.Decision.NextWake is not null)));

    [Fact]
    public void The_order_in_which_deliveries_end_does_not_matter() =>
        Gen.Select(GenFuse, Gen.Int[0, 1000]).Sample((fuse, seed) =>
        {
            var compiled = CompiledFuse.From(fuse);
            var noon = At("24 12:00:00");
            var lit = Decider.Decide(compiled, NewBurn(noon), new BurnEvent.Lit(), Lead(), noon);
            var ends = lit.Effects.OfType<BurnEffect.Deliver>().Select((d, i) => new BurnEvent.StepEnded(d.StepId, i % 3 == 0 ? StepStatus.Failed : StepStatus.Done, "ended")).ToList();
            BurnState Run(IEnumerable<BurnEvent> order) => order.Aggregate(lit.State, (s, e) => Decider.Decide(compiled, s, e, Lead(), noon).State);
            var shuffled = ends.OrderBy(e => HashCode.Combine(e.StepId, seed)).ToList();
            return Run(ends).Steps.SequenceEqual(Run(shuffled).Steps) && Run(ends).Status == Run(shuffled).Status;
        });
}

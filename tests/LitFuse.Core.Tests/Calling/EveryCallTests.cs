using System.Globalization;
using LitFuse.Core.Calling;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests.Calling;

/// <summary>
/// Every order of up to six things that a carrier, a clock or a person can tell a ring-through, each of them also lost
/// or repeated; and after each, the carrier falls silent for ever. Orders that come to the same state by the same deeds
/// are gone through once.
/// </summary>
public class EveryCallTests
{
    private const int Most = 6;
    private static readonly Instant Start = Instant.FromUtc(2026, 11, 24, 9, 31, 7);
    private static readonly CallPlan Plan = new(
        [new("imke", "Imke Sandoval", "+447700900101"), new("tobias", "Tobias Renn", "+447700900102")],
        "Bram Okafor",
        "+447700900300",
        "Bram asks for a test ride."
    );

    private static readonly CallEvent[] Alphabet =
    [
        .. Enumerable
            .Range(0, 3)
            .SelectMany(leg =>
                new CallEvent[]
                {
                    new CallEvent.Answered(leg),
                    new CallEvent.KeyPressed(leg, "1"),
                    new CallEvent.KeyPressed(leg, "2"),
                    new CallEvent.Guessed(leg),
                    new CallEvent.Joined(leg),
                    new CallEvent.LegEnded(leg, LegEnding.HungUp),
                    new CallEvent.LegEnded(leg, LegEnding.Unanswered),
                }
            ),
        new CallEvent.Woken(),
        new CallEvent.HungUp("hung up here"),
    ];

    // What was done so far, as far as the laws ask for it.
    private sealed record Deeds(int RungLead, int Ends, int Talks, int Joins, string HungUp, string EndedThere)
    {
        public static readonly Deeds None = new(0, 0, 0, 0, "", "");
    }

    [Theory]
    [InlineData(false, false, true)]
    [InlineData(true, false, true)]
    [InlineData(false, true, true)]
    [InlineData(false, false, false)]
    public void Every_order_of_events_ends_rightly(bool atOnce, bool speaksToMachines, bool asks)
    {
        var plan = Plan with { AtOnce = atOnce, SpeaksToMachines = speaksToMachines, Asks = asks };
        var seen = new Dictionary<string, int>(StringComparer.Ordinal);
        var begun = CallMachine.Next(plan, CallState.New, new CallEvent.Begun(), Start);
        Go(begun.State, After(Deeds.None, begun, null), Start, Most);
        Assert.True(seen.Count > 300, $"Only {seen.Count} states were come to.");

        void Go(CallState state, Deeds deeds, Instant now, int left)
        {
            var key = KeyOf(state, deeds, now);
            if (seen.TryGetValue(key, out var gone) && gone >= left)
                return;
            if (gone == 0)
                FallSilent(plan, state, deeds, now);
            seen[key] = left;
            if (left == 0)
                return;
            foreach (var one in Alphabet)
            {
                var at = one is CallEvent.Woken && state.NextWake is { } wake ? Instant.Max(now, wake) : now;
                var decided = CallMachine.Next(plan, state, one, at);
                var after = After(deeds, decided, one);
                Hold(plan, state, decided, one, after);
                if (one is not CallEvent.Woken)
                    HoldTwice(plan, decided.State, one, at);
                Go(decided.State, after, at, left - 1);
            }
        }
    }

    private static Deeds After(Deeds before, CallDecision decided, CallEvent? what)
    {
        var after =
            what is CallEvent.LegEnded { Leg: var over } && over < decided.State.Legs.Count
                ? before with
                {
                    EndedThere = With(before.EndedThere, over),
                }
                : before;
        foreach (var effect in decided.Effects)
        {
            after = effect switch
            {
                CallEffect.RingLead => after with { RungLead = after.RungLead + 1 },
                CallEffect.Ended => after with { Ends = after.Ends + 1 },
                CallEffect.Talking => after with { Talks = after.Talks + 1 },
                CallEffect.Join => after with { Joins = after.Joins + 1 },
                CallEffect.HangUp up => after with { HungUp = With(after.HungUp, up.Leg) },
                _ => after,
            };
        }

        return after;
    }

    private static string With(string legs, int leg) =>
        legs.Contains((char)('0' + leg), StringComparison.Ordinal)
            ? legs
            : string.Concat((legs + (char)('0' + leg)).Order());

    private static void Hold(CallPlan plan, CallState before, CallDecision decided, CallEvent what, Deeds deeds)
    {
        Assert.True(
            deeds.RungLead <= 1 && deeds.Ends <= 1 && deeds.Talks <= 1 && deeds.Joins <= 1,
            $"Done twice: {deeds}"
        );
        Assert.Equal(decided.State.Outcome is not null, deeds.Ends == 1);
        Assert.Equal(decided.State.JoinedAt is not null, deeds.Talks == 1);
        // How it ended is settled once.
        if (before.Outcome is { } settled)
            Assert.Equal(settled, decided.State.Outcome);
        foreach (var effect in decided.Effects)
        {
            switch (effect)
            {
                case CallEffect.RingLead:
                    Assert.True(
                        plan.Asks
                            ? what is CallEvent.KeyPressed { Key: "1" }
                            : what is CallEvent.Answered or CallEvent.KeyPressed { Key: "1" },
                        $"The lead was rung on {what}"
                    );
                    break;
                case CallEffect.RingTeam:
                    Assert.Null(decided.State.AcceptedBy);
                    Assert.Null(decided.State.Outcome);
                    break;
                case CallEffect.Join or CallEffect.Talking:
                    Assert.NotNull(decided.State.AcceptedBy);
                    Assert.Null(before.Outcome);
                    break;
                default:
                    break;
            }
        }
    }

    // Told twice, it does nothing more, but hang up what shows life after it was over.
    private static void HoldTwice(CallPlan plan, CallState state, CallEvent what, Instant at)
    {
        var again = CallMachine.Next(plan, state, what, at);
        Assert.All(again.Effects, e => Assert.IsType<CallEffect.HangUp>(e));
        Assert.Equal(
            (state.Stage, state.Outcome, state.AcceptedBy, state.Legs.Count),
            (again.State.Stage, again.State.Outcome, again.State.AcceptedBy, again.State.Legs.Count)
        );
        Assert.Equal(state.Legs.Select(l => l.State), again.State.Legs.Select(l => l.State));
    }

    private static void FallSilent(CallPlan plan, CallState state, Deeds deeds, Instant now)
    {
        for (var wakes = 0; state.NextWake is { } wake; wakes++)
        {
            Assert.True(wakes < 400, "It never ends.");
            now = Instant.Max(now, wake);
            var decided = CallMachine.Next(plan, state, new CallEvent.Woken(), now);
            deeds = After(deeds, decided, null);
            Hold(plan, state, decided, new CallEvent.Woken(), deeds);
            state = decided.State;
        }

        Assert.Equal(CallStage.Over, state.Stage);
        Assert.Equal(1, deeds.Ends);
        Assert.NotNull(state.Because);
        Assert.Equal(state.Outcome is CallOutcome.Spoke, deeds.Talks == 1 && !state.MachineAnswered);
        for (var leg = 0; leg < state.Legs.Count; leg++)
            Assert.True(
                deeds.HungUp.Contains((char)('0' + leg), StringComparison.Ordinal)
                    || deeds.EndedThere.Contains((char)('0' + leg), StringComparison.Ordinal),
                $"Leg {leg} was left ringing."
            );
        if (state.Outcome == CallOutcome.Nobody && state.AcceptedBy is null)
            Assert.Equal(plan.Team.Count, state.Next);
    }

    private static string KeyOf(CallState s, Deeds deeds, Instant now) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{s.Stage} {s.Outcome} {s.AcceptedBy} {s.Next} {(s.JoinedAt is { } j ? now - j : null)} {s.MachineGuessed}{s.MachineAnswered} {string.Join(',', s.Legs.Select(l => $"{l.Person}{l.State}{(l.State == LegState.Over ? Duration.Zero : l.Until - now)}"))} {deeds}"
        );
}

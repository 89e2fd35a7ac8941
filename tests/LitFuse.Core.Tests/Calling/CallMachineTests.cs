using LitFuse.Core.Calling;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests.Calling;

public class CallMachineTests
{
    private static readonly Instant Start = Instant.FromUtc(2026, 11, 24, 9, 31, 7);
    private static readonly CallPerson Imke = new("imke", "Imke Sandoval", "+447700900101");
    private static readonly CallPerson Tobias = new("tobias", "Tobias Renn", "+447700900102");
    private static readonly CallPlan InTurn = new(
        [Imke, Tobias],
        "Bram Okafor",
        "+447700900300",
        "Bram Okafor asks for a test ride."
    );
    private static readonly CallPlan AtOnce = InTurn with { AtOnce = true };

    private static readonly CallEvent Begun = new CallEvent.Begun();
    private static readonly CallEvent Woken = new CallEvent.Woken();

    private static CallEvent Answered(int leg) => new CallEvent.Answered(leg);

    private static CallEvent Key(int leg, string key) => new CallEvent.KeyPressed(leg, key);

    private static CallEvent Guessed(int leg) => new CallEvent.Guessed(leg);

    private static CallEvent Joined(int leg) => new CallEvent.Joined(leg);

    private static CallEvent Over(int leg, LegEnding how = LegEnding.HungUp) => new CallEvent.LegEnded(leg, how);

    // Time goes to the next wake with each Woken, and stands still otherwise.
    private static (CallState State, List<CallEffect> Effects) Run(CallPlan plan, params CallEvent[] events)
    {
        var (state, now, effects) = (CallState.New, Start, new List<CallEffect>());
        foreach (var one in events)
        {
            if (one is CallEvent.Woken && state.NextWake is { } wake)
                now = Instant.Max(now, wake);
            var decided = CallMachine.Next(plan, state, one, now);
            state = decided.State;
            effects.AddRange(decided.Effects);
        }

        return (state, effects);
    }

    private static string Told(IEnumerable<CallEffect> effects) =>
        string.Join(
            " | ",
            effects.Select(e =>
                e switch
                {
                    CallEffect.Tell tell => tell.Words,
                    CallEffect.Ended ended => $"{ended.Outcome}: {ended.Because}",
                    CallEffect.RingTeam ring => $"ring {ring.Person}",
                    CallEffect.RingLead => "ring the lead",
                    CallEffect.Join => "join",
                    CallEffect.Accepted accepted => $"{accepted.Person} has it",
                    CallEffect.HangUp { Say: { } say } up => $"hang up {up.Leg} ({say})",
                    CallEffect.HangUp up => $"hang up {up.Leg}",
                    CallEffect.Talking { Machine: true } => "talks to a machine",
                    CallEffect.Talking talking => $"{talking.Person} talks",
                    _ => "look",
                }
            )
        );

    public static TheoryData<string, CallEvent[], string> Cases { get; } =
        new()
        {
            {
                "Imke takes it, the lead answers, they talk, the lead hangs up",
                [Begun, Answered(0), Key(0, "1"), Answered(1), Joined(1), Over(1), Over(0)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | join | 0 talks | Spoke: Bram Okafor hung up after 0:00 | hang up 0"
            },
            {
                "Imke passes it on, Tobias takes it",
                [Begun, Answered(0), Key(0, "2"), Answered(1), Key(1, "1"), Answered(2), Joined(1), Over(1)],
                "ring 0 | Imke Sandoval passed it on | hang up 0 | ring 1 | Tobias Renn took it | 1 has it | ring the lead | join | 1 talks | Spoke: Tobias Renn hung up after 0:00 | hang up 2"
            },
            {
                "silence is a pass",
                [Begun, Answered(0), Woken, Over(0), Woken, Over(1)],
                "ring 0 | Imke Sandoval pressed no key | hang up 0 | ring 1 | Tobias Renn did not pick up | hang up 1 | Nobody: nobody took it"
            },
            {
                "a voicemail of the team is a pass",
                [Begun, Answered(0), Guessed(0), Over(1, LegEnding.Busy)],
                "ring 0 | a machine answers for Imke Sandoval | hang up 0 | ring 1 | Tobias Renn is on the phone | Nobody: nobody took it"
            },
            {
                "the lead does not pick up",
                [Begun, Key(0, "1"), Over(1, LegEnding.Unanswered)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | NoAnswer: Bram Okafor did not pick up | hang up 0 (They do not answer. Thank you.)"
            },
            {
                "a machine answers for the lead",
                [Begun, Key(0, "1"), Answered(1), Guessed(1)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | join | hang up 1 | Machine: a machine answers for Bram Okafor | hang up 0 (A machine answers. Thank you.)"
            },
            {
                "the carrier guesses a machine while two people talk",
                [Begun, Key(0, "1"), Answered(1), Joined(0), Guessed(1), Guessed(1), Over(0)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | join | 0 talks | the carrier takes what answered to be a machine | Spoke: Imke Sandoval hung up after 0:00 | hang up 1"
            },
            {
                "whoever took it hangs up before the lead answers",
                [Begun, Key(0, "1"), Over(0), Answered(1)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | Nobody: Imke Sandoval hung up before Bram Okafor answered | hang up 1 | hang up 1"
            },
            {
                "the news that they were joined comes before the news that the lead picked up",
                [Begun, Key(0, "1"), Joined(1), Answered(1), Over(1)],
                "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | 0 talks | Spoke: Bram Okafor hung up after 0:00 | hang up 0"
            },
            {
                "it is hung up here before anybody took it",
                [Begun, Answered(0), new CallEvent.HungUp("Noor Abernathy-Voss hung up"), Key(0, "1")],
                "ring 0 | Stopped: Noor Abernathy-Voss hung up | hang up 0"
            },
            {
                "the carrier cannot ring",
                [Begun, new CallEvent.LegEnded(0, LegEnding.Failed, "answered 503"), Over(1, LegEnding.Declined)],
                "ring 0 | Imke Sandoval could not be rung: answered 503 | ring 1 | Tobias Renn turned it away | Nobody: nobody took it"
            },
        };

    [Theory]
    [MemberData(nameof(Cases))]
    public void A_ring_through_in_turn(string what, CallEvent[] events, string told) =>
        Assert.Equal(what + ": " + told, what + ": " + Told(Run(InTurn, events).Effects));

    [Fact]
    public void Rung_at_once_the_first_to_accept_has_it_and_the_others_hear_so()
    {
        var (state, effects) = Run(AtOnce, Begun, Answered(0), Answered(1), Key(1, "1"), Key(0, "1"));
        Assert.Equal(
            "ring 0 | ring 1 | Tobias Renn took it | 1 has it | hang up 0 (Somebody else has it. Thank you.) | ring the lead",
            Told(effects)
        );
        Assert.Equal((1, CallStage.RingingLead), (state.AcceptedBy, state.Stage));
        // Whoever picked up, and of whom that is not known yet, hears it too.
        var late = Told(Run(AtOnce, Begun, Answered(1), Key(1, "1"), Answered(0)).Effects);
        Assert.Equal(
            "ring 0 | ring 1 | Tobias Renn took it | 1 has it | hang up 0 (Somebody else has it. Thank you.) | ring the lead | hang up 0 (Somebody else has it. Thank you.)",
            late
        );
    }

    [Fact]
    public void A_machine_is_spoken_to_where_that_is_wanted_and_counts_as_one()
    {
        var (state, effects) = Run(
            InTurn with
            {
                SpeaksToMachines = true,
            },
            Begun,
            Key(0, "1"),
            Guessed(1),
            Joined(1),
            Over(0),
            Over(1)
        );
        Assert.Equal(
            "ring 0 | Imke Sandoval took it | 0 has it | ring the lead | join | talks to a machine | Machine: Imke Sandoval hung up after 0:00 | hang up 1",
            Told(effects)
        );
        Assert.Equal(CallStage.Over, state.Stage);
    }

    [Fact]
    public void Who_asked_for_the_call_presses_nothing()
    {
        var (_, effects) = Run(InTurn with { Team = [Imke], Asks = false }, Begun, Answered(0));
        Assert.Equal("ring 0 | Imke Sandoval picked up | 0 has it | ring the lead", Told(effects));
    }

    [Fact]
    public void Nobody_to_ring_is_nobody() =>
        Assert.Equal("Nobody: there is nobody to ring", Told(Run(InTurn with { Team = [] }, Begun).Effects));

    [Fact]
    public void While_they_talk_the_carrier_is_asked_and_after_two_hours_it_is_hung_up()
    {
        var (state, now) = (Run(InTurn, Begun, Key(0, "1"), Answered(1), Joined(1)).State, Start);
        var looks = 0;
        while (state.Outcome is null)
        {
            now = state.NextWake!.Value;
            var decided = CallMachine.Next(InTurn, state, Woken, now);
            looks += decided.Effects.OfType<CallEffect.Look>().Count();
            state = decided.State;
        }

        Assert.Equal((Duration.FromHours(2), CallOutcome.Spoke), (now - Start, state.Outcome));
        Assert.InRange(looks, 200, 240);
    }
}

using NodaTime;

namespace LitFuse.Core.Calling;

/// <summary>
/// How a ring-through goes on: the team first, and only when one of them has accepted, the lead. A pure function of
/// what the carrier says, which may come late, twice, or never: each state of each phone runs out. Whatever comes, it
/// ends; the lead is rung at most once; whatever was rung is over or hung up.
/// </summary>
public static class CallMachine
{
    /// <summary>What the carrier may take longer than a phone rings, before it is not waited for.</summary>
    public static readonly Duration Grace = Duration.FromSeconds(5);

    /// <summary>How long joining two may take, and saying that one was hung up.</summary>
    public static readonly Duration Soon = Duration.FromSeconds(10);

    /// <summary>How often the carrier is asked whether the two still talk.</summary>
    public static readonly Duration LookEvery = Duration.FromMinutes(1);

    /// <summary>The longest two may talk.</summary>
    public static readonly Duration Longest = Duration.FromHours(2);

    /// <summary>Decides what <paramref name="what"/> leads to at <paramref name="now"/>.</summary>
    public static CallDecision Next(CallPlan plan, CallState state, CallEvent what, Instant now)
    {
        var desk = new Desk(plan, state, now);
        desk.Take(what);
        return desk.Done();
    }

    private sealed class Desk(CallPlan plan, CallState state, Instant now)
    {
        private readonly List<CallLeg> legs = [.. state.Legs];
        private readonly List<CallEffect> effects = [];
        private CallState state = state;

        public CallDecision Done()
        {
            if (state.Outcome is not null)
                state = state with
                {
                    Stage = legs.TrueForAll(l => l.State == LegState.Over) ? CallStage.Over : CallStage.Closing,
                };
            Instant? wake = null;
            foreach (var leg in legs)
                if (leg.State != LegState.Over && !(wake <= leg.Until))
                    wake = leg.Until;
            return new(state with { Legs = legs, NextWake = wake }, effects);
        }

        public void Take(CallEvent what)
        {
            switch (what)
            {
                case CallEvent.Begun when legs.Count == 0 && state.Outcome is null:
                    Begin();
                    break;
                case CallEvent.Woken:
                    Wake();
                    break;
                case CallEvent.Answered answered when Is(answered.Leg):
                    Answered(answered.Leg);
                    break;
                case CallEvent.KeyPressed key when Is(key.Leg):
                    Key(key.Leg, key.Key);
                    break;
                case CallEvent.Guessed guessed when Is(guessed.Leg):
                    Guessed(guessed.Leg);
                    break;
                case CallEvent.Joined joined when Is(joined.Leg):
                    Joined(joined.Leg);
                    break;
                case CallEvent.LegEnded ended when Is(ended.Leg):
                    Ended(ended.Leg, ended.Ending, ended.Reason);
                    break;
                case CallEvent.HungUp hung when state.Outcome is null:
                    HungUp(hung.Because);
                    break;
                default:
                    break;
            }
        }

        private bool Is(int leg) => leg >= 0 && leg < legs.Count;

        private string NameOf(int leg) => plan.Team[legs[leg].Person].Name;

        private bool OfLead(int leg) => legs[leg].Person == CallLeg.OfLead;

        private int LeadLeg => legs.FindIndex(l => l.Person == CallLeg.OfLead);

        private int TeamLeg => state.AcceptedBy is { } by ? legs.FindIndex(l => l.Person == by) : -1;

        private void Set(int leg, LegState to, Duration lasts) =>
            legs[leg] = legs[leg] with { State = to, Until = now + lasts };

        private void Tell(string words, int? person = null) => effects.Add(new CallEffect.Tell(words, person));

        private void Begin()
        {
            if (plan.Team.Count == 0)
            {
                Decide(CallOutcome.Nobody, "there is nobody to ring");
                return;
            }

            do
            {
                RingNext();
            } while (plan.AtOnce && state.Next < plan.Team.Count);
        }

        private void RingNext()
        {
            var person = state.Next;
            state = state with { Next = person + 1 };
            legs.Add(new(person, LegState.Ringing, now + Duration.FromSeconds(plan.RingSeconds) + Grace));
            effects.Add(new CallEffect.RingTeam(legs.Count - 1, person));
        }

        private void Answered(int leg)
        {
            if (legs[leg].State is LegState.Closing or LegState.Over)
            {
                // It was given up; somebody picks up all the same.
                HangUp(leg, CallWords.Parting(legs[leg], state.AcceptedBy));
                return;
            }

            if (legs[leg].State != LegState.Ringing)
                return;
            legs[leg] = legs[leg] with { AnsweredAt = now };
            if (OfLead(leg))
                JoinWith(leg);
            else if (!plan.Asks)
                Accept(leg);
            else
                Set(leg, LegState.Asked, plan.AskFor);
        }

        private void Key(int leg, string key)
        {
            // The key can overtake the news that it was picked up.
            if (OfLead(leg) || legs[leg].State is not (LegState.Ringing or LegState.Asked))
                return;
            if (key == CallWords.Accept)
                Accept(leg);
            else if (key == CallWords.Pass)
                PassOn(leg, $"{NameOf(leg)} passed it on", hangUp: true);
        }

        private void Accept(int leg)
        {
            legs[leg] = legs[leg] with { AnsweredAt = legs[leg].AnsweredAt ?? now };
            // Its own wait is over when the lead's is.
            Set(leg, LegState.Accepted, Duration.FromSeconds(plan.LeadRingSeconds) + Grace + Soon + Soon);
            state = state with { AcceptedBy = legs[leg].Person, Stage = CallStage.RingingLead };
            Tell(plan.Asks ? $"{NameOf(leg)} took it" : $"{NameOf(leg)} picked up", legs[leg].Person);
            effects.Add(new CallEffect.Accepted(legs[leg].Person));
            // Whoever picked up a moment ago, the news of it still under way, hears it too; a phone that rings only
            // stops.
            for (var other = 0; other < legs.Count; other++)
                if (other != leg && legs[other].State is LegState.Ringing or LegState.Asked)
                    HangUp(other, CallWords.Parting(legs[other], state.AcceptedBy));
            legs.Add(new(CallLeg.OfLead, LegState.Ringing, now + Duration.FromSeconds(plan.LeadRingSeconds) + Grace));
            effects.Add(new CallEffect.RingLead(legs.Count - 1));
        }

        private void PassOn(int leg, string because, bool hangUp)
        {
            Tell(because, legs[leg].Person);
            if (hangUp)
                HangUp(leg, null);
            else
                Set(leg, LegState.Over, Duration.Zero);
            if (state.Outcome is not null || state.AcceptedBy is not null)
                return;
            if (!plan.AtOnce && state.Next < plan.Team.Count)
                RingNext();
            else if (!legs.Exists(l => l.State is LegState.Ringing or LegState.Asked))
                Decide(CallOutcome.Nobody, plan.Team.Count == 1 ? because : "nobody took it");
        }

        private void Guessed(int leg)
        {
            if (!OfLead(leg))
            {
                // The voicemail of one of the team presses no key.
                if (legs[leg].State is LegState.Ringing or LegState.Asked)
                    PassOn(leg, $"a machine answers for {NameOf(leg)}", hangUp: true);
                return;
            }

            if (state.MachineGuessed || legs[leg].State is LegState.Closing or LegState.Over)
                return;
            state = state with { MachineGuessed = true, MachineAnswered = legs[leg].State != LegState.Joined };
            if (legs[leg].State == LegState.Joined)
            {
                // Whoever talks knows better than the carrier's guess.
                Tell("the carrier takes what answered to be a machine");
                return;
            }

            if (plan.SpeaksToMachines)
            {
                if (legs[leg].State == LegState.Ringing)
                    Answered(leg);
                return;
            }

            HangUp(leg, null);
            Decide(CallOutcome.Machine, $"a machine answers for {plan.Lead}", CallWords.OnlyMachine);
        }

        private void JoinWith(int leg)
        {
            Set(leg, LegState.Joining, Soon);
            effects.Add(new CallEffect.Join(TeamLeg, leg));
        }

        private void Joined(int leg)
        {
            var (team, lead) = (TeamLeg, LeadLeg);
            if (legs[leg].State is LegState.Closing or LegState.Over)
            {
                HangUp(leg, null);
                return;
            }

            if (
                state.JoinedAt is not null
                || lead < 0
                || legs[team].State != LegState.Accepted
                || legs[lead].State is not (LegState.Ringing or LegState.Joining)
            )
                return;
            legs[lead] = legs[lead] with { AnsweredAt = legs[lead].AnsweredAt ?? now };
            Set(team, LegState.Joined, LookEvery);
            Set(lead, LegState.Joined, LookEvery);
            state = state with { Stage = CallStage.Joined, JoinedAt = now };
            effects.Add(new CallEffect.Talking(legs[team].Person, state.MachineAnswered));
        }

        private void Ended(int leg, LegEnding ending, string? reason)
        {
            var before = legs[leg].State;
            if (before == LegState.Over)
                return;
            if (!OfLead(leg) && before is LegState.Ringing or LegState.Asked)
            {
                PassOn(
                    leg,
                    CallWords.NotTaken(
                        NameOf(leg),
                        before == LegState.Asked && ending == LegEnding.Unanswered ? LegEnding.HungUp : ending,
                        reason
                    ),
                    hangUp: false
                );
                return;
            }

            Set(leg, LegState.Over, Duration.Zero);
            if (state.Outcome is not null || before == LegState.Closing)
                return;
            if (before == LegState.Joined)
                Finish(OfLead(leg) ? $"{plan.Lead} hung up" : $"{NameOf(leg)} hung up");
            else if (OfLead(leg))
                Decide(CallOutcome.NoAnswer, CallWords.LeadNotThere(plan.Lead, ending, reason), CallWords.LeadGone);
            else
                Decide(CallOutcome.Nobody, $"{NameOf(leg)} hung up before {plan.Lead} answered");
        }

        private void HungUp(string because)
        {
            if (state.JoinedAt is not null)
                Finish(because);
            else
                Decide(CallOutcome.Stopped, because);
        }

        private void Wake()
        {
            for (var leg = 0; leg < legs.Count; leg++)
            {
                if (legs[leg].State == LegState.Over || legs[leg].Until > now)
                    continue;
                switch (legs[leg].State)
                {
                    case LegState.Ringing when !OfLead(leg):
                        PassOn(leg, $"{NameOf(leg)} did not pick up", hangUp: true);
                        break;
                    case LegState.Asked:
                        PassOn(leg, $"{NameOf(leg)} pressed no key", hangUp: true);
                        break;
                    case LegState.Ringing:
                        Decide(CallOutcome.NoAnswer, $"{plan.Lead} did not pick up", CallWords.LeadGone);
                        break;
                    case LegState.Joining or LegState.Accepted:
                        Decide(CallOutcome.NoAnswer, "the carrier did not join them", CallWords.LeadGone);
                        break;
                    case LegState.Joined when now - state.JoinedAt >= Longest:
                        Finish($"it was hung up after {Longest.TotalHours} hours");
                        break;
                    case LegState.Joined:
                        Set(leg, LegState.Joined, LookEvery);
                        effects.Add(new CallEffect.Look(leg));
                        break;
                    default:
                        // The carrier never said so; it was told to hang up.
                        Set(leg, LegState.Over, Duration.Zero);
                        break;
                }
            }
        }

        private void Finish(string because) =>
            Decide(
                state.MachineAnswered ? CallOutcome.Machine : CallOutcome.Spoke,
                $"{because} after {CallWords.Talk(now - state.JoinedAt!.Value)}"
            );

        private void Decide(CallOutcome outcome, string because, string? say = null)
        {
            if (state.Outcome is not null)
                return;
            state = state with { Outcome = outcome, Because = because };
            effects.Add(new CallEffect.Ended(outcome, because));
            for (var leg = 0; leg < legs.Count; leg++)
                if (legs[leg].State is not (LegState.Closing or LegState.Over))
                    HangUp(leg, OfLead(leg) ? null : say);
        }

        private void HangUp(int leg, string? say)
        {
            effects.Add(new CallEffect.HangUp(leg, say));
            // One that was over is not waited for again.
            if (legs[leg].State != LegState.Over)
                Set(leg, LegState.Closing, Soon);
        }
    }
}

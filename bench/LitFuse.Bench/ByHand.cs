using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Hours;
using LitFuse.Core.Replies;
using NodaTime;

namespace LitFuse.Bench;

/// <summary>
/// The fuse of <see cref="Backtests"/> as somebody would write it down in code, once, for that fuse alone.
/// </summary>
internal sealed class ByHand
{
    private static readonly Duration Receipt = Duration.FromMilliseconds(300);
    private static readonly Duration Limit = Duration.FromHours(24);
    private static readonly OpenHours Decent = new(new(7, 0), new(22, 0), OpenHours.EveryDay);
    private BacktestMarks marks = null!;
    private Instant stop;
    private Instant until;
    private Instant asked;
    private LeadFacts facts = null!;
    private bool waited;
    private Instant? first;
    private int messages;

    /// <summary>Messages to leads, and seconds to the first of each lead.</summary>
    public (long Messages, double Seconds) Sums { get; private set; }

    public int[] Counts { get; private set; } = [];

    public void Clear(int count) => (Counts, Sums) = (new int[count], default);

    public void Put(Backtests.Past past, BacktestMarks bits)
    {
        if (past.Lead.Sent!.Details["form"] != "brackenwheel-test-ride")
            return;
        (marks, facts, asked, waited, first, messages) = (bits, past.Lead.Facts, past.Lead.AskedAt, false, null, 0);
        until = asked + Duration.FromDays(15);
        stop =
            past.Touched is { } t && past.Replied is { } r
                ? Instant.Min(t, r)
                : past.Touched ?? past.Replied ?? Instant.MaxValue;
        Counts[BacktestMarks.Lit]++;
        Counts[marks.Entered(0)]++;
        Counts[marks.Sent(0)]++;
        Counts[marks.Sent(2)]++;
        var text = Text(1, asked + Duration.FromSeconds(20));
        if (facts.Fields["fleet_size"] is "10–24" or "25+")
        {
            Counts[marks.Entered(1)]++;
            Counts[marks.Sent(3)]++;
            var again = asked + Duration.FromSeconds(600);
            Counts[again < stop ? marks.Sent(4) : marks.Cancelled(4)]++;
        }
        else
        {
            Counts[marks.Entered(2)]++;
            Text(5, asked + Duration.FromSeconds(120));
            Letter(6, asked, 1);
        }

        if (
            past.Replied <= until
            && ReplyReader.Read(past.Text, []).Meaning is ReplyMeaning.Yes or ReplyMeaning.Question
        )
        {
            Counts[marks.Entered(3)]++;
            Counts[marks.Sent(7)]++;
            Counts[marks.Sent(8)]++;
        }

        if (
            text is { } said
            && said + Receipt + Duration.FromHours(3) is var silence
            && silence < stop
            && silence <= until
        )
        {
            Counts[marks.Entered(4)]++;
            if (
                Text(9, silence) is { } reminded
                && reminded + Receipt + Duration.FromHours(20) is var still
                && still < stop
                && still <= until
            )
            {
                Counts[marks.Entered(5)]++;
                Counts[marks.Sent(10)]++;
                Letter(11, still, 2);
                Letter(12, still, 6);
                Letter(13, still, 12);
                Counts[marks.Sent(14)]++;
            }
        }

        if (first is { } spoken)
        {
            Counts[BacktestMarks.Spoken]++;
            Sums = (Sums.Messages + messages, Sums.Seconds + (spoken - asked).TotalSeconds);
        }

        if (waited)
            Counts[BacktestMarks.Waited]++;
    }

    private Instant? Text(int step, Instant at) => facts.HasPhone ? Speak(step, at, true) : Unreachable(step, at);

    private void Letter(int step, Instant from, int days)
    {
        var local = from.InZone(facts.Zone).Date.PlusDays(days);
        var at = facts.Zone.AtLeniently(local + new LocalTime(10, 0)).ToInstant();
        if (facts.HasEmail)
            Speak(step, at, false);
        else
            Unreachable(step, at);
    }

    private Instant? Unreachable(int step, Instant at)
    {
        if (at <= until || stop <= until)
            Counts[marks.Cancelled(step)]++;
        return null;
    }

    private Instant? Speak(int step, Instant planned, bool text)
    {
        if (planned > stop)
        {
            Counts[marks.Cancelled(step)]++;
            return null;
        }

        if (planned > until)
            return null;
        var at = planned;
        for (
            var local = at.InZone(facts.Zone).LocalDateTime;
            !(facts.SendHours.IsOpen(local) && (!text || Decent.IsOpen(local)));
            local = at.InZone(facts.Zone).LocalDateTime
        )
        {
            at = facts.SendHours.NextOpen(at, facts.Zone)!.Value;
            if (text)
                at = Instant.Max(at, Decent.NextOpen(at, facts.Zone)!.Value);
        }

        if (at - planned > Limit)
        {
            Counts[marks.Cancelled(step)]++;
            return null;
        }

        if (at != planned)
        {
            waited = true;
            Counts[marks.StepWaited(step)]++;
            if (at > stop)
            {
                Counts[marks.Cancelled(step)]++;
                return null;
            }

            if (at > until)
                return null;
        }

        Counts[marks.Sent(step)]++;
        first = first <= at ? first : at;
        messages++;
        return at;
    }
}

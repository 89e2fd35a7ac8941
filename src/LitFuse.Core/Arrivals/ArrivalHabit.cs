using System.Globalization;
using LitFuse.Core.Figures;
using NodaTime;

namespace LitFuse.Core.Arrivals;

/// <summary>A time in which nothing was to come: the form was paused or archived, its ad did not run.</summary>
/// <param name="To"><c>null</c>: it still lasts.</param>
public sealed record QuietTime(Instant From, Instant? To);

/// <summary>Whether a form is silent.</summary>
public abstract record SilenceAnswer
{
    /// <summary>Nothing is odd.</summary>
    public sealed record Usual(string Words) : SilenceAnswer;

    /// <summary>Too little is known to say.</summary>
    public sealed record TooLittle(string Words) : SilenceAnswer;

    /// <summary>It has a lead more often than that.</summary>
    /// <param name="Since">When the last one came.</param>
    public sealed record Silent(Instant Since, string Words) : SilenceAnswer;
}

/// <summary>
/// How often a form has a lead, by hour of the week, learnt from its own last eight weeks. A gap is measured in the
/// leads that were to be expected in it, so that a night counts little and a Monday noon much; it is called silence
/// when the form's own gaps say that one so long comes less than <see cref="AlarmsAMonth"/> times a month by chance.
/// </summary>
public sealed class ArrivalHabit
{
    /// <summary>How far back is learnt from.</summary>
    public static readonly Duration Back = Duration.FromDays(56);

    /// <summary>Fewer leads than that, or less than <see cref="LeastDays"/>, and nothing is said.</summary>
    public const int LeastLeads = 40;

    /// <summary>Fewer days of history than that, and nothing is said.</summary>
    public const int LeastDays = 14;

    /// <summary>
    /// How many false alarms a form may have in a month; aimed at, with a margin below the promised one.
    /// </summary>
    public const double AlarmsAMonth = 0.25;

    /// <summary>In expected leads: no gap shorter than that is called silence, however regular a form is.</summary>
    private const double LeastGap = 5;

    private const int HoursOfWeek = 168;

    // So many weeks of a form's overall daily shape are put behind each hour's own count.
    private const double Shape = 2;

    private readonly double[] rates;
    private readonly DateTimeZone zone;
    private readonly IReadOnlyList<QuietTime> quiet;
    private readonly double threshold;
    private readonly Instant? last;
    private readonly string? little;

    private ArrivalHabit(
        double[] rates,
        DateTimeZone zone,
        IReadOnlyList<QuietTime> quiet,
        double threshold,
        Instant? last,
        string? little
    ) =>
        (this.rates, this.zone, this.quiet, this.threshold, this.last, this.little) = (
            rates,
            zone,
            quiet,
            threshold,
            last,
            little
        );

    /// <summary>Leads an hour, by hour of the week from Monday 00:00.</summary>
    public IReadOnlyList<double> Rates => rates;

    /// <summary>Learns a form's habit.</summary>
    /// <param name="arrivals">When its leads came, tests left out; in any order.</param>
    /// <param name="quiet">When nothing was to come.</param>
    /// <param name="zone">The client's.</param>
    /// <param name="now">The present moment.</param>
    public static ArrivalHabit Learn(
        IReadOnlyCollection<Instant> arrivals,
        IReadOnlyList<QuietTime> quiet,
        DateTimeZone zone,
        Instant now
    )
    {
        var came = arrivals.Where(a => a >= now - Back && a <= now).Order().ToList();
        var from = came.Count > 0 ? came[0] : now;
        var last = came.Count > 0 ? came[^1] : (Instant?)null;
        // Its own habit ends with the last lead: a form that fell silent long ago must not teach that silence is usual.
        var until = last ?? now;
        var days = (until - from).TotalDays;
        if (came.Count < LeastLeads || days < LeastDays)
        {
            var why =
                came.Count == 0
                    ? "no lead has come yet"
                    : string.Create(
                        CultureInfo.InvariantCulture,
                        $"{came.Count} {(came.Count == 1 ? "lead" : "leads")} in {Math.Max(1, days):0} days"
                    );
            return new(new double[HoursOfWeek], zone, quiet, double.MaxValue, last, why);
        }

        var rates = RatesOf(came, quiet, zone, from, until);
        var habit = new ArrivalHabit(rates, zone, quiet, double.NaN, last, null);
        var gaps = new List<double>(came.Count);
        for (var i = 1; i < came.Count; i++)
            gaps.Add(habit.Expected(came[i - 1], came[i]));
        return new(rates, zone, quiet, Threshold(gaps, days), last, null);
    }

    /// <summary>Asks whether it is silent.</summary>
    public SilenceAnswer Look(Instant now)
    {
        if (little is not null)
            return new SilenceAnswer.TooLittle($"Too little is known to say when it is silent: {little}.");
        var expected = Expected(last!.Value, now);
        if (expected <= threshold || Resting(now))
            return new SilenceAnswer.Usual($"This form usually has a lead {Every(now)}.");
        return new SilenceAnswer.Silent(
            last.Value,
            $"This form usually has a lead {Every(last.Value)}; none for {Spans.Say(now - last.Value)}."
        );
    }

    /// <summary>The leads that are to be expected between two moments.</summary>
    public double Expected(Instant from, Instant to)
    {
        var sum = 0.0;
        var at = from;
        while (at < to)
        {
            // To the next whole hour: rates change there, also where a zone is half an hour off.
            var local = at.InZone(zone).LocalDateTime;
            var rest =
                Duration.FromHours(1) - Duration.FromTicks(local.TimeOfDay.TickOfDay % NodaConstants.TicksPerHour);
            var end = Instant.Min(to, at + rest);
            sum += rates[HourOf(local)] * (end - at - Overlap(at, end)).TotalHours;
            at = end;
        }

        return sum;
    }

    private Duration Overlap(Instant from, Instant to)
    {
        var rested = Duration.Zero;
        foreach (var time in quiet)
        {
            var (begin, end) = (Instant.Max(from, time.From), time.To is { } until && until < to ? until : to);
            rested += Duration.Max(Duration.Zero, end - begin);
        }

        return Duration.Min(rested, to - from);
    }

    private bool Resting(Instant now) => quiet.Any(q => q.From <= now && (q.To is null || q.To > now));

    private static int HourOf(LocalDateTime local) => (((int)local.DayOfWeek - 1) * 24) + local.Hour;

    private string Every(Instant at)
    {
        // Over three hours: a single one says little.
        var hour = HourOf(at.InZone(zone).LocalDateTime);
        var rate = (rates[hour] + rates[(hour + 1) % HoursOfWeek] + rates[(hour + HoursOfWeek - 1) % HoursOfWeek]) / 3;
        if (rate < 1 / 72.0)
            return "seldom at these hours";
        // To five minutes: a habit is no timetable.
        var minutes = 60 / rate;
        var every = Duration.FromMinutes(minutes < 15 ? minutes : Math.Round(minutes / 5) * 5);
        if (every == Duration.FromHours(1))
            return "every hour at these hours";
        return every.TotalMinutes < 1.5 ? "every minute at these hours" : $"every {Spans.Say(every)} at these hours";
    }

    private static double[] RatesOf(
        List<Instant> came,
        IReadOnlyList<QuietTime> quiet,
        DateTimeZone zone,
        Instant from,
        Instant until
    )
    {
        var (counts, open) = (new double[HoursOfWeek], new double[HoursOfWeek]);
        foreach (var at in came)
            counts[HourOf(at.InZone(zone).LocalDateTime)]++;
        var clock = new ArrivalHabit(counts, zone, quiet, double.NaN, null, null);
        for (var at = from; at < until; at += Duration.FromHours(1))
        {
            var end = Instant.Min(until, at + Duration.FromHours(1));
            open[HourOf(at.InZone(zone).LocalDateTime)] += (end - at - clock.Overlap(at, end)).TotalHours;
        }

        // The shape of a day and of a week, taken apart, stand behind hours of which little was seen.
        double Rate(Func<int, bool> of)
        {
            var (sum, hours) = (0.0, 0.0);
            for (var h = 0; h < HoursOfWeek; h++)
            {
                if (!of(h))
                    continue;
                sum += counts[h];
                hours += open[h];
            }

            return hours > 0 ? sum / hours : 0;
        }

        var all = Rate(_ => true);
        var (byHour, byDay) = (
            Enumerable.Range(0, 24).Select(h => Rate(x => x % 24 == h)).ToArray(),
            Enumerable.Range(0, 7).Select(d => Rate(x => x / 24 == d)).ToArray()
        );
        var rates = new double[HoursOfWeek];
        for (var h = 0; h < HoursOfWeek; h++)
        {
            var shape = all > 0 ? byHour[h % 24] * byDay[h / 24] / all : 0;
            rates[h] = (counts[h] + (Shape * shape)) / (open[h] + Shape);
        }

        // What it has lately is what is to be expected: a campaign that was turned down is not silence.
        var usual = new ArrivalHabit(rates, zone, quiet, double.NaN, null, null);
        double Level(int days) =>
            until - Duration.FromDays(days) is var begin && begin < from
                ? 1
                : Math.Min(1, (came.Count(c => c > begin) + 3) / (usual.Expected(begin, until) + 3));
        var level = Math.Min(Level(3), Level(7));
        return [.. rates.Select(r => r * level)];
    }

    // The tail of its own gaps, exponential beyond the longest tenth (peaks over a threshold): a form whose leads come
    // in bursts has longer gaps than one whose leads come by themselves, and says so.
    private static double Threshold(List<double> gaps, double days)
    {
        var sorted = gaps.Order().ToList();
        var perMonth = gaps.Count / days * 30.4;
        var plain = Math.Log(Math.Max(1, perMonth / AlarmsAMonth));
        var beyond = sorted[(int)(sorted.Count * 0.9)];
        var excess = sorted.Where(g => g > beyond).Select(g => g - beyond).ToList();
        var tail =
            excess.Count < 4
                ? 0
                : beyond
                    + (excess.Average() * Math.Log(Math.Max(1, perMonth * excess.Count / gaps.Count / AlarmsAMonth)));
        return Math.Max(LeastGap, Math.Max(plain, tail) * (1 + (2 / Math.Sqrt(gaps.Count))));
    }
}

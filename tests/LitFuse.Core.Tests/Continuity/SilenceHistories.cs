using LitFuse.Core.Arrivals;
using NodaTime;

namespace LitFuse.Core.Tests.Continuity;

/// <summary>Generated forms: offices' hours, evenings, bursts after posts, ads that are turned up and down.</summary>
public static class SilenceHistories
{
    private static readonly DateTimeZone London = DateTimeZoneProviders.Tzdb["Europe/London"];
    private static readonly Instant Begin = Instant.FromUtc(2026, 6, 1, 0, 0);

    /// <summary>
    /// How often forms that go on as they were are said to be silent, over three months after four to learn from.
    /// </summary>
    public static (double Alarms, double Months) FalseAlarms(int forms, int seed)
    {
        var chance = new Random(seed);
        var (alarms, months) = (0.0, 0.0);
        for (var f = 0; f < forms; f++)
        {
            var came = Make(f % 5, 0.5 + (11 * chance.NextDouble()), 150, chance);
            ArrivalHabit? habit = null;
            var silent = false;
            var next = 0;
            for (
                var at = Begin + Duration.FromDays(60);
                at < Begin + Duration.FromDays(150);
                at += Duration.FromMinutes(15)
            )
            {
                var fresh = next;
                while (next < came.Count && came[next] <= at)
                    next++;
                // Learnt anew with every lead, as it is while it runs; once a day is near enough to that here.
                if (habit is null || at.InUtc().TimeOfDay == LocalTime.Midnight || fresh != next)
                    habit =
                        fresh == next && habit is not null
                            ? habit
                            : ArrivalHabit.Learn(came.Take(next).ToList(), [], London, at);
                var is_ = habit.Look(at) is SilenceAnswer.Silent;
                if (is_ && !silent)
                    alarms++;
                silent = is_;
            }

            months += 90 / 30.4;
        }

        return (alarms, months);
    }

    /// <summary>How long after forms stop it is said, in leads that were to be expected since the last.</summary>
    public static IReadOnlyList<(double Expected, double Hours)> FoundAfter(int forms, int seed)
    {
        var chance = new Random(seed);
        var found = new List<(double, double)>();
        for (var f = 0; f < forms; f++)
        {
            var came = Make(f % 5, 0.5 + (11 * chance.NextDouble()), 90, chance);
            var habit = ArrivalHabit.Learn(came, [], London, came[^1]);
            for (var at = came[^1]; at < came[^1] + Duration.FromDays(30); at += Duration.FromMinutes(15))
            {
                if (habit.Look(at) is not SilenceAnswer.Silent)
                    continue;
                found.Add((habit.Expected(came[^1], at), (at - came[^1]).TotalHours));
                break;
            }
        }

        return found;
    }

    // By thinning (Lewis and Shedler 1979): candidates at the highest rate, kept with the rate of their hour.
    private static List<Instant> Make(int habit, double perDay, int days, Random chance)
    {
        var came = new List<Instant>();
        var most = perDay / 24 * 12;
        for (var at = Begin; ; )
        {
            at += Duration.FromHours(-Math.Log(1 - chance.NextDouble()) / most);
            if (at >= Begin + Duration.FromDays(days))
                break;
            if (chance.NextDouble() * most >= perDay / 24 * Weight(habit, at))
                continue;
            came.Add(at);
            // Bursts: a post is shared, and some more come within the hour.
            if (habit != 3)
                continue;
            for (var more = chance.Next(4); more > 0; more--)
                came.Add(at + Duration.FromMinutes(chance.Next(60)));
        }

        came.Sort();
        return came;
    }

    private static double Weight(int habit, Instant at)
    {
        var local = at.InZone(London).LocalDateTime;
        var (office, evening, weekend) = (
            local.Hour is >= 8 and < 18,
            local.Hour is >= 18 and < 23,
            (int)local.DayOfWeek > 5
        );
        return habit switch
        {
            0 => office && !weekend ? 3.2 : 0.05,
            1 => evening ? 4
            : office ? 1
            : 0.1,
            2 => 1,
            3 => office ? 1 : 0.2,
            // An ad that is turned up and down from week to week.
            _ => (office ? 2 : 0.3)
                * (((at - Begin).Days / 7) % 3) switch
                {
                    0 => 1,
                    1 => 0.5,
                    _ => 1.4,
                },
        };
    }
}

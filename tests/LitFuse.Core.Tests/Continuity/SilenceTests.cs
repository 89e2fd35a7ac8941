using LitFuse.Core.Arrivals;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests.Continuity;

public sealed class SilenceTests
{
    private static readonly Instant Monday = At("23 00:00:00");

    // A lead every forty minutes from nine to five, Monday to Friday, for eight weeks before a Monday.
    private static List<Instant> Regular() =>
        [
            .. from day in Enumerable.Range(1, 56)
            let date = Monday - Duration.FromDays(day)
            where (int)date.InUtc().DayOfWeek <= 5
            from n in Enumerable.Range(0, 12)
            select date + Duration.FromHours(9) + Duration.FromMinutes(n * 40),
        ];

    private static SilenceAnswer Look(IReadOnlyList<Instant> came, Instant now, params QuietTime[] quiet) =>
        ArrivalHabit.Learn(came, quiet, London, now).Look(now);

    [Fact]
    public void A_form_with_a_lead_every_forty_minutes_is_silent_after_some_hours_without_one()
    {
        var came = Regular();
        for (var n = 0; n < 4; n++)
            came.Add(Monday + Duration.FromHours(9) + Duration.FromMinutes(n * 40));
        Assert.IsType<SilenceAnswer.Usual>(Look(came, Monday + Duration.FromHours(12.5)));
        var silent = Assert.IsType<SilenceAnswer.Silent>(Look(came, Monday + Duration.FromHours(16.9)));
        Assert.Equal("This form usually has a lead every 40 min at these hours; none for 6 h.", silent.Words);
        Assert.Equal(came[^1], silent.Since);
    }

    [Fact]
    public void A_night_and_a_weekend_are_no_silence() =>
        Assert.IsType<SilenceAnswer.Usual>(Look(Regular(), Monday + Duration.FromHours(9.5)));

    [Fact]
    public void While_it_is_paused_and_for_the_time_it_was_nothing_is_missed()
    {
        var came = Regular();
        var (noon, evening) = (Monday + Duration.FromHours(9), Monday + Duration.FromHours(16.9));
        Assert.IsType<SilenceAnswer.Silent>(Look(came, evening + Duration.FromDays(1)));
        Assert.IsType<SilenceAnswer.Usual>(Look(came, evening + Duration.FromDays(1), new QuietTime(noon, null)));
        Assert.IsType<SilenceAnswer.Usual>(Look(came, evening, new QuietTime(noon, evening - Duration.FromHours(1))));
    }

    [Fact]
    public void With_little_to_go_by_it_says_so_and_stays_quiet()
    {
        var few = Regular().Take(30).ToList();
        Assert.StartsWith(
            "Too little is known to say when it is silent: 30 leads in",
            Assert.IsType<SilenceAnswer.TooLittle>(Look(few, Monday + Duration.FromDays(3))).Words,
            StringComparison.Ordinal
        );
        Assert.Equal(
            "Too little is known to say when it is silent: no lead has come yet.",
            Assert.IsType<SilenceAnswer.TooLittle>(Look([], Monday)).Words
        );
        // Sixty in a single day say nothing of a week.
        Assert.IsType<SilenceAnswer.TooLittle>(
            Look(
                [.. Enumerable.Range(0, 60).Select(n => Monday - Duration.FromMinutes(n))],
                Monday + Duration.FromHours(9)
            )
        );
    }

    [Fact]
    public void A_form_that_fell_silent_weeks_ago_still_is() =>
        Assert.IsType<SilenceAnswer.Silent>(Look(Regular(), Monday + Duration.FromDays(9)));

    [Fact]
    public void A_campaign_that_was_turned_down_is_not_silent()
    {
        // For the last week one lead a day where there were twelve.
        var lately = Monday - Duration.FromDays(7);
        var came = Regular()
            .Where(c => c < lately || c.InUtc().Hour == 9)
            .GroupBy(c => (c.InUtc().Date, Late: c >= lately))
            .SelectMany(g => g.Key.Late ? g.Take(1) : g)
            .ToList();
        Assert.IsType<SilenceAnswer.Usual>(Look(came, Monday + Duration.FromHours(17)));
    }

    [Fact]
    public void A_change_of_clocks_moves_its_hours_with_the_people()
    {
        // London went back an hour on 25 October 2026: nine o'clock there is nine o'clock there.
        var habit = ArrivalHabit.Learn(
            [
                .. Enumerable
                    .Range(1, 55)
                    .Select(d =>
                        London
                            .AtLeniently((Monday - Duration.FromDays(d)).InZone(London).Date + new LocalTime(9, 30))
                            .ToInstant()
                    ),
            ],
            [],
            London,
            Monday
        );
        Assert.InRange(habit.Rates[9], 0.8, 1.1);
        Assert.InRange(habit.Rates[8], 0, 0.05);
    }

    /// <summary>Generated forms of five habits, three months each, looked at every quarter of an hour.</summary>
    [Fact]
    public void A_form_that_goes_on_as_it_was_is_said_to_be_silent_at_most_once_a_month()
    {
        var (alarms, months) = SilenceHistories.FalseAlarms(forms: 40, seed: 20261126);
        Assert.True(alarms / months <= 1, $"{alarms} alarms in {months:0} months");
    }
}

using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>When a step is done, on whose clock, and how that is said.</summary>
public sealed class MomentTests
{
    // 24 November 2026 is a Tuesday, the 27th a Friday.
    private static readonly OpenHours Weekdays = new(
        new LocalTime(8, 0),
        new LocalTime(18, 0),
        [.. OpenHours.EveryDay.Take(5)]
    );

    private static readonly DateTimeZone Toronto = DateTimeZoneProviders.Tzdb["America/Toronto"];

    private static StepMoment On(int days, bool working, string? at, MomentFrom from = MomentFrom.Band) =>
        new(0, days, working, at, from);

    [Theory]
    [InlineData(0, "24 12:00:00")]
    [InlineData(90, "24 12:01:30")]
    [InlineData(86_400, "25 12:00:00")]
    public void Seconds_are_counted_from_when_the_band_lit(int seconds, string done) =>
        Assert.Equal(At(done), StepMoment.After(seconds).On(At("24 12:00:00"), At("24 09:00:00"), London, Weekdays));

    [Fact]
    public void What_counts_from_the_submission_may_lie_before_the_band() =>
        Assert.Equal(
            At("24 09:05:00"),
            new StepMoment(300, From: MomentFrom.Submission).On(At("24 12:00:00"), At("24 09:00:00"), London, Weekdays)
        );

    [Theory]
    [InlineData(1, false, "09:30", "24 12:00:00", "25 09:30:00")] // next day at 9:30
    [InlineData(1, false, null, "24 12:00:00", "25 12:00:00")] // at the hour it is counted from
    [InlineData(0, false, "15:00", "24 12:00:00", "24 15:00:00")] // later today
    [InlineData(0, false, "09:00", "24 12:00:00", "25 09:00:00")] // the hour has passed: that of the next day
    [InlineData(3, false, "09:00", "27 12:00:00", "30 09:00:00")] // plain days go over the weekend
    [InlineData(1, true, "09:00", "27 12:00:00", "30 09:00:00")] // the working day after a Friday is a Monday
    [InlineData(3, true, "09:00", "25 12:00:00", "30 09:00:00")] // Thursday, Friday, Monday
    [InlineData(0, true, "15:00", "28 12:00:00", "30 15:00:00")] // on a Saturday: the next working day
    [InlineData(0, true, "09:00", "27 12:00:00", "30 09:00:00")] // passed on Friday: Monday's
    public void Days_are_counted_on_the_calendar(int days, bool working, string? at, string band, string done) =>
        Assert.Equal(At(done), On(days, working, at).On(At(band), At(band), London, Weekdays));

    [Fact]
    public void The_hour_is_one_of_the_zone_it_is_asked_in() =>
        Assert.Equal(
            At("25 14:00:00"),
            On(1, false, "09:00").On(At("24 12:00:00"), At("24 12:00:00"), Toronto, Weekdays)
        );

    [Fact]
    public void An_hour_that_the_clock_skips_is_the_next_there_is()
    {
        // 28 March 2027: London's clocks go from 01:00 to 02:00.
        var evening = Instant.FromUtc(2027, 3, 27, 20, 0);
        Assert.Equal(Instant.FromUtc(2027, 3, 28, 1, 0), On(1, false, "01:30").On(evening, evening, London, Weekdays));
    }

    [Fact]
    public void A_client_without_working_days_counts_plain_ones() =>
        Assert.Equal(
            At("29 09:00:00"),
            On(2, true, "09:00").On(At("27 12:00:00"), At("27 12:00:00"), London, Weekdays with { Days = [] })
        );

    [Fact]
    public void Whatever_the_moment_it_never_lies_before_the_band_and_its_hour_is_the_one_told()
    {
        var zones = new[] { London, Toronto, DateTimeZoneProviders.Tzdb["Australia/Lord_Howe"] };
        Gen.Select(Gen.Int[0, 400 * 1440], Gen.Int[0, 2], Gen.Int[0, 20], Gen.Bool, Gen.Int[0, 23])
            .Sample(
                (minute, zone, days, working, hour) =>
                {
                    var band = Instant.FromUtc(2026, 1, 1, 0, 0) + Duration.FromMinutes(minute);
                    var done = On(days, working, $"{hour:00}:00").On(band, band, zones[zone], Weekdays);
                    var local = done.InZone(zones[zone]);
                    if (done < band)
                        return false;
                    if (working && !Weekdays.OnDay(local.DayOfWeek))
                        return false;
                    // but for an hour that day has not
                    return local.Hour == hour || zones[zone].MapLocal(local.Date + new LocalTime(hour, 0)).Count != 1;
                }
            );
    }

    [Theory]
    [InlineData(0, 0, false, null, "at once")]
    [InlineData(90, 0, false, null, "after 90 s")]
    [InlineData(600, 0, false, null, "after 10 min")]
    [InlineData(172_800, 0, false, null, "after 2 days")]
    [InlineData(0, 1, false, "09:30", "next day at 09:30")]
    [InlineData(0, 1, true, null, "next working day")]
    [InlineData(0, 0, true, "09:00", "the working day at 09:00")]
    [InlineData(0, 0, false, "17:00", "at 17:00")]
    [InlineData(0, 5, true, "09:00", "5 working days after at 09:00")]
    public void It_is_said_as_people_say_it(int seconds, int days, bool working, string? at, string words) =>
        Assert.Equal(words, new StepMoment(seconds, days, working, at).Say());

    [Theory]
    [InlineData(600, 0, false, "after 10 min from submission")]
    [InlineData(0, 12, true, "12 working days from submission")]
    [InlineData(0, 1, false, "1 day from submission")]
    public void It_says_that_it_counts_from_the_submission(int seconds, int days, bool working, string words) =>
        Assert.Equal(words, new StepMoment(seconds, days, working, From: MomentFrom.Submission).Say());

    [Theory]
    [InlineData(-1, 0, null, "is not within 400 days")]
    [InlineData(0, 401, null, "is not within 400 days")]
    [InlineData(0, 1, "9:30", "has the hour '9:30', which is none")]
    [InlineData(0, 1, "24:00", "has the hour '24:00', which is none")]
    [InlineData(60, 1, null, "counts both days and seconds")]
    [InlineData(60, 0, null, null)]
    [InlineData(0, 400, "23:59", null)]
    public void What_is_wrong_with_it_is_said(int seconds, int days, string? at, string? fault) =>
        Assert.Equal(fault, new StepMoment(seconds, days, At: at).Fault());
}

/// <summary>In which hours a step may go out.</summary>
public sealed class StepHoursTests
{
    private static readonly OpenHours Work = new(
        new LocalTime(9, 0),
        new LocalTime(17, 0),
        [.. OpenHours.EveryDay.Take(5)]
    );

    [Theory]
    [InlineData(HoursKind.Send, "08:00–20:30")]
    [InlineData(HoursKind.Working, "09:00–17:00")]
    [InlineData(HoursKind.Own, "10:00–12:00")]
    [InlineData(HoursKind.None, null)]
    public void Each_kind_means_its_own(HoursKind kind, string? told)
    {
        var hours = new StepHours(kind, From: "10:00", To: "12:00").Of(SendHours, Work);
        Assert.Equal(told, hours is null ? null : $"{hours.From:HH':'mm}–{hours.To:HH':'mm}");
    }

    [Fact]
    public void Its_own_may_be_of_some_days_only()
    {
        var hours = new StepHours(HoursKind.Own, From: "10:00", To: "12:00", Weekdays: [6, 7]).Of(SendHours, Work)!;
        Assert.False(hours.IsOpen(At("24 11:00:00"), London));
        Assert.True(hours.IsOpen(At("28 11:00:00"), London));
        Assert.Equal(At("28 10:00:00"), hours.NextOpen(At("24 11:00:00"), London));
    }

    [Fact]
    public void Its_own_that_cannot_be_read_are_the_clients() =>
        Assert.Equal(SendHours, new StepHours(HoursKind.Own, From: "ten", To: "12:00").Of(SendHours, Work));

    [Theory]
    [InlineData(HoursKind.Own, "10:00", "12:00", 1, null)]
    [InlineData(HoursKind.Own, "12:00", "10:00", 1, "has send hours that never open")]
    [InlineData(HoursKind.Own, "10:00", "10:00", 1, "has send hours that never open")]
    [InlineData(HoursKind.Own, "10", "12:00", 1, "has send hours that are not written as 09:00")]
    [InlineData(HoursKind.Own, null, null, 1, "has send hours that are not written as 09:00")]
    [InlineData(HoursKind.Own, "10:00", "12:00", 8, "has send hours on a day that is none")]
    [InlineData(HoursKind.Working, "x", "y", 9, null)] // what is not used is not looked at
    public void What_is_wrong_with_them_is_said(HoursKind kind, string? from, string? to, int day, string? fault) =>
        Assert.Equal(fault, new StepHours(kind, From: from, To: to, Weekdays: [day]).Fault());
}

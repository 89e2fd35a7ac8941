using System.Net.Http.Headers;
using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Server.Engine;
using NodaTime;
using NodaTime.Text;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Which times clocks strike for after a sleep; and how long services ask to be left alone.</summary>
public sealed class ClockStrikesTests
{
    private static Instant At(string text) =>
        InstantPattern.CreateWithInvariantCulture("uuuu-MM-dd HH:mm").Parse(text).GetValueOrThrow();

    [Theory]
    // An hour that comes round: once, for the latest of those missed.
    [InlineData(false, "Europe/London", "2026-11-20 09:00", "2026-11-24 12:00", "2026-11-24 09:00")]
    [InlineData(false, "Europe/London", "2026-11-24 09:00", "2026-11-24 09:00", "2026-11-24 09:00")]
    [InlineData(false, "Pacific/Honolulu", "2026-11-20 19:00", "2026-11-24 18:59", "2026-11-23 19:00")]
    // A date: each day missed, the oldest first, and none of more than a month ago.
    [InlineData(true, "Europe/London", "2026-11-20 09:00", "2026-11-24 12:00", "2026-11-20 09:00")]
    [InlineData(true, "Europe/London", "2026-01-20 09:00", "2026-11-24 12:00", "2026-10-25 09:00")]
    // Around both changes of clocks it strikes at nine on the wall.
    [InlineData(false, "Europe/London", "2026-03-27 09:00", "2026-03-29 12:00", "2026-03-29 08:00")]
    [InlineData(false, "Europe/London", "2026-10-23 08:00", "2026-10-25 12:00", "2026-10-25 09:00")]
    public void After_a_sleep_an_hour_strikes_once_and_a_date_for_each_day(
        bool date,
        string zone,
        string due,
        string now,
        string struck
    )
    {
        var way = date
            ? new LitBy(EventKeys.DateReached, Timer: new("09:00", "ride_day", 0))
            : new LitBy("every-day", Timer: new("09:00"));
        Assert.Equal(At(struck), ClockService.Struck(way, At(due), At(now), DateTimeZoneProviders.Tzdb[zone]));
    }

    [Theory]
    [InlineData("120", null, 120.0)]
    [InlineData("Tue, 24 Nov 2026 12:05:00 GMT", "Tue, 24 Nov 2026 12:00:00 GMT", 300.0)] // by the service's own clock, however wrong
    [InlineData("Tue, 24 Nov 2026 11:00:00 GMT", "Tue, 24 Nov 2026 12:00:00 GMT", 0.0)]
    [InlineData(null, null, null)]
    public void A_service_asks_to_wait_in_seconds_or_until_a_date(string? retryAfter, string? date, double? seconds)
    {
        using var answer = new HttpResponseMessage();
        if (retryAfter is not null)
            answer.Headers.RetryAfter = RetryConditionHeaderValue.Parse(retryAfter);
        if (date is not null)
            answer.Headers.Date = DateTimeOffset.Parse(date, System.Globalization.CultureInfo.InvariantCulture);
        Assert.Equal(seconds, ConnectorHttp.WaitOf(answer.Headers)?.TotalSeconds);
    }
}

using CsCheck;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Hours;
using NodaTime;
using NodaTime.Text;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

public sealed class HoursTests
{
    private static readonly OpenHours Work = new(
        new LocalTime(8, 0),
        new LocalTime(18, 0),
        [IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday]
    );

    [Theory]
    [InlineData("24 08:00:00", true)] // the opening moment is inside
    [InlineData("24 20:29:59", true)]
    [InlineData("24 20:30:00", false)] // the closing moment is not
    [InlineData("24 02:00:00", false)]
    public void Hours_are_open_from_and_until(string at, bool open) =>
        Assert.Equal(open, SendHours.IsOpen(At(at), London));

    [Theory]
    [InlineData("24 21:00:00", "25 08:00:00")]
    [InlineData("24 03:00:00", "24 08:00:00")]
    [InlineData("24 12:00:00", "24 12:00:00")]
    public void It_opens_next(string at, string opens) => Assert.Equal(At(opens), SendHours.NextOpen(At(at), London));

    [Theory]
    [InlineData("24 09:00:00", "24 09:05:00")]
    [InlineData("24 23:00:00", "25 08:05:00")] // asked at night: due five minutes after opening
    [InlineData("24 17:58:00", "25 08:03:00")] // two minutes today, three tomorrow
    [InlineData("27 18:30:00", "30 08:05:00")] // over the weekend
    public void A_target_runs_in_working_hours(string asked, string due) =>
        Assert.Equal(At(due), Work.AfterOpenTime(At(asked), Duration.FromMinutes(5), London));

    [Fact]
    public void Hours_that_never_open_say_so_and_targets_fall_back_on_the_plain_clock()
    {
        var never = Work with { Days = [] };
        Assert.Null(never.NextOpen(At("24 12:00:00"), London));
        Assert.Equal(At("24 12:05:00"), never.AfterOpenTime(At("24 12:00:00"), Duration.FromMinutes(5), London));
    }

    [Fact]
    public void When_the_clock_skips_the_opening_time_it_opens_as_the_clock_jumps()
    {
        // 28 March 2027: London's clocks go from 01:00 to 02:00.
        var hours = new OpenHours(new LocalTime(1, 30), new LocalTime(20, 0), OpenHours.EveryDay);
        var opens = hours.NextOpen(Instant.FromUtc(2027, 3, 28, 0, 10), London)!.Value;
        Assert.True(hours.IsOpen(opens, London));
        Assert.Equal(Instant.FromUtc(2027, 3, 28, 1, 0), opens);
    }

    [Fact]
    public void The_next_opening_is_open_and_nothing_before_it_is()
    {
        var zones = new[] { "Europe/London", "America/Toronto", "Europe/Dublin", "Australia/Lord_Howe" }
            .Select(z => DateTimeZoneProviders.Tzdb[z])
            .ToArray();
        Gen.Select(Gen.Int[0, 365 * 24 * 60], Gen.Int[0, 3], Gen.Int[0, 22], Gen.Int[1, 12])
            .Sample(
                (minute, zone, from, length) =>
                {
                    var hours = new OpenHours(
                        new LocalTime(from, 0),
                        new LocalTime(Math.Min(23, from + length), 0),
                        OpenHours.EveryDay
                    );
                    var at = Instant.FromUtc(2026, 1, 1, 0, 0) + Duration.FromMinutes(minute);
                    if (hours.NextOpen(at, zones[zone]) is not { } opens)
                        return hours.From >= hours.To;
                    var skipped = !hours.IsOpen(opens, zones[zone]); // only where the clock jumps over the whole of it
                    var early = opens > at && hours.IsOpen(at + ((opens - at) * 0.5), zones[zone]);
                    return opens >= at && !skipped && !early;
                }
            );
    }

    [Theory]
    [InlineData("24 12:00:00", "24 12:00:00", typeof(GateAnswer.Go))]
    [InlineData("24 21:00:00", "24 21:00:00", typeof(GateAnswer.Wait))]
    [InlineData("22 12:00:00", "24 12:00:00", typeof(GateAnswer.Never))] // two days late
    public void The_gate_looks_at_hours_and_age(string planned, string now, Type answer) =>
        Assert.IsType(answer, ContactPolicy.Ask(Lead(), At(planned), Duration.FromHours(24), At(now)));

    [Fact]
    public void The_gate_never_lets_through_who_opted_out_or_has_no_number_or_would_wait_too_long()
    {
        var day = Duration.FromHours(24);
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Lead(optedOut: true), At("24 12:00:00"), day, At("24 12:00:00"))
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Lead(hasPhone: false), At("24 12:00:00"), day, At("24 12:00:00"))
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Lead(), At("24 21:00:00"), Duration.FromHours(2), At("24 21:00:00"))
        );
        Assert.IsType<GateAnswer.Never>(
            ContactPolicy.Ask(Lead(hours: SendHours with { Days = [] }), At("24 12:00:00"), day, At("24 12:00:00"))
        );
    }

    [Fact]
    public void The_gate_says_until_when_and_whose_clock()
    {
        var wait = Assert.IsType<GateAnswer.Wait>(
            ContactPolicy.Ask(Lead(), At("24 21:00:00"), Duration.FromHours(24), At("24 21:00:00"))
        );
        Assert.Equal(
            (At("25 08:00:00"), "waits for send hours: Wednesday 08:00 in Europe/London"),
            (wait.Until, wait.Reason)
        );
    }

    [Fact]
    public void Times_are_read_and_written_as_RFC_3339()
    {
        var at = At("24 09:41:07");
        var text = System.Text.Json.JsonSerializer.Serialize(at, CoreJson.Options);
        Assert.Equal("\"2026-11-24T09:41:07Z\"", text);
        Assert.Equal(
            at,
            System.Text.Json.JsonSerializer.Deserialize<Instant>("\"2026-11-24T10:41:07+01:00\"", CoreJson.Options)
        );
        Assert.Contains(
            "RFC 3339",
            Assert
                .Throws<System.Text.Json.JsonException>(() =>
                    System.Text.Json.JsonSerializer.Deserialize<Instant>("\"yesterday\"", CoreJson.Options)
                )
                .Message,
            StringComparison.Ordinal
        );
        Assert.True(InstantPattern.ExtendedIso.Parse("2026-11-24T09:41:07Z").Success);
    }

    [Fact]
    public void Days_off_are_passed_over()
    {
        var hours = new OpenHours(
            new(9, 0),
            new(17, 0),
            [IsoDayOfWeek.Monday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday]
        )
        {
            Closed = new HashSet<LocalDate> { new(2026, 12, 24), new(2026, 12, 25), new(2026, 12, 28) },
        };
        Assert.False(hours.IsOpen(new LocalDateTime(2026, 12, 25, 10, 0)));
        Assert.Equal(
            Instant.FromUtc(2026, 12, 31, 9, 0),
            hours.NextOpen(Instant.FromUtc(2026, 12, 24, 8, 0), DateTimeZone.Utc)
        );
        Assert.Equal(
            Instant.FromUtc(2026, 12, 31, 9, 5),
            hours.AfterOpenTime(Instant.FromUtc(2026, 12, 24, 8, 0), Duration.FromMinutes(5), DateTimeZone.Utc)
        );
    }

    [Theory]
    [InlineData(0, 5, true)] // no limit
    [InlineData(3, 2, true)]
    [InlineData(3, 3, false)]
    [InlineData(3, 7, false)]
    public void So_many_messages_a_day_and_no_more(int most, int had, bool goes)
    {
        var now = Instant.FromUtc(2026, 11, 24, 12, 0);
        var facts = Fixtures.Lead() with
        {
            MostADay = most,
            Sent =
            [
                .. Enumerable.Range(0, had).Select(n => now - Duration.FromHours(n + 1)),
                now - Duration.FromHours(25),
            ],
        };
        var answer = Fuses.Engine.ContactPolicy.Ask(facts, now, Duration.FromHours(48), now);
        if (goes)
            Assert.IsType<Fuses.Engine.GateAnswer.Go>(answer);
        // The oldest of the last three was three hours ago: it is a day old in twenty-one.
        else
            Assert.Equal(now + Duration.FromHours(21), Assert.IsType<Fuses.Engine.GateAnswer.Wait>(answer).Until);
        Assert.IsType<Fuses.Engine.GateAnswer.Go>(
            Fuses.Engine.ContactPolicy.Ask(
                facts,
                now,
                Duration.FromHours(48),
                now,
                Voice.Call,
                new(Fuses.Definition.HoursKind.None)
            )
        );
    }
}

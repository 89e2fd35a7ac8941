using System.Collections.Concurrent;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using NodaTime;
using NodaTime.TimeZones;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>
/// A million leads of all the world's zones, most of them around a change of their clocks, go through fuses with steps
/// of every kind that speaks to a lead: nothing is said or rung outside hours, after they opted out, or after a stop.
/// What is open is worked out here again, from minutes of the day alone.
/// </summary>
public sealed class MillionLeadsTests(ITestOutputHelper output)
{
    private static readonly int Leads = Whole.Of(150_000, 1_000_000);
    private static readonly Instant Year = Instant.FromUtc(2026, 1, 1, 0, 0);

    // Half an hour of daylight saving (Lord Howe), two (Troll), none, quarters of an hour, both hemispheres.
    private static readonly string[] Places =
    [
        "Australia/Lord_Howe",
        "Antarctica/Troll",
        "America/St_Johns",
        "Asia/Kathmandu",
        "Pacific/Chatham",
        "Pacific/Kiritimati",
        "Pacific/Pago_Pago",
        "Europe/Dublin",
        "Africa/Casablanca",
        "America/Santiago",
        "Asia/Gaza",
        "Europe/London",
    ];

    private static readonly DateTimeZone[] Zones =
    [
        .. Places
            .Concat(TzdbDateTimeZoneSource.Default.ZoneLocations!.Where((_, i) => i % 4 == 0).Select(l => l.ZoneId))
            .Distinct()
            .Select(z => DateTimeZoneProviders.Tzdb[z]),
    ];
    private static readonly Instant[][] Changes =
    [
        .. Zones.Select(z =>
            z.GetZoneIntervals(Year, Year + Duration.FromDays(366))
                .Where(i => i.HasEnd && i.End < Year + Duration.FromDays(366))
                .Select(i => i.End)
                .ToArray()
        ),
    ];
    private static readonly string?[] Countries = ["US", "CA", "FR", "AU", "GB", "DE", "IE", null];
    private static readonly StepHours?[] Hours =
    [
        null,
        new(HoursKind.Working),
        new(HoursKind.None),
        new(HoursKind.Own, OutsideHours.Wait, "21:00", "23:30"),
        new(HoursKind.Send, OutsideHours.Send),
        new(HoursKind.Send, OutsideHours.Skip),
        new(HoursKind.Own, OutsideHours.Wait, "01:30", "03:30", [6, 7]),
    ];
    private static readonly int[] After = [0, 60, 900, 3600, 6 * 3600, 20 * 3600];

    private static readonly CompiledFuse[] Fuses =
    [
        .. Enumerable
            .Range(0, 6)
            .Select(n =>
                CompiledFuse.From(
                    new()
                    {
                        Name = $"Speaks in all ways {n}",
                        LitBy = [new(EventKeys.Submission)],
                        AgeLimitHours = 48,
                        Bands =
                        [
                            new(
                                "all",
                                "All",
                                new(EntryKind.Always),
                                [
                                    .. Hours
                                        .Select((h, i) => (h, i))
                                        .Where(x => (x.i + n) % 2 == 0)
                                        .SelectMany(x =>
                                            new[] { StepKinds.Text, StepKinds.Email, StepKinds.RingThrough }.Select(
                                                (kind, k) =>
                                                    new Step(
                                                        $"s{x.i}{k}",
                                                        $"s{x.i}{k}",
                                                        kind,
                                                        StepMoment.After(After[(x.i + k + n) % After.Length]),
                                                        new Dictionary<string, string>
                                                        {
                                                            ["words"] = "Hello",
                                                            ["subject"] = "Hello",
                                                            ["colleagues"] = "team",
                                                        },
                                                        Hours: x.h
                                                    )
                                            )
                                        ),
                                ]
                            ),
                        ],
                    }
                )
            ),
    ];

    [Fact]
    public void Nothing_is_said_outside_hours_after_an_opt_out_or_after_a_stop()
    {
        var seed = Environment.GetEnvironmentVariable("LITFUSE_SEED") is { } given
            ? int.Parse(given, System.Globalization.CultureInfo.InvariantCulture)
            : Random.Shared.Next();
        output.WriteLine($"LITFUSE_SEED={seed}");
        var wrong = new ConcurrentQueue<string>();
        var (said, around, stopped) = (0L, 0L, 0L);
        Parallel.For(
            0,
            Leads,
            () => (Said: 0L, Around: 0L, Stopped: 0L),
            (n, _, sum) =>
            {
                var (one, near, stops) = Live(seed, n, wrong);
                return (sum.Said + one, sum.Around + near, sum.Stopped + stops);
            },
            sum =>
            {
                Interlocked.Add(ref said, sum.Said);
                Interlocked.Add(ref around, sum.Around);
                Interlocked.Add(ref stopped, sum.Stopped);
            }
        );
        output.WriteLine(
            $"{Leads:N0} leads, {Zones.Length} zones: {said:N0} messages and rings, {around:N0} leads around a change of clocks, {stopped:N0} stopped on the way."
        );
        Assert.True(wrong.IsEmpty, $"LITFUSE_SEED={seed}: {string.Join("; ", wrong.Take(5))}");
        Assert.True(
            said > Leads && around > Leads / 4 && stopped > Leads / 4,
            "The world was too quiet to show anything."
        );
    }

    private static (int Said, int Around, int Stopped) Live(int seed, int n, ConcurrentQueue<string> wrong)
    {
        var chance = new Random(unchecked(seed ^ (n * (int)2654435761)));
        var place = chance.Next(Zones.Length);
        var (zone, changes, team) = (Zones[place], Changes[place], Zones[chance.Next(Zones.Length)]);
        var near = changes.Length > 0 && chance.Next(4) != 0;
        var lit = near
            ? changes[chance.Next(changes.Length)] + Duration.FromMinutes(chance.Next(-2160, 720))
            : Year + Duration.FromMinutes(chance.Next(0, 365 * 1440));
        var facts = Fixtures.Lead() with
        {
            Zone = zone,
            ClientZone = team,
            HasEmail = true,
            PhoneCountry = Countries[chance.Next(Countries.Length)],
            SendHours = new(new(8, 0), new(20, 30), Core.Hours.OpenHours.EveryDay),
            WorkHours = new(
                new(9, 0),
                new(17, 0),
                [
                    IsoDayOfWeek.Monday,
                    IsoDayOfWeek.Tuesday,
                    IsoDayOfWeek.Wednesday,
                    IsoDayOfWeek.Thursday,
                    IsoDayOfWeek.Friday,
                ]
            ),
        };
        Instant? over = chance.Next(3) == 0 ? null : lit + Duration.FromSeconds(chance.Next(0, 30 * 3600));
        Scripted[] script = over is not { } at
            ? []
            :
            [
                new(
                    at,
                    new BurnEvent.Happened(
                        chance.Next(3) switch
                        {
                            0 => LeadEvent.Of(EventKeys.Touched, at, "somebody reached out"),
                            1 => LeadEvent.Of(EventKeys.OptedOut, at, "they want no more"),
                            _ => LeadEvent.Of(EventKeys.Replied, at, "they replied", ("text", "STOP")),
                        }
                    )
                ),
            ];
        var fuse = Fuses[chance.Next(Fuses.Length)];
        var rehearsed = Rehearser.Run(
            fuse,
            BurnState.New(Guid.Empty, lit, lit),
            facts,
            script,
            (_, _) => new(Duration.FromSeconds(1), StepStatus.Done, "taken"),
            lit + Duration.FromDays(4)
        );
        var said = 0;
        foreach (var moment in rehearsed.Moments)
        {
            if (moment.Effect is not BurnEffect.Deliver deliver)
                continue;
            said++;
            if (over is { } stopped && moment.At > stopped)
                wrong.Enqueue($"lead {n}: {deliver.Kind} at {moment.At}, {moment.At - stopped} after they stopped");
            if (Fault(deliver, facts, moment.At) is { } fault)
                wrong.Enqueue($"lead {n}: {deliver.Kind} {deliver.StepId} at {moment.At}: {fault}");
        }

        return (said, near ? 1 : 0, over is null ? 0 : 1);
    }

    private static string? Fault(BurnEffect.Deliver deliver, LeadFacts facts, Instant at)
    {
        var (day, minute) = On(facts.Zone, at);
        var (teamDay, teamMinute) = On(facts.ClientZone, at);
        var call = deliver.Kind == StepKinds.RingThrough;
        if (deliver.Kind == StepKinds.Text && !TextsAllowed(facts.PhoneCountry, day, minute))
            return $"the law of {facts.PhoneCountry} allows no text at {minute / 60}:{minute % 60:00} on day {day}";
        if (call && !CallsAllowed(facts.PhoneCountry, day, minute))
            return $"the law of {facts.PhoneCountry} allows no call at {minute / 60}:{minute % 60:00} on day {day}";
        var (ownDay, ownMinute) = call ? (teamDay, teamMinute) : (day, minute);
        var hours = deliver.Hours ?? new(call ? HoursKind.Working : HoursKind.Send);
        if (hours.Outside == OutsideHours.Send)
            return null;
        var open = hours.Kind switch
        {
            HoursKind.None => true,
            HoursKind.Send => ownMinute is >= 480 and < 1230,
            HoursKind.Working => ownMinute is >= 540 and < 1020 && ownDay <= 5,
            _ when hours.From == "21:00" => ownMinute is >= 1260 and < 1410,
            _ => ownMinute is >= 90 and < 210 && ownDay >= 6,
        };
        return open ? null : $"its hours are shut at {ownMinute / 60}:{ownMinute % 60:00} on day {ownDay}";
    }

    private static (int Day, int Minute) On(DateTimeZone zone, Instant at)
    {
        var local = at.Plus(Duration.FromSeconds(zone.GetUtcOffset(at).Seconds)).InUtc();
        return ((int)local.DayOfWeek, (local.Hour * 60) + local.Minute);
    }

    private static bool TextsAllowed(string? country, int day, int minute) =>
        country switch
        {
            "US" => minute is >= 480 and < 1260,
            "CA" => day <= 5 ? minute is >= 540 and < 1290 : minute is >= 600 and < 1080,
            _ => minute is >= 420 and < 1320,
        };

    private static bool CallsAllowed(string? country, int day, int minute) =>
        country switch
        {
            "US" or "CA" => TextsAllowed(country, day, minute),
            "AU" => day <= 5 ? minute is >= 540 and < 1200 : day == 6 && minute is >= 540 and < 1020,
            "FR" => day <= 5 && minute is (>= 600 and < 780) or (>= 840 and < 1200) && day <= 5,
            _ => minute is >= 480 and < 1260,
        };
}

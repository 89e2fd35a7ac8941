using System.Globalization;
using System.Text.Json.Serialization;
using LitFuse.Core.Hours;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>Where a step's time is counted from.</summary>
public enum MomentFrom
{
    /// <summary>From when the band lit.</summary>
    Band,

    /// <summary>From when they asked.</summary>
    Submission,
}

/// <summary>
/// When a step is done: <c>at once</c>, <c>after 10 min</c>, <c>next day at 9:30</c>, <c>12 working days from
/// submission</c>.
/// </summary>
/// <param name="AfterSeconds">Seconds, where no days are counted.</param>
/// <param name="Days">Whole days on the calendar.</param>
/// <param name="Working">The days counted are the client's working days.</param>
/// <param name="At">The hour of that day, <c>09:30</c>; left out, the hour it is counted from.</param>
/// <param name="From">Where it is counted from.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record StepMoment(
    int AfterSeconds = 0,
    int Days = 0,
    bool Working = false,
    string? At = null,
    MomentFrom From = MomentFrom.Band
)
{
    private static readonly LocalTimePattern Hour = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    /// <summary>At once.</summary>
    public static StepMoment AtOnce { get; } = new();

    /// <summary>After so many seconds.</summary>
    public static StepMoment After(int seconds) => new(seconds);

    /// <summary>True when it is counted on the calendar, which has a zone.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool OnCalendar => Days != 0 || Working || At is not null;

    /// <summary>The moment meant, which may lie before the band lit where it is counted from the submission.</summary>
    /// <param name="band">When the band lit.</param>
    /// <param name="submitted">When they asked.</param>
    /// <param name="zone">The zone of the calendar: the lead's own for what speaks to the lead, the client's for the
    /// rest.</param>
    /// <param name="work">The client's working hours, for working days.</param>
    /// <returns>An hour of the same day that has passed is that of the next.</returns>
    public Instant On(Instant band, Instant submitted, DateTimeZone zone, OpenHours work)
    {
        var start = From == MomentFrom.Submission ? submitted : band;
        return OnCalendar ? Calendar(start, zone, work) : start + Duration.FromSeconds(AfterSeconds);
    }

    /// <summary>
    /// As it is read: <c>at once</c>, <c>after 10 min</c>, <c>next day at 09:30</c>, <c>12 working days from
    /// submission</c>.
    /// </summary>
    public string Say()
    {
        var from = From == MomentFrom.Submission ? " from submission" : "";
        if (!OnCalendar)
            return AfterSeconds == 0 ? "at once" : $"after {FuseSentence.Span(AfterSeconds)}{from}";
        var at = At is null ? "" : " at " + At;
        var day = (Days, Working) switch
        {
            (0, false) => from.Length > 0 ? "the day" : "",
            (0, true) => "the working day",
            (1, false) => from.Length > 0 ? "1 day" : "next day",
            (1, true) => from.Length > 0 ? "1 working day" : "next working day",
            var (n, working) => string.Create(
                CultureInfo.InvariantCulture,
                $"{n} {(working ? "working " : "")}days{(from.Length > 0 ? "" : " after")}"
            ),
        };
        return (day + from + at).Trim();
    }

    /// <summary>What is wrong with it, or <c>null</c>.</summary>
    public string? Fault() =>
        AfterSeconds is < 0 or > Step.LatestSeconds || Days is < 0 or > 400 ? "is not within 400 days"
        : At is not null && !Hour.Parse(At).Success ? $"has the hour '{At}', which is none"
        : OnCalendar && AfterSeconds != 0 ? "counts both days and seconds"
        : null;

    private Instant Calendar(Instant start, DateTimeZone zone, OpenHours work)
    {
        var local = start.InZone(zone).LocalDateTime;
        var time = At is null ? local.TimeOfDay : Hour.Parse(At).GetValueOrThrow();
        var date = local.Date;
        if (Days == 0 && time < local.TimeOfDay)
            date = date.PlusDays(1);
        if (Working && work.Days.Count > 0)
        {
            for (var left = Days; left > 0; )
            {
                date = date.PlusDays(1);
                if (work.OnDay(date.DayOfWeek))
                    left--;
            }

            while (!work.OnDay(date.DayOfWeek))
                date = date.PlusDays(1);
        }
        else
        {
            date = date.PlusDays(Days);
        }

        return zone.Shows(date + time);
    }
}

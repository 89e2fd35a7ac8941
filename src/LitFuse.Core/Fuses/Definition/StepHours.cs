using System.Text.Json.Serialization;
using LitFuse.Core.Hours;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>Which hours a step keeps.</summary>
public enum HoursKind
{
    /// <summary>The client's send hours.</summary>
    Send,

    /// <summary>The client's working hours.</summary>
    Working,

    /// <summary>Its own.</summary>
    Own,

    /// <summary>None, but for what the law says of texts.</summary>
    None,
}

/// <summary>What to do when a step's moment falls outside its hours.</summary>
public enum OutsideHours
{
    /// <summary>Wait until they open.</summary>
    Wait,

    /// <summary>Leave it out.</summary>
    Skip,

    /// <summary>Send it all the same, where the law allows.</summary>
    Send,
}

/// <summary>In which hours a step may go out, on the clock of whom it is for.</summary>
/// <param name="Kind">Which hours.</param>
/// <param name="Outside">What to do outside them.</param>
/// <param name="From">For <see cref="HoursKind.Own"/>: <c>09:00</c>.</param>
/// <param name="To">For <see cref="HoursKind.Own"/>: <c>18:00</c>.</param>
/// <param name="Weekdays">For <see cref="HoursKind.Own"/>: ISO numbers of the days; none means every day.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record StepHours(
    HoursKind Kind,
    OutsideHours Outside = OutsideHours.Wait,
    string? From = null,
    string? To = null,
    IReadOnlyList<int>? Weekdays = null
)
{
    private static readonly LocalTimePattern Time = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    /// <summary>The hours meant, or <c>null</c> for any.</summary>
    public OpenHours? Of(OpenHours send, OpenHours work) =>
        Kind switch
        {
            HoursKind.Send => send,
            HoursKind.Working => work,
            HoursKind.Own
                when Time.Parse(From ?? "") is { Success: true, Value: var from }
                    && Time.Parse(To ?? "") is { Success: true, Value: var to } => new(
                from,
                to,
                Weekdays is { Count: > 0 } days ? [.. days.Select(d => (IsoDayOfWeek)d)] : OpenHours.EveryDay
            ),
            HoursKind.Own => send,
            _ => null,
        };

    /// <summary>What is wrong with it, or <c>null</c>.</summary>
    public string? Fault() =>
        Kind != HoursKind.Own ? null
        : Time.Parse(From ?? "") is not { Success: true, Value: var from }
        || Time.Parse(To ?? "") is not { Success: true, Value: var to }
            ? "has send hours that are not written as 09:00"
        : from >= to ? "has send hours that never open"
        : Weekdays?.Any(d => d is < 1 or > 7) == true ? "has send hours on a day that is none"
        : null;
}

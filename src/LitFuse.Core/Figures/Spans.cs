using System.Globalization;
using NodaTime;

namespace LitFuse.Core.Figures;

/// <summary>Spans of time in words.</summary>
public static class Spans
{
    /// <summary>A span as people say it: <c>180 ms</c>, <c>4 s</c>, <c>40 min</c>, <c>5 h</c>, <c>4 days</c>.</summary>
    public static string Say(Duration span) =>
        span.TotalSeconds switch
        {
            < 1 => string.Create(CultureInfo.InvariantCulture, $"{span.TotalMilliseconds:0} ms"),
            < 60 => string.Create(CultureInfo.InvariantCulture, $"{span.TotalSeconds:0.#} s"),
            < 3600 => string.Create(CultureInfo.InvariantCulture, $"{span.TotalMinutes:0} min"),
            < 48 * 3600 => string.Create(CultureInfo.InvariantCulture, $"{span.TotalHours:0} h"),
            _ => string.Create(CultureInfo.InvariantCulture, $"{span.TotalDays:0} days"),
        };
}

using NodaTime;

namespace LitFuse.Core.Hours;

/// <summary>Hours from several sides that must all be open: a step's own, and what the law says.</summary>
public static class OpenTimes
{
    /// <summary>True when one part is open at a moment on that clock.</summary>
    public static bool AnyOpen(IReadOnlyList<OpenHours> parts, LocalDateTime local)
    {
        for (var i = 0; i < parts.Count; i++)
            if (parts[i].IsOpen(local))
                return true;
        return false;
    }

    /// <summary>
    /// The first moment at or after <paramref name="at"/> when <paramref name="own"/> and one part of
    /// <paramref name="law"/> are open, each on its own clock, or <c>null</c> when there is none within two months.
    /// What is left out is open always.
    /// </summary>
    public static Instant? Next(
        OpenHours? own,
        DateTimeZone ownZone,
        IReadOnlyList<OpenHours>? law,
        DateTimeZone lawZone,
        Instant at
    )
    {
        for (var tries = 0; tries < 64; tries++)
        {
            var later = at;
            if (own is not null)
            {
                if (own.NextOpen(at, ownZone) is not { } open)
                    return null;
                later = open;
            }

            if (law is not null)
            {
                Instant? first = null;
                for (var i = 0; i < law.Count; i++)
                    if (law[i].NextOpen(later, lawZone) is { } open && !(first <= open))
                        first = open;
                if (first is null)
                    return null;
                later = first.Value;
            }

            if (later == at || own?.IsOpen(later, ownZone) != false)
                return later;
            at = later;
        }

        return null;
    }
}

using NodaTime;

namespace LitFuse.Data;

/// <summary>
/// Who waits and who is late, said once for lists, counts and figures. The front end shows it by the same rule
/// (<c>web/src/ui/lateness.ts</c>): a target is met by a first touch at or before it.
/// </summary>
public static class Lateness
{
    /// <summary>Leads whom nobody has reached out to, and somebody should.</summary>
    public static IQueryable<Lead> InTheAir(this IQueryable<Lead> leads) =>
        leads.Where(l => l.FirstTouchAt == null && !l.Quiet);

    /// <summary>Those in the air whose target is over.</summary>
    public static IQueryable<Lead> Late(this IQueryable<Lead> leads, Instant now) =>
        leads.InTheAir().Where(l => l.TargetAt < now);

    /// <summary>
    /// The share that was reached in time, among those of whom that is known by now; <c>null</c> where it is of none.
    /// </summary>
    public static double? ShareInTime(IReadOnlyCollection<(Instant? FirstTouchAt, Instant TargetAt)> leads, Instant now)
    {
        var known = leads.Count(l => l.FirstTouchAt is not null || l.TargetAt < now);
        return known == 0 ? null : leads.Count(l => l.FirstTouchAt <= l.TargetAt) / (double)known;
    }
}

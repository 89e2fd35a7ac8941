namespace LitFuse.Core.Figures;

/// <summary>Percentiles of measured values.</summary>
public static class Percentiles
{
    /// <summary>
    /// The value at <paramref name="share"/> (0 to 1) of <paramref name="values"/>, between neighbours by straight
    /// line (Hyndman and Fan's type 7); <c>null</c> of nothing.
    /// </summary>
    public static double? At(IReadOnlyCollection<double> values, double share)
    {
        if (values.Count == 0)
            return null;
        var sorted = values.Order().ToArray();
        var place = Math.Clamp(share, 0, 1) * (sorted.Length - 1);
        var below = (int)Math.Floor(place);
        var above = Math.Min(below + 1, sorted.Length - 1);
        return sorted[below] + ((place - below) * (sorted[above] - sorted[below]));
    }
}

using LitFuse.Core.Fields;

namespace LitFuse.Core.Mapping;

/// <summary>One value of a lead that an answer would change, or did.</summary>
/// <param name="Before"><c>null</c> where there was none.</param>
/// <param name="After"><c>null</c> where none is left.</param>
/// <param name="Taken">False where the field's rule kept what was there.</param>
public sealed record FieldChange(string Field, string? Before, string? After, bool Taken);

/// <summary>Puts the values of a submission into a lead that has some already.</summary>
public static class Refill
{
    /// <summary>A later submission: each field by its rule.</summary>
    /// <returns>
    /// The lead's values afterwards, and every field where the submission said something else than was there.
    /// </returns>
    public static (IReadOnlyDictionary<string, string> Values, IReadOnlyList<FieldChange> Changes) Later(
        IReadOnlyDictionary<string, string> there,
        IReadOnlyDictionary<string, string> said,
        Func<string, FillRule> rule
    )
    {
        var values = new Dictionary<string, string>(there, StringComparer.Ordinal);
        var changes = new List<FieldChange>();
        foreach (var (field, value) in said)
        {
            var before = there.GetValueOrDefault(field);
            if (before == value)
                continue;
            var taken = rule(field) switch
            {
                FillRule.NewestWins => true,
                FillRule.FillEmpties => before is null,
                _ => false,
            };
            if (taken)
                values[field] = value;
            changes.Add(new(field, before, value, taken));
        }

        return (values, changes);
    }

    /// <summary>
    /// The same submission through another map. Only what the lead has from this very submission is taken back or
    /// replaced; what another submission or a person has put there since stays. What is new goes by its field's rule.
    /// </summary>
    public static (IReadOnlyDictionary<string, string> Values, IReadOnlyList<FieldChange> Changes) Again(
        IReadOnlyDictionary<string, string> there,
        IReadOnlyDictionary<string, string> saidBefore,
        IReadOnlyDictionary<string, string> says,
        Func<string, FillRule> rule
    )
    {
        var values = new Dictionary<string, string>(there, StringComparer.Ordinal);
        var changes = new List<FieldChange>();
        foreach (var field in saidBefore.Keys.Union(says.Keys, StringComparer.Ordinal))
        {
            var (had, old, now) = (
                there.GetValueOrDefault(field),
                saidBefore.GetValueOrDefault(field),
                says.GetValueOrDefault(field)
            );
            if (old == now || had == now)
                continue;
            var own = had == old;
            if (!own && now is null)
                continue;
            var taken = own || rule(field) == FillRule.NewestWins;
            if (taken && now is null)
                values.Remove(field);
            else if (taken)
                values[field] = now!;
            changes.Add(new(field, had, now, taken));
        }

        return (values, changes);
    }
}

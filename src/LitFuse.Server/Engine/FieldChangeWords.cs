using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Core.Texts;

namespace LitFuse.Server.Engine;

/// <summary>Changes of a lead's fields in words, for the story.</summary>
public static class FieldChangeWords
{
    /// <summary>
    /// <c>Fleet size: 4–9 → 10–24; Company: kept Nook, they now wrote Nook Ltd</c>; <c>null</c> where nothing worth
    /// telling changed.
    /// </summary>
    public static string? Of(IReadOnlyList<FieldChange> changes, IReadOnlyDictionary<string, LeadField> own)
    {
        var told = changes
            .Where(c => c.Field is not ("junk_score" or "visitor_id" or "pages_seen"))
            .Select(c => $"{LeadField.LabelOf(c.Field, own.GetValueOrDefault)}: {Say(c)}")
            .ToList();
        if (told.Count == 0)
            return null;
        var words = string.Join("; ", told);
        return Clip.Short(words, 2000);
    }

    private static string Say(FieldChange change) =>
        !change.Taken ? $"kept {change.Before ?? "empty"}, they now wrote {change.After}"
        : change.Before is null ? change.After!
        : $"{change.Before} → {change.After ?? "taken out"}";
}

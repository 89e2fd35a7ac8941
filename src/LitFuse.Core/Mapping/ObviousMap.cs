using LitFuse.Core.Forms;

namespace LitFuse.Core.Mapping;

/// <summary>The field map that needs no guess: of fields whose maker has said what they are.</summary>
public static class ObviousMap
{
    /// <summary>What fields of any form may mean beyond the standard lead fields.</summary>
    public static IReadOnlyList<string> Tracking { get; } =
    [
        "utm_source",
        "utm_medium",
        "utm_campaign",
        "utm_term",
        "utm_content",
        "campaign",
        "ad",
        "click_id",
        "referrer",
        "landing_path",
        "pages_seen",
        "visitor_id",
    ];

    /// <summary>
    /// The map for <paramref name="fields"/>: standard fields to their lead fields, questions to lead fields of their
    /// own name, tracking values as they are.
    /// </summary>
    /// <returns>
    /// <c>null</c> when no field says that it is an email address or a telephone number: nobody could be recognised.
    /// </returns>
    public static FieldMap? Of(IReadOnlyList<FormField> fields)
    {
        if (!fields.Any(f => f.Means is "email" or "phone"))
            return null;
        var rows = fields.Select(f => new MapRow(f.Name, f.Means ?? f.Name)).ToList();
        rows.AddRange(Tracking.Where(t => !fields.Any(f => f.Name == t)).Select(t => new MapRow(t, t)));
        return new(rows);
    }
}

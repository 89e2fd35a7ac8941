namespace LitFuse.Core.Identity;

/// <summary>Splits and joins the names of people.</summary>
public static class PersonNames
{
    private static readonly HashSet<string> Titles = new(StringComparer.OrdinalIgnoreCase)
    {
        "mr", "mrs", "ms", "miss", "mx", "dr", "prof", "sir", "dame", "herr", "frau", "mme", "sr", "sra",
    };

    private static readonly HashSet<string> Particles = new(StringComparer.OrdinalIgnoreCase)
    {
        "van", "von", "de", "da", "di", "du", "del", "della", "der", "den", "la", "le", "ter", "ten", "af", "av", "dos", "das", "al", "bin", "ibn", "mac", "ní", "ó", "zu",
    };

    /// <summary>
    /// First and last name of a full one. A title is dropped; particles go with the last name
    /// (<c>Ines van der Calloway</c> → <c>Ines</c>, <c>van der Calloway</c>); <c>Calloway, Ines</c> is turned round.
    /// With one word there is no last name.
    /// </summary>
    public static (string? First, string? Last) Split(string? full)
    {
        if (string.IsNullOrWhiteSpace(full)) return (null, null);
        var comma = full.IndexOf(',', StringComparison.Ordinal);
        if (comma > 0 && comma < full.Length - 1) full = full[(comma + 1)..] + " " + full[..comma];

        var words = full.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).ToList();
        while (words.Count > 1 && Titles.Contains(words[0].TrimEnd('.'))) words.RemoveAt(0);
        if (words.Count == 0) return (null, null);
        if (words.Count == 1) return (words[0], null);

        var last = words.Count - 1;
        while (last > 1 && Particles.Contains(words[last - 1])) last--;
        return (string.Join(' ', words.Take(last)), string.Join(' ', words.Skip(last)));
    }

    /// <summary>The name to show for a person: both parts, either, or <c>null</c>.</summary>
    public static string? Join(string? first, string? last) =>
        (first, last) switch
        {
            ({ Length: > 0 }, { Length: > 0 }) => first + " " + last,
            ({ Length: > 0 }, _) => first,
            (_, { Length: > 0 }) => last,
            _ => null,
        };
}

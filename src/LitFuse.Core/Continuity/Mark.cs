namespace LitFuse.Core.Continuity;

/// <summary>
/// A short mark of words: the same for the same words in every process, as <see cref="HashCode"/> is not (FNV-1a,
/// draft-eastlake-fnv).
/// </summary>
public static class Mark
{
    /// <summary>Of some words, in their order.</summary>
    public static uint Of(params IEnumerable<string> words)
    {
        var hash = 2166136261u;
        foreach (var word in words)
        {
            foreach (var c in word)
                hash = (hash ^ c) * 16777619u;
            // What ends one word and begins the next counts as well.
            hash = (hash ^ 0x1F) * 16777619u;
        }

        return hash;
    }
}

namespace LitFuse.Core.Replies;

/// <summary>Phrases of plain words, looked up longest first.</summary>
public sealed class PhraseList
{
    private readonly HashSet<string> phrases;
    private readonly int longest;

    /// <summary>Takes phrases separated by commas or line breaks.</summary>
    public PhraseList(params string[] lines)
    {
        phrases =
        [
            .. lines.SelectMany(l =>
                l.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            ),
        ];
        longest = phrases.Max(p => p.Count(c => c == ' ') + 1);
    }

    /// <summary>The longest phrase that <paramref name="words"/> begin with, and how many words it has.</summary>
    public (string? Phrase, int Words) At(IReadOnlyList<string> words, int from = 0)
    {
        for (var n = Math.Min(longest, words.Count - from); n > 0; n--)
        {
            var phrase = n == 1 ? words[from] : string.Join(' ', words.Skip(from).Take(n));
            if (phrases.Contains(phrase))
                return (phrase, n);
        }

        return (null, 0);
    }

    /// <summary>The first phrase anywhere in the words, and where.</summary>
    public (string? Phrase, int At, int Words) In(IReadOnlyList<string> words)
    {
        for (var i = 0; i < words.Count; i++)
        {
            var (phrase, n) = At(words, i);
            if (phrase is not null)
                return (phrase, i, n);
        }

        return (null, -1, 0);
    }

    /// <summary>True for a phrase of it.</summary>
    public bool Has(string phrase) => phrases.Contains(phrase);
}

using System.Globalization;

namespace LitFuse.Core.Replies;

/// <summary>
/// Finds which of the things offered a reply chooses: by number, by order, or by the words that tell it from the
/// others.
/// </summary>
public static class ReplyChoices
{
    private static readonly Dictionary<string, int> Order = new(StringComparer.Ordinal)
    {
        ["first"] = 1,
        ["1st"] = 1,
        ["second"] = 2,
        ["2nd"] = 2,
        ["third"] = 3,
        ["3rd"] = 3,
        ["fourth"] = 4,
        ["4th"] = 4,
        ["one"] = 1,
        ["two"] = 2,
        ["three"] = 3,
        ["four"] = 4,
        ["erste"] = 1,
        ["ersten"] = 1,
        ["zweite"] = 2,
        ["zweiten"] = 2,
        ["dritte"] = 3,
        ["dritten"] = 3,
        ["eins"] = 1,
        ["zwei"] = 2,
        ["drei"] = 3,
        ["premier"] = 1,
        ["premiere"] = 1,
        ["deuxieme"] = 2,
        ["troisieme"] = 3,
        ["un"] = 1,
        ["deux"] = 2,
        ["trois"] = 3,
        ["primero"] = 1,
        ["primera"] = 1,
        ["segundo"] = 2,
        ["segunda"] = 2,
        ["tercero"] = 3,
        ["tercera"] = 3,
        ["uno"] = 1,
        ["dos"] = 2,
        ["tres"] = 3,
        ["primo"] = 1,
        ["prima"] = 1,
        ["secondo"] = 2,
        ["seconda"] = 2,
        ["terzo"] = 3,
        ["terza"] = 3,
        ["due"] = 2,
        ["tre"] = 3,
        ["eerste"] = 1,
        ["tweede"] = 2,
        ["derde"] = 3,
        ["een"] = 1,
        ["twee"] = 2,
        ["drie"] = 3,
        ["primeiro"] = 1,
        ["primeira"] = 1,
        ["terceiro"] = 3,
        ["terceira"] = 3,
        ["dois"] = 2,
        ["duas"] = 2,
        ["pierwszy"] = 1,
        ["pierwsza"] = 1,
        ["drugi"] = 2,
        ["druga"] = 2,
        ["trzeci"] = 3,
        ["trzecia"] = 3,
        ["jeden"] = 1,
        ["dwa"] = 2,
        ["trzy"] = 3,
        ["forsta"] = 1,
        ["andra"] = 2,
        ["tredje"] = 3,
        ["forste"] = 1,
        ["anden"] = 2,
        ["a"] = 1,
        ["b"] = 2,
        ["c"] = 3,
    };

    // Words that may stand beside a number without changing what it chooses.
    private static readonly HashSet<string> Fillers =
    [
        .. (
            "option number no nr slot choice works work for me is good fine suits best would be perfect ok okay yes yep yeah sure the one i ill we take go with will choose pick like prefer that it us great please id lets at on "
            + "opcion numero la el prefiero me viene bien mejor option numero le je prends prefere choisis celui celle convient va c est "
            + "nummer die der das den nehme ich passt mir gut ware am besten ja gerne graag de het past mij oke liefst kies doe maar "
            + "opzione scelgo preferisco meglio va bene per si l quella quello opcao escolho prefiro melhor a o pode ser sim "
            + "opcja wybieram pasuje tak numer biore alternativ tar valg vaelger jag jeg"
        ).Split(' '),
    ];

    private static readonly HashSet<string> Negations =
    [
        "not",
        "cant",
        "cannot",
        "dont",
        "no",
        "nicht",
        "kein",
        "keine",
        "pas",
        "ne",
        "non",
        "niet",
        "geen",
        "nao",
        "nie",
        "inte",
        "ikke",
        "neither",
        "none",
        "except",
        "never",
        "nunca",
        "or",
        "oder",
        "ou",
        "of",
    ];

    /// <summary>The one that is chosen, or <c>null</c> where that is not clear.</summary>
    /// <param name="words">Of the reply.</param>
    /// <param name="offered">As it was offered.</param>
    /// <param name="asks">There is a question mark: then a person must look.</param>
    public static (string Offered, string Because)? Find(
        IReadOnlyList<string> words,
        IReadOnlyList<string> offered,
        bool asks
    )
    {
        if (asks)
            return null;
        var rest = ReplyLists.WithoutPolite(words);
        if (ByNumber(rest, offered.Count) is { } number)
            return (offered[number.Place - 1], $"“{number.Said}” is the number of {offered[number.Place - 1]}");
        return rest.Exists(Negations.Contains) ? null : ByWords(rest, offered);
    }

    private static (int Place, string Said)? ByNumber(List<string> words, int count)
    {
        var found = new List<(int Place, string Said)>();
        foreach (var word in words)
        {
            if (int.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var n))
                found.Add((n, word));
            else if (Order.TryGetValue(word, out n) && !(Fillers.Contains(word) && words.Count > 1))
                found.Add((n, word));
            else if (!Fillers.Contains(word) && word is not ("st" or "nd" or "rd" or "th"))
                return null;
        }

        return found.Count == 1 && found[0].Place >= 1 && found[0].Place <= count ? found[0] : null;
    }

    private static (string Offered, string Because)? ByWords(List<string> words, IReadOnlyList<string> offered)
    {
        var labels = offered.Select(o => ReplyReader.WordsOf(o).Distinct(StringComparer.Ordinal).ToList()).ToList();
        var telling = labels.ConvertAll(label =>
            label.Where(w => w != "00" && !labels.TrueForAll(l => l.Contains(w))).ToList()
        );
        var scores = telling.ConvertAll(label => label.Where(w => words.Exists(said => Means(said, w))).ToList());
        var best = scores.Max(s => s.Count);
        if (best == 0 || scores.Count(s => s.Count == best) != 1)
            return null;
        var at = scores.FindIndex(s => s.Count == best);
        // A word that tells for another, and not for this one, makes it unclear: “Tuesday or Wednesday”.
        var mine = scores[at].ToHashSet(StringComparer.Ordinal);
        if (scores.Where((_, i) => i != at).Any(s => s.Exists(w => !mine.Contains(w))))
            return null;
        return (offered[at], $"“{string.Join(' ', scores[at])}” tells {offered[at]} from the others");
    }

    // “tue” is Tuesday; three letters are enough.
    private static bool Means(string said, string word) =>
        said == word
        || (
            said.Length >= 3
            && word.Length > said.Length
            && char.IsLetter(said[0])
            && word.StartsWith(said, StringComparison.Ordinal)
        )
        || (
            word.Length >= 3
            && said.Length > word.Length
            && char.IsLetter(word[0])
            && said.StartsWith(word, StringComparison.Ordinal)
        );
}

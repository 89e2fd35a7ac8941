namespace LitFuse.Core.Mapping;

/// <summary><see cref="MapVocabulary"/> made ready for looking things up.</summary>
internal sealed class MapLexicon
{
    /// <summary>A phrase found in a field's words.</summary>
    internal readonly record struct Hit(string Field, string Phrase, double Score);

    private readonly List<(string Field, string[] Words, string Phrase)> phrases = [];
    private readonly Dictionary<string, List<int>> byWord = new(StringComparer.Ordinal);
    private readonly HashSet<string> fillers = [];
    private readonly HashSet<string> vetoes = [];
    private readonly Dictionary<string, HashSet<string>> modifiers = new(StringComparer.Ordinal);
    private readonly HashSet<string> vocabulary = new(StringComparer.Ordinal);

    private static readonly HashSet<string> BareNames = new(StringComparer.Ordinal)
    {
        "name",
        "nom",
        "nombre",
        "nome",
        "naam",
        "namn",
        "navn",
        "nimi",
        "jmeno",
        "nev",
        "nume",
        "имя",
        "お名前",
    };

    private static readonly HashSet<string> Asking = new(StringComparer.Ordinal)
    {
        "how",
        "which",
        "when",
        "why",
        "many",
        "much",
        "do",
        "does",
        "are",
        "have",
        "would",
        "will",
        "wie",
        "welche",
        "welcher",
        "welches",
        "wann",
        "warum",
        "haben",
        "mochten",
        "combien",
        "quand",
        "quel",
        "quelle",
        "quels",
        "avez",
        "souhaitez",
        "cuantos",
        "cuantas",
        "cuando",
        "cual",
        "que",
        "tiene",
        "quanti",
        "quante",
        "quando",
        "quale",
        "che",
        "quantos",
        "quantas",
        "hoeveel",
        "wanneer",
        "welke",
        "ile",
        "kiedy",
        "jaki",
        "jaka",
        "hur",
        "nar",
        "vilken",
        "hvor",
        "hvornar",
        "hvilken",
        "kuinka",
        "milloin",
        "mika",
        "kolik",
        "kdy",
        "hany",
        "mikor",
        "kac",
        "hangi",
        "сколько",
        "когда",
    };

    /// <summary>Builds it.</summary>
    public static MapLexicon Load()
    {
        var lexicon = new MapLexicon();
        foreach (var (field, text) in MapVocabulary.Phrases)
        {
            foreach (
                var phrase in text.Split(
                    [',', '\n'],
                    StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
                )
            )
                lexicon.Add(field, phrase);
        }

        foreach (var word in Split(MapVocabulary.Fillers))
            lexicon.fillers.Add(word);
        foreach (var word in Split(MapVocabulary.Vetoes["*"]))
            lexicon.vetoes.Add(word);
        foreach (var (field, text) in MapVocabulary.Modifiers)
            lexicon.modifiers[field] = [.. Split(text)];
        return lexicon;
    }

    /// <summary>
    /// The words of a name or label; what is written in one piece is taken apart where it is made of known words.
    /// </summary>
    public IReadOnlyList<string> Tokens(string text)
    {
        var words = new List<string>();
        foreach (var word in Texts.Tokens.Of(text))
        {
            if (word.All(char.IsDigit))
                continue;
            if (
                vocabulary.Contains(word)
                || fillers.Contains(word)
                || vetoes.Contains(word)
                || word.Length < 6
                || !Apart(word, words)
            )
                words.Add(Umlauts(word));
        }

        return words;
    }

    /// <summary>True for names that programs give: <c>field_3</c>, <c>q7</c>, <c>00N58000</c>.</summary>
    public static bool IsAnonymous(string name) =>
        Texts
            .Tokens.Of(name)
            .All(t =>
                t.Length <= 2
                || t.All(char.IsDigit)
                || t
                    is "field"
                        or "fld"
                        or "input"
                        or "question"
                        or "answer"
                        or "text"
                        or "txt"
                        or "item"
                        or "col"
                        or "column"
                        or "custom"
                        or "element"
                        or "form"
                        or "entry"
                        or "ninja"
                        or "wpforms"
                        or "select"
                        or "checkbox"
                        or "radio"
            );

    /// <summary>True where the label asks something, rather than names a field.</summary>
    public bool IsQuestion(string label) =>
        label.Contains('?', StringComparison.Ordinal)
        || Texts.Tokens.Of(label).Any(Asking.Contains)
        || Tokens(label).Count(t => !fillers.Contains(t)) > 4;

    /// <summary>Its words make it another field altogether.</summary>
    public bool IsVetoed(IReadOnlyList<string> words) => words.Any(vetoes.Contains);

    /// <summary>“Name” and nothing more.</summary>
    public bool IsBareName(Mapping.SeenField field)
    {
        bool Bare(string text) =>
            Tokens(text).Where(t => !fillers.Contains(t)).ToList() is [var one] && BareNames.Contains(one);
        return Bare(field.Label) || (field.Label == field.Name && Bare(field.Name));
    }

    /// <summary>The phrase that says best which field these words are, or <c>null</c>.</summary>
    public Hit? Look(IReadOnlyList<string> words, string text)
    {
        if (MapVocabulary.HasNoSpaces(text))
            return LookInside(text);
        if (words.Count == 0)
            return null;
        Hit? best = null;
        foreach (
            var index in words
                .Distinct(StringComparer.Ordinal)
                .Where(byWord.ContainsKey)
                .SelectMany(w => byWord[w])
                .Distinct()
        )
        {
            var (field, phrase, said) = phrases[index];
            if (!phrase.All(words.Contains))
                continue;
            var own = modifiers.GetValueOrDefault(field);
            var left = words.Count(w => !phrase.Contains(w) && !fillers.Contains(w) && own?.Contains(w) != true);
            var narrowed = words.Count(w => !phrase.Contains(w) && own?.Contains(w) == true);
            // Each word that is neither part of it nor known to leave it as it is makes it less likely; a longer phrase
            // wins. A long sentence is a consent, or a message, however many words it has.
            var lost = field is "consent" ? 0.06 : 0.4;
            var score = 0.93 - (left * lost) - (narrowed * 0.01) + Math.Min(0.04, 0.012 * phrase.Length);
            if (
                best is null
                || score > best.Value.Score
                || (Math.Abs(score - best.Value.Score) < 1e-9 && said.Length > best.Value.Phrase.Length)
            )
                best = new(field, said, score);
        }

        return best is { Score: >= 0.5 } ? best : null;
    }

    private Hit? LookInside(string text)
    {
        Hit? best = null;
        foreach (var (field, words, phrase) in phrases.Where(p => MapVocabulary.HasNoSpaces(p.Phrase)))
        {
            var plain = phrase.Replace(" ", "", StringComparison.Ordinal);
            if (!text.Contains(plain, StringComparison.OrdinalIgnoreCase))
                continue;
            var rest = text.Length - plain.Length;
            var score = 0.95 - (0.07 * Math.Max(0, rest - 4)) - (plain.Length == 1 && rest > 2 ? 0.5 : 0);
            if (
                best is null
                || plain.Length > best.Value.Phrase.Length
                || (plain.Length == best.Value.Phrase.Length && score > best.Value.Score)
            )
                best = new(field, plain, score);
        }

        return best is { Score: >= 0.5 } ? best : null;
    }

    // “vollstaendig”: an umlaut as keyboards without one write it.
    private string Umlauts(string word)
    {
        if (vocabulary.Contains(word))
            return word;
        var plain = word.Replace("ae", "a", StringComparison.Ordinal)
            .Replace("oe", "o", StringComparison.Ordinal)
            .Replace("ue", "u", StringComparison.Ordinal);
        return vocabulary.Contains(plain) || modifiers.Values.Any(m => m.Contains(plain)) ? plain : word;
    }

    private void Add(string field, string phrase)
    {
        var words = phrase.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        foreach (var word in words)
        {
            vocabulary.Add(word);
            if (!byWord.TryGetValue(word, out var list))
                byWord[word] = list = [];
            list.Add(phrases.Count);
        }

        phrases.Add((field, words, phrase));
    }

    // “yourname”, “contactemail”, “companyname”: into known words of three letters and more, the longest first.
    private bool Apart(string word, List<string> into)
    {
        var parts = new List<string>();
        bool From(int at)
        {
            if (at == word.Length)
                return true;
            for (var length = word.Length - at; length >= 3; length--)
            {
                var part = word.Substring(at, length);
                if ((!vocabulary.Contains(part) && !fillers.Contains(part)) || (at == 0 && length == word.Length))
                    continue;
                parts.Add(part);
                if (From(at + length))
                    return true;
                parts.RemoveAt(parts.Count - 1);
            }

            return false;
        }

        if (!From(0) || parts.Count < 2)
            return false;
        into.AddRange(parts);
        return true;
    }

    private static string[] Split(string text) => text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
}

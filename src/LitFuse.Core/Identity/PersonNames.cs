using System.Globalization;

namespace LitFuse.Core.Identity;

/// <summary>Splits and joins the names of people.</summary>
public static class PersonNames
{
    private static readonly HashSet<string> Titles = new(StringComparer.OrdinalIgnoreCase)
    {
        "mr",
        "mrs",
        "ms",
        "miss",
        "mx",
        "dr",
        "prof",
        "professor",
        "sir",
        "dame",
        "rev",
        "hon",
        "herr",
        "frau",
        "hr",
        "fr",
        "dipl",
        "ing",
        "mag",
        "mme",
        "mlle",
        "m",
        "me",
        "sr",
        "sra",
        "srta",
        "don",
        "doña",
        "sig",
        "sig.ra",
        "signor",
        "signora",
        "dott",
        "dott.ssa",
        "dhr",
        "mevr",
        "mw",
        "drs",
        "ir",
        "pan",
        "pani",
        "bay",
        "bayan",
        "inż",
        "mgr",
        "phdr",
        "mudr",
        "judr",
        "exmo",
    };

    // Behind the name; kept with neither part.
    private static readonly HashSet<string> Suffixes = new(StringComparer.OrdinalIgnoreCase)
    {
        "jr",
        "sr",
        "snr",
        "jnr",
        "ii",
        "iii",
        "iv",
        "phd",
        "md",
        "mba",
        "msc",
        "bsc",
        "ba",
        "ma",
        "obe",
        "mbe",
        "cbe",
        "esq",
        "csc",
        "dds",
        "cpa",
        "rn",
    };

    private static readonly HashSet<string> Particles = new(StringComparer.OrdinalIgnoreCase)
    {
        "van",
        "von",
        "vom",
        "vander",
        "de",
        "da",
        "di",
        "du",
        "do",
        "del",
        "della",
        "delle",
        "dello",
        "der",
        "den",
        "des",
        "dos",
        "das",
        "la",
        "le",
        "las",
        "los",
        "lo",
        "ter",
        "ten",
        "te",
        "'t",
        "tot",
        "op",
        "in",
        "'s",
        "af",
        "av",
        "al",
        "el",
        "bin",
        "ibn",
        "ben",
        "bint",
        "abu",
        "mac",
        "mc",
        "ní",
        "ó",
        "o",
        "nic",
        "zu",
        "zum",
        "zur",
        "san",
        "santa",
        "st",
        "st.",
        "saint",
        "e",
        "y",
        "i",
        "und",
        "ap",
        "ab",
        "d'",
        "af",
        "zum",
    };

    private static readonly HashSet<string> FamilyFirst = new(StringComparer.OrdinalIgnoreCase) { "HU" };

    // Two family names are the rule: father's and mother's (Spanish), mother's and father's (Portuguese).
    private static readonly HashSet<string> TwoFamilyNames = new(StringComparer.OrdinalIgnoreCase)
    {
        "ES",
        "MX",
        "AR",
        "CO",
        "CL",
        "PE",
        "VE",
        "EC",
        "GT",
        "CU",
        "BO",
        "DO",
        "HN",
        "PY",
        "SV",
        "NI",
        "CR",
        "PA",
        "UY",
        "PR",
        "PT",
        "BR",
    };

    /// <summary>First and last name of a full one, for a country where nothing is known of the order.</summary>
    public static (string? First, string? Last) Split(string? full) => Split(full, "");

    /// <summary>
    /// First and last name of a full one. Titles and letters behind the name are dropped; particles go with the last
    /// name (<c>Ines van der Calloway</c> → <c>Ines</c>, <c>van der Calloway</c>); <c>Calloway, Ines</c> is turned
    /// round; where people have two family names, both are the last name; names in Han, Kana or Hangul and Hungarian
    /// ones begin with the family. With one word there is no last name.
    /// </summary>
    /// <param name="country">ISO 3166-1 alpha-2, for the habits of the place.</param>
    public static (string? First, string? Last) Split(string? full, string country)
    {
        if (string.IsNullOrWhiteSpace(full))
            return (null, null);
        if (IsEastAsian(full))
            return SplitEastAsian(full.Trim());
        var turned = false;
        var comma = full.IndexOf(',', StringComparison.Ordinal);
        if (comma > 0 && comma < full.Length - 1)
        {
            // “Calloway, Ines” is turned round; “Ines Calloway, PhD” is not.
            var behind = full[(comma + 1)..].Trim();
            turned = !behind.Split(' ').All(w => Suffixes.Contains(Bare(w)));
            full = turned ? behind + "\u001f" + full[..comma] : full[..comma];
        }

        var halves = full.Split('\u001f');
        if (turned && halves.Length == 2)
        {
            var front = Clean(halves[0]);
            var back = Clean(halves[1]);
            return (Joined(front), Joined(back));
        }

        var words = Clean(full);
        if (words.Count == 0)
            return (null, null);
        if (words.Count == 1)
            return (words[0], null);
        if (FamilyFirst.Contains(country))
            return (Joined(words.Skip(1)), words[0]);

        var last = words.Count - 1;
        if (TwoFamilyNames.Contains(country) && words.Count >= 3)
        {
            last = FamilyFrom(words, last) - 1;
            if (last < 1)
                last = 1;
            // Of three words the second is a second given name where it is commonly one of a pair.
            else if (words.Count == 3 && CommonSecondNames.Contains(words[1]))
                last = 2;
        }

        return (Joined(words.Take(FamilyFrom(words, last))), Joined(words.Skip(FamilyFrom(words, last))));
    }

    /// <summary>The name to show for a person: both parts, either, or <c>null</c>.</summary>
    public static string? Join(string? first, string? last) =>
        (first, last) switch
        {
            ({ Length: > 0 }, { Length: > 0 }) => IsEastAsian(first) && IsEastAsian(last)
                ? last + " " + first
                : first + " " + last,
            ({ Length: > 0 }, _) => first,
            (_, { Length: > 0 }) => last,
            _ => null,
        };

    private static readonly HashSet<string> CommonSecondNames = new(StringComparer.OrdinalIgnoreCase)
    {
        "José",
        "Jose",
        "María",
        "Maria",
        "Luis",
        "Luísa",
        "Luisa",
        "Carlos",
        "Antonio",
        "Ángel",
        "Angel",
        "Manuel",
        "Isabel",
        "Carmen",
        "Pilar",
        "Jesús",
        "Javier",
        "Alberto",
        "Eduardo",
        "Paulo",
        "Fernanda",
        "Beatriz",
        "Clara",
        "Francisco",
        "Miguel",
        "Pedro",
        "Juan",
    };

    // Where the last name begins: at its last word, or at the particles in front of it. The first word is never one.
    private static int FamilyFrom(List<string> words, int last)
    {
        while (last > 1 && Particles.Contains(words[last - 1]))
            last--;
        return last;
    }

    private static List<string> Clean(string text)
    {
        var words = text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            .Where(w => w.Any(char.IsLetterOrDigit))
            .Select(w => w.Trim(',', ';', '(', ')', '"'))
            .ToList();
        while (
            words.Count > 1
            && Titles.Contains(words[0].TrimEnd('.'))
            && (words[0].Length > 2 || words[0].EndsWith('.') || words.Count > 2 || words[0].Length == 2)
        )
            words.RemoveAt(0);
        while (words.Count > 2 && Suffixes.Contains(Bare(words[^1])))
            words.RemoveAt(words.Count - 1);
        if (words.Count > 1 && words.All(w => w == w.ToUpperInvariant() && w.Length > 1))
            words = words.ConvertAll(Capital);
        return words;
    }

    private static string Bare(string word) => word.Replace(".", "", StringComparison.Ordinal).Trim(',');

    private static string? Joined(IEnumerable<string> words) =>
        string.Join(' ', words) is { Length: > 0 } text ? text : null;

    // INES CALLOWAY → Ines Calloway; O'NEILL-HART → O'Neill-Hart. Only where the whole name was written so.
    private static string Capital(string word)
    {
        var letters = word.ToLower(CultureInfo.InvariantCulture).ToCharArray();
        for (var i = 0; i < letters.Length; i++)
        {
            if (i == 0 || letters[i - 1] is '-' or '\'' or '\u2019')
                letters[i] = char.ToUpperInvariant(letters[i]);
        }

        var name = new string(letters);
        return Particles.Contains(name) ? name.ToLowerInvariant() : name;
    }

    private static bool IsEastAsian(string text) =>
        text.Any(c =>
            c is (>= '\u4e00' and <= '\u9fff') or (>= '\u3040' and <= '\u30ff') or (>= '\uac00' and <= '\ud7af')
        );

    private static (string? First, string? Last) SplitEastAsian(string text)
    {
        var words = text.Split([' ', '\u3000'], StringSplitOptions.RemoveEmptyEntries);
        if (words.Length >= 2)
            return (Joined(words.Skip(1)), words[0]);
        // Without a space: the family name is one character in Chinese and Korean. In Japanese it may be one to three;
        // nobody can tell.
        var kana = text.Any(c => c is >= '\u3040' and <= '\u30ff');
        return !kana && text.Length is 2 or 3 ? (text[1..], text[..1]) : (text, null);
    }
}

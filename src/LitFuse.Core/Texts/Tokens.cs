using System.Globalization;
using System.Text;

namespace LitFuse.Core.Texts;

/// <summary>Cuts the names and labels of fields into plain words.</summary>
public static class Tokens
{
    /// <summary>
    /// Small letters, without accents, split where words, cases and digits change: <c>txtEmailAdresse2</c> → <c>txt
    /// email adresse 2</c>.
    /// </summary>
    public static IReadOnlyList<string> Of(string text)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        var before = '\0';
        void End()
        {
            if (word.Length > 0)
                words.Add(word.ToString());
            word.Clear();
        }

        for (var i = 0; i < text.Length && i < 400; i++)
        {
            var c = text[i];
            if (!char.IsLetterOrDigit(c) && CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
            {
                // An apostrophe belongs to its word (l'entreprise is two, don't is one: both read well without it).
                if (c is '\'' or '\u2019' && word.Length > 1)
                    continue;
                End();
                before = '\0';
                continue;
            }

            var turns =
                before != '\0'
                && (
                    (char.IsUpper(c) && char.IsLower(before))
                    || char.IsDigit(c) != char.IsDigit(before)
                    || (char.IsUpper(before) && char.IsUpper(c) && i + 1 < text.Length && char.IsLower(text[i + 1]))
                );
            if (turns)
                End();
            word.Append(Plain(c));
            before = c;
        }

        End();
        return words;
    }

    /// <summary>One text without accents and in small letters.</summary>
    public static string PlainOf(string text) => string.Join(' ', Of(text));

    private static string Plain(char c)
    {
        var small = char.ToLowerInvariant(c);
        if (small < 128)
            return small.ToString();
        switch (small)
        {
            case 'ß':
                return "ss";
            case 'ø':
                return "o";
            case 'æ':
                return "ae";
            case 'œ':
                return "oe";
            case 'ł':
                return "l";
            case 'đ':
                return "d";
            case 'ı':
                return "i";
            case 'й' or 'ё':
                return small.ToString();
            default:
                break;
        }

        if (small > 0x24f)
            return small.ToString();
        var parts = small.ToString().Normalize(NormalizationForm.FormD);
        return string.Concat(parts.Where(p => CharUnicodeInfo.GetUnicodeCategory(p) != UnicodeCategory.NonSpacingMark));
    }
}

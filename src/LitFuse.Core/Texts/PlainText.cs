using System.Globalization;
using System.Text;

namespace LitFuse.Core.Texts;

/// <summary>Text that anybody may have typed, without what could do harm where it is shown.</summary>
public static class PlainText
{
    /// <summary>
    /// The text without control characters other than line ends and tabs, and without marks that turn the direction of
    /// writing round (Unicode bidirectional formatting: LRE to RLO, LRI to PDI, LRM, RLM, ALM; UAX #9) or halves of
    /// pairs.
    /// </summary>
    public static string Of(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (!Harmless(text, i))
                return Cleaned(text, i);
        }

        return text;
    }

    /// <summary>The same on one line, at most so long: for a subject, a name, a header.</summary>
    public static string Line(string text, int longest)
    {
        var line = new StringBuilder();
        foreach (var c in Of(text))
        {
            if (line.Length >= longest)
                break;
            if (
                !char.IsWhiteSpace(c)
                && char.GetUnicodeCategory(c)
                    is not (UnicodeCategory.LineSeparator or UnicodeCategory.ParagraphSeparator)
            )
                line.Append(c);
            else if (line.Length > 0 && line[^1] != ' ')
                line.Append(' ');
        }

        if (line.Length > 0 && char.IsHighSurrogate(line[^1]))
            line.Length--;
        return line.ToString().TrimEnd();
    }

    private static string Cleaned(string text, int from)
    {
        var clean = new StringBuilder(text, 0, from, text.Length);
        for (var i = from; i < text.Length; i++)
            if (Harmless(text, i))
                clean.Append(text[i]);
        return clean.ToString();
    }

    private static bool Harmless(string text, int i)
    {
        var c = text[i];
        if (char.IsHighSurrogate(c))
            return i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]);
        if (char.IsLowSurrogate(c))
            return i > 0 && char.IsHighSurrogate(text[i - 1]);
        if (char.IsControl(c))
            return c is '\n' or '\r' or '\t';
        return c
            is not (
                (>= '\u202a' and <= '\u202e')
                or (>= '\u2066' and <= '\u2069')
                or '\u200e'
                or '\u200f'
                or '\u061c'
                or '\ufeff'
            );
    }
}

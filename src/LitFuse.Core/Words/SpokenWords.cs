using System.Globalization;
using System.Text;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Words;

/// <summary>Words that are spoken on a phone: one line, without what no voice can say, and bounded.</summary>
public static class SpokenWords
{
    /// <summary>About a minute and a half.</summary>
    public const int Longest = 1200;

    /// <summary>
    /// The words as they are spoken. Line ends are pauses; control characters and marks that turn the writing direction
    /// (Unicode, general categories Cc and Cf) say nothing.
    /// </summary>
    public static string Of(string words)
    {
        var said = new StringBuilder();
        foreach (var c in PlainText.Of(words))
        {
            if (said.Length >= Longest)
                break;
            var kind = char.GetUnicodeCategory(c);
            if (char.IsWhiteSpace(c) || kind == UnicodeCategory.Control)
            {
                if (said.Length > 0 && said[^1] != ' ')
                    said.Append(' ');
            }
            else if (kind != UnicodeCategory.Format)
            {
                said.Append(c);
            }
        }

        if (said.Length > 0 && char.IsHighSurrogate(said[^1]))
            said.Length--;
        return said.ToString().Trim();
    }
}

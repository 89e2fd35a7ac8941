using System.Text.RegularExpressions;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Replies;

/// <summary>
/// What somebody wrote in answer to a letter, without the letter that their mail program put under it.
/// </summary>
public static partial class LetterReply
{
    private const int Longest = 8000;

    /// <summary>
    /// Their own words: up to the first line by which mail programs begin what they quote, without quoted lines
    /// (RFC 3676 § 4.5) and without a signature after its mark (§ 4.3).
    /// </summary>
    public static string WordsOf(string text)
    {
        var own = new List<string>();
        var lines = PlainText
            .Of(text.Length > Longest * 4 ? text[..(Longest * 4)] : text)
            .ReplaceLineEndings("\n")
            .Split('\n');
        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i];
            if (line is "-- " or "--")
                break;
            if (
                Begins().IsMatch(line)
                || (line.Length > 0 && i + 1 < lines.Length && Begins().IsMatch(line + " " + lines[i + 1].Trim()))
            )
                break;
            if (!line.StartsWith('>'))
                own.Add(line.TrimEnd());
        }

        var words = string.Join('\n', own).Trim();
        return Clip.To(words, Longest);
    }

    // “On Tuesday … wrote:” in the languages that mail programs say it in, and the rules they draw.
    [GeneratedRegex(
        @"^(On\b.{4,200}\bwrote:|Am\b.{4,200}\bschrieb\b.{0,80}:|Le\b.{4,200}\ba écrit\s?:|El\b.{4,200}\bescribió:|Il\b.{4,200}\bha scritto:|Op\b.{4,200}\bschreef\b.{0,80}:|Em\b.{4,200}\bescreveu:|W dniu\b.{4,200}\bpisze:|-{3,}\s*(Original Message|Ursprüngliche Nachricht|Message d'origine|Mensaje original|Messaggio originale)\s*-{3,}|_{20,})\s*$",
        RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture | RegexOptions.CultureInvariant,
        matchTimeoutMilliseconds: 1000
    )]
    private static partial Regex Begins();
}

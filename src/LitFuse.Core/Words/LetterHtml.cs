using System.Net;
using System.Text;
using System.Text.RegularExpressions;

namespace LitFuse.Core.Words;

/// <summary>
/// The HTML part of a letter, made from its words: a paragraph for each stretch between empty lines, addresses of pages
/// as links. All that anybody typed is text in it and nothing else (HTML, § 13.3 "Serialising HTML fragments").
/// </summary>
public static partial class LetterHtml
{
    /// <summary>The whole document.</summary>
    /// <param name="words">As in the text part.</param>
    /// <param name="title">The subject.</param>
    public static string Of(string words, string title)
    {
        var html = new StringBuilder();
        html.Append("<!doctype html>\n<html><head><meta charset=\"utf-8\"><title>").Append(WebUtility.HtmlEncode(title));
        html.Append("</title></head><body style=\"font-family: sans-serif; font-size: 16px; line-height: 1.5; color: #1d2021; max-width: 600px\">\n");
        foreach (var paragraph in words.ReplaceLineEndings("\n").Split("\n\n").Select(p => p.Trim('\n')).Where(p => p.Length > 0))
        {
            html.Append("<p>").AppendJoin("<br>\n", paragraph.Split('\n').Select(Line)).Append("</p>\n");
        }

        return html.Append("</body></html>\n").ToString();
    }

    private static string Line(string line)
    {
        var said = new StringBuilder();
        var at = 0;
        foreach (Match link in Links().Matches(line))
        {
            // What ends a sentence does not belong to the address before it.
            var url = link.Value.TrimEnd('.', ',', ';', ':', '!', '?', ')');
            said.Append(WebUtility.HtmlEncode(line[at..link.Index]));
            said.Append("<a href=\"").Append(WebUtility.HtmlEncode(url)).Append("\">").Append(WebUtility.HtmlEncode(url)).Append("</a>");
            at = link.Index + url.Length;
        }

        return said.Append(WebUtility.HtmlEncode(line[at..])).ToString();
    }

    [GeneratedRegex("https?://[^\\s<>\"']+", RegexOptions.CultureInvariant, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Links();
}

using System.Net;
using System.Text;
using System.Text.RegularExpressions;

namespace LitFuse.Core.Words;

/// <summary>A letter's parts.</summary>
/// <param name="Words">A paragraph for each stretch between empty lines.</param>
/// <param name="Title">The subject.</param>
public sealed record LetterParts(string Words, string Title)
{
    /// <summary>Whose letter it is: their name stands over it.</summary>
    public string? From { get; init; }

    /// <summary>Answers under the words.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Blocks { get; init; } = [];

    /// <summary>Where whoever gets it ends such letters.</summary>
    public string? Unsubscribe { get; init; }
}

/// <summary>
/// The parts of a letter, text and HTML, saying the same. All that anybody typed is text in them and nothing else
/// (HTML, § 13.3 "Serialising HTML fragments"); addresses of pages become links. It reads at 320 pixels as at 640: one
/// column, no picture, no script.
/// </summary>
public static partial class LetterHtml
{
    private const string Ink = "#1d2021",
        Second = "#565c5e",
        Line = "#d3d8d0";

    /// <summary>The text part.</summary>
    public static string TextOf(LetterParts letter)
    {
        var text = new StringBuilder(letter.Words);
        if (letter.Blocks.Count > 0)
            text.Append("\n\n")
                .AppendJoin(
                    '\n',
                    letter.Blocks.Select(b => $"{b.Key}: {b.Value.Replace("\n", "\n  ", StringComparison.Ordinal)}")
                );
        if (letter.Unsubscribe is { } no)
            text.Append("\n\nNo more messages: ").Append(no);
        return text.ToString();
    }

    /// <summary>The HTML part: a whole document.</summary>
    public static string Of(LetterParts letter)
    {
        var html = new StringBuilder();
        html.Append(
                "<!doctype html>\n<html><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width, initial-scale=1\"><title>"
            )
            .Append(WebUtility.HtmlEncode(letter.Title));
        html.Append(
            $"</title></head><body style=\"margin: 0; background: #ffffff; color: {Ink}; font-family: Verdana, 'DejaVu Sans', sans-serif; font-size: 16px; line-height: 1.5\">\n"
        );
        html.Append("<div style=\"max-width: 560px; margin: 0 auto; padding: 24px 16px\">\n");
        if (letter.From is { Length: > 0 } from)
            html.Append(
                    $"<p style=\"margin: 0 0 20px; padding: 0 0 10px; border-bottom: 2px solid {Ink}; font-weight: bold\">"
                )
                .Append(WebUtility.HtmlEncode(from))
                .Append("</p>\n");
        foreach (
            var paragraph in letter
                .Words.ReplaceLineEndings("\n")
                .Split("\n\n")
                .Select(p => p.Trim('\n'))
                .Where(p => p.Length > 0)
        )
        {
            html.Append("<p style=\"margin: 0 0 16px; overflow-wrap: anywhere\">")
                .AppendJoin("<br>\n", paragraph.Split('\n').Select(Linked))
                .Append("</p>\n");
        }

        if (letter.Blocks.Count > 0)
            html.Append("<div style=\"margin: 8px 0 16px\">\n")
                .AppendJoin("", letter.Blocks.Select(Block))
                .Append($"<div style=\"border-top: 1px solid {Line}\"></div></div>\n");
        if (letter.Unsubscribe is { } no)
            html.Append(
                    $"<p style=\"margin: 24px 0 0; font-size: 13px; color: {Second}\"><a style=\"color: {Second}\" href=\""
                )
                .Append(WebUtility.HtmlEncode(no))
                .Append("\">No more messages</a></p>\n");
        return html.Append("</div></body></html>\n").ToString();
    }

    private static string Block(KeyValuePair<string, string> block) =>
        $"<div style=\"border-top: 1px solid {Line}; padding: 8px 0\"><div style=\"font-size: 13px; color: {Second}\">{WebUtility.HtmlEncode(block.Key)}</div><div style=\"overflow-wrap: anywhere\">{string.Join("<br>\n", block.Value.Split('\n').Select(Linked))}</div></div>\n";

    private static string Linked(string line)
    {
        var said = new StringBuilder();
        var at = 0;
        foreach (Match link in Links().Matches(line))
        {
            // What ends a sentence does not belong to the address before it.
            var url = link.Value.TrimEnd('.', ',', ';', ':', '!', '?', ')');
            said.Append(WebUtility.HtmlEncode(line[at..link.Index]));
            said.Append("<a href=\"")
                .Append(WebUtility.HtmlEncode(url))
                .Append("\">")
                .Append(WebUtility.HtmlEncode(url))
                .Append("</a>");
            at = link.Index + url.Length;
        }

        return said.Append(WebUtility.HtmlEncode(line[at..])).ToString();
    }

    [GeneratedRegex("https?://[^\\s<>\"']+", RegexOptions.CultureInvariant, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Links();
}

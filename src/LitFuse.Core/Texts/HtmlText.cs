using System.Net;
using System.Text.RegularExpressions;

namespace LitFuse.Core.Texts;

/// <summary>What an HTML letter says, where it has no text part.</summary>
public static partial class HtmlText
{
    private const int Longest = 200_000;

    /// <summary>The words: paragraphs and breaks as line ends, everything else without its marks.</summary>
    public static string Of(string html)
    {
        if (html.Length > Longest)
            html = html[..Longest];
        var text = Hidden().Replace(html, " ");
        text = Lines().Replace(text, "\n");
        text = WebUtility.HtmlDecode(Marks().Replace(text, ""));
        return PlainText.Of(Blank().Replace(text, "\n\n")).Trim();
    }

    [GeneratedRegex(
        @"<(?<kind>script|style|head|blockquote)\b[^>]*>.*?</\k<kind>\s*>|<!--.*?-->",
        RegexOptions.IgnoreCase
            | RegexOptions.ExplicitCapture
            | RegexOptions.Singleline
            | RegexOptions.CultureInvariant,
        matchTimeoutMilliseconds: 1000
    )]
    private static partial Regex Hidden();

    [GeneratedRegex(
        @"<br\s*/?>|</(p|div|li|tr|h[1-6])\s*>",
        RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture | RegexOptions.CultureInvariant,
        matchTimeoutMilliseconds: 1000
    )]
    private static partial Regex Lines();

    [GeneratedRegex("<[^>]*>", RegexOptions.CultureInvariant, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Marks();

    [GeneratedRegex(@"\n\s*\n\s*", RegexOptions.CultureInvariant, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Blank();
}

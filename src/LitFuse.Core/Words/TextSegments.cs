namespace LitFuse.Core.Words;

/// <summary>How a text will be cut for the air.</summary>
/// <param name="Units">Septets (GSM 7-bit) or UTF-16 units (UCS-2).</param>
/// <param name="Segments">How many messages are paid for.</param>
/// <param name="Unicode">True when a character outside the GSM alphabet forces UCS-2.</param>
public sealed record TextSize(int Units, int Segments, bool Unicode);

/// <summary>
/// Counts text segments: 160 septets or 70 units in one, 153 or 67 each when joined (3GPP TS 23.038, 23.040).
/// </summary>
public static class TextSegments
{
    /// <summary>The most segments that a step may send.</summary>
    public const int Most = 10;

    private static readonly HashSet<char> Basic =
    [
        .. "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà",
    ];
    private static readonly HashSet<char> Extended = [.. "\f^{}\\[~]|€"];

    /// <summary>Measures <paramref name="text"/>.</summary>
    public static TextSize Count(string text)
    {
        var septets = 0;
        foreach (var c in text)
        {
            if (Basic.Contains(c))
                septets++;
            else if (Extended.Contains(c))
                septets += 2;
            else
                return new(text.Length, text.Length <= 70 ? 1 : Parts(text, 67, unicode: true), Unicode: true);
        }

        return new(septets, septets <= 160 ? 1 : Parts(text, 153, unicode: false), Unicode: false);
    }

    // What takes two units goes whole into one part: an escape and its character, the halves of a pair.
    private static int Parts(string text, int most, bool unicode)
    {
        var (parts, used) = (1, 0);
        for (var i = 0; i < text.Length; i++)
        {
            var pair = i + 1 < text.Length && char.IsSurrogatePair(text[i], text[i + 1]);
            var units = pair || (!unicode && Extended.Contains(text[i])) ? 2 : 1;
            if (used + units > most)
                (parts, used) = (parts + 1, 0);
            used += units;
            if (pair)
                i++;
        }

        return parts;
    }
}

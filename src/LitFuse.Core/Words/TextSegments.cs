namespace LitFuse.Core.Words;

/// <summary>How a text will be cut for the air.</summary>
/// <param name="Units">Septets (GSM 7-bit) or UTF-16 units (UCS-2).</param>
/// <param name="Segments">How many messages are paid for.</param>
/// <param name="Unicode">True when a character outside the GSM alphabet forces UCS-2.</param>
public sealed record TextSize(int Units, int Segments, bool Unicode);

/// <summary>Counts text segments: 160 septets or 70 units in one, 153 or 67 each when joined (3GPP TS 23.038, 23.040).</summary>
public static class TextSegments
{
    /// <summary>The most segments that a step may send.</summary>
    public const int Most = 10;

    private static readonly HashSet<char> Basic = [.. "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà"];
    private static readonly HashSet<char> Extended = [.. "\f^{}\\[~]|€"];

    /// <summary>Measures <paramref name="text"/>.</summary>
    public static TextSize Count(string text)
    {
        var septets = 0;
        foreach (var c in text)
        {
            if (Basic.Contains(c)) septets++;
            else if (Extended.Contains(c)) septets += 2;
            else return Cut(text.Length, 70, 67, unicode: true);
        }

        return Cut(septets, 160, 153, unicode: false);
    }

    private static TextSize Cut(int units, int whole, int part, bool unicode) =>
        new(units, units <= whole ? 1 : (units + part - 1) / part, unicode);
}

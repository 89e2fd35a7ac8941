using System.Text;
using NodaTime;
using PdfSharp.Drawing;
using PdfSharp.Fonts;
using PdfSharp.Pdf;

namespace LitFuse.Connectors.Pillarpost;

/// <summary>
/// What somebody answered, as pages (ISO 32000): the client's name, who asked and when, each answer under its question.
/// </summary>
public static class AnswersPdf
{
    private const double Left = 64,
        Top = 72,
        Bottom = 64;
    private const int MostPages = 20;
    private static readonly Lazy<bool> Family = new(() =>
    {
        GlobalFontSettings.FontResolver ??= new OwnFonts();
        return true;
    });

    /// <summary>The document's bytes.</summary>
    /// <param name="client">Whose form it was.</param>
    /// <param name="title">What it is.</param>
    /// <param name="asked">When they asked, on the clock of the client.</param>
    /// <param name="answers">Labels and values.</param>
    public static byte[] Of(
        string client,
        string title,
        ZonedDateTime asked,
        IReadOnlyList<KeyValuePair<string, string>> answers
    )
    {
        _ = Family.Value;
        using var document = new PdfDocument();
        document.Info.Title = title;
        document.Info.Author = client;
        var sheet = new Sheet(document);
        sheet.Write(client, sheet.Head, XBrushes.Black, after: 2);
        sheet.Rule(1.5);
        sheet.Write(title, sheet.Title, XBrushes.Black, after: 2);
        sheet.Write(
            asked.ToString("dddd d MMMM uuuu, HH:mm", System.Globalization.CultureInfo.InvariantCulture)
                + $" ({asked.Zone.Id})",
            sheet.Small,
            Sheet.Second,
            after: 16
        );
        foreach (var (label, value) in answers)
        {
            sheet.Rule(0.5);
            sheet.Keep(2);
            sheet.Write(label, sheet.Small, Sheet.Second, after: 1);
            sheet.Write(value, sheet.Text, XBrushes.Black, after: 7);
        }

        sheet.End();
        using var bytes = new MemoryStream();
        document.Save(bytes);
        return bytes.ToArray();
    }

    // Writes down the page, and on to the next.
    private sealed class Sheet(PdfDocument document)
    {
        private XGraphics? page;
        private double at;

        public static readonly XBrush Second = new XSolidBrush(XColor.FromArgb(86, 92, 94));

        public XFont Head { get; } = new(OwnFonts.Family, 12, XFontStyleEx.Bold);

        public XFont Title { get; } = new(OwnFonts.Family, 18, XFontStyleEx.Bold);

        public XFont Text { get; } = new(OwnFonts.Family, 11.5);

        public XFont Small { get; } = new(OwnFonts.Family, 9.5);

        private double Width => document.Pages[^1].Width.Point - (2 * Left);

        public void Write(string words, XFont font, XBrush brush, double after)
        {
            foreach (var line in words.ReplaceLineEndings("\n").Split('\n').SelectMany(p => Broken(p, font)))
            {
                if (!Room(font.GetHeight()))
                    return;
                page!.DrawString(
                    line,
                    font,
                    brush,
                    new XRect(Left, at, Width, font.GetHeight()),
                    XStringFormats.TopLeft
                );
                at += font.GetHeight() * 1.15;
            }

            at += after;
        }

        public void Rule(double width)
        {
            if (!Room(12))
                return;
            page!.DrawLine(
                new XPen(width > 1 ? XColors.Black : XColor.FromArgb(211, 216, 208), width),
                Left,
                at,
                Left + Width,
                at
            );
            at += width > 1 ? 22 : 6;
        }

        /// <summary>A question does not stand alone at the foot of a page.</summary>
        public void Keep(int lines) => Room(Text.GetHeight() * lines * 1.2);

        public void End() => page?.Dispose();

        private bool Room(double height)
        {
            if (page is not null && at + height <= document.Pages[^1].Height.Point - Bottom)
                return true;
            if (document.Pages.Count >= MostPages)
                return false;
            page?.Dispose();
            var next = document.AddPage();
            next.Size = PdfSharp.PageSize.A4;
            page = XGraphics.FromPdfPage(next);
            at = Top;
            return true;
        }

        // At spaces; a word that is too long for a line, wherever it must be.
        private IEnumerable<string> Broken(string paragraph, XFont font)
        {
            if (page is null)
                Room(1);
            var line = new StringBuilder();
            foreach (var word in paragraph.Split(' '))
            {
                var rest = word;
                while (true)
                {
                    var tried = line.Length == 0 ? rest : $"{line} {rest}";
                    if (Fits(tried, font))
                    {
                        line.Clear().Append(tried);
                        break;
                    }

                    if (line.Length > 0)
                    {
                        yield return line.ToString();
                        line.Clear();
                        continue;
                    }

                    var cut = rest.Length - 1;
                    while (cut > 1 && !Fits(rest[..cut], font))
                        cut = Math.Min(cut - 1, cut * 9 / 10);
                    if (char.IsHighSurrogate(rest[cut - 1]))
                        cut++;
                    yield return rest[..cut];
                    rest = rest[cut..];
                    if (rest.Length == 0)
                        break;
                }
            }

            yield return line.ToString();
        }

        private bool Fits(string words, XFont font) =>
            words.Length < 400 && page!.MeasureString(words, font).Width <= Width;
    }

    private sealed class OwnFonts : IFontResolver
    {
        public const string Family = "DejaVu Sans Condensed";

        public FontResolverInfo? ResolveTypeface(string familyName, bool bold, bool italic) =>
            new(bold ? "DejaVuSansCondensed-Bold.ttf" : "DejaVuSansCondensed.ttf");

        public byte[]? GetFont(string faceName)
        {
            using var font = typeof(AnswersPdf).Assembly.GetManifestResourceStream(faceName)
                ?? throw new InvalidOperationException($"The font {faceName} is not in the program.");
            var bytes = new byte[font.Length];
            font.ReadExactly(bytes);
            return bytes;
        }
    }
}

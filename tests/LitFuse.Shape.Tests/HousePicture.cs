using System.Globalization;
using System.Text;

namespace LitFuse.Shape.Tests;

/// <summary>
/// Draws rooms as boxes, layer above layer, and who knows whom as arrows, which all point down. An arrow that another
/// way says already is left out.
/// </summary>
public static class HousePicture
{
    private const int Width = 1240,
        Box = 30,
        Gap = 14,
        Row = 74,
        Band = 20;

    /// <summary>The picture as SVG.</summary>
    /// <param name="layers">From the bottom up.</param>
    /// <param name="edges">Who knows whom, by room.</param>
    public static string Of(IReadOnlyList<HouseLayer> layers, IEnumerable<(string From, string To)> edges)
    {
        var known = edges
            .Select(e => (From: Folder(e.From), To: Folder(e.To)))
            .Where(e => e.From != e.To)
            .Distinct()
            .ToLookup(e => e.From, e => e.To, StringComparer.Ordinal);
        var rooms = known
            .SelectMany(k => k.Append(k.Key))
            .Distinct(StringComparer.Ordinal)
            .Order(StringComparer.Ordinal)
            .ToList();
        var layer = rooms.ToDictionary(
            r => r,
            r => House.LayerOf(layers, r.Replace("/*", ".x", StringComparison.Ordinal)),
            StringComparer.Ordinal
        );
        var rows = rooms
            .GroupBy(r => (Layer: layer[r], Depth: Depth(r, known, layer)))
            .OrderByDescending(g => g.Key.Layer)
            .ThenByDescending(g => g.Key.Depth)
            .ToList();
        var (places, svg, y) = (
            new Dictionary<string, (double X, double Y, double W)>(StringComparer.Ordinal),
            new StringBuilder(),
            10.0
        );
        foreach (var band in rows.GroupBy(r => r.Key.Layer))
        {
            var height = band.Count() * Row;
            svg.Append(
                CultureInfo.InvariantCulture,
                $"<rect class=\"band\" x=\"0\" y=\"{y:0}\" width=\"{Width}\" height=\"{height + Band - 8}\"/>\n<text class=\"what\" x=\"10\" y=\"{y + 15:0}\">{Escape(layers[band.Key].What)}</text>\n"
            );
            foreach (var row in band)
            {
                Put(row.Order(StringComparer.Ordinal).ToList(), y + Band + 8, places);
                y += Row;
            }

            y += Band;
        }

        var lines = new StringBuilder();
        foreach (var from in rooms)
        {
            foreach (
                var to in known[from]
                    .Where(to => !known[from].Any(other => other != to && Reaches(other, to, known)))
                    .Order(StringComparer.Ordinal)
            )
            {
                var (a, b) = (places[from], places[to]);
                lines.Append(
                    CultureInfo.InvariantCulture,
                    $"<path d=\"M{a.X + (a.W / 2):0} {a.Y + Box:0} C{a.X + (a.W / 2):0} {a.Y + Box + 30:0} {b.X + (b.W / 2):0} {b.Y - 34:0} {b.X + (b.W / 2):0} {b.Y - 5:0}\" marker-end=\"url(#a)\"/>\n"
                );
            }
        }

        foreach (var (room, at) in places)
            lines.Append(
                CultureInfo.InvariantCulture,
                $"<rect class=\"room\" x=\"{at.X:0}\" y=\"{at.Y:0}\" width=\"{at.W:0}\" height=\"{Box}\" rx=\"4\"/><text x=\"{at.X + (at.W / 2):0}\" y=\"{at.Y + 20:0}\" text-anchor=\"middle\">{Escape(Name(room))}</text>\n"
            );
        return $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Width} {y.ToString("0", CultureInfo.InvariantCulture)}\" font-family=\"sans-serif\" font-size=\"13\">\n<style>.band{{fill:#f4f1ea}}.what{{fill:#6b6455;font-size:12px}}.room{{fill:#fff;stroke:#8a7f68}}path{{fill:none;stroke:#b4552d;stroke-opacity:.55}}</style>\n<defs><marker id=\"a\" viewBox=\"0 0 8 8\" refX=\"7\" refY=\"4\" markerWidth=\"7\" markerHeight=\"7\" orient=\"auto\"><path d=\"M0 0 8 4 0 8z\" style=\"fill:#b4552d;stroke:none\"/></marker></defs>\n{svg}{lines}</svg>\n";
    }

    private static void Put(List<string> row, double y, Dictionary<string, (double X, double Y, double W)> places)
    {
        var widths = row.ConvertAll(r => (Name(r).Length * 7.4) + 22);
        var x = (Width - widths.Sum() - (Gap * (row.Count - 1))) / 2;
        for (var i = 0; i < row.Count; i++)
        {
            places[row[i]] = (x, y, widths[i]);
            x += widths[i] + Gap;
        }
    }

    // How many rooms of its own layer lie below it, one under the other.
    private static int Depth(string room, ILookup<string, string> known, Dictionary<string, int> layer) =>
        known[room]
            .Where(to => layer[to] == layer[room])
            .Select(to => 1 + Depth(to, known, layer))
            .DefaultIfEmpty(0)
            .Max();

    private static bool Reaches(string from, string to, ILookup<string, string> known) =>
        known[from].Any(n => n == to || Reaches(n, to, known));

    // Folders of one shape that know the same are one box.
    private static string Folder(string room) =>
        room.StartsWith("Connectors.", StringComparison.Ordinal) ? "Connectors/*"
        : room.StartsWith("Server.Ways.Kinds.", StringComparison.Ordinal) ? "Server.Ways/*"
        : room;

    private static string Name(string room) =>
        room is "Core" ? "Core"
        : room is "Server" ? "Host"
        : room.Replace("features.", "", StringComparison.Ordinal)
            .Replace("Server.Features.", "", StringComparison.Ordinal)
            .Replace("Server.", "", StringComparison.Ordinal)
            .Replace("Core.", "", StringComparison.Ordinal);

    private static string Escape(string text) =>
        text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal);
}

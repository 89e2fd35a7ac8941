using System.Globalization;
using LitFuse.Core.Replies;

namespace LitFuse.Bench;

/// <summary>
/// How one meaning was read: of those read so, how many were right; of those that are so, how many were found.
/// </summary>
public sealed record MeaningScore(ReplyMeaning Meaning, int Are, int Read, int Right)
{
    /// <summary>Right among those read so.</summary>
    public double Precision => Read == 0 ? 1 : (double)Right / Read;

    /// <summary>Found among those that are so.</summary>
    public double Recall => Are == 0 ? 1 : (double)Right / Are;
}

/// <summary>The labelled replies of <c>bench/replies/replies.txt</c>, read and scored.</summary>
public static class LabelledReplies
{
    /// <summary>Scores one half: lines of odd number, or those of even number, which are held out.</summary>
    public static (int Replies, int Languages, IReadOnlyList<MeaningScore> Scores, IReadOnlyList<string> Wrong) Score(
        string path,
        bool heldOut
    )
    {
        var lines = File.ReadAllLines(path)
            .Where(l => l.Length > 0 && l[0] != '#')
            .Select(l => l.Split('\t'))
            .Where((_, i) => i % 2 == (heldOut ? 1 : 0))
            .ToList();
        var counts = Enum.GetValues<ReplyMeaning>().ToDictionary(m => m, _ => (Are: 0, Read: 0, Right: 0));
        var wrong = new List<string>();
        foreach (var line in lines)
        {
            var (label, offered, choice) = Labelled(line[1]);
            var reading = ReplyReader.Read(line[2], offered);
            var right = reading.Meaning == label && (choice is null || reading.Choice == choice);
            counts[label] = counts[label] with
            {
                Are = counts[label].Are + 1,
                Right = counts[label].Right + (right ? 1 : 0),
            };
            counts[reading.Meaning] = counts[reading.Meaning] with { Read = counts[reading.Meaning].Read + 1 };
            if (!right)
                wrong.Add($"{line[0]} “{line[2]}” is {line[1]}, read as {reading.Meaning}: {reading.Because}");
        }

        return (
            lines.Count,
            lines.Select(l => l[0]).Distinct().Count(),
            [.. counts.Select(c => new MeaningScore(c.Key, c.Value.Are, c.Value.Read, c.Value.Right))],
            wrong
        );
    }

    // yes · choice=2 of A|B · other=A|B
    private static (ReplyMeaning Label, string[] Offered, string? Choice) Labelled(string label)
    {
        var parts = label.Split('=', 2);
        var meaning = Enum.Parse<ReplyMeaning>(parts[0], ignoreCase: true);
        if (parts.Length == 1)
            return (meaning, [], null);
        var of = parts[1].Split(" of ", 2);
        if (of.Length == 1)
            return (meaning, of[0].Split('|'), null);
        var offered = of[1].Split('|');
        return (meaning, offered, offered[int.Parse(of[0], CultureInfo.InvariantCulture) - 1]);
    }
}

using System.Text;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Words;

/// <summary>
/// Answers as tidy blocks, in the order chosen: a label and a value each, empties left out. As a setting of a delivery
/// they are lines of <c>label TAB value</c>; a line end inside a value is a vertical tab there.
/// </summary>
public static class Blocks
{
    /// <summary>The name that stands for all answers, in the words of the form.</summary>
    public const string Answers = "answers";

    private const int Longest = 2000;
    private const int Most = 60;

    /// <summary>The blocks that a setting asks for.</summary>
    /// <param name="fields">Lead fields by key, or <see cref="Answers"/>, with commas between.</param>
    /// <param name="facts">What there is to say.</param>
    public static string Fill(string fields, WordFacts facts)
    {
        var blocks = new List<KeyValuePair<string, string>>();
        foreach (var field in fields.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (field == Answers)
                blocks.AddRange(facts.Answers);
            else if (facts.Lead.TryGetValue(field, out var value))
                blocks.Add(new(facts.LabelOf(field), value));
        }

        return Write(blocks);
    }

    /// <summary>Blocks as one setting.</summary>
    public static string Write(IEnumerable<KeyValuePair<string, string>> blocks)
    {
        var all = new StringBuilder();
        foreach (var (label, value) in blocks.Where(b => !string.IsNullOrWhiteSpace(b.Value)).Take(Most))
        {
            if (all.Length > 0)
                all.Append('\n');
            all.Append(Flat(label).Replace('\v', ' ')).Append('\t').Append(Flat(value));
        }

        return all.ToString();
    }

    /// <summary>The blocks of a setting.</summary>
    public static IReadOnlyList<KeyValuePair<string, string>> Read(string? setting) =>
        string.IsNullOrEmpty(setting)
            ? []
            :
            [
                .. setting
                    .Split('\n')
                    .Select(l => l.Split('\t', 2))
                    .Where(l => l.Length == 2)
                    .Select(l => KeyValuePair.Create(l[0], l[1].Replace('\v', '\n'))),
            ];

    /// <summary>The same as lines of words.</summary>
    public static string AsWords(string? setting) =>
        string.Join(
            '\n',
            Read(setting).Select(b => $"{b.Key}: {b.Value.Replace("\n", "\n  ", StringComparison.Ordinal)}")
        );

    private static string Flat(string text)
    {
        var plain = PlainText.Of(text);
        return Clip.Short(plain, Longest).Replace('\t', ' ').ReplaceLineEndings("\v");
    }
}

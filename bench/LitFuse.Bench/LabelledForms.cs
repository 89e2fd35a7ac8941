using System.Globalization;
using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;

namespace LitFuse.Bench;

/// <summary>How well maps were suggested.</summary>
/// <param name="Suggested">Fields that got a suggestion.</param>
/// <param name="Right">Of them, those that were right.</param>
/// <param name="Wanted">Fields that have a lead field to go to.</param>
/// <param name="Wrong">The others, in words.</param>
public sealed record MapScore(int Forms, int Suggested, int Right, int Wanted, IReadOnlyList<string> Wrong)
{
    public double Precision => Right / (double)Suggested;

    public double Recall => Right / (double)Wanted;
}

/// <summary>The labelled forms of <c>bench/maps/forms.txt</c>.</summary>
public static class LabelledForms
{
    private static readonly Dictionary<string, string> Targets = new(StringComparer.Ordinal)
    {
        ["fn"] = "first_name",
        ["ln"] = "last_name",
        ["name"] = "full_name",
        ["em"] = "email",
        ["ph"] = "phone",
        ["co"] = "company",
        ["job"] = "job_title",
        ["web"] = "website",
        ["str"] = "street",
        ["zip"] = "postcode",
        ["city"] = "city",
        ["reg"] = "region",
        ["ctry"] = "country",
        ["msg"] = "message",
        ["ok"] = "consent",
    };

    private static readonly Dictionary<string, string> Countries = new(StringComparer.Ordinal)
    {
        ["en"] = "GB",
        ["sv"] = "SE",
        ["da"] = "DK",
        ["cs"] = "CZ",
        ["ja"] = "JP",
    };

    /// <summary>Scores the tuned half (odd lines) or the held-out one (even lines).</summary>
    public static MapScore Score(string file, bool heldOut)
    {
        var (forms, suggested, right, wanted, wrong) = (0, 0, 0, 0, new List<string>());
        var number = 0;
        foreach (var line in File.ReadLines(file).Where(l => l.Length > 0 && l[0] != '#'))
        {
            number++;
            if (number % 2 == 0 != heldOut)
                continue;
            forms++;
            var language = line[..2];
            var fields = line[4..].Split("; ").Select(Field).ToList();
            var found = MapSuggester.Suggest(
                [.. fields.Select(f => f.Seen)],
                [],
                [],
                Countries.GetValueOrDefault(language, language.ToUpperInvariant())
            );
            for (var i = 0; i < fields.Count; i++)
            {
                var (said, meant) = (found[i].LeadField, fields[i].Target);
                if (said is not null)
                    suggested++;
                if (meant is not null)
                    wanted++;
                if (said is not null && said == meant)
                    right++;
                if (said != meant)
                    wrong.Add(
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{number} {language} {fields[i].Seen.Name}|{fields[i].Seen.Label}: {said ?? "nothing"}, not {meant ?? "its own"} ({found[i].Because})"
                        )
                    );
            }
        }

        return new(forms, suggested, right, wanted, wrong);
    }

    private static (SeenField Seen, string? Target) Field(string text)
    {
        var equals = text.LastIndexOf('=');
        var (words, target) = (text[..equals].Trim(), text[(equals + 1)..].Trim());
        var type = FormFieldType.Text;
        var colon = words.LastIndexOf(':');
        if (colon > 0 && words[(colon + 1)..] is "choice" or "email" or "phone" or "yesno" or "date" or "number")
        {
            type = Enum.Parse<FormFieldType>(words[(colon + 1)..], ignoreCase: true);
            words = words[..colon];
        }

        var bar = words.IndexOf('|', StringComparison.Ordinal);
        var (name, label) = bar < 0 ? (words, words) : (words[..bar], words[(bar + 1)..]);
        return (
            new(name, label, type, type == FormFieldType.Choice ? ["one", "another"] : [], null, []),
            Targets.GetValueOrDefault(target)
        );
    }
}

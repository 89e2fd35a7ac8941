using LitFuse.Core.Drift;
using LitFuse.Core.Mapping;
using NodaTime;

namespace LitFuse.Core.Tests.Continuity;

/// <summary>Generated histories of forms: each field with a share of people who fill it, of its own.</summary>
public static class DriftHistories
{
    private static readonly string[] Words = ["couriers", "bakery", "tools", "depot", "hill", "rain", "market", "yard"];

    /// <summary>A field of a generated form.</summary>
    /// <param name="Share">Of people who fill it.</param>
    /// <param name="Always">It comes empty where it is not filled, rather than not at all.</param>
    private sealed record GenField(string Name, string LeadField, double Share, bool Always);

    /// <summary>How often a form that does not change is said to have changed.</summary>
    /// <returns>Findings, each counted once for as long as it lasts; and submissions.</returns>
    public static (int Findings, int Submissions) FalseAlarms(int forms, int each, int seed)
    {
        var chance = new Random(seed);
        var (findings, submissions) = (0, 0);
        for (var f = 0; f < forms; f++)
        {
            var (form, fields) = Make(chance);
            var samples = new List<DriftSample>();
            IReadOnlyList<DriftFinding> standing = [];
            for (var n = 0; n < each; n++)
            {
                samples.Insert(0, new(Instant.FromUnixTimeSeconds(n * 600), Answer(fields, n, chance)));
                if (samples.Count > DriftFinder.Looks)
                    samples.RemoveAt(samples.Count - 1);
                submissions++;
                var now = DriftFinder.Find(form, samples, standing);
                findings += now.Count(x => standing.All(s => s.Key != x.Key));
                standing = now;
            }
        }

        return (findings, submissions);
    }

    /// <summary>After how many submissions a change of each kind is found, over forms that were made up.</summary>
    public static IReadOnlyDictionary<string, IReadOnlyList<int>> FoundAfter(int forms, int seed)
    {
        var chance = new Random(seed);
        var after = new Dictionary<string, List<int>>();
        for (var f = 0; f < forms; f++)
        {
            var (form, fields) = Make(chance);
            var before = Enumerable
                .Range(0, DriftFinder.Looks)
                .Select(n => new DriftSample(Instant.FromUnixTimeSeconds(n * 600), Answer(fields, n, chance)))
                .Reverse()
                .ToList();
            var usual = fields.Where(x => x.Share >= 0.9).ToList();
            if (usual.Count == 0)
                continue;
            var hit = usual[chance.Next(usual.Count)];
            void Measure(string what, Func<Dictionary<string, string>, Dictionary<string, string>> change)
            {
                var samples = before.ToList();
                for (var n = 1; n <= 20; n++)
                {
                    samples.Insert(
                        0,
                        new(Instant.FromUnixTimeSeconds((100 + n) * 600), change(Answer(fields, 100 + n, chance)))
                    );
                    if (
                        !DriftFinder
                            .Find(form, samples)
                            .Any(x => x.Field == hit.Name || x.NewField is not null || x.Kind == DriftKind.Fresh)
                    )
                        continue;
                    (after.TryGetValue(what, out var list) ? list : after[what] = []).Add(n);
                    return;
                }

                (after.TryGetValue(what, out var never) ? never : after[what] = []).Add(99);
            }

            Measure("stops coming", a => a.Where(x => x.Key != hit.Name).ToDictionary());
            Measure("comes empty", a => new Dictionary<string, string>(a) { [hit.Name] = "" });
            Measure("renamed", a => a.ToDictionary(x => x.Key == hit.Name ? hit.Name + "_2" : x.Key, x => x.Value));
            Measure("something new", a => new Dictionary<string, string>(a) { ["newly_asked"] = "yes please" });
            if (hit.LeadField is "email" or "phone")
                Measure("another kind", a => new Dictionary<string, string>(a) { [hit.Name] = "any time" });
        }

        return after.ToDictionary(a => a.Key, a => (IReadOnlyList<int>)a.Value);
    }

    private static (DriftForm Form, IReadOnlyList<GenField> Fields) Make(Random chance)
    {
        double Share() =>
            chance.Next(3) switch
            {
                0 => 1,
                1 => 0.9 + (0.1 * chance.NextDouble()),
                _ => 0.05 + (0.85 * chance.NextDouble()),
            };
        var fields = new List<GenField>
        {
            new("full_name", "full_name", 1, true),
            new("mail", "email", 1, true),
            new("phone", "phone", Share(), chance.Next(2) == 0),
            new("company", "company", Share(), chance.Next(2) == 0),
        };
        for (var q = chance.Next(6); q > 0; q--)
            fields.Add(new($"question_{q}", $"question_{q}", Share(), chance.Next(2) == 0));
        var map = new FieldMap([.. fields.Select(x => new MapRow(x.Name, x.LeadField))]);
        return (new([], false, map, [], "GB", new HashSet<string>()), fields);
    }

    private static Dictionary<string, string> Answer(IReadOnlyList<GenField> fields, int n, Random chance)
    {
        var answers = new Dictionary<string, string>();
        foreach (var field in fields)
        {
            if (chance.NextDouble() < field.Share)
                answers[field.Name] = Value(field, n, chance);
            else if (field.Always)
                answers[field.Name] = "";
        }

        // One in forty mistypes something; one in thirty brings a value that its address carried.
        if (chance.Next(40) == 0 && answers.GetValueOrDefault("phone") is { Length: > 0 })
            answers["phone"] = "after six";
        if (chance.Next(30) == 0)
            answers["gift"] = Words[chance.Next(Words.Length)];
        return answers;
    }

    private static string Value(GenField field, int n, Random chance) =>
        field.LeadField switch
        {
            "full_name" => "Ines Calloway",
            "email" => $"ines.{n}@example.com",
            "phone" => $"0113 496 0{n % 1000:000}",
            _ => Words[chance.Next(Words.Length)],
        };
}

using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Drift;

/// <summary>
/// Finds what changed about a form's fields from its last submissions alone, or from what its network tells. A finding
/// is made when what came is less likely than <see cref="Chance"/> for a form that is as it was: for a field that was
/// always there, that is two submissions; for one that nine in ten fill, five.
/// </summary>
public static class DriftFinder
{
    /// <summary>How many submissions are looked at.</summary>
    public const int Looks = 60;

    /// <summary>How many of them are the newest, in which a change is looked for.</summary>
    public const int Newest = 5;

    /// <summary>Before so many there is nothing to compare with.</summary>
    public const int LeastBefore = 8;

    /// <summary>How likely a finding may be, field by field, for a form that did not change.</summary>
    public const double Chance = 1e-4;

    // A field that was always there has not shown that it always will be.
    private const double Doubt = 0.5;

    // Choices that are new may have come some time ago.
    private static readonly int[] Lately = [Newest, 2 * Newest, 4 * Newest, 8 * Newest];

    /// <summary>
    /// What changed: what was found before and stands, then what is found now in the order of the form's fields.
    /// </summary>
    /// <param name="form">The form as it is known.</param>
    /// <param name="newestFirst">Its last submissions.</param>
    /// <param name="before">What was found when it was looked at last.</param>
    public static IReadOnlyList<DriftFinding> Find(
        DriftForm form,
        IReadOnlyList<DriftSample> newestFirst,
        IReadOnlyList<DriftFinding>? before = null
    )
    {
        var samples = newestFirst.Take(Looks).ToList();
        var found = FindNow(form, samples).Where(f => !form.Accepted.Contains(f.Key)).ToList();
        // As more comes, how it was goes out of sight. What was found stands until what comes says otherwise.
        var stands = (before ?? [])
            .Where(b => b.After > 0 && !form.Accepted.Contains(b.Key) && DriftStands.Still(form, b, samples))
            .ToList();
        found.RemoveAll(f =>
            stands.Exists(b =>
                b.Kind == DriftKind.Renamed
                && (f.Kind == DriftKind.Gone ? f.Field == b.Field : f.Kind == DriftKind.Fresh && f.Field == b.NewField)
            )
        );
        return
        [
            .. (before ?? [])
                .Select(b =>
                    found.Find(f => f.Key == b.Key)
                    ?? stands.Find(s => s == b && !found.Exists(f => f.Field == b.Field || f.NewField == b.Field))
                )
                .OfType<DriftFinding>()
                .Concat(found)
                .DistinctBy(f => f.Key),
        ];
    }

    private static List<DriftFinding> FindNow(DriftForm form, List<DriftSample> samples)
    {
        var fresh = FreshOf(form, samples);
        List<DriftFinding> findings =
        [
            .. GoneOf(form, samples).Select(g => FindGone(form, samples, g, fresh)).ToList(),
            .. fresh.Select(f => FindFresh(form, f)),
            .. ChoicesOf(form, samples),
        ];
        findings.AddRange(KindsOf(form, samples).Where(k => !findings.Exists(f => f.Field == k.Field)));
        return findings;
    }

    private static List<(MapRow Row, string Field, int Run, bool Lost)> GoneOf(
        DriftForm form,
        List<DriftSample> samples
    ) =>
        form
            .Map.Rows.Where(r =>
                r is { LeadField: not null, Constant: null }
                && r.FormField.Length > 0
                && !ObviousMap.Tracking.Contains(r.FormField)
            )
            .SelectMany(r => r.Fields().Select(f => (Row: r, Field: f)))
            .Where(m => !ToldElsewhere(form, m.Row, m.Field))
            .Select(m => (m.Row, m.Field, Gone: GoneAfter(form, m.Field, samples)))
            .Where(m => m.Gone is not null)
            .Select(m => (m.Row, m.Field, m.Gone!.Value.Run, m.Gone!.Value.Lost))
            .ToList();

    // What comes in its place is no longer new: it is taken out of what is.
    private static DriftFinding FindGone(
        DriftForm form,
        List<DriftSample> samples,
        (MapRow Row, string Field, int Run, bool Lost) gone,
        List<(string Field, int After, string? Suggested)> fresh
    )
    {
        var (row, field, run, lost) = gone;
        var took = fresh.Find(f => f.Suggested == row.LeadField || SameWords(form, f.Field, field));
        if (took.Field is not null)
        {
            fresh.Remove(took);
            return new(
                $"renamed.{field}.{took.Field}",
                DriftKind.Renamed,
                field,
                row.LeadField,
                $"“{Label(form, field)}” does not come any more; “{took.Field}” comes in its place{After(run, samples)}.",
                $"Map “{took.Field}” to {LeadField.WordsOf(row.LeadField!)} instead",
                Math.Max(run, took.After),
                NewField: took.Field
            )
            {
                Lost = true,
            };
        }

        var words =
            run == 0
                ? $"“{Label(form, field)}” is not asked any more."
                : $"“{Label(form, field)}” {(lost ? "has not come" : "was left empty")} in the last {run} submissions; it was in {Share(field, samples, run)} of those before.";
        return new($"gone.{field}", DriftKind.Gone, field, row.LeadField, words, "Take it out of the map", run)
        {
            Lost = lost,
        };
    }

    private static DriftFinding FindFresh(DriftForm form, (string Field, int After, string? Suggested) fresh) =>
        new(
            $"fresh.{fresh.Field}",
            DriftKind.Fresh,
            fresh.Field,
            null,
            $"It asks something new: “{Label(form, fresh.Field)}”.",
            fresh.Suggested is { } to ? $"Map it to {LeadField.WordsOf(to)}" : "Keep it under its own name",
            fresh.After,
            Suggested: fresh.Suggested
        );

    // A map may know the name that a field once had beside the one it has now: nothing is missed then.
    internal static bool ToldElsewhere(DriftForm form, MapRow row, string field) =>
        form.Tells
        && form.Map.Rows.Any(r =>
            r != row
            && r.LeadField == row.LeadField
            && r.Fields().Any(f => f != field && form.Fields.Any(t => t.Name == f))
        );

    // Where a run of the newest without it is too unlikely for a form that is as it was: how long the run is; 0 where
    // the network itself no longer asks it.
    private static (int Run, bool Lost)? GoneAfter(DriftForm form, string field, List<DriftSample> samples)
    {
        if (form.Tells && form.Fields.Count > 0)
        {
            if (form.Fields.FirstOrDefault(f => f.Name == field) is not { } told)
                return (0, true);
            // A network that tells what it asks leaves no doubt: whoever leaves an optional question out may.
            if (!told.Required)
                return null;
        }

        if (RunWithout(samples, s => s.Answers.ContainsKey(field)) is { } lost)
            return (lost, true);
        return RunWithout(samples, s => s.Answers.GetValueOrDefault(field) is { Length: > 0 }) is { } empty
            ? (empty, false)
            : null;
    }

    private static int? RunWithout(List<DriftSample> samples, Func<DriftSample, bool> has)
    {
        var run = samples.TakeWhile(s => !has(s)).Count();
        var before = samples.Count - run;
        if (run == 0 || before < LeastBefore)
            return null;
        var had = samples.Skip(run).Count(has);
        // What few give is missed by nobody when some more do not.
        if (had * 2 < before)
            return null;
        var missing = (before - had + Doubt) / (before + (2 * Doubt));
        return Math.Pow(missing, run) <= Chance ? run : null;
    }

    private static List<(string Field, int After, string? Suggested)> FreshOf(DriftForm form, List<DriftSample> samples)
    {
        var mapped = form.Map.Rows.SelectMany(r => r.Fields()).ToHashSet(StringComparer.Ordinal);
        bool Known(string field) => mapped.Contains(field) || NeverMapped(field);
        var found = new List<(string Field, int After)>();
        if (form.Tells)
            found.AddRange(
                form.Fields.Where(f => !Known(f.Name) && f.Type != FormFieldType.Hidden).Select(f => (f.Name, 0))
            );
        else
        {
            var newest = samples.Take(Newest).ToList();
            foreach (
                var field in newest
                    .SelectMany(s => s.Answers.Keys)
                    .Distinct(StringComparer.Ordinal)
                    .Where(f => !Known(f))
            )
            {
                // What comes now and then is not new when it comes again; what is new comes with most of those after it
                // first came.
                var first = samples.FindLastIndex(s => s.Answers.ContainsKey(field));
                var times = samples.Take(first + 1).Count(s => s.Answers.ContainsKey(field));
                if (samples.Count - first - 1 >= LeastBefore && times >= 3 && times * 3 >= (first + 1) * 2)
                    found.Add((field, first + 1));
            }
        }

        var seen = found.ConvertAll(f => SeenOf(form, f.Field, samples));
        var suggested = MapSuggester.Suggest(seen, form.Own, [], form.Country);
        return [.. found.Zip(suggested, (f, s) => (f.Field, f.After, s.LeadField))];
    }

    private static SeenField SeenOf(DriftForm form, string field, List<DriftSample> samples)
    {
        var told = form.Fields.FirstOrDefault(f => f.Name == field);
        return new(
            field,
            told?.Label ?? field,
            told?.Type ?? FormFieldType.Text,
            told?.Choices ?? [],
            told?.Means,
            [.. samples.Take(Newest).Select(s => s.Answers.GetValueOrDefault(field)).OfType<string>()]
        );
    }

    /// <summary>True of what comes along with answers and is none.</summary>
    internal static bool NeverMapped(string field) =>
        ObviousMap.Tracking.Contains(field) || field.StartsWith(Payload.OwnPrefix, StringComparison.Ordinal);

    private static IEnumerable<DriftFinding> ChoicesOf(DriftForm form, List<DriftSample> samples)
    {
        foreach (
            var row in form.Map.Rows.Where(r =>
                r is { LeadField: not null, With: null, Constant: null } && r.FormField.Length > 0
            )
        )
        {
            var own = form.Own.FirstOrDefault(o => o.Key == row.LeadField);
            var asked = form.Fields.FirstOrDefault(f => f.Name == row.FormField);
            var known = own is { Type: LeadFieldType.Choice or LeadFieldType.Choices, Choices.Count: > 0 }
                ? own.Choices
                : null;
            if (known is null)
                continue;
            bool Taken(string value) =>
                known.Any(c => Guard.Same(c, value)) || row.Choices?.Keys.Any(c => Guard.Same(c, value)) == true;
            var several = own!.Type == LeadFieldType.Choices;
            var offered = form.Tells ? asked?.Choices.Where(c => !Taken(c)).ToList() ?? [] : [];
            var run = 0;
            if (offered.Count == 0)
            {
                var strange = samples.ConvertAll(s =>
                    Parts(s.Answers.GetValueOrDefault(row.FormField), several).Where(v => !Taken(v)).ToList()
                );
                // Two in five, where there was next to none: somebody changed the choices, and nobody mistyped.
                var newest = Array.Find(Lately, n =>
                    samples.Count - n >= LeastBefore
                    && strange.Take(n).Count(s => s.Count > 0) * 5 >= n * 2
                    && strange.Skip(n).Sum(s => s.Count) * 20 <= samples.Count
                );
                if (newest == 0)
                    continue;
                run = strange.Take(newest).Count(s => s.Count > 0);
                offered = [.. strange.Take(newest).SelectMany(s => s).Distinct(StringComparer.OrdinalIgnoreCase)];
            }

            if (offered.Count == 0)
                continue;
            var said = string.Join(", ", offered.Take(4).Select(o => $"“{Short(o)}”"));
            yield return new(
                $"choices.{row.FormField}.{string.Join('|', offered.Take(4).Select(Short))}",
                DriftKind.Choices,
                row.FormField,
                row.LeadField,
                $"“{Label(form, row.FormField)}” is answered with {said}, which {(offered.Count == 1 ? "is no choice" : "are no choices")} of {own.Label.ToLowerInvariant()}.",
                offered.Count == 1 ? "Add it to the choices" : "Add them to the choices",
                run,
                Values: offered
            );
        }
    }

    private static IEnumerable<DriftFinding> KindsOf(DriftForm form, List<DriftSample> samples)
    {
        var map = CompiledMap.From(form.Map, form.Country, form.Own);
        var faults = samples.ConvertAll(s => map.Read([.. s.Answers.Select(a => new Answer(a.Key, a.Value))]).Faults);
        foreach (var field in faults.Take(Newest).SelectMany(f => f.Keys).Distinct(StringComparer.Ordinal))
        {
            var row = form.Map.Rows.FirstOrDefault(r => r.FormField == field);
            if (
                row?.LeadField is not { } target
                || form.Own.FirstOrDefault(o => o.Key == target)?.Type is LeadFieldType.Choice or LeadFieldType.Choices
            )
                continue;
            var given = samples
                .Zip(faults)
                .Where(s => s.First.Answers.GetValueOrDefault(field) is { Length: > 0 })
                .Select(s => s.Second.ContainsKey(field))
                .ToList();
            var run = given.TakeWhile(f => f).Count();
            var before = given.Count - run;
            if (run == 0 || before < LeastBefore)
                continue;
            var usual = (given.Skip(run).Count(f => f) + Doubt) / (before + (2 * Doubt));
            if (Math.Pow(usual, run) > Chance)
                continue;
            yield return new(
                $"kind.{field}",
                DriftKind.OtherKind,
                field,
                target,
                $"“{Label(form, field)}” holds something else than {LeadField.WordsOf(target)}: {faults[0].GetValueOrDefault(field, "it cannot be read")}, in the last {run}.",
                "Take it out of the map",
                run
            )
            {
                Lost = true,
            };
        }
    }

    internal static IEnumerable<string> Parts(string? value, bool several) =>
        string.IsNullOrWhiteSpace(value) ? []
        : several ? value.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
        : [value.Trim()];

    private static bool SameWords(DriftForm form, string one, string other) =>
        Tokens.PlainOf(Label(form, one)) == Tokens.PlainOf(Label(form, other));

    private static string Label(DriftForm form, string field) =>
        form.Fields.FirstOrDefault(f => f.Name == field)?.Label ?? field;

    private static string Share(string field, List<DriftSample> samples, int run)
    {
        var before = samples.Skip(run).ToList();
        return string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{before.Count(s => s.Answers.GetValueOrDefault(field) is { Length: > 0 })} of {before.Count}"
        );
    }

    private static string After(int run, List<DriftSample> samples) =>
        run == 0 || samples.Count == 0
            ? ""
            : string.Create(System.Globalization.CultureInfo.InvariantCulture, $", in the last {run}");

    private static string Short(string value) => Clip.Short(value, 40);
}

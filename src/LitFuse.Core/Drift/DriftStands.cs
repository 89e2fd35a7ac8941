using LitFuse.Core.Fields;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;

namespace LitFuse.Core.Drift;

/// <summary>
/// Whether something that was found in submissions is still so, when how the form was before has gone out of sight.
/// </summary>
internal static class DriftStands
{
    /// <summary>True until the map, the form or what comes says otherwise.</summary>
    public static bool Still(DriftForm form, DriftFinding finding, List<DriftSample> samples) =>
        samples.Count > 0
        && finding.Kind switch
        {
            DriftKind.Gone => Missed(form, finding, samples),
            DriftKind.Renamed => Missed(form, finding, samples)
                && !Mapped(form, finding.NewField!)
                && samples.Take(DriftFinder.Newest).Any(s => s.Answers.ContainsKey(finding.NewField!)),
            DriftKind.Fresh => !Mapped(form, finding.Field)
                && !DriftFinder.NeverMapped(finding.Field)
                && samples.Take(DriftFinder.Newest).ToList() is var newest
                && newest.Count(s => s.Answers.ContainsKey(finding.Field)) * 3 >= newest.Count * 2,
            DriftKind.Choices => NewChoices(form, finding, samples),
            _ => OtherKind(form, finding, samples),
        };

    private static bool Mapped(DriftForm form, string field) => form.Map.Rows.Any(r => r.Fields().Contains(field));

    // It has not come again since.
    private static bool Missed(DriftForm form, DriftFinding finding, List<DriftSample> samples)
    {
        if (form.Tells && form.Fields.FirstOrDefault(f => f.Name == finding.Field) is { Required: false })
            return false;
        if (
            !form.Map.Rows.Any(r =>
                r.LeadField == finding.LeadField
                && r.Constant is null
                && r.Fields().Contains(finding.Field)
                && !DriftFinder.ToldElsewhere(form, r, finding.Field)
            )
        )
            return false;
        bool Comes(DriftSample s) =>
            finding.Lost
                ? s.Answers.ContainsKey(finding.Field)
                : s.Answers.GetValueOrDefault(finding.Field) is { Length: > 0 };
        return samples.TakeWhile(s => !Comes(s)).Count() >= Math.Min(finding.After, samples.Count);
    }

    private static bool NewChoices(DriftForm form, DriftFinding finding, List<DriftSample> samples)
    {
        var row = form.Map.Rows.FirstOrDefault(r => r.FormField == finding.Field && r.LeadField == finding.LeadField);
        if (
            row is null
            || form.Own.FirstOrDefault(o => o.Key == finding.LeadField)
                is not { Type: LeadFieldType.Choice or LeadFieldType.Choices } own
        )
            return false;
        var strange = (finding.Values ?? [])
            .Where(v => !own.Choices.Any(c => Guard.Same(c, v)) && row.Choices?.Keys.Any(c => Guard.Same(c, v)) != true)
            .ToList();
        return samples.Any(s =>
            DriftFinder
                .Parts(s.Answers.GetValueOrDefault(finding.Field), own.Type == LeadFieldType.Choices)
                .Any(p => strange.Exists(v => Guard.Same(v, p)))
        );
    }

    private static bool OtherKind(DriftForm form, DriftFinding finding, List<DriftSample> samples)
    {
        if (form.Map.Rows.FirstOrDefault(r => r.FormField == finding.Field)?.LeadField != finding.LeadField)
            return false;
        var map = CompiledMap.From(form.Map, form.Country, form.Own);
        var given = samples.Where(s => s.Answers.GetValueOrDefault(finding.Field) is { Length: > 0 }).ToList();
        return given.Count > 0
            && given
                .TakeWhile(s =>
                    map.Read([.. s.Answers.Select(a => new Answer(a.Key, a.Value))]).Faults.ContainsKey(finding.Field)
                )
                .Count() >= Math.Min(finding.After, given.Count);
    }
}

using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Server.Features.Sources;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Mapping;

/// <summary>A field of a form, and where it seems to go.</summary>
/// <param name="Fresh">It came after the map was confirmed: nobody has looked at it.</param>
public sealed record MapField(
    string Name,
    string Label,
    FormFieldType Type,
    bool Required,
    IReadOnlyList<string> Choices,
    bool Seen,
    bool Fresh,
    Suggestion Suggested
);

/// <summary>A submission to try the map on.</summary>
public sealed record MapSample(
    Guid Id,
    Instant ReceivedAt,
    bool Test,
    SubmissionStatus Status,
    IReadOnlyList<Answer> Answers
);

/// <summary>Another form of the client whose map might do.</summary>
/// <param name="Shared">How many of this form's fields it has.</param>
public sealed record SimilarForm(Guid Id, string Name, string Source, int Shared);

/// <summary>A version of the map.</summary>
public sealed record MapVersionLine(int Version, string? ConfirmedBy, Instant ConfirmedAt, FieldMap Map);

/// <summary>Earlier submissions going through the newest map.</summary>
public sealed record ReprocessingLine(Guid Id, int Total, int Done, int Changed, ReprocessingStatus Status);

/// <summary>A form's map, whole.</summary>
/// <param name="Version">The newest version; 0 where nothing is confirmed.</param>
/// <param name="Country">Whose way of writing dates, numbers and telephone numbers is taken.</param>
/// <param name="Processed">Earlier submissions that became leads.</param>
public sealed record MapDetail(
    Guid FormId,
    string Form,
    string Client,
    int Version,
    bool Confirmed,
    FieldMap? Map,
    string Country,
    IReadOnlyList<MapField> Fields,
    IReadOnlyList<LeadFieldRow> LeadFields,
    IReadOnlyList<MapSample> Samples,
    IReadOnlyList<SimilarForm> Similar,
    IReadOnlyList<MapVersionLine> Versions,
    int Waiting,
    int Processed,
    ReprocessingLine? Reprocessing
);

/// <summary>Reads maps, with what helps to make them.</summary>
public sealed class MapDetailReader(AppDb db, FormDetailReader forms)
{
    /// <summary>The map of a form, or <c>null</c> when there is no such form for who asks.</summary>
    public async Task<MapDetail?> ReadAsync(Guid formId, CancellationToken stop)
    {
        if (await forms.ReadAsync(formId, stop) is not { } whole)
            return null;
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == whole.Form.ClientId, stop);
        var versions = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.FormId == formId && m.Status == MapStatus.Confirmed)
            .OrderByDescending(m => m.Version)
            .Take(50)
            .ToListAsync(stop);
        var people = await db.PeopleAsync(versions.Select(v => v.ConfirmedBy), stop);
        var fields = await db.FieldsAsync(client.Id, stop);
        var others = await OthersAsync(client.Id, formId, stop);
        var map = versions.FirstOrDefault()?.Map;
        var suggested = MapSuggester.Suggest(
            SeenIn(whole),
            [.. fields.Where(f => f.Own).Select(f => new LeadField(f.Key, f.Label, f.Type, f.Choices))],
            Precedents(others),
            client.Country
        );
        var names = whole.Fields.Select(f => f.Name).ToHashSet(StringComparer.Ordinal);
        var again = await db
            .Reprocessings.AsNoTracking()
            .Where(r => r.FormId == formId)
            .OrderByDescending(r => r.MadeAt)
            .FirstOrDefaultAsync(stop);
        return new(
            formId,
            whole.Form.Name,
            client.Key,
            versions.FirstOrDefault()?.Version ?? 0,
            map is not null,
            map,
            client.Country,
            FieldsOf(whole, map, suggested),
            fields,
            [
                .. whole
                    .Samples.Where(s => s.Answers.Count > 0)
                    .Select(s => new MapSample(
                        s.Id,
                        s.ReceivedAt,
                        s.Test,
                        s.Status,
                        [.. s.Answers.Select(a => new Answer(a.Question, a.Answer))]
                    )),
            ],
            SimilarTo(names, others),
            [
                .. versions.Select(v => new MapVersionLine(
                    v.Version,
                    PeopleNames.Of(people, v.ConfirmedBy),
                    v.ConfirmedAt ?? v.MadeAt,
                    v.Map
                )),
            ],
            whole.Form.Waiting,
            await db.Submissions.CountAsync(s => s.FormId == formId && s.Status == SubmissionStatus.Processed, stop),
            again is null ? null : new(again.Id, again.Total, again.Done, again.Changed, again.Status)
        );
    }

    private static List<SeenField> SeenIn(FormDetail whole) =>
        whole
            .Fields.Select(f => new SeenField(
                f.Name,
                f.Label,
                f.Type,
                f.Choices,
                MeansOf(f, whole),
                [
                    .. whole
                        .Samples.SelectMany(s => s.Answers)
                        .Where(a => a.Question == f.Name)
                        .Select(a => a.Answer)
                        .Take(12),
                ]
            ))
            .ToList();

    private static List<MapField> FieldsOf(FormDetail whole, FieldMap? map, IReadOnlyList<Suggestion> suggested)
    {
        var mapped = map?.Rows.SelectMany(r => r.Fields()).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. whole.Fields.Select(
                (f, i) =>
                    new MapField(
                        f.Name,
                        f.Label,
                        f.Type,
                        f.Required,
                        f.Choices,
                        f.Seen,
                        mapped?.Contains(f.Name) == false && !ObviousMap.Tracking.Contains(f.Name),
                        suggested[i]
                    )
            ),
        ];
    }

    // Forms whose maps could be taken: those that know most of this one's fields first.
    private static List<SimilarForm> SimilarTo(
        HashSet<string> names,
        List<(Form Form, string Source, FieldMap Map)> others
    ) =>
        [
            .. others
                .Select(o => new SimilarForm(
                    o.Form.Id,
                    o.Form.Name,
                    o.Source,
                    o.Map.Rows.SelectMany(r => r.Fields()).Count(names.Contains)
                ))
                .Where(s => s.Shared > 0)
                .OrderByDescending(s => s.Shared)
                .ThenBy(s => s.Name, StringComparer.Ordinal)
                .Take(8),
        ];

    /// <summary>The map of another form of the same client, for this form's fields.</summary>
    public async Task<FieldMap?> FromAsync(Guid formId, Guid otherId, CancellationToken stop)
    {
        var (own, other) = (
            await forms.ReadAsync(formId, stop),
            await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == otherId, stop)
        );
        if (own is null || other is null || other.ClientId != own.Form.ClientId)
            return null;
        var map = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.FormId == otherId && m.Status == MapStatus.Confirmed)
            .OrderByDescending(m => m.Version)
            .Select(m => m.Map)
            .FirstOrDefaultAsync(stop);
        if (map is null)
            return null;
        var names = own.Fields.Select(f => f.Name).ToHashSet(StringComparer.Ordinal);
        return map with
        {
            Rows =
            [
                .. map.Rows.Where(r => r.Fields().All(names.Contains) || ObviousMap.Tracking.Contains(r.FormField)),
            ],
        };
    }

    // What the form's maker says of its own field; one that only came along says nothing.
    private static string? MeansOf(FormFieldRow field, FormDetail whole) => whole.Means.GetValueOrDefault(field.Name);

    private async Task<List<(Form Form, string Source, FieldMap Map)>> OthersAsync(
        Guid clientId,
        Guid formId,
        CancellationToken stop
    )
    {
        var maps = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.ClientId == clientId && m.FormId != formId && m.Status == MapStatus.Confirmed)
            .ToListAsync(stop);
        var newest = maps.GroupBy(m => m.FormId).ToDictionary(g => g.Key, g => g.MaxBy(m => m.Version)!.Map);
        var rows = await db
            .Forms.AsNoTracking()
            .Where(f => newest.Keys.Contains(f.Id) && f.State != FormState.Offered)
            .Join(
                db.Sources,
                f => f.SourceId,
                s => s.Id,
                (f, s) =>
                    new
                    {
                        Form = f,
                        s.Name,
                        s.Kind,
                    }
            )
            .ToListAsync(stop);
        return rows.Where(r => r.Kind is not ("hand" or "api"))
            .Select(r => (r.Form, r.Name, newest[r.Form.Id]))
            .ToList();
    }

    private static List<Precedent> Precedents(IEnumerable<(Form Form, string Source, FieldMap Map)> others) =>
        [
            .. others.SelectMany(o =>
                o.Map.Rows.Where(r =>
                        r.LeadField is not null
                        && r.With is null
                        && r.Constant is null
                        && !ObviousMap.Tracking.Contains(r.FormField)
                    )
                    .Select(r => new Precedent(o.Form.Name, r.FormField, o.Form.LabelOf(r.FormField), r.LeadField!))
            ),
        ];
}

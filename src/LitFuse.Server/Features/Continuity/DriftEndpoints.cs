using LitFuse.Core.Drift;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Mapping;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Continuity;

/// <summary>What to do about something that changed on a form.</summary>
/// <param name="Key">Of the finding.</param>
/// <param name="Accept">It is as it is to be: do nothing, and say nothing of it again. Else the suggested mend is
/// made.</param>
public sealed record DriftToMend(string? Key, bool Accept);

/// <summary>What was done about it.</summary>
/// <param name="MapVersion">The version that was confirmed by it; <c>null</c>: none was.</param>
/// <param name="Released">Submissions that waited for it and go on.</param>
public sealed record DriftMended(int? MapVersion, int Released);

/// <summary>Mending what changed on a form, with one press.</summary>
public static class DriftEndpoints
{
    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/forms/{formId}/drift", MendAsync)
            .Needs(Act.EditSources)
            .WithTags("Continuity")
            .WithSummary(
                "Make the mend that is suggested for something that changed on a form, or say that it is right as it is"
            );

    private static async Task<Results<Ok<DriftMended>, ProblemHttpResult>> MendAsync(
        Guid formId,
        DriftToMend asked,
        HttpContext http,
        AppDb db,
        LineEvaluator lines,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Forms.SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        int? version = null;
        await using (var transaction = await db.Database.BeginTransactionAsync(stop))
        {
            // In the order of who judges lines, first the watch and then the form: they do not wait for each other.
            var watch = await db
                .FormWatches.FromSql($"select * from form_watches where form_id = {formId} for update")
                .SingleOrDefaultAsync(stop);
            if (watch?.Drift.FirstOrDefault(d => d.Key == asked.Key) is not { } finding)
                return Problems.NotNow.Because("That is not found on the form any more.");
            if (asked.Accept)
                watch.Accepted = [.. watch.Accepted.Append(finding.Key).Distinct(StringComparer.Ordinal).TakeLast(100)];
            else if (finding.Kind == DriftKind.Choices)
            {
                var field = await db.LeadFields.SingleOrDefaultAsync(
                    f => f.ClientId == form.ClientId && f.Key == finding.LeadField,
                    stop
                );
                if (field is null)
                    return Problems.NotNow.Because("The lead field is not there any more.");
                field.Choices =
                [
                    .. field.Choices.Concat(finding.Values ?? []).Distinct(StringComparer.OrdinalIgnoreCase),
                ];
            }
            else
            {
                var before = await db
                    .FormMaps.AsNoTracking()
                    .Where(m => m.FormId == formId && m.Status == MapStatus.Confirmed)
                    .OrderByDescending(m => m.Version)
                    .FirstOrDefaultAsync(stop);
                if (before is null)
                    return Problems.NotNow.Because("No map is confirmed. Look at the map.");
                version = await db.ConfirmAsync(
                    form,
                    Mended(before.Map, finding),
                    ClientAccess.UserId(http.User),
                    time.Now(),
                    stop
                );
            }

            watch.Drift = [.. watch.Drift.Where(d => d.Key != finding.Key)];
            watch.LookedVersion = null;
            // What lacks another field that is lost goes on waiting for that one.
            form.WaitsFor = [.. form.WaitsFor.Where(w => w.Field != finding.LeadField)];
            db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
            await db.SaveAndNotifyAsync(stop);
            await transaction.CommitAsync(stop);
        }

        var released =
            form.State == FormState.Receiving ? await db.ReleaseAsync(formId, stop, SubmissionStatus.Waiting) : 0;
        await lines.WholeAsync(form.ClientId, stop);
        return TypedResults.Ok(new DriftMended(version, released));
    }

    /// <summary>The map after the mend that is suggested.</summary>
    internal static FieldMap Mended(FieldMap map, DriftFinding finding) =>
        map with
        {
            Rows = finding.Kind switch
            {
                DriftKind.Renamed =>
                [
                    .. map
                        .Rows.Where(r => r.FormField != finding.NewField)
                        .Select(r => Renamed(r, finding.Field, finding.NewField!)),
                ],
                DriftKind.Fresh =>
                [
                    .. map.Rows.Where(r => r.FormField != finding.Field),
                    new MapRow(finding.Field, finding.Suggested ?? finding.Field),
                ],
                _ =>
                [
                    .. map
                        .Rows.Where(r => r.FormField != finding.Field)
                        .Select(r =>
                            r.With?.Contains(finding.Field) == true
                                ? r with
                                {
                                    With = r.With.Count == 1 ? null : [.. r.With.Where(f => f != finding.Field)],
                                }
                                : r
                        ),
                ],
            },
        };

    private static MapRow Renamed(MapRow row, string from, string to) =>
        row with
        {
            FormField = row.FormField == from ? to : row.FormField,
            With = row.With is null ? null : [.. row.With.Select(f => f == from ? to : f)],
        };
}

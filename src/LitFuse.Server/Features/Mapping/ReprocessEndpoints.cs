using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Mapping;

/// <summary>One lead that another map would change.</summary>
public sealed record PreviewedLead(Guid LeadId, string Name, IReadOnlyList<FieldChange> Changes);

/// <summary>How often a field would change.</summary>
public sealed record PreviewedField(string Field, string Label, int Leads);

/// <summary>What processing earlier submissions again would change.</summary>
/// <param name="Read">How many were looked at: the newest, at most a thousand.</param>
public sealed record ReprocessPreview(
    int Read,
    int Total,
    int LeadsChanged,
    IReadOnlyList<PreviewedField> Fields,
    IReadOnlyList<PreviewedLead> Examples
);

/// <summary>Processing earlier submissions again through the newest map.</summary>
public static class ReprocessEndpoints
{
    private const int MostPreviewed = 1000;
    private const int Examples = 20;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/forms/{formId}/reprocess").WithTags("Field maps");
        group
            .MapPost("/preview", PreviewAsync)
            .Needs(Act.SeeSources)
            .WithSummary("What processing earlier submissions again through a map would change");
        group
            .MapPost("/", StartAsync)
            .Needs(Act.EditSources)
            .WithSummary("Process earlier submissions again through the newest map; lights no fuse");
        group.MapPost("/cancel", CancelAsync).Needs(Act.EditSources).WithSummary("Stop it where it is");
    }

    private static async Task<Results<Ok<ReprocessPreview>, ProblemHttpResult>> PreviewAsync(
        Guid formId,
        MapToTry tried,
        AppDb db,
        MapDetailReader maps,
        Reprocessor run,
        CancellationToken stop
    )
    {
        if (await maps.ReadAsync(formId, stop) is not { } whole)
            return Problems.No("form");
        if (MapEndpoints.Fault(tried.Rows, tried.Locale, whole.LeadFields) is { } fault)
            return fault;
        var map = CompiledMap.From(
            new(tried.Rows!, tried.Locale),
            whole.Country,
            [.. whole.LeadFields.Where(f => f.Own).Select(f => new LeadField(f.Key, f.Label, f.Type, f.Choices))]
        );
        var newest = db.Submissions.Where(s =>
            s.FormId == formId && s.Status == SubmissionStatus.Processed && s.LeadId != null
        );
        var total = await newest.CountAsync(stop);
        var from =
            total <= MostPreviewed
                ? Guid.Empty
                : await newest.OrderByDescending(s => s.Id).Skip(MostPreviewed).Select(s => s.Id).FirstAsync(stop);
        var (read, _) = await run.ReadAsync(formId, map, from, MostPreviewed, stop);
        var changed = read.Where(r => r.Changes.Any(c => c.Taken)).ToList();
        var own = whole
            .LeadFields.Where(f => f.Own)
            .ToDictionary(f => f.Key, f => new LeadField(f.Key, f.Label, f.Type, f.Choices), StringComparer.Ordinal);
        var fields = changed
            .SelectMany(r => r.Changes.Where(c => c.Taken).Select(c => (c.Field, r.Lead.Id)))
            .Distinct()
            .GroupBy(c => c.Field, StringComparer.Ordinal)
            .Select(g => new PreviewedField(g.Key, LeadField.LabelOf(g.Key, own.GetValueOrDefault), g.Count()))
            .OrderByDescending(f => f.Leads)
            .ToList();
        return TypedResults.Ok(
            new ReprocessPreview(
                Math.Min(total, MostPreviewed),
                total,
                changed.Select(r => r.Lead.Id).Distinct().Count(),
                fields,
                [
                    .. Enumerable
                        .Reverse(changed)
                        .DistinctBy(r => r.Lead.Id)
                        .Take(Examples)
                        .Select(r => new PreviewedLead(
                            r.Lead.Id,
                            r.Lead.ShownName(),
                            [.. r.Changes.Where(c => c.Taken)]
                        )),
                ]
            )
        );
    }

    private static async Task<Results<Accepted<ReprocessingLine>, ProblemHttpResult>> StartAsync(
        Guid formId,
        HttpContext http,
        AppDb db,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var map = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.FormId == formId && m.Status == MapStatus.Confirmed)
            .OrderByDescending(m => m.Version)
            .FirstOrDefaultAsync(stop);
        if (map is null)
            return await db.Forms.AnyAsync(f => f.Id == formId, stop)
                ? Problems.NotNow.Because("Confirm the map first.")
                : Problems.No("form");
        if (await db.Reprocessings.AnyAsync(r => r.FormId == formId && r.Status == ReprocessingStatus.Running, stop))
            return Problems.NotNow.Because("They are being processed again already.");
        var total = await db.Submissions.CountAsync(
            s => s.FormId == formId && s.Status == SubmissionStatus.Processed && s.LeadId != null,
            stop
        );
        var job = new Reprocessing
        {
            Id = Guid.CreateVersion7(),
            ClientId = map.ClientId,
            FormId = formId,
            MapVersion = map.Version,
            Total = total,
            MadeBy = ClientAccess.UserId(http.User)!.Value,
            MadeAt = time.Now(),
        };
        db.Reprocessings.Add(job);
        db.NoteChange(map.ClientId, ChangeKind.Form, formId);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("reprocessings", stop);
        signals.Reprocessings.Pulse();
        return TypedResults.Accepted((string?)null, new ReprocessingLine(job.Id, total, 0, 0, job.Status));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> CancelAsync(
        Guid formId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!await db.Forms.AnyAsync(f => f.Id == formId, stop))
            return Problems.No("form");
        var now = time.Now();
        var stopped = await db
            .Reprocessings.Where(r => r.FormId == formId && r.Status == ReprocessingStatus.Running)
            .ExecuteUpdateAsync(
                r => r.SetProperty(x => x.Status, ReprocessingStatus.Cancelled).SetProperty(x => x.EndedAt, now),
                stop
            );
        return stopped > 0 ? TypedResults.NoContent() : Problems.NotNow.Because("Nothing is being processed again.");
    }
}

using LitFuse.Core.Mapping;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A form as a row.</summary>
/// <param name="Map">Where its field map stands; <c>null</c> when there is none.</param>
public sealed record FormRow(Guid Id, Guid ClientId, string Client, string Source, string Key, string Name, MapStatus? Map, int Submissions, int Waiting, int Unreadable, Instant? LastAt);

/// <summary>The forms of the clients chosen.</summary>
public sealed record FormList(IReadOnlyList<FormRow> Forms);

/// <summary>One field of a form, its map, and a sample.</summary>
public sealed record FormFieldRow(string Name, string Label, FormFieldType Type, bool Required, IReadOnlyList<string> Choices, string? LeadField);

/// <summary>One submission as it came.</summary>
public sealed record FormSample(Guid Id, Instant ReceivedAt, SubmissionStatus Status, string? Reason, Guid? LeadId, string ContentType, string Raw, IReadOnlyList<AnswerLine> Answers);

/// <summary>A form, whole.</summary>
public sealed record FormWhole(
    FormRow Form, IReadOnlyList<FormFieldRow> Fields, int? MapVersion, string? ConfirmedBy, Instant? ConfirmedAt, string PostTo, string Snippet, string? ThankYouUrl, string? PageUrl, IReadOnlyList<FormSample> Samples);

/// <summary>Sources and forms.</summary>
public static class SourcesEndpoints
{
    private const int Samples = 20;
    private const int MostRaw = 20_000;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/forms", ListAsync).Needs(Act.SeeSources).WithTags("Sources").WithSummary("Forms, by source");
        app.MapGet("/api/forms/{formId}", GetAsync).Needs(Act.SeeSources).WithTags("Sources").WithSummary("A form: its fields, its map, what came");
    }

    private static async Task<Results<Ok<FormList>, ProblemHttpResult>> ListAsync(AppDb db, ClientScope scope, CancellationToken stop, string? client = null)
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients) return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(new FormList(await RowsAsync(db, db.Forms.Where(f => clients.Contains(f.ClientId)), stop)));
    }

    private static async Task<Results<Ok<FormWhole>, ProblemHttpResult>> GetAsync(Guid formId, AppDb db, PublicAddress address, CancellationToken stop)
    {
        var form = await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop);
        if (form is null) return Problems.NotThere.Because("There is no such form for you.");
        var row = (await RowsAsync(db, db.Forms.Where(f => f.Id == formId), stop))[0];
        var map = await db.FormMaps.AsNoTracking().Where(m => m.FormId == formId).OrderByDescending(m => m.Version).FirstOrDefaultAsync(stop);
        var people = await db.PeopleAsync([map?.ConfirmedBy], stop);
        // Two questions, each with an index of its own: what has been read, and what is about to be.
        var all = db.Submissions.AsNoTracking().Where(s => s.FormId == formId);
        var came = (await all.Where(s => s.Status == SubmissionStatus.Received).OrderByDescending(s => s.DueAt).Take(Samples).ToListAsync(stop))
            .Concat(await all.Where(s => s.Status != SubmissionStatus.Received).OrderByDescending(s => s.ReceivedAt).Take(Samples).ToListAsync(stop))
            .OrderByDescending(s => s.ReceivedAt).Take(Samples).ToList();
        var samples = new List<FormSample>(came.Count);
        foreach (var s in came)
        {
            var payload = await RawBody.ReadAsync(s.ContentType, s.Raw);
            var raw = System.Text.Encoding.UTF8.GetString(s.Raw.AsSpan(0, Math.Min(s.Raw.Length, MostRaw)));
            samples.Add(new(s.Id, s.ReceivedAt, s.Status, s.Reason, s.LeadId, s.ContentType, raw, [.. payload.Answers.Select(a => new AnswerLine(a.Field, a.Value))]));
        }

        return TypedResults.Ok(new FormWhole(
            row, [.. form.Fields.Select(f => new FormFieldRow(f.Name, f.Label, f.Type, f.Required, f.Choices, TargetOf(map?.Map, f.Name)))],
            map?.Version, LeadQueries.Name(people, map?.ConfirmedBy), map?.ConfirmedAt, $"{address.Url}/in/{form.Key}", EmbedSnippet.For(form, address.Url), form.ThankYouUrl, form.PageUrl, samples));
    }

    private static string? TargetOf(FieldMap? map, string field) => map?.Rows.FirstOrDefault(r => r.FormField == field)?.LeadField;

    private static async Task<IReadOnlyList<FormRow>> RowsAsync(AppDb db, IQueryable<Form> forms, CancellationToken stop) =>
        await forms.AsNoTracking().OrderBy(f => f.Name).Select(f => new FormRow(
            f.Id, f.ClientId,
            db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
            db.Sources.Where(s => s.Id == f.SourceId).Select(s => s.Name).First(),
            f.Key, f.Name,
            db.FormMaps.Where(m => m.FormId == f.Id).OrderByDescending(m => m.Version).Select(m => (MapStatus?)m.Status).FirstOrDefault(),
            db.Submissions.Count(s => s.FormId == f.Id),
            db.Submissions.Count(s => s.FormId == f.Id && s.Status == SubmissionStatus.Waiting),
            db.Submissions.Count(s => s.FormId == f.Id && s.Status == SubmissionStatus.Unreadable),
            db.Submissions.Where(s => s.FormId == f.Id).Max(s => (Instant?)s.ReceivedAt))).ToListAsync(stop);
}

using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Features.Sources;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>Lines.</summary>
public sealed record LineList(IReadOnlyList<LineRow> Lines, Instant Now);

/// <summary>A lead that a cut touched.</summary>
public sealed record TouchedLead(Guid Id, string Name);

/// <summary>A cut that was or is.</summary>
/// <param name="To"><c>null</c>: it lasts.</param>
/// <param name="Came">Submissions that came from the form while it lasted.</param>
/// <param name="Leads">Leads of them, the first dozen.</param>
public sealed record CutPast(
    JointKind Joint,
    string Cause,
    Instant From,
    Instant? To,
    int Came,
    IReadOnlyList<TouchedLead> Leads
);

/// <summary>The line of a form with all that is known about it.</summary>
/// <param name="Line"><c>null</c>: it has none, or was not judged yet.</param>
/// <param name="Habit">How often it has a lead, in a sentence.</param>
/// <param name="Drift">What has changed about its fields.</param>
/// <param name="Past">Cuts, newest first.</param>
public sealed record LineDetail(
    LineRow? Line,
    string? Habit,
    IReadOnlyList<DriftFinding> Drift,
    IReadOnlyList<CutPast> Past
);

/// <summary>Whether a form is meant to rest.</summary>
public sealed record RestToSet(bool Rests);

/// <summary>Lines: whether each is whole, where it is cut, and what mends it.</summary>
public static class LinesEndpoints
{
    private const int MostPast = 30;
    private const int MostTouched = 12;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/lines", ListAsync)
            .Needs(Act.SeeSources)
            .WithTags("Continuity")
            .WithSummary(
                "Lines from form to phone, cut ones first; of a form, a fuse or a connection where one is named"
            );
        var line = app.MapGroup("/api/forms/{formId}/line").WithTags("Continuity");
        line.MapGet("/", OneAsync)
            .Needs(Act.SeeSources)
            .WithSummary("A form's line: its joints, its cuts now and before, what changed about its fields");
        line.MapPost("/look", LookAsync)
            .Needs(Act.EditSources)
            .WithSummary("Look again now: the network, the thank-you address, every service on the line");
        line.MapPut("/rest", RestAsync)
            .Needs(Act.EditSources)
            .WithSummary("Say that a form is meant to rest: it raises no alarm until it receives again");
    }

    private static async Task<Results<Ok<LineList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null,
        Guid? form = null,
        Guid? fuse = null,
        Guid? connection = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var watches = db.FormWatches.Where(w => clients.Contains(w.ClientId));
        if (form is { } formId)
            watches = watches.Where(w => w.FormId == formId);
        var lines = await db.LinesAsync(watches, stop);
        if (fuse is { } fuseId)
        {
            lines = [.. lines.Where(l => l.Fuses.Contains(fuseId))];
        }

        if (connection is { } connectionId)
        {
            var found = await db
                .Connections.AsNoTracking()
                .Where(c => c.Id == connectionId)
                .Select(c => new { c.ClientId, c.Name })
                .SingleOrDefaultAsync(stop);
            var sources = await db
                .Sources.Where(s => s.ConnectionId == connectionId)
                .Select(s => s.Id)
                .ToListAsync(stop);
            lines =
            [
                .. lines.Where(l =>
                    found?.ClientId == l.ClientId
                    && (
                        sources.Contains(l.SourceId)
                        || l.Joints.Any(j => j.Kind == JointKind.Service && j.Name == found.Name)
                    )
                ),
            ];
        }

        return TypedResults.Ok(new LineList(lines, time.Now()));
    }

    private static async Task<Results<Ok<LineDetail>, ProblemHttpResult>> OneAsync(
        Guid formId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    ) =>
        await db.Forms.AnyAsync(f => f.Id == formId, stop)
            ? TypedResults.Ok(await WholeAsync(db, formId, time.Now(), stop))
            : Problems.No("form");

    private static async Task<LineDetail> WholeAsync(AppDb db, Guid formId, Instant now, CancellationToken stop)
    {
        var line = await db.LinesAsync(db.FormWatches.Where(w => w.FormId == formId), stop);
        var watch = await db.FormWatches.AsNoTracking().SingleOrDefaultAsync(w => w.FormId == formId, stop);
        var cuts = await db
            .LineCuts.AsNoTracking()
            .Where(c => c.FormId == formId)
            .OrderByDescending(c => c.FromAt)
            .Take(MostPast)
            .Select(c => new
            {
                Cut = c,
                Came = db.Submissions.Count(s =>
                    s.FormId == formId
                    && s.Status != SubmissionStatus.Received
                    && !s.Test
                    && s.ReceivedAt >= c.FromAt
                    && s.ReceivedAt < (c.ToAt ?? now)
                ),
            })
            .ToListAsync(stop);
        var past = new List<CutPast>(cuts.Count);
        foreach (var (cut, count) in cuts.Select(c => (c.Cut, c.Came)))
        {
            var until = cut.ToAt ?? now;
            var touched =
                count == 0
                    ? []
                    : await db
                        .Leads.AsNoTracking()
                        .Where(l =>
                            db.Submissions.Any(s =>
                                s.LeadId == l.Id
                                && s.FormId == formId
                                && s.Status != SubmissionStatus.Received
                                && !s.Test
                                && s.ReceivedAt >= cut.FromAt
                                && s.ReceivedAt < until
                            )
                        )
                        .OrderBy(l => l.AskedAt)
                        .Take(MostTouched)
                        .ToListAsync(stop);
            past.Add(
                new(
                    cut.Joint,
                    cut.Cause,
                    cut.FromAt,
                    cut.ToAt,
                    count,
                    [.. touched.Select(l => new TouchedLead(l.Id, l.ShownName()))]
                )
            );
        }

        return new(line.Count > 0 ? line[0] : null, watch?.Habit, watch?.Drift ?? [], past);
    }

    private static async Task<Results<Ok<LineDetail>, ProblemHttpResult>> LookAsync(
        Guid formId,
        AppDb db,
        NetworkLook look,
        LineEvaluator run,
        ThanksAsker thanks,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        if (
            await db.Sources.SingleOrDefaultAsync(s => s.Id == form.SourceId && s.ConnectionId != null, stop) is
            { } source
        )
            await look.LookAsync(source, stop);
        if (form.ThankYouUrl is { } address)
            await thanks.AskAsync(db, form.ClientId, form.Id, address, stop);
        await run.WholeAsync(form.ClientId, stop, ask: true);
        return TypedResults.Ok(await WholeAsync(db, formId, time.Now(), stop));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RestAsync(
        Guid formId,
        RestToSet set,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.WatchOfAsync(formId, stop) is not { } watch)
            return Problems.No("form");
        if (set.Rests && watch.Line?.Cuts.Any(c => c.Joint == JointKind.Form) != true)
            return Problems.NotNow.Because("The form receives: it does not rest. Pause it first.");
        watch.RestsSince = set.Rests ? watch.RestsSince ?? time.Now() : null;
        db.NoteChange(watch.ClientId, ChangeKind.Line, formId);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }
}

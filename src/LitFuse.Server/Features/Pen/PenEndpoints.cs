using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Pen;

/// <summary>A submission in the holding pen.</summary>
/// <param name="Known">The lead that this would be attached to, by its name.</param>
public sealed record HeldRow(
    Guid Id,
    Guid ClientId,
    string Client,
    Guid FormId,
    string Form,
    string Name,
    string? Email,
    string? Phone,
    IReadOnlyList<AnswerLine> Answers,
    Instant AskedAt,
    Instant HeldAt,
    string Why,
    int Junk,
    IReadOnlyList<string> JunkBecause,
    bool Test,
    bool Refused,
    string? DecidedBy,
    Instant? DecidedAt,
    string? Known
);

/// <summary>What is in it.</summary>
public sealed record PenList(IReadOnlyList<HeldRow> Rows, int Held, int Refused);

/// <summary>Some of them.</summary>
/// <param name="Reason">Why they are refused; may be left out when approving.</param>
public sealed record PenChoice(IReadOnlyList<Guid>? Ids, string? Reason);

/// <summary>How many it was done with; others had been decided already.</summary>
public sealed record PenDone(int Done);

/// <summary>What a form holds.</summary>
public sealed record HoldToSet(HoldRule? Hold);

/// <summary>The letter of a form's double opt-in; <c>null</c> asks for no confirming.</summary>
public sealed record OptInToSet(OptInLetter? Letter);

/// <summary>The holding pen: submissions that wait for a person.</summary>
public static class PenEndpoints
{
    private const int MostOnPage = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var pen = app.MapGroup("/api/pen").WithTags("Holding pen");
        pen.MapGet("/", ListAsync)
            .Needs(Act.SeeLeads)
            .WithSummary("Submissions that wait for approval, or were refused");
        pen.MapPost("/approve", ApproveAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Let them become leads, and light what they light");
        pen.MapPost("/refuse", RefuseAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Refuse them, with a reason; they are kept, and can be approved after all");
        app.MapPut("/api/forms/{formId}/hold", HoldAsync)
            .Needs(Act.EditSources)
            .WithTags("Holding pen")
            .WithSummary("What of a form waits for approval");
        app.MapPut("/api/forms/{formId}/opt-in", OptInAsync)
            .Needs(Act.EditSources)
            .WithTags("Consent")
            .WithSummary("Double opt-in: the letter, or none");
    }

    private static string NameOf(MappedLead? mapped) =>
        Core.Identity.PersonNames.Join(
            mapped?.Values.GetValueOrDefault("first_name"),
            mapped?.Values.GetValueOrDefault("last_name")
        )
        ?? mapped?.Email
        ?? mapped?.Phone?.E164
        ?? "no name given";

    private static async Task<Results<Ok<PenList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        ClientConfigCache setups,
        SubmissionReader reader,
        CancellationToken stop,
        string? client = null,
        bool refused = false
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var all = db
            .Submissions.AsNoTracking()
            .Where(s =>
                clients.Contains(s.ClientId)
                && (s.Status == SubmissionStatus.Held || s.Status == SubmissionStatus.Refused)
            );
        var wanted = refused ? SubmissionStatus.Refused : SubmissionStatus.Held;
        var rows = await all.Where(s => s.Status == wanted).OrderBy(s => s.HeldAt).Take(MostOnPage).ToListAsync(stop);
        var around = await setups.ReadAsync(db, [.. rows.Select(r => r.ClientId).Distinct()], stop);
        var people = await db.PeopleAsync(rows.Select(r => r.DecidedBy), stop);
        var list = new List<HeldRow>(rows.Count);
        foreach (var row in rows)
        {
            var setup = around[row.ClientId];
            var form = setup.Forms[row.FormId];
            var payload = await reader.ReadAsync(setup, row);
            var mapped = setup.Maps.TryGetValue(form.Id, out var map) ? map.Compiled.Read(payload.Answers) : null;
            var known = mapped is null
                ? []
                : await db.KnownAsync([.. mapped.Keys().Select(k => (row.ClientId, k))], stop);
            var name = NameOf(mapped);
            list.Add(
                new(
                    row.Id,
                    row.ClientId,
                    setup.Client.ShortName,
                    form.Id,
                    form.Name,
                    name,
                    mapped?.Email,
                    mapped?.Phone?.E164 ?? mapped?.Values.GetValueOrDefault("phone"),
                    [
                        .. payload
                            .Answers.Where(a => a.Value.Length > 0)
                            .Select(a => new AnswerLine(form.LabelOf(a.Field), a.Value)),
                    ],
                    row.AskedAt,
                    row.HeldAt ?? row.ReceivedAt,
                    row.Reason ?? "",
                    row.Junk,
                    row.JunkBecause ?? [],
                    row.Test,
                    row.Status == SubmissionStatus.Refused,
                    PeopleNames.Of(people, row.DecidedBy),
                    row.DecidedAt,
                    known.FirstOrDefault(k => k.Contact.Test == row.Test).Lead?.ShownName()
                )
            );
        }

        return TypedResults.Ok(
            new PenList(
                list,
                await all.CountAsync(s => s.Status == SubmissionStatus.Held, stop),
                await all.CountAsync(s => s.Status == SubmissionStatus.Refused, stop)
            )
        );
    }

    private static async Task<Results<Ok<PenDone>, ProblemHttpResult>> ApproveAsync(
        PenChoice choice,
        HttpContext http,
        AppDb db,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (Fault(choice) is { } fault)
            return fault;
        var done = await DecideAsync(choice, SubmissionStatus.Received, null, http, db, time, stop);
        await db.WakeAsync("submissions", stop);
        signals.Submissions.Pulse();
        return TypedResults.Ok(new PenDone(done));
    }

    private static async Task<Results<Ok<PenDone>, ProblemHttpResult>> RefuseAsync(
        PenChoice choice,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (Fault(choice) is { } fault)
            return fault;
        var reason = (choice.Reason ?? "").Trim();
        if (reason.Length is 0 or > 200)
            return Problems.Bad("reason", "Say why, in at most 200 characters: whoever looks later wants to know.");
        return TypedResults.Ok(
            new PenDone(await DecideAsync(choice, SubmissionStatus.Refused, reason, http, db, time, stop))
        );
    }

    // Only what nobody has decided meanwhile: two people at one pen do not undo each other.
    private static async Task<int> DecideAsync(
        PenChoice choice,
        SubmissionStatus to,
        string? reason,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var (now, me) = (time.Now(), ClientAccess.UserId(http.User));
        var ids = choice.Ids!.ToList();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var held = await db
            .Submissions.FromSql(
                $"select * from submissions where id = any({ids}) and status in ('held', 'refused') for update"
            )
            .ToListAsync(stop);
        var decided = held.Where(s => s.Status == SubmissionStatus.Held || to == SubmissionStatus.Received).ToList();
        foreach (var submission in decided)
        {
            (submission.Status, submission.DecidedAt, submission.DecidedBy, submission.DueAt) = (to, now, me, now);
            if (to == SubmissionStatus.Refused)
                submission.Reason = reason;
            db.NoteChange(submission.ClientId, ChangeKind.Pen, submission.FormId);
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return decided.Count;
    }

    private static ProblemHttpResult? Fault(PenChoice choice) =>
        choice.Ids is { Count: > 0 and <= 1000 } ? null : Problems.Bad("ids", "Choose between one and a thousand.");

    private static async Task<Results<NoContent, ProblemHttpResult>> HoldAsync(
        Guid formId,
        HoldToSet set,
        AppDb db,
        CancellationToken stop
    )
    {
        if (await db.Forms.SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        if (set.Hold is null)
            return Problems.Bad("hold", "Say what waits: nothing, junk, rules or all.");
        if (set.Hold.Fault() is { } fault)
            return Problems.Bad("hold", fault);
        form.Hold = set.Hold;
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> OptInAsync(
        Guid formId,
        OptInToSet set,
        AppDb db,
        CancellationToken stop
    )
    {
        if (await db.Forms.SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        if (set.Letter is { } letter)
        {
            if (string.IsNullOrWhiteSpace(letter.Subject) || letter.Subject.Length > 150)
                return Problems.Bad("letter.subject", "Give the letter a subject of at most 150 characters.");
            if (string.IsNullOrWhiteSpace(letter.Words) || letter.Words.Length > 4000)
                return Problems.Bad("letter.words", "Write the letter, in at most 4,000 characters.");
            if (!letter.Words.Contains(StepKinds.OptInLink, StringComparison.Ordinal))
                return Problems.Bad("letter.words", "Put {link} where the confirming link goes.");
            if (letter.Hours is < 1 or > 720)
                return Problems.Bad("letter.hours", "The link is good for 1 to 720 hours.");
            if (!await db.Connections.AnyAsync(c => c.ClientId == form.ClientId && c.Kind == OptInAsker.Service, stop))
                return Problems.NotNow.Because(
                    "This client has no mail connection to send the letter through. Make one under Setup."
                );
        }

        form.OptIn = set.Letter;
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }
}

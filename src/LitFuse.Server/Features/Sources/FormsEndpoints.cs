using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.OwnForms;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Sources;

/// <summary>The forms of the clients chosen.</summary>
public sealed record FormList(IReadOnlyList<FormRow> Forms);

/// <summary>A form to be made.</summary>
/// <param name="Built">Built here, rather than one that is there already.</param>
public sealed record FormToMake(Guid SourceId, string? Name, bool Built);

/// <summary>What can be said about a form.</summary>
public sealed record FormSettings(string? Name, string? ThankYouUrl, string? PageUrl);

/// <summary>Fields picked from a sample.</summary>
public sealed record PicksToSet(IReadOnlyList<Pick>? Picks);

/// <summary>How senders prove themselves: <c>none</c>, <c>signature</c>, <c>key</c> or <c>basic</c>.</summary>
public sealed record ProofToSet(string? Kind, string? User);

/// <summary>A new secret, told once.</summary>
public sealed record MadeProof(string? Secret);

/// <summary>A test lead that was sent.</summary>
public sealed record MadeTestLead(Guid Receipt, IReadOnlyList<AnswerLine> Answers);

/// <summary>How many submissions are read again.</summary>
public sealed record ReadAgain(int Submissions);

/// <summary>Forms: chosen, paused, mapped, tried.</summary>
public static class FormsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var forms = app.MapGroup("/api/forms").WithTags("Sources");
        forms.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Forms, by name");
        forms
            .MapPost("/", MakeAsync)
            .Needs(Act.EditSources)
            .WithSummary("Make a form of a website, a form tool or a hook");
        forms.MapGet("/{formId}", GetAsync).Needs(Act.SeeSources).WithSummary("A form: its fields, its map, what came");
        forms.MapPut("/{formId}", SetAsync).Needs(Act.EditSources).WithSummary("Its name, thank-you address and page");
        forms
            .MapPost("/{formId}/choose", ChooseAsync)
            .Needs(Act.EditSources)
            .WithSummary("Choose a form that was found at a network");
        forms
            .MapPost("/{formId}/pause", (Guid formId, AppDb db, CancellationToken stop) =>
                TurnAsync(formId, FormState.Paused, db, stop)
            )
            .Needs(Act.EditSources)
            .WithSummary("Keep what it sends and do nothing with it");
        forms
            .MapPost("/{formId}/resume", (Guid formId, AppDb db, CancellationToken stop) =>
                TurnAsync(formId, FormState.Receiving, db, stop)
            )
            .Needs(Act.EditSources)
            .WithSummary("Act again, on what was kept too, in order");
        forms
            .MapPost("/{formId}/read-again", ReadAgainAsync)
            .Needs(Act.EditSources)
            .WithSummary("Read unreadable and stuck submissions again");
        forms.MapPut("/{formId}/picks", PickAsync).Needs(Act.EditSources).WithSummary("Pick fields from JSON by path");
        forms
            .MapPut("/{formId}/proof", ProveAsync)
            .Needs(Act.EditSources)
            .WithSummary("How senders prove themselves; answers the new secret once");
        forms
            .MapPost("/{formId}/test-lead", TestAsync)
            .Needs(Act.EditSources)
            .WithSummary("Send a test lead with made-up values: down the real line, or to my own addresses alone");
    }

    private static async Task<Results<Ok<FormList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(
            new FormList(
                await db.RowsAsync(
                    db.Forms.Where(f => clients.Contains(f.ClientId) && f.State != FormState.Offered),
                    time.Now(),
                    stop
                )
            )
        );
    }

    private static async Task<Results<Ok<FormDetail>, ProblemHttpResult>> GetAsync(
        Guid formId,
        FormDetailReader wholes,
        CancellationToken stop
    ) => await wholes.ReadAsync(formId, stop) is { } whole ? TypedResults.Ok(whole) : Problems.No("form");

    private static async Task<Results<Created<MadeForm>, ProblemHttpResult>> MakeAsync(
        FormToMake make,
        AppDb db,
        SourceKinds kinds,
        FormDirectory directory,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var source = await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == make.SourceId, stop);
        if (source is null)
            return Problems.Bad("sourceId", "There is no such source for you.");
        if (!kinds.Of(source.Kind).Card.MakesForms)
            return Problems.Bad("sourceId", $"Forms of {source.Name} are found there, not made here.");
        if (make.Built && source.Kind != "website")
            return Problems.Bad("built", "Forms are built for websites.");
        var name = (make.Name ?? "").Trim();
        if (name.Length is 0 or > 120)
            return Problems.Bad("name", "Give it a name of at most 120 characters.");
        var form = FormsFound.Fresh(
            source.ClientId,
            source.Id,
            name,
            make.Built ? FormDesign.Fresh.AsFields() : [],
            time.Now()
        );
        if (make.Built)
            form.Draft = FormDesign.Fresh;
        db.Forms.Add(form);
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.Created($"/api/forms/{form.Id}", new MadeForm(form.Id));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        Guid formId,
        FormSettings set,
        AppDb db,
        FormDirectory directory,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        var name = (set.Name ?? form.Name).Trim();
        if (name.Length is 0 or > 120)
            return Problems.Bad("name", "Give it a name of at most 120 characters.");
        string? Clean(string? url) => string.IsNullOrWhiteSpace(url) ? null : url.Trim();
        if (Clean(set.ThankYouUrl) is { } thanks && !DesignFaults.IsWeb(thanks))
            return Problems.Bad("thankYouUrl", "Write a whole address, beginning with https://.");
        if (Clean(set.PageUrl) is { } page && !DesignFaults.IsWeb(page))
            return Problems.Bad("pageUrl", "Write a whole address, beginning with https://.");
        if (form.ExternalId is null)
            form.Name = name;
        (form.ThankYouUrl, form.PageUrl) = (Clean(set.ThankYouUrl), Clean(set.PageUrl));
        var saved = await SavedAsync(db, form, directory, stop);
        await db.WakeAsync("thanks", stop);
        return saved;
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ChooseAsync(
        Guid formId,
        AppDb db,
        FormDirectory directory,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        if (form.State != FormState.Offered)
            return TypedResults.NoContent();
        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await FormsFound.ChosenElsewhereAsync(db, form, stop) is { } elsewhere)
            return TwiceOf(form, elsewhere);
        form.State = FormState.Receiving;
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        db.NoteChange(form.ClientId, ChangeKind.Source, form.SourceId);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        await directory.ReadAgainAsync(stop);
        // What its network told of before it was chosen is fetched now.
        await db
            .SourceNotices.Where(n =>
                n.SourceId == form.SourceId && n.ExternalForm == form.ExternalId && n.Status == NoticeStatus.NotChosen
            )
            .ExecuteUpdateAsync(
                n => n.SetProperty(x => x.Status, NoticeStatus.Due).SetProperty(x => x.DueAt, now),
                stop
            );
        await db.WakeAsync("notices", stop);
        return TypedResults.NoContent();
    }

    private static ProblemHttpResult TwiceOf(Form form, string elsewhere) =>
        Problems.StillUsed.Because(
            $"“{form.Name}” comes through “{elsewhere}” already, and each submission would come twice. Pause it there first."
        );

    private static async Task<Results<NoContent, ProblemHttpResult>> TurnAsync(
        Guid formId,
        FormState to,
        AppDb db,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        if (form.State == FormState.Offered)
            return Problems.NotNow.Because("The form is not chosen.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (to == FormState.Receiving && await FormsFound.ChosenElsewhereAsync(db, form, stop) is { } elsewhere)
            return TwiceOf(form, elsewhere);
        form.State = to;
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        if (to == FormState.Receiving)
            await db.ReleaseAsync(formId, stop, SubmissionStatus.Waiting);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<ReadAgain>, ProblemHttpResult>> ReadAgainAsync(
        Guid formId,
        AppDb db,
        CancellationToken stop
    ) =>
        await FindAsync(db, formId, stop) is null
            ? Problems.No("form")
            : TypedResults.Ok(
                new ReadAgain(await db.ReleaseAsync(formId, stop, SubmissionStatus.Unreadable, SubmissionStatus.Stuck))
            );

    private static async Task<Results<NoContent, ProblemHttpResult>> PickAsync(
        Guid formId,
        PicksToSet set,
        HttpContext http,
        AppDb db,
        SourceKinds kinds,
        FormDirectory directory,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        if ((await db.Sources.SingleAsync(s => s.Id == form.SourceId, stop)).Kind != "hook")
            return Problems.NotNow.Because("Fields are picked for hooks alone.");
        var picks = set.Picks ?? [];
        if (picks.Count > 200)
            return Problems.Bad("picks", "Pick at most 200 fields.");
        if (picks.Select(p => Picks.Fault(p.Path)).FirstOrDefault(f => f is not null) is { } fault)
            return Problems.Bad("picks", fault);
        if (picks.FirstOrDefault(p => string.IsNullOrWhiteSpace(p.Field) || p.Field.Length > 100) is { } nameless)
            return Problems.Bad("picks", $"{nameless.Path} needs a name of at most 100 characters.");
        if (picks.GroupBy(p => p.Field, StringComparer.Ordinal).FirstOrDefault(g => g.Count() > 1) is { } twice)
            return Problems.Bad("picks", $"Two fields are named “{twice.Key}”.");
        form.Picks = picks;
        form.Fields =
        [
            .. picks
                .Where(p => p.Field != "id")
                .Select(p => new FormField(
                    p.Field,
                    p.Field.Replace('_', ' '),
                    FormFieldType.Text,
                    false,
                    [],
                    FieldMap.StandardFields.Contains(p.Field) ? p.Field : null
                )),
        ];
        var version = await db.FormMaps.Where(m => m.FormId == formId).MaxAsync(m => (int?)m.Version, stop) ?? 0;
        // A person has said which value is which: that is the map, where it names an address to recognise people by.
        FormsFound.ConfirmObvious(db, form, ClientAccess.UserId(http.User), time.Now(), version + 1);
        await SavedAsync(db, form, directory, stop);
        await db.ReleaseAsync(formId, stop, SubmissionStatus.Waiting, SubmissionStatus.Unreadable);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<MadeProof>, ProblemHttpResult>> ProveAsync(
        Guid formId,
        ProofToSet set,
        AppDb db,
        SourceKinds kinds,
        Secrets secrets,
        FormDirectory directory,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        if (kinds.Of((await db.Sources.SingleAsync(s => s.Id == form.SourceId, stop)).Kind) is INetwork)
            return Problems.NotNow.Because("A network's form is fetched; nobody posts to it.");
        if (set.Kind is not ("none" or "signature" or "key" or "basic"))
            return Problems.Bad("kind", "Choose none, signature, key or basic.");
        if (
            set.Kind == "basic"
            && (
                string.IsNullOrWhiteSpace(set.User)
                || set.User.Contains(':', StringComparison.Ordinal)
                || set.User.Length > 100
            )
        )
            return Problems.Bad("user", "Give a user name without a colon (RFC 7617).");
        var secret = set.Kind switch
        {
            "none" => null,
            "signature" => Keys.Signing(),
            _ => Keys.Secret(),
        };
        form.Proof = secret is null ? null : new(set.Kind, set.Kind == "basic" ? set.User : null, secrets.Seal(secret));
        await SavedAsync(db, form, directory, stop);
        return TypedResults.Ok(new MadeProof(secret));
    }

    private static async Task<Results<Accepted<MadeTestLead>, ProblemHttpResult>> TestAsync(
        Guid formId,
        HttpContext http,
        AppDb db,
        TestSender tests,
        CancellationToken stop,
        bool onlyMe = false
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return Problems.No("form");
        var me = ClientAccess.UserId(http.User);
        var (sent, fault) = await tests.SendAsync(
            form,
            onlyMe ? me : null,
            (await db.PeopleAsync([me], stop)).Values.FirstOrDefault(),
            stop
        );
        return sent is not null ? TypedResults.Accepted((string?)null, sent) : Problems.NotNow.Because(fault);
    }

    private static Task<Form?> FindAsync(AppDb db, Guid formId, CancellationToken stop) =>
        db.Forms.SingleOrDefaultAsync(f => f.Id == formId, stop);

    private static async Task<NoContent> SavedAsync(
        AppDb db,
        Form form,
        FormDirectory directory,
        CancellationToken stop
    )
    {
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        db.NoteChange(form.ClientId, ChangeKind.Source, form.SourceId);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.NoContent();
    }
}

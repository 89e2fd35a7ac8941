using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.OwnForms;

/// <summary>A form that is being built.</summary>
/// <param name="Changed">The draft is not what is published.</param>
/// <param name="Tracked">What hidden fields can track.</param>
/// <param name="Preview">The draft as HTML.</param>
public sealed record DesignDetail(
    Guid FormId,
    string Name,
    FormDesign Draft,
    Instant? PublishedAt,
    bool Changed,
    IReadOnlyList<DesignFault> Faults,
    IReadOnlyList<string> Tracked,
    IReadOnlyList<string> Standard,
    string Preview
);

/// <summary>The draft as it is now.</summary>
public sealed record DesignToSave(FormDesign? Draft);

/// <summary>A picture that is kept.</summary>
public sealed record KeptPicture(string Address);

/// <summary>Building forms.</summary>
public static class DesignEndpoints
{
    private const int MostPicture = 512 * 1024;
    private const int MostText = 4000;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var forms = app.MapGroup("/api/forms/{formId}").WithTags("Form builder");
        forms
            .MapGet("/design", GetAsync)
            .Needs(Act.SeeSources)
            .WithSummary("The form as it is being built, and what is still missing");
        forms.MapPut("/design", SaveAsync).Needs(Act.EditSources).WithSummary("Save the draft");
        forms
            .MapPost("/publish", PublishAsync)
            .Needs(Act.EditSources)
            .WithSummary("Publish the draft; refused while something is missing");
        forms
            .MapPost("/copy", CopyAsync)
            .Needs(Act.EditSources)
            .WithSummary("Make a copy of a form that is built here");
        forms
            .MapPost("/pictures", KeepAsync)
            .Needs(Act.EditSources)
            .WithSummary("Keep a picture for the opening: PNG, JPEG, GIF or WebP, at most 512 KB, as the body");
    }

    private static async Task<Results<Ok<DesignDetail>, ProblemHttpResult>> GetAsync(
        Guid formId,
        AppDb db,
        PublicAddress address,
        CancellationToken stop
    ) => await FindAsync(db, formId, stop) is { } form ? TypedResults.Ok(Whole(form, address)) : NoForm();

    private static async Task<Results<Ok<DesignDetail>, ProblemHttpResult>> SaveAsync(
        Guid formId,
        DesignToSave save,
        AppDb db,
        PublicAddress address,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return NoForm();
        if (save.Draft is not { Fields: not null, Ending: not null, Hosts: not null, SendWords: not null } draft)
            return Problems.Bad("draft", "Send the whole draft.");
        if (TooLong(draft) is { } long1)
            return Problems.Bad("draft", long1);
        form.Draft = draft;
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(Whole(form, address));
    }

    private static async Task<Results<Ok<DesignDetail>, ProblemHttpResult>> PublishAsync(
        Guid formId,
        HttpContext http,
        AppDb db,
        FormDirectory directory,
        PublicAddress address,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return NoForm();
        var faults = DesignFaults.Of(form.Draft!);
        if (faults.Count > 0)
            return Problems.CannotPublish.Because(
                faults[0].What,
                new Dictionary<string, object?>(StringComparer.Ordinal) { ["faults"] = faults }
            );
        var now = time.Now();
        (form.Design, form.PublishedAt, form.Fields) = (form.Draft, now, form.Draft!.AsFields());
        var last = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.FormId == formId)
            .OrderByDescending(m => m.Version)
            .FirstOrDefaultAsync(stop);
        // Our own builder says what each field is; a map that a person changed since is theirs, and stays.
        if (
            last is null
            || (
                ObviousMap.Of(form.Fields) is { } map
                && last.ConfirmedBy == ClientAccess.UserId(http.User)
                && !map.Rows.SequenceEqual(last.Map.Rows)
            )
        )
            FormsFound.ConfirmObvious(db, form, ClientAccess.UserId(http.User), now, (last?.Version ?? 0) + 1);
        await ConsentTextAsync(db, form, now, stop);
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.Ok(Whole(form, address));
    }

    // The words are kept as they were from now on; a page that still carries older ones says so by their mark.
    private static async Task ConsentTextAsync(AppDb db, Form form, NodaTime.Instant now, CancellationToken stop)
    {
        var consent = form.Design!.Consent!;
        var mark = consent.Mark;
        if (await db.ConsentTexts.AnyAsync(t => t.FormId == form.Id && t.Mark == mark, stop))
            return;
        db.ConsentTexts.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = form.ClientId,
                FormId = form.Id,
                Version = await db.ConsentTexts.CountAsync(t => t.FormId == form.Id, stop) + 1,
                Mark = mark,
                Words = consent.Words,
                PrivacyUrl = consent.PrivacyUrl,
                MadeAt = now,
            }
        );
    }

    private static async Task<Results<Created<MadeForm>, ProblemHttpResult>> CopyAsync(
        Guid formId,
        AppDb db,
        FormDirectory directory,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return NoForm();
        var copy = FormsFound.Fresh(
            form.ClientId,
            form.SourceId,
            "Copy of " + form.Name,
            form.Draft!.AsFields(),
            time.Now()
        );
        (copy.Draft, copy.Hold, copy.OptIn) = (form.Draft, form.Hold, form.OptIn);
        db.Forms.Add(copy);
        db.NoteChange(copy.ClientId, ChangeKind.Form, copy.Id);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
        return TypedResults.Created($"/api/forms/{copy.Id}", new MadeForm(copy.Id));
    }

    private static async Task<Results<Ok<KeptPicture>, ProblemHttpResult>> KeepAsync(
        Guid formId,
        HttpContext http,
        AppDb db,
        PublicAddress address,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, formId, stop) is not { } form)
            return NoForm();
        var bytes = new byte[MostPicture + 1];
        var length = await http.Request.Body.ReadAtLeastAsync(bytes, bytes.Length, throwOnEndOfStream: false, stop);
        if (length > MostPicture)
            return Problems.Bad("body", "The picture is larger than 512 KB. Make it smaller, about 1200 pixels wide.");
        if (TypeOf(bytes.AsSpan(0, length)) is not { } type)
            return Problems.Bad("body", "That is no PNG, JPEG, GIF or WebP.");
        var picture = new FormPicture
        {
            Id = Guid.NewGuid(),
            ClientId = form.ClientId,
            ContentType = type,
            Bytes = bytes[..length],
        };
        db.FormPictures.Add(picture);
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(new KeptPicture($"{address.Url}/pictures/{picture.Id:N}"));
    }

    // By its first bytes: what a browser says of a file is not to be trusted, and a drawing with scripts is no picture.
    private static string? TypeOf(ReadOnlySpan<byte> bytes) =>
        bytes.StartsWith((ReadOnlySpan<byte>)[0x89, 0x50, 0x4E, 0x47]) ? "image/png"
        : bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8, 0xFF]) ? "image/jpeg"
        : bytes.StartsWith("GIF8"u8) ? "image/gif"
        : bytes.Length > 12 && bytes.StartsWith("RIFF"u8) && bytes[8..12].SequenceEqual("WEBP"u8) ? "image/webp"
        : null;

    private static string? TooLong(FormDesign draft)
    {
        if (draft.Fields.Count > 100)
            return "A form has at most 100 fields.";
        if (draft.Hosts.Count > 50)
            return "A form stands on at most 50 hosts.";
        var texts = draft
            .Fields.SelectMany(f => (string?[])[f.Name, f.Label, f.Hidden?.Fixed, .. f.Choices])
            .Concat([
                draft.Opening?.Headline,
                draft.Opening?.Words,
                draft.Opening?.Picture,
                draft.Consent?.Words,
                draft.Consent?.PrivacyUrl,
                draft.Ending.Words,
                draft.Ending.Url,
                draft.EndingIfKnown?.Words,
                draft.EndingIfKnown?.Url,
                draft.SendWords,
            ]);
        return texts.FirstOrDefault(t => t?.Length > MostText) is null
            ? null
            : $"One of its texts is longer than {MostText} characters.";
    }

    private static DesignDetail Whole(Form form, PublicAddress address) =>
        new(
            form.Id,
            form.Name,
            form.Draft!,
            form.PublishedAt,
            !System
                .Text.Json.JsonSerializer.Serialize(form.Draft, Core.CoreJson.Options)
                .Equals(
                    System.Text.Json.JsonSerializer.Serialize(form.Design, Core.CoreJson.Options),
                    StringComparison.Ordinal
                ),
            DesignFaults.Of(form.Draft!),
            [.. ObviousMap.Tracking.Where(t => t is not ("pages_seen" or "visitor_id" or "campaign" or "ad"))],
            FieldMap.StandardFields,
            FormHtml.Of(form.Draft!, new(address.Url, form.Key, Counted: true))
        );

    private static Task<Form?> FindAsync(AppDb db, Guid formId, CancellationToken stop) =>
        db.Forms.SingleOrDefaultAsync(f => f.Id == formId && f.Draft != null, stop);

    private static ProblemHttpResult NoForm() =>
        Problems.NotThere.Because("There is no such form that is built here, for you.");
}

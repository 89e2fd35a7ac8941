using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Door;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.OwnForms;

/// <summary>
/// A form on a page of ours, the look-over for who has no scripts, and the page behind an amend link.
/// </summary>
public static class HostedForm
{
    // A visitor's own post may lead on to any ending.
    private const string FormAction = "'self' https: http:";

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/f/{formKey}", ShowAsync).OpenToAnyone("visitors fill in hosted forms").ExcludeFromDescription();
        app.MapPost("/f/{formKey}/look", LookAsync)
            .OpenToAnyone("visitors without scripts look their answers over")
            .ExcludeFromDescription();
        app.MapGet("/f/{formKey}/amend/{token}", AmendAsync)
            .OpenToAnyone("the link is signed, and names one submission")
            .ExcludeFromDescription();
        app.MapPost("/f/{formKey}/seen", SeenAsync)
            .OpenToAnyone("pages say that a form was shown or begun")
            .ExcludeFromDescription();
        app.MapGet("/thanks", static (HttpContext http) =>
                VisitorPage.WriteAsync(http, 200, "Thank you.", "Your answers have arrived.", null)
            )
            .OpenToAnyone("visitors land here where a form has no page of its own")
            .ExcludeFromDescription();
        app.MapGet("/pictures/{pictureId}", PictureAsync)
            .OpenToAnyone("pages with our form show it")
            .ExcludeFromDescription();
    }

    private static async Task ShowAsync(
        string formKey,
        HttpContext http,
        FormDirectory forms,
        DoorCounts counts,
        PublicAddress address
    )
    {
        if (await forms.FindAsync(formKey, http.RequestAborted) is not { Design: { } design } form)
        {
            await NotHereAsync(http);
            return;
        }

        counts.Count(form.ClientId, form.FormId, FormCount.View);
        await WriteAsync(
            http,
            form,
            design,
            new(address.Url, form.Key, Counted: true),
            design.Opening is null ? form.Name : null
        );
    }

    private static async Task LookAsync(
        string formKey,
        HttpContext http,
        FormDirectory forms,
        IntakeRateLimiter gate,
        PublicAddress address
    )
    {
        if (await forms.FindAsync(formKey, http.RequestAborted) is not { Design: { } design } form)
        {
            await NotHereAsync(http);
            return;
        }

        if (gate.WaitFor(form.FormId, http.Connection.RemoteIpAddress?.ToString() ?? "") is { } wait)
        {
            await DoorAnswers.RefuseAsync(http, Problems.TooMany, wait);
            return;
        }

        var raw = await DoorBody.ReadAsync(http);
        var payload = raw is null ? null : await RawBody.ReadAsync(http.Request.ContentType, raw);
        if (payload is null or { Unreadable: not null })
        {
            await DoorAnswers.RefuseAsync(http, raw is null ? Problems.TooBig : Problems.BadInput);
            return;
        }

        var all = payload
            .Answers.Select(a => KeyValuePair.Create(a.Field, a.Value))
            .Concat(payload.Signs.Select(s => KeyValuePair.Create(Payload.OwnPrefix + s.Key, s.Value)));
        all = all.Append(KeyValuePair.Create("id", payload.OwnId ?? Guid.NewGuid().ToString()));
        await VisitorPage.WriteAsync(
            http,
            "Is this right?",
            FormHtml.LookOver(design, new(address.Url, form.Key), payload, all),
            FormAction
        );
    }

    private static async Task AmendAsync(
        string formKey,
        string token,
        HttpContext http,
        FormDirectory forms,
        AmendLinks amends,
        AppDb db,
        ClientScope scope,
        PublicAddress address,
        SubmissionReader reader
    )
    {
        if (
            await forms.FindAsync(formKey, http.RequestAborted) is not { Design: { AmendLink: true } design } form
            || amends.Open(form, token) is not { } receipt
        )
        {
            await VisitorPage.WriteAsync(
                http,
                404,
                "This link is no longer good.",
                "Links to change one's answers run out after 90 days. Please write to the business directly.",
                null
            );
            return;
        }

        scope.OpenTo([form.ClientId]);
        var submission = await db.Submissions.AsNoTracking().SingleAsync(s => s.Id == receipt, http.RequestAborted);
        var given = (await reader.ReadAsync(form.Kind.Card.Kind, form.Picks, submission)).Answers.ToDictionary(
            a => a.Field,
            a => a.Value,
            StringComparer.Ordinal
        );
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        await WriteAsync(
            http,
            form,
            design with
            {
                Opening = null,
            },
            new(address.Url, form.Key, given, token, Counted: true),
            "Change your answers"
        );
    }

    private static async Task<IResult> SeenAsync(
        string formKey,
        string? what,
        HttpContext http,
        FormDirectory forms,
        IntakeRateLimiter gate,
        DoorCounts counts
    )
    {
        IntakeEndpoint.AllowOrigins(http);
        if (await forms.FindAsync(formKey, http.RequestAborted) is not { Design: not null } form)
            return Results.NotFound();
        if (gate.WaitFor(form.FormId, "seen:" + http.Connection.RemoteIpAddress) is null)
            counts.Count(form.ClientId, form.FormId, what == "start" ? FormCount.Start : FormCount.View);
        return Results.NoContent();
    }

    private static async Task<IResult> PictureAsync(Guid pictureId, HttpContext http, AppDb db, ClientScope scope)
    {
        scope.OpenToAll();
        var picture = await db
            .FormPictures.AsNoTracking()
            .SingleOrDefaultAsync(p => p.Id == pictureId, http.RequestAborted);
        if (picture is null)
            return Results.NotFound();
        http.Response.Headers.CacheControl = "public, max-age=31536000, immutable";
        http.Response.Headers["Cross-Origin-Resource-Policy"] = "cross-origin";
        return Results.Bytes(picture.Bytes, picture.ContentType);
    }

    private static Task WriteAsync(
        HttpContext http,
        FormAddress form,
        FormDesign design,
        FormRendering how,
        string? heading
    )
    {
        var head = heading is null ? "" : $"<h1>{System.Net.WebUtility.HtmlEncode(heading)}</h1>\n";
        return VisitorPage.WriteAsync(
            http,
            heading ?? form.Name,
            head + FormHtml.ToPaste(design, how),
            FormAction,
            script: true
        );
    }

    private static Task NotHereAsync(HttpContext http) =>
        VisitorPage.WriteAsync(
            http,
            404,
            "This form is not here.",
            "Please write to the business directly; their page will say how.",
            null
        );
}

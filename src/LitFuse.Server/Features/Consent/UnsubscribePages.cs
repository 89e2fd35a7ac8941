using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Door;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Consent;

/// <summary>
/// Where the link in a letter leads by which a lead hears no more. Looking at it changes nothing, for scanners follow
/// links; the button does, and so does the one click of a mail program, which posts <c>List-Unsubscribe=One-Click</c>
/// (RFC 8058) without asking anything.
/// </summary>
public static class UnsubscribePages
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/unsubscribe/{token}", ShowAsync)
            .OpenToAnyone("the link's token is the proof")
            .ExcludeFromDescription();
        app.MapPost("/unsubscribe/{token}", StopAsync)
            .OpenToAnyone("the link's token is the proof")
            .ExcludeFromDescription();
    }

    private static async Task ShowAsync(
        string token,
        HttpContext http,
        UnsubscribeLinks links,
        AppDb db,
        ClientScope scope
    )
    {
        scope.OpenToAll();
        if (await FindAsync(token, links, db, http.RequestAborted) is not { } lead)
            await NotHereAsync(http);
        else if (lead.OptedOutAt is not null)
            await DoneAsync(http, await NameAsync(db, lead, http.RequestAborted));
        else
        {
            var name = System.Net.WebUtility.HtmlEncode(await NameAsync(db, lead, http.RequestAborted));
            await VisitorPage.WriteAsync(
                http,
                "No more messages",
                $"<h1>Hear no more from {name}?</h1><p>Press the button, and nothing more comes by itself: no letters and no texts. A person there can still answer what you asked.</p><form method=\"post\"><p><button type=\"submit\">No more messages</button></p></form>",
                "'self'"
            );
        }
    }

    private static async Task StopAsync(
        string token,
        HttpContext http,
        UnsubscribeLinks links,
        AppDb db,
        ClientScope scope,
        LeadEventRouter events,
        TimeProvider time
    )
    {
        var stop = http.RequestAborted;
        scope.OpenToAll();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (
            await IdAsync(token, links, db, stop) is not { } id
            || await HeldLead.OneAsync(db, id, stop) is not { } held
        )
        {
            await NotHereAsync(http);
            return;
        }

        var lead = held.Lead;

        if (lead.OptedOutAt is null)
        {
            var now = time.Now();
            // A body of any other kind is the button's, which has none.
            var oneClick =
                http.Request.HasFormContentType
                && (await http.Request.ReadFormAsync(stop))["List-Unsubscribe"] == "One-Click";
            lead.OptedOutAt = now;
            db.AddStory(
                lead,
                StoryKind.OptedOut,
                oneClick
                    ? "unsubscribed with one click in their mail program"
                    : "pressed “No more messages” after the link in a letter",
                now
            );
            await events.HappenAsync(
                held,
                [LeadEvent.Of(EventKeys.OptedOut, now, "they unsubscribed by a letter's link")],
                null,
                now,
                stop
            );
            await db.SaveAndNotifyAsync(stop);
        }

        var name = await NameAsync(db, lead, stop);
        await transaction.CommitAsync(stop);
        await DoneAsync(http, name);
    }

    // A lead that turned out to be another is that one.
    private static async Task<Guid?> IdAsync(string token, UnsubscribeLinks links, AppDb db, CancellationToken stop) =>
        links.Open(token) is { } named ? await db.KeptInsteadAsync(named, stop) : null;

    private static async Task<Lead?> FindAsync(
        string token,
        UnsubscribeLinks links,
        AppDb db,
        CancellationToken stop
    ) =>
        await IdAsync(token, links, db, stop) is { } id
            ? await db.Leads.AsNoTracking().SingleOrDefaultAsync(l => l.Id == id, stop)
            : null;

    private static Task<string> NameAsync(AppDb db, Lead lead, CancellationToken stop) =>
        db.Clients.Where(c => c.Id == lead.ClientId).Select(c => c.Name).SingleAsync(stop);

    private static Task NotHereAsync(HttpContext http) =>
        VisitorPage.WriteAsync(
            http,
            404,
            "This link leads nowhere.",
            "It may have been cut in two by a mail program. Copy the whole of it from the letter, or answer the letter and say so.",
            null
        );

    private static Task DoneAsync(HttpContext http, string client) =>
        VisitorPage.WriteAsync(
            http,
            200,
            "No more messages.",
            $"Nothing more comes by itself from {client}. If you ask them something again, they will answer.",
            null
        );
}

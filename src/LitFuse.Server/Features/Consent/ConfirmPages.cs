using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Door;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Consent;

/// <summary>
/// Where the link in a confirming letter leads. Looking at it confirms nothing: mail scanners follow links before the
/// person does. Only the button does.
/// </summary>
public static class ConfirmPages
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/confirm/{token}", ShowAsync)
            .OpenToAnyone("the link's token is the proof")
            .ExcludeFromDescription();
        app.MapPost("/confirm/{token}", ConfirmAsync)
            .OpenToAnyone("the link's token is the proof")
            .ExcludeFromDescription();
    }

    private static async Task ShowAsync(string token, HttpContext http, AppDb db, ClientScope scope, TimeProvider time)
    {
        scope.OpenToAll();
        if (await FindAsync(db, token, http.RequestAborted) is not { } asked)
            await NotHereAsync(http);
        else if (asked.ConfirmedAt is not null)
            await ThanksAsync(http);
        else if (asked.ExpiresAt <= time.Now())
            await ExpiredAsync(http);
        else
        {
            var client = await db
                .Clients.AsNoTracking()
                .Where(c => c.Id == asked.ClientId)
                .Select(c => c.Name)
                .SingleAsync(http.RequestAborted);
            var name = System.Net.WebUtility.HtmlEncode(client);
            var email = System.Net.WebUtility.HtmlEncode(asked.Email);
            await VisitorPage.WriteAsync(
                http,
                "One press",
                $"<h1>Is this your address?</h1><p>Somebody asked {name} to get in touch at <b>{email}</b>. If it was you, press the button. If it was not, close this page: nothing happens.</p><form method=\"post\"><p><button type=\"submit\">Yes, it was me</button></p></form>",
                "'self'"
            );
        }
    }

    private static async Task ConfirmAsync(
        string token,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        Signals signals,
        TimeProvider time
    )
    {
        var stop = http.RequestAborted;
        scope.OpenToAll();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var hash = OptInAsker.Hash(token);
        var asked = await db
            .OptIns.FromSql($"select * from opt_ins where token_hash = {hash} for update")
            .SingleOrDefaultAsync(stop);
        if (asked is null)
        {
            await NotHereAsync(http);
            return;
        }

        if (asked.ConfirmedAt is not null)
        {
            await ThanksAsync(http);
            return;
        }

        var now = time.Now();
        if (asked.ExpiresAt <= now)
        {
            await ExpiredAsync(http);
            return;
        }

        await ConfirmedAsync(db, asked, http.Connection.RemoteIpAddress?.ToString(), now, stop);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("submissions", stop);
        await transaction.CommitAsync(stop);
        signals.Submissions.Pulse();
        await ThanksAsync(http);
    }

    private static async Task ConfirmedAsync(AppDb db, OptIn asked, string? from, Instant now, CancellationToken stop)
    {
        asked.ConfirmedAt = now;
        var submission = await db
            .Submissions.FromSql($"select * from submissions where id = {asked.SubmissionId} for update")
            .SingleAsync(stop);
        (submission.ConfirmedAt, submission.Status, submission.Reason, submission.DueAt) = (
            now,
            SubmissionStatus.Received,
            null,
            now
        );
        var form = await db.Forms.AsNoTracking().SingleAsync(f => f.Id == asked.FormId, stop);
        var text = await TextAsync(db, form.Id, asked, now, stop);
        db.Consents.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = asked.ClientId,
                LeadId = asked.LeadId,
                SubmissionId = asked.SubmissionId,
                TextId = text.Id,
                How = ConsentHow.Confirmed,
                At = now,
                FromAddress = from,
                Source = $"{form.Name}, the link in the letter",
            }
        );
        db.AddStory(
            asked.ClientId,
            asked.LeadId,
            StoryKind.OptInConfirmed,
            $"{asked.Email} confirmed" + (from is null ? "" : $", from {from}"),
            now,
            submissionId: asked.SubmissionId
        );
    }

    private static async Task<ConsentText> TextAsync(
        AppDb db,
        Guid formId,
        OptIn asked,
        Instant now,
        CancellationToken stop
    )
    {
        const string Words = "Yes, it was me: get in touch at this address.";
        var mark = Core.Forms.FormConsent.MarkOf(Words, null);
        var text = await db.ConsentTexts.SingleOrDefaultAsync(t => t.FormId == formId && t.Mark == mark, stop);
        if (text is not null)
            return text;
        text = new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = asked.ClientId,
            FormId = formId,
            Version = await db.ConsentTexts.CountAsync(t => t.FormId == formId, stop) + 1,
            Mark = mark,
            Words = Words,
            MadeAt = now,
        };
        db.ConsentTexts.Add(text);
        return text;
    }

    private static Task<OptIn?> FindAsync(AppDb db, string token, CancellationToken stop)
    {
        var hash = OptInAsker.Hash(token);
        return db.OptIns.AsNoTracking().SingleOrDefaultAsync(o => o.TokenHash == hash, stop);
    }

    private static Task NotHereAsync(HttpContext http) =>
        VisitorPage.WriteAsync(
            http,
            404,
            "This link leads nowhere.",
            "It may have been cut in two by a mail program. Copy the whole of it from the letter.",
            null
        );

    private static Task ExpiredAsync(HttpContext http) =>
        VisitorPage.WriteAsync(
            http,
            410,
            "This link has run out.",
            "Nothing was sent on. Fill in the form once more, and a new letter comes.",
            null
        );

    private static Task ThanksAsync(HttpContext http) =>
        VisitorPage.WriteAsync(
            http,
            200,
            "Thank you.",
            "Your address is confirmed, and your question is on its way.",
            null
        );
}

/// <summary>Says of links that ran out that they did.</summary>
public sealed class OptInLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<OptInLoop> log)
    : EngineLoop(signals.OptIns, scopes, time, log)
{
    private const int MostAtOnce = 100;
    private readonly TimeProvider clock = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = clock.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var expired = await db
            .OptIns.FromSql(
                $"select * from opt_ins where confirmed_at is null and expired_at is null and expires_at <= {now} order by expires_at limit {MostAtOnce} for update skip locked"
            )
            .ToListAsync(stop);
        foreach (var one in expired)
        {
            one.ExpiredAt = now;
            db.AddStory(
                one.ClientId,
                one.LeadId,
                StoryKind.OptInExpired,
                $"{one.Email} did not confirm in time; nothing was lit, and nothing is lost",
                now,
                at: one.ExpiresAt,
                submissionId: one.SubmissionId
            );
            db.NoteChange(one.ClientId, ChangeKind.Lead, one.LeadId);
            await db
                .Submissions.Where(s => s.Id == one.SubmissionId && s.Status == SubmissionStatus.Unconfirmed)
                .ExecuteUpdateAsync(s => s.SetProperty(x => x.Reason, $"{one.Email} did not confirm in time"), stop);
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return (
            expired.Count == MostAtOnce,
            await db
                .OptIns.Where(o => o.ConfirmedAt == null && o.ExpiredAt == null)
                .MinAsync(o => (Instant?)o.ExpiresAt, stop)
        );
    }
}

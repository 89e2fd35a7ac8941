using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Door;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Visits;

/// <summary>
/// <c>POST /visit/{formKey}</c>: a browser that, with consent, kept our first-party id is back on the page.
/// </summary>
public static class VisitEndpoint
{
    // One line for a page in half an hour: a reload is no visit.
    private static readonly Duration Same = Duration.FromMinutes(30);

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/visit/{formKey}", SeeAsync)
            .OpenToAnyone("pages with our script say that a known visitor is back")
            .ExcludeFromDescription();

    private static async Task<IResult> SeeAsync(
        string formKey,
        HttpContext http,
        FormDirectory forms,
        IntakeRateLimiter gate,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        IntakeEndpoint.AllowOrigins(http);
        if (await forms.FindAsync(formKey, stop) is not { } form)
            return Results.NotFound();
        if (gate.WaitFor(form.FormId, "visit:" + http.Connection.RemoteIpAddress) is not null)
            return Results.StatusCode(429);
        if (await DoorBody.ReadAsync(http) is not { } raw)
            return Results.StatusCode(413);
        var said = (await RawBody.ReadAsync(http.Request.ContentType, raw)).Answers.ToDictionary(
            a => a.Field,
            a => a.Value,
            StringComparer.Ordinal
        );
        if (
            said.GetValueOrDefault("visitor") is not { Length: > 0 and <= 100 } id
            || said.GetValueOrDefault("path") is not { Length: > 0 and <= 500 } path
        )
            return Results.NoContent();
        scope.OpenTo([form.ClientId]);
        await NoteAsync(db, form.ClientId, id, path, time.Now(), stop);
        // The same answer whether the visitor is known or not.
        return Results.NoContent();
    }

    private static async Task NoteAsync(
        AppDb db,
        Guid clientId,
        string visitorId,
        string path,
        Instant now,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        // The lead before all else, as everywhere.
        if (
            await HeldLead.OfAsync(
                db,
                () =>
                    db
                        .Visitors.Where(v => v.ClientId == clientId && v.VisitorId == visitorId)
                        .Select(v => v.LeadId)
                        .ToListAsync(stop),
                stop
            )
            is not [var held]
        )
            return;
        var lead = held.Lead;
        var visitor = await db
            .Visitors.FromSql(
                $"select * from visitors where client_id = {clientId} and visitor_id = {visitorId} for update"
            )
            .SingleOrDefaultAsync(stop);
        if (visitor is null || (visitor.LastPath == path && now - visitor.SeenAt < Same))
            return;
        (visitor.LastPath, visitor.SeenAt) = (path, now);
        var visits = int.TryParse(lead.Fields.GetValueOrDefault("visits"), out var before) ? before + 1 : 1;
        lead.Fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal)
        {
            ["visits"] = visits.ToString(System.Globalization.CultureInfo.InvariantCulture),
            ["last_visit"] = path,
        };
        db.AddStory(lead, StoryKind.Visited, path, now);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
    }
}

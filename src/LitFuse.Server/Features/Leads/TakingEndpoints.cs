using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LitFuse.Server.Features.Leads;

/// <summary>Saying <em>mine</em>: on the Watch, on the lead's page, or through the link in a post.</summary>
public static class TakingEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var leads = app.MapGroup("/api/leads").WithTags("Leads");
        leads.MapPost("/{leadId}/take", TakeAsync).Needs(Act.TouchLeads).WithSummary("Say: mine");
        leads.MapPost("/{leadId}/release", ReleaseAsync).Needs(Act.TouchLeads).WithSummary("Give it back");
        leads
            .MapGet("/by-link/{token}", ByLinkAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("The lead that a link in a post names");
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> TakeAsync(
        Guid leadId,
        HttpContext http,
        AppDb db,
        PostsOfLead posts,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var me = ClientAccess.UserId(http.User)!.Value;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var lead })
            return Problems.No("lead");
        if (lead.TakenBy == me)
            return TypedResults.NoContent();
        if (lead.TakenBy is { } other)
        {
            var name = (await db.PeopleAsync([other], stop)).GetValueOrDefault(other);
            return Problems.AlreadyTaken.Because(
                $"{name} has {lead.ShownName()}.",
                new Dictionary<string, object?>(StringComparer.Ordinal)
                {
                    ["takenBy"] = name,
                    ["takenAt"] = lead.TakenAt,
                }
            );
        }

        var now = time.Now();
        (lead.TakenBy, lead.TakenAt) = (me, now);
        db.AddStory(lead, StoryKind.Taken, "mine", now, by: me);
        await posts.TellAsync(
            lead,
            $"{(await db.PeopleAsync([me], stop)).GetValueOrDefault(me)} has it, {PostsOfLead.After(lead, now)}",
            open: false,
            now,
            stop
        );
        return await LeadsEndpoints.CommitAsync(db, lead, transaction, stop);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ReleaseAsync(
        Guid leadId,
        HttpContext http,
        AppDb db,
        PostsOfLead posts,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var me = ClientAccess.UserId(http.User)!.Value;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var lead })
            return Problems.No("lead");
        if (lead.TakenBy != me)
            return Problems.NotNow.Because("It is not yours to give back.");
        if (lead.FirstTouchAt is not null)
            return Problems.NotNow.Because("You have reached out to them already.");
        var now = time.Now();
        (lead.TakenBy, lead.TakenAt) = (null, null);
        db.AddStory(lead, StoryKind.Released, "given back", now, by: me);
        await posts.TellAsync(
            lead,
            $"{(await db.PeopleAsync([me], stop)).GetValueOrDefault(me)} gave it back: nobody has it.",
            open: true,
            now,
            stop
        );
        return await LeadsEndpoints.CommitAsync(db, lead, transaction, stop);
    }

    private static async Task<Results<Ok<LeadRow>, ProblemHttpResult>> ByLinkAsync(
        string token,
        TakeLinks links,
        AppDb db,
        CancellationToken stop
    )
    {
        if (links.Open(token) is not { } leadId)
            return Problems.NotThere.Because(
                "This link is no longer good: links in posts run out after 7 days. Look the lead up under Leads."
            );
        var id = await db.KeptInsteadAsync(leadId, stop);
        return (await db.RowsAsync(db.Leads.Where(l => l.Id == id), stop)) is [var row]
            ? TypedResults.Ok(row)
            : Problems.No("lead");
    }
}

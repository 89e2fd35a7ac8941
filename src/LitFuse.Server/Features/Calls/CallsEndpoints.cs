using LitFuse.Connectors;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Calls;

/// <summary>Calls that go on.</summary>
public sealed record CallList(IReadOnlyList<CallShown> Calls);

/// <summary>Calls as they go: shown live, begun and hung up by hand.</summary>
public static class CallsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/calls", LiveAsync).Needs(Act.SeeWatch).WithTags("Calls").WithSummary("Calls that go on now");
        app.MapPost("/api/calls/{callId}/hang-up", HangUpAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Calls")
            .WithSummary("Hang all its phones up");
        app.MapPost("/api/leads/{leadId}/ring", RingAsync)
            .Needs(Act.TouchLeads)
            .WithTags("Calls")
            .WithSummary("Ring my phone, then theirs");
    }

    private static async Task<Results<Ok<CallList>, ProblemHttpResult>> LiveAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var live = await db
            .Calls.AsNoTracking()
            .Where(c => clients.Contains(c.ClientId) && c.WakeAt != null && c.EndedAt == null)
            .OrderBy(c => c.BeganAt)
            .ToListAsync(stop);
        return TypedResults.Ok(new CallList(live.ConvertAll(CallShown.Of)));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> HangUpAsync(
        Guid callId,
        HttpContext http,
        AppDb db,
        CallCommands commands,
        CancellationToken stop
    )
    {
        if (await db.Calls.AsNoTracking().SingleOrDefaultAsync(c => c.Id == callId, stop) is not { } call)
            return Problems.No("call");
        if (call.EndedAt is not null)
            return Problems.NotNow.Because("It is over already.");
        var me = ClientAccess.UserId(http.User)!.Value;
        var name = (await db.PeopleAsync([me], stop)).GetValueOrDefault(me);
        await commands.HearAsync(callId, new Core.Calling.CallEvent.HungUp($"{name} hung it up"), stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Accepted, ProblemHttpResult>> RingAsync(
        Guid leadId,
        HttpContext http,
        AppDb db,
        ConnectorKinds connectors,
        CallBegin begin,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Leads.AsNoTracking().SingleOrDefaultAsync(l => l.Id == leadId, stop) is not { } lead)
            return Problems.No("lead");
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == lead.ClientId, stop);
        if (client.HeldAt is not null)
            return Problems.NotNow.Because("Everything is held for this client.");
        if (ContactPolicy.ByHand(LeadFactsReader.Bare(lead, client), time.Now()) is { } not)
            return Problems.NotNow.Because($"They were not rung: {not}.");
        if (await db.Calls.AnyAsync(c => c.LeadId == leadId && c.WakeAt != null && c.EndedAt == null, stop))
            return Problems.NotNow.Because("They are being rung already.");
        var connection = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == lead.ClientId && connectors.ThatRing.Contains(c.Kind))
            .Select(c => (Guid?)c.Id)
            .FirstOrDefaultAsync(stop);
        if (connection is null)
            return Problems.NotNow.Because("This client has no connection that carries calls.");
        return
            await begin.BeginAsync(ClientAccess.UserId(http.User)!.Value, lead, connection.Value, stop) is { } because
            ? Problems.NotNow.Because(because)
            : TypedResults.Accepted((string?)null);
    }
}

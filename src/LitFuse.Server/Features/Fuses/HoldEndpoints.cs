using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>
/// Everything held for a client with one press: burns sleep, and nothing goes out. Submissions go on being kept, become
/// leads and light what they light; what that decides waits. Let go, it goes on in order, each message through the gate
/// again, so that what has grown too old is left out.
/// </summary>
public static class HoldEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/clients/{clientId}/hold",
                (
                    Guid clientId,
                    HttpContext http,
                    AppDb db,
                    ClientScope scope,
                    Signals signals,
                    TimeProvider time,
                    CancellationToken stop
                ) => TurnAsync(clientId, true, http, db, scope, signals, time, stop)
            )
            .Needs(Act.EditFuses)
            .WithTags("Fuses")
            .WithSummary("Hold everything for a client; submissions go on being kept");
        app.MapPost(
                "/api/clients/{clientId}/let-go",
                (
                    Guid clientId,
                    HttpContext http,
                    AppDb db,
                    ClientScope scope,
                    Signals signals,
                    TimeProvider time,
                    CancellationToken stop
                ) => TurnAsync(clientId, false, http, db, scope, signals, time, stop)
            )
            .Needs(Act.EditFuses)
            .WithTags("Fuses")
            .WithSummary("Let everything go on");
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> TurnAsync(
        Guid clientId,
        bool hold,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!scope.Ids.Contains(clientId))
            return Problems.No("client");
        var client = await db.Clients.SingleAsync(c => c.Id == clientId, stop);
        if (hold == client.HeldAt is not null)
            return Problems.NotNow.Because(hold ? "Everything is held already." : "Nothing is held.");
        (client.HeldAt, client.HeldBy) = hold ? ((Instant?)time.Now(), ClientAccess.UserId(http.User)) : (null, null);
        db.NoteChange(clientId, ChangeKind.Client, clientId);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("burns", stop);
        await db.WakeAsync("deliveries", stop);
        signals.Burns.Pulse();
        signals.Deliveries.Pulse();
        return TypedResults.NoContent();
    }
}

using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Delivery;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Connections;

/// <summary>How much may go through a connection.</summary>
/// <param name="AtOnce">Deliveries under way at once; <c>null</c>: as many as usual.</param>
/// <param name="PerMinute">Deliveries that may begin in a minute; <c>null</c>: any number.</param>
public sealed record ConnectionLimits(int? AtOnce, int? PerMinute);

/// <summary>Whether anything goes through a connection, and how much.</summary>
public static class ConnectionFlow
{
    private const int MostPerMinute = 60_000;

    /// <summary>Maps it.</summary>
    public static void Map(RouteGroupBuilder connections)
    {
        connections
            .MapPost("/{connectionId}/pause", PauseAsync)
            .Needs(Act.EditSources)
            .WithSummary("Send nothing through it for now; what is to be sent waits, in order");
        connections
            .MapPost("/{connectionId}/resume", ResumeAsync)
            .Needs(Act.EditSources)
            .WithSummary("Send through it again, what waits first");
        connections
            .MapPut("/{connectionId}/limits", LimitAsync)
            .Needs(Act.EditSources)
            .WithSummary("How many deliveries at once, and in a minute");
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> PauseAsync(
        Guid connectionId,
        HttpContext http,
        AppDb db,
        ConnectorKinds connectors,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop) is not { } connection)
            return Problems.No("connection");
        if (connectors.Find(connection.Kind) is null)
            return Problems.NotNow.Because($"Nothing is sent through {connection.Name}; pause its forms instead.");
        if (connection.PausedAt is null)
            (connection.PausedAt, connection.PausedBy) = (time.Now(), ClientAccess.UserId(http.User));
        db.NoteChange(connection.ClientId, ChangeKind.Connection, connection.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ResumeAsync(
        Guid connectionId,
        AppDb db,
        DeliveryClaim claim,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop) is not { } connection)
            return Problems.No("connection");
        (connection.PausedAt, connection.PausedBy) = (null, null);
        db.NoteChange(connection.ClientId, ChangeKind.Connection, connection.Id);
        await db.SaveAndNotifyAsync(stop);
        await claim.HurryAsync(connection.Id, time.Now(), stop);
        await db.WakeAsync("deliveries", stop);
        signals.Deliveries.Pulse();
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> LimitAsync(
        Guid connectionId,
        ConnectionLimits limits,
        AppDb db,
        CancellationToken stop
    )
    {
        if (await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop) is not { } connection)
            return Problems.No("connection");
        if (limits.AtOnce is < 1 or > ConnectionThrottle.Wide)
            return Problems.Bad("atOnce", $"Between 1 and {ConnectionThrottle.Wide} at once.");
        if (limits.PerMinute is < 1 or > MostPerMinute)
            return Problems.Bad("perMinute", $"Between 1 and {MostPerMinute} in a minute.");
        (connection.AtOnce, connection.PerMinute, connection.Tokens, connection.TokensAt) = (
            limits.AtOnce,
            limits.PerMinute,
            null,
            null
        );
        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }
}

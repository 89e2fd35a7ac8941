using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Connections;

/// <summary>A new signing secret.</summary>
/// <param name="OverlapHours">How long the present one signs beside it.</param>
public sealed record SecretToRotate(int OverlapHours);

/// <summary>Signing secrets that we make: told once, replaced with an overlap.</summary>
public static class ConnectionSecret
{
    private const int MostOverlapHours = 24 * 14;

    /// <summary>Maps it.</summary>
    public static void Map(RouteGroupBuilder connections) =>
        connections
            .MapPost("/{connectionId}/secret", RotateAsync)
            .Needs(Act.EditSources)
            .WithSummary("Make a new signing secret, told once; the present one signs beside it for a while");

    private static async Task<Results<Ok<ConnectionRow>, ProblemHttpResult>> RotateAsync(
        Guid connectionId,
        SecretToRotate asked,
        AppDb db,
        ConnectorKinds connectors,
        ConnectionRows rows,
        Secrets secrets,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop) is not { } connection)
            return Problems.No("connection");
        if (connectors.Find(connection.Kind) is not { Card.MakesSecret: true })
            return Problems.NotNow.Because(
                $"The key of {connection.Name} is made on the other side. Give it a new one instead."
            );
        if (asked.OverlapHours is < 0 or > MostOverlapHours)
            return Problems.Bad("overlapHours", $"Between 0 and {MostOverlapHours} hours.");
        var secret = Keys.Signing();
        (connection.OlderSecret, connection.OlderUntil) =
            asked.OverlapHours == 0
                ? (null, null)
                : (connection.Secret, (Instant?)(time.Now() + Duration.FromHours(asked.OverlapHours)));
        connection.Secret = secrets.Seal(secret);
        db.NoteChange(connection.ClientId, ChangeKind.Connection, connection.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.Ok(
            (await rows.ReadAsync(db.Connections.Where(c => c.Id == connectionId), stop))[0] with
            {
                Secret = secret,
            }
        );
    }
}

using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Calls;
using LitFuse.Server.Features.Replies;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Receiving;

/// <summary>
/// <c>POST /receive/{connectionId}</c>: outside services tell what became of what they took. Signed (Standard
/// Webhooks).
/// </summary>
public static class ReceiveNotices
{
    private const int MostBytes = 2 * 1024 * 1024;

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/receive/{connectionId}", ReceiveAsync)
            .OpenToAnyone("services call it; each notice is signed with its connection's secret")
            .WithTags("Deliveries")
            .WithSummary("A service's signed notice")
            .WithDescription(
                "Signed by the Standard Webhooks scheme: webhook-id, webhook-timestamp, webhook-signature."
            );

    private static async Task<Results<NoContent, ProblemHttpResult>> ReceiveAsync(
        Guid connectionId,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        Secrets secrets,
        BurnService burns,
        MessagesIn messages,
        ServiceNewsReceiver news,
        CallCommands calls,
        Signals signals,
        TimeProvider time
    )
    {
        if (http.Request.ContentLength > MostBytes)
            return Problems.TooBig.Because();
        scope.OpenToAll();
        var connection = await db
            .Connections.AsNoTracking()
            .SingleOrDefaultAsync(c => c.Id == connectionId, http.RequestAborted);
        if (connection?.NoticeSecret is not { } secret)
            return Problems.NotThere.Because();
        var most = connectors.Of(connection.Kind).MostNoticeBytes;
        var body = new byte[Math.Min(most, (int)(http.Request.ContentLength ?? most)) + 1];
        var length = await http.Request.Body.ReadAtLeastAsync(
            body,
            body.Length,
            throwOnEndOfStream: false,
            http.RequestAborted
        );
        if (length > most)
            return Problems.TooBig.Because();
        scope.OpenTo([connection.ClientId]);

        if (Fault(http.Request.Headers, secrets.Open(secret), body.AsSpan(0, length), time.Now()) is { } fault)
            return Problems.BadSignature.Because(fault);
        ServiceNotice? notice;
        try
        {
            notice = connectors.Of(connection.Kind).ReadNotice(body.AsSpan(0, length));
        }
        catch (System.Text.Json.JsonException e)
        {
            return Problems.Bad("body", e.Message);
        }

        var taken = notice switch
        {
            null => true,
            ServiceNotice.Happened happened => await news.ReceiveAsync(connection, happened, http.RequestAborted),
            ServiceNotice.OfCall told => await OfCallAsync(db, connection, told, calls, http.RequestAborted),
            ServiceNotice.IncomingText text => await messages.ReceiveAsync(connection, text, http.RequestAborted),
            ServiceNotice.IncomingLetter letter => await messages.ReceiveAsync(connection, letter, http.RequestAborted),
            ServiceNotice.Bounced bounced => await messages.ReceiveAsync(
                connection,
                bounced,
                burns,
                http.RequestAborted
            ),
            _ => await RecordReceiptAsync(db, connection, notice, burns, time.Now(), http.RequestAborted),
        };
        if (!taken)
            return Problems.NotThere.Because(
                $"Nothing sent through this connection has the id '{notice!.Reference}' yet."
            );
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.NoContent();
    }

    private static async Task<bool> OfCallAsync(
        AppDb db,
        Connection connection,
        ServiceNotice.OfCall told,
        CallCommands calls,
        CancellationToken stop
    )
    {
        if (
            CallCommands.OfTag(told.Tag) is not { } phone
            || !await db.Calls.AnyAsync(c => c.Id == phone.CallId && c.ConnectionId == connection.Id, stop)
        )
            return false;
        return await calls.HearAsync(phone.CallId, told.What(phone.Leg), stop, call =>
        {
            call.Recording ??= told.Recording;
            // The news of a phone can come before the answer that tells its id.
            if (
                phone.Leg < call.State.Legs.Count
                && (phone.Leg >= call.References.Count || string.IsNullOrEmpty(call.References[phone.Leg]))
            )
                call.References =
                [
                    .. Enumerable
                        .Range(0, Math.Max(call.References.Count, phone.Leg + 1))
                        .Select(i => i == phone.Leg ? told.Reference : call.References.ElementAtOrDefault(i) ?? ""),
                ];
        });
    }

    private static string? Fault(IHeaderDictionary headers, string secret, ReadOnlySpan<byte> body, Instant now) =>
        WebhookSignature.Fault(
            WebhookSignature.KeyOf(secret),
            headers["webhook-id"],
            headers["webhook-timestamp"],
            headers["webhook-signature"],
            body,
            now
        );

    // A receipt can overtake the answer that carries its reference: then it is refused, and the service tells us again.
    private static async Task<bool> RecordReceiptAsync(
        AppDb db,
        Connection connection,
        ServiceNotice notice,
        BurnService burns,
        Instant now,
        CancellationToken stop
    )
    {
        if (
            !await db.Deliveries.AnyAsync(d => d.ConnectionId == connection.Id && d.Reference == notice.Reference, stop)
        )
            return false;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        // A test that was swept away meanwhile needs no receipt any more.
        if (
            await HeldLead.OfAsync(
                db,
                () =>
                    db
                        .Deliveries.Where(d => d.ConnectionId == connection.Id && d.Reference == notice.Reference)
                        .Select(d => d.LeadId)
                        .Take(1)
                        .ToListAsync(stop),
                stop
            )
            is not [var lead]
        )
            return true;
        var delivery = (
            await db
                .Deliveries.FromSql(
                    $"select * from deliveries where connection_id = {connection.Id} and reference = {notice.Reference} for update"
                )
                .ToListAsync(stop)
        )[0];
        if (delivery.ReceiptAt is not null)
            return true;
        var at = notice.At == Instant.MinValue || notice.At > now ? now : notice.At;
        delivery.ReceiptAt = at;
        var (kind, words, arrived) = notice switch
        {
            ServiceNotice.Receipt receipt => (
                receipt.Arrived ? StoryKind.TextDelivered : StoryKind.StepFailed,
                receipt.Reason,
                receipt.Arrived
            ),
            ServiceNotice.Call call => (StoryKind.Rang, call.Reason, call.Answered),
            _ => throw new InvalidOperationException($"A notice that nobody takes: {notice}"),
        };
        delivery.Reason = $"{connection.Name}: {words}";
        db.AddStory(delivery, kind, words, now, at: at);
        if (!arrived && delivery is { BurnId: { } burnId, StepId: { } stepId })
            await burns.BringAsync(
                burnId,
                lead,
                new BurnEvent.Happened(FailedOf(delivery, stepId, at, words)),
                now,
                stop
            );
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static LeadEvent FailedOf(OutboxDelivery delivery, string stepId, Instant at, string words) =>
        LeadEvent.Of(EventKeys.DeliveryFailed, at, $"“{delivery.Step}” did not arrive: {words}", ("step", stepId)) with
        {
            Key = $"failed.{delivery.Id:N}",
        };
}

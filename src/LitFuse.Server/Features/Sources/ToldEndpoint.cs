using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>
/// <c>POST /told/{sourceKey}</c>: a network says that there is a submission. Checked, put on disk, answered; fetched
/// after that.
/// </summary>
public static class ToldEndpoint
{
    private const int MostBytes = 16 * 1024;

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/told/{sourceKey}", ReceiveAsync)
            .OpenToAnyone("networks call it; each notice is signed with its source's secret")
            .WithTags("Intake")
            .WithSummary("A network's signed notice of a submission")
            .WithDescription(
                "Signed by the Standard Webhooks scheme. Answers 202 once the notice is on disk; the answers are fetched after that."
            );

    private static SourceNotice NoticeOf(SourceAddress source, string formId, string id, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = source.ClientId,
            SourceId = source.SourceId,
            ExternalForm = formId,
            ExternalId = id,
            ToldAt = now,
            DueAt = now,
        };

    private static async Task<Results<Accepted, ProblemHttpResult>> ReceiveAsync(
        string sourceKey,
        HttpContext http,
        FormDirectory directory,
        DoorCounts counts,
        IntakeRateLimiter gate,
        AppDb db,
        ClientScope scope,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            await directory.SourceAsync(sourceKey, stop)
            is not { Secret: { } secret, Kind: INotifyingNetwork network } source
        )
            return Problems.NotThere.Because();
        var from = http.Connection.RemoteIpAddress?.ToString() ?? "";
        if (gate.WaitFor(source.SourceId, from) is { } wait)
        {
            http.Response.Headers.RetryAfter = wait.ToString(System.Globalization.CultureInfo.InvariantCulture);
            return Problems.TooMany.Because();
        }

        var body = new byte[MostBytes + 1];
        var length = await http.Request.Body.ReadAtLeastAsync(body, body.Length, throwOnEndOfStream: false, stop);
        if (length > MostBytes)
            return Problems.TooBig.Because("A notice has at most 16 KB.");
        ProblemHttpResult Refuse(ProblemKind kind, string why)
        {
            counts.Refused(source.ClientId, source.SourceId, null, kind, why, from);
            return kind.Because(why);
        }

        var headers = http.Request.Headers;
        var now = time.Now();
        if (
            WebhookSignature.Fault(
                WebhookSignature.KeyOf(secret),
                headers["webhook-id"],
                headers["webhook-timestamp"],
                headers["webhook-signature"],
                body.AsSpan(0, length),
                now
            ) is
            { } fault
        )
            return Refuse(Problems.BadSignature, fault);
        (string FormId, string Id)? notice = null;
        try
        {
            notice = network.ReadNotice(body.AsMemory(0, length));
        }
        catch (JsonException e)
        {
            return Refuse(Problems.BadInput, $"The notice is not readable: {e.Message}");
        }

        if (notice is not var (formId, id))
            return Refuse(Problems.BadInput, "The notice names no form or no submission.");
        if (formId.Contains('\0', StringComparison.Ordinal) || id.Contains('\0', StringComparison.Ordinal))
            return Refuse(Problems.BadInput, "The notice names a form or a submission that cannot be.");
        scope.OpenTo([source.ClientId]);
        db.SourceNotices.Add(NoticeOf(source, formId, id, now));
        await db.SaveChangesAsync(stop);
        await db.WakeAsync("notices", stop);
        signals.Notices.Pulse();
        return TypedResults.Accepted((string?)null);
    }
}

using System.Text.Json;
using LitFuse.Core.Delivering;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Delivery.Connectors.Copperline;

/// <summary>A phone carrier: texts, with receipts that come back as signed notices.</summary>
public sealed class CopperlineConnector(ConnectorHttp http) : IConnector
{
    private static readonly Dictionary<string, IReadOnlyList<ConnectionTarget>> Nothing = [];

    /// <inheritdoc />
    public string Kind => "copperline";

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        if (outgoing.To is null) return Task.FromResult(new AttemptResult(AttemptEnd.Final, "there is no telephone number to send to"));
        var text = new CopperlineText(access.Sender ?? "", outgoing.To, outgoing.Settings.GetValueOrDefault("words") ?? "", access.NoticesUrl);
        return http.PostAsync(access, "api/copperline/messages", outgoing.Key, text, answer => answer.TryGetProperty("id", out var id) ? id.ToString() : null, stop);
    }

    /// <inheritdoc />
    public Task<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>> TargetsAsync(ConnectionAccess access, CancellationToken stop) =>
        Task.FromResult<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>>(Nothing);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body)
    {
        var notice = JsonSerializer.Deserialize<CopperlineNotice>(body, JsonSerializerOptions.Web);
        if (notice?.Id is not { Length: > 0 } id) return null;
        var at = OffsetDateTimePattern.Rfc3339.Parse(notice.At ?? "");
        return notice.Type switch
        {
            "text.delivered" => new(id, Delivered: true, at.Success ? at.Value.ToInstant() : Instant.MinValue, "reached the phone"),
            "text.undelivered" => new(id, Delivered: false, at.Success ? at.Value.ToInstant() : Instant.MinValue, notice.Reason ?? "the carrier could not deliver it"),
            _ => null,
        };
    }

    private sealed record CopperlineText(string From, string To, string Text, string NoticesTo);

    private sealed record CopperlineNotice(string? Type, string? Id, string? At, string? Reason);
}

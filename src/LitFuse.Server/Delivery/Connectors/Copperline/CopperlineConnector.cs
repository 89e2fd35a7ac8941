using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Delivery.Connectors.Copperline;

/// <summary>A phone carrier: texts, with receipts that come back as signed notices.</summary>
public sealed class CopperlineConnector(ConnectorHttp http) : IConnector
{
    /// <inheritdoc />
    public ConnectorCard Card { get; } = new(
        "copperline", "Copperline", "a telephone carrier: texts and calls",
        [new(ConnectorCard.Address, "Address"), new("token", "Token", Secret: true, Hint: "Copperline, your account, “Keys for programs”."), new("sender", "Number that texts come from", Hint: "As in +447700900512.")], [],
        ["Sign in to Copperline.", "Make a key for a program that may send texts, ring, and tell us what became of them.", "Copy the address, the key and the number to send from."]);

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        if ((outgoing.Settings.GetValueOrDefault("to") ?? outgoing.To) is not { Length: > 0 } to) return Task.FromResult(new AttemptResult(AttemptEnd.Final, "there is no telephone number to send to"));
        var words = outgoing.Settings.GetValueOrDefault("words") ?? "";
        return outgoing.Kind == StepKinds.Ring
            ? http.PostAsync(access, "api/copperline/calls", outgoing.Key, new CopperlineCall(access.Sender ?? "", to, words, access.NoticesUrl), stop, "id")
            : http.PostAsync(access, "api/copperline/messages", outgoing.Key, new CopperlineText(access.Sender ?? "", to, words, access.NoticesUrl), stop, "id");
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        var account = await http.GetAsync<CopperlineAccount>(access, "api/copperline/account", stop);
        return AccessTold.Works with { Account = account.Name };
    }

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body)
    {
        var notice = JsonSerializer.Deserialize<CopperlineNotice>(body, JsonSerializerOptions.Web);
        if (notice?.Id is not { Length: > 0 } id) return null;
        var read = OffsetDateTimePattern.Rfc3339.Parse(notice.At ?? "");
        var at = read.Success ? read.Value.ToInstant() : Instant.MinValue;
        return notice.Type switch
        {
            "text.delivered" => new ServiceNotice.Receipt(id, Arrived: true, at, "reached the phone"),
            "text.undelivered" => new ServiceNotice.Receipt(id, Arrived: false, at, notice.Reason ?? "the carrier could not deliver it"),
            "text.received" when notice is { From: { } from, To: { } to, Text: { } text } => new ServiceNotice.IncomingText(id, from, to, text, at),
            "call.answered" => new ServiceNotice.Call(id, Answered: true, at, "they answered"),
            "call.unanswered" => new ServiceNotice.Call(id, Answered: false, at, notice.Reason ?? "nobody answered"),
            _ => null,
        };
    }

    private sealed record CopperlineText(string From, string To, string Text, string NoticesTo);

    private sealed record CopperlineAccount(string Name);

    private sealed record CopperlineCall(string From, string To, string Say, string NoticesTo);

    private sealed record CopperlineNotice(string? Type, string? Id, string? At, string? Reason, string? From, string? To, string? Text);
}

using System.Text.Json;
using LitFuse.Core.Calling;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Connectors.Copperline;

/// <summary>A phone carrier: texts with receipts, and calls whose every turn comes back as a signed notice.</summary>
public sealed class CopperlineConnector(ConnectorHttp http) : IConnector, ICallCarrier
{
    /// <inheritdoc />
    public int Place => 20;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "copperline",
            "Copperline",
            "a telephone carrier: texts and calls",
            [
                new(ConnectorCard.Address, "Address"),
                new("token", "Token", Secret: true, Hint: "Copperline, your account, “Keys for programs”."),
                new("sender", "Number that texts come from", Hint: "As in +447700900512."),
            ],
            [],
            [
                "Sign in to Copperline.",
                "Make a key for a program that may send texts, ring, and tell us what became of them.",
                "Copy the address, the key and the number to send from.",
            ]
        );

    /// <inheritdoc />
    public bool CarriesTexts => true;

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        if ((outgoing.Settings.GetValueOrDefault("to") ?? outgoing.To) is not { Length: > 0 } to)
            return Task.FromResult(new AttemptResult(AttemptEnd.Final, "there is no telephone number to send to"));
        var words = outgoing.Settings.GetValueOrDefault("words") ?? "";
        return outgoing.Kind == StepKinds.Ring
            ? http.PostAsync(
                access,
                "api/copperline/calls",
                outgoing.Key,
                new CopperlineCall(access.Sender ?? "", to, words, access.NoticesUrl),
                stop,
                "id"
            )
            : http.PostAsync(
                access,
                "api/copperline/messages",
                outgoing.Key,
                new CopperlineText(access.Sender ?? "", to, words, access.NoticesUrl),
                stop,
                "id"
            );
    }

    /// <inheritdoc />
    public Task<AttemptResult> RingAsync(ConnectionAccess access, PhoneToRing phone, CancellationToken stop) =>
        http.PostAsync(
            access,
            "api/copperline/calls",
            phone.Tag,
            new CopperlinePhone(
                phone.From ?? access.Sender ?? "",
                phone.To,
                phone.Say,
                phone.TakesKeys,
                phone.RingSeconds,
                phone.Tag,
                access.NoticesUrl
            ),
            stop,
            "id"
        );

    /// <inheritdoc />
    public async Task<AttemptResult> JoinAsync(
        ConnectionAccess access,
        string one,
        string other,
        string? recording,
        CancellationToken stop
    ) =>
        (
            await http.CallAsync(
                access,
                HttpMethod.Post,
                $"api/copperline/calls/{one}/join",
                null,
                new { with = other, recording },
                stop
            )
        ).AsResult();

    /// <inheritdoc />
    public async Task<AttemptResult> HangUpAsync(
        ConnectionAccess access,
        string phone,
        string? say,
        CancellationToken stop
    ) =>
        (
            await http.CallAsync(
                access,
                HttpMethod.Post,
                $"api/copperline/calls/{phone}/hang-up",
                null,
                new { say },
                stop
            )
        ).AsResult();

    /// <inheritdoc />
    public async Task<bool?> IsOverAsync(ConnectionAccess access, string phone, CancellationToken stop)
    {
        var answer = await http.CallAsync(access, HttpMethod.Get, $"api/copperline/calls/{phone}", stop);
        return answer.Ok ? answer.Pick("status").GetValueOrDefault("status") == "over"
            : answer.Status == 404 ? true
            : null;
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
        if (notice?.Id is not { Length: > 0 } id)
            return null;
        var read = OffsetDateTimePattern.Rfc3339.Parse(notice.At ?? "");
        var at = read.Success ? read.Value.ToInstant() : Instant.MinValue;
        if (notice.Tag is { Length: > 0 } tag)
            return WhatOf(notice) is { } what ? new ServiceNotice.OfCall(id, tag, what, at, notice.Recording) : null;
        return notice.Type switch
        {
            "text.delivered" => new ServiceNotice.Receipt(id, Arrived: true, at, "reached the phone"),
            "text.undelivered" => new ServiceNotice.Receipt(
                id,
                Arrived: false,
                at,
                notice.Reason ?? "the carrier could not deliver it"
            ),
            "text.received" when notice is { From: { } from, To: { } to, Text: { } text } =>
                new ServiceNotice.IncomingText(id, from, to, text, at),
            "call.answered" => new ServiceNotice.Call(id, Answered: true, at, "they answered"),
            "call.unanswered" => new ServiceNotice.Call(id, Answered: false, at, notice.Reason ?? "nobody answered"),
            _ => null,
        };
    }

    private static Func<int, CallEvent>? WhatOf(CopperlineNotice notice) =>
        notice.Type switch
        {
            "call.answered" => leg => new CallEvent.Answered(leg),
            "call.machine" => leg => new CallEvent.Guessed(leg),
            "call.key" when notice.Key is { Length: > 0 } key => leg => new CallEvent.KeyPressed(leg, key),
            "call.joined" => leg => new CallEvent.Joined(leg),
            "call.over" => leg => new CallEvent.LegEnded(
                leg,
                notice.Reason switch
                {
                    "unanswered" => LegEnding.Unanswered,
                    "busy" => LegEnding.Busy,
                    "declined" => LegEnding.Declined,
                    "failed" => LegEnding.Failed,
                    _ => LegEnding.HungUp,
                }
            ),
            _ => null,
        };

    private sealed record CopperlinePhone(
        string From,
        string To,
        string Say,
        bool Keys,
        int RingSeconds,
        string Tag,
        string NoticesTo
    );

    private sealed record CopperlineText(string From, string To, string Text, string NoticesTo);

    private sealed record CopperlineAccount(string Name);

    private sealed record CopperlineCall(string From, string To, string Say, string NoticesTo);

    private sealed record CopperlineNotice(
        string? Type,
        string? Id,
        string? At,
        string? Reason,
        string? From,
        string? To,
        string? Text,
        string? Tag,
        string? Key,
        string? Recording
    );
}

using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using LitFuse.Core.Delivering;
using LitFuse.Platform;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace LitFuse.Connectors.Pillarpost;

/// <summary>
/// Mail over SMTP (RFC 5321), to any server that takes it. The message's id is made of the delivery's key, so that a
/// server that has it knows it again.
/// </summary>
public sealed partial class PillarpostConnector(OutboundRules rules, LetterMaking letters, PublicAddress address)
    : IConnector
{
    /// <inheritdoc />
    public int Place => 30;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new("pillarpost", "Mail", "letters, through any mail server (SMTP)", [], [], []);

    /// <inheritdoc />
    public int MostNoticeBytes => 2 * 1024 * 1024;

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var (message, fault) = letters.Make(access, outgoing);
        if (message is null)
            return new(AttemptEnd.Final, fault!);
        using (message)
            return await SendAsync(access, message, outgoing.Settings.GetValueOrDefault("words"), stop);
    }

    /// <inheritdoc />
    public string? FilesGoTo => "Email address";

    /// <inheritdoc />
    public string? FaultOfFilesTo(string to) =>
        Core.Identity.EmailReader.Read(to).Email is null ? "Write one email address." : null;

    /// <inheritdoc />
    public async Task<AttemptResult?> SendFileAsync(ConnectionAccess access, FileToSend file, CancellationToken stop)
    {
        if (!MailboxAddress.TryParse(access.Sender, out var from))
            return new(AttemptEnd.Final, "the connection has no sender's address");
        using var message = new MimeMessage();
        message.From.Add(from);
        message.To.Add(MailboxAddress.Parse(file.To));
        message.Subject = file.Title;
        message.MessageId = $"{file.Key}@{new Uri(address.Url).Host}";
        var whole = new BodyBuilder { TextBody = file.Words };
        whole.Attachments.Add(file.Name, file.Bytes, ContentType.Parse(file.Type));
        message.Body = whole.ToMessageBody();
        return await SendAsync(access, message, file.Words, stop);
    }

    private async Task<AttemptResult> SendAsync(
        ConnectionAccess access,
        MimeMessage message,
        string? words,
        CancellationToken stop
    )
    {
        // What it says is noted as it was handed over: a link that confirms an address is nobody else's to read.
        var began = access.Tape?.Begin() ?? 0;
        void Note(int status, string? answer) =>
            access.Tape?.Note(
                $"SMTP {access.BaseUrl.Host}:{access.BaseUrl.Port}",
                new Dictionary<string, string>
                {
                    ["From"] = message.From.ToString(),
                    ["To"] = message.To.ToString(),
                    ["Subject"] = message.Subject ?? "",
                    ["Message-Id"] = message.MessageId ?? "",
                },
                words,
                status,
                answer,
                began
            );
        try
        {
            using var client = await OpenAsync(access, stop);
            var answer = await client.SendAsync(message, stop);
            Note(250, answer);
            await client.DisconnectAsync(true, stop);
            return new(AttemptEnd.Accepted, "taken", null, message.MessageId);
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            throw;
        }
        catch (Exception e) when (Read(e) is { } trouble)
        {
            Note(
                e is SmtpCommandException { StatusCode: var code } ? (int)code : 0,
                e is SmtpCommandException ? e.Message : null
            );
            return trouble;
        }
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        try
        {
            using var client = await OpenAsync(access, stop);
            await client.DisconnectAsync(true, stop);
            return AccessTold.Works;
        }
        catch (Exception e) when (Read(e) is { } trouble)
        {
            return AccessTold.Broken(trouble.Reason);
        }
    }

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => LetterReading.Read(body);

    // The address is checked after its name is resolved, as for every other outbound call.
    private async Task<SmtpClient> OpenAsync(ConnectionAccess access, CancellationToken stop)
    {
        var addresses = await Dns.GetHostAddressesAsync(access.BaseUrl.Host, stop);
        foreach (var one in addresses)
            if (Outbound.Fault(one, rules) is { } fault)
                throw new OutboundRefusedException(fault);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        var client = new SmtpClient { Timeout = 10_000 };
        try
        {
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
            patience.CancelAfter(TimeSpan.FromSeconds(10));
            await socket.ConnectAsync(addresses, access.BaseUrl.Port, patience.Token);
            // smtps is TLS from the start; smtp takes STARTTLS where the server offers it (RFC 3207).
            await client.ConnectAsync(
                socket,
                access.BaseUrl.Host,
                access.BaseUrl.Port,
                access.BaseUrl.Scheme == "smtps"
                    ? SecureSocketOptions.SslOnConnect
                    : SecureSocketOptions.StartTlsWhenAvailable,
                patience.Token
            );
            if (
                Uri.UnescapeDataString(access.BaseUrl.UserInfo) is { Length: > 0 } user
                && client.Capabilities.HasFlag(SmtpCapabilities.Authentication)
            )
                await client.AuthenticateAsync(user, access.Token, patience.Token);
            return client;
        }
        catch
        {
            client.Dispose();
            socket.Dispose();
            throw;
        }
    }

    // The mailbox or its domain is not there: 5.1.1 and its like (RFC 3463 § 3.2), or where the server writes no such
    // code, 550, 551 or 553 for the recipient (RFC 5321 § 4.2.3). 5.7.z is a policy, and says nothing of the address.
    private static bool IsNoAddress(SmtpCommandException refused) =>
        refused.ErrorCode == SmtpErrorCode.RecipientNotAccepted
        && (int)refused.StatusCode is (550 or 551 or 553)
        && (
            Enhanced().Match(refused.Message) is not { Success: true } said
            || said.Groups["code"].ValueSpan.StartsWith("5.1.", StringComparison.Ordinal)
        );

    [GeneratedRegex(@"\b(?<code>5\.\d{1,3}\.\d{1,3})\b", RegexOptions.None, 200)]
    private static partial Regex Enhanced();

    // RFC 5321 §4.2.1: 4yz may be tried again, 5yz may not.
    private static AttemptResult? Read(Exception e) =>
        e switch
        {
            OutboundRefusedException refused => new(
                AttemptEnd.Final,
                "the connection's address may not be called: " + refused.Message
            ),
            SmtpCommandException { StatusCode: var code } command => new(
                (int)code is >= 400 and < 500 ? AttemptEnd.Temporary : AttemptEnd.Final,
                $"answered {(int)code} {command.Message}"
            )
            {
                NoSuchAddress = IsNoAddress(command),
            },
            AuthenticationException => new(AttemptEnd.Final, "does not take the user and password"),
            SmtpProtocolException or ServiceNotConnectedException or ServiceNotAuthenticatedException => new(
                AttemptEnd.Temporary,
                "broke off: " + e.Message
            ),
            SslHandshakeException => new(AttemptEnd.Final, "has no certificate that can be trusted"),
            SocketException or IOException or TimeoutException => new(
                AttemptEnd.Temporary,
                "could not be reached: " + e.GetBaseException().Message
            ),
            OperationCanceledException => new(AttemptEnd.Temporary, "gave no answer in ten seconds"),
            _ => null,
        };
}

using System.Net;
using System.Net.Sockets;
using System.Text;
using LitFuse.Backlot.Faults;
using MimeKit;

namespace LitFuse.Backlot.Pillarpost;

/// <summary>
/// A small SMTP server (RFC 5321) with AUTH PLAIN and LOGIN (RFC 4954): enough for any mail program to hand in letters.
/// </summary>
public sealed class SmtpDoor(
    MailDoor door,
    Inboxes inboxes,
    Incoming incoming,
    FaultBoard faults,
    Grounds grounds,
    ILogger<SmtpDoor> log
) : BackgroundService
{
    private const int MostMessage = 2 * 1024 * 1024;

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var listener = new TcpListener(IPAddress.Loopback, door.Port);
        try
        {
            listener.Start();
        }
        catch (SocketException e)
        {
            log.LogWarning(
                "Pillarpost's mail door cannot open on port {Port} ({Reason}); everything else works. Choose another with --smtp-port.",
                door.Port,
                e.Message
            );
            return;
        }

        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                var client = await listener.AcceptTcpClientAsync(stoppingToken);
                _ = ServeAsync(client, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    private async Task ServeAsync(TcpClient client, CancellationToken stop)
    {
        using (client)
        {
            try
            {
                await using var stream = client.GetStream();
                if (faults.Of("pillarpost").Down)
                    return;
                await new Session(stream, inboxes, incoming, faults, grounds.TokenOf("pillarpost"), stop).RunAsync();
            }
            catch (Exception e) when (e is IOException or SocketException or OperationCanceledException)
            {
                // The caller went away.
            }
        }
    }

    private sealed class Session(
        Stream stream,
        Inboxes inboxes,
        Incoming incoming,
        FaultBoard faults,
        string password,
        CancellationToken stop
    )
    {
        private readonly StreamReader reader = new(stream, Encoding.Latin1);
        private readonly List<string> to = [];
        private bool known;
        private bool hasFrom;

        public async Task RunAsync()
        {
            await SayAsync("220 pillarpost.example ready");
            while (await reader.ReadLineAsync(stop) is { } line)
            {
                var verb = line.Split(' ')[0].ToUpperInvariant();
                if (verb == "QUIT")
                {
                    await SayAsync("221 good-bye");
                    return;
                }

                await AnswerAsync(verb, line);
            }
        }

        private Task AnswerAsync(string verb, string line) =>
            verb switch
            {
                "EHLO" => SayAsync(
                    "250-pillarpost.example\r\n250-AUTH PLAIN LOGIN\r\n250-8BITMIME\r\n250 SIZE 2097152"
                ),
                "HELO" => SayAsync("250 pillarpost.example"),
                "AUTH" => AuthenticateAsync(line),
                "MAIL" => FromAsync(),
                "RCPT" => ToAsync(line),
                "DATA" => DataAsync(),
                "RSET" => ForgetAsync("250 forgotten"),
                "NOOP" => SayAsync("250 yes"),
                _ => SayAsync("500 that is not known here"),
            };

        private async Task AuthenticateAsync(string line)
        {
            var parts = line.Split(' ');
            string typed;
            if (parts.Length > 1 && parts[1].Equals("PLAIN", StringComparison.OrdinalIgnoreCase))
            {
                if (parts.Length < 3)
                    await SayAsync("334 ");
                var given = parts.Length > 2 ? parts[2] : await reader.ReadLineAsync(stop) ?? "";
                typed = Decode(given).Split('\0') is [_, _, var p] ? p : "";
            }
            else
            {
                if (parts.Length < 3)
                {
                    await SayAsync("334 VXNlcm5hbWU6");
                    await reader.ReadLineAsync(stop);
                }

                await SayAsync("334 UGFzc3dvcmQ6");
                typed = Decode(await reader.ReadLineAsync(stop) ?? "");
            }

            known = typed == password;
            await SayAsync(known ? "235 welcome" : "535 the user and the password do not fit");
        }

        private Task FromAsync()
        {
            if (!known)
                return SayAsync("530 sign in first");
            hasFrom = true;
            return SayAsync("250 from whom is noted");
        }

        private Task ToAsync(string line)
        {
            if (!hasFrom)
                return SayAsync("503 from whom?");
            var (open, close) = (
                line.IndexOf('<', StringComparison.Ordinal),
                line.IndexOf('>', StringComparison.Ordinal)
            );
            if (open < 0 || close < open + 2)
                return SayAsync("501 that is no address");
            var address = line[(open + 1)..close];
            // An address that is not there, for trying what happens then.
            if (address.StartsWith("nobody@", StringComparison.OrdinalIgnoreCase))
                return SayAsync("550 there is no such mailbox here");
            to.Add(address);
            return SayAsync("250 to whom is noted");
        }

        private async Task DataAsync()
        {
            if (to.Count == 0)
            {
                await SayAsync("503 to whom?");
                return;
            }

            await SayAsync("354 go on, and end with a point on a line of its own");
            var text = new StringBuilder();
            while (await reader.ReadLineAsync(stop) is { } line && line != ".")
            {
                if (text.Length < MostMessage)
                    text.Append(line.StartsWith("..", StringComparison.Ordinal) ? line[1..] : line).Append("\r\n");
            }

            var fault = faults.Of("pillarpost");
            if (fault.Slow)
                await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), stop);
            if (text.Length >= MostMessage)
                await ForgetAsync("552 larger than two megabytes");
            else if (fault.Error)
                await ForgetAsync("451 not now, try again later");
            else
            {
                using var message = await MimeMessage.LoadAsync(
                    new MemoryStream(Encoding.Latin1.GetBytes(text.ToString())),
                    stop
                );
                var put = inboxes.Add(message, [.. to], fault.IgnoreKeys);
                if (fault.Repeat)
                    inboxes.Add(message, [.. to], fault.IgnoreKeys);
                // Taken here and refused further on: the sender hears of it later, by letter.
                foreach (var moved in to.Where(a => a.StartsWith("moved", StringComparison.OrdinalIgnoreCase)))
                    incoming.Bounce(message, moved, "5.1.6", "550 the mailbox has moved, and nobody knows where");
                await ForgetAsync($"250 taken{(put.Count > 0 ? " as letter " + put[0].Id : ", it was there already")}");
            }
        }

        private Task ForgetAsync(string said)
        {
            to.Clear();
            hasFrom = false;
            return SayAsync(said);
        }

        private async Task SayAsync(string line) =>
            await stream.WriteAsync(Encoding.ASCII.GetBytes(line + "\r\n"), stop);

        private static string Decode(string base64)
        {
            try
            {
                return Encoding.UTF8.GetString(Convert.FromBase64String(base64));
            }
            catch (FormatException)
            {
                return "";
            }
        }
    }
}

using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using MailKit.Net.Smtp;
using MimeKit;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>Pillarpost's mail door, talked to as any mail program would.</summary>
public sealed class PillarpostTests(World world) : IClassFixture<World>
{
    private sealed class Wire(TcpClient client) : IDisposable
    {
        private readonly StreamReader reader = new(client.GetStream(), Encoding.ASCII);

        public async Task<string> SayAsync(string? line)
        {
            if (line is not null)
                await client.GetStream().WriteAsync(Encoding.ASCII.GetBytes(line + "\r\n"));
            var said = await reader.ReadLineAsync() ?? "";
            while (said.Length > 3 && said[3] == '-')
                said = await reader.ReadLineAsync() ?? "";
            return said[..Math.Min(3, said.Length)];
        }

        public void Dispose() => client.Dispose();
    }

    private async Task<Wire> OpenAsync()
    {
        var client = new TcpClient();
        await client.ConnectAsync("127.0.0.1", world.MailPort);
        var wire = new Wire(client);
        Assert.Equal("220", await wire.SayAsync(null));
        Assert.Equal("250", await wire.SayAsync("EHLO me.example"));
        return wire;
    }

    private static string Base64(string text) => Convert.ToBase64String(Encoding.UTF8.GetBytes(text));

    private async Task<List<JsonElement>> LettersAsync(string to) =>
        (await world.Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/pillarpost/letters?to={to}"))!;

    [Fact]
    public async Task Nobody_hands_in_a_letter_without_signing_in_or_out_of_order()
    {
        using var wire = await OpenAsync();
        Assert.Equal("530", await wire.SayAsync("MAIL FROM:<a@example.com>"));
        Assert.Equal("503", await wire.SayAsync("RCPT TO:<b@example.com>"));
        Assert.Equal("503", await wire.SayAsync("DATA"));
        Assert.Equal("500", await wire.SayAsync("VRFY b@example.com"));
        Assert.Equal("535", await wire.SayAsync("AUTH PLAIN " + Base64("\0me\0wrong")));
        Assert.Equal("535", await wire.SayAsync("AUTH PLAIN not base64"));
        Assert.Equal("235", await wire.SayAsync("AUTH PLAIN " + Base64("\0me\0backlot-demo-pillarpost")));
        Assert.Equal("250", await wire.SayAsync("MAIL FROM:<a@example.com>"));
        Assert.Equal("501", await wire.SayAsync("RCPT TO:somebody"));
        Assert.Equal("550", await wire.SayAsync("RCPT TO:<nobody@example.com>"));
        Assert.Equal("250", await wire.SayAsync("RCPT TO:<wire@example.com>"));
        Assert.Equal("354", await wire.SayAsync("DATA"));
        Assert.Equal(
            "250",
            await wire.SayAsync(
                "From: a@example.com\r\nSubject: Dots\r\n\r\nfirst\r\n..second begins with a point\r\n."
            )
        );
        Assert.Equal("250", await wire.SayAsync("RSET"));
        Assert.Equal("250", await wire.SayAsync("NOOP"));
        Assert.Equal("221", await wire.SayAsync("QUIT"));
        var letter = Assert.Single(await LettersAsync("wire@example.com"));
        Assert.Equal(
            ("Dots", "first\n.second begins with a point\n"),
            (letter.Text("subject"), letter.Text("text")!.ReplaceLineEndings("\n"))
        );
    }

    [Fact]
    public async Task A_login_in_two_steps_is_taken_too()
    {
        using var wire = await OpenAsync();
        Assert.Equal("334", await wire.SayAsync("AUTH LOGIN"));
        Assert.Equal("334", await wire.SayAsync(Base64("me")));
        Assert.Equal("235", await wire.SayAsync(Base64("backlot-demo-pillarpost")));
        Assert.Equal("250", await wire.SayAsync("HELO me"));
    }

    [Fact]
    public async Task A_letter_with_an_id_that_is_there_is_the_same_letter_unless_ids_are_forgotten()
    {
        async Task SendAsync()
        {
            using var client = new SmtpClient();
            await client.ConnectAsync("127.0.0.1", world.MailPort, MailKit.Security.SecureSocketOptions.None);
            await client.AuthenticateAsync("me", "backlot-demo-pillarpost");
            using var message = new MimeMessage
            {
                MessageId = "one@example.com",
                Subject = "Grüße",
                Body = new TextPart("plain") { Text = "äöü https://a.example/x" },
            };
            message.From.Add(MailboxAddress.Parse("a@example.com"));
            message.To.Add(MailboxAddress.Parse("same@example.com"));
            await client.SendAsync(message);
            await client.DisconnectAsync(true);
        }

        await SendAsync();
        await SendAsync();
        Assert.Equal(
            ("Grüße", "äöü https://a.example/x"),
            (
                Assert.Single(await LettersAsync("same@example.com")).Text("subject"),
                (await LettersAsync("same@example.com"))[0].Text("text")!.Trim()
            )
        );
        await world.FaultAsync("pillarpost", "ignoreKeys");
        await SendAsync();
        Assert.Equal(2, (await LettersAsync("same@example.com")).Count);
        await world.WorksAgainAsync();
        var page = await world.Backlot.GetStringAsync("/pillarpost?inbox=same@example.com");
        Assert.Contains("<a href=\"https://a.example/x\">https://a.example/x</a>", page, StringComparison.Ordinal);
        Assert.Contains("a scanner follows every link", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_door_that_is_down_breaks_off_and_the_server_says_so()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("pillarpost", "down");
        var answer = await noor.PostAsJsonAsync(
            "/api/connections/mail",
            new
            {
                client = "tarn-valley",
                host = "127.0.0.1",
                port = world.MailPort,
                secure = false,
                user = "x",
                password = "backlot-demo-pillarpost",
                sender = "hello@tarnvalley.example",
            }
        );
        Assert.Equal("not-connected", await answer.RefusalAsync(System.Net.HttpStatusCode.BadGateway));
        await world.WorksAgainAsync();
    }
}

using System.Text;
using LitFuse.Connectors;
using LitFuse.Connectors.Pillarpost;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Letters as strangers' programs write them: all of them are kept.</summary>
public sealed class LetterReadingTests
{
    private static ServiceNotice.IncomingLetter Read(byte[] raw) =>
        Assert.IsType<ServiceNotice.IncomingLetter>(LetterReading.Read(raw));

    private static byte[] Letter(string headers, string charset, string words) =>
        [
            .. Encoding.ASCII.GetBytes(
                $"{headers}\r\nContent-Type: text/plain; charset={charset}\r\nContent-Transfer-Encoding: 8bit\r\n\r\n"
            ),
            .. Encoding.GetEncoding(charset).GetBytes(words),
        ];

    [Theory]
    [InlineData("iso-2022-jp", "火曜日の十時にお願いします。")]
    [InlineData("shift_jis", "火曜日の十時にお願いします。")]
    [InlineData("euc-jp", "火曜日の十時にお願いします。")]
    [InlineData("gb18030", "星期二十点可以。")]
    [InlineData("gb2312", "星期二十点可以。")]
    [InlineData("big5", "星期二十點可以。")]
    [InlineData("euc-kr", "화요일 열 시에 부탁드립니다.")]
    [InlineData("windows-874", "วันอังคารสิบโมงเช้า")]
    public void In_the_charsets_of_Asia(string charset, string words)
    {
        var letter = Read(
            Letter("From: a@example.com\r\nTo: b@example.com\r\nMessage-Id: <1@example.com>", charset, words)
        );
        Assert.Equal((words, null), (letter.Words, letter.Fault));
    }

    [Fact]
    public void Without_an_id_it_is_known_by_its_content()
    {
        var raw = Letter(
            "From: Ines <INES@example.com>\r\nTo: ride@brackenwheel.example\r\nSubject: Tuesday",
            "utf-8",
            "At ten, please."
        );
        var (one, again, other) = (Read(raw), Read(raw), Read([.. raw, (byte)'!']));
        Assert.StartsWith("sha256:", one.Reference, StringComparison.Ordinal);
        Assert.Equal(one.Reference, again.Reference);
        Assert.NotEqual(one.Reference, other.Reference);
        Assert.Equal(("ines@example.com", "At ten, please.", null), (one.From, one.Words, one.Fault));
    }

    [Fact]
    public void Without_a_writer_it_says_so_and_comes_as_it_is()
    {
        var raw = Letter("To: ride@brackenwheel.example\r\nSubject: who?", "utf-8", "Ring me.");
        var letter = Read(raw);
        Assert.Equal(
            ("", "The letter does not say who wrote it.", "Ring me."),
            (letter.From, letter.Fault, letter.Words)
        );
        Assert.Equal(raw, letter.Raw);
    }

    [Theory]
    [InlineData("")]
    [InlineData("\u0001\u0002 nothing that a mail program wrote")]
    [InlineData("\r\n\r\n")]
    public void What_cannot_be_read_comes_as_it_is_with_the_reason(string text)
    {
        var letter = Read(Encoding.UTF8.GetBytes(text));
        Assert.Equal(Encoding.UTF8.GetBytes(text), letter.Raw);
        Assert.NotNull(letter.Fault);
    }

    [Fact]
    public void Whatever_comes_nothing_is_thrown_and_only_news_of_an_arrival_is_nothing()
    {
        var random = new Random(20261130);
        for (var i = 0; i < 300; i++)
        {
            var raw = new byte[random.Next(0, 400)];
            random.NextBytes(raw);
            Assert.NotNull(LetterReading.Read(raw));
        }

        const string arrived =
            "From: mailer@example.com\r\nMessage-Id: <2@example.com>\r\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; example.com\r\n\r\nFinal-Recipient: rfc822; ines@example.com\r\nAction: delivered\r\nStatus: 2.0.0\r\n\r\n--b--\r\n";
        Assert.Null(LetterReading.Read(Encoding.ASCII.GetBytes(arrived)));
    }
}

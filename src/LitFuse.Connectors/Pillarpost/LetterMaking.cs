using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Identity;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using LitFuse.Platform;
using MimeKit;
using MimeKit.Cryptography;

namespace LitFuse.Connectors.Pillarpost;

/// <summary>
/// Makes the message of a letter (RFC 5322, MIME): who it is from, to and for, its two parts that say the same, and
/// what comes with it.
/// </summary>
public sealed class LetterMaking(Secrets secrets, PublicAddress address, UnsubscribeLinks unsubscribe)
{
    private const int MostTo = 30;
    private const int MostCopies = 10;
    private const int LongestSubject = 250;
    private static readonly HeaderId[] Signed =
    [
        HeaderId.From,
        HeaderId.To,
        HeaderId.Subject,
        HeaderId.Date,
        HeaderId.MessageId,
        HeaderId.ReplyTo,
        HeaderId.ListUnsubscribe,
        HeaderId.ListUnsubscribePost,
    ];

    /// <summary>The message, or why there is none.</summary>
    public (MimeMessage? Message, string? Fault) Make(ConnectionAccess access, Outgoing outgoing)
    {
        var own = outgoing.Settings.GetValueOrDefault("from");
        if (!MailboxAddress.TryParse(string.IsNullOrWhiteSpace(own) ? access.Sender : own, out var from))
            return (
                null,
                string.IsNullOrWhiteSpace(own)
                    ? "the connection has no sender's address"
                    : $"“{own}” is no sender’s address"
            );
        var message = new MimeMessage
        {
            Subject = PlainText.Line(outgoing.Settings.GetValueOrDefault("subject") ?? "", LongestSubject),
        };
        message.From.Add(from);
        if (Addressed(outgoing, message) is { } fault)
        {
            message.Dispose();
            return (null, fault);
        }

        message.MessageId = $"{outgoing.Key}@{new Uri(address.Url).Host}";
        var words = outgoing.Settings.GetValueOrDefault("words") ?? "";
        if (outgoing.Settings.TryGetValue("link", out var link))
            words = words.Contains(StepKinds.OptInLink, StringComparison.Ordinal)
                ? words.Replace(StepKinds.OptInLink, secrets.Open(link), StringComparison.Ordinal)
                : words + "\n\n" + secrets.Open(link);
        var letter = new LetterParts(words, message.Subject)
        {
            From = outgoing.Kind == StepKinds.TeamEmail ? null : outgoing.Client,
            Blocks = Blocks.Read(outgoing.Settings.GetValueOrDefault(StepKinds.BlocksKey)),
        };
        if (outgoing.Kind == StepKinds.Email)
        {
            letter = letter with { Unsubscribe = unsubscribe.For(outgoing.Lead) };
            message.Headers.Add(HeaderId.ListUnsubscribe, $"<{letter.Unsubscribe}>");
            message.Headers.Add(HeaderId.ListUnsubscribePost, "List-Unsubscribe=One-Click");
            // No out-of-office is to answer it (RFC 3834).
            message.Headers.Add("Auto-Submitted", "auto-generated");
        }

        var body = new BodyBuilder { TextBody = LetterHtml.TextOf(letter), HtmlBody = LetterHtml.Of(letter) };
        foreach (var file in outgoing.Files)
            body.Attachments.Add(
                file.Name,
                file.Bytes,
                ContentType.TryParse(file.Type, out var type) ? type : new ContentType("application", "octet-stream")
            );
        if (Blocks.Read(outgoing.Settings.GetValueOrDefault(StepKinds.Pdf)) is { Count: > 0 } answers)
            body.Attachments.Add(
                "answers.pdf",
                AnswersPdf.Of(outgoing.Client, message.Subject, outgoing.At.InZone(outgoing.Zone), answers),
                new ContentType("application", "pdf")
            );
        message.Body = body.ToMessageBody();
        if (access.Dkim is { } dkim)
            Sign(message, dkim);
        return (message, null);
    }

    // To whom, who gets it too, and whom an answer goes to.
    private static string? Addressed(Outgoing outgoing, MimeMessage message)
    {
        foreach (var to in Split(outgoing.Settings.GetValueOrDefault("to")).Take(MostTo))
        {
            if (!MailboxAddress.TryParse(to, out var one))
                return $"“{PlainText.Line(to, 100)}” is no email address to send to";
            message.To.Add(one);
        }

        if (message.To.Count == 0)
            return "there is no email address to send to";
        var copies = Split(outgoing.Settings.GetValueOrDefault(StepKinds.Copies));
        if (copies.Length > MostCopies)
            return FormattableString.Invariant($"has {copies.Length} copies to send; at most {MostCopies} are");
        foreach (var copy in copies)
        {
            if (EmailReader.Read(copy).Email is not { } known)
                return $"has a copy to send to “{copy}”, which is no email address";
            if (message.To.Mailboxes.All(m => !m.Address.Equals(known, StringComparison.OrdinalIgnoreCase)))
                message.Cc.Add(new MailboxAddress("", known));
        }

        // The name was typed by a stranger: it is quoted, or encoded (RFC 2047), and never more than a name.
        if (outgoing.Settings.GetValueOrDefault("reply") is not { Length: > 0 } reply)
            return null;
        if (outgoing.Settings.TryGetValue("reply.name", out var name))
            message.ReplyTo.Add(new MailboxAddress(PlainText.Line(name, 100), reply));
        else if (MailboxAddress.TryParse(reply, out var other))
            message.ReplyTo.Add(other);
        else
            return $"“{PlainText.Line(reply, 100)}” is no address that replies can go to";
        return null;
    }

    private static string[] Split(string? addresses) =>
        addresses?.Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) ?? [];

    // RFC 6376, over the body as it goes out.
    private static void Sign(MimeMessage message, DkimKey key)
    {
        message.Prepare(EncodingConstraint.SevenBit);
        using var pem = new MemoryStream(System.Text.Encoding.ASCII.GetBytes(key.Pem));
        var signer = new DkimSigner(pem, key.Domain, key.Selector)
        {
            HeaderCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
            BodyCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
        };
        signer.Sign(message, [.. Signed.Where(h => message.Headers.Contains(h))]);
    }
}

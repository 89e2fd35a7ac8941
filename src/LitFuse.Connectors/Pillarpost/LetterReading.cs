using System.Security.Cryptography;
using System.Text;
using LitFuse.Core.Replies;
using LitFuse.Core.Texts;
using MimeKit;
using NodaTime;

namespace LitFuse.Connectors.Pillarpost;

/// <summary>
/// Reads what a mail server hands on to us as it came: letters that people write, and news of letters that did not
/// arrive.
/// </summary>
public static class LetterReading
{
    private const int MostAnswers = 30;
    private const int LongestAsItCame = 8000;

    /// <summary>
    /// Reads one. Every letter is kept, whoever wrote it and however: without an id of its own it is known by its
    /// content, and one that cannot be read comes as it is, with the reason. <c>null</c> is only news that says that a
    /// letter arrived.
    /// </summary>
    public static ServiceNotice? Read(ReadOnlySpan<byte> body)
    {
        var raw = body.ToArray();
        try
        {
            using var stream = new MemoryStream(raw);
            using var message = MimeMessage.Load(stream);
            return message.Headers.Count > 0 ? Read(message, raw) : AsItCame(raw, "it has no headers");
        }
        catch (Exception e)
            when (e
                    is FormatException
                        or ArgumentException
                        or IOException
                        or InvalidOperationException
                        or NotSupportedException
            )
        {
            return AsItCame(raw, e.Message);
        }
    }

    private static ServiceNotice.IncomingLetter AsItCame(byte[] raw, string why) =>
        new(
            IdOf(raw),
            "",
            "",
            "A letter that cannot be read",
            Encoding.UTF8.GetString(raw.AsSpan(0, Math.Min(raw.Length, LongestAsItCame))),
            [],
            false,
            Instant.MinValue
        )
        {
            Fault = $"The letter cannot be read: {why.TrimEnd('.')}.",
            Raw = raw,
        };

    // The same letter told twice is one.
    private static string IdOf(byte[] raw) => "sha256:" + Convert.ToHexStringLower(SHA256.HashData(raw));

    private static ServiceNotice? Read(MimeMessage message, byte[] raw)
    {
        var at = message.Date == default ? Instant.MinValue : Instant.FromDateTimeOffset(message.Date);
        if (message.BodyParts.OfType<MessageDeliveryStatus>().FirstOrDefault() is { } status)
            return BounceOf(message, status, at);
        var from = message.From.Mailboxes.FirstOrDefault()?.Address ?? message.Sender?.Address ?? "";
        var id = message.MessageId is { Length: > 0 } own ? own : IdOf(raw);
        var to = message.To.Mailboxes.FirstOrDefault()?.Address ?? "";
        var answers = new[] { message.InReplyTo }
            .OfType<string>()
            .Concat(message.References)
            .Distinct(StringComparer.Ordinal)
            .Take(MostAnswers)
            .ToList();
        var words = LetterReply.WordsOf(message.TextBody ?? HtmlText.Of(message.HtmlBody ?? ""));
        return new ServiceNotice.IncomingLetter(
            id,
            from.ToLowerInvariant(),
            to,
            PlainText.Line(message.Subject ?? "", 250),
            words,
            answers,
            IsAutomatic(message),
            at
        )
        {
            Fault = from.Length == 0 ? "The letter does not say who wrote it." : null,
            Raw = from.Length == 0 ? raw : null,
        };
    }

    // RFC 3834 § 5; older programs say so by Precedence.
    private static bool IsAutomatic(MimeMessage message) =>
        (
            message.Headers["Auto-Submitted"] is { } auto
            && !auto.Trim().StartsWith("no", StringComparison.OrdinalIgnoreCase)
        ) || message.Headers["Precedence"]?.Trim().ToLowerInvariant() is "bulk" or "auto_reply" or "list";

    // RFC 3464 § 2.3: one group of fields a recipient, after the group about the message.
    private static ServiceNotice? BounceOf(MimeMessage message, MessageDeliveryStatus status, Instant at)
    {
        foreach (var group in status.StatusGroups.Skip(1))
        {
            var action = group["Action"]?.Trim().ToLowerInvariant();
            if (action is not ("failed" or "delayed"))
                continue;
            var code = group["Status"]?.Trim() ?? "";
            var to = After(group["Final-Recipient"] ?? group["Original-Recipient"]);
            var why = PlainText.Line(After(group["Diagnostic-Code"]), 300);
            // 5.y.z is for good (RFC 3463 § 2).
            return new ServiceNotice.Bounced(
                OfLetter(message),
                to.ToLowerInvariant(),
                action == "failed" && !code.StartsWith('4'),
                at,
                why.Length > 0 ? why : $"the mail server says {code}"
            );
        }

        return null;
    }

    private static string After(string? field) =>
        field is null ? ""
        : field.Contains(';', StringComparison.Ordinal)
            ? field[(field.IndexOf(';', StringComparison.Ordinal) + 1)..].Trim()
        : field.Trim();

    // The letter itself comes back whole, or its headers alone.
    private static string OfLetter(MimeMessage message)
    {
        foreach (var part in message.BodyParts)
        {
            if (part is MessagePart { Message.MessageId: { } id })
                return id;
            if (part is TextPart { ContentType.MediaSubtype: "rfc822-headers" } headers)
            {
                using var text = new MemoryStream(Encoding.UTF8.GetBytes(headers.Text + "\r\n\r\n"));
                return HeaderList.Load(text)[HeaderId.MessageId]?.Trim('<', '>', ' ') ?? "";
            }
        }

        return message.InReplyTo ?? "";
    }
}

using System.Collections.Concurrent;
using System.Globalization;
using LitFuse.Backlot.Calling;
using MimeKit;

namespace LitFuse.Backlot.Pillarpost;

/// <summary>Where what comes in for an address is handed on to, and what it is signed with.</summary>
public sealed record HandOn(string? Url, string? Secret);

/// <summary>What somebody answers to a letter.</summary>
/// <param name="From">Another address than the letter's; left empty, that one.</param>
/// <param name="Automatic">A machine answers, as for somebody out of the office.</param>
public sealed record Answer(string? Text, string? From = null, bool Automatic = false);

/// <summary>
/// Letters to those who write through this server: answers and bounces, handed on as they came (message/rfc822),
/// signed.
/// </summary>
public sealed class Incoming(TimeProvider time, Caller caller)
{
    // By the sender's address, as it stands in their letters.
    private readonly ConcurrentDictionary<string, HandOn> handedTo = new(StringComparer.OrdinalIgnoreCase);
    private int count;

    /// <summary>Hands on what comes in for this address from now on.</summary>
    public void HandOn(string address, HandOn to) => handedTo[address] = to;

    /// <summary>Answers a letter.</summary>
    /// <returns>False where nobody hears it.</returns>
    public bool Reply(Letter letter, Answer answer)
    {
        using var message = new MimeMessage();
        message.From.Add(MailboxAddress.Parse(answer.From is { Length: > 0 } other ? other : letter.To));
        var to = MailboxAddress.Parse(letter.ReplyTo.Length > 0 ? letter.ReplyTo : letter.From);
        message.To.Add(to);
        message.Subject = (answer.Automatic ? "Out of the office: " : "Re: ") + letter.Subject;
        message.InReplyTo = letter.MessageId;
        if (letter.MessageId is { } id)
            message.References.Add(id);
        if (answer.Automatic)
            message.Headers.Add("Auto-Submitted", "auto-replied");
        var quoted = string.Join('\n', letter.Text.Split('\n').Select(l => "> " + l));
        message.Body = new TextPart("plain")
        {
            Text =
                $"{answer.Text}\n\nOn {letter.At.ToString("d MMM yyyy 'at' HH:mm", CultureInfo.InvariantCulture)}, {letter.From} wrote:\n{quoted}\n",
        };
        return Hand(message, to.Address);
    }

    /// <summary>Somebody writes of their own accord.</summary>
    public bool Write(string from, string to, string subject, string text)
    {
        using var message = new MimeMessage
        {
            Subject = subject,
            Body = new TextPart("plain") { Text = text },
        };
        message.From.Add(MailboxAddress.Parse(from));
        message.To.Add(MailboxAddress.Parse(to));
        return Hand(message, to);
    }

    /// <summary>Says that a letter did not arrive (RFC 3464).</summary>
    public bool Bounce(MimeMessage letter, string to, string code, string why)
    {
        if (letter.From.Mailboxes.FirstOrDefault() is not { } sender)
            return false;
        var status = new MessageDeliveryStatus();
        status.StatusGroups.Add(new HeaderList { { "Reporting-MTA", "dns; pillarpost.example" } });
        status.StatusGroups.Add(
            new HeaderList
            {
                { "Final-Recipient", "rfc822; " + to },
                { "Action", code.StartsWith('4') ? "delayed" : "failed" },
                { "Status", code },
                { "Diagnostic-Code", "smtp; " + why },
            }
        );
        var report = new MultipartReport("delivery-status")
        {
            new TextPart("plain") { Text = $"Your letter to {to} could not be delivered: {why}\n" },
            status,
            new TextPart("rfc822-headers")
            {
                Text = $"Message-Id: <{letter.MessageId}>\r\nSubject: {letter.Subject}\r\n",
            },
        };
        using var message = new MimeMessage { Subject = "Undelivered: " + letter.Subject, Body = report };
        message.From.Add(new MailboxAddress("Pillarpost", "postmaster@pillarpost.example"));
        message.To.Add(sender);
        message.Headers.Add("Auto-Submitted", "auto-replied");
        return Hand(message, sender.Address);
    }

    private bool Hand(MimeMessage message, string address)
    {
        if (!handedTo.TryGetValue(address, out var to) || to is not { Url: { } url, Secret: { } secret })
            return false;
        message.Date = time.GetUtcNow();
        message.MessageId = string.Create(
            CultureInfo.InvariantCulture,
            $"in-{Interlocked.Increment(ref count)}.{Guid.NewGuid():N}@pillarpost.example"
        );
        using var bytes = new MemoryStream();
        message.WriteTo(bytes);
        caller.Tell(new(url, message.MessageId, bytes.ToArray(), secret));
        return true;
    }
}

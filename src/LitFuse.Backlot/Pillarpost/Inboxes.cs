using MimeKit;

namespace LitFuse.Backlot.Pillarpost;

/// <summary>The port of the mail door.</summary>
public sealed record MailDoor(int Port);

/// <summary>A letter in an inbox.</summary>
public sealed record Letter(int Id, string To, string From, string Subject, string Text, string? Html, DateTimeOffset At, string? MessageId);

/// <summary>Letters by whom they are to; a letter whose id is there already is the same one.</summary>
public sealed class Inboxes(TimeProvider time, IHttpClientFactory clients)
{
    private const int Most = 20_000;
    private readonly List<Letter> letters = [];
    private int last;

    /// <summary>A scanner stands in front of the inboxes and follows every link, as those of large companies do.</summary>
    public bool Scans { get; set; }

    /// <summary>Puts a message in.</summary>
    /// <param name="envelopeTo">Whom the envelope names, whatever the headers say.</param>
    /// <param name="keepDoubles">Forgets which ids it has.</param>
    public IReadOnlyList<Letter> Add(MimeMessage message, IReadOnlyList<string> envelopeTo, bool keepDoubles)
    {
        var put = new List<Letter>();
        lock (letters)
        {
            foreach (var to in envelopeTo)
            {
                if (!keepDoubles && message.MessageId is { Length: > 0 } id && letters.Exists(l => l.MessageId == id && l.To == to)) continue;
                put.Add(new(++last, to, message.From.ToString(), message.Subject ?? "", message.TextBody ?? "", message.HtmlBody, time.GetUtcNow(), message.MessageId));
            }

            letters.AddRange(put);
            if (letters.Count > Most) letters.RemoveRange(0, letters.Count - Most);
        }

        if (Scans) foreach (var letter in put) _ = ScanAsync(letter);
        return put;
    }

    /// <summary>Letters to somebody, or all, oldest first.</summary>
    public IReadOnlyList<Letter> To(string? to)
    {
        lock (letters) return letters.Where(l => string.IsNullOrEmpty(to) || l.To.Equals(to, StringComparison.OrdinalIgnoreCase)).ToList();
    }

    /// <summary>The addresses in a letter's text.</summary>
    public static IEnumerable<string> LinksIn(string text) =>
        text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Where(w => w.StartsWith("http://", StringComparison.Ordinal) || w.StartsWith("https://", StringComparison.Ordinal));

    private async Task ScanAsync(Letter letter)
    {
        using var client = clients.CreateClient();
        client.DefaultRequestHeaders.UserAgent.ParseAdd("Pillarpost-Scanner/1.0");
        foreach (var link in LinksIn(letter.Text))
        {
            try
            {
                using var looked = await client.SendAsync(new(HttpMethod.Head, link));
                using var got = await client.GetAsync(link);
            }
            catch (HttpRequestException)
            {
                // A scanner does not mind what is behind a link.
            }
        }
    }
}

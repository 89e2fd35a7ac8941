using MimeKit;

namespace LitFuse.Backlot.Pillarpost;

/// <summary>The port of the mail door.</summary>
public sealed record MailDoor(int Port);

/// <summary>A letter in an inbox.</summary>
/// <param name="ReplyTo">Whom an answer goes to, where that is somebody else.</param>
/// <param name="Copies">Who got it too.</param>
/// <param name="Unsubscribe">Where one click ends such letters (RFC 8058).</param>
public sealed record Letter(
    int Id,
    string To,
    string From,
    string Subject,
    string Text,
    string? Html,
    DateTimeOffset At,
    string? MessageId,
    string ReplyTo,
    string Copies,
    string? Unsubscribe
)
{
    /// <summary>What comes with it.</summary>
    public IReadOnlyList<LetterFile> Files { get; init; } = [];

    /// <summary>Its signature's header, where it is signed.</summary>
    public string? Signature { get; init; }

    /// <summary>Everything it came with, as it came.</summary>
    public IReadOnlyDictionary<string, string> Headers { get; init; } = new Dictionary<string, string>();
}

/// <summary>A file that came with a letter.</summary>
public sealed record LetterFile(string Name, string Type, byte[] Bytes);

/// <summary>Letters by whom they are to; a letter whose id is there already is the same one.</summary>
public sealed class Inboxes(TimeProvider time, IHttpClientFactory clients)
{
    private const int Most = 20_000;
    private readonly List<Letter> letters = [];
    private int last;

    private int scanning;

    /// <summary>How many letters it is following the links of.</summary>
    public int Scanning => Volatile.Read(ref scanning);

    /// <summary>
    /// A scanner stands in front of the inboxes and follows every link, as those of large companies do.
    /// </summary>
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
                if (
                    !keepDoubles
                    && message.MessageId is { Length: > 0 } id
                    && letters.Exists(l => l.MessageId == id && l.To == to)
                )
                    continue;
                put.Add(
                    new(
                        ++last,
                        to,
                        message.From.ToString(),
                        message.Subject ?? "",
                        message.TextBody ?? "",
                        message.HtmlBody,
                        time.GetUtcNow(),
                        message.MessageId,
                        message.ReplyTo.ToString(),
                        message.Cc.ToString(),
                        OneClickOf(message)
                    )
                    {
                        Files = [.. message.Attachments.OfType<MimePart>().Select(FileOf)],
                        Signature = message.Headers[HeaderId.DkimSignature],
                        Headers = message
                            .Headers.GroupBy(h => h.Field, StringComparer.OrdinalIgnoreCase)
                            .ToDictionary(g => g.Key, g => g.First().Value, StringComparer.OrdinalIgnoreCase),
                    }
                );
            }

            letters.AddRange(put);
            if (letters.Count > Most)
                letters.RemoveRange(0, letters.Count - Most);
        }

        if (Scans)
            foreach (var letter in put)
                _ = ScanAsync(letter);
        return put;
    }

    /// <summary>Letters to somebody, or all, oldest first.</summary>
    public IReadOnlyList<Letter> To(string? to)
    {
        lock (letters)
            return letters
                .Where(l => string.IsNullOrEmpty(to) || l.To.Equals(to, StringComparison.OrdinalIgnoreCase))
                .ToList();
    }

    /// <summary>The addresses in a letter's text.</summary>
    public static IEnumerable<string> LinksIn(string text) =>
        text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            .Where(w =>
                w.StartsWith("http://", StringComparison.Ordinal) || w.StartsWith("https://", StringComparison.Ordinal)
            );

    /// <summary>One by its number.</summary>
    public Letter? Find(int id)
    {
        lock (letters)
            return letters.Find(l => l.Id == id);
    }

    private static LetterFile FileOf(MimePart part)
    {
        using var bytes = new MemoryStream();
        part.Content?.DecodeTo(bytes);
        return new(part.FileName ?? "file", part.ContentType.MimeType, bytes.ToArray());
    }

    // Both headers must be there: without the second, following the first may do anything.
    private static string? OneClickOf(MimeMessage message) =>
        message.Headers[HeaderId.ListUnsubscribePost] == "List-Unsubscribe=One-Click"
        && message.Headers[HeaderId.ListUnsubscribe] is { } at
        && at.StartsWith("<http", StringComparison.Ordinal)
            ? at.Trim('<', '>')
            : null;

    /// <summary>Ends such letters with one click, as a mail program does it.</summary>
    /// <returns>What the other side answered; <c>null</c> where the letter offers nothing of the kind.</returns>
    public async Task<int?> UnsubscribeAsync(int id, CancellationToken stop)
    {
        string? at;
        lock (letters)
            at = letters.Find(l => l.Id == id)?.Unsubscribe;
        if (at is null)
            return null;
        using var client = clients.CreateClient();
        using var body = new FormUrlEncodedContent([new("List-Unsubscribe", "One-Click")]);
        using var answer = await client.PostAsync(at, body, stop);
        return (int)answer.StatusCode;
    }

    private async Task ScanAsync(Letter letter)
    {
        Interlocked.Increment(ref scanning);
        try
        {
            await FollowAsync(letter);
        }
        finally
        {
            Interlocked.Decrement(ref scanning);
        }
    }

    private async Task FollowAsync(Letter letter)
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

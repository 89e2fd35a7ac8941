using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;

namespace LitFuse.Backlot.Namewell;

/// <summary>An address book.</summary>
public sealed record Book(string Key, string Name);

/// <summary>A card in a book, as it was put there.</summary>
/// <param name="Name">Its last part of the address.</param>
/// <param name="ETag">Changes with each change.</param>
public sealed record Card(string Name, string Text, string ETag, DateTimeOffset At);

/// <summary>A file in the folder.</summary>
public sealed record KeptFile(byte[] Bytes, string Type, string ETag, DateTimeOffset At);

/// <summary>What Namewell keeps: books with cards, and a folder with files.</summary>
public sealed class Books(TimeProvider time)
{
    private const int Most = 60_000;
    private readonly ConcurrentDictionary<(string Book, string Name), Card> cards = new();
    private readonly ConcurrentDictionary<(string Book, string Uid), string> byUid = new();

    /// <summary>The books there are: one for everybody, and one for each who rings.</summary>
    public static IReadOnlyList<Book> All { get; } =
    [
        new("everybody", "Everybody"),
        new("imke", "Imke Sandoval"),
        new("tobias", "Tobias Renn"),
        new("adaeze", "Adaeze Whitlock"),
        new("marguerite", "Marguerite Oyelaran"),
        new("pim", "Pim Castellan"),
        new("siobhra", "Siobhra Quill"),
    ];

    /// <summary>Files by path.</summary>
    public ConcurrentDictionary<string, KeptFile> Files { get; } = new(StringComparer.Ordinal);

    /// <summary>Folders by path, beside the topmost.</summary>
    public ConcurrentDictionary<string, byte> Folders { get; } = new(StringComparer.Ordinal);

    /// <summary>Whether the user's password is good.</summary>
    public bool Withdrawn { get; set; }

    /// <summary>The cards of a book, newest first.</summary>
    public IReadOnlyList<Card> Of(string book) =>
        [.. cards.Where(c => c.Key.Book == book).Select(c => c.Value).OrderByDescending(c => c.At)];

    /// <summary>A card, or <c>null</c>.</summary>
    public Card? Find(string book, string name) => cards.GetValueOrDefault((book, name));

    /// <summary>Puts one there, whatever was there.</summary>
    public Card Put(string book, string name, string text)
    {
        if (cards.Count > Most)
        {
            cards.Clear();
            byUid.Clear();
        }

        if (Values(text, "UID").FirstOrDefault() is { } uid)
            byUid[(book, uid)] = name;
        return cards[(book, name)] = new(name, text, EtagOf(Encoding.UTF8.GetBytes(text)), time.GetUtcNow());
    }

    /// <summary>Takes one out.</summary>
    public bool Remove(string book, string name)
    {
        if (!cards.TryRemove((book, name), out var card))
            return false;
        if (Values(card.Text, "UID").FirstOrDefault() is { } uid)
            byUid.TryRemove((book, uid), out _);
        return true;
    }

    /// <summary>The card with this UID, whole or after <c>urn:uuid:</c>; <c>null</c> where there is none.</summary>
    public Card? WithUid(string book, string uid) =>
        (byUid.GetValueOrDefault((book, uid)) ?? byUid.GetValueOrDefault((book, "urn:uuid:" + uid))) is { } name
            ? Find(book, name)
            : null;

    /// <summary>The values of a property of a card.</summary>
    public static IEnumerable<string> Values(string card, string property) =>
        card.ReplaceLineEndings("\n")
            .Replace("\n ", "", StringComparison.Ordinal)
            .Split('\n')
            .Where(l =>
                l[..Math.Max(0, l.AsSpan().IndexOfAny(':', ';'))]
                    .Split('.')[^1]
                    .Equals(property, StringComparison.OrdinalIgnoreCase)
            )
            .Select(l =>
                (
                    property == "TEL" && l.Contains(":tel:", StringComparison.Ordinal)
                        ? l[(l.IndexOf(":tel:", StringComparison.Ordinal) + 5)..]
                        : l[(l.IndexOf(':', StringComparison.Ordinal) + 1)..]
                )
                    .Replace("\\,", ",", StringComparison.Ordinal)
                    .Replace("\\;", ";", StringComparison.Ordinal)
                    .Replace("\\n", "\n", StringComparison.Ordinal)
            );

    /// <summary>A version of some bytes.</summary>
    public static string EtagOf(byte[] bytes) => $"\"{Convert.ToHexStringLower(SHA256.HashData(bytes))[..16]}\"";
}

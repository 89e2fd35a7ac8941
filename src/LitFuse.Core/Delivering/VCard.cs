using System.Text;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Delivering;

/// <summary>What a card in an address book says of somebody.</summary>
/// <param name="Uid">Unique, and the same for ever.</param>
public sealed record CardOf(string Uid, string FullName, string? First, string? Last)
{
    /// <summary>E.164, the first one first.</summary>
    public IReadOnlyList<string> Phones { get; init; } = [];

    /// <summary>Where letters go.</summary>
    public string? Email { get; init; }

    /// <summary>Whom they work for.</summary>
    public string? Company { get; init; }

    /// <summary>Whatever else there is to know.</summary>
    public string? Note { get; init; }

    /// <summary>Their page here.</summary>
    public string? Url { get; init; }

    /// <summary>Words to find them by.</summary>
    public IReadOnlyList<string> Tags { get; init; } = [];
}

/// <summary>Writes vCards, 4.0 (RFC 6350) and, for servers that take no other, 3.0 (RFC 2426).</summary>
public static class VCard
{
    private const int Widest = 75;

    // What we write stands in a group of ours (RFC 6350 § 3.3); whatever else is on a card belongs to whoever put it
    // there, a second number or a note as much as a birthday. A card has one of these, so they are written anew.
    private const string Group = "litfuse";
    private const string NameWritten = "X-LITFUSE-FN";
    private static readonly HashSet<string> Once = new(StringComparer.OrdinalIgnoreCase)
    {
        "BEGIN",
        "END",
        "VERSION",
        "UID",
        "REV",
        "PRODID",
        NameWritten,
    };

    /// <summary>The card as text.</summary>
    /// <param name="card">What it says.</param>
    /// <param name="at">When it was written.</param>
    /// <param name="before">The card as it stood: lines of others are kept.</param>
    /// <param name="version3">3.0 instead of 4.0.</param>
    public static string Write(CardOf card, Instant at, string? before = null, bool version3 = false)
    {
        var lines = new List<string>
        {
            "BEGIN:VCARD",
            version3 ? "VERSION:3.0" : "VERSION:4.0",
            "PRODID:-//Lit Fuse//EN",
            "UID:" + (version3 ? card.Uid : "urn:uuid:" + card.Uid),
        };
        var theirs = before is null ? [] : Lines(before).Where(l => !Once.Contains(NameOf(l)) && !IsOurs(l)).ToList();
        // The name is ours while it is the one that we wrote; a colleague's correction stays.
        var corrected =
            before is not null
            && Values(before, NameWritten) is [var written]
            && Values(before, "FN").FirstOrDefault() is { } stands
            && stands != written;
        if (!corrected)
        {
            theirs.RemoveAll(l => NameOf(l).ToUpperInvariant() is "FN" or "N");
            lines.Add("FN:" + Escaped(card.FullName));
            lines.Add($"N:{Escaped(card.Last ?? "")};{Escaped(card.First ?? "")};;;");
        }

        lines.Add($"{NameWritten}:{Escaped(card.FullName)}");
        var known = theirs
            .Where(l => NameOf(l).Equals("TEL", StringComparison.OrdinalIgnoreCase))
            .Select(Digits)
            .ToHashSet(StringComparer.Ordinal);
        lines.AddRange(
            card.Phones.Where(p => !known.Contains(Digits(p)))
                .Select(p => version3 ? $"{Group}.TEL;TYPE=CELL:{p}" : $"{Group}.TEL;VALUE=uri;TYPE=cell:tel:{p}")
        );
        Add("EMAIL", card.Email);
        Add("ORG", card.Company);
        Add("NOTE", card.Note);
        if (!string.IsNullOrWhiteSpace(card.Url))
            lines.Add($"{Group}.URL:{card.Url.Trim()}");
        if (card.Tags.Count > 0)
            lines.Add($"{Group}.CATEGORIES:" + string.Join(',', card.Tags.Select(Escaped)));
        var moment = version3 ? "uuuu-MM-dd'T'HH:mm:ss'Z'" : "uuuuMMdd'T'HHmmss'Z'";
        lines.Add("REV:" + InstantPattern.CreateWithInvariantCulture(moment).Format(at));
        lines.AddRange(theirs);
        lines.Add("END:VCARD");
        return string.Concat(lines.Select(Folded));

        void Add(string name, string? value)
        {
            if (
                string.IsNullOrWhiteSpace(value)
                || theirs.Exists(l =>
                    NameOf(l).Equals(name, StringComparison.OrdinalIgnoreCase)
                    && ValueOf(l).Equals(value.Trim(), StringComparison.OrdinalIgnoreCase)
                )
            )
                return;
            lines.Add($"{Group}.{name}:{Escaped(value.Trim())}");
        }
    }

    private static bool IsOurs(string line) => line.StartsWith(Group + ".", StringComparison.OrdinalIgnoreCase);

    private static string Digits(string line) =>
        string.Concat(line[(line.IndexOf(':', StringComparison.Ordinal) + 1)..].Where(char.IsAsciiDigit));

    private static string ValueOf(string line) => Unescaped(line[(line.IndexOf(':', StringComparison.Ordinal) + 1)..]);

    /// <summary>The lines of a card, unfolded (RFC 6350 §3.2).</summary>
    public static IReadOnlyList<string> Lines(string card) =>
        card.ReplaceLineEndings("\n")
            .Replace("\n ", "", StringComparison.Ordinal)
            .Replace("\n\t", "", StringComparison.Ordinal)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>The values of a property, unescaped, in order.</summary>
    public static IReadOnlyList<string> Values(string card, string property) =>
        [.. Lines(card).Where(l => NameOf(l).Equals(property, StringComparison.OrdinalIgnoreCase)).Select(ValueOf)];

    // A group may stand before the name: item1.TEL.
    private static string NameOf(string line)
    {
        var end = line.AsSpan().IndexOfAny(':', ';');
        var name = end < 0 ? line : line[..end];
        return name[(name.LastIndexOf('.') + 1)..];
    }

    // RFC 6350 §3.4.
    private static string Escaped(string text) =>
        text.ReplaceLineEndings("\n")
            .Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("\n", "\\n", StringComparison.Ordinal)
            .Replace(",", "\\,", StringComparison.Ordinal)
            .Replace(";", "\\;", StringComparison.Ordinal);

    private static string Unescaped(string text)
    {
        var plain = new StringBuilder(text.Length);
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] != '\\' || i + 1 == text.Length)
                plain.Append(text[i]);
            else
                plain.Append(text[++i] is 'n' or 'N' ? '\n' : text[i]);
        }

        return plain.ToString();
    }

    // At most 75 octets a line, never inside a character.
    private static string Folded(string line)
    {
        var text = new StringBuilder(line.Length + 8);
        var width = 0;
        foreach (var rune in line.EnumerateRunes())
        {
            if (width + rune.Utf8SequenceLength > Widest)
            {
                text.Append("\r\n ");
                width = 1;
            }

            text.Append(rune);
            width += rune.Utf8SequenceLength;
        }

        return text.Append("\r\n").ToString();
    }
}

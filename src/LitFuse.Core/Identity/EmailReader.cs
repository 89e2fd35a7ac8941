using System.Globalization;
using System.Net.Mail;

namespace LitFuse.Core.Identity;

/// <summary>What became of one typed email address: the address as matched, or the reason it is none.</summary>
/// <param name="Email">Trimmed, without a <c>mailto:</c>, lower case throughout, the domain in ASCII (IDNA).</param>
/// <param name="Fault">In words, or <c>null</c>.</param>
public sealed record EmailReading(string? Email, string? Fault);

/// <summary>
/// Normalises email addresses for matching. RFC 5321 leaves the case of the part before the @ to the receiver; no
/// mailbox in practice tells people apart by it, and two leads for one person is the greater harm.
/// Dots and plus tags are kept: only some providers ignore them.
/// </summary>
public static class EmailReader
{
    private static readonly IdnMapping Idn = new() { AllowUnassigned = false };

    /// <summary>
    /// Reads one answer with one or several addresses in it, with or without names (<c>Ines
    /// &lt;ines@example.com&gt;</c>).
    /// </summary>
    public static (IReadOnlyList<string> Emails, string? Fault) ReadAll(string typed)
    {
        var whole = Read(typed);
        if (whole.Email is not null)
            return ([whole.Email], null);
        var found = new List<string>();
        foreach (
            var part in typed.Split(
                [' ', ',', ';', '<', '>', '|', '\n', '/', '"', '(', ')'],
                40,
                StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            if (part.Contains('@', StringComparison.Ordinal) && Read(part).Email is { } email && !found.Contains(email))
                found.Add(email);
        }

        return found.Count > 0 ? (found, null) : ([], whole.Fault);
    }

    /// <summary>Reads <paramref name="typed"/>; empty input is no address and no fault.</summary>
    public static EmailReading Read(string? typed)
    {
        if (string.IsNullOrWhiteSpace(typed))
            return new(null, null);
        var text = typed.Trim().Trim('<', '>', ',', ';', '.').Trim();
        if (text.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase))
            text = text[7..];
        if (text.Length > 254)
            return new(null, "an email address has at most 254 characters (RFC 5321)");
        var at = text.LastIndexOf('@');
        if (at <= 0 || at == text.Length - 1)
            return new(null, "an email address has a part on each side of one @");
        if (text.Any(char.IsWhiteSpace))
            return new(null, "an email address has no spaces in it");

        string domain;
        try
        {
            domain = Idn.GetAscii(text[(at + 1)..]);
        }
        catch (ArgumentException)
        {
            return new(null, "the part after the @ is not a domain name");
        }

        var whole = text[..at] + "@" + domain;
        if (
            !domain.Contains('.', StringComparison.Ordinal)
            || !MailAddress.TryCreate(whole, out var parsed)
            || parsed.Address != whole
        )
        {
            return new(null, "this is not an email address");
        }

        return new(whole.ToLowerInvariant(), null);
    }
}

using System.Globalization;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Junk;

/// <summary>How much a submission looks like junk, and why.</summary>
/// <param name="Score">0 (a person) to 100.</param>
/// <param name="Because">Each reason in words.</param>
public sealed record JunkReading(int Score, IReadOnlyList<string> Because)
{
    /// <summary>From here on it is called junk. It is kept and shown all the same.</summary>
    public const int Junk = 60;

    /// <summary>Nothing odd.</summary>
    public static JunkReading Clean { get; } = new(0, []);
}

/// <summary>Scores submissions by signs that cost people nothing: no puzzle, no box to tick.</summary>
public static class JunkScore
{
    /// <summary>
    /// The name (after <see cref="Payload.OwnPrefix"/>) of a field that people do not see, and programs fill in.
    /// </summary>
    public const string Trap = "website";

    /// <summary>The name of the field that tells how many milliseconds the filling in took.</summary>
    public const string Took = "took";

    private const int FastestMs = 1500;
    private const int ManyFromOneAddress = 8;

    /// <summary>What the door sees: how it was sent. Cheap, for it is asked before the sender is answered.</summary>
    /// <param name="payload">As read.</param>
    /// <param name="lately">How many came from the same address to the same form in the last ten minutes.</param>
    public static JunkReading Of(Payload payload, int lately)
    {
        List<string>? because = null;
        var score = 0;
        void Add(int points, string why)
        {
            score += points;
            (because ??= []).Add(why);
        }

        if (payload.Signs.TryGetValue(Trap, out var trap) && trap.Length > 0)
            Add(70, "a field that people do not see was filled in");
        if (
            payload.Signs.TryGetValue(Took, out var took)
            && int.TryParse(took, NumberStyles.None, CultureInfo.InvariantCulture, out var ms)
            && ms < FastestMs
        )
        {
            Add(40, string.Create(CultureInfo.InvariantCulture, $"it was filled in within {ms / 1000.0:0.0} s"));
        }

        // Never enough alone: behind one address may stand a whole office, or a program that sends for many.
        if (lately >= ManyFromOneAddress)
            Add(
                lately >= 4 * ManyFromOneAddress ? 40 : 10,
                string.Create(CultureInfo.InvariantCulture, $"{lately} came from one address within ten minutes")
            );
        return because is null ? JunkReading.Clean : new(Math.Min(100, score), because);
    }

    /// <summary>What the answers say, put together with what the door saw.</summary>
    /// <param name="door">See <see cref="Of"/>.</param>
    /// <param name="payload">As read.</param>
    /// <param name="mapped">Through the form's map.</param>
    /// <param name="sameWords">How many others sent the same words lately.</param>
    public static JunkReading OfAnswers(JunkReading door, Payload payload, MappedLead mapped, int sameWords)
    {
        var because = new List<string>(door.Because);
        var score = door.Score;
        void Add(int points, string? why)
        {
            if (why is null)
                return;
            score += points;
            because.Add(why);
        }

        foreach (var email in mapped.Emails)
        {
            var (name, domain) = (email[..email.LastIndexOf('@')], email[(email.LastIndexOf('@') + 1)..]);
            if (Disposable.Any(d => domain.Contains(d, StringComparison.Ordinal)))
                Add(45, $"{domain} gives out addresses to throw away");
            if (name.Length >= 8 && GibberishSigns.Of(name) is not null && !NamedIn(mapped, name))
                Add(20, $"the address {Short(email)} is no name");
        }

        OfNames(mapped, Add);
        if (mapped.Phone is null && mapped.Values.TryGetValue("phone", out var typed))
            Add(
                typed.Count(char.IsAsciiDigit) >= 4 || mapped.Emails.Count > 0 ? 25 : 35,
                $"{Short(typed)} cannot be a telephone number"
            );
        else if (mapped.Phone is { Fictional: false, E164: var number } && OneDigit(number))
            Add(40, $"{number} is one digit again and again");
        OfWords(payload, mapped, sameWords, Add);
        return because.Count == 0 ? JunkReading.Clean : new(Math.Min(100, score), because);
    }

    private static void OfNames(MappedLead mapped, Action<int, string?> add)
    {
        foreach (var key in NameFields)
        {
            if (!mapped.Values.TryGetValue(key, out var name))
                continue;
            if (Contains(name, "://") || Contains(name, "www."))
                add(50, "there is a link where a name belongs");
            else if (GibberishSigns.Of(name) is { } why)
                add(key == "company" ? 20 : 40, why);
            else if (
                key != "company"
                && name.Count(char.IsAsciiDigit) is >= 3 and var digits
                && digits > name.Count(char.IsLetter)
            )
                add(30, $"the name “{Short(name)}” is made of digits");
        }

        if (
            mapped.Values.TryGetValue("first_name", out var first)
            && mapped.Values.TryGetValue("last_name", out var last)
            && first.Length > 2
            && first.Equals(last, StringComparison.OrdinalIgnoreCase)
        )
            add(25, "first and last name are the same");
    }

    private static void OfWords(Payload payload, MappedLead mapped, int sameWords, Action<int, string?> add)
    {
        var (links, gibberish, selling) = Words(payload, mapped);
        if (links >= 3)
            add(60, string.Create(CultureInfo.InvariantCulture, $"there are {links} links in the answers"));
        else if (links > 0)
            add(15 * links, links == 1 ? "there is a link in the answers" : "there are two links in the answers");
        add(30, gibberish);
        if (selling > 0)
            add(Math.Min(60, 30 * selling), "it offers something, rather than asks");
        if (sameWords >= 2)
            add(
                Math.Min(60, 20 * sameWords),
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"the same words came {sameWords} times before, from others"
                )
            );
    }

    /// <summary>
    /// The longest answer in their own words, for telling repeats; <c>null</c> where none is long enough to be
    /// anybody's own.
    /// </summary>
    public static string? OwnWords(Payload payload)
    {
        string? longest = null;
        foreach (var (field, value) in payload.Answers)
        {
            if (
                value.Length >= 30
                && value.Length > (longest?.Length ?? 0)
                && !Payload.IsAddressField(field)
                && !Contains(field, "page")
                && value.Contains(' ', StringComparison.Ordinal)
            )
                longest = value;
        }

        return longest;
    }

    private static (int Links, string? Gibberish, int Selling) Words(Payload payload, MappedLead mapped)
    {
        var (links, selling) = (0, 0);
        string? gibberish = null;
        foreach (var (field, value) in payload.Answers)
        {
            if (
                Payload.IsAddressField(field)
                || value == mapped.Values.GetValueOrDefault("website")
                || ObviousMap.Tracking.Contains(field)
            )
                continue;
            var own = Count(value, "://") + Count(value, "[url") + Count(value, "href=");
            links += own;
            if (value.Length is < 8 || Contains(value, "@"))
                continue;
            if (own == 0 && value.Length < 200 && !NamesPlain(mapped, value))
                gibberish ??= GibberishSigns.Of(value);
            if (value.Length >= 40)
                selling += Selling.Count(s => Contains(value, s));
        }

        return (links, gibberish, selling);
    }

    // An address made of a rare name says nothing beyond the name.
    private static bool NamedIn(MappedLead mapped, string address) =>
        NameFields.Any(f =>
            mapped.Values.GetValueOrDefault(f) is { Length: > 2 } name && Contains(address, Tokens.PlainOf(name))
        );

    private static bool NamesPlain(MappedLead mapped, string value) =>
        NameFields.Any(f => mapped.Values.GetValueOrDefault(f) is { } name && Contains(value, name));

    private static bool OneDigit(string number)
    {
        if (number.Length < 9)
            return false;
        var digits = number[^7..];
        return digits.All(c => c == digits[0]);
    }

    private static readonly string[] NameFields = ["first_name", "last_name", "company"];

    // What the names of such services have in common, rather than a list of them that is old tomorrow.
    private static readonly string[] Disposable =
    [
        "tempmail",
        "temp-mail",
        "tempm",
        "trashmail",
        "trash-mail",
        "throwaway",
        "throw-away",
        "10minute",
        "tenminute",
        "minutemail",
        "disposable",
        "dispose",
        "fakemail",
        "fake-mail",
        "burner",
        "spambox",
        "nospam",
        "mailtrash",
        "wegwerf",
        "jetable",
        "onetime",
        "one-time",
        "discard",
        "anonmail",
    ];

    private static readonly string[] Selling =
    [
        "rank your",
        "first page of",
        "seo ",
        "backlink",
        "guest post",
        "web design service",
        "increase your traffic",
        "website traffic",
        "crypto",
        "bitcoin",
        "casino",
        "payday",
        "pills online",
        "earn money",
        "make money",
        "passive income",
        "loan offer",
        "unsubscribe",
        "dear sir/madam",
        "lead generation service",
        "buy followers",
        "adult",
        "replica",
        "limited time offer",
        "100% free",
        "click here",
        "investment opportunity",
        "our agency can",
        "we can help you rank",
    ];

    private static string Short(string text) => Clip.Short(text, 30);

    private static bool Contains(string text, string part) => text.Contains(part, StringComparison.OrdinalIgnoreCase);

    private static int Count(string text, string part)
    {
        var count = 0;
        for (
            var at = text.IndexOf(part, StringComparison.OrdinalIgnoreCase);
            at >= 0;
            at = text.IndexOf(part, at + part.Length, StringComparison.OrdinalIgnoreCase)
        )
            count++;
        return count;
    }
}

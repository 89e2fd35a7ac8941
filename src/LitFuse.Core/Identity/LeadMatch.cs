using LitFuse.Core.Texts;

namespace LitFuse.Core.Identity;

/// <summary>Which kind of address a contact key is.</summary>
public enum ContactKind
{
    /// <summary>A normalised email address.</summary>
    Email,

    /// <summary>A number in E.164.</summary>
    Phone,
}

/// <summary>One normalised address by which a person is recognised within a client.</summary>
public sealed record ContactKey(ContactKind Kind, string Value);

/// <summary>Who somebody says they are: what tells two people apart who share an address.</summary>
public sealed record PersonSketch(string? FirstName, string? LastName, string? Email)
{
    /// <summary>
    /// True when these cannot well be one person: other names and another email, or wholly other names where no email
    /// could say so. One who writes an initial, swaps first and last name, or leaves one out, is still the same.
    /// </summary>
    public bool Contradicts(PersonSketch other)
    {
        var (mine, theirs) = (Names(), other.Names());
        if (mine.Length == 0 || theirs.Length == 0)
            return false;
        var wholly = !mine.Any(m => theirs.Any(t => Like(m, t)));
        if (Email is null || other.Email is null)
            return wholly && mine.Length > 1 && theirs.Length > 1;
        if (string.Equals(Email, other.Email, StringComparison.OrdinalIgnoreCase))
            return false;
        // A couple or a shop has a name in common, and a number.
        return wholly
            || (
                First() is { } me
                && other.First() is { } them
                && !mine.Contains(them, StringComparer.Ordinal)
                && !theirs.Contains(me, StringComparer.Ordinal)
                && !Like(me, them)
            );
    }

    private string[] Names() => [.. Tokens.Of($"{FirstName} {LastName}").Distinct(StringComparer.Ordinal)];

    private string? First() => Tokens.Of(FirstName ?? "").FirstOrDefault();

    private static bool Like(string a, string b) =>
        a == b
        || (a.Length == 1 && b[0] == a[0])
        || (b.Length == 1 && a[0] == b[0])
        || (a.Length > 2 && b.StartsWith(a, StringComparison.Ordinal))
        || (b.Length > 2 && a.StartsWith(b, StringComparison.Ordinal));
}

/// <summary>The lead a submission belongs to.</summary>
/// <param name="Lead">An existing lead, or <c>null</c> where a new one is to be made.</param>
/// <param name="Because">In words, for the story.</param>
/// <param name="Conflict">Another lead that one of the keys belongs to, or <c>null</c>.</param>
/// <param name="NewKeys">The keys to be written down for this lead.</param>
/// <param name="Shared">Those of them that other people have as well: they identify nobody by themselves.</param>
public sealed record LeadMatch<TLead>(
    TLead? Lead,
    string Because,
    TLead? Conflict,
    IReadOnlyList<ContactKey> NewKeys,
    IReadOnlyList<ContactKey> Shared
)
    where TLead : class;

/// <summary>
/// Same person = same normalised email or telephone number, within one client; but a number that different people give
/// is nobody's.
/// </summary>
public static class LeadMatcher
{
    /// <summary>
    /// Chooses the lead. Where the email is one lead's and the telephone number another's, the email's lead has it
    /// (numbers are shared in a household or a shop more often than mailboxes) and the conflict is told. A telephone
    /// number alone makes one of two people only where nothing else says that they are two.
    /// </summary>
    /// <param name="keys">What they can be recognised by.</param>
    /// <param name="said">Who they say they are.</param>
    /// <param name="owners">The leads that a key is written down for: several, where people share it.</param>
    /// <param name="sketch">Who a lead is.</param>
    public static LeadMatch<TLead> Match<TLead>(
        IReadOnlyList<ContactKey> keys,
        PersonSketch said,
        Func<ContactKey, IReadOnlyList<TLead>> owners,
        Func<TLead, PersonSketch> sketch
    )
        where TLead : class
    {
        var owned = keys.Distinct().Select(key => (Key: key, Leads: owners(key))).OrderBy(o => o.Key.Kind).ToList();
        TLead? lead = null,
            other = null;
        ContactKey? by = null;
        foreach (var (key, leads) in owned)
        {
            var same =
                key.Kind == ContactKind.Email
                    ? leads.Count > 0
                        ? leads[0]
                        : null
                    : leads.FirstOrDefault(l => !said.Contradicts(sketch(l)));
            if (same is null)
                continue;
            if (lead is null)
                (lead, by) = (same, key);
            else if (!Is(same, lead) && !leads.Any(l => Is(l, lead)))
                other ??= same;
        }

        var shared = owned
            .Where(o =>
                o.Key.Kind == ContactKind.Phone
                && o.Leads.Count > 0
                && !o.Leads.Any(l => lead is not null && Is(l, lead))
                && o.Leads.All(l => said.Contradicts(sketch(l)))
            )
            .ToList();
        var free = owned.Where(o => o.Leads.Count == 0).Concat(shared).Select(o => o.Key).ToList();
        if (lead is not null)
            return new(
                lead,
                by!.Kind == ContactKind.Email ? "same email" : "same telephone number",
                other,
                free,
                [.. shared.Select(s => s.Key)]
            );
        if (shared.Count > 0)
            return new(
                null,
                "another name and another email than those who gave this telephone number before: a number that people share is nobody's",
                shared[0].Leads[0],
                free,
                [.. shared.Select(s => s.Key)]
            );
        return new(
            null,
            keys.Count == 0
                ? "no email and no telephone number to know them by"
                : "nobody here has this email or telephone number",
            null,
            free,
            []
        );
    }

    private static bool Is<TLead>(TLead a, TLead b)
        where TLead : class => ReferenceEquals(a, b) || a.Equals(b);
}

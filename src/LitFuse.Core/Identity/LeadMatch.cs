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

/// <summary>The lead a submission belongs to.</summary>
/// <param name="Lead">An existing lead, or <c>null</c> where a new one is to be made.</param>
/// <param name="Because">In words, for the story.</param>
/// <param name="Conflict">Another lead that one of the keys belongs to, or <c>null</c>.</param>
/// <param name="NewKeys">The keys to be written down for this lead.</param>
public sealed record LeadMatch<TLead>(TLead? Lead, string Because, TLead? Conflict, IReadOnlyList<ContactKey> NewKeys)
    where TLead : class;

/// <summary>Same person = same normalised email or telephone number, within one client.</summary>
public static class LeadMatcher
{
    /// <summary>
    /// Chooses the lead. Where the email is one lead's and the telephone number another's, the email's lead has it
    /// (numbers are shared in a household or a shop more often than mailboxes) and the conflict is told.
    /// </summary>
    public static LeadMatch<TLead> Match<TLead>(IReadOnlyList<ContactKey> keys, Func<ContactKey, TLead?> owner)
        where TLead : class
    {
        var owned = keys.Select(key => (Key: key, Lead: owner(key))).ToList();
        var free = owned.Where(o => o.Lead is null).Select(o => o.Key).Distinct().ToList();
        var first = owned.Where(o => o.Lead is not null).OrderBy(o => o.Key.Kind).FirstOrDefault();
        if (first.Lead is null)
        {
            return new(null, keys.Count == 0 ? "no email and no telephone number to know them by" : "nobody here has this email or telephone number", null, free);
        }

        var other = owned.FirstOrDefault(o => o.Lead is not null && !ReferenceEquals(o.Lead, first.Lead) && !o.Lead.Equals(first.Lead)).Lead;
        var because = first.Key.Kind == ContactKind.Email ? "same email" : "same telephone number";
        return new(first.Lead, because, other, free);
    }
}

using Microsoft.AspNetCore.DataProtection;

namespace LitFuse.Platform;

/// <summary>
/// Links in letters by which a lead hears no more. A link names one lead, and is good for as long as a letter is kept.
/// </summary>
public sealed class UnsubscribeLinks(IDataProtectionProvider provider, PublicAddress address)
{
    private readonly IDataProtector protector = provider.CreateProtector("LitFuse.Unsubscribe.v1");

    /// <summary>The link for a lead.</summary>
    public string For(string lead) => $"{address.Url}/unsubscribe/{protector.Protect(lead)}";

    /// <summary>The lead that <paramref name="token"/> names, or <c>null</c> when it was tampered with.</summary>
    public Guid? Open(string token) => Guid.TryParse(protector.OpenOrNull(token), out var lead) ? lead : null;
}

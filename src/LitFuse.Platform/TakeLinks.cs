using Microsoft.AspNetCore.DataProtection;

namespace LitFuse.Platform;

/// <summary>
/// Signed links by which who reads a post takes the lead it is about. A link names one lead and runs out; who follows
/// it signs in where they are not.
/// </summary>
public sealed class TakeLinks(IDataProtectionProvider provider, PublicAddress address)
{
    /// <summary>How long a link is good: later, a lead is not taken from an old post but looked up.</summary>
    public static readonly TimeSpan GoodFor = TimeSpan.FromDays(7);

    private readonly ITimeLimitedDataProtector protector = provider
        .CreateProtector("LitFuse.Take.v1")
        .ToTimeLimitedDataProtector();

    /// <summary>The link for a lead.</summary>
    public string For(string lead) => $"{address.Url}/take/{protector.Protect(lead, GoodFor)}";

    /// <summary>
    /// The lead that <paramref name="token"/> names, or <c>null</c> when it was tampered with or ran out.
    /// </summary>
    public Guid? Open(string token) => Guid.TryParse(protector.OpenOrNull(token), out var lead) ? lead : null;
}

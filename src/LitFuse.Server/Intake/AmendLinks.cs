using LitFuse.Platform;
using Microsoft.AspNetCore.DataProtection;

namespace LitFuse.Server.Intake;

/// <summary>
/// Signed links by which a person amends their own answers later. A link names one submission of one form, and runs
/// out.
/// </summary>
public sealed class AmendLinks(IDataProtectionProvider provider, PublicAddress address)
{
    /// <summary>How long a link is good.</summary>
    public static readonly TimeSpan GoodFor = TimeSpan.FromDays(90);

    private readonly ITimeLimitedDataProtector protector = provider
        .CreateProtector("LitFuse.Amend.v1")
        .ToTimeLimitedDataProtector();

    /// <summary>The link for a submission.</summary>
    public string For(FormAddress form, Guid receipt) =>
        $"{address.Url}/f/{form.Key}/amend/{protector.Protect($"{form.FormId:N}{receipt:N}", GoodFor)}";

    /// <summary>
    /// The submission that <paramref name="token"/> names, or <c>null</c> when it is not of this form, was tampered
    /// with, or ran out.
    /// </summary>
    public Guid? Open(FormAddress form, string token) =>
        protector.OpenOrNull(token) is { } text
        && text.StartsWith(form.FormId.ToString("N"), StringComparison.Ordinal)
        && Guid.TryParseExact(text[32..], "N", out var receipt)
            ? receipt
            : null;
}

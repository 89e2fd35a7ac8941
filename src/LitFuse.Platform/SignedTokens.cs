using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;

namespace LitFuse.Platform;

/// <summary>Tokens of signed links.</summary>
public static class SignedTokens
{
    /// <summary>
    /// What stands in a token; <c>null</c> when it was cut in two, tampered with, made for another purpose, or ran out.
    /// </summary>
    public static string? OpenOrNull(this IDataProtector protector, string token)
    {
        try
        {
            return protector.Unprotect(token);
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}

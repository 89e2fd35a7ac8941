using Microsoft.AspNetCore.DataProtection;

namespace LitFuse.Platform;

/// <summary>Encrypts what must not lie readable in the database (Data Protection, keys in the database).</summary>
public sealed class Secrets(IDataProtectionProvider provider)
{
    private readonly IDataProtector protector = provider.CreateProtector("LitFuse.Connections.v1");

    /// <summary>For storing.</summary>
    public string Seal(string plain) => protector.Protect(plain);

    /// <summary>For using.</summary>
    public string Open(string sealedText) => protector.Unprotect(sealedText);
}

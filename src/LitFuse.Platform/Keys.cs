namespace LitFuse.Platform;

/// <summary>Makes keys and secrets.</summary>
public static class Keys
{
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";

    /// <summary>For an address: 16 letters that cannot be mistaken for each other.</summary>
    public static string New() => System.Security.Cryptography.RandomNumberGenerator.GetString(Letters, 16);

    /// <summary>To be kept secret: 40 of them.</summary>
    public static string Secret() => System.Security.Cryptography.RandomNumberGenerator.GetString(Letters, 40);

    /// <summary>To sign with, as Standard Webhooks writes it.</summary>
    public static string Signing() =>
        Core.Delivering.WebhookSignature.Written(System.Security.Cryptography.RandomNumberGenerator.GetBytes(32));
}

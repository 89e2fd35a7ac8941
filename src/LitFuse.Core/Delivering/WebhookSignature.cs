using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using NodaTime;

namespace LitFuse.Core.Delivering;

/// <summary>
/// Signs and checks webhooks by the Standard Webhooks scheme, version 1: HMAC-SHA256 over
/// <c>id.timestamp.body</c>, base64, prefixed <c>v1,</c>; several signatures may stand in one header, space-separated.
/// </summary>
public static class WebhookSignature
{
    private const string Prefix = "whsec_";

    /// <summary>How far a timestamp may lie from now.</summary>
    public static Duration Tolerance { get; } = Duration.FromMinutes(5);

    /// <summary>
    /// The bytes that a secret as written stands for: base64 after <c>whsec_</c>, else the text itself.
    /// </summary>
    public static byte[] KeyOf(string secret)
    {
        if (!secret.StartsWith(Prefix, StringComparison.Ordinal))
            return Encoding.UTF8.GetBytes(secret);
        var key = new byte[secret.Length];
        return Convert.TryFromBase64String(secret[Prefix.Length..], key, out var length)
            ? key[..length]
            : Encoding.UTF8.GetBytes(secret);
    }

    /// <summary>A secret as it is written, of these random bytes (24 to 64).</summary>
    public static string Written(byte[] random) => Prefix + Convert.ToBase64String(random);

    /// <summary>The header value for a body sent at <paramref name="unixSeconds"/>.</summary>
    public static string Sign(byte[] secret, string id, long unixSeconds, ReadOnlySpan<byte> body) =>
        "v1," + Convert.ToBase64String(Mac(secret, id, unixSeconds, body));

    /// <summary>Checks a header. Returns <c>null</c> when it is right, else what is wrong in words.</summary>
    public static string? Fault(
        byte[] secret,
        string? id,
        string? timestamp,
        string? signatures,
        ReadOnlySpan<byte> body,
        Instant now
    )
    {
        if (string.IsNullOrEmpty(id) || string.IsNullOrEmpty(signatures))
            return "the webhook-id or webhook-signature header is missing";
        if (!long.TryParse(timestamp, NumberStyles.None, CultureInfo.InvariantCulture, out var seconds))
            return "the webhook-timestamp header is not a number of seconds";
        if (Math.Abs((double)(now.ToUnixTimeSeconds() - seconds)) > Tolerance.TotalSeconds)
            return "the webhook-timestamp lies more than five minutes from now";
        var right = Mac(secret, id, seconds, body);
        foreach (var signature in signatures.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            if (!signature.StartsWith("v1,", StringComparison.Ordinal))
                continue;
            var given = new byte[64];
            if (
                Convert.TryFromBase64String(signature[3..], given, out var length)
                && CryptographicOperations.FixedTimeEquals(right, given.AsSpan(0, length))
            )
                return null;
        }

        return "the signature does not fit the body and the secret";
    }

    private static byte[] Mac(byte[] secret, string id, long unixSeconds, ReadOnlySpan<byte> body)
    {
        using var mac = IncrementalHash.CreateHMAC(HashAlgorithmName.SHA256, secret);
        mac.AppendData(Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{id}.{unixSeconds}.")));
        mac.AppendData(body);
        return mac.GetHashAndReset();
    }
}

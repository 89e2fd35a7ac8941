using System.Security.Cryptography;
using System.Text;
using LitFuse.Core.Delivering;

namespace LitFuse.Server.Ways;

/// <summary>A form's proof, its secret opened.</summary>
public sealed record OpenProof(string Kind, string? User, string Secret);

/// <summary>Checks that a sender is who it should be.</summary>
public static class SenderProof
{
    /// <summary>Why <paramref name="call"/> does not prove itself, and how to mend it; or <c>null</c>.</summary>
    public static string? Refuse(OpenProof proof, DoorCall call) =>
        proof.Kind switch
        {
            "signature" => WebhookSignature.Fault(
                WebhookSignature.KeyOf(proof.Secret),
                call.Headers["webhook-id"],
                call.Headers["webhook-timestamp"],
                call.Headers["webhook-signature"],
                call.Body.Span,
                call.Now
            ),
            "key" => Key(proof, call),
            "basic" => Basic(proof, call),
            _ => "This form's way of proving the sender is unknown.",
        };

    /// <summary>Compares two secrets without telling by the time it takes.</summary>
    public static bool Same(string a, string b) =>
        CryptographicOperations.FixedTimeEquals(
            SHA256.HashData(Encoding.UTF8.GetBytes(a)),
            SHA256.HashData(Encoding.UTF8.GetBytes(b))
        );

    private static string? Key(OpenProof proof, DoorCall call)
    {
        var authorization = call.Headers.Authorization.ToString();
        var shown = authorization.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
            ? authorization[7..].Trim()
            : call.Headers["Lit-Fuse-Key"].ToString();
        if (shown.Length == 0)
            return "There is no key: send it as Authorization: Bearer, or in the Lit-Fuse-Key header.";
        return Same(shown, proof.Secret) ? null : "The key is not this form's key. Copy it from the form's page again.";
    }

    private static string? Basic(OpenProof proof, DoorCall call)
    {
        var authorization = call.Headers.Authorization.ToString();
        if (!authorization.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
            return "There is no user and password: send them as Authorization: Basic (RFC 7617).";
        var bytes = new byte[authorization.Length];
        if (!Convert.TryFromBase64String(authorization[6..].Trim(), bytes, out var length))
            return "Authorization: Basic is not followed by Base64.";
        return Same(Encoding.UTF8.GetString(bytes, 0, length), $"{proof.User}:{proof.Secret}")
            ? null
            : "The user or the password is not right.";
    }
}

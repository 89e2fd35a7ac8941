using System.Text.Json;
using LitFuse.Core;

namespace LitFuse.Server.Ways;

/// <summary>Reads bodies that a network has a shape for.</summary>
public static class NetworkBodies
{
    /// <summary>
    /// The body in its network's shape, or <c>null</c> when it has another; then it is read as any JSON is.
    /// </summary>
    public static T? Read<T>(ReadOnlyMemory<byte> raw)
        where T : class
    {
        try
        {
            return JsonSerializer.Deserialize<T>(raw.Span, CoreJson.Options);
        }
        catch (Exception e)
            when (e is JsonException or NodaTime.Text.UnparsableValueException or InvalidOperationException)
        {
            return null;
        }
    }
}

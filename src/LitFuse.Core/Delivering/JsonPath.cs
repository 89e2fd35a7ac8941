using System.Globalization;
using System.Text.Json;

namespace LitFuse.Core.Delivering;

/// <summary>Finds a value in JSON by a JSON Pointer (RFC 6901): <c>/data/0/id</c>.</summary>
public static class JsonPath
{
    /// <summary>What is wrong with a pointer, or <c>null</c>.</summary>
    public static string? Fault(string pointer) =>
        pointer.Length > 0 && pointer[0] != '/' ? "it begins with a stroke, as in /data/id"
        : pointer
            .Replace("~0", "", StringComparison.Ordinal)
            .Replace("~1", "", StringComparison.Ordinal)
            .Contains('~', StringComparison.Ordinal)
            ? "a ~ is written ~0, and a stroke inside a name ~1"
        : null;

    /// <summary>
    /// The value as text: strings as they are, anything else as JSON; <c>null</c> where there is none.
    /// </summary>
    public static string? Find(JsonElement root, string pointer)
    {
        if (Fault(pointer) is not null)
            return null;
        var at = root;
        foreach (var part in pointer.Length == 0 ? [] : pointer[1..].Split('/'))
        {
            var name = part.Replace("~1", "/", StringComparison.Ordinal).Replace("~0", "~", StringComparison.Ordinal);
            if (at.ValueKind == JsonValueKind.Object && at.TryGetProperty(name, out var member))
                at = member;
            else if (
                at.ValueKind == JsonValueKind.Array
                && int.TryParse(name, NumberStyles.None, CultureInfo.InvariantCulture, out var index)
                && index < at.GetArrayLength()
            )
                at = at[index];
            else
                return null;
        }

        return at.ValueKind switch
        {
            JsonValueKind.Null or JsonValueKind.Undefined => null,
            JsonValueKind.String => at.GetString(),
            _ => at.GetRawText(),
        };
    }
}

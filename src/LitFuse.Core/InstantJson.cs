using System.Text.Json;
using System.Text.Json.Serialization;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core;

/// <summary>
/// Writes an <see cref="Instant"/> as an RFC 3339 timestamp in UTC (<c>2026-11-24T09:41:07.25Z</c>) and reads one back.
/// </summary>
public sealed class InstantJson : JsonConverter<Instant>
{
    /// <inheritdoc />
    public override Instant Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        var text = reader.GetString() ?? "";
        var parsed = OffsetDateTimePattern.Rfc3339.Parse(text);
        return parsed.Success
            ? parsed.Value.ToInstant()
            : throw new JsonException(
                $"'{text}' is not a time. Write it as RFC 3339 has it, for example 2026-11-24T09:41:07Z."
            );
    }

    /// <inheritdoc />
    public override void Write(Utf8JsonWriter writer, Instant value, JsonSerializerOptions options) =>
        writer.WriteStringValue(InstantPattern.ExtendedIso.Format(value));
}

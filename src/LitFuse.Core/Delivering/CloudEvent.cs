using System.Globalization;
using System.Text;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Delivering;

/// <summary>
/// An event as CloudEvents 1.0 describe it (core specification §3; HTTP binding §3.1 and §3.2; JSON format §2).
/// </summary>
/// <param name="Id">Unique for its source: the same for each try.</param>
/// <param name="Source">A URI reference.</param>
/// <param name="Type">What happened.</param>
/// <param name="Subject">About what; may be empty.</param>
/// <param name="Time">When.</param>
/// <param name="Data">JSON.</param>
public sealed record CloudEvent(string Id, string Source, string Type, string Subject, Instant Time, string Data)
{
    /// <summary>The media type of the structured mode.</summary>
    public const string Structured = "application/cloudevents+json";

    /// <summary>Structured mode: event and data are one body.</summary>
    public string AsBody()
    {
        using var buffer = new MemoryStream();
        using (
            var writer = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions
                {
                    Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                }
            )
        )
        {
            writer.WriteStartObject();
            foreach (var (name, value) in Attributes())
                writer.WriteString(name, value);
            writer.WriteString("datacontenttype", "application/json");
            writer.WritePropertyName("data");
            writer.WriteRawValue(Data);
            writer.WriteEndObject();
        }

        return Encoding.UTF8.GetString(buffer.GetBuffer(), 0, (int)buffer.Length);
    }

    /// <summary>Binary mode: the data is the body, and all else stands in headers.</summary>
    public IReadOnlyList<(string Name, string Value)> AsHeaders() =>
        [.. Attributes().Select(a => ("ce-" + a.Name, Encoded(a.Value)))];

    private IEnumerable<(string Name, string Value)> Attributes()
    {
        yield return ("specversion", "1.0");
        yield return ("id", Id);
        yield return ("source", Source);
        yield return ("type", Type);
        if (Subject.Length > 0)
            yield return ("subject", Subject);
        yield return ("time", InstantPattern.ExtendedIso.Format(Time));
    }

    // HTTP binding §3.1.3.2: space, double quote, percent, and all that is not printable ASCII.
    private static string Encoded(string value)
    {
        var text = new StringBuilder(value.Length);
        foreach (var b in Encoding.UTF8.GetBytes(value))
        {
            if (b is > 0x20 and < 0x7f and not (byte)'"' and not (byte)'%')
                text.Append((char)b);
            else
                text.Append(CultureInfo.InvariantCulture, $"%{b:X2}");
        }

        return text.ToString();
    }
}

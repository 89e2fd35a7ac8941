using System.Security.Cryptography;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using Xunit;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>
/// What the core says today, written down a line a case. A change that alters a judgement shows here which ones, so
/// that somebody looks at them; a change that was meant is written anew with <c>LITFUSE_WRITE=1</c> and read as a diff.
/// It does not say that a judgement is right: the laws and the labelled sets do.
/// </summary>
internal static class Recording
{
    private static readonly JsonSerializerOptions Json = new(CoreJson.Options)
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Converters =
        {
            new AsWritten<NodaTime.Duration>(),
            new AsWritten<NodaTime.LocalDate>(),
            new AsWritten<NodaTime.LocalTime>(),
            new AsWritten<NodaTime.DateTimeZone>(),
        },
    };

    /// <summary>Holds these lines against those of <c>Recorded/{name}.txt</c>.</summary>
    public static void Hold(string name, IEnumerable<string> cases)
    {
        var path = Path.Combine(Root.Path, "tests/LitFuse.Core.Tests/Recorded", name + ".txt");
        // Cases are made while they are asked for: the machine's language has no say in them.
        System.Globalization.CultureInfo.CurrentCulture = System.Globalization.CultureInfo.InvariantCulture;
        var now = cases.Select(OneLine).ToList();
        if (Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1")
            File.WriteAllLines(path, now);
        var then = File.ReadAllLines(path);
        var others = now.Zip(then)
            .Select((pair, i) => (Line: i + 1, Now: pair.First, Then: pair.Second))
            .Where(p => p.Now != p.Then)
            .Take(5)
            .ToList();
        Assert.True(
            others.Count == 0 && now.Count == then.Length,
            $"{name}.txt: {now.Count} cases, {then.Length} recorded.\n{string.Join('\n', others.Select(o => $"line {o.Line}\n  was {o.Then}\n  now {o.Now}"))}\nIf this was meant: LITFUSE_WRITE=1, and read the diff."
        );
    }

    /// <summary>Anything, as one line.</summary>
    public static string Say(object? what) => what as string ?? JsonSerializer.Serialize(what, Json);

    /// <summary>A text too long to be kept, by its mark.</summary>
    public static string Short(string text, int most = 160) =>
        text.Length <= most ? text : $"{text[..most]}… {Mark(text)}";

    /// <summary>The mark of a text: what changes anything in it changes the mark.</summary>
    public static string Mark(string text) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..10];

    // Line ends within a case would make two of it.
    private static string OneLine(string text) =>
        string.Concat(
            text.Select(c =>
                c switch
                {
                    '\n' => "⏎",
                    '\r' => "␍",
                    '\t' => "⇥",
                    _ when char.IsControl(c) || c is '\u2028' or '\u2029' or '\u0085' => $"\\u{(int)c:x4}",
                    _ => c.ToString(),
                }
            )
        );

    private sealed class AsWritten<T> : JsonConverter<T>
    {
        public override T Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            throw new NotSupportedException();

        public override void Write(Utf8JsonWriter writer, T value, JsonSerializerOptions options) =>
            writer.WriteStringValue(Convert.ToString(value, System.Globalization.CultureInfo.InvariantCulture));
    }
}

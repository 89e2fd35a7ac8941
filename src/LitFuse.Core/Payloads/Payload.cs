using System.Buffers;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using LitFuse.Core.Texts;
using NodaTime;

namespace LitFuse.Core.Payloads;

/// <summary>One answer as it arrived: the form's own field name and the text given.</summary>
public sealed record Answer(string Field, string Value);

/// <summary>A form as its sender names it.</summary>
/// <param name="Id">The sender's own id.</param>
/// <param name="Name">As people there know it.</param>
public sealed record SentForm(string Id, string Name);

/// <summary>
/// A submission's body read into answers, or the reason it cannot be. Nothing is thrown away by reading: the raw
/// bytes are kept beside it.
/// </summary>
/// <param name="Answers">In the order they came.</param>
/// <param name="OwnId">The submission's own id, when its sender gave one.</param>
/// <param name="Unreadable">Why it cannot be read, with the place; <c>null</c> when it can.</param>
public sealed record Payload(IReadOnlyList<Answer> Answers, string? OwnId, string? Unreadable)
{
    /// <summary>The most answers one submission may hold.</summary>
    public const int MostAnswers = 500;

    /// <summary>The longest own id that is kept as such.</summary>
    public const int LongestOwnId = 200;

    /// <summary>
    /// Fields by which our own forms and scripts tell how they were filled in begin so; they are no answers.
    /// </summary>
    public const string OwnPrefix = "lf_";

    private const int DeepestNesting = 16;

    /// <summary>Said of JSON that is no text.</summary>
    public const string CutCharacter = "a text in it is cut in the middle of a character (half of a surrogate pair)";

    private static readonly Dictionary<string, string> NoSigns = new(StringComparer.Ordinal);

    /// <summary>When the person pressed, by the sender's clock.</summary>
    public Instant? SentAt { get; init; }

    /// <summary>The sender's own id of the form, where one address takes several forms.</summary>
    public SentForm? Form { get; init; }

    /// <summary>Its sender says that it is only a test.</summary>
    public bool Test { get; init; }

    /// <summary>What our own forms and scripts say of how it was filled in, without <see cref="OwnPrefix"/>.</summary>
    public IReadOnlyDictionary<string, string> Signs { get; init; } = NoSigns;

    /// <summary>True for a field that holds a web address by its nature.</summary>
    public static bool IsAddressField(string field) =>
        field is "referrer" or "landing_path" or "pages_seen" or "page"
        || field.EndsWith("url", StringComparison.OrdinalIgnoreCase)
        || field.EndsWith("website", StringComparison.OrdinalIgnoreCase);

    /// <summary>A body that cannot be read.</summary>
    public static Payload Bad(string reason) => new([], null, Plain(reason));

    /// <summary>A text without what no database keeps.</summary>
    public static string Plain(string text) =>
        text.Contains('\0', StringComparison.Ordinal) ? text.Replace("\0", "", StringComparison.Ordinal) : text;

    /// <summary>
    /// Reads a JSON object. Nested objects become dotted names, lists of plain values are joined with commas, and
    /// lists of objects are numbered (<c>items.0.name</c>). <c>id</c> at the top is the submission's own id.
    /// </summary>
    public static Payload FromJson(ReadOnlyMemory<byte> body)
    {
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(body, new JsonDocumentOptions { MaxDepth = DeepestNesting });
        }
        catch (JsonException e)
        {
            return Bad($"not readable as JSON at line {e.LineNumber + 1}, byte {e.BytePositionInLine + 1}");
        }

        using (document)
        {
            if (document.RootElement.ValueKind != JsonValueKind.Object)
            {
                return Bad("the JSON is not an object with field names as keys");
            }

            var pairs = new List<Answer>();
            try
            {
                Flatten("", document.RootElement, pairs);
            }
            catch (InvalidOperationException)
            {
                return Bad(CutCharacter);
            }

            return FromAnswers(pairs);
        }
    }

    /// <summary>
    /// Reads name and value pairs of a form post. A name that comes several times is one answer, joined with commas.
    /// </summary>
    public static Payload FromPairs(IEnumerable<KeyValuePair<string, string>> pairs) =>
        FromAnswers(pairs.Select(p => new Answer(p.Key, p.Value)).ToList());

    /// <summary>Reads answers that have names already. <c>id</c> among them is the submission's own id.</summary>
    public static Payload FromAnswers(IReadOnlyList<Answer> pairs)
    {
        string? ownId = null;
        Dictionary<string, string>? signs = null;
        var answers = new List<Answer>(pairs.Count);
        foreach (var (field, value) in pairs)
        {
            if (field.StartsWith(OwnPrefix, StringComparison.Ordinal))
            {
                (signs ??= new(StringComparer.Ordinal))[field[OwnPrefix.Length..]] = Clip.To(value, 2000);
                continue;
            }

            if (field == "id")
            {
                ownId = Plain(value).Trim() is { Length: > 0 and <= LongestOwnId } id ? id : ownId;
                continue;
            }

            if (string.IsNullOrWhiteSpace(field))
                continue;
            var clean = Plain(value).Trim();
            var at = answers.FindIndex(a => a.Field == field);
            if (at < 0)
                answers.Add(new Answer(Plain(field), clean));
            else if (clean.Length > 0)
                answers[at] = answers[at] with
                {
                    Value = answers[at].Value.Length == 0 ? clean : answers[at].Value + ", " + clean,
                };
        }

        if (answers.Count > MostAnswers)
            return Bad($"{answers.Count} answers; at most {MostAnswers} are read");
        return (answers.Count == 0 ? Bad("there is no answer in it") : new Payload(answers, ownId, null)) with
        {
            Signs = signs ?? NoSigns,
        };
    }

    /// <summary>
    /// Reads <paramref name="value"/> into answers named from <paramref name="name"/> on, as <see cref="FromJson"/>
    /// does.
    /// </summary>
    public static void Flatten(string name, JsonElement value, List<Answer> into)
    {
        if (into.Count > MostAnswers)
            return;
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var property in value.EnumerateObject())
                    Flatten(name.Length == 0 ? property.Name : name + "." + property.Name, property.Value, into);
                break;
            case JsonValueKind.Array
                when value.EnumerateArray().All(e => e.ValueKind is not (JsonValueKind.Object or JsonValueKind.Array)):
                into.Add(new Answer(name, string.Join(", ", value.EnumerateArray().Select(Plain))));
                break;
            case JsonValueKind.Array:
                var index = 0;
                foreach (var item in value.EnumerateArray())
                    Flatten(string.Create(CultureInfo.InvariantCulture, $"{name}.{index++}"), item, into);
                break;
            default:
                into.Add(new Answer(name, Plain(value)));
                break;
        }
    }

    /// <summary>A plain JSON value as the answer it is.</summary>
    public static string Plain(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.String => value.GetString()!,
            JsonValueKind.True => "yes",
            JsonValueKind.False => "no",
            JsonValueKind.Null => "",
            _ => value.GetRawText(),
        };

    /// <summary>
    /// SHA-256 over the answers sorted by name, so that the same content in another order or encoding is the same.
    /// An unreadable body is told apart by its bytes.
    /// </summary>
    public byte[] Digest(ReadOnlySpan<byte> raw)
    {
        if (Unreadable is not null)
            return SHA256.HashData(raw);
        var sorted = new Answer[Answers.Count];
        for (var i = 0; i < sorted.Length; i++)
            sorted[i] = Answers[i];
        Array.Sort(sorted, static (a, b) => string.CompareOrdinal(a.Field, b.Field));
        var text = ArrayPool<byte>.Shared.Rent(
            sorted.Sum(static a => Encoding.UTF8.GetMaxByteCount(a.Field.Length + a.Value.Length + 2))
        );
        var length = 0;
        foreach (var (field, value) in sorted)
        {
            length += Encoding.UTF8.GetBytes(field, text.AsSpan(length));
            text[length++] = 0x1f;
            length += Encoding.UTF8.GetBytes(value, text.AsSpan(length));
            text[length++] = 0x1e;
        }

        var digest = SHA256.HashData(text.AsSpan(0, length));
        ArrayPool<byte>.Shared.Return(text);
        return digest;
    }
}

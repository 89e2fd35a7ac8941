using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace LitFuse.Core.Words;

/// <summary>
/// JSON (RFC 8259) with words in its strings: <c>{"who": "{{ lead.name }}"}</c>. It is read as JSON first and its
/// strings as words then, so that what a lead wrote can only ever become the inside of a string. Three strings stand
/// for more: <c>"{{ lead }}"</c> and <c>"{{ tracking }}"</c> become objects, <c>"{{ answers }}"</c> a list of questions
/// with their answers; and what ends in <c>| as_number }}</c> becomes a number, or <c>null</c> where it is none.
/// </summary>
public sealed partial class JsonWords
{
    /// <summary>The longest there may be, in characters.</summary>
    public const int Longest = 20_000;

    private const int Deepest = 32;
    private readonly Node root;

    private JsonWords(Node root, IReadOnlyList<string> uses)
    {
        this.root = root;
        Uses = uses;
    }

    /// <summary>The facts the words speak of, as paths.</summary>
    public IReadOnlyList<string> Uses { get; }

    /// <summary>Parses <paramref name="text"/>.</summary>
    /// <returns>It, or <c>null</c> with what is wrong and where.</returns>
    public static (JsonWords? Words, string? Fault) Parse(string text)
    {
        if (text.Length > Longest)
            return (null, $"{text.Length} characters; at most {Longest} are sent");
        try
        {
            using var json = JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = Deepest });
            var uses = new List<string>();
            var (root, fault) = Read(json.RootElement, "", uses);
            return fault is null ? (new(root!, [.. uses.Distinct(StringComparer.Ordinal)]), null) : (null, fault);
        }
        catch (JsonException e)
        {
            return (
                null,
                $"it is not JSON in line {e.LineNumber + 1}, at character {e.BytePositionInLine + 1}: {e.Message.Split(" LineNumber")[0].TrimEnd('.')}"
            );
        }
    }

    /// <summary>The JSON with the facts put in, or why there is none.</summary>
    public Rendered Render(WordFacts facts)
    {
        var buffer = new ArrayBufferWriter<byte>();
        string? fault;
        using (
            var writer = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions
                {
                    Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                }
            )
        )
            fault = Write(writer, root, facts);
        return fault is null ? new(Encoding.UTF8.GetString(buffer.WrittenSpan), null) : Rendered.Not(fault);
    }

    private static (Node? Node, string? Fault) Read(JsonElement element, string at, List<string> uses)
    {
        switch (element.ValueKind)
        {
            case JsonValueKind.Object:
                var members = new List<(string Name, Node Value)>();
                foreach (var member in element.EnumerateObject())
                {
                    var (node, fault) = Read(member.Value, $"{at}/{member.Name}", uses);
                    if (fault is not null)
                        return (null, fault);
                    members.Add((member.Name, node!));
                }

                return (new Node.Object(members), null);
            case JsonValueKind.Array:
                var items = new List<Node>();
                foreach (var item in element.EnumerateArray())
                {
                    var (node, fault) = Read(item, $"{at}/{items.Count}", uses);
                    if (fault is not null)
                        return (null, fault);
                    items.Add(node!);
                }

                return (new Node.Array(items), null);
            case JsonValueKind.String:
                return ReadString(element.GetString()!, at, uses);
            default:
                return (new Node.Raw(element.GetRawText()), null);
        }
    }

    private static (Node? Node, string? Fault) ReadString(string text, string at, List<string> uses)
    {
        if (!text.Contains("{{", StringComparison.Ordinal) && !text.Contains("{%", StringComparison.Ordinal))
            return (new Node.Plain(text), null);
        if (WholeThing().Match(text) is { Success: true } whole)
            return (new Node.Whole(whole.Groups["what"].Value), null);
        var (words, fault) = MessageWords.Parse(text);
        if (words is null)
            return (null, $"at {at}: {fault}");
        uses.AddRange(words.Uses);
        return (new Node.Text(words, AsNumber().IsMatch(text)), null);
    }

    // Returns the first fault of the words in it. It is written to its end all the same, so that the writer stays
    // whole.
    private static string? Write(Utf8JsonWriter writer, Node node, WordFacts facts)
    {
        string? fault = null;
        switch (node)
        {
            case Node.Object o:
                writer.WriteStartObject();
                foreach (var (name, value) in o.Members)
                {
                    writer.WritePropertyName(name);
                    fault = Write(writer, value, facts) ?? fault;
                }

                writer.WriteEndObject();
                return fault;
            case Node.Array a:
                writer.WriteStartArray();
                foreach (var item in a.Items)
                    fault = Write(writer, item, facts) ?? fault;
                writer.WriteEndArray();
                return fault;
            case Node.Text t:
                var said = t.Words.Render(facts);
                if (!t.Number)
                    writer.WriteStringValue(said.Text);
                else if (decimal.TryParse(said.Text, NumberStyles.Number, CultureInfo.InvariantCulture, out var number))
                    writer.WriteNumberValue(number);
                else
                    writer.WriteNullValue();
                return said.Fault;
            case Node.Whole w:
                WriteWhole(writer, w.What, facts);
                return null;
            case Node.Plain plain:
                writer.WriteStringValue(plain.Said);
                return null;
            case Node.Raw raw:
                writer.WriteRawValue(raw.Json);
                return null;
            default:
                throw new InvalidOperationException($"JSON of no kind: {node}");
        }
    }

    private static void WriteWhole(Utf8JsonWriter writer, string what, WordFacts facts)
    {
        if (what == "answers")
        {
            writer.WriteStartArray();
            foreach (var (question, answer) in facts.Answers)
            {
                writer.WriteStartObject();
                writer.WriteString("question", question);
                writer.WriteString("answer", answer);
                writer.WriteEndObject();
            }

            writer.WriteEndArray();
            return;
        }

        writer.WriteStartObject();
        foreach (var (key, value) in what == "lead" ? facts.Lead : facts.Tracking)
            writer.WriteString(key, value);
        writer.WriteEndObject();
    }

    [GeneratedRegex(@"^\s*\{\{\s*(?<what>lead|answers|tracking)\s*\}\}\s*$", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex WholeThing();

    [GeneratedRegex(@"^\s*\{\{[^{}]*\|\s*as_number\s*\}\}\s*$", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex AsNumber();

    private abstract record Node
    {
        public sealed record Object(IReadOnlyList<(string Name, Node Value)> Members) : Node;

        public sealed record Array(IReadOnlyList<Node> Items) : Node;

        public sealed record Text(MessageWords Words, bool Number) : Node;

        public sealed record Whole(string What) : Node;

        public sealed record Plain(string Said) : Node;

        public sealed record Raw(string Json) : Node;
    }
}

using System.Globalization;
using System.Text.Json;

namespace LitFuse.Core.Payloads;

/// <summary>One field picked from a JSON body.</summary>
/// <param name="Path"> A JSONPath (RFC 9535) of names, indexes and wildcards: <c>$.contact.email</c>, <c>$['odd
/// name']</c>, <c>$.items[*].sku</c>. What several places give is joined with commas.
/// </param>
/// <param name="Field">The answer's name.</param>
public sealed record Pick(string Path, string Field);

/// <summary>Reads JSON by picks, and says what there is to pick.</summary>
public static class Picks
{
    private const int MostPaths = 400;

    /// <summary>
    /// The answers that <paramref name="picks"/> find in <paramref name="body"/>; without picks all of it, as
    /// <see cref="Payload.FromJson"/> reads it. A body that is a list is read too.
    /// </summary>
    public static Payload Read(IReadOnlyList<Pick> picks, ReadOnlyMemory<byte> body)
    {
        if (picks.Count == 0)
            return Payload.FromJson(body);
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(body, new JsonDocumentOptions { MaxDepth = 64 });
        }
        catch (JsonException e)
        {
            return Payload.Bad(
                $"not readable as JSON at line {(e.LineNumber ?? 0) + 1}, byte {(e.BytePositionInLine ?? 0) + 1}"
            );
        }

        using (document)
        {
            var answers = new List<Answer>();
            foreach (var pick in picks)
            {
                if (Parse(pick.Path) is not { } steps)
                    continue;
                var found = new List<string>();
                try
                {
                    Walk(document.RootElement, steps, 0, found);
                }
                catch (InvalidOperationException)
                {
                    return Payload.Bad(Payload.CutCharacter);
                }

                if (found.Count > 0)
                    answers.Add(new(pick.Field, string.Join(", ", found.Where(f => f.Length > 0))));
            }

            return answers.Count == 0
                ? Payload.Bad("none of the picked fields is in it; look at the sample and pick again")
                : Payload.FromAnswers(answers);
        }
    }

    /// <summary>Every plain value in a sample with its path, lists by wildcard; for picking with the mouse.</summary>
    public static IReadOnlyList<Answer> Paths(ReadOnlyMemory<byte> body)
    {
        try
        {
            using var document = JsonDocument.Parse(body, new JsonDocumentOptions { MaxDepth = 64 });
            var paths = new List<Answer>();
            List("$", document.RootElement, paths);
            return paths;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            return [];
        }
    }

    /// <summary>Why a path is not one, or <c>null</c>.</summary>
    public static string? Fault(string path) =>
        Parse(path) is null
            ? $"“{path}” is not a path; write it as $.contact.email, $['odd name'] or $.items[*].sku"
            : null;

    // A step is a name (string), an index (int) or every one (null).
    private static List<object?>? Parse(string path)
    {
        if (path.Length is 0 or > 500 || path[0] != '$')
            return null;
        var steps = new List<object?>();
        var at = 1;
        while (at < path.Length)
        {
            if (path[at] == '.')
            {
                var end = at + 1;
                while (end < path.Length && path[end] is not ('.' or '['))
                    end++;
                if (end == at + 1)
                    return null;
                steps.Add(path[(at + 1)..end] is "*" ? null : path[(at + 1)..end]);
                at = end;
            }
            else if (path[at] == '[')
            {
                if (Bracket(path, ref at, out var step))
                    steps.Add(step);
                else
                    return null;
            }
            else
            {
                return null;
            }
        }

        return steps;
    }

    private static bool Bracket(string path, ref int at, out object? step)
    {
        step = null;
        if (at + 1 < path.Length && path[at + 1] == '\'')
        {
            var name = new System.Text.StringBuilder();
            var i = at + 2;
            for (; i < path.Length && path[i] != '\''; i++)
            {
                if (path[i] == '\\' && i + 1 < path.Length)
                    i++;
                name.Append(path[i]);
            }

            if (i + 1 >= path.Length || path[i + 1] != ']')
                return false;
            step = name.ToString();
            at = i + 2;
            return true;
        }

        var close = path.IndexOf(']', at);
        if (close < 0)
            return false;
        var inside = path.AsSpan(at + 1, close - at - 1);
        at = close + 1;
        if (inside is "*")
            return true;
        if (!int.TryParse(inside, NumberStyles.None, CultureInfo.InvariantCulture, out var index))
            return false;
        step = index;
        return true;
    }

    private static void Walk(JsonElement value, List<object?> steps, int at, List<string> found)
    {
        if (found.Count > Payload.MostAnswers)
            return;
        if (at == steps.Count)
        {
            if (value.ValueKind is JsonValueKind.Object or JsonValueKind.Array)
            {
                var inside = new List<Answer>();
                Payload.Flatten("", value, inside);
                found.AddRange(
                    inside.Select(a => a.Field.Length == 0 ? a.Value : $"{a.Field.TrimStart('.')}: {a.Value}")
                );
            }
            else
            {
                found.Add(Payload.Plain(value));
            }

            return;
        }

        switch (steps[at])
        {
            case string name when value.ValueKind == JsonValueKind.Object && value.TryGetProperty(name, out var child):
                Walk(child, steps, at + 1, found);
                break;
            case int index when value.ValueKind == JsonValueKind.Array && index < value.GetArrayLength():
                Walk(value[index], steps, at + 1, found);
                break;
            case null when value.ValueKind == JsonValueKind.Array:
                foreach (var item in value.EnumerateArray())
                    Walk(item, steps, at + 1, found);
                break;
            case null when value.ValueKind == JsonValueKind.Object:
                foreach (var property in value.EnumerateObject())
                    Walk(property.Value, steps, at + 1, found);
                break;
            default:
                break;
        }
    }

    private static void List(string path, JsonElement value, List<Answer> into)
    {
        if (into.Count >= MostPaths)
            return;
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var property in value.EnumerateObject())
                    List(path + NameStep(property.Name), property.Value, into);
                break;
            case JsonValueKind.Array:
                foreach (var item in value.EnumerateArray())
                    List(path + "[*]", item, into);
                break;
            default:
                var plain = Payload.Plain(value);
                var known = into.FindIndex(a => a.Field == path);
                if (known < 0)
                    into.Add(new(path, plain));
                else if (into[known].Value.Length < 200)
                    into[known] = new(path, into[known].Value + ", " + plain);
                break;
        }
    }

    private static string NameStep(string name) =>
        name.Length > 0 && name.All(c => char.IsLetterOrDigit(c) || c == '_')
            ? "." + name
            : $"['{name.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("'", "\\'", StringComparison.Ordinal)}']";
}

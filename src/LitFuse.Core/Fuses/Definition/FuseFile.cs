using System.Text.Json;
using System.Text.Json.Nodes;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>A fuse as a file: JSON by <c>fuse.schema.json</c>, of this version of the shape or an older one.</summary>
public static class FuseFile
{
    /// <summary>The version of the shape that is written.</summary>
    public const int Schema = 2;

    /// <summary>The longest file that is read, in characters.</summary>
    public const int Longest = 400_000;

    private const string SchemaKey = "$schema";

    private static readonly JsonSerializerOptions Indented = new(CoreJson.Options)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Prints it.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="schema">Where its JSON Schema is to be had, for editors that check as one types.</param>
    public static string Print(FuseDefinition fuse, string? schema = null)
    {
        if (schema is null)
            return JsonSerializer.Serialize(fuse, Indented) + "\n";
        var whole = new JsonObject { [SchemaKey] = schema };
        var plain = JsonSerializer.SerializeToNode(fuse, CoreJson.Options)!.AsObject();
        foreach (var (key, value) in plain.ToList())
        {
            plain.Remove(key);
            whole[key] = value;
        }

        return whole.ToJsonString(Indented) + "\n";
    }

    /// <summary>True when two would be written alike, in whatever order their settings stand.</summary>
    public static bool Same(FuseDefinition a, FuseDefinition b) =>
        JsonNode.DeepEquals(
            JsonSerializer.SerializeToNode(a, CoreJson.Options),
            JsonSerializer.SerializeToNode(b, CoreJson.Options)
        );

    /// <summary>Reads it.</summary>
    /// <returns>The fuse, or <c>null</c> with what is wrong and where.</returns>
    public static (FuseDefinition? Fuse, string? Fault) Parse(string text)
    {
        if (text.Length > Longest)
            return (null, $"the file is longer than {Longest:#,0} characters");
        try
        {
            return (Read(text, CoreJson.Strict), null);
        }
        catch (JsonException e)
        {
            return (null, "it is not a fuse: " + CoreJson.InWords(e));
        }
    }

    /// <summary>Reads what is stored.</summary>
    /// <exception cref="JsonException">It is no fuse.</exception>
    public static FuseDefinition Read(string text) => Read(text, CoreJson.Options);

    private static FuseDefinition Read(string text, JsonSerializerOptions options)
    {
        if (
            JsonNode.Parse(text, documentOptions: new() { AllowDuplicateProperties = options.AllowDuplicateProperties })
            is not JsonObject fuse
        )
            throw new JsonException("a fuse is an object");
        var version = VersionOf(fuse["schema"]);
        if (version > Schema)
            throw new JsonException($"the file is of version {version}; this Lit Fuse reads versions up to {Schema}");
        fuse.Remove(SchemaKey);
        if (version < 2)
            FromFirst(fuse);
        Renamed(fuse);
        var read = fuse.Deserialize<FuseDefinition>(options) ?? throw new JsonException("the file is empty");
        if (read.Bands.Any(b => b is null || b.Steps.Any(s => s is null)) || read.LitBy.Any(l => l is null))
            throw new JsonException("a band, a step or a way of lighting is missing");
        return read;
    }

    private static int VersionOf(JsonNode? schema) =>
        schema is null ? 1
        : schema is JsonValue value && value.TryGetValue<int>(out var version) && version >= 1 ? version
        : throw new JsonException(
            $"'schema' is the version of the file, a whole number such as {Schema}; it is {schema.ToJsonString()}"
        );

    private static readonly Dictionary<string, string> FormerKinds = new(StringComparer.Ordinal)
    {
        ["letter"] = StepKinds.Email,
        ["team-letter"] = StepKinds.TeamEmail,
    };

    // Words that were other ones before 0.9: kinds of step, and what a rule compares a step's standing with.
    private static void Renamed(JsonNode? part)
    {
        if (part is JsonArray entries)
            foreach (var entry in entries)
                Renamed(entry);
        if (part is not JsonObject whole)
            return;
        if (
            whole["moment"] is JsonObject
            && TextOf(whole["kind"]) is { } kind
            && FormerKinds.TryGetValue(kind, out var now)
        )
            whole["kind"] = now;
        if (
            TextOf(whole["field"]) is { } field
            && field.StartsWith("steps.", StringComparison.Ordinal)
            && field.EndsWith(".status", StringComparison.Ordinal)
            && whole["values"] is JsonArray values
        )
            for (var i = 0; i < values.Count; i++)
                if (TextOf(values[i]) == "struck")
                    values[i] = "cancelled";
        foreach (var (_, inner) in whole.ToList())
            Renamed(inner);
    }

    private static string? TextOf(JsonNode? node) =>
        node is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    // Forms had a list of their own, stop rules were words, and a step knew only seconds.
    private static void FromFirst(JsonObject fuse)
    {
        fuse["schema"] = Schema;
        foreach (var way in (fuse["litBy"] as JsonArray ?? []).OfType<JsonObject>())
        {
            if (way["forms"] is { } forms)
                way["only"] = new JsonObject { ["form"] = forms.DeepClone() };
            way.Remove("forms");
        }

        if (fuse["stopOn"] is JsonArray stops)
            fuse["stopOn"] = new JsonArray([
                .. stops.Select(s => (JsonNode)new JsonObject { ["event"] = s?.DeepClone() }),
            ]);
        foreach (
            var step in (fuse["bands"] as JsonArray ?? [])
                .OfType<JsonObject>()
                .SelectMany(b => (b["steps"] as JsonArray ?? []).OfType<JsonObject>())
        )
        {
            step["moment"] = new JsonObject { ["afterSeconds"] = step["afterSeconds"]?.DeepClone() ?? 0 };
            step.Remove("afterSeconds");
        }
    }
}

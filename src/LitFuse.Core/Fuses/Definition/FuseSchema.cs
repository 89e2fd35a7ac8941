using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>
/// The JSON Schema (2020-12) of a fuse, made from <see cref="FuseDefinition"/>; <c>fuse.schema.json</c> beside this
/// file is its text.
/// </summary>
public static class FuseSchema
{
    private static readonly JsonSerializerOptions Indented = new(CoreJson.Options)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The schema, indented, with a line break at its end.</summary>
    public static string Text()
    {
        var schema = CoreJson
            .Options.GetJsonSchemaAsNode(
                typeof(FuseDefinition),
                new JsonSchemaExporterOptions { TreatNullObliviousAsNonNullable = true }
            )
            .AsObject();
        var whole = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = "A fuse of Lit Fuse",
        };
        foreach (var (key, value) in schema.ToList())
        {
            schema.Remove(key);
            whole[key] = value;
        }

        return whole.ToJsonString(Indented) + "\n";
    }
}

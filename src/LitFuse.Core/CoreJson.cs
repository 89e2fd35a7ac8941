using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace LitFuse.Core;

/// <summary>
/// The one way the core's records are written as JSON: camel case, enums as words, strict numbers. What is stored, and
/// what strangers send, is read leniently: a key more, or one twice, loses nothing. What people and programs write for
/// us to act upon (a fuse's file, a body of the API) is read strictly, and what is wrong with it is said in their
/// words.
/// </summary>
public static class CoreJson
{
    /// <summary>Shared, read-only options.</summary>
    public static JsonSerializerOptions Options { get; } = Make(strict: false);

    /// <summary>
    /// The same, for what is refused rather than guessed at: a key that is unknown, missing or there twice, and nothing
    /// where something belongs.
    /// </summary>
    public static JsonSerializerOptions Strict { get; } = Make(strict: true);

    /// <summary>Adds the core's conventions to options that a host owns.</summary>
    public static void Apply(JsonSerializerOptions options)
    {
        options.PropertyNamingPolicy = JsonNamingPolicy.CamelCase;
        options.DictionaryKeyPolicy = null;
        options.NumberHandling = JsonNumberHandling.Strict;
        options.DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull;
        options.RespectNullableAnnotations = true;
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower, allowIntegerValues: false));
        options.Converters.Add(new InstantJson());
    }

    /// <summary>
    /// Makes a host's options refuse what would otherwise become <c>null</c> where nothing may be, or be taken twice.
    /// </summary>
    /// <remarks>
    /// Unknown keys are refused within a fuse alone: a screen may send back the whole row that it was given.
    /// </remarks>
    public static void Guard(JsonSerializerOptions options)
    {
        options.AllowDuplicateProperties = false;
        options.TypeInfoResolver = (options.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver()).WithAddedModifier(
            Complete
        );
    }

    /// <summary>What is wrong with a text, for who wrote it: no types, and where it is.</summary>
    public static string InWords(JsonException e)
    {
        var says = e.Message.Split(" Path:")[0].Split(". LineNumber:")[0].TrimEnd('.');
        var at = e.Path is { Length: > 1 } path ? $"at {path.TrimStart('$', '.')}, " : "";
        var quoted = says.Split('\'');
        string Named(int which) => quoted.Length > which ? $"'{quoted[which]}'" : "a key";
        if (says.IndexOf("including: ", StringComparison.Ordinal) is > 0 and var i)
            return $"{at}it lacks {says[(i + 11)..].TrimEnd('.', ';')}";
        if (says.Contains("could not be mapped", StringComparison.Ordinal))
            return $"{at}{Named(1)} is no key that is known here";
        if (says.StartsWith("Duplicate property", StringComparison.Ordinal))
            return $"{at}{Named(1)} is there twice";
        if (
            says.Contains("allow null values", StringComparison.Ordinal)
            || says.Contains("allow setting null", StringComparison.Ordinal)
        )
            return $"{at}nothing (null) stands where something belongs";
        if (
            says.Contains("could not be converted", StringComparison.Ordinal)
            || says.Contains("LitFuse.", StringComparison.Ordinal)
            || says.Contains("System.", StringComparison.Ordinal)
        )
            return $"{at}a value is of another kind than belongs there";
        if (says.StartsWith("entry ", StringComparison.Ordinal))
            return at + says;
        return $"{at}{says}{(e.LineNumber is { } n ? $" (line {n + 1})" : "")}";
    }

    private static JsonSerializerOptions Make(bool strict)
    {
        var options = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        Apply(options);
        if (strict)
        {
            options.UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow;
            options.RespectRequiredConstructorParameters = true;
            options.PropertyNameCaseInsensitive = false;
            Guard(options);
        }

        options.MakeReadOnly(populateMissingResolver: true);
        return options;
    }

    // What a constructor takes and nobody sent would be null, whatever its type says.
    private static void Complete(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object)
            return;
        foreach (var property in type.Properties)
        {
            if (
                !property.PropertyType.IsValueType
                && property.AssociatedParameter is { IsNullable: false, HasDefaultValue: false }
            )
                property.IsRequired = true;
        }

        var lists = type
            .Properties.Where(p => p.Get is not null)
            .Select(p => (Property: p, Entry: EntryOf(p)))
            .Where(p => p.Entry is not null)
            .ToList();
        if (lists.Count == 0)
            return;
        var after = type.OnDeserialized;
        type.OnDeserialized = read =>
        {
            after?.Invoke(read);
            foreach (var (list, entry) in lists)
                if (Missing(list.Get!(read), entry!) is { } place)
                    throw new JsonException($"entry {place} of '{list.Name}' is nothing (null)");
        };
    }

    // Which entry of a list or a dictionary is null though its declaration says that none may be, counted from 1;
    // however deep it lies.
    private static int? Missing(object? list, NullabilityInfo entry)
    {
        if (list is not IEnumerable entries)
            return null;
        var place = 0;
        foreach (var one in entries is IDictionary values ? values.Values : entries)
        {
            place++;
            if (
                one is null
                    ? entry is { Type.IsValueType: false, ReadState: NullabilityState.NotNull }
                    : InnerOf(entry) is { } inner && Missing(one, inner) is not null
            )
                return place;
        }

        return null;
    }

    private static NullabilityInfo? EntryOf(JsonPropertyInfo property) =>
        property.AttributeProvider is PropertyInfo declared
            ? InnerOf(new NullabilityInfoContext().Create(declared))
            : null;

    private static NullabilityInfo? InnerOf(NullabilityInfo said) =>
        said.Type == typeof(string) || !typeof(IEnumerable).IsAssignableFrom(said.Type)
            ? null
            : said.ElementType ?? said.GenericTypeArguments.LastOrDefault();
}

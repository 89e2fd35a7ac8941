using System.Text.Json;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.EntityFrameworkCore.Metadata.Conventions;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace LitFuse.Server.Platform;

/// <summary>Writes enums to the database in kebab case, as the API does.</summary>
public sealed class EnumsAsWords : IModelFinalizingConvention
{
    /// <inheritdoc />
    public void ProcessModelFinalizing(IConventionModelBuilder modelBuilder, IConventionContext<IConventionModelBuilder> context)
    {
        foreach (var property in modelBuilder.Metadata.GetEntityTypes().SelectMany(t => t.GetProperties()))
        {
            var type = Nullable.GetUnderlyingType(property.ClrType) ?? property.ClrType;
            if (!type.IsEnum) continue;
            property.Builder.HasConversion((ValueConverter)Activator.CreateInstance(typeof(WordConverter<>).MakeGenericType(type))!);
        }
    }

    private sealed class WordConverter<T>() : ValueConverter<T, string>(v => Word(v), w => Value(w))
        where T : struct, Enum
    {
        private static readonly Dictionary<string, T> Values = Enum.GetValues<T>().ToDictionary(v => Words.Of(v), StringComparer.Ordinal);

        private static string Word(T value) => Words.Of(value);

        private static T Value(string word) => Values[word];
    }
}

/// <summary>The written form of an enum's value: kebab case.</summary>
public static class Words
{
    /// <summary><c>ChannelPost</c> → <c>channel-post</c>.</summary>
    public static string Of<T>(T value)
        where T : struct, Enum =>
        JsonNamingPolicy.KebabCaseLower.ConvertName(value.ToString());
}

using Microsoft.EntityFrameworkCore;
using System.Text.Json;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.EntityFrameworkCore.Metadata.Conventions;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace LitFuse.Server.Platform;

/// <summary>Writes enums to the database in kebab case, as the API does, and has the database take no other word.</summary>
public sealed class EnumsAsWords : IModelFinalizingConvention
{
    /// <inheritdoc />
    public void ProcessModelFinalizing(IConventionModelBuilder modelBuilder, IConventionContext<IConventionModelBuilder> context)
    {
        foreach (var entity in modelBuilder.Metadata.GetEntityTypes())
        {
            foreach (var property in entity.GetProperties())
            {
                var type = Nullable.GetUnderlyingType(property.ClrType) ?? property.ClrType;
                if (!type.IsEnum) continue;
                property.Builder.HasConversion((ValueConverter)Activator.CreateInstance(typeof(WordConverter<>).MakeGenericType(type))!);
                if (entity.GetTableName() is not { } table || property.GetColumnName() is not { } column) continue;
                // Whoever writes by hand-written SQL writes one of the words, or nothing.
                entity.Builder.HasCheckConstraint($"ck_{table}_{column}", $"\"{column}\" in ({string.Join(", ", Enum.GetNames(type).Select(n => $"'{JsonNamingPolicy.KebabCaseLower.ConvertName(n)}'"))})");
            }
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

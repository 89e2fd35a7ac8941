using System.Text.Json;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.EntityFrameworkCore.Metadata.Conventions;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace LitFuse.Data;

/// <summary>
/// Writes enums to the database in kebab case, as the API does. The database takes no other word: the type of each such
/// column is the domain that <see cref="DomainOf"/> names, made by the migrations; a test holds that each has its
/// words, and says what a migration has to do for a new one. A domain and not a check on the table, as PostgreSQL reads
/// a table's checks anew with every statement, which made an insert into the story three times as dear
/// (docs/performance.md).
/// </summary>
public sealed class EnumsAsWords : IModelFinalizingConvention
{
    /// <inheritdoc />
    public void ProcessModelFinalizing(
        IConventionModelBuilder modelBuilder,
        IConventionContext<IConventionModelBuilder> context
    )
    {
        foreach (var entity in modelBuilder.Metadata.GetEntityTypes())
        {
            foreach (var property in entity.GetProperties())
            {
                var type = Nullable.GetUnderlyingType(property.ClrType) ?? property.ClrType;
                if (!type.IsEnum)
                    continue;
                property.Builder.HasConversion(
                    (ValueConverter)Activator.CreateInstance(typeof(WordConverter<>).MakeGenericType(type))!
                );
            }
        }
    }

    /// <summary>The domain of a column: <c>deliveries</c>, <c>status</c> → <c>deliveries_status</c>.</summary>
    public static string DomainOf(string table, string column) => $"{table}_{column}";

    /// <summary>The words of an enum.</summary>
    public static IReadOnlyList<string> WordsOf(Type type) =>
        [.. Enum.GetNames(type).Select(JsonNamingPolicy.KebabCaseLower.ConvertName)];

    private sealed class WordConverter<T>() : ValueConverter<T, string>(v => Word(v), w => Value(w))
        where T : struct, Enum
    {
        private static readonly Dictionary<string, T> Values = Enum.GetValues<T>()
            .ToDictionary(v => Words.Of(v), StringComparer.Ordinal);

        private static string Word(T value) => Words.Of(value);

        private static T Value(string word) => Values[word];
    }
}

/// <summary>The written form of an enum's value: kebab case.</summary>
public static class Words
{
    /// <summary><c>ChannelPost</c> → <c>channel-post</c>.</summary>
    public static string Of<T>(T value)
        where T : struct, Enum => JsonNamingPolicy.KebabCaseLower.ConvertName(value.ToString());
}

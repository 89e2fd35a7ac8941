using LitFuse.Core.Texts;
using LitFuse.Data;

namespace LitFuse.Connectors;

/// <summary>Notes what one attempt says to a service and hears, with its secrets masked.</summary>
/// <param name="time">Says how long things took.</param>
/// <param name="secrets">What must not be read in it.</param>
public sealed class Tape(TimeProvider time, params IEnumerable<string> secrets)
{
    /// <summary>Stands for a secret.</summary>
    public const string Mask = "•••";

    private const int MostExchanges = 6;
    private const int MostSent = 8000;
    private const int MostHeard = 4000;
    private readonly string[] hidden = [.. secrets.Where(s => s.Length >= 4).OrderByDescending(s => s.Length)];
    private readonly List<Exchange> exchanges = [];

    /// <summary>In the order in which they were said; the last ones where there were many.</summary>
    public IReadOnlyList<Exchange> Exchanges => exchanges;

    /// <summary>Something is about to be said.</summary>
    /// <returns>For <see cref="Note"/>.</returns>
    public long Begin() => time.GetTimestamp();

    /// <summary>Notes one.</summary>
    /// <param name="began">As <see cref="Begin"/> gave it.</param>
    public void Note(
        string asked,
        IEnumerable<KeyValuePair<string, string>> headers,
        string? sent,
        int status,
        string? answer,
        long began
    )
    {
        if (exchanges.Count == MostExchanges)
            exchanges.RemoveAt(0);
        var told = headers.ToDictionary(
            h => h.Key,
            h =>
                h.Key.Equals("Authorization", StringComparison.OrdinalIgnoreCase)
                    ? Scheme(h.Value)
                    : Hide(h.Value, 1000),
            StringComparer.OrdinalIgnoreCase
        );
        exchanges.Add(
            new(
                Hide(asked, 2000)!,
                told!,
                Hide(sent, MostSent),
                status,
                Hide(answer, MostHeard),
                (int)time.GetElapsedTime(began).TotalMilliseconds
            )
        );
    }

    private static string Scheme(string value) => value.Split(' ', 2) is [var scheme, _] ? $"{scheme} {Mask}" : Mask;

    private string? Hide(string? text, int most)
    {
        if (text is null)
            return null;
        foreach (var secret in hidden)
            text = text.Replace(secret, Mask, StringComparison.Ordinal);
        return Clip.Short(text, most).Replace("\0", "", StringComparison.Ordinal);
    }
}

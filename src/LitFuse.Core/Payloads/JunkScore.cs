using System.Globalization;

namespace LitFuse.Core.Payloads;

/// <summary>How much a submission looks like junk, and why.</summary>
/// <param name="Score">0 (a person) to 100.</param>
/// <param name="Because">Each reason in words.</param>
public sealed record JunkReading(int Score, IReadOnlyList<string> Because)
{
    /// <summary>From here on it is called junk. It is kept and shown all the same.</summary>
    public const int Junk = 60;

    /// <summary>Nothing odd.</summary>
    public static JunkReading Clean { get; } = new(0, []);
}

/// <summary>Scores submissions by signs that cost people nothing: no puzzle, no box to tick.</summary>
public static class JunkScore
{
    /// <summary>The name (after <see cref="Payload.OwnPrefix"/>) of a field that people do not see, and programs fill in.</summary>
    public const string Trap = "website";

    /// <summary>The name of the field that tells how many milliseconds the filling in took.</summary>
    public const string Took = "took";

    private const int FastestMs = 1500;
    private const int ManyFromOneAddress = 8;

    /// <summary>Scores one.</summary>
    /// <param name="payload">As read.</param>
    /// <param name="lately">How many came from the same address to the same form in the last ten minutes.</param>
    public static JunkReading Of(Payload payload, int lately)
    {
        List<string>? because = null;
        var score = 0;
        void Add(int points, string why)
        {
            score += points;
            (because ??= []).Add(why);
        }

        if (payload.Signs.TryGetValue(Trap, out var trap) && trap.Length > 0) Add(70, "a field that people do not see was filled in");
        if (payload.Signs.TryGetValue(Took, out var took) && int.TryParse(took, NumberStyles.None, CultureInfo.InvariantCulture, out var ms) && ms < FastestMs)
        {
            Add(40, string.Create(CultureInfo.InvariantCulture, $"it was filled in within {ms / 1000.0:0.0} s"));
        }

        if (lately >= ManyFromOneAddress) Add(lately >= 4 * ManyFromOneAddress ? 60 : 30, string.Create(CultureInfo.InvariantCulture, $"{lately} came from one address within ten minutes"));
        var links = 0;
        foreach (var (field, value) in payload.Answers)
        {
            if (!Contains(value, "://")) continue;
            if (Contains(field, "name")) Add(40, "there is a link where a name belongs");
            else if (!Payload.IsAddressField(field)) links += Count(value);
        }

        if (links >= 3) Add(30, string.Create(CultureInfo.InvariantCulture, $"there are {links} links in the answers"));
        return because is null ? JunkReading.Clean : new(Math.Min(100, score), because);
    }

    private static bool Contains(string text, string part) => text.Contains(part, StringComparison.OrdinalIgnoreCase);

    private static int Count(string text)
    {
        var count = 0;
        for (var at = text.IndexOf("://", StringComparison.Ordinal); at >= 0; at = text.IndexOf("://", at + 3, StringComparison.Ordinal)) count++;
        return count;
    }
}

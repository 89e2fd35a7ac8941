using System.Collections.Concurrent;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Replies;

/// <summary>What a reply means.</summary>
public enum ReplyMeaning
{
    /// <summary>They agree.</summary>
    Yes,

    /// <summary>They decline.</summary>
    No,

    /// <summary>They chose one of what was offered.</summary>
    Choice,

    /// <summary>They ask something: a person must answer.</summary>
    Question,

    /// <summary>They want no more messages.</summary>
    Stop,

    /// <summary>Anything else: it is never guessed.</summary>
    Other,
}

/// <summary>A reply, read.</summary>
/// <param name="Choice">The choice as it was offered, for <see cref="ReplyMeaning.Choice"/>.</param>
/// <param name="Because">Why it was read so, in words.</param>
public sealed record ReplyReading(ReplyMeaning Meaning, string? Choice, string Because);

/// <summary>
/// Reads what a reply means by word lists in ten languages and a few plain rules, in this order: stop, choice,
/// question, yes, no. Where words speak for two of them, or something is left that no list explains, it is
/// <c>other</c>.
/// </summary>
public static class ReplyReader
{
    private const int LongestRead = 400;
    private const int LongestKept = 40;
    private const int MostKept = 2000;
    private static readonly ConcurrentDictionary<string, ReplyReading> Kept = new(StringComparer.Ordinal);
    private static int keptCount;

    /// <summary>Reads <paramref name="text"/>.</summary>
    /// <param name="text">As they wrote it.</param>
    /// <param name="offered">What they were asked to choose from, in the order numbered; none where nothing
    /// was.</param>
    public static ReplyReading Read(string text, IReadOnlyList<string> offered)
    {
        // What is written back is short and the same again and again.
        if (offered.Count > 0 || text.Length > LongestKept)
            return ReadAnew(text, offered);
        if (Kept.TryGetValue(text, out var kept))
            return kept;
        var reading = ReadAnew(text, offered);
        if (Volatile.Read(ref keptCount) < MostKept && Kept.TryAdd(text, reading))
            Interlocked.Increment(ref keptCount);
        return reading;
    }

    private static ReplyReading ReadAnew(string text, IReadOnlyList<string> offered)
    {
        if (string.IsNullOrWhiteSpace(text))
            return new(ReplyMeaning.Other, null, "there are no words in it");
        var cut = Clip.To(text, LongestRead);
        var words = WordsOf(cut);
        if (ReplyLists.StopIn(words) is { } stop)
            return new(ReplyMeaning.Stop, null, $"“{stop}” says stop");
        var asks =
            cut.Contains('?', StringComparison.Ordinal)
            || cut.Contains('？', StringComparison.Ordinal)
            || cut.Contains('¿', StringComparison.Ordinal);
        if (offered.Count > 0 && ReplyChoices.Find(words, offered, asks) is { } choice)
            return new(ReplyMeaning.Choice, choice.Offered, choice.Because);
        if (asks)
            return new(ReplyMeaning.Question, null, "there is a question mark");
        if (ReplyLists.QuestionIn(words) is { } question)
            return new(ReplyMeaning.Question, null, $"“{question}” asks");
        return YesOrNo(words);
    }

    private static ReplyReading YesOrNo(IReadOnlyList<string> words)
    {
        var rest = ReplyLists.WithoutPolite(words);
        if (rest.Count == 0)
            return new(ReplyMeaning.Other, null, "nothing but courtesy");
        var (yes, afterYes) = ReplyLists.Yes.At(rest);
        var (no, afterNo) = ReplyLists.No.At(rest);
        // “no problem” begins with no and means yes: the longer phrase speaks.
        if (yes is not null && no is not null)
        {
            if (Length(yes) >= Length(no))
                no = null;
            else
                yes = null;
        }

        if (yes is not null)
            return Follows(ReplyMeaning.Yes, yes, rest.Skip(afterYes).ToList());
        if (no is not null)
            return Follows(ReplyMeaning.No, no, rest.Skip(afterNo).ToList());
        return new(ReplyMeaning.Other, null, "no word in it that would be clear by itself");
    }

    // What stands behind the yes or no may add to it, but not turn it.
    private static ReplyReading Follows(ReplyMeaning meaning, string said, List<string> rest)
    {
        var word = meaning == ReplyMeaning.Yes ? "yes" : "no";
        if (rest.Find(ReplyLists.Turns.Contains) is { } turn)
            return new(ReplyMeaning.Other, null, $"“{said}” says {word}, but “{turn}” may turn it");
        if (rest.Count > 14)
            return new(ReplyMeaning.Other, null, $"“{said}” says {word}, but much follows");
        var against = meaning == ReplyMeaning.Yes ? ReplyLists.No : ReplyLists.Yes;
        for (var i = 0; i < rest.Count; i++)
        {
            var (other, _) = against.At(rest.Skip(i).ToList());
            if (other is not null && !ReplyLists.Weak.Contains(other))
                return new(ReplyMeaning.Other, null, $"“{said}” says {word} and “{other}” the opposite");
        }

        return new(meaning, null, $"“{said}” says {word}");
    }

    private static int Length(string phrase) => phrase.Count(c => c == ' ') + 1;

    internal static IReadOnlyList<string> WordsOf(string text)
    {
        // Two signs that people send instead of words.
        var spoken = text.Replace("👍", " thumbsup ", StringComparison.Ordinal)
            .Replace("👌", " thumbsup ", StringComparison.Ordinal)
            .Replace("✅", " thumbsup ", StringComparison.Ordinal)
            .Replace("✔️", " thumbsup ", StringComparison.Ordinal)
            .Replace("👎", " thumbsdown ", StringComparison.Ordinal)
            .Replace("❌", " thumbsdown ", StringComparison.Ordinal)
            .Replace("🛑", " stopsign ", StringComparison.Ordinal)
            .Replace('’', '\'')
            .ToLowerInvariant();
        return Tokens.Of(spoken);
    }
}

using LitFuse.Core.Texts;
using LitFuse.Platform;

namespace LitFuse.Server.Engine;

/// <summary>How many others sent the same words to a form lately. In this process's memory, and bounded.</summary>
public sealed class SameWordsCounter(TimeProvider time)
{
    private readonly SlidingWindowCounter senders = new(time);
    private readonly SlidingWindowCounter words = new(time);

    /// <summary>Counts one; the same sender counts once.</summary>
    /// <returns>How many others sent the same before.</returns>
    public int Count(Guid formId, string said, string sender)
    {
        var key = Clip.To(said, 300);
        return senders.Count(formId, sender + "\n" + key) == 1 ? words.Count(formId, key) - 1 : 0;
    }
}

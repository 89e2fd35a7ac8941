namespace LitFuse.Core.Texts;

/// <summary>
/// Texts cut to a length, in UTF-16 units. A character that takes two is never halved: the database takes no half of
/// one, so that a smiley in the wrong place would keep a submission from being written.
/// </summary>
public static class Clip
{
    /// <summary>The beginning, at most so long.</summary>
    public static string To(string text, int most) =>
        text.Length <= most ? text : text[..(most > 0 && char.IsHighSurrogate(text[most - 1]) ? most - 1 : most)];

    /// <summary>The beginning, at most so long with the dots that say that more follows.</summary>
    public static string Short(string text, int most) =>
        text.Length <= most ? text : To(text, most - 1).TrimEnd() + "…";
}

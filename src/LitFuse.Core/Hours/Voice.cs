namespace LitFuse.Core.Hours;

/// <summary>How a lead is spoken to.</summary>
public enum Voice
{
    /// <summary>A text to the phone.</summary>
    Text,

    /// <summary>An email.</summary>
    Letter,

    /// <summary>A call that a fuse begins: the team's phone rings first, then theirs.</summary>
    Call,
}

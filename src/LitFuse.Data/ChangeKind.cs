namespace LitFuse.Data;

/// <summary>
/// What kind of thing changed: screens fetch what they show of it, and lines that hang on it are judged anew. Screens
/// know each by its word in kebab case; a test holds that none is unknown there.
/// </summary>
public enum ChangeKind
{
    /// <summary>A lead, or anything of its story.</summary>
    Lead,

    /// <summary>A form: what it is, or what came from it.</summary>
    Form,

    /// <summary>Where a form's line stands.</summary>
    Line,

    /// <summary>A source: its access, what was refused at it, its comparison.</summary>
    Source,

    /// <summary>A connection: its access, its limits, whether anything gets through it.</summary>
    Connection,

    /// <summary>A fuse: its draft, its versions, whether it is armed.</summary>
    Fuse,

    /// <summary>Burns of a fuse, by the fuse's id.</summary>
    Burn,

    /// <summary>A client: its hours, its limits, whether it is held.</summary>
    Client,

    /// <summary>An import.</summary>
    Import,

    /// <summary>A file that goes out every night.</summary>
    Nightly,

    /// <summary>A backtest.</summary>
    Backtest,

    /// <summary>Two leads that may be one, by one lead's id.</summary>
    Conflict,

    /// <summary>A message from nobody we know.</summary>
    Tray,

    /// <summary>What a person was told, by the person's id.</summary>
    Notice,

    /// <summary>What waits for approval, by the form's id.</summary>
    Pen,

    /// <summary>Words ready for use, by the client's id.</summary>
    Words,

    /// <summary>Who looks at a fuse, by the fuse's id.</summary>
    Here,
}

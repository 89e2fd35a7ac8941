namespace LitFuse.Core.Fuses;

/// <summary>Who a step is for.</summary>
public enum Lane
{
    /// <summary>The lead hears it.</summary>
    Lead,

    /// <summary>The team hears it.</summary>
    Team,

    /// <summary>A system of record takes it.</summary>
    Systems,

    /// <summary>Nobody hears it: something about the lead or the fuse changes.</summary>
    Silent,
}

/// <summary>What a setting of a step holds.</summary>
public enum SettingType
{
    /// <summary>Words with fields in them.</summary>
    Words,

    /// <summary>A line of words with fields in it.</summary>
    Line,

    /// <summary>One of the channels of the team's chat.</summary>
    Channel,

    /// <summary>One of the people of the team's chat.</summary>
    Person,

    /// <summary>One of the people who work for the client, or <c>owner</c>.</summary>
    Colleague,

    /// <summary>A lead field.</summary>
    Field,

    /// <summary>A tag.</summary>
    Tag,

    /// <summary>A stage.</summary>
    Stage,

    /// <summary>Another fuse.</summary>
    Fuse,

    /// <summary>Which links stand at the end: <c>lead</c>, <c>fuse</c>, both with a comma, or none.</summary>
    Links,
}

/// <summary>One setting of a kind of step.</summary>
/// <param name="Optional">It may be left empty.</param>
public sealed record StepSetting(string Key, string Label, SettingType Type, bool Optional = false);

/// <summary>A kind of step: its lane, the service that carries it, and what it needs to know.</summary>
/// <param name="Key">In fuses, deliveries and connectors.</param>
/// <param name="Label">As read on the sheet.</param>
/// <param name="Lane">Who it is for.</param>
/// <param name="Service">The kind of connection that carries it; <c>null</c>: Lit Fuse itself, at once.</param>
/// <param name="Settings">What it needs to know, in the order asked.</param>
/// <param name="Results">What it leaves for later steps: <c>{{ steps.ID.url }}</c>.</param>
public sealed record StepKind(string Key, string Label, Lane Lane, string? Service, IReadOnlyList<StepSetting> Settings, IReadOnlyList<string> Results);

/// <summary>The kinds of step there are.</summary>
public static class StepKinds
{
    public const string Text = "text";
    public const string Letter = "letter";
    public const string ChannelPost = "channel-post";
    public const string DirectPost = "direct-post";
    public const string TeamLetter = "team-letter";
    public const string TeamText = "team-text";
    public const string Notice = "notice";
    public const string Ring = "ring";
    public const string Tag = "tag";
    public const string Untag = "untag";
    public const string SetField = "set-field";
    public const string SetOwner = "set-owner";
    public const string SetStage = "set-stage";
    public const string Hold = "hold";
    public const string LightFuse = "light-fuse";
    public const string Stop = "stop";

    private static readonly StepSetting Words = new("words", "Words", SettingType.Words);
    private static readonly StepSetting Links = new("links", "Links at the end", SettingType.Links, Optional: true);
    private static readonly StepSetting Colleague = new("colleague", "To", SettingType.Colleague);

    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<StepKind> All { get; } =
    [
        new(Text, "Text to the lead", Lane.Lead, "copperline", [Words], ["id"]),
        new(Letter, "Email to the lead", Lane.Lead, "pillarpost", [new("subject", "Subject", SettingType.Line), Words], ["id"]),
        new(ChannelPost, "Post in a channel", Lane.Team, "ridgeboard", [new("channel", "Channel", SettingType.Channel), Words, Links], ["id", "url"]),
        new(DirectPost, "Post to a person", Lane.Team, "ridgeboard", [new("person", "Person", SettingType.Person), Words, Links], ["id", "url"]),
        new(TeamLetter, "Email to a colleague", Lane.Team, "pillarpost", [Colleague, new("subject", "Subject", SettingType.Line), Words, Links], ["id"]),
        new(TeamText, "Text to a colleague", Lane.Team, "copperline", [Colleague, Words, Links], ["id"]),
        new(Ring, "Ring a colleague", Lane.Team, "copperline", [Colleague, Words], ["id"]),
        new(Notice, "Notice in Lit Fuse", Lane.Team, null, [Colleague, Words], []),
        new(Tag, "Put a tag on", Lane.Silent, null, [new("tag", "Tag", SettingType.Tag)], []),
        new(Untag, "Take a tag off", Lane.Silent, null, [new("tag", "Tag", SettingType.Tag)], []),
        new(SetField, "Set a field", Lane.Silent, null, [new("field", "Field", SettingType.Field), new("value", "Value", SettingType.Line, Optional: true)], []),
        new(SetOwner, "Give to somebody", Lane.Silent, null, [new("colleague", "Who answers for them", SettingType.Colleague)], []),
        new(SetStage, "Set the stage", Lane.Silent, null, [new("stage", "Stage", SettingType.Stage)], []),
        new(Hold, "Hold for a person", Lane.Silent, null, [new("words", "Why", SettingType.Line)], []),
        new(LightFuse, "Light another fuse", Lane.Silent, null, [new("fuse", "Fuse", SettingType.Fuse)], []),
        new(Stop, "Stop this fuse", Lane.Silent, null, [], []),
    ];

    private static readonly Dictionary<string, StepKind> ByKey = All.ToDictionary(k => k.Key, StringComparer.Ordinal);

    /// <summary>The kind with this key, or <c>null</c>.</summary>
    public static StepKind? Find(string key) => ByKey.GetValueOrDefault(key);

    /// <summary>True for words in a text message, whose length is paid for.</summary>
    public static bool IsText(string kind) => kind is Text or TeamText;
}

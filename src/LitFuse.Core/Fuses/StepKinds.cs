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
}

/// <summary>What a setting of a step holds.</summary>
public enum SettingType
{
    /// <summary>Words with fields in them.</summary>
    Words,

    /// <summary>One of the channels of the team's chat.</summary>
    Channel,

    /// <summary>One of the people of the team's chat.</summary>
    Person,
}

/// <summary>One setting of a kind of step.</summary>
public sealed record StepSetting(string Key, string Label, SettingType Type);

/// <summary>A kind of step: its lane, the service that carries it, and what it needs to know.</summary>
/// <param name="Key">In fuses, deliveries and connectors.</param>
/// <param name="Label">As read on the sheet.</param>
/// <param name="Lane">Who it is for.</param>
/// <param name="Service">The kind of connection that carries it.</param>
/// <param name="Settings">What it needs to know, in the order asked.</param>
public sealed record StepKind(string Key, string Label, Lane Lane, string Service, IReadOnlyList<StepSetting> Settings);

/// <summary>The kinds of step there are.</summary>
public static class StepKinds
{
    /// <summary>A post in a channel of the team's chat.</summary>
    public const string ChannelPost = "channel-post";

    /// <summary>A post to one person in the team's chat.</summary>
    public const string DirectPost = "direct-post";

    /// <summary>A text to the lead's phone.</summary>
    public const string Text = "text";

    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<StepKind> All { get; } =
    [
        new(ChannelPost, "Post in a channel", Lane.Team, "ridgeboard", [new("channel", "Channel", SettingType.Channel), new("words", "Words", SettingType.Words)]),
        new(DirectPost, "Post to a person", Lane.Team, "ridgeboard", [new("person", "Person", SettingType.Person), new("words", "Words", SettingType.Words)]),
        new(Text, "Text to the lead", Lane.Lead, "copperline", [new("words", "Words", SettingType.Words)]),
    ];

    /// <summary>The kind with this key, or <c>null</c>.</summary>
    public static StepKind? Find(string key) => All.FirstOrDefault(k => k.Key == key);
}

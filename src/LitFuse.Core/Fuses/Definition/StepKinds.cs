namespace LitFuse.Core.Fuses.Definition;

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

    /// <summary>
    /// Some of the people who work for the client, in an order, with commas between: ids, <c>owner</c>, or <c>team</c>
    /// for all of them who reach out.
    /// </summary>
    Colleagues,

    /// <summary>A lead field.</summary>
    Field,

    /// <summary>A tag.</summary>
    Tag,

    /// <summary>A stage.</summary>
    Stage,

    /// <summary>Another fuse.</summary>
    Fuse,

    /// <summary>Which links stand at the end: any of <see cref="StepSetting.Choices"/>, with commas, or none.</summary>
    Links,

    /// <summary>One of <see cref="StepSetting.Choices"/>.</summary>
    Choice,

    /// <summary>One of a list that the service is asked for.</summary>
    Listed,

    /// <summary>
    /// A line of words for each column of a list that the service is asked for. A column's words stand under the
    /// setting's key, a dot, and the column's key: <c>fields.email</c>.
    /// </summary>
    Columns,

    /// <summary>
    /// Lines of words under names of one's own, kept as those of <see cref="Columns"/>: <c>query.source</c>.
    /// </summary>
    Pairs,

    /// <summary>JSON with words in its strings.</summary>
    Json,

    /// <summary>
    /// Lead fields in an order, with commas between, and <c>answers</c> for all answers: shown as tidy blocks
    /// (<see cref="Core.Words.Blocks"/>).
    /// </summary>
    Blocks,

    /// <summary>Files of the client's library by id, with commas between.</summary>
    Files,
}

/// <summary>A value that a setting can have.</summary>
public sealed record StepChoice(string Value, string Label);

/// <summary>One entry of a list that a service was asked for: a column, a stage, somebody's name.</summary>
/// <param name="Key">By the service.</param>
/// <param name="Required">The service demands a value for it.</param>
/// <param name="About">What kind of value it takes, in words.</param>
public sealed record ListItem(string Key, string Name, bool Required = false, string? About = null);

/// <summary>One setting of a kind of step.</summary>
/// <param name="Optional">It may be left empty.</param>
public sealed record StepSetting(string Key, string Label, SettingType Type, bool Optional = false)
{
    /// <summary>
    /// For <see cref="SettingType.Choice"/>: the values there are; the first is meant when it is left empty and may be.
    /// </summary>
    public IReadOnlyList<StepChoice> Choices { get; init; } = [];

    /// <summary>
    /// For <see cref="SettingType.Listed"/> and <see cref="SettingType.Columns"/>: the list's name at the service.
    /// </summary>
    public string? List { get; init; }

    /// <summary>Settings that must be chosen before the list can be asked for.</summary>
    public IReadOnlyList<string> ListNeeds { get; init; } = [];

    /// <summary>A word of help.</summary>
    public string? Hint { get; init; }

    /// <summary>
    /// For <see cref="SettingType.Json"/>: what is meant when it is left empty. For words: what a new step begins with.
    /// </summary>
    public string? Default { get; init; }

    /// <summary>It counts only while another setting has this value.</summary>
    public SettingIs? OnlyIf { get; init; }

    /// <summary>True when a step with these settings has use for it.</summary>
    public bool CountsFor(IReadOnlyDictionary<string, string> settings) =>
        OnlyIf is not { } only || settings.GetValueOrDefault(only.Setting) == only.Value;
}

/// <summary>A setting that has a value.</summary>
public sealed record SettingIs(string Setting, string Value);

/// <summary>A kind of step: its lane, the service that carries it, and what it needs to know.</summary>
/// <param name="Key">In fuses, deliveries and connectors.</param>
/// <param name="Label">As read on the sheet.</param>
/// <param name="Lane">Who it is for.</param>
/// <param name="Service">The kind of connection that carries it; <c>null</c>: Lit Fuse itself, at once.</param>
/// <param name="Settings">What it needs to know, in the order asked.</param>
/// <param name="Results">What it leaves for later steps: <c>{{ steps.ID.url }}</c>.</param>
public sealed record StepKind(
    string Key,
    string Label,
    Lane Lane,
    string? Service,
    IReadOnlyList<StepSetting> Settings,
    IReadOnlyList<string> Results
)
{
    /// <summary>The setting of <see cref="SettingType.Pairs"/> whose names are results too.</summary>
    public string? ResultsFrom { get; init; }

    /// <summary>What one step of this kind leaves for later ones.</summary>
    public IEnumerable<string> ResultsOf(Step step) =>
        ResultsFrom is { } from ? Results.Concat(step.Columns(from).Select(c => c.Key[(from.Length + 1)..])) : Results;

    /// <summary>
    /// The kind of delivery that takes back what one of this kind left, when the lead refuses to be contacted;
    /// <c>null</c>: nothing is taken back.
    /// </summary>
    public string? TakenBackBy { get; init; }

    /// <summary>Nobody puts it on a sheet: other things lead to it.</summary>
    public bool Hidden { get; init; }
}

/// <summary>The kinds of step there are.</summary>
public static class StepKinds
{
    /// <summary>No step of a fuse: the letter that asks a lead to confirm their address.</summary>
    public const string OptInEmail = "opt-in-email";

    /// <summary>Where the confirming link goes in that letter's words.</summary>
    public const string OptInLink = "{link}";

    /// <summary>No step of a fuse: what brings a post about a lead up to date.</summary>
    public const string PostStatus = "post-status";

    /// <summary>No step of a fuse: the text that confirms that texts stop.</summary>
    public const string StopConfirmed = "stop-confirmed";

    public const string Text = "text";
    public const string Email = "email";
    public const string ChannelPost = "channel-post";
    public const string DirectPost = "direct-post";
    public const string TeamEmail = "team-email";
    public const string TeamText = "team-text";
    public const string Notice = "notice";
    public const string Ring = "ring";
    public const string RingThrough = "ring-through";
    public const string Tag = "tag";
    public const string Untag = "untag";
    public const string SetField = "set-field";
    public const string SetOwner = "set-owner";
    public const string SetStage = "set-stage";
    public const string Hold = "hold";
    public const string LightFuse = "light-fuse";
    public const string Stop = "stop";
    public const string FileRow = "file-row";

    /// <summary>The setting of a letter that says who gets it too.</summary>
    public const string Copies = "copies";

    /// <summary>The setting of what shows answers as blocks.</summary>
    public const string BlocksKey = "blocks";

    /// <summary>The setting of a letter that says whether a PDF of what they answered comes with it.</summary>
    public const string Pdf = "pdf";

    /// <summary>The setting of a letter that says which files of the library come with it.</summary>
    public const string Files = "files";

    /// <summary>For <see cref="SettingType.Colleague"/> where it may be: all who reach out.</summary>
    public const string Team = "team";

    /// <summary>For <see cref="SettingType.Colleague"/> where it may be: nobody who has an account here.</summary>
    public const string Nobody = "nobody";

    /// <summary>The link by which who reads a post takes the lead; made as the post goes out.</summary>
    public const string TakeLink = "take";

    private static readonly StepSetting Words = new("words", "Words", SettingType.Words);
    private static readonly StepSetting Links = new("links", "Links at the end", SettingType.Links, Optional: true)
    {
        Choices = [new("lead", "to the lead"), new("fuse", "to this fuse")],
    };

    // A post is seen by many: the first to press has the lead.
    private static readonly StepSetting PostLinks = Links with
    {
        Choices = [.. Links.Choices, new(TakeLink, "Take it")],
    };
    private static readonly StepSetting Colleague = new("colleague", "To", SettingType.Colleague);
    private static readonly StepSetting Answers = new(BlocksKey, "Fields under it", SettingType.Blocks, Optional: true)
    {
        Hint = "In this order; what they left empty is left out.",
    };
    private static readonly StepSetting Sender = new("sender", "Posted by", SettingType.Line, Optional: true)
    {
        Hint = "Left empty: as the connection says.",
    };
    private static readonly StepSetting Picture = new("picture", "Picture beside it", SettingType.Line, Optional: true)
    {
        Hint = "The address of a picture, as in https://…",
    };

    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<StepKind> All { get; } =
    [
        new(Text, "Text to the lead", Lane.Lead, "copperline", [Words], ["id"]),
        new(
            RingThrough,
            "Ring through to the lead",
            Lane.Lead,
            "copperline",
            [
                new("colleagues", "Rung first", SettingType.Colleagues),
                new("order", "Several of them", SettingType.Choice)
                {
                    Choices =
                    [
                        new("in-turn", "one after the other"),
                        new("at-once", "all at once: the first to accept has it"),
                    ],
                },
                new("words", "They hear", SettingType.Words)
                {
                    Default = "{{ lead.name }} has just asked on {{ form.name }}.",
                    Hint = "As they pick up; then, that 1 accepts and 2 passes on. The lead hears none of it.",
                },
                new("ring-for", "Each is rung for", SettingType.Choice, Optional: true)
                {
                    Choices =
                    [
                        new("20", "20 seconds"),
                        new("10", "10 seconds"),
                        new("30", "30 seconds"),
                        new("45", "45 seconds"),
                    ],
                },
                new("machine", "A machine answers for the lead", SettingType.Choice, Optional: true)
                {
                    Choices = [new("hang-up", "hang up"), new("speak", "let them leave a word")],
                },
                new("recording", "Recorded, and both hear first", SettingType.Line, Optional: true)
                {
                    Hint = "Left empty, nothing is recorded.",
                },
                new("team-sees", "Number that the team sees", SettingType.Line, Optional: true)
                {
                    Hint = "As in +447700900512; left empty, the connection's own.",
                },
                new("lead-sees", "Number that the lead sees", SettingType.Line, Optional: true),
            ],
            ["outcome", "by", "seconds", "recording"]
        ),
        new(
            Email,
            "Email to the lead",
            Lane.Lead,
            "pillarpost",
            [
                new("subject", "Subject", SettingType.Line),
                Words,
                Answers with
                {
                    Label = "Answers under it",
                },
                new(Pdf, "Their answers as a PDF", SettingType.Choice, Optional: true)
                {
                    Choices = [new("no", "not with it"), new("yes", "comes with it")],
                },
                new(Files, "Files with it", SettingType.Files, Optional: true),
                new("from", "Sender", SettingType.Line, Optional: true)
                {
                    Hint = "As in Imke Sandoval <imke@brackenwheel.example>; left empty, the connection's own.",
                },
                new("reply", "Replies go to", SettingType.Line, Optional: true)
                {
                    Hint = "Left empty, they go to the sender, and what the mail server hands on stands in the story.",
                },
            ],
            ["id"]
        ),
        new(
            ChannelPost,
            "Post in a channel",
            Lane.Team,
            "ridgeboard",
            [new("channel", "Channel", SettingType.Channel), Words, Answers, PostLinks, Sender, Picture],
            ["id", "url"]
        ),
        new(
            DirectPost,
            "Post to a person",
            Lane.Team,
            "ridgeboard",
            [new("person", "Person", SettingType.Person), Words, Answers, PostLinks, Sender, Picture],
            ["id", "url"]
        ),
        new(
            TeamEmail,
            "Email to a colleague",
            Lane.Team,
            "pillarpost",
            [
                Colleague with
                {
                    Choices = [new(Team, "everybody who reaches out"), new(Nobody, "only the addresses below")],
                },
                new(Copies, "Copies to", SettingType.Line, Optional: true)
                {
                    Hint = "Any addresses, with commas: an assistant, a partner.",
                },
                new("subject", "Subject", SettingType.Line),
                Words,
                Answers,
                Links,
            ],
            ["id"]
        ),
        new(TeamText, "Text to a colleague", Lane.Team, "copperline", [Colleague, Words, Links], ["id"]),
        new(Ring, "Ring a colleague", Lane.Team, "copperline", [Colleague, Words], ["id"]),
        new(Notice, "Notice in Lit Fuse", Lane.Team, null, [Colleague, Words], []),
        new(
            FileRow,
            "Row in a file of ours",
            Lane.Systems,
            null,
            [
                new("sheet", "File", SettingType.Line)
                {
                    Hint =
                        "Its name; a new one is begun with its first row. Under Setup it can be had at any time, as CSV or XLSX.",
                },
                new("mode", "Each time", SettingType.Choice)
                {
                    Choices =
                    [
                        new("add", "a row is added"),
                        new("change", "their row is changed, or added where there is none"),
                    ],
                },
                new("columns", "Columns", SettingType.Pairs),
            ],
            []
        ),
        new(Tag, "Put a tag on", Lane.Silent, null, [new("tag", "Tag", SettingType.Tag)], []),
        new(Untag, "Take a tag off", Lane.Silent, null, [new("tag", "Tag", SettingType.Tag)], []),
        new(
            SetField,
            "Set a field",
            Lane.Silent,
            null,
            [new("field", "Field", SettingType.Field), new("value", "Value", SettingType.Line, Optional: true)],
            []
        ),
        new(
            SetOwner,
            "Give to somebody",
            Lane.Silent,
            null,
            [new("colleague", "Who answers for them", SettingType.Colleague)],
            []
        ),
        new(SetStage, "Set the stage", Lane.Silent, null, [new("stage", "Stage", SettingType.Stage)], []),
        new(Hold, "Hold for a person", Lane.Silent, null, [new("words", "Why", SettingType.Line)], []),
        new(LightFuse, "Light another fuse", Lane.Silent, null, [new("fuse", "Fuse", SettingType.Fuse)], []),
        new(Stop, "Stop this fuse", Lane.Silent, null, [], []),
    ];

    /// <summary>
    /// The setting of any step through a service that says which connection carries it; empty where there is but one.
    /// </summary>
    public const string Connection = "connection";

    /// <summary>True for words in a text message, whose length is paid for.</summary>
    public static bool IsText(string kind) => kind is Text or TeamText;
}

/// <summary>The kinds of step there are: our own, and those that services bring.</summary>
public sealed class StepCatalog
{
    private readonly Dictionary<string, StepKind> byKey;

    /// <summary>Our own, and more.</summary>
    /// <exception cref="ArgumentException">Two have the same key.</exception>
    public StepCatalog(IEnumerable<StepKind>? more = null)
    {
        All = [.. StepKinds.All, .. more ?? []];
        byKey = All.ToDictionary(k => k.Key, StringComparer.Ordinal);
    }

    /// <summary>Our own alone.</summary>
    public static StepCatalog Plain { get; } = new();

    /// <summary>All of them, in the order they are offered.</summary>
    public IReadOnlyList<StepKind> All { get; }

    /// <summary>The kind with this key, or <c>null</c>.</summary>
    public StepKind? Find(string key) => byKey.GetValueOrDefault(key);
}

using System.Text.Json.Serialization;

namespace LitFuse.Core.Guards;

/// <summary>How a rule compares a fact with its values.</summary>
public enum RuleOp
{
    /// <summary>Equal to one of the values; of a list, any of it is.</summary>
    OneOf,

    /// <summary>Equal to none of the values; an empty fact is none of them.</summary>
    NotOneOf,

    /// <summary>Holds one of the values as a part.</summary>
    Contains,

    /// <summary>Holds none of the values as a part.</summary>
    NotContains,

    /// <summary>Begins with one of the values.</summary>
    StartsWith,

    /// <summary>A number of at least the value.</summary>
    AtLeast,

    /// <summary>A number of at most the value.</summary>
    AtMost,

    /// <summary>A number between two values, both included.</summary>
    Between,

    /// <summary>A day before the value; <c>today</c> is one.</summary>
    Before,

    /// <summary>A day after the value.</summary>
    After,

    /// <summary>Today, or a day within so many to come.</summary>
    InNextDays,

    /// <summary>Today, or a day within so many past.</summary>
    InLastDays,

    /// <summary>A list that has all of the values.</summary>
    HasAll,

    /// <summary>Says yes.</summary>
    Yes,

    /// <summary>Says no, or nothing.</summary>
    No,

    /// <summary>Has any value.</summary>
    Filled,

    /// <summary>Has no value.</summary>
    Empty,
}

/// <summary>
/// One comparison. Text is compared without regard to case, accents, outer spaces or the kind of dash.
/// </summary>
/// <param name="Field">A lead field's key, or the path of another fact (<see cref="Facts"/>).</param>
/// <param name="Op">How it is compared.</param>
/// <param name="Values">With what; none for those that need none.</param>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record Rule(string Field, RuleOp Op, IReadOnlyList<string> Values);

/// <summary>Whether all rules are to hold or any of them.</summary>
public enum RuleMatch
{
    /// <summary>All of them.</summary>
    All,

    /// <summary>At least one.</summary>
    Any,
}

/// <summary>Rules, and groups of rules, and how they are joined.</summary>
[JsonUnmappedMemberHandling(JsonUnmappedMemberHandling.Disallow)]
public sealed record RuleSet(RuleMatch Match, IReadOnlyList<Rule> Rules, IReadOnlyList<RuleSet>? Groups = null)
{
    /// <summary>Every rule in it, those of groups included.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IEnumerable<Rule> Every => Rules.Concat((Groups ?? []).SelectMany(g => g.Every));
}

/// <summary>Paths of facts that are no lead fields.</summary>
public static class Facts
{
    /// <summary>An answer as given: <c>answer.fleet_size</c>, by the form's own field name.</summary>
    public const string Answer = "answer.";

    /// <summary>What came along: <c>tracking.utm_campaign</c>.</summary>
    public const string Tracking = "tracking.";

    /// <summary>A result of an earlier step: <c>steps.s1.url</c>, <c>steps.s1.status</c>.</summary>
    public const string Steps = "steps.";

    public const string CameBefore = "history.came_before";
    public const string TimesAsked = "history.times_asked";

    /// <summary>
    /// What came late, recovered or approved, knows how late it is: a text can be held back from who asked yesterday.
    /// </summary>
    public const string HoursSinceAsked = "history.hours_since_asked";
    public const string Owner = "history.owner";
    public const string Stage = "history.stage";
    public const string Tags = "history.tags";
    public const string WorkingHours = "calendar.working_hours";
    public const string Weekday = "calendar.weekday";
    public const string Hour = "calendar.hour";
    public const string PhoneCountry = "phone.country";
    public const string ReplyMeaning = "reply.meaning";
    public const string ReplyChoice = "reply.choice";
    public const string ReplyText = "reply.text";
    public const string Form = "form.key";
    public const string Source = "form.source";

    /// <summary>Those that are always there, with what they are called and the values they can have.</summary>
    public static IReadOnlyList<(
        string Path,
        string Label,
        FactType Type,
        IReadOnlyList<string> Values
    )> Standing { get; } =
    [
        (CameBefore, "has come before", FactType.YesNo, []),
        (TimesAsked, "times they asked", FactType.Number, []),
        (HoursSinceAsked, "hours since they asked", FactType.Number, []),
        (Owner, "who answers for them", FactType.Text, []),
        (Stage, "stage", FactType.Choice, []),
        (Tags, "tags", FactType.List, []),
        (WorkingHours, "it is working hours", FactType.YesNo, []),
        (
            Weekday,
            "weekday",
            FactType.Choice,
            ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"]
        ),
        (Hour, "hour of the day", FactType.Number, []),
        (PhoneCountry, "phone's country", FactType.Choice, []),
        (ReplyMeaning, "what they replied", FactType.Choice, ["yes", "no", "choice", "question", "stop", "other"]),
        (ReplyChoice, "what they chose", FactType.Text, []),
        (ReplyText, "words of their reply", FactType.Text, []),
        (Form, "form", FactType.Choice, []),
        (Source, "source", FactType.Text, []),
    ];

    /// <summary>A path as words: <c>fleet_size</c> → <c>fleet size</c>.</summary>
    public static string Say(string path)
    {
        foreach (var fact in Standing)
            if (fact.Path == path)
                return fact.Label;
        var last = path.StartsWith(Steps, StringComparison.Ordinal)
            ? path[Steps.Length..].Replace('.', ' ')
            : path[(path.IndexOf('.', StringComparison.Ordinal) + 1)..];
        return last.Replace('_', ' ');
    }
}

/// <summary>What a fact holds, and so how it can be compared.</summary>
public enum FactType
{
    /// <summary>Words.</summary>
    Text,

    /// <summary>A number or an amount.</summary>
    Number,

    /// <summary>One of some values.</summary>
    Choice,

    /// <summary>Several of some values.</summary>
    List,

    /// <summary>A day.</summary>
    Date,

    /// <summary>Yes or no.</summary>
    YesNo,
}

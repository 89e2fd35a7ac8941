using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using NodaTime.Text;

namespace LitFuse.Core.Fuses.Checks;

/// <summary>A lead field as a fuse may use it.</summary>
/// <param name="Key">As in rules and words.</param>
/// <param name="Choices">The values it can have, or none when it is free.</param>
public sealed record KnownField(string Key, IReadOnlyList<string> Choices);

/// <summary>What a fuse can refer to. A list is <c>null</c> when its service could not be asked just now.</summary>
public sealed record FuseSurroundings(
    IReadOnlyList<string> FormKeys,
    IReadOnlyList<KnownField> Fields,
    IReadOnlyList<string>? Channels,
    IReadOnlyList<string>? People,
    IReadOnlyList<string> Services
)
{
    /// <summary>Ids of the people who work for the client; <c>null</c>: not asked.</summary>
    public IReadOnlyList<string>? Colleagues { get; init; }

    /// <summary>The client's stages; <c>null</c>: not asked.</summary>
    public IReadOnlyList<string>? Stages { get; init; }

    /// <summary>Ids of the client's fuses; <c>null</c>: not asked.</summary>
    public IReadOnlyList<string>? Fuses { get; init; }

    /// <summary>The kinds of event there are.</summary>
    public EventCatalog Events { get; init; } = EventCatalog.Plain;

    /// <summary>The kinds of step there are.</summary>
    public StepCatalog Steps { get; init; } = StepCatalog.Plain;

    /// <summary>The client's connections.</summary>
    public IReadOnlyList<KnownConnection> Connections { get; init; } = [];

    /// <summary>Ids of the files in the client's library; <c>null</c> where they were not read.</summary>
    public IReadOnlyList<string>? Files { get; init; }

    /// <summary>
    /// Lists that services were asked for, by step and setting: <c>step.setting</c>. One that could not be had is not
    /// in it.
    /// </summary>
    public IReadOnlyDictionary<string, IReadOnlyList<ListItem>> Lists { get; init; } =
        new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal);
}

/// <summary>A connection as a step may go through it.</summary>
/// <param name="Fault">Why nothing goes through it now, or <c>null</c>.</param>
public sealed record KnownConnection(string Id, string Kind, string Name, string? Fault = null);

/// <summary>One thing that keeps a fuse from being armed, or is worth a look before.</summary>
/// <param name="BandId">Where, if in a band.</param>
/// <param name="StepId">Where, if in a step.</param>
/// <param name="Code">Which fault: for what decides by it.</param>
/// <param name="What">What is wrong, in words.</param>
/// <param name="Mend">What to do.</param>
/// <param name="Blocks">It keeps the fuse from being armed.</param>
public sealed record FuseFault(
    string? BandId,
    string? StepId,
    FuseFaultCode Code,
    string What,
    string Mend,
    bool Blocks = true
)
{
    /// <summary>What the fault is about, by its key or id; empty where the code says all.</summary>
    public string About { get; init; } = "";
}

/// <summary>Notes a fault down.</summary>
internal delegate void AddFault(FuseFaultCode code, string what, string mend, string about = "");

/// <summary>Finds every fault of a fuse before it is armed.</summary>
public static partial class FuseFaults
{
    private const int MostBands = 50;
    private const int MostSteps = 200;
    private const int MostRules = 100;

    private static readonly HashSet<string> StandingPaths = [.. Facts.Standing.Select(f => f.Path)];

    /// <summary>All faults, in reading order; none means it can be armed.</summary>
    public static IReadOnlyList<FuseFault> Find(FuseDefinition fuse, FuseSurroundings around)
    {
        var faults = new List<FuseFault>();
        void Add(FuseFaultCode code, string what, string mend, string about = "") =>
            faults.Add(new(null, null, code, what, mend) { About = about });
        if (string.IsNullOrWhiteSpace(fuse.Name))
            Add(FuseFaultCode.FuseWithoutName, "The fuse has no name.", "Say in a few words what it does.");
        if (fuse.Name.Length > 120)
            Add(FuseFaultCode.FuseNameTooLong, "The name is longer than 120 characters.", "Shorten it.");
        if (fuse.AgeLimitHours is < 1 or > 24 * 30)
            Add(
                FuseFaultCode.AgeLimit,
                "The age limit is not between 1 hour and 30 days.",
                "Set it to 24 hours if in doubt."
            );
        if (fuse.HearsForDays is < 0 or > 90)
            Add(FuseFaultCode.HearsTooLong, "It listens for more than 90 days.", "Set it to 7 days if in doubt.");
        if (fuse.RelightDays is < 1 or > 3650)
            Add(
                FuseFaultCode.RelightDays,
                "The days between two lightings are not between 1 and 3650.",
                "Set between 1 and 3650 days."
            );

        OfLighting(fuse, around, faults);
        foreach (var rule in fuse.StopOn)
            OfEvent(rule.Event, rule.Only, EventUse.Stop, "stop it", around, Add);
        if (fuse.Bands.Count == 0)
            Add(FuseFaultCode.NoBand, "There is no band in it.", "Add a band.");
        if (fuse.Bands.Count > MostBands)
            Add(FuseFaultCode.TooManyBands, $"More than {MostBands} bands.", "Split the fuse.");
        if (fuse.Bands.Sum(b => b.Steps.Count) > MostSteps)
            Add(FuseFaultCode.TooManySteps, $"More than {MostSteps} steps.", "Split the fuse.");
        foreach (
            var twice in fuse
                .Bands.Select(b => b.Id)
                .Concat(fuse.Bands.SelectMany(b => b.Steps).Select(s => s.Id))
                .GroupBy(i => i)
                .Where(g =>
                    g.Count() > 1
                    || g.Key.Length is 0 or > 40
                    || g.Key.Any(c => c == '.' || char.IsWhiteSpace(c) || char.IsControl(c))
                )
        )
        {
            Add(
                FuseFaultCode.Id,
                $"The id '{twice.Key}' is empty, too long, has a point or a blank in it or is used twice.",
                "Give each band and step an id of its own, up to 40 characters.",
                twice.Key
            );
        }

        foreach (var band in fuse.Bands)
            OfBand(band, fuse, around, faults);
        OfOrder(fuse, faults);
        return faults;
    }

    private static void OfLighting(FuseDefinition fuse, FuseSurroundings around, List<FuseFault> faults)
    {
        void Add(FuseFaultCode code, string what, string mend, string about = "") =>
            faults.Add(new(null, null, code, what, mend) { About = about });
        if (fuse.LitBy.Count == 0)
            Add(
                FuseFaultCode.NothingLights,
                "Nothing lights it.",
                "Choose what does: a submission on a form, if in doubt."
            );
        if (fuse.LitBy.Count > 20)
            Add(FuseFaultCode.TooManyLights, "More than 20 things light it.", "Split the fuse.");
        foreach (var way in fuse.LitBy)
        {
            var kind = OfEvent(way.Event, way.Only, EventUse.Light, "light it", around, Add);
            if (way.Event is EventKeys.Submission or EventKeys.Edited && way.Only?.Any(o => o.Value.Count > 0) != true)
                Add(
                    FuseFaultCode.LitByNoForm,
                    "It is lit by a submission, but on no form.",
                    "Choose at least one form, page, source or campaign."
                );
            foreach (var form in way.Only?.GetValueOrDefault("form")?.Where(f => !around.FormKeys.Contains(f)) ?? [])
                Add(
                    FuseFaultCode.FormGone,
                    $"The form '{form}' is not there.",
                    "Choose another form, or connect it in Sources.",
                    form
                );
            if (way.When is { } when)
                OfRules(when, "what lights it", around, fuse, Add);
            if (way.Event == EventKeys.CameToMatch && way.When is null)
                Add(
                    FuseFaultCode.MatchWithoutRule,
                    "It is lit when they come to match, but what they are to match is not said.",
                    "Add a rule to it."
                );
            if (way.Event == EventKeys.FieldChanged && (way.Only?.GetValueOrDefault("field") ?? []).Count == 0)
                Add(
                    FuseFaultCode.ChangeWithoutField,
                    "It is lit when a field changes, but which one is not said.",
                    "Choose the field."
                );
            if (kind?.Timed == true)
                OfTimer(way, around, Add);
        }
    }

    private static void OfTimer(LitBy way, FuseSurroundings around, AddFault add)
    {
        if (way.Timer is not { } timer || !LocalTimePattern.CreateWithInvariantCulture("HH:mm").Parse(timer.At).Success)
        {
            add(
                FuseFaultCode.ClockWithoutHour,
                "A clock lights it, but at which hour is not said.",
                "Write the hour as 09:30."
            );
            return;
        }

        if (timer.Weekdays?.Any(d => d is < 1 or > 7) == true)
            add(FuseFaultCode.Weekday, "It is lit on a weekday that is none.", "Monday is 1 and Sunday 7.");
        if (Math.Abs(timer.Days) > 400)
            add(FuseFaultCode.DaysFromDate, "The days before or after a date are more than 400.", "Set fewer.");
        if (
            way.Event == EventKeys.DateReached
            && (timer.Field is not { Length: > 0 } field || around.Fields.All(f => f.Key != field))
        )
            add(
                FuseFaultCode.DateWithoutField,
                "A date lights it, but which field holds the date is not said.",
                "Choose a field that holds a day."
            );
        if (way.Event == EventKeys.Hour && way.When is null)
            add(
                FuseFaultCode.HourWithoutRule,
                "An hour lights it for every lead there is.",
                "Say for which leads, by a rule."
            );
    }

    private static EventKind? OfEvent(
        string? key,
        IReadOnlyDictionary<string, IReadOnlyList<string>>? only,
        EventUse use,
        string what,
        FuseSurroundings around,
        AddFault add
    )
    {
        var kind = around.Events.Find(key);
        if (kind is null || !kind.Uses.HasFlag(use))
        {
            add(
                FuseFaultCode.Event,
                $"The event '{key}' cannot {what}.",
                "Choose one of "
                    + string.Join(", ", around.Events.All.Where(k => k.Uses.HasFlag(use)).Select(k => k.Sentence))
                    + ".",
                key ?? ""
            );
            return null;
        }

        foreach (var detail in only?.Keys.Where(d => kind.Details.All(x => x.Key != d)) ?? [])
            add(
                FuseFaultCode.EventDetail,
                $"'{detail}' is not known of “{kind.Sentence}”.",
                kind.Details.Count == 0
                    ? "Take it out."
                    : "Choose among " + string.Join(", ", kind.Details.Select(d => d.Key)) + ".",
                detail
            );
        foreach (
            var stage in around.Stages is null
                ? []
                : only?.GetValueOrDefault("stage")?.Where(s => !around.Stages.Contains(s)) ?? []
        )
            add(
                FuseFaultCode.StageGone,
                $"There is no stage '{stage}'.",
                "Choose among " + string.Join(", ", around.Stages!) + ".",
                stage
            );
        return kind;
    }

    private static void OfBand(Band band, FuseDefinition fuse, FuseSurroundings around, List<FuseFault> faults)
    {
        void Add(FuseFaultCode code, string what, string mend, string about = "") =>
            faults.Add(new(band.Id, null, code, what, mend) { About = about });
        if (string.IsNullOrWhiteSpace(band.Name))
            Add(FuseFaultCode.BandWithoutName, "The band has no name.", "Name it by when it is entered.");
        if (band.Steps.Count == 0)
            Add(FuseFaultCode.BandEmpty, $"Nothing happens in '{band.Name}'.", "Add a step or take the band out.");
        OfEntry(band, fuse, around, Add);
        if (band.Entry.Rules is { } rules)
            OfRules(rules, $"'{band.Name}'", around, fuse, Add);
        foreach (var step in band.Steps)
            OfStep(band, step, fuse, around, faults);
    }

    private static void OfEntry(Band band, FuseDefinition fuse, FuseSurroundings around, AddFault add)
    {
        var entry = band.Entry;
        bool NoStep() => fuse.Bands.SelectMany(b => b.Steps).All(s => s.Id != entry.Of);
        switch (entry.Kind)
        {
            case EntryKind.Otherwise when !fuse.Bands.Any(b => b.Entry.Kind == EntryKind.When):
                add(
                    FuseFaultCode.OtherwiseAlone,
                    "'Otherwise' has no 'when' to differ from.",
                    "Make it 'always', or add a 'when' band."
                );
                break;
            case EntryKind.When when entry.Rules is null:
                add(
                    FuseFaultCode.BandWithoutRule,
                    $"In '{band.Name}': there is no rule in it.",
                    "Complete the rule or take it out."
                );
                break;
            case EntryKind.On:
                OfEvent(entry.Event, entry.Only, EventUse.Enter, "enter a band", around, add);
                OfChoices(band, fuse, add);
                break;
            case EntryKind.Silence:
                if (NoStep())
                    add(
                        FuseFaultCode.SilenceAfterNothing,
                        $"'{band.Name}' waits for silence after a step that is not there.",
                        "Choose the step."
                    );
                if (entry.ForSeconds is < 1 or > Step.LatestSeconds)
                    add(
                        FuseFaultCode.SilenceLength,
                        $"The silence of '{band.Name}' is not between a second and 400 days.",
                        "Set how long."
                    );
                break;
            case EntryKind.Failed when entry.Of is not null && NoStep():
                add(
                    FuseFaultCode.FailureOfNothing,
                    $"'{band.Name}' is for the failure of a step that is not there.",
                    "Choose the step."
                );
                break;
            case EntryKind.End when fuse.Bands.All(b => b.Id != entry.Of):
                add(
                    FuseFaultCode.FollowsNothing,
                    $"'{band.Name}' follows a band that is not there.",
                    "Choose the band."
                );
                break;
            default:
                break;
        }
    }

    private static void OfChoices(Band band, FuseDefinition fuse, AddFault add)
    {
        var offered = fuse.Bands.SelectMany(b => b.Steps).SelectMany(s => s.Choices ?? []).ToList();
        foreach (var choice in band.Entry.Only?.GetValueOrDefault("choice") ?? [])
            if (!offered.Exists(o => Guard.Same(o, choice) || o.Contains("{{", StringComparison.Ordinal)))
                add(
                    FuseFaultCode.ChoiceNotOffered,
                    $"'{band.Name}' waits for the choice '{choice}', which no step offers.",
                    "Offer it in a text, or choose one that is offered.",
                    choice
                );
    }

    private static void OfRules(RuleSet rules, string where, FuseSurroundings around, FuseDefinition fuse, AddFault add)
    {
        if (rules.Every.Skip(MostRules).Any())
            add(FuseFaultCode.TooManyRules, $"More than {MostRules} rules in {where}.", "Use fewer.");
        foreach (var fault in Guard.Compile(rules).Faults)
            add(FuseFaultCode.Rule, $"In {where}: {fault}.", "Complete the rule or take it out.");
        foreach (var rule in rules.Every)
        {
            if (
                StandingPaths.Contains(rule.Field)
                || rule.Field.StartsWith(Facts.Answer, StringComparison.Ordinal)
                || rule.Field.StartsWith(Facts.Tracking, StringComparison.Ordinal)
                || rule.Field.StartsWith("event.", StringComparison.Ordinal)
            )
                continue;
            if (rule.Field.StartsWith(Facts.Steps, StringComparison.Ordinal))
            {
                if (!KnownResult(rule.Field, fuse, around))
                    add(
                        FuseFaultCode.ResultGone,
                        $"No step gives '{rule.Field}'.",
                        "Choose a step and one of its results.",
                        rule.Field
                    );
                continue;
            }

            var field = around.Fields.FirstOrDefault(f => f.Key == rule.Field);
            if (field is null)
            {
                if (rule.Field.Length > 0)
                    add(
                        FuseFaultCode.FieldGone,
                        $"No form gives a field '{rule.Field}'.",
                        "Choose a field that the forms' maps fill.",
                        rule.Field
                    );
                continue;
            }

            if (rule.Op is not (RuleOp.OneOf or RuleOp.NotOneOf) || field.Choices.Count == 0)
                continue;
            foreach (var value in rule.Values.Where(v => !field.Choices.Any(c => Guard.Same(c, v))))
                add(
                    FuseFaultCode.ValueNotChoice,
                    $"'{value}' is not a choice of {LeadField.WordsOf(rule.Field)}.",
                    "Choose among " + string.Join(", ", field.Choices) + ".",
                    $"{rule.Field}={value}"
                );
        }
    }

    private static bool KnownResult(string path, FuseDefinition fuse, FuseSurroundings around)
    {
        var parts = path.Split('.');
        if (
            parts.Length != 3
            || fuse.Bands.SelectMany(b => b.Steps).FirstOrDefault(s => s.Id == parts[1]) is not { } step
        )
            return false;
        return parts[2] == "status" || around.Steps.Find(step.Kind)?.ResultsOf(step).Contains(parts[2]) == true;
    }
}

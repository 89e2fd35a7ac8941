using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Identity;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>What a lead is, as far as steps can change it.</summary>
/// <param name="Fields">By lead field key.</param>
/// <param name="Tags">In lower case.</param>
/// <param name="Stage">The client's stage they stand at.</param>
public sealed record LeadStanding(IReadOnlyDictionary<string, string> Fields, IReadOnlyList<string> Tags, string Stage);

/// <summary>What a silent step makes of a lead.</summary>
/// <param name="Words">As the story tells it.</param>
/// <param name="Now">How the lead stands after it.</param>
/// <param name="Happened">What fuses can know of.</param>
public sealed record LeadChange(string Words, LeadStanding Now, IReadOnlyList<LeadEvent> Happened);

/// <summary>
/// Decides what steps that only change the lead itself do to it: for real burns, dry runs and backtests alike.
/// </summary>
public static class LeadChanging
{
    /// <summary>Decides.</summary>
    /// <param name="kind">The step's kind.</param>
    /// <param name="settings">With the words filled in.</param>
    /// <param name="lead">The lead as it is.</param>
    /// <param name="known">A lead field by its key, or <c>null</c> for one that nobody has described.</param>
    /// <param name="country">The client's, for reading values (ISO 3166-1 alpha-2).</param>
    /// <param name="now">The moment.</param>
    /// <param name="minds">Which events anybody minds; <c>null</c>: all are told, and in words.</param>
    /// <returns><c>null</c> where the step changes nothing that a lead is.</returns>
    public static LeadChange? Decide(
        string kind,
        IReadOnlyDictionary<string, string> settings,
        LeadStanding lead,
        Func<string, LeadField?> known,
        string country,
        Instant now,
        Func<string, bool>? minds = null
    )
    {
        var quiet = minds is not null;
        string Setting(string key) => settings.GetValueOrDefault(key)?.Trim() ?? "";
        bool Minded(string key) => minds is null || minds(key);
        switch (kind)
        {
            case StepKinds.Tag when Tag(lead.Tags, Setting("tag")) is { } tags:
                return new(
                    quiet ? "" : $"tagged {Setting("tag")}",
                    lead with
                    {
                        Tags = tags,
                    },
                    Minded(EventKeys.Tagged) ? [Tagged(Setting("tag"), now)] : []
                );
            case StepKinds.Tag:
                return new(quiet ? "" : $"tagged {Setting("tag")} already", lead, []);
            case StepKinds.Untag:
                return Untag(lead.Tags, Setting("tag")) is { } left
                    ? new($"the tag {Setting("tag")} was taken off", lead with { Tags = left }, [])
                    : new($"not tagged {Setting("tag")} anyway", lead, []);
            case StepKinds.SetStage when quiet && !Minded(EventKeys.StageReached):
                return new("", Setting("stage") is { Length: > 0 } at ? lead with { Stage = at } : lead, []);
            case StepKinds.SetStage:
                return StageReached(lead.Stage, Setting("stage"), now) is { } reached
                    ? new($"stage: {Setting("stage")}", lead with { Stage = Setting("stage") }, [reached])
                    : new($"at {Setting("stage")} already", lead, []);
            case StepKinds.SetField:
                return SetField(lead, Setting("field"), Setting("value"), known, country, now);
            default:
                return null;
        }
    }

    /// <summary>Puts a tag on.</summary>
    /// <returns>The tags, or <c>null</c> where it was on, or is none.</returns>
    public static IReadOnlyList<string>? Tag(IReadOnlyList<string> tags, string tag)
    {
        var plain = tag.ToLowerInvariant();
        return plain.Length == 0 || tags.Contains(plain) ? null : [.. tags, plain];
    }

    /// <summary>A tag was put on.</summary>
    public static LeadEvent Tagged(string tag, Instant now) =>
        LeadEvent.Of(
            EventKeys.Tagged,
            now,
            $"the tag {tag.ToLowerInvariant()} was put on",
            ("tag", tag.ToLowerInvariant())
        );

    /// <summary>Takes a tag off.</summary>
    /// <returns>The tags left, or <c>null</c> where it was not on.</returns>
    public static IReadOnlyList<string>? Untag(IReadOnlyList<string> tags, string tag)
    {
        var plain = tag.ToLowerInvariant();
        return tags.Contains(plain) ? [.. tags.Where(t => t != plain)] : null;
    }

    /// <summary>A stage is set.</summary>
    /// <returns>What happened, or <c>null</c> where they stood there.</returns>
    public static LeadEvent? StageReached(string before, string stage, Instant now) =>
        stage.Length == 0 || before == stage
            ? null
            : LeadEvent.Of(
                EventKeys.StageReached,
                now,
                $"the stage {stage} was reached",
                ("stage", stage),
                ("before", before)
            );

    /// <summary>A field has another value.</summary>
    public static LeadEvent FieldChanged(string field, string before, string after, Instant now) =>
        LeadEvent.Of(
            EventKeys.FieldChanged,
            now,
            $"{Facts.Say(field)} changed from {(before.Length == 0 ? "nothing" : before)} to {(after.Length == 0 ? "nothing" : after)}",
            ("field", field),
            ("before", before),
            ("after", after)
        );

    // As the same words on a form would be kept; what cannot be read stays as it was written.
    private static string AsRead(string value, LeadField field, string country) =>
        field.Type switch
        {
            LeadFieldType.Phone => PhoneReader.Read(value, country).Phone?.E164 ?? value,
            LeadFieldType.Email => EmailReader.Read(value).Email ?? value,
            _ => ValueReader.Read(value, field, ReadingLocale.For(null, country)) is { Fault: null } read
                ? read.Value
                : value,
        };

    private static LeadChange SetField(
        LeadStanding lead,
        string field,
        string value,
        Func<string, LeadField?> known,
        string country,
        Instant now
    )
    {
        var described = known(field) ?? LeadField.Standard.FirstOrDefault(f => f.Key == field);
        if (described is not null)
            value = AsRead(value, described, country);
        var label = LeadField.LabelOf(field, known);
        var before = lead.Fields.GetValueOrDefault(field) ?? "";
        string Shown(string text) => text.Length == 0 ? "empty" : text;
        if (before == value)
            return new($"{label} is {Shown(value)} already", lead, []);
        var fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
        if (value.Length == 0)
            fields.Remove(field);
        else
            fields[field] = value;
        return new(
            $"{label}: {Shown(before)} → {Shown(value)}",
            lead with
            {
                Fields = fields,
            },
            [
                FieldChanged(field, before, value, now),
                LeadEvent.Of(EventKeys.CameToMatch, now, "they came to match what lights it") with
                {
                    FieldsBefore = lead.Fields,
                },
            ]
        );
    }
}

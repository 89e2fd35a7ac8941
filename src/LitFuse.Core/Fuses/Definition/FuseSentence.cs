using System.Globalization;
using LitFuse.Core.Guards;
using LitFuse.Core.Texts;
using NodaTime;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>Says a fuse in plain words, from its content.</summary>
public static class FuseSentence
{
    /// <summary>
    /// One or two sentences: <c>Post in #ride-desk at once. When fleet size is one of 10–24, 25+: text the lead.</c>
    /// </summary>
    public static string Say(FuseDefinition fuse)
    {
        if (fuse.Bands.Count == 0)
            return "Nothing happens yet.";
        return string.Join(
            ' ',
            fuse.Bands.Select(band =>
            {
                var steps = string.Join(", ", band.Steps.Select(SayStep));
                return $"{SayEntry(band.Entry, fuse)}: {(steps.Length == 0 ? "nothing yet" : steps)}.";
            })
        );
    }

    /// <summary>
    /// A name from its content, where nobody has thought of a better: <c>Book a test ride: post in #ride-desk, text the
    /// lead</c>.
    /// </summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="events">The kinds of event there are.</param>
    /// <param name="formName">A form's name by its key.</param>
    public static string Name(FuseDefinition fuse, EventCatalog events, Func<string, string> formName)
    {
        var way = fuse.LitBy.Count == 0 ? null : fuse.LitBy[0];
        var forms = way?.Only?.GetValueOrDefault("form") ?? [];
        var when =
            way is null ? "New leads"
            : way.Event == EventKeys.Submission && forms.Count > 0
                ? formName(forms[0])
                    + (
                        forms.Count > 1
                            ? string.Create(CultureInfo.InvariantCulture, $" and {forms.Count - 1} more")
                            : ""
                    )
            : way.Event == EventKeys.Submission ? "New leads"
            : Capital(events.Find(way.Event)?.Sentence ?? way.Event)
                + string.Concat(
                    (way.Only ?? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal))
                        .Where(o => o.Value.Count > 0)
                        .Take(1)
                        .Select(o => " " + string.Join(" or ", o.Value.Take(2)))
                );
        var steps = fuse.Bands.SelectMany(b => b.Steps).Select(SayWhat).Distinct(StringComparer.Ordinal).ToList();
        var name =
            steps.Count == 0
                ? $"{when}: tell the team"
                : $"{when}: {string.Join(", ", steps.Take(3))}{(steps.Count > 3 ? " …" : "")}";
        return Clip.Short(name, 100);
    }

    private static string Capital(string words) =>
        words.Length == 0 ? words : char.ToUpperInvariant(words[0]) + words[1..];

    /// <summary>A band's entry as it is read on the sheet.</summary>
    public static string SayEntry(BandEntry entry, FuseDefinition? fuse = null)
    {
        var when =
            entry.Rules is { } rules && (rules.Rules.Count > 0 || rules.Groups is { Count: > 0 })
                ? Guard.Say(rules)
                : null;
        var (begins, adds) = entry.Kind switch
        {
            EntryKind.Always => ("Always", false),
            EntryKind.Otherwise => ("Otherwise", false),
            EntryKind.When => ("When " + (when ?? "nothing is said yet"), false),
            EntryKind.On => (SayOn(entry), true),
            EntryKind.Silence => ($"On silence for {Span(entry.ForSeconds)} after “{StepName(fuse, entry.Of)}”", true),
            EntryKind.Failed => (
                "When " + (entry.Of is null ? "a step fails" : $"“{StepName(fuse, entry.Of)}” fails"),
                true
            ),
            _ => (
                $"When “{fuse?.Bands.FirstOrDefault(b => b.Id == entry.Of)?.Name ?? "a band"}” has come to its end",
                true
            ),
        };
        return adds && when is not null ? $"{begins}, and {when}" : begins;
    }

    /// <summary>What lights it, as a sentence.</summary>
    public static string SayLitBy(LitBy way, EventCatalog events)
    {
        var kind = events.Find(way.Event);
        var only = string.Concat(
            (way.Only ?? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal))
                .Where(o => o.Value.Count > 0)
                .Select(o =>
                    o.Key == "form"
                        ? $": {string.Join(" or ", o.Value)}"
                        : $" {kind?.Details.FirstOrDefault(d => d.Key == o.Key)?.Label ?? o.Key} {string.Join(" or ", o.Value)}"
                )
        );
        var timer =
            way.Timer is not { } t ? ""
            : t.Field is { } field
                ? $" {(t.Days == 0 ? "on the day of" : t.Days > 0 ? $"{t.Days} days after" : $"{-t.Days} days before")} {Facts.Say(field)} at {t.At}"
            : $" at {t.At}{(t.Weekdays is { Count: > 0 } days ? " on " + string.Join(", ", days.Select(d => (IsoDayOfWeek)d)) : " every day")}";
        return $"{kind?.Sentence ?? way.Event}{only}{timer}{(way.When is { } when ? $", when {Guard.Say(when)}" : "")}";
    }

    /// <summary>
    /// A span of seconds in the largest unit that fits whole: <c>90 s</c>, <c>5 min</c>, <c>2 h</c>, <c>3 days</c>.
    /// </summary>
    public static string Span(int seconds)
    {
        var (count, unit) = seconds switch
        {
            >= 172_800 when seconds % 86_400 == 0 => (seconds / 86_400, "days"),
            86_400 => (1, "day"),
            >= 3600 when seconds % 3600 == 0 => (seconds / 3600, "h"),
            >= 60 when seconds % 60 == 0 => (seconds / 60, "min"),
            _ => (seconds, "s"),
        };
        return string.Create(CultureInfo.InvariantCulture, $"{count} {unit}");
    }

    /// <summary>How far off a moment is: <c>in 3 h</c>, <c>now</c>.</summary>
    public static string Until(Instant now, Instant at) =>
        at - now < Duration.FromSeconds(1) ? "now" : "in " + Roughly(at - now);

    /// <summary>A span of time as people round it: <c>41 s</c>, <c>90 min</c>, <c>3 h</c>.</summary>
    public static string Roughly(Duration span) =>
        span < Duration.FromMinutes(2)
            ? string.Create(CultureInfo.InvariantCulture, $"{Math.Max(0, span.TotalSeconds):0} s")
        : span < Duration.FromHours(2) ? string.Create(CultureInfo.InvariantCulture, $"{span.TotalMinutes:0} min")
        : span < Duration.FromDays(2) ? string.Create(CultureInfo.InvariantCulture, $"{span.TotalHours:0} h")
        : string.Create(CultureInfo.InvariantCulture, $"{span.TotalDays:0} days");

    private static string SayOn(BandEntry entry)
    {
        IReadOnlyList<string> Of(string detail) => entry.Only?.GetValueOrDefault(detail) ?? [];
        if (entry.Event == EventKeys.Replied)
        {
            var (choices, meanings) = (Of("choice"), Of("meaning"));
            if (choices.Count > 0)
                return "On a reply that chooses " + string.Join(" or ", choices);
            return meanings.Count == 0 ? "On any reply" : "On a reply that means " + string.Join(" or ", meanings);
        }

        var kind = EventCatalog.Plain.Find(entry.Event);
        var only = (entry.Only ?? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal))
            .Where(o => o.Value.Count > 0)
            .Select(o => string.Join(" or ", o.Value))
            .ToList();
        return $"When {kind?.Sentence ?? entry.Event ?? "something happens"}{(only.Count > 0 ? ": " + string.Join(", ", only) : "")}";
    }

    private static string StepName(FuseDefinition? fuse, string? id) =>
        fuse?.Bands.SelectMany(b => b.Steps).FirstOrDefault(s => s.Id == id)?.Name ?? "a step";

    private static string SayStep(Step step) => $"{SayWhat(step)} {step.Moment.Say()}";

    private static string SayWhat(Step step)
    {
        string Setting(string key, string otherwise) =>
            step.Settings.GetValueOrDefault(key) is { Length: > 0 } value ? value : otherwise;
        return step.Kind switch
        {
            StepKinds.ChannelPost => $"post in {Setting("channel", "a channel")}",
            StepKinds.DirectPost => $"tell {Setting("person", "someone")} directly",
            StepKinds.Text => "text the lead",
            StepKinds.Email => "write them an email",
            StepKinds.Tag => $"tag {Setting("tag", "them")}",
            StepKinds.Untag => $"take the tag {Setting("tag", "")} off",
            StepKinds.SetField => $"set {Facts.Say(Setting("field", "a field"))}",
            StepKinds.SetStage => $"set the stage {Setting("stage", "")}",
            _ => step.Name,
        };
    }
}

using System.Globalization;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Fuses;

/// <summary>Says a fuse in plain words, from its content.</summary>
public static class FuseSentence
{
    /// <summary>One or two sentences: <c>Post in #ride-desk at once. When fleet size is one of 10–24, 25+: text the lead.</c></summary>
    public static string Say(FuseDefinition fuse)
    {
        if (fuse.Bands.Count == 0) return "Nothing happens yet.";
        return string.Join(' ', fuse.Bands.Select(band =>
        {
            var steps = string.Join(", ", band.Steps.Select(SayStep));
            return $"{SayEntry(band.Entry)}: {(steps.Length == 0 ? "nothing yet" : steps)}.";
        }));
    }

    /// <summary>A band's entry as it is read on the sheet.</summary>
    public static string SayEntry(BandEntry entry) => entry.Kind switch
    {
        EntryKind.Always => "Always",
        EntryKind.Otherwise => "Otherwise",
        _ => "When " + string.Join(
            entry.Rules?.Match == RuleMatch.Any ? " or " : " and ",
            (entry.Rules?.Rules ?? []).Select(r => $"{Guard.FieldWords(r.Field)} is {Guard.Say(r)}")),
    };

    private static string SayStep(Step step)
    {
        step.Settings.TryGetValue("channel", out var channel);
        step.Settings.TryGetValue("person", out var person);
        var what = step.Kind switch
        {
            StepKinds.ChannelPost => $"post in {channel ?? "a channel"}",
            StepKinds.DirectPost => $"tell {person ?? "someone"} directly",
            StepKinds.Text => "text the lead",
            _ => step.Name,
        };
        return what + (step.AfterSeconds == 0 ? " at once" : " after " + Span(step.AfterSeconds));
    }

    /// <summary>A span of seconds in the largest unit that fits whole: <c>90 s</c>, <c>5 min</c>, <c>2 h</c>, <c>3 days</c>.</summary>
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
}

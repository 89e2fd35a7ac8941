using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>A kind of happening, and the details it is picked by, ready to be asked often.</summary>
internal sealed class PickedBy(string key, IReadOnlyDictionary<string, IReadOnlyList<string>>? only)
{
    private readonly (string Detail, string[] Values)[] picks =
    [
        .. (only ?? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal))
            .Where(o => o.Value.Count > 0)
            .Select(o => (o.Key, o.Value.ToArray())),
    ];

    /// <summary>True when it is of this kind and each detail has one of the values.</summary>
    public bool Picks(LeadEvent what)
    {
        if (what.Event != key)
            return false;
        foreach (var (detail, values) in picks)
        {
            if (what.Detail(detail) is not { } value)
                return false;
            var found = false;
            foreach (var one in values)
                found |= Guard.Same(one, value);
            if (!found)
                return false;
        }

        return true;
    }
}

/// <summary>A band with what was worked out of it beforehand.</summary>
internal sealed class CompiledBand(Band band, int place, Guard? guard)
{
    public Band Band { get; } = band;

    /// <summary>Its place in the fuse, from 0.</summary>
    public int Place { get; } = place;

    /// <summary>The rules of its entry.</summary>
    public Guard? Guard { get; } = guard;

    /// <summary>What enters it, where something that happens does.</summary>
    public PickedBy? On { get; } =
        band.Entry is { Kind: EntryKind.On, Event: { } on } ? new(on, band.Entry.Only) : null;

    /// <summary>Its steps, but for those that are done only in the place of another.</summary>
    public List<CompiledStep> Steps { get; } = [];

    /// <summary>Bands entered when it has come to its end.</summary>
    public List<CompiledBand> AfterEnd { get; } = [];
}

/// <summary>A step with what was worked out of it beforehand.</summary>
internal sealed class CompiledStep(
    CompiledBand band,
    Step step,
    StepKind kind,
    Guard? when,
    IReadOnlyDictionary<string, MessageWords> words,
    IReadOnlyDictionary<string, JsonWords> bodies,
    IReadOnlyList<MessageWords> choices,
    IReadOnlyList<string> needs,
    bool standby
)
{
    public CompiledBand In { get; } = band;

    public Band Band => In.Band;

    public Step Step { get; } = step;

    public StepKind Kind { get; } = kind;

    public Guard? When { get; } = when;

    public IReadOnlyDictionary<string, MessageWords> Words { get; } = words;

    public IReadOnlyDictionary<string, JsonWords> Bodies { get; } = bodies;

    public IReadOnlyList<MessageWords> Choices { get; } = choices;

    /// <summary>Steps whose results it uses.</summary>
    public IReadOnlyList<string> Needs { get; } = needs;

    /// <summary>Those of them that the fuse has, but for itself.</summary>
    public CompiledStep[] Awaits { get; set; } = [];

    /// <summary>
    /// Its end leads on to something even where it went well: another step waits for it, a silence begins, or its
    /// band's end matters.
    /// </summary>
    public bool Awaited { get; set; }

    /// <summary>Nothing of it is put into words: its settings go as they are.</summary>
    public bool Plain { get; } =
        words.Count == 0 && bodies.Count == 0 && choices.Count == 0 && !step.Settings.ContainsKey("links");

    /// <summary>It is done only in the place of another.</summary>
    public bool Standby { get; } = standby;

    /// <summary>Its place in the fuse, from 0.</summary>
    public int Place { get; init; }

    /// <summary>Bands that are entered when there is silence after it.</summary>
    public List<CompiledBand> AfterSilence { get; } = [];

    /// <summary>How it speaks to the lead.</summary>
    public Voice Voice { get; } = StepVoices.Of(step.Kind);

    /// <summary>Its own hours, where it has some.</summary>
    public OpenHours? OwnHours { get; } =
        step.Hours is { Kind: HoursKind.Own } own && own.Fault() is null ? own.Of(Never, Never) : null;

    /// <summary>Settings that must have words in them when it goes out.</summary>
    public IReadOnlyList<string> MustSay { get; } =
    [
        .. kind
            .Settings.Where(s =>
                s is { Type: SettingType.Words or SettingType.Line, Optional: false } && s.CountsFor(step.Settings)
            )
            .Select(s => s.Key),
    ];

    /// <summary>Settings whose words stand on one line.</summary>
    public IReadOnlySet<string> Lines { get; } =
        kind.Settings.Where(s => s.Type == SettingType.Line).Select(s => s.Key).ToHashSet(StringComparer.Ordinal);

    /// <summary>Settings that show answers as blocks.</summary>
    public IReadOnlyList<string> Blocks { get; } =
    [.. kind.Settings.Where(s => s.Type == SettingType.Blocks && step.Settings.ContainsKey(s.Key)).Select(s => s.Key)];

    private static OpenHours Never => new(LocalTime.Midnight, LocalTime.Midnight, []);

    /// <summary>As it is asked of delivery.</summary>
    public BurnEffect.Deliver Deliver(string key, Instant plannedAt, IReadOnlyDictionary<string, string> settings) =>
        new(Band.Id, Step.Id, Kind.Key, Kind.Lane, key, plannedAt, settings, Step.Hours, Retry);

    // What a system of record lacks today is still wanted tomorrow; what people are told is not.
    private RetryProfile Retry =>
        Step.OnFailure?.Retry is { } asked and not RetryProfile.Usual ? asked
        : Kind.Lane == Lane.Systems ? RetryProfile.Patient
        : RetryProfile.Usual;
}

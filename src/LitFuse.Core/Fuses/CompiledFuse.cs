using LitFuse.Core.Guards;
using LitFuse.Core.Words;

namespace LitFuse.Core.Fuses;

/// <summary>A step with what was worked out of it beforehand.</summary>
/// <param name="Needs">Steps whose results it uses.</param>
/// <param name="Standby">It is done only in the place of another.</param>
internal sealed record CompiledStep(Band Band, Step Step, StepKind Kind, Guard? When, IReadOnlyDictionary<string, MessageWords> Words, IReadOnlyDictionary<string, JsonWords> Bodies, IReadOnlyList<MessageWords> Choices, IReadOnlyList<string> Needs, bool Standby);

/// <summary>A fuse version made ready to burn: guards compiled, words parsed. Made once, shared by all threads.</summary>
public sealed class CompiledFuse
{
    private readonly Dictionary<string, Guard> guards = new(StringComparer.Ordinal);
    private readonly Dictionary<int, Guard> litBy = [];
    private readonly Dictionary<string, CompiledStep> steps = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Band> bands = new(StringComparer.Ordinal);
    private readonly HashSet<string> awaited = new(StringComparer.Ordinal);
    private bool failuresMatter;
    private readonly HashSet<string> minded = new(StringComparer.Ordinal);

    private CompiledFuse(FuseDefinition definition) => Definition = definition;

    /// <summary>The fuse it was made from.</summary>
    public FuseDefinition Definition { get; }

    /// <summary>True when an event can enter a band of it.</summary>
    public bool Hears { get; private set; }

    /// <summary>True when this end of a step can lead to anything else: what waits for its result, for silence after it, for its failure, or for the end of its band.</summary>
    public bool EndMatters(string stepId, StepStatus status) =>
        awaited.Contains(stepId) || (status == StepStatus.Failed && (failuresMatter || (Knows(stepId) && Step(stepId).Step.OnFailure is not (null or { Next: FailureThen.GoOn }))));

    /// <summary>Compiles a definition that has no faults.</summary>
    /// <exception cref="ArgumentException">A band's rules or a step's words do not compile; <see cref="FuseFaults"/> says so beforehand.</exception>
    /// <param name="definition">The fuse.</param>
    /// <param name="catalog">The kinds of step there are; <c>null</c>: our own.</param>
    public static CompiledFuse From(FuseDefinition definition, StepCatalog? catalog = null)
    {
        var fuse = new CompiledFuse(definition);
        for (var i = 0; i < definition.LitBy.Count; i++)
        {
            if (definition.LitBy[i].When is { } when) fuse.litBy[i] = GuardOf(when, "what lights it", definition);
        }

        var standby = definition.Bands.SelectMany(b => b.Steps).Select(s => s.OnFailure).Where(f => f?.Next == FailureThen.Instead).Select(f => f!.Step).OfType<string>().ToHashSet(StringComparer.Ordinal);
        foreach (var band in definition.Bands)
        {
            fuse.bands[band.Id] = band;
            if (band.Entry.Kind == EntryKind.When || band.Entry.Rules is not null) fuse.guards[band.Id] = GuardOf(band.Entry.Rules ?? new(RuleMatch.All, []), $"band '{band.Name}'", definition);
            foreach (var step in band.Steps) fuse.steps[step.Id] = Compile(band, step, standby.Contains(step.Id), definition, catalog ?? StepCatalog.Plain);
        }

        foreach (var rule in definition.StopOn) fuse.minded.Add(rule.Event);
        foreach (var band in definition.Bands)
        {
            if (band.Entry is { Kind: EntryKind.On, Event: { } on }) fuse.minded.Add(on);
            if (band.Entry.Kind == EntryKind.Silence) fuse.minded.Add(EventKeys.Replied);
            if (band.Entry.Kind == EntryKind.Failed) fuse.minded.Add(EventKeys.DeliveryFailed);
        }

        fuse.Hears = definition.Bands.Any(b => b.Entry.Kind is EntryKind.On);
        fuse.failuresMatter = definition.Bands.Any(b => b.Entry.Kind == EntryKind.Failed);
        fuse.awaited.UnionWith(fuse.steps.Values.SelectMany(s => s.Needs));
        foreach (var entry in definition.Bands.Select(b => b.Entry))
        {
            if (entry is { Kind: EntryKind.Silence, Of: { } step }) fuse.awaited.Add(step);
            if (entry is { Kind: EntryKind.End, Of: { } ended } && fuse.bands.TryGetValue(ended, out var band)) fuse.awaited.UnionWith(band.Steps.Select(s => s.Id));
        }

        return fuse;
    }

    /// <summary>
    /// The first way in which one of these happenings lights it, or <c>null</c>; and, where only its rules kept it from
    /// being lit, the sentence that says so.
    /// </summary>
    public (Happening? LitBy, string? NotBecause) LitByAny(IReadOnlyList<Happening> happened, in GuardFacts facts)
    {
        string? not = null;
        for (var i = 0; i < Definition.LitBy.Count; i++)
        {
            var way = Definition.LitBy[i];
            foreach (var one in happened)
            {
                if (!one.Is(way.Event, way.Only)) continue;
                if (!litBy.TryGetValue(i, out var guard)) return (one, null);
                var answer = guard.Ask(facts);
                if (answer.Holds && one.FieldsBefore is { } before)
                {
                    // It came to match only if it did not before.
                    var now = facts.Fact;
                    if (guard.Ask(facts with { Fact = path => path.Contains('.', StringComparison.Ordinal) ? now(path) : before.GetValueOrDefault(path) }).Holds) continue;
                }

                if (answer.Holds) return (one, null);
                if (one.Event != EventKeys.CameToMatch) not = answer.Because;
            }
        }

        return (null, not);
    }

    /// <summary>What must hold for this way of lighting, or <c>null</c>.</summary>
    public Guard? RulesOf(int place) => litBy.GetValueOrDefault(place);

    /// <summary>True when an event of this kind can change a burn of it.</summary>
    public bool Minds(string key) => minded.Contains(key);

    /// <summary>The rules of a band's entry, or <c>null</c>.</summary>
    public Guard? GuardOf(Band band) => guards.GetValueOrDefault(band.Id);

    internal CompiledStep Step(string id) => steps[id];

    internal bool Knows(string stepId) => steps.ContainsKey(stepId);

    internal Band? Band(string id) => bands.GetValueOrDefault(id);

    /// <summary>A step by itself with the facts put into its words: for one that is sent on demand, or tried.</summary>
    /// <exception cref="ArgumentException">It is of no kind, or its words cannot be read.</exception>
    public static IReadOnlyDictionary<string, string> Fill(Step step, WordFacts facts, StepCatalog catalog)
    {
        var band = new Band("alone", "Alone", new(EntryKind.Always), [step]);
        return Fill(Compile(band, step, standby: false, new FuseDefinition { Name = step.Name, LitBy = [], Bands = [band] }, catalog), facts);
    }

    /// <summary>A step's settings with the facts put into the words, and its choices.</summary>
    internal static Dictionary<string, string> Fill(CompiledStep step, WordFacts facts)
    {
        var choices = step.Choices.Select(c => c.Render(facts)).Where(c => c.Length > 0).ToList();
        var with = choices.Count == 0 ? facts : facts with { Choices = choices };
        var filled = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (key, value) in step.Step.Settings)
        {
            filled[key] = step.Words.TryGetValue(key, out var words) ? words.Render(with) : value;
        }

        foreach (var (key, body) in step.Bodies) filled[key] = body.Render(with);

        if (filled.Remove("links", out var links) && filled.TryGetValue("words", out var said)) filled["words"] = said + Linked(links, facts);
        for (var i = 0; i < choices.Count; i++) filled[FormattableString.Invariant($"choice.{i + 1}")] = choices[i];
        return filled;
    }

    private static string Linked(string links, WordFacts facts)
    {
        var lines = links.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(l => l switch
        {
            "lead" => facts.Lead.GetValueOrDefault("link"),
            "fuse" => facts.Fuse.GetValueOrDefault("link"),
            _ => null,
        });
        return string.Concat(lines.Where(l => l is not null).Select(l => "\n" + l));
    }

    private static CompiledStep Compile(Band band, Step step, bool standby, FuseDefinition definition, StepCatalog catalog)
    {
        var kind = catalog.Find(step.Kind) ?? throw new ArgumentException($"step '{step.Name}': there is no step of kind '{step.Kind}'", nameof(definition));
        var words = new Dictionary<string, MessageWords>(StringComparer.Ordinal);
        foreach (var setting in kind.Settings.Where(s => s.Type is SettingType.Words or SettingType.Line && s.CountsFor(step.Settings)))
        {
            if (!step.Settings.TryGetValue(setting.Key, out var text) || (setting.Optional && string.IsNullOrWhiteSpace(text))) continue;
            words[setting.Key] = WordsOf(text, step, definition);
        }

        foreach (var (key, text) in kind.Settings.Where(s => s.Type is SettingType.Columns or SettingType.Pairs && s.CountsFor(step.Settings)).SelectMany(s => step.Columns(s.Key)))
        {
            words[key] = WordsOf(text, step, definition);
        }

        var bodies = new Dictionary<string, JsonWords>(StringComparer.Ordinal);
        foreach (var setting in kind.Settings.Where(s => s.Type == SettingType.Json && s.CountsFor(step.Settings)))
        {
            var text = step.Settings.GetValueOrDefault(setting.Key) is { } own && !string.IsNullOrWhiteSpace(own) ? own : setting.Default;
            if (text is not null) bodies[setting.Key] = JsonWords.Parse(text) is (Words: { } parsed, _) ? parsed : throw new ArgumentException($"step '{step.Name}': {JsonWords.Parse(text).Fault}", nameof(definition));
        }

        var choices = (step.Choices ?? []).Where(c => !string.IsNullOrWhiteSpace(c)).Select(c => WordsOf(c, step, definition)).ToList();
        var when = step.When is null ? null : GuardOf(step.When, $"step '{step.Name}'", definition);
        var needs = words.Values.Concat(choices).SelectMany(w => w.Uses).Concat(bodies.Values.SelectMany(b => b.Uses)).Concat(step.When?.Every.Select(r => r.Field) ?? [])
            .Where(p => p.StartsWith(Facts.Steps, StringComparison.Ordinal)).Select(p => p.Split('.')[1]).Distinct(StringComparer.Ordinal).ToList();
        return new(band, step, kind, when, words, bodies, choices, needs, standby);
    }

    private static MessageWords WordsOf(string text, Step step, FuseDefinition definition) =>
        MessageWords.Parse(text) is (Words: { } parsed, _) ? parsed : throw new ArgumentException($"step '{step.Name}': {MessageWords.Parse(text).Fault}", nameof(definition));

    private static Guard GuardOf(RuleSet rules, string where, FuseDefinition definition) =>
        Guard.Compile(rules) is (Guard: { } guard, _) ? guard : throw new ArgumentException($"{where}: {Guard.Compile(rules).Faults[0]}", nameof(definition));
}

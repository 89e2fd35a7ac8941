using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>A step with the facts put into its words.</summary>
/// <param name="Settings">As they are sent.</param>
/// <param name="Fault">Why the words cannot be put together, as a clause; <c>null</c> where they can.</param>
public sealed record FilledStep(Dictionary<string, string> Settings, string? Fault);

/// <summary>
/// A fuse version made ready to burn: guards compiled, words parsed. Made once, shared by all threads.
/// </summary>
public sealed class CompiledFuse
{
    private const int LongestLine = 2000;

    private readonly Dictionary<int, Guard> litBy = [];
    private readonly Dictionary<string, CompiledStep> steps = new(StringComparer.Ordinal);
    private readonly Dictionary<string, CompiledBand> bands = new(StringComparer.Ordinal);
    private PickedBy[] waysIn = [];
    private readonly HashSet<string> awaited = new(StringComparer.Ordinal);
    private bool failuresMatter;
    private readonly HashSet<string> minded = new(StringComparer.Ordinal);

    private CompiledFuse(FuseDefinition definition) => Definition = definition;

    /// <summary>The fuse it was made from.</summary>
    public FuseDefinition Definition { get; }

    /// <summary>
    /// True when this end of a step can lead to anything else: what waits for its result, for silence after it, for its
    /// failure, or for the end of its band.
    /// </summary>
    public bool EndMatters(string stepId, StepStatus status) =>
        awaited.Contains(stepId)
        || (
            status == StepStatus.Failed
            && (
                failuresMatter
                || (Knows(stepId) && Step(stepId).Step.OnFailure is not (null or { Next: FailureThen.GoOn }))
            )
        );

    /// <summary>Compiles a definition that has no faults.</summary>
    /// <exception cref="ArgumentException">A band's rules or a step's words do not compile;
    /// <see cref="Checks.FuseFaults"/> says so beforehand.</exception>
    /// <param name="definition">The fuse.</param>
    /// <param name="catalog">The kinds of step there are; <c>null</c>: our own.</param>
    public static CompiledFuse From(FuseDefinition definition, StepCatalog? catalog = null)
    {
        var fuse = new CompiledFuse(definition);
        for (var i = 0; i < definition.LitBy.Count; i++)
        {
            if (definition.LitBy[i].When is { } when)
                fuse.litBy[i] = GuardOf(when, "what lights it", definition);
        }

        var standby = definition
            .Bands.SelectMany(b => b.Steps)
            .Select(s => s.OnFailure)
            .Where(f => f?.Next == FailureThen.Instead)
            .Select(f => f!.Step)
            .OfType<string>()
            .ToHashSet(StringComparer.Ordinal);
        foreach (var band in definition.Bands)
        {
            var guard =
                band.Entry.Kind == EntryKind.When || band.Entry.Rules is not null
                    ? GuardOf(band.Entry.Rules ?? new(RuleMatch.All, []), $"band '{band.Name}'", definition)
                    : null;
            var compiled = new CompiledBand(band, fuse.BandPlaces++, guard);
            fuse.bands[band.Id] = compiled;
            foreach (var step in band.Steps)
            {
                var made = Compile(
                    compiled,
                    step,
                    standby.Contains(step.Id),
                    definition,
                    catalog ?? StepCatalog.Plain,
                    fuse.StepPlaces++
                );
                fuse.steps[step.Id] = made;
                if (!made.Standby)
                    compiled.Steps.Add(made);
            }
        }

        fuse.Bands = [.. fuse.bands.Values];
        fuse.OnEvents = [.. fuse.Bands.Where(b => b.On is not null)];
        fuse.StopOn = [.. definition.StopOn.Select(s => new PickedBy(s.Event, s.Only))];
        fuse.waysIn = [.. definition.LitBy.Select(l => new PickedBy(l.Event, l.Only))];
        foreach (var step in fuse.steps.Values)
            step.Awaits = [.. step.Needs.Where(n => n != step.Step.Id && fuse.Knows(n)).Select(fuse.Step)];
        fuse.Mind();
        fuse.Await();
        return fuse;
    }

    // Which kinds of event change anything for it.
    private void Mind()
    {
        foreach (var rule in Definition.StopOn)
            minded.Add(rule.Event);
        foreach (var entry in Definition.Bands.Select(b => b.Entry))
        {
            if (entry is { Kind: EntryKind.On, Event: { } on })
                minded.Add(on);
            if (entry.Kind == EntryKind.Silence)
                minded.Add(EventKeys.Replied);
            if (entry.Kind == EntryKind.Failed)
                minded.Add(EventKeys.DeliveryFailed);
        }

        failuresMatter = Definition.Bands.Any(b => b.Entry.Kind == EntryKind.Failed);
    }

    // Which steps others wait for, and what follows which.
    private void Await()
    {
        awaited.UnionWith(steps.Values.SelectMany(s => s.Needs));
        foreach (var band in Bands)
        {
            if (band.Band.Entry is { Kind: EntryKind.Silence, Of: { } after })
            {
                awaited.Add(after);
                if (Knows(after))
                    Step(after).AfterSilence.Add(band);
            }

            if (band.Band.Entry is { Kind: EntryKind.End, Of: { } of } && bands.TryGetValue(of, out var ended))
            {
                awaited.UnionWith(ended.Band.Steps.Select(s => s.Id));
                ended.AfterEnd.Add(band);
            }
        }

        foreach (var id in awaited)
            if (steps.TryGetValue(id, out var step))
                step.Awaited = true;
    }

    /// <summary>
    /// The first way in which one of these happenings lights it, or <c>null</c>; and, where only its rules kept it from
    /// being lit, the sentence that says so.
    /// </summary>
    public (LeadEvent? LitBy, string? NotBecause) LitByAny(IReadOnlyList<LeadEvent> happened, in GuardFacts facts)
    {
        string? not = null;
        for (var i = 0; i < waysIn.Length; i++)
        {
            for (var n = 0; n < happened.Count; n++)
            {
                var one = happened[n];
                if (!waysIn[i].Picks(one))
                    continue;
                if (!litBy.TryGetValue(i, out var guard))
                    return (one, null);
                var answer = guard.Ask(facts);
                if (answer.Holds && one.FieldsBefore is { } before)
                {
                    // It came to match only if it did not before.
                    var now = facts.Fact;
                    if (
                        guard
                            .Ask(
                                facts with
                                {
                                    Fact = path =>
                                        path.Contains('.', StringComparison.Ordinal)
                                            ? now(path)
                                            : before.GetValueOrDefault(path),
                                }
                            )
                            .Holds
                    )
                        continue;
                }

                if (answer.Holds)
                    return (one, null);
                if (one.Event != EventKeys.CameToMatch)
                    not = answer.Because;
            }
        }

        return (null, not);
    }

    /// <summary>The same for one happening; the facts are only laid out where a rule asks for them.</summary>
    internal bool LitByOne(LeadEvent what, LeadFacts facts, Instant now, out string? notBecause)
    {
        notBecause = null;
        if (litBy.Count == 0)
        {
            foreach (var way in waysIn)
                if (way.Picks(what))
                    return true;
            return false;
        }

        (var by, notBecause) = LitByAny([what], facts.ForGuards(now));
        return by is not null;
    }

    /// <summary>What must hold for this way of lighting, or <c>null</c>.</summary>
    public Guard? RulesOf(int place) => litBy.GetValueOrDefault(place);

    /// <summary>True when an event of this kind can change a burn of it.</summary>
    public bool Minds(string key) => minded.Contains(key);

    /// <summary>The lane of one of its steps.</summary>
    public Lane LaneOf(Step step) => Step(step.Id).Kind.Lane;

    /// <summary>The place of a step in it, or <c>null</c> where it has none of that id.</summary>
    public int? PlaceOfStep(string id) => steps.TryGetValue(id, out var step) ? step.Place : null;

    /// <summary>The place of a band in it, or <c>null</c> where it has none of that id.</summary>
    public int? PlaceOfBand(string id) => Band(id)?.Place;

    /// <summary>The rules of a band's entry, or <c>null</c>.</summary>
    public Guard? GuardOf(Band band) => Band(band.Id)?.Guard;

    /// <summary>Its bands, in the order they are read.</summary>
    internal CompiledBand[] Bands { get; private set; } = [];

    /// <summary>Those that something that happens can enter.</summary>
    internal CompiledBand[] OnEvents { get; private set; } = [];

    /// <summary>What stops it.</summary>
    internal PickedBy[] StopOn { get; private set; } = [];

    /// <summary>How many places of bands there are.</summary>
    internal int BandPlaces { get; private set; }

    /// <summary>How many places of steps there are.</summary>
    internal int StepPlaces { get; private set; }

    internal IEnumerable<CompiledStep> Steps => steps.Values;

    internal CompiledStep Step(string id) => steps[id];

    internal bool Knows(string stepId) => steps.ContainsKey(stepId);

    internal CompiledBand? Band(string id) => bands.GetValueOrDefault(id);

    /// <summary>A step by itself with the facts put into its words: for one that is sent on demand, or tried.</summary>
    /// <exception cref="ArgumentException">It is of no kind, or its words cannot be read.</exception>
    public static FilledStep Fill(Step step, WordFacts facts, StepCatalog catalog)
    {
        var band = new Band("alone", "Alone", new(EntryKind.Always), [step]);
        return Fill(
            Compile(
                new(band, 0, null),
                step,
                standby: false,
                new FuseDefinition
                {
                    Name = step.Name,
                    LitBy = [],
                    Bands = [band],
                },
                catalog,
                0
            ),
            facts
        );
    }

    /// <summary>
    /// A step's settings with the facts put into the words, and its choices; or why the words cannot be put together.
    /// </summary>
    internal static FilledStep Fill(CompiledStep step, WordFacts facts)
    {
        string? fault = null;
        string Said(Rendered made)
        {
            fault ??= made.Fault;
            return made.Text;
        }

        var choices = Choices(step, facts, Said);
        var with = choices.Count == 0 ? facts : facts with { Choices = choices };
        var filled = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (key, value) in step.Step.Settings)
        {
            filled[key] = value;
            // Whatever anybody typed into a field: nothing in it turns writing round, and a line stays one.
            if (step.Words.TryGetValue(key, out var words))
                filled[key] = step.Lines.Contains(key)
                    ? PlainText.Line(Said(words.Render(with)), LongestLine)
                    : PlainText.Of(Said(words.Render(with)));
        }

        foreach (var key in step.Blocks)
            filled[key] = Blocks.Fill(filled[key], with);
        if (step.Kind.Key == StepKinds.Email && filled.TryGetValue(StepKinds.Pdf, out var pdf))
            filled[StepKinds.Pdf] = pdf == "yes" ? Blocks.Write(facts.Answers) : "";

        foreach (var (key, body) in step.Bodies)
            filled[key] = Said(body.Render(with));

        if (filled.Remove("links", out var links) && filled.TryGetValue("words", out var said))
        {
            filled["words"] = said + Linked(links, facts);
            // It names one lead and runs out: who sends the post makes it.
            if (links.Split(',').Any(l => l.Trim() == StepKinds.TakeLink))
                filled[StepKinds.TakeLink] = "";
        }

        Number(choices, filled);
        return new(filled, fault is null ? null : $"its words cannot be put together: {fault}");
    }

    /// <summary>What they may answer a step with, numbered: <c>choice.1</c>.</summary>
    internal static IReadOnlyDictionary<string, string> Offer(CompiledStep step, WordFacts facts)
    {
        var offered = new Dictionary<string, string>(StringComparer.Ordinal);
        Number(Choices(step, facts, static made => made.Text), offered);
        return offered;
    }

    private static List<string> Choices(CompiledStep step, WordFacts facts, Func<Rendered, string> said) =>
        step.Choices.Count == 0 ? [] : [.. step.Choices.Select(c => said(c.Render(facts))).Where(c => c.Length > 0)];

    private static void Number(List<string> choices, Dictionary<string, string> into)
    {
        for (var i = 0; i < choices.Count; i++)
            into[FormattableString.Invariant($"choice.{i + 1}")] = choices[i];
    }

    private static string Linked(string links, WordFacts facts)
    {
        var lines = links
            .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(l =>
                l switch
                {
                    "lead" => facts.Lead.GetValueOrDefault("link"),
                    "fuse" => facts.Fuse.GetValueOrDefault("link"),
                    _ => null,
                }
            );
        return string.Concat(lines.Where(l => l is not null).Select(l => "\n" + l));
    }

    private static CompiledStep Compile(
        CompiledBand band,
        Step step,
        bool standby,
        FuseDefinition definition,
        StepCatalog catalog,
        int place
    )
    {
        var kind = catalog.Find(step.Kind)
            ?? throw new ArgumentException(
                $"step '{step.Name}': there is no step of kind '{step.Kind}'",
                nameof(definition)
            );
        var words = new Dictionary<string, MessageWords>(StringComparer.Ordinal);
        foreach (
            var setting in kind.Settings.Where(s =>
                s.Type is SettingType.Words or SettingType.Line && s.CountsFor(step.Settings)
            )
        )
        {
            if (
                !step.Settings.TryGetValue(setting.Key, out var text)
                || (setting.Optional && string.IsNullOrWhiteSpace(text))
            )
                continue;
            words[setting.Key] = WordsOf(text, step, definition);
        }

        foreach (
            var (key, text) in kind
                .Settings.Where(s => s.Type is SettingType.Columns or SettingType.Pairs && s.CountsFor(step.Settings))
                .SelectMany(s => step.Columns(s.Key))
        )
        {
            words[key] = WordsOf(text, step, definition);
        }

        var bodies = new Dictionary<string, JsonWords>(StringComparer.Ordinal);
        foreach (var setting in kind.Settings.Where(s => s.Type == SettingType.Json && s.CountsFor(step.Settings)))
        {
            var text =
                step.Settings.GetValueOrDefault(setting.Key) is { } own && !string.IsNullOrWhiteSpace(own)
                    ? own
                    : setting.Default;
            if (text is not null)
                bodies[setting.Key] = JsonWords.Parse(text) is (Words: { } parsed, _)
                    ? parsed
                    : throw new ArgumentException(
                        $"step '{step.Name}': {JsonWords.Parse(text).Fault}",
                        nameof(definition)
                    );
        }

        var choices = (step.Choices ?? [])
            .Where(c => !string.IsNullOrWhiteSpace(c))
            .Select(c => WordsOf(c, step, definition))
            .ToList();
        var when = step.When is null ? null : GuardOf(step.When, $"step '{step.Name}'", definition);
        var needs = words
            .Values.Concat(choices)
            .SelectMany(w => w.Uses)
            .Concat(bodies.Values.SelectMany(b => b.Uses))
            .Concat(step.When?.Every.Select(r => r.Field) ?? [])
            .Where(p => p.StartsWith(Facts.Steps, StringComparison.Ordinal))
            .Select(p => p.Split('.')[1])
            .Distinct(StringComparer.Ordinal)
            .ToList();
        return new(band, step, kind, when, words, bodies, choices, needs, standby) { Place = place };
    }

    private static MessageWords WordsOf(string text, Step step, FuseDefinition definition) =>
        MessageWords.Parse(text) is (Words: { } parsed, _)
            ? parsed
            : throw new ArgumentException($"step '{step.Name}': {MessageWords.Parse(text).Fault}", nameof(definition));

    private static Guard GuardOf(RuleSet rules, string where, FuseDefinition definition) =>
        Guard.Compile(rules) is (Guard: { } guard, _)
            ? guard
            : throw new ArgumentException($"{where}: {Guard.Compile(rules).Faults[0]}", nameof(definition));
}

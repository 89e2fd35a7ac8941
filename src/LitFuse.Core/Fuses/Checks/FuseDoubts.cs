using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Fuses.Checks;

/// <summary>Another fuse of the client that is armed.</summary>
public sealed record ArmedFuse(string Name, FuseDefinition Definition);

/// <summary>
/// What is worth a look in a fuse that could be armed: bands that nothing can enter, rules that contradict one another,
/// answers that no band takes, and another fuse that would text the same lead.
/// </summary>
public static class FuseDoubts
{
    /// <summary>All doubts, in reading order.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="fields">Lead fields with the choices they have.</param>
    /// <param name="several">Paths of facts that can have several values at once.</param>
    /// <param name="others">The client's other armed fuses.</param>
    public static IReadOnlyList<FuseFault> Find(
        FuseDefinition fuse,
        IReadOnlyList<KnownField> fields,
        IReadOnlySet<string> several,
        IReadOnlyList<ArmedFuse> others
    )
    {
        var doubts = new List<FuseFault>();
        void Add(string? band, string? step, FuseFaultCode code, string what, string mend, string about = "") =>
            doubts.Add(new(band, step, code, what, mend, Blocks: false) { About = about });
        Contradictions(fuse, several, Add);
        Unreachable(fuse, Add);
        NotTaken(fuse, fields, Add);
        foreach (var other in others)
            if (Both(fuse, other.Definition, several) is { } how)
                Add(
                    null,
                    null,
                    FuseFaultCode.TextedTwice,
                    $"“{other.Name}” is armed too, is lit by {how}, and texts the lead as well.",
                    "Disarm one of them, or say by a rule which leads are whose.",
                    other.Name
                );
        return doubts;
    }

    private delegate void AddDoubt(
        string? band,
        string? step,
        FuseFaultCode code,
        string what,
        string mend,
        string about = ""
    );

    private static void Contradictions(FuseDefinition fuse, IReadOnlySet<string> several, AddDoubt add)
    {
        // What lights it holds of the lead only where every way of lighting says the same; one way is the usual case.
        IReadOnlyList<RuleSet> lit = fuse.LitBy is [{ When: { } when }] ? [when] : [];
        foreach (var way in fuse.LitBy)
        {
            if (way.When is { } rules && RuleSense.Contradiction([rules], several.Contains) is { } why)
                add(
                    null,
                    null,
                    FuseFaultCode.NeverLit,
                    $"It can never be lit so: {why}.",
                    "Change one of the two rules."
                );
        }

        foreach (var band in fuse.Bands)
        {
            IReadOnlyList<RuleSet> entry = band.Entry.Rules is { } own ? [own] : [];
            if (entry.Count > 0)
            {
                if (RuleSense.Contradiction(entry, several.Contains) is { } inside)
                    add(
                        band.Id,
                        null,
                        FuseFaultCode.NeverEntered,
                        $"“{band.Name}” can never be entered: {inside}.",
                        "Change one of the two rules."
                    );
                else if (
                    band.Entry.Kind == EntryKind.When
                    && RuleSense.Contradiction([.. entry, .. lit], several.Contains) is { } outside
                )
                    add(
                        band.Id,
                        null,
                        FuseFaultCode.NeverEnteredAsLit,
                        $"“{band.Name}” can never be entered, because of what lights the fuse: {outside}.",
                        "Change the rule of the band, or of what lights it."
                    );
            }

            foreach (var step in band.Steps)
            {
                // The stage and tags may have changed by then; answers have not.
                if (
                    step.When is { } rule
                    && RuleSense.Contradiction([rule, .. band.Entry.Kind == EntryKind.When ? entry : []], f =>
                        several.Contains(f) || f.Contains('.', StringComparison.Ordinal)
                    )
                        is { } never
                )
                    add(
                        band.Id,
                        step.Id,
                        FuseFaultCode.NeverDone,
                        $"“{step.Name}” is never done: {never}.",
                        "Change its condition, or that of its band."
                    );
            }
        }
    }

    private static void Unreachable(FuseDefinition fuse, AddDoubt add)
    {
        var reached = new HashSet<string>(StringComparer.Ordinal);
        var steps = fuse
            .Bands.SelectMany(b => b.Steps.Select(s => (Band: b, Step: s)))
            .ToLookup(s => s.Step.Id, StringComparer.Ordinal);
        bool Reached(Band band) =>
            band.Entry.Kind switch
            {
                EntryKind.End => band.Entry.Of is { } of && reached.Contains(of),
                EntryKind.Silence => steps[band.Entry.Of ?? ""].Any(s => reached.Contains(s.Band.Id)),
                EntryKind.Failed => band.Entry.Of is { } step
                    ? steps[step].Any(s => reached.Contains(s.Band.Id))
                    : reached.Count > 0,
                _ => true,
            };
        for (var more = true; more; )
            more = fuse.Bands.Count(b => !reached.Contains(b.Id) && Reached(b) && reached.Add(b.Id)) > 0;
        foreach (
            var band in fuse.Bands.Where(b =>
                !reached.Contains(b.Id)
                && (b.Entry.Of is null || b.Entry.Kind != EntryKind.End || fuse.Bands.Any(x => x.Id == b.Entry.Of))
            )
        )
            add(
                band.Id,
                null,
                FuseFaultCode.NothingLeadsTo,
                $"Nothing ever leads to “{band.Name}”.",
                "Say another way in which it is entered, or take it out."
            );

        WaitsForChoices(fuse, add);
        SameTwice(fuse, add);
    }

    private static void WaitsForChoices(FuseDefinition fuse, AddDoubt add)
    {
        var offered = fuse.Bands.SelectMany(b => b.Steps).SelectMany(s => s.Choices ?? []).ToList();
        foreach (var band in fuse.Bands.Where(b => b.Entry is { Kind: EntryKind.On, Event: EventKeys.Replied }))
        {
            var means = band.Entry.Only?.GetValueOrDefault("meaning") ?? [];
            var chooses = band.Entry.Only?.GetValueOrDefault("choice") ?? [];
            if (offered.Count == 0 && (chooses.Count > 0 || means is ["choice"]))
                add(
                    band.Id,
                    null,
                    FuseFaultCode.NoChoiceOffered,
                    $"“{band.Name}” waits for a choice, and no step offers one.",
                    "Let a text offer choices, or wait for another meaning."
                );
            // A choice with fields in it is another for every lead.
            else if (
                chooses.Count > 0
                && !offered.Exists(o => o.Contains("{{", StringComparison.Ordinal))
                && chooses.Where(c => !offered.Exists(o => Guard.Same(o, c))).ToList() is [var gone, ..]
            )
                add(
                    band.Id,
                    null,
                    FuseFaultCode.ChoiceGone,
                    $"“{band.Name}” waits for the choice “{gone}”, which no step offers.",
                    "Choose one that is offered: " + string.Join(", ", offered) + ".",
                    gone
                );
        }
    }

    private static void SameTwice(FuseDefinition fuse, AddDoubt add)
    {
        var whens =
            fuse.BandChoice == BandChoice.First
                ? fuse.Bands.Where(b => b.Entry is { Kind: EntryKind.When, Rules: not null }).ToList()
                : [];
        for (var i = 1; i < whens.Count; i++)
        {
            if (whens.Take(i).FirstOrDefault(b => Same(b.Entry.Rules!, whens[i].Entry.Rules!)) is { } earlier)
                add(
                    whens[i].Id,
                    null,
                    FuseFaultCode.SameRules,
                    $"“{whens[i].Name}” has the rules of “{earlier.Name}”, which is taken first.",
                    "Change its rules, or let all bands be entered whose rules hold."
                );
        }
    }

    private static bool Same(RuleSet one, RuleSet other) =>
        one.Match == other.Match
        && (one.Groups?.Count ?? 0) == 0
        && (other.Groups?.Count ?? 0) == 0
        && one.Rules.Count == other.Rules.Count
        && one.Rules.Zip(other.Rules)
            .All(p =>
                p.First.Field == p.Second.Field
                && p.First.Op == p.Second.Op
                && p.First.Values.SequenceEqual(p.Second.Values)
            );

    private static void NotTaken(FuseDefinition fuse, IReadOnlyList<KnownField> fields, AddDoubt add)
    {
        if (fuse.Bands.Any(b => b.Entry.Kind is EntryKind.Always or EntryKind.Otherwise))
            return;
        var whens = fuse.Bands.Where(b => b.Entry is { Kind: EntryKind.When, Rules: not null }).ToList();
        foreach (
            var field in fields.Where(f =>
                f.Choices.Count > 0 && whens.Exists(b => b.Entry.Rules!.Every.Any(r => r.Field == f.Key))
            )
        )
        {
            var left = whens.Aggregate(field.Choices.ToList(), (rest, band) =>
                [.. rest.Except(RuleSense.Taken(band.Entry.Rules!, field.Key, rest))]
            );
            if (left.Count > 0)
                add(
                    null,
                    null,
                    FuseFaultCode.ValuesNotTaken,
                    $"Nothing happens for {Facts.Say(field.Key)} {string.Join(", ", left)}: no band takes them.",
                    "Add an ‘otherwise’ band, or widen a rule.",
                    field.Key
                );
        }
    }

    // How both would be lit by the same thing, or null where they would not both text.
    private static string? Both(FuseDefinition one, FuseDefinition other, IReadOnlySet<string> several)
    {
        foreach (var a in one.LitBy)
        {
            foreach (
                var b in other.LitBy.Where(b =>
                    b.Event == a.Event
                    && a.Event
                        is EventKeys.Submission
                            or EventKeys.LeadMade
                            or EventKeys.Approved
                            or EventKeys.Tagged
                            or EventKeys.StageReached
                )
            )
            {
                if (!Overlap(a.Only, b.Only))
                    continue;
                IReadOnlyList<RuleSet> lit = [.. new[] { a.When, b.When }.OfType<RuleSet>()];
                if (
                    Texts(one)
                        .Any(x =>
                            Texts(other)
                                .Any(y => RuleSense.Contradiction([.. lit, .. x, .. y], several.Contains) is null)
                        )
                )
                    return a.Event == EventKeys.Submission ? "the same submissions" : "the same event";
            }
        }

        return null;
    }

    private static bool Overlap(
        IReadOnlyDictionary<string, IReadOnlyList<string>>? one,
        IReadOnlyDictionary<string, IReadOnlyList<string>>? other
    ) =>
        (one ?? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)).All(o =>
            o.Value.Count == 0
            || other?.GetValueOrDefault(o.Key) is not { Count: > 0 } values
            || o.Value.Any(v => values.Any(w => Guard.Same(v, w)))
        );

    // Rules under which each text that goes out by itself, as the fuse is lit, does so.
    private static IEnumerable<IReadOnlyList<RuleSet>> Texts(FuseDefinition fuse) =>
        fuse
            .Bands.Where(b => b.Entry.Kind is EntryKind.Always or EntryKind.When or EntryKind.Otherwise)
            .SelectMany(b =>
                b.Steps.Where(s => s.Kind == StepKinds.Text)
                    .Select(s =>
                        (IReadOnlyList<RuleSet>)
                            [
                                .. new[]
                                {
                                    b.Entry.Kind == EntryKind.When ? b.Entry.Rules : null,
                                    s.When,
                                }.OfType<RuleSet>(),
                            ]
                    )
            );
}

using LitFuse.Core.Guards;
using LitFuse.Core.Words;

namespace LitFuse.Core.Fuses;

/// <summary>A lead field as a fuse may use it.</summary>
/// <param name="Key">As in rules and words.</param>
/// <param name="Choices">The values it can have, or none when it is free.</param>
public sealed record KnownField(string Key, IReadOnlyList<string> Choices);

/// <summary>What a fuse can refer to. A list is <c>null</c> when its service could not be asked just now.</summary>
public sealed record FuseSurroundings(
    IReadOnlyList<string> FormKeys, IReadOnlyList<KnownField> Fields, IReadOnlyList<string>? Channels, IReadOnlyList<string>? People, IReadOnlyList<string> Services);

/// <summary>One thing that keeps a fuse from being armed.</summary>
/// <param name="BandId">Where, if in a band.</param>
/// <param name="StepId">Where, if in a step.</param>
/// <param name="What">What is wrong.</param>
/// <param name="Mend">What to do.</param>
public sealed record FuseFault(string? BandId, string? StepId, string What, string Mend);

/// <summary>Finds every fault of a fuse before it is armed.</summary>
public static class FuseFaults
{
    private const int MostBands = 50;
    private const int MostSteps = 200;

    /// <summary>All faults, in reading order; none means it can be armed.</summary>
    public static IReadOnlyList<FuseFault> Find(FuseDefinition fuse, FuseSurroundings around)
    {
        var faults = new List<FuseFault>();
        if (string.IsNullOrWhiteSpace(fuse.Name)) faults.Add(new(null, null, "The fuse has no name.", "Say in a few words what it does."));
        if (fuse.Name.Length > 120) faults.Add(new(null, null, "The name is longer than 120 characters.", "Shorten it."));
        if (fuse.AgeLimitHours is < 1 or > 24 * 30) faults.Add(new(null, null, "The age limit is not between 1 hour and 30 days.", "Set it to 24 hours if in doubt."));

        if (fuse.LitBy.Count == 0 || fuse.LitBy.All(l => l.Forms.Count == 0)) faults.Add(new(null, null, "Nothing lights it.", "Choose at least one form."));
        foreach (var litBy in fuse.LitBy)
        {
            if (litBy.Event != LitBy.Submission) faults.Add(new(null, null, $"There is no event '{litBy.Event}'.", "Let a submission light it."));
            foreach (var form in litBy.Forms.Where(f => !around.FormKeys.Contains(f)))
            {
                faults.Add(new(null, null, $"The form '{form}' is not there.", "Choose another form, or connect it in Sources."));
            }
        }

        if (fuse.Bands.Count == 0) faults.Add(new(null, null, "There is no band in it.", "Add a band."));
        if (fuse.Bands.Count > MostBands) faults.Add(new(null, null, $"More than {MostBands} bands.", "Split the fuse."));
        if (fuse.Bands.Sum(b => b.Steps.Count) > MostSteps) faults.Add(new(null, null, $"More than {MostSteps} steps.", "Split the fuse."));
        foreach (var twice in fuse.Bands.Select(b => b.Id).Concat(fuse.Bands.SelectMany(b => b.Steps).Select(s => s.Id)).GroupBy(i => i).Where(g => g.Count() > 1 || g.Key.Length is 0 or > 40))
        {
            faults.Add(new(null, null, $"The id '{twice.Key}' is empty, too long or used twice.", "Give each band and step an id of its own, up to 40 characters."));
        }

        foreach (var band in fuse.Bands) OfBand(band, fuse, around, faults);
        return faults;
    }

    private static void OfBand(Band band, FuseDefinition fuse, FuseSurroundings around, List<FuseFault> faults)
    {
        if (string.IsNullOrWhiteSpace(band.Name)) faults.Add(new(band.Id, null, "The band has no name.", "Name it by when it is entered."));
        if (band.Steps.Count == 0) faults.Add(new(band.Id, null, $"Nothing happens in '{band.Name}'.", "Add a step or take the band out."));
        if (band.Entry.Kind == EntryKind.Otherwise && !fuse.Bands.Any(b => b.Entry.Kind == EntryKind.When))
        {
            faults.Add(new(band.Id, null, "'Otherwise' has no 'when' to differ from.", "Make it 'always', or add a 'when' band."));
        }

        if (band.Entry.Kind == EntryKind.When)
        {
            var rules = band.Entry.Rules ?? new(RuleMatch.All, []);
            foreach (var fault in Guard.Compile(rules).Faults) faults.Add(new(band.Id, null, $"In '{band.Name}': {fault}.", "Complete the rule or take it out."));
            foreach (var rule in rules.Rules)
            {
                var field = around.Fields.FirstOrDefault(f => f.Key == rule.Field);
                if (field is null)
                {
                    if (rule.Field.Length > 0) faults.Add(new(band.Id, null, $"No form gives a field '{rule.Field}'.", "Choose a field that the forms' maps fill."));
                    continue;
                }

                if (rule.Op is not (RuleOp.OneOf or RuleOp.NotOneOf) || field.Choices.Count == 0) continue;
                var known = new RuleSet(RuleMatch.All, [new(rule.Field, RuleOp.OneOf, field.Choices)]);
                var among = Guard.Compile(known).Guard!;
                foreach (var value in rule.Values.Where(v => !among.Ask(new Dictionary<string, string>(StringComparer.Ordinal) { [rule.Field] = v }).Holds))
                {
                    faults.Add(new(band.Id, null, $"'{value}' is not a choice of {Guard.FieldWords(rule.Field)}.", "Choose among " + string.Join(", ", field.Choices) + "."));
                }
            }
        }

        foreach (var step in band.Steps) OfStep(band, step, around, faults);
    }

    private static void OfStep(Band band, Step step, FuseSurroundings around, List<FuseFault> faults)
    {
        void Add(string what, string mend) => faults.Add(new(band.Id, step.Id, what, mend));
        if (string.IsNullOrWhiteSpace(step.Name)) Add("The step has no name.", "Say in a few words what it does.");
        if (step.AfterSeconds is < 0 or > Step.LatestSeconds) Add($"'{step.Name}' is not within 90 days of its band.", "Set a time between 0 seconds and 90 days.");
        if (StepKinds.Find(step.Kind) is not { } kind)
        {
            Add($"There is no step of kind '{step.Kind}'.", "Choose one of " + string.Join(", ", StepKinds.All.Select(k => k.Label)) + ".");
            return;
        }

        if (!around.Services.Contains(kind.Service)) Add($"'{step.Name}' has no connection to send through.", $"Connect {kind.Service} for this client.");
        foreach (var setting in kind.Settings)
        {
            step.Settings.TryGetValue(setting.Key, out var value);
            if (setting.Type == SettingType.Words)
            {
                OfWords(step, value ?? "", around, Add);
                continue;
            }

            var targets = setting.Type == SettingType.Channel ? around.Channels : around.People;
            if (string.IsNullOrWhiteSpace(value)) Add($"'{step.Name}' has no {setting.Label.ToLowerInvariant()}.", "Choose one.");
            else if (targets is not null && !targets.Contains(value)) Add($"The {setting.Label.ToLowerInvariant()} '{value}' is not there.", "Choose one that is.");
        }
    }

    private static void OfWords(Step step, string text, FuseSurroundings around, Action<string, string> add)
    {
        var (words, fault) = MessageWords.Parse(text);
        if (words is null)
        {
            add($"The words of '{step.Name}' cannot be read: {fault}.", "Mend them where it says.");
            return;
        }

        foreach (var path in words.Uses.Where(p => !Known(p, around)))
        {
            add($"'{step.Name}' speaks of '{path}', which nothing fills.", "Choose a field from the list.");
        }
    }

    private static bool Known(string path, FuseSurroundings around) =>
        path is "answers" or "client.name" or "form.name" or "lead.name" or "lead.link"
        || (path.StartsWith("lead.", StringComparison.Ordinal) && around.Fields.Any(f => f.Key == path[5..]));
}

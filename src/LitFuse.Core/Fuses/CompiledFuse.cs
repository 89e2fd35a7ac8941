using LitFuse.Core.Guards;
using LitFuse.Core.Words;

namespace LitFuse.Core.Fuses;

/// <summary>A fuse version made ready to burn: guards compiled, words parsed. Made once, shared by all threads.</summary>
public sealed class CompiledFuse
{
    private readonly Dictionary<string, Guard> guards;
    private readonly Dictionary<(string Step, string Setting), MessageWords> words;

    private CompiledFuse(FuseDefinition definition, Dictionary<string, Guard> guards, Dictionary<(string, string), MessageWords> words)
    {
        Definition = definition;
        this.guards = guards;
        this.words = words;
    }

    /// <summary>The fuse it was made from.</summary>
    public FuseDefinition Definition { get; }

    /// <summary>Compiles a definition that has no faults.</summary>
    /// <exception cref="ArgumentException">A band's rules or a step's words do not compile; <see cref="FuseFaults"/> says so beforehand.</exception>
    public static CompiledFuse From(FuseDefinition definition)
    {
        var guards = new Dictionary<string, Guard>(StringComparer.Ordinal);
        var words = new Dictionary<(string, string), MessageWords>();
        foreach (var band in definition.Bands)
        {
            if (band.Entry.Kind == EntryKind.When)
            {
                var (guard, faults) = Guard.Compile(band.Entry.Rules ?? new(RuleMatch.All, []));
                guards[band.Id] = guard ?? throw new ArgumentException($"band '{band.Name}': {faults[0]}", nameof(definition));
            }

            foreach (var step in band.Steps)
            {
                var kind = StepKinds.Find(step.Kind) ?? throw new ArgumentException($"step '{step.Name}': there is no step of kind '{step.Kind}'", nameof(definition));
                foreach (var setting in kind.Settings.Where(s => s.Type == SettingType.Words))
                {
                    step.Settings.TryGetValue(setting.Key, out var text);
                    var (parsed, fault) = MessageWords.Parse(text ?? "");
                    words[(step.Id, setting.Key)] = parsed ?? throw new ArgumentException($"step '{step.Name}': {fault}", nameof(definition));
                }
            }
        }

        return new(definition, guards, words);
    }

    /// <summary>The guard of a <see cref="EntryKind.When"/> band.</summary>
    public Guard GuardOf(Band band) => guards[band.Id];

    /// <summary>A step's settings with the facts put into the words.</summary>
    public IReadOnlyDictionary<string, string> Fill(Step step, WordFacts facts) =>
        step.Settings.ToDictionary(
            s => s.Key,
            s => words.TryGetValue((step.Id, s.Key), out var parsed) ? parsed.Render(facts) : s.Value,
            StringComparer.Ordinal);
}

using LitFuse.Connectors;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A form that can light a fuse.</summary>
/// <param name="Receives">It is chosen and in use.</param>
public sealed record ContextForm(string Key, string Name, string Source, bool Receives);

/// <summary>A fact that rules can ask about, and how; a lead field also in words.</summary>
/// <param name="Key">A lead field's key, or the path of another fact.</param>
/// <param name="Ops">How it can be compared, the usual way first.</param>
public sealed record ContextField(
    string Key,
    string Label,
    IReadOnlyList<string> Choices,
    FactType Type,
    IReadOnlyList<RuleOp> Ops
);

/// <summary>A kind of step, as the sheet offers it.</summary>
public sealed record ContextStepKind(
    string Key,
    string Label,
    Lane Lane,
    string? Service,
    IReadOnlyList<StepSetting> Settings,
    IReadOnlyList<string> Results,
    string? ResultsFrom
);

/// <summary>A kind of event, as the sheet offers it.</summary>
public sealed record ContextEvent(
    string Key,
    string Sentence,
    IReadOnlyList<EventDetail> Details,
    bool Lights,
    bool Stops,
    bool Enters,
    bool Timed
);

/// <summary>Somebody who works for the client.</summary>
/// <param name="Rep">Reaches out for this client.</param>
public sealed record ContextColleague(Guid Id, string Name, bool Rep);

/// <summary>Another fuse of the client.</summary>
public sealed record ContextFuse(Guid Id, string Name, bool Armed);

/// <summary>A connection that steps can go through.</summary>
/// <param name="Fault">Why nothing goes through it now, or <c>null</c>.</param>
public sealed record ContextConnection(Guid Id, string Kind, string Name, string? Fault);

/// <summary>A file that letters can bring.</summary>
/// <param name="Size">In bytes.</param>
public sealed record ContextFile(Guid Id, string Name, int Size);

/// <summary>Words ready for use, newest version.</summary>
public sealed record ContextWords(string Key, string Name, int Version, string Words, string? Subject);

/// <summary>A filter of words.</summary>
public sealed record ContextFilter(string Name, string Example, string Makes);

/// <summary>
/// Everything a fuse of a client can refer to. Channels and people are <c>null</c> when the chat could not be asked
/// just now.
/// </summary>
public sealed record FuseContext(
    IReadOnlyList<ContextForm> Forms,
    IReadOnlyList<ContextField> Fields,
    IReadOnlyList<ConnectionTarget>? Channels,
    IReadOnlyList<ConnectionTarget>? People,
    IReadOnlyList<string> Services,
    IReadOnlyList<ContextStepKind> Kinds,
    string SendHours,
    string Zone,
    IReadOnlyList<ContextField> Facts,
    IReadOnlyList<ContextEvent> Events,
    IReadOnlyList<ContextColleague> Colleagues,
    IReadOnlyList<ContextFuse> Fuses,
    IReadOnlyList<ContextWords> Words,
    IReadOnlyList<ContextFilter> Filters,
    IReadOnlyList<string> Stages,
    IReadOnlyList<string> Tags,
    IReadOnlyList<string> Sources,
    IReadOnlyList<ContextConnection> Connections,
    IReadOnlyList<ContextFile> Files
)
{
    /// <summary>The kinds of event, for finding faults.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public EventCatalog Catalog { get; init; } = EventCatalog.Plain;

    /// <summary>The kinds of step, for finding faults.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public StepCatalog Steps { get; init; } = StepCatalog.Plain;

    /// <summary>The armed versions of the client's fuses.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyDictionary<Guid, FuseDefinition> Armed { get; init; } = new Dictionary<Guid, FuseDefinition>();

    /// <summary>What keeps a fuse from being armed, and then what is worth a look.</summary>
    public IReadOnlyList<FuseFault> FaultsOf(Guid fuseId, FuseDefinition definition)
    {
        var around = ForFaults();
        var several = Fields
            .Concat(Facts)
            .Where(f => f.Type == FactType.List)
            .Select(f => f.Key)
            .ToHashSet(StringComparer.Ordinal);
        return
        [
            .. FuseFaults.Find(definition, around),
            .. FuseDoubts.Find(
                definition,
                around.Fields,
                several,
                [.. Armed.Where(a => a.Key != fuseId).Select(a => new ArmedFuse(a.Value.Name, a.Value))]
            ),
        ];
    }

    /// <summary>A name for it, from its content.</summary>
    public string NameFor(FuseDefinition definition) =>
        FuseSentence.Name(definition, Catalog, key => Forms.FirstOrDefault(f => f.Key == key)?.Name ?? key);

    /// <summary>The lists that the fuse's steps choose from, for finding faults.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyDictionary<string, IReadOnlyList<ListItem>> Lists { get; init; } =
        new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal);

    /// <summary>As the core's fault finder takes it.</summary>
    public FuseSurroundings ForFaults() =>
        new(
            [.. Forms.Select(f => f.Key)],
            [.. Fields.Select(f => new KnownField(f.Key, f.Choices))],
            Channels?.Select(c => c.Key).ToList(),
            People?.Select(p => p.Key).ToList(),
            Services
        )
        {
            Files = [.. Files.Select(f => f.Id.ToString())],
            Colleagues = [.. Colleagues.Select(c => c.Id.ToString())],
            Stages = Stages,
            Fuses = [.. Fuses.Select(f => f.Id.ToString())],
            Events = Catalog,
            Steps = Steps,
            Lists = Lists,
            Connections = [.. Connections.Select(c => new KnownConnection(c.Id.ToString(), c.Kind, c.Name, c.Fault))],
        };
}

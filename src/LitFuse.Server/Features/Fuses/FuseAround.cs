using LitFuse.Core.Fuses;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;
using LitFuse.Server.Delivery;
using LitFuse.Server.Features.Connections;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.ReadyWords;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A form that can light a fuse.</summary>
/// <param name="Receives">It is chosen and in use.</param>
public sealed record AroundForm(string Key, string Name, string Source, bool Receives);

/// <summary>A fact that rules can ask about, and how; a lead field also in words.</summary>
/// <param name="Key">A lead field's key, or the path of another fact.</param>
/// <param name="Ops">How it can be compared, the usual way first.</param>
public sealed record AroundField(
    string Key,
    string Label,
    IReadOnlyList<string> Choices,
    FactType Type,
    IReadOnlyList<RuleOp> Ops
);

/// <summary>A kind of step, as the sheet offers it.</summary>
public sealed record AroundStepKind(
    string Key,
    string Label,
    Lane Lane,
    string? Service,
    IReadOnlyList<StepSetting> Settings,
    IReadOnlyList<string> Results,
    string? ResultsFrom
);

/// <summary>A kind of event, as the sheet offers it.</summary>
public sealed record AroundEvent(
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
public sealed record AroundColleague(Guid Id, string Name, bool Rep);

/// <summary>Another fuse of the client.</summary>
public sealed record AroundFuse(Guid Id, string Name, bool Armed);

/// <summary>A connection that steps can go through.</summary>
/// <param name="Fault">Why nothing goes through it now, or <c>null</c>.</param>
public sealed record AroundConnection(Guid Id, string Kind, string Name, string? Fault);

/// <summary>A file that letters can bring.</summary>
/// <param name="Size">In bytes.</param>
public sealed record AroundFile(Guid Id, string Name, int Size);

/// <summary>Words ready for use, newest version.</summary>
public sealed record AroundWords(string Key, string Name, int Version, string Words, string? Subject);

/// <summary>A filter of words.</summary>
public sealed record AroundFilter(string Name, string Example, string Makes);

/// <summary>Everything a fuse of a client can refer to. Channels and people are <c>null</c> when the chat could not be asked just now.</summary>
public sealed record FuseAround(
    IReadOnlyList<AroundForm> Forms,
    IReadOnlyList<AroundField> Fields,
    IReadOnlyList<ConnectionTarget>? Channels,
    IReadOnlyList<ConnectionTarget>? People,
    IReadOnlyList<string> Services,
    IReadOnlyList<AroundStepKind> Kinds,
    string SendHours,
    string Zone,
    IReadOnlyList<AroundField> Facts,
    IReadOnlyList<AroundEvent> Events,
    IReadOnlyList<AroundColleague> Colleagues,
    IReadOnlyList<AroundFuse> Fuses,
    IReadOnlyList<AroundWords> Words,
    IReadOnlyList<AroundFilter> Filters,
    IReadOnlyList<string> Stages,
    IReadOnlyList<string> Tags,
    IReadOnlyList<string> Sources,
    IReadOnlyList<AroundConnection> Connections,
    IReadOnlyList<AroundFile> Files
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

/// <summary>Reads what a client's fuses can refer to.</summary>
public sealed class FuseAroundReader(
    AppDb db,
    ConnectorKinds connectors,
    ConnectionOpener opener,
    ServiceLists lists,
    StepCatalog catalog,
    EventCatalog events
)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>Reads it; lists that live outside are asked for, and left open when the service does not answer soon.</summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="fuse">The fuse whose steps' lists are wanted too.</param>
    public async Task<FuseAround> ReadAsync(Guid clientId, CancellationToken stop, FuseDefinition? fuse = null)
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var forms = await db
            .Forms.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .Join(db.Sources, f => f.SourceId, s => s.Id, (f, s) => new { Form = f, s.Name })
            .ToListAsync(stop);
        var formIds = forms.ConvertAll(f => f.Form.Id);
        var maps = (await db.FormMaps.AsNoTracking().Where(m => formIds.Contains(m.FormId)).ToListAsync(stop))
            .GroupBy(m => m.FormId)
            .ToDictionary(g => g.Key, g => g.MaxBy(m => m.Version)!.Map);
        var custom = await db
            .LeadFields.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Label)
            .ToListAsync(stop);
        var connections = await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop);
        var targets = await TargetsAsync(connections, stop);
        var people = await db
            .Memberships.AsNoTracking()
            .Where(m => m.ClientId == null || m.ClientId == clientId)
            .Join(
                db.Users,
                m => m.UserId,
                u => u.Id,
                (m, u) =>
                    new
                    {
                        u.Id,
                        u.Name,
                        m.Role,
                    }
            )
            .ToListAsync(stop);
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .Select(f => new AroundFuse(f.Id, f.Name, f.State == FuseState.Armed))
            .ToListAsync(stop);
        var armed = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId && f.State == FuseState.Armed)
            .Join(db.FuseVersions, f => f.ArmedVersionId, v => v.Id, (f, v) => new { f.Id, v.Definition })
            .ToDictionaryAsync(f => f.Id, f => f.Definition, stop);
        var ready = await ReadyWordsEndpoints.NewestAsync(db, clientId, stop);
        var tags = await db
            .Database.SqlQuery<string>(
                $"select distinct t as \"Value\" from leads, unnest(tags) t where client_id = {clientId} and tags <> '{{}}' order by 1 limit 200"
            )
            .ToListAsync(stop);
        return new(
            [
                .. forms.Select(f => new AroundForm(
                    f.Form.Key,
                    f.Form.Name,
                    f.Name,
                    f.Form.State == FormState.Receiving
                )),
            ],
            [
                .. Fields(forms.ConvertAll(f => f.Form), maps, custom),
                .. connections
                    .SelectMany(c => connectors.Find(c.Kind)?.Card.Fills ?? [])
                    .Distinct(StringComparer.Ordinal)
                    .Select(k => Field(k, Guard.FieldWords(k), [], LeadFieldType.Text)),
            ],
            targets?.GetValueOrDefault("channel"),
            targets?.GetValueOrDefault("person"),
            [.. connections.Select(c => c.Kind).Distinct(StringComparer.Ordinal)],
            [
                .. catalog
                    .All.Where(k => !k.Hidden)
                    .Select(k => new AroundStepKind(
                        k.Key,
                        k.Label,
                        k.Lane,
                        k.Service,
                        k.Settings,
                        k.Results,
                        k.ResultsFrom
                    )),
            ],
            $"{client.SendFrom:HH\\:mm}–{client.SendTo:HH\\:mm}",
            client.Zone,
            [
                .. Facts.Standing.Select(f => new AroundField(
                    f.Path,
                    f.Label,
                    f.Path switch
                    {
                        Facts.Stage => client.Stages,
                        Facts.Form => [.. forms.Select(x => x.Form.Key)],
                        Facts.Tags => tags,
                        _ => f.Values,
                    },
                    f.Type,
                    RuleOps.For(f.Type)
                )),
            ],
            [
                .. events.All.Select(e => new AroundEvent(
                    e.Key,
                    e.Sentence,
                    e.Details,
                    e.Uses.HasFlag(EventUse.Light),
                    e.Uses.HasFlag(EventUse.Stop),
                    e.Uses.HasFlag(EventUse.Enter),
                    e.Timed
                )),
            ],
            [
                .. people
                    .GroupBy(p => (p.Id, p.Name))
                    .Select(g => new AroundColleague(g.Key.Id, g.Key.Name, g.Any(p => p.Role == Accounts.Role.Rep)))
                    .OrderBy(c => c.Name, StringComparer.Ordinal),
            ],
            fuses,
            [.. ready.Select(w => new AroundWords(w.Key, w.Name, w.Version, w.Words, w.Subject))],
            [.. Core.Words.WordFilters.Known.Select(f => new AroundFilter(f.Name, f.Example, f.Makes))],
            client.Stages,
            tags,
            [.. forms.Select(f => f.Name).Distinct(StringComparer.Ordinal)],
            [
                .. connections
                    .Where(c => connectors.Find(c.Kind) is not null)
                    .OrderBy(c => c.Name, StringComparer.Ordinal)
                    .Select(c => new AroundConnection(
                        c.Id,
                        c.Kind,
                        c.Name,
                        c.State is ConnectionState.Expired or ConnectionState.Withdrawn ? c.Fault : null
                    )),
            ],
            await db
                .LibraryFiles.Where(f => f.ClientId == clientId)
                .OrderBy(f => f.Name)
                .Select(f => new AroundFile(f.Id, f.Name, f.Size))
                .ToListAsync(stop)
        )
        {
            Catalog = events,
            Steps = catalog,
            Armed = armed,
            Lists = fuse is null
                ? new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal)
                : await ListsAsync(fuse, connections, stop),
        };
    }

    /// <summary>The lists that a fuse's steps choose from; one that cannot be had soon is not in it.</summary>
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<ListItem>>> ListsAsync(
        Guid clientId,
        FuseDefinition fuse,
        CancellationToken stop
    ) =>
        await ListsAsync(
            fuse,
            await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop),
            stop
        );

    // The client's own fields, and what the forms' maps fill: fields that were picked, joined, or hold one value for all. Of a
    // form without a map yet, what it asks under its own names: a fuse for it can be written before its map is confirmed.
    private static List<AroundField> Fields(
        List<Form> forms,
        Dictionary<Guid, FieldMap> maps,
        List<LeadFieldDef> custom
    )
    {
        var fields = custom.ConvertAll(f => Field(f.Key, f.Label, f.Choices, f.Type));
        void Add(string? target, IReadOnlyList<string> choices)
        {
            foreach (
                var key in target switch
                {
                    null => [],
                    "full_name" => new[] { "first_name", "last_name" },
                    _ => [target],
                }
            )
            {
                if (fields.Exists(f => f.Key == key))
                    continue;
                fields.Add(
                    Field(
                        key,
                        Guard.FieldWords(key),
                        choices,
                        LeadField.Standard.FirstOrDefault(s => s.Key == key)?.Type
                            ?? (choices.Count > 0 ? LeadFieldType.Choice : LeadFieldType.Text)
                    )
                );
            }
        }

        foreach (var form in forms)
        {
            if (maps.TryGetValue(form.Id, out var map))
                foreach (var row in map.Rows)
                    Add(row.LeadField, form.Fields.FirstOrDefault(f => f.Name == row.FormField)?.Choices ?? []);
            else
                foreach (var field in form.Fields)
                    Add(field.Name, field.Choices);
        }

        return fields;
    }

    private static AroundField Field(string key, string label, IReadOnlyList<string> choices, LeadFieldType type)
    {
        var fact = type switch
        {
            LeadFieldType.Number or LeadFieldType.Money => FactType.Number,
            LeadFieldType.Choice => FactType.Choice,
            LeadFieldType.Choices => FactType.List,
            LeadFieldType.Date => FactType.Date,
            LeadFieldType.YesNo => FactType.YesNo,
            _ => FactType.Text,
        };
        return new(key, label, choices, fact, RuleOps.For(fact));
    }

    // What a list cannot be asked for now is not judged: the fuse can be armed while a service rests.
    private async Task<Dictionary<string, IReadOnlyList<ListItem>>> ListsAsync(
        FuseDefinition fuse,
        List<Connection> connections,
        CancellationToken stop
    )
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(Patience);
        var asked = new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal);
        foreach (var step in fuse.Bands.SelectMany(b => b.Steps))
        {
            if (catalog.Find(step.Kind) is not { Service: { } service } kind)
                continue;
            var named = step.Settings.GetValueOrDefault(StepKinds.Connection);
            if (
                connections.Find(c => c.Kind == service && (string.IsNullOrEmpty(named) || c.Id.ToString() == named))
                is not { } connection
            )
                continue;
            foreach (var setting in kind.Settings.Where(s => s.List is not null))
            {
                var (items, _) = await lists.AskAsync(connection, setting, step.Settings, again: false, patience.Token);
                if (items is not null)
                    asked[$"{step.Id}.{setting.Key}"] = items;
            }
        }

        return asked;
    }

    private async Task<Dictionary<string, IReadOnlyList<ConnectionTarget>>?> TargetsAsync(
        List<Connection> connections,
        CancellationToken stop
    )
    {
        var all = new Dictionary<string, IReadOnlyList<ConnectionTarget>>(StringComparer.Ordinal);
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(Patience);
        foreach (var connection in connections)
        {
            if (connectors.Find(connection.Kind) is not { } connector)
                continue;
            try
            {
                foreach (var (type, targets) in await connector.TargetsAsync(opener.Open(connection), patience.Token))
                    all[type] = targets;
            }
            catch (Exception e)
                when (e is ServiceTroubleException || (e is OperationCanceledException && !stop.IsCancellationRequested)
                )
            {
                return null;
            }
        }

        return all;
    }
}

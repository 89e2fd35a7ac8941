using LitFuse.Connectors;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Server.Delivery;
using LitFuse.Server.Features.ReadyWords;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>Reads what a client's fuses can refer to.</summary>
public sealed class FuseContextReader(
    AppDb db,
    ConnectorKinds connectors,
    ConnectionOpener opener,
    ServiceLists lists,
    StepCatalog catalog,
    EventCatalog events
)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>
    /// Reads it; lists that live outside are asked for, and left open when the service does not answer soon.
    /// </summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="fuse">The fuse whose steps' lists are wanted too.</param>
    public async Task<FuseContext> ReadAsync(Guid clientId, CancellationToken stop, FuseDefinition? fuse = null)
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var forms = await db
            .Forms.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .Join(db.Sources, f => f.SourceId, s => s.Id, (f, s) => new FormOfSource(f, s.Name))
            .ToListAsync(stop);
        var connections = await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop);
        var targets = await TargetsAsync(connections, stop);
        var tags = await TagsAsync(clientId, stop);
        return new(
            [
                .. forms.Select(f => new ContextForm(
                    f.Form.Key,
                    f.Form.Name,
                    f.Source,
                    f.Form.State == FormState.Receiving
                )),
            ],
            await FieldsAsync(clientId, forms, connections, stop),
            targets?.GetValueOrDefault("channel"),
            targets?.GetValueOrDefault("person"),
            [.. connections.Select(c => c.Kind).Distinct(StringComparer.Ordinal)],
            StepKindsOf(catalog),
            $"{client.SendFrom:HH\\:mm}–{client.SendTo:HH\\:mm}",
            client.Zone,
            FactsOf(client, forms, tags),
            EventsOf(events),
            await ColleaguesAsync(clientId, stop),
            await FusesAsync(clientId, stop),
            [
                .. (await ReadyWordsEndpoints.NewestAsync(db, clientId, stop)).Select(w => new ContextWords(
                    w.Key,
                    w.Name,
                    w.Version,
                    w.Words,
                    w.Subject
                )),
            ],
            [.. Core.Words.WordFilters.Known.Select(f => new ContextFilter(f.Name, f.Example, f.Makes))],
            client.Stages,
            tags,
            [.. forms.Select(f => f.Source).Distinct(StringComparer.Ordinal)],
            ConnectionsOf(connections),
            await FilesAsync(clientId, stop)
        )
        {
            Catalog = events,
            Steps = catalog,
            Armed = await ArmedAsync(clientId, stop),
            Lists = fuse is null
                ? new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal)
                : await ListsAsync(fuse, connections, stop),
        };
    }

    private sealed record FormOfSource(Form Form, string Source);

    private async Task<List<ContextField>> FieldsAsync(
        Guid clientId,
        List<FormOfSource> forms,
        List<Connection> connections,
        CancellationToken stop
    )
    {
        var formIds = forms.ConvertAll(f => f.Form.Id);
        var maps = (await db.FormMaps.AsNoTracking().Where(m => formIds.Contains(m.FormId)).ToListAsync(stop))
            .GroupBy(m => m.FormId)
            .ToDictionary(g => g.Key, g => g.MaxBy(m => m.Version)!.Map);
        var custom = await db
            .LeadFields.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Label)
            .ToListAsync(stop);
        return
        [
            .. Fields(forms.ConvertAll(f => f.Form), maps, custom),
            .. connections
                .SelectMany(c => connectors.Find(c.Kind)?.Card.Fills ?? [])
                .Distinct(StringComparer.Ordinal)
                .Select(k => Field(k, LeadField.WordsOf(k), [], LeadFieldType.Text)),
        ];
    }

    private Task<List<string>> TagsAsync(Guid clientId, CancellationToken stop) =>
        db
            .Database.SqlQuery<string>(
                $"select distinct t as \"Value\" from leads, unnest(tags) t where client_id = {clientId} and tags <> '{{}}' order by 1 limit 200"
            )
            .ToListAsync(stop);

    private async Task<List<ContextColleague>> ColleaguesAsync(Guid clientId, CancellationToken stop)
    {
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
        return
        [
            .. people
                .GroupBy(p => (p.Id, p.Name))
                .Select(g => new ContextColleague(g.Key.Id, g.Key.Name, g.Any(p => p.Role == Role.Rep)))
                .OrderBy(c => c.Name, StringComparer.Ordinal),
        ];
    }

    private Task<List<ContextFuse>> FusesAsync(Guid clientId, CancellationToken stop) =>
        db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .Select(f => new ContextFuse(f.Id, f.Name, f.State == FuseState.Armed))
            .ToListAsync(stop);

    private Task<Dictionary<Guid, FuseDefinition>> ArmedAsync(Guid clientId, CancellationToken stop) =>
        db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId && f.State == FuseState.Armed)
            .Join(db.FuseVersions, f => f.ArmedVersionId, v => v.Id, (f, v) => new { f.Id, v.Definition })
            .ToDictionaryAsync(f => f.Id, f => f.Definition, stop);

    private Task<List<ContextFile>> FilesAsync(Guid clientId, CancellationToken stop) =>
        db
            .LibraryFiles.Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .Select(f => new ContextFile(f.Id, f.Name, f.Size))
            .ToListAsync(stop);

    private List<ContextConnection> ConnectionsOf(List<Connection> connections) =>
        [
            .. connections
                .Where(c => connectors.Find(c.Kind) is not null)
                .OrderBy(c => c.Name, StringComparer.Ordinal)
                .Select(c => new ContextConnection(
                    c.Id,
                    c.Kind,
                    c.Name,
                    c.State is ConnectionState.Expired or ConnectionState.Withdrawn ? c.Fault : null
                )),
        ];

    private static List<ContextStepKind> StepKindsOf(StepCatalog catalog) =>
        [
            .. catalog
                .All.Where(k => !k.Hidden)
                .Select(k => new ContextStepKind(
                    k.Key,
                    k.Label,
                    k.Lane,
                    k.Service,
                    k.Settings,
                    k.Results,
                    k.ResultsFrom
                )),
        ];

    private static List<ContextField> FactsOf(Client client, List<FormOfSource> forms, List<string> tags) =>
        [
            .. Facts.Standing.Select(f => new ContextField(
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
        ];

    private static List<ContextEvent> EventsOf(EventCatalog events) =>
        [
            .. events.All.Select(e => new ContextEvent(
                e.Key,
                e.Sentence,
                e.Details,
                e.Uses.HasFlag(EventUse.Light),
                e.Uses.HasFlag(EventUse.Stop),
                e.Uses.HasFlag(EventUse.Enter),
                e.Timed
            )),
        ];

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

    // The client's own fields, and what the forms' maps fill: fields that were picked, joined, or hold one value for
    // all. Of a form without a map yet, what it asks under its own names: a fuse for it can be written before its map
    // is confirmed.
    private static List<ContextField> Fields(
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
                        LeadField.WordsOf(key),
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

    private static ContextField Field(string key, string label, IReadOnlyList<string> choices, LeadFieldType type)
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

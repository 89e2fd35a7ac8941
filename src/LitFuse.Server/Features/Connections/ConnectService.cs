using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Delivery;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Connections;

/// <summary>Services that can be connected by an address and a key.</summary>
public sealed record ServiceList(IReadOnlyList<ConnectorCard> Services);

/// <summary>A service to connect.</summary>
/// <param name="Kind">As in the list of services.</param>
/// <param name="Name">A name of one's own; empty: the service's.</param>
/// <param name="Values">By the keys of what it asks for.</param>
public sealed record ServiceToConnect(
    string? Client,
    string? Kind,
    string? Name,
    IReadOnlyDictionary<string, string>? Values
);

/// <summary>New values for a connection. What is left out stays; a secret can be replaced, never read.</summary>
public sealed record AccessToReplace(IReadOnlyDictionary<string, string>? Values);

/// <summary>Which list of a service is wanted.</summary>
/// <param name="Step">The kind of step.</param>
/// <param name="Setting">Its setting that chooses from the list.</param>
/// <param name="Settings">The step's own, as far as they are chosen.</param>
/// <param name="Again">Ask even if it was asked a moment ago.</param>
public sealed record ListToAsk(
    string? Client,
    string? Step,
    string? Setting,
    IReadOnlyDictionary<string, string>? Settings,
    bool Again
);

/// <summary>A list of a service.</summary>
/// <param name="Items"><c>null</c> where there is none.</param>
/// <param name="Fault">Why there is none.</param>
/// <param name="Needs">What must be chosen first.</param>
public sealed record ServiceListing(IReadOnlyList<ListItem>? Items, string? Fault, IReadOnlyList<string> Needs);

/// <summary>Connecting services by what they ask for, and asking them for lists.</summary>
public static class ConnectService
{
    private const int MostValue = 2000;

    /// <summary>Maps it.</summary>
    public static void Map(RouteGroupBuilder connections)
    {
        connections
            .MapGet("/services", (ConnectorKinds connectors) =>
                new ServiceList([.. connectors.All.Select(c => c.Card).Where(c => c.Asks.Count > 0)])
            )
            .Needs(Act.SeeSources)
            .WithSummary("Services that can be connected, and what each asks for");
        connections
            .MapPost("/", ConnectAsync)
            .Needs(Act.EditSources)
            .WithSummary("Connect a service; it is asked before it is kept");
        connections
            .MapPut("/{connectionId}/access", ReplaceAsync)
            .Needs(Act.EditSources)
            .WithSummary("Give it another address or key; fuses stay as they are");
        connections
            .MapPost("/lists", ListAsync)
            .Needs(Act.SeeFuses)
            .WithSummary("A list of a service that a step chooses from");
    }

    private static async Task<Results<Created<ConnectionRow>, ProblemHttpResult>> ConnectAsync(
        ServiceToConnect asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        ConnectionRows rows,
        Secrets secrets,
        OutboundRules rules,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(asked.Client)
            || await db.ChosenAsync(scope, asked.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if (connectors.Find(asked.Kind ?? "") is not { Card.Asks.Count: > 0 } connector)
            return Problems.Bad("kind", "Choose one of the services.");
        var name = (asked.Name ?? "").Trim();
        if (name.Length > 80)
            return Problems.Bad("name", "Give it a name of at most 80 characters.");
        var values = asked.Values ?? new Dictionary<string, string>(StringComparer.Ordinal);
        if (Fault(connector.Card.Asks.Where(a => !a.Optional || values.ContainsKey(a.Key)), values, rules) is { } fault)
            return fault;

        var now = time.Now();
        var connection = new Connection
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Kind = connector.Card.Kind,
            Name = name.Length > 0 ? name : connector.Card.Name,
            MadeAt = now,
            MadeBy = ClientAccess.UserId(http.User),
            Secret = secrets.Seal(""),
        };
        Put(connection, connector.Card, values, secrets);
        var secret = connector.Card.MakesSecret ? Keys.Signing() : null;
        if (secret is not null)
            connection.Secret = secrets.Seal(secret);
        connection.NoticeSecret = secrets.Seal(Keys.Signing());
        var told = await ConnectionVerifier.AskAsync(connector, opener.Open(connection), stop);
        // Who checks our signature cannot take it before the secret is told.
        var strange = secret is not null && told.State == ConnectionState.Withdrawn;
        if (told.Fault is { } refused && !strange)
            return Problems.NotConnected.Because($"{connector.Card.Name} {refused.TrimEnd('.')}.");
        ConnectionVerifier.Note(connection, connector.Card, told, now);
        if (strange)
            (connection.State, connection.Fault) = (
                ConnectionState.Partial,
                "It does not take our signature yet. Give it the secret, then verify."
            );
        db.Connections.Add(connection);
        await db.SaveChangesAsync(stop);
        if (await ConnectionVerifier.DeafAsync(connector, opener.Open(connection), stop) is { } deaf)
            await db
                .Connections.Where(c => c.Id == connection.Id)
                .ExecuteUpdateAsync(
                    c => c.SetProperty(x => x.Fault, deaf).SetProperty(x => x.State, ConnectionState.Partial),
                    stop
                );
        var row = (await rows.ReadAsync(db.Connections.Where(c => c.Id == connection.Id), stop))[0];
        return TypedResults.Created($"/api/connections/{connection.Id}", row with { Secret = secret });
    }

    private static async Task<Results<Ok<ConnectionRow>, ProblemHttpResult>> ReplaceAsync(
        Guid connectionId,
        AccessToReplace asked,
        AppDb db,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        ConnectionRows rows,
        Secrets secrets,
        OutboundRules rules,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null)
            return Problems.No("connection");
        if (connectors.Find(connection.Kind) is not { Card.Asks.Count: > 0 } connector)
            return Problems.NotNow.Because($"{connection.Name} is connected in another way.");
        var values = (asked.Values ?? new Dictionary<string, string>(StringComparer.Ordinal))
            .Where(v => !string.IsNullOrWhiteSpace(v.Value))
            .ToDictionary(v => v.Key, v => v.Value, StringComparer.Ordinal);
        if (Fault(connector.Card.Asks.Where(a => values.ContainsKey(a.Key)), values, rules) is { } fault)
            return fault;
        // A key is for the address it was given for: sent to another one, it would be told to whoever answers there.
        if (
            values.ContainsKey(ConnectorCard.Address)
            && connector.Card.Asks.FirstOrDefault(a =>
                a.Secret && !values.ContainsKey(a.Key) && secrets.Open(connection.Secret).Length > 0
            )
                is { } anew
        )
            return Problems.Bad(anew.Key, $"Another address needs the {anew.Label.ToLowerInvariant()} anew.");
        Put(connection, connector.Card, values, secrets);
        var told = await ConnectionVerifier.AskAsync(connector, opener.Open(connection), stop);
        if (told.Fault is { } refused)
            return Problems.NotConnected.Because(
                $"{connector.Card.Name} {refused.TrimEnd('.')}. What was there before stays."
            );
        ConnectionVerifier.Note(connection, connector.Card, told, time.Now());
        connection.NoticeSecret ??= secrets.Seal(Keys.Signing());
        if (await ConnectionVerifier.DeafAsync(connector, opener.Open(connection), stop) is { } deaf)
            (connection.State, connection.Fault) = (ConnectionState.Partial, deaf);
        db.NoteChange(connection.ClientId, ChangeKind.Connection, connection.Id);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        return TypedResults.Ok((await rows.ReadAsync(db.Connections.Where(c => c.Id == connectionId), stop))[0]);
    }

    private static async Task<Results<Ok<ServiceListing>, ProblemHttpResult>> ListAsync(
        ListToAsk asked,
        AppDb db,
        ClientScope scope,
        StepCatalog catalog,
        ServiceLists lists,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(asked.Client)
            || await db.ChosenAsync(scope, asked.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if (
            catalog.Find(asked.Step ?? "") is not { Service: { } service } kind
            || kind.Settings.FirstOrDefault(s => s.Key == asked.Setting) is not { List: not null } setting
        )
            return Problems.Bad("setting", "That step has no such list.");
        var settings = asked.Settings ?? new Dictionary<string, string>(StringComparer.Ordinal);
        var named = settings.GetValueOrDefault(StepKinds.Connection);
        var through = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == clientId && c.Kind == service)
            .OrderBy(c => c.Name)
            .ToListAsync(stop);
        if (through.Find(c => string.IsNullOrEmpty(named) || c.Id.ToString() == named) is not { } connection)
            return TypedResults.Ok(
                new ServiceListing(null, $"There is no connection to {service}. Connect it under Setup.", [])
            );
        var (items, fault) = await lists.AskAsync(connection, setting, settings, asked.Again, stop);
        // One account often serves several clients: what the fuses of another put their leads into is not this
        // client's.
        if (items is { Count: > 0 } && setting.ListNeeds.Count == 0)
        {
            var others = await OfOthersAsync(db, connection, kind.Key, setting.Key, stop);
            items = [.. items.Where(i => i.Key == settings.GetValueOrDefault(setting.Key) || !others.Contains(i.Key))];
        }

        return TypedResults.Ok(
            new ServiceListing(
                items,
                fault,
                [
                    .. setting
                        .ListNeeds.Where(n => string.IsNullOrEmpty(settings.GetValueOrDefault(n)))
                        .Select(n => kind.Settings.First(s => s.Key == n).Label),
                ]
            )
        );
    }

    // What steps of other clients' fuses have chosen from this list at the same address, and none of this client's.
    private static async Task<HashSet<string>> OfOthersAsync(
        AppDb db,
        Connection connection,
        string kind,
        string setting,
        CancellationToken stop
    ) =>
        [
            .. await db
                .Database.SqlQuery<string>(
                    $"""
                    select step -> 'settings' ->> {setting} as "Value"
                    from (
                        select client_id, draft as fuse from fuses where draft is not null
                        union all
                        select f.client_id, v.definition from fuses f join fuse_versions v on v.id = f.armed_version_id
                    ) all_fuses, jsonb_array_elements(fuse -> 'bands') band, jsonb_array_elements(band -> 'steps') step
                    where step ->> 'kind' = {kind} and step -> 'settings' ->> {setting} is not null
                        and exists (select 1 from connections c where c.client_id = all_fuses.client_id and c.kind = {connection.Kind} and c.base_url = {connection.BaseUrl})
                    group by 1
                    having not bool_or(client_id = {connection.ClientId})
                    """
                )
                .ToListAsync(stop),
        ];

    private static ProblemHttpResult? Fault(
        IEnumerable<AccessAsk> asks,
        IReadOnlyDictionary<string, string> values,
        OutboundRules rules
    )
    {
        foreach (var ask in asks)
        {
            var value = values.GetValueOrDefault(ask.Key)?.Trim() ?? "";
            if (value.Length == 0 && !ask.Optional)
                return Problems.Bad(ask.Key, $"{ask.Label} is missing.");
            if (value.Length > MostValue)
                return Problems.Bad(ask.Key, $"{ask.Label} is longer than {MostValue} characters.");
            if (ask.Key != ConnectorCard.Address || value.Length == 0)
                continue;
            if (!Uri.TryCreate(value, UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https"))
                return Problems.Bad(ask.Key, "Write the whole address, beginning with https://.");
            if (url.UserInfo.Length > 0)
                return Problems.Bad(ask.Key, "The address must hold no user or password; there are fields for them.");
            if (
                System.Net.IPAddress.TryParse(url.Host.Trim('[', ']'), out var ip)
                && Outbound.Fault(ip, rules) is { } fault
            )
                return Problems.Bad(ask.Key, $"This address may not be called: {fault}.");
        }

        return null;
    }

    private static void Put(
        Connection connection,
        ConnectorCard card,
        IReadOnlyDictionary<string, string> values,
        Secrets secrets
    )
    {
        var details = new Dictionary<string, string>(connection.Details, StringComparer.Ordinal);
        foreach (var ask in card.Asks)
        {
            if (!values.TryGetValue(ask.Key, out var given))
                continue;
            var value = given.Trim();
            if (ask.Secret)
                connection.Secret = secrets.Seal(value);
            else if (ask.Key == ConnectorCard.Address)
                connection.BaseUrl = card.ExactAddress ? value : value.TrimEnd('/') + "/";
            else if (ask.Key == "sender")
                connection.Sender = value;
            else
                details[ask.Key] = value;
        }

        connection.Details = details;
    }
}

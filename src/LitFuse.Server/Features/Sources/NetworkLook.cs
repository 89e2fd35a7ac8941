using LitFuse.Core.Forms;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>Looks at a network: whether its access still holds, and what became of its forms.</summary>
public sealed class NetworkLook(
    AppDb db,
    SourceKinds kinds,
    Secrets secrets,
    FormDirectory directory,
    PublicAddress address,
    TimeProvider time
)
{
    /// <summary>How often a source is looked at.</summary>
    public static readonly Duration Every = Duration.FromMinutes(10);

    private const int MostNews = 10;

    /// <summary>Opens a source's access; <c>null</c> where it has none.</summary>
    public static NetworkAccess Open(Connection connection, Secrets secrets) =>
        new(new Uri(connection.BaseUrl), secrets.Open(connection.Secret));

    /// <summary>Asks what <paramref name="connection"/> may do, and notes it there.</summary>
    /// <returns>True when it may anything.</returns>
    public async Task<bool> VerifyAsync(Connection connection, CancellationToken stop)
    {
        var kind = kinds.Of(connection.Kind);
        var now = time.Now();
        try
        {
            var who = await ((INetwork)kind).WhoAsync(Open(connection, secrets), stop);
            (connection.Account, connection.Granted, connection.ExpiresAt, connection.GoodAt) = (
                who.Account,
                who.Granted,
                who.ExpiresAt,
                now
            );
            var missing = Missing(kind, who.Granted);
            connection.State = missing.Count == 0 ? ConnectionState.Whole : ConnectionState.Partial;
            connection.Fault =
                missing.Count == 0
                    ? null
                    : string.Join("; ", missing.Select(m => $"“{m.Name}” was not given: {m.Without}"))
                        + ". Connect again and leave it ticked.";
        }
        catch (NetworkTroubleException e)
        {
            Note(connection, kind, e);
        }

        connection.VerifiedAt = now;
        return connection.State is ConnectionState.Whole or ConnectionState.Partial;
    }

    /// <summary>Notes on a connection what trouble there was.</summary>
    public static void Note(Connection connection, SourceKind kind, NetworkTroubleException trouble)
    {
        var name = kind.Card.Name;
        (connection.State, connection.Fault) = trouble.Trouble switch
        {
            NetworkTrouble.Expired => (
                ConnectionState.Expired,
                $"The access to {name} ran out. Connect again; what came meanwhile is fetched then."
            ),
            NetworkTrouble.Withdrawn => (
                ConnectionState.Withdrawn,
                $"The access was taken back at {name}. Connect again; what came meanwhile is fetched then."
            ),
            NetworkTrouble.NotPermitted => (
                ConnectionState.Partial,
                $"{name} {trouble.Message}. Connect again and leave the permission ticked."
            ),
            _ => (ConnectionState.Unreachable, $"{name} {trouble.Message}. It is asked again by itself."),
        };
    }

    /// <summary>
    /// Permissions that a kind needs and a connection was not given; <c>null</c> while the network has not answered
    /// what it may.
    /// </summary>
    public static IReadOnlyList<PermissionNeed>? Missing(SourceKind kind, Connection connection) =>
        connection switch
        {
            { State: ConnectionState.Expired or ConnectionState.Withdrawn } => [],
            { VerifiedAt: null } or { State: ConnectionState.Unreachable, Granted.Count: 0 } => null,
            _ => Missing(kind, connection.Granted),
        };

    private static IReadOnlyList<PermissionNeed> Missing(SourceKind kind, IReadOnlyList<string> granted) =>
        [.. kind.Card.Permissions.Where(p => !granted.Contains(p.Key))];

    /// <summary>Looks at one source and notes what was found. Saves.</summary>
    public async Task LookAsync(Source source, CancellationToken stop)
    {
        var connection = await db.Connections.SingleAsync(c => c.Id == source.ConnectionId, stop);
        var kind = kinds.Of(source.Kind);
        var now = time.Now();
        var first = source.LookedAt is null;
        (source.LookedAt, source.LookDueAt) = (now, now + Every);
        if (await VerifyAsync(connection, stop))
        {
            try
            {
                await FindAsync(source, connection, kind, first, stop);
                source.Fault = connection.Fault;
            }
            catch (NetworkTroubleException e)
            {
                if (e.Trouble is NetworkTrouble.Expired or NetworkTrouble.Withdrawn)
                    Note(connection, kind, e);
                source.Fault = connection.Fault ?? $"{kind.Card.Name} {e.Message}";
            }
        }
        else
        {
            source.Fault = connection.Fault;
        }

        db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
        await db.SaveAndNotifyAsync(stop);
        await directory.ReadAgainAsync(stop);
    }

    private async Task FindAsync(
        Source source,
        Connection connection,
        SourceKind kind,
        bool first,
        CancellationToken stop
    )
    {
        var (network, access) = ((INetwork)kind, Open(connection, secrets));
        var places = await network.PlacesAsync(access, stop);
        if (first && source.Places.Count == 0 && places.Count > 1)
            source.Places = ProposedPlaces.Of(
                await db.Clients.Where(c => c.Id == source.ClientId).Select(c => c.Name).SingleAsync(stop),
                places,
                await ElsewhereAsync(source, stop)
            );
        var chosen = source.Places.Count == 0 ? places : [.. places.Where(p => source.Places.Any(c => c.Id == p.Id))];
        var found = await network.FormsAsync(access, chosen, stop);
        var known = await db.Forms.Where(f => f.SourceId == source.Id).ToListAsync(stop);
        foreach (var form in found)
            Put(source, known.Find(f => f.ExternalId == form.Id), form, kind.Card.Name);
        foreach (
            var gone in known.Where(k =>
                k.ExternalId is not null && k.ArchivedAt is null && !found.Any(f => f.Id == k.ExternalId)
            )
        )
            Archive(gone, $"no longer at {kind.Card.Name}");
        if (network is INotifyingNetwork notifying && connection.Granted.Contains(kind.Card.Permissions[^1].Key))
        {
            await notifying.ListenAsync(
                access,
                chosen,
                $"{address.Url}/told/{source.Key}",
                secrets.Open(source.Secret!),
                stop
            );
        }
    }

    private async Task<HashSet<string>> ElsewhereAsync(Source source, CancellationToken stop)
    {
        var others = await db
            .Sources.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(s => s.Kind == source.Kind && s.ClientId != source.ClientId)
            .Select(s => s.Places)
            .ToListAsync(stop);
        return others.SelectMany(p => p).Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
    }

    private void Put(Source source, Form? known, NetworkForm found, string network)
    {
        var now = time.Now();
        if (known is null)
        {
            if (found.Archived)
                return;
            var form = FormsFound.Fresh(source.ClientId, source.Id, found.Name, found.Fields, now);
            (form.State, form.ExternalId, form.Place, form.AdState) = (
                FormState.Offered,
                found.Id,
                found.Place,
                found.AdState
            );
            form.News = [new(now, $"found at {network}")];
            db.Forms.Add(form);
            return;
        }

        var news = Changes(known, found, network).ToList();
        if (news.Count == 0 && known.AdState == found.AdState)
            return;
        if (known.Name != found.Name)
            known.Name = found.Name;
        known.AdState = found.AdState;
        known.Place = found.Place;
        known.ArchivedAt = found.Archived ? known.ArchivedAt ?? now : null;
        if (!Same(known.Fields, found.Fields))
            known.Fields = found.Fields;
        known.News = [.. news.Select(n => new FormNews(now, n)).Concat(known.News).Take(MostNews)];
        db.NoteChange(source.ClientId, ChangeKind.Form, known.Id);
    }

    private void Archive(Form form, string why)
    {
        form.ArchivedAt = time.Now();
        form.News = [.. form.News.Prepend(new(form.ArchivedAt.Value, why)).Take(MostNews)];
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
    }

    private static IEnumerable<string> Changes(Form known, NetworkForm found, string network)
    {
        if (known.Name != found.Name)
            yield return $"renamed from “{known.Name}” to “{found.Name}”";
        if (found.Archived && known.ArchivedAt is null)
            yield return $"archived at {network}";
        if (!found.Archived && known.ArchivedAt is not null)
            yield return $"back at {network}";
        if (known.AdState is not null && known.AdState != found.AdState)
            yield return $"its ad is {found.AdState}; it was {known.AdState}";
        foreach (var field in found.Fields)
        {
            var before = known.Fields.FirstOrDefault(f => f.Name == field.Name);
            if (before is null)
                yield return $"asks something new: “{field.Label}”";
            else if (before.Label != field.Label)
                yield return $"“{before.Label}” now reads “{field.Label}”";
            else if (!before.Choices.SequenceEqual(field.Choices))
                yield return $"“{field.Label}” offers other choices";
        }

        foreach (var gone in known.Fields.Where(f => !found.Fields.Any(n => n.Name == f.Name)))
            yield return $"no longer asks “{gone.Label}”";
    }

    private static bool Same(IReadOnlyList<FormField> a, IReadOnlyList<FormField> b) =>
        a.Count == b.Count
        && a.Zip(b)
            .All(p =>
                p.First with { Choices = [] } == p.Second with { Choices = [] }
                && p.First.Choices.SequenceEqual(p.Second.Choices)
            );
}

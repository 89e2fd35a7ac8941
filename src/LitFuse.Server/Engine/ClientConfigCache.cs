using System.Collections.Concurrent;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Engine;

/// <summary>
/// What a client has set up, as the engine needs it for each submission and delivery. Nobody changes what is in it.
/// </summary>
/// <param name="Client">The client.</param>
/// <param name="Forms">By id.</param>
/// <param name="SourceKinds">The kind of each form's source, by form.</param>
/// <param name="Maps">The newest confirmed map, by form.</param>
/// <param name="Armed">The armed version of each fuse.</param>
/// <param name="Connections">Of the client.</param>
/// <param name="Fields">The client's own lead fields, and the rules of standard ones.</param>
/// <param name="SourceNames">The name of each form's source, by form.</param>
/// <param name="Colleagues">Who works for it.</param>
public sealed record ClientConfig(
    Client Client,
    IReadOnlyDictionary<Guid, Form> Forms,
    IReadOnlyDictionary<Guid, string> SourceKinds,
    IReadOnlyDictionary<Guid, ConfirmedMap> Maps,
    IReadOnlyList<FuseVersion> Armed,
    IReadOnlyList<Connection> Connections,
    IReadOnlyDictionary<string, LeadField> Fields,
    IReadOnlyDictionary<Guid, string> SourceNames,
    IReadOnlyDictionary<Guid, Colleague> Colleagues
)
{
    /// <summary>
    /// Whom a step means: a person's id, or <c>owner</c> for whoever answers for the lead, or else has it.
    /// </summary>
    public Colleague? ColleagueOf(string who, Lead lead) =>
        who == "owner"
            ? (lead.OwnerId ?? lead.TakenBy) is { } owner
                ? Colleagues.GetValueOrDefault(owner)
                : null
            : Guid.TryParse(who, out var id)
                ? Colleagues.GetValueOrDefault(id)
                : null;

    /// <summary>What a later answer does to this field.</summary>
    public FillRule RuleOf(string field) => Fields.TryGetValue(field, out var known) ? known.Rule : FillRule.NewestWins;
}

/// <summary>A confirmed map, ready for use.</summary>
public sealed record ConfirmedMap(int Version, FieldMap Map, CompiledMap Compiled);

/// <summary>
/// Setups in memory. Each is as new as its client's revision, which triggers in the database count up with every change
/// of the client, its forms, maps, fuses and connections; so one small question replaces six, and nothing is ever
/// stale.
/// </summary>
public sealed class ClientConfigCache(StepCatalog catalog)
{
    private readonly ConcurrentDictionary<Guid, ClientConfig> known = new();
    private readonly ConcurrentDictionary<Guid, (long At, ClientConfig Setup)> lately = new();
    private readonly ConcurrentDictionary<Guid, (FuseVersion Version, CompiledFuse Fuse)> versions = new();

    /// <summary>The setups of these clients.</summary>
    public async Task<IReadOnlyDictionary<Guid, ClientConfig>> ReadAsync(
        AppDb db,
        IReadOnlyList<Guid> clientIds,
        CancellationToken stop
    )
    {
        var revisions = await db
            .Clients.Where(c => clientIds.Contains(c.Id))
            .Select(c => new { c.Id, c.Revision })
            .ToListAsync(stop);
        var setups = new Dictionary<Guid, ClientConfig>(revisions.Count);
        foreach (var row in revisions)
        {
            if (!known.TryGetValue(row.Id, out var setup) || setup.Client.Revision != row.Revision)
                known[row.Id] = setup = await LoadAsync(db, row.Id, stop);
            setups[row.Id] = setup;
        }

        return setups;
    }

    /// <summary>
    /// The setup of one client as it was at most a quarter of a second ago: for carrying what was decided already, many
    /// times a second.
    /// </summary>
    public async Task<ClientConfig> ReadLatelyAsync(AppDb db, Guid clientId, CancellationToken stop)
    {
        var tick = Environment.TickCount64;
        if (lately.TryGetValue(clientId, out var read) && tick - read.At < 250)
            return read.Setup;
        var setup = await ReadAsync(db, clientId, stop);
        lately[clientId] = (tick, setup);
        return setup;
    }

    /// <summary>
    /// What was read lately is of no use any more: a key was replaced, and the next delivery goes with the new one.
    /// </summary>
    public void Forget(Guid clientId) => lately.TryRemove(clientId, out _);

    /// <summary>The setup of one client.</summary>
    public async Task<ClientConfig> ReadAsync(AppDb db, Guid clientId, CancellationToken stop) =>
        (await ReadAsync(db, [clientId], stop))[clientId];

    /// <summary>A fuse version, compiled. Versions never change, so neither do these.</summary>
    public async Task<(FuseVersion Version, CompiledFuse Fuse)> VersionAsync(
        AppDb db,
        Guid versionId,
        CancellationToken stop
    )
    {
        if (versions.TryGetValue(versionId, out var found))
            return found;
        return Compiled(await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == versionId, stop));
    }

    /// <summary>A fuse version that has been read already, compiled.</summary>
    public (FuseVersion Version, CompiledFuse Fuse) Compiled(FuseVersion version)
    {
        if (versions.Count > 2000)
            versions.Clear();
        return versions.GetOrAdd(
            version.Id,
            static (_, of) => (of.Version, CompiledFuse.From(of.Version.Definition, of.Catalog)),
            (Version: version, Catalog: catalog)
        );
    }

    // The client is read first: a change that comes between makes the setup look older than it is, never newer.
    private static async Task<ClientConfig> LoadAsync(AppDb db, Guid clientId, CancellationToken stop)
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var forms = await db.Forms.AsNoTracking().Where(f => f.ClientId == clientId).ToDictionaryAsync(f => f.Id, stop);
        var sources = await db
            .Sources.AsNoTracking()
            .Where(s => s.ClientId == clientId)
            .ToDictionaryAsync(s => s.Id, s => new { s.Kind, s.Name }, stop);
        var fields = (
            await db.LeadFields.AsNoTracking().Where(f => f.ClientId == clientId).ToListAsync(stop)
        ).ConvertAll(f => f.AsField());
        var maps = (
            await db
                .FormMaps.AsNoTracking()
                .Where(m => m.ClientId == clientId && m.Status == MapStatus.Confirmed)
                .ToListAsync(stop)
        )
            .GroupBy(m => m.FormId)
            .Select(g => g.MaxBy(m => m.Version)!)
            .ToDictionary(
                m => m.FormId,
                m => new ConfirmedMap(m.Version, m.Map, CompiledMap.From(m.Map, client.Country, fields))
            );
        var armed = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId && f.State == FuseState.Armed)
            .Join(db.FuseVersions.AsNoTracking(), f => f.ArmedVersionId, v => v.Id, (_, v) => v)
            .ToListAsync(stop);
        var connections = await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop);
        return new(
            client,
            forms,
            forms.Values.ToDictionary(f => f.Id, f => sources[f.SourceId].Kind),
            maps,
            armed,
            connections,
            fields.ToDictionary(f => f.Key, StringComparer.Ordinal),
            forms.Values.ToDictionary(f => f.Id, f => sources[f.SourceId].Name),
            await ColleaguesAsync(db, clientId, stop)
        );
    }

    private static async Task<Dictionary<Guid, Colleague>> ColleaguesAsync(
        AppDb db,
        Guid clientId,
        CancellationToken stop
    )
    {
        var colleagues = await db
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
                        u.Email,
                        u.TestEmail,
                        u.TestPhone,
                        u.TestPerson,
                        Reaches = m.ClientId != null && m.Role == Role.Rep,
                    }
            )
            .ToListAsync(stop);
        return colleagues
            .OrderByDescending(c => c.Reaches)
            .DistinctBy(c => c.Id)
            .ToDictionary(
                c => c.Id,
                c => new Colleague(c.Id, c.Name, c.TestEmail ?? c.Email, c.TestPhone, c.TestPerson)
                {
                    Reaches = c.Reaches,
                }
            );
    }
}

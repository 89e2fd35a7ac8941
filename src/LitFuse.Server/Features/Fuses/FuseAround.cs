using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.Connections;
using LitFuse.Core.Fuses;
using LitFuse.Core.Mapping;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A form that can light a fuse.</summary>
public sealed record AroundForm(string Key, string Name, string Source);

/// <summary>A lead field that rules and words can use.</summary>
public sealed record AroundField(string Key, string Label, IReadOnlyList<string> Choices);

/// <summary>A kind of step, as the sheet offers it.</summary>
public sealed record AroundStepKind(string Key, string Label, Lane Lane, string Service, IReadOnlyList<StepSetting> Settings);

/// <summary>Everything a fuse of a client can refer to. Channels and people are <c>null</c> when the chat could not be asked just now.</summary>
public sealed record FuseAround(
    IReadOnlyList<AroundForm> Forms, IReadOnlyList<AroundField> Fields, IReadOnlyList<ConnectionTarget>? Channels, IReadOnlyList<ConnectionTarget>? People,
    IReadOnlyList<string> Services, IReadOnlyList<AroundStepKind> Kinds, string SendHours, string Zone)
{
    /// <summary>As the core's fault finder takes it.</summary>
    public FuseSurroundings ForFaults() => new(
        [.. Forms.Select(f => f.Key)], [.. Fields.Select(f => new KnownField(f.Key, f.Choices))],
        Channels?.Select(c => c.Key).ToList(), People?.Select(p => p.Key).ToList(), Services);
}

/// <summary>Reads what a client's fuses can refer to.</summary>
public sealed class FuseAroundReader(AppDb db, IEnumerable<IConnector> connectors, Secrets secrets, PublicAddress address)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>Reads it; lists that live outside are asked for, and left open when the service does not answer soon.</summary>
    public async Task<FuseAround> ReadAsync(Guid clientId, CancellationToken stop)
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var forms = await db.Forms.AsNoTracking().Where(f => f.ClientId == clientId).OrderBy(f => f.Name)
            .Join(db.Sources, f => f.SourceId, s => s.Id, (f, s) => new { Form = f, s.Name }).ToListAsync(stop);
        var formIds = forms.ConvertAll(f => f.Form.Id);
        var maps = (await db.FormMaps.AsNoTracking().Where(m => formIds.Contains(m.FormId)).ToListAsync(stop))
            .GroupBy(m => m.FormId).ToDictionary(g => g.Key, g => g.MaxBy(m => m.Version)!.Map);
        var custom = await db.LeadFields.AsNoTracking().Where(f => f.ClientId == clientId).OrderBy(f => f.Label).ToListAsync(stop);
        var connections = await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop);
        var targets = await TargetsAsync(connections, stop);
        return new(
            [.. forms.Select(f => new AroundForm(f.Form.Key, f.Form.Name, f.Name))],
            Fields(forms.ConvertAll(f => f.Form), maps, custom),
            targets?.GetValueOrDefault("channel"), targets?.GetValueOrDefault("person"),
            [.. connections.Select(c => c.Kind).Distinct(StringComparer.Ordinal)],
            [.. StepKinds.All.Select(k => new AroundStepKind(k.Key, k.Label, k.Lane, k.Service, k.Settings))],
            $"{client.SendFrom:HH\\:mm}–{client.SendTo:HH\\:mm}", client.Zone);
    }

    // The client's own fields, and what the forms' maps fill: a field that maps put under its own name counts too.
    private static List<AroundField> Fields(List<Form> forms, Dictionary<Guid, FieldMap> maps, List<LeadFieldDef> custom)
    {
        var fields = custom.ConvertAll(f => new AroundField(f.Key, f.Label, f.Choices));
        foreach (var form in forms)
        {
            var map = maps.GetValueOrDefault(form.Id);
            foreach (var field in form.Fields)
            {
                var row = map?.Rows.FirstOrDefault(r => r.FormField == field.Name);
                if (row is { LeadField: null }) continue;
                var keys = row?.LeadField switch { null => [field.Name], "full_name" => ["first_name", "last_name"], var target => new[] { target } };
                fields.AddRange(keys.Where(k => fields.TrueForAll(f => f.Key != k)).Select(k => new AroundField(k, Core.Guards.Guard.FieldWords(k), field.Choices)).ToList());
            }
        }

        return fields;
    }

    private async Task<Dictionary<string, IReadOnlyList<ConnectionTarget>>?> TargetsAsync(List<Connection> connections, CancellationToken stop)
    {
        var all = new Dictionary<string, IReadOnlyList<ConnectionTarget>>(StringComparer.Ordinal);
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(Patience);
        foreach (var connection in connections)
        {
            var connector = connectors.FirstOrDefault(c => c.Kind == connection.Kind);
            if (connector is null) continue;
            var access = new ConnectionAccess(connection.Id, new Uri(connection.BaseUrl), secrets.Open(connection.Secret), connection.Sender, address.OfNotices(connection.Id));
            try
            {
                foreach (var (type, targets) in await connector.TargetsAsync(access, patience.Token)) all[type] = targets;
            }
            catch (Exception e) when (e is HttpRequestException or System.Text.Json.JsonException || (e is OperationCanceledException && !stop.IsCancellationRequested))
            {
                return null;
            }
        }

        return all;
    }
}

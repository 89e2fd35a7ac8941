using LitFuse.Core.Continuity;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>A form with what its line hangs on, as it is stored.</summary>
internal sealed record StoredForm(Form Form, Source Source, FormMap? Map, FormWatch? Watch);

/// <summary>Reads from the database what lines hang on.</summary>
public sealed class LineReader(AppDb db, SourceKinds kinds, TimeProvider time)
{
    // What is refused for its content is refused at once; what was tried more often than that failed for the service's
    // sake.
    private const int MostOfRefusals = 2;
    private static readonly string[] WithoutLine = ["hand", "api", "file"];

    // Refused because nothing showed that the sender is who it is to be.
    private static readonly string[] Unproven =
    [
        Problems.NotProven.Code,
        Problems.BadSignature.Code,
        Problems.WrongHost.Code,
    ];

    /// <summary>The client, as its lines hang on it.</summary>
    public async Task<(Client Client, LineClient Line, LineHours Hours)> ClientAsync(
        Guid clientId,
        CancellationToken stop
    )
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var by = client.HeldBy is { } person
            ? await db.Users.Where(u => u.Id == person).Select(u => u.Name).FirstOrDefaultAsync(stop)
            : null;
        return (
            client,
            new(client.Id, client.ShortName, client.HeldAt, by),
            new(client.SendHours(), client.WorkHours(), client.DateTimeZone(), client.Country)
        );
    }

    /// <summary>Its connections, with why nothing gets through one.</summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="only">These alone; <c>null</c>: all.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<LineConnection>> ConnectionsAsync(
        Guid clientId,
        IReadOnlyCollection<Guid>? only,
        CancellationToken stop
    )
    {
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == clientId && (only == null || only.Contains(c.Id)))
            .ToListAsync(stop);
        // What was tried and has not gone, where nothing has gone since: the service itself says so before it is asked
        // again. What is being tried for the first time is only under way.
        var lately = time.Now() - Duration.FromDays(1);
        var stuck = await db
            .Deliveries.Where(d =>
                d.ClientId == clientId
                && d.Attempts > (d.Status == DeliveryStatus.Sending ? 1 : 0)
                && (
                    d.EndedAt == null
                    || (d.Status == DeliveryStatus.Failed && d.MadeAt > lately && d.Attempts > MostOfRefusals)
                )
            )
            .GroupBy(d => d.ConnectionId)
            .Select(g => new
            {
                g.Key,
                Count = g.Count(),
                Since = g.Min(d => d.MadeAt),
                Reason = g.Max(d => d.Reason),
            })
            .ToDictionaryAsync(g => g.Key, stop);
        var lines = new List<LineConnection>(connections.Count);
        foreach (var c in connections)
        {
            var fault = c.State == ConnectionState.Whole ? null : c.Fault ?? $"{c.Name} is not reached.";
            if (
                fault is null
                && stuck.TryGetValue(c.Id, out var waits)
                && !await db.Deliveries.AnyAsync(
                    d => d.ConnectionId == c.Id && d.EndedAt > waits.Since && d.Status == DeliveryStatus.Done,
                    stop
                )
            )
            {
                fault =
                    $"{c.Name} takes nothing: {waits.Reason?.TrimEnd('.') ?? "it does not answer"}; {(waits.Count == 1 ? "one thing" : $"{waits.Count} things")} did not get there.";
            }

            lines.Add(new(c.Id.ToString(), c.Name, fault, c.PausedAt is not null));
        }

        return lines;
    }

    /// <summary>Fuses with the version whose lines count: the armed one, else the draft.</summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="only">These alone; <c>null</c>: all.</param>
    /// <param name="stop">Cancels.</param>
    internal async Task<IReadOnlyList<(Fuse Fuse, FuseDefinition Definition)>> FusesAsync(
        Guid clientId,
        IReadOnlyCollection<Guid>? only,
        CancellationToken stop
    )
    {
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId && (only == null || only.Contains(f.Id)))
            .ToListAsync(stop);
        var ids = fuses.Select(f => f.ArmedVersionId).OfType<Guid>().ToList();
        var versions = await db
            .FuseVersions.AsNoTracking()
            .Where(v => ids.Contains(v.Id))
            .ToDictionaryAsync(v => v.Id, v => v.Definition, stop);
        return
        [
            .. fuses
                .Select(f =>
                    (
                        f,
                        f.ArmedVersionId is { } id && f.State != FuseState.Draft
                            ? versions.GetValueOrDefault(id) ?? f.Draft
                            : f.Draft
                    )
                )
                .Where(f => f.Item2 is not null)
                .Select(f => (f.f, f.Item2!)),
        ];
    }

    /// <summary>Forms that have a line, with what is known of them.</summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="only">These alone; <c>null</c>: all.</param>
    /// <param name="named">Keys of forms that armed fuses name: they have a line even when nobody chose them.</param>
    /// <param name="stop">Cancels.</param>
    internal async Task<IReadOnlyList<(StoredForm Stored, LineForm Line)>> FormsAsync(
        Guid clientId,
        IReadOnlyCollection<Guid>? only,
        IReadOnlySet<string> named,
        CancellationToken stop
    )
    {
        var sources = await db
            .Sources.AsNoTracking()
            .Where(s => s.ClientId == clientId && !WithoutLine.Contains(s.Kind))
            .ToDictionaryAsync(s => s.Id, stop);
        var forms = (
            await db
                .Forms.AsNoTracking()
                .Where(f => f.ClientId == clientId && (only == null || only.Contains(f.Id)))
                .ToListAsync(stop)
        )
            .Where(f =>
                sources.ContainsKey(f.SourceId)
                && !(f.Draft is not null && f.PublishedAt is null)
                && (named.Contains(f.Key) || f.State != FormState.Offered)
            )
            .ToList();
        var ids = forms.ConvertAll(f => f.Id);
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == clientId)
            .ToDictionaryAsync(c => c.Id, stop);
        var maps = await db
            .FormMaps.FromSql(
                $"select distinct on (form_id) * from form_maps where form_id = any({ids}) and status = 'confirmed' order by form_id, version desc"
            )
            .AsNoTracking()
            .ToDictionaryAsync(m => m.FormId, stop);
        var watches = await db
            .FormWatches.AsNoTracking()
            .Where(w => ids.Contains(w.FormId))
            .ToDictionaryAsync(w => w.FormId, stop);
        var waiting = await db
            .Submissions.Where(s => ids.Contains(s.FormId) && s.Status == SubmissionStatus.Waiting)
            .GroupBy(s => s.FormId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        var visits = await VisitsAsync(ids, stop);
        var refused = await RefusedAsync(clientId, ids, stop);
        return
        [
            .. forms.Select(f =>
            {
                var stored = new StoredForm(
                    f,
                    sources[f.SourceId],
                    maps.GetValueOrDefault(f.Id),
                    watches.GetValueOrDefault(f.Id)
                );
                var connection = stored.Source.ConnectionId is { } id ? connections.GetValueOrDefault(id) : null;
                return (
                    stored,
                    LineOf(stored, connection) with
                    {
                        Waiting = waiting.GetValueOrDefault(f.Id),
                        Visits = visits.TryGetValue(f.Id, out var v) ? v : null,
                        Refused = refused.GetValueOrDefault(f.Id),
                    }
                );
            }),
        ];
    }

    private LineForm LineOf(StoredForm stored, Connection? connection)
    {
        var (form, source, map, watch) = stored;
        var kind = kinds.Of(source.Kind);
        return new(form.Id, form.Key, form.Name, source.Id, source.Name, kind.Card.Name)
        {
            NeedsAccess = kind.Card.Access == AccessBy.Consent,
            Access = connection is null
                ? null
                : new(
                    connection.State switch
                    {
                        ConnectionState.Expired => AccessStanding.RanOut,
                        ConnectionState.Withdrawn => AccessStanding.TakenBack,
                        ConnectionState.Unreachable => AccessStanding.Unreachable,
                        _ => AccessStanding.Whole,
                    },
                    NetworkLook.Missing(kind, connection)?.Select(p => (p.Name, p.Without)).ToList(),
                    connection.Fault
                ),
            Standing = form.State switch
            {
                FormState.Paused => FormStanding.Paused,
                FormState.Offered => FormStanding.NotChosen,
                _ => form.Draft is not null && form.PublishedAt is null
                    ? FormStanding.NotPublished
                    : FormStanding.Receiving,
            },
            ArchivedAt = form.ArchivedAt,
            AdState = form.AdState,
            Thanks = form.ThankYouUrl is { } thanks
                ? watch?.ThanksAddress == thanks
                    ? new(thanks, watch.ThanksAskedAt, watch.ThanksFault)
                    : new(thanks, null, null)
                : null,
            Silent = watch?.Silent,
            Missing = watch?.Missing ?? 0,
            MapVersion = map?.Version,
            Fills = map is null ? new HashSet<string>(StringComparer.Ordinal) : FillsOf(map.Map),
            Filled = watch?.Filled ?? new Dictionary<string, Filled>(StringComparer.Ordinal),
            Offers = map is null
                ? new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                : OffersOf(form, map.Map),
            Drift = watch?.Drift ?? [],
            Proof = watch?.Proof,
            MendedAt = watch?.MendedAt,
        };
    }

    private static HashSet<string> FillsOf(FieldMap map)
    {
        var fills = map.Rows.Select(r => r.LeadField).OfType<string>().ToHashSet(StringComparer.Ordinal);
        if (fills.Contains("full_name"))
            fills.UnionWith(["first_name", "last_name"]);
        return fills;
    }

    private static Dictionary<string, IReadOnlyList<string>> OffersOf(Form form, FieldMap map)
    {
        var offers = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);
        foreach (var row in map.Rows.Where(r => r is { LeadField: not null, With: null, Constant: null }))
        {
            if (form.Fields.FirstOrDefault(f => f.Name == row.FormField)?.Choices is { Count: > 0 } choices)
                offers[row.LeadField!] = [.. choices.Select(c => row.Choices?.GetValueOrDefault(c) ?? c)];
        }

        return offers;
    }

    private async Task<Dictionary<Guid, (int WithAnswers, int Empty)>> VisitsAsync(
        List<Guid> ids,
        CancellationToken stop
    )
    {
        var now = time.Now();
        var today = now.InUtc().Date;
        var week = new DateOnly(today.Year, today.Month, today.Day).AddDays(-7);
        var empty = await db
            .FormDays.Where(d => ids.Contains(d.FormId) && d.Day > week && d.EmptyVisits > 0)
            .GroupBy(d => d.FormId)
            .Select(g => new { g.Key, Sum = g.Sum(d => d.EmptyVisits) })
            .ToDictionaryAsync(g => g.Key, g => g.Sum, stop);
        if (empty.Count == 0)
            return [];
        var since = now - Duration.FromDays(7);
        var with = await db
            .Submissions.Where(s =>
                empty.Keys.Contains(s.FormId)
                && s.Status != SubmissionStatus.Received
                && s.ReceivedAt > since
                && s.Envelope!.Contains("passed-through")
            )
            .GroupBy(s => s.FormId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        return empty.ToDictionary(e => e.Key, e => (with.GetValueOrDefault(e.Key), e.Value));
    }

    // A refusal counts until something of the form is taken; where it names no form, of its source.
    private async Task<Dictionary<Guid, DoorRefusals>> RefusedAsync(
        Guid clientId,
        List<Guid> ids,
        CancellationToken stop
    )
    {
        var since = time.Now() - Duration.FromDays(2);
        var refusals = await db
            .Refusals.AsNoTracking()
            .Where(r => r.ClientId == clientId && r.LastAt > since && Unproven.Contains(r.Code))
            .OrderByDescending(r => r.LastAt)
            .ToListAsync(stop);
        var found = new Dictionary<Guid, DoorRefusals>();
        if (refusals.Count == 0)
            return found;
        var forms = await db
            .Forms.Where(f => ids.Contains(f.Id))
            .Select(f => new
            {
                f.Id,
                f.SourceId,
                Last = db
                    .Submissions.Where(s => s.FormId == f.Id && s.Status != SubmissionStatus.Received)
                    .Max(s => (Instant?)s.ReceivedAt),
            })
            .ToListAsync(stop);
        var ofSource = forms.GroupBy(f => f.SourceId).ToDictionary(g => g.Key, g => g.Max(f => f.Last));
        foreach (var form in forms)
        {
            var counted = new List<Refusal>();
            foreach (var r in refusals)
            {
                var last = r.FormId is null ? ofSource[form.SourceId] : form.Last;
                if (
                    (r.FormId == form.Id || (r.FormId is null && r.SourceId == form.SourceId))
                    && (last is null || r.LastAt > last)
                )
                    counted.Add(last > r.FirstAt ? OnlyLatest(r) : r);
            }

            if (counted.Count > 0)
                found[form.Id] = new(
                    counted.Sum(r => r.Times),
                    counted.Min(r => r.FirstAt),
                    counted[0].LastAt,
                    counted[0].Detail
                );
        }

        return found;
    }

    // How many of an hour's refusals came before something good in between is not kept; one came after.
    private static Refusal OnlyLatest(Refusal counted) =>
        new()
        {
            FirstAt = counted.LastAt,
            LastAt = counted.LastAt,
            Times = 1,
            Detail = counted.Detail,
        };
}

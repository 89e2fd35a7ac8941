using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>What a comparison found.</summary>
/// <param name="Theirs">On the network's own list.</param>
/// <param name="Recovered">Fetched just now, because nobody had told us.</param>
/// <param name="Missing">Could not be fetched.</param>
public sealed record Compared(int Theirs, int Recovered, int Missing);

/// <summary>
/// Compares what a network has with what is here, and fetches what it never told of. That goes the way of every other
/// submission, marked as recovered and with its true age; the index that knows doubles knows these too.
/// </summary>
public sealed class NetworkReconciler(
    AppDb db,
    SourceKinds kinds,
    Secrets secrets,
    FormDirectory directory,
    NetworkIntake intake,
    NetworkPoll polls,
    TimeProvider time
)
{
    /// <summary>How often each source is compared.</summary>
    public static readonly Duration Every = Duration.FromMinutes(5);

    /// <summary>What was sent just now may still be on its way.</summary>
    private static readonly Duration Grace = Duration.FromSeconds(15);

    private const int MostAtOnce = 500;
    private const int MostDays = 30;

    /// <summary>Compares the days from <paramref name="days"/> ago to now, and notes what was found. Saves.</summary>
    /// <exception cref="NetworkTroubleException">The list cannot be had.</exception>
    public async Task<Compared> RunAsync(Source source, int days, CancellationToken stop)
    {
        var kind = kinds.Of(source.Kind);
        if (kind is not IListing listing)
            return new(0, 0, 0);
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == source.ClientId, stop);
        var (zone, now) = (client.DateTimeZone(), time.Now());
        var from = zone.AtStartOfDay(now.InZone(zone).Date.PlusDays(-days)).ToInstant();
        var forms = await db
            .Forms.AsNoTracking()
            .Where(f => f.SourceId == source.Id && f.ExternalId != null && f.State != FormState.Offered)
            .ToDictionaryAsync(f => f.ExternalId!, stop);
        if (forms.Count == 0)
            return new(0, 0, 0);
        var ask = await AskAsync(source, [.. forms.Keys], from, now - Grace, stop);
        var listed = (await listing.ListAsync(ask, stop))
            .DistinctBy(l => (l.FormId, l.Id))
            .Where(l => forms.ContainsKey(l.FormId))
            .ToList();
        // What a network that is asked had to show since it was asked last was not kept from us.
        if (kind is IPolledNetwork)
            await polls.PollAsync(await db.Sources.SingleAsync(s => s.Id == source.Id, stop), stop);
        var (here, coming) = await HereAsync(source, forms, from, stop);
        var absent = listed
            .Where(l => !here.ContainsKey((forms[l.FormId].Id, l.Id)) && !coming.Contains(l.Id))
            .ToList();
        var recovered = new HashSet<(Guid Form, string Id)>();
        foreach (var one in absent.Take(MostAtOnce))
        {
            var key = (forms[one.FormId].Id, one.Id);
            if (await FetchAsync(source, kind, ask.Access, one, stop) is not { } stored)
                continue;
            // A notice that came meanwhile was quicker.
            if (stored.Double)
                here.TryAdd(key, false);
            else
                recovered.Add(key);
        }

        bool IsHere(ListedSubmission l) => here.ContainsKey((forms[l.FormId].Id, l.Id));
        bool IsRecovered(ListedSubmission l) => recovered.Contains((forms[l.FormId].Id, l.Id));
        foreach (var form in forms.Values)
            await CountAsync(
                form,
                zone,
                [.. listed.Where(l => forms[l.FormId].Id == form.Id)],
                l =>
                    IsRecovered(l) || here.GetValueOrDefault((form.Id, l.Id)) ? Arrival.Recovered
                    : IsHere(l) ? Arrival.Here
                    : coming.Contains(l.Id) ? Arrival.Coming
                    : Arrival.Missing,
                stop
            );

        await ComparedAsync(source, now, stop);
        return new(listed.Count, recovered.Count, absent.Count(a => !IsHere(a) && !IsRecovered(a)));
    }

    private async Task ComparedAsync(Source source, Instant now, CancellationToken stop)
    {
        await db
            .Sources.Where(s => s.Id == source.Id)
            .ExecuteUpdateAsync(
                s => s.SetProperty(x => x.ComparedAt, now).SetProperty(x => x.CompareFault, (string?)null),
                stop
            );
        db.NoteChange(source.ClientId, ChangeKind.Source, source.Id);
        await db.SaveAndNotifyAsync(stop);
    }

    private enum Arrival
    {
        Here,
        Recovered,
        Coming,
        Missing,
    }

    // What the network showed of a form, against what is here: what is missing, and day by day.
    private async Task CountAsync(
        Form form,
        DateTimeZone zone,
        IReadOnlyList<ListedSubmission> own,
        Func<ListedSubmission, Arrival> arrived,
        CancellationToken stop
    )
    {
        var missing = own.Count(l => arrived(l) == Arrival.Missing);
        await db
            .FormWatches.Where(w => w.FormId == form.Id && w.Missing != missing)
            .ExecuteUpdateAsync(w => w.SetProperty(x => x.Missing, missing), stop);
        foreach (var day in own.GroupBy(l => l.SentAt.InZone(zone).Date))
        {
            var ours = day.Count(l => arrived(l) is Arrival.Here or Arrival.Recovered);
            var late = day.Count(l => arrived(l) == Arrival.Recovered);
            await db.Database.ExecuteSqlAsync(
                $"insert into network_days (client_id, form_id, day, theirs, ours, recovered) values ({form.ClientId}, {form.Id}, {new DateOnly(day.Key.Year, day.Key.Month, day.Key.Day)}, {day.Count()}, {ours}, {late}) on conflict (form_id, day) do update set theirs = excluded.theirs, ours = excluded.ours, recovered = excluded.recovered",
                stop
            );
        }

        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
    }

    /// <summary>
    /// How many days back to look, so that nothing since the last comparison that went through is passed over.
    /// </summary>
    /// <param name="comparedAt">When it went through last; <c>null</c>: never.</param>
    /// <param name="now">The present moment.</param>
    public static int DaysSince(Instant? comparedAt, Instant now) =>
        comparedAt is { } last ? Math.Clamp((int)(now - last).TotalDays + 1, 1, MostDays) : 1;

    /// <summary>True where the source has a list, and the way to it is known.</summary>
    public static bool Can(SourceKind kind, Source source) =>
        kind is IListing && (kind is INetwork ? source.ConnectionId is not null : source.DailyFile is not null);

    private async Task<ListingAsk> AskAsync(
        Source source,
        IReadOnlyList<string> forms,
        Instant from,
        Instant to,
        CancellationToken stop
    )
    {
        var access = source.ConnectionId is { } id
            ? NetworkLook.Open(await db.Connections.AsNoTracking().SingleAsync(c => c.Id == id, stop), secrets)
            : new NetworkAccess(new Uri(source.DailyFile!), secrets.Open(source.Secret!));
        return new(access, forms, source.DailyFile, from, to);
    }

    // What is here by its own id, and whether it was recovered; and what we were told of and is about to be fetched.
    private async Task<(Dictionary<(Guid Form, string Id), bool> Here, HashSet<string> Coming)> HereAsync(
        Source source,
        Dictionary<string, Form> forms,
        Instant from,
        CancellationToken stop
    )
    {
        var ids = forms.Values.Select(f => f.Id).ToList();
        // In this order: what is fetched in between is in both.
        var coming = await db
            .SourceNotices.Where(n => n.SourceId == source.Id && n.Status == NoticeStatus.Due)
            .Select(n => n.ExternalId)
            .ToListAsync(stop);
        var here = await db
            .Submissions.Where(s =>
                ids.Contains(s.FormId) && s.OwnId != null && s.ReceivedAt >= from - Duration.FromHours(1)
            )
            .Select(s => new
            {
                s.FormId,
                s.OwnId,
                Recovered = s.Envelope != null && s.Envelope.Contains("\"recovered\""),
            })
            .ToListAsync(stop);
        return (
            here.GroupBy(h => (h.FormId, h.OwnId!)).ToDictionary(g => g.Key, g => g.Any(h => h.Recovered)),
            coming.ToHashSet(StringComparer.Ordinal)
        );
    }

    private async Task<Stored?> FetchAsync(
        Source source,
        SourceKind kind,
        NetworkAccess access,
        ListedSubmission one,
        CancellationToken stop
    )
    {
        if ((await directory.SourceAsync(source.Id, stop))?.Forms.TryGetValue(one.FormId, out var address) != true)
            return null;
        try
        {
            var raw = one.Raw ?? (await ((INotifyingNetwork)kind).FetchAsync(access, one.Id, stop)).Raw;
            return await intake.StoreAsync(address!, raw, "recovered", null, stop);
        }
        catch (NetworkTroubleException)
        {
            return null;
        }
    }
}

/// <summary>Compares networks' own lists with what is here, every five minutes.</summary>
public sealed class CompareLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<CompareLoop> log
) : EngineLoop(signals.Comparisons, scopes, time, log)
{
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var kinds = services.GetRequiredService<SourceKinds>();
        var listing = kinds.All.Where(k => k is IListing).Select(k => k.Card.Kind).ToArray();
        var now = time.Now();
        await db.Database.ExecuteSqlAsync(
            $"update sources set compare_due_at = {now} where compare_due_at is null and kind = any({listing}) and (connection_id is not null or daily_file is not null)",
            stop
        );
        var source = (
            await db
                .Sources.FromSql(
                    $"""
                    update sources set compare_due_at = {now + NetworkReconciler.Every}
                    where id = (select id from sources where compare_due_at <= {now} order by compare_due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .AsNoTracking()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (source is null)
            return (false, await db.Sources.MinAsync(s => s.CompareDueAt, stop));
        if (!NetworkReconciler.Can(kinds.Of(source.Kind), source))
            return (true, null);
        try
        {
            await services
                .GetRequiredService<NetworkReconciler>()
                .RunAsync(source, NetworkReconciler.DaysSince(source.ComparedAt, now), stop);
        }
        catch (NetworkTroubleException e)
        {
            await db
                .Sources.Where(s => s.Id == source.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(x => x.CompareFault, $"{source.Name} {e.Message}"), stop);
        }

        return (true, null);
    }
}

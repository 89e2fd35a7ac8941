using LitFuse.Core.Arrivals;
using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>
/// Looks at what came from a form lately: which fields were filled, what changed about them, whether it is silent.
/// </summary>
public sealed class SampleEvaluator(AppDb db, SourceKinds kinds, TimeProvider time)
{
    private const int MostArrivals = 20_000;
    private static readonly Duration Relearn = Duration.FromSeconds(10),
        LearntFor = Duration.FromHours(1);

    /// <summary>
    /// When the latest submission of each form came, and what is kept of it made where there is nothing yet: with one
    /// question each, however many forms.
    /// </summary>
    internal async Task<IReadOnlyDictionary<Guid, Instant>> LatestAsync(
        IReadOnlyCollection<Guid> forms,
        CancellationToken stop
    )
    {
        var ids = forms.ToArray();
        await db.Database.ExecuteSqlAsync(
            $"insert into form_watches (form_id, client_id) select id, client_id from forms f where id = any({ids}) and not exists (select 1 from form_watches w where w.form_id = f.id) on conflict do nothing",
            stop
        );
        var rows = await db
            .Database.SqlQuery<LatestRow>(
                $"select f.id as form_id, s.at from unnest({ids}) f(id) cross join lateral (select max(received_at) as at from submissions where form_id = f.id and status <> 'received' and not quiet) s where s.at is not null"
            )
            .ToListAsync(stop);
        return rows.ToDictionary(r => r.FormId, r => r.At);
    }

    /// <summary>
    /// Looks, and keeps what was found. What has not changed since it was looked at is not read again.
    /// </summary>
    /// <param name="stored">The form.</param>
    /// <param name="latest">When its latest submission came.</param>
    /// <param name="lines">What is kept in memory.</param>
    /// <param name="stop">Cancels.</param>
    internal async Task<FormWatch> LookAsync(
        StoredForm stored,
        Instant? latest,
        ClientLines lines,
        CancellationToken stop
    )
    {
        var (form, source, map, known) = stored;
        var watch = known ?? await db.FormWatches.AsNoTracking().SingleAsync(w => w.FormId == form.Id, stop);
        if (latest == watch.SampledTo && watch.LookedVersion == map?.Version && watch.LookedFields == FieldsMark(form))
            return await SilentAsync(watch, form, latest, lines, stop);
        var country = await db.Clients.Where(c => c.Id == form.ClientId).Select(c => c.Country).SingleAsync(stop);
        IReadOnlyList<LeadField> own = (
            await db.LeadFields.AsNoTracking().Where(f => f.ClientId == form.ClientId).ToListAsync(stop)
        ).ConvertAll(f => f.AsField());
        var samples = await SamplesAsync(form, kinds.Of(source.Kind), stop);
        var (drift, filled) = (watch.Drift, watch.Filled);
        if (map is not null)
        {
            drift = DriftFinder.Find(
                new(
                    form.Fields,
                    kinds.Of(source.Kind) is INetwork,
                    map.Map,
                    own,
                    country,
                    watch.Accepted.ToHashSet(StringComparer.Ordinal)
                ),
                samples,
                watch.Drift
            );
            filled = FilledOf(map, CompiledMap.From(map.Map, country, own), samples);
        }

        (watch.SampledTo, watch.LookedVersion, watch.LookedFields) = (latest, map?.Version, FieldsMark(form));
        var other = !drift.SequenceEqual(watch.Drift);
        (watch.Drift, watch.Filled) = (drift, filled);
        await db
            .FormWatches.Where(w => w.FormId == form.Id)
            .ExecuteUpdateAsync(
                w =>
                    w.SetProperty(x => x.SampledTo, watch.SampledTo)
                        .SetProperty(x => x.LookedVersion, watch.LookedVersion)
                        .SetProperty(x => x.LookedFields, watch.LookedFields)
                        .SetProperty(x => x.Drift, watch.Drift)
                        .SetProperty(x => x.Filled, watch.Filled),
                stop
            );
        if (other)
        {
            // A change that cuts nothing is told as well.
            db.NoteChange(form.ClientId, ChangeKind.Line, form.Id);
            await db.SaveAndNotifyAsync(stop);
        }

        return await SilentAsync(watch, form, latest, lines, stop);
    }

    /// <summary>The last submissions of a form, read, newest first.</summary>
    internal async Task<IReadOnlyList<DriftSample>> SamplesAsync(Form form, SourceKind kind, CancellationToken stop)
    {
        // Tests are made up from what the form is known to ask: they would hide that it asks something else.
        var came = await db
            .Submissions.AsNoTracking()
            .Where(s =>
                s.FormId == form.Id
                && s.Status != SubmissionStatus.Received
                && s.Status != SubmissionStatus.Unreadable
                && !s.Test
                && !s.Quiet
            )
            .OrderByDescending(s => s.ReceivedAt)
            .Take(DriftFinder.Looks)
            .Select(s => new
            {
                s.ReceivedAt,
                s.ContentType,
                s.Raw,
            })
            .ToListAsync(stop);
        var samples = new List<DriftSample>(came.Count);
        foreach (var one in came)
        {
            var payload = await kind.ReadAsync(form.Picks, one.ContentType, one.Raw);
            if (payload.Unreadable is null)
                samples.Add(
                    new(
                        one.ReceivedAt,
                        payload
                            .Answers.GroupBy(a => a.Field, StringComparer.Ordinal)
                            .ToDictionary(g => g.Key, g => g.First().Value, StringComparer.Ordinal)
                    )
                );
        }

        return samples;
    }

    // What came before the map was confirmed says something of a field only where it brought it: a field that has just
    // been given another name is not empty in what came under the old one.
    private static Dictionary<string, Filled> FilledOf(
        FormMap confirmed,
        CompiledMap map,
        IReadOnlyList<DriftSample> samples
    )
    {
        var sources = confirmed
            .Map.Rows.Where(r => r.LeadField is not null)
            .GroupBy(r => r.LeadField!, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.SelectMany(r => r.Fields()).ToList(), StringComparer.Ordinal);
        var filled = sources.Keys.ToDictionary(f => f, _ => new Filled(0, 0), StringComparer.Ordinal);
        foreach (var sample in samples)
        {
            var lead = map.Read([.. sample.Answers.Select(a => new Answer(a.Key, a.Value))]);
            foreach (var (field, from) in sources)
            {
                if (!(sample.At >= confirmed.ConfirmedAt) && !from.Exists(sample.Answers.ContainsKey))
                    continue;
                var (times, of, lately) = filled[field];
                // The newest comes first.
                filled[field] = HowItCame.Has(lead, field)
                    ? new(times + 1, of + 1, lately)
                    : new(times, of + 1, times == 0 ? lately + 1 : lately);
            }
        }

        return filled;
    }

    private async Task<FormWatch> SilentAsync(
        FormWatch watch,
        Form form,
        Instant? latest,
        ClientLines lines,
        CancellationToken stop
    )
    {
        var now = time.Now();
        if (!lines.Habits.TryGetValue(form.Id, out var known) || Stale(known, watch, latest, now))
            lines.Habits[form.Id] = known = (latest, now, await LearnAsync(form, now, stop));
        var (silent, habit) = known.Habit.Look(now) switch
        {
            SilenceAnswer.Silent s => (s.Words, s.Words),
            SilenceAnswer.TooLittle l => (null, l.Words),
            SilenceAnswer.Usual u => ((string?)null, u.Words),
            _ => (null, ""),
        };
        if (silent == watch.Silent && habit == watch.Habit)
            return watch;
        (watch.Silent, watch.Habit) = (silent, habit);
        await db
            .FormWatches.Where(w => w.FormId == form.Id)
            .ExecuteUpdateAsync(w => w.SetProperty(x => x.Silent, silent).SetProperty(x => x.Habit, habit), stop);
        return watch;
    }

    // Under load what was learnt a moment ago will do; a lead that ends a silence is seen at once.
    private static bool Stale(
        (Instant? Latest, Instant LearntAt, ArrivalHabit Habit) known,
        FormWatch watch,
        Instant? latest,
        Instant now
    ) =>
        known.Latest != latest
            ? watch.Silent is not null || now - known.LearntAt > Relearn
            : latest is not null && now - known.LearntAt > LearntFor;

    private async Task<ArrivalHabit> LearnAsync(Form form, Instant now, CancellationToken stop)
    {
        var zone = DateTimeZoneProviders.Tzdb[
            await db.Clients.Where(c => c.Id == form.ClientId).Select(c => c.Zone).SingleAsync(stop)
        ];
        var since = now - ArrivalHabit.Back;
        var came = await db
            .Submissions.Where(s =>
                s.FormId == form.Id
                && s.Status != SubmissionStatus.Received
                && !s.Test
                && !s.Quiet
                && s.ReceivedAt > since
            )
            .OrderByDescending(s => s.ReceivedAt)
            .Take(MostArrivals)
            .Select(s => s.SentAt != null && s.SentAt < s.ReceivedAt ? s.SentAt.Value : s.ReceivedAt)
            .ToListAsync(stop);
        var quiet = await db
            .FormQuietTimes.Where(q => q.FormId == form.Id && (q.ToAt == null || q.ToAt > since))
            .Select(q => new QuietTime(q.FromAt, q.ToAt))
            .ToListAsync(stop);
        return ArrivalHabit.Learn(came, quiet, zone, now);
    }

    private sealed record LatestRow(Guid FormId, Instant At);

    // Changes with whatever the form is known to ask.
    private static int FieldsMark(Form form) =>
        unchecked((int)Mark.Of(form.Fields.SelectMany(f => f.Choices.Prepend(f.Label).Prepend(f.Name))));
}

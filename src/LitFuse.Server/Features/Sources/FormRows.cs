using LitFuse.Core.Figures;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A form as a row.</summary>
/// <param name="Map">Where its field map stands; <c>null</c> when there is none.</param>
/// <param name="Days">Submissions of the last fourteen days (UTC), today last.</param>
/// <param name="LateSeconds">How long its submissions were under way before we had them: the median of the last twenty that told; <c>null</c> where the sender tells no time.</param>
/// <param name="EmptyVisits">Visits of the last seven days that should have carried answers and carried none.</param>
/// <param name="Built">It is built here.</param>
public sealed record FormRow(
    Guid Id,
    Guid ClientId,
    string Client,
    Guid SourceId,
    string Source,
    string SourceKind,
    string Key,
    string Name,
    FormState State,
    string? Place,
    string? AdState,
    Instant? ArchivedAt,
    bool Built,
    bool Published,
    MapStatus? Map,
    int Submissions,
    int Waiting,
    int Unreadable,
    Instant? LastAt,
    IReadOnlyList<int> Days,
    double? LateSeconds,
    int EmptyVisits
);

/// <summary>Reads forms as rows.</summary>
public static class FormRows
{
    private const int DaysShown = 14;
    private const int LateOf = 20;

    /// <summary>Rows for these forms, by name.</summary>
    public static async Task<IReadOnlyList<FormRow>> RowsAsync(
        this AppDb db,
        IQueryable<Form> forms,
        Instant now,
        CancellationToken stop
    )
    {
        var found = await forms
            .AsNoTracking()
            .OrderBy(f => f.Name)
            .Select(f => new
            {
                Form = f,
                Client = db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
                Source = db.Sources.Where(s => s.Id == f.SourceId).Select(s => new { s.Name, s.Kind }).First(),
                Map = db
                    .FormMaps.Where(m => m.FormId == f.Id)
                    .OrderByDescending(m => m.Version)
                    .Select(m => (MapStatus?)m.Status)
                    .FirstOrDefault(),
            })
            .ToListAsync(stop);
        var ids = found.ConvertAll(f => f.Form.Id);
        var counts = await db
            .Submissions.Where(s => ids.Contains(s.FormId))
            .GroupBy(s => new { s.FormId, s.Status })
            .Select(g => new
            {
                g.Key.FormId,
                g.Key.Status,
                Count = g.Count(),
                Last = g.Max(s => s.ReceivedAt),
            })
            .ToListAsync(stop);
        var today = now.InUtc().Date;
        var since = today.PlusDays(1 - DaysShown).AtMidnight().InUtc().ToInstant();
        var days = (
            await db
                .Submissions.Where(s =>
                    ids.Contains(s.FormId) && s.Status != SubmissionStatus.Received && s.ReceivedAt >= since
                )
                .Select(s => new { s.FormId, s.ReceivedAt })
                .ToListAsync(stop)
        ).ToLookup(s => s.FormId, s => s.ReceivedAt);
        var week = new DateOnly(today.Year, today.Month, today.Day).AddDays(-7);
        var empty = await db
            .FormDays.Where(d => ids.Contains(d.FormId) && d.Day > week)
            .GroupBy(d => d.FormId)
            .Select(g => new { g.Key, Sum = g.Sum(d => d.EmptyVisits) })
            .ToDictionaryAsync(g => g.Key, g => g.Sum, stop);
        var late = await LateAsync(db, ids, stop);
        return found.ConvertAll(f =>
        {
            var own = counts.Where(c => c.FormId == f.Form.Id).ToList();
            int Of(SubmissionStatus status) => own.Where(c => c.Status == status).Sum(c => c.Count);
            return new FormRow(
                f.Form.Id,
                f.Form.ClientId,
                f.Client,
                f.Form.SourceId,
                f.Source.Name,
                f.Source.Kind,
                f.Form.Key,
                f.Form.Name,
                f.Form.State,
                f.Form.Place?.Name,
                f.Form.AdState,
                f.Form.ArchivedAt,
                f.Form.Draft is not null,
                f.Form.Design is not null,
                f.Map,
                own.Sum(c => c.Count),
                Of(SubmissionStatus.Waiting),
                Of(SubmissionStatus.Unreadable) + Of(SubmissionStatus.Stuck),
                own.Count == 0 ? null : own.Max(c => c.Last),
                ByDay(days[f.Form.Id], today),
                late.TryGetValue(f.Form.Id, out var seconds) ? seconds : null,
                empty.GetValueOrDefault(f.Form.Id)
            );
        });
    }

    private static int[] ByDay(IEnumerable<Instant> times, LocalDate today)
    {
        var counts = new int[DaysShown];
        foreach (var time in times)
        {
            var ago = Period.DaysBetween(time.InUtc().Date, today);
            if (ago is >= 0 and < DaysShown)
                counts[DaysShown - 1 - ago]++;
        }

        return counts;
    }

    private static async Task<Dictionary<Guid, double>> LateAsync(AppDb db, List<Guid> ids, CancellationToken stop)
    {
        var late = new Dictionary<Guid, double>();
        foreach (var id in ids)
        {
            var last = await db
                .Submissions.Where(s => s.FormId == id && s.Status != SubmissionStatus.Received && s.SentAt != null)
                .OrderByDescending(s => s.ReceivedAt)
                .Take(LateOf)
                .Select(s => new { s.ReceivedAt, s.SentAt })
                .ToListAsync(stop);
            if (last.Count > 0)
                late[id] = Math.Max(
                    0,
                    Percentiles.At([.. last.Select(l => (l.ReceivedAt - l.SentAt!.Value).TotalSeconds)], 0.5)!.Value
                );
        }

        return late;
    }
}

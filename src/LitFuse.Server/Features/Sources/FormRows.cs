using LitFuse.Core.Figures;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A form as a row.</summary>
/// <param name="Map">Where its field map stands; <c>null</c> when there is none.</param>
/// <param name="Days">Submissions of the last fourteen days (UTC), today last.</param>
/// <param name="LateSeconds">How long its submissions were under way before we had them: the median of the last twenty
/// that told; <c>null</c> where the sender tells no time.</param>
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
            .Select(f => new NamedForm(
                f,
                db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
                db.Sources.Where(s => s.Id == f.SourceId).Select(s => s.Name).First(),
                db.Sources.Where(s => s.Id == f.SourceId).Select(s => s.Kind).First(),
                db.FormMaps.Where(m => m.FormId == f.Id)
                    .OrderByDescending(m => m.Version)
                    .Select(m => (MapStatus?)m.Status)
                    .FirstOrDefault()
            ))
            .ToListAsync(stop);
        var ids = found.ConvertAll(f => f.Form.Id);
        var counts = await db
            .Submissions.Where(s => ids.Contains(s.FormId))
            .GroupBy(s => new { s.FormId, s.Status })
            .Select(g => new CountOf(g.Key.FormId, g.Key.Status, g.Count(), g.Max(s => s.ReceivedAt)))
            .ToListAsync(stop);
        var today = now.InUtc().Date;
        var since = today.PlusDays(1 - DaysShown).AtMidnight().InUtc().ToInstant();
        var days = (
            await db
                .Submissions.Where(s => ids.Contains(s.FormId) && s.Status != SubmissionStatus.Received)
                .Where(s => s.ReceivedAt >= since)
                .Select(s => new { s.FormId, s.ReceivedAt })
                .ToListAsync(stop)
        ).ToLookup(s => s.FormId, s => s.ReceivedAt);
        var empty = await EmptyVisitsAsync(db, ids, today, stop);
        var late = await LateAsync(db, ids, stop);
        return found.ConvertAll(f =>
            RowOf(
                f,
                [.. counts.Where(c => c.FormId == f.Form.Id)],
                ByDay(days[f.Form.Id], today),
                late.TryGetValue(f.Form.Id, out var seconds) ? seconds : null,
                empty.GetValueOrDefault(f.Form.Id)
            )
        );
    }

    private sealed record NamedForm(Form Form, string Client, string Source, string SourceKind, MapStatus? Map);

    private sealed record CountOf(Guid FormId, SubmissionStatus Status, int Count, Instant Last);

    private static FormRow RowOf(NamedForm of, IReadOnlyList<CountOf> own, int[] byDay, double? late, int empty)
    {
        int Of(SubmissionStatus status) => own.Where(c => c.Status == status).Sum(c => c.Count);
        return new(
            of.Form.Id,
            of.Form.ClientId,
            of.Client,
            of.Form.SourceId,
            of.Source,
            of.SourceKind,
            of.Form.Key,
            of.Form.Name,
            of.Form.State,
            of.Form.Place?.Name,
            of.Form.AdState,
            of.Form.ArchivedAt,
            of.Form.Draft is not null,
            of.Form.Design is not null,
            of.Map,
            own.Sum(c => c.Count),
            Of(SubmissionStatus.Waiting),
            Of(SubmissionStatus.Unreadable) + Of(SubmissionStatus.Stuck),
            own.Count == 0 ? null : own.Max(c => c.Last),
            byDay,
            late,
            empty
        );
    }

    // People who were sent through without their answers in the last week.
    private static Task<Dictionary<Guid, int>> EmptyVisitsAsync(
        AppDb db,
        List<Guid> forms,
        LocalDate today,
        CancellationToken stop
    )
    {
        var week = new DateOnly(today.Year, today.Month, today.Day).AddDays(-7);
        return db
            .FormDays.Where(d => forms.Contains(d.FormId) && d.Day > week)
            .GroupBy(d => d.FormId)
            .Select(g => new { g.Key, Sum = g.Sum(d => d.EmptyVisits) })
            .ToDictionaryAsync(g => g.Key, g => g.Sum, stop);
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

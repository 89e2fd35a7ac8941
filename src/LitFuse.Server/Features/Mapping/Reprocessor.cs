using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Mapping;

/// <summary>What a submission gives its lead through another map.</summary>
public sealed record Reread(
    Submission Submission,
    Lead Lead,
    IReadOnlyDictionary<string, string> Values,
    IReadOnlyList<FieldChange> Changes,
    MappedLead Mapped
);

/// <summary>
/// Puts earlier submissions of a form through another map. The preview and the run are the same reading; neither lights
/// anything.
/// </summary>
public sealed class Reprocessor(AppDb db, ClientConfigCache setups, SubmissionReader reader, TimeProvider time)
{
    private const int Chunk = 200;
    private readonly Dictionary<int, CompiledMap> byVersion = [];

    /// <summary>
    /// Reads the next submissions after <paramref name="cursor"/> through <paramref name="map"/>; later ones see what
    /// earlier ones change.
    /// </summary>
    public async Task<(IReadOnlyList<Reread> Read, Guid? Cursor)> ReadAsync(
        Guid formId,
        CompiledMap map,
        Guid cursor,
        int most,
        CancellationToken stop
    )
    {
        var form = await db.Forms.AsNoTracking().SingleAsync(f => f.Id == formId, stop);
        var setup = await setups.ReadAsync(db, form.ClientId, stop);
        var rows = await db
            .Submissions.Where(s =>
                s.FormId == formId && s.Status == SubmissionStatus.Processed && s.LeadId != null && s.Id > cursor
            )
            .OrderBy(s => s.Id)
            .Take(most)
            .ToListAsync(stop);
        if (rows.Count == 0)
            return ([], null);
        var ids = rows.Select(r => r.LeadId!.Value).Distinct().ToList();
        var leads = await db.Leads.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id, stop);
        await ReadVersionsAsync(formId, setup, rows, stop);
        var read = new List<Reread>();
        var standing = new Dictionary<Guid, IReadOnlyDictionary<string, string>>();
        foreach (var row in rows)
        {
            if (!leads.TryGetValue(row.LeadId!.Value, out var lead))
                continue;
            var payload = await reader.ReadAsync(setup, row);
            if (payload.Unreadable is not null)
                continue;
            var says = map.Read(payload.Answers);
            var said = Before(row, payload);
            var (values, changes) = Refill.Again(
                standing.GetValueOrDefault(lead.Id) ?? lead.Fields,
                said,
                says.Values,
                setup.RuleOf
            );
            standing[lead.Id] = values;
            if (changes.Count > 0 || says.Keys().Count > 0)
                read.Add(new(row, lead, values, changes, says));
        }

        return (read, rows[^1].Id);
    }

    /// <summary>Does the next chunk of a reprocessing, in one transaction.</summary>
    public async Task ChunkAsync(Reprocessing job, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        // Nobody makes or changes leads of this client meanwhile: it is what imports do.
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({job.ClientId.ToString("N")}, 1))",
            stop
        );
        var held = await db.Reprocessings.SingleAsync(r => r.Id == job.Id, stop);
        if (held.Status != ReprocessingStatus.Running)
            return;
        var setup = await setups.ReadAsync(db, job.ClientId, stop);
        var map = setup.Maps[job.FormId];
        var now = time.Now();
        var (read, cursor) = await ReadAsync(job.FormId, map.Compiled, held.Cursor, Chunk, stop);
        var known = await db.KnownAsync(
            [.. read.SelectMany(r => r.Mapped.Keys().Select(k => (job.ClientId, k))).Distinct()],
            stop
        );
        var owners = known.Select(k => (k.Contact.Kind, k.Contact.Value, k.Contact.Test)).ToHashSet();
        foreach (var one in read)
        {
            one.Submission.MapVersion = map.Version;
            foreach (var key in one.Mapped.Keys().Where(k => owners.Add((k.Kind, k.Value, one.Lead.Test))))
                db.LeadContacts.Add(
                    new()
                    {
                        ClientId = job.ClientId,
                        Kind = key.Kind,
                        Value = key.Value,
                        LeadId = one.Lead.Id,
                        Test = one.Lead.Test,
                    }
                );
            if (one.Changes.Count == 0)
                continue;
            LeadFiller.Refill(one.Lead, one.Values, setup.Client.Country, setup.Client.Zone);
            var words = FieldChangeWords.Of(one.Changes, setup.Fields) ?? "its tracking values";
            db.AddStory(
                one.Lead,
                StoryKind.Reprocessed,
                $"through version {map.Version} of the map: {words}",
                now,
                by: job.MadeBy,
                submissionId: one.Submission.Id
            );
        }

        held.Changed += read.Where(r => r.Changes.Any(c => c.Taken)).Select(r => r.Lead.Id).Distinct().Count();
        held.Cursor = cursor ?? held.Cursor;
        held.Done = await db
            .Submissions.Where(s => s.FormId == job.FormId && s.Status == SubmissionStatus.Processed)
            .CountAsync(s => s.LeadId != null && s.Id <= held.Cursor, stop);
        if (cursor is null)
            (held.Status, held.EndedAt, held.Done) = (ReprocessingStatus.Done, now, held.Total);
        db.NoteChange(job.ClientId, ChangeKind.Form, job.FormId);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
    }

    // What it gave through the map that it was read through; before versions were noted, through the first.
    private IReadOnlyDictionary<string, string> Before(Submission row, Payload payload) =>
        byVersion.TryGetValue(row.MapVersion ?? 1, out var map)
            ? map.Read(payload.Answers).Values
            : new Dictionary<string, string>(StringComparer.Ordinal);

    private async Task ReadVersionsAsync(Guid formId, ClientConfig setup, List<Submission> rows, CancellationToken stop)
    {
        var wanted = rows.Select(r => r.MapVersion ?? 1).Distinct().Where(v => !byVersion.ContainsKey(v)).ToList();
        if (wanted.Count == 0)
            return;
        foreach (
            var old in await db
                .FormMaps.AsNoTracking()
                .Where(m => m.FormId == formId && wanted.Contains(m.Version))
                .ToListAsync(stop)
        )
            byVersion[old.Version] = CompiledMap.From(old.Map, setup.Client.Country, [.. setup.Fields.Values]);
    }
}

/// <summary>Carries reprocessings, chunk by chunk.</summary>
public sealed class ReprocessLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<ReprocessLoop> log
) : EngineLoop(signals.Reprocessings, scopes, time, log)
{
    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var job = await db
            .Reprocessings.AsNoTracking()
            .Where(r => r.Status == ReprocessingStatus.Running)
            .OrderBy(r => r.MadeAt)
            .FirstOrDefaultAsync(stop);
        if (job is null)
            return (false, null);
        await services.GetRequiredService<Reprocessor>().ChunkAsync(job, stop);
        return (true, null);
    }
}

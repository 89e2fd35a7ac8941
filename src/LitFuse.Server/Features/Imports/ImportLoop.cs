using System.Threading.Channels;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Clients;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Carries imports on, one at a time: whichever process holds the lease reads on where it was left.</summary>
public sealed class ImportLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<ImportLoop> log)
    : EngineLoop(signals.Imports, scopes, time, log)
{
    /// <summary>How long a lease is good for without being renewed; each chunk renews it.</summary>
    public static readonly Duration Lease = Duration.FromSeconds(30);

    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var import = (
            await db
                .Imports.FromSql(
                    $"""
                    update imports set leased_until = {now + Lease}
                    where id = (select id from imports where status in ('running', 'undoing') and (leased_until is null or leased_until < {now}) order by made_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .AsNoTracking()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (import is null)
            return (false, null);
        if (import.Status == ImportStatus.Undoing)
            await services.GetRequiredService<ImportUndo>().RunAsync(import, stop);
        else
            await services.GetRequiredService<ImportRun>().RunAsync(import, stop);
        signals.Submissions.Pulse();
        return (true, null);
    }
}

/// <summary>Reads an import's rows and writes them, chunk by chunk. Rows are read ahead while the last chunk is being written.</summary>
public sealed class ImportRun(
    AppDb db,
    IServiceScopeFactory scopes,
    SourceKinds kinds,
    SubmissionReader reader,
    TimeProvider time
)
{
    /// <summary>Rows in one transaction.</summary>
    public const int InOneChunk = 2000;

    // After so many chunks the search's index takes in what it has gathered.
    private const int Gathered = 12;

    private sealed record ReadChunk(IReadOnlyList<ImportRow> Rows, int RowsAfter, long BytesAfter);

    /// <summary>Runs it to its end, or until it is cancelled.</summary>
    public async Task RunAsync(Import import, CancellationToken stop)
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == import.ClientId, stop);
        var setup = await SetupAsync(db, kinds, import, stop);
        var who = import.MadeBy is null
            ? "picked up"
            : "imported by " + (await db.PeopleAsync([import.MadeBy], stop)).Values.FirstOrDefault();
        var chunks = Channel.CreateBounded<ReadChunk>(2);
        using var ending = CancellationTokenSource.CreateLinkedTokenSource(stop);
        var reading = Task.Run(() => ReadAsync(import, setup, chunks.Writer, ending.Token), CancellationToken.None);
        var (status, reason) = (ImportStatus.Done, (string?)null);
        var takingIn = Task.CompletedTask;
        try
        {
            var written = 0;
            var known = await KindsAsync(db, import.SourceId, stop);
            await foreach (var chunk in chunks.Reader.ReadAllAsync(stop))
            {
                if (!await WriteAsync(import, client, chunk, who, known, stop))
                    return;
                if (++written % Gathered != 0)
                    continue;
                await takingIn;
                takingIn = TakeInAsync(stop);
            }

            await takingIn;
            await TakeInAsync(stop);
        }
        catch (ImportFileException e)
        {
            (status, reason) = (ImportStatus.Failed, e.Message);
        }
        finally
        {
            await ending.CancelAsync();
            await Task.WhenAll(reading, takingIn);
        }

        var now = time.Now();
        await db
            .Imports.Where(i => i.Id == import.Id && i.Status == ImportStatus.Running)
            .ExecuteUpdateAsync(
                i =>
                    i.SetProperty(x => x.Status, status)
                        .SetProperty(x => x.Reason, reason)
                        .SetProperty(x => x.EndedAt, now),
                stop
            );
        db.Tell(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndTellAsync(stop);
    }

    private Task TakeInAsync(CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"select gin_clean_pending_list('ix_leads_search_text')", stop);

    /// <summary>What reading its rows needs.</summary>
    public static async Task<ImportSetup> SetupAsync(AppDb db, SourceKinds kinds, Import import, CancellationToken stop)
    {
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == import.SourceId, stop);
        IReadOnlyList<LeadField> fields = (
            await db.LeadFields.AsNoTracking().Where(f => f.ClientId == import.ClientId).ToListAsync(stop)
        ).ConvertAll(f => f.AsField());
        if (import.FormId is { } own)
            return new(
                import.Reading,
                kinds.Of(source.Kind),
                own,
                new Dictionary<string, Guid>(StringComparer.Ordinal),
                new Dictionary<Guid, CompiledMap>
                {
                    [own] = CompiledMap.From(ImportRows.MapOf(import.Reading), import.Reading.Country, fields),
                },
                fields
            );
        var forms = await db
            .Forms.AsNoTracking()
            .Where(f => f.SourceId == source.Id && f.ExternalId != null && f.State != FormState.Offered)
            .ToDictionaryAsync(f => f.ExternalId!, f => f.Id, stop);
        var ids = forms.Values.ToList();
        var maps = (
            await db
                .FormMaps.AsNoTracking()
                .Where(m => ids.Contains(m.FormId) && m.Status == MapStatus.Confirmed)
                .ToListAsync(stop)
        )
            .GroupBy(m => m.FormId)
            .ToDictionary(
                g => g.Key,
                g => CompiledMap.From(g.MaxBy(m => m.Version)!.Map, import.Reading.Country, fields)
            );
        return new(import.Reading, kinds.Of(source.Kind), null, forms, maps, fields);
    }

    private async Task ReadAsync(
        Import import,
        ImportSetup setup,
        ChannelWriter<ReadChunk> into,
        CancellationToken stop
    )
    {
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            await using var file = new ChunkStream(scope.ServiceProvider.GetRequiredService<AppDb>(), import.Id);
            var header = setup.Reading.HasHeader ? 1 : 0;
            var number = 0;
            foreach (var cells in ImportFile.Rows(file, setup.Reading).Skip(header).Chunk(InOneChunk))
            {
                var first = number;
                number += cells.Length;
                if (number <= import.RowsDone)
                    continue;
                var rows = new ImportRow[cells.Length];
                // Telephone numbers are what takes the time.
                Parallel.For(0, cells.Length, i =>
                    rows[i] = ImportRows
                        .ReadAsync(setup, first + i + 1 + header, cells[i])
                        .AsTask()
                        .GetAwaiter()
                        .GetResult()
                );
                await into.WriteAsync(new(rows, number, file.Done), stop);
            }

            into.Complete();
        }
        catch (OperationCanceledException)
        {
            into.TryComplete();
        }
        catch (Exception e)
        {
            into.TryComplete(
                e is ImportFileException
                    ? e
                    : new ImportFileException($"It cannot be read on: {e.GetBaseException().Message}")
            );
        }
    }

    // False when it is no longer to be carried on.
    private async Task<bool> WriteAsync(
        Import import,
        Client client,
        ReadChunk chunk,
        string who,
        SourceKindsOf known,
        CancellationToken stop
    )
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var own = scope.ServiceProvider.GetRequiredService<AppDb>();
        own.ChangeTracker.AutoDetectChangesEnabled = false;
        await using var transaction = await own.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        var run = new ImportChunkRun(own, known);
        await run.LockAsync(client.Id, stop);
        await run.ReadAsync(client.Id, chunk.Rows, stop);
        var counts = import.Lights
            ? await QueueAsync(own, import, chunk, run, now, stop)
            : await PutAsync(own, import, client, chunk, who, run, now, stop);
        var held = await own
            .Imports.Where(i => i.Id == import.Id && i.Status == ImportStatus.Running && i.RowsDone < chunk.RowsAfter)
            .ExecuteUpdateAsync(
                i =>
                    i.SetProperty(x => x.RowsDone, chunk.RowsAfter)
                        .SetProperty(x => x.BytesDone, chunk.BytesAfter)
                        .SetProperty(x => x.LeasedUntil, now + ImportLoop.Lease)
                        .SetProperty(x => x.NewLeads, x => x.NewLeads + counts[RowOutcome.New])
                        .SetProperty(x => x.Updates, x => x.Updates + counts[RowOutcome.Update])
                        .SetProperty(x => x.Doubles, x => x.Doubles + counts[RowOutcome.Double])
                        .SetProperty(x => x.BadRows, x => x.BadRows + counts[RowOutcome.Bad]),
                stop
            );
        // Cancelled, or another process has carried it further: what this one decided goes with the transaction.
        if (held == 0)
            return false;
        own.Tell(client.Id, ChangeKind.Import, import.Id);
        own.ChangeTracker.DetectChanges();
        await own.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static async Task<Dictionary<RowOutcome, int>> PutAsync(
        AppDb own,
        Import import,
        Client client,
        ReadChunk chunk,
        string who,
        ImportChunkRun run,
        Instant now,
        CancellationToken stop
    )
    {
        var rules = await own
            .LeadFields.AsNoTracking()
            .Where(f => f.ClientId == client.Id && f.Rule != FillRule.NewestWins)
            .ToDictionaryAsync(f => f.Key, f => f.Rule, stop);
        var writer = new ImportWriter(
            own,
            import,
            client,
            rules,
            await run.UnwantedAsync(client.Id, chunk.Rows, stop),
            who,
            now
        );
        foreach (var row in chunk.Rows)
        {
            var (outcome, lead, match) = await run.DecideAsync(row, () => writer.Make(row));
            writer.Take(row, outcome, lead, match);
        }

        await writer.WriteAsync(stop);
        return writer.Counts;
    }

    // Rows that light fuses go the way of every submission: they are put before the engine, which does the rest.
    private static async Task<Dictionary<RowOutcome, int>> QueueAsync(
        AppDb own,
        Import import,
        ReadChunk chunk,
        ImportChunkRun run,
        Instant now,
        CancellationToken stop
    )
    {
        var counts = Enum.GetValues<RowOutcome>().ToDictionary(o => o, _ => 0);
        var added = new List<object>();
        var via = new Envelope("import").Write();
        foreach (var row in chunk.Rows)
        {
            var (outcome, _, _) = await run.DecideAsync(row, static () => new Lead { Id = Guid.CreateVersion7() });
            counts[outcome]++;
            if (outcome == RowOutcome.Bad)
                added.Add(
                    new ImportBadRow
                    {
                        ImportId = import.Id,
                        ClientId = import.ClientId,
                        Row = row.Number,
                        Reason = row.Fault!,
                        Cells = row.Cells,
                    }
                );
            if (outcome is RowOutcome.Bad or RowOutcome.Double)
                continue;
            added.Add(
                new Submission
                {
                    Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
                    ClientId = import.ClientId,
                    FormId = row.FormId!.Value,
                    ReceivedAt = now,
                    ContentType = "application/json",
                    Raw = row.Raw,
                    OwnId = row.Payload.OwnId,
                    DedupeKey = row.DedupeKey,
                    Status = SubmissionStatus.Received,
                    DueAt = now,
                    SentAt = row.Payload.SentAt,
                    ImportId = import.Id,
                    Envelope = via,
                }
            );
        }

        await BulkCopy.WriteAsync(
            own,
            added.ToLookup(a => a.GetType()),
            (Npgsql.NpgsqlConnection)own.Database.GetDbConnection(),
            stop
        );
        await own.WakeAsync("submissions", stop);
        return counts;
    }

    /// <summary>Reads stored submissions of this source's forms.</summary>
    internal async Task<SourceKindsOf> KindsAsync(AppDb own, Guid sourceId, CancellationToken stop)
    {
        var kind = await own.Sources.Where(s => s.Id == sourceId).Select(s => s.Kind).SingleAsync(stop);
        return new(
            reader,
            await own
                .Forms.AsNoTracking()
                .Where(f => f.SourceId == sourceId)
                .ToDictionaryAsync(f => f.Id, f => (kind, f.Picks), stop)
        );
    }
}

/// <summary>Takes out again what an import made.</summary>
public sealed class ImportUndo(AppDb db, IServiceScopeFactory scopes, TimeProvider time)
{
    private const int InOneGo = 1000;

    /// <summary>
    /// Leads that it made and that nobody has touched or heard from since are deleted, with their submissions; leads that it
    /// changed get back what they held, where nothing newer has come. The rest stays, and is told.
    /// </summary>
    public async Task RunAsync(Import import, CancellationToken stop)
    {
        while (await GiveBackAsync(import, stop))
        {
            // Until nothing is left to give back.
        }

        while (await DeleteAsync(import, stop))
        {
            // Until none is left that may go.
        }

        await db.Database.ExecuteSqlAsync(
            $"update story set submission_id = null where submission_id in (select id from submissions where import_id = {import.Id})",
            stop
        );
        await db
            .Submissions.Where(s =>
                s.ImportId == import.Id
                && s.Status != SubmissionStatus.Received
                && !db.Leads.Any(l => l.Id == s.LeadId && l.ImportId == import.Id)
            )
            .ExecuteDeleteAsync(stop);
        var left = await db.Leads.CountAsync(l => l.ImportId == import.Id, stop);
        var now = time.Now();
        await db
            .Imports.Where(i => i.Id == import.Id)
            .ExecuteUpdateAsync(
                i =>
                    i.SetProperty(x => x.Status, ImportStatus.Undone)
                        .SetProperty(x => x.EndedAt, now)
                        .SetProperty(
                            x => x.Reason,
                            left == 0
                                ? null
                                : $"{left} leads stay: somebody has reached out to them, or they have asked again since."
                        ),
                stop
            );
        db.Tell(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndTellAsync(stop);
    }

    private async Task<bool> GiveBackAsync(Import import, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var own = scope.ServiceProvider.GetRequiredService<AppDb>();
        var changes = await own.ImportChanges.Where(c => c.ImportId == import.Id).Take(InOneGo).ToListAsync(stop);
        if (changes.Count == 0)
            return false;
        var client = await own.Clients.AsNoTracking().SingleAsync(c => c.Id == import.ClientId, stop);
        var ids = changes.ConvertAll(c => c.LeadId);
        var leads = await own.Leads.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id, stop);
        var newer = (
            await own
                .Submissions.Where(s =>
                    s.LeadId != null
                    && ids.Contains(s.LeadId.Value)
                    && s.ImportId != import.Id
                    && s.ReceivedAt > import.StartedAt
                )
                .Select(s => s.LeadId!.Value)
                .Distinct()
                .ToListAsync(stop)
        ).ToHashSet();
        var now = time.Now();
        foreach (var change in changes)
        {
            if (leads.TryGetValue(change.LeadId, out var lead) && !newer.Contains(lead.Id))
            {
                var fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
                foreach (var (key, value) in change.Before)
                {
                    if (value.Length == 0)
                        fields.Remove(key);
                    else
                        fields[key] = value;
                }

                LeadFiller.Fill(
                    lead,
                    fields,
                    Core.Identity.PhoneReader.Read(fields.GetValueOrDefault("phone"), client.Country).Phone,
                    client.Zone
                );
                own.Story.Add(
                    new()
                    {
                        ClientId = client.Id,
                        LeadId = lead.Id,
                        Kind = StoryKind.Imported,
                        At = now,
                        KnownAt = now,
                        Words = $"the import of {import.FileName} was undone; the lead holds what it held before",
                    }
                );
                own.Tell(client.Id, ChangeKind.Lead, lead.Id);
            }

            own.ImportChanges.Remove(change);
        }

        await Renew(own, import, now, stop);
        await own.SaveAndTellAsync(stop);
        return true;
    }

    private async Task<bool> DeleteAsync(Import import, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var own = scope.ServiceProvider.GetRequiredService<AppDb>();
        await using var transaction = await own.Database.BeginTransactionAsync(stop);
        var ids = await own
            .Leads.Where(l =>
                l.ImportId == import.Id
                && l.FirstTouchAt == null
                && l.TakenBy == null
                && !own.Submissions.Any(s => s.LeadId == l.Id && s.ImportId != import.Id)
                && !own.Deliveries.Any(d => d.LeadId == l.Id)
            )
            .Select(l => l.Id)
            .Take(InOneGo)
            .ToListAsync(stop);
        if (ids.Count == 0)
            return false;
        await own.Story.Where(s => ids.Contains(s.LeadId)).ExecuteDeleteAsync(stop);
        await own.Visitors.Where(v => ids.Contains(v.LeadId)).ExecuteDeleteAsync(stop);
        await own.Burns.Where(b => ids.Contains(b.LeadId)).ExecuteDeleteAsync(stop);
        await own.LeadContacts.Where(c => ids.Contains(c.LeadId)).ExecuteDeleteAsync(stop);
        await own.Submissions.Where(s => s.LeadId != null && ids.Contains(s.LeadId.Value)).ExecuteDeleteAsync(stop);
        await own.Leads.Where(l => ids.Contains(l.Id)).ExecuteDeleteAsync(stop);
        await Renew(own, import, time.Now(), stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static Task<int> Renew(AppDb own, Import import, Instant now, CancellationToken stop) =>
        own
            .Imports.Where(i => i.Id == import.Id)
            .ExecuteUpdateAsync(i => i.SetProperty(x => x.LeasedUntil, now + ImportLoop.Lease), stop);
}

using System.Threading.Channels;
using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>
/// Reads an import's rows and writes them, chunk by chunk. Rows are read ahead while the last chunk is being written.
/// </summary>
public sealed class ImportProcessor(
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
        db.NoteChange(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndNotifyAsync(stop);
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
        var run = new ImportChunkProcessor(own, known);
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
        own.NoteChange(client.Id, ChangeKind.Import, import.Id);
        own.ChangeTracker.DetectChanges();
        await own.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static async Task<Dictionary<RowOutcome, int>> PutAsync(
        AppDb own,
        Import import,
        Client client,
        ReadChunk chunk,
        string who,
        ImportChunkProcessor run,
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
        ImportChunkProcessor run,
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

using System.Buffers;
using LitFuse.Core.Files;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Intake;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Keeps uploaded and picked-up files.</summary>
public sealed class ImportKeeping(AppDb db, Signals signals, TimeProvider time)
{
    private const int ChunkBytes = 1024 * 1024;

    /// <summary>Keeps a file and looks at how it is written. Saves.</summary>
    /// <param name="sourceId">The source whose forms its rows belong to; <c>null</c> for a file that gets a form of its
    /// own.</param>
    /// <param name="pickedUp">What keeps the same file from being picked up twice.</param>
    /// <exception cref="ImportFileException">It cannot be read.</exception>
    public async Task<Import> KeepAsync(
        Guid clientId,
        string fileName,
        Guid? sourceId,
        Guid? by,
        string? pickedUp,
        Stream file,
        CancellationToken stop
    )
    {
        var (client, now) = (await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop), time.Now());
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var import = new Import
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            FileName = fileName,
            MadeBy = by,
            MadeAt = now,
            PickedUp = pickedUp,
        };
        import.Bytes = await ChunksAsync(import, file, stop);
        import.Reading = ImportFile.Look(() => new ChunkStream(db, import.Id), client.Country).Reading;
        if (sourceId is { } known)
            import.SourceId = known;
        else
            (import.SourceId, import.FormId) = await FormAsync(clientId, fileName, import.Reading, now, stop);
        db.Imports.Add(import);
        db.NoteChange(clientId, ChangeKind.Import, import.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return import;
    }

    /// <summary>Puts it under way; a form of its own gets the map that its columns say. Saves.</summary>
    public async Task StartAsync(Import import, CancellationToken stop)
    {
        var now = time.Now();
        (import.Status, import.StartedAt) = (ImportStatus.Running, now);
        if (import.FormId is { } formId)
        {
            var form = await db.Forms.SingleAsync(f => f.Id == formId, stop);
            form.State = FormState.Receiving;
            form.Fields = FieldsOf(import.Reading);
            db.FormMaps.Add(
                new()
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = import.ClientId,
                    FormId = formId,
                    Version = 1,
                    Status = MapStatus.Confirmed,
                    Map = ImportRows.MapOf(import.Reading),
                    MadeAt = now,
                    ConfirmedBy = import.MadeBy,
                    ConfirmedAt = now,
                }
            );
        }

        db.NoteChange(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("imports", stop);
        signals.Imports.Pulse();
    }

    private async Task<long> ChunksAsync(Import import, Stream file, CancellationToken stop)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(ChunkBytes);
        try
        {
            long all = 0;
            for (var number = 0; ; number++)
            {
                var length = await file.ReadAtLeastAsync(
                    buffer.AsMemory(0, ChunkBytes),
                    ChunkBytes,
                    throwOnEndOfStream: false,
                    stop
                );
                if (length == 0)
                    return all;
                var data = buffer[..length];
                await db.Database.ExecuteSqlAsync(
                    $"insert into import_chunks (import_id, number, client_id, data) values ({import.Id}, {number}, {import.ClientId}, {data})",
                    stop
                );
                all += length;
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    // Its form is offered until the import begins: a file that was only looked at is no form of the client's.
    private async Task<(Guid SourceId, Guid FormId)> FormAsync(
        Guid clientId,
        string fileName,
        ImportReading reading,
        Instant now,
        CancellationToken stop
    )
    {
        var source = await db.Sources.FirstOrDefaultAsync(s => s.ClientId == clientId && s.Kind == "file", stop);
        if (source is null)
            db.Sources.Add(
                source = new()
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = clientId,
                    Kind = "file",
                    Name = "Files",
                    MadeAt = now,
                }
            );
        var form = FormsFound.Fresh(clientId, source.Id, Clip.To(fileName, 120), FieldsOf(reading), now);
        form.State = FormState.Offered;
        db.Forms.Add(form);
        return (source.Id, form.Id);
    }

    private static IReadOnlyList<Core.Forms.FormField> FieldsOf(ImportReading reading) =>
        [
            .. reading.Columns.Select(c => new Core.Forms.FormField(
                c.Header,
                c.Header,
                Core.Forms.FormFieldType.Text,
                false,
                []
            )),
        ];
}

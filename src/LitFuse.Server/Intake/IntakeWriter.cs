using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using System.Threading.Channels;
using LitFuse.Core.Payloads;
using LitFuse.Platform;
using NodaTime;
using Npgsql;
using NpgsqlTypes;

namespace LitFuse.Server.Intake;

/// <summary>What the writer says once a submission is on disk, or was already.</summary>
/// <param name="Receipt">The submission's id; the first one's for a double.</param>
/// <param name="Double">True when the same submission was there before.</param>
public readonly record struct Stored(Guid Receipt, bool Double);

/// <summary>One submission on its way to disk.</summary>
public sealed class Arrival(Guid clientId, Guid formId, string contentType, byte[] raw, Payload payload, string? ownId)
{
    public Guid Id { get; } = Guid.CreateVersion7();

    public Guid ClientId { get; } = clientId;

    public Guid FormId { get; } = formId;

    public string ContentType { get; } = contentType;

    public byte[] Raw { get; } = raw;

    public string? OwnId { get; } = ownId;

    public string? Unreadable { get; } = payload.Unreadable;

    public Instant? SentAt { get; init; }

    public bool Test { get; init; }

    public bool Quiet { get; init; }

    /// <summary>An <see cref="Data.Envelope"/> as JSON.</summary>
    public string? Envelope { get; init; }

    /// <summary>SHA-256 of the content.</summary>
    public byte[] Digest { get; } = payload.Digest(raw);

    /// <summary>SHA-256 of the own id, where there is one.</summary>
    public byte[]? OwnIdDigest { get; } = ownId is null ? null : SHA256.HashData(Encoding.UTF8.GetBytes(ownId));

    /// <summary>Completed after the commit.</summary>
    public TaskCompletionSource<Stored> Done { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
}

/// <summary>
/// Writes submissions, many requests to one transaction: a bounded channel and one writer. A request is answered only
/// after its commit. See docs/decisions/0002-group-commit-intake.md for the figures behind it.
/// </summary>
public sealed class IntakeWriter(
    NpgsqlDataSource database,
    Signals signals,
    TimeProvider time,
    ILogger<IntakeWriter> log
) : BackgroundService
{
    private const int MostWaiting = 4096;
    private const int MostInOne = 256;

    /// <summary>Identical content without an id within this time on one form is a double press.</summary>
    public static readonly Duration DoublePress = Duration.FromMinutes(10);

    // The locks make the look-back exact when two processes write the same content at once; the unique index holds
    // the rest. One statement, so that the insert sees what was committed before the locks were had.
    private const string Lock = "select pg_advisory_xact_lock(k) from unnest($1) k order by k";

    // Most senders tell no time and send no tests: what they do not say is not carried along.
    private const string Insert = """
        insert into submissions (id, client_id, form_id, received_at, content_type, raw, own_id, dedupe_key, status, reason, attempts, due_at, envelope)
        select u.id, u.client_id, u.form_id, $9, u.content_type, u.raw, u.own_id, u.dedupe_key,
               case when u.reason is null then 'received' else 'unreadable' end, u.reason, 0, $9, u.envelope
        from unnest($1, $2, $3, $4, $5, $6, $7, $8, $10, $12) as u(id, client_id, form_id, content_type, raw, own_id, dedupe_key, reason, earlier_key, envelope)
        where u.earlier_key is null or not exists (
            select 1 from submissions s where s.form_id = u.form_id and s.dedupe_key = u.earlier_key and s.received_at > $11)
        """;

    private const string InsertMore = """
        insert into submissions (id, client_id, form_id, received_at, content_type, raw, own_id, dedupe_key, status, reason, attempts, due_at, envelope, sent_at, test, quiet)
        select u.id, u.client_id, u.form_id, $9, u.content_type, u.raw, u.own_id, u.dedupe_key,
               case when u.reason is null then 'received' else 'unreadable' end, u.reason, 0, $9, u.envelope, u.sent_at, u.test, u.quiet
        from unnest($1, $2, $3, $4, $5, $6, $7, $8, $10, $12, $13, $14, $15) as u(id, client_id, form_id, content_type, raw, own_id, dedupe_key, reason, earlier_key, envelope, sent_at, test, quiet)
        where u.earlier_key is null or not exists (
            select 1 from submissions s where s.form_id = u.form_id and s.dedupe_key = u.earlier_key and s.received_at > $11)
        """;

    private const string UnlessDouble = " on conflict (form_id, dedupe_key) do nothing";

    // After a double so many batches look for more of them.
    private const int WaryFor = 64;

    private readonly Channel<Arrival> queue = Channel.CreateBounded<Arrival>(
        new BoundedChannelOptions(MostWaiting) { SingleReader = true, FullMode = BoundedChannelFullMode.Wait }
    );

    private int wary;

    /// <summary>Queues a submission; <c>false</c> when too many wait already.</summary>
    public bool TryQueue(Arrival arrival) => queue.Writer.TryWrite(arrival);

    /// <summary>How many wait for their commit.</summary>
    public int Waiting => queue.Reader.Count;

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var batch = new List<Arrival>(MostInOne);
        try
        {
            while (await queue.Reader.WaitToReadAsync(stoppingToken))
            {
                batch.Clear();
                while (batch.Count < MostInOne && queue.Reader.TryRead(out var arrival))
                    batch.Add(arrival);
                await WriteOrSplitAsync(batch, stoppingToken);
            }
        }
        catch (OperationCanceledException)
        {
            // Stopping: what waits was not acknowledged, and its senders will try again.
        }
        finally
        {
            queue.Writer.TryComplete();
            while (queue.Reader.TryRead(out var left))
                left.Done.TrySetCanceled(CancellationToken.None);
            foreach (var left in batch)
                left.Done.TrySetCanceled(CancellationToken.None);
        }
    }

    // One bad row must fail alone: a batch that fails for another reason than the database being away goes row by row.
    private async Task WriteOrSplitAsync(List<Arrival> batch, CancellationToken stop)
    {
        try
        {
            await WriteAsync(batch, stop);
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation && wary == 0)
        {
            // Looking for doubles costs each row a quarter more, and they are rare: a batch is written without, and
            // written again with it when it held one.
            wary = WaryFor;
            await WriteOrSplitAsync(batch, stop);
        }
        catch (Exception e) when (e is NpgsqlException or IOException or TimeoutException)
        {
            if (batch.Count == 1 || Problems.IsDatabaseDown(e))
            {
                log.LogError(
                    "{Count} submissions could not be stored and were not acknowledged: {Reason}",
                    batch.Count,
                    e.Message
                );
                foreach (var arrival in batch)
                    arrival.Done.TrySetException(e);
                return;
            }

            foreach (var arrival in batch)
                await WriteOrSplitAsync([arrival], stop);
        }
    }

    private async Task WriteAsync(List<Arrival> batch, CancellationToken stop)
    {
        var now = time.Now();
        var bucket = now.ToUnixTimeSeconds() / (long)DoublePress.TotalSeconds;
        var keys = batch.ConvertAll(a => KeyOf(a, bucket));
        var earlier = batch.ConvertAll(a => a.OwnId is null ? KeyOf(a, bucket - 1) : null);
        var locks = batch
            .Where(a => a.OwnId is null)
            .Select(a => BinaryPrimitives.ReadInt64LittleEndian(a.Digest))
            .Distinct()
            .ToArray();

        await using var connection = await database.OpenConnectionAsync(stop);
        await using var work = new NpgsqlBatch(connection);
        if (locks.Length > 0)
            work.BatchCommands.Add(new NpgsqlBatchCommand(Lock) { Parameters = { new() { Value = locks } } });
        work.BatchCommands.Add(InsertOf(batch, keys, earlier, now));
        work.BatchCommands.Add(new NpgsqlBatchCommand("select pg_notify('litfuse_work', 'submissions')"));

        var written = new HashSet<Guid>(batch.Count);
        await using (var reader = await work.ExecuteReaderAsync(stop))
        {
            if (locks.Length > 0)
                await reader.NextResultAsync(stop);
            while (await reader.ReadAsync(stop))
                written.Add(reader.GetGuid(0));
        }

        if (wary > 0)
            wary--;
        signals.Submissions.Pulse();
        var doubles = new List<int>();
        for (var i = 0; i < batch.Count; i++)
        {
            if (written.Contains(batch[i].Id))
                batch[i].Done.TrySetResult(new(batch[i].Id, Double: false));
            else
                doubles.Add(i);
        }

        foreach (var i in doubles)
        {
            batch[i]
                .Done.TrySetResult(
                    new(
                        await FirstAsync(connection, batch[i].FormId, keys[i], earlier[i] ?? keys[i], stop),
                        Double: true
                    )
                );
        }
    }

    private NpgsqlBatchCommand InsertOf(List<Arrival> batch, List<byte[]> keys, List<byte[]?> earlier, Instant now)
    {
        var more = batch.Exists(a => a.SentAt is not null || a.Test || a.Quiet);
        var insert = new NpgsqlBatchCommand(
            (more ? InsertMore : Insert) + (wary > 0 ? UnlessDouble : "") + " returning id"
        )
        {
            Parameters =
            {
                new() { Value = batch.ConvertAll(a => a.Id).ToArray() },
                new() { Value = batch.ConvertAll(a => a.ClientId).ToArray() },
                new() { Value = batch.ConvertAll(a => a.FormId).ToArray() },
                new() { Value = batch.ConvertAll(a => a.ContentType).ToArray() },
                new() { Value = batch.ConvertAll(a => a.Raw).ToArray() },
                new()
                {
                    Value = batch.ConvertAll(a => a.OwnId).ToArray(),
                    NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Text,
                },
                new() { Value = keys.ToArray() },
                new()
                {
                    Value = batch.ConvertAll(a => a.Unreadable).ToArray(),
                    NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Text,
                },
                new() { Value = now },
                new() { Value = earlier.ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Bytea },
                new() { Value = now - DoublePress },
                new()
                {
                    Value = batch.ConvertAll(a => a.Envelope).ToArray(),
                    NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Text,
                },
            },
        };
        if (more)
        {
            insert.Parameters.Add(
                new()
                {
                    Value = batch.ConvertAll(a => a.SentAt).ToArray(),
                    NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.TimestampTz,
                }
            );
            insert.Parameters.Add(new() { Value = batch.ConvertAll(a => a.Test).ToArray() });
            insert.Parameters.Add(new() { Value = batch.ConvertAll(a => a.Quiet).ToArray() });
        }

        return insert;
    }

    private static async Task<Guid> FirstAsync(
        NpgsqlConnection connection,
        Guid formId,
        byte[] key,
        byte[] earlier,
        CancellationToken stop
    )
    {
        await using var find = new NpgsqlCommand(
            "select id from submissions where form_id = $1 and dedupe_key in ($2, $3) order by received_at desc limit 1",
            connection
        )
        {
            Parameters =
            {
                new() { Value = formId },
                new() { Value = key },
                new() { Value = earlier },
            },
        };
        return (Guid)(await find.ExecuteScalarAsync(stop))!;
    }

    // With an own id: the id and the content. Without: the content and the ten minutes it came in.
    private static byte[] KeyOf(Arrival arrival, long bucket)
    {
        var key = new byte[24];
        if (arrival.OwnIdDigest is { } id)
            id.AsSpan(0, 8).CopyTo(key);
        else
            BinaryPrimitives.WriteInt64BigEndian(key, bucket);
        arrival.Digest.AsSpan(0, 16).CopyTo(key.AsSpan(8));
        return key;
    }
}

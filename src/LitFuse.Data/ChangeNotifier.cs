using System.Data.Common;
using System.Text.Json;
using System.Threading.Channels;
using LitFuse.Core;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Npgsql;

namespace LitFuse.Data;

/// <summary>
/// Tells every process what changed, a moment after it was committed and many changes at once. PostgreSQL lets
/// transactions that notify commit one after the other, each with its own write to disk: notifying in each of them
/// held all of them to the disk's pace (165 deliveries a second here, against more than twice that without).
/// </summary>
public sealed class ChangeNotifier(NpgsqlDataSource database, ILogger<ChangeNotifier> log) : BackgroundService
{
    private const int MostIds = 150;
    private static readonly TimeSpan Gathers = TimeSpan.FromMilliseconds(20);
    private readonly Channel<(Guid Client, ChangeKind Kind, IReadOnlyCollection<Guid> Ids)> told =
        Channel.CreateBounded<(Guid, ChangeKind, IReadOnlyCollection<Guid>)>(
            new BoundedChannelOptions(100_000) { FullMode = BoundedChannelFullMode.DropOldest }
        );

    /// <summary>Hears in this process, at once, of which client what kind of thing changed.</summary>
    public Action<Guid, ChangeKind>? AtOnce { get; set; }

    /// <summary>Something of a client changed, and is committed.</summary>
    public void Tell(Guid client, ChangeKind kind, IReadOnlyCollection<Guid> ids)
    {
        AtOnce?.Invoke(client, kind);
        told.Writer.TryWrite((client, kind, ids));
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            while (await told.Reader.WaitToReadAsync(stoppingToken))
            {
                await Task.Delay(Gathers, stoppingToken);
                var changed = new Dictionary<(Guid Client, ChangeKind Kind), HashSet<Guid>>();
                while (told.Reader.TryRead(out var one))
                {
                    if (!changed.TryGetValue((one.Client, one.Kind), out var ids))
                        changed[(one.Client, one.Kind)] = ids = [];
                    ids.UnionWith(one.Ids);
                }

                await NotifyAsync(changed, stoppingToken);
            }
        }
        catch (OperationCanceledException)
        {
            // Stopping: screens fetch anew when they are back.
        }
    }

    private async Task NotifyAsync(
        Dictionary<(Guid Client, ChangeKind Kind), HashSet<Guid>> changed,
        CancellationToken stop
    )
    {
        try
        {
            var notices = changed
                .Select(c =>
                    JsonSerializer.Serialize(
                        new LiveNotice(c.Key.Client, c.Key.Kind, c.Value.Count > MostIds ? [] : [.. c.Value]),
                        CoreJson.Options
                    )
                )
                .ToArray();
            await using var notify = database.CreateCommand("select pg_notify('litfuse_changed', n) from unnest($1) n");
            notify.Parameters.Add(new() { Value = notices });
            await notify.ExecuteNonQueryAsync(stop);
        }
        catch (Exception e) when (e is NpgsqlException or IOException)
        {
            log.LogWarning("What changed could not be told to screens: {Reason}", e.Message);
        }
    }
}

/// <summary>Hands what a transaction told to the <see cref="ChangeNotifier"/>, once it is committed.</summary>
public sealed class NotifyOnCommit(ChangeNotifier teller) : DbTransactionInterceptor
{
    /// <inheritdoc />
    public override void TransactionCommitted(DbTransaction transaction, TransactionEndEventData eventData) =>
        HandOver(eventData);

    /// <inheritdoc />
    public override Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        HandOver(eventData);
        return Task.CompletedTask;
    }

    private void HandOver(TransactionEndEventData ended)
    {
        foreach (var (client, kind, ids) in (ended.Context as AppDb)?.TakeNoted() ?? [])
            teller.Tell(client, kind, ids);
    }
}

using System.Threading.Channels;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>How an attempt went, to be written down with what the burn makes of it.</summary>
/// <param name="Delivery">As it was claimed.</param>
/// <param name="Status"><see cref="DeliveryStatus.Due"/> when it is put off.</param>
/// <param name="DueAt">When it is next due.</param>
/// <param name="Began">When the attempt began.</param>
/// <param name="Kind">How the story tells it.</param>
public sealed record Outcome(
    OutboxDelivery Delivery,
    DeliveryStatus Status,
    string Reason,
    Instant DueAt,
    Instant Began,
    AttemptAnswer Answer,
    StoryKind Kind
)
{
    /// <summary>True when the service was in trouble.</summary>
    public bool InTrouble { get; init; }

    internal TaskCompletionSource Written { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
}

/// <summary>
/// Writes outcomes down: all that came in while the last lot was being written go in one transaction. The steps of one
/// moment end together, and each in a transaction of its own waited for the others' hold on their lead and burn, all of
/// them at the pace of the disk.
/// </summary>
public sealed class OutcomeWriter(
    IServiceScopeFactory scopes,
    WorkerName worker,
    TimeProvider time,
    ILogger<OutcomeWriter> log
) : BackgroundService
{
    private const int MostAtOnce = 64;

    // One outcome is written at once; where they come one upon another, a lot of them costs little more than one.
    private static readonly TimeSpan Pace = TimeSpan.FromMilliseconds(40);
    private readonly Channel<Outcome> ahead = Channel.CreateUnbounded<Outcome>(
        new UnboundedChannelOptions { SingleReader = true }
    );

    /// <summary>Writes it; done when it is on disk, or when the lease was lost and nothing was to be written.</summary>
    public Task WriteAsync(Outcome outcome)
    {
        if (!ahead.Writer.TryWrite(outcome))
            throw new InvalidOperationException(
                "The server is stopping; the lease will run out, and it will be tried again."
            );
        return outcome.Written.Task;
    }

    /// <inheritdoc />
    public override Task StopAsync(CancellationToken cancellationToken)
    {
        // What is in it is written before it stops.
        ahead.Writer.TryComplete();
        return base.StopAsync(cancellationToken);
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var lot = new List<Outcome>(MostAtOnce);
        var began = time.GetTimestamp() - time.TimestampFrequency;
        while (await ahead.Reader.WaitToReadAsync(CancellationToken.None))
        {
            if (Pace - time.GetElapsedTime(began) is { Ticks: > 0 } rest)
                await Task.Delay(rest, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            began = time.GetTimestamp();
            lot.Clear();
            while (lot.Count < MostAtOnce && ahead.Reader.TryRead(out var one))
                lot.Add(one);
            await WriteAsync(lot);
        }
    }

    private async Task WriteAsync(List<Outcome> lot)
    {
        try
        {
            await RunAsync(lot);
            foreach (var one in lot)
                one.Written.TrySetResult();
        }
        catch (Exception e) when (lot.Count > 1)
        {
            log.LogWarning(
                "Outcomes could not be written together ({Reason}); going one by one.",
                e.GetBaseException().Message
            );
            foreach (var one in lot)
                await WriteAsync([one]);
        }
        catch (Exception e)
        {
            lot[0].Written.TrySetException(e);
        }
    }

    private async Task RunAsync(List<Outcome> lot)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        await scope
            .ServiceProvider.GetRequiredService<OutcomeRecorder>()
            .RunAsync(lot, worker.Name, CancellationToken.None);
    }
}

/// <summary>One transaction of outcomes.</summary>
public sealed class OutcomeRecorder(
    AppDb db,
    DeliveryClaim claim,
    ConnectionThrottle throttle,
    LeadEventRouter events,
    ClientConfigCache setups,
    FirstTouch touch,
    TimeProvider time
)
{
    /// <summary>Writes down those whose lease still holds.</summary>
    public async Task RunAsync(IReadOnlyList<Outcome> outcomes, string worker, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        // Leads first, as everywhere; and whose each is by now: two leads can have become one while it was under way.
        var (leads, leadOf) = await LeadsAsync(outcomes, stop);
        var ended = await claim.EndAsync(worker, outcomes, now, stop);
        var held = outcomes.Where(o => ended.Contains(o.Delivery.Id)).ToList();
        var over = held.Where(o => o.Status != DeliveryStatus.Due).ToList();
        var burns = await BurnsAsync(over, leads, stop);
        foreach (var outcome in held)
        {
            var delivery = outcome.Delivery;
            if (!leadOf.TryGetValue(delivery.Id, out var leadId))
                continue;
            // A long outage is one line in the story, with the last word on the delivery itself; what the story says
            // anyhow, of a post or of a call, is none.
            var quiet =
                outcome.Kind == StoryKind.StepRetries
                    ? outcome.Delivery.Attempts > 1
                    : delivery.Kind is StepKinds.PostStatus or StepKinds.RingThrough
                        && outcome.Status == DeliveryStatus.Done;
            if (!quiet)
                Tell(delivery, leadId, outcome.Kind, outcome.Reason, now);
            db.NoteChange(delivery.ClientId, ChangeKind.Lead, leadId);
            if (outcome.Status == DeliveryStatus.Due)
                continue;
            // A call that was begun ends its step itself, when it is over; and is a touch when two people talk.
            if (outcome.Status == DeliveryStatus.Done && delivery.Kind == StepKinds.RingThrough)
                continue;
            var lead = leads[leadId];
            if (outcome.Status == DeliveryStatus.Done && delivery.Lane == Lane.Lead)
            {
                if (delivery.WrittenBy is { } person)
                    await touch.MarkAsync(lead, person, outcome.Began, "by text", stop);
                else if (delivery.Kind is not (StepKinds.OptInEmail or StepKinds.StopConfirmed))
                    lead.Lead.AutoTouchAt ??= now;
            }

            NoteBounce(lead.Lead, outcome, now);
            if (
                delivery is { BurnId: { } burnId, StepId: not null }
                && burns.TryGetValue(burnId, out var burn)
                && burn.LeadId == leadId
            )
                await events.BringAsync(burn, lead, EndOf(outcome), now, stop);
        }

        var (back, turned) = await throttle.NoteAsync(
            held.Where(o => o.Answer.Spent).Select(o => (o.Delivery.ConnectionId, o.InTrouble)),
            now,
            stop
        );
        await ReachedAsync(held, turned, stop);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        foreach (var connection in back)
            await claim.HurryAsync(connection, now, stop);
    }

    // As after a letter that came back: a copy to a colleague says nothing of the lead's own address.
    private void NoteBounce(Lead lead, Outcome outcome, Instant now)
    {
        if (
            !outcome.Answer.NoSuchAddress
            || outcome.Delivery is not { Lane: Lane.Lead, Kind: StepKinds.Email }
            || lead.EmailBouncedAt is not null
        )
            return;
        (lead.EmailBouncedAt, lead.EmailBouncedBecause) = (now, outcome.Reason);
        Tell(outcome.Delivery, lead.Id, StoryKind.Bounced, $"{lead.Email} is not there: {outcome.Reason}", now);
    }

    // What went through shows that its service is reached, whatever was found when it was asked last. Lines hang on
    // that, and on whether anything is stuck.
    private async Task ReachedAsync(List<Outcome> held, IReadOnlyList<Guid> turned, CancellationToken stop)
    {
        var changed = held.Where(o => turned.Contains(o.Delivery.ConnectionId))
            .Select(o => (o.Delivery.ClientId, Id: o.Delivery.ConnectionId))
            .ToHashSet();
        var through = held.Where(o => o.Status == DeliveryStatus.Done)
            .Select(o => o.Delivery.ConnectionId)
            .Distinct()
            .ToArray();
        if (through.Length > 0)
        {
            var back = await db
                .Connections.FromSql(
                    $"update connections set state = 'whole', fault = null where id = any({through}) and state = 'unreachable' returning *"
                )
                .AsNoTracking()
                .IgnoreQueryFilters()
                .ToListAsync(stop);
            changed.UnionWith(back.Select(c => (c.ClientId, c.Id)));
        }

        foreach (var (client, id) in changed)
            db.NoteChange(client, ChangeKind.Connection, id);
    }

    private static BurnEvent.StepEnded EndOf(Outcome outcome) =>
        new(
            outcome.Delivery.StepId!,
            outcome.Status switch
            {
                DeliveryStatus.Done => StepStatus.Done,
                DeliveryStatus.Cancelled => StepStatus.Cancelled,
                _ => StepStatus.Failed,
            },
            outcome.Reason,
            outcome.Answer.Results,
            outcome.Delivery.Key
        );

    private async Task<(Dictionary<Guid, HeldLead> Leads, Dictionary<Guid, Guid> LeadOf)> LeadsAsync(
        IReadOnlyList<Outcome> outcomes,
        CancellationToken stop
    )
    {
        var ids = outcomes.Select(o => o.Delivery.Id).ToList();
        Dictionary<Guid, Guid> leadOf = [];
        var held = await HeldLead.OfAsync(
            db,
            async () =>
            {
                leadOf = await db
                    .Deliveries.Where(d => ids.Contains(d.Id))
                    .Select(d => new { d.Id, d.LeadId })
                    .ToDictionaryAsync(d => d.Id, d => d.LeadId, stop);
                return [.. leadOf.Values.Distinct()];
            },
            stop
        );
        return (held.ToDictionary(l => l.Id), leadOf);
    }

    // With the answers of those whose end leads on to something that may be said.
    private async Task<Dictionary<Guid, Burn>> BurnsAsync(
        List<Outcome> over,
        Dictionary<Guid, HeldLead> leads,
        CancellationToken stop
    )
    {
        var ids = over.Select(o => o.Delivery.BurnId).OfType<Guid>().ToList();
        if (ids.Count == 0)
            return [];
        var burns = (await HeldLead.BurnsAsync(db, leads.Values, ids, stop)).ToDictionary(b => b.Id);
        var speaking = new HashSet<Guid>();
        foreach (var outcome in over.Where(o => o.Delivery is { BurnId: not null, StepId: not null }))
        {
            if (!burns.TryGetValue(outcome.Delivery.BurnId!.Value, out var burn))
                continue;
            var (_, fuse) = await setups.VersionAsync(db, burn.FuseVersionId, stop);
            if (Decider.MaySpeak(fuse, burn.State, EndOf(outcome), time.Now()))
                speaking.Add(burn.SubmissionId);
        }

        await events.ReadAnswersAsync(speaking, stop);
        return burns;
    }

    private void Tell(OutboxDelivery delivery, Guid leadId, StoryKind kind, string words, Instant now) =>
        db.AddStory(delivery, kind, words, now, by: delivery.WrittenBy, leadId: leadId);
}

using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses;
using LitFuse.Core.Stories;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Clients;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>
/// One attempt at one delivery: asks the gate, calls the connector with no transaction open, then writes the outcome
/// and what the burn makes of it in one transaction.
/// </summary>
public sealed class DeliveryAttempt(
    AppDb db, DeliveryClaim claim, BurnRun burns, ClientSetups setups, FirstTouch touch, IEnumerable<IConnector> connectors, Secrets secrets, PublicAddress address, TimeProvider time)
{
    /// <summary>Runs it.</summary>
    /// <returns>True when the service was in trouble.</returns>
    public async Task<bool> RunAsync(ClaimedDelivery held, string worker, CancellationToken stop)
    {
        var delivery = await db.Deliveries.AsNoTracking().SingleAsync(d => d.Id == held.Id, stop);
        var lead = await db.Leads.AsNoTracking().SingleAsync(l => l.Id == delivery.LeadId, stop);
        var setup = await setups.ReadAsync(db, delivery.ClientId, stop);
        var began = time.Now();
        if (delivery.Lane == Lane.Lead)
        {
            switch (Gate(delivery, lead, setup.Client, began))
            {
                case GateAnswer.Never never:
                    await EndAsync(held, worker, delivery, DeliveryStatus.Struck, never.Reason, began, new(Spent: false, null, null, null), stop);
                    return false;
                case GateAnswer.Wait wait:
                    await PutOffAsync(held, worker, delivery, wait.Reason, wait.Until, new(Spent: false, null, null, null), StoryKind.StepWaits, stop);
                    return false;
                default:
                    break;
            }
        }

        var connection = setup.Connections.First(c => c.Id == delivery.ConnectionId);
        var connector = connectors.First(c => c.Kind == connection.Kind);
        var access = new ConnectionAccess(connection.Id, new Uri(connection.BaseUrl), secrets.Open(connection.Secret), connection.Sender, address.OfNotices(connection.Id));
        var outgoing = new Outgoing(delivery.Kind, delivery.Key, delivery.Settings, lead.PhoneReadable ? lead.Phone : null);
        if (lead.Test)
        {
            var (aimed, missing) = TestAim.At(outgoing, delivery.OnlyTo is { } me ? await db.Users.AsNoTracking().SingleOrDefaultAsync(u => u.Id == me, stop) : null, delivery.OnlyTo is not null);
            if (missing is not null)
            {
                await EndAsync(held, worker, delivery, DeliveryStatus.Struck, missing, began, new(Spent: false, null, null, null), stop);
                return false;
            }

            outgoing = aimed;
        }

        var result = await connector.DeliverAsync(access, outgoing, stop);

        var answer = new AttemptAnswer(Spent: true, result.Answer, result.Reference, result.End == AttemptEnd.Accepted ? began : null);
        var wait2 = result.End == AttemptEnd.Temporary ? Trouble.WaitAfter(held.Attempt, Random.Shared.NextDouble(), result.RetryAfter) : null;
        if (result.End == AttemptEnd.Accepted) await EndAsync(held, worker, delivery, DeliveryStatus.Done, $"{connection.Name} took it", began, answer, stop);
        else if (wait2 is { } wait3) await PutOffAsync(held, worker, delivery, $"{connection.Name} {result.Reason}", time.Now() + wait3, answer, StoryKind.StepRetries, stop);
        else
        {
            var given = result.End == AttemptEnd.Temporary ? string.Create(System.Globalization.CultureInfo.InvariantCulture, $"given up after {held.Attempt} attempts: ") : "";
            await EndAsync(held, worker, delivery, DeliveryStatus.Failed, $"{given}{connection.Name} {result.Reason}", began, answer, stop);
        }

        return result.End == AttemptEnd.Temporary;
    }

    private static GateAnswer Gate(OutboxDelivery delivery, Lead lead, Client client, Instant now)
    {
        if (delivery.Kind == OptInAsker.LetterKind) return LeadGate.AskToConfirm(lead.DoNotContactAt is not null, delivery.PlannedAt, Duration.FromHours(delivery.AgeLimitHours), now);
        var facts = new LeadFacts(
            lead.Fields, Nothing, lead.PhoneReadable, lead.OptedOutAt is not null,
            DateTimeZoneProviders.Tzdb.GetZoneOrNull(lead.Zone) ?? client.DateTimeZone(), client.SendHours(), lead.DoNotContactAt is not null);
        return LeadGate.Ask(facts, delivery.PlannedAt, Duration.FromHours(delivery.AgeLimitHours), now);
    }

    private static readonly Core.Words.WordFacts Nothing = new(
        new Dictionary<string, string>(StringComparer.Ordinal), new Dictionary<string, string>(StringComparer.Ordinal), new Dictionary<string, string>(StringComparer.Ordinal), []);

    private async Task PutOffAsync(
        ClaimedDelivery held, string worker, OutboxDelivery delivery, string reason, Instant until, AttemptAnswer answer, StoryKind kind, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        if (!await claim.EndAsync(held, worker, DeliveryStatus.Due, reason, until, now, answer, stop)) return;
        // A long outage is one line in the story, with the last word on the delivery itself.
        if (kind != StoryKind.StepRetries || held.Attempt == 1) Tell(delivery, kind, reason, now);
        db.Tell(delivery.ClientId, "lead", delivery.LeadId);
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
    }

    private async Task EndAsync(
        ClaimedDelivery held, string worker, OutboxDelivery delivery, DeliveryStatus status, string reason, Instant began, AttemptAnswer answer, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        if (!await claim.EndAsync(held, worker, status, reason, delivery.DueAt, now, answer, stop)) return;
        var lead = await db.Leads.FromSql($"select * from leads where id = {delivery.LeadId} for update").SingleAsync(stop);
        var (kind, step) = status switch
        {
            DeliveryStatus.Done => (StoryKind.StepDone, StepStatus.Done),
            DeliveryStatus.Struck => (StoryKind.StepStruck, StepStatus.Struck),
            _ => (StoryKind.StepFailed, StepStatus.Failed),
        };
        Tell(delivery, kind, reason, now);
        if (status == DeliveryStatus.Done && delivery.Lane == Lane.Lead)
        {
            if (delivery.WrittenBy is { } person) await touch.MarkAsync(lead, person, began, "by text", stop);
            else if (delivery.Kind != OptInAsker.LetterKind) lead.AutoTouchAt ??= now;
        }

        if (delivery.BurnId is { } burnId && delivery.StepId is { } stepId) await burns.EndStepAsync(burnId, new(stepId, step, reason), now, stop);
        db.Tell(delivery.ClientId, "lead", delivery.LeadId);
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
    }

    private void Tell(OutboxDelivery delivery, StoryKind kind, string words, Instant now) => db.Story.Add(new()
    {
        ClientId = delivery.ClientId,
        LeadId = delivery.LeadId,
        Kind = kind,
        At = now,
        KnownAt = now,
        Words = words,
        Fuse = delivery.Fuse,
        Band = delivery.Band,
        Step = delivery.Step,
        BurnId = delivery.BurnId,
        DeliveryId = delivery.Id,
        UserId = delivery.WrittenBy,
    });
}

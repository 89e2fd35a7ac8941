using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Deliveries;

/// <summary>Deliveries to send again: those named, or all that a filter means.</summary>
/// <param name="Ids">These; or <c>null</c> for all that <paramref name="Filter"/> means.</param>
/// <param name="JustCount">Say how many it would be, and send nothing.</param>
public sealed record DeliveriesToReplay(IReadOnlyList<Guid>? Ids, DeliveryFilter? Filter, bool JustCount);

/// <summary>How many are sent again.</summary>
/// <param name="Replayed">Sent again, or to be.</param>
/// <param name="Failed">Of these, so many had failed: they go out under the key they had.</param>
/// <param name="Taken">Of these, so many had been taken: they go out as another thing.</param>
/// <param name="LeftOut">Meant, but not to be sent again: still waiting, withdrawn by rule, or what the lead has had
/// already.</param>
public sealed record DeliveriesReplayed(int Replayed, int Failed, int Taken, int LeftOut);

/// <summary>
/// Sends deliveries again. What failed goes out as the very same thing, under its own key, so that a service which had
/// it after all knows it again; what had been taken goes out as another thing, but never to the lead.
/// </summary>
public static class DeliveryReplay
{
    private const int Most = 5000;
    private const int InOneGo = 100;

    /// <summary>Maps it.</summary>
    public static void Map(RouteGroupBuilder deliveries)
    {
        deliveries
            .MapPost("/replay", ReplayAsync)
            .Needs(Act.EditSources)
            .WithSummary("Send again one, those of a filter, or those of a span of time; count first");
        deliveries.MapPost("/{deliveryId}/give-up", GiveUpAsync).Needs(Act.EditSources).WithSummary("Try it no more");
    }

    private static async Task<Results<Ok<DeliveriesReplayed>, ProblemHttpResult>> ReplayAsync(
        DeliveriesToReplay asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        IQueryable<OutboxDelivery> meant;
        if (asked.Ids is { Count: > 0 and <= Most } named)
            meant = db.Deliveries.AsNoTracking().Where(d => named.Contains(d.Id));
        else if (asked is { Ids: null, Filter: { } filter })
        {
            var (clients, found, fault) = await filter.ApplyAsync(db, scope, stop);
            if (fault is not null)
                return fault;
            meant = found!.Where(d => clients.Contains(d.ClientId));
        }
        else
            return Problems.Bad("ids", $"Choose between one and {Most} deliveries, or a filter.");

        var all = await meant.CountAsync(stop);
        var failed = await Failed(meant).CountAsync(stop);
        var taken = await Taken(meant).CountAsync(stop);
        if (asked.JustCount)
            return TypedResults.Ok(new DeliveriesReplayed(failed + taken, failed, taken, all - failed - taken));
        if (failed + taken > Most)
            return Problems.Bad(
                "filter",
                $"That is {failed + taken} deliveries; at most {Most} go at once. Narrow the time or the connection."
            );
        if (failed + taken == 0)
            return Problems.NotNow.Because(
                "None of these can be sent again: they still wait, were withdrawn by rule, or the lead has had them already."
            );

        var who = (await db.PeopleAsync([ClientAccess.UserId(http.User)], stop)).Values.FirstOrDefault() ?? "A person";
        Guid[] ids =
        [
            .. await Failed(meant).Concat(Taken(meant)).OrderBy(d => d.MadeAt).Select(d => d.Id).ToListAsync(stop),
        ];
        var (again, anew) = (0, 0);
        foreach (var lot in ids.Chunk(InOneGo))
        {
            var (f, t) = await SendAgainAsync(lot, who, db, burns, time.Now(), stop);
            (again, anew) = (again + f, anew + t);
            signals.Deliveries.Pulse();
        }

        signals.Burns.Pulse();
        return TypedResults.Ok(new DeliveriesReplayed(again + anew, again, anew, all - again - anew));
    }

    private static IQueryable<OutboxDelivery> Failed(IQueryable<OutboxDelivery> of) =>
        of.Where(d => d.Status == DeliveryStatus.Failed);

    private static IQueryable<OutboxDelivery> Taken(IQueryable<OutboxDelivery> of) =>
        of.Where(d => d.Status == DeliveryStatus.Done && d.Lane != Lane.Lead);

    // Leads first, as everywhere; then what stands as it did when it was counted.
    private static async Task<(int Failed, int Taken)> SendAgainAsync(
        Guid[] ids,
        string who,
        AppDb db,
        BurnService burns,
        Instant now,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var leads = (
            await HeldLead.OfAsync(
                db,
                () => db.Deliveries.Where(d => ids.Contains(d.Id)).Select(d => d.LeadId).Distinct().ToListAsync(stop),
                stop
            )
        ).ToDictionary(l => l.Id);
        var deliveries = await db
            .Deliveries.FromSql(
                $"select * from deliveries where id = any({ids}) and status in ('failed', 'done') order by made_at for update"
            )
            .ToListAsync(stop);
        var (failed, taken) = (0, 0);
        foreach (var delivery in deliveries.Where(d => leads.ContainsKey(d.LeadId)))
        {
            if (delivery.Status == DeliveryStatus.Done)
                (delivery.Again, taken) = (delivery.Again + 1, taken + 1);
            else
                failed++;
            var told = false;
            if (delivery is { Status: DeliveryStatus.Failed, BurnId: { } burnId, StepId: { } stepId })
            {
                var burn = await burns.BringAsync(
                    burnId,
                    leads[delivery.LeadId],
                    new BurnEvent.Replayed(stepId, $"{who} has it sent again", AsSent: true),
                    now,
                    stop
                );
                told = burn?.State.Steps.Any(s => s.StepId == stepId && s.Status == StepStatus.Sent) == true;
            }

            (delivery.Status, delivery.DueAt, delivery.EndedAt, delivery.AttemptsBefore, delivery.Reason) = (
                DeliveryStatus.Due,
                now,
                null,
                delivery.Attempts,
                $"{who} has it sent again"
            );
            if (!told)
                db.AddStory(delivery, StoryKind.StepReplayed, delivery.Reason, now);
            db.NoteChange(delivery.ClientId, ChangeKind.Lead, delivery.LeadId);
        }

        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return (failed, taken);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> GiveUpAsync(
        Guid deliveryId,
        HttpContext http,
        AppDb db,
        BurnService burns,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!await db.Deliveries.AnyAsync(d => d.Id == deliveryId, stop))
            return Problems.No("delivery");
        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var lead = (
            await HeldLead.OfAsync(
                db,
                () => db.Deliveries.Where(d => d.Id == deliveryId).Select(d => d.LeadId).ToListAsync(stop),
                stop
            )
        ).SingleOrDefault();
        var delivery = await db
            .Deliveries.FromSql($"select * from deliveries where id = {deliveryId} and status = 'due' for update")
            .SingleOrDefaultAsync(stop);
        if (lead is null || delivery is null)
            return Problems.NotNow.Because("It does not wait any more, or is being sent at this moment.");
        var who = (await db.PeopleAsync([ClientAccess.UserId(http.User)], stop)).Values.FirstOrDefault() ?? "A person";
        (delivery.Status, delivery.Reason, delivery.EndedAt) = (DeliveryStatus.Failed, $"{who} gave it up", now);
        db.AddStory(delivery, StoryKind.StepFailed, delivery.Reason, now);
        if (delivery is { BurnId: { } burnId, StepId: { } stepId })
            await burns.EndStepAsync(
                burnId,
                lead,
                new BurnEvent.StepEnded(stepId, StepStatus.Failed, delivery.Reason, Key: delivery.Key),
                now,
                stop
            );
        db.NoteChange(delivery.ClientId, ChangeKind.Lead, lead.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        signals.Burns.Pulse();
        signals.Deliveries.Pulse();
        return TypedResults.NoContent();
    }
}

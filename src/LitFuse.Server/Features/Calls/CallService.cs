using LitFuse.Core.Calling;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Calls;

/// <summary>What a carrier is to do for a call, once what led to it is on disk.</summary>
public sealed record CallOrders(Call Call, IReadOnlyList<CallEffect> Effects);

/// <summary>
/// Brings what happens to ring-throughs: the machine decides, and what it says is written down in one transaction.
/// </summary>
public sealed class CallService(
    AppDb db,
    LeadEventRouter events,
    BurnService burns,
    FirstTouch touch,
    PostsOfLead posts,
    TimeProvider time
)
{
    /// <summary>Begins one, once for its key.</summary>
    /// <param name="call">Not yet stored.</param>
    /// <param name="leftOut">Who is not rung, and why.</param>
    /// <param name="stop">Cancels.</param>
    /// <returns>What to do then, or <c>null</c> when it was begun before.</returns>
    public async Task<CallOrders?> BeginAsync(Call call, IReadOnlyList<string> leftOut, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, call.LeadId, stop) is not { } lead)
            return null;
        if (await db.Calls.AnyAsync(c => c.Key == call.Key, stop))
            return null;
        db.Calls.Add(call);
        foreach (var one in leftOut)
            Tell(call, StoryKind.RingPassed, one, null, call.BeganAt);
        return await GoOnAsync(call, lead, new CallEvent.Begun(), call.BeganAt, transaction, stop);
    }

    /// <summary>Brings one event to one call.</summary>
    /// <param name="callId">Which.</param>
    /// <param name="happened">What happened.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="also">Changes the call in the same transaction.</param>
    /// <returns>What to do then, or <c>null</c> when there is no such call.</returns>
    public async Task<CallOrders?> HearAsync(
        Guid callId,
        CallEvent happened,
        CancellationToken stop,
        Action<Call>? also = null
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        // The lead before its burns and calls, as everywhere.
        if (
            await HeldLead.OfAsync(
                db,
                () => db.Calls.Where(c => c.Id == callId).Select(c => c.LeadId).ToListAsync(stop),
                stop
            )
            is not [var lead]
        )
            return null;
        var call = await db.Calls.FromSql($"select * from calls where id = {callId} for update").SingleAsync(stop);
        also?.Invoke(call);
        return await GoOnAsync(call, lead, happened, time.Now(), transaction, stop);
    }

    /// <summary>Notes the carrier's id of one phone.</summary>
    public Task NoteAsync(Guid callId, int leg, string reference, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"update calls set \"references\"[{leg + 1}] = {reference} where id = {callId}",
            stop
        );

    private async Task<CallOrders> GoOnAsync(
        Call call,
        HeldLead held,
        CallEvent happened,
        Instant now,
        Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction transaction,
        CancellationToken stop
    )
    {
        var lead = held.Lead;
        var decided = CallMachine.Next(call.Plan, call.State, happened, now);
        (call.State, call.Stage, call.WakeAt) = (decided.State, decided.State.Stage, decided.State.NextWake);
        foreach (var effect in decided.Effects)
        {
            switch (effect)
            {
                case CallEffect.RingTeam ring:
                    Tell(
                        call,
                        StoryKind.Ringing,
                        $"{call.Plan.Team[ring.Person].Name} is being rung",
                        ring.Person,
                        now
                    );
                    break;
                case CallEffect.RingLead:
                    Tell(call, StoryKind.Ringing, $"{call.Plan.Lead} is being rung", null, now);
                    break;
                case CallEffect.Tell tell:
                    Tell(call, StoryKind.RingPassed, tell.Words, tell.Person, now);
                    break;
                case CallEffect.Accepted accepted when lead.TakenBy is null && lead.FirstTouchAt is null:
                    (lead.TakenBy, lead.TakenAt) = (Guid.Parse(call.Plan.Team[accepted.Person].Id), now);
                    await posts.TellAsync(
                        lead,
                        $"{call.Plan.Team[accepted.Person].Name} has it, and rings them, {PostsOfLead.After(lead, now)}",
                        open: false,
                        now,
                        stop
                    );
                    break;
                case CallEffect.Talking talking:
                    await TalkAsync(call, held, talking, now, stop);
                    break;
                case CallEffect.Ended:
                    call.EndedAt = now;
                    await EndAsync(call, held, now, stop);
                    break;
                default:
                    break;
            }
        }

        db.NoteChange(call.ClientId, ChangeKind.Lead, call.LeadId);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return new(call, decided.Effects);
    }

    private async Task TalkAsync(
        Call call,
        HeldLead held,
        CallEffect.Talking talking,
        Instant now,
        CancellationToken stop
    )
    {
        var lead = held.Lead;
        var name = call.Plan.Team[talking.Person].Name;
        Tell(
            call,
            StoryKind.Talking,
            talking.Machine
                ? $"{name} speaks to {lead.ShownName()}’s machine"
                : $"{name} and {lead.ShownName()} are talking",
            talking.Person,
            now
        );
        // Nobody was reached and nobody can have heard: an attempt that the story shows, and the clock runs on.
        if (talking.Machine)
            return;
        lead.ReachedAt ??= now;
        // What their being touched stops must find them talking, not ringing.
        await db.SaveChangesAsync(stop);
        await touch.MarkAsync(held, Guid.Parse(call.Plan.Team[talking.Person].Id), now, "by phone", stop);
    }

    private async Task EndAsync(Call call, HeldLead lead, Instant now, CancellationToken stop)
    {
        var ending = call.Ending!;
        Tell(call, StoryKind.CallEnded, ending.Because, call.State.AcceptedBy, now);
        if (call is { BurnId: { } burnId, StepId: { } stepId })
        {
            await burns.EndStepAsync(
                burnId,
                lead,
                new BurnEvent.StepEnded(stepId, ending.Status, ending.Because, ending.Results, call.StepKey),
                now,
                stop
            );
            // Its own burn alone: another fuse's ring-through is none of theirs.
            await burns.BringAsync(burnId, lead, new BurnEvent.Happened(ending.Rang(now, $"{call.Id:N}")), now, stop);
        }

        if (ending.Called(now, $"{call.Id:N}") is { } called)
            await events.HappenAsync(lead, [called], null, now, stop);
    }

    private void Tell(Call call, StoryKind kind, string words, int? person, Instant now)
    {
        Guid? by = person is { } place && Guid.TryParse(call.Plan.Team[place].Id, out var user) ? user : null;
        var line = db.AddStory(call.ClientId, call.LeadId, kind, words, now, by: by);
        (line.Fuse, line.Band, line.Step, line.BurnId) = (call.Fuse, call.Band, call.Step, call.BurnId);
    }
}

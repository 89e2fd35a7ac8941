using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Brings events to burns that are already lit: time passing, deliveries ending, what people do with them.
/// </summary>
public sealed class BurnService(AppDb db, LeadEventRouter events, StoryWriter writer, TimeProvider time)
{
    /// <summary>
    /// Wakes burns whose time has come, in one transaction. Leads that somebody else holds are left for the next round.
    /// </summary>
    /// <returns>How many were woken.</returns>
    public async Task<int> WakeAsync(int most, CancellationToken stop)
    {
        var now = time.Now();
        if (await NextWakeAsync(stop) is not { } next || next > now)
            return 0;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var due = await (await AwakeAsync(stop))
            .AsNoTracking()
            .Where(b => b.WakeAt <= now)
            .OrderBy(b => b.WakeAt)
            .Take(most)
            .Select(b => new { b.Id, b.LeadId })
            .ToListAsync(stop);
        var leads = (await HeldLead.FreeAsync(db, due.Select(d => d.LeadId), stop)).ToDictionary(l => l.Id);
        var burns = (await HeldLead.BurnsAsync(db, leads.Values, due.Select(d => d.Id), stop))
            .Where(b => b.WakeAt <= now)
            .OrderBy(b => b.WakeAt)
            .ToList();
        await events.ReadAnswersAsync([.. burns.Select(b => b.SubmissionId).Where(id => id != Guid.Empty)], stop);
        foreach (var burn in burns)
            await events.BringAsync(burn, leads[burn.LeadId], new BurnEvent.Woken(), now, stop);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return burns.Count;
    }

    /// <summary>
    /// Sets the burn aside that is due first, after waking it by itself failed. Nothing else of that moment is lost: it
    /// was undone.
    /// </summary>
    public async Task SetFirstAsideAsync(Exception because, CancellationToken stop)
    {
        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (
            await (await AwakeAsync(stop))
                .AsNoTracking()
                .Where(b => b.WakeAt <= now)
                .OrderBy(b => b.WakeAt)
                .FirstOrDefaultAsync(stop)
            is not { } due
        )
            return;
        var held = await HeldLead.ManyAsync(db, [due.LeadId], stop, mergedToo: true);
        if (await HeldLead.BurnsAsync(db, held, [due.Id], stop) is not [{ WakeAt: { } wake } burn] || wake > now)
            return;
        var lead = held[0].Lead;
        // Not compiled: that may be what fails.
        var version = await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == burn.FuseVersionId, stop);
        writer.SetAside(burn, lead, version, new BurnEvent.Woken(), because, now);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
    }

    /// <summary>Runs a burn again that was set aside: what it could not decide is brought again, in order.</summary>
    /// <returns>Why it cannot be, or <c>null</c>.</returns>
    public async Task<string?> RunAgainAsync(Burn burn, HeldLead lead, string who, Instant now, CancellationToken stop)
    {
        if (burn.SetAsideAt is null)
            return "It is not set aside.";
        var version = await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == burn.FuseVersionId, stop);
        var waited = burn.SetAside;
        (burn.SetAsideAt, burn.SetAsideBecause, burn.SetAside) = (null, null, []);
        writer.Add(burn, lead.Lead, version, StoryKind.BurnRunAgain, null, null, $"{who} runs it again", now);
        foreach (var what in waited.Append(new BurnEvent.Woken()))
            await events.BringAsync(burn, lead, what, now, stop);
        return null;
    }

    /// <summary>When the next burn wants waking.</summary>
    public async Task<Instant?> NextWakeAsync(CancellationToken stop) =>
        await (await AwakeAsync(stop)).Where(b => b.WakeAt != null).MinAsync(b => b.WakeAt, stop);

    // While a client is held, its burns sleep on. Where none is, which is nearly always, the question stays one for the
    // index.
    private async Task<IQueryable<Burn>> AwakeAsync(CancellationToken stop)
    {
        var held = await db.Clients.Where(c => c.HeldAt != null).Select(c => c.Id).ToListAsync(stop);
        return held.Count == 0 ? db.Burns : db.Burns.Where(b => !held.Contains(b.ClientId));
    }

    /// <summary>Ends the burns of a lead whose fuses burn for somebody else who turned out to be the same.</summary>
    public async Task EndDoublesAsync(
        HeldLead lead,
        IReadOnlyList<Guid> fuses,
        string because,
        Instant now,
        CancellationToken stop
    )
    {
        var hearing = await HeldLead.HearingAsync(db, [lead], stop);
        foreach (var burn in hearing.Where(b => fuses.Contains(b.FuseId)))
            await events.BringAsync(burn, lead, new BurnEvent.Ended(because), now, stop);
    }

    /// <summary>Tells a burn that one of its deliveries ended.</summary>
    public Task EndStepAsync(
        Guid burnId,
        HeldLead lead,
        BurnEvent.StepEnded ended,
        Instant now,
        CancellationToken stop
    ) => BringAsync(burnId, lead, ended, now, stop);

    /// <summary>Brings an event to one burn.</summary>
    /// <returns>The burn, or <c>null</c> when there is none by this id for this lead.</returns>
    public async Task<Burn?> BringAsync(
        Guid burnId,
        HeldLead lead,
        BurnEvent happened,
        Instant now,
        CancellationToken stop
    )
    {
        var burn = (await HeldLead.BurnsAsync(db, [lead], [burnId], stop)).SingleOrDefault();
        if (burn is not null)
            await events.BringAsync(burn, lead, happened, now, stop);
        return burn;
    }
}

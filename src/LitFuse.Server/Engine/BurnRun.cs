using LitFuse.Core.Fuses;
using LitFuse.Core.Stories;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Brings events to burns that are already lit: time passing, deliveries ending, someone reaching out.</summary>
public sealed class BurnRun(AppDb db, BurnWriter writer, ClientSetups setups, PublicAddress address, TimeProvider time)
{
    /// <summary>Wakes burns whose time has come, in one transaction.</summary>
    /// <returns>How many were woken.</returns>
    public async Task<int> WakeAsync(int most, CancellationToken stop)
    {
        var now = time.Now();
        if (await NextWakeAsync(stop) is not { } next || next > now) return 0;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var due = await db.Burns.FromSql($"select * from burns where wake_at <= {now} order by wake_at limit {most} for update skip locked").ToListAsync(stop);
        foreach (var burn in due) await BringAsync(burn, new BurnEvent.Woken(), now, stop);
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return due.Count;
    }

    /// <summary>When the next burn wants waking.</summary>
    public Task<Instant?> NextWakeAsync(CancellationToken stop) => db.Burns.Where(b => b.WakeAt != null).MinAsync(b => b.WakeAt, stop);

    /// <summary>Tells every burn of a lead that something stop rules know has happened. Call inside a transaction.</summary>
    public async Task StopAsync(Guid leadId, StopRule rule, string because, Instant now, CancellationToken stop)
    {
        var burning = await db.Burns.FromSql($"select * from burns where lead_id = {leadId} and status = 'burning' order by id for update").ToListAsync(stop);
        foreach (var burn in burning) await BringAsync(burn, new BurnEvent.Stopped(rule, because), now, stop);
    }

    /// <summary>Stops the burns of a lead whose fuses burn for somebody else who turned out to be the same. Call inside a transaction.</summary>
    public async Task StopDoublesAsync(Guid leadId, IReadOnlyList<Guid> fuses, string because, Instant now, CancellationToken stop)
    {
        var burning = await db.Burns.FromSql($"select * from burns where lead_id = {leadId} and status = 'burning' order by id for update").ToListAsync(stop);
        foreach (var burn in burning.Where(b => fuses.Contains(b.FuseId))) await BringAsync(burn, new BurnEvent.Stopped(StopRule.OptedOut, because, Whatever: true), now, stop);
    }

    /// <summary>Tells a burn that one of its deliveries ended. Call inside a transaction.</summary>
    public async Task EndStepAsync(Guid burnId, BurnEvent.StepEnded ended, Instant now, CancellationToken stop)
    {
        var burn = await db.Burns.FromSql($"select * from burns where id = {burnId} for update").SingleOrDefaultAsync(stop);
        if (burn is not null) await BringAsync(burn, ended, now, stop);
    }

    private async Task BringAsync(Burn burn, BurnEvent happened, Instant now, CancellationToken stop)
    {
        var lead = await db.Leads.FindAsync([burn.LeadId], stop) ?? throw new InvalidOperationException($"Burn {burn.Id} has no lead.");
        var (version, fuse) = await setups.VersionAsync(db, burn.FuseVersionId, stop);
        var setup = await setups.ReadAsync(db, burn.ClientId, stop);
        var facts = await FactsAsync(lead, burn, setup, now, stop);
        var withdrawn = writer.Write(burn, lead, version, fuse, happened, facts, setup.Connections, now);
        db.Tell(burn.ClientId, "lead", lead.Id);
        foreach (var (stepId, reason) in withdrawn) await WithdrawAsync(burn, lead, version, fuse, stepId, reason, facts, setup, now, stop);
    }

    // The answers that lit it are words for what goes out; where nothing is due, nothing goes out, and they are not read.
    private async Task<LeadFacts> FactsAsync(Lead lead, Burn burn, ClientSetup setup, Instant now, CancellationToken stop)
    {
        if (!burn.State.HasDue(now)) return LeadFactsReader.Of(lead, setup.Client, setup.Forms[lead.FormId], [], address);
        var submission = await db.Submissions.AsNoTracking().SingleAsync(s => s.Id == burn.SubmissionId, stop);
        var payload = await RawBody.ReadAsync(submission.ContentType, submission.Raw);
        return LeadFactsReader.Of(lead, setup.Client, setup.Forms[submission.FormId], payload.Answers, address);
    }

    // Only what nobody is sending at this moment can be taken back; what is under way comes to its own end.
    private async Task WithdrawAsync(
        Burn burn, Lead lead, FuseVersion version, CompiledFuse fuse, string stepId, string reason, LeadFacts facts, ClientSetup setup, Instant now, CancellationToken stop)
    {
        var taken = await db.Database.ExecuteSqlAsync(
            $"update deliveries set status = 'struck', reason = {reason}, ended_at = {now} where burn_id = {burn.Id} and step_id = {stepId} and status = 'due'", stop);
        if (taken == 0) return;
        writer.Tell(burn, lead, version, StoryKind.StepStruck, null, stepId, reason, now);
        writer.Write(burn, lead, version, fuse, new BurnEvent.StepEnded(stepId, StepStatus.Struck, reason), facts, setup.Connections, now);
    }
}

using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>Takes out again what an import made.</summary>
public sealed class ImportUndo(AppDb db, IServiceScopeFactory scopes, TimeProvider time)
{
    private const int InOneGo = 1000;

    /// <summary>
    /// Leads that it made and that nobody has touched or heard from since are deleted, with their submissions; leads
    /// that it changed get back what they held, where nothing newer has come. The rest stays, and is told.
    /// </summary>
    public async Task RunAsync(Import import, CancellationToken stop)
    {
        while (await GiveBackAsync(import, stop))
        {
            // Until nothing is left to give back.
        }

        while (await DeleteAsync(import, stop))
        {
            // Until none is left that may go.
        }

        await db.Database.ExecuteSqlAsync(
            $"update story set submission_id = null where submission_id in (select id from submissions where import_id = {import.Id})",
            stop
        );
        await db
            .Submissions.Where(s =>
                s.ImportId == import.Id
                && s.Status != SubmissionStatus.Received
                && !db.Leads.Any(l => l.Id == s.LeadId && l.ImportId == import.Id)
            )
            .ExecuteDeleteAsync(stop);
        var left = await db.Leads.CountAsync(l => l.ImportId == import.Id, stop);
        var now = time.Now();
        await db
            .Imports.Where(i => i.Id == import.Id)
            .ExecuteUpdateAsync(
                i =>
                    i.SetProperty(x => x.Status, ImportStatus.Undone)
                        .SetProperty(x => x.EndedAt, now)
                        .SetProperty(
                            x => x.Reason,
                            left == 0
                                ? null
                                : $"{left} leads stay: somebody has reached out to them, or they have asked again since."
                        ),
                stop
            );
        db.NoteChange(import.ClientId, ChangeKind.Import, import.Id);
        await db.SaveAndNotifyAsync(stop);
    }

    private async Task<bool> GiveBackAsync(Import import, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var own = scope.ServiceProvider.GetRequiredService<AppDb>();
        var changes = await own.ImportChanges.Where(c => c.ImportId == import.Id).Take(InOneGo).ToListAsync(stop);
        if (changes.Count == 0)
            return false;
        var client = await own.Clients.AsNoTracking().SingleAsync(c => c.Id == import.ClientId, stop);
        var ids = changes.ConvertAll(c => c.LeadId);
        var leads = await own.Leads.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id, stop);
        var newer = (
            await own
                .Submissions.Where(s =>
                    s.LeadId != null
                    && ids.Contains(s.LeadId.Value)
                    && s.ImportId != import.Id
                    && s.ReceivedAt > import.StartedAt
                )
                .Select(s => s.LeadId!.Value)
                .Distinct()
                .ToListAsync(stop)
        ).ToHashSet();
        var now = time.Now();
        foreach (var change in changes)
        {
            if (leads.TryGetValue(change.LeadId, out var lead) && !newer.Contains(lead.Id))
            {
                var fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
                foreach (var (key, value) in change.Before)
                {
                    if (value.Length == 0)
                        fields.Remove(key);
                    else
                        fields[key] = value;
                }

                LeadFiller.Fill(
                    lead,
                    fields,
                    Core.Identity.PhoneReader.Read(fields.GetValueOrDefault("phone"), client.Country).Phone,
                    client.Zone
                );
                own.AddStory(
                    lead,
                    StoryKind.Imported,
                    $"the import of {import.FileName} was undone; the lead holds what it held before",
                    now
                );
                own.NoteChange(client.Id, ChangeKind.Lead, lead.Id);
            }

            own.ImportChanges.Remove(change);
        }

        await Renew(own, import, now, stop);
        await own.SaveAndNotifyAsync(stop);
        return true;
    }

    private async Task<bool> DeleteAsync(Import import, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var own = scope.ServiceProvider.GetRequiredService<AppDb>();
        await using var transaction = await own.Database.BeginTransactionAsync(stop);
        var ids = await own
            .Leads.Where(l =>
                l.ImportId == import.Id
                && l.FirstTouchAt == null
                && l.TakenBy == null
                && !own.Submissions.Any(s => s.LeadId == l.Id && s.ImportId != import.Id)
                && !own.Deliveries.Any(d => d.LeadId == l.Id)
            )
            .Select(l => l.Id)
            .Take(InOneGo)
            .ToListAsync(stop);
        if (ids.Count == 0)
            return false;
        await own.Story.Where(s => ids.Contains(s.LeadId)).ExecuteDeleteAsync(stop);
        await own.Visitors.Where(v => ids.Contains(v.LeadId)).ExecuteDeleteAsync(stop);
        await own.Burns.Where(b => ids.Contains(b.LeadId)).ExecuteDeleteAsync(stop);
        await own.LeadContacts.Where(c => ids.Contains(c.LeadId)).ExecuteDeleteAsync(stop);
        await own.Submissions.Where(s => s.LeadId != null && ids.Contains(s.LeadId.Value)).ExecuteDeleteAsync(stop);
        await own.Leads.Where(l => ids.Contains(l.Id)).ExecuteDeleteAsync(stop);
        await Renew(own, import, time.Now(), stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static Task<int> Renew(AppDb own, Import import, Instant now, CancellationToken stop) =>
        own
            .Imports.Where(i => i.Id == import.Id)
            .ExecuteUpdateAsync(i => i.SetProperty(x => x.LeasedUntil, now + ImportLoop.Lease), stop);
}

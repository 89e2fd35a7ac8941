using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Leads;

/// <summary>Reads what stands around a lead: addresses, consents, doubts about who it is.</summary>
public sealed class LeadContextReader(AppDb db)
{
    /// <summary>All of it.</summary>
    public async Task<LeadContext> ReadAsync(Lead lead, CancellationToken stop)
    {
        var fields = (
            await db.LeadFields.AsNoTracking().Where(f => f.ClientId == lead.ClientId).ToListAsync(stop)
        ).ToDictionary(f => f.Key, f => f.AsField(), StringComparer.Ordinal);
        var waits = await db
            .OptIns.AsNoTracking()
            .Where(o =>
                o.LeadId == lead.Id
                && o.ConfirmedAt == null
                && db.Submissions.Any(s => s.Id == o.SubmissionId && s.Status == SubmissionStatus.Unconfirmed)
            )
            .OrderByDescending(o => o.AskedAt)
            .FirstOrDefaultAsync(stop);
        var regroups = await db
            .Regroups.AsNoTracking()
            .Where(r => (r.IntoId == lead.Id || r.FromId == lead.Id) && r.UndoneAt == null)
            .OrderByDescending(r => r.At)
            .ToListAsync(stop);
        var others = regroups.Select(r => r.FromId == lead.Id ? r.IntoId : r.FromId).ToList();
        var names = await db
            .Leads.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(l => l.ClientId == lead.ClientId && others.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, l => l.ShownName(), stop);
        var people = await db.PeopleAsync(
            regroups.Select(r => (Guid?)r.By).Append(lead.OwnerId).Append(lead.OnlyTo),
            stop
        );
        return new(
            [
                .. lead
                    .Fields.Where(f => f.Key is not ("junk_score" or "visitor_id" or "pages_seen"))
                    .OrderBy(f => Place(f.Key))
                    .Select(f => new AnswerLine(LeadField.LabelOf(f.Key, fields.GetValueOrDefault), f.Value)),
            ],
            await AddressesAsync(lead, stop),
            await ConsentsAsync(lead, stop),
            await TwinsAsync(lead, stop),
            [
                .. regroups.Select(r => new LeadRegroup(
                    r.Id,
                    r.Kind,
                    names.GetValueOrDefault(r.FromId == lead.Id ? r.IntoId : r.FromId, "another lead"),
                    r.At,
                    PeopleNames.Of(people, r.By)
                )),
            ],
            PeopleNames.Of(people, lead.OwnerId),
            lead.Tags,
            lead.DoNotContactAt,
            waits?.AskedAt,
            waits?.ExpiresAt,
            PeopleNames.Of(people, lead.OnlyTo)
        );
    }

    private Task<List<LeadConsent>> ConsentsAsync(Lead lead, CancellationToken stop) =>
        db
            .Consents.AsNoTracking()
            .Where(c => c.LeadId == lead.Id)
            .OrderBy(c => c.At)
            .Join(
                db.ConsentTexts,
                c => c.TextId,
                t => t.Id,
                (c, t) => new LeadConsent(c.How, t.Words, t.Version, t.PrivacyUrl, c.At, c.FromAddress, c.Source)
            )
            .ToListAsync(stop);

    private async Task<List<LeadAddress>> AddressesAsync(Lead lead, CancellationToken stop)
    {
        var contacts = await db
            .LeadContacts.AsNoTracking()
            .Where(c => c.LeadId == lead.Id)
            .OrderBy(c => c.Kind)
            .ThenBy(c => c.Value)
            .ToListAsync(stop);
        var unwanted = (
            await db.UnwantedAsync(
                [.. contacts.Select(c => (c.ClientId, new Core.Identity.ContactKey(c.Kind, c.Value)))],
                stop
            )
        )
            .Select(d => d.Value)
            .ToHashSet(StringComparer.Ordinal);
        return contacts.ConvertAll(c => new LeadAddress(c.Kind, c.Value, unwanted.Contains(c.Value)));
    }

    private static int Place(string key) =>
        FieldMap.StandardFields.ToList().IndexOf(key) is var at and >= 0 ? at
        : ObviousMap.Tracking.Contains(key) ? 200
        : 100;

    private async Task<IReadOnlyList<LeadTwin>> TwinsAsync(Lead lead, CancellationToken stop)
    {
        var open = await db
            .Conflicts.AsNoTracking()
            .Where(c => c.State == ConflictState.Open && (c.LeadId == lead.Id || c.OtherId == lead.Id))
            .ToListAsync(stop);
        var ids = open.ConvertAll(c => c.LeadId == lead.Id ? c.OtherId : c.LeadId);
        var names = await db
            .Leads.AsNoTracking()
            .Where(l => ids.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, l => l.ShownName(), stop);
        return
        [
            .. open.Select(c => (c, Other: c.LeadId == lead.Id ? c.OtherId : c.LeadId))
                .Where(c => names.ContainsKey(c.Other))
                .Select(c => new LeadTwin(c.c.Id, c.Other, names[c.Other], c.c.Words)),
        ];
    }
}

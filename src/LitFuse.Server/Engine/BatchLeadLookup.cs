using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Engine;

/// <summary>A submission, read.</summary>
public sealed record ReadSubmission(Submission Submission, Payload Payload, MappedLead? Mapped, Envelope? Envelope);

/// <summary>Who is known of the people of a batch, and what of them: read at once, under locks.</summary>
public sealed class BatchLeadLookup(AppDb db)
{
    private readonly Dictionary<(Guid Client, ContactKey Key, bool Test), List<Lead>> byContact = [];
    private readonly Dictionary<(Guid Form, string OwnId), Lead> byOwnId = [];
    private readonly Dictionary<Guid, Lead> byReceipt = [];
    private readonly Dictionary<Guid, Lead> byId = [];
    private readonly Dictionary<Guid, HeldLead> held = [];
    private readonly HashSet<(Guid Client, ContactKey Key)> unwanted = [];
    private readonly Dictionary<(Guid Form, string Mark), ConsentText> texts = [];
    private readonly HashSet<(Guid Lead, Guid Form, string Email)> confirmed = [];

    /// <summary>
    /// Locks the people in one order, then reads who is known: two processes that get one person's two submissions at
    /// once make one lead.
    /// </summary>
    public async Task ReadAsync(IReadOnlyList<ReadSubmission> read, CancellationToken stop)
    {
        var keys = read.Where(r => r.Mapped is not null)
            .SelectMany(r => r.Mapped!.Keys().Select(k => (r.Submission.ClientId, Key: k)))
            .Distinct()
            .ToList();
        var names = keys.Select(k => $"{k.ClientId:N}{k.Key.Kind}{k.Key.Value}")
            .Concat(
                read.Where(r => r.Submission.OwnId is not null)
                    .Select(r => $"{r.Submission.FormId:N}{r.Submission.OwnId}")
            )
            .Distinct()
            .ToArray();
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(k) from (select distinct hashtextextended(n, 0) k from unnest({names}) n) l order by k",
            stop
        );

        // An import or a merge holds its client's lock alone while it writes; all others share it.
        var clients = read.Select(r => r.Submission.ClientId.ToString("N")).Distinct().ToArray();
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock_shared(k) from (select distinct hashtextextended(n, 1) k from unnest({clients}) n) l order by k",
            stop
        );

        await HoldAsync(keys, read, stop);
        foreach (var (contact, lead) in await db.HeldByAsync(keys, stop))
            Of(contact.ClientId, new(contact.Kind, contact.Value), contact.Test).Add(lead.Lead);
        foreach (var row in await db.UnwantedAsync(keys, stop))
            unwanted.Add((row.ClientId, new(row.Kind, row.Value)));
        await ReadEditedAsync(read, stop);
        await ReadContinuedAsync(read, stop);
        await ReadTextsAsync(read, stop);
        // Those that came to be known between the question and the lock.
        Remember(
            await HeldLead.ManyAsync(
                db,
                Known.Select(l => l.Id).Where(id => !held.ContainsKey(id)),
                stop,
                mergedToo: true
            )
        );
    }

    /// <summary>A lead of this batch, as the transaction holds it: known before, or made in it.</summary>
    public HeldLead Held(Lead lead) =>
        held.TryGetValue(lead.Id, out var known) ? known : held[lead.Id] = HeldLead.Made(db, lead);

    /// <summary>All leads that are known, as the transaction holds them.</summary>
    public IReadOnlyCollection<HeldLead> AllHeld => held.Values;

    private void Remember(IEnumerable<HeldLead> leads)
    {
        foreach (var lead in leads)
            held[lead.Id] = lead;
    }

    // Everybody whom this batch may change is held before anything of them is read, in one order: those known by an
    // address, those who send again or amend, and those who confirmed.
    private async Task HoldAsync(
        List<(Guid ClientId, ContactKey Key)> keys,
        IReadOnlyList<ReadSubmission> read,
        CancellationToken stop
    )
    {
        Guid[] clients = [.. keys.Select(k => k.ClientId)],
            leads = [.. read.Select(r => r.Submission.LeadId).OfType<Guid>().Distinct()],
            amended = [.. read.Select(r => r.Envelope?.AmendsReceipt).OfType<Guid>().Distinct()];
        string[] kinds = [.. keys.Select(k => Words.Of(k.Key.Kind))],
            values = [.. keys.Select(k => k.Key.Value)];
        var own = read.Where(r => r.Submission.OwnId is not null)
            .Select(r => (r.Submission.FormId, r.Submission.OwnId))
            .Distinct()
            .ToList();
        Guid[] forms = [.. own.Select(o => o.FormId)];
        string[] ownIds = [.. own.Select(o => o.OwnId!)];
        var ids = await db
            .Database.SqlQuery<Guid>(
                $"""
                select c.lead_id as "Value" from unnest({clients}, {kinds}, {values}) as k(client_id, kind, value) join lead_contacts c on c.client_id = k.client_id and c.kind = k.kind and c.value = k.value
                union select s.lead_id from unnest({forms}, {ownIds}) as k(form_id, own_id) join submissions s on s.form_id = k.form_id and s.own_id = k.own_id where s.lead_id is not null
                union select lead_id from submissions where id = any({amended}) and lead_id is not null
                union select unnest({leads})
                """
            )
            .ToListAsync(stop);
        if (ids.Count > 0)
            Remember(await HeldLead.ManyAsync(db, ids, stop, mergedToo: true));
    }

    /// <summary>All leads that are known, once each.</summary>
    public IEnumerable<Lead> Known =>
        byContact
            .Values.SelectMany(l => l)
            .Concat(byOwnId.Values)
            .Concat(byReceipt.Values)
            .Concat(byId.Values)
            .DistinctBy(l => l.Id);

    /// <summary>Whose this address is, among real leads or among tests: several, where people share it.</summary>
    public IReadOnlyList<Lead> Owners(Guid client, ContactKey key, bool test) =>
        byContact.GetValueOrDefault((client, key, test)) ?? [];

    /// <summary>Writes down whose an address is.</summary>
    public async Task AddAsync(Lead lead, ContactKey key, CancellationToken stop)
    {
        var owners = Of(lead.ClientId, key, lead.Test);
        if (owners.Contains(lead))
            return;
        if (owners.Count > 0)
        {
            foreach (
                var waiting in db.LeadContacts.Local.Where(c =>
                    c.ClientId == lead.ClientId && c.Kind == key.Kind && c.Value == key.Value && c.Test == lead.Test
                )
            )
                waiting.Shared = true;
            await db
                .LeadContacts.Where(c =>
                    c.ClientId == lead.ClientId && c.Kind == key.Kind && c.Value == key.Value && c.Test == lead.Test
                )
                .ExecuteUpdateAsync(c => c.SetProperty(x => x.Shared, true), stop);
        }

        db.LeadContacts.Add(
            new()
            {
                ClientId = lead.ClientId,
                Kind = key.Kind,
                Value = key.Value,
                LeadId = lead.Id,
                Test = lead.Test,
                Shared = owners.Count > 0,
            }
        );
        owners.Add(lead);
    }

    private List<Lead> Of(Guid client, ContactKey key, bool test)
    {
        if (!byContact.TryGetValue((client, key, test), out var owners))
            byContact[(client, key, test)] = owners = [];
        return owners;
    }

    /// <summary>The lead of a submission that was sent before with this id.</summary>
    public Lead? Sent(Guid form, string ownId) => byOwnId.GetValueOrDefault((form, ownId));

    /// <summary>Remembers it for the rest of the batch.</summary>
    public void Sent(Guid form, string ownId, Lead lead) => byOwnId[(form, ownId)] = lead;

    /// <summary>The lead of the submission that this one amends.</summary>
    public Lead? Amended(Guid receipt) => byReceipt.GetValueOrDefault(receipt);

    /// <summary>A lead by its id, for a submission that goes on.</summary>
    public Lead? ById(Guid id) => byId.GetValueOrDefault(id);

    /// <summary>The address of them that is on the do-not-contact list, or <c>null</c>.</summary>
    public ContactKey? Unwanted(Guid client, IEnumerable<ContactKey> keys) =>
        keys.FirstOrDefault(k => unwanted.Contains((client, k)));

    /// <summary>They confirmed this address on this form before.</summary>
    public bool HasConfirmed(Guid lead, Guid form, string email) => confirmed.Contains((lead, form, email));

    /// <summary>The text of a consent by its mark.</summary>
    public ConsentText? Text(Guid form, string mark) => texts.GetValueOrDefault((form, mark));

    /// <summary>The text of a consent, made where it is new.</summary>
    public ConsentText TextFor(Submission of, string words, NodaTime.Instant now)
    {
        var mark = Core.Forms.FormConsent.MarkOf(words, null);
        if (texts.TryGetValue((of.FormId, mark), out var text))
            return text;
        text = new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = of.ClientId,
            FormId = of.FormId,
            Version = texts.Keys.Count(k => k.Form == of.FormId) + 1,
            Mark = mark,
            Words = words,
            MadeAt = now,
        };
        db.ConsentTexts.Add(text);
        return texts[(of.FormId, mark)] = text;
    }

    private async Task ReadEditedAsync(IReadOnlyList<ReadSubmission> read, CancellationToken stop)
    {
        var formIds = read.Select(r => r.Submission.FormId).Distinct().ToList();
        var ownIds = read.Select(r => r.Submission.OwnId).OfType<string>().Distinct().ToList();
        if (ownIds.Count > 0)
        {
            var edited = await db
                .Submissions.Where(s => formIds.Contains(s.FormId) && ownIds.Contains(s.OwnId!) && s.LeadId != null)
                .Join(
                    db.Leads,
                    s => s.LeadId,
                    l => l.Id,
                    (s, l) =>
                        new
                        {
                            s.FormId,
                            s.OwnId,
                            Lead = l,
                        }
                )
                .ToListAsync(stop);
            foreach (var row in edited)
                byOwnId[(row.FormId, row.OwnId!)] = row.Lead;
        }

        var amended = read.Select(r => r.Envelope?.AmendsReceipt).OfType<Guid>().Distinct().ToList();
        if (amended.Count == 0)
            return;
        foreach (
            var row in await db
                .Submissions.Where(s => amended.Contains(s.Id) && s.LeadId != null)
                .Join(db.Leads, s => s.LeadId, l => l.Id, (s, l) => new { s.Id, Lead = l })
                .ToListAsync(stop)
        )
            byReceipt[row.Id] = row.Lead;
    }

    private async Task ReadContinuedAsync(IReadOnlyList<ReadSubmission> read, CancellationToken stop)
    {
        var ids = read.Select(r => r.Submission.LeadId).OfType<Guid>().Distinct().ToList();
        if (ids.Count > 0)
            foreach (var lead in await db.Leads.Where(l => ids.Contains(l.Id)).ToListAsync(stop))
                byId[lead.Id] = lead;
        var known = Known.Select(l => l.Id).ToList();
        if (known.Count == 0)
            return;
        foreach (
            var row in await db
                .OptIns.AsNoTracking()
                .Where(o => known.Contains(o.LeadId) && o.ConfirmedAt != null)
                .Select(o => new
                {
                    o.LeadId,
                    o.FormId,
                    o.Email,
                })
                .ToListAsync(stop)
        )
            confirmed.Add((row.LeadId, row.FormId, row.Email));
    }

    private async Task ReadTextsAsync(IReadOnlyList<ReadSubmission> read, CancellationToken stop)
    {
        var formIds = read.Where(r =>
                r.Payload.Signs.ContainsKey("consent") || r.Mapped?.Values.ContainsKey("consent") == true
            )
            .Select(r => r.Submission.FormId)
            .Distinct()
            .ToList();
        if (formIds.Count == 0)
            return;
        foreach (
            var text in await db.ConsentTexts.AsNoTracking().Where(t => formIds.Contains(t.FormId)).ToListAsync(stop)
        )
            texts[(text.FormId, text.Mark)] = text;
    }
}

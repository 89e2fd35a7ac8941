using LitFuse.Core.Fuses;
using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Server.Features.Clients;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Turns received submissions into leads and lights fuses: a batch in one transaction, which holds the rows (SKIP
/// LOCKED) and calls nothing outside. A process killed in the middle leaves them as they were.
/// </summary>
public sealed class SubmissionRun(AppDb db, BurnWriter burns, ClientSetups setups, SourceKinds kinds, PublicAddress address, TimeProvider time)
{
    /// <summary>How many are done at once.</summary>
    public const int MostAtOnce = 100;

    /// <summary>After so many failures a submission is set aside.</summary>
    public const int MostAttempts = 5;

    private readonly Dictionary<(Guid Client, ContactKey Key), Lead> byContact = [];
    private readonly Dictionary<(Guid Form, string OwnId), Lead> byOwnId = [];
    private readonly Dictionary<Guid, Lead> byReceipt = [];
    private readonly Dictionary<(Guid Lead, Guid Fuse), List<Burn>> burnsOf = [];
    private IReadOnlyDictionary<Guid, ClientSetup> around = null!;

    /// <summary>True when a burn that was lit wants waking later.</summary>
    public bool Wakes { get; private set; }

    /// <summary>Does up to <paramref name="most"/> submissions.</summary>
    /// <returns>How many were claimed.</returns>
    public async Task<int> RunAsync(int most, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        var claimed = await db.Submissions
            .FromSql($"select * from submissions where status = 'received' and due_at <= {now} order by due_at, id limit {most} for update skip locked")
            .ToListAsync(stop);
        if (claimed.Count == 0) return 0;

        around = await setups.ReadAsync(db, [.. claimed.Select(s => s.ClientId).Distinct()], stop);
        var read = new List<ReadOne>();
        foreach (var submission in claimed.OrderBy(s => s.ReceivedAt).ThenBy(s => s.Id))
        {
            var setup = around[submission.ClientId];
            var form = setup.Forms[submission.FormId];
            var payload = await kinds.ReadAsync(setup.SourceKinds[form.Id], form.Picks, submission);
            var mapped = form.State == FormState.Receiving && setup.Maps.TryGetValue(submission.FormId, out var map) ? MapReader.Apply(map, payload.Answers, setup.Client.Country) : null;
            read.Add(new(submission, payload, mapped, Envelope.Read(submission.Envelope)));
        }

        await ReadPeopleAsync(read, stop);
        foreach (var one in read) Process(one, time.Now());
        await db.SaveAndTellAsync(stop);
        await transaction.CommitAsync(stop);
        return claimed.Count;
    }

    /// <summary>After a batch failed: counts the failure against the first submission due, and sets it aside after the last try.</summary>
    public async Task SetBackAsync(string reason, CancellationToken stop)
    {
        var now = time.Now();
        await db.Database.ExecuteSqlAsync(
            $"""
            update submissions set attempts = attempts + 1, reason = {reason}, due_at = {now} + interval '1 second' * power(2, attempts),
                   status = case when attempts + 1 >= {MostAttempts} then 'stuck' else status end
            where id = (select id from submissions where status = 'received' and due_at <= {now} order by due_at, id limit 1 for update skip locked)
            """,
            stop);
    }

    // Locks the people of this batch in one order, then reads who is known: two processes that get one person's two
    // submissions at once make one lead.
    private async Task ReadPeopleAsync(List<ReadOne> read, CancellationToken stop)
    {
        var keys = read.Where(r => r.Mapped is not null).SelectMany(r => r.Mapped!.Keys().Select(k => (r.Submission.ClientId, Key: k))).Distinct().ToList();
        var names = keys.Select(k => $"{k.ClientId:N}{k.Key.Kind}{k.Key.Value}").Concat(
            read.Where(r => r.Submission.OwnId is not null).Select(r => $"{r.Submission.FormId:N}{r.Submission.OwnId}")).Distinct().ToArray();
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(k) from (select distinct hashtextextended(n, 0) k from unnest({names}) n) l order by k", stop);

        // An import holds its client's lock alone while it writes a chunk; all others share it.
        var clients = read.Select(r => r.Submission.ClientId.ToString("N")).Distinct().ToArray();
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock_shared(k) from (select distinct hashtextextended(n, 1) k from unnest({clients}) n) l order by k", stop);

        foreach (var (contact, lead) in await db.KnownAsync(keys, tracked: true, stop)) byContact[(contact.ClientId, new(contact.Kind, contact.Value))] = lead;

        var formIds = read.Select(r => r.Submission.FormId).Distinct().ToList();
        var ownIds = read.Select(r => r.Submission.OwnId).OfType<string>().Distinct().ToList();
        if (ownIds.Count > 0)
        {
            var edited = await db.Submissions.Where(s => formIds.Contains(s.FormId) && ownIds.Contains(s.OwnId!) && s.LeadId != null)
                .Join(db.Leads, s => s.LeadId, l => l.Id, (s, l) => new { s.FormId, s.OwnId, Lead = l }).ToListAsync(stop);
            foreach (var row in edited) byOwnId[(row.FormId, row.OwnId!)] = row.Lead;
        }

        var amended = read.Select(r => r.Envelope?.AmendsReceipt).OfType<Guid>().Distinct().ToList();
        if (amended.Count > 0)
        {
            var before = await db.Submissions.Where(s => amended.Contains(s.Id) && s.LeadId != null).Join(db.Leads, s => s.LeadId, l => l.Id, (s, l) => new { s.Id, Lead = l }).ToListAsync(stop);
            foreach (var row in before) byReceipt[row.Id] = row.Lead;
        }

        var leadIds = byContact.Values.Concat(byOwnId.Values).Concat(byReceipt.Values).Select(l => l.Id).Distinct().ToList();
        if (leadIds.Count == 0) return;
        foreach (var burn in await db.Burns.AsNoTracking().Where(b => leadIds.Contains(b.LeadId)).ToListAsync(stop)) BurnsOf(burn.LeadId, burn.FuseId).Add(burn);
    }

    private void Process(ReadOne one, Instant now)
    {
        var (submission, payload, mapped, envelope) = one;
        db.Tell(submission.ClientId, "form", submission.FormId);
        if (payload.Unreadable is { } fault)
        {
            (submission.Status, submission.Reason) = (SubmissionStatus.Unreadable, fault);
            return;
        }

        if (mapped is null)
        {
            (submission.Status, submission.Reason) = (SubmissionStatus.Waiting, FormOf(submission).State switch
            {
                FormState.Paused => "the form is paused",
                FormState.Offered => "the form is not chosen",
                _ => "the form's field map is not confirmed",
            });
            return;
        }

        submission.Status = SubmissionStatus.Processed;
        submission.Reason = null;
        if (EditedLead(submission, envelope) is { } before)
        {
            submission.LeadId = before.Id;
            Fill(before, mapped, submission, envelope);
            Tell(before, submission, StoryKind.SubmissionEdited, submission.ReceivedAt, envelope?.AmendsReceipt is not null ? "they amended their answers; the lead has the newest" : "sent again with other answers; the lead has the newest", now);
            db.Tell(submission.ClientId, "lead", before.Id);
            return;
        }

        var match = LeadMatcher.Match(mapped.Keys(), key => byContact.GetValueOrDefault((submission.ClientId, key)));
        var lead = match.Lead ?? MakeLead(submission, now);
        submission.LeadId = lead.Id;
        Fill(lead, mapped, submission, envelope);
        foreach (var key in match.NewKeys)
        {
            db.LeadContacts.Add(new() { ClientId = submission.ClientId, Kind = key.Kind, Value = key.Value, LeadId = lead.Id });
            byContact[(submission.ClientId, key)] = lead;
        }

        if (submission.OwnId is { } own) byOwnId[(submission.FormId, own)] = lead;
        if (match.Lead is not null) AskAgain(lead, submission);
        Tell(lead, submission, StoryKind.Submitted, submission.AskedAt, Submitted(submission, envelope), envelope?.ToldAt ?? submission.ReceivedAt);
        Tell(lead, submission, StoryKind.Acknowledged, submission.ReceivedAt, "on disk, and its sender was told", submission.ReceivedAt);
        Tell(lead, submission, match.Lead is null ? StoryKind.LeadMade : StoryKind.LeadMatched, now, match.Because, now);
        if (match.Conflict is { } other) Tell(lead, submission, StoryKind.LeadConflict, now, $"the telephone number is also {other.ShownName()}'s", now);
        foreach (var (field, unread) in mapped.Faults) Tell(lead, submission, StoryKind.AnswerUnread, now, $"{FormOf(submission).LabelOf(field)}: {unread}", now);
        if (payload.Answers.FirstOrDefault(a => a.Field == "visitor_id") is { Value: { Length: > 0 and <= 100 } visitor }) KnowVisitor(lead, visitor, now);
        db.Tell(submission.ClientId, "lead", lead.Id);
        if (!submission.Quiet) Light(lead, submission, payload, now);
    }

    // Sent again with its own id, or amended by its signed link.
    private Lead? EditedLead(Submission submission, Envelope? envelope)
    {
        if (envelope?.AmendsReceipt is { } receipt && byReceipt.TryGetValue(receipt, out var amended)) return amended;
        return submission.OwnId is { } ownId ? byOwnId.GetValueOrDefault((submission.FormId, ownId)) : null;
    }

    private string Submitted(Submission submission, Envelope? envelope) => envelope?.Via switch
    {
        "hand" => $"{FormOf(submission).Name}, typed in by {envelope.Person}",
        "api" => $"{FormOf(submission).Name}, with the key {envelope.Person}",
        "test" => $"{FormOf(submission).Name}, a test sent by {envelope.Person}",
        _ => FormOf(submission).Name + (submission.Test ? ", a test" : ""),
    };

    private void KnowVisitor(Lead lead, string visitor, Instant now)
    {
        var known = db.Visitors.Local.FirstOrDefault(v => v.ClientId == lead.ClientId && v.VisitorId == visitor) ?? db.Visitors.Find(lead.ClientId, visitor);
        if (known is null) db.Visitors.Add(new() { ClientId = lead.ClientId, VisitorId = visitor, LeadId = lead.Id, SeenAt = now });
        else known.LeadId = lead.Id;
    }

    private Lead MakeLead(Submission submission, Instant now)
    {
        var client = ClientOf(submission);
        var lead = new Lead
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = client.Id,
            FormId = submission.FormId,
            Zone = client.Zone,
            AskedAt = submission.AskedAt,
            TargetAt = client.TargetFor(submission.AskedAt),
            Test = submission.Test,
            Quiet = submission.Quiet,
            ImportId = submission.ImportId,
        };
        db.Leads.Add(lead);
        return lead;
    }

    private void AskAgain(Lead lead, Submission submission)
    {
        if (lead.FirstTouchAt is null && !lead.Quiet) return;
        lead.Quiet = submission.Quiet;
        lead.FormId = submission.FormId;
        lead.AskedAt = submission.AskedAt;
        lead.TargetAt = around[lead.ClientId].Client.TargetFor(submission.AskedAt);
        (lead.TakenBy, lead.TakenAt, lead.AutoTouchAt, lead.FirstTouchAt, lead.FirstTouchBy) = (null, null, null, null, null);
    }

    private void Fill(Lead lead, MappedLead mapped, Submission submission, Envelope? envelope)
    {
        var client = ClientOf(submission);
        var fields = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
        foreach (var (key, value) in mapped.Values) fields[key] = value;
        // Rules may ask for it; a clean submission takes nothing back that an earlier one said.
        if (envelope?.Junk > 0) fields["junk_score"] = envelope.Junk.ToString(System.Globalization.CultureInfo.InvariantCulture);
        LeadFiller.Fill(lead, fields, mapped.Phone, client.Zone);
    }

    private void Light(Lead lead, Submission submission, Payload payload, Instant now)
    {
        var form = FormOf(submission);
        var facts = LeadFactsReader.Of(lead, ClientOf(submission), form, payload.Answers, address);
        foreach (var version in around[submission.ClientId].Armed.Where(v => v.Definition.LitBy.Any(l => l.Event == LitBy.Submission && l.Forms.Contains(form.Key))))
        {
            var earlier = BurnsOf(lead.Id, version.FuseId);
            var hindrance = version.Definition.Relight switch
            {
                Relight.Once when earlier.Count > 0 => "it burns once for a lead, and has",
                Relight.WhenLastEnded when earlier.Exists(b => b.Status == BurnStatus.Burning) => "the last one still burns",
                _ => null,
            };
            if (hindrance is not null)
            {
                Tell(lead, submission, StoryKind.FuseNotRelit, now, "not relit, because " + hindrance, now).Fuse = BurnWriter.NameOf(version);
                continue;
            }

            var burn = new Burn
            {
                Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                FuseId = version.FuseId,
                FuseVersionId = version.Id,
                SubmissionId = submission.Id,
                LitAt = now,
            };
            burn.State = BurnState.New(burn.Id, submission.AskedAt, now);
            db.Burns.Add(burn);
            earlier.Add(burn);
            burns.Tell(burn, lead, version, StoryKind.FuseLit, null, null, "by the submission on " + form.Name, now).SubmissionId = submission.Id;
            burns.Write(burn, lead, version, setups.Compiled(version).Fuse, new BurnEvent.Lit(), facts, around[lead.ClientId].Connections, now);
            Wakes |= burn.WakeAt is not null;
        }
    }

    private List<Burn> BurnsOf(Guid leadId, Guid fuseId)
    {
        if (!burnsOf.TryGetValue((leadId, fuseId), out var list)) burnsOf[(leadId, fuseId)] = list = [];
        return list;
    }

    private StoryEvent Tell(Lead lead, Submission submission, StoryKind kind, Instant at, string words, Instant knownAt)
    {
        var line = new StoryEvent { ClientId = lead.ClientId, LeadId = lead.Id, Kind = kind, At = at, KnownAt = knownAt, Words = words, SubmissionId = submission.Id };
        db.Story.Add(line);
        return line;
    }

    private sealed record ReadOne(Submission Submission, Payload Payload, MappedLead? Mapped, Envelope? Envelope);

    private Client ClientOf(Submission submission) => around[submission.ClientId].Client;

    private Form FormOf(Submission submission) => around[submission.ClientId].Forms[submission.FormId];
}

/// <summary>Puts values into a lead.</summary>
public static class LeadFiller
{
    /// <summary>Sets the lead's own columns from <paramref name="fields"/>.</summary>
    public static void Fill(Lead lead, IReadOnlyDictionary<string, string> fields, Phone? phone, string clientZone)
    {
        lead.Fields = fields;
        lead.FirstName = fields.GetValueOrDefault("first_name");
        lead.LastName = fields.GetValueOrDefault("last_name");
        lead.Email = fields.GetValueOrDefault("email");
        if (phone is not null || !lead.PhoneReadable)
        {
            lead.Phone = phone?.E164 ?? fields.GetValueOrDefault("phone");
            lead.PhoneReadable = phone is not null;
            lead.Zone = LeadZone.For(phone?.Country, clientZone);
        }

        var search = string.Join('\n', fields.Values.Prepend(lead.ShownName())).ToLowerInvariant();
        lead.SearchText = search.Length > 2000 ? search[..2000] : search;
    }
}

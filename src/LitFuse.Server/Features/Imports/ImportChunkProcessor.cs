using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace LitFuse.Server.Features.Imports;

/// <summary>What a row becomes.</summary>
public enum RowOutcome
{
    /// <summary>A lead nobody knew.</summary>
    New,

    /// <summary>A lead that is known, with something new about it.</summary>
    Update,

    /// <summary>It is here already.</summary>
    Double,

    /// <summary>It cannot be imported.</summary>
    Bad,
}

/// <summary>
/// Decides for a chunk of rows what each becomes, by the same matching as every submission's, and writes it set by set.
/// The client's lock is held alone meanwhile, so that two sources of one person make one lead.
/// </summary>
public sealed class ImportChunkProcessor(AppDb db, SourceKindsOf kinds)
{
    private readonly Dictionary<ContactKey, List<Lead>> byContact = [];
    private readonly Dictionary<(Guid Form, string OwnId), List<Submission>> byOwnId = [];
    private readonly HashSet<(Guid Form, string Key)> keys = [];
    private readonly Dictionary<Guid, Lead> known = [];

    /// <summary>Takes the client's lock until the transaction ends.</summary>
    public async Task LockAsync(Guid clientId, CancellationToken stop)
    {
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({clientId.ToString("N")}, 1))",
            stop
        );
        // What the last chunks added is not in the planner's statistics yet: it would read whole tables where an index
        // is right.
        await db.Database.ExecuteSqlAsync(
            $"set local enable_seqscan = off; set local enable_hashjoin = off; set local enable_mergejoin = off; set local max_parallel_workers_per_gather = 0",
            stop
        );
    }

    /// <summary>Reads who and what is known of these rows.</summary>
    public async Task ReadAsync(Guid clientId, IReadOnlyList<ImportRow> rows, CancellationToken stop)
    {
        var good = rows.Where(r => r.Fault is null).ToList();
        var addresses = good.SelectMany(r => r.Mapped!.Keys()).Distinct().Select(k => (clientId, k)).ToList();
        foreach (var (contact, found) in await db.KnownAsync(addresses, stop))
        {
            if (contact.Test)
                continue;
            if (!known.TryGetValue(found.Id, out var lead))
                known[found.Id] = lead = found;
            Owners(new(contact.Kind, contact.Value)).Add(lead);
        }

        var forms = good.Select(r => r.FormId!.Value).Distinct().ToArray();
        var ownIds = good.Select(r => r.Payload.OwnId).OfType<string>().Distinct().ToArray();
        if (ownIds.Length > 0)
        {
            foreach (
                var sent in await db
                    .Submissions.IgnoreQueryFilters()
                    .AsNoTracking()
                    .Where(s => forms.Contains(s.FormId) && s.LeadId != null && ownIds.Contains(s.OwnId!))
                    .ToListAsync(stop)
            )
                Of(sent.FormId, sent.OwnId!).Add(sent);
        }

        var (ofForms, dedupe) = (good.Select(r => r.FormId!.Value).ToArray(), good.Select(r => r.DedupeKey).ToArray());
        var there = db.Submissions.FromSql(
            $"""
            select s.* from unnest({ofForms}, {dedupe}) as k(form_id, dedupe_key) join submissions s on s.form_id = k.form_id and s.dedupe_key = k.dedupe_key
            """
        );
        foreach (var row in await there.Select(s => new { s.FormId, s.DedupeKey }).ToListAsync(stop))
            keys.Add((row.FormId, Convert.ToHexString(row.DedupeKey)));
    }

    /// <summary>What a row becomes, and the lead it is of. Later rows know of it.</summary>
    public async ValueTask<(RowOutcome Outcome, Lead? Lead, LeadMatch<Lead> Match)> DecideAsync(
        ImportRow row,
        Func<Lead> make
    )
    {
        if (row.Fault is not null)
            return (RowOutcome.Bad, null, Nothing);
        if (!keys.Add((row.FormId!.Value, Convert.ToHexString(row.DedupeKey))))
            return (RowOutcome.Double, null, Nothing);
        Lead? edited = null;
        if (row.Payload.OwnId is { } ownId)
        {
            foreach (var before in Of(row.FormId.Value, ownId))
            {
                if (await SaysNothingNewAsync(row, before))
                    return (RowOutcome.Double, null, Nothing);
                edited ??= before.LeadId is { } id ? await LeadAsync(id) : null;
            }
        }

        var said = new PersonSketch(
            row.Mapped!.Values.GetValueOrDefault("first_name"),
            row.Mapped.Values.GetValueOrDefault("last_name"),
            row.Mapped.Email
        );
        var match = LeadMatcher.Match(row.Mapped.Keys(), said, Owners, l =>
            l == edited ? new(null, null, null) : new(l.FirstName, l.LastName, l.Email)
        );
        var lead = edited ?? match.Lead;
        var outcome = lead is null ? RowOutcome.New : RowOutcome.Update;
        lead ??= make();
        foreach (var key in match.NewKeys)
            Owners(key).Add(lead);
        return (outcome, lead, match);
    }

    private static readonly LeadMatch<Lead> Nothing = new(null, "", null, [], []);

    private List<Lead> Owners(ContactKey key)
    {
        if (!byContact.TryGetValue(key, out var owners))
            byContact[key] = owners = [];
        return owners;
    }

    /// <summary>The addresses of these rows that are on the do-not-contact list.</summary>
    public async Task<IReadOnlySet<ContactKey>> UnwantedAsync(
        Guid clientId,
        IReadOnlyList<ImportRow> rows,
        CancellationToken stop
    ) =>
        (
            await db.UnwantedAsync(
                [
                    .. rows.Where(r => r.Fault is null)
                        .SelectMany(r => r.Mapped!.Keys())
                        .Distinct()
                        .Select(k => (clientId, k)),
                ],
                stop
            )
        )
            .Select(d => new ContactKey(d.Kind, d.Value))
            .ToHashSet();

    private async ValueTask<Lead?> LeadAsync(Guid id)
    {
        if (!known.TryGetValue(id, out var lead))
            known[id] = lead = await db.Leads.AsNoTracking().SingleAsync(l => l.Id == id);
        return lead;
    }

    // A file that lists what was pushed already may leave columns out; what it does say must be what was said.
    private async ValueTask<bool> SaysNothingNewAsync(ImportRow row, Submission before)
    {
        var said = (await kinds.ReadAsync(before)).Answers.ToDictionary(
            a => a.Field,
            a => a.Value,
            StringComparer.Ordinal
        );
        return row.Payload.Answers.All(a => a.Value.Length == 0 || said.GetValueOrDefault(a.Field) == a.Value);
    }

    private List<Submission> Of(Guid form, string ownId)
    {
        if (!byOwnId.TryGetValue((form, ownId), out var list))
            byOwnId[(form, ownId)] = list = [];
        return list;
    }
}

/// <summary>Writes what a chunk became.</summary>
public sealed class ImportWriter(
    AppDb db,
    Import import,
    Client client,
    IReadOnlyDictionary<string, FillRule> rules,
    IReadOnlySet<ContactKey> unwanted,
    string who,
    Instant now
)
{
    private readonly List<object> added = [];
    private readonly Dictionary<Guid, Lead> changed = [];
    private readonly Dictionary<Guid, ImportChange> before = [];
    private readonly HashSet<Guid> fresh = [];
    private readonly HashSet<ContactKey> shared = [];

    /// <summary>What each row became, counted.</summary>
    public Dictionary<RowOutcome, int> Counts { get; } = Enum.GetValues<RowOutcome>().ToDictionary(o => o, _ => 0);

    /// <summary>A lead that an import makes.</summary>
    public Lead Make(ImportRow row)
    {
        var asked = Asked(row);
        var lead = new Lead
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = client.Id,
            FormId = row.FormId!.Value,
            Zone = client.Zone,
            AskedAt = asked,
            TargetAt = client.TargetFor(asked),
            Quiet = true,
            ImportId = import.Id,
        };
        fresh.Add(lead.Id);
        added.Add(lead);
        return lead;
    }

    /// <summary>Takes one row.</summary>
    public void Take(ImportRow row, RowOutcome outcome, Lead? lead, LeadMatch<Lead> match)
    {
        Counts[outcome]++;
        if (outcome == RowOutcome.Bad)
            added.Add(
                new ImportBadRow
                {
                    ImportId = import.Id,
                    ClientId = client.Id,
                    Row = row.Number,
                    Reason = row.Fault!,
                    Cells = row.Cells,
                }
            );
        if (lead is null)
            return;
        Fill(lead, row);
        // Of a lead that is there already the list was asked when it came, and when the list grew.
        if (fresh.Contains(lead.Id) && row.Mapped!.Keys().Any(unwanted.Contains))
            lead.DoNotContactAt ??= now;
        foreach (var key in match.NewKeys)
            Know(lead, key, match.Shared.Contains(key));
        var submission = new Submission
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = client.Id,
            FormId = row.FormId!.Value,
            ReceivedAt = now,
            ContentType = "application/json",
            Raw = row.Raw,
            OwnId = row.Payload.OwnId,
            DedupeKey = row.DedupeKey,
            Status = SubmissionStatus.Processed,
            DueAt = now,
            LeadId = lead.Id,
            SentAt = row.Payload.SentAt,
            Quiet = true,
            ImportId = import.Id,
            Envelope = Via,
        };
        added.Add(submission);
        added.Add(
            new StoryEvent
            {
                ClientId = client.Id,
                LeadId = lead.Id,
                Kind = StoryKind.Imported,
                At = now,
                KnownAt = now,
                SubmissionId = submission.Id,
                Words = string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"{import.FileName}, row {row.Number}, {who}"
                ),
            }
        );
    }

    private void Know(Lead lead, ContactKey key, bool isShared)
    {
        var contact = new LeadContact
        {
            ClientId = client.Id,
            Kind = key.Kind,
            Value = key.Value,
            LeadId = lead.Id,
            Shared = isShared,
        };
        added.Add(contact);
        if (isShared)
            shared.Add(key);
        if (isShared)
            foreach (var earlier in added.OfType<LeadContact>().Where(c => c.Kind == key.Kind && c.Value == key.Value))
                earlier.Shared = true;
    }

    private static readonly string Via = new Envelope("import").Write();

    /// <summary>Writes all of it: new rows by COPY, changed leads in one statement.</summary>
    public async Task WriteAsync(CancellationToken stop)
    {
        await UpdateAsync(stop);
        foreach (var (kind, value) in shared)
            await db
                .LeadContacts.Where(c => c.ClientId == client.Id && c.Kind == kind && c.Value == value && !c.Test)
                .ExecuteUpdateAsync(c => c.SetProperty(x => x.Shared, true), stop);
        added.AddRange(before.Values);
        await BulkCopy.WriteAsync(
            db,
            added.ToLookup(a => a.GetType()),
            (NpgsqlConnection)db.Database.GetDbConnection(),
            stop
        );
        // Of a lead that this import changed before, what was there at first stands already.
        foreach (var lead in changed.Keys)
            db.NoteChange(client.Id, ChangeKind.Lead, lead);
    }

    private void Fill(Lead lead, ImportRow row)
    {
        var values = new Dictionary<string, string>(lead.Fields, StringComparer.Ordinal);
        var was = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (key, value) in row.Mapped!.Values)
        {
            if (values.GetValueOrDefault(key) == value)
                continue;
            if (
                rules.TryGetValue(key, out var rule)
                && !fresh.Contains(lead.Id)
                && (rule == FillRule.Keep || values.ContainsKey(key))
            )
                continue;
            was[key] = values.GetValueOrDefault(key, "");
            values[key] = value;
        }

        if (fresh.Contains(lead.Id))
            LeadFiller.Keep(lead, row.Mapped.Unmapped);
        LeadFiller.Fill(lead, values, row.Mapped.Phone, client.Zone);
        if (fresh.Contains(lead.Id) || was.Count == 0)
            return;
        changed[lead.Id] = lead;
        if (!before.TryGetValue(lead.Id, out var change))
            before[lead.Id] = new()
            {
                ImportId = import.Id,
                LeadId = lead.Id,
                ClientId = client.Id,
                Before = was,
            };
        else
            change.Before = was.Concat(change.Before)
                .GroupBy(p => p.Key, StringComparer.Ordinal)
                .ToDictionary(
                    g => g.Key,
                    g => change.Before.GetValueOrDefault(g.Key, g.First().Value),
                    StringComparer.Ordinal
                );
    }

    private async Task UpdateAsync(CancellationToken stop)
    {
        if (changed.Count == 0)
            return;
        var leads = changed.Values.ToList();
        await using (
            var update = new NpgsqlCommand(
                """
                update leads l set first_name = u.first_name, last_name = u.last_name, email = u.email, phone = u.phone, phone_readable = u.phone_readable, zone = u.zone, fields = u.fields::jsonb, search_text = u.search_text
                from unnest($1, $2, $3, $4, $5, $6, $7, $8, $9) as u(id, first_name, last_name, email, phone, phone_readable, zone, fields, search_text) where l.id = u.id
                """,
                (NpgsqlConnection)db.Database.GetDbConnection()
            )
        )
        {
            void Column<T>(Func<Lead, T> of) =>
                update.Parameters.Add(new() { Value = leads.ConvertAll(l => of(l)).ToArray() });
            void Texts(Func<Lead, string?> of) =>
                update.Parameters.Add(
                    new()
                    {
                        Value = leads.ConvertAll(l => of(l)).ToArray(),
                        NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Text,
                    }
                );
            Column(l => l.Id);
            Texts(l => l.FirstName);
            Texts(l => l.LastName);
            Texts(l => l.Email);
            Texts(l => l.Phone);
            Column(l => l.PhoneReadable);
            Texts(l => l.Zone);
            Texts(l => System.Text.Json.JsonSerializer.Serialize(l.Fields, Core.CoreJson.Options));
            Texts(l => l.SearchText);
            await update.ExecuteNonQueryAsync(stop);
        }

        // What an earlier chunk of this import noted of a lead is older, and is what undoing needs.
        var ids = before.Keys.ToArray();
        foreach (
            var earlier in await db
                .ImportChanges.Where(c => c.ImportId == import.Id && ids.Contains(c.LeadId))
                .ToListAsync(stop)
        )
        {
            earlier.Before = before[earlier.LeadId]
                .Before.Concat(earlier.Before)
                .GroupBy(p => p.Key, StringComparer.Ordinal)
                .ToDictionary(
                    g => g.Key,
                    g => earlier.Before.GetValueOrDefault(g.Key, g.First().Value),
                    StringComparer.Ordinal
                );
            before.Remove(earlier.LeadId);
        }
    }

    private Instant Asked(ImportRow row) => row.Payload.SentAt is { } sent && sent < now ? sent : now;
}

/// <summary>Reads stored submissions of an import's forms.</summary>
public sealed class SourceKindsOf(
    SubmissionReader reader,
    IReadOnlyDictionary<Guid, (string Kind, IReadOnlyList<Pick> Picks)> forms
)
{
    /// <summary>Its answers.</summary>
    public ValueTask<Payload> ReadAsync(Submission submission) =>
        reader.ReadAsync(forms[submission.FormId].Kind, forms[submission.FormId].Picks, submission);
}

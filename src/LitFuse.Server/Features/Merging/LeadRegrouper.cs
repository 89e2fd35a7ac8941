using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Merging;

/// <summary>
/// Makes two leads one, one two, and takes either back. What is moved is noted by id, so that undoing moves just that.
/// </summary>
public sealed class LeadRegrouper(
    AppDb db,
    ClientConfigCache setups,
    SubmissionReader reader,
    BurnService burns,
    TimeProvider time
)
{
    /// <summary>
    /// Everything of <paramref name="gone"/> becomes <paramref name="kept"/>'s, which takes what it has not got.
    /// </summary>
    /// <returns><c>null</c>: one of them was merged meanwhile.</returns>
    public async Task<Regroup?> MergeAsync(Guid kept, Guid gone, Guid by, CancellationToken stop)
    {
        if (await HeldLead.ManyAsync(db, [kept, gone], stop) is not [_, _] both)
            return null;
        var (keeps, goes) = both[0].Id == kept ? (both[0], both[1]) : (both[1], both[0]);
        var (into, from) = (keeps.Lead, goes.Lead);
        var setup = await setups.ReadAsync(db, into.ClientId, stop);
        var now = time.Now();
        // Two burns of one fuse would say everything twice to one person.
        var burning = await db
            .Burns.Where(b => b.LeadId == kept && b.Status == BurnStatus.Burning)
            .Select(b => b.FuseId)
            .ToListAsync(stop);
        await burns.EndDoublesAsync(
            goes,
            burning,
            $"they are {into.ShownName()}, for whom it burns already",
            now,
            stop
        );
        // What both are known by does not move, and so is not moved back.
        var theirs = db.LeadContacts.Where(c =>
            c.LeadId == gone && !db.LeadContacts.Any(o => o.LeadId == kept && o.Kind == c.Kind && o.Value == c.Value)
        );
        var moved = new Moved(
            await db.Submissions.Where(s => s.LeadId == gone).Select(s => s.Id).ToListAsync(stop),
            await theirs.Where(c => c.Kind == ContactKind.Email).Select(c => c.Value).ToListAsync(stop),
            await theirs.Where(c => c.Kind == ContactKind.Phone).Select(c => c.Value).ToListAsync(stop),
            [],
            [],
            [],
            []
        );
        var regroup = Note(RegroupKind.Merge, from, into, by, now);
        regroup.Moved = await WithRestAsync(
            moved,
            await db.Story.Where(s => s.LeadId == gone).Select(s => s.Id).ToListAsync(stop),
            gone,
            null,
            stop
        );

        // The later asking is the present one; who reached out last has reached out.
        if (from.AskedAt > into.AskedAt && !from.Quiet)
            Put(into, Of(from) with { Fields = into.Fields, OwnerId = into.OwnerId ?? from.OwnerId, Tags = into.Tags });
        into.OwnerId ??= from.OwnerId;
        into.OptedOutAt ??= from.OptedOutAt;
        into.DoNotContactAt ??= from.DoNotContactAt;
        into.TimesAsked += from.TimesAsked;
        into.Tags = [.. into.Tags.Union(from.Tags, StringComparer.Ordinal)];
        var (values, _) = Refill.Later(into.Fields, from.Fields, static _ => FillRule.FillEmpties);
        LeadFiller.Refill(into, WithOthers(values, from), setup.Client.Country, setup.Client.Zone);
        from.MergedInto = into.Id;
        await MoveAsync(regroup.Moved, gone, kept, stop);
        Tell(
            into,
            StoryKind.Merged,
            $"{from.ShownName()} turned out to be the same person; all of it stands here now",
            by,
            now
        );
        return await DoneAsync(regroup, into, from, stop);
    }

    /// <summary>
    /// These submissions of a lead are another person's: a new lead has them, and the addresses that only they gave.
    /// </summary>
    public async Task<Regroup?> SplitAsync(
        Guid leadId,
        IReadOnlyList<Guid> submissions,
        Guid by,
        CancellationToken stop
    )
    {
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var from })
            return null;
        var setup = await setups.ReadAsync(db, from.ClientId, stop);
        var now = time.Now();
        var all = await db
            .Submissions.AsNoTracking()
            .Where(s => s.LeadId == leadId)
            .OrderBy(s => s.ReceivedAt)
            .ToListAsync(stop);
        var theirs = all.Where(s => submissions.Contains(s.Id)).ToList();
        var rest = all.Where(s => !submissions.Contains(s.Id)).ToList();
        var (said, stays) = (await ReadAsync(setup, theirs), await ReadAsync(setup, rest));
        var keys = said.SelectMany(m => m.Keys()).Distinct().Except(stays.SelectMany(m => m.Keys())).ToList();
        var into = AnotherOf(from, theirs[^1], setup.Client, now);
        var regroup = Note(RegroupKind.Split, from, into, by, now);
        regroup.IntoBefore = null;
        LeadFiller.Refill(into, Fold(said, setup), setup.Client.Country, setup.Client.Zone);
        // What no submission said (a hand's, a visit's) stays with the lead it was put on.
        var saidKeys = said.Concat(stays).SelectMany(m => m.Values.Keys).ToHashSet(StringComparer.Ordinal);
        var kept = new Dictionary<string, string>(Fold(stays, setup), StringComparer.Ordinal);
        foreach (var (key, value) in from.Fields)
            if (!saidKeys.Contains(key))
                kept[key] = value;
        LeadFiller.Refill(from, kept, setup.Client.Country, setup.Client.Zone);
        db.Leads.Add(into);
        await db.SaveChangesAsync(stop);
        var moved = new Moved(
            [.. theirs.Select(s => s.Id)],
            [.. keys.Where(k => k.Kind == ContactKind.Email).Select(k => k.Value)],
            [.. keys.Where(k => k.Kind == ContactKind.Phone).Select(k => k.Value)],
            [],
            [],
            [],
            []
        );
        var story = await db
            .Story.Where(s =>
                s.LeadId == leadId && s.SubmissionId != null && moved.Submissions.Contains(s.SubmissionId.Value)
            )
            .Select(s => s.Id)
            .ToListAsync(stop);
        regroup.Moved = await WithRestAsync(moved, story, leadId, moved.Submissions, stop);
        await MoveAsync(regroup.Moved, leadId, into.Id, stop);
        Tell(into, StoryKind.Split, $"taken apart from {from.ShownName()}: another person", by, now);
        Tell(
            from,
            StoryKind.Split,
            $"{into.ShownName()} turned out to be another person, and has a page of their own",
            by,
            now
        );
        return await DoneAsync(regroup, into, from, stop);
    }

    private static Lead AnotherOf(Lead from, Submission last, Client client, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = from.ClientId,
            FormId = last.FormId,
            Zone = client.Zone,
            AskedAt = last.AskedAt,
            TargetAt = client.TargetFor(last.AskedAt),
            Test = from.Test,
            OnlyTo = from.OnlyTo,
            Quiet = last.Quiet,
            OptedOutAt = from.OptedOutAt,
            // Whoever reached out to this lead after that asking reached out to them, as far as anybody knows.
            FirstTouchAt = from.FirstTouchAt > last.AskedAt ? from.FirstTouchAt : null,
            FirstTouchBy = from.FirstTouchAt > last.AskedAt ? from.FirstTouchBy : null,
        };

    /// <summary>Moves back what was moved, and gives both their own values again.</summary>
    /// <returns>Why it cannot be undone, or <c>null</c> when it was.</returns>
    public async Task<string?> UndoAsync(Regroup regroup, Guid by, CancellationToken stop)
    {
        var both = await HeldLead.ManyAsync(db, [regroup.FromId, regroup.IntoId], stop, mergedToo: true);
        var (from, into) = (
            both.Single(l => l.Id == regroup.FromId).Lead,
            both.Single(l => l.Id == regroup.IntoId).Lead
        );
        if (into.MergedInto is not null || (regroup.Kind == RegroupKind.Split && from.MergedInto is not null))
            return "Either of the two was merged again since. Undo that one first.";
        var setup = await setups.ReadAsync(db, regroup.ClientId, stop);
        var now = time.Now();
        var newer = await db.Submissions.AnyAsync(s => s.LeadId == into.Id && s.ReceivedAt > regroup.At, stop);
        await MoveAsync(regroup.Moved, into.Id, from.Id, stop);
        from.MergedInto = null;
        if (regroup.Kind == RegroupKind.Merge)
            into.TimesAsked = Math.Max(1, into.TimesAsked - from.TimesAsked);
        Put(from, regroup.FromBefore);
        LeadFiller.Refill(from, regroup.FromBefore.Fields, setup.Client.Country, setup.Client.Zone);
        if (regroup.Kind == RegroupKind.Split)
            await GiveBackAsync(into, from, stop);
        else if (!newer)
        {
            Put(into, regroup.IntoBefore!);
            LeadFiller.Refill(into, regroup.IntoBefore!.Fields, setup.Client.Country, setup.Client.Zone);
        }

        (regroup.UndoneAt, regroup.UndoneBy) = (now, by);
        await db
            .Conflicts.Where(c =>
                c.State == ConflictState.Merged
                && ((c.LeadId == into.Id && c.OtherId == from.Id) || (c.LeadId == from.Id && c.OtherId == into.Id))
            )
            .ExecuteUpdateAsync(
                c => c.SetProperty(x => x.State, ConflictState.Open).SetProperty(x => x.DecidedAt, (Instant?)null),
                stop
            );
        Tell(
            from,
            StoryKind.RegroupUndone,
            regroup.Kind == RegroupKind.Merge
                ? $"the merge with {into.ShownName()} was taken back"
                : "the split was taken back",
            by,
            now
        );
        if (regroup.Kind == RegroupKind.Merge)
            Tell(into, StoryKind.RegroupUndone, $"the merge with {from.ShownName()} was taken back", by, now);
        db.NoteChange(regroup.ClientId, ChangeKind.Lead, from.Id);
        db.NoteChange(regroup.ClientId, ChangeKind.Lead, into.Id);
        return null;
    }

    // Who asked again meanwhile has more than was split off: that stays theirs, on the lead it was taken from.
    private async Task GiveBackAsync(Lead into, Lead from, CancellationToken stop)
    {
        await db
            .Submissions.Where(s => s.LeadId == into.Id)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.LeadId, from.Id), stop);
        await db
            .LeadContacts.Where(c =>
                c.LeadId == into.Id
                && db.LeadContacts.Any(o => o.LeadId == from.Id && o.Kind == c.Kind && o.Value == c.Value)
            )
            .ExecuteDeleteAsync(stop);
        await db
            .LeadContacts.Where(c => c.LeadId == into.Id)
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.LeadId, from.Id), stop);
        into.MergedInto = from.Id;
    }

    private async Task<Regroup> DoneAsync(Regroup regroup, Lead into, Lead from, CancellationToken stop)
    {
        db.Regroups.Add(regroup);
        db.NoteChange(regroup.ClientId, ChangeKind.Lead, into.Id);
        db.NoteChange(regroup.ClientId, ChangeKind.Lead, from.Id);
        await db.SaveChangesAsync(stop);
        return regroup;
    }

    private async Task<Moved> WithRestAsync(
        Moved moved,
        List<long> story,
        Guid lead,
        IReadOnlyList<Guid>? submissions,
        CancellationToken stop
    )
    {
        var burnIds = await db
            .Burns.Where(b => b.LeadId == lead && (submissions == null || submissions.Contains(b.SubmissionId)))
            .Select(b => b.Id)
            .ToListAsync(stop);
        var deliveries = await db
            .Deliveries.Where(d =>
                d.LeadId == lead && (submissions == null || (d.BurnId != null && burnIds.Contains(d.BurnId.Value)))
            )
            .Select(d => d.Id)
            .ToListAsync(stop);
        var ofBurns = submissions is null
            ? []
            : await db
                .Story.Where(s => s.LeadId == lead && s.BurnId != null && burnIds.Contains(s.BurnId.Value))
                .Select(s => s.Id)
                .ToListAsync(stop);
        var consents = await db
            .Consents.Where(c =>
                c.LeadId == lead
                && (submissions == null || (c.SubmissionId != null && submissions.Contains(c.SubmissionId.Value)))
            )
            .Select(c => c.Id)
            .ToListAsync(stop);
        return moved with
        {
            Story = [.. story.Union(ofBurns)],
            Burns = burnIds,
            Deliveries = deliveries,
            Consents = consents,
        };
    }

    private async Task MoveAsync(Moved moved, Guid from, Guid to, CancellationToken stop)
    {
        await db
            .Submissions.Where(s => s.LeadId == from && moved.Submissions.Contains(s.Id))
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.LeadId, to), stop);
        // What both were known by, the one is; and what nobody else has is its alone again.
        await db
            .LeadContacts.Where(c =>
                c.LeadId == from && db.LeadContacts.Any(o => o.LeadId == to && o.Kind == c.Kind && o.Value == c.Value)
            )
            .ExecuteDeleteAsync(stop);
        await db
            .LeadContacts.Where(c =>
                c.LeadId == from
                && (
                    (c.Kind == ContactKind.Email && moved.Emails.Contains(c.Value))
                    || (c.Kind == ContactKind.Phone && moved.Phones.Contains(c.Value))
                )
            )
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.LeadId, to), stop);
        await db
            .LeadContacts.Where(c =>
                c.LeadId == to
                && c.Shared
                && !db.LeadContacts.Any(o =>
                    o.ClientId == c.ClientId
                    && o.Kind == c.Kind
                    && o.Value == c.Value
                    && o.Test == c.Test
                    && o.LeadId != to
                )
            )
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.Shared, false), stop);
        await db
            .Story.Where(s => s.LeadId == from && moved.Story.Contains(s.Id))
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.LeadId, to), stop);
        await db
            .Burns.Where(b => b.LeadId == from && moved.Burns.Contains(b.Id))
            .ExecuteUpdateAsync(b => b.SetProperty(x => x.LeadId, to), stop);
        await db
            .Deliveries.Where(d => d.LeadId == from && moved.Deliveries.Contains(d.Id))
            .ExecuteUpdateAsync(d => d.SetProperty(x => x.LeadId, to), stop);
        // A call that goes on ends its burn's step, wherever the burn is by then.
        await db
            .Calls.Where(c => c.LeadId == from && c.BurnId != null && moved.Burns.Contains(c.BurnId.Value))
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.LeadId, to), stop);
        await db
            .Consents.Where(c => c.LeadId == from && moved.Consents.Contains(c.Id))
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.LeadId, to), stop);
        await db
            .OptIns.Where(o => o.LeadId == from && moved.Submissions.Contains(o.SubmissionId))
            .ExecuteUpdateAsync(o => o.SetProperty(x => x.LeadId, to), stop);
    }

    private async Task<IReadOnlyList<MappedLead>> ReadAsync(ClientConfig setup, IEnumerable<Submission> submissions)
    {
        var read = new List<MappedLead>();
        foreach (var one in submissions)
        {
            if (!setup.Maps.TryGetValue(one.FormId, out var map))
                continue;
            var payload = await reader.ReadAsync(setup, one);
            if (payload.Unreadable is null)
                read.Add(map.Compiled.Read(payload.Answers));
        }

        return read;
    }

    private static IReadOnlyDictionary<string, string> Fold(IReadOnlyList<MappedLead> said, ClientConfig setup)
    {
        IReadOnlyDictionary<string, string> values = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var i = 0; i < said.Count; i++)
            values = i == 0 ? said[0].Values : Refill.Later(values, said[i].Values, setup.RuleOf).Values;
        return values;
    }

    // They are found by every address that either was known by.
    private static IReadOnlyDictionary<string, string> WithOthers(IReadOnlyDictionary<string, string> values, Lead gone)
    {
        var all = new Dictionary<string, string>(values, StringComparer.Ordinal);
        foreach (
            var (field, others, value) in new[]
            {
                ("email", "other_emails", gone.Email),
                ("phone", "other_phones", gone.Phone),
            }
        )
        {
            if (value is null || all.GetValueOrDefault(field) == value)
                continue;
            all[others] = all.TryGetValue(others, out var there) ? there + ", " + value : value;
        }

        return all;
    }

    private static Regroup Note(RegroupKind kind, Lead from, Lead into, Guid by, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = from.ClientId,
            Kind = kind,
            FromId = from.Id,
            IntoId = into.Id,
            FromBefore = Of(from),
            IntoBefore = Of(into),
            At = now,
            By = by,
        };

    private static LeadBefore Of(Lead l) =>
        new(
            l.Fields,
            l.FormId,
            l.AskedAt,
            l.TargetAt,
            l.TakenBy,
            l.TakenAt,
            l.FirstTouchAt,
            l.FirstTouchBy,
            l.AutoTouchAt,
            l.Quiet,
            l.OwnerId,
            l.Tags,
            l.ReachedAt
        );

    private static void Put(Lead l, LeadBefore b)
    {
        (l.Fields, l.FormId, l.AskedAt, l.TargetAt, l.TakenBy, l.TakenAt) = (
            b.Fields,
            b.FormId,
            b.AskedAt,
            b.TargetAt,
            b.TakenBy,
            b.TakenAt
        );
        (l.FirstTouchAt, l.FirstTouchBy, l.AutoTouchAt, l.Quiet, l.OwnerId, l.Tags, l.ReachedAt) = (
            b.FirstTouchAt,
            b.FirstTouchBy,
            b.AutoTouchAt,
            b.Quiet,
            b.OwnerId,
            b.Tags,
            b.ReachedAt
        );
    }

    private void Tell(Lead lead, StoryKind kind, string words, Guid by, Instant now) =>
        db.AddStory(lead, kind, words, now, by: by);
}

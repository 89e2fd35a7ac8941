using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Where what happens to a lead meets its fuses: burns that hear it, and fuses that it lights, in the caller's
/// transaction. What silent steps change in turn goes round again, a bounded number of times.
/// </summary>
public sealed class LeadEventRouter(
    AppDb db,
    StoryWriter writer,
    ClientConfigCache setups,
    SubmissionReader reader,
    PublicAddress address
)
{
    private readonly Dictionary<Guid, ClientConfig> around = [];
    private readonly Dictionary<Guid, LeadBurns> burnsOf = [];
    private readonly Dictionary<Guid, (Form Form, IReadOnlyList<Answer> Answers)> asked = [];

    /// <summary>True when a burn wants waking later.</summary>
    public bool Wakes { get; private set; }

    /// <summary>Reads at once which burns these leads have, and locks those that may still change.</summary>
    public async Task ReadBurnsAsync(IReadOnlyCollection<HeldLead> leads, CancellationToken stop)
    {
        var fresh = leads.Where(l => !burnsOf.ContainsKey(l.Id)).ToList();
        if (fresh.Count == 0)
            return;
        var ids = fresh.Select(l => l.Id).ToArray();
        foreach (var id in ids)
            burnsOf[id] = new();
        foreach (var burn in await HeldLead.HearingAsync(db, fresh, stop))
            burnsOf[burn.LeadId].Hearing.Add(burn);
        foreach (
            var row in await db
                .Burns.Where(b => ids.Contains(b.LeadId))
                .GroupBy(b => new { b.LeadId, b.FuseId })
                .Select(g => new
                {
                    g.Key.LeadId,
                    g.Key.FuseId,
                    Last = g.Max(b => b.LitAt),
                })
                .ToListAsync(stop)
        )
            burnsOf[row.LeadId].LastLit[row.FuseId] = row.Last;
    }

    /// <summary>Setups that were read for this transaction already.</summary>
    public void Know(IReadOnlyDictionary<Guid, ClientConfig> known)
    {
        foreach (var (id, setup) in known)
            around[id] = setup;
    }

    /// <summary>The setup that was read for this transaction already.</summary>
    public void Know(ClientConfig setup) => around[setup.Client.Id] = setup;

    /// <summary>A lead made in this transaction has no burns to look for.</summary>
    public void KnowNew(Guid leadId) => burnsOf.TryAdd(leadId, new());

    /// <summary>What a submission says is at hand already.</summary>
    public void Know(Submission submission, Form form, IReadOnlyList<Answer> answers) =>
        asked[submission.Id] = (form, answers);

    /// <summary>Reads at once what these submissions say.</summary>
    public async Task ReadAnswersAsync(IReadOnlyCollection<Guid> submissionIds, CancellationToken stop)
    {
        var ids = submissionIds.Where(id => !asked.ContainsKey(id)).Distinct().ToArray();
        if (ids.Length == 0)
            return;
        foreach (var submission in await db.Submissions.AsNoTracking().Where(s => ids.Contains(s.Id)).ToListAsync(stop))
        {
            var setup = await SetupAsync(submission.ClientId, stop);
            var form = setup.Forms[submission.FormId];
            asked[submission.Id] = (form, (await reader.ReadAsync(setup, submission)).Answers);
        }
    }

    /// <summary>Tells a lead's burns and the client's fuses what happened, all at one moment.</summary>
    /// <param name="submissionId">The submission that it is about; the lead's latest where it is left out.</param>
    /// <param name="only">Only this fuse can be lit by it.</param>
    /// <param name="quietly">Where rules keep it from being lit, the story says nothing: it is asked of every lead
    /// there is.</param>
    public async Task HappenAsync(
        HeldLead held,
        IReadOnlyList<LeadEvent> happened,
        Guid? submissionId,
        Instant now,
        CancellationToken stop,
        Guid? only = null,
        bool quietly = false
    )
    {
        await ReadBurnsAsync([held], stop);
        var lead = held.Lead;
        var setup = await SetupAsync(lead.ClientId, stop);
        var ahead = new Queue<IReadOnlyList<LeadEvent>>([happened]);
        while (ahead.TryDequeue(out var what))
        {
            foreach (var burn in burnsOf[lead.Id].Hearing.ToList())
            {
                var (_, fuse) = await setups.VersionAsync(db, burn.FuseVersionId, stop);
                foreach (var one in what.Where(w => burn.State.Hears && fuse.Minds(w.Event)))
                    await BringAsync(burn, lead, new BurnEvent.Happened(one), setup, ahead, now, stop);
            }

            var lighting = setup
                .Armed.Where(v =>
                    (only is null || v.FuseId == only) && v.Definition.LitBy.Any(l => what.Any(w => w.Event == l.Event))
                )
                .ToList();
            if (lighting.Count == 0)
                continue;
            var (about, facts) = await FactsAsync(lead, submissionId, setup, now, stop);
            foreach (var version in lighting)
            {
                var fuse = setups.Compiled(version).Fuse;
                var (by, not) = fuse.LitByAny(what, facts.ForGuards(now));
                if (by is not null)
                    await LightAsync(lead, version, by, about, facts, setup, ahead, now, stop);
                else if (not is not null && !quietly)
                    Tell(lead, StoryKind.FuseNotLit, version, "not lit, because " + not, about, now);
            }
        }
    }

    /// <summary>
    /// Lights one armed fuse for a lead, by hand or by another fuse; its own rules of lighting are not asked, those of
    /// relighting are.
    /// </summary>
    public async Task LightAsync(HeldLead held, Guid fuseId, LeadEvent by, Instant now, CancellationToken stop)
    {
        await ReadBurnsAsync([held], stop);
        var lead = held.Lead;
        var setup = await SetupAsync(lead.ClientId, stop);
        if (setup.Armed.FirstOrDefault(v => v.FuseId == fuseId) is not { } version)
            return;
        var (about, facts) = await FactsAsync(lead, null, setup, now, stop);
        var ahead = new Queue<IReadOnlyList<LeadEvent>>();
        await LightAsync(lead, version, by, about, facts, setup, ahead, now, stop);
        while (ahead.TryDequeue(out var more))
            await HappenAsync(held, more, null, now, stop);
    }

    /// <summary>What words can say of a lead now, by what they sent last.</summary>
    public async Task<LeadFacts> FactsAsync(Lead lead, Instant now, CancellationToken stop)
    {
        var (_, facts) = await FactsAsync(lead, null, await SetupAsync(lead.ClientId, stop), now, stop);
        return facts with { Words = facts.Words with { Now = now, Zone = facts.Zone } };
    }

    /// <summary>Brings one event to one burn, with all that follows from it.</summary>
    /// <exception cref="ArgumentException">It is another lead's.</exception>
    public async Task BringAsync(Burn burn, HeldLead held, BurnEvent happened, Instant now, CancellationToken stop)
    {
        if (burn.LeadId != held.Id)
            throw new ArgumentException($"Burn {burn.Id} is not lead {held.Id}'s.", nameof(burn));
        var setup = await SetupAsync(burn.ClientId, stop);
        var ahead = new Queue<IReadOnlyList<LeadEvent>>();
        await BringAsync(burn, held.Lead, happened, setup, ahead, now, stop);
        while (ahead.TryDequeue(out var more))
            await HappenAsync(held, more, null, now, stop);
    }

    private async Task BringAsync(
        Burn burn,
        Lead lead,
        BurnEvent happened,
        ClientConfig setup,
        Queue<IReadOnlyList<LeadEvent>> ahead,
        Instant now,
        CancellationToken stop
    )
    {
        var (version, fuse) = await setups.VersionAsync(db, burn.FuseVersionId, stop);
        var facts = Decider.MaySpeak(fuse, burn.State, happened, now)
            ? (await FactsAsync(lead, burn.SubmissionId, setup, now, stop)).Facts
            : LeadFactsReader.Bare(lead, setup.Client);
        await FollowAsync(burn, lead, version, fuse, happened, facts, setup, ahead, now, stop);
    }

    private async Task FollowAsync(
        Burn burn,
        Lead lead,
        FuseVersion version,
        CompiledFuse fuse,
        BurnEvent happened,
        LeadFacts facts,
        ClientConfig setup,
        Queue<IReadOnlyList<LeadEvent>> ahead,
        Instant now,
        CancellationToken stop
    )
    {
        var consequences = writer.Write(burn, lead, version, fuse, happened, facts, setup, now);
        Wakes |= burn.WakeAt is not null;
        db.NoteChange(burn.ClientId, ChangeKind.Lead, lead.Id);
        foreach (var (stepId, reason) in consequences.Withdrawn)
            await WithdrawAsync(burn, lead, version, fuse, stepId, reason, facts, setup, ahead, now, stop);
        if (consequences.Happened.Count > 0)
            ahead.Enqueue(consequences.Happened);
        foreach (var fuseId in consequences.Lights)
        {
            var depth = burn.State.Depth + 1;
            if (setup.Armed.FirstOrDefault(v => v.FuseId == fuseId) is not { } other)
                writer.Add(
                    burn,
                    lead,
                    version,
                    StoryKind.StepFailed,
                    null,
                    null,
                    "the fuse that it was to light is not armed",
                    now
                );
            else
                await LightAsync(
                    lead,
                    other,
                    LeadEvent.Of(EventKeys.ByFuse, now, $"by “{version.Definition.Name}”") with
                    {
                        Depth = depth,
                    },
                    burn.SubmissionId,
                    facts,
                    setup,
                    ahead,
                    now,
                    stop
                );
        }
    }

    private async Task LightAsync(
        Lead lead,
        FuseVersion version,
        LeadEvent by,
        Guid about,
        LeadFacts facts,
        ClientConfig setup,
        Queue<IReadOnlyList<LeadEvent>> ahead,
        Instant now,
        CancellationToken stop
    )
    {
        var known = burnsOf[lead.Id];
        if (by.Depth > Decider.MostDepth)
        {
            Tell(
                lead,
                StoryKind.FuseNotLit,
                version,
                $"not lit, because {Decider.MostDepth} fuses have lit one another in a row, and that is where it ends",
                about,
                now
            );
            return;
        }

        Instant? last = known.LastLit.TryGetValue(version.FuseId, out var at) ? at : null;
        var burning = known.Hearing.Exists(b => b.FuseId == version.FuseId && b.Status == BurnStatus.Burning);
        if (Hindrance(version.Definition, last, burning, now) is { } hindrance)
        {
            Tell(lead, StoryKind.FuseNotRelit, version, "not relit, because " + hindrance, about, now);
            return;
        }

        // One that only listens hears no more: the new one does.
        foreach (
            var listening in known
                .Hearing.Where(b => b.FuseId == version.FuseId && b.Status == BurnStatus.Listening)
                .ToList()
        )
            await BringAsync(listening, lead, new BurnEvent.Ended("it is lit anew"), setup, ahead, now, stop);
        var burn = new Burn
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            FuseId = version.FuseId,
            FuseVersionId = version.Id,
            SubmissionId = about,
            LitAt = now,
        };
        burn.State = BurnState.New(burn.Id, by.At, now, by.Depth);
        db.Burns.Add(burn);
        known.Hearing.Add(burn);
        known.LastLit[version.FuseId] = now;
        writer.Add(burn, lead, version, StoryKind.FuseLit, null, null, by.Because, now).SubmissionId =
            about == Guid.Empty ? null : about;
        await FollowAsync(
            burn,
            lead,
            version,
            setups.Compiled(version).Fuse,
            new BurnEvent.Lit(),
            facts,
            setup,
            ahead,
            now,
            stop
        );
    }

    /// <summary>Why a fuse is not lit again for a lead, or <c>null</c>.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="last">When it was lit last for them.</param>
    /// <param name="burns">It still burns.</param>
    /// <param name="now">The moment.</param>
    public static string? Hindrance(FuseDefinition fuse, Instant? last, bool burns, Instant now)
    {
        var days = fuse.RelightDays;
        return fuse.Relight switch
        {
            Relight.Once when last is not null => "it burns once for a lead, and has",
            Relight.WhenLastEnded when burns => "the last one still burns",
            Relight.OnceInDays when last is { } lit && now - lit < Duration.FromDays(days) =>
                $"it burns once in {days} days, and was lit {FuseSentence.Until(lit, now).Replace("in ", "", StringComparison.Ordinal)} ago",
            _ => null,
        };
    }

    private async Task<ClientConfig> SetupAsync(Guid clientId, CancellationToken stop) =>
        around.TryGetValue(clientId, out var setup)
            ? setup
            : around[clientId] = await setups.ReadAsync(db, clientId, stop);

    // The submission that a burn is about gives its words; where there is none, the lead's latest does.
    private async Task<(Guid About, LeadFacts Facts)> FactsAsync(
        Lead lead,
        Guid? submissionId,
        ClientConfig setup,
        Instant now,
        CancellationToken stop
    )
    {
        var about = submissionId ?? Guid.Empty;
        if (about == Guid.Empty)
            about = await db
                .Submissions.Where(s => s.LeadId == lead.Id)
                .OrderByDescending(s => s.ReceivedAt)
                .Select(s => s.Id)
                .FirstOrDefaultAsync(stop);
        await ReadAnswersAsync([about], stop);
        var (form, answers) = asked.TryGetValue(about, out var known) ? known : (setup.Forms[lead.FormId], []);
        var owner = lead.OwnerId is { } id ? setup.Colleagues.GetValueOrDefault(id) : null;
        return (
            about,
            LeadFactsReader.Of(
                lead,
                setup.Client,
                form,
                answers,
                address,
                owner,
                setup.SourceNames.GetValueOrDefault(form.Id) ?? "",
                setup.Fields
            )
        );
    }

    // Only what nobody is sending at this moment can be taken back; what is under way comes to its own end.
    private async Task WithdrawAsync(
        Burn burn,
        Lead lead,
        FuseVersion version,
        CompiledFuse fuse,
        string stepId,
        string reason,
        LeadFacts facts,
        ClientConfig setup,
        Queue<IReadOnlyList<LeadEvent>> ahead,
        Instant now,
        CancellationToken stop
    )
    {
        // A call that rings is hung up; one in which two talk goes on.
        var rings = version
            .Definition.Bands.SelectMany(b => b.Steps)
            .Any(s => s.Id == stepId && s.Kind == StepKinds.RingThrough);
        if (
            rings
            && await db.Database.ExecuteSqlAsync(
                $"update calls set hang_up_because = {reason} where burn_id = {burn.Id} and step_id = {stepId} and ended_at is null and stage in ('ringing-team', 'ringing-lead')",
                stop
            ) > 0
        )
            await db.WakeAsync("calls", stop);
        var taken = await db.Database.ExecuteSqlAsync(
            $"update deliveries set status = 'cancelled', reason = {reason}, ended_at = {now} where burn_id = {burn.Id} and step_id = {stepId} and status = 'due'",
            stop
        );
        if (taken == 0)
            return;
        writer.Add(burn, lead, version, StoryKind.StepCancelled, null, stepId, reason, now);
        // What its end leads on to is followed as any other's: the record may wait for what it would have left.
        await FollowAsync(
            burn,
            lead,
            version,
            fuse,
            new BurnEvent.StepEnded(stepId, StepStatus.Cancelled, reason),
            facts,
            setup,
            ahead,
            now,
            stop
        );
    }

    private void Tell(Lead lead, StoryKind kind, FuseVersion version, string words, Guid about, Instant now) =>
        db.AddStory(lead, kind, words, now, submissionId: about == Guid.Empty ? null : about).Fuse = StoryWriter.NameOf(
            version
        );

    private sealed class LeadBurns
    {
        public List<Burn> Hearing { get; } = [];

        public Dictionary<Guid, Instant> LastLit { get; } = [];
    }
}

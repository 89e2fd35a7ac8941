using System.Runtime.InteropServices;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace LitFuse.Server.Features.Backtests;

/// <summary>Carries backtests on, one at a time: whichever process holds the lease.</summary>
public sealed class BacktestLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<BacktestLoop> log
) : EngineLoop(signals.Backtests, scopes, time, log)
{
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var job = (
            await db
                .Backtests.FromSql(
                    $"""
                    update backtests set leased_until = {now + Backtester.Lease}
                    where id = (select id from backtests where status = 'running' and (leased_until is null or leased_until < {now}) order by made_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .AsNoTracking()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (job is null)
            return (false, null);
        await services.GetRequiredService<Backtester>().RunAsync(job, stop);
        return (true, null);
    }
}

/// <summary>Puts a period's leads through a fuse, through the armed version, and beside what happened.</summary>
public sealed class Backtester(
    AppDb db,
    IServiceScopeFactory scopes,
    ClientConfigCache setups,
    StepCatalog catalog,
    PublicAddress address,
    SubmissionReader reader,
    TimeProvider time
)
{
    /// <summary>How long a lease is good for without being renewed; each chunk renews it.</summary>
    public static readonly Duration Lease = Duration.FromSeconds(60);

    /// <summary>The most leads of one backtest; the newest are taken.</summary>
    public const int Most = 200_000;

    private const int InOneChunk = 1000;
    private static readonly Duration Soon = Duration.FromMilliseconds(300);

    // A burn is looked at for so long: what comes later than that is hardly an answer to a form.
    private static readonly Duration Horizon = Duration.FromDays(60);

    private sealed record Asking(Guid LeadId, Guid SubmissionId, Instant At);

    private sealed record Side(CompiledFuse Fuse, BacktestSide Sums, Backtest Engine);

    /// <summary>Runs it to its end, or until it is cancelled.</summary>
    public async Task RunAsync(BacktestJob job, CancellationToken stop)
    {
        var setup = await setups.ReadAsync(db, job.ClientId, stop);
        var own = SideOf(CompiledFuse.From(job.Definition, catalog), setup);
        var beside = job.BesideVersionId is { } versionId
            ? SideOf((await setups.VersionAsync(db, versionId, stop)).Fuse, setup)
            : null;
        var then = new BacktestSide(own.Fuse);
        var notLit = new Dictionary<string, int>(StringComparer.Ordinal);
        await db.BacktestLeads.Where(l => l.BacktestId == job.Id).ExecuteDeleteAsync(stop);
        var askings = await AskingsAsync(job, stop);
        await db
            .Backtests.Where(b => b.Id == job.Id)
            .ExecuteUpdateAsync(b => b.SetProperty(x => x.Total, askings.Count).SetProperty(x => x.LeadsDone, 0), stop);
        var done = 0;
        foreach (var chunk in askings.Chunk(InOneChunk))
        {
            var rows = await PutAsync(job, setup, chunk, own, beside, then, notLit, stop);
            await WriteAsync(rows, stop);
            done += chunk.Length;
            var until = time.Now() + Lease;
            if (
                await db
                    .Backtests.Where(b => b.Id == job.Id && b.Status == BacktestStatus.Running)
                    .ExecuteUpdateAsync(
                        b => b.SetProperty(x => x.LeadsDone, done).SetProperty(x => x.LeasedUntil, until),
                        stop
                    ) == 0
            )
                return;
            db.NoteChange(job.ClientId, ChangeKind.Backtest, job.Id);
            await db.SaveAndNotifyAsync(stop);
        }

        var told = new BacktestTold(
            askings.Count,
            [.. notLit.OrderByDescending(n => n.Value).Take(20).Select(n => new NotLitTold(n.Key, n.Value))],
            own.Sums.Sum(),
            beside?.Sums.Sum(),
            then.Sum()
        );
        await db
            .Backtests.Where(b => b.Id == job.Id && b.Status == BacktestStatus.Running)
            .ExecuteUpdateAsync(
                b =>
                    b.SetProperty(x => x.Status, BacktestStatus.Done)
                        .SetProperty(x => x.Told, told)
                        .SetProperty(x => x.EndedAt, time.Now()),
                stop
            );
        db.NoteChange(job.ClientId, ChangeKind.Backtest, job.Id);
        await db.SaveAndNotifyAsync(stop);
    }

    private Side SideOf(CompiledFuse fuse, ClientConfig setup)
    {
        var sums = new BacktestSide(fuse);
        Reaction React(Step step, StepKind kind)
        {
            if (kind.Service is { } service && StoryWriter.ThroughOf(step.Settings, service, setup.Connections) is null)
                return new(Duration.Zero, StepStatus.Failed, $"there is no connection to {service}");
            return new(
                Soon,
                StepStatus.Done,
                "taken",
                kind.ResultsOf(step)
                    .Distinct(StringComparer.Ordinal)
                    .ToDictionary(r => r, r => $"‹{r}›", StringComparer.Ordinal)
            );
        }

        string Whom(LeadFacts lead, string who) =>
            who == "owner"
                ? lead.More.GetValueOrDefault(Core.Guards.Facts.Owner) is { Length: > 0 } owner
                    ? owner
                    : "nobody: they had no owner"
                : Guid.TryParse(who, out var id)
                    ? setup.Colleagues.GetValueOrDefault(id)?.Name ?? "somebody who has left"
                    : who;
        // Who answered for them then is not known; whom the fuse gives them to is.
        LeadFacts Give(LeadFacts lead, string who) =>
            Guid.TryParse(who, out var id) && setup.Colleagues.GetValueOrDefault(id) is { } colleague
                ? LeadFactsReader.OwnedBy(lead, colleague)
                : lead;
        return new(
            fuse,
            sums,
            new(fuse, words: true, Horizon, React, setup.Fields.GetValueOrDefault, Give, (lead, who, at) =>
                sums.Tell(Whom(lead, who), at)
            )
        );
    }

    // Each lead once, by what they sent first in the period.
    private async Task<List<Asking>> AskingsAsync(BacktestJob job, CancellationToken stop)
    {
        var forms = await db
            .Forms.Where(f => f.ClientId == job.ClientId && job.Forms.Contains(f.Key))
            .Select(f => f.Id)
            .ToArrayAsync(stop);
        var rows = await db
            .Database.SqlQuery<AskingRow>(
                $"""
                select * from (
                  select distinct on (s.lead_id) s.lead_id, s.id, least(coalesce(s.sent_at, s.received_at), s.received_at) as at
                  from submissions s join leads l on l.id = s.lead_id
                  where s.form_id = any({forms}) and s.status = 'processed' and s.received_at >= {job.Since} and s.received_at < {job.Until}
                    and not s.test and not l.test and l.merged_into is null
                  order by s.lead_id, s.received_at) x
                order by at desc limit {Most}
                """
            )
            .ToListAsync(stop);
        return rows.ConvertAll(r => new Asking(r.LeadId, r.Id, r.At));
    }

    private sealed record AskingRow(Guid LeadId, Guid Id, Instant At);

    private async Task<List<BacktestLead>> PutAsync(
        BacktestJob job,
        ClientConfig setup,
        Asking[] askings,
        Side own,
        Side? beside,
        BacktestSide then,
        Dictionary<string, int> notLit,
        CancellationToken stop
    )
    {
        var ids = Array.ConvertAll(askings, a => a.LeadId);
        var sent = Array.ConvertAll(askings, a => a.SubmissionId);
        var leads = await db.Leads.AsNoTracking().Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id, stop);
        var submissions = await db
            .Submissions.AsNoTracking()
            .Where(s => sent.Contains(s.Id))
            .ToDictionaryAsync(s => s.Id, stop);
        var truth = await TruthAsync(job, ids, stop);
        var rows = new List<BacktestLead>(askings.Length);
        foreach (var asking in askings)
        {
            if (
                !leads.TryGetValue(asking.LeadId, out var lead)
                || !submissions.TryGetValue(asking.SubmissionId, out var submission)
            )
                continue;
            var past = await PastAsync(setup, lead, submission, asking, truth, job);
            var ours = own.Engine.Put(past, out var not);
            own.Sums.Add(ours);
            if (not is not null || !ours.Has(BacktestMarks.Lit))
                notLit[not ?? "their form does not light it"] =
                    notLit.GetValueOrDefault(not ?? "their form does not light it") + 1;
            PastOutcome? theirs = beside is null ? null : beside.Engine.Put(past, out _);
            if (theirs is { } outcome)
                beside!.Sums.Add(outcome);
            var real = truth.Of(lead, asking.At, then.Bits, own.Fuse, Horizon);
            then.Add(real);
            rows.Add(
                new()
                {
                    BacktestId = job.Id,
                    LeadId = lead.Id,
                    ClientId = job.ClientId,
                    AskedAt = asking.At,
                    Marks = Bytes(ours.Marks),
                    BesideMarks = theirs is { } t ? Bytes(t.Marks) : null,
                    TruthMarks = Bytes(real.Marks),
                    ToLead = ours.ToLead,
                    BesideToLead = theirs?.ToLead ?? 0,
                    TruthToLead = real.ToLead,
                    NotLit = not,
                }
            );
        }

        return rows;
    }

    private static byte[] Bytes(ulong[] marks) => MemoryMarshal.AsBytes<ulong>(marks).ToArray();

    // The lead as they stood when they asked, as far as that is known: what came later is not known yet.
    private async Task<PastLead> PastAsync(
        ClientConfig setup,
        Lead lead,
        Submission submission,
        Asking asking,
        Truth truth,
        BacktestJob job
    )
    {
        var did = truth.Did(lead, asking.At, Horizon);
        if (lead.OptedOutAt > asking.At)
            lead.OptedOutAt = null;
        if (lead.DoNotContactAt > asking.At)
            lead.DoNotContactAt = null;
        lead.Stage = setup.Client.Stages.Count > 0 ? setup.Client.Stages[0] : lead.Stage;
        lead.TimesAsked = 1 + truth.Before(lead.Id, asking.At);
        var (form, answers, sent) = await reader.AskedAsync(setup, submission);
        var source = setup.SourceNames.GetValueOrDefault(form.Id) ?? "";
        var facts = LeadFactsReader.Of(
            lead,
            setup.Client,
            form,
            answers,
            address,
            lead.OwnerId is { } owner ? setup.Colleagues.GetValueOrDefault(owner) : null,
            source,
            setup.Fields
        );
        var named = facts with
        {
            Words = facts.Words with
            {
                Fuse = new Dictionary<string, string>(StringComparer.Ordinal)
                {
                    ["name"] = job.Definition.Name,
                    ["link"] = address.OfFuse(job.FuseId),
                },
            },
        };
        return new(named, asking.At, sent with { At = asking.At }, did);
    }

    private async Task<Truth> TruthAsync(BacktestJob job, Guid[] ids, CancellationToken stop) =>
        new(
            (
                await db
                    .IncomingMessages.AsNoTracking()
                    .Where(t => !t.Automatic && t.LeadId != null && ids.Contains(t.LeadId.Value))
                    .ToListAsync(stop)
            ).ToLookup(t => t.LeadId!.Value),
            (await db.ServiceNews.AsNoTracking().Where(n => ids.Contains(n.LeadId)).ToListAsync(stop)).ToLookup(n =>
                n.LeadId
            ),
            (
                await db
                    .Burns.AsNoTracking()
                    .Where(b => b.FuseId == job.FuseId && ids.Contains(b.LeadId))
                    .ToListAsync(stop)
            ).ToLookup(b => b.LeadId),
            (
                await db
                    .Deliveries.AsNoTracking()
                    .Where(d =>
                        ids.Contains(d.LeadId) && d.Lane == Lane.Lead && d.SentAt != null && d.WrittenBy == null
                    )
                    .ToListAsync(stop)
            ).ToLookup(d => d.LeadId),
            (
                await db
                    .Submissions.Where(s => s.LeadId != null && ids.Contains(s.LeadId.Value))
                    .Select(s => new { LeadId = s.LeadId!.Value, s.ReceivedAt })
                    .ToListAsync(stop)
            ).ToLookup(s => s.LeadId, s => s.ReceivedAt)
        );

    private async Task WriteAsync(List<BacktestLead> rows, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var fresh = scope.ServiceProvider.GetRequiredService<AppDb>();
        await fresh.Database.OpenConnectionAsync(stop);
        await BulkCopy.WriteAsync(
            fresh,
            rows.ToLookup(r => r.GetType(), r => (object)r),
            (NpgsqlConnection)fresh.Database.GetDbConnection(),
            stop
        );
    }
}

/// <summary>What happened in truth to the leads of a chunk.</summary>
internal sealed record Truth(
    ILookup<Guid, IncomingMessage> Replies,
    ILookup<Guid, ServiceNews> News,
    ILookup<Guid, Burn> Burns,
    ILookup<Guid, OutboxDelivery> ToLeads,
    ILookup<Guid, Instant> Asked
)
{
    /// <summary>How often they had asked before.</summary>
    public int Before(Guid leadId, Instant at) => Asked[leadId].Count(a => a < at);

    /// <summary>What they and the team did after they asked, so that it can be taken to happen all the same.</summary>
    public IReadOnlyList<Scripted> Did(Lead lead, Instant asked, Duration horizon)
    {
        var did = new List<Scripted>();
        void Add(Instant? at, Func<Instant, LeadEvent> what)
        {
            if (at is { } when && when >= asked && when <= asked + horizon)
                did.Add(new(when, new BurnEvent.Happened(what(when))));
        }

        Add(lead.FirstTouchAt, at => LeadEvent.Of(EventKeys.Touched, at, "somebody reached out"));
        foreach (var text in Replies[lead.Id])
            Add(text.At, at =>
                LeadEvent.Of(EventKeys.Replied, at, "they replied", ("text", text.Words)) with
                {
                    Key = text.Reference,
                }
            );
        foreach (var news in News[lead.Id])
            Add(news.At, at => new(news.Event, at, news.Words, news.Details, news.Reference));
        if (lead.OptedOutAt is { } left && !Replies[lead.Id].Any(t => t.At == left))
            Add(left, at => LeadEvent.Of(EventKeys.OptedOut, at, "they wanted no more messages"));
        if (lead.DoNotContactAt is { } listed)
            Add(listed, at => LeadEvent.Of(EventKeys.OptedOut, at, "they were put on the do-not-contact list"));
        return did;
    }

    /// <summary>What became of them: messages of every fuse, bands and steps of this one.</summary>
    public PastOutcome Of(Lead lead, Instant asked, BacktestMarks bits, CompiledFuse fuse, Duration horizon)
    {
        var outcome = PastOutcome.None(bits);
        var burns = Burns[lead.Id].Where(b => b.LitAt >= asked && b.LitAt <= asked + horizon).ToList();
        foreach (var burn in burns)
        {
            outcome.Mark(BacktestMarks.Lit);
            if (burn.State.Bands.Count == 0)
                outcome.Mark(BacktestMarks.NoBand);
            foreach (var band in burn.State.Bands)
                if (fuse.PlaceOfBand(band.BandId) is { } place)
                    outcome.Mark(bits.Entered(place));
            foreach (var step in burn.State.Steps)
            {
                if (fuse.PlaceOfStep(step.StepId) is not { } place)
                    continue;
                if (step.Status is StepStatus.Done or StepStatus.Sent)
                    outcome.Mark(bits.Sent(place));
                else if (step.Status == StepStatus.Cancelled)
                    outcome.Mark(bits.Cancelled(place));
                else if (step.Status == StepStatus.Failed)
                    outcome.Mark(bits.Failed(place));
            }
        }

        var sent = ToLeads[lead.Id].Where(d => d.MadeAt >= asked && d.MadeAt <= asked + horizon).ToList();
        if (sent.Count == 0)
            return outcome;
        outcome.Mark(BacktestMarks.Spoken);
        var texts = sent.FindAll(d => d.Kind == StepKinds.Text);
        return outcome with
        {
            ToLead = sent.Count,
            Texts = texts.Count,
            Segments = texts.Sum(t => TextSegments.Count(t.Settings.GetValueOrDefault("words") ?? "").Segments),
            FirstAfter = sent.Min(d => d.SentAt!.Value) - asked,
        };
    }
}

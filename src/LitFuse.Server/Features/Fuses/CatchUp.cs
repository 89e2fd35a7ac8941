using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A message that would go out among the first.</summary>
/// <param name="Step">Which step.</param>
/// <param name="To">The lead, or whom of the team it tells.</param>
/// <param name="At">When.</param>
/// <param name="Words">As it would be said.</param>
public sealed record FirstOut(Guid LeadId, string Lead, string Step, Lane Lane, string? To, Instant At, string Words);

/// <summary>What arming for leads of the last days too would do.</summary>
/// <param name="Asked">Leads who asked in these days.</param>
/// <param name="Lit">How many of them would light it now.</param>
/// <param name="TooLate">Of those looked at, leads to whom something is too old by now to be said.</param>
/// <param name="LookedAt">For how many it was worked out what goes out.</param>
/// <param name="First">What would go out first.</param>
public sealed record CatchUpPreview(
    int Days,
    int Asked,
    int Lit,
    int LookedAt,
    int TooLate,
    IReadOnlyList<FirstOut> First
);

/// <summary>
/// Arming also for leads of the last days: a look beforehand, and lighting it for them one after the other.
/// </summary>
public sealed class CatchUp(
    AppDb db,
    LeadEventRouter events,
    ClientConfigCache setups,
    StepCatalog catalog,
    PublicAddress address,
    SubmissionReader reader,
    TimeProvider time
)
{
    /// <summary>The furthest it goes back.</summary>
    public const int MostDays = 90;

    private const int AtOnce = 100;
    private const int MostAsked = 2000;
    private const int MostLookedAt = 200;
    private const int MostShown = 5;

    private sealed record Asking(Guid LeadId, Guid Id);

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet(
                "/api/fuses/{fuseId}/catch-up",
                async Task<Results<Ok<CatchUpPreview>, ProblemHttpResult>> (
                    Guid fuseId,
                    CatchUp run,
                    AppDb db,
                    CancellationToken stop,
                    int days = 7
                ) =>
                {
                    if (days is < 1 or > MostDays)
                        return Problems.Bad("days", $"Between 1 and {MostDays} days.");
                    var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
                    if (fuse is null)
                        return Problems.No("fuse");
                    try
                    {
                        return TypedResults.Ok(await run.PreviewAsync(fuse, days, stop));
                    }
                    catch (ArgumentException e)
                    {
                        return Problems.Bad(
                            "definition",
                            $"It cannot be run as it is: {e.Message.Split(" (Parameter", 2)[0]}. “What's wrong” says where."
                        );
                    }
                }
            )
            .Needs(Act.SeeFuses)
            .WithTags("Fuses")
            .WithSummary("What arming for leads of the last days too would do");

    /// <summary>Lights a fuse for some of the leads that its arming reaches back to.</summary>
    /// <returns>False where there is none to catch up with.</returns>
    public async Task<bool> RunAsync(CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var fuse = (
            await db
                .Fuses.FromSql(
                    $"select * from fuses where catch_up_since is not null and state = 'armed' order by catch_up_until limit 1 for update skip locked"
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (fuse is null)
            return false;
        var version = await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == fuse.ArmedVersionId, stop);
        var setup = await setups.ReadAsync(db, fuse.ClientId, stop);
        var now = time.Now();
        var askings = await AskingsAsync(
            fuse.ClientId,
            version.Definition,
            fuse.CatchUpSince!.Value,
            fuse.CatchUpUntil ?? now,
            fuse.CatchUpAfter ?? Guid.Empty,
            AtOnce,
            stop
        );
        var ids = askings.Select(a => a.LeadId).ToArray();
        var leads = (await HeldLead.ManyAsync(db, ids, stop, mergedToo: true)).ToDictionary(l => l.Id);
        await events.ReadBurnsAsync(leads.Values, stop);
        await events.ReadAnswersAsync([.. askings.Select(a => a.Id)], stop);
        foreach (var asking in askings)
        {
            if (
                !leads.TryGetValue(asking.LeadId, out var lead)
                || lead.Lead is { Test: true } or { MergedInto: not null }
            )
                continue;
            var sent = await SentAsync(setup, asking.Id, stop);
            if (await db.Burns.AnyAsync(b => b.LeadId == lead.Id && b.FuseId == fuse.Id && b.LitAt >= sent.At, stop))
                continue;
            await events.HappenAsync(lead, [sent], asking.Id, now, stop, only: fuse.Id, quietly: true);
        }

        if (askings.Count < AtOnce)
            (fuse.CatchUpSince, fuse.CatchUpUntil, fuse.CatchUpAfter) = (null, null, null);
        else
            fuse.CatchUpAfter = ids.Max();
        db.NoteChange(fuse.ClientId, ChangeKind.Fuse, fuse.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    private async Task<CatchUpPreview> PreviewAsync(Fuse fuse, int days, CancellationToken stop)
    {
        var now = time.Now();
        var armed = db.FuseVersions.Where(v => v.Id == fuse.ArmedVersionId).Select(v => v.Definition);
        var definition = fuse.Draft ?? await armed.SingleAsync(stop);
        var compiled = CompiledFuse.From(definition, catalog);
        var setup = await setups.ReadAsync(db, fuse.ClientId, stop);
        var askings = await AskingsAsync(
            fuse.ClientId,
            definition,
            now - Duration.FromDays(days),
            now,
            Guid.Empty,
            MostAsked,
            stop
        );
        var ids = askings.ConvertAll(a => a.LeadId);
        var leads = await db
            .Leads.AsNoTracking()
            .Where(l => ids.Contains(l.Id) && !l.Test && l.MergedInto == null)
            .ToDictionaryAsync(l => l.Id, stop);
        var before = await BurnsAsync(fuse, ids, stop);
        var (lit, looked, late) = (0, 0, 0);
        var first = new List<FirstOut>();
        foreach (var asking in askings.Where(a => leads.ContainsKey(a.LeadId)))
        {
            var (facts, sent) = await FactsAsync(setup, leads[asking.LeadId], asking.Id, fuse, definition, stop);
            var (last, burning) = before.GetValueOrDefault(asking.LeadId);
            if (last >= sent.At || LeadEventRouter.Hindrance(definition, last, burning, now) is not null)
                continue;
            if (compiled.LitByAny([sent], facts.ForGuards(now)).LitBy is null)
                continue;
            lit++;
            if (looked >= MostLookedAt)
                continue;
            looked++;
            var run = Rehearser.Run(
                compiled,
                BurnState.New(Guid.CreateVersion7(), sent.At, now),
                facts,
                [],
                (_, _) => new(Duration.FromMilliseconds(300), StepStatus.Done, "taken"),
                now + Duration.FromDays(3),
                setup.Fields.GetValueOrDefault
            );
            if (run.TooLate)
                late++;
            first.AddRange(
                run.Moments.Where(m => m.Effect is BurnEffect.Deliver { Lane: Lane.Lead or Lane.Team })
                    .Take(2)
                    .Select(m => Out((BurnEffect.Deliver)m.Effect!, m.At, leads[asking.LeadId], definition))
            );
        }

        return new(
            days,
            leads.Count,
            lit,
            looked,
            late,
            [.. first.OrderBy(f => f.At).ThenBy(f => f.Lane).Take(MostShown)]
        );
    }

    private async Task<Dictionary<Guid, (Instant? LitAt, bool Burning)>> BurnsAsync(
        Fuse fuse,
        List<Guid> leads,
        CancellationToken stop
    ) => (
            await db
                .Burns.Where(b => b.FuseId == fuse.Id && leads.Contains(b.LeadId))
                .Select(b => new
                {
                    b.LeadId,
                    b.LitAt,
                    b.Status,
                })
                .ToListAsync(stop)
        ).GroupBy(b => b.LeadId).ToDictionary(g => g.Key, g => ((Instant?)g.Max(b => b.LitAt), g.Any(b => b.Status == BurnStatus.Burning)));

    private static FirstOut Out(BurnEffect.Deliver deliver, Instant at, Lead lead, FuseDefinition definition) =>
        new(
            lead.Id,
            lead.ShownName(),
            definition.Bands.SelectMany(b => b.Steps).First(s => s.Id == deliver.StepId).Name,
            deliver.Lane,
            deliver.Lane == Lane.Lead
                ? lead.ShownName()
                : deliver.Settings.GetValueOrDefault("channel") ?? deliver.Settings.GetValueOrDefault("person"),
            at,
            deliver.Settings.GetValueOrDefault("words") ?? ""
        );

    // Each lead once, by what they sent last on the forms that light it.
    private async Task<List<Asking>> AskingsAsync(
        Guid clientId,
        FuseDefinition definition,
        Instant since,
        Instant until,
        Guid after,
        int most,
        CancellationToken stop
    )
    {
        var keys = definition
            .LitBy.Where(l => l.Event == EventKeys.Submission)
            .SelectMany(l => l.Only?.GetValueOrDefault("form") ?? [])
            .Distinct(StringComparer.Ordinal)
            .ToList();
        var any = definition.LitBy.Any(l =>
            l.Event == EventKeys.Submission && l.Only?.GetValueOrDefault("form") is not { Count: > 0 }
        );
        var forms = await db
            .Forms.Where(f => f.ClientId == clientId && (any || keys.Contains(f.Key)))
            .Select(f => f.Id)
            .ToArrayAsync(stop);
        return await db
            .Database.SqlQuery<Asking>(
                $"""
                select distinct on (lead_id) lead_id, id from submissions
                where form_id = any({forms}) and status = 'processed' and received_at >= {since} and received_at < {until} and not test and not quiet and lead_id > {after}
                order by lead_id, received_at desc limit {most}
                """
            )
            .ToListAsync(stop);
    }

    private async Task<LeadEvent> SentAsync(ClientConfig setup, Guid submissionId, CancellationToken stop)
    {
        return (await ReadAsync(setup, submissionId, stop)).Sent;
    }

    private async Task<(LeadFacts Facts, LeadEvent Sent)> FactsAsync(
        ClientConfig setup,
        Lead lead,
        Guid submissionId,
        Fuse fuse,
        FuseDefinition definition,
        CancellationToken stop
    )
    {
        var (form, answers, sent) = await ReadAsync(setup, submissionId, stop);
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
                    ["name"] = definition.Name,
                    ["link"] = address.OfFuse(fuse.Id),
                },
            },
        };
        return (named, sent);
    }

    private async Task<AskedBy> ReadAsync(ClientConfig setup, Guid submissionId, CancellationToken stop) =>
        await reader.AskedAsync(
            setup,
            await db.Submissions.AsNoTracking().SingleAsync(s => s.Id == submissionId, stop)
        );
}

/// <summary>Lights fuses for the leads that their arming reaches back to.</summary>
public sealed class CatchUpLoop(
    Signals signals,
    IServiceScopeFactory scopes,
    TimeProvider time,
    ILogger<CatchUpLoop> log
) : EngineLoop(signals.CatchUps, scopes, time, log)
{
    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        if (!await services.GetRequiredService<CatchUp>().RunAsync(stop))
            return (false, null);
        signals.Burns.Pulse();
        signals.Deliveries.Pulse();
        return (true, null);
    }
}

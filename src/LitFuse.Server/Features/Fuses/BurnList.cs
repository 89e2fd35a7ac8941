using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A burn as a row.</summary>
/// <param name="Fuse">Its name and version as it was lit.</param>
/// <param name="Bands">Names of the bands entered, in the order they are read.</param>
/// <param name="Held">Why it is held for a person.</param>
/// <param name="Stop">Why it stopped last.</param>
/// <param name="NextAt">When it does something next by itself.</param>
/// <param name="SetAside">Why it is set aside: deciding for it failed, and it does nothing until it is run
/// again.</param>
public sealed record BurnRow(
    Guid Id,
    Guid LeadId,
    string Lead,
    Guid FuseId,
    string Fuse,
    string Client,
    BurnStatus Status,
    Instant LitAt,
    IReadOnlyList<string> Bands,
    int Waiting,
    int Sent,
    int Done,
    int Failed,
    int Cancelled,
    string? Held,
    string? Stop,
    Instant? NextAt,
    string? SetAside
);

/// <summary>Burns, the newest first.</summary>
/// <param name="Next">What the next page is asked for with; <c>null</c> at the end.</param>
public sealed record BurnPage(IReadOnlyList<BurnRow> Items, string? Next);

/// <summary>A step of a burn, with what went in and what came out.</summary>
/// <param name="Entry">Which entering of its band it belongs to.</param>
/// <param name="Try">Counts replays, from 1.</param>
/// <param name="Settings">What it was to send, filled in; <c>null</c> where nothing was handed over.</param>
/// <param name="Results">What it left for later steps.</param>
public sealed record BurnStepTold(
    string StepId,
    string Step,
    string Band,
    Lane Lane,
    StepStatus Status,
    Instant PlannedAt,
    Instant DueAt,
    string? Reason,
    int Entry,
    int Try,
    Guid? DeliveryId,
    IReadOnlyDictionary<string, string>? Settings,
    IReadOnlyDictionary<string, string>? Results
);

/// <summary>Something decided or done in a burn.</summary>
/// <param name="Kind">As the story names it.</param>
public sealed record BurnMoment(Instant At, string Kind, string? Band, string? Step, string Words, Guid? DeliveryId);

/// <summary>A burn, step by step.</summary>
/// <param name="Hears">An event may still change it.</param>
/// <param name="Armed">Its fuse can be lit again.</param>
/// <param name="SubmittedAt">When the person asked.</param>
/// <param name="Silences">Bands that are entered unless they write back before.</param>
public sealed record BurnDetail(
    BurnRow Row,
    string Zone,
    Instant SubmittedAt,
    bool Hears,
    bool Armed,
    BurnReply? Reply,
    IReadOnlyList<BurnStepTold> Steps,
    IReadOnlyList<LeadBurnSilence> Silences,
    IReadOnlyList<BurnMoment> Moments
);

/// <summary>How often a step came to what.</summary>
public sealed record StepCount(string StepId, int Waiting, int Sent, int Failed, int Cancelled);

/// <summary>How often a band was entered.</summary>
public sealed record EnteredCount(string BandId, int Burns);

/// <summary>What a fuse's burns have come to, of those lit in the last days.</summary>
public sealed record BurnCounts(
    int Days,
    int Lit,
    int Burning,
    int Listening,
    int Held,
    int Failed,
    IReadOnlyList<EnteredCount> Bands,
    IReadOnlyList<StepCount> Steps
);

/// <summary>Burns: what is burning and what has burnt.</summary>
public static class BurnList
{
    private const int OnPage = 50;
    private const int CountedDays = 30;

    private static readonly string[] States =
    [
        "burning",
        "listening",
        "held",
        "failed",
        "stopped",
        "done",
        "set-aside",
    ];

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/burns", ListAsync)
            .Needs(Act.SeeLeads)
            .WithTags("Burns")
            .WithSummary("What is burning and what has burnt, newest first");
        app.MapGet("/api/burns/{burnId}", OneAsync)
            .Needs(Act.SeeLeads)
            .WithTags("Burns")
            .WithSummary("A burn, step by step");
        app.MapGet("/api/fuses/{fuseId}/burn-counts", CountsAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Burns")
            .WithSummary("What a fuse's burns have come to");
    }

    private static async Task<Results<Ok<BurnPage>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null,
        Guid? fuse = null,
        string? band = null,
        string? state = null,
        string? after = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        if (state is { Length: > 0 } && !States.Contains(state, StringComparer.Ordinal))
            return Problems.Bad("state", $"Say {string.Join(", ", States)}.");
        (Instant At, Guid Id)? from = null;
        if (after is not null && (from = Read(after)) is null)
            return Problems.Bad("after", "That is not how a page ended. Begin with the first.");
        var fuses = await db
            .Fuses.Where(f => clients.Contains(f.ClientId) && (fuse == null || f.Id == fuse))
            .Select(f => f.Id)
            .ToArrayAsync(stop);
        // Each fuse's own newest, from its own index; then the newest of those.
        var (at, last, how, within) = (
            from?.At ?? Instant.FromUtc(9000, 1, 1, 0, 0),
            from?.Id ?? Guid.AllBitsSet,
            state ?? "",
            band ?? ""
        );
        var found = await db
            .Burns.FromSql(
                $"""
                select x.* from unnest({fuses}) f cross join lateral (
                  select b.* from burns b where b.fuse_id = f and (b.lit_at, b.id) < ({at}, {last})
                    and case {how}
                        when 'burning' then b.status = 'burning' and b.state->>'held' is null
                        when 'listening' then b.status = 'listening'
                        when 'held' then b.status = 'burning' and b.state->>'held' is not null
                        when 'failed' then b.state @? '$.steps[*] ? (@.status == "failed")'
                        when 'set-aside' then b.set_aside_at is not null
                        when 'stopped' then b.state->>'stop' is not null
                        when 'done' then b.status = 'ended' and b.state->>'stop' is null and not b.state @? '$.steps[*] ? (@.status == "failed")'
                        else true end
                    and ({within} = '' or jsonb_path_exists(b.state, '$.bands[*] ? (@.bandId == $id)', jsonb_build_object('id', {within})))
                  order by b.lit_at desc, b.id desc limit {OnPage + 1}) x
                """
            )
            .AsNoTracking()
            .ToListAsync(stop);
        List<Burn> page = [.. found.OrderByDescending(b => b.LitAt).ThenByDescending(b => b.Id).Take(OnPage)];
        return TypedResults.Ok(
            new BurnPage(
                await RowsAsync(db, page, stop),
                found.Count > OnPage
                    ? string.Create(CultureInfo.InvariantCulture, $"{page[^1].LitAt.ToUnixTimeTicks()}.{page[^1].Id:N}")
                    : null
            )
        );
    }

    private static async Task<Results<Ok<BurnDetail>, ProblemHttpResult>> OneAsync(
        Guid burnId,
        AppDb db,
        StepCatalog catalog,
        CancellationToken stop
    )
    {
        if (await db.Burns.AsNoTracking().SingleOrDefaultAsync(b => b.Id == burnId, stop) is not { } burn)
            return Problems.No("burn");
        var version = await db.FuseVersions.AsNoTracking().SingleAsync(v => v.Id == burn.FuseVersionId, stop);
        var lead = await db.Leads.AsNoTracking().SingleAsync(l => l.Id == burn.LeadId, stop);
        var deliveries = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.LeadId == burn.LeadId && d.BurnId == burnId)
            .OrderBy(d => d.MadeAt)
            .ToListAsync(stop);
        var story = await db
            .Story.AsNoTracking()
            .Where(s => s.LeadId == burn.LeadId && s.BurnId == burnId)
            .OrderBy(s => s.At)
            .ThenBy(s => s.Id)
            .ToListAsync(stop);
        var armed = await db.Fuses.AnyAsync(f => f.Id == burn.FuseId && f.State == FuseState.Armed, stop);
        BurnStepTold Told(BurnStep state)
        {
            var band = version.Definition.Bands.FirstOrDefault(b => b.Id == state.BandId);
            var step = version.Definition.Bands.SelectMany(b => b.Steps).FirstOrDefault(s => s.Id == state.StepId);
            var delivery = deliveries.FindLast(d => d.StepId == state.StepId && state.Status != StepStatus.Waiting);
            return new(
                state.StepId,
                step?.Name ?? state.StepId,
                band?.Name ?? "",
                catalog.Find(step?.Kind ?? "")?.Lane ?? Lane.Silent,
                state.Status,
                state.PlannedAt,
                state.DueAt,
                state.Reason,
                state.Entry,
                state.Try,
                delivery?.Id,
                delivery
                    ?.Settings.Where(s => s.Key != "link")
                    .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal),
                state.Results
            );
        }

        return TypedResults.Ok(
            new BurnDetail(
                (await RowsAsync(db, [burn], stop))[0],
                lead.Zone,
                burn.State.SubmittedAt,
                burn.State.Hears,
                armed,
                burn.State.Reply,
                [.. burn.State.Steps.OrderBy(s => s.DueAt).Select(Told)],
                [
                    .. burn.State.Silences.Select(s => new LeadBurnSilence(
                        version.Definition.Bands.FirstOrDefault(b => b.Id == s.BandId)?.Name ?? s.BandId,
                        s.Until
                    )),
                ],
                [.. story.Select(s => new BurnMoment(s.At, Words.Of(s.Kind), s.Band, s.Step, s.Words, s.DeliveryId))]
            )
        );
    }

    private static async Task<Results<Ok<BurnCounts>, ProblemHttpResult>> CountsAsync(
        Guid fuseId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!await db.Fuses.AnyAsync(f => f.Id == fuseId, stop))
            return Problems.No("fuse");
        var since = time.Now() - Duration.FromDays(CountedDays);
        var all = (
            await db
                .Database.SqlQuery<Counted>(
                    $"""
                    select count(*)::int as lit, count(*) filter (where status = 'burning' and state->>'held' is null)::int as burning, count(*) filter (where status = 'listening')::int as listening,
                           count(*) filter (where status = 'burning' and state->>'held' is not null)::int as held, count(*) filter (where state @? '$.steps[*] ? (@.status == "failed")')::int as failed
                    from burns where fuse_id = {fuseId} and lit_at >= {since}
                    """
                )
                .ToListAsync(stop)
        )[0];
        var bands = await db
            .Database.SqlQuery<EnteredCount>(
                $"""
                select x->>'bandId' as band_id, count(*)::int as burns from burns cross join jsonb_array_elements(state->'bands') x where fuse_id = {fuseId} and lit_at >= {since} group by 1
                """
            )
            .ToListAsync(stop);
        var steps = await db
            .Database.SqlQuery<StepCount>(
                $"""
                select x->>'stepId' as step_id, count(*) filter (where x->>'status' = 'waiting')::int as waiting, count(*) filter (where x->>'status' in ('sent', 'done'))::int as sent,
                       count(*) filter (where x->>'status' = 'failed')::int as failed, count(*) filter (where x->>'status' = 'cancelled')::int as cancelled
                from burns cross join jsonb_array_elements(state->'steps') x where fuse_id = {fuseId} and lit_at >= {since} group by 1
                """
            )
            .ToListAsync(stop);
        return TypedResults.Ok(
            new BurnCounts(CountedDays, all.Lit, all.Burning, all.Listening, all.Held, all.Failed, bands, steps)
        );
    }

    private sealed record Counted(int Lit, int Burning, int Listening, int Held, int Failed);

    private static async Task<List<BurnRow>> RowsAsync(AppDb db, IReadOnlyList<Burn> burns, CancellationToken stop)
    {
        var leadIds = burns.Select(b => b.LeadId).Distinct().ToList();
        var versionIds = burns.Select(b => b.FuseVersionId).Distinct().ToList();
        var leads = await db
            .Leads.AsNoTracking()
            .Where(l => leadIds.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, l => l.ShownName(), stop);
        var versions = await db
            .FuseVersions.AsNoTracking()
            .Where(v => versionIds.Contains(v.Id))
            .ToDictionaryAsync(v => v.Id, stop);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        return
        [
            .. burns.Select(b =>
            {
                int Count(StepStatus status) => b.State.Steps.Count(s => s.Status == status);
                var entered = b.State.Bands.Select(x => x.BandId).ToHashSet(StringComparer.Ordinal);
                return new BurnRow(
                    b.Id,
                    b.LeadId,
                    leads.GetValueOrDefault(b.LeadId, ""),
                    b.FuseId,
                    StoryWriter.NameOf(versions[b.FuseVersionId]),
                    clients.GetValueOrDefault(b.ClientId, ""),
                    b.Status,
                    b.LitAt,
                    [
                        .. versions[b.FuseVersionId]
                            .Definition.Bands.Where(x => entered.Contains(x.Id))
                            .Select(x => x.Name),
                    ],
                    Count(StepStatus.Waiting),
                    Count(StepStatus.Sent),
                    Count(StepStatus.Done),
                    Count(StepStatus.Failed),
                    Count(StepStatus.Cancelled),
                    b.State.Held,
                    b.State.Stop,
                    b.Status == BurnStatus.Burning && b.SetAsideAt is null ? b.State.NextWake : null,
                    b.SetAsideBecause
                );
            }),
        ];
    }

    private static (Instant At, Guid Id)? Read(string after) =>
        after.Split('.') is [var ticks, var id]
        && long.TryParse(ticks, CultureInfo.InvariantCulture, out var at)
        && at is > 0 and < 100_000_000_000_000_000
        && Guid.TryParse(id, out var read)
            ? (Instant.FromUnixTimeTicks(at), read)
            : null;
}

using LitFuse.Core.Hours;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Features.Continuity;

/// <summary>A line to be proved.</summary>
/// <param name="From">From the network's own end, or from here; <c>null</c>: from the network where it can.</param>
/// <param name="OnlyMe">Everything it sets off goes to my own addresses.</param>
public sealed record ProofToBegin(ProvenFrom? From, bool OnlyMe);

/// <summary>When a form proves itself.</summary>
/// <param name="AfterMend">Whenever a cut was mended.</param>
/// <param name="DailyAt">As in <c>07:30</c>, on the client's clock; <c>null</c>: not by the clock.</param>
public sealed record ProofPlanToSet(bool AfterMend, string? DailyAt);

/// <summary>How a line can be proved, and was.</summary>
/// <param name="FromNetwork">The network itself can send a test lead.</param>
/// <param name="For">Whose addresses the plan's tests go to.</param>
/// <param name="Runs">Newest first.</param>
public sealed record ProofList(
    bool FromNetwork,
    string Network,
    bool AfterMend,
    string? DailyAt,
    string? For,
    Instant? NextAt,
    IReadOnlyList<ProofTold> Runs
);

/// <summary>Proving lines with marked test leads.</summary>
public static class ProofEndpoints
{
    private const int MostShown = 3;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var proofs = app.MapGroup("/api/forms/{formId}/proofs").WithTags("Continuity");
        proofs
            .MapGet("/", ListAsync)
            .Needs(Act.SeeSources)
            .WithSummary("How the line was proved lately, joint by joint, and whether it proves itself");
        proofs
            .MapPost("/", BeginAsync)
            .Needs(Act.EditSources)
            .WithSummary("Prove it: send a marked test lead and follow it down the line");
        proofs
            .MapPut("/plan", PlanAsync)
            .Needs(Act.EditSources)
            .WithSummary("Let it prove itself: after each mend, or daily; to my own addresses only");
    }

    private static async Task<Results<Ok<ProofList>, ProblemHttpResult>> ListAsync(
        Guid formId,
        AppDb db,
        LineProver proving,
        SourceKinds kinds,
        CancellationToken stop
    )
    {
        if (await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == form.SourceId, stop);
        var watch = await db.FormWatches.AsNoTracking().SingleOrDefaultAsync(w => w.FormId == formId, stop);
        var told = new List<ProofTold>();
        foreach (
            var run in await db
                .ProofRuns.AsNoTracking()
                .Where(p => p.FormId == formId)
                .OrderByDescending(p => p.BeganAt)
                .Take(MostShown)
                .ToListAsync(stop)
        )
            told.Add(await proving.FollowAsync(run, stop));
        var plan = watch?.Plan;
        var name = plan is null
            ? null
            : await db.Users.Where(u => u.Id == plan.For).Select(u => u.Name).FirstOrDefaultAsync(stop);
        var kind = kinds.Of(source.Kind);
        return TypedResults.Ok(
            new ProofList(
                LineProver.CanFromNetwork(kind, source, form),
                kind.Card.Name,
                plan?.AfterMend == true,
                plan?.DailyAt,
                name,
                watch?.ProveDueAt,
                told
            )
        );
    }

    private static async Task<Results<Ok<ProofTold>, ProblemHttpResult>> BeginAsync(
        Guid formId,
        ProofToBegin asked,
        HttpContext http,
        AppDb db,
        LineProver proving,
        SourceKinds kinds,
        CancellationToken stop
    )
    {
        if (await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop) is not { } form)
            return Problems.No("form");
        var me = ClientAccess.UserId(http.User)!.Value;
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == form.SourceId, stop);
        var from = asked.From
            ?? (LineProver.CanFromNetwork(kinds.Of(source.Kind), source, form) ? ProvenFrom.Network : ProvenFrom.Here);
        var (run, fault) = await proving.BeginAsync(form, from, asked.OnlyMe ? me : null, me, stop);
        return run is null ? Problems.NotNow.Because(fault) : TypedResults.Ok(await proving.FollowAsync(run, stop));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> PlanAsync(
        Guid formId,
        ProofPlanToSet set,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.WatchOfAsync(formId, stop) is not { } watch)
            return Problems.No("form");
        if (
            set.DailyAt is { Length: > 0 } at
            && !LocalTimePattern.CreateWithInvariantCulture("HH:mm").Parse(at).Success
        )
            return Problems.Bad("dailyAt", "Write the hour as 07:30.");
        var me = await db.Users.AsNoTracking().SingleAsync(u => u.Id == ClientAccess.UserId(http.User), stop);
        var wants = set.AfterMend || !string.IsNullOrEmpty(set.DailyAt);
        if (wants && me is { TestPhone: null, TestEmail: null, TestPerson: null })
            return Problems.NotNow.Because(
                "Say first where your own tests go: Setup, My tests. By itself a form is proved to your own addresses only."
            );
        watch.Plan = wants ? new(set.AfterMend, string.IsNullOrEmpty(set.DailyAt) ? null : set.DailyAt, me.Id) : null;
        var zone = (await db.Clients.AsNoTracking().SingleAsync(c => c.Id == watch.ClientId, stop)).DateTimeZone();
        watch.ProveDueAt = ProofLoop.Next(watch.Plan, zone, time.Now());
        db.NoteChange(watch.ClientId, ChangeKind.Line, formId);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("proofs", stop);
        return TypedResults.NoContent();
    }
}

/// <summary>Follows proofs to their end, and begins those that forms want by themselves.</summary>
public sealed class ProofLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<ProofLoop> log)
    : EngineLoop(signals.Proofs, scopes, time, log)
{
    private static readonly Duration Step = Duration.FromSeconds(1);
    private readonly TimeProvider time = time;

    /// <summary>When a plan next begins a proof by the clock.</summary>
    public static Instant? Next(ProofPlan? plan, DateTimeZone zone, Instant after)
    {
        if (
            plan?.DailyAt is not { } text
            || LocalTimePattern.CreateWithInvariantCulture("HH:mm").Parse(text) is not { Success: true, Value: var at }
        )
            return null;
        return zone.NextAt(at, after);
    }

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var proving = services.GetRequiredService<LineProver>();
        var now = time.Now();
        foreach (
            var run in await db
                .ProofRuns.AsNoTracking()
                .Where(p => p.State == ProofState.Running)
                .OrderBy(p => p.BeganAt)
                .Take(50)
                .ToListAsync(stop)
        )
            await proving.FollowAsync(run, stop);
        // Taking the moment away is the claim.
        var due = (
            await db
                .FormWatches.FromSql(
                    $"""
                    update form_watches set prove_due_at = null
                    where form_id = (select form_id from form_watches where prove_due_at <= {now} order by prove_due_at limit 1 for update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .AsNoTracking()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (due is { Plan: { } plan })
        {
            var form = await db.Forms.AsNoTracking().SingleAsync(f => f.Id == due.FormId, stop);
            var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == form.SourceId, stop);
            var kind = services.GetRequiredService<SourceKinds>().Of(source.Kind);
            await proving.BeginAsync(
                form,
                LineProver.CanFromNetwork(kind, source, form) ? ProvenFrom.Network : ProvenFrom.Here,
                plan.For,
                null,
                stop
            );
            var zone = (await db.Clients.AsNoTracking().SingleAsync(c => c.Id == due.ClientId, stop)).DateTimeZone();
            var next = Next(plan, zone, now);
            await db
                .FormWatches.Where(w => w.FormId == due.FormId && w.ProveDueAt == null)
                .ExecuteUpdateAsync(w => w.SetProperty(x => x.ProveDueAt, next), stop);
            return (true, null);
        }

        if (await db.ProofRuns.AnyAsync(p => p.State == ProofState.Running, stop))
            return (false, now + Step);
        return (false, await db.FormWatches.MinAsync(w => w.ProveDueAt, stop));
    }
}

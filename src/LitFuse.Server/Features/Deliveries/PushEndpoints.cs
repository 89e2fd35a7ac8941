using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Leads;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Deliveries;

/// <summary>Leads to send to a system of record, by hand.</summary>
/// <param name="Ids">These; or <c>null</c> for all that <paramref name="Filter"/> means.</param>
/// <param name="FuseId">As a step of this fuse does it; or <c>null</c>, with <paramref name="Step"/>.</param>
/// <param name="StepId">Which.</param>
/// <param name="Step">As this step says.</param>
/// <param name="JustCount">Say how many it would be, and send nothing.</param>
public sealed record LeadsToPush(
    string? Client,
    IReadOnlyList<Guid>? Ids,
    LeadFilter? Filter,
    Guid? FuseId,
    string? StepId,
    Step? Step,
    bool JustCount
);

/// <summary>How many are sent.</summary>
/// <param name="Through">The connection's name.</param>
public sealed record LeadsPushed(int Pushed, string Through);

/// <summary>A step by which leads can be sent.</summary>
public sealed record PushableStep(Guid FuseId, string Fuse, string StepId, string Step, string What, string Connection);

/// <summary>Steps by which leads can be sent.</summary>
public sealed record PushableSteps(IReadOnlyList<PushableStep> Steps);

/// <summary>Sends chosen leads to a system of record, as a step of a fuse would.</summary>
public static class PushEndpoints
{
    private const int Most = 5000;
    private const int InOneGo = 200;

    /// <summary>Maps it.</summary>
    public static void Map(RouteGroupBuilder deliveries)
    {
        deliveries
            .MapGet("/pushable", PushableAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Steps into systems of record by which leads can be sent by hand");
        deliveries
            .MapPost("/push", PushAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Send chosen leads to a system of record now");
    }

    private static async Task<Results<Ok<PushableSteps>, ProblemHttpResult>> PushableAsync(
        AppDb db,
        ClientScope scope,
        StepCatalog catalog,
        CancellationToken stop,
        string? client = null
    )
    {
        if (string.IsNullOrWhiteSpace(client))
            return Problems.Bad("client", "Say for which client.");
        if (await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var connections = await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop);
        var fuses = await DefinitionsAsync(db, clientId, stop);
        var found =
            from fuse in fuses
            from step in fuse.Definition.Bands.SelectMany(b => b.Steps)
            let kind = catalog.Find(step.Kind)
            where kind is { Lane: Lane.Systems, Service: not null, Hidden: false } && !UsesSteps(step, catalog)
            let through = Through(step, kind.Service!, connections)
            where through is not null
            select new PushableStep(fuse.Id, fuse.Definition.Name, step.Id, step.Name, kind!.Label, through!.Name);
        return TypedResults.Ok(new PushableSteps([.. found]));
    }

    private static async Task PushLotAsync(
        Guid[] lot,
        Step step,
        Connection through,
        string push,
        Guid? me,
        AppDb db,
        StepCatalog catalog,
        LeadEventRouter events,
        Instant now,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        foreach (var lead in (await HeldLead.ManyAsync(db, lot, stop)).Select(h => h.Lead))
        {
            var words = (await events.FactsAsync(lead, now, stop)).Words;
            var (settings, unsaid) = CompiledFuse.Fill(step, words, catalog);
            if (unsaid is not null)
            {
                db.AddStory(lead, StoryKind.StepFailed, unsaid, now, by: me).Step = step.Name;
                continue;
            }

            var delivery = DeliveryOf(lead, step, through, settings, $"{push}.{lead.Id:N}", now);
            db.Deliveries.Add(delivery);
            var line = db.AddStory(lead, StoryKind.StepSent, $"sent to {through.Name} by hand", now, by: me);
            (line.Step, line.DeliveryId) = (step.Name, delivery.Id);
        }

        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        db.ChangeTracker.Clear();
    }

    private static async Task<Results<Ok<LeadsPushed>, ProblemHttpResult>> PushAsync(
        LeadsToPush asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        FuseContextReader reader,
        StepCatalog catalog,
        LeadEventRouter events,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(asked.Client)
            || await db.ChosenAsync(scope, asked.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        var now = time.Now();
        var step = asked.Step
            ?? (await DefinitionsAsync(db, clientId, stop))
                .FirstOrDefault(f => f.Id == asked.FuseId)
                .Definition?.Bands.SelectMany(b => b.Steps)
                .FirstOrDefault(s => s.Id == asked.StepId);
        if (step is null)
            return Problems.Bad("stepId", "Choose a step into a system of record.");
        if (catalog.Find(step.Kind) is not { Lane: Lane.Systems, Service: { } service, Hidden: false })
            return Problems.Bad("step", "By hand leads are sent to systems of record only.");
        if (UsesSteps(step, catalog))
            return Problems.Bad("step", $"'{step.Name}' uses what another step leaves, and by itself there is none.");
        var alone = new FuseDefinition
        {
            Name = "By hand",
            LitBy = [new(EventKeys.ByHand, null)],
            Bands = [new("alone", "Alone", new(EntryKind.Always), [step])],
        };
        var around = await reader.ReadAsync(clientId, stop, alone);
        if (FuseFaults.Find(alone, around.ForFaults()).FirstOrDefault(f => f.StepId is not null) is { } fault)
            return Problems.Bad("step", $"{fault.What} {fault.Mend}");
        var through = Through(
            step,
            service,
            await db.Connections.AsNoTracking().Where(c => c.ClientId == clientId).ToListAsync(stop)
        )!;

        var (leads, wrong) = await LeadsAsync(asked, clientId, db, scope, now, stop);
        if (wrong is not null)
            return wrong;
        var ids = await leads!.OrderBy(l => l.AskedAt).Select(l => l.Id).Take(Most + 1).ToListAsync(stop);
        if (asked.JustCount)
            return TypedResults.Ok(new LeadsPushed(ids.Count, through.Name));
        if (ids.Count > Most)
            return Problems.Bad("filter", $"That is more than {Most} leads at once. Narrow it down.");
        var (me, push) = (ClientAccess.UserId(http.User), Guid.CreateVersion7());
        foreach (var lot in ids.Chunk(InOneGo))
        {
            await PushLotAsync(lot, step, through, $"push.{push:N}", me, db, catalog, events, now, stop);
            signals.Deliveries.Pulse();
        }

        return TypedResults.Ok(new LeadsPushed(ids.Count, through.Name));
    }

    // As each stands now: the draft, where somebody edits it, else the armed version.
    private static async Task<List<(Guid Id, FuseDefinition Definition)>> DefinitionsAsync(
        AppDb db,
        Guid clientId,
        CancellationToken stop
    )
    {
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Name)
            .ToListAsync(stop);
        var armed = fuses.ConvertAll(f => f.ArmedVersionId);
        var versions = await db
            .FuseVersions.AsNoTracking()
            .Where(v => armed.Contains(v.Id))
            .ToDictionaryAsync(v => v.Id, v => v.Definition, stop);
        return
        [
            .. fuses
                .Select(f =>
                    (f.Id, Definition: f.Draft ?? (f.ArmedVersionId is { } id ? versions.GetValueOrDefault(id) : null)!)
                )
                .Where(f => f.Definition is not null),
        ];
    }

    private static async Task<(IQueryable<Lead>? Leads, ProblemHttpResult? Fault)> LeadsAsync(
        LeadsToPush asked,
        Guid clientId,
        AppDb db,
        ClientScope scope,
        Instant now,
        CancellationToken stop
    )
    {
        if (asked.Ids is { Count: > 0 and <= Most } named)
            return (db.Leads.Where(l => l.ClientId == clientId && named.Contains(l.Id)), null);
        if (asked is not { Ids: null, Filter: { } filter })
            return (null, Problems.Bad("ids", $"Choose between one and {Most} leads, or a filter."));
        var (found, fault) = await filter.ApplyAsync(db, scope, now, stop);
        return (found?.Where(l => l.ClientId == clientId), fault);
    }

    private static OutboxDelivery DeliveryOf(
        Lead lead,
        Step step,
        Connection through,
        IReadOnlyDictionary<string, string> settings,
        string key,
        Instant now
    ) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            ConnectionId = through.Id,
            Step = step.Name,
            Kind = step.Kind,
            Lane = Lane.Systems,
            Key = key,
            Settings = settings,
            PlannedAt = now,
            AgeLimitHours = 24,
            Retry = RetryProfile.Patient,
            OnlyTo = lead.OnlyTo,
            Status = DeliveryStatus.Due,
            MadeAt = now,
            DueAt = now,
        };

    private static Connection? Through(Step step, string service, IReadOnlyList<Connection> connections) =>
        connections.FirstOrDefault(c =>
            c.Kind == service
            && (
                step.Settings.GetValueOrDefault(StepKinds.Connection) is not { Length: > 0 } named
                || c.Id.ToString() == named
            )
        );

    private static bool UsesSteps(Step step, StepCatalog catalog) =>
        FuseFaults.UsesOf(step, catalog).Any(p => p.StartsWith(Core.Guards.Facts.Steps, StringComparison.Ordinal));
}

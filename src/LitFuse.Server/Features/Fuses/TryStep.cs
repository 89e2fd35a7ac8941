using System.Globalization;
using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A step to try.</summary>
/// <param name="Step">As it stands, armed or not.</param>
/// <param name="LeadId">With whose answers; <c>null</c>: those of whoever asked last.</param>
public sealed record StepToTry(string? Client, Step? Step, Guid? LeadId);

/// <summary>What came of it.</summary>
/// <param name="Lead">With whose answers.</param>
/// <param name="Exchanges">What was said and answered, secrets masked.</param>
/// <param name="Results">What it would leave for later steps.</param>
/// <param name="Curl">The first thing that was said, as a command to paste; <c>null</c> where it was not said over
/// HTTP.</param>
/// <param name="Reference">The service's id for what it took: it can be taken back by it.</param>
public sealed record StepTried(
    string Lead,
    AttemptEnd End,
    string Reason,
    IReadOnlyList<Exchange> Exchanges,
    IReadOnlyDictionary<string, string> Results,
    string? Curl,
    Guid ConnectionId,
    string? Reference
);

/// <summary>What a try left, to be taken back.</summary>
public sealed record TryToTakeBack(string? Kind, string? Reference);

/// <summary>Whether it is gone.</summary>
/// <param name="Gone"><c>null</c> where the service takes nothing back.</param>
public sealed record TryTakenBack(bool? Gone);

/// <summary>
/// Tries a step, as a test: a record is marked, and can be taken back; a message goes to the own addresses of whoever
/// tries it, and to nobody else.
/// </summary>
public static class TryStep
{
    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var connections = app.MapGroup("/api/connections").WithTags("Connections");
        connections
            .MapPost("/try", TryAsync)
            .Needs(Act.EditFuses)
            .WithSummary(
                "Do a step now, as a test, and see what was said: a record that is marked, or a message to oneself"
            );
        connections
            .MapPost("/{connectionId}/take-back", TakeBackAsync)
            .Needs(Act.EditFuses)
            .WithSummary("Take back what a try left there");
    }

    private static bool IsOfStep(FuseFault fault) =>
        fault.StepId is not null
        && !(
            fault.Code is FuseFaultCode.Unfilled or FuseFaultCode.ResultGone
            && fault.About.StartsWith(Core.Guards.Facts.Steps, StringComparison.Ordinal)
        );

    private static async Task<Connection?> ThroughAsync(
        AppDb db,
        Guid clientId,
        string service,
        Step step,
        CancellationToken stop
    )
    {
        var named = step.Settings.GetValueOrDefault(StepKinds.Connection);
        var through = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == clientId && c.Kind == service)
            .OrderBy(c => c.Name)
            .ToListAsync(stop);
        return through.Find(c => string.IsNullOrEmpty(named) || c.Id.ToString() == named);
    }

    private static Task<Lead?> LeadAsync(AppDb db, Guid clientId, Guid? leadId, CancellationToken stop) =>
        leadId is { } id
            ? db.Leads.AsNoTracking().SingleOrDefaultAsync(l => l.Id == id && l.ClientId == clientId, stop)
            : db
                .Leads.AsNoTracking()
                .Where(l => l.ClientId == clientId && l.DoNotContactAt == null)
                .OrderByDescending(l => l.AskedAt)
                .FirstOrDefaultAsync(stop);

    // A record of its own, which is nobody's: it can be taken back without harm.
    private static Outgoing OutgoingOf(
        Step step,
        IReadOnlyDictionary<string, string> settings,
        Client client,
        Instant now
    ) =>
        new(
            step.Kind,
            $"try.{Guid.CreateVersion7():N}",
            settings,
            null,
            Guid.CreateVersion7().ToString(),
            client.Currency
        )
        {
            Test = true,
            Zone = client.DateTimeZone(),
            At = now,
        };

    private static async Task<Results<Ok<StepTried>, ProblemHttpResult>> TryAsync(
        StepToTry asked,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        FuseContextReader reader,
        StepCatalog catalog,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        LeadEventRouter events,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(asked.Client)
            || await db.ChosenAsync(scope, asked.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if (asked.Step is not { } step || catalog.Find(step.Kind) is not { Service: { } service, Hidden: false } kind)
            return Problems.Bad("step", "Only steps that go through a service are tried.");
        var alone = new FuseDefinition
        {
            Name = "A try",
            LitBy = [new(EventKeys.ByHand, null)],
            Bands = [new("alone", "Alone", new(EntryKind.Always), [step])],
        };
        var around = await reader.ReadAsync(clientId, stop, alone);
        // What other steps leave is not there in a try; it is tried with nothing in its place.
        if (FuseFaults.Find(alone, around.ForFaults()).FirstOrDefault(IsOfStep) is { } fault)
            return Problems.Bad("step", $"{fault.What} {fault.Mend}");
        if (await ThroughAsync(db, clientId, service, step, stop) is not { } connection)
            return Problems.Bad("step", $"There is no connection to {service}. Connect it under Setup.");
        if (await LeadAsync(db, clientId, asked.LeadId, stop) is not { } lead)
            return Problems.NotNow.Because(
                "There is no lead yet whose answers it could be tried with. Send a test lead first."
            );

        var now = time.Now();
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var (settings, unsaid) = CompiledFuse.Fill(step, (await events.FactsAsync(lead, now, stop)).Words, catalog);
        if (unsaid is not null)
            return Problems.Bad(
                "step",
                $"“{step.Name}” cannot be sent for {lead.ShownName()}: {unsaid}. Change its words."
            );
        var outgoing = OutgoingOf(step, settings, client, now);
        if (kind.Lane != Lane.Systems)
        {
            // Written words alone: whom it is for is oneself.
            var me = await db
                .Users.AsNoTracking()
                .SingleOrDefaultAsync(u => u.Id == ClientAccess.UserId(http.User), stop);
            (outgoing, var missing) = TestAim.At(outgoing, me, onlyMe: true);
            if (missing is not null)
                return Problems.Bad("step", $"It was not sent: {missing}.");
        }

        var access = opener.OpenTaped(connection);
        var result = await connectors.Of(connection.Kind).DeliverAsync(access, outgoing, stop);
        var said = access.Tape!.Exchanges;
        return TypedResults.Ok(
            new StepTried(
                lead.ShownName(),
                result.End,
                $"{connection.Name} {(result.End == AttemptEnd.Accepted ? "took it" : result.Reason)}",
                said,
                result.Results ?? new Dictionary<string, string>(StringComparer.Ordinal),
                said.Count > 0 ? CurlOf(said[^1]) : null,
                connection.Id,
                result.Reference
            )
        );
    }

    private static async Task<Results<Ok<TryTakenBack>, ProblemHttpResult>> TakeBackAsync(
        Guid connectionId,
        TryToTakeBack asked,
        AppDb db,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        CancellationToken stop
    )
    {
        if (
            await db.Connections.AsNoTracking().SingleOrDefaultAsync(c => c.Id == connectionId, stop)
                is not { } connection
            || connectors.Find(connection.Kind) is not { } connector
        )
            return Problems.No("connection");
        if (string.IsNullOrEmpty(asked.Reference) || connector.Steps.All(s => s.Key != asked.Kind))
            return Problems.Bad("reference", "Say what is to be taken back.");
        // What a lead's own delivery left is not a try's to take.
        if (await db.Deliveries.AnyAsync(d => d.ConnectionId == connectionId && d.Reference == asked.Reference, stop))
            return Problems.NotNow.Because("That belongs to a lead.");
        try
        {
            return TypedResults.Ok(
                new TryTakenBack(
                    await connector.SweepAsync(opener.Open(connection), asked.Kind!, asked.Reference, stop)
                )
            );
        }
        catch (HttpRequestException e)
        {
            return Problems.NotConnected.Because($"{connection.Name} {e.Message}.");
        }
    }

    private static string? CurlOf(Exchange said)
    {
        if (said.Asked.Split(' ', 2) is not [var method, var url] || !url.StartsWith("http", StringComparison.Ordinal))
            return null;
        static string Quoted(string text) => "'" + text.Replace("'", "'\\''", StringComparison.Ordinal) + "'";
        var lines = new List<string> { string.Create(CultureInfo.InvariantCulture, $"curl -X {method} {Quoted(url)}") };
        lines.AddRange(
            said.Headers.Where(h => !h.Key.Equals("Content-Length", StringComparison.OrdinalIgnoreCase))
                .Select(h => $"-H {Quoted($"{h.Key}: {h.Value}")}")
        );
        if (said.Sent is { } body)
            lines.Add("--data-raw " + Quoted(body));
        return string.Join(" \\\n  ", lines);
    }
}

using LitFuse.Connectors;
using LitFuse.Core.Calling;
using LitFuse.Core.Delivering;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Calls;

/// <summary>
/// Has the carrier do what a call wants, after it is on disk. A command that is lost with its process is not made good:
/// the state that waits for it runs out, and the call goes on from there.
/// </summary>
public sealed class CallCommands(
    IServiceScopeFactory scopes,
    ConnectorKinds connectors,
    ConnectionOpener opener,
    Signals signals,
    ILogger<CallCommands> log
)
{
    private static readonly TimeSpan[] Waits = [TimeSpan.FromMilliseconds(150), TimeSpan.FromMilliseconds(600)];

    /// <summary>Carries orders out without being waited for.</summary>
    public void Go(CallOrders orders)
    {
        signals.Calls.Pulse();
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        foreach (
            var effect in orders.Effects.Where(e =>
                e
                    is CallEffect.RingTeam
                        or CallEffect.RingLead
                        or CallEffect.Join
                        or CallEffect.HangUp
                        or CallEffect.Look
            )
        )
            _ = Task.Run(() => SafelyAsync(orders.Call, effect));
    }

    /// <summary>Brings an event to a call, and carries out what comes of it.</summary>
    /// <returns>False when there is no such call.</returns>
    public async Task<bool> HearAsync(
        Guid callId,
        CallEvent happened,
        CancellationToken stop,
        Action<Call>? also = null
    )
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        if (
            await scope.ServiceProvider.GetRequiredService<CallService>().HearAsync(callId, happened, stop, also)
            is not { } orders
        )
            return false;
        Go(orders);
        return true;
    }

    private async Task SafelyAsync(Call call, CallEffect effect)
    {
        try
        {
            await CarryAsync(call, effect);
        }
        catch (Exception e)
        {
            log.LogError(
                e,
                "Call {Id}: {Effect} was not carried out; its time runs out.",
                call.Id,
                effect.GetType().Name
            );
        }
    }

    private async Task CarryAsync(Call call, CallEffect effect)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        var connection = await db.Connections.AsNoTracking().SingleAsync(c => c.Id == call.ConnectionId);
        if (connectors.Of(connection.Kind) is not ICallCarrier carrier)
            throw new InvalidOperationException($"{connection.Kind} carries no calls.");
        var access = opener.Open(connection);
        var references = effect is CallEffect.RingTeam or CallEffect.RingLead
            ? []
            : await db.Calls.Where(c => c.Id == call.Id).Select(c => c.References).SingleAsync();
        string? ReferenceOf(int leg) =>
            leg < references.Count && references[leg] is { Length: > 0 } known ? known : null;
        switch (effect)
        {
            case CallEffect.RingTeam ring:
                await RingAsync(carrier, access, call, ring.Leg, OfTeam(call, ring));
                break;
            case CallEffect.RingLead ring:
                await RingAsync(carrier, access, call, ring.Leg, OfLead(call, ring));
                break;
            case CallEffect.Join join
                when ReferenceOf(join.TeamLeg) is { } team && ReferenceOf(join.LeadLeg) is { } lead:
                var joined = await RepeatedAsync(() =>
                    carrier.JoinAsync(access, lead, team, call.Plan.RecordingWords, CancellationToken.None)
                );
                await HearAsync(
                    call.Id,
                    joined.End == AttemptEnd.Accepted
                        ? new CallEvent.Joined(join.LeadLeg)
                        : new CallEvent.LegEnded(join.LeadLeg, LegEnding.Failed, joined.Reason),
                    CancellationToken.None
                );
                break;
            case CallEffect.HangUp up when ReferenceOf(up.Leg) is { } reference:
                await RepeatedAsync(() => carrier.HangUpAsync(access, reference, up.Say, CancellationToken.None));
                break;
            case CallEffect.Look look when ReferenceOf(look.Leg) is { } reference:
                if (await carrier.IsOverAsync(access, reference, CancellationToken.None) == true)
                    await HearAsync(
                        call.Id,
                        new CallEvent.LegEnded(look.Leg, LegEnding.HungUp),
                        CancellationToken.None
                    );
                break;
            default:
                // Its phone has no id yet: whoever rings it hangs it up when it has.
                break;
        }
    }

    private static PhoneToRing OfTeam(Call call, CallEffect.RingTeam ring) =>
        new(
            call.Plan.TeamSees,
            call.Plan.Team[ring.Person].Phone,
            call.Plan.Words + (call.Plan.Asks ? CallWords.Keys : ""),
            call.Plan.Asks,
            call.Plan.RingSeconds,
            TagOf(call, ring.Leg)
        );

    private static PhoneToRing OfLead(Call call, CallEffect.RingLead ring) =>
        new(
            call.Plan.LeadSees,
            call.Plan.LeadPhone,
            "",
            TakesKeys: false,
            call.Plan.LeadRingSeconds,
            TagOf(call, ring.Leg)
        );

    /// <summary>By what the carrier's notices name a phone of a call.</summary>
    private static string TagOf(Call call, int leg) =>
        string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{call.Id:N}.{leg}");

    /// <summary>The phone that a tag names, or <c>null</c>.</summary>
    public static (Guid CallId, int Leg)? OfTag(string? tag) =>
        tag?.Split('.') is [var id, var leg]
        && Guid.TryParseExact(id, "N", out var callId)
        && int.TryParse(leg, System.Globalization.CultureInfo.InvariantCulture, out var place)
            ? (callId, place)
            : null;

    private async Task RingAsync(ICallCarrier carrier, ConnectionAccess access, Call call, int leg, PhoneToRing phone)
    {
        var rung = await RepeatedAsync(() => carrier.RingAsync(access, phone, CancellationToken.None));
        if (rung.End != AttemptEnd.Accepted || rung.Reference is null)
        {
            await HearAsync(
                call.Id,
                new CallEvent.LegEnded(leg, LegEnding.Failed, $"{rung.Reason}"),
                CancellationToken.None
            );
            return;
        }

        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        await scope
            .ServiceProvider.GetRequiredService<CallService>()
            .NoteAsync(call.Id, leg, rung.Reference, CancellationToken.None);
        var state = await scope
            .ServiceProvider.GetRequiredService<AppDb>()
            .Calls.AsNoTracking()
            .Where(c => c.Id == call.Id)
            .Select(c => c.State)
            .SingleAsync();
        // It was given up while it was being asked for.
        if (state.Legs[leg].State is LegState.Closing or LegState.Over)
            await RepeatedAsync(() =>
                carrier.HangUpAsync(
                    access,
                    rung.Reference,
                    CallWords.Parting(state.Legs[leg], state.AcceptedBy),
                    CancellationToken.None
                )
            );
        else if (state.Legs[leg].State == LegState.Joining)
            await CarryAsync(
                call,
                new CallEffect.Join(state.Legs.ToList().FindIndex(l => l.Person == state.AcceptedBy), leg)
            );
    }

    // What is worth nothing in ten seconds is tried again at once or not at all.
    private static async Task<AttemptResult> RepeatedAsync(Func<Task<AttemptResult>> command)
    {
        foreach (var wait in Waits)
        {
            var result = await command();
            if (result.End is AttemptEnd.Accepted or AttemptEnd.Final)
                return result;
            await Task.Delay(wait);
        }

        return await command();
    }
}

/// <summary>Calls whose time runs out, and those that a rule hangs up.</summary>
public sealed class CallLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<CallLoop> log)
    : EngineLoop(signals.Calls, scopes, time, log)
{
    private const int MostAtOnce = 100;
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, NodaTime.Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var now = time.Now();
        var due = await db
            .Calls.AsNoTracking()
            .Where(c => c.WakeAt <= now || c.HangUpBecause != null)
            .OrderBy(c => c.WakeAt)
            .Take(MostAtOnce)
            .Select(c => new { c.Id, c.HangUpBecause })
            .ToListAsync(stop);
        var commands = services.GetRequiredService<CallCommands>();
        foreach (var one in due)
        {
            if (one.HangUpBecause is { } because)
                await commands.HearAsync(one.Id, new CallEvent.HungUp(because), stop, c => c.HangUpBecause = null);
            else
                await commands.HearAsync(one.Id, new CallEvent.Woken(), stop);
        }

        return due.Count == MostAtOnce ? (true, null) : (false, await db.Calls.MinAsync(c => c.WakeAt, stop));
    }
}

using LitFuse.Connectors;
using LitFuse.Core.Calling;
using LitFuse.Core.Delivering;
using LitFuse.Core.Identity;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Delivery;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Calls;

/// <summary>
/// Begins ring-throughs: finds who of the team can be rung now, says who cannot and why, and has the first phones rung.
/// </summary>
public sealed class CallBegin(IServiceScopeFactory scopes, CallCommands commands, TimeProvider time) : IStepCarrier
{
    private const int MostRung = 10;

    /// <inheritdoc />
    public string Kind => Core.Fuses.Definition.StepKinds.RingThrough;

    /// <inheritdoc />
    public async Task<AttemptResult> CarryAsync(DeliveryToMake one, Outgoing outgoing, CancellationToken stop)
    {
        var (delivery, lead, client, connection, onlyTo) = one;
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        var settings = outgoing.Settings;
        var (team, leftOut) = delivery.OnlyTo is not null
            ? Only(onlyTo)
            : await TeamAsync(db, settings.GetValueOrDefault("colleagues") ?? "", lead, stop);
        var now = time.Now();
        var call = new Call
        {
            Id = Guid.CreateVersion7(),
            ClientId = client.Id,
            LeadId = lead.Id,
            ConnectionId = connection.Id,
            Key = outgoing.Key,
            BurnId = delivery.BurnId,
            StepId = delivery.StepId,
            StepKey = delivery.Key,
            Fuse = delivery.Fuse,
            Band = delivery.Band,
            Step = delivery.Step,
            BeganAt = now,
            Plan = new(
                team,
                lead.ShownName(),
                outgoing.To ?? "",
                Core.Words.SpokenWords.Of(settings.GetValueOrDefault("words") ?? "")
            )
            {
                AtOnce = settings.GetValueOrDefault("order") == "at-once",
                RingSeconds = int.TryParse(
                    settings.GetValueOrDefault("ring-for"),
                    System.Globalization.CultureInfo.InvariantCulture,
                    out var seconds
                )
                    ? Math.Clamp(seconds, 5, 60)
                    : 20,
                SpeaksToMachines = settings.GetValueOrDefault("machine") == "speak",
                RecordingWords = settings.GetValueOrDefault("recording") is { Length: > 0 } said
                    ? Core.Words.SpokenWords.Of(said)
                    : null,
                TeamSees = NumberOf(settings.GetValueOrDefault("team-sees"), client.Country),
                LeadSees = NumberOf(settings.GetValueOrDefault("lead-sees"), client.Country),
            },
        };
        if (await scope.ServiceProvider.GetRequiredService<CallService>().BeginAsync(call, leftOut, stop) is { } orders)
            commands.Go(orders);
        return new(AttemptEnd.Accepted, "rings", Reference: call.Id.ToString("N"));
    }

    /// <summary>Begins the one that somebody here wants: their own phone first, and no key.</summary>
    /// <returns>Why it was not begun, or <c>null</c>.</returns>
    public async Task<string?> BeginAsync(Guid me, Lead lead, Guid connectionId, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        var db = scope.ServiceProvider.GetRequiredService<AppDb>();
        var person = await db.Users.AsNoTracking().SingleAsync(u => u.Id == me, stop);
        if (person.TestPhone is not { Length: > 0 } phone)
            return "You have given no telephone number under Setup, so your phone cannot be rung first.";
        if (await BusyAsync(db, [me], stop) is { Count: > 0 })
            return "You are in a call already.";
        var id = Guid.CreateVersion7();
        var call = new Call
        {
            Id = id,
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            ConnectionId = connectionId,
            Key = $"ring.{id:N}",
            AskedBy = me,
            BeganAt = time.Now(),
            Plan = new(
                [new(me.ToString(), person.Name, phone)],
                lead.ShownName(),
                lead.Phone!,
                Core.Words.SpokenWords.Of($"Ringing {lead.ShownName()} for you.")
            )
            {
                Asks = false,
                SpeaksToMachines = true,
            },
        };
        if (await scope.ServiceProvider.GetRequiredService<CallService>().BeginAsync(call, [], stop) is { } orders)
            commands.Go(orders);
        return null;
    }

    private static (List<CallPerson> Team, List<string> LeftOut) Only(User? me) =>
        me?.TestPhone is { Length: > 0 } phone
            ? ([new(me.Id.ToString(), me.Name, phone)], [])
            : ([], [$"a test for {me?.Name ?? "somebody"} alone, who has given no telephone number under Setup"]);

    // In the order asked for, each once.
    private static async Task<(List<CallPerson> Team, List<string> LeftOut)> TeamAsync(
        AppDb db,
        string asked,
        Lead lead,
        CancellationToken stop
    )
    {
        var (team, leftOut, ids) = (new List<CallPerson>(), new List<string>(), new List<Guid>());
        foreach (var who in asked.Split(',').Select(w => w.Trim()))
        {
            if (who == "team")
                ids.AddRange(
                    await db
                        .Memberships.Where(m => m.ClientId == lead.ClientId && m.Role == Role.Rep)
                        .Join(db.Users, m => m.UserId, u => u.Id, (_, u) => u)
                        .OrderBy(u => u.Name)
                        .Select(u => u.Id)
                        .ToListAsync(stop)
                );
            else if (who == "owner" && (lead.OwnerId ?? lead.TakenBy) is { } owner)
                ids.Add(owner);
            else if (who == "owner")
                leftOut.Add("nobody answers for them yet, so nobody was rung as such");
            else if (Guid.TryParse(who, out var id))
                ids.Add(id);
        }

        ids = [.. ids.Distinct().Take(MostRung)];
        var people = await db
            .Memberships.Where(m => (m.ClientId == null || m.ClientId == lead.ClientId) && ids.Contains(m.UserId))
            .Join(
                db.Users,
                m => m.UserId,
                u => u.Id,
                (_, u) =>
                    new
                    {
                        u.Id,
                        u.Name,
                        u.TestPhone,
                        u.TakesCalls,
                    }
            )
            .ToListAsync(stop);
        var busy = await BusyAsync(db, ids, stop);
        foreach (var id in ids)
        {
            if (people.FirstOrDefault(p => p.Id == id) is not { } person)
                leftOut.Add("somebody was not rung, who does not work for this client any more");
            else if (!person.TakesCalls)
                leftOut.Add($"{person.Name} was not rung: not available for calls");
            else if (string.IsNullOrEmpty(person.TestPhone))
                leftOut.Add($"{person.Name} was not rung: no telephone number under Setup");
            else if (busy.Contains(id))
                leftOut.Add($"{person.Name} was not rung: in another call");
            else
                team.Add(new(id.ToString(), person.Name, person.TestPhone));
        }

        return (team, leftOut);
    }

    // Who has accepted a call that is not over.
    private static async Task<HashSet<Guid>> BusyAsync(AppDb db, IReadOnlyCollection<Guid> ids, CancellationToken stop)
    {
        var live = await db
            .Calls.AsNoTracking()
            .Where(c => c.WakeAt != null && c.EndedAt == null)
            .Select(c => new { c.Plan, c.State })
            .ToListAsync(stop);
        return
        [
            .. live.Where(c => c.State.AcceptedBy is not null)
                .Select(c => Guid.Parse(c.Plan.Team[c.State.AcceptedBy!.Value].Id))
                .Where(ids.Contains),
        ];
    }

    private static string? NumberOf(string? typed, string country) =>
        string.IsNullOrWhiteSpace(typed) ? null : PhoneReader.Read(typed, country).Phone?.E164;
}

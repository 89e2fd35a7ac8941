using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>A claimed delivery with what it takes to make it.</summary>
/// <param name="Delivery">As it was claimed.</param>
/// <param name="Lead">About whom, or to whom.</param>
/// <param name="Client">Whose.</param>
/// <param name="Connection">Through which.</param>
/// <param name="OnlyTo">For a test that goes to one person: that person.</param>
public sealed record DeliveryToMake(
    OutboxDelivery Delivery,
    Lead Lead,
    Client Client,
    Connection Connection,
    User? OnlyTo
)
{
    /// <summary>Files of the library that go with it.</summary>
    public IReadOnlyList<FileToAttach> Files { get; init; } = [];

    /// <summary>When automatic messages went to the lead within a day, where the client allows only so many.</summary>
    public IReadOnlyList<Instant> Sent { get; init; } = [];
}

/// <summary>Reads what a lot of claimed deliveries needs, all at once.</summary>
public sealed class DeliveryContextReader(AppDb db, ClientConfigCache setups, TimeProvider time)
{
    /// <summary>Reads it.</summary>
    public async Task<IReadOnlyList<DeliveryToMake>> ReadAsync(
        IReadOnlyList<OutboxDelivery> held,
        CancellationToken stop
    )
    {
        Guid[] leadIds = [.. held.Select(d => d.LeadId).Distinct()];
        var leads = await db
            .Leads.AsNoTracking()
            .IgnoreQueryFilters()
            .Where(l => leadIds.Contains(l.Id))
            .ToDictionaryAsync(l => l.Id, stop);
        var persons = held.Select(d => d.OnlyTo).OfType<Guid>().Distinct().ToArray();
        var users =
            persons.Length == 0
                ? []
                : await db.Users.AsNoTracking().Where(u => persons.Contains(u.Id)).ToDictionaryAsync(u => u.Id, stop);
        var files = await FilesAsync(held, stop);
        var sent = await SentAsync(held, stop);
        var whole = new List<DeliveryToMake>(held.Count);
        foreach (var delivery in held)
        {
            var setup = await setups.ReadLatelyAsync(db, delivery.ClientId, stop);
            if (setup.Connections.All(c => c.Id != delivery.ConnectionId))
                setup = await setups.ReadAsync(db, delivery.ClientId, stop);
            whole.Add(
                new(
                    delivery,
                    leads[delivery.LeadId],
                    setup.Client,
                    setup.Connections.First(c => c.Id == delivery.ConnectionId),
                    delivery.OnlyTo is { } me ? users.GetValueOrDefault(me) : null
                )
                {
                    Sent = sent.GetValueOrDefault(delivery.Id) ?? [],
                    Files =
                    [
                        .. FileIds(delivery)
                            .Select(id => files.GetValueOrDefault(id))
                            .OfType<LibraryFile>()
                            .Where(f => f.ClientId == delivery.ClientId)
                            .Select(f => new FileToAttach(f.Name, f.Type, f.Bytes)),
                    ],
                }
            );
        }

        return whole;
    }

    // What counts beside each of these: what was sent within a day, and what somebody is sending at this moment.
    // Whoever still has a place takes it before it is sent, one lead after the other, so that two of one moment cannot
    // both take the last. A place need not outlive the database's fall: what it was kept for is due again then, under
    // the same key.
    private async Task<Dictionary<Guid, IReadOnlyList<Instant>>> SentAsync(
        IReadOnlyList<OutboxDelivery> held,
        CancellationToken stop
    )
    {
        var beside = new Dictionary<Guid, IReadOnlyList<Instant>>();
        var limited = new List<(OutboxDelivery Delivery, int Most)>();
        foreach (var delivery in held.Where(Counts))
        {
            if ((await setups.ReadLatelyAsync(db, delivery.ClientId, stop)).Client.MostADay is > 0 and var most)
                limited.Add((delivery, most));
        }

        if (limited.Count == 0)
            return beside;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        Guid[] leadIds = [.. limited.Select(l => l.Delivery.LeadId).Distinct()];
        string[] names = [.. leadIds.Select(l => l.ToString("N"))];
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(k), set_config('synchronous_commit', 'off', true) from (select distinct hashtextextended(n, 2) k from unnest({names}) n order by 1) l",
            stop
        );
        var now = time.Now();
        var since = now - Duration.FromDays(1);
        var taken = (
            await db
                .Deliveries.AsNoTracking()
                .Where(d =>
                    leadIds.Contains(d.LeadId)
                    && (d.Kind == StepKinds.Text || d.Kind == StepKinds.Email)
                    && d.WrittenBy == null
                    && (d.SentAt > since || (d.Status == DeliveryStatus.Sending && d.ReservedAt > since))
                )
                .Select(d => new
                {
                    d.Id,
                    d.LeadId,
                    At = d.SentAt ?? d.ReservedAt!.Value,
                })
                .ToListAsync(stop)
        ).GroupBy(d => d.LeadId).ToDictionary(g => g.Key, g => g.ToDictionary(d => d.Id, d => d.At));
        var places = new List<Guid>();
        foreach (var (delivery, most) in limited.OrderBy(l => l.Delivery.MadeAt).ThenBy(l => l.Delivery.Id))
        {
            if (!taken.TryGetValue(delivery.LeadId, out var others))
                taken[delivery.LeadId] = others = [];
            var counted = others.Where(t => t.Key != delivery.Id).Select(t => t.Value).ToList();
            beside[delivery.Id] = counted;
            if (counted.Count >= most)
                continue;
            others[delivery.Id] = now;
            places.Add(delivery.Id);
        }

        if (places.Count > 0)
            await db
                .Deliveries.Where(d => places.Contains(d.Id))
                .ExecuteUpdateAsync(d => d.SetProperty(x => x.ReservedAt, now), stop);
        await transaction.CommitAsync(stop);
        return beside;
    }

    private static bool Counts(OutboxDelivery delivery) =>
        delivery.WrittenBy is null && delivery.Kind is StepKinds.Text or StepKinds.Email;

    private static IEnumerable<Guid> FileIds(OutboxDelivery delivery) =>
        delivery.Kind == StepKinds.Email
        && delivery.Settings.GetValueOrDefault(StepKinds.Files) is { Length: > 0 } files
            ? files
                .Split(',')
                .Select(f => Guid.TryParse(f.Trim(), out var id) ? id : Guid.Empty)
                .Where(id => id != Guid.Empty)
            : [];

    private async Task<Dictionary<Guid, LibraryFile>> FilesAsync(
        IReadOnlyList<OutboxDelivery> held,
        CancellationToken stop
    )
    {
        var ids = held.SelectMany(FileIds).Distinct().ToList();
        return ids.Count == 0
            ? []
            : await db.LibraryFiles.AsNoTracking().Where(f => ids.Contains(f.Id)).ToDictionaryAsync(f => f.Id, stop);
    }
}

/// <summary>
/// One attempt at one delivery: asks the gate, then calls the connector, or begins the call. No transaction is open
/// while the outside is asked.
/// </summary>
public sealed class DeliveryAttempt(
    ConnectorKinds connectors,
    ConnectionOpener opener,
    StepCatalog catalog,
    IEnumerable<IStepCarrier> carriers,
    TimeProvider time
)
{
    /// <summary>Runs it.</summary>
    /// <returns>How it went, to be written down.</returns>
    public async Task<Outcome> RunAsync(DeliveryToMake one, CancellationToken stop)
    {
        var (delivery, lead, _, connection, onlyTo) = one;
        var began = time.Now();
        if (NotNow(one, began) is { } why)
            return why;
        var outgoing = OutgoingOf(one);
        if (lead.Test)
        {
            var (aimed, missing) = TestAim.At(outgoing, onlyTo, delivery.OnlyTo is not null);
            if (missing is not null)
                return Ended(delivery, DeliveryStatus.Cancelled, missing, began, AttemptAnswer.NotSent);
            outgoing = aimed;
        }

        if (carriers.FirstOrDefault(c => c.Kind == delivery.Kind) is { } carrier)
        {
            var rings = await carrier.CarryAsync(one, outgoing, stop);
            return Ended(
                delivery,
                DeliveryStatus.Done,
                $"{connection.Name} {rings.Reason}",
                began,
                new AttemptAnswer(Spent: true, rings.Reference, began, 0, [], null)
            );
        }

        var access = opener.OpenTaped(connection);
        var asked = time.GetTimestamp();
        var result = await connectors.Of(connection.Kind).DeliverAsync(access, outgoing, stop);

        var answer = new AttemptAnswer(
            Spent: true,
            result.Reference,
            result.End == AttemptEnd.Accepted ? began : null,
            (int)time.GetElapsedTime(asked).TotalMilliseconds,
            access.Tape!.Exchanges,
            ResultsOf(result)
        )
        {
            NoSuchAddress = result.NoSuchAddress,
        };
        return result.End == AttemptEnd.Accepted
            ? Ended(delivery, DeliveryStatus.Done, $"{connection.Name} took it", began, answer)
            : Failed(delivery, connection, result, began, answer);
    }

    // The gate has the last word, and whoever does not want to be contacted.
    private Outcome? NotNow(DeliveryToMake one, Instant began)
    {
        var (delivery, lead, client, _, _) = one;
        if (delivery.Lane == Lane.Lead)
        {
            switch (Gate(delivery, lead, client, one.Sent, began))
            {
                case GateAnswer.Never never:
                    return Ended(delivery, DeliveryStatus.Cancelled, never.Reason, began, AttemptAnswer.NotSent);
                case GateAnswer.Wait wait:
                    return PutOff(delivery, wait.Reason, wait.Until, began, AttemptAnswer.NotSent, StoryKind.StepWaits);
                default:
                    break;
            }
        }

        return lead.DoNotContactAt is not null && catalog.Find(delivery.Kind)?.TakenBackBy is not null
            ? Ended(
                delivery,
                DeliveryStatus.Cancelled,
                "they do not want to be contacted",
                began,
                AttemptAnswer.NotSent
            )
            : null;
    }

    private static Outgoing OutgoingOf(DeliveryToMake one)
    {
        var (delivery, lead, client, _, _) = one;
        return new(
            delivery.Kind,
            delivery.KeySent,
            Addressed(delivery, lead),
            lead.PhoneReadable ? lead.Phone : null,
            lead.Id.ToString(),
            client.Currency
        )
        {
            Test = lead.Test,
            Attempt = delivery.Attempts,
            Zone = client.DateTimeZone(),
            At = delivery.PlannedAt,
            Client = client.Name,
            Files = one.Files,
        };
    }

    // Tried again while the service may come round; given up where it never will, or has been asked often enough.
    private Outcome Failed(
        OutboxDelivery delivery,
        Connection connection,
        AttemptResult result,
        Instant began,
        AttemptAnswer answer
    )
    {
        if (result.End == AttemptEnd.Final)
            return Ended(delivery, DeliveryStatus.Failed, $"{connection.Name} {result.Reason}", began, answer);
        var tries = delivery.Attempts - delivery.AttemptsBefore;
        return Trouble.WaitAfter(tries, Random.Shared.NextDouble(), result.RetryAfter, delivery.Retry) is { } wait2
            ? PutOff(
                delivery,
                $"{connection.Name} {result.Reason}",
                time.Now() + wait2,
                began,
                answer,
                StoryKind.StepRetries
            ) with
            {
                InTrouble = true,
            }
            : Ended(
                delivery,
                DeliveryStatus.Failed,
                string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"given up after {tries} attempts: {connection.Name} {result.Reason}"
                ),
                began,
                answer
            ) with
            {
                InTrouble = true,
            };
    }

    private static GateAnswer Gate(
        OutboxDelivery delivery,
        Lead lead,
        Client client,
        IReadOnlyList<Instant> sent,
        Instant now
    )
    {
        if (delivery.Kind is StepKinds.OptInEmail or StepKinds.StopConfirmed)
            return ContactPolicy.AskToConfirm(
                lead.DoNotContactAt is not null,
                delivery.PlannedAt,
                Duration.FromHours(delivery.AgeLimitHours),
                now
            );
        // Who writes by hand is held back by no number.
        var facts = LeadFactsReader.Bare(lead, client) with { Sent = sent };
        return ContactPolicy.Ask(
            delivery.WrittenBy is null ? facts : facts with { MostADay = 0 },
            delivery.PlannedAt,
            Duration.FromHours(delivery.AgeLimitHours),
            now,
            StepVoices.Of(delivery.Kind),
            delivery.Hours
        );
    }

    // A letter goes to the address they have now; the letter that asks them to confirm one, to that one. Who answers
    // one that a colleague got writes to the lead.
    private static IReadOnlyDictionary<string, string> Addressed(OutboxDelivery delivery, Lead lead) =>
        delivery.Kind switch
        {
            StepKinds.Email => new Dictionary<string, string>(delivery.Settings, StringComparer.Ordinal)
            {
                ["to"] = lead.Email ?? "",
            },
            StepKinds.TeamEmail when lead.Email is { } email => new Dictionary<string, string>(
                delivery.Settings,
                StringComparer.Ordinal
            )
            {
                ["reply"] = email,
                ["reply.name"] = lead.ShownName(),
            },
            _ => delivery.Settings,
        };

    private static IReadOnlyDictionary<string, string>? ResultsOf(AttemptResult result) =>
        result.Results
        ?? (
            result.Reference is { } reference
                ? new Dictionary<string, string>(StringComparer.Ordinal) { ["id"] = reference }
                : null
        );

    private static Outcome PutOff(
        OutboxDelivery delivery,
        string reason,
        Instant until,
        Instant began,
        AttemptAnswer answer,
        StoryKind kind
    ) => new(delivery, DeliveryStatus.Due, reason, until, began, answer, kind);

    private static Outcome Ended(
        OutboxDelivery delivery,
        DeliveryStatus status,
        string reason,
        Instant began,
        AttemptAnswer answer
    ) =>
        new(
            delivery,
            status,
            reason,
            delivery.DueAt,
            began,
            answer,
            status switch
            {
                DeliveryStatus.Done => StoryKind.StepDone,
                DeliveryStatus.Cancelled => StoryKind.StepCancelled,
                _ => StoryKind.StepFailed,
            }
        );
}

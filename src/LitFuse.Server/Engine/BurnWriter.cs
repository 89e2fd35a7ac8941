using LitFuse.Server.Features.Connections;
using LitFuse.Core.Fuses;
using LitFuse.Core.Stories;
using LitFuse.Server.Delivery;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Writes a decision down: the burn's new state, its deliveries and the story, all in the caller's transaction.</summary>
public sealed class BurnWriter(AppDb db)
{
    /// <summary>
    /// Decides and writes, and goes on deciding while a step ends at once for want of a connection.
    /// </summary>
    /// <returns>Ids of the steps to be taken back from delivery.</returns>
    public IReadOnlyList<(string StepId, string Reason)> Write(
        Burn burn, Lead lead, FuseVersion version, CompiledFuse fuse, BurnEvent happened, LeadFacts facts, IReadOnlyList<Connection> connections, Instant now)
    {
        var withdrawn = new List<(string, string)>();
        var ahead = new Queue<BurnEvent>([happened]);
        while (ahead.TryDequeue(out var next))
        {
            var decision = Decider.Decide(fuse, burn.State, next, facts, now);
            burn.State = decision.State;
            foreach (var effect in decision.Effects)
            {
                switch (effect)
                {
                    case BurnEffect.Deliver deliver:
                        var service = StepKinds.Find(deliver.Kind)!.Service;
                        var connection = connections.FirstOrDefault(c => c.ClientId == burn.ClientId && c.Kind == service);
                        if (connection is null)
                        {
                            var reason = $"there is no connection to {service} to send through";
                            Tell(burn, lead, version, StoryKind.StepFailed, deliver.BandId, deliver.StepId, reason, now);
                            ahead.Enqueue(new BurnEvent.StepEnded(deliver.StepId, StepStatus.Failed, reason));
                            break;
                        }

                        Hand(burn, lead, version, deliver, connection, now);
                        break;
                    case BurnEffect.Tell tell:
                        Tell(burn, lead, version, tell.Kind, tell.BandId, tell.StepId, tell.Words, now);
                        break;
                    case BurnEffect.Withdraw withdraw:
                        withdrawn.Add((withdraw.StepId, withdraw.Reason));
                        break;
                    default:
                        throw new InvalidOperationException($"An effect nobody carries out: {effect}");
                }
            }
        }

        burn.Status = burn.State.Status;
        burn.WakeAt = burn.State.NextWake;
        return withdrawn;
    }

    /// <summary>Writes one line of a burn's story.</summary>
    public StoryEvent Tell(Burn burn, Lead lead, FuseVersion version, StoryKind kind, string? bandId, string? stepId, string words, Instant at)
    {
        var (band, step) = NamesOf(version.Definition, bandId, stepId);
        var line = new StoryEvent
        {
            ClientId = burn.ClientId,
            LeadId = lead.Id,
            Kind = kind,
            At = at,
            KnownAt = at,
            Words = words,
            Fuse = NameOf(version),
            Band = band,
            Step = step,
            BurnId = burn.Id,
        };
        db.Story.Add(line);
        return line;
    }

    /// <summary>A version as the story names it.</summary>
    public static string NameOf(FuseVersion version) => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{version.Definition.Name}, v{version.Number}");

    /// <summary>Hands a step to delivery, and says so in the story.</summary>
    public OutboxDelivery Hand(Burn burn, Lead lead, FuseVersion version, BurnEffect.Deliver deliver, Connection connection, Instant now)
    {
        var (band, step) = NamesOf(version.Definition, deliver.BandId, deliver.StepId);
        var delivery = new OutboxDelivery
        {
            Id = Guid.CreateVersion7(),
            ClientId = burn.ClientId,
            LeadId = lead.Id,
            ConnectionId = connection.Id,
            BurnId = burn.Id,
            Band = band,
            StepId = deliver.StepId,
            Step = step,
            Fuse = NameOf(version),
            Kind = deliver.Kind,
            Lane = deliver.Lane,
            Key = deliver.Key,
            Settings = deliver.Settings,
            PlannedAt = deliver.PlannedAt,
            AgeLimitHours = version.Definition.AgeLimitHours,
            OnlyTo = lead.OnlyTo,
            Status = DeliveryStatus.Due,
            MadeAt = now,
            DueAt = now,
        };
        db.Deliveries.Add(delivery);
        Tell(burn, lead, version, StoryKind.StepSent, deliver.BandId, deliver.StepId, "handed to " + connection.Name, now).DeliveryId = delivery.Id;
        return delivery;
    }

    private static (string? Band, string? Step) NamesOf(FuseDefinition fuse, string? bandId, string? stepId)
    {
        var band = fuse.Bands.FirstOrDefault(b => b.Id == bandId || (stepId is not null && b.Steps.Any(s => s.Id == stepId)));
        return (band?.Name, band?.Steps.FirstOrDefault(s => s.Id == stepId)?.Name);
    }
}

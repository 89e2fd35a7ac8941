using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>What a decision leads to beyond its own burn.</summary>
/// <param name="Withdrawn">Steps to be taken back from delivery.</param>
/// <param name="Happened">What its silent steps changed of the lead.</param>
/// <param name="Lights">Fuses that it lights.</param>
public sealed record Consequences(
    List<(string StepId, string Reason)> Withdrawn,
    List<LeadEvent> Happened,
    List<Guid> Lights
);

/// <summary>
/// Writes a decision down: the burn's new state, its deliveries and the story, all in the caller's transaction.
/// </summary>
public sealed class StoryWriter(AppDb db, PublicAddress address, StepCatalog catalog, ILogger<StoryWriter> log)
{
    /// <summary>Decides and writes, and goes on deciding while a step ends at once for want of a connection.</summary>
    public Consequences Write(
        Burn burn,
        Lead lead,
        FuseVersion version,
        CompiledFuse fuse,
        BurnEvent happened,
        LeadFacts facts,
        ClientConfig setup,
        Instant now
    )
    {
        var consequences = new Consequences([], [], []);
        var named = facts with
        {
            Words = facts.Words with
            {
                Fuse = new Dictionary<string, string>(StringComparer.Ordinal)
                {
                    ["name"] = version.Definition.Name,
                    ["link"] = address.OfFuse(version.FuseId),
                },
            },
        };
        var silent = new SilentSteps(db, lead, setup, now, burn.State.Depth + 1);
        var ahead = new Queue<BurnEvent>([happened]);
        while (ahead.TryDequeue(out var next))
        {
            // One that is set aside decides nothing; what happens meanwhile is kept for it.
            if (burn.SetAsideAt is not null)
            {
                // What failed stays first, however much comes after it.
                burn.SetAside =
                [
                    .. burn.SetAside.Take(1),
                    .. burn.SetAside.Skip(1).TakeLast(BurnState.MostHeard - 2),
                    next,
                ];
                continue;
            }

            Decision decision;
            try
            {
                if (burn.State.TornBecause is { } torn)
                    throw new InvalidOperationException("what is stored of it cannot be read: " + torn);
                decision = Decider.Decide(fuse, burn.State, next, named, now);
            }
            catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
            {
                // Deciding is pure: nothing has been done yet. Whoever else is in this transaction goes on.
                log.LogError(
                    e,
                    "Burn {Burn} of {Fuse} is set aside: deciding for it failed.",
                    burn.Id,
                    NameOf(version)
                );
                SetAside(burn, lead, version, next, e, now);
                continue;
            }

            burn.State = decision.State;
            foreach (var effect in decision.Effects)
                CarryOut(effect, burn, lead, version, setup, silent, consequences, ahead, now);
        }

        burn.Status = burn.State.Status;
        burn.WakeAt = burn.SetAsideAt is null ? burn.State.NextWake : null;
        burn.Version++;
        return consequences;
    }

    /// <summary>
    /// Sets a burn aside, with the event that could not be decided: it does nothing until a person runs it again.
    /// </summary>
    public void SetAside(Burn burn, Lead lead, FuseVersion version, BurnEvent what, Exception because, Instant now)
    {
        (burn.SetAsideAt, burn.SetAsideBecause, burn.WakeAt) = (now, ReasonOf(because), null);
        burn.SetAside = [.. burn.SetAside, what];
        Add(burn, lead, version, StoryKind.BurnSetAside, null, null, burn.SetAsideBecause, now);
        db.NoteChange(burn.ClientId, ChangeKind.Burn, burn.FuseId);
        db.NoteChange(burn.ClientId, ChangeKind.Lead, lead.Id);
    }

    // Its message helps who mends it; a name of .NET's own would not.
    private static string ReasonOf(Exception e)
    {
        var message = e.GetBaseException().Message.ReplaceLineEndings(" ");
        return $"deciding for it failed: {Clip.Short(message, 300)}";
    }

    private void CarryOut(
        BurnEffect effect,
        Burn burn,
        Lead lead,
        FuseVersion version,
        ClientConfig setup,
        SilentSteps silent,
        Consequences consequences,
        Queue<BurnEvent> ahead,
        Instant now
    )
    {
        switch (effect)
        {
            case BurnEffect.Deliver deliver:
                if (HandOrWhyNot(burn, lead, version, deliver, setup, now) is not { } reason)
                    break;
                Add(burn, lead, version, StoryKind.StepFailed, deliver.BandId, deliver.StepId, reason, now);
                ahead.Enqueue(new BurnEvent.StepEnded(deliver.StepId, StepStatus.Failed, reason, Key: deliver.Key));
                break;
            case BurnEffect.Tell tell:
                Add(burn, lead, version, tell.Kind, tell.BandId, tell.StepId, tell.Words, now);
                break;
            case BurnEffect.Do silently:
                var (kind, words) = silent.Do(silently, consequences);
                Add(burn, lead, version, kind, silently.BandId, silently.StepId, words, now);
                break;
            case BurnEffect.Notify notify:
                Add(
                    burn,
                    lead,
                    version,
                    StoryKind.Noticed,
                    null,
                    notify.StepId,
                    silent.Notify(notify.Person, notify.Words),
                    now
                );
                break;
            case BurnEffect.Withdraw withdraw:
                consequences.Withdrawn.Add((withdraw.StepId, withdraw.Reason));
                break;
            default:
                throw new InvalidOperationException($"An effect nobody carries out: {effect}");
        }
    }

    /// <summary>Writes one line of a burn's story.</summary>
    public StoryEvent Add(
        Burn burn,
        Lead lead,
        FuseVersion version,
        StoryKind kind,
        string? bandId,
        string? stepId,
        string words,
        Instant at
    )
    {
        var (band, step) = NamesOf(version.Definition, bandId, stepId);
        var line = db.AddStory(lead, kind, words, at);
        (line.Fuse, line.Band, line.Step) = (NameOf(version), band, step);
        line.BurnId = burn.Id;
        return line;
    }

    /// <summary>A version as the story names it.</summary>
    public static string NameOf(FuseVersion version) =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{version.Definition.Name}, v{version.Number}"
        );

    /// <summary>Hands a step to delivery, and says so in the story.</summary>
    public OutboxDelivery Hand(
        Burn burn,
        Lead lead,
        FuseVersion version,
        BurnEffect.Deliver deliver,
        Connection connection,
        Instant now
    )
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
            Hours = deliver.Hours,
            Retry = deliver.Retry,
            OnlyTo = lead.OnlyTo,
            Status = DeliveryStatus.Due,
            MadeAt = now,
            DueAt = now,
            Segments = OutboxDelivery.SegmentsOf(deliver.Kind, deliver.Settings),
        };
        db.Deliveries.Add(delivery);
        Add(
            burn,
            lead,
            version,
            StoryKind.StepSent,
            deliver.BandId,
            deliver.StepId,
            "handed to " + connection.Name,
            now
        ).DeliveryId = delivery.Id;
        return delivery;
    }

    private string? HandOrWhyNot(
        Burn burn,
        Lead lead,
        FuseVersion version,
        BurnEffect.Deliver deliver,
        ClientConfig setup,
        Instant now
    )
    {
        var service = catalog.Find(deliver.Kind)!.Service!;
        if (ThroughOf(deliver, service, setup.Connections) is not { } connection)
            return $"there is no connection to {service} to send through";
        if (WhyNobody(deliver, setup, lead, out var to) is { } nobody)
            return nobody;
        if (to is not null)
            deliver = deliver with
            {
                Settings = new Dictionary<string, string>(deliver.Settings, StringComparer.Ordinal)
                {
                    [deliver.Kind == StepKinds.DirectPost ? "person" : "to"] = to,
                },
            };
        Hand(burn, lead, version, deliver, connection, now);
        return null;
    }

    /// <summary>
    /// Why a message to a colleague has nobody to go to, or <c>null</c>; <paramref name="to"/> is where it goes, where
    /// it is for one.
    /// </summary>
    public static string? WhyNobody(BurnEffect.Deliver deliver, ClientConfig setup, Lead lead, out string? to)
    {
        to = null;
        if (deliver.Kind == StepKinds.DirectPost && deliver.Settings.GetValueOrDefault("person") == "owner")
        {
            if (setup.ColleagueOf("owner", lead) is not { } owner)
                return "nobody answers for them, so there was nobody to tell";
            to = owner.ChatPerson;
            return string.IsNullOrEmpty(to) ? $"{owner.Name} has given no name in the team's chat under Setup" : null;
        }

        if (!deliver.Settings.TryGetValue("colleague", out var asked))
            return null;
        if (asked is StepKinds.Team or StepKinds.Nobody)
        {
            to =
                asked == StepKinds.Team
                    ? string.Join(
                        ", ",
                        setup
                            .Colleagues.Values.Where(c => c.Reaches && !string.IsNullOrEmpty(c.Email))
                            .OrderBy(c => c.Name, StringComparer.Ordinal)
                            .Select(c => c.Email)
                    )
                    : deliver
                        .Settings.GetValueOrDefault(StepKinds.Copies)
                        ?.Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                        .FirstOrDefault()
                        ?? "";
            return to.Length == 0 ? "there was no address to write to" : null;
        }

        if (setup.ColleagueOf(asked, lead) is not { } colleague)
            return asked == "owner"
                ? "nobody answers for them, so there was nobody to tell"
                : "whom it was for does not work for this client any more";
        to = deliver.Kind == StepKinds.TeamEmail ? colleague.Email : colleague.Phone;
        return string.IsNullOrEmpty(to)
            ? $"{colleague.Name} has given no {(deliver.Kind == StepKinds.TeamEmail ? "email address" : "telephone number")} under Setup"
            : null;
    }

    /// <summary>The connection that carries it: the one its step names, else the first of its service.</summary>
    public static Connection? ThroughOf(
        BurnEffect.Deliver deliver,
        string service,
        IReadOnlyList<Connection> connections
    ) => ThroughOf(deliver.Settings, service, connections);

    /// <summary>The same, by a step's settings.</summary>
    public static Connection? ThroughOf(
        IReadOnlyDictionary<string, string> settings,
        string service,
        IReadOnlyList<Connection> connections
    )
    {
        var named = settings.GetValueOrDefault(StepKinds.Connection);
        return connections.FirstOrDefault(c =>
            c.Kind == service && (string.IsNullOrEmpty(named) || c.Id.ToString() == named)
        );
    }

    private static (string? Band, string? Step) NamesOf(FuseDefinition fuse, string? bandId, string? stepId)
    {
        var band = fuse.Bands.FirstOrDefault(b =>
            b.Id == bandId || (stepId is not null && b.Steps.Any(s => s.Id == stepId))
        );
        return (band?.Name, band?.Steps.FirstOrDefault(s => s.Id == stepId)?.Name);
    }
}

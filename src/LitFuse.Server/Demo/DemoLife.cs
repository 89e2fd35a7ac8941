using System.Security.Cryptography;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using NodaTime;

namespace LitFuse.Server.Demo;

/// <summary>
/// Lives the life of one made-up person after another: maps what they sent, rehearses the burn against made-up
/// reactions, and writes down what the engine decided.
/// </summary>
public sealed class DemoLife(
    DemoClient client,
    IReadOnlyDictionary<string, Form> forms,
    IReadOnlyDictionary<Guid, Guid> texts,
    IReadOnlyList<FuseVersion> armed,
    IReadOnlyList<Connection> connections,
    IReadOnlyList<Guid> reps,
    IReadOnlyDictionary<string, Guid> people,
    PublicAddress address,
    StepCatalog catalog,
    int seed,
    Instant now,
    Instant lately
)
{
    private AppDb db = null!;
    private Random chance = null!;
    private readonly Dictionary<Guid, CompiledFuse> compiled = armed.ToDictionary(
        v => v.Id,
        v => CompiledFuse.From(v.Definition, catalog)
    );
    private readonly Dictionary<Guid, string> names = people.ToDictionary(p => p.Value, p => p.Key);

    /// <summary>All askings of one person, oldest first, added to <paramref name="into"/>.</summary>
    public void Live(AppDb into, IReadOnlyList<DemoAsking> askings)
    {
        db = into;
        // Each life has chances of its own, so that it is the same whoever else is there.
        chance = new Random(seed + askings[0].Who.Number);
        var lead = new Lead
        {
            Id = Guid.CreateVersion7(askings[0].At.ToDateTimeOffset()),
            ClientId = client.Client.Id,
            Zone = client.Client.Zone,
        };
        for (var i = 0; i < askings.Count; i++)
            Ask(lead, askings[i], first: i == 0);
        if (lead.Fields.GetValueOrDefault("fleet_size") == "25+")
            (lead.Tags, lead.OwnerId) = (["big fleet"], reps[0]);
        db.Leads.Add(lead);
    }

    private void Ask(Lead lead, DemoAsking asking, bool first)
    {
        var form = forms[asking.Form.Key];
        var payload = Payload.FromJson(asking.Body);
        var mapped = MapReader.Apply(asking.Form.Map!, payload.Answers, client.Client.Country);
        var at = asking.At;
        var received = at + Late(asking);
        LeadFiller.Fill(lead, mapped.Values, mapped.Phone, client.Client.Zone);
        lead.FormId = form.Id;
        lead.AskedAt = at;
        lead.TargetAt = client.Client.TargetFor(at);
        (lead.TakenBy, lead.TakenAt, lead.AutoTouchAt, lead.FirstTouchAt, lead.FirstTouchBy) = (
            null,
            null,
            null,
            null,
            null
        );

        var submission = Sent(lead, form, asking, received);
        db.Submissions.Add(submission);
        if (first)
            db.LeadContacts.AddRange(
                mapped
                    .Keys()
                    .Select(k => new LeadContact
                    {
                        ClientId = lead.ClientId,
                        Kind = k.Kind,
                        Value = k.Value,
                        LeadId = lead.Id,
                    })
            );
        Tell(lead, StoryKind.Submitted, at, form.Name, received).SubmissionId = submission.Id;
        Consent(lead, form, submission, at);
        Tell(lead, StoryKind.Acknowledged, received, "on disk, and its sender was told").SubmissionId = submission.Id;
        var known = received + Duration.FromMilliseconds(chance.Next(4, 40));
        Tell(
            lead,
            first ? StoryKind.LeadMade : StoryKind.LeadMatched,
            known,
            first ? "nobody here has this email or telephone number" : "same email"
        ).SubmissionId = submission.Id;

        var touch = Touch(lead, at, received);
        foreach (
            var version in armed.Where(v =>
                v.Definition.LitBy.Any(l =>
                    l.Event == EventKeys.Submission
                    && l.Only?.GetValueOrDefault("form")?.Contains(asking.Form.Key) == true
                )
            )
        )
            Burn(lead, form, submission, payload, version, known, touch);
        if (touch is { } made)
            Tell(lead, made);
    }

    private static Submission Sent(Lead lead, Form form, DemoAsking asking, Instant received) =>
        new()
        {
            Id = Guid.CreateVersion7(asking.At.ToDateTimeOffset()),
            ClientId = lead.ClientId,
            FormId = form.Id,
            ReceivedAt = received,
            SentAt = form.ExternalId is null ? null : asking.At,
            Envelope = Ways.GetValueOrDefault(asking.Form.SourceKind)?.Write(),
            ContentType = "application/json",
            Raw = asking.Body,
            DedupeKey = SHA256.HashData([.. asking.Body, .. BitConverter.GetBytes(asking.At.ToUnixTimeTicks())])[..16],
            Status = SubmissionStatus.Processed,
            DueAt = received,
            LeadId = lead.Id,
            MapVersion = 1,
        };

    private void Consent(Lead lead, Form form, Submission submission, Instant at)
    {
        if (texts.TryGetValue(form.Id, out var text))
            db.Consents.Add(
                new()
                {
                    Id = Guid.CreateVersion7(at.ToDateTimeOffset()),
                    ClientId = lead.ClientId,
                    LeadId = lead.Id,
                    SubmissionId = submission.Id,
                    TextId = text,
                    How = ConsentHow.Shown,
                    At = at,
                    Source = form.Name,
                }
            );
    }

    // Most are reached in minutes while somebody works; who asks at night is reached in the morning. The very last stay
    // in the air.
    private (Instant Taken, Instant At, Guid Rep, string How)? Touch(Lead lead, Instant at, Instant received)
    {
        if (at >= lately)
            return null;
        var target = client.Client.TargetSeconds;
        var wait = target * Math.Exp((0.75 * Normal()) - 0.62);
        var touched = client
            .Client.WorkHours()
            .AfterOpenTime(
                received,
                Duration.FromSeconds(Math.Clamp(wait, 25, target * 14)),
                client.Client.DateTimeZone()
            );
        if (touched >= now)
            return null;
        var taken = received + ((touched - received) * (0.35 + (0.5 * chance.NextDouble())));
        var big = lead.Fields.GetValueOrDefault("fleet_size") is "10–24" or "25+";
        return (
            taken,
            touched,
            big ? reps[0] : reps[chance.Next(reps.Count)],
            chance.NextDouble() < 0.7 ? "called them" : "spoke to them"
        );
    }

    private void Tell(Lead lead, (Instant Taken, Instant At, Guid Rep, string How) touch)
    {
        (lead.TakenBy, lead.TakenAt, lead.FirstTouchBy, lead.FirstTouchAt) = (
            touch.Rep,
            touch.Taken,
            touch.Rep,
            touch.At
        );
        Tell(lead, StoryKind.Taken, touch.Taken, "mine").UserId = touch.Rep;
        Tell(lead, StoryKind.Touched, touch.At, "first touch: " + touch.How).UserId = touch.Rep;
    }

    private void Burn(
        Lead lead,
        Form form,
        Submission submission,
        Payload payload,
        FuseVersion version,
        Instant litAt,
        (Instant Taken, Instant At, Guid Rep, string How)? touch
    )
    {
        var burn = new Burn
        {
            Id = Guid.CreateVersion7(litAt.ToDateTimeOffset()),
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            FuseId = version.FuseId,
            FuseVersionId = version.Id,
            SubmissionId = submission.Id,
            LitAt = litAt,
        };
        var facts = LeadFactsReader.Of(lead, client.Client, form, payload.Answers, address);
        Scripted[] stops = touch is { } t
            ?
            [
                new(
                    t.At,
                    new BurnEvent.Happened(
                        LeadEvent.Of(EventKeys.Touched, t.At, $"{names[t.Rep]} reached out ({t.How})")
                    )
                ),
            ]
            : [];
        var rehearsed = Rehearser.Run(
            compiled[version.Id],
            BurnState.New(burn.Id, submission.AskedAt, litAt),
            facts,
            stops,
            (_, _) => React(),
            now
        );
        burn.State = rehearsed.State;
        burn.Status = rehearsed.State.Status;
        burn.WakeAt = rehearsed.State.NextWake;
        db.Burns.Add(burn);

        Tell(burn, lead, version, rehearsed.Moments, "by the submission on " + form.Name, submission.Id);
    }

    private void Tell(
        Burn burn,
        Lead lead,
        FuseVersion version,
        IReadOnlyList<RehearsedMoment> moments,
        string because,
        Guid submissionId
    )
    {
        var writer = new StoryWriter(
            db,
            address,
            catalog,
            Microsoft.Extensions.Logging.Abstractions.NullLogger<StoryWriter>.Instance
        );
        writer.Add(burn, lead, version, StoryKind.FuseLit, null, null, because, burn.LitAt).SubmissionId = submissionId;
        var sent = new Dictionary<string, OutboxDelivery>(StringComparer.Ordinal);
        foreach (var moment in moments)
        {
            if (moment.Effect is BurnEffect.Deliver deliver)
            {
                sent[deliver.Key] = writer.Hand(
                    burn,
                    lead,
                    version,
                    deliver,
                    StoryWriter.ThroughOf(deliver, catalog.Find(deliver.Kind)!.Service!, connections)!,
                    moment.At
                );
            }
            else if (moment.Effect is BurnEffect.Tell tell)
            {
                writer.Add(burn, lead, version, tell.Kind, tell.BandId, tell.StepId, tell.Words, moment.At);
            }
            else if (moment.Ended is { } ended)
            {
                End(burn, lead, version, sent[ended.Key!], ended, moment.At, writer);
            }
        }
    }

    private void End(
        Burn burn,
        Lead lead,
        FuseVersion version,
        OutboxDelivery delivery,
        BurnEvent.StepEnded ended,
        Instant at,
        StoryWriter writer
    )
    {
        var done = ended.Status == StepStatus.Done;
        delivery.Status = done ? DeliveryStatus.Done : DeliveryStatus.Failed;
        delivery.Reason = ended.Reason;
        delivery.Attempts = 1;
        delivery.EndedAt = at;
        delivery.SentAt = done ? at : null;
        db.DeliveryTries.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = delivery.ClientId,
                DeliveryId = delivery.Id,
                Number = 1,
                BeganAt = delivery.MadeAt,
                TookMs = (int)(at - delivery.MadeAt).TotalMilliseconds,
                Status = delivery.Status,
                Reason = ended.Reason,
            }
        );
        writer
            .Add(
                burn,
                lead,
                version,
                done ? StoryKind.StepDone : StoryKind.StepFailed,
                null,
                delivery.StepId,
                ended.Reason,
                at
            )
            .DeliveryId = delivery.Id;
        if (!done || delivery.Kind != StepKinds.Text)
            return;
        lead.AutoTouchAt ??= at;
        var arrived = at + Duration.FromMilliseconds(chance.Next(300, 3500));
        if (arrived > now)
            return;
        delivery.ReceiptAt = arrived;
        writer
            .Add(burn, lead, version, StoryKind.TextDelivered, null, delivery.StepId, "reached the phone", arrived)
            .DeliveryId = delivery.Id;
    }

    private Reaction React() =>
        chance.NextDouble() switch
        {
            < 0.004 => new(
                Duration.FromMilliseconds(chance.Next(200, 900)),
                StepStatus.Failed,
                "answered 422: refused for good"
            ),
            < 0.02 => new(
                Duration.FromMilliseconds(chance.Next(2000, 21000)),
                StepStatus.Done,
                "took it, after trying again"
            ),
            _ => new(Duration.FromMilliseconds(chance.Next(12, 260)), StepStatus.Done, "took it"),
        };

    private double Normal() =>
        Math.Sqrt(-2 * Math.Log(1 - chance.NextDouble())) * Math.Cos(2 * Math.PI * chance.NextDouble());

    private static readonly Dictionary<string, Envelope> Ways = new(StringComparer.Ordinal)
    {
        ["plaza"] = new("fetched"),
        ["tradehall"] = new("polled"),
        ["lanternfind"] = new("door", "127.0.0.1", "Lanternfind"),
        ["formbench"] = new("door", "127.0.0.1", "Formbench"),
    };

    // A polled network shows a submission minutes late; the very last ones have had no time for that.
    private Duration Late(DemoAsking asking)
    {
        var seconds = asking.Form.SourceKind switch
        {
            "tradehall" => 130 + (chance.NextDouble() * 90),
            "plaza" => 0.4 + chance.NextDouble(),
            "lanternfind" or "formbench" => 0.1 + (0.3 * chance.NextDouble()),
            _ => 0,
        };
        return Duration.Min(Duration.FromMilliseconds((long)(seconds * 1000)), (now - asking.At) / 2);
    }

    private StoryEvent Tell(Lead lead, StoryKind kind, Instant at, string words, Instant? known = null)
    {
        var line = new StoryEvent
        {
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            Kind = kind,
            At = at,
            KnownAt = known ?? at,
            Words = words,
        };
        db.Story.Add(line);
        return line;
    }
}

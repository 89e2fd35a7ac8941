using System.Security.Cryptography;
using System.Text;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Asks a lead to confirm the address before anything happens: a letter through the same deliveries as all else.
/// </summary>
public sealed class OptInAsker(AppDb db, PublicAddress address, Secrets secrets)
{
    /// <summary>The kind of connection that carries it.</summary>
    public static string Service => StepCatalog.Plain.Find(StepKinds.Email)!.Service!;

    /// <summary>Whether this submission waits for its lead's confirming.</summary>
    public bool Asks(Form form, Submission submission, MappedLead mapped, Func<string, bool> hasConfirmed) =>
        form.OptIn is not null
        && !submission.Quiet
        && mapped.Email is { } email
        && Envelope.Read(submission.Envelope)?.Via is not ("hand" or "import")
        && !hasConfirmed(email);

    /// <summary>Writes the letter into the outbox, in the caller's transaction.</summary>
    public void Ask(Lead lead, Submission submission, Form form, string email, ClientConfig setup, Instant now)
    {
        var letter = form.OptIn!;
        var token = RandomNumberGenerator.GetString("abcdefghjkmnpqrstuvwxyz23456789", 40);
        (submission.Status, submission.Reason) = (SubmissionStatus.Unconfirmed, $"{email} is asked to confirm");
        var connection = setup.Connections.FirstOrDefault(c => c.Kind == Service);
        if (connection is null)
        {
            submission.Reason = "there is no mail connection to ask through; make one under Setup, then read again";
            Tell(lead, submission, StoryKind.StepFailed, submission.Reason, now);
            return;
        }

        db.OptIns.Add(
            new()
            {
                Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                FormId = form.Id,
                SubmissionId = submission.Id,
                TokenHash = Hash(token),
                Email = email,
                AskedAt = now,
                ExpiresAt = now + Duration.FromHours(letter.Hours),
            }
        );
        var delivery = LetterOf(lead, submission, letter, connection, now);
        // A name that somebody typed is put in last, so that it cannot stand for the link.
        string Filled(string text) =>
            text.Replace("{client}", setup.Client.Name, StringComparison.Ordinal)
                .Replace(
                    "{name}",
                    (lead.FirstName ?? lead.ShownName()).Replace("{", "", StringComparison.Ordinal),
                    StringComparison.Ordinal
                );
        delivery.Settings = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["to"] = email,
            ["subject"] = Filled(letter.Subject),
            ["words"] = Filled(letter.Words),
            // Sealed: who reads the database, or the record of deliveries, cannot confirm for somebody else.
            ["link"] = secrets.Seal($"{address.Url}/confirm/{token}"),
        };
        db.Deliveries.Add(delivery);
        Tell(
            lead,
            submission,
            StoryKind.OptInAsked,
            $"{email} is asked to confirm, within {letter.Hours} h; nothing else happens until then",
            now
        ).DeliveryId = delivery.Id;
    }

    private static OutboxDelivery LetterOf(
        Lead lead,
        Submission submission,
        OptInLetter letter,
        Connection connection,
        Instant now
    ) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = lead.ClientId,
            LeadId = lead.Id,
            ConnectionId = connection.Id,
            Step = "The letter",
            Kind = StepKinds.OptInEmail,
            Lane = Lane.Lead,
            Key = $"opt-in.{submission.Id:N}",
            PlannedAt = now,
            AgeLimitHours = letter.Hours,
            OnlyTo = lead.OnlyTo,
            Status = DeliveryStatus.Due,
            MadeAt = now,
            DueAt = now,
        };

    /// <summary>As it is kept of a link's token.</summary>
    public static byte[] Hash(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));

    private StoryEvent Tell(Lead lead, Submission submission, StoryKind kind, string words, Instant now) =>
        db.AddStory(lead, kind, words, now, submissionId: submission.Id);
}

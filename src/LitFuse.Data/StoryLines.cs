using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Lines of leads' stories. Whoever adds one has said that the lead changed: screens hear of every line.</summary>
public static class StoryLines
{
    /// <summary>Adds a line to a lead's story.</summary>
    /// <param name="db">The database; it is saved by the caller.</param>
    /// <param name="lead">Whose story.</param>
    /// <param name="kind">What happened.</param>
    /// <param name="words">In words.</param>
    /// <param name="now">When it became known.</param>
    /// <param name="at">When it happened, where that is another moment.</param>
    /// <param name="by">The person who did it.</param>
    /// <param name="submissionId">The submission it is about.</param>
    public static StoryEvent AddStory(
        this AppDb db,
        Lead lead,
        StoryKind kind,
        string words,
        Instant now,
        Instant? at = null,
        Guid? by = null,
        Guid? submissionId = null
    ) => db.AddStory(lead.ClientId, lead.Id, kind, words, now, at, by, submissionId);

    /// <inheritdoc cref="AddStory(AppDb, Lead, StoryKind, string, Instant, Instant?, Guid?, Guid?)"/>
    public static StoryEvent AddStory(
        this AppDb db,
        Guid clientId,
        Guid leadId,
        StoryKind kind,
        string words,
        Instant now,
        Instant? at = null,
        Guid? by = null,
        Guid? submissionId = null
    )
    {
        var line = new StoryEvent
        {
            ClientId = clientId,
            LeadId = leadId,
            Kind = kind,
            At = at ?? now,
            KnownAt = now,
            Words = words,
            UserId = by,
            SubmissionId = submissionId,
        };
        db.Story.Add(line);
        db.NoteChange(clientId, ChangeKind.Lead, leadId);
        return line;
    }

    /// <summary>Adds what became of a delivery to the story of its lead, or of the one that it was put to.</summary>
    public static StoryEvent AddStory(
        this AppDb db,
        OutboxDelivery delivery,
        StoryKind kind,
        string words,
        Instant now,
        Instant? at = null,
        Guid? by = null,
        Guid? leadId = null
    )
    {
        var line = db.AddStory(delivery.ClientId, leadId ?? delivery.LeadId, kind, words, now, at, by);
        (line.Fuse, line.Band, line.Step) = (delivery.Fuse, delivery.Band, delivery.Step);
        (line.BurnId, line.DeliveryId) = (delivery.BurnId, delivery.Id);
        return line;
    }
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Changes of a lead that fuses can know of, whoever makes them. Each returns what happened, or <c>null</c> where
/// nothing did.
/// </summary>
public static class LeadChanges
{
    /// <summary>The lead as steps can change it.</summary>
    public static LeadStanding StandingOf(Lead lead) => new(lead.Fields, lead.Tags, lead.Stage);

    /// <summary>Puts a tag on.</summary>
    public static LeadEvent? Tag(Lead lead, string tag, Instant now)
    {
        if (LeadChanging.Tag(lead.Tags, tag) is not { } tags)
            return null;
        Tags(lead, tags);
        return LeadChanging.Tagged(tag, now);
    }

    /// <summary>Takes a tag off.</summary>
    /// <returns>False where it was not on.</returns>
    public static bool Untag(Lead lead, string tag)
    {
        if (LeadChanging.Untag(lead.Tags, tag) is not { } left)
            return false;
        Tags(lead, left);
        return true;
    }

    /// <summary>Sets the stage.</summary>
    public static LeadEvent? Stage(Lead lead, string stage, Instant now)
    {
        var reached = LeadChanging.StageReached(lead.Stage, stage, now);
        if (reached is not null)
            lead.Stage = stage;
        return reached;
    }

    /// <summary>Makes of the lead what a step decided.</summary>
    public static void Apply(Lead lead, LeadStanding now, string country, string clientZone)
    {
        lead.Stage = now.Stage;
        if (!ReferenceEquals(now.Tags, lead.Tags))
            Tags(lead, now.Tags);
        if (!ReferenceEquals(now.Fields, lead.Fields))
            LeadFiller.Refill(lead, now.Fields, country, clientZone);
    }

    private static void Tags(Lead lead, IReadOnlyList<string> tags)
    {
        lead.Tags = [.. tags];
        LeadFiller.Index(lead);
    }
}

using LitFuse.Core.Fuses;
using LitFuse.Core.Guards;
using LitFuse.Server.Engine;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>Changes of a lead that fuses can know of, whoever makes them. Each returns what happened, or <c>null</c> where nothing did.</summary>
public static class LeadChanges
{
    /// <summary>Puts a tag on.</summary>
    public static Happening? Tag(Lead lead, string tag, Instant now)
    {
        var plain = tag.ToLowerInvariant();
        if (plain.Length == 0 || lead.Tags.Contains(plain)) return null;
        lead.Tags = [.. lead.Tags, plain];
        LeadFiller.Index(lead);
        return Happening.Of(EventKeys.Tagged, now, $"the tag {plain} was put on", ("tag", plain));
    }

    /// <summary>Takes a tag off.</summary>
    /// <returns>False where it was not on.</returns>
    public static bool Untag(Lead lead, string tag)
    {
        var plain = tag.ToLowerInvariant();
        if (!lead.Tags.Contains(plain)) return false;
        lead.Tags = [.. lead.Tags.Where(t => t != plain)];
        LeadFiller.Index(lead);
        return true;
    }

    /// <summary>Sets the stage.</summary>
    public static Happening? Stage(Lead lead, string stage, Instant now)
    {
        if (stage.Length == 0 || lead.Stage == stage) return null;
        var before = lead.Stage;
        lead.Stage = stage;
        return Happening.Of(EventKeys.StageReached, now, $"the stage {stage} was reached", ("stage", stage), ("before", before));
    }

    /// <summary>A field has another value.</summary>
    public static Happening FieldChanged(string field, string before, string after, Instant now) =>
        Happening.Of(EventKeys.FieldChanged, now, $"{Facts.Say(field)} changed from {(before.Length == 0 ? "nothing" : before)} to {(after.Length == 0 ? "nothing" : after)}", ("field", field), ("before", before), ("after", after));
}

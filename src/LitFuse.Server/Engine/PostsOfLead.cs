using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Brings posts about a lead up to date where the team reads them: who has it, and that somebody has reached out.
/// </summary>
public sealed class PostsOfLead(AppDb db, StepCatalog catalog)
{
    // What was posted long ago nobody looks at; what was posted over and over is told in the latest.
    private const int Most = 10;
    private static readonly Duration For = Duration.FromDays(7);

    /// <summary>Writes the deliveries that do it. Call inside a transaction that holds the lead.</summary>
    /// <param name="lead">About whom.</param>
    /// <param name="words">What stands under the posts from now on.</param>
    /// <param name="open">They offer <em>Take it</em>, where they did.</param>
    /// <param name="now">The moment.</param>
    /// <param name="stop">Cancels.</param>
    public async Task TellAsync(Lead lead, string words, bool open, Instant now, CancellationToken stop)
    {
        var since = now - For;
        var posts = await db
            .Deliveries.AsNoTracking()
            .Where(d =>
                d.LeadId == lead.Id
                && (d.Kind == StepKinds.ChannelPost || d.Kind == StepKinds.DirectPost)
                && d.Status == DeliveryStatus.Done
                && d.Reference != null
                && d.MadeAt > since
            )
            .OrderByDescending(d => d.MadeAt)
            .Take(Most)
            .ToListAsync(stop);
        var kind = catalog.Find(StepKinds.PostStatus)!;
        foreach (var post in posts)
        {
            var settings = new Dictionary<string, string>(StringComparer.Ordinal)
            {
                ["reference"] = post.Reference!,
                ["words"] = words,
            };
            if (open && post.Settings.ContainsKey(StepKinds.TakeLink))
                settings[StepKinds.TakeLink] = "";
            db.Deliveries.Add(
                OutboxDelivery.Of(lead, post.ConnectionId, kind, $"{kind.Key}.{Guid.CreateVersion7():N}", settings, now)
            );
        }

        if (posts.Count > 0)
            await db.WakeAsync("deliveries", stop);
    }

    /// <summary>How long after they asked, as posts tell it: <c>41 s after they asked</c>.</summary>
    public static string After(Lead lead, Instant at) => FuseSentence.Roughly(at - lead.AskedAt) + " after they asked";
}

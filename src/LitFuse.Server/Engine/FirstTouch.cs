using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>First touch: a person reached out. The line stops burning, everywhere.</summary>
public sealed class FirstTouch(AppDb db, LeadEventRouter events, PostsOfLead posts, TimeProvider time)
{
    /// <summary>Marks it, once; later touches are in the story alone.</summary>
    /// <param name="held">Whom.</param>
    /// <param name="person">Who reached out.</param>
    /// <param name="at">When they did.</param>
    /// <param name="how">In words: <c>by text</c>, <c>spoke to them</c>.</param>
    /// <param name="stop">Cancels.</param>
    public async Task MarkAsync(HeldLead held, Guid person, Instant at, string how, CancellationToken stop)
    {
        var lead = held.Lead;
        var now = time.Now();
        var name = await db.Set<User>().Where(u => u.Id == person).Select(u => u.Name).SingleAsync(stop);
        var first = lead.FirstTouchAt is null;
        if (first)
        {
            lead.FirstTouchAt = at;
            lead.FirstTouchBy = person;
            lead.TakenBy ??= person;
            lead.TakenAt ??= at;
        }

        db.AddStory(lead, StoryKind.Touched, (first ? "first touch: " : "") + how, now, at: at, by: person);
        if (first)
            await posts.TellAsync(
                lead,
                $"{name} reached out ({how}), {PostsOfLead.After(lead, at)}",
                open: false,
                now,
                stop
            );
        if (first)
            await events.HappenAsync(
                held,
                [LeadEvent.Of(EventKeys.Touched, at, $"{name} reached out ({how})", ("person", name), ("how", how))],
                null,
                now,
                stop
            );
    }
}

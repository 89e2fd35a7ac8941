using LitFuse.Core.Fuses;
using LitFuse.Core.Stories;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>First touch: a person reached out. The line stops burning, everywhere.</summary>
public sealed class FirstTouch(AppDb db, LeadEvents events, PostsOfLead posts, TimeProvider time)
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

        db.Story.Add(
            new()
            {
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                Kind = StoryKind.Touched,
                At = at,
                KnownAt = now,
                Words = (first ? "first touch: " : "") + how,
                UserId = person,
            }
        );
        db.Tell(lead.ClientId, ChangeKind.Lead, lead.Id);
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
                [Happening.Of(EventKeys.Touched, at, $"{name} reached out ({how})", ("person", name), ("how", how))],
                null,
                now,
                stop
            );
    }
}

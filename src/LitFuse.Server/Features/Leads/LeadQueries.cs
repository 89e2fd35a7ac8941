using LitFuse.Core.Forms;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>A tick on a burn line.</summary>
/// <param name="At">When.</param>
/// <param name="Kind">What: <c>acknowledged</c>, <c>team</c>, <c>text</c>, <c>delivered</c>, <c>taken</c>, <c>touched</c>.</param>
public sealed record BurnTick(Instant At, string Kind);

/// <summary>A lead as a row.</summary>
public sealed record LeadRow(
    Guid Id,
    Guid ClientId,
    string Name,
    string? Email,
    string? Phone,
    string Form,
    string Source,
    bool Test,
    string Asked,
    Instant AskedAt,
    Instant TargetAt,
    string? TakenBy,
    Instant? TakenAt,
    Instant? FirstTouchAt,
    string? FirstTouchBy,
    IReadOnlyList<BurnTick> Ticks,
    string? Owner,
    IReadOnlyList<string> Tags,
    bool DoNotContact,
    IReadOnlyDictionary<string, string> Fields
);

/// <summary>Queries that several screens share.</summary>
public static class LeadQueries
{
    // Not part of what they asked: who they are stands beside it already.
    private static readonly HashSet<string> Identifying = new(StringComparer.Ordinal)
    {
        "first_name",
        "last_name",
        "full_name",
        "email",
        "phone",
        "company",
        "landing_path",
        "utm_source",
        "utm_medium",
        "utm_campaign",
        "utm_term",
        "utm_content",
        "campaign",
        "ad",
        "click_id",
        "referrer",
        "pages_seen",
        "visitor_id",
        "junk_score",
        "visits",
        "last_visit",
        "consent",
        "other_phones",
        "other_emails",
        "job_title",
        "website",
        "street",
        "postcode",
        "city",
        "region",
        "country",
    };

    /// <summary>The lead that one turned out to be; itself where it did not. Says nothing of whether it may be seen.</summary>
    public static async Task<Guid> KeptInsteadAsync(this AppDb db, Guid leadId, CancellationToken stop) =>
        await db
            .Leads.IgnoreQueryFilters()
            .Where(l => l.Id == leadId)
            .Select(l => l.MergedInto)
            .SingleOrDefaultAsync(stop)
        ?? leadId;

    /// <summary>Rows for these leads, in the order given, with the ticks of the present asking.</summary>
    public static async Task<IReadOnlyList<LeadRow>> RowsAsync(
        this AppDb db,
        IQueryable<Lead> leads,
        CancellationToken stop
    )
    {
        var found = await leads
            .AsNoTracking()
            .Join(db.Forms, l => l.FormId, f => f.Id, (l, f) => new { Lead = l, Form = f })
            .Join(
                db.Sources,
                r => r.Form.SourceId,
                s => s.Id,
                (r, s) =>
                    new
                    {
                        r.Lead,
                        r.Form,
                        Source = s.Name,
                    }
            )
            .ToListAsync(stop);
        var ids = found.ConvertAll(f => f.Lead.Id);
        var kinds = new[]
        {
            StoryKind.Acknowledged,
            StoryKind.StepDone,
            StoryKind.TextDelivered,
            StoryKind.Taken,
            StoryKind.Touched,
            StoryKind.Ringing,
        };
        var ticks = (
            await db
                .Story.AsNoTracking()
                .Where(s => ids.Contains(s.LeadId) && kinds.Contains(s.Kind))
                .GroupJoin(db.Deliveries, s => s.DeliveryId, d => d.Id, (s, ds) => new { Event = s, Deliveries = ds })
                .SelectMany(
                    r => r.Deliveries.DefaultIfEmpty(),
                    (r, d) =>
                        new
                        {
                            r.Event.LeadId,
                            r.Event.At,
                            r.Event.Kind,
                            Lane = d == null ? null : (Core.Fuses.Lane?)d.Lane,
                            Letter = d != null && d.Kind == Core.Fuses.StepKinds.Letter,
                        }
                )
                .ToListAsync(stop)
        ).ToLookup(t => t.LeadId);
        var people = await db.PeopleAsync(
            found.SelectMany(f => new[] { f.Lead.TakenBy, f.Lead.FirstTouchBy, f.Lead.OwnerId }),
            stop
        );
        return found.ConvertAll(f => new LeadRow(
            f.Lead.Id,
            f.Lead.ClientId,
            f.Lead.ShownName(),
            f.Lead.Email,
            f.Lead.Phone,
            f.Form.Name,
            f.Source,
            f.Lead.Test,
            Asked(f.Lead, f.Form.Fields),
            f.Lead.AskedAt,
            f.Lead.TargetAt,
            Name(people, f.Lead.TakenBy),
            f.Lead.TakenAt,
            f.Lead.FirstTouchAt,
            Name(people, f.Lead.FirstTouchBy),
            [
                .. ticks[f.Lead.Id]
                    .Where(t => t.At >= f.Lead.AskedAt)
                    .OrderBy(t => t.At)
                    .Select(t => new BurnTick(t.At, TickOf(t.Kind, t.Lane, t.Letter))),
            ],
            Name(people, f.Lead.OwnerId),
            f.Lead.Tags,
            f.Lead.DoNotContactAt is not null,
            f.Lead.Fields
        ));
    }

    /// <summary>Names by user id.</summary>
    public static async Task<IReadOnlyDictionary<Guid, string>> PeopleAsync(
        this AppDb db,
        IEnumerable<Guid?> ids,
        CancellationToken stop
    )
    {
        var wanted = ids.OfType<Guid>().Distinct().ToList();
        return wanted.Count == 0
            ? new Dictionary<Guid, string>()
            : await db.Set<User>().Where(u => wanted.Contains(u.Id)).ToDictionaryAsync(u => u.Id, u => u.Name, stop);
    }

    /// <summary>The name of one person, where there is one.</summary>
    public static string? Name(IReadOnlyDictionary<Guid, string> people, Guid? id) =>
        id is { } known ? people.GetValueOrDefault(known) : null;

    /// <summary>What they asked, in their own words: the answers of the form's own questions, in its order.</summary>
    public static string Asked(Lead lead, IReadOnlyList<FormField> fields)
    {
        var order = fields.Select((f, i) => (f.Name, i)).ToDictionary(f => f.Name, f => f.i, StringComparer.Ordinal);
        var answers = lead
            .Fields.Where(f => !Identifying.Contains(f.Key))
            .OrderBy(f => order.GetValueOrDefault(f.Key, 99))
            .Select(f => f.Value);
        var text = string.Join(", ", answers);
        return Clip.Short(text, 140);
    }

    private static string TickOf(StoryKind kind, Core.Fuses.Lane? lane, bool letter) =>
        kind switch
        {
            StoryKind.StepDone => lane switch
            {
                Core.Fuses.Lane.Lead => letter ? "letter" : "text",
                Core.Fuses.Lane.Systems => "system",
                _ => "team",
            },
            StoryKind.TextDelivered => "delivered",
            StoryKind.Ringing => "rung",
            StoryKind.Acknowledged => "acknowledged",
            StoryKind.Taken => "taken",
            _ => "touched",
        };
}

/// <summary>Finds the client that a request names.</summary>
public static class ClientChoice
{
    /// <summary>
    /// The clients meant by <paramref name="client"/> (a key or an id), or all that the request may see when none is named.
    /// <c>null</c> when there is none by that name for this person.
    /// </summary>
    public static async Task<IReadOnlyList<Guid>?> ChosenAsync(
        this AppDb db,
        ClientScope scope,
        string? client,
        CancellationToken stop
    )
    {
        if (string.IsNullOrWhiteSpace(client))
            return scope.Ids;
        var id = Guid.TryParse(client, out var parsed) ? parsed : Guid.Empty;
        var found = await db
            .Clients.AsNoTracking()
            .Where(c => scope.Ids.Contains(c.Id) && (c.Key == client || c.Id == id))
            .Select(c => c.Id)
            .ToListAsync(stop);
        return found.Count == 0 ? null : found;
    }
}

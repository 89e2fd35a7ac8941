using LitFuse.Core.Forms;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>A tick on a burn line.</summary>
/// <param name="At">When.</param>
/// <param name="Kind">What: <c>acknowledged</c>, <c>team</c>, <c>text</c>, <c>delivered</c>, <c>taken</c>,
/// <c>touched</c>.</param>
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
        var ticks = await TicksAsync(db, ids, stop);
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
            PeopleNames.Of(people, f.Lead.TakenBy),
            f.Lead.TakenAt,
            f.Lead.FirstTouchAt,
            PeopleNames.Of(people, f.Lead.FirstTouchBy),
            [.. ticks[f.Lead.Id].Where(t => t.At >= f.Lead.AskedAt).OrderBy(t => t.At)],
            PeopleNames.Of(people, f.Lead.OwnerId),
            f.Lead.Tags,
            f.Lead.DoNotContactAt is not null,
            f.Lead.Fields
        ));
    }

    private static readonly StoryKind[] Ticking =
    [
        StoryKind.Acknowledged,
        StoryKind.StepDone,
        StoryKind.TextDelivered,
        StoryKind.Taken,
        StoryKind.Touched,
        StoryKind.Ringing,
    ];

    private static async Task<ILookup<Guid, BurnTick>> TicksAsync(AppDb db, List<Guid> ids, CancellationToken stop)
    {
        return (
            await db
                .Story.AsNoTracking()
                .Where(s => ids.Contains(s.LeadId) && Ticking.Contains(s.Kind))
                .GroupJoin(db.Deliveries, s => s.DeliveryId, d => d.Id, (s, ds) => new { Event = s, Deliveries = ds })
                .SelectMany(
                    r => r.Deliveries.DefaultIfEmpty(),
                    (r, d) =>
                        new
                        {
                            r.Event.LeadId,
                            r.Event.At,
                            r.Event.Kind,
                            Lane = d == null ? null : (Core.Fuses.Definition.Lane?)d.Lane,
                            Email = d != null && d.Kind == Core.Fuses.Definition.StepKinds.Email,
                        }
                )
                .ToListAsync(stop)
        ).ToLookup(t => t.LeadId, t => new BurnTick(t.At, TickOf(t.Kind, t.Lane, t.Email)));
    }

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

    private static string TickOf(StoryKind kind, Core.Fuses.Definition.Lane? lane, bool email) =>
        kind switch
        {
            StoryKind.StepDone => lane switch
            {
                Core.Fuses.Definition.Lane.Lead => email ? "email" : "text",
                Core.Fuses.Definition.Lane.Systems => "system",
                _ => "team",
            },
            StoryKind.TextDelivered => "delivered",
            StoryKind.Ringing => "rung",
            StoryKind.Acknowledged => "acknowledged",
            StoryKind.Taken => "taken",
            _ => "touched",
        };
}

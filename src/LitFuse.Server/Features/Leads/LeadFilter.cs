using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Features.Leads;

/// <summary>
/// Which leads, as the address says it. The same words on the page, in the export, and in what is done to many.
/// </summary>
/// <param name="Client">A client's key or id.</param>
/// <param name="Q">Words that all stand in it somewhere: name, addresses, answers, tags.</param>
/// <param name="State"><c>in-the-air</c>, <c>late</c>, <c>touched</c>, <c>unconfirmed</c>, <c>do-not-contact</c> or
/// <c>conflict</c>.</param>
/// <param name="Form">A form's id.</param>
/// <param name="Source">A source's id.</param>
/// <param name="Owner">A person's id, or <c>nobody</c>.</param>
/// <param name="Tag">A tag.</param>
/// <param name="Tests"><c>only</c> or <c>without</c>.</param>
/// <param name="Since">Asked on this day (UTC, ISO 8601) or later.</param>
/// <param name="Until">Asked on this day or before.</param>
/// <param name="Field">A lead field's key, for <paramref name="Is"/>.</param>
/// <param name="Is">What stands in that field; left out, that it is filled in.</param>
/// <param name="Sort"><c>asked</c> (newest first), <c>name</c>, <c>target</c> or <c>speed</c>.</param>
public sealed record LeadFilter(
    [FromQuery(Name = "client")] string? Client,
    [FromQuery(Name = "q")] string? Q,
    [FromQuery(Name = "state")] string? State,
    [FromQuery(Name = "form")] Guid? Form,
    [FromQuery(Name = "source")] Guid? Source,
    [FromQuery(Name = "owner")] string? Owner,
    [FromQuery(Name = "tag")] string? Tag,
    [FromQuery(Name = "tests")] string? Tests,
    [FromQuery(Name = "since")] string? Since,
    [FromQuery(Name = "until")] string? Until,
    [FromQuery(Name = "field")] string? Field,
    [FromQuery(Name = "is")] string? Is,
    [FromQuery(Name = "sort")] string? Sort
)
{
    /// <summary>The leads meant, or what is wrong with how it was said.</summary>
    public async Task<(IQueryable<Lead>? Leads, ProblemHttpResult? Fault)> ApplyAsync(
        AppDb db,
        ClientScope scope,
        Instant now,
        CancellationToken stop
    )
    {
        if (Q is { Length: > 200 })
            return (null, Problems.Bad("q", "Search for at most 200 characters."));
        if (await db.ChosenAsync(scope, Client, stop) is not { } clients)
            return (null, Problems.NotThere.Because($"There is no client '{Client}' for you."));
        var leads = db.Leads.Where(l => clients.Contains(l.ClientId));
        leads = Matching(leads, Q ?? "");
        if (InState(db, leads, now) is not { } standing)
            return (
                null,
                Problems.Bad(
                    "state",
                    "A lead is 'in-the-air', 'late', 'touched', 'unconfirmed', 'do-not-contact' or in 'conflict'."
                )
            );
        leads = standing;
        if (Form is { } form)
            leads = leads.Where(l => l.FormId == form);
        if (Source is { } source)
            leads = leads.Where(l => db.Forms.Any(f => f.Id == l.FormId && f.SourceId == source));
        if (Owner == "nobody")
            leads = leads.Where(l => l.OwnerId == null);
        else if (!string.IsNullOrEmpty(Owner))
            leads = Guid.TryParse(Owner, out var owner)
                ? leads.Where(l => l.OwnerId == owner)
                : leads.Where(_ => false);
        if (!string.IsNullOrEmpty(Tag))
            leads = leads.Where(l => l.Tags.Contains(Tag));
        leads = Tests switch
        {
            "only" => leads.Where(l => l.Test),
            "without" => leads.Where(l => !l.Test),
            _ => leads,
        };
        if (!string.IsNullOrEmpty(Field))
            leads = WithField(db, leads, Field, Is);
        return InTime(leads);
    }

    // null: there is no such state.
    private IQueryable<Lead>? InState(AppDb db, IQueryable<Lead> leads, Instant now) =>
        State switch
        {
            null or "" => leads,
            "in-the-air" => leads.InTheAir(),
            "late" => leads.Late(now),
            "touched" => leads.Where(l => l.FirstTouchAt != null),
            "unconfirmed" => leads.Where(l =>
                db.Submissions.Any(s => s.LeadId == l.Id && s.Status == SubmissionStatus.Unconfirmed)
            ),
            "do-not-contact" => leads.Where(l => l.DoNotContactAt != null),
            "conflict" => leads.Where(l =>
                db.Conflicts.Any(c => c.State == ConflictState.Open && (c.LeadId == l.Id || c.OtherId == l.Id))
            ),
            _ => null,
        };

    /// <summary>In the order asked for.</summary>
    public IQueryable<Lead> Order(IQueryable<Lead> leads) =>
        Sort switch
        {
            "name" => leads.OrderBy(l => l.LastName).ThenBy(l => l.FirstName).ThenBy(l => l.Id),
            "target" => leads.OrderBy(l => l.FirstTouchAt != null).ThenBy(l => l.TargetAt).ThenBy(l => l.Id),
            "speed" => leads
                .OrderByDescending(l => l.FirstTouchAt == null ? (Duration?)null : l.FirstTouchAt.Value - l.AskedAt)
                .ThenBy(l => l.Id),
            _ => leads.OrderByDescending(l => l.AskedAt).ThenBy(l => l.Id),
        };

    /// <summary>Its fault, where an order is asked for that there is none of.</summary>
    public ProblemHttpResult? SortFault() =>
        Sort is null or "" or "asked" or "name" or "target" or "speed"
            ? null
            : Problems.Bad("sort", "Sort by asked, name, target or speed.");

    private (IQueryable<Lead>? Leads, ProblemHttpResult? Fault) InTime(IQueryable<Lead> leads)
    {
        if (!string.IsNullOrEmpty(Since))
        {
            if (LocalDatePattern.Iso.Parse(Since) is not { Success: true } day)
                return (null, Problems.Bad("since", "Write the day as 2026-11-25."));
            var from = day.Value.AtMidnight().InUtc().ToInstant();
            leads = leads.Where(l => l.AskedAt >= from);
        }

        if (!string.IsNullOrEmpty(Until))
        {
            if (LocalDatePattern.Iso.Parse(Until) is not { Success: true } day)
                return (null, Problems.Bad("until", "Write the day as 2026-11-25."));
            var to = day.Value.PlusDays(1).AtMidnight().InUtc().ToInstant();
            leads = leads.Where(l => l.AskedAt < to);
        }

        return (leads, null);
    }

    /// <summary>Those in whose name, addresses and answers every one of these words stands.</summary>
    public static IQueryable<Lead> Matching(IQueryable<Lead> leads, string words)
    {
        foreach (var word in words.ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(6))
            leads = WithWord(leads, word);
        return leads;
    }

    private static IQueryable<Lead> WithWord(IQueryable<Lead> leads, string word)
    {
        var pattern =
            $"%{word.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal)}%";
        return leads.Where(l => EF.Functions.Like(l.SearchText, pattern, "\\"));
    }

    // Fields are one JSON value, which the model knows as a whole.
    private static IQueryable<Lead> WithField(AppDb db, IQueryable<Lead> leads, string field, string? value)
    {
        var having = string.IsNullOrEmpty(value)
            ? db.Leads.FromSql($"select * from leads where fields ? {field}")
            : db.Leads.FromSql($"select * from leads where lower(fields ->> {field}) = lower({value})");
        return leads.Where(l => having.Any(h => h.Id == l.Id));
    }
}

using CsvHelper;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Identity;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Consent;

/// <summary>An address on the list.</summary>
public sealed record UnwantedRow(ContactKind Kind, string Value, string Reason, Instant At, string? By);

/// <summary>A page of the list.</summary>
public sealed record UnwantedList(IReadOnlyList<UnwantedRow> Rows, int Total);

/// <summary>
/// Addresses to put on it: emails and telephone numbers, one a line, or a CSV whose cells are looked through.
/// </summary>
public sealed record UnwantedToAdd(string? Client, string? Addresses, string? Reason);

/// <summary>What became of them.</summary>
/// <param name="Unreadable">The first hundred that are neither an email address nor a telephone number.</param>
/// <param name="Leads">Leads that nothing automatic speaks to any more.</param>
public sealed record UnwantedAdded(int Added, int There, int Leads, IReadOnlyList<string> Unreadable);

/// <summary>The do-not-contact list of a client.</summary>
public static class DoNotContactEndpoints
{
    private const int MostAtOnce = 50_000;
    private const int MostOnPage = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var list = app.MapGroup("/api/do-not-contact").WithTags("Consent");
        list.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Addresses that nobody may write to or ring");
        list.MapPost("/", AddAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Put addresses on it: one a line, or a whole CSV");
        list.MapDelete("/", RemoveAsync).Needs(Act.EditSources).WithSummary("Take an address off it");
    }

    private static async Task<Results<Ok<UnwantedList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null,
        string? q = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var rows = db.DoNotContact.AsNoTracking().Where(d => clients.Contains(d.ClientId));
        if (!string.IsNullOrWhiteSpace(q))
            rows = rows.Where(d => d.Value.Contains(q.Trim().ToLower()));
        var page = await rows.OrderByDescending(d => d.At).ThenBy(d => d.Value).Take(MostOnPage).ToListAsync(stop);
        var people = await db.PeopleAsync(page.Select(d => d.By), stop);
        return TypedResults.Ok(
            new UnwantedList(
                [.. page.Select(d => new UnwantedRow(d.Kind, d.Value, d.Reason, d.At, PeopleNames.Of(people, d.By)))],
                await rows.CountAsync(stop)
            )
        );
    }

    private static async Task<Results<Ok<UnwantedAdded>, ProblemHttpResult>> AddAsync(
        UnwantedToAdd add,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        LeadEventRouter events,
        RecordRecall back,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(add.Client) || await db.ChosenAsync(scope, add.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        var reason = string.IsNullOrWhiteSpace(add.Reason) ? "asked for it" : add.Reason.Trim();
        if (reason.Length > 200)
            return Problems.Bad("reason", "At most 200 characters.");
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop);
        var (keys, unreadable) = Read(add.Addresses ?? "", client.Country);
        if (keys.Count == 0)
            return Problems.Bad(
                "addresses",
                unreadable.Count > 0
                    ? $"“{unreadable[0]}” is neither an email address nor a telephone number."
                    : "Write email addresses or telephone numbers, one a line."
            );
        if (keys.Count > MostAtOnce)
            return Problems.Bad("addresses", $"At most {MostAtOnce} at once.");

        var (now, me) = (time.Now(), ClientAccess.UserId(http.User));
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, clientId, stop);
        var there = (await db.UnwantedAsync([.. keys.Select(k => (clientId, k))], stop))
            .Select(d => new ContactKey(d.Kind, d.Value))
            .ToHashSet();
        db.DoNotContact.AddRange(
            keys.Where(k => !there.Contains(k))
                .Select(k => new DoNotContact
                {
                    ClientId = clientId,
                    Kind = k.Kind,
                    Value = k.Value,
                    Reason = reason,
                    At = now,
                    By = me,
                })
        );
        var leads = await MarkAsync(db, clientId, keys, reason, me, events, back, now, stop);
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        return TypedResults.Ok(
            new UnwantedAdded(keys.Count - there.Count, there.Count, leads, [.. unreadable.Take(100)])
        );
    }

    // Leads that have one of these addresses are not contacted from now on.
    private static async Task<int> MarkAsync(
        AppDb db,
        Guid clientId,
        IReadOnlyList<ContactKey> keys,
        string reason,
        Guid? me,
        LeadEventRouter events,
        RecordRecall back,
        Instant now,
        CancellationToken stop
    )
    {
        var leads = 0;
        foreach (var (contact, held) in await db.HeldByAsync([.. keys.Select(k => (clientId, k))], stop))
        {
            var lead = held.Lead;
            if (lead.DoNotContactAt is not null || contact.Test)
                continue;
            lead.DoNotContactAt = now;
            leads++;
            db.AddStory(
                lead,
                StoryKind.DoNotContact,
                $"{contact.Value} was put on the do-not-contact list: {reason}",
                now,
                by: me
            );
            await events.HappenAsync(
                held,
                [LeadEvent.Of(EventKeys.OptedOut, now, "they are on the do-not-contact list")],
                null,
                now,
                stop
            );
            await back.RecallAsync(held, now, stop);
        }

        return leads;
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(
        string client,
        string value,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.Bad("client", "Say for which client.");
        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, clientId, stop);
        if (await db.DoNotContact.Where(d => d.ClientId == clientId && d.Value == value).ExecuteDeleteAsync(stop) == 0)
            return Problems.NotThere.Because($"{value} is not on the list.");
        var ids = await db
            .LeadContacts.Where(c => c.ClientId == clientId && c.Value == value)
            .Select(c => c.LeadId)
            .ToListAsync(stop);
        foreach (var lead in await db.Leads.Where(l => ids.Contains(l.Id)).ToListAsync(stop))
        {
            // Another address of theirs may still be on it.
            if (
                await db
                    .LeadContacts.Where(c => c.LeadId == lead.Id)
                    .AnyAsync(
                        c => db.DoNotContact.Any(d => d.ClientId == clientId && d.Kind == c.Kind && d.Value == c.Value),
                        stop
                    )
            )
                continue;
            lead.DoNotContactAt = null;
            db.AddStory(
                lead,
                StoryKind.DoNotContact,
                $"{value} was taken off the do-not-contact list",
                now,
                by: ClientAccess.UserId(http.User)
            );
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.NoContent();
    }

    // The same lock as an import's: who comes in this moment meets the list as it will be.
    private static Task LockAsync(AppDb db, Guid clientId, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({clientId.ToString("N")}, 1))",
            stop
        );

    // Any CSV does: each cell that is an address counts, whatever its column is called.
    private static (IReadOnlyList<ContactKey> Keys, IReadOnlyList<string> Unreadable) Read(string text, string country)
    {
        var (keys, unreadable) = (new HashSet<ContactKey>(), new List<string>());
        using var reader = new StringReader(text);
        using var csv = CsvReader.Create(
            reader,
            new CsvReaderOptions
            {
                HasHeader = false,
                Separator = Separator(text),
                MaxRecordSize = 64 * 1024,
            }
        );
        while (csv.Read() && keys.Count <= MostAtOnce)
        {
            var cells = Enumerable
                .Range(0, csv.FieldCount)
                .Select(i => csv.GetString(i).Trim())
                .Where(c => c.Length > 0)
                .ToList();
            var found = cells.Select(c => Key(c, country)).OfType<ContactKey>().ToList();
            foreach (var key in found)
                keys.Add(key);
            if (found.Count == 0 && cells.Count > 0)
                unreadable.Add(
                    string.Join(", ", cells) is { Length: > 80 } long1 ? long1[..80] : string.Join(", ", cells)
                );
        }

        return ([.. keys], unreadable);
    }

    private static char Separator(string text)
    {
        var line = text.AsSpan(0, Math.Min(text.Length, 1000));
        return line.Count(';') > line.Count(',') ? ';'
            : line.Count('\t') > line.Count(',') ? '\t'
            : ',';
    }

    private static ContactKey? Key(string typed, string country) =>
        EmailReader.Read(typed).Email is { } email ? new(ContactKind.Email, email)
        : typed.Count(char.IsDigit) >= 7
        && !typed.Any(char.IsLetter)
        && PhoneReader.Read(typed, country).Phone is { } phone
            ? new(ContactKind.Phone, phone.E164)
        : null;
}

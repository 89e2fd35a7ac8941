using LitFuse.Core.Fields;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.ReadyWords;

/// <summary>Words ready for use, in their newest version.</summary>
/// <param name="UsedBy">Names of the fuses whose draft or armed version took them, with the version they took.</param>
public sealed record ReadyWordsRow(
    string Key,
    string Name,
    string Words,
    string? Subject,
    int Version,
    Instant MadeAt,
    string? By,
    IReadOnlyList<string> UsedBy
);

/// <summary>A client's words ready for use.</summary>
public sealed record ReadyWordsList(IReadOnlyList<ReadyWordsRow> Words);

/// <summary>Words to be kept: new ones, or the next version of some.</summary>
/// <param name="Key">Of those that are to have a new version; left out for new ones.</param>
public sealed record ReadyWordsToKeep(string? Client, string? Key, string? Name, string? Words, string? Subject);

/// <summary>Words that several fuses use.</summary>
public static class ReadyWordsEndpoints
{
    private const int Most = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var words = app.MapGroup("/api/words").WithTags("Fuses");
        words.MapGet("/", ListAsync).Needs(Act.SeeFuses).WithSummary("Words ready for use");
        words.MapPost("/", KeepAsync).Needs(Act.EditFuses).WithSummary("Keep words, or a new version of some");
    }

    /// <summary>The newest version of each.</summary>
    public static async Task<IReadOnlyList<KeptWords>> NewestAsync(AppDb db, Guid clientId, CancellationToken stop) =>
        [
            .. (await db.ReadyWords.AsNoTracking().Where(w => w.ClientId == clientId).ToListAsync(stop))
                .GroupBy(w => w.Key, StringComparer.Ordinal)
                .Select(g => g.MaxBy(w => w.Version)!)
                .OrderBy(w => w.Name, StringComparer.OrdinalIgnoreCase),
        ];

    private static async Task<Results<Ok<ReadyWordsList>, ProblemHttpResult>> ListAsync(
        string? client,
        AppDb db,
        ClientScope scope,
        CancellationToken stop
    )
    {
        if (string.IsNullOrWhiteSpace(client))
            return Problems.Bad("client", "Say for which client.");
        if (await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var newest = await NewestAsync(db, clientId, stop);
        var people = await db.PeopleAsync(newest.Select(w => w.MadeBy), stop);
        var used = await UsedAsync(db, clientId, stop);
        return TypedResults.Ok(
            new ReadyWordsList([
                .. newest.Select(w => new ReadyWordsRow(
                    w.Key,
                    w.Name,
                    w.Words,
                    w.Subject,
                    w.Version,
                    w.MadeAt,
                    PeopleNames.Of(people, w.MadeBy),
                    used.GetValueOrDefault(w.Key) ?? []
                )),
            ])
        );
    }

    private static async Task<Results<Ok<ReadyWordsRow>, ProblemHttpResult>> KeepAsync(
        ReadyWordsToKeep keep,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(keep.Client)
            || await db.ChosenAsync(scope, keep.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        var name = (keep.Name ?? "").Trim();
        if (name.Length is 0 or > 80)
            return Problems.Bad("name", "Give them a name of at most 80 characters.");
        if (MessageWords.Parse(keep.Words ?? "").Fault is { } fault)
            return Problems.Bad("words", $"The words cannot be read: {fault}.");
        if (!string.IsNullOrWhiteSpace(keep.Subject) && MessageWords.Parse(keep.Subject).Fault is { } odd)
            return Problems.Bad("subject", $"The subject cannot be read: {odd}.");

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({clientId.ToString("N") + "words"}, 0))",
            stop
        );
        var key = string.IsNullOrWhiteSpace(keep.Key) ? LeadField.KeyFor(name) : keep.Key;
        var earlier = db.ReadyWords.Where(w => w.ClientId == clientId && w.Key == key);
        var last = await earlier.MaxAsync(w => (int?)w.Version, stop) ?? 0;
        if (keep.Key is not null && last == 0)
            return Problems.NotThere.Because($"There are no words '{key}'.");
        if (keep.Key is null && last > 0)
            return Problems.Bad(
                "name",
                "There are words by that name already. Give these another, or make a new version of those."
            );
        var keys = db.ReadyWords.Where(w => w.ClientId == clientId).Select(w => w.Key).Distinct();
        if (last == 0 && await keys.CountAsync(stop) >= Most)
            return Problems.Bad("name", $"There are {Most} already.");
        var made = new KeptWords
        {
            ClientId = clientId,
            Key = key,
            Version = last + 1,
            Name = name,
            Words = keep.Words!,
            Subject = string.IsNullOrWhiteSpace(keep.Subject) ? null : keep.Subject,
            MadeAt = time.Now(),
            MadeBy = ClientAccess.UserId(http.User),
        };
        db.ReadyWords.Add(made);
        db.NoteChange(clientId, ChangeKind.Words, clientId);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        var people = await db.PeopleAsync([made.MadeBy], stop);
        return TypedResults.Ok(
            new ReadyWordsRow(
                made.Key,
                made.Name,
                made.Words,
                made.Subject,
                made.Version,
                made.MadeAt,
                PeopleNames.Of(people, made.MadeBy),
                (await UsedAsync(db, clientId, stop)).GetValueOrDefault(key) ?? []
            )
        );
    }

    private static async Task<Dictionary<string, List<string>>> UsedAsync(
        AppDb db,
        Guid clientId,
        CancellationToken stop
    )
    {
        var fuses = await db
            .Fuses.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .Select(f => new
            {
                f.Name,
                f.Draft,
                Armed = db.FuseVersions.FirstOrDefault(v => v.Id == f.ArmedVersionId),
            })
            .ToListAsync(stop);
        return fuses
            .SelectMany(f =>
                (f.Draft ?? f.Armed!.Definition)
                    .Bands.SelectMany(b => b.Steps)
                    .Where(s => s.Ready is not null)
                    .Select(s => (s.Ready!.Key, Used: $"{f.Name}, words v{s.Ready.Version}"))
            )
            .GroupBy(u => u.Key, StringComparer.Ordinal)
            .ToDictionary(
                g => g.Key,
                g => g.Select(u => u.Used).Distinct(StringComparer.Ordinal).ToList(),
                StringComparer.Ordinal
            );
    }
}

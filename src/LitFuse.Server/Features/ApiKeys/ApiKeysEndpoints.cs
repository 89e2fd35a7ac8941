using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.ApiKeys;

/// <summary>A key as a row: never the key itself.</summary>
public sealed record ApiKeyRow(
    Guid Id,
    string Client,
    string Name,
    string Start,
    string? MadeBy,
    Instant MadeAt,
    Instant? UsedAt,
    Instant? RevokedAt
);

/// <summary>Keys of the clients chosen.</summary>
public sealed record ApiKeyList(IReadOnlyList<ApiKeyRow> Keys);

/// <summary>A key to be made.</summary>
public sealed record ApiKeyToMake(string? Client, string? Name);

/// <summary>A key that was made, told this once.</summary>
public sealed record MadeApiKey(Guid Id, string Key);

/// <summary>Keys by which programs of the client speak to the API.</summary>
public static class ApiKeysEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var keys = app.MapGroup("/api/keys").WithTags("API keys");
        keys.MapGet("/", ListAsync).Needs(Act.EditSources).WithSummary("API keys");
        keys.MapPost("/", MakeAsync).Needs(Act.EditSources).WithSummary("Make a key; it is told this once");
        keys.MapDelete("/{keyId}", RevokeAsync).Needs(Act.EditSources).WithSummary("Revoke a key: refused from now on");
    }

    private static async Task<Results<Ok<ApiKeyList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var rows = await db
            .ApiKeys.AsNoTracking()
            .Where(k => clients.Contains(k.ClientId))
            .OrderByDescending(k => k.MadeAt)
            .ToListAsync(stop);
        var names = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var people = await db.PeopleAsync(rows.Select(r => (Guid?)r.MadeBy), stop);
        return TypedResults.Ok(
            new ApiKeyList(
                rows.ConvertAll(k => new ApiKeyRow(
                    k.Id,
                    names[k.ClientId],
                    k.Name,
                    k.Start,
                    people.GetValueOrDefault(k.MadeBy),
                    k.MadeAt,
                    k.UsedAt,
                    k.RevokedAt
                ))
            )
        );
    }

    private static async Task<Results<Created<MadeApiKey>, ProblemHttpResult>> MakeAsync(
        ApiKeyToMake make,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(make.Client)
            || await db.ChosenAsync(scope, make.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        var name = (make.Name ?? "").Trim();
        if (name.Length is 0 or > 80)
            return Problems.Bad("name", "Say which program it is for, in at most 80 characters.");
        var key = ApiKeyAccess.Prefix + Keys.Secret() + Keys.New();
        var row = new ApiKey
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Name = name,
            Start = key[..(ApiKeyAccess.Prefix.Length + 4)],
            Hash = ApiKeyAccess.HashOf(key),
            MadeBy = ClientAccess.UserId(http.User)!.Value,
            MadeAt = time.Now(),
        };
        db.ApiKeys.Add(row);
        await db.SaveChangesAsync(stop);
        return TypedResults.Created($"/api/keys/{row.Id}", new MadeApiKey(row.Id, key));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RevokeAsync(
        Guid keyId,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var key = await db.ApiKeys.SingleOrDefaultAsync(k => k.Id == keyId, stop);
        if (key is null)
            return Problems.No("key");
        key.RevokedAt ??= time.Now();
        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }
}

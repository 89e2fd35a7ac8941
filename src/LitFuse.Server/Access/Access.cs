using System.Security.Claims;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Access;

/// <summary>Reads who may do what for whom.</summary>
public sealed class ClientAccess(AppDb db)
{
    /// <summary>The clients for which this person may do this.</summary>
    public async Task<IReadOnlyList<Guid>> ClientsForAsync(ClaimsPrincipal person, Act act, CancellationToken stop)
    {
        if (UserId(person) is not { } userId)
            return [];
        var roles = Permissions.Table.Where(r => r.Value.Contains(act)).Select(r => r.Key).ToList();
        var rows = await db
            .Memberships.AsNoTracking()
            .Where(m => m.UserId == userId && roles.Contains(m.Role))
            .Select(m => m.ClientId)
            .ToListAsync(stop);
        return rows.Contains(null)
            ? await db.Clients.AsNoTracking().Select(c => c.Id).ToListAsync(stop)
            : rows.OfType<Guid>().ToList();
    }

    /// <summary>The signed-in person's id.</summary>
    public static Guid? UserId(ClaimsPrincipal person) =>
        Guid.TryParse(person.FindFirstValue(ClaimTypes.NameIdentifier), out var id) ? id : null;
}

/// <summary>
/// Stands between routing and every endpoint. An endpoint says what it needs (<see cref="Needs"/>) or that anyone may
/// call it (<see cref="OpenToAnyone"/>); one that says neither is closed. The clients for whom the person may do it
/// become the request's scope, so that whatever else exists is not there for them.
/// </summary>
public sealed class AccessMiddleware(RequestDelegate next)
{
    /// <summary>Runs for each request.</summary>
    public async Task InvokeAsync(
        HttpContext http,
        ClientAccess access,
        ClientScope scope,
        IAntiforgery antiforgery,
        IKeyAccess keys
    )
    {
        var endpoint = http.GetEndpoint();
        if (endpoint is null || endpoint.Metadata.GetMetadata<OpenToAnyone>() is not null)
        {
            await next(http);
            return;
        }

        if (endpoint.Metadata.GetMetadata<Needs>() is not { } needs)
        {
            await Problems.NotAllowed.WriteAsync(
                http,
                "This address says neither who may call it nor that anyone may."
            );
            return;
        }

        // A key is no cookie: a browser does not send it along by itself, so it needs no antiforgery token.
        var authorization = http.Request.Headers.Authorization.ToString();
        if (
            endpoint.Metadata.GetMetadata<TakesKeys>() is not null
            && authorization.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
        )
        {
            if (await keys.FindAsync(authorization[7..].Trim(), http.RequestAborted) is not { } holder)
            {
                await Problems.BadKey.WriteAsync(http);
                return;
            }

            http.Features.Set(holder);
            scope.OpenTo([holder.ClientId]);
            await next(http);
            return;
        }

        if (http.User.Identity?.IsAuthenticated != true)
        {
            await Problems.SignInFirst.WriteAsync(http);
            return;
        }

        if (Writes(http.Request) && !await antiforgery.IsRequestValidAsync(http))
        {
            await Problems.TokenMissing.WriteAsync(http);
            return;
        }

        var clients = await access.ClientsForAsync(http.User, needs.Act, http.RequestAborted);
        if (clients.Count == 0)
        {
            await Problems.NotAllowed.WriteAsync(http);
            return;
        }

        scope.OpenTo(clients);
        await next(http);
    }

    // The live line is a read: it takes no words from the browser, and its own handshake cannot carry a header.
    private static bool Writes(HttpRequest request) =>
        !HttpMethods.IsGet(request.Method)
        && !HttpMethods.IsHead(request.Method)
        && !request.Path.StartsWithSegments("/live", StringComparison.Ordinal);
}

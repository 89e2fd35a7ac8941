using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Accounts;

/// <summary>Who signs in.</summary>
public sealed record SignIn(string Email, string Password);

/// <summary>What the signed-in person is to a client.</summary>
public sealed record SessionClient(
    Guid Id,
    string Key,
    string Name,
    string ShortName,
    string Zone,
    string Currency,
    int TargetSeconds,
    Role Role,
    IReadOnlyList<Act> May
);

/// <summary>The signed-in person.</summary>
public sealed record SessionPerson(
    Guid Id,
    string Name,
    string Email,
    IReadOnlyList<SessionClient> Clients,
    bool TakesCalls,
    Instant Now
);

/// <summary>Whether calls may ring one's phone.</summary>
public sealed record CallsTaken(bool Takes);

/// <summary>Signing in and out.</summary>
public static class Session
{
    /// <summary>Maps <c>/api/session</c>.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/session", SignInAsync)
            .OpenToAnyone("one must be able to sign in")
            .WithTags("Accounts")
            .WithSummary("Sign in");
        app.MapGet("/api/session", GetAsync)
            .Needs(Act.BeHere)
            .WithTags("Accounts")
            .WithSummary("Who is signed in, and what they may do");
        app.MapPut("/api/session/calls", TakeCallsAsync)
            .Needs(Act.BeHere)
            .WithTags("Accounts")
            .WithSummary("Be available for calls, or not");
        app.MapDelete("/api/session", SignOutAsync).Needs(Act.BeHere).WithTags("Accounts").WithSummary("Sign out");
    }

    private static async Task<Results<Ok<SessionPerson>, ProblemHttpResult>> SignInAsync(
        SignIn given,
        HttpContext http,
        SignInManager<User> signIn,
        IAntiforgery antiforgery,
        AppDb db,
        ClientScope scope,
        TimeProvider time
    )
    {
        if (string.IsNullOrWhiteSpace(given.Email))
            return Problems.Bad("email", "Write your email address.");
        if (string.IsNullOrEmpty(given.Password))
            return Problems.Bad("password", "Write your password.");
        if (given.Email.Length > 254 || given.Password.Length > 200)
            return Problems.WrongPassword.Because();
        signIn.AuthenticationScheme = IdentityConstants.ApplicationScheme;
        var user = await signIn.UserManager.FindByEmailAsync(given.Email.Trim());
        if (user is null)
        {
            if (!await db.Users.AnyAsync(http.RequestAborted))
                return Problems.NobodyYet.Because();
            // The same work as for a known account, so that the time taken does not tell which emails have one.
            signIn.UserManager.PasswordHasher.HashPassword(new User(), given.Password);
            return Problems.WrongPassword.Because();
        }

        var result = await signIn.PasswordSignInAsync(user, given.Password, isPersistent: true, lockoutOnFailure: true);
        if (result.IsLockedOut)
            return Problems.LockedOut.Because();
        if (!result.Succeeded)
            return Problems.WrongPassword.Because();
        http.User = await signIn.CreateUserPrincipalAsync(user);
        HandToken(http, antiforgery);
        return TypedResults.Ok(await PersonAsync(user, db, scope, time, http.RequestAborted));
    }

    private static async Task<Results<Ok<SessionPerson>, ProblemHttpResult>> GetAsync(
        HttpContext http,
        UserManager<User> users,
        IAntiforgery antiforgery,
        AppDb db,
        ClientScope scope,
        TimeProvider time
    )
    {
        var user = await users.GetUserAsync(http.User);
        if (user is null)
            return Problems.SignInFirst.Because();
        HandToken(http, antiforgery);
        return TypedResults.Ok(await PersonAsync(user, db, scope, time, http.RequestAborted));
    }

    private static async Task<NoContent> TakeCallsAsync(
        CallsTaken taken,
        HttpContext http,
        AppDb db,
        CancellationToken stop
    )
    {
        var me = ClientAccess.UserId(http.User)!.Value;
        await db
            .Users.Where(u => u.Id == me)
            .ExecuteUpdateAsync(u => u.SetProperty(x => x.TakesCalls, taken.Takes), stop);
        return TypedResults.NoContent();
    }

    private static async Task<NoContent> SignOutAsync(SignInManager<User> signIn)
    {
        await signIn.SignOutAsync();
        return TypedResults.NoContent();
    }

    private static void HandToken(HttpContext http, IAntiforgery antiforgery)
    {
        var tokens = antiforgery.GetAndStoreTokens(http);
        http.Response.Cookies.Append(
            "XSRF-TOKEN",
            tokens.RequestToken!,
            new CookieOptions
            {
                SameSite = SameSiteMode.Strict,
                Secure = http.Request.IsHttps,
                HttpOnly = false,
            }
        );
    }

    private static async Task<SessionPerson> PersonAsync(
        User user,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var memberships = await db.Memberships.AsNoTracking().Where(m => m.UserId == user.Id).ToListAsync(stop);
        var clients = await db.Clients.AsNoTracking().OrderBy(c => c.Name).ToListAsync(stop);
        scope.OpenTo([.. clients.Select(c => c.Id)]);
        var mine =
            from client in clients
            let membership = memberships.Find(m => m.ClientId == client.Id) ?? memberships.Find(m => m.ClientId is null)
            where membership is not null
            select new SessionClient(
                client.Id,
                client.Key,
                client.Name,
                client.ShortName,
                client.Zone,
                client.Currency,
                client.TargetSeconds,
                membership.Role,
                [.. Permissions.Table[membership.Role].Order()]
            );
        return new(user.Id, user.Name, user.Email!, [.. mine], user.TakesCalls, time.Now());
    }
}

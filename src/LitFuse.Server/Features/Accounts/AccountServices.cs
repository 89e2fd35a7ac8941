using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.AspNetCore.Identity;

namespace LitFuse.Server.Features.Accounts;

/// <summary>Cookie sign-in with lock-out, and antiforgery.</summary>
public static class AccountServices
{
    /// <summary>Registers them.</summary>
    public static void Add(IServiceCollection services)
    {
        services
            .AddIdentityCore<User>(o =>
            {
                o.User.RequireUniqueEmail = true;
                o.Password.RequiredLength = 12;
                o.Password.RequireDigit =
                    o.Password.RequireUppercase =
                    o.Password.RequireLowercase =
                    o.Password.RequireNonAlphanumeric =
                        false;
                o.Lockout.MaxFailedAccessAttempts = 5;
                o.Lockout.DefaultLockoutTimeSpan = TimeSpan.FromMinutes(5);
            })
            .AddEntityFrameworkStores<AppDb>()
            .AddSignInManager();
        services
            .AddAuthentication(IdentityConstants.ApplicationScheme)
            .AddCookie(IdentityConstants.ApplicationScheme, o =>
            {
                o.Cookie.Name = "litfuse";
                o.Cookie.HttpOnly = true;
                o.Cookie.SameSite = SameSiteMode.Lax;
                o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
                o.ExpireTimeSpan = TimeSpan.FromDays(14);
                o.SlidingExpiration = true;
                // Programs and the front end are told, not sent to a page.
                o.Events.OnRedirectToLogin = c => Problems.SignInFirst.WriteAsync(c.HttpContext);
                o.Events.OnRedirectToAccessDenied = c => Problems.NotAllowed.WriteAsync(c.HttpContext);
            });
        services.AddAntiforgery(o =>
        {
            o.HeaderName = "X-XSRF-TOKEN";
            o.Cookie.Name = "litfuse-xsrf";
            o.Cookie.SameSite = SameSiteMode.Strict;
        });
    }
}

using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Extensions.FileProviders;

namespace LitFuse.Server;

/// <summary>Security headers for every answer that passes the whole pipeline.</summary>
public static class Headers
{
    /// <summary>Adds them.</summary>
    public static Task AddAsync(HttpContext http, RequestDelegate next)
    {
        var headers = http.Response.Headers;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        // The API's page brings its own inline script; everything else runs only what ships with us.
        var scripts = http.Request.Path.StartsWithSegments("/docs", StringComparison.Ordinal)
            ? "'self' 'unsafe-inline'"
            : "'self'";
        headers.ContentSecurityPolicy =
            $"default-src 'self'; script-src {scripts}; style-src 'self' 'unsafe-inline'; img-src 'self' data:; connect-src 'self' ws: wss:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'";
        return next(http);
    }
}

/// <summary>The front end, as built by Vite.</summary>
public static class Pages
{
    // Whatever asks under these is a program: a page in answer would tell it that all is well.
    private static readonly string[] ForPrograms =
    [
        "/api",
        "/assets",
        "/health",
        "/metrics",
        "/openapi",
        "/schemas",
        "/in",
        "/receive",
        "/told",
        "/live",
        "/f",
        "/pictures",
        "/through",
        "/visit",
        "/confirm",
        "/unsubscribe",
    ];

    /// <summary>
    /// Serves it: hashed assets for ever, the page itself never from a cache, unknown API addresses as 404.
    /// </summary>
    public static void Map(WebApplication app, string webRoot)
    {
        var root = Path.GetFullPath(webRoot);
        var index = Path.Combine(root, "index.html");
        if (Directory.Exists(root))
        {
            app.UseStaticFiles(
                new StaticFileOptions
                {
                    FileProvider = new PhysicalFileProvider(root),
                    ContentTypeProvider = new FileExtensionContentTypeProvider
                    {
                        Mappings = { [".woff2"] = "font/woff2" },
                    },
                    OnPrepareResponse = c =>
                        c.Context.Response.Headers.CacheControl = c.Context.Request.Path.StartsWithSegments(
                            "/assets",
                            StringComparison.Ordinal
                        )
                            ? "public, max-age=31536000, immutable"
                            : "no-cache",
                }
            );
        }

        app.MapFallback(http =>
            {
                var path = http.Request.Path;
                var isPage =
                    HttpMethods.IsGet(http.Request.Method)
                    && !ForPrograms.Any(p => path.StartsWithSegments(p, StringComparison.OrdinalIgnoreCase));
                if (!isPage)
                    return Problems.NotThere.WriteAsync(http, $"There is nothing at {path}.");
                if (!File.Exists(index))
                    return Problems.NotThere.WriteAsync(http, "The front end has not been built; ./demo builds it.");
                http.Response.ContentType = "text/html; charset=utf-8";
                http.Response.Headers.CacheControl = "no-cache";
                return http.Response.SendFileAsync(index);
            })
            .OpenToAnyone("the page itself holds no data; what it fetches is guarded")
            .ExcludeFromDescription();
    }
}

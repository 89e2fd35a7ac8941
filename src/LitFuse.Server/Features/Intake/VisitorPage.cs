using System.Net;

namespace LitFuse.Server.Features.Intake;

/// <summary>The one plain page that a visitor may get from us: no script, no tracking, readable on any phone.</summary>
public static class VisitorPage
{
    /// <summary>Writes it.</summary>
    public static Task WriteAsync(HttpContext http, int status, string said, string then, string? back)
    {
        http.Response.StatusCode = status;
        http.Response.ContentType = "text/html; charset=utf-8";
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";
        var link = back is null ? "" : $"<p><a href=\"{WebUtility.HtmlEncode(back)}\">Back to the page</a></p>";
        return http.Response.WriteAsync($$"""
            <!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1">
            <title>{{WebUtility.HtmlEncode(said)}}</title>
            <style>body{font:1.125rem/1.6 system-ui,sans-serif;max-width:34rem;margin:12vh auto;padding:0 1.25rem;background:#EFF1EC;color:#1D2021}h1{font-size:1.5rem}a{color:inherit}</style>
            <main><h1>{{WebUtility.HtmlEncode(said)}}</h1><p>{{WebUtility.HtmlEncode(then)}}</p>{{link}}</main></html>
            """);
    }
}

using System.Net;
using LitFuse.Platform;

namespace LitFuse.Server.Features.Door;

/// <summary>The one plain page that a visitor may get from us: no script, no tracking, readable on any phone.</summary>
public static class VisitorPage
{
    /// <summary>Writes it.</summary>
    public static Task WriteAsync(
        HttpContext http,
        int status,
        string said,
        string then,
        IReadOnlyList<(string Url, string Words)>? links
    )
    {
        http.Response.StatusCode = status;
        var below = string.Concat(
            (links ?? []).Select(l =>
                $"<p><a href=\"{WebUtility.HtmlEncode(l.Url)}\">{WebUtility.HtmlEncode(l.Words)}</a></p>"
            )
        );
        return WriteAsync(
            http,
            said,
            $"<h1>{WebUtility.HtmlEncode(said)}</h1><p>{WebUtility.HtmlEncode(then)}</p>{below}",
            "'none'"
        );
    }

    /// <summary>Writes a page around <paramref name="body"/>, which is HTML of our own making.</summary>
    /// <param name="formAction">Where its forms may send, as a content security policy says it.</param>
    /// <param name="script">True where it carries the script of our own forms.</param>
    public static Task WriteAsync(HttpContext http, string title, string body, string formAction, bool script = false)
    {
        http.Response.ContentType = "text/html; charset=utf-8";
        http.Response.Headers.ContentSecurityPolicy =
            $"default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; {(script ? "script-src 'self'; connect-src 'self'; " : "")}base-uri 'none'; form-action {formAction}; frame-ancestors 'none'";
        return http.Response.WriteAsync(
            $$"""
            <!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><meta name="referrer" content="strict-origin-when-cross-origin">
            <title>{{WebUtility.HtmlEncode(title)}}</title><link rel="icon" href="data:,">
            <style>body{font:1.125rem/1.6 system-ui,sans-serif;max-width:34rem;margin:8vh auto;padding:0 1.25rem;background:#EFF1EC;color:#1D2021}h1{font-size:1.5rem;line-height:1.25}a{color:inherit}img{max-width:100%;height:auto}
            label,legend{display:block;font-weight:600;font-size:1rem}fieldset{border:0;padding:0;margin:0}input,select,textarea{font:inherit;width:100%;box-sizing:border-box;padding:.5rem .6rem;border:1px solid #56626C;border-radius:4px;background:#FAFBF7;color:inherit}
            input[type=checkbox],input[type=radio]{width:1.25rem;height:1.25rem;margin:0 .5rem 0 0;vertical-align:-.2rem}.lf-choice label,.lf-agree label{font-weight:400;padding:.2rem 0}button{font:inherit;font-weight:700;background:#B9CC2E;color:#1D2021;border:1px solid #1D2021;border-radius:4px;padding:.6rem 1.6rem;cursor:pointer}
            button.lf-back{background:none}dl{margin:1rem 0}dt{font-weight:600;font-size:1rem}dd{margin:0 0 .7rem}.lf-consent{font-size:.95rem}:focus-visible{outline:2px solid #1D2021;outline-offset:2px}</style>
            <main>{{body}}</main></html>
            """
        );
    }
}

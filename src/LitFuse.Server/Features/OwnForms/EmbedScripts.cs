using System.Reflection;
using System.Text.Json;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;

namespace LitFuse.Server.Features.OwnForms;

/// <summary>
/// The scripts that pages load: one for forms built here, one that captures a form that is there already.
/// </summary>
public static class EmbedScripts
{
    private static readonly string Embed = Read("embed.js");
    private static readonly string Capture = Read("capture.js");

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/embed.js", static (HttpContext http) => Script(http, Embed))
            .OpenToAnyone("pages with our form load it")
            .ExcludeFromDescription();
        app.MapGet("/capture.js", static (HttpContext http) => Script(http, Capture))
            .OpenToAnyone("pages with a form of their own load it")
            .ExcludeFromDescription();
        app.MapGet("/f/{formKey}.js", FormAsync).OpenToAnyone("pages with our form load it").ExcludeFromDescription();
    }

    /// <summary>The script tag that captures a page's own form.</summary>
    public static string CaptureTag(string publicUrl, string key) =>
        $"<script src=\"{publicUrl}/capture.js\" data-key=\"{key}\" defer></script>\n";

    private static async Task<IResult> FormAsync(
        string formKey,
        HttpContext http,
        FormDirectory forms,
        PublicAddress address
    )
    {
        if (await forms.FindAsync(formKey, http.RequestAborted) is not { Design: { } design } form)
            return Results.NotFound();
        var html = JsonSerializer.Serialize(FormHtml.Of(design, new(address.Url, form.Key)));
        return Script(http, $"document.currentScript.insertAdjacentHTML(\"beforebegin\",{html});\n{Embed}");
    }

    private static IResult Script(HttpContext http, string text)
    {
        http.Response.Headers.CacheControl = "public, max-age=300";
        http.Response.Headers["Cross-Origin-Resource-Policy"] = "cross-origin";
        return Results.Text(text, "text/javascript; charset=utf-8");
    }

    private static string Read(string name)
    {
        using var stream = Assembly.GetExecutingAssembly().GetManifestResourceStream(name)!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}

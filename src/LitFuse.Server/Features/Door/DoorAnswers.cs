using System.Text.Json;
using LitFuse.Core.Forms;
using LitFuse.Platform;
using LitFuse.Server.Intake;

namespace LitFuse.Server.Features.Door;

/// <summary>How the door answers: a visitor gets a page, a program JSON.</summary>
public static class DoorAnswers
{
    /// <summary>Says that it is on disk.</summary>
    /// <param name="ending">The form's ending for this person, where it has one.</param>
    /// <param name="amend">The link to amend the answers, where it is handed out.</param>
    public static async Task AcknowledgeAsync(
        HttpContext http,
        FormAddress form,
        FormEnding? ending,
        Stored stored,
        string? amend
    )
    {
        var onwards =
            ending is { Kind: EndingKind.GoTo, Url: { } url } ? url
            : ending is null ? form.ThankYouUrl
            : null;
        var said = ending is null or { Kind: EndingKind.GoTo }
            ? null
            : new IntakeEnding(
                ending.Words,
                ending.Kind == EndingKind.Download ? ending.Url : null,
                ending.Kind == EndingKind.Call ? ending.Phone : null
            );
        if (!IsBrowser(http))
        {
            http.Response.StatusCode = 202;
            var body = JsonSerializer.SerializeToUtf8Bytes(
                new IntakeReceipt(stored.Receipt.ToString("N"), onwards, said, amend),
                IntakeJson.Default.IntakeReceipt
            );
            http.Response.ContentType = "application/json; charset=utf-8";
            http.Response.ContentLength = body.Length;
            await http.Response.Body.WriteAsync(body);
            return;
        }

        if (onwards is not null)
        {
            http.Response.StatusCode = 303;
            http.Response.Headers.Location = onwards;
            return;
        }

        var links = new List<(string Url, string Words)>();
        if (said?.Download is { } download)
            links.Add((download, "Download it"));
        if (said?.Call is { } call)
            links.Add(("tel:" + call.Replace(" ", "", StringComparison.Ordinal), "Call " + call));
        if (amend is not null)
            links.Add((amend, "Change your answers later: keep this link"));
        if (form.PageUrl is { } page)
            links.Add((page, "Back to the page"));
        await VisitorPage.WriteAsync(
            http,
            200,
            "Thank you.",
            said?.Words ?? $"Your answers to “{form.Name}” have arrived.",
            links
        );
    }

    /// <summary>Refuses.</summary>
    public static async Task RefuseAsync(
        HttpContext http,
        ProblemKind kind,
        int? retryAfterSeconds = null,
        string? detail = null
    )
    {
        if (retryAfterSeconds is { } seconds)
            http.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        if (!IsBrowser(http))
        {
            await kind.WriteAsync(http, detail);
            return;
        }

        var (said, then) = kind.Code switch
        {
            "not-there" => (
                "This form is no longer taken in.",
                "Please write to the business directly; their page will say how."
            ),
            "too-big" => (
                "That was too much to send at once.",
                "Go back and send your answers without the attachment."
            ),
            "too-many" => (
                "That was sent many times in a short while.",
                "Wait a minute, go back, and press once more. Your answers are still in the form."
            ),
            "wrong-host" or "not-proven" => (
                "This form does not belong on that page.",
                "Please write to the business directly; their own page will say how."
            ),
            _ => (
                "Your answers have not been sent yet.",
                "Something is busy here. Wait a moment, go back, and press once more: your answers are still in the form, and nothing will arrive twice."
            ),
        };
        await VisitorPage.WriteAsync(http, kind.Status, said, then, null);
    }

    internal static bool IsBrowser(HttpContext http) =>
        http.Request.Headers.Accept.ToString().Contains("text/html", StringComparison.OrdinalIgnoreCase);
}

/// <summary>Generated JSON for the hot path.</summary>
[System.Text.Json.Serialization.JsonSourceGenerationOptions(JsonSerializerDefaults.Web)]
[System.Text.Json.Serialization.JsonSerializable(typeof(IntakeReceipt))]
internal sealed partial class IntakeJson : System.Text.Json.Serialization.JsonSerializerContext;

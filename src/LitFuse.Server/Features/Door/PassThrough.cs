using System.Text;
using LitFuse.Platform;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;

namespace LitFuse.Server.Features.Door;

/// <summary>
/// <c>GET /through/{formKey}</c>: for tools that can only send the visitor on with the answers in the address. They are
/// stored, and the visitor goes on to the thank-you address that the form was given; nothing in the query decides
/// where.
/// </summary>
public static class PassThrough
{
    /// <summary>Takes one visit.</summary>
    public static async Task ReceiveAsync(HttpContext http, string formKey, DoorServices door)
    {
        var form = await door.Forms.FindAsync(formKey, http.RequestAborted);
        if (form is null || !form.Kind.Card.MakesForms)
        {
            await DoorAnswers.RefuseAsync(
                http,
                Problems.NotThere,
                detail: $"There is no form with the key '{formKey}'."
            );
            return;
        }

        // A browser that fetches ahead is no visitor (Sec-Purpose, HTML).
        if (http.Request.Headers["Sec-Purpose"].ToString().Contains("prefetch", StringComparison.OrdinalIgnoreCase))
        {
            http.Response.StatusCode = 503;
            return;
        }

        var from = http.Connection.RemoteIpAddress?.ToString() ?? "";
        if (door.Gate.WaitFor(form.FormId, from) is { } wait)
        {
            await DoorAnswers.RefuseAsync(http, Problems.TooMany, wait);
            return;
        }

        var raw = Encoding.UTF8.GetBytes(http.Request.QueryString.Value?.TrimStart('?') ?? "");
        var payload = RawBody.FormPost(raw, null);
        if (raw.Length == 0 || payload.Unreadable is not null || payload.Answers.All(a => a.Value.Length == 0))
        {
            // The visitor is not to suffer for it; the form's page says that it happens.
            door.Counts.Count(form.ClientId, form.FormId, FormCount.EmptyVisit);
            GoOn(http, form);
            return;
        }

        try
        {
            await IntakeEndpoint.StoreAsync(
                http,
                "passed-through",
                form,
                "application/x-www-form-urlencoded",
                raw,
                payload,
                from,
                door
            );
        }
        catch (IntakeFullException)
        {
            await DoorAnswers.RefuseAsync(http, Problems.Busy, 1);
            return;
        }
        catch (Exception e) when (Problems.IsDatabaseDown(e))
        {
            await DoorAnswers.RefuseAsync(http, Problems.DatabaseDown, 2);
            return;
        }

        GoOn(http, form);
    }

    private static void GoOn(HttpContext http, FormAddress form)
    {
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        if (form.ThankYouUrl is { } onwards)
        {
            http.Response.StatusCode = 303;
            http.Response.Headers.Location = onwards;
            return;
        }

        http.Response.StatusCode = 303;
        http.Response.Headers.Location = "/thanks";
    }
}

using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Pillarpost;

/// <summary>Pillarpost's inboxes, to be read as a person, and as JSON.</summary>
public static class PillarpostPages
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/pillarpost/letters", (Inboxes inboxes, string? to) => inboxes.To(to));
        app.MapPut("/api/pillarpost/scanner", (Inboxes inboxes, bool on) =>
        {
            inboxes.Scans = on;
            return Results.NoContent();
        });
        app.MapPost("/api/pillarpost/letters/{id:int}/unsubscribe", async (int id, Inboxes inboxes, CancellationToken stop) =>
            await inboxes.UnsubscribeAsync(id, stop) is { } answered ? Results.Ok(new { Answered = answered }) : Results.Problem("This letter does not say how.", statusCode: 404));
        app.MapGet("/pillarpost", (Inboxes inboxes, string? inbox, MailDoor door) => Paper.Page("Pillarpost", Screen(inboxes, inbox, door), refresh: "letters"));
    }

    private static string Screen(Inboxes inboxes, string? inbox, MailDoor door)
    {
        var all = inboxes.To(null);
        inbox ??= all.Count > 0 ? all[^1].To : null;
        var boxes = all.GroupBy(l => l.To, StringComparer.OrdinalIgnoreCase).OrderByDescending(g => g.Max(l => l.Id)).Take(100)
            .Select(g => $"<li><a href=\"/pillarpost?inbox={Uri.EscapeDataString(g.Key)}\"{(g.Key == inbox ? " aria-current=\"page\"" : "")}>{Paper.Text(g.Key)}</a> <span>{g.Count()}</span></li>");
        var letters = (inbox is null ? [] : inboxes.To(inbox)).Reverse().Take(50).Select(l =>
            $"<article><h2>{Paper.Text(l.Subject)} <time>{l.At:HH:mm:ss}</time></h2><p class=\"small\">from {Paper.Text(l.From)}{(l.Copies.Length > 0 ? ", copies to " + Paper.Text(l.Copies) : "")}{(l.ReplyTo.Length > 0 ? ", answers go to " + Paper.Text(l.ReplyTo) : "")}</p>{(l.Unsubscribe is null ? "" : $"<p><button type=\"button\" data-unsubscribe=\"{l.Id}\">unsubscribe</button></p>")}<pre>{Linked(l.Text)}</pre></article>");
        return $$"""
            <p><button type="button" id="scanner" aria-pressed="{{(inboxes.Scans ? "true" : "false")}}">a scanner follows every link</button> <span class="small">The mail door is smtp://127.0.0.1:{{door.Port}}. Letters to nobody@… are refused.</span></p>
            <div class="two"><nav aria-label="Inboxes"><ul>{{string.Concat(boxes)}}</ul></nav><section id="letters" aria-live="polite"><h1>{{Paper.Text(inbox ?? "No letter has come yet.")}}</h1>{{string.Concat(letters)}}</section></div>
            <script>document.getElementById("scanner").addEventListener("click",async(e)=>{const on=e.target.getAttribute("aria-pressed")!=="true";const r=await fetch("/api/pillarpost/scanner?on="+on,{method:"PUT"});if(r.ok)e.target.setAttribute("aria-pressed",on)})
            document.addEventListener("click",async(e)=>{const id=e.target.dataset?.unsubscribe;if(!id)return;const r=await fetch("/api/pillarpost/letters/"+id+"/unsubscribe",{method:"POST"});e.target.textContent=r.ok?"unsubscribed":"it did not work";e.target.disabled=true})</script>
            """;
    }

    private static string Linked(string text)
    {
        var safe = Paper.Text(text);
        foreach (var link in Inboxes.LinksIn(text).Distinct(StringComparer.Ordinal)) safe = safe.Replace(Paper.Text(link), $"<a href=\"{Paper.Text(link)}\">{Paper.Text(link)}</a>", StringComparison.Ordinal);
        return safe;
    }
}

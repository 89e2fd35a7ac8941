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
        app.MapPost(
            "/api/pillarpost/letters/{id:int}/unsubscribe",
            async (int id, Inboxes inboxes, CancellationToken stop) =>
                await inboxes.UnsubscribeAsync(id, stop) is { } answered
                    ? Results.Ok(new { Answered = answered })
                    : Results.Problem("This letter does not say how.", statusCode: 404)
        );
        app.MapPost(
            "/api/pillarpost/letters/{id:int}/answer",
            (int id, Answer answer, Inboxes inboxes, Incoming incoming) =>
                inboxes.Find(id) is not { } letter ? Results.NotFound()
                : string.IsNullOrWhiteSpace(answer.Text) ? Results.Problem("Write something.", statusCode: 422)
                : incoming.Reply(letter, answer) ? Results.NoContent()
                : Results.Problem("Nobody hears what is written to this sender.", statusCode: 409)
        );
        app.MapPost("/api/pillarpost/letters", (LetterToWrite write, Incoming incoming) =>
            write is { From: { Length: > 0 } from, To: { Length: > 0 } to }
            && incoming.Write(from, to, write.Subject ?? "", write.Text ?? "")
                ? Results.NoContent()
                : Results.Problem("Nobody hears what is written to this address.", statusCode: 409)
        );
        app.MapPut("/api/pillarpost/hand-on/{address}", (string address, HandOn to, Incoming incoming) =>
        {
            incoming.HandOn(address, to);
            return Results.NoContent();
        });
        app.MapGet("/api/pillarpost/letters/{id:int}/files/{place:int}", (int id, int place, Inboxes inboxes) =>
            inboxes.Find(id) is { } letter && place >= 0 && place < letter.Files.Count
                ? Results.File(letter.Files[place].Bytes, "application/octet-stream", letter.Files[place].Name)
                : Results.NotFound()
        );
        app.MapGet("/pillarpost/letters/{id:int}", (int id, Inboxes inboxes, HttpContext http) =>
        {
            // As a mail program shows it: no script of a stranger's runs here.
            http.Response.Headers.ContentSecurityPolicy =
                "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:";
            return inboxes.Find(id) is { Html: { } html }
                ? Results.Content(html, "text/html; charset=utf-8")
                : Results.NotFound();
        });
        app.MapGet("/pillarpost", (Inboxes inboxes, string? inbox, MailDoor door) =>
            Paper.Page("Pillarpost", Screen(inboxes, inbox, door), refresh: "letters")
        );
    }

    private static string Screen(Inboxes inboxes, string? inbox, MailDoor door)
    {
        var all = inboxes.To(null);
        inbox ??= all.Count > 0 ? all[^1].To : null;
        var boxes = all.GroupBy(l => l.To, StringComparer.OrdinalIgnoreCase)
            .OrderByDescending(g => g.Max(l => l.Id))
            .Take(100)
            .Select(g =>
                $"<li><a href=\"/pillarpost?inbox={Uri.EscapeDataString(g.Key)}\"{(g.Key == inbox ? " aria-current=\"page\"" : "")}>{Paper.Text(g.Key)}</a> <span>{g.Count()}</span></li>"
            );
        var letters = (inbox is null ? [] : inboxes.To(inbox))
            .Reverse()
            .Take(50)
            .Select(l =>
                $"<article><h2>{Paper.Text(l.Subject)} <time>{l.At:HH:mm:ss}</time></h2><p class=\"small\">from {Paper.Text(l.From)}{(l.Copies.Length > 0 ? ", copies to " + Paper.Text(l.Copies) : "")}{(l.ReplyTo.Length > 0 ? ", answers go to " + Paper.Text(l.ReplyTo) : "")}</p>{(l.Unsubscribe is null ? "" : $"<p><button type=\"button\" data-unsubscribe=\"{l.Id}\">unsubscribe</button></p>")}{string.Concat(l.Files.Select((f, i) => $"<p><a href=\"/api/pillarpost/letters/{l.Id}/files/{i}\">{Paper.Text(f.Name)}</a> <span class=\"small\">{f.Bytes.Length / 1024 + 1} kB</span></p>"))}<pre>{Linked(l.Text)}</pre>{(l.Html is null ? "" : $"<p class=\"small\"><a href=\"/pillarpost/letters/{l.Id}\">as a mail program shows it</a></p>")}<form data-answer=\"{l.Id}\"><label>Answer <input name=\"text\" autocomplete=\"off\" required></label> <button>Send</button></form></article>"
            );
        return $$"""
            <p><button type="button" id="scanner" aria-pressed="{{(
                inboxes.Scans ? "true" : "false"
            )}}">a scanner follows every link</button> <span class="small">The mail door is smtp://127.0.0.1:{{door.Port}}. Letters to nobody@… are refused; those to moved@… are taken, and come back.</span></p>
            <div class="two"><nav aria-label="Inboxes"><ul>{{string.Concat(
                boxes
            )}}</ul></nav><section id="letters" aria-live="polite"><h1>{{Paper.Text(
                inbox ?? "No letter has come yet."
            )}}</h1>{{string.Concat(letters)}}</section></div>
            <script>document.getElementById("scanner").addEventListener("click",async(e)=>{const on=e.target.getAttribute("aria-pressed")!=="true";const r=await fetch("/api/pillarpost/scanner?on="+on,{method:"PUT"});if(r.ok)e.target.setAttribute("aria-pressed",on)})
            document.addEventListener("click",async(e)=>{const id=e.target.dataset?.unsubscribe;if(!id)return;const r=await fetch("/api/pillarpost/letters/"+id+"/unsubscribe",{method:"POST"});e.target.textContent=r.ok?"unsubscribed":"it did not work";e.target.disabled=true})
            document.addEventListener("submit",async(e)=>{const id=e.target.dataset?.answer;if(!id)return;e.preventDefault();const text=e.target.elements.text.value;const r=await fetch("/api/pillarpost/letters/"+id+"/answer",{method:"POST",headers:{"content-type":"application/json"},body:JSON.stringify({text})});e.target.elements.text.value="";e.target.lastElementChild.textContent=r.ok?"Sent":"Nobody hears it"})</script>
            """;
    }

    private static string Linked(string text)
    {
        var safe = Paper.Text(text);
        foreach (var link in Inboxes.LinksIn(text).Distinct(StringComparer.Ordinal))
            safe = safe.Replace(
                Paper.Text(link),
                $"<a href=\"{Paper.Text(link)}\">{Paper.Text(link)}</a>",
                StringComparison.Ordinal
            );
        return safe;
    }
}

/// <summary>A letter that somebody writes of their own accord.</summary>
public sealed record LetterToWrite(string? From, string? To, string? Subject, string? Text);

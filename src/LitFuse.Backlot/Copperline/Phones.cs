using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Copperline;

/// <summary>Copperline's screen: phones one can hold, two at a time.</summary>
public static class Phones
{
    /// <summary>Maps it.</summary>
    public static void Map(WebApplication app)
    {
        app.MapPost(
                "/copperline",
                async (HttpContext http, Carrier carrier, Switchboard board, CancellationToken stop) =>
                {
                    var form = await http.Request.ReadFormAsync(stop);
                    var phone = form["phone"].ToString();
                    if (form["call"].ToString() is { Length: > 0 } call)
                    {
                        if (form["say"].ToString() is { Length: > 0 } say)
                            board.Talk(call, say);
                        else
                            board.Do(call, form["how"].ToString());
                    }
                    else if (form["text"].ToString() is { Length: > 0 } text)
                    {
                        await carrier.WriteAsync(phone, form["to"].ToString(), text, stop);
                    }

                    return Results.Redirect("/copperline" + Query(form["left"].ToString(), form["right"].ToString()));
                }
            )
            .DisableAntiforgery();
        app.MapGet("/copperline", (Carrier carrier, Switchboard board, string? phone, string? and) =>
            Paper.Page("Copperline", Screen(carrier, board, phone, and), refresh: ["phone", "and"])
        );
        app.MapGet("/copperline/recordings/{id}", (string id, Switchboard board) =>
            board.Find(id) is { Recording: not null } call
                ? Paper.Page(
                    "Copperline",
                    $"<h1>A recorded call, {call.At:HH:mm:ss}</h1><ol>{string.Concat(call.Lines.Select(l => $"<li>{Paper.Text(l)}</li>"))}</ol>"
                )
                : Results.NotFound()
        );
    }

    private static string Query(string? left, string? right) =>
        string.IsNullOrEmpty(left)
            ? ""
            : $"?phone={Uri.EscapeDataString(left)}"
                + (string.IsNullOrEmpty(right) ? "" : $"&and={Uri.EscapeDataString(right)}");

    private static string Screen(Carrier carrier, Switchboard board, string? phone, string? and)
    {
        // The phones of people: numbers that services write from are not among them.
        var (all, calls) = (carrier.To(null), board.CallsTo(null));
        var services = all.Where(m => m.IdempotencyKey is not null)
            .Select(m => m.From)
            .Concat(calls.Select(c => c.From))
            .ToHashSet(StringComparer.Ordinal);
        var numbers = all.SelectMany(m => new[] { (Number: m.From, m.At), (Number: m.To, m.At) })
            .Concat(calls.Select(c => (Number: c.To, c.At)))
            .Where(n => !services.Contains(n.Number));
        var known = numbers.GroupBy(n => n.Number).OrderByDescending(g => g.Max(n => n.At)).Take(60).ToList();
        var shown = phone ?? known.FirstOrDefault()?.Key;
        var live = calls.Where(c => c.Live).Select(c => c.To).ToHashSet(StringComparer.Ordinal);
        var phones = known.Select(g =>
            $"<li><a href=\"/copperline?phone={Uri.EscapeDataString(g.Key)}\"{(g.Key == shown ? " aria-current=\"page\"" : "")}>{Paper.Text(g.Key)}</a> <span>{g.Count()}{(live.Contains(g.Key) ? " · on a call" : "")}</span>{(shown is null || g.Key == shown ? "" : $" <a class=\"small\" href=\"/copperline{Query(shown, g.Key)}\">beside</a>")}</li>"
        );
        return $"<div class=\"two\"><nav aria-label=\"Phones\"><ul>{string.Concat(phones.DefaultIfEmpty("<li>No phone has had a text or a call yet.</li>"))}</ul></nav><div class=\"phones\">{One("phone", "answer", carrier, board, shown, shown, and)}{(and is null ? "<div id=\"and\"></div>" : One("and", "answer2", carrier, board, and, shown, and))}</div></div>";
    }

    private static string One(
        string id,
        string answer,
        Carrier carrier,
        Switchboard board,
        string? phone,
        string? left,
        string? right
    ) =>
        $"<section aria-label=\"The phone {Paper.Text(phone ?? "")}\"><div id=\"{id}\" aria-live=\"polite\"><h1>The phone {Paper.Text(phone ?? "")}</h1>{(phone is null ? "" : Handset(carrier, board, phone, left, right))}</div><div id=\"{answer}\">{(phone is null ? "" : Answer(carrier, phone, left, right))}</div></section>";

    private static string Hidden(string phone, string? left, string? right) =>
        $"<input type=\"hidden\" name=\"phone\" value=\"{Paper.Text(phone)}\"><input type=\"hidden\" name=\"left\" value=\"{Paper.Text(left ?? "")}\"><input type=\"hidden\" name=\"right\" value=\"{Paper.Text(right ?? "")}\">";

    private static string Handset(Carrier carrier, Switchboard board, string phone, string? left, string? right)
    {
        var calls = board.CallsTo(phone).TakeLast(5).Select(c => Call(c, Hidden(phone, left, right)));
        var texts = carrier
            .Of(phone)
            .TakeLast(50)
            .Select(m =>
                $"<article><h2>{(m.From == phone ? $"to {Paper.Text(m.To)}" : $"from {Paper.Text(m.From)}")} <time>{m.At:HH:mm:ss.fff}</time></h2><p>{Paper.Text(m.Text)}</p><p class=\"small\">{Paper.Text(m.Status)}{(m.DeliveredAt is { } d ? $" {d:HH:mm:ss.fff}" : "")}</p></article>"
            );
        return $"<div class=\"handset\">{string.Concat(texts.Concat(calls).DefaultIfEmpty("<p>Nothing yet.</p>"))}</div>";
    }

    private static string Call(PhoneCall call, string hidden)
    {
        string Form(string inside) =>
            $"<form method=\"post\" action=\"/copperline\">{hidden}<input type=\"hidden\" name=\"call\" value=\"{Paper.Text(call.Id)}\">{inside}</form>";
        string Button(string how, string label) => $"<button name=\"how\" value=\"{how}\">{label}</button> ";
        var lines = string.Concat(call.Lines.Select(l => $"<p>{Paper.Text(l)}</p>"));
        if (call.Status == "ringing")
            return $"<article><h2>RINGING: {Paper.Text(call.From)} <time>{call.At:HH:mm:ss}</time></h2>{(call.Tag is null ? $"<p>“{Paper.Text(call.Say)}”</p>" : "")}{Form(Button("answer", "Answer") + Button("decline", "Decline") + (call.Tag is null ? "" : Button("machine", "Let a machine answer")))}</article>";
        if (!call.Live)
            return $"<article><h2>call from {Paper.Text(call.From)} <time>{call.At:HH:mm:ss}</time></h2>{(call.Tag is null ? $"<p>“{Paper.Text(call.Say)}”</p>" : lines)}<p class=\"small\">{Paper.Text(call.Tag is null ? call.Status : $"over: {call.Why}")}</p></article>";
        var keys = call is { Keys: true, Status: "answered" }
            ? string.Concat("1234567890".Select(k => Button(k.ToString(), k.ToString())))
            : "";
        return $"<article><h2>{(call.Status == "joined" ? "TALKING" : "ON THE PHONE")}: {Paper.Text(call.From)} <time>{call.At:HH:mm:ss}</time></h2>{lines}{Form(keys + Button("end", "Hang up"))}{Form("<label>Say <input name=\"say\" autocomplete=\"off\"></label> <button>Say it</button>")}</article>";
    }

    private static string Answer(Carrier carrier, string phone, string? left, string? right)
    {
        var last = carrier.To(phone).LastOrDefault()?.From;
        return last is null
            ? ""
            : $"<form method=\"post\" action=\"/copperline\">{Hidden(phone, left, right)}<input type=\"hidden\" name=\"to\" value=\"{Paper.Text(last)}\"><label>Write back to {Paper.Text(last)}<br><textarea name=\"text\" rows=\"2\" cols=\"34\" required></textarea></label><br><button>Send</button></form>";
    }
}

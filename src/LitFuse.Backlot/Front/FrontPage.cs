using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Front;

/// <summary>The outside world on one page, with its row of switches.</summary>
public static class FrontPage
{
    private static readonly (string Key, string Does)[] Stand =
    [
        ("plaza", "is a social network with lead ads: <a href=\"/plaza\">its pages and forms</a>"),
        ("tradehall", "is a professional network with lead ads: <a href=\"/tradehall\">its ad accounts and forms</a>"),
        ("lanternfind", "is a search engine with form ads: <a href=\"/lanternfind\">its form ads</a>"),
        ("formbench", "is a form tool: <a href=\"/formbench\">its forms</a>"),
        ("pagewright", "hosts landing pages: <a href=\"/pagewright\">websites</a>"),
        ("ridgeboard", "is the team's chat: <a href=\"/ridgeboard\">channels and people</a>"),
        ("pillarpost", "carries mail: <a href=\"/pillarpost\">the inboxes</a>"),
        ("ledgerhouse", "keeps customer records: <a href=\"/ledgerhouse\">its contacts</a>"),
        ("gridlet", "keeps sheets: <a href=\"/gridlet\">its tabs</a>"),
        ("jobrack", "keeps tickets: <a href=\"/jobrack\">the rack</a>"),
        ("ringbarrow", "is a dialer: <a href=\"/ringbarrow\">its lists</a>"),
        ("namewell", "keeps address books and files: <a href=\"/namewell\">the books</a>"),
        ("earwick", "is a program of one's own: <a href=\"/earwick\">the events it heard</a>"),
        ("copperline", "carries texts: <a href=\"/copperline\">the phones</a>"),
    ];

    /// <summary>Maps it.</summary>
    public static void Map(WebApplication app) =>
        app.MapGet("/", (FaultBoard board) => Paper.Page("Everything", Body(board)));

    private static string Body(FaultBoard board)
    {
        var rows = Stand.Select(s =>
        {
            var fault = board.Of(s.Key);
            string Switch(string mode, bool on) =>
                $"<td><button type=\"button\" data-service=\"{s.Key}\" data-mode=\"{mode}\" aria-pressed=\"{(on ? "true" : "false")}\">{mode}</button></td>";
            return $"<tr><th scope=\"row\">{char.ToUpperInvariant(s.Key[0])}{s.Key[1..]}</th><td>{s.Does}</td>{Switch("down", fault.Down)}{Switch("slow", fault.Slow)}{Switch("error", fault.Error)}{Switch("repeat", fault.Repeat)}{Switch("half", fault.Half)}{Switch("busy", fault.Busy)}{(s.Key is "plaza" or "lanternfind" or "formbench" ? Switch("lose", fault.Lose) : "<td></td>")}</tr>";
        });
        return $$"""
            <h1>Stand-ins for the outside, and what is wrong with them</h1>
            <table><thead><tr><th>service</th><th>what it does</th><th colspan="7">switches</th></tr></thead><tbody>{{string.Concat(
                rows
            )}}</tbody></table>
            <p><button type="button" id="clear">Everything works again</button> <span id="said" role="status"></span></p>
            <p class="small">Slow means four seconds. Down breaks connections off. Repeat does everything twice; a caller's idempotency key should make that harmless. Half takes what it is given, then drops the connection. Busy asks callers to come back in two seconds. Lose forgets to tell of one in five.</p>
            <script>
            const said = document.getElementById("said");
            document.querySelectorAll("[data-service]").forEach((b) => b.addEventListener("click", async () => {
              const on = b.getAttribute("aria-pressed") !== "true";
              b.setAttribute("aria-pressed", on);
              const body = {};
              document.querySelectorAll(`[data-service="${b.dataset.service}"]`).forEach((o) => { body[o.dataset.mode] = o.getAttribute("aria-pressed") === "true"; });
              const answer = await fetch("/api/faults/" + b.dataset.service, { method: "PUT", headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
              said.textContent = answer.ok ? b.dataset.service + ": " + (Object.keys(body).filter((k) => body[k]).join(", ") || "works") : await answer.text();
            }));
            document.getElementById("clear").addEventListener("click", async () => {
              await fetch("/api/faults", { method: "DELETE" });
              document.querySelectorAll("[data-service]").forEach((b) => b.setAttribute("aria-pressed", "false"));
              said.textContent = "everything works";
            });
            </script>
            """;
    }
}

using System.Collections.Concurrent;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Pagewright;

/// <summary>Pages that people made by pasting HTML into them.</summary>
public sealed class PastedPages
{
    private readonly ConcurrentDictionary<string, (string Title, string Html)> pages = new(StringComparer.Ordinal);

    /// <summary>Names and titles.</summary>
    public IReadOnlyList<(string Slug, string Title)> All =>
        [.. pages.OrderBy(p => p.Key, StringComparer.Ordinal).Select(p => (p.Key, p.Value.Title))];

    /// <summary>Keeps a page; the same name is the same page.</summary>
    public string Keep(string title, string html)
    {
        var slug = string.Concat(title.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-'))
            .Trim('-');
        pages[slug] = (title, html);
        return slug;
    }

    /// <summary>A page, or <c>null</c>.</summary>
    public (string Title, string Html)? Find(string slug) => pages.TryGetValue(slug, out var page) ? page : null;
}

/// <summary>Websites with landing pages, as a business would have them made.</summary>
public static class PagewrightPages
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/pagewright", (PastedPages pages) => Paper.Page("Pagewright", Front(pages)));
        app.MapPost("/pagewright/pages", ([FromForm] string title, [FromForm] string html, PastedPages pages) =>
                Results.Redirect("/pagewright/pages/" + pages.Keep(title, html))
            )
            .DisableAntiforgery();
        app.MapGet("/pagewright/pages/{slug}", (string slug, PastedPages pages) =>
            pages.Find(slug) is var (title, html)
                ? Site(title, $"<h1>{Paper.Text(title)}</h1>{html}")
                : Results.NotFound()
        );
        app.MapGet("/pagewright/brackenwheel/book-a-test-ride", BookARide);
        app.MapGet("/pagewright/brackenwheel/thank-you", Thanks);
        app.MapGet("/pagewright/brackenwheel/privacy", () =>
            Site(
                "Privacy notice",
                "<h1>What we do with your answers</h1><p>We use them to get back to you about what you asked, and keep them for two years. Write to privacy@brackenwheel.example to have them erased.</p>"
            )
        );
        app.MapGet("/pagewright/brackenwheel/second-hand", (Grounds grounds) =>
            Site("Second-hand bikes", SecondHand(grounds))
        );
        app.MapGet("/pagewright/brackenwheel/visit-us", (Grounds grounds) =>
            Site("Visit the workshop", VisitUs(grounds))
        );
        app.MapPost("/pagewright/brackenwheel/visit-us", () =>
                Site(
                    "See you soon",
                    "<h1>See you soon.</h1><p>Your visit stands in our book.</p><p><a href=\"/pagewright/brackenwheel/visit-us\">Back to the page</a></p>"
                )
            )
            .DisableAntiforgery();
    }

    private static IResult BookARide(Grounds grounds, FaultBoard faults)
    {
        var form = BookATestRide
            .Snippet.Replace("http://127.0.0.1:5080", grounds.ServerUrl, StringComparison.Ordinal)
            .Replace("http://127.0.0.1:5090", grounds.Url, StringComparison.Ordinal);
        var html = $"""
            <h1>Load it. Ride it. Decide.</h1>
            <p>Forty minutes on a Brackenwheel cargo cycle, from your own depot, with your own parcels in the box. We bring the bike; you bring the hill.</p>
            {form}
            {(faults.Of("pagewright").Repeat ? SendTwice : "")}
            """;
        return Site("Book a test ride", html);
    }

    private static IResult Thanks()
    {
        const string html = """
            <h1>Thank you. Keep your phone near.</h1>
            <p>Somebody from the ride desk will be in touch in a few minutes, with a bike that fits your round.</p>
            <p><a href="/pagewright/brackenwheel/book-a-test-ride">Back to the page</a></p>
            """;
        return Site("Thank you", html);
    }

    // The page's own form, with names of its own, sent straight to us; it has a file, too.
    private static string SecondHand(Grounds grounds) =>
        $"""
            <h1>Second-hand bikes</h1><p>Ridden, mended, ready. Say what you look for.</p>
            <form action="{grounds.ServerUrl}/in/brackenwheel-second-hand" method="post" enctype="multipart/form-data">
            <p><label for="vorname">First name</label><input id="vorname" name="contact[first]" required></p><p><label for="nachname">Last name</label><input id="nachname" name="contact[last]" required></p>
            <p><label for="mail">Email</label><input id="mail" name="contact[mail]" type="email" required></p>
            <p><label for="want">What do you look for?</label><textarea id="want" name="wants"></textarea></p><p><label for="photo">A picture of your yard</label><input id="photo" name="yard" type="file"></p><p><button>Ask</button></p></form>
            """;

    // The page's own form, which goes to the page's own server; the script beside it captures a copy.
    private static string VisitUs(Grounds grounds) =>
        $"""
            <h1>Visit the workshop</h1><p>Any weekday, ten to four. Bring a load.</p>
            <form action="/pagewright/brackenwheel/visit-us" method="post" id="visit"><p><label for="who">Your name</label><input id="who" name="who" required></p><p><label for="mail">Email</label><input id="mail" name="mail" type="email" required></p>
            <p><label for="day">Which day?</label><select id="day" name="day"><option>Monday</option><option>Tuesday</option><option>Wednesday</option><option>Thursday</option><option>Friday</option></select></p>
            <p><label for="pass">A password for your booking</label><input id="pass" name="pass" type="password"></p><p><button>Book a visit</button></p></form>
            <p><label><input type="checkbox" onchange="litfuse.consent(this.checked)" style="width:auto"> You may recognise me when I come back.</label></p>
            <script src="{grounds.ServerUrl}/capture.js" data-key="brackenwheel-visit" defer></script>
            """;

    private static string Front(PastedPages pages) =>
        $"""
            <h1>Pagewright</h1><h2>Brackenwheel's website</h2><ul><li><a href="/pagewright/brackenwheel/book-a-test-ride">Book a test ride</a>: a form built in Lit Fuse</li><li><a href="/pagewright/brackenwheel/second-hand">Second-hand bikes</a>: the page's own form, sent to Lit Fuse</li>
            <li><a href="/pagewright/brackenwheel/visit-us?utm_source=gazette&amp;utm_campaign=open+weekdays">Visit the workshop</a>: the page's own form, captured by the script</li></ul>
            <h2>Pages made here</h2><ul>{string.Concat(
                pages.All.Select(p =>
                    $"<li><a href=\"/pagewright/pages/{p.Slug}\">{Paper.Text(p.Title)}</a></li>"
                ).DefaultIfEmpty("<li>None yet.</li>")
            )}</ul>
            <h2>Make a page</h2><form method="post" action="/pagewright/pages"><p><label>Title <input name="title" required></label></p><p><label>HTML<br><textarea name="html" rows="10" cols="80" required></textarea></label></p><p><button>Make it</button></p></form>
            """;

    // A page whose script sends everything twice, as some do.
    private const string SendTwice = """
        <script>document.querySelector("form").addEventListener("submit", (e) => { fetch(e.target.action, { method: "POST", body: new URLSearchParams(new FormData(e.target)), keepalive: true }); }, true);</script>
        """;

    private static IResult Site(string title, string body) =>
        Results.Content(
            $$$"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>{{{Paper.Text(
                title
            )}}} · Brackenwheel Cargo Cycles</title><link rel="icon" href="data:,">
            <style>body{margin:0;background:#F7F1E3;color:#2B2A26;font:18px/1.55 Georgia,"Liberation Serif",serif}header{background:#7A3B1E;color:#FFF8EA;padding:1rem 2rem;font-size:1.3rem}main{max-width:38rem;margin:2rem auto;padding:0 1.25rem}h1{font-size:2.1rem;line-height:1.15;margin:.5rem 0}
            label,legend{display:block;font-weight:bold;font-size:.95rem}input,select,textarea{font:inherit;width:100%;box-sizing:border-box;padding:.5rem;border:1px solid #8a7d66;background:#fff}input[type=checkbox],input[type=radio]{width:auto}fieldset{border:0;padding:0}form p{margin:.7rem 0}button{font:inherit;font-weight:bold;background:#7A3B1E;color:#FFF8EA;border:0;padding:.7rem 1.8rem;cursor:pointer}button:disabled{opacity:.6}a{color:#7A3B1E}</style></head>
            <body><header>Brackenwheel Cargo Cycles</header><main>{{{body}}}</main></body></html>
            """,
            "text/html; charset=utf-8"
        );
}

using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Pagewright;

/// <summary>Websites with landing pages, as a business would have them made.</summary>
public static class PagewrightPages
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/pagewright/brackenwheel/book-a-test-ride", (Grounds grounds, FaultBoard faults) => Site("Book a test ride", $"""
            <h1>Load it. Ride it. Decide.</h1>
            <p>Forty minutes on a Brackenwheel cargo cycle, from your own depot, with your own parcels in the box. We bring the bike; you bring the hill.</p>
            {BookATestRide.Snippet.Replace("http://127.0.0.1:5080", grounds.ServerUrl, StringComparison.Ordinal)}
            {(faults.Of("pagewright").Repeat ? SendTwice : "")}
            """));
        app.MapGet("/pagewright/brackenwheel/thank-you", () => Site("Thank you", """
            <h1>Thank you. Keep your phone near.</h1>
            <p>Somebody from the ride desk will be in touch in a few minutes, with a bike that fits your round.</p>
            <p><a href="/pagewright/brackenwheel/book-a-test-ride">Back to the page</a></p>
            """));
    }

    // A page whose script sends everything twice, as some do.
    private const string SendTwice = """
        <script>document.querySelector("form").addEventListener("submit", (e) => { fetch(e.target.action, { method: "POST", body: new URLSearchParams(new FormData(e.target)), keepalive: true }); }, true);</script>
        """;

    private static IResult Site(string title, string body) => Results.Content($$$"""
        <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>{{{title}}} · Brackenwheel Cargo Cycles</title><link rel="icon" href="data:,">
        <style>body{margin:0;background:#F7F1E3;color:#2B2A26;font:18px/1.55 Georgia,"Liberation Serif",serif}header{background:#7A3B1E;color:#FFF8EA;padding:1rem 2rem;font-size:1.3rem}main{max-width:38rem;margin:2rem auto;padding:0 1.25rem}h1{font-size:2.1rem;line-height:1.15;margin:.5rem 0}
        label{display:block;font-weight:bold;font-size:.95rem}input,select,textarea{font:inherit;width:100%;box-sizing:border-box;padding:.5rem;border:1px solid #8a7d66;background:#fff}form p{margin:.7rem 0}button{font:inherit;font-weight:bold;background:#7A3B1E;color:#FFF8EA;border:0;padding:.7rem 1.8rem;cursor:pointer}button:disabled{opacity:.6}a{color:#7A3B1E}</style></head>
        <body><header>Brackenwheel Cargo Cycles</header><main>{{{body}}}</main></body></html>
        """, "text/html; charset=utf-8");
}

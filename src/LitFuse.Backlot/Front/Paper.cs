using System.Net;

namespace LitFuse.Backlot.Front;

/// <summary>The Backlot's own plain look: unbleached paper and a typewriter.</summary>
public static class Paper
{
    /// <summary>Text made safe for HTML.</summary>
    public static string Text(string text) => WebUtility.HtmlEncode(text);

    /// <summary>
    /// A page of the Backlot. <paramref name="refresh"/> names the elements that are fetched anew each second, but not
    /// while somebody types in them; an empty <c>#answer</c> is, until there is something to answer.
    /// </summary>
    public static IResult Page(string title, string body, params string[] refresh)
    {
        // Only what is new here takes the place of what is shown: what a press changed on the page stays until then.
        var script =
            refresh.Length == 0
                ? ""
                : $$$"""
                    <script>(()=>{const all=[{{{string.Join(
                        ',',
                        refresh.Select(r => $"\"#{r}\"")
                    )}}},"nav[aria-label]:not(.top)","#answer:empty","#answer2:empty"],seen=new Map(all.map(s=>[s,document.querySelector(s)?.innerHTML]));
                    setInterval(async()=>{const r=await fetch(location.href).catch(()=>null);if(!r||!r.ok)return;const d=new DOMParser().parseFromString(await r.text(),"text/html");
                    for(const s of all){const a=document.querySelector(s),b=d.querySelector(s.replace(":empty",""));if(!a||!b||seen.get(s)===b.innerHTML)continue;
                    if(a.contains(document.activeElement)&&document.activeElement.matches("input,textarea")&&document.activeElement.value)continue;seen.set(s,b.innerHTML);a.innerHTML=b.innerHTML}},1000)})()</script>
                    """;
        var html = $$$"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>{{{Text(
                title
            )}}} · the Backlot</title><link rel="icon" href="data:,">
            <style>
            body{margin:0;background:#E9DFC9;color:#33291B;font:16px/1.5 "Courier New",Courier,"Liberation Mono",monospace}
            header{padding:.75rem 1.5rem;border-bottom:3px double #33291B;display:flex;gap:1.5rem;flex-wrap:wrap;align-items:baseline}
            header a{color:inherit} main{padding:1.5rem;max-width:70rem} h1{font-size:1.25rem;margin:0 0 1rem} h2{font-size:1rem;margin:0}
            ul{list-style:none;padding:0;margin:0} li{padding:.2rem 0} a{color:#33291B} a[aria-current]{font-weight:700;text-decoration-thickness:2px}
            .two{display:grid;grid-template-columns:minmax(12rem,18rem) minmax(0,1fr);gap:2rem;overflow-wrap:anywhere} article{border-bottom:1px dashed #7d6d54;padding:.6rem 0} pre{white-space:pre-wrap;margin:.25rem 0;font:inherit} time,.small{font-weight:400;font-size:.85rem;color:#5d4f39} .small{margin:0}
            .handset{border:2px solid #33291B;border-radius:1.2rem;padding:1rem 1.2rem;max-width:24rem;min-height:16rem;background:#F3ECDC} .blocks{display:grid;grid-template-columns:repeat(auto-fill,minmax(14rem,1fr));gap:.4rem 1.5rem;margin:.4rem 0} .blocks dt{font-size:.85rem;color:#5d4f39} .blocks dd{margin:0;font-weight:700} .phones{display:flex;gap:1.5rem;flex-wrap:wrap} .phones section{flex:1 1 18rem;max-width:24rem} .phones form{margin:.4rem 0} .handset p{margin:.25rem 0;white-space:pre-wrap}
            table{border-collapse:collapse} th,td{text-align:left;padding:.4rem 1rem .4rem 0;border-bottom:1px solid #b9aa8c} button,select,input,textarea{font:inherit;background:#F3ECDC;border:1px solid #33291B;color:inherit;padding:.35rem .6rem} button[aria-pressed=true]{background:#33291B;color:#F3ECDC}
            @media(max-width:700px){.two{grid-template-columns:minmax(0,1fr)}}
            </style></head><body><header><strong><a href="/">The Backlot</a></strong><a href="/plaza">Plaza</a><a href="/tradehall">Tradehall</a><a href="/lanternfind">Lanternfind</a><a href="/formbench">Formbench</a><a href="/pagewright">Pagewright</a><a href="/ridgeboard">Ridgeboard</a><a href="/copperline">Copperline</a><a href="/pillarpost">Pillarpost</a><a href="/ledgerhouse">Ledgerhouse</a><a href="/gridlet">Gridlet</a><a href="/jobrack">Jobrack</a><a href="/ringbarrow">Ringbarrow</a><a href="/namewell">Namewell</a><a href="/earwick">Earwick</a></header><main>{{{body}}}</main>{{{script}}}</body></html>
            """;
        return Results.Content(html, "text/html; charset=utf-8");
    }
}

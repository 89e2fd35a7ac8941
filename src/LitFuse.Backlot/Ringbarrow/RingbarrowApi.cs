using System.Text.Json;
using LitFuse.Backlot.Access;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Ringbarrow;

/// <summary>Ringbarrow's API and screens: dial lists, and outcomes that are told to whoever asked.</summary>
public static class RingbarrowApi
{
    private const string Service = "ringbarrow";

    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        var desk = new TokenDesk(
            Service,
            "Ringbarrow",
            "Brackenwheel ride desk",
            [("lists", "put people on dial lists"), ("outcomes", "tell how calls ended")],
            app.Services.GetRequiredService<Grounds>(),
            app.Services.GetRequiredService<TimeProvider>()
        );
        desk.Map(app);
        app.MapGet("/api/ringbarrow/lists", (HttpContext http) =>
            desk.Refusal(http, "lists") ?? Results.Ok(DialLists.All)
        );
        app.MapGet("/api/ringbarrow/fields", (HttpContext http) =>
            desk.Refusal(http, "lists") ?? Results.Ok(DialLists.Fields)
        );
        app.MapPut(
            "/api/ringbarrow/lists/{list}/entries/{ownId}",
            (
                string list,
                string ownId,
                EntryToPut put,
                HttpContext http,
                DialLists lists,
                Grounds grounds,
                FaultBoard faults
            ) =>
            {
                if (desk.Refusal(http, "lists") is { } refusal)
                    return refusal;
                var made = lists.Put(list, ownId, put);
                if (faults.Of(Service).Repeat)
                    lists.Put(list, ownId, put);
                return made.Entry is { } e
                    ? Results.Json(
                        new
                        {
                            e.Id,
                            Url = $"{grounds.Url}/ringbarrow#{e.Id}",
                            Created = made.Made,
                        },
                        statusCode: made.Made ? 201 : 200
                    )
                    : Results.Problem(made.Fault, statusCode: 422);
            }
        );
        app.MapDelete("/api/ringbarrow/entries/{id}", (string id, HttpContext http, DialLists lists) =>
            desk.Refusal(http, "lists")
            ?? (lists.Remove(id) ? Results.NoContent() : Results.Problem("There is no such entry.", statusCode: 404))
        );
        app.MapPut("/api/ringbarrow/hearers", (Hearer hearer, HttpContext http, DialLists lists) =>
        {
            if (desk.Refusal(http, "outcomes") is { } refusal)
                return refusal;
            lists.Hear(hearer);
            return Results.NoContent();
        });
        MapPages(app, desk);
    }

    private static void MapPages(WebApplication app, TokenDesk desk)
    {
        app.MapGet("/api/seen/ringbarrow/entries", (DialLists lists) => lists.Entries);
        app.MapGet("/ringbarrow", (DialLists lists) =>
            Paper.Page("Ringbarrow", All(lists), refresh: "entries:not(:focus-within)")
        );
        app.MapPost(
                "/ringbarrow/entries/{id}",
                (string id, [FromForm] IFormCollection given, DialLists lists, Caller caller, FaultBoard faults) =>
                {
                    if (
                        lists.Note(id, given["outcome"].ToString(), given["note"].ToString(), "Imke Sandoval")
                        is not { } noted
                    )
                        return Results.NotFound();
                    var body = JsonSerializer.SerializeToUtf8Bytes(
                        new
                        {
                            type = "outcome",
                            id = noted.Outcome.Id,
                            entry = noted.Entry.Id,
                            ownId = noted.Entry.OwnId,
                            outcome = noted.Outcome.Outcome,
                            note = noted.Outcome.Note,
                            by = noted.Outcome.By,
                            at = noted.Outcome.At,
                        },
                        JsonSerializerOptions.Web
                    );
                    foreach (var hearer in lists.Hearers)
                    {
                        var call = new Call(hearer.Url, noted.Outcome.Id, body, hearer.Secret);
                        caller.Tell(call);
                        if (faults.Of(Service).Repeat)
                            caller.Tell(call);
                    }

                    return Results.Redirect("/ringbarrow");
                }
            )
            .DisableAntiforgery();
    }

    private static string All(DialLists lists)
    {
        var options = string.Concat(DialLists.Outcomes.Select(o => $"<option value=\"{o.Key}\">{o.Words}</option>"));
        string Entry(DialEntry e)
        {
            var answers = string.Concat(
                e.Answers.Select(a =>
                    $"<li>{Paper.Text(DialLists.Fields.First(f => f.Key == a.Key).Name)}: {Paper.Text(a.Value)}</li>"
                )
            );
            var outcomes = string.Concat(
                e.Outcomes.Select(o =>
                    $"<li>{Paper.Text(DialLists.Outcomes.First(x => x.Key == o.Outcome).Words)}{(o.Note is null ? "" : ": " + Paper.Text(o.Note))}</li>"
                )
            );
            return $"""
                <article id="{e.Id}"><h3>{Paper.Text(e.Name)}</h3><p>{Paper.Text(
                    string.Join(" · ", e.Phones.Append(e.Email ?? "").Where(x => x.Length > 0))
                )}{(e.Tags.Count > 0 ? " · " + Paper.Text(string.Join(", ", e.Tags)) : "")}</p>
                <ul>{answers}</ul>{(e.Note is null ? "" : $"<pre>{Paper.Text(e.Note)}</pre>")}<ul>{outcomes}</ul>
                <form method="post" action="/ringbarrow/entries/{e.Id}"><p><label>It ended: <select name="outcome">{options}</select></label> <label>Note <input name="note"></label> <button>Note it</button></p></form></article>
                """;
        }

        var sections = DialLists
            .All.Select(l => (List: l, Entries: lists.Entries.Where(e => e.List == l.Key).Take(60).ToList()))
            .Select(l =>
                $"<h2>{Paper.Text(l.List.Name)}</h2>{string.Concat(l.Entries.Select(Entry).DefaultIfEmpty("<p>Nobody is on it.</p>"))}"
            );
        return $"<p><a href=\"/ringbarrow/tokens\">Tokens for programs</a></p><h1>Dial lists</h1><section id=\"entries\">{string.Concat(sections)}</section>";
    }
}

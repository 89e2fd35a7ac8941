using LitFuse.Backlot.Access;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Ledgerhouse;

/// <summary>Ledgerhouse's API and screens: contacts, deals, their fields.</summary>
public static class LedgerhouseApi
{
    private const string Service = "ledgerhouse";

    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        var desk = new TokenDesk(
            Service,
            "Ledgerhouse",
            "Brackenwheel Cargo Cycles",
            [("contacts", "read and write contacts"), ("deals", "read and write deals")],
            app.Services.GetRequiredService<Grounds>(),
            app.Services.GetRequiredService<TimeProvider>()
        );
        desk.Map(app);
        app.MapGet("/api/ledgerhouse/lists/{list}", (string list, string? pipeline, HttpContext http, Ledger ledger) =>
            desk.Refusal(http, list is "pipelines" or "stages" ? "deals" : "contacts")
            ?? list switch
            {
                "contact-fields" => Results.Ok(ledger.Fields),
                "people" => Results.Ok(Ledger.People),
                "types" => Results.Ok(Ledger.Types),
                "statuses" => Results.Ok(Ledger.Statuses),
                "mailing-lists" => Results.Ok(Ledger.Lists),
                "pipelines" => Results.Ok(Ledger.Pipelines.Select(p => new Named(p.Key, p.Name))),
                "stages" when Ledger.Pipelines.FirstOrDefault(p => p.Key == pipeline) is { } found => Results.Ok(
                    found.Stages
                ),
                _ => Results.Problem($"There is no list “{list}”.", statusCode: 404),
            }
        );
        MapRecords(app, desk);
    }

    private static void MapRecords(WebApplication app, TokenDesk desk)
    {
        app.MapPut(
            "/api/ledgerhouse/contacts",
            (string? match, ContactToPut put, HttpContext http, Ledger ledger, Grounds grounds, FaultBoard faults) =>
                desk.Refusal(http, "contacts") ?? Twice(faults, () =>
                {
                    var (contact, made, fault) = ledger.Put(put, match ?? "");
                    return contact is null
                        ? Results.Problem(fault, statusCode: 422)
                        : Results.Json(
                            new
                            {
                                contact.Id,
                                Url = $"{grounds.Url}/ledgerhouse/contacts/{contact.Id}",
                                Created = made,
                            },
                            statusCode: made ? 201 : 200
                        );
                })
        );
        app.MapPut(
            "/api/ledgerhouse/deals",
            (DealToPut put, HttpContext http, Ledger ledger, Grounds grounds, FaultBoard faults) =>
                desk.Refusal(http, "deals") ?? Twice(faults, () =>
                {
                    var (deal, made, fault) = ledger.Put(put);
                    return deal is null
                        ? Results.Problem(fault, statusCode: 422)
                        : Results.Json(
                            new
                            {
                                deal.Id,
                                Url = $"{grounds.Url}/ledgerhouse/contacts/{deal.ContactId}",
                                Created = made,
                            },
                            statusCode: made ? 201 : 200
                        );
                })
        );
        app.MapPut(
            "/api/ledgerhouse/contacts/{id}/lists",
            (string id, ListsToPut put, HttpContext http, Ledger ledger) =>
                desk.Refusal(http, "contacts")
                ?? (
                    ledger.OnLists(id, put) switch
                    {
                        (null, null) => Results.Problem("There is no such contact.", statusCode: 404),
                        (null, var fault) => Results.Problem(fault, statusCode: 422),
                        var (contact, _) => Results.Ok(new { contact.Id }),
                    }
                )
        );
        app.MapDelete("/api/ledgerhouse/{what}/{id}", (string what, string id, HttpContext http, Ledger ledger) =>
            desk.Refusal(http, what)
            ?? (ledger.Remove(id) ? Results.NoContent() : Results.Problem("There is no such record.", statusCode: 404))
        );
        MapPages(app, desk);
    }

    private static void MapPages(WebApplication app, TokenDesk desk)
    {
        app.MapGet("/api/seen/ledgerhouse/contacts", (Ledger ledger) => ledger.Contacts);
        app.MapGet("/api/seen/ledgerhouse/deals", (Ledger ledger) => ledger.Deals);
        app.MapGet("/ledgerhouse", (Ledger ledger) => Paper.Page("Ledgerhouse", All(ledger), refresh: "contacts"));
        app.MapGet("/ledgerhouse/contacts/{id}", (string id, Ledger ledger) =>
            ledger.Contacts.FirstOrDefault(c => c.Id == id) is { } contact
                ? Paper.Page("Ledgerhouse", One(contact, ledger))
                : Results.NotFound()
        );
        app.MapPost("/ledgerhouse/fields", ([FromForm] IFormCollection given, Ledger ledger) =>
            {
                var name = given["name"].ToString().Trim();
                var key = string.Concat(name.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : '_'));
                if (key.Length > 0)
                    ledger.Field(key, name, given["required"] == "on");
                return Results.Redirect("/ledgerhouse");
            })
            .DisableAntiforgery();
        MapHearers(app, desk);
    }

    private static void MapHearers(WebApplication app, TokenDesk desk)
    {
        app.MapPut("/api/ledgerhouse/hearers", (Calling.Hearer hearer, HttpContext http, Ledger ledger) =>
        {
            if (desk.Refusal(http, "contacts") is { } refusal)
                return refusal;
            ledger.Hearers[hearer.Url] = hearer;
            return Results.NoContent();
        });
        app.MapPost(
                "/ledgerhouse/contacts/{id}",
                (
                    string id,
                    [FromForm] IFormCollection given,
                    Ledger ledger,
                    Calling.Caller caller,
                    FaultBoard faults
                ) =>
                {
                    if (ledger.Stand(id, given["status"].ToString()) is not { } contact)
                        return Results.NotFound();
                    var news = $"{id}-{Guid.NewGuid():N}";
                    var body = System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(
                        new
                        {
                            type = "status",
                            id = news,
                            contact = id,
                            status = contact.Status,
                            at = app.Services.GetRequiredService<TimeProvider>().GetUtcNow(),
                        }
                    );
                    foreach (var hearer in ledger.Hearers.Values)
                    {
                        caller.Tell(new(hearer.Url, news, body, hearer.Secret));
                        if (faults.Of(Service).Repeat)
                            caller.Tell(new(hearer.Url, news, body, hearer.Secret));
                    }

                    return Results.Redirect($"/ledgerhouse/contacts/{id}");
                }
            )
            .DisableAntiforgery();
    }

    private static IResult Twice(FaultBoard faults, Func<IResult> act)
    {
        var first = act();
        return faults.Of(Service).Repeat ? act() : first;
    }

    private static string NameOf(Contact c) =>
        string.Join(
            ' ',
            new[] { c.Values.GetValueOrDefault("first_name"), c.Values.GetValueOrDefault("last_name") }.Where(n =>
                !string.IsNullOrEmpty(n)
            )
        );

    private static string All(Ledger ledger)
    {
        var rows = ledger
            .Contacts.Take(200)
            .Select(c =>
                $"<tr><td><a href=\"/ledgerhouse/contacts/{c.Id}\">{Paper.Text(NameOf(c))}</a></td><td>{Paper.Text(c.Values.GetValueOrDefault("email") ?? "")}</td><td>{Paper.Text(c.Status)}</td><td>{Paper.Text(c.Owner ?? "")}</td><td>{Paper.Text(string.Join(", ", c.Tags))}</td></tr>"
            );
        var fields = ledger.Fields.Select(f =>
            $"<li>{Paper.Text(f.Name)}{(f.Required ? " (must be filled)" : "")}</li>"
        );
        return $"""
            <p><a href="/ledgerhouse/tokens">Tokens for programs</a></p><h1>Contacts</h1>
            <div class="two"><nav aria-label="Fields"><h2>Their fields</h2><ul>{string.Concat(
                fields
            )}</ul><form method="post" action="/ledgerhouse/fields"><p><label>A new field<br><input name="name" required></label></p><p><label><input type="checkbox" name="required"> must be filled</label></p><button>Add it</button></form></nav>
            <section id="contacts"><table><thead><tr><th>who</th><th>email</th><th>status</th><th>owner</th><th>tags</th></tr></thead><tbody>{string.Concat(
                rows.DefaultIfEmpty("<tr><td colspan=\"5\">Nobody yet.</td></tr>")
            )}</tbody></table></section></div>
            """;
    }

    private static string One(Contact c, Ledger ledger)
    {
        var values = c.Values.Select(v =>
            $"<tr><th scope=\"row\">{Paper.Text(ledger.Fields.FirstOrDefault(f => f.Key == v.Key)?.Name ?? v.Key)}</th><td>{Paper.Text(v.Value)}</td></tr>"
        );
        string Line(string label, string? value) =>
            string.IsNullOrEmpty(value) ? "" : $"<tr><th scope=\"row\">{label}</th><td>{Paper.Text(value)}</td></tr>";
        var deals = ledger
            .Deals.Where(d => d.ContactId == c.Id)
            .Select(d =>
                $"<article><h2>{Paper.Text(d.Name)}</h2><p>{Paper.Text(d.Pipeline)}: {Paper.Text(d.Stage)}{(d.Value is { } v ? $", {v.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture)} {Paper.Text(d.Currency ?? "")}" : "")}{(d.Source is null ? "" : $", from {Paper.Text(d.Source)}")}</p></article>"
            );
        var options = Ledger.Statuses.Select(s =>
            $"<option value=\"{s.Key}\"{(s.Key == c.Status ? " selected" : "")}>{s.Name}</option>"
        );
        return $"""
            <p><a href="/ledgerhouse">All contacts</a></p><h1>{Paper.Text(NameOf(c))}</h1>
            <table><tbody>{string.Concat(values)}{Line("Type", c.Type)}{Line(
                "Owner",
                Ledger.People.FirstOrDefault(p => p.Key == c.Owner)?.Name
            )}{Line("Source", c.Source)}{Line("Captured by", c.CapturedBy)}{Line(
                "Tags",
                string.Join(", ", c.Tags)
            )}{Line("Lists", string.Join(", ", c.Lists))}{Line("Their id elsewhere", c.OwnId)}</tbody></table>
            <form method="post" action="/ledgerhouse/contacts/{c.Id}"><p><label>Status <select name="status">{string.Concat(
                options
            )}</select></label> <button>Set it</button></p></form>
            <h2>Notes</h2>{string.Concat(
                c.Notes.Select(n => $"<pre>{Paper.Text(n)}</pre>")
            )}<h2>Deals</h2>{string.Concat(deals)}
            """;
    }
}

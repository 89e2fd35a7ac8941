using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using LitFuse.Backlot.Adverts;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Plaza;

/// <summary>A lead as Plaza keeps it.</summary>
public sealed record PlazaLead(
    string Lead,
    string Form,
    string Page,
    DateTimeOffset Sent,
    int Edition,
    IReadOnlyDictionary<string, string> Answers,
    string Campaign,
    bool Test
);

/// <summary>
/// The social network: pages with lead ads. It tells who listens that there is a lead, and gives the answers for a
/// token.
/// </summary>
public sealed class PlazaNetwork
{
    private readonly ConcurrentDictionary<string, PlazaLead> leads = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, (string Address, string Secret)> listeners = new(
        StringComparer.Ordinal
    );
    private readonly TimeProvider time;
    private readonly Caller caller;
    private readonly FaultBoard faults;
    private const int MostListed = 200;
    private int count;

    /// <summary>Makes it, with its forms.</summary>
    public PlazaNetwork(TimeProvider time, Caller caller, FaultBoard faults, Grounds grounds)
    {
        (this.time, this.caller, this.faults) = (time, caller, faults);
        Forms = new(
            [
                new("pp-brackenwheel", "Brackenwheel Cargo Cycles"),
                new("pp-hollin-vane", "Hollin Vane Acoustics"),
                new("pp-tarn-valley", "Tarn Valley Marquees"),
            ],
            [
                new(
                    "pf-brackenwheel-ride",
                    "pp-brackenwheel",
                    "Test ride",
                    "Depots, spring",
                    "running",
                    false,
                    AskedEverywhere.Bikes,
                    AskedEverywhere.Tracked("plaza", "Depots, spring")
                ),
                new(
                    "pf-brackenwheel-winter",
                    "pp-brackenwheel",
                    "Winter test ride",
                    "Depots, winter",
                    "waiting",
                    false,
                    AskedEverywhere.Bikes,
                    AskedEverywhere.Tracked("plaza", "Depots, winter")
                ),
                new(
                    "pf-tarn-valley-date",
                    "pp-tarn-valley",
                    "Is your date free?",
                    "Summer parties",
                    "running",
                    false,
                    AskedEverywhere.Dates,
                    AskedEverywhere.Tracked("plaza", "Summer parties")
                ),
            ],
            "pf"
        );
        Access = new(
            "plaza",
            "Plaza",
            "page",
            [
                ("pages.see", "see your pages"),
                ("forms.read", "read your forms"),
                ("answers.read", "read what people answered"),
                ("notices.send", "be told when somebody answers"),
            ],
            Forms,
            grounds,
            time
        );
    }

    /// <summary>Its forms.</summary>
    public AdForms Forms { get; }

    /// <summary>Who was let in.</summary>
    public AccessBook Access { get; }

    /// <summary>Takes what a person sent, or sent again as <paramref name="lead"/>, and tells who listens.</summary>
    public PlazaLead Take(
        AdForm form,
        IReadOnlyDictionary<string, string> answers,
        string? lead = null,
        bool test = false
    )
    {
        var id = lead
            ?? string.Create(
                CultureInfo.InvariantCulture,
                $"pl-{Interlocked.Increment(ref count):000000}-{time.GetUtcNow().ToUnixTimeMilliseconds() % 100000:00000}"
            );
        var before = leads.GetValueOrDefault(id);
        var kept = leads[id] = new(
            id,
            form.Id,
            form.PlaceId,
            before?.Sent ?? time.GetUtcNow(),
            (before?.Edition ?? 0) + 1,
            answers,
            form.Campaign,
            test
        );
        if (listeners.TryGetValue(form.PlaceId, out var listener))
        {
            var body = JsonSerializer.SerializeToUtf8Bytes(
                new
                {
                    what = before is null ? "lead" : "lead-edited",
                    page = form.PlaceId,
                    form = form.Id,
                    lead = id,
                }
            );
            for (var times = faults.TimesTold("plaza"); times > 0; times--)
                caller.Tell(new(listener.Address, $"{id}-{kept.Edition}", body, listener.Secret));
        }

        return kept;
    }

    /// <summary>Leads, newest first.</summary>
    public IReadOnlyList<PlazaLead> Leads => [.. leads.Values.OrderByDescending(l => l.Sent)];

    /// <summary>Maps its screens and its API.</summary>
    public static void Map(WebApplication app)
    {
        var plaza = app.Services.GetRequiredService<PlazaNetwork>();
        new FormDesk("plaza", "Plaza", "page", plaza.Forms, (form, answers) =>
        {
            plaza.Take(form, answers);
            return null;
        }).Map(app, "<p><a href=\"/plaza/access\">Who was let in</a></p>");
        plaza.Access.Map(app);
        app.MapPost("/plaza/leads/{id}/again", (string id, Dictionary<string, string> changed) =>
            plaza.leads.TryGetValue(id, out var lead) && plaza.Forms.Find(lead.Form) is { } form
                ? Results.Ok(
                    plaza.Take(
                        form,
                        lead.Answers.Concat(changed)
                            .GroupBy(a => a.Key, StringComparer.Ordinal)
                            .ToDictionary(g => g.Key, g => g.Last().Value, StringComparer.Ordinal),
                        id
                    )
                )
                : Results.NotFound()
        );
        app.MapGet("/plaza/leads", () => plaza.Leads);
        plaza.MapApi(app);
    }

    private void MapApi(WebApplication app)
    {
        app.MapGet("/api/plaza/me", (HttpContext http) => Access.Check(http, null) is ({ } granted, _)
                ? Results.Json(
                    new
                    {
                        name = AccessBook.Account,
                        permissions = granted.Permissions,
                        until = granted.Until?.UtcDateTime,
                    }
                )
                : Access.Check(http, null).Refusal);
        app.MapGet("/api/plaza/pages", (HttpContext http) =>
            Access.Check(http, "pages.see") is ({ } granted, _)
                ? Results.Json(
                    new
                    {
                        pages = Forms
                            .Places.Where(p => granted.Places.Contains(p.Id))
                            .Select(p => new { page = p.Id, name = p.Name }),
                    }
                )
                : Access.Check(http, "pages.see").Refusal
        );
        app.MapGet("/api/plaza/pages/{page}/forms", (string page, HttpContext http) =>
        {
            if (Access.Check(http, "forms.read") is not ({ } granted, _))
                return Access.Check(http, "forms.read").Refusal;
            if (!granted.Places.Contains(page))
                return Results.Problem("That page was not given.", statusCode: 404);
            return Results.Json(
                new
                {
                    forms = Forms
                        .Of(page)
                        .Select(f => new
                        {
                            form = f.Id,
                            name = f.Title,
                            ad = f.Ad,
                            archived = f.Archived,
                            asks = f.Asks,
                        }),
                }
            );
        });
        app.MapPost("/api/plaza/pages/{page}/listener", (string page, PlazaListener listener, HttpContext http) =>
        {
            if (Access.Check(http, "notices.send") is not ({ } granted, _))
                return Access.Check(http, "notices.send").Refusal;
            if (!granted.Places.Contains(page))
                return Results.Problem("That page was not given.", statusCode: 404);
            listeners[page] = (listener.Address, listener.Secret);
            return Results.NoContent();
        });
        MapLeads(app);
    }

    private void MapLeads(WebApplication app)
    {
        // Its own list of a form's leads: whether anybody was told of them or not.
        app.MapGet("/api/plaza/forms/{form}/leads", (string form, string? since, string? after, HttpContext http) =>
        {
            if (Access.Check(http, "answers.read") is not ({ } granted, _))
                return Access.Check(http, "answers.read").Refusal;
            if (Forms.Find(form) is not { } found || !granted.Places.Contains(found.PlaceId))
                return Results.Problem("There is no such form.", statusCode: 404);
            var from = DateTimeOffset.TryParse(
                since,
                CultureInfo.InvariantCulture,
                DateTimeStyles.AssumeUniversal,
                out var at
            )
                ? at
                : DateTimeOffset.MinValue;
            var listed = leads
                .Values.Where(l => l.Form == form && l.Sent >= from)
                .OrderBy(l => l.Sent)
                .ThenBy(l => l.Lead, StringComparer.Ordinal)
                .ToList();
            var skip = string.IsNullOrEmpty(after) ? 0 : listed.FindIndex(l => l.Lead == after) + 1;
            var page = listed.Skip(skip).Take(MostListed).ToList();
            return Results.Json(
                new
                {
                    leads = page.Select(l => new
                    {
                        lead = l.Lead,
                        sent = l.Sent.UtcDateTime,
                        test = l.Test,
                    }),
                    more = skip + page.Count < listed.Count,
                }
            );
        });
        MapLead(app);
    }

    private void MapLead(WebApplication app)
    {
        app.MapPost("/api/plaza/forms/{form}/test-lead", (string form, HttpContext http) =>
        {
            if (Access.Check(http, "answers.read") is not ({ } granted, _))
                return Access.Check(http, "answers.read").Refusal;
            if (Forms.Find(form) is not { } found || !granted.Places.Contains(found.PlaceId))
                return Results.Problem("There is no such form.", statusCode: 404);
            if (found.Archived)
                return Results.Problem("The form is archived.", statusCode: 422);
            return Results.Json(
                new { lead = Take(found, found.TestAnswers(Volatile.Read(ref count)), test: true).Lead }
            );
        });
        app.MapGet("/api/plaza/leads/{id}", (string id, HttpContext http) =>
        {
            if (Access.Check(http, "answers.read") is not ({ } granted, _))
                return Access.Check(http, "answers.read").Refusal;
            if (!leads.TryGetValue(id, out var lead) || !granted.Places.Contains(lead.Page))
                return Results.Problem("There is no such lead.", statusCode: 404);
            return Results.Json(
                new
                {
                    lead = lead.Lead,
                    form = lead.Form,
                    page = lead.Page,
                    sent = lead.Sent.UtcDateTime,
                    edition = lead.Edition,
                    test = lead.Test,
                    answers = lead.Answers.Select(a => new { ask = a.Key, said = new[] { a.Value } }),
                    ad = new { campaign = lead.Campaign, name = "Hill, rain, no sweat" },
                }
            );
        });
    }

    private sealed record PlazaListener(string Address, string Secret);
}

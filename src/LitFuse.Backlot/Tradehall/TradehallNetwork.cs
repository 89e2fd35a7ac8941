using System.Globalization;
using LitFuse.Backlot.Adverts;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Tradehall;

/// <summary>A response as Tradehall keeps it.</summary>
public sealed record HallResponse(
    int Number,
    AdForm Form,
    DateTimeOffset SubmittedAt,
    DateTimeOffset ShownAt,
    IReadOnlyDictionary<string, string> Answers,
    bool Trial
);

/// <summary>The professional network: it shows responses minutes late, to who asks.</summary>
public sealed class TradehallNetwork
{
    private static readonly HashSet<string> Profile = new(StringComparer.Ordinal)
    {
        "full_name",
        "first_name",
        "last_name",
        "email",
        "phone",
        "company",
    };
    private readonly Lock turn = new();
    private readonly List<HallResponse> responses = [];
    private readonly TimeProvider time;

    /// <summary>Makes it, with its forms.</summary>
    public TradehallNetwork(TimeProvider time, Grounds grounds)
    {
        this.time = time;
        Forms = new(
            [
                new("ta-brackenwheel", "Brackenwheel, fleets"),
                new("ta-brackenwheel-city", "Brackenwheel, city councils"),
                new("ta-hollin-vane", "Hollin Vane, workplaces"),
            ],
            [
                new(
                    "tf-brackenwheel-fleet",
                    "ta-brackenwheel",
                    "Fleet enquiry",
                    "Operations managers",
                    "running",
                    false,
                    AskedEverywhere.Bikes,
                    AskedEverywhere.Tracked("tradehall", "Operations managers")
                ),
                new(
                    "tf-brackenwheel-open-day",
                    "ta-brackenwheel-city",
                    "Open day at the depot",
                    "Open day",
                    "running",
                    false,
                    [.. AskedEverywhere.People, AskedEverywhere.Bikes[4]],
                    AskedEverywhere.Tracked("tradehall", "Open day"),
                    "Open day at the depot"
                ),
                new(
                    "tf-hollin-vane-quote",
                    "ta-hollin-vane",
                    "Quote for booths",
                    "Workplace leads",
                    "running",
                    false,
                    AskedEverywhere.Booths,
                    AskedEverywhere.Tracked("tradehall", "Workplace leads")
                ),
            ],
            "tf"
        );
        Access = new(
            "tradehall",
            "Tradehall",
            "ad account",
            [
                ("accounts.see", "see your ad accounts"),
                ("forms.read", "read your forms"),
                ("responses.read", "read responses"),
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

    /// <summary>How late it shows a response.</summary>
    public TimeSpan Delay { get; set; } = TimeSpan.FromMinutes(2);

    /// <summary>Takes a response.</summary>
    public HallResponse Take(AdForm form, IReadOnlyDictionary<string, string> answers, bool trial = false)
    {
        lock (turn)
        {
            var now = time.GetUtcNow();
            var response = new HallResponse(responses.Count + 1, form, now, now + Delay, answers, trial);
            responses.Add(response);
            return response;
        }
    }

    /// <summary>Takes many that were sent a while ago, for trying what happens.</summary>
    public void TakeMany(AdForm form, int many)
    {
        lock (turn)
        {
            var now = time.GetUtcNow();
            for (var i = 0; i < many; i++)
            {
                var n = responses.Count + 1;
                var answers = new Dictionary<string, string>(StringComparer.Ordinal)
                {
                    ["full_name"] = "Maren Underhay",
                    ["email"] = string.Create(CultureInfo.InvariantCulture, $"maren.{n}@example.org"),
                    ["fleet_size"] = "4–9",
                    ["cargo"] = "food",
                };
                responses.Add(
                    new(n, form, now - TimeSpan.FromMinutes(5), now - TimeSpan.FromMinutes(1), answers, false)
                );
            }
        }
    }

    /// <summary>Maps its screens and its API.</summary>
    public static void Map(WebApplication app)
    {
        var hall = app.Services.GetRequiredService<TradehallNetwork>();
        // What the network knows of who is signed in stands in the form already.
        var profile = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["full_name"] = "Greer Ashdown",
            ["email"] = "greer.ashdown@example.org",
            ["company"] = "Ashdown Couriers",
        };
        new FormDesk(
            "tradehall",
            "Tradehall",
            "ad account",
            hall.Forms,
            (form, answers) =>
            {
                hall.Take(form, answers);
                return null;
            },
            Given: profile
        ).Map(
            app,
            """
            <p><a href="/tradehall/access">Who was let in</a></p><form method="post" action="/tradehall/delay"><p><label>Show responses after <input name="seconds" type="number" min="0" max="3600" value="120"> seconds</label> <button>Set</button></p></form>
            """
        );
        hall.Access.Map(app);
        app.MapPost("/tradehall/delay", ([FromForm] double seconds) =>
            {
                hall.Delay = TimeSpan.FromSeconds(seconds);
                return Paper.Page(
                    "Tradehall",
                    $"<p>Responses are shown after {seconds} seconds. <a href=\"/tradehall\">Back</a></p>"
                );
            })
            .DisableAntiforgery();
        app.MapPost("/tradehall/many/{form}/{many:int}", (string form, int many) =>
        {
            if (hall.Forms.Find(form) is not { } found)
                return Results.NotFound();
            hall.TakeMany(found, Math.Min(many, 100_000));
            return Results.NoContent();
        });
        hall.MapApi(app);
    }

    private void MapApi(WebApplication app)
    {
        app.MapGet("/api/tradehall/member", (HttpContext http) => Access.Check(http, null) is ({ } granted, _)
                ? Results.Json(
                    new
                    {
                        name = AccessBook.Account,
                        scopes = granted.Permissions,
                        validUntil = granted.Until?.UtcDateTime,
                    }
                )
                : Access.Check(http, null).Refusal);
        app.MapGet("/api/tradehall/accounts", (HttpContext http) =>
            Access.Check(http, "accounts.see") is ({ } granted, _)
                ? Results.Json(
                    new
                    {
                        accounts = Forms
                            .Places.Where(p => granted.Places.Contains(p.Id))
                            .Select(p => new { id = p.Id, title = p.Name }),
                    }
                )
                : Access.Check(http, "accounts.see").Refusal
        );
        app.MapGet("/api/tradehall/accounts/{account}/forms", (string account, HttpContext http) =>
        {
            if (Access.Check(http, "forms.read") is not ({ } granted, _))
                return Access.Check(http, "forms.read").Refusal;
            if (!granted.Places.Contains(account))
                return Results.Problem("That ad account was not given.", statusCode: 404);
            return Results.Json(
                new
                {
                    forms = Forms
                        .Of(account)
                        .Select(f => new
                        {
                            id = f.Id,
                            title = f.Title,
                            status = f.Ad,
                            retired = f.Archived,
                            profile = f.Asks.Where(a => Profile.Contains(a.Name)).Select(a => a.Name),
                            questions = f
                                .Asks.Where(a => !Profile.Contains(a.Name))
                                .Select(a => new
                                {
                                    key = a.Name,
                                    text = a.Words,
                                    needed = a.Must,
                                    options = a.Choices,
                                }),
                            hidden = f.Hidden.Keys,
                        }),
                }
            );
        });
        MapResponses(app);
    }

    private void MapResponses(WebApplication app)
    {
        // Its own list of one form's responses, as far as they are shown.
        app.MapGet(
            "/api/tradehall/forms/{form}/responses",
            (string form, string? since, int? skip, int? most, HttpContext http) =>
            {
                if (Access.Check(http, "responses.read") is not ({ } granted, _))
                    return Access.Check(http, "responses.read").Refusal;
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
                List<HallResponse> listed;
                lock (turn)
                    listed = responses
                        .Where(r => r.Form.Id == form && r.SubmittedAt >= from && r.ShownAt <= time.GetUtcNow())
                        .ToList();
                var page = listed.Skip(skip ?? 0).Take(Math.Clamp(most ?? 100, 1, 500)).ToList();
                return Results.Json(
                    new
                    {
                        responses = page.Select(Shape),
                        next = "",
                        more = (skip ?? 0) + page.Count < listed.Count,
                    }
                );
            }
        );
        MapTrial(app);
    }

    private void MapTrial(WebApplication app)
    {
        app.MapPost("/api/tradehall/forms/{form}/trial", (string form, HttpContext http) =>
        {
            if (Access.Check(http, "responses.read") is not ({ } granted, _))
                return Access.Check(http, "responses.read").Refusal;
            if (Forms.Find(form) is not { } found || !granted.Places.Contains(found.PlaceId))
                return Results.Problem("There is no such form.", statusCode: 404);
            if (found.Archived)
                return Results.Problem("The form is retired.", statusCode: 422);
            return Results.Json(
                new
                {
                    response = string.Create(
                        CultureInfo.InvariantCulture,
                        $"tr-{Take(found, found.TestAnswers(responses.Count), trial: true).Number:000000}"
                    ),
                }
            );
        });
        app.MapGet("/api/tradehall/responses", (string? after, int? most, string[]? account, HttpContext http) =>
        {
            if (Access.Check(http, "responses.read") is not ({ } granted, _))
                return Access.Check(http, "responses.read").Refusal;
            var asked = account is { Length: > 0 } ? account : [.. granted.Places];
            return Page(
                int.TryParse(after, out var number) ? number : 0,
                Math.Clamp(most ?? 100, 1, 500),
                [.. asked.Where(granted.Places.Contains)]
            );
        });
    }

    private IResult Page(int after, int most, IReadOnlyList<string> accounts)
    {
        List<HallResponse> page;
        lock (turn)
        {
            // Nothing behind one that is not shown yet: else it would be passed by.
            var now = time.GetUtcNow();
            page = responses.Skip(after).TakeWhile(r => r.ShownAt <= now).Take(most).ToList();
        }

        var next = page.Count == 0 ? after : page[^1].Number;
        return Results.Json(
            new
            {
                responses = page.Where(r => accounts.Contains(r.Form.PlaceId)).Select(Shape),
                next = next.ToString(CultureInfo.InvariantCulture),
                more = page.Count == most,
            }
        );
    }

    private static object Shape(HallResponse r) =>
        new
        {
            response = string.Create(CultureInfo.InvariantCulture, $"tr-{r.Number:000000}"),
            form = r.Form.Id,
            account = r.Form.PlaceId,
            submittedAt = r.SubmittedAt.UtcDateTime,
            trial = r.Trial,
            profile = r.Answers.Where(a => Profile.Contains(a.Key)).ToDictionary(StringComparer.Ordinal),
            questions = r.Answers.Where(a => !Profile.Contains(a.Key)).ToDictionary(StringComparer.Ordinal),
            hidden = r.Form.Hidden,
            @event = r.Form.Event is { } title ? new { title, starts = "2027-03-14" } : null,
        };
}

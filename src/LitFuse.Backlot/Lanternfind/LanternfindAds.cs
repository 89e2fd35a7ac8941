using System.Collections.Concurrent;
using System.Globalization;
using System.Text;
using System.Text.Json;
using LitFuse.Backlot.Adverts;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Lanternfind;

/// <summary>A submission as Lanternfind keeps it.</summary>
public sealed record LanternSubmission(
    string Id,
    AdForm Form,
    DateTimeOffset PressedAt,
    IReadOnlyDictionary<string, string> Answers,
    string Click
);

/// <summary>Where a form ad sends its answers on.</summary>
public sealed record SendOn(string Address, string Key);

/// <summary>The search engine: form ads that push all answers with a key, and a daily file.</summary>
public sealed class LanternfindAds
{
    private readonly ConcurrentDictionary<string, SendOn> sendOn = new(StringComparer.Ordinal);
    private readonly ConcurrentQueue<LanternSubmission> submissions = new();
    private readonly TimeProvider time;
    private readonly Caller caller;
    private readonly FaultBoard faults;
    private int count;

    /// <summary>Makes it, with its form ads and where they send.</summary>
    public LanternfindAds(TimeProvider time, Caller caller, FaultBoard faults, Grounds grounds)
    {
        (this.time, this.caller, this.faults) = (time, caller, faults);
        Forms = new(
            [new("la-brackenwheel", "Brackenwheel Cargo Cycles"), new("la-hollin-vane", "Hollin Vane Acoustics")],
            [
                new(
                    "lf-brackenwheel-lease",
                    "la-brackenwheel",
                    "Lease a cargo bike",
                    "cargo bike lease",
                    "running",
                    false,
                    AskedEverywhere.Bikes,
                    AskedEverywhere.Tracked("lanternfind", "cargo bike lease")
                ),
                new(
                    "lf-brackenwheel-repair",
                    "la-brackenwheel",
                    "Ask about repairs",
                    "cargo bike repair",
                    "waiting",
                    false,
                    AskedEverywhere.People,
                    AskedEverywhere.Tracked("lanternfind", "cargo bike repair")
                ),
                new(
                    "lf-hollin-vane-booths",
                    "la-hollin-vane",
                    "Soundproof booths",
                    "office booth",
                    "running",
                    false,
                    AskedEverywhere.Booths,
                    AskedEverywhere.Tracked("lanternfind", "office booth")
                ),
            ],
            "lf"
        );
        foreach (
            var (form, client) in new[]
            {
                ("lf-brackenwheel-lease", "brackenwheel"),
                ("lf-hollin-vane-booths", "hollin-vane"),
            }
        )
            sendOn[form] = new(
                $"{grounds.ServerUrl}/in/{client}-lanternfind",
                grounds.TokenOf(client + "-lanternfind")
            );
    }

    /// <summary>Its form ads.</summary>
    public AdForms Forms { get; }

    /// <summary>Takes what a person sent, and sends it on.</summary>
    public LanternSubmission Take(AdForm form, IReadOnlyDictionary<string, string> answers)
    {
        var n = Interlocked.Increment(ref count);
        var kept = new LanternSubmission(
            string.Create(
                CultureInfo.InvariantCulture,
                $"ls-{n:000000}-{time.GetUtcNow().ToUnixTimeMilliseconds() % 100000:00000}"
            ),
            form,
            time.GetUtcNow(),
            answers,
            string.Create(CultureInfo.InvariantCulture, $"lc{n:0000}")
        );
        submissions.Enqueue(kept);
        if (sendOn.TryGetValue(form.Id, out var to))
        {
            for (var times = faults.TimesTold("lanternfind"); times > 0; times--)
                caller.Tell(CallOf(to, kept, trial: false));
        }

        return kept;
    }

    /// <summary>Maps its screens and its file.</summary>
    public static void Map(WebApplication app)
    {
        var lantern = app.Services.GetRequiredService<LanternfindAds>();
        new FormDesk(
            "lanternfind",
            "Lanternfind",
            "account",
            lantern.Forms,
            (form, answers) =>
            {
                lantern.Take(form, answers);
                return null;
            },
            lantern.SendOnPart
        ).Map(app);
        app.MapPost("/lanternfind/send-on/{id}", (string id, [FromForm] string address, [FromForm] string key) =>
            {
                lantern.sendOn[id] = new(address.Trim(), key.Trim());
                return Results.Redirect($"/lanternfind/forms/{id}");
            })
            .DisableAntiforgery();
        app.MapPost("/lanternfind/try/{id}", async (string id, HttpContext http) =>
                await lantern.TryAsync(id, http.RequestAborted)
            )
            .DisableAntiforgery();
        app.MapGet("/lanternfind/file/{account}/{date}.csv", (string account, string date, HttpContext http) =>
            lantern.File(account, date, http, asked: true)
        );
        app.MapGet("/lanternfind/download/{account}/{date}.csv", (string account, string date, HttpContext http) =>
            lantern.File(account, date, http, asked: false)
        );
    }

    private string SendOnPart(AdForm form)
    {
        var to = sendOn.GetValueOrDefault(form.Id);
        var today = time.GetUtcNow().ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        return $"""
            <h2>Send answers on</h2><form method="post" action="/lanternfind/send-on/{form.Id}"><p><label>Address <input name="address" size="60" value="{Paper.Text(
                to?.Address ?? ""
            )}"></label></p><p><label>Key <input name="key" size="50" value="{Paper.Text(
                to?.Key ?? ""
            )}"></label></p><p><button>Save</button></p></form>
            {(
                to is null
                    ? ""
                    : $"<form method=\"post\" action=\"/lanternfind/try/{form.Id}\"><p><button>Try this address</button></p></form>"
            )}
            <p>Daily file: <a href="/lanternfind/download/{form.PlaceId}/{today}.csv">today, so far</a></p>
            """;
    }

    private async Task<IResult> TryAsync(string id, CancellationToken stop)
    {
        if (Forms.Find(id) is not { } form || !sendOn.TryGetValue(id, out var to))
            return Results.NotFound();
        var made = new LanternSubmission(
            string.Create(CultureInfo.InvariantCulture, $"trial-{Interlocked.Increment(ref count):000000}"),
            form,
            time.GetUtcNow(),
            form.TestAnswers(Volatile.Read(ref count)),
            "trial"
        );
        var (status, answer) = await caller.OnceAsync(CallOf(to, made, trial: true), stop);
        var said = status is >= 200 and < 300
            ? "<h1>The address took it</h1>"
            : $"<h1>The address refused it</h1><p>It answered {status}.</p>";
        return Paper.Page(
            "Lanternfind",
            $"{said}<pre>{Paper.Text(answer)}</pre><p><a href=\"/lanternfind/forms/{id}\">Back to the form</a></p>"
        );
    }

    private static Call CallOf(SendOn to, LanternSubmission s, bool trial) =>
        new(
            to.Address,
            s.Id,
            JsonSerializer.SerializeToUtf8Bytes(
                new
                {
                    submission = s.Id,
                    asset = s.Form.Id,
                    assetName = s.Form.Title,
                    pressedAt = s.PressedAt.UtcDateTime,
                    trial,
                    campaign = s.Form.Campaign,
                    click = s.Click,
                    columns = s
                        .Form.Asks.Where(a => s.Answers.ContainsKey(a.Name))
                        .Select(a => new
                        {
                            key = a.Name,
                            column = a.Words,
                            value = s.Answers[a.Name],
                        }),
                }
            ),
            null,
            to.Key.Length == 0 ? [] : [("Lantern-Key", to.Key)]
        );

    private IResult File(string account, string date, HttpContext http, bool asked)
    {
        // Programs show a key of one of the account's form ads; a person downloads it signed in.
        if (
            asked
            && !Forms
                .Of(account)
                .Any(f =>
                    sendOn.TryGetValue(f.Id, out var to) && http.Request.Headers.Authorization == "Bearer " + to.Key
                )
        )
            return Results.Problem("The key is not right.", statusCode: 401);
        var keys = Forms
            .Of(account)
            .SelectMany(f => f.Asks.Select(a => a.Name))
            .Distinct(StringComparer.Ordinal)
            .ToList();
        var csv = new StringBuilder(
            "submission,asset,asset_name,pressed_at,campaign,click," + string.Join(',', keys) + "\r\n"
        );
        foreach (
            var s in submissions.Where(s =>
                s.Form.PlaceId == account && s.PressedAt.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) == date
            )
        )
        {
            var cells = new[]
            {
                s.Id,
                s.Form.Id,
                s.Form.Title,
                s.PressedAt.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture),
                s.Form.Campaign,
                s.Click,
            }.Concat(keys.Select(k => s.Answers.GetValueOrDefault(k, "")));
            csv.AppendJoin(',', cells.Select(c => $"\"{c.Replace("\"", "\"\"", StringComparison.Ordinal)}\""))
                .Append("\r\n");
        }

        return Results.File(
            Encoding.UTF8.GetBytes(csv.ToString()),
            "text/csv; charset=utf-8",
            $"lanternfind-{date}.csv"
        );
    }
}

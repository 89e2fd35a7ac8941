using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using LitFuse.Backlot.Adverts;
using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Formbench;

/// <summary>What happens after sending: call an address, or send the visitor on.</summary>
/// <param name="WithAnswers">The visitor's address carries the answers; a person can forget to tick it.</param>
public sealed record AfterSending(string? CallAddress, string? Secret, string? SendOn, bool WithAnswers);

/// <summary>The form tool.</summary>
public sealed class FormbenchTool
{
    private readonly ConcurrentDictionary<string, AfterSending> after = new(StringComparer.Ordinal);
    private readonly TimeProvider time;
    private readonly Caller caller;
    private readonly FaultBoard faults;
    private int count;

    /// <summary>Makes it, with its forms and what happens after sending.</summary>
    public FormbenchTool(TimeProvider time, Caller caller, FaultBoard faults, Grounds grounds)
    {
        (this.time, this.caller, this.faults) = (time, caller, faults);
        var sheet = AskedEverywhere
            .People.Where(a => a.Name != "phone")
            .Append(AskedEverywhere.Bikes[4])
            .Append(new("carry", "choices", "What do you carry? Tick all.", false, AskedEverywhere.Bikes[5].Choices))
            .ToList();
        Forms = new(
            [new("fa-brackenwheel", "Brackenwheel Cargo Cycles")],
            [
                new(
                    "fb-brackenwheel-costs",
                    "fa-brackenwheel",
                    "Send me the running-cost sheet",
                    "Running costs",
                    "running",
                    false,
                    sheet,
                    AskedEverywhere.Tracked("newsletter", "Running costs")
                ),
                new(
                    "fb-brackenwheel-callback",
                    "fa-brackenwheel",
                    "Call me back",
                    "Call back",
                    "running",
                    false,
                    [.. AskedEverywhere.People.Take(3)],
                    new Dictionary<string, string>(StringComparer.Ordinal)
                ),
            ],
            "fb"
        );
        after["fb-brackenwheel-costs"] = new(
            $"{grounds.ServerUrl}/in/brackenwheel-formbench",
            grounds.TokenOf("brackenwheel-formbench"),
            null,
            true
        );
        after["fb-brackenwheel-callback"] = new(null, null, $"{grounds.ServerUrl}/through/brackenwheel-callback", true);
    }

    /// <summary>Its forms.</summary>
    public AdForms Forms { get; }

    /// <summary>Maps its screens.</summary>
    public static void Map(WebApplication app)
    {
        var bench = app.Services.GetRequiredService<FormbenchTool>();
        new FormDesk("formbench", "Formbench", "workspace", bench.Forms, bench.Take, bench.AfterPart).Map(app);
        app.MapPost("/formbench/after/{id}", (string id, [FromForm] IFormCollection given) =>
            {
                string? Said(string name) => given[name].ToString().Trim() is { Length: > 0 } said ? said : null;
                bench.after[id] = new(Said("call"), Said("secret"), Said("on"), given.ContainsKey("answers"));
                return Results.Redirect($"/formbench/forms/{id}");
            })
            .DisableAntiforgery();
    }

    /// <summary>Takes what a person sent.</summary>
    /// <returns>Where they go, where they are sent on.</returns>
    public string? Take(AdForm form, IReadOnlyDictionary<string, string> answers)
    {
        var then = after.GetValueOrDefault(form.Id);
        if (then?.CallAddress is { } address)
        {
            var id = string.Create(
                CultureInfo.InvariantCulture,
                $"fe-{Interlocked.Increment(ref count):000000}-{time.GetUtcNow().ToUnixTimeMilliseconds() % 100000:00000}"
            );
            for (var times = faults.TimesTold("formbench"); times > 0; times--)
                caller.Tell(new(address, id, BodyOf(id, form, answers), then.Secret));
        }

        if (then?.SendOn is not { } on)
            return null;
        var query = then.WithAnswers
            ? string.Join('&', answers.Select(a => $"{Uri.EscapeDataString(a.Key)}={Uri.EscapeDataString(a.Value)}"))
            : "";
        return query.Length == 0 ? on : on + (on.Contains('?', StringComparison.Ordinal) ? "&" : "?") + query;
    }

    private byte[] BodyOf(string id, AdForm form, IReadOnlyDictionary<string, string> answers) =>
        JsonSerializer.SerializeToUtf8Bytes(
            new
            {
                entry = id,
                form = new { id = form.Id, title = form.Title },
                finished = time.GetUtcNow().UtcDateTime,
                carried = form.Hidden,
                pages = new[]
                {
                    new
                    {
                        title = form.Title,
                        fields = form
                            .Asks.Where(a => answers.ContainsKey(a.Name))
                            .Select(a => new
                            {
                                @ref = a.Name,
                                label = a.Words,
                                type = a.Kind switch
                                {
                                    "full-name" => "name",
                                    "short" => "text",
                                    var k => k,
                                },
                                value = a.Kind == "choices" ? (object)answers[a.Name].Split(", ") : answers[a.Name],
                            }),
                    },
                },
            }
        );

    private string AfterPart(AdForm form)
    {
        var then = after.GetValueOrDefault(form.Id) ?? new(null, null, null, true);
        return $"""
            <h2>After sending</h2><form method="post" action="/formbench/after/{form.Id}"><p><label>Call this address <input name="call" size="60" value="{Paper.Text(
                then.CallAddress ?? ""
            )}"></label></p><p><label>Signing secret <input name="secret" size="50" value="{Paper.Text(
                then.Secret ?? ""
            )}"></label></p>
            <p><label>Send the visitor on to <input name="on" size="60" value="{Paper.Text(
                then.SendOn ?? ""
            )}"></label></p><p><label><input type="checkbox" name="answers"{(
                then.WithAnswers ? " checked" : ""
            )}> with the answers in the address</label></p><p><button>Save</button></p></form>
            """;
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Data;
using LitFuse.Server.Features.Continuity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// Lines judged, cut, mended, proved, compared with networks' own lists; what changes about forms; silence.
/// </summary>
public sealed class ContinuityTests(ContinuityTests.Place place) : IClassFixture<ContinuityTests.Place>
{
    public sealed class Place : World;

    private const string Ride = "pf-brackenwheel-ride";

    private static readonly Dictionary<string, string> Answers = new()
    {
        ["full_name"] = "Ottilie Marchbanks",
        ["email"] = "ottilie@example.com",
        ["phone"] = "0113 496 0077",
        ["fleet_size"] = "4–9",
        ["cargo"] = "food",
    };

    private static async Task<string> PlazaFormAsync(HttpClient noor) =>
        (await noor.GetFromJsonAsync<JsonElement>("/api/forms?client=brackenwheel"))
            .GetProperty("forms")
            .EnumerateArray()
            .First(f => f.Text("sourceKind") == "plaza" && f.Text("name") == "Test ride")
            .Text("id")!;

    private static Task<JsonElement> LineAsync(HttpClient noor, string form) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/line");

    private static async Task<JsonElement> UntilAsync(
        HttpClient noor,
        string form,
        Func<JsonElement, bool> holds,
        string what
    )
    {
        var whole = default(JsonElement);
        try
        {
            await World.EventuallyAsync(
                async () =>
                {
                    whole = await LineAsync(noor, form);
                    return whole.GetProperty("line") is { ValueKind: JsonValueKind.Object } line && holds(line);
                },
                what
            );
        }
        catch (Xunit.Sdk.XunitException e)
        {
            throw new Xunit.Sdk.XunitException($"{e.Message} The line was {whole}", e);
        }

        return whole;
    }

    private static bool Cut(JsonElement line, string cause) =>
        line.GetProperty("cuts").EnumerateArray().Any(c => c.Text("cause")!.Contains(cause, StringComparison.Ordinal));

    private static bool Holds(JsonElement line) => line.Text("state") is "whole" or "unproven";

    private Task FaultAsync(string service, string mode) =>
        place.Backlot.PutAsJsonAsync($"/api/faults/{service}", new { mode });

    private Task ChangeAsync(string path, params (string, string)[] fields) =>
        place.FillAsync(path, fields.ToDictionary(f => f.Item1, f => f.Item2));

    private static Task LookAsync(HttpClient noor, string form) => noor.PostAsync($"/api/forms/{form}/line/look", null);

    [Fact]
    public async Task A_cut_is_told_with_its_mend_kept_with_what_it_touched_and_mending_clears_it()
    {
        using var noor = await place.NoorAsync();
        var (_, form) = await World.MakeFormAsync(noor, "website", "Depot tours");
        var key = (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}")).GetProperty("form").Text("key")!;
        await place.SubmitAsync(new { full_name = "Ines Calloway", email = "ines.tours@example.com" }, key);
        var cut = (
            await UntilAsync(
                noor,
                form,
                l => Cut(l, "Nobody has confirmed the map, and 1 submission waits."),
                "the map's cut"
            )
        ).GetProperty("line");
        Assert.Equal("cut", cut.Text("state"));
        Assert.Equal("map", cut.GetProperty("cuts")[0].GetProperty("mend").Text("place"));
        // It stands on the Watch, and whoever can mend it is told.
        Assert.Contains(
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                .GetProperty("linesDown")
                .EnumerateArray(),
            l => l.Text("formId") == form
        );
        var notice = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>("/api/notices"))
                    .GetProperty("notices")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(n => n!.Value.Text("formId") == form),
            "the notice"
        );
        Assert.StartsWith("The line of “Depot tours” is cut:", notice.Text("words"), StringComparison.Ordinal);

        await place.SubmitAsync(new { full_name = "Jorun Ashdown", email = "jorun.tours@example.com" }, key);
        await UntilAsync(noor, form, l => Cut(l, "and 2 submissions wait."), "the other that waits");
        await World.ConfirmAsync(noor, form);
        var mended = await UntilAsync(noor, form, l => !Cut(l, "Nobody has confirmed the map"), "the mended map");
        // Behind it there was another: no fuse is lit by it.
        Assert.Equal(
            "No fuse is lit by it: nothing happens when somebody sends it.",
            mended.GetProperty("line").GetProperty("cuts")[0].Text("cause")
        );
        var past = mended
            .GetProperty("past")
            .EnumerateArray()
            .Single(p => p.Text("cause")!.StartsWith("Nobody has confirmed", StringComparison.Ordinal));
        Assert.NotNull(past.Text("to"));
        // With whom it touched: who came while it lasted is a lead by now.
        Assert.InRange(past.GetProperty("came").GetInt32(), 1, 2);
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form))
                    .GetProperty("past")
                    .EnumerateArray()
                    .Any(p => p.GetProperty("leads").EnumerateArray().Any(l => l.Text("name") == "Jorun Ashdown"))
                    ? (bool?)true
                    : null,
            "the lead that it touched"
        );
    }

    [Fact]
    public async Task A_line_that_could_not_be_written_is_judged_again_at_once_and_not_with_the_next_minute()
    {
        using var noor = await place.NoorAsync();
        var (_, form) = await World.MakeFormAsync(noor, "website", "Depot keys");
        var key = (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}")).GetProperty("form").Text("key")!;
        await place.SubmitAsync(new { full_name = "Ines Calloway", email = "ines.keys@example.com" }, key);
        await UntilAsync(noor, form, l => Cut(l, "and 1 submission waits."), "the first that waits");
        var id = Guid.Parse(form);
        await place.InsideAsync<bool>(async services =>
        {
            var db = services.GetRequiredService<AppDb>();
            await using var transaction = await db.Database.BeginTransactionAsync();
            await db.Database.ExecuteSqlAsync($"select 1 from form_watches where form_id = {id} for update");
            await place.SubmitAsync(new { full_name = "Jorun Ashdown", email = "jorun.keys@example.com" }, key);
            // Asked on a connection of its own: within one transaction what others do is seen as it was at first.
            await World.EventuallyAsync(
                async () =>
                    (
                        await place.InsideAsync(s =>
                            s.GetRequiredService<AppDb>()
                                .Database.SqlQuery<bool>(
                                    $"select pg_terminate_backend(pid) as \"Value\" from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock' and query like '%form_watches%'"
                                )
                                .ToListAsync()
                        )
                    ).Count > 0,
                "the line's connection broken off"
            );
            await transaction.CommitAsync();
            return true;
        });
        await UntilAsync(noor, form, l => Cut(l, "and 2 submissions wait."), "the other that waits");
    }

    [Fact]
    public async Task What_happens_at_the_network_and_at_services_cuts_the_line_and_its_end_mends_it()
    {
        using var noor = await place.NoorAsync();
        var form = await PlazaFormAsync(noor);
        await LookAsync(noor, form);
        await UntilAsync(noor, form, Holds, "a whole line");

        await ChangeAsync($"plaza/forms/{Ride}/ad", ("ad", "stopped"));
        await LookAsync(noor, form);
        var stopped = await UntilAsync(
            noor,
            form,
            l => Cut(l, "Its ad is stopped at Plaza: nobody is shown it."),
            "the stopped ad"
        );
        // Meant to rest, it raises no alarm; and it ends by itself when the ad runs again.
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PutAsJsonAsync($"/api/forms/{form}/line/rest", new { rests = true })).StatusCode
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                .GetProperty("linesDown")
                .EnumerateArray(),
            l => l.Text("formId") == form
        );
        await ChangeAsync($"plaza/forms/{Ride}/ad", ("ad", "running"));
        await LookAsync(noor, form);
        var running = await UntilAsync(noor, form, Holds, "the ad that runs");
        Assert.Null(running.GetProperty("line").Text("restsSince"));
        Assert.Equal("form", stopped.GetProperty("line").GetProperty("cuts")[0].Text("joint"));
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form))
                    .GetProperty("line")
                    .GetProperty("joints")
                    .EnumerateArray()
                    .Last()
                    .Text("words")
                    is "It was mended since a lead last went all the way."
                        or "It was mended since a test last went all the way."
                    ? (bool?)true
                    : null,
            "unproven after the mend"
        );

        var chat = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .First(c => c.Text("kind") == "ridgeboard")
            .Text("id");
        await noor.PostAsync($"/api/connections/{chat}/pause", null);
        var paused = await UntilAsync(noor, form, l => Cut(l, "Ridgeboard is paused"), "the paused chat");
        var mend = paused.GetProperty("line").GetProperty("cuts")[0].GetProperty("mend");
        Assert.Equal(("connection", chat), (mend.Text("place"), mend.Text("id")));
        // The same on every line through it, told once; and from the connection's side.
        var through = (await noor.GetFromJsonAsync<JsonElement>($"/api/lines?connection={chat}"))
            .GetProperty("lines")
            .EnumerateArray()
            .ToList();
        Assert.True(through.Count > 2 && through.TrueForAll(l => l.Text("state") == "cut"));
        await noor.PostAsync($"/api/connections/{chat}/resume", null);
        await UntilAsync(noor, form, Holds, "the resumed chat");

        // What is under way for the first time is no cut.
        await FaultAsync("ridgeboard", "slow");
        await place.FillAsync($"plaza/fill/{Ride}", new(Answers) { ["email"] = "ottilie.slow@example.com" });
        await World.EventuallyAsync(
            () =>
                place.InsideAsync(s =>
                    s.GetRequiredService<AppDb>()
                        .Deliveries.AnyAsync(d =>
                            d.Status == DeliveryStatus.Sending && d.ConnectionId == Guid.Parse(chat!)
                        )
                ),
            "a post under way"
        );
        var client = await place.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Forms.Where(f => f.Id == Guid.Parse(form))
                .Select(f => f.ClientId)
                .SingleAsync()
        );
        Assert.Null(
            (
                await place.InsideAsync(s =>
                    s.GetRequiredService<LineReader>().ConnectionsAsync(client, [Guid.Parse(chat!)], default)
                )
            )
                .Single()
                .Fault
        );
        await FaultAsync("ridgeboard", "none");
        await World.EventuallyAsync(
            async () =>
                !await place.InsideAsync(s =>
                    s.GetRequiredService<AppDb>()
                        .Deliveries.AnyAsync(d => d.EndedAt == null && d.ConnectionId == Guid.Parse(chat!))
                ),
            "everything gone"
        );

        await FaultAsync("ridgeboard", "error");
        await place.FillAsync($"plaza/fill/{Ride}", new(Answers) { ["email"] = "ottilie.down@example.com" });
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>("/api/leads?q=ottilie.down@example.com"))
                    .GetProperty("items")
                    .GetArrayLength() > 0
                    ? (bool?)true
                    : null,
            "the lead"
        );
        await World.EventuallyAsync(
            async () =>
            {
                await LookAsync(noor, form);
                return Cut((await LineAsync(noor, form)).GetProperty("line"), "Ridgeboard takes nothing: ")
                    ? (bool?)true
                    : null;
            },
            "the chat that fails"
        );
        await FaultAsync("ridgeboard", "none");
        await World.EventuallyAsync(
            async () =>
            {
                place.Time.Move(TimeSpan.FromSeconds(5));
                await LookAsync(noor, form);
                return Holds((await LineAsync(noor, form)).GetProperty("line")) ? (bool?)true : null;
            },
            "the chat that works again"
        );
    }

    [Fact]
    public async Task A_press_sends_a_marked_test_from_the_networks_own_end_and_follows_it()
    {
        using var noor = await place.NoorAsync();
        var form = await PlazaFormAsync(noor);
        var begun = await (
            await noor.PostAsJsonAsync($"/api/forms/{form}/proofs", new { from = "network", onlyMe = false })
        ).BodyAsync();
        Assert.Equal("sent", begun.GetProperty("joints")[0].Text("name"));
        var run = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs"))
                    .GetProperty("runs")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(r => r!.Value.Text("id") == begun.Text("id") && r.Value.Text("state") != "running"),
            "the proof"
        );
        Assert.True(run.Text("state") == "proved", run.ToString());
        Assert.Equal(
            ["sent", "Plaza", "on disk", "map", "fuse"],
            run.GetProperty("joints").EnumerateArray().Take(5).Select(j => j.Text("name"))
        );
        Assert.Contains(run.GetProperty("joints").EnumerateArray(), j =>
            j.Text("name") == "Ridgeboard" && j.Text("state") == "done"
        );
        Assert.True(
            run.GetProperty("networkSeconds").GetDouble() >= 0 && run.GetProperty("ourSeconds").GetDouble() > 0
        );
        var lead = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{run.Text("leadId")}");
        Assert.True(lead.GetProperty("lead").GetProperty("test").GetBoolean());
        // It may be whole by an earlier lead until it is judged with the test.
        await UntilAsync(
            noor,
            form,
            l =>
                l.Text("state") == "whole"
                && l.GetProperty("joints")
                    .EnumerateArray()
                    .Last()
                    .Text("words")!
                    .StartsWith("A test went all the way:", StringComparison.Ordinal),
            "a line proved by the test"
        );
    }

    [Fact]
    public async Task By_itself_a_form_is_proved_to_ones_own_addresses_daily()
    {
        using var noor = await place.NoorAsync();
        var form = await PlazaFormAsync(noor);
        await noor.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = (string?)null,
                email = (string?)null,
                person = (string?)null,
            }
        );
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await noor.PutAsJsonAsync(
                    $"/api/forms/{form}/proofs/plan",
                    new { afterMend = false, dailyAt = "07:30" }
                )
            ).StatusCode
        );
        await noor.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = "07700 900123",
                email = "noor.tests@quillonstreet.example",
                person = "tobias.renn",
            }
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await noor.PutAsJsonAsync(
                    $"/api/forms/{form}/proofs/plan",
                    new { afterMend = false, dailyAt = "half past" }
                )
            ).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.PutAsJsonAsync($"/api/forms/{form}/proofs/plan", new { afterMend = true, dailyAt = "07:30" })
            ).StatusCode
        );
        var plan = await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs");
        Assert.Equal("Noor Abernathy-Voss", plan.Text("for"));
        Assert.True(plan.GetProperty("afterMend").GetBoolean());
        place.Time.Move(TimeSpan.FromHours(20));
        var run = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs"))
                    .GetProperty("runs")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(r => r!.Value.Text("by") is null && r.Value.Text("state") != "running"),
            "the daily proof"
        );
        Assert.True(run.GetProperty("onlyMe").GetBoolean());
        Assert.NotNull((await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs")).Text("nextAt"));
        await noor.PutAsJsonAsync($"/api/forms/{form}/proofs/plan", new { afterMend = false, dailyAt = (string?)null });
        Assert.Null((await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs")).Text("nextAt"));
    }

    [Fact]
    public async Task A_proof_that_comes_to_a_halt_says_where()
    {
        using var noor = await place.NoorAsync();
        var (_, form) = await World.MakeFormAsync(noor, "website", "Halted tours", built: true);
        var begun = await (
            await noor.PostAsJsonAsync($"/api/forms/{form}/proofs", new { from = (string?)null, onlyMe = false })
        ).BodyAsync();
        Assert.Equal("here", begun.Text("from"));
        var run = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs"))
                    .GetProperty("runs")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(r => r!.Value.Text("state") == "halted"),
            "the halt"
        );
        Assert.Contains("At map: it stands as “waiting”", run.Text("because"), StringComparison.Ordinal);
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await noor.PostAsJsonAsync($"/api/forms/{form}/proofs", new { from = "network", onlyMe = false })
            ).StatusCode
        );
    }

    [Fact]
    public async Task A_mended_line_proves_itself_where_that_is_wanted_and_not_again_and_again()
    {
        using var noor = await place.NoorAsync();
        await noor.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = "07700 900123",
                email = "noor.tests@quillonstreet.example",
                person = "tobias.renn",
            }
        );
        var form = await World.FormIdAsync(noor, World.Form);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.PutAsJsonAsync(
                    $"/api/forms/{form}/proofs/plan",
                    new { afterMend = true, dailyAt = (string?)null }
                )
            ).StatusCode
        );
        async Task<List<JsonElement>> ByItselfAsync() =>
            [
                .. (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs"))
                    .GetProperty("runs")
                    .EnumerateArray()
                    .Where(r => r.Text("by") is null),
            ];
        async Task MendAsync()
        {
            await noor.PostAsync($"/api/forms/{form}/pause", null);
            await UntilAsync(noor, form, l => Cut(l, "The form is paused"), "the paused form");
            Assert.True((await noor.PostAsync($"/api/forms/{form}/resume", null)).IsSuccessStatusCode);
            await UntilAsync(noor, form, Holds, "the resumed form");
        }

        await MendAsync();
        await World.EventuallyAsync(
            async () =>
                (await ByItselfAsync()) is [{ } run]
                && run.Text("state") == "proved"
                && run.GetProperty("onlyMe").GetBoolean(),
            "the proof after the mend"
        );
        await UntilAsync(noor, form, l => l.Text("state") == "whole", "a line that is whole again");
        var lead = (await ByItselfAsync())[0].Text("leadId")!;
        Assert.True(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
                .GetProperty("lead")
                .GetProperty("test")
                .GetBoolean()
        );

        // Cut and mended again at once, it is proved again after a while; until then the Watch says that it is to be.
        async Task<bool> ToProveAsync() =>
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                .GetProperty("linesMended")
                .EnumerateArray()
                .Any(l => l.Text("formId") == form);
        Assert.False(await ToProveAsync());
        await MendAsync();
        await World.EventuallyAsync(ToProveAsync, "the line that is to be proved");
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/proofs")).Text("nextAt") is not null,
            "the moment of the next"
        );
        Assert.Single(await ByItselfAsync());
        place.Time.Move(TimeSpan.FromMinutes(16));
        await World.EventuallyAsync(async () => (await ByItselfAsync()).Count == 2, "the next proof");
    }

    [Fact]
    public async Task Visitors_who_are_sent_through_without_their_answers_are_a_cut()
    {
        using var noor = await place.NoorAsync();
        var form = await World.FormIdAsync(noor, "brackenwheel-callback");
        async Task VisitAsync(string query)
        {
            Assert.Equal(
                HttpStatusCode.SeeOther,
                (await place.Anyone.GetAsync("/through/brackenwheel-callback" + query)).StatusCode
            );
            place.Time.Move(TimeSpan.FromMilliseconds(5));
        }

        for (var n = 0; n < 5; n++)
            await VisitAsync("?full_name=&email=");
        async Task<JsonElement> LookedAsync(Func<JsonElement, bool> holds, string what) =>
            await World.EventuallyAsync(
                async () =>
                {
                    place.Time.Move(TimeSpan.FromSeconds(61));
                    return
                        (await LineAsync(noor, form)).GetProperty("line") is { ValueKind: JsonValueKind.Object } line
                        && holds(line)
                        ? (JsonElement?)line
                        : null;
                },
                what
            );
        var cut = (
            await LookedAsync(
                l => Cut(l, "Visitors are sent through without their answers: 5 of 5 this week."),
                "the cut"
            )
        )
            .GetProperty("cuts")
            .EnumerateArray()
            .Single(c => c.Text("joint") == "visits");
        Assert.Equal(("form", "ways"), (cut.GetProperty("mend").Text("place"), cut.GetProperty("mend").Text("part")));
        // With answers again, more often than not.
        for (var n = 0; n < 6; n++)
            await VisitAsync($"?full_name=Piers+Lovelace&email=piers.{n}@example.com");
        var mended = await LookedAsync(l => !Cut(l, "Visitors are sent through"), "the mended visits");
        Assert.Contains(mended.GetProperty("joints").EnumerateArray(), j =>
            j.Text("words") == "Visitors bring their answers."
        );
    }
}

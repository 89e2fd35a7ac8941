using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// What changes about forms is found and mended with one press; what networks never told of is fetched; silence is
/// said.
/// </summary>
public sealed class DriftAndListsTests(DriftAndListsTests.Place place) : IClassFixture<DriftAndListsTests.Place>
{
    public sealed class Place : World;

    private static Task<JsonElement> LineAsync(HttpClient noor, string form) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/line");

    private static async Task<JsonElement> SourceFormAsync(HttpClient noor, string kind, string name) =>
        (await noor.GetFromJsonAsync<JsonElement>("/api/forms?client=brackenwheel"))
            .GetProperty("forms")
            .EnumerateArray()
            .First(f => f.Text("sourceKind") == kind && f.Text("name") == name);

    [Fact]
    public async Task A_needed_field_that_is_renamed_is_found_what_lacks_it_waits_and_one_press_mends_it()
    {
        using var noor = await place.NoorAsync();
        for (var n = 0; n < 12; n++)
            await place.SubmitAsync(
                new Dictionary<string, string>
                {
                    ["first_name"] = "Ines",
                    ["last_name"] = "Calloway",
                    ["email"] = $"before.{n}@example.com",
                    ["phone"] = $"0113 496 01{n:00}",
                    ["fleet_size"] = "25+",
                    ["cargo"] = "food",
                }
            );
        var form = await World.FormIdAsync(noor, World.Form);
        Dictionary<string, string> Renamed(int n) =>
            new()
            {
                ["first_name"] = "Ines",
                ["last_name"] = "Calloway",
                ["email"] = $"after.{n}@example.com",
                ["mobile_number"] = $"0113 496 02{n:00}",
                ["fleet_size"] = "25+",
                ["cargo"] = "food",
            };
        for (var n = 0; n < 4; n++)
            await place.SubmitAsync(Renamed(n));
        var found = await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form))
                    .GetProperty("drift")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(d => d!.Value.Text("kind") == "renamed"),
            "the renamed field"
        );
        Assert.Equal("Map “mobile_number” to phone instead", found.Text("mend"));
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form))
                    .GetProperty("line")
                    .GetProperty("cuts")
                    .EnumerateArray()
                    .Any(c =>
                        c.Text("joint") == "fields"
                        && c.Text("cause")!.Contains("goes to their phone", StringComparison.Ordinal)
                    )
                    ? (bool?)true
                    : null,
            "the cut at the fields"
        );

        // From now on what lacks it is kept, and waits.
        await World.EventuallyAsync(
            async () =>
                await place.InsideAsync(async s =>
                    (await s.GetRequiredService<AppDb>().Forms.SingleAsync(f => f.Key == World.Form)).WaitsFor
                )
                    is [{ Field: "phone" }]
                    ? (bool?)true
                    : null,
            "the form that waits for the phone"
        );
        await place.SubmitAsync(Renamed(9));
        // Whom no step needs to reach by phone goes on at once.
        await place.SubmitAsync(new Dictionary<string, string>(Renamed(10)) { ["fleet_size"] = "4–9" });
        await World.FoundAsync(noor, "after.10@example.com");
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form)).GetProperty("line").GetProperty("waiting").GetInt32() == 1
                    ? (bool?)true
                    : null,
            "the one that waits"
        );

        var mended = await (
            await noor.PostAsJsonAsync($"/api/forms/{form}/drift", new { key = found.Text("key"), accept = false })
        ).BodyAsync();
        Assert.True(mended.TryGetProperty("released", out _), mended.ToString());
        Assert.Equal(1, mended.GetProperty("released").GetInt32());
        Assert.True(mended.GetProperty("mapVersion").GetInt32() > 1);
        var lead = await World.FoundAsync(noor, "after.9@example.com");
        Assert.Equal("+441134960209", lead.Text("phone"));
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form)).GetProperty("line").GetProperty("cuts").GetArrayLength() == 0
                    ? (bool?)true
                    : null,
            "the mended line"
        );
        // Nor is the field said to be empty in what came under its old name.
        await noor.PostAsync($"/api/forms/{form}/line/look", null);
        Assert.DoesNotContain(
            (await LineAsync(noor, form)).GetProperty("line").GetProperty("cuts").EnumerateArray(),
            c => c.Text("joint") == "fields"
        );
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await noor.PostAsJsonAsync($"/api/forms/{form}/drift", new { key = found.Text("key"), accept = false })
            ).StatusCode
        );
    }

    [Fact]
    public async Task Of_two_lost_fields_mending_one_lets_nothing_go_that_lacks_the_other()
    {
        using var noor = await place.NoorAsync();
        FuseDefinition Both(string lit) =>
            new()
            {
                Name = "Both ways",
                LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [lit] })],
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            new(
                                "text",
                                "text",
                                StepKinds.Text,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["words"] = "We have it." },
                                Hours: new(HoursKind.None)
                            ),
                            new(
                                "letter",
                                "letter",
                                StepKinds.Email,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["subject"] = "We have it", ["words"] = "Thank you." },
                                Hours: new(HoursKind.None)
                            ),
                        ]
                    ),
                ],
            };
        var (_, _, key, _) = await place.LitAsync(noor, Both);
        var form = await World.FormIdAsync(noor, key);
        for (var n = 0; n < 12; n++)
            await place.SubmitAsync(place.Person(), key);
        Dictionary<string, string> Renamed()
        {
            var person = place.Person();
            return new()
            {
                ["first_name"] = person["first_name"],
                ["last_name"] = person["last_name"],
                ["mobile_number"] = person["phone"],
                ["e_mail_address"] = person["email"],
                ["fleet_size"] = "4–9",
                ["cargo"] = "food",
            };
        }

        for (var n = 0; n < 5; n++)
            await place.SubmitAsync(Renamed(), key);
        Task<List<string>> WaitsAsync() =>
            place.InsideAsync(async s =>
                (await s.GetRequiredService<AppDb>().Forms.SingleAsync(f => f.Key == key))
                    .WaitsFor.Select(w => w.Field)
                    .Order()
                    .ToList()
            );
        await World.EventuallyAsync(
            async () => await WaitsAsync() is ["email", "phone"] ? (bool?)true : null,
            "the form that waits for both"
        );
        var kept = Renamed();
        await place.SubmitAsync(kept, key);
        Task<string?> WhyAsync() =>
            place.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Submissions.Where(x => x.FormId == Guid.Parse(form) && x.Status == SubmissionStatus.Waiting)
                    .Select(x => x.Reason)
                    .SingleOrDefaultAsync()
            );
        await World.EventuallyAsync(
            async () => await WhyAsync() is not null ? (bool?)true : null,
            "the one that waits"
        );

        async Task MendAsync(string field)
        {
            var found = await World.EventuallyAsync(
                async () =>
                    (await LineAsync(noor, form))
                        .GetProperty("drift")
                        .EnumerateArray()
                        .Cast<JsonElement?>()
                        .FirstOrDefault(d => d!.Value.Text("leadField") == field && d.Value.Text("kind") == "renamed"),
                $"{field}, renamed; drift is {(await LineAsync(noor, form)).GetProperty("drift")}"
            );
            Assert.Equal(
                HttpStatusCode.OK,
                (
                    await noor.PostAsJsonAsync(
                        $"/api/forms/{form}/drift",
                        new { key = found.Text("key"), accept = false }
                    )
                ).StatusCode
            );
        }

        await MendAsync("phone");
        await World.EventuallyAsync(
            async () => await WhyAsync() is "email does not come any more, and a step needs it" ? (bool?)true : null,
            "what waits for the email alone"
        );
        Assert.Equal(["email"], await WaitsAsync());
        await MendAsync("email");
        var lead = await World.FoundAsync(noor, kept["e_mail_address"]);
        Assert.Equal(World.E164(new() { ["phone"] = kept["mobile_number"] }), lead.Text("phone"));
        Assert.Null(await WhyAsync());
    }

    [Fact]
    public async Task Answers_that_are_no_choice_and_values_of_another_kind_are_found_and_mended_with_one_press()
    {
        using var noor = await place.NoorAsync();
        var (_, key) = await World.OwnFormAsync(noor);
        var form = await World.FormIdAsync(noor, key);
        Dictionary<string, string> Asking(int n, string fleet, string phone) =>
            new()
            {
                ["first_name"] = "Greer",
                ["last_name"] = "Ashdown",
                ["email"] = $"kinds.{n}@example.com",
                ["phone"] = phone,
                ["fleet_size"] = fleet,
            };
        await place.SubmitAsync(Asking(0, "25+", "0113 496 0300"), key);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, form)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, form);
        for (var n = 1; n < 13; n++)
            await place.SubmitAsync(Asking(n, "25+", $"0113 496 03{n:00}"), key);
        for (var n = 13; n < 18; n++)
            await place.SubmitAsync(Asking(n, "50+", "ring me"), key);

        async Task<JsonElement> FoundAsync(string kind) =>
            await World.EventuallyAsync(
                async () =>
                    (await LineAsync(noor, form))
                        .GetProperty("drift")
                        .EnumerateArray()
                        .Cast<JsonElement?>()
                        .FirstOrDefault(d => d!.Value.Text("kind") == kind),
                $"finding “{kind}”"
            );
        var choices = await FoundAsync("choices");
        Assert.Contains(
            "is answered with “50+”, which is no choice of",
            choices.Text("words"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await noor.PostAsJsonAsync(
                    $"/api/forms/{form}/drift",
                    new { key = choices.Text("key"), accept = false }
                )
            ).StatusCode
        );
        var fields = (await noor.GetFromJsonAsync<JsonElement>("/api/lead-fields?client=brackenwheel"))
            .GetProperty("fields")
            .EnumerateArray();
        Assert.Contains(
            "50+",
            fields
                .First(f => f.Text("key") == "fleet_size")
                .GetProperty("choices")
                .EnumerateArray()
                .Select(c => c.GetString())
        );

        var other = await FoundAsync("other-kind");
        Assert.Equal(("phone", "Take it out of the map"), (other.Text("field"), other.Text("mend")));
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await noor.PostAsJsonAsync($"/api/forms/{form}/drift", new { key = other.Text("key"), accept = false })
            ).StatusCode
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/map")).GetProperty("fields").EnumerateArray(),
            f => f.Text("leadField") == "phone"
        );
        Assert.DoesNotContain((await LineAsync(noor, form)).GetProperty("drift").EnumerateArray(), d =>
            d.Text("kind") is "choices" or "other-kind"
        );
    }

    [Fact]
    public async Task What_a_network_asks_anew_is_told_without_a_submission_and_can_be_right_as_it_is()
    {
        using var noor = await place.NoorAsync();
        var form = (await SourceFormAsync(noor, "tradehall", "Fleet enquiry")).Text("id")!;
        await place.FillAsync(
            "tradehall/forms/tf-brackenwheel-fleet/ask",
            new() { ["words"] = "How many hills?", ["choices"] = "" }
        );
        await noor.PostAsync($"/api/forms/{form}/line/look", null);
        var found = await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, form))
                    .GetProperty("drift")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(d => d!.Value.Text("kind") == "fresh"),
            "the new question"
        );
        Assert.Equal("It asks something new: “How many hills?”.", found.Text("words"));
        await noor.PostAsJsonAsync($"/api/forms/{form}/drift", new { key = found.Text("key"), accept = true });
        await noor.PostAsync($"/api/forms/{form}/line/look", null);
        Assert.Empty((await LineAsync(noor, form)).GetProperty("drift").EnumerateArray());
    }

    [Fact]
    public async Task A_network_that_loses_a_fifth_of_its_notices_is_compared_and_all_are_recovered_none_doubled()
    {
        using var noor = await place.NoorAsync();
        var row = await SourceFormAsync(noor, "plaza", "Test ride");
        var (form, source) = (Guid.Parse(row.Text("id")!), row.Text("sourceId")!);
        await place.Backlot.PutAsJsonAsync("/api/faults/plaza", new { mode = "lose" });
        for (var n = 0; n < 20; n++)
            await place.FillAsync(
                "plaza/fill/pf-brackenwheel-ride",
                new()
                {
                    ["full_name"] = "Wilfrid Ashgrove",
                    ["email"] = $"lost.{n}@example.com",
                    ["fleet_size"] = "4–9",
                    ["cargo"] = "food",
                }
            );
        Task<int> HereAsync() =>
            place.InsideAsync(s => s.GetRequiredService<AppDb>().Leads.CountAsync(l => l.Email!.StartsWith("lost.")));
        await World.EventuallyAsync(async () => await HereAsync() == 16 ? (bool?)true : null, "those it told of");
        await place.Backlot.PutAsJsonAsync("/api/faults/plaza", new { mode = "none" });

        // Two comparisons on schedule.
        place.Time.Move(TimeSpan.FromMinutes(6));
        place.Time.Move(TimeSpan.FromMinutes(6));
        await World.EventuallyAsync(async () => await HereAsync() == 20 ? (bool?)true : null, "all of them");
        var compared = await noor.PostAsync($"/api/sources/{source}/compare?days=1", null);
        Assert.Equal(
            (0, 0),
            (
                (await compared.BodyAsync()).GetProperty("recovered").GetInt32(),
                (await compared.BodyAsync()).GetProperty("missing").GetInt32()
            )
        );
        Assert.Equal(20, await HereAsync());
        Assert.Equal(
            20,
            await place.InsideAsync(async s =>
                (
                    await s.GetRequiredService<AppDb>()
                        .Submissions.Where(x => x.FormId == form && x.OwnId != null && !x.Test)
                        .Select(x => x.OwnId)
                        .ToListAsync()
                ).Count
            )
        );
        Assert.Equal(
            4,
            await place.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Submissions.CountAsync(x => x.FormId == form && x.Envelope!.Contains("\"recovered\""))
            )
        );
        var days = (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{source}/compared"))
            .GetProperty("days")
            .EnumerateArray()
            .Where(d => d.Text("formId") == form.ToString())
            .ToList();
        Assert.Equal(
            (20, 20, 4),
            (
                days.Sum(d => d.GetProperty("theirs").GetInt32()),
                days.Sum(d => d.GetProperty("ours").GetInt32()),
                days.Sum(d => d.GetProperty("recovered").GetInt32())
            )
        );
        // It says so in the story, with its true age.
        var recovered = await place.InsideAsync(async s =>
            (
                await s.GetRequiredService<AppDb>()
                    .Submissions.FirstAsync(x => x.FormId == form && x.Envelope!.Contains("\"recovered\""))
            ).LeadId
        );
        var story = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{recovered}"))
            .GetProperty("story")
            .EnumerateArray()
            .First(e => e.Text("kind") == "submitted");
        Assert.Contains("recovered: Plaza had it and told nobody", story.Text("words"), StringComparison.Ordinal);

        // The network's delay and our own are kept apart.
        var delays = (await noor.GetFromJsonAsync<JsonElement>($"/api/sources/{source}/delays"))
            .GetProperty("delays")
            .EnumerateArray()
            .ToList();
        Assert.True(
            delays[0].GetProperty("network").GetProperty("of").GetInt32() >= 16
                && delays[0].GetProperty("ours").GetProperty("p50").GetDouble() > 0
        );
    }

    [Fact]
    public async Task A_list_is_had_from_a_polled_network_and_from_a_daily_file_too()
    {
        using var noor = await place.NoorAsync();
        foreach (
            var (kind, name, fill) in new[]
            {
                ("tradehall", "Fleet enquiry", "tradehall/fill/tf-brackenwheel-fleet"),
                ("lanternfind", "Lease a cargo bike", "lanternfind/fill/lf-brackenwheel-lease"),
            }
        )
        {
            var source = (await SourceFormAsync(noor, kind, name)).Text("sourceId")!;
            var email = $"{kind}.listed@example.com";
            await place.FillAsync(
                fill,
                new()
                {
                    ["full_name"] = "Greer Ashdown",
                    ["email"] = email,
                    ["fleet_size"] = "4–9",
                    ["cargo"] = "food",
                }
            );
            place.Time.Move(TimeSpan.FromMinutes(4));
            await World.FoundAsync(noor, email);
            var compared = await World.EventuallyAsync(
                async () =>
                {
                    var answer = await (
                        await noor.PostAsync($"/api/sources/{source}/compare?days=1", null)
                    ).BodyAsync();
                    return answer.GetProperty("theirs").GetInt32() > 0 ? (JsonElement?)answer : null;
                },
                "its list"
            );
            Assert.Equal(
                (0, 0),
                (compared.GetProperty("recovered").GetInt32(), compared.GetProperty("missing").GetInt32())
            );
        }

        var page = (await SourceFormAsync(noor, "website", "Book a test ride")).Text("sourceId")!;
        Assert.Equal(HttpStatusCode.Conflict, (await noor.PostAsync($"/api/sources/{page}/compare", null)).StatusCode);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await noor.PostAsync(
                    $"/api/sources/{(await SourceFormAsync(noor, "plaza", "Test ride")).Text("sourceId")}/compare?days=400",
                    null
                )
            ).StatusCode
        );
    }

    [Fact]
    public async Task What_a_polled_network_would_have_shown_at_the_next_poll_is_not_called_recovered()
    {
        using var noor = await place.NoorAsync();
        var row = await SourceFormAsync(noor, "tradehall", "Fleet enquiry");
        place.Time.Move(TimeSpan.FromMinutes(4));
        using (var delay = new FormUrlEncodedContent(new Dictionary<string, string> { ["seconds"] = "0" }))
            await place.Backlot.PostAsync("/tradehall/delay", delay);
        await noor.PostAsync($"/api/sources/{row.Text("sourceId")}/refresh", null);
        await World.EventuallyAsync(
            async () =>
                await place.InsideAsync(s =>
                    s.GetRequiredService<AppDb>()
                        .Sources.AnyAsync(x => x.Id == Guid.Parse(row.Text("sourceId")!) && x.PollDueAt > place.Now)
                )
                    ? (bool?)true
                    : null,
            "the poll"
        );
        await place.FillAsync(
            "tradehall/fill/tf-brackenwheel-fleet",
            new()
            {
                ["full_name"] = "Maren Abara",
                ["email"] = "between@example.com",
                ["fleet_size"] = "4–9",
                ["cargo"] = "food",
            }
        );
        place.Time.Move(TimeSpan.FromSeconds(20));
        var compared = await (
            await noor.PostAsync($"/api/sources/{row.Text("sourceId")}/compare?days=1", null)
        ).BodyAsync();
        Assert.Equal(0, compared.GetProperty("recovered").GetInt32());
        await World.FoundAsync(noor, "between@example.com");
        var raw = await place.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Submissions.Where(x => x.FormId == Guid.Parse(row.Text("id")!))
                .OrderByDescending(x => x.Id)
                .Select(x => x.Envelope)
                .FirstAsync()
        );
        Assert.Contains("\"polled\"", raw, StringComparison.Ordinal);
        using var again = new FormUrlEncodedContent(new Dictionary<string, string> { ["seconds"] = "120" });
        await place.Backlot.PostAsync("/tradehall/delay", again);
    }

    [Fact]
    public async Task A_form_with_a_habit_that_falls_silent_is_said_to_and_a_lead_ends_it()
    {
        using var noor = await place.NoorAsync();
        var (_, id) = await World.MakeFormAsync(noor, "website", "Hourly asking", built: true);
        var form = Guid.Parse(id);
        await noor.PostAsync($"/api/forms/{id}/publish", null);
        await World.ConfirmAsync(noor, id);
        // Three weeks with a lead every hour, up to now.
        await place.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var now = s.GetRequiredService<TimeProvider>().Now();
            var client = (await db.Forms.SingleAsync(f => f.Id == form)).ClientId;
            await db
                .Forms.Where(f => f.Id == form)
                .ExecuteUpdateAsync(f =>
                    f.SetProperty(x => x.MadeAt, now - Duration.FromDays(30))
                        .SetProperty(x => x.PublishedAt, now - Duration.FromDays(30))
                );
            for (var hour = 0; hour < 21 * 24; hour++)
            {
                var at = now - Duration.FromHours(hour);
                db.Submissions.Add(
                    new()
                    {
                        Id = Guid.CreateVersion7(),
                        ClientId = client,
                        FormId = form,
                        ReceivedAt = at,
                        DueAt = at,
                        ContentType = "application/json",
                        Raw = "{}"u8.ToArray(),
                        DedupeKey = Guid.NewGuid().ToByteArray(),
                        Status = SubmissionStatus.Processed,
                        MapVersion = 1,
                    }
                );
            }

            return await db.SaveChangesAsync();
        });
        await World.EventuallyAsync(
            async () =>
            {
                place.Time.Move(TimeSpan.FromMinutes(2));
                return
                    (await LineAsync(noor, id)).Text("habit")
                    == "This form usually has a lead every hour at these hours."
                    ? (bool?)true
                    : null;
            },
            "the habit"
        );
        place.Time.Move(TimeSpan.FromHours(14));
        var silent = await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, id))
                    .GetProperty("line")
                    .GetProperty("cuts")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(c => c!.Value.Text("joint") == "arrivals"),
            "the silence"
        );
        Assert.Matches(
            @"^This form usually has a lead every (hour|5. min) at these hours; none for \d+ h\.$",
            silent.Text("cause")!
        );
        var key = (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{id}")).GetProperty("form").Text("key")!;
        await place.SubmitAsync(new { full_name = "Ines Calloway", email = "ines.hourly@example.com" }, key);
        await World.EventuallyAsync(
            async () =>
                (await LineAsync(noor, id))
                    .GetProperty("line")
                    .GetProperty("cuts")
                    .EnumerateArray()
                    .All(c => c.Text("joint") != "arrivals")
                    ? (bool?)true
                    : null,
            "a lead again"
        );
    }
}

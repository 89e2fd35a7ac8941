using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Data;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>The field map: suggested, tried, confirmed, copied, changed, and earlier submissions read again.</summary>
public sealed class MapTests(World world) : IClassFixture<World>
{
    private static Task<JsonElement> MapAsync(HttpClient noor, string id) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/forms/{id}/map");

    private async Task<(string Id, string Key)> FormAsync(HttpClient noor, string name)
    {
        var (_, id) = await World.MakeFormAsync(noor, "website", name);
        return (id, (await World.FormAsync(noor, id)).GetProperty("form").Text("key")!);
    }

    private static Task<HttpResponseMessage> ConfirmAsync(
        HttpClient noor,
        string id,
        int version,
        params (string From, string? To)[] rows
    ) =>
        noor.PutAsJsonAsync(
            $"/api/forms/{id}/map",
            new { version, rows = rows.Select(r => new { formField = r.From, leadField = r.To }) }
        );

    private static Task WaitsAsync(HttpClient noor, string id, int count) =>
        World.EventuallyAsync(
            async () =>
                (await World.FormAsync(noor, id)).GetProperty("form").GetProperty("waiting").GetInt32() == count,
            $"{count} that wait"
        );

    [Fact]
    public async Task An_unconfirmed_form_is_said_wherever_people_look_and_released_in_order()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await FormAsync(noor, "Loud");
        foreach (var name in new[] { "Odalys Fenwick", "Jorun Ashdown", "Casimir Oduya" })
            await world.SubmitAsync(
                new
                {
                    contactNm = name,
                    eml = $"{name[..3]}@loud.example.com",
                    size_of_shed = "big",
                },
                key
            );
        await WaitsAsync(noor, id, 3);
        async Task<JsonElement?> DownAsync() =>
            (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                .GetProperty("linesDown")
                .EnumerateArray()
                .Cast<JsonElement?>()
                .FirstOrDefault(l => l!.Value.Text("formId") == id);
        var line = await World.EventuallyAsync(
            async () =>
                await DownAsync() is { } down
                && down.GetProperty("cuts")[0].Text("cause") == "Nobody has confirmed the map, and 3 submissions wait."
                    ? (JsonElement?)down
                    : null,
            "the line that is down"
        );
        Assert.Equal(
            ("Loud", "map", 3),
            (line.Text("form"), line.GetProperty("cuts")[0].Text("joint"), line.GetProperty("waiting").GetInt32())
        );
        var chip = (await noor.GetFromJsonAsync<JsonElement>("/api/frame"))
            .GetProperty("clients")
            .EnumerateArray()
            .Single(c => c.Text("key") == "brackenwheel");
        Assert.True(chip.GetProperty("waiting").GetInt32() >= 3 && chip.GetProperty("linesCut").GetInt32() >= 1);

        var fields = (await MapAsync(noor, id))
            .GetProperty("fields")
            .EnumerateArray()
            .ToDictionary(f => f.Text("name")!, f => f.GetProperty("suggested"));
        Assert.Equal("email", fields["eml"].Text("leadField"));
        Assert.Contains("what came looks like it", fields["eml"].Text("because"), StringComparison.Ordinal);
        Assert.Null(fields["size_of_shed"].Text("leadField"));

        var confirmed = await (
            await ConfirmAsync(
                noor,
                id,
                0,
                ("contactNm", "full_name"),
                ("eml", "email"),
                ("size_of_shed", "size_of_shed")
            )
        ).BodyAsync();
        Assert.Equal(
            (1, 3),
            (confirmed.GetProperty("version").GetInt32(), confirmed.GetProperty("released").GetInt32())
        );
        var leads = new List<JsonElement>();
        foreach (var name in new[] { "Odalys Fenwick", "Jorun Ashdown", "Casimir Oduya" })
            leads.Add(await World.FoundAsync(noor, $"{name[..3]}@loud.example.com".ToLowerInvariant()));
        Assert.Equal(["Odalys Fenwick", "Jorun Ashdown", "Casimir Oduya"], leads.Select(l => l.Text("name")));
        Assert.Equal("big", leads[0].GetProperty("fields").Text("size_of_shed"));
        var made = new List<string>();
        foreach (var lead in leads)
            made.Add((await world.ToldAsync(noor, lead.Text("id")!, "lead-made")).Text("at")!);
        Assert.Equal(made.Order(StringComparer.Ordinal), made);
        await World.EventuallyAsync(
            async () => (await DownAsync())?.GetProperty("cuts")[0].Text("joint") == "fuse" ? (bool?)true : null,
            "the next cut behind it"
        );
    }

    [Fact]
    public async Task Each_row_shows_what_it_gives_for_each_sample_before_anybody_confirms()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await FormAsync(noor, "Tried");
        await world.SubmitAsync(
            new
            {
                who = "Dr. Ines van der Calloway",
                cc = "+44",
                no = "7700 900611",
                day = "14/6/27",
                mail = "not one",
            },
            key
        );
        await world.SubmitAsync(
            new
            {
                who = "Bram Tillotson",
                no = "07700 900612",
                day = "soon",
                mail = "bram@tried.example.com",
            },
            key
        );
        await WaitsAsync(noor, id, 2);
        object rows = new object[]
        {
            new { formField = "who", leadField = "full_name" },
            new
            {
                formField = "cc",
                leadField = "phone",
                with = new[] { "no" },
                joiner = "",
            },
            new { formField = "mail", leadField = "email" },
            new
            {
                formField = "",
                leadField = "company",
                constant = "Nook",
            },
        };
        var samples = (await (await noor.PostAsJsonAsync($"/api/forms/{id}/map/try", new { rows })).BodyAsync())
            .GetProperty("samples")
            .EnumerateArray()
            .ToList();
        string?[] Values(int i) => [.. samples[i].GetProperty("rows").EnumerateArray().Select(r => r.Text("value"))];
        Assert.Equal(["Bram · Tillotson", "+447700900612", "bram@tried.example.com", "Nook"], Values(0));
        Assert.Equal(["Ines · van der Calloway", "+447700900611", "not one", "Nook"], Values(1));
        Assert.Equal(
            "an email address has a part on each side of one @",
            samples[1].GetProperty("rows")[2].Text("fault")
        );
        Assert.True(samples[1].GetProperty("reachable").GetBoolean());

        Assert.Contains(
            "There is no lead field",
            (await (await ConfirmAsync(noor, id, 0, ("who", "fullname"))).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "stands twice",
            (await (await ConfirmAsync(noor, id, 0, ("who", "full_name"), ("who", "company"))).BodyAsync()).Text(
                "detail"
            ),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync(
                    $"/api/forms/{id}/map",
                    new { version = 0, rows = new[] { new { formField = "", leadField = "company" } } }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task A_field_is_made_where_it_is_missed_and_read_as_what_it_holds()
    {
        var noor = await world.NoorAsync();
        var made = await (
            await noor.PostAsJsonAsync(
                "/api/lead-fields",
                new
                {
                    client = "brackenwheel",
                    label = "Rides a week",
                    type = "number",
                }
            )
        ).BodyAsync();
        Assert.Equal(("rides_a_week", "number"), (made.Text("key"), made.Text("type")));
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/lead-fields",
                    new
                    {
                        client = "brackenwheel",
                        label = "Rides a week",
                        type = "text",
                    }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/lead-fields",
                    new
                    {
                        client = "brackenwheel",
                        label = "Colour",
                        type = "choice",
                        choices = new[] { "red" },
                    }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var (id, key) = await FormAsync(noor, "Fielded");
        (
            await ConfirmAsync(noor, id, 0, ("mail", "email"), ("rides", "rides_a_week"), ("wann", "start_month"))
        ).RefusedAs(HttpStatusCode.BadRequest); // start_month is no field
        (await ConfirmAsync(noor, id, 0, ("mail", "email"), ("rides", "rides_a_week"))).EnsureSuccessStatusCode();
        await world.SubmitAsync(new { mail = "fielded@example.com", rides = "1,250" }, key);
        await world.SubmitAsync(new { mail = "fielded.two@example.com", rides = "lots" }, key);
        Assert.Equal(
            "1250",
            (await World.FoundAsync(noor, "fielded@example.com")).GetProperty("fields").Text("rides_a_week")
        );
        var two = await World.FoundAsync(noor, "fielded.two@example.com");
        Assert.Equal("lots", two.GetProperty("fields").Text("rides_a_week"));
        Assert.Equal(
            "rides: this is not a number",
            (await world.ToldAsync(noor, two.Text("id")!, "answer-unread")).Text("words")
        );
    }

    [Fact]
    public async Task Earlier_submissions_go_through_a_changed_map_after_a_look_at_what_changes()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await FormAsync(noor, "Again");
        (
            await ConfirmAsync(noor, id, 0, ("who", "full_name"), ("mail", "email"), ("ring", "message"))
        ).EnsureSuccessStatusCode();
        for (var i = 0; i < 5; i++)
            await world.SubmitAsync(
                new
                {
                    who = $"Hal Wetherby-{i}",
                    mail = $"again.{i}@example.com",
                    ring = $"07700 9008{i:00}",
                },
                key
            );
        for (var i = 0; i < 5; i++)
            await World.FoundAsync(noor, $"again.{i}@example.com");
        var burns = await BurnsAsync();

        object rows = new[]
        {
            new { formField = "who", leadField = "full_name" },
            new { formField = "mail", leadField = "email" },
            new { formField = "ring", leadField = "phone" },
        };
        var preview = await (
            await noor.PostAsJsonAsync($"/api/forms/{id}/reprocess/preview", new { rows })
        ).BodyAsync();
        Assert.Equal((5, 5), (preview.GetProperty("total").GetInt32(), preview.GetProperty("leadsChanged").GetInt32()));
        Assert.Equal(
            ["Message", "Phone"],
            preview.GetProperty("fields").EnumerateArray().Select(f => f.Text("label")).Order(StringComparer.Ordinal)
        );
        Assert.Contains(preview.GetProperty("examples")[0].GetProperty("changes").EnumerateArray(), c =>
            c.Text("field") == "phone" && c.Text("after")!.StartsWith("+447700900", StringComparison.Ordinal)
        );

        (await noor.PutAsJsonAsync($"/api/forms/{id}/map", new { version = 1, rows })).EnsureSuccessStatusCode();
        Assert.Equal(HttpStatusCode.Accepted, (await noor.PostAsync($"/api/forms/{id}/reprocess", null)).StatusCode);
        await World.EventuallyAsync(
            async () => (await MapAsync(noor, id)).GetProperty("reprocessing").Text("status") == "done",
            "end of reprocessing"
        );
        var lead = await World.FoundAsync(noor, "again.3@example.com");
        Assert.Equal(
            ("+447700900803", JsonValueKind.Undefined),
            (
                lead.Text("phone"),
                lead.GetProperty("fields").TryGetProperty("message", out var m) ? m.ValueKind : JsonValueKind.Undefined
            )
        );
        Assert.Contains(
            "version 2 of the map",
            (await world.ToldAsync(noor, lead.Text("id")!, "reprocessed")).Text("words"),
            StringComparison.Ordinal
        );
        // Known by the number from now on, and nothing was lit again.
        await world.SubmitAsync(new { who = "H. Wetherby", ring = "07700 900803" }, key);
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
                    .GetProperty("submissions")
                    .GetArrayLength() == 2,
            "second submission of the same person"
        );
        Assert.Equal(burns, await BurnsAsync());
        Assert.Equal(
            0,
            (await (await noor.PostAsJsonAsync($"/api/forms/{id}/reprocess/preview", new { rows })).BodyAsync())
                .GetProperty("leadsChanged")
                .GetInt32()
        );
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/forms/{id}/reprocess/cancel", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        Assert.Equal(
            [2, 1],
            (await MapAsync(noor, id))
                .GetProperty("versions")
                .EnumerateArray()
                .Select(v => v.GetProperty("version").GetInt32())
        );
    }

    [Fact]
    public async Task A_similar_form_s_map_is_copied_for_the_fields_that_both_have()
    {
        var noor = await world.NoorAsync();
        var (first, _) = await FormAsync(noor, "Copied from");
        (
            await ConfirmAsync(
                noor,
                first,
                0,
                ("Postanschrift", "street"),
                ("wer", "full_name"),
                ("mail_adr", "email"),
                ("egal", null)
            )
        ).EnsureSuccessStatusCode();
        var (second, key) = await FormAsync(noor, "Copied to");
        await world.SubmitAsync(
            new
            {
                wer = "Ines",
                mail_adr = "copy@example.com",
                sonst = "x",
            },
            key
        );
        await WaitsAsync(noor, second, 1);
        var map = await MapAsync(noor, second);
        Assert.Equal(
            "as confirmed on Copied from",
            map.GetProperty("fields")
                .EnumerateArray()
                .Single(f => f.Text("name") == "wer")
                .GetProperty("suggested")
                .Text("because")
        );
        Assert.Equal(
            2,
            map.GetProperty("similar")
                .EnumerateArray()
                .Single(s => s.Text("id") == first)
                .GetProperty("shared")
                .GetInt32()
        );
        var copied = await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{second}/map/from/{first}");
        Assert.Equal(
            ["wer → full_name", "mail_adr → email"],
            copied.GetProperty("rows").EnumerateArray().Select(r => $"{r.Text("formField")} → {r.Text("leadField")}")
        );
        var elsewhere = await World.FormIdAsync(noor, "hollin-vane-site-survey");
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await noor.GetAsync($"/api/forms/{second}/map/from/{elsewhere}")).StatusCode
        );
    }

    [Fact]
    public async Task What_waited_longer_than_the_age_limit_speaks_to_the_team_and_not_to_the_lead()
    {
        var noor = await world.NoorAsync();
        var id = await World.FormIdAsync(noor, World.Form);
        await noor.PostAsync($"/api/forms/{id}/pause", null);
        var (fresh, old) = (world.Person("25+"), world.Person("25+"));
        await world.SubmitAsync(old);
        await WaitsAsync(noor, id, 1);
        world.Time.Move(TimeSpan.FromHours(24)); // noon again, a day later
        await world.SubmitAsync(fresh);
        await noor.PostAsync($"/api/forms/{id}/resume", null);
        var (oldLead, freshLead) = (
            await World.FoundAsync(noor, old["email"]),
            await World.FoundAsync(noor, fresh["email"])
        );
        var cancelled = await world.ToldAsync(noor, oldLead.Text("id")!, "step-cancelled");
        Assert.Contains("the age limit is 24 h", cancelled.Text("words"), StringComparison.Ordinal);
        await world.ToldAsync(noor, freshLead.Text("id")!, "step-done", "Text: someone is on it");
        Assert.Empty(await world.TextsAsync(World.E164(old)));
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", old["email"])).Count == 1,
            "post about the old one"
        );
        Assert.StartsWith(
            "(24 h old) ",
            (await world.PostsAsync("#ride-desk", old["email"])).Single().Text("text"),
            StringComparison.Ordinal
        );
    }

    private Task<int> BurnsAsync() =>
        world.InsideAsync(async s =>
            await Microsoft.EntityFrameworkCore.EntityFrameworkQueryableExtensions.CountAsync(
                Microsoft
                    .Extensions.DependencyInjection.ServiceProviderServiceExtensions.GetRequiredService<AppDb>(s)
                    .Burns
            )
        );
}

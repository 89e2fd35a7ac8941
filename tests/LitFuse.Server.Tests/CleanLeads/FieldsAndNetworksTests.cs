using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>Lead fields, what a network's form brings, imports and the list, and who may do what.</summary>
public sealed class FieldsAndNetworksTests(World world) : IClassFixture<World>
{
    [Fact]
    public async Task Fields_keep_what_they_hold_and_change_what_they_are_called()
    {
        var noor = await world.NoorAsync();
        await noor.PostAsJsonAsync(
            "/api/lead-fields",
            new
            {
                client = "brackenwheel",
                label = "Saddle",
                type = "choice",
                choices = new[] { "wide", "narrow", "wide", " " },
            }
        );
        async Task<JsonElement> SaddleAsync() =>
            (await noor.GetFromJsonAsync<JsonElement>("/api/lead-fields?client=brackenwheel"))
                .GetProperty("fields")
                .EnumerateArray()
                .Single(f => f.Text("key") == "saddle");
        Assert.Equal(
            ["wide", "narrow"],
            (await SaddleAsync()).GetProperty("choices").EnumerateArray().Select(c => c.GetString())
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await noor.PutAsJsonAsync(
                    "/api/lead-fields/saddle",
                    new
                    {
                        client = "brackenwheel",
                        label = "Saddle width",
                        choices = new[] { "wide", "narrow", "none" },
                    }
                )
            ).StatusCode
        );
        Assert.Equal(
            ("Saddle width", 3),
            ((await SaddleAsync()).Text("label"), (await SaddleAsync()).GetProperty("choices").GetArrayLength())
        );
        Assert.Contains(
            "stays as it is",
            (
                await (
                    await noor.PutAsJsonAsync(
                        "/api/lead-fields/saddle",
                        new { client = "brackenwheel", type = "number" }
                    )
                ).BodyAsync()
            ).Text("detail"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "not-there",
            await (
                await noor.PutAsJsonAsync("/api/lead-fields/bell", new { client = "brackenwheel", rule = "keep" })
            ).RefusalAsync(HttpStatusCode.NotFound)
        );
        Assert.Equal(
            "bad-input",
            await (await noor.GetAsync("/api/lead-fields")).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync("/api/lead-fields", new { client = "brackenwheel", label = "Company" })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/lead-fields?client=hollin-vane"))
                .GetProperty("fields")
                .EnumerateArray(),
            f => f.Text("key") == "saddle"
        );
        var imke = await world.ImkeAsync();
        Assert.Equal(
            "not-allowed",
            await (
                await imke.PostAsJsonAsync("/api/lead-fields", new { client = "brackenwheel", label = "Bell" })
            ).RefusalAsync(HttpStatusCode.Forbidden)
        );
    }

    [Fact]
    public async Task A_later_import_goes_by_the_fields_rules_and_meets_the_list()
    {
        var noor = await world.NoorAsync();
        await noor.PutAsJsonAsync("/api/lead-fields/company", new { client = "brackenwheel", rule = "fill-empties" });
        var known = world.Person();
        known["company"] = "First Said";
        var id = (await world.LeadOfAsync(noor, known)).Text("id")!;
        await noor.PostAsJsonAsync(
            "/api/do-not-contact",
            new { client = "brackenwheel", addresses = "unwanted.import@example.com" }
        );
        var csv =
            $"Name;E-Mail;Company\nInes Again;{known["email"]};Later Said\nNew One;unwanted.import@example.com;Nook\n";
        using var body = new StringContent(csv, System.Text.Encoding.UTF8, "text/csv");
        var made = await (await noor.PostAsync("/api/imports?client=brackenwheel&name=rules.csv", body)).BodyAsync();
        var import = made.Text("id");
        await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/imports/{import}"))
                    .GetProperty("import")
                    .Text("status") == "ready",
            "a file that is looked at"
        );
        (await noor.PostAsJsonAsync($"/api/imports/{import}/start", new { lights = false })).EnsureSuccessStatusCode();
        var unwanted = await World.FoundAsync(noor, "unwanted.import@example.com");
        Assert.True(unwanted.GetProperty("doNotContact").GetBoolean());
        var fields = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}"))
            .GetProperty("lead")
            .GetProperty("fields");
        Assert.Equal("First Said", fields.Text("company"));
        await noor.PutAsJsonAsync("/api/lead-fields/company", new { client = "brackenwheel", rule = "newest-wins" });
    }

    [Fact]
    public async Task A_field_that_came_after_the_map_was_confirmed_is_kept_and_pointed_out()
    {
        var noor = await world.NoorAsync();
        var (_, id) = await World.MakeFormAsync(noor, "website", "Grows");
        var key = (await World.FormAsync(noor, id)).GetProperty("form").Text("key")!;
        (
            await noor.PutAsJsonAsync(
                $"/api/forms/{id}/map",
                new { version = 0, rows = new[] { new { formField = "mail", leadField = "email" } } }
            )
        ).EnsureSuccessStatusCode();
        await world.SubmitAsync(
            new
            {
                mail = "grows@example.com",
                telefon = "0113 496 0777",
                utm_source = "plaza",
            },
            key
        );
        var lead = await World.FoundAsync(noor, "grows@example.com");
        // Apart from the lead's fields, and with the answers as they came.
        Assert.Null(lead.GetProperty("fields").Text("telefon"));
        Assert.Contains(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
                .GetProperty("submissions")[0]
                .GetProperty("answers")
                .EnumerateArray(),
            a => a.Text("answer") == "0113 496 0777"
        );
        var fields = (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{id}/map"))
            .GetProperty("fields")
            .EnumerateArray()
            .ToDictionary(f => f.Text("name")!);
        Assert.True(fields["telefon"].GetProperty("fresh").GetBoolean());
        Assert.Equal("phone", fields["telefon"].GetProperty("suggested").Text("leadField"));
        Assert.False(
            fields["utm_source"].GetProperty("fresh").GetBoolean() || fields["mail"].GetProperty("fresh").GetBoolean()
        );
        var tracking = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
            .GetProperty("submissions")[0]
            .GetProperty("tracking");
        Assert.Equal(("utm source", "plaza"), (tracking[0].Text("question"), tracking[0].Text("answer")));
    }

    [Fact]
    public async Task A_rep_sees_the_pen_and_decides_but_sets_nothing_up()
    {
        var imke = await world.ImkeAsync();
        var noor = await world.NoorAsync();
        var form = await World.FormIdAsync(noor, World.Form);
        Assert.Equal(HttpStatusCode.OK, (await imke.GetAsync("/api/pen")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await imke.GetAsync("/api/conflicts")).StatusCode);
        Assert.Equal(
            "not-allowed",
            await (
                await imke.PutAsJsonAsync(
                    $"/api/forms/{form}/hold",
                    new { hold = new { kind = "nothing", junkFrom = 60 } }
                )
            ).RefusalAsync(HttpStatusCode.Forbidden)
        );
        Assert.Equal(
            "not-allowed",
            await (
                await imke.PutAsJsonAsync($"/api/forms/{form}/map", new { version = 1, rows = Array.Empty<object>() })
            ).RefusalAsync(HttpStatusCode.Forbidden)
        );
        Assert.Equal(
            "not-allowed",
            await (await imke.DeleteAsync("/api/do-not-contact?client=brackenwheel&value=x@example.com")).RefusalAsync(
                HttpStatusCode.Forbidden
            )
        );
        // What waits for another client is not there for her.
        Assert.DoesNotContain(
            (await imke.GetFromJsonAsync<JsonElement>("/api/pen")).GetProperty("rows").EnumerateArray(),
            r => r.Text("client") != "Brackenwheel"
        );
        Assert.Equal(
            "bad-input",
            await (await imke.PostAsJsonAsync("/api/pen/approve", new { ids = Array.Empty<Guid>() })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(
            0,
            (await (await imke.PostAsJsonAsync("/api/pen/approve", new { ids = new[] { Guid.NewGuid() } })).BodyAsync())
                .GetProperty("done")
                .GetInt32()
        );
    }

    [Fact]
    public async Task What_is_typed_in_by_hand_waits_for_nobody()
    {
        var noor = await world.NoorAsync();
        Assert.Equal(
            HttpStatusCode.Accepted,
            (
                await noor.PostAsJsonAsync(
                    "/api/leads",
                    new
                    {
                        client = "brackenwheel",
                        fields = new
                        {
                            full_name = "asdf asdf",
                            email = "typed@tempmail.example",
                            phone = "0113 496 0778",
                        },
                    }
                )
            ).StatusCode
        );
        Assert.Equal("asdf asdf", (await World.FoundAsync(noor, "typed@tempmail.example")).Text("name"));
    }
}

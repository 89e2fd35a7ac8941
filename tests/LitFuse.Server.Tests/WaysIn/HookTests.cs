using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using LitFuse.Core.Delivering;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>Hooks, the form tool's calls, leads by hand and by key.</summary>
public sealed class HookTests(World world) : IClassFixture<World>
{
    private async Task<HttpResponseMessage> SendAsync(string key, string body, Action<HttpRequestMessage>? with = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/in/{key}")
        {
            Content = new StringContent(body, Encoding.UTF8, "application/json"),
        };
        with?.Invoke(request);
        return await world.Anyone.SendAsync(request);
    }

    private void Sign(HttpRequestMessage request, string secret, string id, string body, long? at = null)
    {
        var stamp = at ?? world.Now.ToUnixTimeSeconds();
        request.Headers.Add("webhook-id", id);
        request.Headers.Add("webhook-timestamp", stamp.ToString(System.Globalization.CultureInfo.InvariantCulture));
        request.Headers.Add(
            "webhook-signature",
            WebhookSignature.Sign(WebhookSignature.KeyOf(secret), id, stamp, Encoding.UTF8.GetBytes(body))
        );
    }

    private static async Task<(string Id, string Key)> HookAsync(HttpClient noor, string name)
    {
        var (_, id) = await World.MakeFormAsync(noor, "hook", name);
        return (id, (await World.FormAsync(noor, id)).GetProperty("form").Text("key")!);
    }

    [Fact]
    public async Task Fields_are_picked_from_a_sample_and_what_waited_flows()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await HookAsync(noor, "Bookings");
        await SendAsync(
            key,
            """{"event":"made","data":{"customer":{"e-mail":"pick@example.com","names":["Wystan","Garside"]},"lines":[{"sku":"A1"},{"sku":"B2"}]}}"""
        );
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, id)).GetProperty("form").GetProperty("waiting").GetInt32() == 1,
            "sample that waits"
        );
        var paths = (await World.FormAsync(noor, id))
            .GetProperty("samples")[0]
            .GetProperty("paths")
            .EnumerateArray()
            .Select(p => p.Text("question"))
            .ToList();
        Assert.Equal(
            ["$.event", "$.data.customer['e-mail']", "$.data.customer.names[*]", "$.data.lines[*].sku"],
            paths
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync(
                    $"/api/forms/{id}/picks",
                    new { picks = new[] { new { path = "data.lines", field = "x" } } }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var picked = await noor.PutAsJsonAsync(
            $"/api/forms/{id}/picks",
            new
            {
                picks = new[]
                {
                    new { path = "$.data.customer['e-mail']", field = "email" },
                    new { path = "$.data.customer.names[0]", field = "first_name" },
                    new { path = "$.data.lines[*].sku", field = "bought" },
                },
            }
        );
        Assert.Equal(HttpStatusCode.NoContent, picked.StatusCode);
        var lead = await World.FoundAsync(noor, "pick@example.com");
        Assert.Equal(("Wystan", "A1, B2"), (lead.Text("name"), lead.Text("asked")));
        await SendAsync(key, """{"event":"other"}""");
        await World.EventuallyAsync(
            async () =>
                (await World.FormAsync(noor, id))
                    .GetProperty("samples")
                    .EnumerateArray()
                    .Any(s =>
                        s.Text("reason")?.Contains("none of the picked fields", StringComparison.Ordinal) == true
                    ),
            "unreadable one that is kept"
        );
        Assert.Equal(
            1,
            (await (await noor.PostAsync($"/api/forms/{id}/read-again", null)).BodyAsync())
                .GetProperty("submissions")
                .GetInt32()
        );
    }

    [Fact]
    public async Task A_signature_is_asked_for_and_a_replay_inside_the_tolerance_is_one_submission()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await HookAsync(noor, "Signed");
        await noor.PutAsJsonAsync(
            $"/api/forms/{id}/map",
            new { version = 0, rows = new[] { new { formField = "email", leadField = "email" } } }
        );
        var secret = (
            await (await noor.PutAsJsonAsync($"/api/forms/{id}/proof", new { kind = "signature" })).BodyAsync()
        ).Text("secret")!;
        const string body = """{"email":"signed@example.com"}""";
        Assert.Equal("not-proven", await (await SendAsync(key, body)).RefusalAsync(HttpStatusCode.Unauthorized));
        Assert.Equal(
            "not-proven",
            await (await SendAsync(key, body, r => Sign(r, "other", "m1", body))).RefusalAsync(
                HttpStatusCode.Unauthorized
            )
        );
        Assert.Equal(
            "not-proven",
            await (
                await SendAsync(key, body, r => Sign(r, secret, "m1", body, world.Now.ToUnixTimeSeconds() - 600))
            ).RefusalAsync(HttpStatusCode.Unauthorized)
        );
        var receipts = new HashSet<string?>();
        for (var i = 0; i < 3; i++)
            receipts.Add(
                (await (await SendAsync(key, body, r => Sign(r, secret, "m1", body))).BodyAsync()).Text("receipt")
            );
        Assert.Single(receipts);
        var lead = await World.FoundAsync(noor, "signed@example.com");
        Assert.Equal(
            1,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
                .GetProperty("submissions")
                .GetArrayLength()
        );
        Assert.DoesNotContain(secret, await noor.GetStringAsync($"/api/forms/{id}"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("key")]
    [InlineData("basic")]
    public async Task A_key_or_user_and_password_open_the_door_and_nothing_else_does(string kind)
    {
        var noor = await world.NoorAsync();
        var (id, key) = await HookAsync(noor, $"With {kind}");
        var secret = (
            await (await noor.PutAsJsonAsync($"/api/forms/{id}/proof", new { kind, user = "calendar" })).BodyAsync()
        ).Text("secret")!;
        AuthenticationHeaderValue Shown(string s) =>
            kind == "key"
                ? new("Bearer", s)
                : new("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"calendar:{s}")));
        const string body = """{"email":"proof@example.com"}""";
        Assert.Equal("not-proven", await (await SendAsync(key, body)).RefusalAsync(HttpStatusCode.Unauthorized));
        Assert.Equal(
            "not-proven",
            await (await SendAsync(key, body, r => r.Headers.Authorization = Shown("wrong"))).RefusalAsync(
                HttpStatusCode.Unauthorized
            )
        );
        Assert.Equal(
            HttpStatusCode.Accepted,
            (await SendAsync(key, body, r => r.Headers.Authorization = Shown(secret))).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await noor.PutAsJsonAsync($"/api/forms/{id}/proof", new { kind = "none" })).StatusCode
        );
        Assert.Equal(HttpStatusCode.Accepted, (await SendAsync(key, """{"email":"open@example.com"}""")).StatusCode);
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync($"/api/forms/{id}/proof", new { kind = "basic", user = "a:b" })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
    }

    [Fact]
    public async Task The_form_tools_signed_call_with_nested_answers_is_a_lead()
    {
        var noor = await world.NoorAsync();
        using var form = new FormUrlEncodedContent([
            new("full_name", "Rosalba Skelton"),
            new("email", "bench@example.com"),
            new("fleet_size", "4–9"),
            new("carry", "food"),
            new("carry", "tools"),
        ]);
        await world.Backlot.PostAsync("/formbench/fill/fb-brackenwheel-costs", form);
        var lead = await World.FoundAsync(noor, "bench@example.com");
        var answers = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}"))
            .GetProperty("submissions")[0]
            .GetProperty("answers")
            .EnumerateArray();
        Assert.Contains(answers, a => a.Text("answer") == "food, tools");
        await world.ToldAsync(noor, lead.Text("id")!, "fuse-lit");
        Assert.Equal(
            "not-proven",
            await (await world.SubmitAsync(new { entry = "x" }, "brackenwheel-formbench")).RefusalAsync(
                HttpStatusCode.Unauthorized
            )
        );
    }

    [Fact]
    public async Task A_new_form_of_the_tool_appears_with_its_first_entry_and_waits_until_its_map_is_confirmed()
    {
        var noor = await world.NoorAsync();
        var made = (
            await world.FillAsync(
                "formbench/make",
                new() { ["place"] = "fa-brackenwheel", ["title"] = "Winter raffle" }
            )
        )
            .Headers
            .Location!
            .OriginalString;
        var external = made[(made.LastIndexOf('/') + 1)..];
        await world.FillAsync(
            $"formbench/after/{external}",
            new()
            {
                ["call"] = $"{world.Url}/in/brackenwheel-formbench",
                ["secret"] = "backlot-demo-brackenwheel-formbench",
            }
        );
        await world.FillAsync(
            $"formbench/fill/{external}",
            new() { ["full_name"] = "Ulric Ainscow", ["email"] = "raffle@example.com" }
        );
        var form = await World.EventuallyAsync(
            async () =>
                (await World.SourceAsync(noor, "formbench"))
                    .GetProperty("forms")
                    .EnumerateArray()
                    .Where(f => f.Text("name") == "Winter raffle")
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            "the new form"
        );
        Assert.Null(form.Text("map"));
        await World.EventuallyAsync(
            async () =>
                (await World.FormAsync(noor, form.Text("id")!)).GetProperty("form").GetProperty("waiting").GetInt32()
                == 1,
            "an entry that waits"
        );
        await World.ConfirmAsync(noor, form.Text("id")!);
        await World.FoundAsync(noor, "raffle@example.com");
    }

    [Fact]
    public async Task A_lead_is_added_by_hand_by_a_rep_too_and_lights_nothing_when_asked_not_to()
    {
        var imke = await world.ImkeAsync();
        object Lead(string email) =>
            new
            {
                client = "brackenwheel",
                fields = new
                {
                    full_name = "Jocasta Dunmore",
                    email,
                    message = "rang at nine",
                },
                lightsFuses = false,
            };
        Assert.Equal(
            HttpStatusCode.Accepted,
            (await imke.PostAsJsonAsync("/api/leads", Lead("hand@example.com"))).StatusCode
        );
        var lead = await World.FoundAsync(await world.NoorAsync(), "hand@example.com");
        Assert.Equal(("Typed in", "rang at nine"), (lead.Text("form"), lead.Text("asked")));
        var told = await world.ToldAsync(imke, lead.Text("id")!, "submitted");
        Assert.Contains("typed in by Imke Sandoval", told.Text("words"), StringComparison.Ordinal);
        Assert.Equal(
            "bad-input",
            await (
                await imke.PostAsJsonAsync(
                    "/api/leads",
                    new { client = "brackenwheel", fields = new { full_name = "Nobody" } }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            "bad-input",
            await (
                await imke.PostAsJsonAsync(
                    "/api/leads",
                    new { client = "hollin-vane", fields = new { email = "x@example.com" } }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var faulty = await (
            await imke.PostAsJsonAsync("/api/leads", new { client = "brackenwheel", fields = new { phone = "12" } })
        ).BodyAsync();
        Assert.True(faulty.GetProperty("errors").TryGetProperty("phone", out _));
    }

    [Fact]
    public async Task A_program_adds_leads_with_its_key_once_for_an_id_and_of_its_own_client_alone()
    {
        var noor = await world.NoorAsync();
        var made = await (
            await noor.PostAsJsonAsync("/api/keys", new { client = "hollin-vane", name = "Showroom till" })
        ).BodyAsync();
        async Task<HttpResponseMessage> AddAsync(object lead, string? key = null)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/leads")
            {
                Content = JsonContent.Create(lead),
            };
            request.Headers.Authorization = new("Bearer", key ?? made.Text("key"));
            return await world.Anyone.SendAsync(request);
        }

        var receipts = new HashSet<string?>();
        for (var i = 0; i < 3; i++)
            receipts.Add(
                (
                    await (
                        await AddAsync(
                            new
                            {
                                id = "t-1",
                                client = "brackenwheel",
                                fields = new { full_name = "Noll Pettifer", email = "till@example.com" },
                            }
                        )
                    ).BodyAsync()
                ).Text("receipt")
            );
        Assert.Single(receipts);
        var lead = await World.FoundAsync(noor, "till@example.com", "hollin-vane");
        Assert.Equal(
            HttpStatusCode.Accepted,
            (
                await AddAsync(
                    new
                    {
                        id = "t-1",
                        fields = new
                        {
                            full_name = "Noll Pettifer",
                            email = "till@example.com",
                            booths = "one",
                        },
                    }
                )
            ).StatusCode
        );
        await world.ToldAsync(noor, lead.Text("id")!, "submission-edited");
        Assert.Equal(
            0,
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?q=till@example.com&client=brackenwheel"))
                .GetProperty("total")
                .GetInt32()
        );

        Assert.Equal(
            "bad-key",
            await (await AddAsync(new { fields = new { email = "x@example.com" } }, "lf_key_made_up")).RefusalAsync(
                HttpStatusCode.Unauthorized
            )
        );
        var listed = await noor.GetStringAsync("/api/keys");
        Assert.DoesNotContain(made.Text("key")!, listed, StringComparison.Ordinal);
        Assert.Contains("Showroom till", listed, StringComparison.Ordinal);
        await noor.DeleteAsync($"/api/keys/{made.Text("id")}");
        Assert.Equal(
            "bad-key",
            await (await AddAsync(new { fields = new { email = "x@example.com" } })).RefusalAsync(
                HttpStatusCode.Unauthorized
            )
        );
        using var elsewhere = new HttpRequestMessage(HttpMethod.Get, "/api/leads");
        elsewhere.Headers.Authorization = new("Bearer", made.Text("key"));
        Assert.Equal(
            "sign-in-first",
            await (await world.Anyone.SendAsync(elsewhere)).RefusalAsync(HttpStatusCode.Unauthorized)
        );
    }

    [Fact]
    public async Task A_test_lead_has_answers_that_fit_and_is_marked_everywhere()
    {
        var noor = await world.NoorAsync();
        var id = await World.FormIdAsync(noor, World.Form);
        var made = await (await noor.PostAsync($"/api/forms/{id}/test-lead", null)).BodyAsync();
        var email = made.GetProperty("answers")
            .EnumerateArray()
            .First(a => a.Text("question") == "Email")
            .Text("answer")!;
        var lead = await World.FoundAsync(noor, email);
        Assert.True(lead.GetProperty("test").GetBoolean());
        Assert.Contains(
            "a test sent by Noor Abernathy-Voss",
            (await world.ToldAsync(noor, lead.Text("id")!, "submitted")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.True((await World.FormAsync(noor, id)).GetProperty("samples")[0].GetProperty("test").GetBoolean());
    }
}

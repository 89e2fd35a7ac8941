using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using LitFuse.Data;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.Connections;
using Microsoft.AspNetCore.Routing;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Walks every endpoint there is: a new one is covered without anyone remembering.</summary>
public sealed class AccessTests(World world) : IClassFixture<World>
{
    private sealed record Door(string Method, string Pattern, Needs? Needs, bool Open);

    private List<Door> Doors() =>
        [
            .. world
                .App.Services.GetRequiredService<EndpointDataSource>()
                .Endpoints.OfType<RouteEndpoint>()
                .Where(e => e.RoutePattern.RawText is { } p && !p.Contains("{*", StringComparison.Ordinal))
                .SelectMany(e =>
                    (e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["POST"]).Select(m => new Door(
                        m,
                        "/" + e.RoutePattern.RawText!.Trim('/'),
                        e.Metadata.GetMetadata<Needs>(),
                        e.Metadata.GetMetadata<OpenToAnyone>() is not null
                    ))
                ),
        ];

    private async Task<Dictionary<string, Guid>> OthersAsync(string client) =>
        await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var id = (await db.Clients.SingleAsync(c => c.Key == client)).Id;
            return new Dictionary<string, Guid>
            {
                ["leadId"] = (await db.Leads.FirstAsync(l => l.ClientId == id)).Id,
                ["formId"] = (await db.Forms.FirstAsync(f => f.ClientId == id)).Id,
                ["fuseId"] = (await db.Fuses.FirstAsync(f => f.ClientId == id)).Id,
                ["sourceId"] = (await db.Sources.FirstAsync(f => f.ClientId == id)).Id,
                ["connectionId"] = (await db.Connections.FirstAsync(f => f.ClientId == id)).Id,
                ["importId"] = await ImportOfAsync(db, id),
                ["keyId"] = await KeyOfAsync(db, id),
                ["burnId"] = (await db.Burns.FirstAsync(b => b.ClientId == id)).Id,
                ["otherId"] = (await db.Forms.FirstAsync(f => f.ClientId == id)).Id,
                ["conflictId"] = await ConflictOfAsync(db, id),
                ["regroupId"] = await RegroupOfAsync(db, id),
                ["viewId"] = Guid.NewGuid(),
                ["deliveryId"] = (await db.Deliveries.FirstAsync(d => d.ClientId == id)).Id,
                ["fileId"] = await NightlyOfAsync(db, id),
                ["clientId"] = id,
                ["backtestId"] = await BacktestOfAsync(db, id),
                ["callId"] = await CallOfAsync(db, id),
                ["messageId"] = await MessageOfAsync(db, id),
                ["libraryFileId"] = await LibraryOfAsync(db, id),
            };
        });

    private static async Task<Guid> CallOfAsync(AppDb db, Guid client)
    {
        var call = new Call
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            LeadId = (await db.Leads.FirstAsync(l => l.ClientId == client)).Id,
            ConnectionId = (await db.Connections.FirstAsync(c => c.ClientId == client)).Id,
            Key = $"others.{Guid.NewGuid()}",
            Plan = new([], "Others", "", ""),
        };
        db.Calls.Add(call);
        await db.SaveChangesAsync();
        return call.Id;
    }

    private static async Task<Guid> MessageOfAsync(AppDb db, Guid client)
    {
        var message = new IncomingMessage
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            ConnectionId = (await db.Connections.FirstAsync(c => c.ClientId == client)).Id,
            Reference = $"others.{Guid.NewGuid()}",
        };
        db.IncomingMessages.Add(message);
        await db.SaveChangesAsync();
        return message.Id;
    }

    private static async Task<Guid> LibraryOfAsync(AppDb db, Guid client)
    {
        var file = new LibraryFile
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            Name = $"{Guid.NewGuid()}.pdf",
        };
        db.LibraryFiles.Add(file);
        await db.SaveChangesAsync();
        return file.Id;
    }

    private static async Task<Guid> NightlyOfAsync(AppDb db, Guid client)
    {
        var file = new NightlyFile
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            Name = "Others",
            ConnectionId = (await db.Connections.FirstAsync(c => c.ClientId == client)).Id,
            DueAt = NodaTime.Instant.FromUtc(2100, 1, 1, 0, 0),
        };
        db.NightlyFiles.Add(file);
        await db.SaveChangesAsync();
        return file.Id;
    }

    private static async Task<Guid> BacktestOfAsync(AppDb db, Guid client)
    {
        var fuse = await db.Fuses.FirstAsync(f => f.ClientId == client);
        var job = new BacktestJob
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            FuseId = fuse.Id,
            Status = BacktestStatus.Cancelled,
            Definition = await db.FuseVersions.Where(v => v.FuseId == fuse.Id).Select(v => v.Definition).FirstAsync(),
        };
        db.Backtests.Add(job);
        await db.SaveChangesAsync();
        return job.Id;
    }

    private static async Task<Guid> ImportOfAsync(AppDb db, Guid client)
    {
        var import = new Import
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            SourceId = (await db.Sources.FirstAsync(s => s.ClientId == client)).Id,
            FileName = "others.csv",
        };
        db.Imports.Add(import);
        await db.SaveChangesAsync();
        return import.Id;
    }

    private static async Task<Guid> ConflictOfAsync(AppDb db, Guid client)
    {
        var two = await db.Leads.Where(l => l.ClientId == client).Take(2).Select(l => l.Id).ToListAsync();
        var conflict = new LeadConflict
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            LeadId = two[0],
            OtherId = two[1],
            Words = "two",
        };
        db.Conflicts.Add(conflict);
        await db.SaveChangesAsync();
        return conflict.Id;
    }

    private static async Task<Guid> RegroupOfAsync(AppDb db, Guid client)
    {
        var lead = await db.Leads.FirstAsync(l => l.ClientId == client);
        var regroup = new Regroup
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            FromId = lead.Id,
            IntoId = lead.Id,
            FromBefore = new(
                lead.Fields,
                lead.FormId,
                lead.AskedAt,
                lead.TargetAt,
                null,
                null,
                null,
                null,
                null,
                false,
                null,
                []
            ),
            By = (await db.Users.FirstAsync()).Id,
        };
        db.Regroups.Add(regroup);
        await db.SaveChangesAsync();
        return regroup.Id;
    }

    private static async Task<Guid> KeyOfAsync(AppDb db, Guid client)
    {
        var key = new ApiKey
        {
            Id = Guid.NewGuid(),
            ClientId = client,
            Name = "others",
            Hash = Guid.NewGuid().ToByteArray(),
            MadeBy = (await db.Users.FirstAsync()).Id,
        };
        db.ApiKeys.Add(key);
        await db.SaveChangesAsync();
        return key.Id;
    }

    private static object? BodyOf(string pattern) =>
        pattern switch
        {
            _ when pattern.EndsWith("/skip", StringComparison.Ordinal)
                    || pattern.EndsWith("/replay", StringComparison.Ordinal) => new { stepId = "x" },
            _ when pattern.EndsWith("/touch", StringComparison.Ordinal) => new { how = "spoke" },
            _ when pattern.EndsWith("/texts", StringComparison.Ordinal) => new { words = "hello" },
            _ when pattern.EndsWith("/draft", StringComparison.Ordinal) => new
            {
                definition = new
                {
                    name = "x",
                    litBy = Array.Empty<object>(),
                    bands = Array.Empty<object>(),
                },
                revision = 1,
            },
            _ when pattern.EndsWith("/arm", StringComparison.Ordinal) => new { revision = 1 },
            _ when pattern.EndsWith("/preview", StringComparison.Ordinal) => new
            {
                words = "x",
                place = 0,
                forms = Array.Empty<string>(),
            },
            "/api/fuses" => new { client = "hollin-vane" },
            _ => null,
        };

    private static readonly JsonNode Description = JsonNode.Parse(
        File.ReadAllText(Path.Combine(Root.Path, "src/LitFuse.Server/openapi/litfuse.json"))
    )!;

    // As complete as its description demands, and no more: what is asked of it comes before what is in it.
    private static JsonNode Least(string method, string pattern) =>
        Description["paths"]![pattern.TrimEnd('/')]
            ?[method.ToLowerInvariant()]
            ?["requestBody"]
            ?["content"]
            ?["application/json"]
            ?["schema"]
            is { } schema
            ? Least(schema) ?? new JsonObject()
            : new JsonObject();

    private static JsonNode? Least(JsonNode schema)
    {
        if (schema["$ref"]?.GetValue<string>() is { } named)
            return Least(Description["components"]!["schemas"]![named.Split('/')[^1]]!);
        if (schema["enum"] is JsonArray words)
            return words[0]!.DeepClone();
        if (schema["properties"] is not JsonObject properties)
            return (schema["type"] is JsonValue type ? type.GetValue<string>() : "null") switch
            {
                "array" => new JsonArray(),
                "object" => new JsonObject(),
                "integer" or "number" => 1,
                "boolean" => false,
                "string" => TextOf(schema["format"]?.GetValue<string>()),
                _ => null,
            };
        var least = new JsonObject();
        foreach (var name in (schema["required"] as JsonArray ?? []).Select(r => r!.GetValue<string>()))
            least[name] = Least(properties[name]!);
        return least;
    }

    private static string TextOf(string? format) =>
        format switch
        {
            "uuid" => Guid.NewGuid().ToString(),
            "date-time" => "2026-11-24T09:41:07Z",
            "date" => "2026-11-24",
            "time" => "09:00:00",
            _ => "x",
        };

    private static async Task<HttpResponseMessage> KnockAsync(
        HttpClient client,
        Door door,
        IReadOnlyDictionary<string, Guid>? ids = null,
        string? query = null
    )
    {
        var path = ids is null
            ? door.Pattern
            : ids.Aggregate(door.Pattern, (p, id) =>
                    p.Replace($"{{{id.Key}}}", id.Value.ToString(), StringComparison.Ordinal)
                )
                .Replace("{number}", "1", StringComparison.Ordinal);
        using var request = new HttpRequestMessage(new HttpMethod(door.Method), path + query);
        if (door.Method is not "GET")
            request.Content = JsonContent.Create(BodyOf(door.Pattern) ?? Least(door.Method, door.Pattern));
        return await client.SendAsync(request);
    }

    [Fact]
    public void Every_endpoint_says_who_may_call_it() =>
        Assert.DoesNotContain(Doors(), d => d.Needs is null && !d.Open);

    [Fact]
    public async Task Nobody_gets_in_without_an_account()
    {
        var ids = await OthersAsync("brackenwheel");
        foreach (var door in Doors().Where(d => d.Needs is not null))
        {
            var answer = await KnockAsync(world.Anyone, door, ids);
            Assert.True(
                answer.StatusCode == HttpStatusCode.Unauthorized,
                $"{door.Method} {door.Pattern} answered {answer.StatusCode}"
            );
        }
    }

    [Theory]
    [InlineData("noor@quillonstreet.example", Role.Marketer)]
    [InlineData("lucan@quillonstreet.example", Role.AgencyLead)]
    [InlineData("imke@brackenwheel.example", Role.Rep)]
    public async Task Each_role_may_do_what_the_table_says_and_nothing_else(string email, Role role)
    {
        var person = await world.AsAsync(email);
        var ids = new Dictionary<string, Guid>
        {
            ["leadId"] = Guid.NewGuid(),
            ["formId"] = Guid.NewGuid(),
            ["fuseId"] = Guid.NewGuid(),
            ["sourceId"] = Guid.NewGuid(),
            ["connectionId"] = Guid.NewGuid(),
            ["importId"] = Guid.NewGuid(),
            ["keyId"] = Guid.NewGuid(),
        };
        foreach (
            var door in Doors()
                .Where(d => d.Needs is not null && !(d.Method == "DELETE" && d.Pattern == "/api/session"))
        )
        {
            var answer = await KnockAsync(person, door, ids);
            var allowed = Permissions.Table[role].Contains(door.Needs!.Act);
            Assert.True(
                allowed == (answer.StatusCode != HttpStatusCode.Forbidden),
                $"{role} {door.Method} {door.Pattern} answered {answer.StatusCode}"
            );
        }
    }

    // What strangers' programs send in the place of what is described: half a document, nothing, nothing in every
    // place, a list of nothing, a key twice, a character that no database keeps.
    private static IEnumerable<string> Odd(Door door)
    {
        var least = Least(door.Method, door.Pattern).AsObject();
        JsonObject With(Func<JsonNode?, JsonNode?> other) =>
            new(least.Select(p => KeyValuePair.Create(p.Key, other(p.Value?.DeepClone()))));
        yield return "";
        yield return "{";
        yield return "null";
        yield return "[]";
        yield return "\"x\"";
        yield return "{}";
        yield return With(_ => null).ToJsonString();
        yield return With(v => v is JsonArray ? new JsonArray([null]) : v).ToJsonString();
        yield return With(v => v is JsonValue text && text.TryGetValue<string>(out _) ? "x\u0000y" : v).ToJsonString();
        yield return With(v => v is JsonValue text && text.TryGetValue<string>(out _) ? new JsonObject() : "x")
            .ToJsonString();
        if (least.Count > 0)
            yield return $"{{\"{least.First().Key}\":null,\"{least.First().Key}\":null}}";
    }

    [Fact]
    public async Task Whatever_is_sent_to_an_endpoint_it_is_refused_in_words_or_taken()
    {
        var noor = await world.NoorAsync();
        var odd = new List<string>();
        var walked = 0;
        foreach (
            var door in Doors()
                .Where(d =>
                    d.Needs is not null
                    && d.Pattern.StartsWith("/api/", StringComparison.Ordinal)
                    && !d.Pattern.StartsWith("/api/session", StringComparison.Ordinal)
                )
        )
        {
            var path = System.Text.RegularExpressions.Regex.Replace(
                door.Pattern.Replace("{number}", "1", StringComparison.Ordinal),
                @"\{[^}]+\}",
                Guid.NewGuid().ToString()
            );
            foreach (
                var (query, body) in door.Method == "GET"
                    ?
                    [
                        ("?client=%00&q=%00&form=%00&state=%00&cursor=%00&source=%00", null),
                        ("?size=x&page=-1&client=&from=9999-12-31&to=0001-01-01", null),
                    ]
                    : Odd(door).Select(b => ("", (string?)b))
            )
            {
                using var request = new HttpRequestMessage(new HttpMethod(door.Method), path + query);
                if (body is not null)
                    request.Content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
                using var answer = await noor.SendAsync(request);
                var said = await answer.Content.ReadAsStringAsync();
                walked++;
                if ((int)answer.StatusCode >= 500 && answer.StatusCode != HttpStatusCode.BadGateway)
                    odd.Add($"{door.Method} {door.Pattern}{query} {body} answered {answer.StatusCode}: {said}");
                else if (
                    answer.StatusCode == HttpStatusCode.BadRequest
                    && (
                        said.Contains("System.", StringComparison.Ordinal)
                        || said.Contains("LitFuse.", StringComparison.Ordinal)
                        || !said.Contains("\"detail\"", StringComparison.Ordinal)
                    )
                )
                    odd.Add($"{door.Method} {door.Pattern}{query} {body} said {said}");
            }
        }

        Assert.True(odd.Count == 0, string.Join("\n", odd.Take(40)));
        Assert.True(walked > 800, $"{walked} asked");
    }

    [Fact]
    public async Task What_belongs_to_another_client_is_not_there()
    {
        // A marketer of Tarn Valley alone, who may do everything a marketer may.
        await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var user = await db.Users.SingleAsync(u => u.Email == "siobhra@tarnvalley.example");
            (await db.Memberships.SingleAsync(m => m.UserId == user.Id)).Role = Role.Marketer;
            return await db.SaveChangesAsync();
        });
        var siobhra = await world.AsAsync("siobhra@tarnvalley.example");
        var ids = await OthersAsync("hollin-vane");
        var walked = 0;
        foreach (
            var door in Doors().Where(d => d.Needs is not null && d.Pattern.Contains('{', StringComparison.Ordinal))
        )
        {
            var answer = await KnockAsync(siobhra, door, ids);
            Assert.True(
                answer.StatusCode == HttpStatusCode.NotFound,
                $"{door.Method} {door.Pattern} answered {answer.StatusCode}"
            );
            walked++;
        }

        Assert.True(walked >= 12);
        foreach (
            var door in Doors()
                .Where(d =>
                    d is { Needs: not null, Method: "GET" } && !d.Pattern.Contains('{', StringComparison.Ordinal)
                )
        )
        {
            // A list asked for another client is refused, and asked without one holds nothing of others.
            var narrowed = await KnockAsync(siobhra, door, query: "?client=hollin-vane");
            if (narrowed.StatusCode != HttpStatusCode.NotFound)
                Assert.Contains(
                    door.Pattern,
                    new[]
                    {
                        "/api/session",
                        "/api/frame",
                        "/api/source-kinds",
                        "/connect/back",
                        "/api/tests/addresses",
                        "/api/notices",
                        "/api/connections/services",
                    }
                );
            var text = await (await KnockAsync(siobhra, door)).Content.ReadAsStringAsync();
            Assert.DoesNotContain("Hollin Vane", text, StringComparison.Ordinal);
            Assert.DoesNotContain("hollin-vane", text, StringComparison.Ordinal);
        }

        Assert.Equal(
            "bad-input",
            await (await siobhra.PostAsJsonAsync("/api/fuses", new { client = "hollin-vane" })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
    }

    [Fact]
    public async Task Writing_needs_the_antiforgery_token()
    {
        var noor = await world.NoorAsync();
        noor.DefaultRequestHeaders.Remove("X-XSRF-TOKEN");
        foreach (
            var door in Doors()
                .Where(d =>
                    d.Needs is not null && d.Method != "GET" && d.Pattern.StartsWith("/api", StringComparison.Ordinal)
                )
        )
        {
            Assert.Equal("token-missing", await (await KnockAsync(noor, door)).RefusalAsync(HttpStatusCode.BadRequest));
        }
    }

    [Fact]
    public async Task A_wrong_password_is_refused_and_the_fifth_locks_the_account()
    {
        Task<HttpResponseMessage> Try(string email, string password) =>
            world.Anyone.PostAsJsonAsync("/api/session", new { email, password });
        Assert.Equal(
            "wrong-password",
            await (await Try("nobody@example.com", "x")).RefusalAsync(HttpStatusCode.Unauthorized)
        );
        Assert.Equal("bad-input", await (await Try("", "x")).RefusalAsync(HttpStatusCode.BadRequest));
        for (var i = 0; i < 4; i++)
            Assert.Equal(
                "wrong-password",
                await (await Try("pim@hollinvane.example", "wrong")).RefusalAsync(HttpStatusCode.Unauthorized)
            );
        await Try("pim@hollinvane.example", "wrong");
        Assert.Equal(
            "locked-out",
            await (await Try("pim@hollinvane.example", "strike-a-light-5080")).RefusalAsync(
                HttpStatusCode.TooManyRequests
            )
        );
    }

    [Fact]
    public async Task Signing_out_ends_it()
    {
        var noor = await world.NoorAsync();
        Assert.Equal(HttpStatusCode.NoContent, (await noor.DeleteAsync("/api/session")).StatusCode);
        Assert.Equal(
            "sign-in-first",
            await (await noor.GetAsync("/api/watch")).RefusalAsync(HttpStatusCode.Unauthorized)
        );
    }

    [Fact]
    public async Task The_live_line_tells_of_ones_own_clients_alone()
    {
        var heard = new List<LiveNotice>();
        await using var marguerite = await ListenAsync("marguerite@hollinvane.example", heard);
        await using var imke = await ListenAsync("imke@brackenwheel.example", []);
        var own = new TaskCompletionSource();
        marguerite.On<LiveNotice>("changed", _ => own.TrySetResult());
        await world.SubmitAsync(world.Person());
        await world.SubmitAsync(
            new
            {
                full_name = "Orla Zeller",
                email = "orla@example.net",
                booths = "one",
                needed_by = "just looking",
            },
            "hollin-vane-site-survey"
        );
        await own.Task.WaitAsync(TimeSpan.FromSeconds(10));
        await world.IdleAsync();
        var hollin = await world.InsideAsync(async s =>
            (await s.GetRequiredService<AppDb>().Clients.SingleAsync(c => c.Key == "hollin-vane")).Id
        );
        lock (heard)
            Assert.All(heard, n => Assert.Equal(hollin, n.ClientId));
    }

    [Fact]
    public async Task The_live_line_is_shut_to_strangers()
    {
        var line = new HubConnectionBuilder().WithUrl($"{world.Url}/live").Build();
        await Assert.ThrowsAnyAsync<HttpRequestException>(() => line.StartAsync());
    }

    private async Task<HubConnection> ListenAsync(string email, List<LiveNotice> heard)
    {
        var cookies = new CookieContainer();
        using var http = new HttpClient(new SocketsHttpHandler { CookieContainer = cookies })
        {
            BaseAddress = new Uri(world.Url),
        };
        (
            await http.PostAsJsonAsync("/api/session", new { email, password = "strike-a-light-5080" })
        ).EnsureSuccessStatusCode();
        var line = new HubConnectionBuilder()
            .WithUrl($"{world.Url}/live", HttpTransportType.WebSockets, o => o.Cookies = cookies)
            .AddJsonProtocol(o => Core.CoreJson.Apply(o.PayloadSerializerOptions))
            .Build();
        line.On<LiveNotice>("changed", n =>
        {
            lock (heard)
                heard.Add(n);
        });
        await line.StartAsync();
        return line;
    }

    [Theory]
    [InlineData("/api/leads?page=0", "page")]
    [InlineData("/api/leads?state=asleep", "state")]
    public async Task Bad_input_names_the_field(string address, string field)
    {
        var answer = await (await world.NoorAsync()).GetAsync(address);
        Assert.Equal("bad-input", await answer.RefusalAsync(HttpStatusCode.BadRequest));
        Assert.True((await answer.BodyAsync()).GetProperty("errors").TryGetProperty(field, out _));
    }

    [Theory]
    [InlineData("/api/nothing", HttpStatusCode.NotFound)]
    [InlineData("/api/leads/not-a-guid", HttpStatusCode.BadRequest)]
    [InlineData("/api/leads?page=many", HttpStatusCode.BadRequest)]
    public async Task An_address_that_makes_no_sense_is_a_problem_and_not_a_page(
        string address,
        HttpStatusCode status
    ) => Assert.NotNull(await (await (await world.NoorAsync()).GetAsync(address)).RefusalAsync(status));

    [Fact]
    public async Task A_body_that_is_no_JSON_is_told_so()
    {
        var noor = await world.NoorAsync();
        var answer = await noor.PostAsync(
            "/api/fuses",
            new StringContent("{\"client\":", System.Text.Encoding.UTF8, "application/json")
        );
        Assert.Equal("bad-input", await answer.RefusalAsync(HttpStatusCode.BadRequest));
    }

    [Fact]
    public async Task The_search_finds_by_any_answer_and_takes_signs_as_they_are()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        answers["depot_postcode"] = "QX77 100%";
        await world.LeadOfAsync(noor, answers);
        async Task<int> Found(string q) =>
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={Uri.EscapeDataString(q)}"))
                .GetProperty("total")
                .GetInt32();
        Assert.Equal(1, await Found("qx77 100% ines"));
        Assert.Equal(0, await Found("qx77_"));
        Assert.Equal(0, await Found("QX77 nobody-has-this"));
    }
}

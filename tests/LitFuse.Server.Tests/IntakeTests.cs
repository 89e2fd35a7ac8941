using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

public sealed class IntakeTests(World world) : IClassFixture<World>
{
    private async Task<List<Submission>> KeptAsync(string contains)
    {
        var all = await world.InsideAsync(async s =>
            await s.GetRequiredService<AppDb>()
                .Submissions.AsNoTracking()
                .Where(x => x.ReceivedAt > world.Now - NodaTime.Duration.FromHours(2))
                .ToListAsync()
        );
        return
        [
            .. all.Where(s => Encoding.UTF8.GetString(s.Raw).Contains(contains, StringComparison.Ordinal))
                .OrderBy(s => s.ReceivedAt),
        ];
    }

    private static async Task<string> ReceiptAsync(HttpResponseMessage answer)
    {
        Assert.Equal(HttpStatusCode.Accepted, answer.StatusCode);
        return (await answer.BodyAsync()).Text("receipt")!;
    }

    private HttpContent Body(string kind, Dictionary<string, string> answers)
    {
        if (kind == "json")
            return JsonContent.Create(answers);
        if (kind == "urlencoded")
            return new FormUrlEncodedContent(answers);
        var parts = new MultipartFormDataContent();
        foreach (var (name, value) in answers)
            parts.Add(new StringContent(value), name);
        parts.Add(new ByteArrayContent([1, 2, 3]), "photo", "bike.jpg");
        return parts;
    }

    [Theory]
    [InlineData("json")]
    [InlineData("urlencoded")]
    [InlineData("multipart")]
    public async Task A_submission_of_each_kind_is_on_disk_when_it_is_answered_and_becomes_a_lead(string kind)
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        var receipt = await ReceiptAsync(await world.Anyone.PostAsync($"/in/{World.Form}", Body(kind, answers)));
        Assert.Equal(
            Guid.Parse(receipt),
            Assert
                .Single(
                    await KeptAsync(kind == "urlencoded" ? WebUtility.UrlEncode(answers["email"]) : answers["email"])
                )
                .Id
        );
        var lead = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={answers["email"]}"))
                    .GetProperty("items")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            "lead"
        );
        Assert.Equal($"Ines {answers["last_name"]}", lead.Text("name"));
        Assert.StartsWith("+441134960", lead.Text("phone"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_browser_is_sent_on_to_the_thank_you_page()
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/in/{World.Form}")
        {
            Content = new FormUrlEncodedContent(world.Person()),
        };
        request.Headers.Accept.ParseAdd("text/html,application/xhtml+xml;q=0.9");
        var answer = await world.Anyone.SendAsync(request);
        Assert.Equal(HttpStatusCode.SeeOther, answer.StatusCode);
        Assert.Equal($"{world.BacklotUrl}/pagewright/brackenwheel/thank-you", answer.Headers.Location?.ToString());
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task The_same_id_with_the_same_content_has_one_effect(bool inHeader)
    {
        var answers = world.Person();
        if (!inHeader)
            answers["id"] = "own-" + Guid.NewGuid();
        var key = inHeader ? "key-" + Guid.NewGuid() : null;
        var first = await ReceiptAsync(await world.SubmitAsync(answers, key: key));
        var again = await Task.WhenAll(
            Enumerable.Range(0, 20).Select(async _ => await ReceiptAsync(await world.SubmitAsync(answers, key: key)))
        );
        Assert.All(again, r => Assert.Equal(first, r));
        Assert.Single(await KeptAsync(answers["email"]));
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", answers["email"])).Count == 1,
            "one post"
        );
    }

    [Fact]
    public async Task The_same_id_with_other_content_is_an_edit_kept_as_a_new_version()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        answers["id"] = "own-" + Guid.NewGuid();
        var lead = await world.LeadOfAsync(noor, answers);
        answers["fleet_size"] = "25+";
        await ReceiptAsync(await world.SubmitAsync(answers));
        await world.ToldAsync(noor, lead.Text("id")!, "submission-edited");
        Assert.Equal(2, (await KeptAsync(answers["email"])).Count);
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead.Text("id")}");
        Assert.Contains("25+", whole.GetProperty("lead").Text("asked"), StringComparison.Ordinal);
        Assert.Equal(2, whole.GetProperty("submissions").GetArrayLength());
        Assert.Single(await world.PostsAsync("#ride-desk", answers["email"])); // an edit does not light the fuse again
    }

    [Fact]
    public async Task Without_an_id_identical_content_within_ten_minutes_is_a_double_press()
    {
        var answers = world.Person();
        var first = await ReceiptAsync(await world.SubmitAsync(answers));
        world.Time.Move(TimeSpan.FromMinutes(9.5));
        Assert.Equal(first, await ReceiptAsync(await world.SubmitAsync(answers)));
        world.Time.Move(TimeSpan.FromMinutes(11));
        Assert.NotEqual(first, await ReceiptAsync(await world.SubmitAsync(answers)));
        Assert.Equal(2, (await KeptAsync(answers["email"])).Count);
    }

    [Fact]
    public async Task Two_hundred_submissions_of_one_person_at_once_make_one_lead()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person();
        var all = await Task.WhenAll(
            Enumerable
                .Range(0, 200)
                .Select(i =>
                    world.SubmitAsync(
                        new Dictionary<string, string>(answers)
                        {
                            ["id"] = $"{answers["email"]}-{i}",
                            ["start_month"] = $"month {i}",
                        }
                    )
                )
        );
        Assert.All(all, a => Assert.Equal(HttpStatusCode.Accepted, a.StatusCode));
        await World.EventuallyAsync(
            async () => (await KeptAsync(answers["email"])).All(s => s.Status == SubmissionStatus.Processed),
            "end of processing"
        );
        Assert.Equal(
            1,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={answers["email"]}"))
                .GetProperty("total")
                .GetInt32()
        );
        Assert.Equal(200, (await KeptAsync(answers["email"])).Count);
    }

    [Theory]
    [InlineData("application/json", "{\"first_name\": ", "not readable as JSON at line 1")]
    [InlineData("application/json", "", "the body is empty")]
    [InlineData("image/png", "PNG rubbish", "a body of type 'image/png' is not read")]
    [InlineData("multipart/form-data", "rubbish", "names no boundary")]
    public async Task Garbage_is_acknowledged_kept_raw_and_marked_with_the_reason(
        string type,
        string body,
        string reason
    )
    {
        var content = new ByteArrayContent(Encoding.UTF8.GetBytes(body));
        content.Headers.ContentType = MediaTypeHeaderValue.Parse(type);
        var receipt = await ReceiptAsync(await world.Anyone.PostAsync($"/in/{World.Form}", content));
        var noor = await world.NoorAsync();
        var forms = (await noor.GetFromJsonAsync<JsonElement>("/api/forms?client=brackenwheel"))
            .GetProperty("forms")
            .EnumerateArray();
        var whole = await noor.GetFromJsonAsync<JsonElement>(
            $"/api/forms/{forms.Single(f => f.Text("key") == World.Form).Text("id")}"
        );
        var sample = whole
            .GetProperty("samples")
            .EnumerateArray()
            .Single(s => s.GetProperty("id").GetGuid() == Guid.Parse(receipt));
        Assert.Equal(("unreadable", body), (sample.Text("status"), sample.Text("raw")));
        Assert.Contains(reason, sample.Text("reason"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_form_whose_map_is_not_confirmed_keeps_its_submissions_waiting()
    {
        await World.SqlAsync(
            new Npgsql.NpgsqlConnectionStringBuilder(world.ConnectionString).Database!,
            "update form_maps set status = 'suggested' where form_id = (select id from forms where key = 'tarn-valley-date')"
        );
        var receipt = Guid.Parse(
            await ReceiptAsync(
                await world.SubmitAsync(
                    new { full_name = "Una Yardley", email = "una.yardley@example.org" },
                    "tarn-valley-date"
                )
            )
        );
        await World.EventuallyAsync(
            async () =>
                (await KeptAsync("una.yardley")).Single(s => s.Id == receipt).Status == SubmissionStatus.Waiting,
            "waiting submission"
        );
    }

    [Theory]
    [InlineData(null, HttpStatusCode.NotFound, "not-there")]
    [InlineData("text/html", HttpStatusCode.NotFound, null)]
    public async Task An_unknown_key_is_told_to_a_program_and_kindly_to_a_visitor(
        string? accept,
        HttpStatusCode status,
        string? code
    )
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "/in/nobody")
        {
            Content = JsonContent.Create(world.Person()),
        };
        if (accept is not null)
            request.Headers.Accept.ParseAdd(accept);
        var answer = await world.Anyone.SendAsync(request);
        if (code is not null)
            Assert.Equal(code, await answer.RefusalAsync(status));
        else
        {
            Assert.Equal((status, "text/html"), (answer.StatusCode, answer.Content.Headers.ContentType?.MediaType));
            Assert.Contains(
                "This form is no longer taken in.",
                await answer.Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
        }
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task More_than_256_KB_is_refused_whether_its_length_is_told_or_not(bool told)
    {
        var content = new StreamContent(
            new MemoryStream(Encoding.UTF8.GetBytes("{\"note\":\"" + new string('x', 256 * 1024) + "\"}"))
        );
        content.Headers.ContentType = new("application/json");
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/in/{World.Form}") { Content = content };
        request.Headers.TransferEncodingChunked = !told;
        Assert.Equal(
            "too-big",
            await (await world.Anyone.SendAsync(request)).RefusalAsync(HttpStatusCode.RequestEntityTooLarge)
        );
    }

    [Fact]
    public async Task An_embedded_form_on_any_page_may_send()
    {
        using var ask = new HttpRequestMessage(HttpMethod.Options, $"/in/{World.Form}");
        ask.Headers.Add("Origin", "https://brackenwheel.example");
        var preflight = await world.Anyone.SendAsync(ask);
        Assert.Equal(HttpStatusCode.NoContent, preflight.StatusCode);
        Assert.Equal("*", preflight.Headers.GetValues("Access-Control-Allow-Origin").Single());
        Assert.Equal(
            "*",
            (await world.SubmitAsync(world.Person())).Headers.GetValues("Access-Control-Allow-Origin").Single()
        );
    }

    [Fact]
    public async Task A_visitor_who_reloads_the_address_gets_a_page_that_helps()
    {
        var answer = await world.Anyone.GetAsync($"/in/{World.Form}");
        Assert.Equal(HttpStatusCode.MethodNotAllowed, answer.StatusCode);
        Assert.Contains(
            "Go back to the page with the form",
            await answer.Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task The_form_on_the_landing_page_is_the_one_that_is_given_out()
    {
        var noor = await world.NoorAsync();
        var forms = (await noor.GetFromJsonAsync<JsonElement>("/api/forms?client=brackenwheel"))
            .GetProperty("forms")
            .EnumerateArray();
        var snippet = (
            await noor.GetFromJsonAsync<JsonElement>(
                $"/api/forms/{forms.Single(f => f.Text("key") == World.Form).Text("id")}"
            )
        )
            .GetProperty("pieces")
            .Text("html")!
            .Replace(world.BacklotUrl, "BACKLOT", StringComparison.Ordinal);
        Assert.Contains(
            snippet.Trim(),
            (await world.Backlot.GetStringAsync("/pagewright/brackenwheel/book-a-test-ride")).Replace(
                world.BacklotUrl,
                "BACKLOT",
                StringComparison.Ordinal
            ),
            StringComparison.Ordinal
        );
        Assert.Contains("lf-form", await world.Anyone.GetStringAsync("/embed.js"), StringComparison.Ordinal);
    }
}

/// <summary>A world whose door lets few through.</summary>
public sealed class NarrowWorld : World
{
    protected override string[] MoreSettings => ["--Intake:PerSecond", "4", "--Intake:Burst", "5"];
}

public sealed class IntakeLimitTests(NarrowWorld world) : IClassFixture<NarrowWorld>
{
    [Fact]
    public async Task Who_sends_too_much_is_told_when_to_come_again()
    {
        var answers = await Task.WhenAll(Enumerable.Range(0, 30).Select(_ => world.SubmitAsync(world.Person())));
        var refused = answers.Where(a => a.StatusCode == HttpStatusCode.TooManyRequests).ToList();
        Assert.NotEmpty(refused);
        Assert.True(answers.Count(a => a.StatusCode == HttpStatusCode.Accepted) >= 5);
        Assert.Equal("too-many", await refused[0].RefusalAsync(HttpStatusCode.TooManyRequests));
        Assert.NotNull(refused[0].Headers.RetryAfter);
    }

    [Fact]
    public async Task When_the_database_is_away_nothing_is_acknowledged()
    {
        await using var app = Host.Build([
            "--url",
            $"http://127.0.0.1:{World.FreePort()}",
            "--db",
            $"Host=127.0.0.1;Port={World.FreePort()};Username=x;Database=x;Timeout=2",
        ]);
        await app.StartAsync();
        using var http = new HttpClient { BaseAddress = new Uri(app.Urls.First()) };
        var answer = await http.PostAsJsonAsync($"/in/{World.Form}", world.Person());
        Assert.Equal("database-down", await answer.RefusalAsync(HttpStatusCode.ServiceUnavailable));
        Assert.NotNull(answer.Headers.RetryAfter);
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await http.GetAsync("/health/ready")).StatusCode);
        await app.StopAsync();
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json;
using LitFuse.Backlot;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Intake;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Real time that a test can move on. The loops sleep by real time, so moving it also wakes them.</summary>
public sealed class MovableTime(TimeSpan shift) : TimeProvider
{
    private TimeSpan moved = shift;

    public Action Moved { get; set; } = static () => { };

    public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + moved;

    public void Move(TimeSpan on)
    {
        moved += on;
        Moved();
    }
}

/// <summary>
/// Real HTTP, real PostgreSQL, the real Backlot, and a clock that stands at noon in London when the world begins.
/// Each world has a database of its own, copied from one that holds a small demonstration.
/// </summary>
public partial class World : IAsyncLifetime
{
    public const string Form = "brackenwheel-test-ride";
    private static readonly Lazy<Task<string>> Template = new(MakeTemplateAsync);
    private static int worlds;
    private static int ports = Random.Shared.Next(18_000);
    private readonly string database = $"litfuse_w{Environment.ProcessId}_{Interlocked.Increment(ref worlds)}";
    private WebApplication? outside;

    public WebApplication App { get; private set; } = null!;

    public MovableTime Time { get; } = Noon();

    public string Url { get; } = $"http://127.0.0.1:{FreePort()}";

    public string BacklotUrl { get; } = $"http://127.0.0.1:{FreePort()}";

    public int MailPort { get; } = FreePort();

    /// <summary>A caller without an account that follows no redirects.</summary>
    public HttpClient Anyone { get; private set; } = null!;

    public HttpClient Backlot { get; private set; } = null!;

    public string ConnectionString => ConnectionTo(database);

    protected virtual string[] MoreSettings => [];

    public static string Cluster { get; } =
        Environment.GetEnvironmentVariable("LITFUSE_TEST_DB")
        ?? throw new InvalidOperationException("LITFUSE_TEST_DB is not set; ./test starts a cluster and sets it.");

    public async ValueTask InitializeAsync()
    {
        var template = await Template.Value;
        await SqlAsync("postgres", $"create database {database} template {template}");
        outside = Outside.Build(
            [
                "--url",
                BacklotUrl,
                "--server-url",
                Url,
                "--smtp-port",
                MailPort.ToString(System.Globalization.CultureInfo.InvariantCulture),
            ],
            s => s.AddSingleton<TimeProvider>(Time)
        );
        await outside.StartAsync();
        App = Host.Build(
            [
                "--url",
                Url,
                "--backlot-url",
                BacklotUrl,
                "--backlot-mail",
                $"smtp://127.0.0.1:{MailPort}",
                "--demo",
                "true",
                "--allow-private",
                "true",
                "--db",
                ConnectionString,
                .. MoreSettings,
            ],
            s => Inside(s, Time)
        );
        await Startup.PrepareAsync(App.Services, CancellationToken.None);
        await App.StartAsync();
        Time.Moved = () => App.Services.GetRequiredService<Signals>().All();
        Anyone = NewClient();
        Backlot = new HttpClient { BaseAddress = new Uri(BacklotUrl) };
    }

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        await App.StopAsync();
        await App.DisposeAsync();
        if (outside is not null)
        {
            await outside.StopAsync();
            await outside.DisposeAsync();
        }

        await SqlAsync("postgres", $"drop database {database} with (force)");
    }

    public HttpClient NewClient() =>
        new(new SocketsHttpHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(Url) };

    /// <summary>A caller signed in, which sends the antiforgery token along.</summary>
    public async Task<HttpClient> AsAsync(string email)
    {
        var cookies = new CookieContainer();
        var client = new HttpClient(new SocketsHttpHandler { CookieContainer = cookies, AllowAutoRedirect = false })
        {
            BaseAddress = new Uri(Url),
        };
        var answer = await client.PostAsJsonAsync("/api/session", new { email, password = "strike-a-light-5080" });
        answer.EnsureSuccessStatusCode();
        client.DefaultRequestHeaders.Add(
            "X-XSRF-TOKEN",
            WebUtility.UrlDecode(cookies.GetCookies(new Uri(Url))["XSRF-TOKEN"]!.Value)
        );
        return client;
    }

    public Task<HttpClient> NoorAsync() => AsAsync("noor@quillonstreet.example");

    public Task<HttpClient> ImkeAsync() => AsAsync("imke@brackenwheel.example");

    private int people;

    /// <summary>
    /// Answers of a person nobody has seen yet, with a number from a range for drama (Ofcom: Leeds) that the
    /// demonstration does not use.
    /// </summary>
    public Dictionary<string, string> Person(string fleet = "4–9")
    {
        var n = Interlocked.Increment(ref people);
        return new()
        {
            ["first_name"] = "Ines",
            ["last_name"] = $"Calloway-{database[^1]}{n}",
            ["email"] = $"ines.{n}@calloway.example.com",
            ["phone"] = $"0113 496 0{n:000}",
            ["fleet_size"] = fleet,
            ["cargo"] = "food",
        };
    }

    /// <summary>A person's number as texts are sent to it.</summary>
    public static string E164(Dictionary<string, string> person) =>
        "+44" + person["phone"].Replace(" ", "", StringComparison.Ordinal)[1..];

    /// <summary>Sends a submission as a program does.</summary>
    public async Task<HttpResponseMessage> SubmitAsync(object answers, string form = Form, string? key = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/in/{form}")
        {
            Content = JsonContent.Create(answers),
        };
        if (key is not null)
            request.Headers.Add("Idempotency-Key", key);
        return await Anyone.SendAsync(request);
    }

    /// <summary>Sends a submission and waits for its lead.</summary>
    public async Task<JsonElement> LeadOfAsync(HttpClient noor, Dictionary<string, string> answers, string form = Form)
    {
        var answer = await SubmitAsync(answers, form);
        Assert.Equal(HttpStatusCode.Accepted, answer.StatusCode);
        return await EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={answers["email"]}"))
                    .GetProperty("items")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            "the lead"
        );
    }

    /// <summary>Waits for the lead with this address.</summary>
    public static Task<JsonElement> FoundAsync(HttpClient noor, string email, string? client = null) =>
        EventuallyAsync(
            async () =>
                (
                    await noor.GetFromJsonAsync<JsonElement>(
                        $"/api/leads?q={Uri.EscapeDataString(email)}{(client is null ? "" : "&client=" + client)}"
                    )
                )
                    .GetProperty("items")
                    .EnumerateArray()
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            $"lead {email}"
        );

    /// <summary>Fills in a form of the Backlot, as a person does.</summary>
    public async Task<HttpResponseMessage> FillAsync(string path, Dictionary<string, string> answers)
    {
        using var form = new FormUrlEncodedContent(answers);
        using var visitor = new HttpClient(new SocketsHttpHandler { AllowAutoRedirect = false })
        {
            BaseAddress = new Uri(BacklotUrl),
        };
        return await visitor.PostAsync("/" + path, form);
    }

    /// <summary>The source of this kind.</summary>
    public static async Task<JsonElement> SourceAsync(HttpClient noor, string kind, string client = "brackenwheel") =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/sources?client={client}"))
            .GetProperty("sources")
            .EnumerateArray()
            .First(s => s.Text("kind") == kind);

    /// <summary>The id of the form by this key.</summary>
    public static async Task<string> FormIdAsync(HttpClient noor, string key) =>
        (await noor.GetFromJsonAsync<JsonElement>("/api/forms"))
            .GetProperty("forms")
            .EnumerateArray()
            .First(f => f.Text("key") == key)
            .Text("id")!;

    /// <summary>A source and a form of it that nobody has used yet.</summary>
    public static async Task<(string SourceId, string FormId)> MakeFormAsync(
        HttpClient noor,
        string kind,
        string name,
        bool built = false
    )
    {
        var source = (
            await (
                await noor.PostAsJsonAsync(
                    "/api/sources",
                    new
                    {
                        client = "brackenwheel",
                        kind,
                        name = $"{name}, source",
                    }
                )
            ).BodyAsync()
        ).Text("id")!;
        var form = (
            await (
                await noor.PostAsJsonAsync(
                    "/api/forms",
                    new
                    {
                        sourceId = source,
                        name,
                        built,
                    }
                )
            ).BodyAsync()
        ).Text("id")!;
        return (source, form);
    }

    /// <summary>Confirms the map that is suggested, as a person does who finds it right.</summary>
    public static async Task ConfirmAsync(HttpClient noor, string formId)
    {
        var map = await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{formId}/map");
        var rows = map.GetProperty("fields")
            .EnumerateArray()
            .Select(f => new
            {
                formField = f.Text("name"),
                leadField = f.GetProperty("suggested").Text("leadField") ?? f.Text("name"),
            })
            .ToList();
        var answer = await noor.PutAsJsonAsync(
            $"/api/forms/{formId}/map",
            new { rows, version = map.GetProperty("version").GetInt32() }
        );
        Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync());
    }

    /// <summary>A form, whole.</summary>
    public static Task<JsonElement> FormAsync(HttpClient noor, string formId) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/forms/{formId}");

    public async Task<List<JsonElement>> StoryAsync(HttpClient noor, string leadId) =>
        [.. (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{leadId}")).GetProperty("story").EnumerateArray()];

    /// <summary>Waits for a line of this kind in a lead's story.</summary>
    public Task<JsonElement> ToldAsync(HttpClient noor, string leadId, string kind, string? step = null) =>
        EventuallyAsync(
            async () =>
                (await StoryAsync(noor, leadId))
                    .Where(l => l.Text("kind") == kind && (step is null || l.Text("step") == step))
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            $"'{kind}' in the story"
        );

    public async Task<List<JsonElement>> PostsAsync(string channel, string containing) =>
        [
            .. (
                await Backlot.GetFromJsonAsync<List<JsonElement>>(
                    $"/api/ridgeboard/posts?channel={Uri.EscapeDataString(channel)}"
                )
            )!.Where(p => p.Text("text")!.Contains(containing, StringComparison.Ordinal)),
        ];

    public async Task<List<JsonElement>> TextsAsync(string to) =>
        (await Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/copperline/messages?to={Uri.EscapeDataString(to)}"))!;

    /// <summary>Breaks a service, until it is mended or the test ends.</summary>
    public async Task FaultAsync(string service, string mode)
    {
        MendsAfterEachTestAttribute.Breaks(this);
        (await Backlot.PutAsJsonAsync($"/api/faults/{service}", new { mode })).EnsureSuccessStatusCode();
    }

    public Task WorksAgainAsync() => Backlot.DeleteAsync("/api/faults");

    /// <summary>
    /// Waits until nothing is on its way: nothing received, due, sending or to be told, by this world's clock. What has
    /// not happened by then does not happen. Work stands in the database until the transaction that does it is
    /// committed, and what it leads on to stands there with it; so it is enough to look there, and at what the outside
    /// still has to tell.
    /// </summary>
    public async Task IdleAsync()
    {
        for (var quiet = 0; quiet < 2; quiet++)
        {
            string? busy = null;
            await EventuallyAsync(async () => (busy = await BusyWithAsync()) is null, "rest: " + busy, seconds: 60);
        }
    }

    private async Task<string?> BusyWithAsync()
    {
        if (App.Services.GetRequiredService<IntakeWriter>().Waiting is > 0 and var waiting)
            return $"{waiting} submissions wait for the disk";
        if (outside!.Services.GetRequiredService<LitFuse.Backlot.Calling.Caller>().UnderWay is > 0 and var told)
            return $"the outside tells {told} things";
        if (outside.Services.GetRequiredService<LitFuse.Backlot.Pillarpost.Inboxes>().Scanning > 0)
            return "a scanner follows links";
        var now = Now;
        return
            (
                await InsideAsync(s =>
                    s.GetRequiredService<AppDb>()
                        .Database.SqlQuery<string?>(
                            $"""
                            select (select concat_ws(', ',
                              (select 'a submission is due' from submissions where status = 'received' and due_at <= {now} limit 1),
                              (select 'a notice is due' from source_notices where status = 'due' and due_at <= {now} limit 1),
                              (select 'a delivery is due or under way' from deliveries d join connections c on c.id = d.connection_id join clients k on k.id = d.client_id
                                where d.status = 'sending' or (d.status = 'due' and d.due_at <= {now} and c.paused_at is null and k.held_at is null and (c.rest_until is null or c.rest_until <= {now})) limit 1),
                              (select 'a burn wants waking' from burns b join clients k on k.id = b.client_id where b.wake_at <= {now} and k.held_at is null limit 1),
                              (select 'a clock is to strike' from fuse_clocks where next_at <= {now} limit 1),
                              (select 'a network is to be asked' from sources where poll_due_at <= {now} limit 1),
                              (select 'a call is to go on' from calls where ended_at is null and wake_at <= {now} limit 1),
                              (select 'a file is to be picked up' from sources where daily_file_due_at <= {now} limit 1),
                              (select 'an import runs' from imports where status in ('running', 'undoing') limit 1))) as "Value"
                            """
                        )
                        .ToListAsync()
                )
            ).Single()
                is { Length: > 0 } work
            ? work
            : null;
    }

    /// <summary>Asks until there is an answer; after twenty seconds says what was missing.</summary>
    public static async Task<T> EventuallyAsync<T>(Func<Task<T?>> ask, string what)
        where T : struct
    {
        for (var tries = 0; tries < 1000; tries++)
        {
            if (await ask() is { } answer)
                return answer;
            await Task.Delay(20);
        }

        throw new Xunit.Sdk.XunitException($"There was no {what} within twenty seconds.");
    }

    public static async Task EventuallyAsync(Func<Task<bool>> holds, string what, int seconds = 20)
    {
        for (var tries = 0; tries < seconds * 50; tries++)
        {
            if (await holds())
                return;
            await Task.Delay(20);
        }

        throw new Xunit.Sdk.XunitException($"There was no {what} within {seconds} seconds.");
    }

    /// <summary>Runs with a scope that sees every client.</summary>
    public async Task<T> InsideAsync<T>(Func<IServiceProvider, Task<T>> use)
    {
        await using var scope = App.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        return await use(scope.ServiceProvider);
    }

    public Instant Now => Time.Now();

    /// <summary>
    /// A port nobody listens on, from below those the system gives to outgoing calls: one of those can be taken between
    /// asking and binding.
    /// </summary>
    public static int FreePort()
    {
        while (true)
        {
            var port = 12_000 + (Interlocked.Increment(ref ports) % 18_000);
            try
            {
                using var listener = new TcpListener(IPAddress.Loopback, port);
                listener.Start();
                return port;
            }
            catch (SocketException)
            {
                // Somebody has it: the next one.
            }
        }
    }

    public static string ConnectionTo(string database) =>
        new NpgsqlConnectionStringBuilder(Cluster) { Database = database }.ConnectionString;

    public static async Task SqlAsync(string database, string sql)
    {
        await using var connection = new NpgsqlConnection(ConnectionTo(database) + ";Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>
    /// Noon in London on the Tuesday of this week, whatever day and hour it really is: no test depends on it. Near
    /// today, because callers keep cookies by the real clock. <c>LITFUSE_TEST_AT</c> (<c>2026-10-25T00:30</c>) begins
    /// elsewhere.
    /// </summary>
    public static MovableTime Noon()
    {
        var zone = DateTimeZoneProviders.Tzdb["Europe/London"];
        var now = SystemClock.Instance.GetCurrentInstant();
        var today = now.InZone(zone).Date;
        var begins = Environment.GetEnvironmentVariable("LITFUSE_TEST_AT") is { Length: > 0 } at
            ? NodaTime
                .Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm")
                .Parse(at)
                .GetValueOrThrow()
            : today.PlusDays(IsoDayOfWeek.Tuesday - today.DayOfWeek).At(new LocalTime(12, 0));
        return new((begins.InZoneLeniently(zone).ToInstant() - now).ToTimeSpan());
    }

    // A password costs a tenth of a second where it is worth something; hundreds of tests sign in.
    private static void Inside(IServiceCollection services, TimeProvider time) =>
        services.AddSingleton(time).Configure<PasswordHasherOptions>(o => o.IterationCount = 1000);

    private static async Task<string> MakeTemplateAsync()
    {
        var name = $"litfuse_t{Environment.ProcessId}";
        await SqlAsync("postgres", $"create database {name}");
        await using var app = Host.Build(
            [
                "--url",
                $"http://127.0.0.1:{FreePort()}",
                "--demo",
                "true",
                "--demo-share",
                "0.02",
                "--db",
                ConnectionTo(name) + ";Pooling=false",
            ],
            s => Inside(s, Noon())
        );
        await Startup.PrepareAsync(app.Services, CancellationToken.None);
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
            SqlAsync("postgres", $"drop database if exists {name} with (force)").Wait(TimeSpan.FromSeconds(5));
        return name;
    }
}

internal static class Json
{
    public static string? Text(this JsonElement element, string property) =>
        element.TryGetProperty(property, out var value) && value.ValueKind == JsonValueKind.String
            ? value.GetString()
            : null;

    public static async Task<JsonElement> BodyAsync(this HttpResponseMessage answer) =>
        JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement;

    /// <summary>Holds that it was refused so.</summary>
    public static void RefusedAs(this HttpResponseMessage answer, HttpStatusCode refused) =>
        Assert.Equal(refused, answer.StatusCode);

    /// <summary>The code of a refusal, with its status checked and its mend there.</summary>
    public static async Task<string?> RefusalAsync(this HttpResponseMessage answer, HttpStatusCode status)
    {
        Assert.Equal(status, answer.StatusCode);
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType?.MediaType);
        var problem = await answer.BodyAsync();
        Assert.False(string.IsNullOrEmpty(problem.Text("mend")));
        return problem.Text("code");
    }
}

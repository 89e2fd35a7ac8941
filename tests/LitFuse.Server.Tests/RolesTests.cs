using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Server.Intake;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>A world whose server takes and shows, and carries nothing.</summary>
public sealed class WebWorld : World
{
    protected override string[] MoreSettings => ["--role", "web"];
}

/// <summary>The same program in several processes on one database.</summary>
public sealed class RolesTests(WebWorld world) : IClassFixture<WebWorld>
{
    private async Task<WebApplication> WorkerAsync()
    {
        var app = Host.Build(
            [
                "--role",
                "worker",
                "--url",
                $"http://127.0.0.1:{World.FreePort()}",
                "--public-url",
                world.Url,
                "--backlot-url",
                world.BacklotUrl,
                "--allow-private",
                "true",
                "--db",
                world.ConnectionString,
            ],
            s => s.AddSingleton<TimeProvider>(world.Time)
        );
        await app.StartAsync();
        return app;
    }

    [Fact]
    public async Task What_a_web_process_took_a_worker_carries()
    {
        var noor = await world.NoorAsync();
        var answers = world.Person("25+");
        Assert.Equal(HttpStatusCode.Accepted, (await world.SubmitAsync(answers)).StatusCode);
        await Task.Delay(500);
        Assert.Empty(await world.PostsAsync("#ride-desk", answers["email"])); // kept, and nobody to carry it yet
        var status = await world.InsideAsync(async s =>
            (await s.GetRequiredService<AppDb>().Submissions.OrderByDescending(x => x.ReceivedAt).FirstAsync()).Status
        );
        Assert.Equal(SubmissionStatus.Received, status);

        await using var worker = await WorkerAsync();
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", answers["email"])).Count == 1,
            "post"
        );
        var lead = (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={answers["email"]}")).GetProperty("items")[
            0
        ];

        // What a person does in the web process is carried at once too: the worker is woken by a notice.
        Assert.Equal(
            HttpStatusCode.Accepted,
            (
                await noor.PostAsJsonAsync(
                    $"/api/leads/{lead.Text("id")}/texts",
                    new { words = "From the web process." }
                )
            ).StatusCode
        );
        await world.ToldAsync(noor, lead.Text("id")!, "touched");
        await World.EventuallyAsync(
            async () => (await world.TextsAsync(World.E164(answers))).Count == 2,
            "second text"
        );
        await worker.StopAsync();
    }

    [Fact]
    public async Task Two_workers_share_the_work_and_nothing_goes_out_twice()
    {
        var people = Enumerable.Range(0, 40).Select(_ => world.Person("25+")).ToList();
        await using var one = await WorkerAsync();
        await using var two = await WorkerAsync();
        await Task.WhenAll(people.Select(p => world.SubmitAsync(p)));
        foreach (var person in people)
        {
            await World.EventuallyAsync(
                async () => (await world.PostsAsync("#ride-desk", person["email"])).Count == 1,
                $"post about {person["email"]}"
            );
            await World.EventuallyAsync(
                async () => (await world.TextsAsync(World.E164(person))).Count == 1,
                $"text to {person["phone"]}"
            );
        }

        await world.IdleAsync();
        foreach (var person in people)
            Assert.Single(await world.PostsAsync("#ride-desk", person["email"]));
        await Task.WhenAll(one.StopAsync(), two.StopAsync());
    }
}

/// <summary>More arrives than can be stored.</summary>
public sealed class BusyTests(WebWorld world) : IClassFixture<WebWorld>
{
    [Fact]
    public async Task When_more_arrives_than_can_be_stored_one_is_told_to_come_again_and_nothing_acknowledged_is_lost()
    {
        var form = await world.InsideAsync(async s =>
            await s.GetRequiredService<AppDb>().Forms.AsNoTracking().SingleAsync(f => f.Key == World.Form)
        );
        var writer = world.App.Services.GetRequiredService<IntakeWriter>();
        var waiting = new List<Arrival>();
        await using var connection = new NpgsqlConnection(world.ConnectionString);
        await connection.OpenAsync();
        await using (var transaction = await connection.BeginTransactionAsync())
        {
            // Nothing can be written while somebody holds the table.
            await using (
                var hold = new NpgsqlCommand("lock table submissions in access exclusive mode", connection, transaction)
            )
                await hold.ExecuteNonQueryAsync();
            for (var full = 0; full < 20; )
            {
                var arrival = new Arrival(
                    form.ClientId,
                    form.Id,
                    "text/plain",
                    [1, 2, 3],
                    Payload.Bad("a test"),
                    $"busy-{waiting.Count}"
                );
                if (writer.TryQueue(arrival))
                    waiting.Add(arrival);
                else
                {
                    full++;
                    await Task.Delay(10); // the writer may yet take a batch out of the queue
                }
            }

            var refused = await world.SubmitAsync(world.Person());
            Assert.Equal("busy", await refused.RefusalAsync(HttpStatusCode.ServiceUnavailable));
            Assert.NotNull(refused.Headers.RetryAfter);
            using var visitor = new HttpRequestMessage(HttpMethod.Post, $"/in/{World.Form}")
            {
                Content = new FormUrlEncodedContent(world.Person()),
            };
            visitor.Headers.Accept.ParseAdd("text/html");
            Assert.Contains(
                "your answers are still in the form",
                await (await world.Anyone.SendAsync(visitor)).Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
            Assert.DoesNotContain(waiting, a => a.Done.Task.IsCompleted);
            await transaction.RollbackAsync();
        }

        await Task.WhenAll(waiting.Select(a => a.Done.Task)).WaitAsync(TimeSpan.FromSeconds(30));
        Assert.Equal(
            waiting.Count,
            await world.InsideAsync(async s =>
                await s.GetRequiredService<AppDb>().Submissions.CountAsync(x => x.OwnId!.StartsWith("busy-"))
            )
        );
        Assert.Equal(HttpStatusCode.Accepted, (await world.SubmitAsync(world.Person())).StatusCode);
    }
}

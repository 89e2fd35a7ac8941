using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Delivery;
using LitFuse.Server.Demo;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests;

public sealed class EngineTests(World world) : IClassFixture<World>
{
    [Fact]
    public async Task A_worker_that_lost_its_lease_changes_nothing()
    {
        // A delivery of the past, put back on the table for a connection the world's own worker never looks at again.
        var id = await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var delivery = await db.Deliveries.FirstAsync(d => d.Status == DeliveryStatus.Done);
            (delivery.Status, delivery.Attempts, delivery.LeasedBy, delivery.LeasedUntil) = (
                DeliveryStatus.Sending,
                1,
                "one",
                world.Now + Duration.FromHours(1)
            );
            await db.SaveChangesAsync();
            return delivery.Id;
        });
        var nothing = new AttemptAnswer(Spent: true, null, null, 3, []);
        async Task<bool> End(string worker, int attempt) =>
            (
                await world.InsideAsync(s =>
                    s.GetRequiredService<DeliveryClaim>()
                        .EndAsync(
                            worker,
                            [
                                new(
                                    new() { Id = id, Attempts = attempt },
                                    DeliveryStatus.Done,
                                    "took it",
                                    world.Now,
                                    world.Now,
                                    nothing,
                                    Core.Stories.StoryKind.StepDone
                                ),
                            ],
                            world.Now,
                            CancellationToken.None
                        )
                )
            ).Contains(id);
        Assert.False(await End("two", 1)); // another worker
        Assert.False(await End("one", 2)); // an attempt that is not the present one
        Assert.Equal(
            0,
            await world.InsideAsync(s =>
                s.GetRequiredService<DeliveryClaim>().RenewAsync("two", [id], world.Now, CancellationToken.None)
            )
        );
        Assert.True(await End("one", 1));
        Assert.False(await End("one", 1)); // it has ended
    }

    [Fact]
    public async Task Two_claim_the_same_table_and_nothing_is_claimed_twice()
    {
        var connection = await SpareAsync(120);
        var claimed = new ConcurrentBag<Guid>();
        var ahead = world.Now + Duration.FromDays(2);
        await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Connections.Where(c => c.Id == connection)
                .ExecuteUpdateAsync(c => c.SetProperty(x => x.AtOnce, 7))
        );
        // Each takes what there is room for, and makes room again.
        await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(w =>
                    Task.Run(async () =>
                    {
                        for (var i = 0; i < 200 && claimed.Count < 120; i++)
                        {
                            var mine = await world.InsideAsync(s =>
                                s.GetRequiredService<DeliveryClaim>()
                                    .ClaimAsync($"w{w}", ahead, [], CancellationToken.None)
                            );
                            Assert.InRange(mine.Count, 0, 7);
                            foreach (var c in mine)
                                claimed.Add(c.Id);
                            var ids = mine.ConvertAll(c => c.Id);
                            await world.InsideAsync(s =>
                                s.GetRequiredService<AppDb>()
                                    .Deliveries.Where(d => ids.Contains(d.Id))
                                    .ExecuteUpdateAsync(d => d.SetProperty(x => x.Status, DeliveryStatus.Done))
                            );
                        }
                    })
                )
        );
        Assert.Equal(120, claimed.Count);
        Assert.Equal(120, claimed.Distinct().Count());

        // A lease that runs out gives it back.
        await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Deliveries.Where(d => d.ConnectionId == connection)
                .ExecuteUpdateAsync(d =>
                    d.SetProperty(x => x.Status, DeliveryStatus.Sending).SetProperty(x => x.LeasedUntil, ahead)
                )
        );
        Assert.Equal(
            120,
            await world.InsideAsync(s =>
                s.GetRequiredService<DeliveryClaim>()
                    .RecoverAsync(ahead + DeliveryClaim.Lease + Duration.FromSeconds(1), CancellationToken.None)
            )
        );
        await ClearSpareAsync();
    }

    [Fact]
    public async Task A_claim_takes_as_many_as_there_is_room_for()
    {
        var connection = await SpareAsync(60);
        var ahead = world.Now + Duration.FromDays(2);
        async Task<int> ClaimedAsync(int? atOnce, int? perMinute)
        {
            await world.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Connections.Where(c => c.Id == connection)
                    .ExecuteUpdateAsync(c =>
                        c.SetProperty(x => x.AtOnce, atOnce)
                            .SetProperty(x => x.PerMinute, perMinute)
                            .SetProperty(x => x.Tokens, (double?)null)
                    )
            );
            // Two processes at one moment have together what the connection takes.
            var claimed =
                await ClaimSpareAsync(connection, "one", ahead) + await ClaimSpareAsync(connection, "other", ahead);
            await RecoverAsync(ahead);
            return claimed;
        }

        Assert.Equal(ConnectionThrottle.Wide, await ClaimedAsync(null, null));
        Assert.Equal(5, await ClaimedAsync(5, null));
        Assert.Equal(2, await ClaimedAsync(null, 120));
        Assert.Equal(1, await ClaimedAsync(5, 30));
        await ClearSpareAsync();
    }

    // A connection whose row somebody else holds at this moment is left to them: nothing is claimed only where it is so
    // again and again.
    private async Task<int> ClaimSpareAsync(Guid connection, string worker, Instant at, Guid[]? answered = null)
    {
        var claimed = 0;
        for (var tries = 0; tries < 8 && claimed == 0; tries++)
        {
            if (tries > 0)
                await Task.Delay(15);
            claimed = await world.InsideAsync(async s =>
                (
                    await s.GetRequiredService<DeliveryClaim>()
                        .ClaimAsync(worker, at, answered ?? [], CancellationToken.None)
                ).Count(d => d.ConnectionId == connection)
            );
        }

        return claimed;
    }

    [Fact]
    public async Task What_a_service_has_answered_takes_no_room_while_it_is_written_down()
    {
        var spare = await SpareAsync(60);
        var ahead = world.Now + Duration.FromDays(2);
        Assert.Equal(ConnectionThrottle.Wide, await ClaimSpareAsync(spare, "one", ahead));
        Assert.Equal(0, await ClaimSpareAsync(spare, "one", ahead));
        var answered = await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Deliveries.Where(d => d.ConnectionId == spare && d.Status == DeliveryStatus.Sending)
                .OrderBy(d => d.Id)
                .Select(d => d.Id)
                .Take(10)
                .ToArrayAsync()
        );
        Assert.Equal(10, await ClaimSpareAsync(spare, "one", ahead, answered));
        Assert.Equal(0, await ClaimSpareAsync(spare, "one", ahead, answered));
        await ClearSpareAsync();
    }

    private Task<int> RecoverAsync(Instant at) =>
        world.InsideAsync(s =>
            s.GetRequiredService<DeliveryClaim>()
                .RecoverAsync(at + DeliveryClaim.Lease + Duration.FromSeconds(1), CancellationToken.None)
        );

    private Task<IReadOnlyList<Guid>> NoteAsync(Guid connection, bool inTrouble, int times, Instant at) =>
        world.InsideAsync(async s =>
            (
                await s.GetRequiredService<ConnectionThrottle>()
                    .NoteAsync(Enumerable.Repeat((connection, inTrouble), times), at, CancellationToken.None)
            ).Recovered
        );

    // A connection of its own, so that the world's worker finds no work: its deliveries are due far ahead of its clock.
    private Task<Guid> SpareAsync(int deliveries) =>
        world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var old = await db.Deliveries.AsNoTracking().FirstAsync();
            var template = await db.Connections.AsNoTracking().FirstAsync(c => c.Id == old.ConnectionId);
            var made = new Connection
            {
                Id = Guid.NewGuid(),
                ClientId = template.ClientId,
                Kind = "ridgeboard",
                Name = "Spare",
                BaseUrl = template.BaseUrl,
                Secret = template.Secret,
            };
            db.Connections.Add(made);
            for (var i = 0; i < deliveries; i++)
            {
                db.Deliveries.Add(
                    new()
                    {
                        Id = Guid.NewGuid(),
                        ClientId = made.ClientId,
                        LeadId = old.LeadId,
                        ConnectionId = made.Id,
                        Lane = Core.Fuses.Definition.Lane.Team,
                        Kind = "channel-post",
                        Key = $"spare-{made.Id:N}-{i}",
                        PlannedAt = world.Now,
                        MadeAt = world.Now,
                        DueAt = world.Now + Duration.FromDays(1),
                    }
                );
            }

            await db.SaveChangesAsync();
            // What is due of others days ahead is none of this.
            await db
                .Connections.Where(c => c.Name != "Spare")
                .ExecuteUpdateAsync(c => c.SetProperty(x => x.PausedAt, world.Now));
            return made.Id;
        });

    private Task ClearSpareAsync() =>
        World.SqlAsync(
            new Npgsql.NpgsqlConnectionStringBuilder(world.ConnectionString).Database!,
            "delete from deliveries where key like 'spare-%'; update connections set paused_at = null"
        );

    [Fact]
    public async Task One_connection_that_fails_rests_alone_is_tried_with_one_and_opens_slowly()
    {
        var (bad, good) = (await SpareAsync(60), await SpareAsync(3));
        var ahead = world.Now + Duration.FromDays(2);
        for (var i = 0; i < ConnectionThrottle.Trips - 1; i++)
            await NoteAsync(bad, inTrouble: true, 1, ahead);
        Assert.Equal(ConnectionThrottle.Wide, await ClaimSpareAsync(bad, "one", ahead));
        await RecoverAsync(ahead);
        await NoteAsync(bad, inTrouble: true, 1, ahead);
        Assert.Equal(3, await ClaimSpareAsync(good, "one", ahead)); // the other does not wait for it
        Assert.Equal(0, await ClaimSpareAsync(bad, "one", ahead));
        var after = ahead + Duration.FromSeconds(1);
        Assert.Equal(1, await ClaimSpareAsync(bad, "one", after));
        Assert.Equal(0, await ClaimSpareAsync(bad, "other", after)); // one of all processes, not one of each
        // it works again: what waits for it may hurry
        Assert.Equal([bad], await NoteAsync(bad, inTrouble: false, 1, after));
        await RecoverAsync(after);
        foreach (var width in new[] { 2, 4, 8, 16, ConnectionThrottle.Wide, ConnectionThrottle.Wide })
        {
            Assert.Equal(width, await ClaimSpareAsync(bad, "one", after) + await ClaimSpareAsync(bad, "other", after));
            await RecoverAsync(after);
            Assert.Empty(await NoteAsync(bad, inTrouble: false, width, after));
        }

        await ClearSpareAsync();
    }

    [Fact]
    public async Task While_it_opens_a_failure_halves_it_and_enough_of_them_close_it_again()
    {
        var connection = await SpareAsync(30);
        var ahead = world.Now + Duration.FromDays(2);
        await NoteAsync(connection, inTrouble: true, ConnectionThrottle.Trips, ahead);
        var after = ahead + Duration.FromMinutes(1);
        for (var i = 0; i < 3; i++)
            await NoteAsync(connection, inTrouble: false, 1, after); // 2, 4, 8
        await NoteAsync(connection, inTrouble: true, 1, after);
        Assert.Equal(4, await ClaimSpareAsync(connection, "one", after));
        await RecoverAsync(after);
        await NoteAsync(connection, inTrouble: true, ConnectionThrottle.Trips, after);
        Assert.Equal(0, await ClaimSpareAsync(connection, "one", after));
        // A lot in which some went through is no outage.
        await world.InsideAsync(s =>
            s.GetRequiredService<ConnectionThrottle>()
                .NoteAsync([(connection, true), (connection, false), (connection, true)], after, CancellationToken.None)
        );
        Assert.Equal(2, await ClaimSpareAsync(connection, "one", after));
        await ClearSpareAsync();
    }

    [Fact]
    public async Task What_begins_in_a_minute_is_counted_for_all_processes_together()
    {
        var connection = await SpareAsync(60);
        var ahead = world.Now + Duration.FromDays(2);
        await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Connections.Where(c => c.Id == connection)
                .ExecuteUpdateAsync(c => c.SetProperty(x => x.PerMinute, 120))
        );
        var begun = new List<int>();
        // Ten seconds, in which two processes ask five times a second each.
        for (var i = 0; i < 50; i++)
        {
            var at = ahead + Duration.FromMilliseconds(200 * i);
            begun.Add(
                await ClaimSpareAsync(connection, i % 2 == 0 ? "one" : "other", at)
                    + await ClaimSpareAsync(connection, i % 2 == 0 ? "other" : "one", at)
            );
        }

        Assert.Equal(2 + 19, begun.Sum()); // a second's share at once, then two a second
        Assert.InRange(
            (
                await world.InsideAsync(s =>
                    s.GetRequiredService<DeliveryClaim>()
                        .NextAsync(ahead + Duration.FromSeconds(10), [], CancellationToken.None)
                )
            )!.Value - (ahead + Duration.FromMilliseconds(9_800)),
            Duration.Zero,
            Duration.FromSeconds(1.2)
        );
        // What was not used does not pile up.
        Assert.Equal(2, await ClaimSpareAsync(connection, "one", ahead + Duration.FromMinutes(9)));
        await ClearSpareAsync();
    }

    [Theory]
    [InlineData("127.0.0.1", false)]
    [InlineData("10.1.2.3", false)]
    [InlineData("172.20.0.1", false)]
    [InlineData("192.168.1.1", false)]
    [InlineData("169.254.169.254", false)] // where clouds keep their secrets
    [InlineData("100.64.0.1", false)]
    [InlineData("::1", false)]
    [InlineData("fe80::1", false)]
    [InlineData("fd00::1", false)]
    [InlineData("::ffff:10.0.0.1", false)]
    [InlineData("203.0.114.7", true)]
    [InlineData("2001:db9::1", true)]
    public void Outbound_calls_go_to_public_addresses_alone(string address, bool allowed)
    {
        Assert.Equal(allowed, Outbound.Fault(IPAddress.Parse(address), new OutboundRules()) is null);
        Assert.Null(Outbound.Fault(IPAddress.Parse(address), new OutboundRules { AllowPrivate = true }));
    }

    [Fact]
    public async Task The_demonstration_is_lived_by_the_engine()
    {
        var figures = await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            return (
                Leads: await db.Leads.CountAsync(),
                Burns: await db.Burns.CountAsync(),
                Texts: await db.Deliveries.CountAsync(d => d.Kind == "text"),
                Night: (
                    await db
                        .Story.Where(e => e.Kind == Core.Stories.StoryKind.StepWaits)
                        .Select(e => e.At)
                        .ToListAsync()
                ).Count,
                Spend: await db.SpendDays.CountAsync(),
                Touched: await db.Leads.CountAsync(l => l.FirstTouchAt != null)
            );
        });
        Assert.True(
            figures.Leads > 100
                && figures.Burns >= figures.Leads
                && figures.Texts > 10
                && figures.Night > 0
                && figures.Touched > figures.Leads / 2,
            $"{figures}"
        );
        Assert.Equal(91 * 14, figures.Spend); // each day, each form's campaign
        Assert.Equal(8, DemoCast.People.Count);
    }

    [Fact]
    public void The_same_seed_makes_the_same_world_whenever_it_is()
    {
        var client = DemoCast.Clients()[0];
        List<DemoAsking> At(int hour, int day) =>
            [
                .. new DemoAskings(new Random(7), client, 0.05).Make(
                    Instant.FromUtc(2026, 11, day, hour, 41),
                    90,
                    [Duration.FromSeconds(9)]
                ),
            ];
        var (morning, night) = (At(9, 24), At(22, 27));
        var names = night.Select(a => a.Who.Email).ToHashSet(StringComparer.Ordinal);
        Assert.Equal(morning[^1].Who, night[^1].Who);
        // the same people; some fall on a quiet weekday
        Assert.True(morning.Count(a => names.Contains(a.Who.Email)) > morning.Count * 0.6);
        Assert.Equal(At(9, 24).Select(a => (a.Who, a.At)), morning.Select(a => (a.Who, a.At)));
    }

    [Fact]
    public async Task The_model_and_the_migrations_agree() =>
        Assert.False(
            await world.InsideAsync(s =>
                Task.FromResult(s.GetRequiredService<AppDb>().Database.HasPendingModelChanges())
            )
        );

    [Fact]
    public async Task Secrets_do_not_lie_readable_in_the_database()
    {
        var stored = await world.InsideAsync(async s =>
            await s.GetRequiredService<AppDb>().Connections.Select(c => c.Secret + c.NoticeSecret).ToListAsync()
        );
        Assert.All(stored, s => Assert.DoesNotContain("backlot-demo", s, StringComparison.Ordinal));
    }

    [Fact]
    public async Task The_catalogue_of_errors_is_the_one_in_the_docs()
    {
        var docs = await File.ReadAllTextAsync(Path.Combine(Root.Path, "docs/errors.md"));
        Assert.All(Problems.All, p =>
            Assert.Contains($"| `{p.Code}` | {p.Status} | {p.Title} | {p.Mend} |", docs, StringComparison.Ordinal)
        );
        Assert.Equal(Problems.All.Count, docs.Split('\n').Count(l => l.StartsWith("| `", StringComparison.Ordinal)));
    }
}

/// <summary>The program as it is started and killed.</summary>
public sealed class ProcessTests(World world) : IClassFixture<World>
{
    private static readonly string Binary = Path.GetFullPath(
        Path.Combine(
            AppContext.BaseDirectory,
            "../../LitFuse.Server",
            Path.GetFileName(AppContext.BaseDirectory.TrimEnd('/')),
            "LitFuse.Server"
        )
    );

    private Process Start(string url, string? db = null) =>
        Process.Start(
            new ProcessStartInfo(Binary)
            {
                ArgumentList =
                {
                    "--url",
                    url,
                    "--backlot-url",
                    world.BacklotUrl,
                    "--allow-private",
                    "true",
                    "--demo",
                    "true",
                    "--db",
                    db ?? world.ConnectionString,
                    "--clock-shift",
                    $"{(world.Time.GetUtcNow() - DateTimeOffset.UtcNow).TotalSeconds:0}",
                },
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;

    private static async Task ReadyAsync(HttpClient http)
    {
        for (var tries = 0; tries < 2400; tries++)
        {
            try
            {
                if ((await http.GetAsync("/health/ready")).IsSuccessStatusCode)
                    return;
            }
            catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
            {
                // Not there yet, or too busy with starting to say so.
            }

            await Task.Delay(50);
        }

        throw new Xunit.Sdk.XunitException("The server did not come up within two minutes.");
    }

    [Fact]
    public async Task Killed_in_the_middle_it_loses_nothing_and_doubles_nothing()
    {
        await world.App.StopAsync(); // the killed one works alone
        var url = $"http://127.0.0.1:{World.FreePort()}";
        using var http = new HttpClient { BaseAddress = new Uri(url), Timeout = TimeSpan.FromSeconds(5) };
        var acknowledged = new ConcurrentBag<string>();
        var process = Start(url);
        try
        {
            await ReadyAsync(http);
            using var over = new CancellationTokenSource(TimeSpan.FromMinutes(2));
            var sending = Enumerable
                .Range(0, 8)
                .Select(w =>
                    Task.Run(async () =>
                    {
                        for (var i = 0; !over.IsCancellationRequested; i++)
                        {
                            var mark = $"mark-{w}-{i}-end";
                            try
                            {
                                var answer = await http.PostAsJsonAsync(
                                    $"/in/{World.Form}",
                                    new
                                    {
                                        id = mark,
                                        first_name = "Ines",
                                        last_name = mark,
                                        email = $"{mark}@example.com",
                                        fleet_size = "4–9",
                                        cargo = "food",
                                    }
                                );
                                if (answer.StatusCode == HttpStatusCode.Accepted)
                                    acknowledged.Add(mark);
                            }
                            catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
                            {
                                await Task.Delay(50); // killed: nothing was promised
                            }

                            await Task.Delay(60);
                        }
                    })
                )
                .ToList();
            // However quick the machine: as many before each kill and after the last.
            async Task MoreAsync()
            {
                for (var until = acknowledged.Count + 50; acknowledged.Count < until && !over.IsCancellationRequested; )
                    await Task.Delay(50);
            }

            for (var kills = 0; kills < 2; kills++)
            {
                await MoreAsync();
                process.Kill(); // SIGKILL
                await process.WaitForExitAsync();
                process = Start(url);
                await ReadyAsync(http);
            }

            await MoreAsync();
            await over.CancelAsync();
            await Task.WhenAll(sending);
            Assert.True(acknowledged.Count >= 150, $"only {acknowledged.Count} were acknowledged");
            var counts = new Dictionary<string, int>(StringComparer.Ordinal);
            for (var tries = 0; tries < 300; tries++)
            {
                var posts = (
                    await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                        "/api/ridgeboard/posts?channel=%23ride-desk"
                    )
                )!;
                counts = posts
                    .SelectMany(p =>
                        System
                            .Text.RegularExpressions.Regex.Matches(
                                p.Text("text")!,
                                @"First name: Ines\nLast name: (mark-\d+-\d+-end)"
                            )
                            .Select(m => m.Groups[1].Value)
                    )
                    .GroupBy(m => m, StringComparer.Ordinal)
                    .ToDictionary(g => g.Key, g => g.Count(), StringComparer.Ordinal);
                if (acknowledged.All(counts.ContainsKey))
                    break;
                await Task.Delay(100);
            }

            Assert.DoesNotContain(acknowledged, m => !counts.ContainsKey(m));
            Assert.DoesNotContain(counts, c => c.Value != 1);
        }
        finally
        {
            process.Kill();
            await process.WaitForExitAsync();
        }
    }

    [Theory]
    [InlineData("--role", "boss", "--role is 'all', 'web' or 'worker'")]
    [InlineData("--url", "somewhere", "--url needs an address")]
    public async Task What_keeps_it_from_starting_is_said_in_a_sentence(string name, string value, string said)
    {
        using var process = Process.Start(
            new ProcessStartInfo(Binary)
            {
                ArgumentList = { name, value },
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;
        var error = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.Equal(2, process.ExitCode);
        Assert.Contains("Lit Fuse cannot start: ", error, StringComparison.Ordinal);
        Assert.Contains(said, error, StringComparison.Ordinal);
    }

    [Fact]
    public async Task While_the_database_is_away_it_waits_and_says_so_once()
    {
        using var process = Process.Start(
            new ProcessStartInfo(Binary)
            {
                ArgumentList = { "--db", "Host=127.0.0.1;Port=1;Username=x;Timeout=2" },
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;
        try
        {
            var said = await process.StandardError.ReadLineAsync().WaitAsync(TimeSpan.FromSeconds(30));
            Assert.Contains("The database cannot be reached.", said, StringComparison.Ordinal);
            Assert.EndsWith("Waiting for it.", said, StringComparison.Ordinal);
            var next = process.StandardError.ReadLineAsync();
            await Task.WhenAny(next, process.WaitForExitAsync(), Task.Delay(TimeSpan.FromSeconds(3)));
            Assert.False(process.HasExited || next.IsCompleted);
        }
        finally
        {
            process.Kill();
            await process.WaitForExitAsync();
        }
    }

    [Fact]
    public async Task An_empty_database_says_what_to_do()
    {
        var name = $"litfuse_e{Environment.ProcessId}";
        await World.SqlAsync("postgres", $"create database {name}");
        var url = $"http://127.0.0.1:{World.FreePort()}";
        using var process = Process.Start(
            new ProcessStartInfo(Binary)
            {
                ArgumentList = { "--url", url, "--db", World.ConnectionTo(name) },
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;
        try
        {
            Assert.Equal(
                "There is no account here yet: the database is empty. Start the server with --demo true (./demo does) to load the demonstration and its accounts.",
                await process.StandardError.ReadLineAsync()
            );
            using var http = new HttpClient { BaseAddress = new Uri(url) };
            await ReadyAsync(http);
            Assert.Equal(
                "nobody-yet",
                await (
                    await http.PostAsJsonAsync(
                        "/api/session",
                        new { email = "noor@quillonstreet.example", password = "x" }
                    )
                ).RefusalAsync(HttpStatusCode.Conflict)
            );
        }
        finally
        {
            process.Kill();
            await process.WaitForExitAsync();
            await World.SqlAsync("postgres", $"drop database {name} with (force)");
        }
    }

    [Fact]
    public async Task A_taken_port_is_said_in_a_sentence()
    {
        using var taken = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        taken.Start();
        using var process = Start($"http://127.0.0.1:{((IPEndPoint)taken.LocalEndpoint).Port}");
        var error = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.Equal(2, process.ExitCode);
        Assert.Contains("Something else has that port", error, StringComparison.Ordinal);
    }
}

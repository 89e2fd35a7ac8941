using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>What leaves: seen with every attempt, held back, sent again, in order.</summary>
public sealed class DeliveriesTests(World world) : LedgerWork(world)
{
    private readonly World world = world;

    private static readonly Step Note = new(
        "note",
        "Note",
        "crm-contact",
        StepMoment.After(30),
        new Dictionary<string, string>
        {
            ["match"] = "email",
            ["fields.first_name"] = "{{ lead.first_name }}",
            ["fields.last_name"] = "{{ lead.last_name }}",
            ["fields.email"] = "{{ lead.email }}",
            ["note"] = "second",
        }
    );

    [Fact]
    public async Task Every_attempt_shows_what_was_said_and_answered_without_its_secrets()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("ledgerhouse", "busy");
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact()));
        await world.ToldAsync(noor, lead, "step-retries");
        var stuck = (await ListAsync(noor, $"client=brackenwheel&state=stuck&lead={lead}")).Single();
        Assert.Equal(
            ("due", "Contact", "Ledgerhouse"),
            (stuck.Text("status"), stuck.Text("step"), stuck.Text("connection"))
        );
        await world.WorksAgainAsync();
        await DrainAsync(noor, lead);

        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/deliveries/{stuck.Text("id")}");
        var attempts = whole.GetProperty("attempts").EnumerateArray().ToList();
        Assert.True(attempts.Count >= 2);
        Assert.Equal(
            [429, 201],
            [
                attempts[0].GetProperty("exchanges")[0].GetProperty("status").GetInt32(),
                attempts[^1].GetProperty("exchanges")[0].GetProperty("status").GetInt32(),
            ]
        );
        Assert.Contains("Ledgerhouse answered 429", attempts[0].Text("reason"), StringComparison.Ordinal);
        var said = attempts[^1].GetProperty("exchanges")[0];
        Assert.StartsWith("PUT http", said.Text("asked"), StringComparison.Ordinal);
        Assert.Contains(person["email"], said.Text("sent"), StringComparison.Ordinal);
        Assert.Equal(
            ("Bearer •••", whole.Text("key")),
            (said.GetProperty("headers").Text("Authorization"), said.GetProperty("headers").Text("Idempotency-Key"))
        );
        Assert.DoesNotContain("backlot-demo", whole.GetRawText(), StringComparison.Ordinal);
        Assert.Equal("done", whole.GetProperty("row").Text("status"));

        // Reps read what was sent about their leads, but not the whole list; another client's are not there.
        var imke = await world.ImkeAsync();
        Assert.Equal(HttpStatusCode.OK, (await imke.GetAsync($"/api/deliveries/{stuck.Text("id")}")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await imke.GetAsync("/api/deliveries")).StatusCode);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await (await world.AsAsync("marguerite@hollinvane.example")).GetAsync(
                    $"/api/deliveries/{stuck.Text("id")}"
                )
            ).StatusCode
        );
    }

    [Fact]
    public async Task A_paused_connection_holds_its_queue_in_order_and_drains_when_it_is_resumed()
    {
        var noor = await world.NoorAsync();
        var connection = await LedgerAsync(noor);
        (await noor.PostAsync($"/api/connections/{connection}/pause", null)).EnsureSuccessStatusCode();
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact(("note", "first")), Note));
        await world.ToldAsync(noor, lead, "step-sent", "Contact");
        world.Time.Move(TimeSpan.FromSeconds(40));
        await world.ToldAsync(noor, lead, "step-sent", "Note");
        Assert.Empty(await ContactsAsync(person["email"]));
        var queue = (await noor.GetFromJsonAsync<JsonElement>("/api/deliveries?client=brackenwheel"))
            .GetProperty("queues")
            .EnumerateArray()
            .Single(q => q.Text("id") == connection);
        Assert.Equal(
            ("Noor Abernathy-Voss", true),
            (queue.Text("pausedBy"), queue.GetProperty("waiting").GetInt32() >= 2)
        );
        Assert.NotNull((await RowAsync(noor, connection)).Text("pausedAt"));

        (await noor.PostAsync($"/api/connections/{connection}/resume", null)).EnsureSuccessStatusCode();
        await World.EventuallyAsync(
            async () =>
                (await ContactsAsync(person["email"])) is [var c] && c.GetProperty("notes").GetArrayLength() == 2,
            "both notes"
        );
        Assert.Equal(
            ["first", "second"],
            (await ContactsAsync(person["email"]))
                .Single()
                .GetProperty("notes")
                .EnumerateArray()
                .Select(n => n.GetString())
        );
        world.Time.Move(TimeSpan.FromSeconds(-40));
    }

    [Fact]
    public async Task What_comes_later_for_a_lead_does_not_overtake_what_is_tried_again()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("ledgerhouse", "error");
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact(("note", "first")), Note));
        await world.ToldAsync(noor, lead, "step-retries", "Contact");
        await world.WorksAgainAsync();
        world.Time.Move(TimeSpan.FromSeconds(31));
        await DrainAsync(noor, lead, 2);
        Assert.Equal(
            ["first", "second"],
            (await ContactsAsync(person["email"]))
                .Single()
                .GetProperty("notes")
                .EnumerateArray()
                .Select(n => n.GetString())
        );
        world.Time.Move(TimeSpan.FromSeconds(-31));
    }

    [Fact]
    public async Task What_failed_is_sent_again_under_its_own_key_and_the_fuse_goes_on_from_there()
    {
        var noor = await world.NoorAsync();
        var ledger = await LedgerAsync(noor);
        var token = await TokenAsync("deals");
        (
            await noor.PutAsJsonAsync($"/api/connections/{ledger}/access", new { values = new { token } })
        ).EnsureSuccessStatusCode();
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact(), Post));
        Assert.Contains(
            "answered 403",
            (await world.ToldAsync(noor, lead, "step-failed", "Contact")).Text("words"),
            StringComparison.Ordinal
        );
        var failed = (await ListAsync(noor, $"state=failed&lead={lead}")).Single();
        (
            await noor.PutAsJsonAsync(
                $"/api/connections/{ledger}/access",
                new { values = new { token = await TokenAsync("contacts", "deals") } }
            )
        ).EnsureSuccessStatusCode();

        // Counted first: nothing moves.
        var filter = new
        {
            state = "failed",
            lead,
            client = "brackenwheel",
        };
        var counted = await (
            await noor.PostAsJsonAsync("/api/deliveries/replay", new { filter, justCount = true })
        ).BodyAsync();
        Assert.Equal(
            (1, 1, 0),
            (
                counted.GetProperty("replayed").GetInt32(),
                counted.GetProperty("failed").GetInt32(),
                counted.GetProperty("taken").GetInt32()
            )
        );
        Assert.Single(await ListAsync(noor, $"state=failed&lead={lead}"));
        var key = (await noor.GetFromJsonAsync<JsonElement>($"/api/deliveries/{failed.Text("id")}")).Text("key");
        Assert.Equal(
            1,
            (
                await (
                    await noor.PostAsJsonAsync("/api/deliveries/replay", new { filter, justCount = false })
                ).BodyAsync()
            )
                .GetProperty("replayed")
                .GetInt32()
        );
        await world.ToldAsync(noor, lead, "step-done", "Contact");
        Assert.Single(await ContactsAsync(person["email"]));
        Assert.Contains(
            "Noor Abernathy-Voss has it sent again",
            (await world.ToldAsync(noor, lead, "step-replayed")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            key,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/deliveries/{failed.Text("id")}")).Text("key")
        );

        // What was cancelled because the contact failed comes after it, with the contact's address in it.
        await World.EventuallyAsync(
            async () => (await world.PostsAsync("#ride-desk", person["email"])).Count == 1,
            "post after the replay"
        );

        // What was taken goes out as another thing, when somebody wants it so; a lead's text never does.
        (
            await noor.PostAsJsonAsync(
                "/api/deliveries/replay",
                new { ids = new[] { failed.Text("id") }, justCount = false }
            )
        ).EnsureSuccessStatusCode();
        await World.EventuallyAsync(
            async () => (await ContactsAsync(person["email"])).Single().GetProperty("changes").GetInt32() == 2,
            "sent again"
        );
        Assert.Equal(
            key + ".again1",
            (await noor.GetFromJsonAsync<JsonElement>($"/api/deliveries/{failed.Text("id")}")).Text("key")
        );
    }

    [Fact]
    public async Task What_is_given_up_is_tried_no_more_and_can_still_be_sent_again()
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("ledgerhouse", "error");
        var (lead, person, _, _) = await world.LitAsync(noor, f => Fuse(f, Contact()));
        await world.ToldAsync(noor, lead, "step-retries");
        var id = (await ListAsync(noor, $"state=stuck&lead={lead}")).Single().Text("id");
        await World.EventuallyAsync(
            async () => (await noor.PostAsync($"/api/deliveries/{id}/give-up", null)).IsSuccessStatusCode,
            "given up"
        );
        await world.WorksAgainAsync();
        Assert.Equal(
            "Noor Abernathy-Voss gave it up",
            (await world.ToldAsync(noor, lead, "step-failed")).Text("words")
        );
        world.Time.Move(TimeSpan.FromMinutes(5));
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/deliveries/{id}/give-up", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
        Assert.Empty(await ContactsAsync(person["email"]));
        (
            await noor.PostAsJsonAsync("/api/deliveries/replay", new { ids = new[] { id }, justCount = false })
        ).EnsureSuccessStatusCode();
        await world.ToldAsync(noor, lead, "step-done");
        Assert.Single(await ContactsAsync(person["email"]));
        world.Time.Move(TimeSpan.FromMinutes(-5));
    }

    [Fact]
    public async Task Lists_go_on_page_by_page_and_what_is_odd_is_refused()
    {
        var noor = await world.NoorAsync();
        var (seen, after) = (new List<string>(), "");
        for (var page = 0; page < 3; page++)
        {
            var one = await noor.GetFromJsonAsync<JsonElement>(
                $"/api/deliveries?state=taken{(after.Length > 0 ? "&after=" + after : "")}"
            );
            seen.AddRange(one.GetProperty("items").EnumerateArray().Select(i => i.Text("id")!));
            after = one.Text("next")!;
        }

        Assert.Equal(150, seen.Distinct().Count());
        foreach (
            var odd in new[]
            {
                "after=x",
                "after=1.2",
                "state=odd",
                "from=2026-11-25T00:00:00Z&to=2026-11-24T00:00:00Z",
                "connection=7",
            }
        )
        {
            Assert.Equal(HttpStatusCode.BadRequest, (await noor.GetAsync("/api/deliveries?" + odd)).StatusCode);
        }

        Assert.Equal(
            "not-there",
            await (await noor.GetAsync("/api/deliveries?client=nobody")).RefusalAsync(HttpStatusCode.NotFound)
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    "/api/deliveries/replay",
                    new { ids = Array.Empty<string>(), justCount = true }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            "not-there",
            await (await noor.PostAsync($"/api/connections/{Guid.NewGuid()}/pause", null)).RefusalAsync(
                HttpStatusCode.NotFound
            )
        );
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync($"/api/connections/{await LedgerAsync(noor)}/limits", new { atOnce = 0 })
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (
                await (await world.ImkeAsync()).PostAsJsonAsync(
                    "/api/deliveries/replay",
                    new { ids = new[] { Guid.NewGuid() }, justCount = true }
                )
            ).StatusCode
        );
    }

    private static async Task<string> LedgerAsync(HttpClient noor) =>
        (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .First(c => c.Text("kind") == "ledgerhouse")
            .Text("id")!;

    private static async Task<List<JsonElement>> ListAsync(HttpClient noor, string query) =>
        [
            .. (await noor.GetFromJsonAsync<JsonElement>("/api/deliveries?" + query))
                .GetProperty("items")
                .EnumerateArray(),
        ];

    // Moves the clock on until nothing of this lead waits any more.
    private async Task DrainAsync(HttpClient noor, string lead, int done = 1)
    {
        var moved = TimeSpan.Zero;
        await World.EventuallyAsync(
            async () =>
            {
                world.Time.Move(TimeSpan.FromSeconds(1));
                moved += TimeSpan.FromSeconds(1);
                return (await ListAsync(noor, $"state=waiting&lead={lead}")).Count == 0
                    && (await ListAsync(noor, $"state=taken&lead={lead}")).Count >= done;
            },
            "nothing left to send"
        );
        world.Time.Move(-moved);
    }

    [Fact]
    public async Task What_has_ended_says_when_and_what_waits_does_not()
    {
        var noor = await world.NoorAsync();
        await world.LeadOfAsync(noor, world.Person("25+"));
        var wrong = await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Deliveries.Where(d =>
                    (d.EndedAt == null) != (d.Status == DeliveryStatus.Due || d.Status == DeliveryStatus.Sending)
                )
                .Select(d => $"{d.Kind} {d.Status}")
                .Distinct()
                .ToListAsync()
        );
        Assert.Empty(wrong);
    }
}

using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>Rows in sheets and tickets: made once whatever the service does, found again, changed.</summary>
public sealed class RecordsTests(World world) : IClassFixture<World>
{
    private static Step Row(params (string Key, string Value)[] more) =>
        Of(
            "row",
            "sheet-row",
            [
                ("sheet", "rides"),
                ("tab", "asked"),
                ("mode", "add"),
                ("columns.Email", "{{ lead.email }}"),
                ("columns.Fleet size", "{{ lead.fleet_size }}"),
                .. more,
            ]
        );

    private static Step Ticket(params (string Key, string Value)[] more) =>
        Of(
            "ticket",
            "ticket",
            [
                ("queue", "RIDE"),
                ("again", "change"),
                ("summary", "Ring {{ lead.name }} ({{ lead.fleet_size }})"),
                ("assignee", "imke"),
                ("due", "{{ now | add_working_days: 2 }}"),
                .. more,
            ]
        );

    private static Step Of(string id, string kind, IEnumerable<(string Key, string Value)> settings) =>
        new(
            id,
            id,
            kind,
            StepMoment.AtOnce,
            settings.GroupBy(s => s.Key).ToDictionary(g => g.Key, g => g.Last().Value)
        );

    private static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "Into the records",
            Relight = Relight.Always,
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands = [new("always", "Always", new(EntryKind.Always), steps)],
        };

    private async Task<List<JsonElement>> RowsAsync(string email) =>
        [
            .. (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/gridlet/rides/asked"))!.Where(r =>
                r.GetProperty("cells").Text("Email") == email
            ),
        ];

    private async Task<List<JsonElement>> TicketsAsync(string lead) =>
        [
            .. (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/jobrack/tickets"))!.Where(t =>
                t.Text("ref") == lead
            ),
        ];

    [Fact]
    public async Task A_row_is_added_each_time_or_changed_where_its_key_is_the_same()
    {
        var noor = await world.NoorAsync();
        var (_, person, form, fuse) = await world.LitAsync(noor, f => Fuse(f, Row()));
        await World.EventuallyAsync(async () => (await RowsAsync(person["email"])).Count == 1, "first row");
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "25+" }, form);
        await World.EventuallyAsync(async () => (await RowsAsync(person["email"])).Count == 2, "second row");
        Assert.Equal(
            ["4–9", "25+"],
            (await RowsAsync(person["email"])).Select(r => r.GetProperty("cells").Text("Fleet size"))
        );

        await World.ArmAsync(noor, Fuse(form, Row(("mode", "change"), ("key", "Email"))), fuse);
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "1–3" }, form);
        await World.EventuallyAsync(
            async () => (await RowsAsync(person["email"]))[0].GetProperty("cells").Text("Fleet size") == "1–3",
            "changed row"
        );
        Assert.Equal(2, (await RowsAsync(person["email"])).Count);
    }

    [Fact]
    public async Task A_sheet_without_a_first_row_is_told_so_and_a_new_column_can_be_filled_after_a_refresh()
    {
        var noor = await world.NoorAsync();
        async Task<JsonElement> ColumnsAsync(string tab, bool again) =>
            await (
                await noor.PostAsJsonAsync(
                    "/api/connections/lists",
                    new
                    {
                        client = "brackenwheel",
                        step = "sheet-row",
                        setting = "columns",
                        settings = new { sheet = "rides", tab },
                        again,
                    }
                )
            ).BodyAsync();
        Assert.Equal(
            "Gridlet has no names of columns in this tab. Write them into its first row there, then refresh.",
            (await ColumnsAsync("later", again: false)).Text("fault")
        );
        await world.Backlot.PostAsync(
            "/gridlet/columns",
            new FormUrlEncodedContent([new("sheet", "rides"), new("tab", "later"), new("name", "Who")])
        );
        Assert.Equal(
            ["Who"],
            (await ColumnsAsync("later", again: true)).GetProperty("items").EnumerateArray().Select(i => i.Text("key"))
        );
        Assert.Contains(
            "answered 404",
            (await ColumnsAsync("gone", again: false)).Text("fault"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_sheet_that_another_client_s_fuse_fills_is_not_offered()
    {
        var noor = await world.NoorAsync();
        async Task<List<string?>> SheetsAsync(string client, object settings) => [.. (
                    await (
                        await noor.PostAsJsonAsync(
                            "/api/connections/lists",
                            new
                            {
                                client,
                                step = "sheet-row",
                                setting = "sheet",
                                settings,
                                again = true,
                            }
                        )
                    ).BodyAsync()
                ).GetProperty("items").EnumerateArray().Select(i => i.Text("key"))];
        Assert.Contains("quotes", await SheetsAsync("brackenwheel", new { }));
        var fuse = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "hollin-vane" })).BodyAsync()).Text(
            "id"
        );
        var revision = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}"))
            .GetProperty("revision")
            .GetInt32();
        var filling = Fuse("any", Row(("sheet", "quotes"))) with { LitBy = [new(EventKeys.ByHand)] };
        Assert.True(
            (
                await noor.PutAsync(
                    $"/api/fuses/{fuse}/draft",
                    JsonContent.Create(new { definition = filling, revision }, options: CoreJson.Options)
                )
            ).IsSuccessStatusCode
        );
        Assert.DoesNotContain("quotes", await SheetsAsync("brackenwheel", new { }));
        Assert.Contains("quotes", await SheetsAsync("hollin-vane", new { }));
        // One that is chosen already stays to be seen.
        Assert.Contains("quotes", await SheetsAsync("brackenwheel", new { sheet = "quotes" }));
    }

    [Fact]
    public async Task A_ticket_is_made_with_its_due_day_and_its_link_goes_on_and_lit_again_it_changes()
    {
        var noor = await world.NoorAsync();
        var post = Of(
            "post",
            StepKinds.ChannelPost,
            [
                ("channel", "#ride-desk"),
                (
                    "words",
                    "{{ lead.email }}: {{ steps.ticket.key }} due {{ steps.ticket.due_date }} {{ steps.ticket.url }}"
                ),
            ]
        );
        var (lead, person, form, _) = await world.LitAsync(noor, f => Fuse(f, Ticket(), post));
        await world.ToldAsync(noor, lead, "step-done", "post");
        var ticket = Assert.Single(await TicketsAsync(lead));
        var today = DateOnly.FromDateTime(world.Time.GetUtcNow().UtcDateTime);
        var due = today;
        for (var left = 2; left > 0; )
        {
            // Brackenwheel works from Monday to Saturday.
            due = due.AddDays(1);
            if (due.DayOfWeek != DayOfWeek.Sunday)
                left--;
        }

        Assert.Equal(
            ("imke", due.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture)),
            (ticket.Text("assignee"), ticket.Text("due"))
        );
        Assert.EndsWith(
            $": {ticket.Text("key")} due {ticket.Text("due")} {world.Backlot.BaseAddress!.ToString().TrimEnd('/')}/jobrack/{ticket.Text("key")}",
            (await world.PostsAsync("#ride-desk", person["email"])).Single().Text("text"),
            StringComparison.Ordinal
        );
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["fleet_size"] = "25+" }, form);
        await World.EventuallyAsync(
            async () =>
                (await TicketsAsync(lead)).Single().Text("summary")!.EndsWith("(25+)", StringComparison.Ordinal),
            "changed ticket"
        );
    }

    [Theory]
    [InlineData("half")]
    [InlineData("repeat")]
    [InlineData("error")]
    public async Task Whatever_the_services_do_there_is_one_row_and_one_ticket(string mode)
    {
        var noor = await world.NoorAsync();
        await world.FaultAsync("gridlet", mode);
        await world.FaultAsync("jobrack", mode);
        try
        {
            var (lead, person, _, _) = await world.LitAsync(noor, f =>
                Fuse(f, Row(), Ticket(("again", "add"), ("summary", "Ring {{ lead.email }}")))
            );
            if (mode != "repeat")
                await World.EventuallyAsync(
                    async () =>
                        (await world.StoryAsync(noor, lead))
                            .Where(l => l.Text("kind") == "step-retries")
                            .Select(l => l.Text("step"))
                            .Distinct()
                            .Count() == 2,
                    "both tried again"
                );
            await world.WorksAgainAsync();
            await World.EventuallyAsync(
                async () =>
                {
                    world.Time.Move(TimeSpan.FromSeconds(2));
                    return (await world.StoryAsync(noor, lead)).Count(l => l.Text("kind") == "step-done") == 2;
                },
                "both in the end"
            );
            Assert.Single(await RowsAsync(person["email"]));
            Assert.Single((await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/seen/jobrack/tickets"))!, t =>
                t.Text("summary")!.EndsWith(person["email"], StringComparison.Ordinal)
            );
        }
        finally
        {
            await world.WorksAgainAsync();
        }
    }

    [Fact]
    public async Task What_a_ticket_cannot_be_is_refused_for_good_with_the_reason()
    {
        var noor = await world.NoorAsync();
        var (lead, _, _, _) = await world.LitAsync(noor, f => Fuse(f, Ticket(("due", "soon"))));
        Assert.Contains(
            "“soon” is no day",
            (await world.ToldAsync(noor, lead, "step-failed")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.Empty(await TicketsAsync(lead));
    }
}

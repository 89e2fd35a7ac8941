using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>The demonstration's leads of the past through a fuse, beside what is armed and what happened.</summary>
public sealed class BacktestsTests(World world) : IClassFixture<World>
{
    private static readonly Step Told = new(
        "told",
        "Tell the desk",
        StepKinds.ChannelPost,
        StepMoment.AtOnce,
        new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = "{{ lead.name }} asked" }
    );

    private static FuseDefinition Fuse(params Step[] steps) =>
        new()
        {
            Name = "Backtested: tell the desk and text",
            LitBy =
            [
                new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [World.Form] }),
            ],
            Bands =
            [
                new("always", "Always", new(EntryKind.Always), steps),
                new(
                    "big",
                    "Big fleets",
                    new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["10–24", "25+"])])),
                    [
                        new(
                            "call",
                            "Tell Imke",
                            StepKinds.DirectPost,
                            StepMoment.AtOnce,
                            new Dictionary<string, string>
                            {
                                ["person"] = "imke.sandoval",
                                ["words"] = "Ring {{ lead.name }}",
                            }
                        ),
                    ]
                ),
            ],
        };

    private static Step Text(int after) =>
        new(
            "text",
            "Text them",
            StepKinds.Text,
            StepMoment.After(after),
            new Dictionary<string, string>
            {
                ["words"] = "{{ lead.first_name }}, thank you for asking. Somebody rings you.",
            }
        );

    private object Body(FuseDefinition definition, string form = World.Form, int days = 60) =>
        new
        {
            definition,
            forms = new[] { form },
            since = world.Now.InUtc().Date.PlusDays(-days).ToString("yyyy-MM-dd", null),
            until = world.Now.InUtc().Date.ToString("yyyy-MM-dd", null),
            segmentPrice = 0.05m,
        };

    private static Task<HttpResponseMessage> StartAsync(HttpClient who, string fuse, object body) =>
        who.PostAsync($"/api/fuses/{fuse}/backtests", JsonContent.Create(body, options: CoreJson.Options));

    private static async Task<JsonElement> DoneAsync(HttpClient who, string id)
    {
        JsonElement whole = default;
        await World.EventuallyAsync(
            async () =>
                (whole = await who.GetFromJsonAsync<JsonElement>($"/api/backtests/{id}"))
                    .GetProperty("row")
                    .Text("status") != "running",
            "end of the backtest"
        );
        Assert.Equal("done", whole.GetProperty("row").Text("status"));
        return whole;
    }

    [Fact]
    public async Task Every_lead_of_the_period_goes_through_beside_the_armed_version_and_the_truth()
    {
        var noor = await world.NoorAsync();
        // One to whom something is said in truth, by the demonstration's own fuse.
        var person = world.Person("25+");
        await world.SubmitAsync(person);
        var spoken = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        await world.ToldAsync(noor, spoken, "step-done", "Text: someone is on it");
        var id = await World.ArmAsync(noor, Fuse(Told));
        var whole = await DoneAsync(
            noor,
            (await (await StartAsync(noor, id, Body(Fuse(Told, Text(60))))).BodyAsync()).Text("id")!
        );
        var expected = await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var since = DateTimeZoneProviders
                .Tzdb["Europe/London"]
                .AtStartOfDay(world.Now.InUtc().Date.PlusDays(-60))
                .ToInstant();
            var form = await db.Forms.SingleAsync(f => f.Key == World.Form);
            var leads = await db
                .Submissions.Where(x => x.FormId == form.Id && x.ReceivedAt >= since && x.LeadId != null && !x.Test)
                .Select(x => x.LeadId!.Value)
                .Distinct()
                .Join(db.Leads, x => x, l => l.Id, (_, l) => l)
                .ToListAsync();
            return (
                Leads: leads.Count,
                Big: leads.Count(l => l.Fields.GetValueOrDefault("fleet_size") is "10–24" or "25+")
            );
        });
        var told = whole.GetProperty("told");
        Assert.True(expected.Leads > 5);
        Assert.Equal(expected.Leads, told.GetProperty("leads").GetInt32());
        var ours = told.GetProperty("this");
        Assert.Equal((expected.Leads, 0), (ours.GetProperty("lit").GetInt32(), ours.GetProperty("noBand").GetInt32()));
        Assert.Equal(
            [expected.Leads, expected.Big],
            ours.GetProperty("bands").EnumerateArray().Select(b => b.GetProperty("leads").GetInt32())
        );
        Assert.Equal(ours.GetProperty("texts").GetInt32(), ours.GetProperty("segments").GetInt32());
        Assert.True(ours.GetProperty("texts").GetInt32() is > 0 and var texts && texts <= expected.Leads);
        Assert.True(ours.GetProperty("firstMedianSeconds").GetDouble() >= 60);
        Assert.Equal(
            ["#ride-desk", "imke.sandoval"],
            ours.GetProperty("desks").EnumerateArray().Select(d => d.Text("who")!)
        );
        var beside = told.GetProperty("beside");
        Assert.Equal(
            (expected.Leads, 0),
            (beside.GetProperty("lit").GetInt32(), beside.GetProperty("texts").GetInt32())
        );
        Assert.Equal(1, whole.GetProperty("row").GetProperty("beside").GetInt32());
        // In truth nothing of this fuse burnt, and other fuses wrote to some.
        var then = told.GetProperty("truth");
        Assert.Equal(0, then.GetProperty("lit").GetInt32());
        Assert.True(then.GetProperty("messages").GetInt32() > 0);

        async Task<int> BehindAsync(string query) =>
            (
                await noor.GetFromJsonAsync<JsonElement>(
                    $"/api/backtests/{whole.GetProperty("row").Text("id")}/leads?{query}"
                )
            )
                .GetProperty("total")
                .GetInt32();
        Assert.Equal(expected.Big, await BehindAsync("mark=band:big"));
        Assert.Equal(
            ours.GetProperty("steps")
                .EnumerateArray()
                .Single(s => s.Text("id") == "text")
                .GetProperty("sent")
                .GetInt32(),
            await BehindAsync("mark=step-sent:text")
        );
        Assert.Equal(ours.GetProperty("perLead")[1].GetInt32(), await BehindAsync("mark=messages:1"));
        Assert.Equal(then.GetProperty("spoken").GetInt32(), await BehindAsync("side=truth&mark=spoken"));
        Assert.Equal(expected.Leads, await BehindAsync("side=beside&mark=lit"));
        Assert.Equal(0, await BehindAsync("mark=not-lit"));
        Assert.Equal(expected.Leads, await BehindAsync("mark=all"));
        await (
            await noor.GetAsync($"/api/backtests/{whole.GetProperty("row").Text("id")}/leads?mark=step-sent:none")
        ).RefusalAsync(HttpStatusCode.BadRequest);
        Assert.Single(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/backtests"))
                .GetProperty("backtests")
                .EnumerateArray(),
            b => b.Text("by") == "Noor Abernathy-Voss"
        );
    }

    [Fact]
    public async Task Who_does_not_light_it_is_counted_with_why()
    {
        var noor = await world.NoorAsync();
        var fuse = Fuse(Told) with
        {
            LitBy =
            [
                new(
                    EventKeys.Submission,
                    new Dictionary<string, IReadOnlyList<string>> { ["form"] = [World.Form] },
                    new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])
                ),
            ],
        };
        var id = await World.ArmAsync(noor, fuse);
        var told = (
            await DoneAsync(noor, (await (await StartAsync(noor, id, Body(fuse))).BodyAsync()).Text("id")!)
        ).GetProperty("told");
        Assert.Equal(JsonValueKind.Null, told.GetProperty("beside").ValueKind);
        Assert.Equal(
            told.GetProperty("leads").GetInt32(),
            told.GetProperty("this").GetProperty("lit").GetInt32()
                + told.GetProperty("notLit").EnumerateArray().Sum(n => n.GetProperty("leads").GetInt32())
        );
        Assert.Contains(told.GetProperty("notLit").EnumerateArray(), n =>
            n.Text("because")!.Contains("fleet size was 1–3", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task What_cannot_be_run_is_refused_and_one_that_is_over_is_not_cancelled()
    {
        var noor = await world.NoorAsync();
        var id = await World.ArmAsync(noor, Fuse(Told));
        await (await StartAsync(noor, id, Body(Fuse(Told), "no-such-form"))).RefusalAsync(HttpStatusCode.BadRequest);
        await (await StartAsync(noor, id, Body(Fuse(Told), days: 500))).RefusalAsync(HttpStatusCode.BadRequest);
        await (
            await StartAsync(
                noor,
                id,
                Body(
                    Fuse(
                        Told with
                        {
                            Settings = new Dictionary<string, string>
                            {
                                ["channel"] = "#ride-desk",
                                ["words"] = "{{ lead.name",
                            },
                        }
                    )
                )
            )
        ).RefusalAsync(HttpStatusCode.BadRequest);
        var backtest = (await (await StartAsync(noor, id, Body(Fuse(Told)))).BodyAsync()).Text("id")!;
        await DoneAsync(noor, backtest);
        await (await noor.PostAsync($"/api/backtests/{backtest}/cancel", null)).RefusalAsync(HttpStatusCode.Conflict);
        await (await noor.GetAsync($"/api/backtests/{backtest}/leads?side=beside")).RefusalAsync(
            HttpStatusCode.BadRequest
        );
    }
}

using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// What a rehearsal says of a lead is what was really said, by whatever kind of source the lead came.
/// </summary>
public sealed class EveryKindTests(World world) : IClassFixture<World>
{
    private const string Said =
        "{{ lead.name }} · {{ form.name }} · {{ answers | list }} · {{ tracking.campaign }}{{ tracking.utm_campaign }}";

    // By kind: how somebody sends a form of it.
    private Dictionary<string, Func<string, Task>> Ways =>
        new()
        {
            ["plaza"] = email => world.FillAsync("plaza/fill/pf-brackenwheel-ride", Bikes(email)),
            ["tradehall"] = email => world.FillAsync("tradehall/fill/tf-brackenwheel-fleet", Bikes(email)),
            ["lanternfind"] = email => world.FillAsync("lanternfind/fill/lf-brackenwheel-lease", Bikes(email)),
            ["formbench"] = email => world.FillAsync("formbench/fill/fb-brackenwheel-costs", Bikes(email)),
            ["website"] = email =>
                world.SubmitAsync(
                    new
                    {
                        id = email,
                        first_name = "Hal",
                        last_name = "Wetherby",
                        email,
                        fleet_size = "10–24",
                        cargo = "food",
                        utm_campaign = "spring",
                    }
                ),
        };

    private static Dictionary<string, string> Bikes(string email) =>
        new()
        {
            ["full_name"] = "Hal Wetherby",
            ["email"] = email,
            ["phone"] = $"0113 496 03{email.Length}",
            ["fleet_size"] = "10–24",
            ["cargo"] = "food",
        };

    [Fact]
    public async Task A_rehearsal_reads_a_lead_of_every_kind_of_source_as_the_engine_does()
    {
        var noor = await world.NoorAsync();
        var forms = (await noor.GetFromJsonAsync<JsonElement>("/api/forms?client=brackenwheel"))
            .GetProperty("forms")
            .EnumerateArray()
            .Select(f => f.Text("key")!)
            .ToList();
        var fuse = await World.ArmAsync(
            noor,
            new()
            {
                Name = "Lit by any form",
                LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = forms })],
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            new(
                                "post",
                                "post",
                                StepKinds.ChannelPost,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = Said }
                            ),
                        ]
                    ),
                ],
            }
        );
        var definition = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}")).GetProperty("definition");
        foreach (var (kind, send) in Ways)
        {
            var email = $"every.{kind}@example.com";
            await send(email);
            // A network that is polled shows it after its delay.
            if (kind == "tradehall")
                world.Time.Move(TimeSpan.FromMinutes(10));
            var lead = (await World.FoundAsync(noor, email)).Text("id")!;
            await world.ToldAsync(noor, lead, "step-sent", "post");
            var burn = (await noor.GetFromJsonAsync<JsonElement>($"/api/burns?fuse={fuse}"))
                .GetProperty("items")
                .EnumerateArray()
                .First(b => b.Text("leadId") == lead)
                .Text("id");
            var real = (await noor.GetFromJsonAsync<JsonElement>($"/api/burns/{burn}"))
                .GetProperty("steps")[0]
                .GetProperty("settings")
                .Text("words")!;
            Assert.Contains("10–24", real, StringComparison.Ordinal);

            var dry = await (
                await noor.PostAsync(
                    $"/api/fuses/{fuse}/dry-run",
                    JsonContent.Create(
                        new
                        {
                            definition,
                            leadId = lead,
                            form = (string?)null,
                            answers = (object?)null,
                            at = (string?)null,
                            reactions = Array.Empty<object>(),
                        },
                        options: CoreJson.Options
                    )
                )
            ).BodyAsync();
            var rehearsed = dry.GetProperty("moments")
                .EnumerateArray()
                .First(m => m.Text("kind") == "step-sent")
                .GetProperty("message")
                .GetProperty("settings")
                .Text("words");
            Assert.Equal((kind, real), (kind, rehearsed));

            var form = await world.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Leads.Where(l => l.Id == Guid.Parse(lead))
                    .Join(s.GetRequiredService<AppDb>().Forms, l => l.FormId, f => f.Id, (_, f) => f.Key)
                    .SingleAsync()
            );
            var preview = await (
                await noor.PostAsJsonAsync(
                    $"/api/fuses/{fuse}/preview",
                    new
                    {
                        words = Said,
                        forms = new[] { form },
                        place = 0,
                    }
                )
            ).BodyAsync();
            Assert.Equal((kind, real), (kind, preview.Text("rendered")));

            var earlier = await (await noor.GetAsync($"/api/fuses/{fuse}/catch-up?days=1")).BodyAsync();
            Assert.False(string.IsNullOrEmpty(earlier.ToString()));
        }

        // Every kind that people send through is among them; what comes by file, by hand or by a program's own body is
        // read by the same reader.
        var all = world
            .App.Services.GetRequiredService<SourceKinds>()
            .All.Select(k => k.Card.Kind)
            .ToHashSet(StringComparer.Ordinal);
        Assert.Subset(all, Ways.Keys.ToHashSet(StringComparer.Ordinal));
        Assert.Equal(["api", "file", "hand", "hook"], all.Except(Ways.Keys).Order(StringComparer.Ordinal));
    }
}

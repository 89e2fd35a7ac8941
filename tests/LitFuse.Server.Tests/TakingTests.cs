using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Connectors;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>A lead taken from a post in the team's chat, and the post brought up to date.</summary>
public sealed class TakingTests(World world) : IClassFixture<World>
{
    private async Task<(HttpClient Imke, string Lead, string Email, JsonElement Post)> PostedAsync()
    {
        var imke = await world.ImkeAsync();
        var answers = world.Person("1–3");
        var lead = (await world.LeadOfAsync(imke, answers)).Text("id")!;
        await world.ToldAsync(imke, lead, "burn-ended");
        return (imke, lead, answers["email"], Assert.Single(await world.PostsAsync("#ride-desk", answers["email"])));
    }

    private static string? LinkOf(JsonElement post) =>
        post.TryGetProperty("links", out var links) && links.ValueKind == JsonValueKind.Array
            ? links
                .EnumerateArray()
                .Where(l => l.Text("label") == "Take it")
                .Select(l => l.Text("url"))
                .SingleOrDefault()
            : null;

    private static string TokenOf(JsonElement post) => LinkOf(post)!.Split("/take/")[1];

    private async Task<JsonElement> StandsAsync(string email, string status)
    {
        JsonElement[] found = [];
        await World.EventuallyAsync(
            async () =>
                (
                    found = [
                        .. (await world.PostsAsync("#ride-desk", email)).Where(p =>
                            p.Text("status")?.StartsWith(status, StringComparison.Ordinal) == true
                        ),
                    ]
                ).Length > 0,
            $"“{status}” under the post"
        );
        return found[0];
    }

    [Fact]
    public async Task The_link_in_a_post_leads_to_the_lead_for_who_may_see_it_and_for_nobody_else()
    {
        var (imke, lead, _, post) = await PostedAsync();
        Assert.StartsWith($"{world.Url}/take/", LinkOf(post), StringComparison.Ordinal);
        var told = await imke.GetFromJsonAsync<JsonElement>($"/api/leads/by-link/{TokenOf(post)}");
        Assert.Equal(lead, told.Text("id"));
        Assert.DoesNotContain(
            lead.Replace("-", "", StringComparison.Ordinal),
            TokenOf(post),
            StringComparison.OrdinalIgnoreCase
        );

        (await world.Anyone.GetAsync($"/api/leads/by-link/{TokenOf(post)}")).RefusedAs(HttpStatusCode.Unauthorized);
        (
            await (await world.AsAsync("siobhra@tarnvalley.example")).GetAsync($"/api/leads/by-link/{TokenOf(post)}")
        ).RefusedAs(HttpStatusCode.NotFound);
        var tampered = TokenOf(post)[..^6] + "AAAAAA";
        Assert.Contains(
            "no longer good",
            (await (await imke.GetAsync($"/api/leads/by-link/{tampered}")).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task The_post_says_who_has_it_that_it_was_given_back_and_that_somebody_reached_out()
    {
        var (imke, lead, email, _) = await PostedAsync();
        await imke.PostAsync($"/api/leads/{lead}/take", null);
        var taken = await StandsAsync(email, "Imke Sandoval has it, ");
        Assert.EndsWith("after they asked", taken.Text("status"), StringComparison.Ordinal);
        Assert.Null(LinkOf(taken)); // nobody need press any more

        await imke.PostAsync($"/api/leads/{lead}/release", null);
        var back = await StandsAsync(email, "Imke Sandoval gave it back");
        Assert.Equal(
            lead,
            (await imke.GetFromJsonAsync<JsonElement>($"/api/leads/by-link/{TokenOf(back)}")).Text("id")
        );

        await imke.PostAsJsonAsync($"/api/leads/{lead}/touch", new { how = "called" });
        Assert.Null(LinkOf(await StandsAsync(email, "Imke Sandoval reached out (called them), ")));
        // It is the post that changed; there is no second one, and the story does not tell the same twice.
        Assert.Single(await world.PostsAsync("#ride-desk", email));
        Assert.DoesNotContain(await world.StoryAsync(imke, lead), l => l.Text("step") == "Post brought up to date");
    }

    [Fact]
    public async Task The_second_to_press_hears_who_was_first_and_the_post_stays()
    {
        var (imke, lead, email, _) = await PostedAsync();
        var tobias = await world.AsAsync("tobias@brackenwheel.example");
        await imke.PostAsync($"/api/leads/{lead}/take", null);
        Assert.Contains(
            "Imke Sandoval has",
            (await (await tobias.PostAsync($"/api/leads/{lead}/take", null)).BodyAsync()).Text("detail"),
            StringComparison.Ordinal
        );
        await StandsAsync(email, "Imke Sandoval has it");
    }

    [Fact]
    public async Task A_post_that_somebody_took_away_there_is_not_missed()
    {
        var (imke, lead, _, post) = await PostedAsync();
        var token = await world.InsideAsync(async s =>
            s.GetRequiredService<ConnectionOpener>()
                .Open(await s.GetRequiredService<AppDb>().Connections.FirstAsync(c => c.Kind == "ridgeboard"))
                .Token
        );
        using var away = new HttpRequestMessage(HttpMethod.Delete, $"/api/ridgeboard/posts/{post.GetProperty("id")}")
        {
            Headers = { Authorization = new("Bearer", token) },
        };
        (await world.Backlot.SendAsync(away)).EnsureSuccessStatusCode();
        await imke.PostAsync($"/api/leads/{lead}/take", null);
        var id = Guid.Parse(lead);
        await World.EventuallyAsync(
            () =>
                world.InsideAsync(s =>
                    s.GetRequiredService<AppDb>()
                        .Deliveries.AnyAsync(d =>
                            d.LeadId == id && d.Kind == StepKinds.PostStatus && d.Status == DeliveryStatus.Done
                        )
                ),
            "the end of bringing it up to date"
        );
    }

    [Fact]
    public async Task A_link_leads_on_to_the_lead_that_its_own_turned_out_to_be()
    {
        var (_, gone, _, post) = await PostedAsync();
        var (imke, kept, _, _) = await PostedAsync();
        var merged = await (await world.NoorAsync()).PostAsJsonAsync("/api/leads/merge", new { keep = kept, gone });
        merged.EnsureSuccessStatusCode();
        Assert.Equal(
            kept,
            (await imke.GetFromJsonAsync<JsonElement>($"/api/leads/by-link/{TokenOf(post)}")).Text("id")
        );
    }

    [Fact]
    public async Task A_step_without_the_link_posts_without_it_and_only_posts_may_have_it()
    {
        var noor = await world.NoorAsync();
        var fuse = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        )!;
        FuseDefinition With(string kind, string links) =>
            new()
            {
                Name = "Links",
                LitBy =
                [
                    new(
                        EventKeys.Submission,
                        new Dictionary<string, IReadOnlyList<string>> { ["form"] = [World.Form] }
                    ),
                ],
                Bands =
                [
                    new(
                        "b",
                        "Always",
                        new(EntryKind.Always),
                        [
                            new(
                                "s",
                                "Tell",
                                kind,
                                StepMoment.AtOnce,
                                new Dictionary<string, string>
                                {
                                    ["channel"] = "#ride-desk",
                                    ["colleague"] = "owner",
                                    ["words"] = "x",
                                    ["links"] = links,
                                }
                            ),
                        ]
                    ),
                ],
            };
        async Task<List<string?>> FaultsAsync(FuseDefinition of)
        {
            var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{fuse}");
            var saved = await noor.PutAsync(
                $"/api/fuses/{fuse}/draft",
                JsonContent.Create(
                    new { definition = of, revision = whole.GetProperty("revision").GetInt32() },
                    options: CoreJson.Options
                )
            );
            return
            [
                .. (await saved.BodyAsync())
                    .GetProperty("faults")
                    .EnumerateArray()
                    .Where(f => f.GetProperty("blocks").GetBoolean())
                    .Select(f => f.Text("what")),
            ];
        }

        Assert.Empty(await FaultsAsync(With(StepKinds.ChannelPost, "lead,take")));
        Assert.Contains(
            "'Tell' has a link 'take', which is none that it can have.",
            await FaultsAsync(With(StepKinds.TeamText, "take"))
        );
    }
}

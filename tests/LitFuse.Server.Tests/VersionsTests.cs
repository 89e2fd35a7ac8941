using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Versions that were armed: told apart, brought back; and fuses disarmed.</summary>
public sealed class VersionsTests(World world) : IClassFixture<World>
{
    private static FuseDefinition Fuse(string words) =>
        new()
        {
            Name = "Versions: tell the desk",
            LitBy = [new(EventKeys.ByHand)],
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "post",
                            "Post",
                            StepKinds.ChannelPost,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = words }
                        ),
                    ]
                ),
            ],
        };

    private static Task<JsonElement> WholeAsync(HttpClient noor, string id) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}");

    private static async Task<JsonElement> SaveAsync(HttpClient noor, string id, FuseDefinition definition)
    {
        var revision = (await WholeAsync(noor, id)).GetProperty("revision").GetInt32();
        return await (
            await noor.PutAsync(
                $"/api/fuses/{id}/draft",
                JsonContent.Create(new { definition, revision }, options: CoreJson.Options)
            )
        ).BodyAsync();
    }

    [Fact]
    public async Task Each_version_tells_what_changed_and_one_is_brought_back_as_a_draft()
    {
        var noor = await world.NoorAsync();
        var id = await World.ArmAsync(noor, Fuse("One"));
        await World.ArmAsync(noor, Fuse("Two"), id);
        var list = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/versions");
        var versions = list.GetProperty("versions").EnumerateArray().ToList();
        Assert.Equal(
            [(2, true, "Noor Abernathy-Voss"), (1, false, "Noor Abernathy-Voss")],
            versions.Select(v =>
                (v.GetProperty("number").GetInt32(), v.GetProperty("armed").GetBoolean(), v.Text("armedBy")!)
            )
        );
        var change = versions[0].GetProperty("changes").EnumerateArray().Single();
        Assert.Equal(
            ("“Post”", "words", "One", "Two"),
            (change.Text("where"), change.Text("what"), change.Text("before"), change.Text("after"))
        );
        Assert.Equal(JsonValueKind.Null, list.GetProperty("draft").ValueKind);

        var revision = (await WholeAsync(noor, id)).GetProperty("revision").GetInt32();
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await noor.PostAsJsonAsync($"/api/fuses/{id}/versions/1/bring-back", new { revision = revision - 1 })
            ).StatusCode
        );
        (
            await noor.PostAsJsonAsync($"/api/fuses/{id}/versions/1/bring-back", new { revision })
        ).EnsureSuccessStatusCode();
        var draft = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/versions"))
            .GetProperty("draft")
            .EnumerateArray()
            .Single();
        Assert.Equal(("Two", "One"), (draft.Text("before"), draft.Text("after")));
        Assert.True((await WholeAsync(noor, id)).GetProperty("fuse").GetProperty("draftDiffers").GetBoolean());

        var compared = await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/versions/compare?from=1&to=0");
        Assert.Empty(compared.GetProperty("differences").EnumerateArray());
        Assert.Single(
            (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}/versions/compare?from=2&to=0"))
                .GetProperty("differences")
                .EnumerateArray()
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await noor.GetAsync($"/api/fuses/{id}/versions/compare?from=1&to=9")).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await noor.PostAsJsonAsync($"/api/fuses/{id}/versions/9/bring-back", new { revision = revision + 1 })
            ).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (
                await (await world.ImkeAsync()).PostAsJsonAsync(
                    $"/api/fuses/{id}/versions/1/bring-back",
                    new { revision = revision + 1 }
                )
            ).StatusCode
        );
    }

    [Fact]
    public async Task A_draft_edited_back_to_what_is_armed_is_no_draft()
    {
        var noor = await world.NoorAsync();
        var id = await World.ArmAsync(noor, Fuse("Same"));
        Assert.True(
            (await SaveAsync(noor, id, Fuse("Other"))).GetProperty("fuse").GetProperty("draftDiffers").GetBoolean()
        );
        var back = await SaveAsync(noor, id, Fuse("Same"));
        Assert.False(back.GetProperty("fuse").GetProperty("draftDiffers").GetBoolean());
        Assert.Null(back.Text("draftBy"));
    }

    [Fact]
    public async Task Several_are_disarmed_at_once_and_only_those_of_ones_own()
    {
        var noor = await world.NoorAsync();
        var ids = new[] { await World.ArmAsync(noor, Fuse("A")), await World.ArmAsync(noor, Fuse("B")) };
        var others = await (
            await (await world.AsAsync("lucan@quillonstreet.example")).GetAsync("/api/fuses?client=hollin-vane")
        ).BodyAsync();
        Assert.NotEmpty(others.GetProperty("fuses").EnumerateArray());
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await noor.PostAsJsonAsync("/api/fuses/disarm", new { ids = Array.Empty<Guid>() })).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await (await world.ImkeAsync()).PostAsJsonAsync("/api/fuses/disarm", new { ids })).StatusCode
        );
        Assert.Equal(
            2,
            (await (await noor.PostAsJsonAsync("/api/fuses/disarm", new { ids })).BodyAsync())
                .GetProperty("disarmed")
                .GetInt32()
        );
        Assert.Equal(
            0,
            (await (await noor.PostAsJsonAsync("/api/fuses/disarm", new { ids })).BodyAsync())
                .GetProperty("disarmed")
                .GetInt32()
        );
        foreach (var id in ids)
            Assert.Equal("disarmed", (await WholeAsync(noor, id)).GetProperty("fuse").Text("state"));
    }
}

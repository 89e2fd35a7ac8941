using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Fuses of a test's own, and people who light them.</summary>
public partial class World
{
    private static int forms;

    /// <summary>A form of its own with a confirmed map, so that no other fuse is lit by it.</summary>
    public static async Task<(string Id, string Key)> OwnFormAsync(HttpClient noor)
    {
        var (_, id) = await MakeFormAsync(noor, "hook", $"Form {Interlocked.Increment(ref forms)}");
        var key = (await FormAsync(noor, id)).GetProperty("form").Text("key")!;
        return (id, key);
    }

    public static async Task<string> ArmAsync(HttpClient noor, FuseDefinition definition, string? fuseId = null)
    {
        var id = fuseId
            ?? (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
                "id"
            )!;
        var revision = (await noor.GetFromJsonAsync<JsonElement>($"/api/fuses/{id}"))
            .GetProperty("revision")
            .GetInt32();
        var saved = await noor.PutAsync(
            $"/api/fuses/{id}/draft",
            JsonContent.Create(new { definition, revision }, options: CoreJson.Options)
        );
        Assert.True(saved.IsSuccessStatusCode, await saved.Content.ReadAsStringAsync());
        var armed = await noor.PostAsJsonAsync($"/api/fuses/{id}/arm", new { revision = revision + 1 });
        Assert.True(armed.IsSuccessStatusCode, await armed.Content.ReadAsStringAsync());
        return id;
    }

    /// <summary>A form that lights the fuse, the fuse armed, and a person who has sent it.</summary>
    public async Task<(string Lead, Dictionary<string, string> Person, string Form, string Fuse)> LitAsync(
        HttpClient noor,
        Func<string, FuseDefinition> make,
        string fleet = "4–9"
    )
    {
        var (id, key) = await OwnFormAsync(noor);
        var person = Person(fleet);
        // The first submission teaches the form its fields; then its map is confirmed, and it goes on.
        var fuse = await ArmAsync(noor, make(key));
        await SubmitAsync(person, key);
        await EventuallyAsync(
            async () => (await FormAsync(noor, id)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await ConfirmAsync(noor, id);
        var lead = await FoundAsync(noor, person["email"]);
        return (lead.Text("id")!, person, key, fuse);
    }
}

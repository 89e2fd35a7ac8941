using System.Net.Http.Json;
using System.Text.Json;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>
/// What changes at a service under an armed fuse cuts the lines through it before the first lead is lost to it.
/// </summary>
public sealed class LinesThroughServicesTests(World world) : LedgerWork(world)
{
    private readonly World world = world;

    private async Task<List<string>> CausesAsync(HttpClient noor, string form)
    {
        world.Time.Move(TimeSpan.FromSeconds(61));
        await noor.PostAsync($"/api/forms/{form}/line/look", null);
        return
            (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/line")).GetProperty("line")
                is { ValueKind: JsonValueKind.Object } line
            ? [.. line.GetProperty("cuts").EnumerateArray().Select(c => c.Text("cause")!)]
            : ["not judged yet"];
    }

    [Fact]
    public async Task A_field_that_is_demanded_from_today_on_is_a_cut_and_filling_it_mends_it()
    {
        var noor = await world.NoorAsync();
        var (lead, _, key, fuse) = await world.LitAsync(noor, f => Fuse(f, Contact()));
        await world.ToldAsync(noor, lead, "step-done", "Contact");
        var form = await World.FormIdAsync(noor, key);
        await World.EventuallyAsync(async () => (await CausesAsync(noor, form)).Count == 0, "a line without a cut");

        await world.FillAsync("ledgerhouse/fields", new() { ["name"] = "Depot code", ["required"] = "on" });
        await World.EventuallyAsync(
            async () =>
                (await CausesAsync(noor, form)).Exists(c =>
                    c.Contains(
                        "'Contact' puts nothing into “Depot code”, which is demanded there",
                        StringComparison.Ordinal
                    )
                ),
            "the cut"
        );
        var line = (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{form}/line")).GetProperty("line");
        var cut = line.GetProperty("cuts")
            .EnumerateArray()
            .First(c => c.Text("cause")!.Contains("Depot code", StringComparison.Ordinal));
        Assert.Equal(
            ("service", "fuse", fuse),
            (cut.Text("joint"), cut.GetProperty("mend").Text("place"), cut.GetProperty("mend").Text("id"))
        );

        await World.ArmAsync(noor, Fuse(key, Contact(("fields.depot_code", "{{ lead.fleet_size }}"))), fuse);
        await World.EventuallyAsync(async () => (await CausesAsync(noor, form)).Count == 0, "the mended line");
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>A client's hours, holidays and limits, and what they hold back.</summary>
public sealed class HoursTests(World world) : IClassFixture<World>
{
    private static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "Hours",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands = [new("always", "Always", new(EntryKind.Always), steps)],
        };

    private static Step Text(string id, int after = 0) =>
        new(
            id,
            id,
            StepKinds.Text,
            StepMoment.After(after),
            new Dictionary<string, string> { ["words"] = $"This is {id}" },
            Hours: new(HoursKind.None)
        );

    private async Task<(HttpClient Noor, string Path, JsonElement Hours)> HoursAsync()
    {
        var noor = await world.NoorAsync();
        var client = (await noor.GetFromJsonAsync<JsonElement>("/api/session"))
            .GetProperty("clients")
            .EnumerateArray()
            .Single(c => c.Text("key") == "brackenwheel")
            .Text("id");
        var path = $"/api/clients/{client}/hours";
        return (noor, path, (await noor.GetFromJsonAsync<JsonElement>(path)).GetProperty("hours"));
    }

    private static Dictionary<string, object?> With(JsonElement hours, string key, object? value)
    {
        var all = hours.EnumerateObject().ToDictionary(p => p.Name, p => (object?)p.Value);
        all[key] = value;
        return all;
    }

    [Fact]
    public async Task On_a_holiday_nobody_is_rung_and_the_story_says_when_it_opens()
    {
        var (noor, path, hours) = await HoursAsync();
        var today = DateOnly.FromDateTime(world.Time.GetUtcNow().UtcDateTime);
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await noor.PutAsJsonAsync(
                    path,
                    With(hours, "holidays", new[] { new { day = today, name = "Founders’ day" } })
                )
            ).StatusCode
        );
        try
        {
            var (lead, _, _, _) = await world.LitAsync(noor, form => Fuse(
                    form,
                    new Step(
                        "ring",
                        "ring",
                        StepKinds.RingThrough,
                        StepMoment.AtOnce,
                        new Dictionary<string, string>
                        {
                            ["colleagues"] = "team",
                            ["order"] = "in-turn",
                            ["words"] = "{{ lead.name }}",
                        }
                    )
                ));
            var waits = (await world.ToldAsync(noor, lead, "step-waits", "ring")).Text("words")!;
            Assert.StartsWith("waits for its hours: ", waits, StringComparison.Ordinal);
            Assert.DoesNotContain(today.DayOfWeek.ToString(), waits, StringComparison.Ordinal);
        }
        finally
        {
            await noor.PutAsJsonAsync(path, hours);
        }
    }

    [Fact]
    public async Task No_more_messages_a_day_than_the_client_allows()
    {
        var (noor, path, hours) = await HoursAsync();
        await noor.PutAsJsonAsync(path, With(hours, "mostADay", 2));
        try
        {
            var (lead, person, _, _) = await world.LitAsync(noor, form =>
                Fuse(form, Text("one"), Text("two", 2), Text("three", 4))
            );
            Assert.StartsWith(
                "waits until they have had fewer than 2 in a day",
                (await world.ToldAsync(noor, lead, "step-waits", "three")).Text("words"),
                StringComparison.Ordinal
            );
            Assert.Equal(
                2,
                (await world.TextsAsync("+44" + person["phone"].Replace(" ", "", StringComparison.Ordinal)[1..])).Count
            );
            Assert.Equal(
                1,
                (await world.StoryAsync(noor, lead))
                    .First(l => l.Text("kind") == "step-sent")
                    .GetProperty("sent")
                    .GetProperty("segments")
                    .GetInt32()
            );
        }
        finally
        {
            await noor.PutAsJsonAsync(path, hours);
        }
    }

    [Fact]
    public async Task What_cannot_be_is_refused_with_its_field_and_the_laws_are_told_with_their_source()
    {
        var (noor, path, hours) = await HoursAsync();
        foreach (
            var (key, value) in new (string, object?)[]
            {
                ("sendTo", "00:00:00"),
                ("workTo", "00:00:00"),
                ("workDays", Array.Empty<int>()),
                ("targetMinutes", 0),
                ("mostADay", 51),
                ("segmentPrice", -1),
            }
        )
        {
            var refused = await noor.PutAsJsonAsync(path, With(hours, key, value));
            Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
            Assert.True((await refused.BodyAsync()).GetProperty("errors").TryGetProperty(key, out _), key);
        }

        var laws = (await noor.GetFromJsonAsync<JsonElement>(path)).GetProperty("laws").EnumerateArray().ToList();
        Assert.Contains(laws, l =>
            (l.Text("country"), l.Text("for"), l.Text("hours"), l.Text("source"))
            == (
                "FR",
                "calls",
                "Monday to Friday 10:00–13:00; Monday to Friday 14:00–20:00",
                "décret n° 2022-1313 du 13 octobre 2022"
            )
        );
        Assert.Contains(laws, l =>
            l.Text("country") is null && l.Text("for") == "texts" && l.Text("hours") == "07:00–22:00"
        );
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>Same person or not: rules of filling, conflicts, merging and splitting, and taking them back.</summary>
public sealed class PeopleTests(World world) : IClassFixture<World>
{
    private static Task<JsonElement> WholeAsync(HttpClient noor, string id) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}");

    private async Task<JsonElement> LeadAsync(HttpClient noor, Dictionary<string, string> person) =>
        await world.LeadOfAsync(noor, person);

    [Fact]
    public async Task Later_answers_go_by_each_field_s_rule_and_both_stand_in_the_story()
    {
        var noor = await world.NoorAsync();
        (
            await noor.PutAsJsonAsync("/api/lead-fields/company", new { client = "brackenwheel", rule = "keep" })
        ).EnsureSuccessStatusCode();
        (
            await noor.PutAsJsonAsync(
                "/api/lead-fields/start_month",
                new { client = "brackenwheel", rule = "fill-empties" }
            )
        ).RefusedAs(HttpStatusCode.NotFound);
        var person = world.Person("4–9");
        person["company"] = "Pemberton Bakes";
        var lead = await LeadAsync(noor, person);
        var later = new Dictionary<string, string>(person)
        {
            ["company"] = "Pemberton Ltd",
            ["fleet_size"] = "10–24",
            ["depot_postcode"] = "LS1 4AB",
        };
        await world.SubmitAsync(later);
        var told = await world.ToldAsync(noor, lead.Text("id")!, "fields-changed");
        Assert.Contains("Fleet size: 4–9 → 10–24", told.Text("words"), StringComparison.Ordinal);
        Assert.Contains(
            "Company: kept Pemberton Bakes, they now wrote Pemberton Ltd",
            told.Text("words"),
            StringComparison.Ordinal
        );
        Assert.Contains("Depot postcode: LS1 4AB", told.Text("words"), StringComparison.Ordinal);
        var fields = (await WholeAsync(noor, lead.Text("id")!)).GetProperty("lead").GetProperty("fields");
        Assert.Equal(("Pemberton Bakes", "10–24"), (fields.Text("company"), fields.Text("fleet_size")));
        await noor.PutAsJsonAsync("/api/lead-fields/company", new { client = "brackenwheel", rule = "newest-wins" });
    }

    [Fact]
    public async Task An_email_of_one_with_the_number_of_another_waits_for_a_person_and_the_number_is_not_taken()
    {
        var noor = await world.NoorAsync();
        var (one, two) = (world.Person(), world.Person());
        var (left, right) = (await LeadAsync(noor, one), await LeadAsync(noor, two));
        await world.SubmitAsync(new Dictionary<string, string>(one) { ["phone"] = two["phone"], ["cargo"] = "tools" });
        var row = await World.EventuallyAsync(
            async () =>
                (await noor.GetFromJsonAsync<JsonElement>("/api/conflicts?client=brackenwheel"))
                    .GetProperty("rows")
                    .EnumerateArray()
                    .Where(r => r.Text("words")!.Contains(one["email"], StringComparison.Ordinal))
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            "conflict"
        );
        Assert.Equal(
            (left.Text("id"), right.Text("id"), "open"),
            (row.GetProperty("left").Text("id"), row.GetProperty("right").Text("id"), row.Text("state"))
        );
        // Texts to one go on to one's own number: whose the other is, nobody has said.
        Assert.Equal(World.E164(one), (await WholeAsync(noor, left.Text("id")!)).GetProperty("lead").Text("phone"));
        var twin = Assert.Single(
            (await WholeAsync(noor, right.Text("id")!)).GetProperty("around").GetProperty("twins").EnumerateArray()
        );
        Assert.Equal(left.Text("id"), twin.Text("leadId"));
        await world.ToldAsync(noor, right.Text("id")!, "lead-conflict");
        Assert.True(
            (await noor.GetFromJsonAsync<JsonElement>("/api/leads?state=conflict&client=brackenwheel"))
                .GetProperty("total")
                .GetInt32() >= 2
        );

        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/conflicts/{row.Text("id")}/apart", null)).StatusCode
        );
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/conflicts/{row.Text("id")}/apart", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        Assert.Empty(
            (await WholeAsync(noor, right.Text("id")!)).GetProperty("around").GetProperty("twins").EnumerateArray()
        );
    }

    [Fact]
    public async Task Two_made_one_have_all_of_both_and_are_two_again_when_it_is_taken_back()
    {
        var noor = await world.NoorAsync();
        var (one, two) = (world.Person(), world.Person("25+"));
        two["depot_postcode"] = "LS9 8AA";
        var (kept, gone) = ((await LeadAsync(noor, one)).Text("id")!, (await LeadAsync(noor, two)).Text("id")!);
        await world.ToldAsync(noor, gone, "text-delivered");
        await world.ToldAsync(noor, gone, "burn-ended");
        await noor.PostAsJsonAsync("/api/leads/change", new { ids = new[] { gone }, tag = "Hot" });
        var (keptBefore, goneBefore) = (await WholeAsync(noor, kept), await WholeAsync(noor, gone));

        var merged = await (await noor.PostAsJsonAsync("/api/leads/merge", new { keep = kept, gone })).BodyAsync();
        var whole = await WholeAsync(noor, kept);
        Assert.Equal(2, whole.GetProperty("submissions").GetArrayLength());
        Assert.Equal(4, whole.GetProperty("around").GetProperty("addresses").GetArrayLength());
        Assert.Equal(
            ("LS9 8AA", one["email"]),
            (
                whole.GetProperty("lead").GetProperty("fields").Text("depot_postcode"),
                whole.GetProperty("lead").Text("email")
            )
        );
        Assert.Equal(
            ["hot"],
            whole.GetProperty("around").GetProperty("tags").EnumerateArray().Select(t => t.GetString())
        );
        Assert.Contains(whole.GetProperty("story").EnumerateArray(), l => l.Text("kind") == "merged");
        Assert.True(whole.GetProperty("story").GetArrayLength() > goneBefore.GetProperty("story").GetArrayLength());
        var there = await (await noor.GetAsync($"/api/leads/{gone}")).BodyAsync();
        Assert.Equal(kept, there.Text("mergedInto"));
        Assert.Equal(kept, (await World.FoundAsync(noor, one["email"])).Text("id"));
        Assert.Equal(
            1,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?q={one["email"]}")).GetProperty("total").GetInt32()
        );
        // Who writes with the other's address is the same person now.
        await world.SubmitAsync(new Dictionary<string, string>(two) { ["cargo"] = "people" });
        await World.EventuallyAsync(
            async () => (await WholeAsync(noor, kept)).GetProperty("submissions").GetArrayLength() == 3,
            "third submission"
        );

        Assert.Equal(
            HttpStatusCode.OK,
            (await noor.PostAsync($"/api/regroups/{merged.Text("id")}/undo", null)).StatusCode
        );
        var (keptAfter, goneAfter) = (await WholeAsync(noor, kept), await WholeAsync(noor, gone));
        Assert.Equal(
            (2, 1),
            (
                keptAfter.GetProperty("submissions").GetArrayLength(),
                goneAfter.GetProperty("submissions").GetArrayLength()
            )
        );
        Assert.Equal(
            goneBefore.GetProperty("lead").GetProperty("fields").ToString(),
            goneAfter.GetProperty("lead").GetProperty("fields").ToString()
        );
        Assert.Equal(
            goneBefore.GetProperty("story").GetArrayLength() + 1,
            goneAfter.GetProperty("story").GetArrayLength()
        );
        Assert.Equal(2, goneAfter.GetProperty("around").GetProperty("addresses").GetArrayLength());
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/regroups/{merged.Text("id")}/undo", null)).RefusalAsync(
                HttpStatusCode.Conflict
            )
        );
        // What was the kept one's before is its own again, and what came meanwhile stays with it.
        static IEnumerable<string> Sent(JsonElement of) =>
            of.GetProperty("submissions").EnumerateArray().Select(s => s.Text("id")!);
        Assert.Single(Sent(keptBefore));
        Assert.Subset(Sent(keptAfter).ToHashSet(), Sent(keptBefore).ToHashSet());
    }

    [Fact]
    public async Task A_submission_that_was_another_s_has_a_lead_of_its_own_until_that_is_taken_back()
    {
        var noor = await world.NoorAsync();
        var person = world.Person("4–9");
        var id = (await LeadAsync(noor, person)).Text("id")!;
        var other = new Dictionary<string, string>(person)
        {
            ["email"] = "colleague@shared.example.com",
            ["first_name"] = "Inessa",
            ["fleet_size"] = "10–24",
        };
        await world.SubmitAsync(other);
        await World.EventuallyAsync(
            async () => (await WholeAsync(noor, id)).GetProperty("submissions").GetArrayLength() == 2,
            "both under one number"
        );
        var before = await WholeAsync(noor, id);
        Assert.Equal("Inessa", before.GetProperty("lead").GetProperty("fields").Text("first_name"));
        var second = before.GetProperty("submissions")[1].Text("id");
        Assert.Equal(
            "bad-input",
            await (
                await noor.PostAsJsonAsync(
                    $"/api/leads/{id}/split",
                    new { submissions = before.GetProperty("submissions").EnumerateArray().Select(s => s.Text("id")) }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );

        var made = await (
            await noor.PostAsJsonAsync($"/api/leads/{id}/split", new { submissions = new[] { second } })
        ).BodyAsync();
        var (rest, fresh) = (await WholeAsync(noor, id), await WholeAsync(noor, made.Text("leadId")!));
        Assert.Equal(
            ("Ines", "4–9"),
            (
                rest.GetProperty("lead").GetProperty("fields").Text("first_name"),
                rest.GetProperty("lead").GetProperty("fields").Text("fleet_size")
            )
        );
        Assert.Equal(
            ("Inessa", "colleague@shared.example.com"),
            (
                fresh.GetProperty("lead").GetProperty("fields").Text("first_name"),
                fresh.GetProperty("lead").Text("email")
            )
        );
        // The number that both gave is each's, and shared.
        Assert.Equal(
            ["colleague@shared.example.com", World.E164(person)],
            fresh.GetProperty("around").GetProperty("addresses").EnumerateArray().Select(a => a.Text("value"))
        );
        Assert.Equal(2, rest.GetProperty("around").GetProperty("addresses").GetArrayLength());
        Assert.Contains(fresh.GetProperty("story").EnumerateArray(), l => l.Text("kind") == "submitted");

        Assert.Equal(
            id,
            (await (await noor.PostAsync($"/api/regroups/{made.Text("id")}/undo", null)).BodyAsync()).Text("leadId")
        );
        var again = await WholeAsync(noor, id);
        Assert.Equal(
            before.GetProperty("lead").GetProperty("fields").ToString(),
            again.GetProperty("lead").GetProperty("fields").ToString()
        );
        Assert.Equal(
            (2, 3),
            (
                again.GetProperty("submissions").GetArrayLength(),
                again.GetProperty("around").GetProperty("addresses").GetArrayLength()
            )
        );
        Assert.Equal(HttpStatusCode.NotFound, (await noor.GetAsync($"/api/leads/{made.Text("leadId")}")).StatusCode);
    }

    [Fact]
    public async Task Leads_of_different_clients_and_a_test_and_a_real_one_are_never_made_one()
    {
        var noor = await world.NoorAsync();
        var one = (await LeadAsync(noor, world.Person())).Text("id")!;
        var other = (await noor.GetFromJsonAsync<JsonElement>("/api/leads?client=hollin-vane"))
            .GetProperty("items")[0]
            .Text("id");
        Assert.Contains(
            "different clients",
            (await (await noor.PostAsJsonAsync("/api/leads/merge", new { keep = one, gone = other })).BodyAsync()).Text(
                "detail"
            ),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync("/api/leads/merge", new { keep = one, gone = one })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(
            "not-there",
            await (
                await noor.PostAsJsonAsync("/api/leads/merge", new { keep = one, gone = Guid.NewGuid() })
            ).RefusalAsync(HttpStatusCode.NotFound)
        );
    }
}

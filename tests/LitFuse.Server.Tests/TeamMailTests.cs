using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Letters to the people who work for a client.</summary>
public sealed class TeamMailTests(World world) : IClassFixture<World>
{
    private async Task<List<JsonElement>> LettersAsync(string to, string about) =>
        [
            .. (await world.Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/pillarpost/letters?to={to}"))!.Where(l =>
                l.Text("subject")!.Contains(about, StringComparison.Ordinal)
            ),
        ];

    private static FuseDefinition Mail(string form, string me, string copies) =>
        new()
        {
            Name = "Mail to the team",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "letter",
                            "team letter",
                            StepKinds.TeamEmail,
                            StepMoment.AtOnce,
                            new Dictionary<string, string>
                            {
                                ["colleague"] = me,
                                ["copies"] = copies,
                                ["subject"] = "{{ lead.last_name }} asks",
                                ["words"] = "{{ lead.name }} asks.\n\n{{ answers }}",
                            }
                        ),
                    ]
                ),
            ],
        };

    private async Task<string> MeAsync(HttpClient noor)
    {
        await noor.PutAsJsonAsync(
            "/api/tests/addresses",
            new
            {
                phone = "+44 7700 900321",
                email = "noor@quillonstreet.example",
                person = "imke.sandoval",
            }
        );
        return (await noor.GetFromJsonAsync<JsonElement>("/api/session")).GetProperty("id").GetString()!;
    }

    [Fact]
    public async Task Who_answers_it_writes_to_the_lead_and_others_get_it_too()
    {
        var noor = await world.NoorAsync();
        var me = await MeAsync(noor);
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Mail(form, me, "assistant@quillonstreet.example; Partner@HollinVane.example")
        );
        await world.ToldAsync(noor, lead, "step-done", "team letter");
        var letter = Assert.Single(await LettersAsync("noor@quillonstreet.example", person["last_name"]));
        Assert.Equal(
            (
                $"\"{person["first_name"]} {person["last_name"]}\" <{person["email"]}>",
                "assistant@quillonstreet.example, partner@hollinvane.example"
            ),
            (Unquoted(letter.Text("replyTo")!), letter.Text("copies"))
        );
        Assert.Single(await LettersAsync("assistant@quillonstreet.example", person["last_name"]));
        Assert.Single(await LettersAsync("partner@hollinvane.example", person["last_name"]));
    }

    // A name that needs no quotes may stand without them.
    private static string Unquoted(string mailbox) =>
        mailbox.StartsWith('"') ? mailbox : $"\"{mailbox.Split(" <")[0]}\" <{mailbox.Split(" <")[1]}";

    [Fact]
    public async Task A_hostile_name_is_a_name_in_every_header_and_nothing_more()
    {
        var noor = await world.NoorAsync();
        var me = await MeAsync(noor);
        var (id, key) = await World.OwnFormAsync(noor);
        await World.ArmAsync(noor, Mail(key, me, ""));
        var person = world.Person();
        person["last_name"] = "Quill\r\nBcc: everybody@example.com\u202Egnol\u0007<script>\", root@example.com";
        await world.SubmitAsync(person, key);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, id)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, id);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        await world.ToldAsync(noor, lead, "step-done", "team letter");
        var letter = (await LettersAsync("noor@quillonstreet.example", "Quill")).Last(l =>
            l.Text("replyTo")!.Contains(person["email"], StringComparison.Ordinal)
        );
        Assert.DoesNotContain('\n', letter.Text("subject")!);
        Assert.DoesNotContain('\u202E', letter.Text("replyTo")!);
        Assert.EndsWith($"<{person["email"]}>", letter.Text("replyTo"), StringComparison.Ordinal);
        Assert.Equal("", letter.Text("copies"));
        Assert.Empty(await LettersAsync("everybody@example.com", ""));
        Assert.Empty(await LettersAsync("root@example.com", ""));
        Assert.DoesNotContain("<script>", letter.Text("html")!, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_copy_to_what_is_no_address_fails_with_its_name()
    {
        var noor = await world.NoorAsync();
        var me = await MeAsync(noor);
        var (lead, _, _, _) = await world.LitAsync(noor, form => Mail(form, me, "{{ lead.last_name }}"));
        Assert.Contains(
            "which is no email address",
            (await world.ToldAsync(noor, lead, "step-failed", "team letter")).Text("words"),
            StringComparison.Ordinal
        );
    }
}

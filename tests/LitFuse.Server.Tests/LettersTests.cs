using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using LitFuse.Connectors;
using LitFuse.Connectors.Pillarpost;
using LitFuse.Core.Fuses.Definition;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// Letters to a lead, with what comes with them; what comes back: answers, bounces; and messages from nobody we know.
/// </summary>
public sealed class LettersTests(World world) : IClassFixture<World>
{
    private static FuseDefinition Fuse(string form, params (string Key, string Value)[] settings) =>
        new()
        {
            Name = "Acknowledged",
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
                            "letter",
                            StepKinds.Email,
                            StepMoment.AtOnce,
                            settings
                                .Append(("subject", "Your test ride, {{ lead.first_name }}: {{ lead.cargo }}"))
                                .Append(("words", "Hello {{ lead.first_name }},\n\nthank you."))
                                .ToDictionary(s => s.Item1, s => s.Item2),
                            Hours: new(HoursKind.None)
                        ),
                        new(
                            "second",
                            "second",
                            StepKinds.Email,
                            StepMoment.After(7200),
                            new Dictionary<string, string> { ["subject"] = "Second", ["words"] = "Still there?" }
                        ),
                    ]
                ),
                new(
                    "lost",
                    "Lost",
                    new(EntryKind.Failed, Of: "letter"),
                    [
                        new(
                            "tag",
                            "tag",
                            StepKinds.Tag,
                            StepMoment.AtOnce,
                            new Dictionary<string, string> { ["tag"] = "no address" }
                        ),
                    ]
                ),
            ],
        };

    private async Task<(
        HttpClient Noor,
        string Lead,
        Dictionary<string, string> Person,
        JsonElement Letter
    )> WrittenAsync(params (string, string)[] settings)
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form => Fuse(form, settings));
        await world.ToldAsync(noor, lead, "step-done", "letter");
        return (
            noor,
            lead,
            person,
            Assert.Single(
                (
                    await world.Backlot.GetFromJsonAsync<List<JsonElement>>(
                        $"/api/pillarpost/letters?to={person["email"]}"
                    )
                )!
            )
        );
    }

    private Task<HttpResponseMessage> AnswerAsync(JsonElement letter, object answer) =>
        world.Backlot.PostAsJsonAsync($"/api/pillarpost/letters/{letter.GetProperty("id")}/answer", answer);

    private static async Task<bool> TaggedAsync(HttpClient noor, string lead, string tag) =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}"))
            .GetProperty("lead")
            .GetProperty("tags")
            .EnumerateArray()
            .Any(t => t.GetString() == tag);

    [Fact]
    public async Task It_brings_their_answers_in_it_and_as_a_PDF_and_files_of_the_library_from_a_sender_of_its_own()
    {
        var noor = await world.NoorAsync();
        var bytes = "%PDF-1.4 a price list"u8.ToArray();
        var made = await (
            await noor.PostAsync("/api/library?client=brackenwheel&name=Prices.pdf", new ByteArrayContent(bytes))
        ).BodyAsync();
        var (_, _, person, letter) = await WrittenAsync(
            ("blocks", "name,fleet_size,company,cargo"),
            ("pdf", "yes"),
            ("files", made.Text("id")!),
            ("from", "Imke Sandoval <imke@brackenwheel.example>"),
            ("reply", "rides@brackenwheel.example")
        );
        Assert.Equal(
            ("\"Imke Sandoval\" <imke@brackenwheel.example>", "rides@brackenwheel.example"),
            (letter.Text("from"), letter.Text("replyTo"))
        );
        // In the order chosen, and what they left empty is left out.
        Assert.Contains(
            $"thank you.\n\nName: Ines {person["last_name"]}\nFleet size: 4–9\nCargo: food\n\nNo more messages:",
            letter.Text("text")!.ReplaceLineEndings("\n"),
            StringComparison.Ordinal
        );
        var files = letter.GetProperty("files").EnumerateArray().ToList();
        Assert.Equal(["Prices.pdf", "answers.pdf"], files.Select(f => f.Text("name")));
        Assert.Equal(bytes, files[0].GetProperty("bytes").GetBytesFromBase64());
        var pdf = Encoding.Latin1.GetString(files[1].GetProperty("bytes").GetBytesFromBase64());
        Assert.StartsWith("%PDF-", pdf, StringComparison.Ordinal);
        Assert.Contains("/Author", pdf, StringComparison.Ordinal);
        var refused = await noor.DeleteAsync($"/api/library/{made.Text("id")}");
        Assert.Equal("still-used", await refused.RefusalAsync(HttpStatusCode.Conflict));
    }

    [Fact]
    public async Task An_answer_joins_the_story_without_what_it_quotes_and_stops_what_waits()
    {
        var (noor, lead, _, letter) = await WrittenAsync();
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await AnswerAsync(letter, new { text = "Tuesday suits us.\nCan we bring two people?" })).StatusCode
        );
        Assert.Equal(
            "Tuesday suits us.\nCan we bring two people?",
            (await world.ToldAsync(noor, lead, "replied")).Text("words")
        );
        await world.ToldAsync(noor, lead, "step-cancelled", "second");
    }

    [Fact]
    public async Task From_another_address_the_headers_say_whose_it_is_and_a_machine_s_answer_stops_nothing()
    {
        var (noor, lead, _, letter) = await WrittenAsync();
        await AnswerAsync(letter, new { text = "I am away until Monday.", automatic = true });
        Assert.Contains(
            "I am away until Monday.",
            (await world.ToldAsync(noor, lead, "answered")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(await world.StoryAsync(noor, lead), l => l.Text("kind") is "replied" or "step-cancelled");
        await AnswerAsync(letter, new { text = "Speaking for Ines: yes.", from = "assistant@elsewhere.example.com" });
        Assert.Equal("Speaking for Ines: yes.", (await world.ToldAsync(noor, lead, "replied")).Text("words"));
    }

    [Fact]
    public async Task A_letter_that_comes_back_marks_the_address_until_somebody_says_that_it_works()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await World.OwnFormAsync(noor);
        await World.ArmAsync(noor, Fuse(key));
        var person = world.Person();
        person["email"] = "moved." + person["email"];
        await world.SubmitAsync(person, key);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, id)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, id);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        Assert.Equal(
            $"did not arrive at {person["email"]}: 550 the mailbox has moved, and nobody knows where",
            (await world.ToldAsync(noor, lead, "bounced", "letter")).Text("words")
        );
        await World.EventuallyAsync(() => TaggedAsync(noor, lead, "no address"), "the band of what failed");
        var whole = await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}");
        Assert.Equal("550 the mailbox has moved, and nobody knows where", whole.Text("emailBouncedBecause"));
        world.Time.Move(TimeSpan.FromHours(2.1));
        try
        {
            Assert.Equal(
                "letters to their address come back",
                (await world.ToldAsync(noor, lead, "step-cancelled", "second")).Text("words")
            );
        }
        finally
        {
            world.Time.Move(-TimeSpan.FromHours(2.1));
        }

        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/leads/{lead}/email-works", null)).StatusCode
        );
        Assert.Equal(
            JsonValueKind.Null,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("emailBouncedAt").ValueKind
        );
    }

    [Fact]
    public async Task An_address_that_the_mail_server_refuses_as_not_there_is_marked_at_once()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await World.OwnFormAsync(noor);
        await World.ArmAsync(noor, Fuse(key));
        var person = world.Person();
        person["email"] = $"nobody@{Guid.NewGuid():N}.example.com";
        await world.SubmitAsync(person, key);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, id)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, id);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        Assert.StartsWith(
            $"{person["email"]} is not there: Pillarpost answered 550 there is no such mailbox here",
            (await world.ToldAsync(noor, lead, "bounced", "letter")).Text("words"),
            StringComparison.Ordinal
        );
        Assert.NotEqual(
            JsonValueKind.Null,
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{lead}")).GetProperty("emailBouncedAt").ValueKind
        );
    }

    [Fact]
    public async Task A_letter_from_nobody_we_know_lies_in_the_tray_until_somebody_says_whose_it_is()
    {
        var (noor, lead, person, _) = await WrittenAsync();
        var from = $"other.{person["email"]}";
        await world.Backlot.PostAsJsonAsync(
            "/api/pillarpost/letters",
            new
            {
                from,
                to = "hello@brackenwheel.example",
                subject = "Bikes",
                text = "Do you lease to schools?",
            }
        );
        JsonElement message = default;
        await World.EventuallyAsync(
            async () =>
                (
                    message = (await noor.GetFromJsonAsync<JsonElement>("/api/tray?client=brackenwheel"))
                        .GetProperty("messages")
                        .EnumerateArray()
                        .FirstOrDefault(m => m.Text("from") == from)
                ).ValueKind == JsonValueKind.Object,
            "the letter in the tray"
        );
        Assert.Equal(
            ("email", "Bikes", "Do you lease to schools?"),
            (message.Text("way"), message.Text("subject"), message.Text("words"))
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsJsonAsync($"/api/tray/{message.Text("id")}/give", new { leadId = lead })).StatusCode
        );
        Assert.Equal("Do you lease to schools?", (await world.ToldAsync(noor, lead, "replied")).Text("words"));
        Assert.Equal(
            "not-now",
            await (
                await noor.PostAsJsonAsync($"/api/tray/{message.Text("id")}/give", new { leadId = lead })
            ).RefusalAsync(HttpStatusCode.Conflict)
        );
        // The next one from there is theirs without a question.
        await world.Backlot.PostAsJsonAsync(
            "/api/pillarpost/letters",
            new
            {
                from,
                to = "hello@brackenwheel.example",
                subject = "Bikes",
                text = "And to clubs?",
            }
        );
        await World.EventuallyAsync(
            async () => (await world.StoryAsync(noor, lead)).Exists(l => l.Text("words") == "And to clubs?"),
            "the second letter in the story"
        );
    }

    [Fact]
    public async Task A_text_from_nobody_we_know_is_dismissed()
    {
        var noor = await world.NoorAsync();
        var (_, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(form) with
            {
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            new(
                                "text",
                                "text",
                                StepKinds.Text,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["words"] = "Hello" },
                                Hours: new(HoursKind.None)
                            ),
                        ]
                    ),
                ],
            }
        );
        await World.EventuallyAsync(
            async () =>
                (await world.TextsAsync("+44" + person["phone"].Replace(" ", "", StringComparison.Ordinal)[1..])).Count
                > 0,
            "the text that tells the carrier who is there"
        );
        await world.Backlot.PostAsJsonAsync(
            "/api/copperline/phones/+441632960555/texts",
            new { to = "+447700900512", text = "Wrong number?" }
        );
        JsonElement message = default;
        await World.EventuallyAsync(
            async () =>
                (
                    message = (await noor.GetFromJsonAsync<JsonElement>("/api/tray?client=brackenwheel"))
                        .GetProperty("messages")
                        .EnumerateArray()
                        .FirstOrDefault(m => m.Text("from") == "+441632960555")
                ).ValueKind == JsonValueKind.Object,
            "the text in the tray"
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsync($"/api/tray/{message.Text("id")}/dismiss", null)).StatusCode
        );
        Assert.DoesNotContain(
            (await noor.GetFromJsonAsync<JsonElement>("/api/tray?client=brackenwheel"))
                .GetProperty("messages")
                .EnumerateArray(),
            m => m.Text("id") == message.Text("id")
        );
    }

    [Fact]
    public async Task Stop_by_text_is_confirmed_once_in_the_language_of_the_number()
    {
        var noor = await world.NoorAsync();
        var (lead, person, _, _) = await world.LitAsync(noor, form =>
            Fuse(form) with
            {
                Bands =
                [
                    new(
                        "always",
                        "Always",
                        new(EntryKind.Always),
                        [
                            new(
                                "text",
                                "text",
                                StepKinds.Text,
                                StepMoment.AtOnce,
                                new Dictionary<string, string> { ["words"] = "Hello" },
                                Hours: new(HoursKind.None)
                            ),
                        ]
                    ),
                ],
            }
        );
        var phone = "+44" + person["phone"].Replace(" ", "", StringComparison.Ordinal)[1..];
        await World.EventuallyAsync(async () => (await world.TextsAsync(phone)).Count == 1, "the first text");
        // All at once, as somebody does who means it.
        string[] words = ["ARRET", "stop", "STOP", "stop!", "Stop please"];
        await Task.WhenAll(
            words.Select(word =>
                world.Backlot.PostAsJsonAsync(
                    $"/api/copperline/phones/{Uri.EscapeDataString(phone)}/texts",
                    new { to = "+447700900512", text = word }
                )
            )
        );
        await World.EventuallyAsync(async () => (await world.TextsAsync(phone)).Count == 2, "what confirms it");
        Assert.Equal(
            "Brackenwheel Cargo Cycles: you will get no more texts from us. Write START if you want them again.",
            (await world.TextsAsync(phone))[^1].Text("text")
        );
        await World.EventuallyAsync(
            async () => (await world.StoryAsync(noor, lead)).Count(l => l.Text("kind") == "replied") == words.Length,
            "all answers"
        );
        await world.IdleAsync();
        Assert.Equal(2, (await world.TextsAsync(phone)).Count);
    }

    [Fact]
    public async Task Signed_letters_carry_a_signature_and_the_record_to_publish_is_told()
    {
        var noor = await world.NoorAsync();
        var mail = (await noor.GetFromJsonAsync<JsonElement>("/api/connections?client=brackenwheel"))
            .GetProperty("connections")
            .EnumerateArray()
            .Single(c => c.Text("kind") == "pillarpost")
            .Text("id");
        Assert.Equal(
            "bad-input",
            await (
                await noor.PutAsJsonAsync(
                    $"/api/connections/{mail}/mail/dkim",
                    new { domain = "not a domain", selector = "litfuse" }
                )
            ).RefusalAsync(HttpStatusCode.BadRequest)
        );
        var setup = await (
            await noor.PutAsJsonAsync(
                $"/api/connections/{mail}/mail/dkim",
                new { domain = "brackenwheel.example", selector = "litfuse" }
            )
        ).BodyAsync();
        Assert.Equal("litfuse._domainkey.brackenwheel.example", setup.GetProperty("record").Text("name"));
        Assert.StartsWith("v=DKIM1; k=rsa; p=MII", setup.GetProperty("record").Text("text"), StringComparison.Ordinal);
        var (_, _, _, letter) = await WrittenAsync();
        Assert.Contains("d=brackenwheel.example; s=litfuse", letter.Text("signature"), StringComparison.Ordinal);
        await noor.PutAsJsonAsync($"/api/connections/{mail}/mail/dkim", new { domain = "" });
        Assert.Null((await WrittenAsync()).Letter.Text("signature"));
    }

    [Fact]
    public async Task A_signature_holds_for_the_letter_as_it_goes_over_the_wire()
    {
        using var key = System.Security.Cryptography.RSA.Create(2048);
        var dkim = new DkimKey("brackenwheel.example", "litfuse", key.ExportRSAPrivateKeyPem());
        var (message, fault) = await world.InsideAsync(s =>
            Task.FromResult(
                s.GetRequiredService<LetterMaking>()
                    .Make(
                        new(
                            Guid.NewGuid(),
                            new("smtp://127.0.0.1"),
                            "",
                            "Brackenwheel <hello@brackenwheel.example>",
                            "",
                            new Dictionary<string, string>()
                        )
                        {
                            Dkim = dkim,
                        },
                        new(
                            StepKinds.Email,
                            "key",
                            new Dictionary<string, string>
                            {
                                ["to"] = "ines@example.com",
                                ["subject"] = "Fahrräder für Ines 🚲",
                                ["words"] = "Grüße,\n\n.a dot begins this line\n" + new string('x', 1200),
                            },
                            null,
                            Guid.NewGuid().ToString(),
                            "GBP"
                        )
                        {
                            Client = "Brackenwheel",
                        }
                    )
            )
        );
        Assert.Null(fault);
        using var wire = new MemoryStream();
        await message!.WriteToAsync(new MimeKit.FormatOptions { NewLineFormat = MimeKit.NewLineFormat.Dos }, wire);
        wire.Position = 0;
        using var received = await MimeKit.MimeMessage.LoadAsync(wire);
        var signature = received.Headers.Single(h => h.Id == MimeKit.HeaderId.DkimSignature);
        Assert.True(await new MimeKit.Cryptography.DkimVerifier(new OneKey(key)).VerifyAsync(received, signature));
        received.Subject = "Something else";
        Assert.False(await new MimeKit.Cryptography.DkimVerifier(new OneKey(key)).VerifyAsync(received, signature));
    }

    private sealed class OneKey(System.Security.Cryptography.RSA key) : MimeKit.Cryptography.IDkimPublicKeyLocator
    {
        public Org.BouncyCastle.Crypto.AsymmetricKeyParameter LocatePublicKey(
            string methods,
            string domain,
            string selector,
            CancellationToken cancellationToken = default
        ) => Org.BouncyCastle.Security.PublicKeyFactory.CreateKey(key.ExportSubjectPublicKeyInfo());

        public Task<Org.BouncyCastle.Crypto.AsymmetricKeyParameter> LocatePublicKeyAsync(
            string methods,
            string domain,
            string selector,
            CancellationToken cancellationToken = default
        ) => Task.FromResult(LocatePublicKey(methods, domain, selector, cancellationToken));
    }

    [Fact]
    public async Task What_a_stranger_typed_breaks_no_header_and_turns_nothing_round()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await World.OwnFormAsync(noor);
        await World.ArmAsync(noor, Fuse(key, ("pdf", "yes"), ("blocks", "answers")));
        var person = world.Person();
        person["cargo"] =
            "food\r\nBcc: all@example.com\u202e, tools <script>alert(1)</script> "
            + string.Join(' ', Enumerable.Repeat("parcels", 1500));
        await world.SubmitAsync(person, key);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, id)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, id);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        await world.ToldAsync(noor, lead, "step-done", "letter");
        var letter = Assert.Single(
            (await world.Backlot.GetFromJsonAsync<List<JsonElement>>($"/api/pillarpost/letters?to={person["email"]}"))!
        );
        Assert.InRange(letter.Text("subject")!.Length, 1, 250);
        Assert.DoesNotContain(
            "\u202e",
            letter.Text("subject")! + letter.Text("text") + letter.Text("html"),
            StringComparison.Ordinal
        );
        Assert.DoesNotContain("<script", letter.Text("html"), StringComparison.OrdinalIgnoreCase);
        Assert.False(letter.GetProperty("headers").TryGetProperty("Bcc", out _));
        Assert.Empty(
            (await world.Backlot.GetFromJsonAsync<List<JsonElement>>("/api/pillarpost/letters?to=all@example.com"))!
        );
    }
}

using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using MiniExcelLibs;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>Files of leads.</summary>
public sealed class ImportTests(World world) : IClassFixture<World>
{
    private static async Task<string> UploadAsync(
        HttpClient noor,
        byte[] file,
        string name = "leads.csv",
        string client = "tarn-valley"
    )
    {
        var made = await noor.PostAsync(
            $"/api/imports?client={client}&name={Uri.EscapeDataString(name)}",
            new ByteArrayContent(file)
        );
        Assert.Equal(HttpStatusCode.Created, made.StatusCode);
        return (await made.BodyAsync()).Text("id")!;
    }

    private static Task<string> UploadAsync(HttpClient noor, string text) =>
        UploadAsync(noor, Encoding.UTF8.GetBytes(text));

    private static Task<JsonElement> GetAsync(HttpClient noor, string id) =>
        noor.GetFromJsonAsync<JsonElement>($"/api/imports/{id}");

    private static async Task<JsonElement> RunAsync(
        HttpClient noor,
        string id,
        bool lights = false,
        string until = "done"
    )
    {
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PostAsJsonAsync($"/api/imports/{id}/start", new { lights })).StatusCode
        );
        return await UntilAsync(noor, id, until);
    }

    private static async Task<JsonElement> UntilAsync(HttpClient noor, string id, string status)
    {
        await World.EventuallyAsync(
            async () => (await GetAsync(noor, id)).GetProperty("import").Text("status") == status,
            $"import that is {status}"
        );
        return (await GetAsync(noor, id)).GetProperty("import");
    }

    private static (int New, int Updates, int Doubles, int Bad) Counts(JsonElement line) =>
        (
            line.GetProperty("newLeads").GetInt32(),
            line.GetProperty("updates").GetInt32(),
            line.GetProperty("doubles").GetInt32(),
            line.GetProperty("badRows").GetInt32()
        );

    private static async Task<int> FoundAsync(HttpClient noor, string q) =>
        (await noor.GetFromJsonAsync<JsonElement>($"/api/leads?client=tarn-valley&q={Uri.EscapeDataString(q)}"))
            .GetProperty("total")
            .GetInt32();

    [Fact]
    public async Task What_was_found_in_the_file_is_shown_before_anything_is_imported()
    {
        var noor = await world.NoorAsync();
        var text =
            "Name;E-Mail;Telefon;Größe;Datum\r\nJörg Zeller;joerg@example.net;020 911 0001;50–120;24.11.2026\r\nNobody;;;;01.02.2026\r\n";
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        var id = await UploadAsync(noor, Encoding.GetEncoding("windows-1252").GetBytes(text));
        var whole = await GetAsync(noor, id);
        var reading = whole.GetProperty("reading");
        Assert.Equal(
            (";", "windows-1252", true, "day-month-year", "IE"),
            (
                reading.Text("delimiter"),
                reading.Text("charset"),
                reading.GetProperty("hasHeader").GetBoolean(),
                reading.Text("dates"),
                reading.Text("country")
            )
        );
        Assert.Equal(
            ["full_name", "email", "phone", "grosse", "sent_at"],
            reading.GetProperty("columns").EnumerateArray().Select(c => c.Text("leadField"))
        );
        var preview = whole.GetProperty("preview");
        Assert.Equal((1, 0, 0, 1), Counts(preview));
        Assert.Equal("020 911 0001 is read as +353209110001", preview.Text("phoneExample"));
        Assert.Equal("24.11.2026 is read as 24 November 2026", preview.Text("dateExample"));
        Assert.Contains(preview.GetProperty("rows").EnumerateArray(), r =>
            r.GetProperty("row").GetInt32() == 3
            && r.Text("reason") == "there is neither an email address nor a telephone number in it"
        );
        Assert.Equal(0, await FoundAsync(noor, "joerg@example.net"));
    }

    [Fact]
    public async Task New_updates_doubles_and_bad_rows_are_told_apart_and_the_bad_ones_come_back_as_a_file()
    {
        var noor = await world.NoorAsync();
        await world.SubmitAsync(
            new
            {
                full_name = "Orla Quarrie",
                email = "orla.known@example.com",
                event_date = "3 May",
                guests = "50–120",
            },
            "tarn-valley-date"
        );
        await World.FoundAsync(noor, "orla.known@example.com");
        var id = await UploadAsync(
            noor,
            "Name,Email,Notes\nHal Sandifer,hal.import@example.com,first\nOrla Quarrie,orla.known@example.com,\"says, hello\"\nHal Sandifer,hal.import@example.com,first\n=cmd,not an address,x\n"
        );
        Assert.Equal((1, 1, 1, 1), Counts(await RunAsync(noor, id)));
        Assert.Equal(1, await FoundAsync(noor, "hal.import@example.com"));
        Assert.Equal(1, await FoundAsync(noor, "orla.known@example.com says,"));
        var bad = await noor.GetAsync($"/api/imports/{id}/bad-rows.csv");
        Assert.Equal(
            "Name,Email,Notes,row,what is wrong\r\n'=cmd,not an address,x,5,Email: an email address has the form name@example.com\r\n".Split(
                "\r\n"
            )[0],
            (await bad.Content.ReadAsStringAsync()).Split("\r\n")[0]
        );
        Assert.Contains("'=cmd", await bad.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal("attachment", bad.Content.Headers.ContentDisposition!.DispositionType);
        var again = await UploadAsync(noor, "Name,Email,Notes\nHal Sandifer,hal.import@example.com,first\n");
        Assert.Equal(
            1,
            (await GetAsync(noor, again)).GetProperty("preview").GetProperty("updates").GetInt32()
                + (await GetAsync(noor, again)).GetProperty("preview").GetProperty("doubles").GetInt32()
        );
    }

    [Fact]
    public async Task Imported_leads_light_nothing_and_nobody_waits_for_them_unless_asked()
    {
        var noor = await world.NoorAsync();
        var id = await UploadAsync(noor, "Name,Email\nQuiet Person,quiet@example.com\n");
        await RunAsync(noor, id);
        var lead = await World.FoundAsync(noor, "quiet@example.com", "tarn-valley");
        Assert.Equal(["imported"], (await world.StoryAsync(noor, lead.Text("id")!)).Select(l => l.Text("kind")));
        Assert.DoesNotContain(
            "quiet@example.com",
            await noor.GetStringAsync("/api/watch?client=tarn-valley"),
            StringComparison.Ordinal
        );
        // It asks again: now somebody waits.
        await world.SubmitAsync(
            new
            {
                full_name = "Quiet Person",
                email = "quiet@example.com",
                event_date = "3 May",
                guests = "50–120",
            },
            "tarn-valley-date"
        );
        await World.EventuallyAsync(
            async () =>
                (await noor.GetStringAsync("/api/watch?client=tarn-valley")).Contains(
                    "quiet@example.com",
                    StringComparison.Ordinal
                ),
            "lead in the air"
        );

        var loud = await UploadAsync(noor, "Name,Email,Submitted\nLoud Person,loud@example.com,\n");
        await RunAsync(noor, loud, lights: true);
        await World.EventuallyAsync(
            async () =>
                (await noor.GetStringAsync("/api/watch?client=tarn-valley")).Contains(
                    "loud@example.com",
                    StringComparison.Ordinal
                ),
            "lead in the air"
        );
    }

    [Fact]
    public async Task Undoing_takes_out_what_was_made_gives_back_what_was_changed_and_leaves_what_lives_on()
    {
        var noor = await world.NoorAsync();
        await world.SubmitAsync(
            new
            {
                full_name = "Thora Before",
                email = "thora@example.com",
                event_date = "1 June",
                guests = "50–120",
            },
            "tarn-valley-date"
        );
        var thora = await World.FoundAsync(noor, "thora@example.com");
        var id = await UploadAsync(
            noor,
            "Name,Email,Guests\nThora After,thora@example.com,many\nGone Soon,gone@example.com,few\nStays Here,stays@example.com,few\n"
        );
        Assert.Equal((2, 1, 0, 0), Counts(await RunAsync(noor, id)));
        Assert.Equal("Thora After", (await World.FoundAsync(noor, "thora@example.com")).Text("name"));
        var stays = await World.FoundAsync(noor, "stays@example.com");
        await noor.PostAsJsonAsync($"/api/leads/{stays.Text("id")}/touch", new { how = "called" });

        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync($"/api/imports/{id}/undo", null)).StatusCode);
        var undone = await UntilAsync(noor, id, "undone");
        Assert.Contains("1 leads stay", undone.Text("reason"), StringComparison.Ordinal);
        Assert.Equal((0, 1), (await FoundAsync(noor, "gone@example.com"), await FoundAsync(noor, "stays@example.com")));
        Assert.Equal(
            "Thora Before",
            (await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{thora.Text("id")}"))
                .GetProperty("lead")
                .Text("name")
        );
        Assert.Equal(
            "not-now",
            await (await noor.PostAsync($"/api/imports/{id}/undo", null)).RefusalAsync(HttpStatusCode.Conflict)
        );
    }

    [Fact]
    public async Task A_long_import_is_cancelled_and_undone()
    {
        var noor = await world.NoorAsync();
        var text = new StringBuilder("Name,Email\n");
        for (var i = 0; i < 60_000; i++)
            text.Append(System.Globalization.CultureInfo.InvariantCulture, $"Maren Cancel,cancel.{i}@example.org\n");
        var id = await UploadAsync(noor, text.ToString());
        await noor.PostAsJsonAsync($"/api/imports/{id}/start", new { lights = false });
        await World.EventuallyAsync(
            async () => (await GetAsync(noor, id)).GetProperty("import").GetProperty("rowsDone").GetInt32() > 0,
            "first rows"
        );
        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync($"/api/imports/{id}/cancel", null)).StatusCode);
        var line = await UntilAsync(noor, id, "cancelled");
        await world.IdleAsync();
        var done = (await GetAsync(noor, id)).GetProperty("import").GetProperty("rowsDone").GetInt32();
        Assert.True(done < 60_000, $"{done} rows");
        Assert.Equal("cancelled", line.Text("status"));
        await noor.PostAsync($"/api/imports/{id}/undo", null);
        await World.EventuallyAsync(
            async () => (await GetAsync(noor, id)).GetProperty("import").Text("status") == "undone",
            "import that is undone",
            seconds: 60
        );
        Assert.Equal(0, await FoundAsync(noor, "cancel."));
    }

    [Fact]
    public async Task A_workbook_is_read_by_its_sheet()
    {
        var noor = await world.NoorAsync();
        using var file = new MemoryStream();
        file.SaveAs(
            new Dictionary<string, object>
            {
                ["Notes"] = new[] { new { Nothing = "here" } },
                ["People"] = new[]
                {
                    new
                    {
                        Name = "Xanthe Threlkeld",
                        Email = "xanthe@example.com",
                        Submitted = new DateTime(2026, 11, 2, 9, 30, 0),
                    },
                },
            }
        );
        var id = await UploadAsync(noor, file.ToArray(), "leads.xlsx");
        var whole = await GetAsync(noor, id);
        Assert.Equal(["Notes", "People"], whole.GetProperty("sheets").EnumerateArray().Select(s => s.GetString()));
        var reading = System.Text.Json.Nodes.JsonNode.Parse(whole.GetProperty("reading").GetRawText())!;
        reading["sheet"] = "People";
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await noor.PutAsJsonAsync($"/api/imports/{id}/reading", new { reading })).StatusCode
        );
        Assert.Equal((1, 0, 0, 0), Counts(await RunAsync(noor, id)));
        Assert.StartsWith(
            "2026-11-02T09:30:00",
            (await World.FoundAsync(noor, "xanthe@example.com")).Text("askedAt"),
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("", "The file is empty.")]
    [InlineData("PK\u0003\u0004nonsense", "The workbook is damaged: save it again, or as CSV.")]
    [InlineData("%PDF-1.4\u0000\u0001", "This is no text: choose a CSV or an .xlsx file.")]
    public async Task A_file_that_cannot_be_read_says_why_and_what_to_choose(string content, string said)
    {
        var answer = await (await world.NoorAsync()).PostAsync(
            "/api/imports?client=tarn-valley&name=odd.csv",
            new ByteArrayContent(Encoding.Latin1.GetBytes(content))
        );
        Assert.Equal("bad-input", await answer.RefusalAsync(HttpStatusCode.BadRequest));
        Assert.Equal(said, (await answer.BodyAsync()).Text("detail"));
    }

    [Fact]
    public async Task A_reading_that_makes_no_sense_is_refused_and_one_without_an_address_is_not_started()
    {
        var noor = await world.NoorAsync();
        var id = await UploadAsync(noor, "a,b\n1,2\n");
        var reading = System.Text.Json.Nodes.JsonNode.Parse(
            (await GetAsync(noor, id)).GetProperty("reading").GetRawText()
        )!;
        async Task<string?> Set(string field, string value)
        {
            var changed = reading.DeepClone();
            changed[field] = value;
            return await (
                await noor.PutAsJsonAsync($"/api/imports/{id}/reading", new { reading = changed })
            ).RefusalAsync(HttpStatusCode.BadRequest);
        }

        Assert.Equal(
            ("bad-input", "bad-input", "bad-input", "bad-input"),
            (
                await Set("delimiter", ",,"),
                await Set("charset", "no-such"),
                await Set("country", "Ireland"),
                await Set("kind", "xlsx")
            )
        );
        Assert.Equal(
            "bad-input",
            await (await noor.PostAsJsonAsync($"/api/imports/{id}/start", new { lights = false })).RefusalAsync(
                HttpStatusCode.BadRequest
            )
        );
        Assert.Equal(HttpStatusCode.NoContent, (await noor.PostAsync($"/api/imports/{id}/cancel", null)).StatusCode);
    }
}

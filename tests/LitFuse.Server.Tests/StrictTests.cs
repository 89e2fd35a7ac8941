using System.IO.Compression;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using LitFuse.Data;
using LitFuse.Server.Tests.WaysIn;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>What cannot be right is refused with its place and its mend, and what is only odd harms nobody.</summary>
public sealed class StrictTests(WideWorld world) : IClassFixture<WideWorld>
{
    private static async Task<string> SaidAsync(HttpResponseMessage answer)
    {
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        return (await answer.BodyAsync()).Text("detail")!;
    }

    private static StringContent Json(string text) => new(text, Encoding.UTF8, "application/json");

    [Fact]
    public async Task A_body_that_cannot_be_right_says_where_and_names_no_type_of_ours()
    {
        var noor = await world.NoorAsync();
        var (id, _) = await World.OwnFormAsync(noor);
        Assert.Equal(
            "The body cannot be read: entry 1 of 'rows' is nothing (null).",
            await SaidAsync(await noor.PutAsync($"/api/forms/{id}/map", Json("""{"version":0,"rows":[null]}""")))
        );
        Assert.Equal(
            "The body cannot be read: it lacks 'client'.",
            await SaidAsync(await noor.PostAsync("/api/fuses", Json("""{"kit":null,"file":null}""")))
        );
        Assert.Contains(
            "'kit' is there twice",
            await SaidAsync(
                await noor.PostAsync("/api/fuses", Json("""{"client":"brackenwheel","kit":null,"kit":"chase"}"""))
            ),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "a value is of another kind",
            await SaidAsync(await noor.PostAsync("/api/fuses", Json("""{"client":7}"""))),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "NUL",
            await SaidAsync(
                await noor.PostAsync(
                    "/api/lead-fields",
                    Json("""{"client":"brackenwheel","label":"a\u0000b","type":"text"}""")
                )
            ),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "joins its field with none",
            await SaidAsync(
                await noor.PutAsync(
                    $"/api/forms/{id}/map",
                    Json("""{"version":0,"rows":[{"formField":"a","leadField":"email","with":[]}]}""")
                )
            ),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Of_a_fuse_a_key_that_is_not_known_is_refused_by_its_name()
    {
        var noor = await world.NoorAsync();
        var (_, form) = await World.OwnFormAsync(noor);
        var file =
            """{"schema":2,"name":"x","litBy":[{"event":"submission","only":{"form":["FORM"]}}],"bands":[{"id":"b","name":"B","entry":{"kind":"always"},"steps":[{"id":"s","name":"S","kind":"text","moment":{},"settings":{},"delay":5}]}]}""".Replace(
                "FORM",
                form,
                StringComparison.Ordinal
            );
        Assert.Contains(
            "at bands[0].steps[0].delay, 'delay' is no key that is known here",
            await SaidAsync(await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel", file })),
            StringComparison.Ordinal
        );
        var id = (await (await noor.PostAsJsonAsync("/api/fuses", new { client = "brackenwheel" })).BodyAsync()).Text(
            "id"
        );
        Assert.Contains(
            "'delay' is no key that is known here",
            await SaidAsync(
                await noor.PutAsync($"/api/fuses/{id}/draft", Json("{\"revision\":1,\"definition\":" + file + "}"))
            ),
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("content.xml", "This is an OpenDocument file (.ods). Save it as .xlsx or CSV, and choose that.")]
    [InlineData("leads.csv", "This is a zip archive and no workbook. Unpack it, and choose the CSV or .xlsx in it.")]
    [InlineData("xl/workbook.xml", "The workbook is damaged: save it again, or as CSV.")]
    public async Task A_file_that_is_no_workbook_says_what_it_is(string entry, string said)
    {
        var noor = await world.NoorAsync();
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            using var inside = new StreamWriter(zip.CreateEntry(entry).Open());
            await inside.WriteAsync("<x>");
        }

        Assert.Equal(
            said,
            await SaidAsync(
                await noor.PostAsync(
                    "/api/imports?client=brackenwheel&name=leads.xlsx",
                    new ByteArrayContent(bytes.ToArray())
                )
            )
        );
    }

    [Fact]
    public async Task One_stray_post_without_proof_cuts_no_line_and_tells_nobody_and_a_sender_that_is_refused_for_good_does()
    {
        var noor = await world.NoorAsync();
        var (id, key) = await World.OwnFormAsync(noor);
        await noor.PutAsJsonAsync(
            $"/api/forms/{id}/map",
            new { version = 0, rows = new[] { new { formField = "email", leadField = "email" } } }
        );
        await world.SubmitAsync(new { email = "stray@example.com" }, key);
        await World.FoundAsync(noor, "stray@example.com");
        await noor.PutAsJsonAsync($"/api/forms/{id}/proof", new { kind = "key" });
        async Task StrayAsync() =>
            Assert.Equal(
                HttpStatusCode.Unauthorized,
                (await world.SubmitAsync(new { email = "other@example.com" }, key)).StatusCode
            );
        async Task<JsonElement> LineAsync()
        {
            await noor.PostAsync($"/api/forms/{id}/line/look", null);
            return (await noor.GetFromJsonAsync<JsonElement>($"/api/forms/{id}/line")).GetProperty("line");
        }

        static bool Refused(JsonElement line) =>
            line.GetProperty("cuts").EnumerateArray().Any(c => c.Text("joint") == "access");
        await StrayAsync();
        var told = await World.EventuallyAsync(
            async () =>
                (await LineAsync())
                    .GetProperty("joints")
                    .EnumerateArray()
                    .Where(j => j.Text("kind") == "access")
                    .Cast<JsonElement?>()
                    .FirstOrDefault(),
            "the refusal on the line"
        );
        Assert.Contains("1 submission was refused", told.Text("words"), StringComparison.Ordinal);
        Assert.False(Refused(await LineAsync()));
        // It goes on, with nothing good between.
        var began = world.Time.GetUtcNow();
        try
        {
            for (var i = 0; i < 3; i++)
            {
                world.Time.Move(TimeSpan.FromMinutes(6));
                await StrayAsync();
                await World.EventuallyAsync(
                    () =>
                        world.InsideAsync(s =>
                            s.GetRequiredService<AppDb>()
                                .Refusals.AnyAsync(r => r.FormId == Guid.Parse(id) && r.Times >= i + 2)
                        ),
                    "the refusal counted"
                );
            }

            await World.EventuallyAsync(async () => Refused(await LineAsync()), "the cut");
        }
        finally
        {
            world.Time.Move(began - world.Time.GetUtcNow());
        }
    }
}

using System.Text;
using CsCheck;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Junk;
using LitFuse.Core.Payloads;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>Reading what arrives: picks, junk, made-up answers, files.</summary>
public sealed class WaysInTests
{
    private const string Sample =
        """{"a":{"b c":"x","list":[1,2]},"rows":[{"k":"p","v":null},{"k":"q","v":true}],"deep":{"er":{"est":"z"}},"empty":[]}""";

    [Theory]
    [InlineData("$.a['b c']", "x")]
    [InlineData("$.a.list[*]", "1, 2")]
    [InlineData("$.a.list[1]", "2")]
    [InlineData("$.a.list", "1, 2")]
    [InlineData("$.rows[*].k", "p, q")]
    [InlineData("$.rows[0].k", "p")]
    [InlineData("$.rows[9].k", null)]
    [InlineData("$.deep.*.est", "z")]
    [InlineData("$.deep", "er.est: z")]
    [InlineData("$.nothing", null)]
    public void A_path_finds_what_stands_there(string path, string? value)
    {
        var read = Picks.Read([new(path, "field")], Encoding.UTF8.GetBytes(Sample));
        Assert.Equal(value, read.Answers.FirstOrDefault()?.Value);
        Assert.Equal(value is null, read.Unreadable is not null);
    }

    [Theory]
    [InlineData("a.b")]
    [InlineData("$a")]
    [InlineData("$.")]
    [InlineData("$..a")]
    [InlineData("$.a[")]
    [InlineData("$.a['b]")]
    [InlineData("$.a[-1]")]
    [InlineData("")]
    public void What_is_no_path_says_how_one_is_written(string path) =>
        Assert.Contains("$.items[*].sku", Picks.Fault(path), StringComparison.Ordinal);

    [Fact]
    public void Every_path_that_is_listed_finds_its_value_again()
    {
        foreach (var (path, value) in Picks.Paths(Encoding.UTF8.GetBytes(Sample)))
        {
            Assert.Null(Picks.Fault(path));
            if (value.Length > 0)
                Assert.Equal(
                    value.Replace(", , ", ", ", StringComparison.Ordinal).TrimStart(',', ' '),
                    Picks.Read([new(path, "f")], Encoding.UTF8.GetBytes(Sample)).Answers.Single().Value
                );
        }

        Assert.Empty(Picks.Paths("{"u8.ToArray()));
        Assert.Equal(
            "not readable as JSON at line 1, byte 2",
            Picks.Read([new("$.a", "a")], "{"u8.ToArray()).Unreadable
        );
    }

    [Fact]
    public void Names_of_any_letters_are_written_as_paths_that_find_them() =>
        Gen
            .String.Where(s => s.Length > 0 && !s.Any(char.IsSurrogate))
            .Sample(name =>
            {
                var body = System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(
                    new Dictionary<string, string>(StringComparer.Ordinal) { [name] = "here" }
                );
                var path = Picks.Paths(body).Single().Field;
                return path.Length > 500 || Picks.Read([new(path, "f")], body).Answers.Single().Value == "here";
            });

    [Fact]
    public void Half_a_character_is_a_reason_and_not_a_crash()
    {
        Assert.Equal(Payload.CutCharacter, Payload.FromJson(Encoding.UTF8.GetBytes("{\"a\":\"\\ud800\"}")).Unreadable);
        Assert.Equal(
            Payload.CutCharacter,
            Picks.Read([new("$.a", "a")], Encoding.UTF8.GetBytes("{\"a\":\"\\ud800\"}")).Unreadable
        );
    }

    [Fact]
    public void How_a_form_was_filled_in_is_told_apart_from_its_answers()
    {
        var read = Payload.FromPairs([
            new("email", "a@example.com"),
            new("lf_took", "900"),
            new("lf_website", ""),
            new("id", "x\0y"),
        ]);
        Assert.Equal(("email", "xy", "900"), (read.Answers.Single().Field, read.OwnId!, read.Signs["took"]));
        var other = Payload.FromPairs([new("email", "a@example.com"), new("lf_took", "5000")]);
        Assert.Equal(read.Digest([]), other.Digest([]));
    }

    public static TheoryData<string, (string Name, string Value)[], int, int> Junky() =>
        new()
        {
            { "a person", [("full_name", "Ines Calloway"), ("email", "i@example.com"), ("lf_took", "24000")], 1, 0 },
            { "the trap", [("email", "i@example.com"), ("lf_website", "x")], 1, 70 },
            { "faster than anybody types", [("email", "i@example.com"), ("lf_took", "400")], 1, 40 },
            {
                "a link where links belong",
                [("website", "https://mine.example"), ("referrer", "https://a https://b https://c")],
                1,
                0
            },
            { "many from one address", [("email", "i@example.com")], 9, 10 },
            { "very many", [("email", "i@example.com")], 40, 40 },
            { "all of it, at most a hundred", [("name", "http://x"), ("lf_website", "x"), ("lf_took", "1")], 50, 100 },
        };

    [Theory]
    [MemberData(nameof(Junky))]
    public void Junk_is_scored_by_signs_that_cost_people_nothing(
        string why,
        (string Name, string Value)[] pairs,
        int lately,
        int score
    )
    {
        var reading = JunkScore.Of(Payload.FromPairs(pairs.Select(p => KeyValuePair.Create(p.Name, p.Value))), lately);
        Assert.True(score == reading.Score, $"{why}: {reading.Score}, {string.Join("; ", reading.Because)}");
        Assert.Equal(score == 0, reading.Because.Count == 0);
    }

    [Theory]
    [InlineData("GB", "+44 7700 900")]
    [InlineData("CA", "+1 416 555 01")]
    [InlineData("IE", "+353 20 91")]
    public void Made_up_answers_fit_the_fields_and_are_of_nobody(string country, string number)
    {
        FormField[] fields =
        [
            new("full_name", "Name", FormFieldType.Text, true, []),
            new("mail", "Email", FormFieldType.Email, true, []),
            new("tel", "Phone", FormFieldType.Phone, true, []),
            new("size", "Size", FormFieldType.Choice, true, ["1–3", "4–9"]),
            new("all", "All", FormFieldType.Choices, false, ["a", "b"]),
            new("when", "When", FormFieldType.Date, false, []),
            new("many", "Many", FormFieldType.Number, false, []),
            new("ok", "OK", FormFieldType.YesNo, false, []),
        ];
        for (var seed = 0; seed < 50; seed++)
        {
            var made = MadeUpAnswers
                .For(fields, country, new Random(seed))
                .ToDictionary(a => a.Field, a => a.Value, StringComparer.Ordinal);
            Assert.EndsWith("@example.com", made["mail"], StringComparison.Ordinal);
            Assert.StartsWith(number, made["tel"], StringComparison.Ordinal);
            Assert.True(Identity.PhoneReader.Read(made["tel"], country).Phone!.Fictional);
            Assert.Contains(made["size"], fields[3].Choices);
            Assert.NotNull(FileLook.Moment(made["when"], DateOrder.YearMonthDay));
            Assert.NotEmpty(made["all"]);
        }
    }

    [Theory]
    [InlineData("a,b,c\n1,2,3\n", ',')]
    [InlineData("a;b;c\n\"1,5\";2;3\n", ';')]
    [InlineData("a\tb\n1,2\t3,4\n", '\t')]
    [InlineData("a|b\n1|2\n", '|')]
    [InlineData("only one column\nof words, and so on\n", ',')]
    public void The_delimiter_is_the_one_that_divides_all_lines_alike(string text, char delimiter) =>
        Assert.Equal(delimiter, FileLook.DelimiterOf(text));

    [Fact]
    public void The_charset_is_told_by_the_mark_or_by_what_the_bytes_can_be()
    {
        Assert.Equal("utf-8", FileLook.CharsetOf(Encoding.UTF8.GetBytes("Jörg")));
        Assert.Equal("utf-8", FileLook.CharsetOf(Encoding.UTF8.GetBytes("Jörg ö")[..^1]));
        Assert.Equal("windows-1252", FileLook.CharsetOf(Encoding.Latin1.GetBytes("Jörg Müller")));
        Assert.Equal("utf-16", FileLook.CharsetOf([0xFF, 0xFE, 65, 0]));
        Assert.Equal("utf-16BE", FileLook.CharsetOf([0xFE, 0xFF, 0, 65]));
    }

    [Theory]
    [InlineData("25/11/2026", DateOrder.DayMonthYear, "2026-11-25T00:00:00Z")]
    [InlineData("11/25/2026", DateOrder.MonthDayYear, "2026-11-25T00:00:00Z")]
    [InlineData("2026-11-25", DateOrder.DayMonthYear, "2026-11-25T00:00:00Z")]
    [InlineData("25.11.26 14:30", DateOrder.DayMonthYear, "2026-11-25T14:30:00Z")]
    [InlineData("2026-11-25T14:30:00+02:00", DateOrder.DayMonthYear, "2026-11-25T12:30:00Z")]
    [InlineData("31/02/2026", DateOrder.DayMonthYear, null)]
    [InlineData("25/11/2026", DateOrder.MonthDayYear, null)]
    [InlineData("4–9", DateOrder.DayMonthYear, null)]
    [InlineData("soon", DateOrder.DayMonthYear, null)]
    public void Moments_are_read_in_the_order_of_the_file(string text, DateOrder order, string? moment) =>
        Assert.Equal(moment, FileLook.Moment(text, order)?.ToString());

    [Theory]
    [InlineData("13/01/2026", "GB", DateOrder.DayMonthYear)]
    [InlineData("01/13/2026", "GB", DateOrder.MonthDayYear)]
    [InlineData("2026-01-02", "GB", DateOrder.YearMonthDay)]
    [InlineData("01/02/2026", "GB", DateOrder.DayMonthYear)]
    [InlineData("01/02/2026", "US", DateOrder.MonthDayYear)]
    public void The_order_of_dates_is_told_by_the_values_else_by_the_country(
        string cell,
        string country,
        DateOrder order
    ) =>
        Assert.Equal(
            order,
            FileLook.DatesOf(
                [
                    ["x", cell],
                ],
                country
            )
        );

    [Fact]
    public void Columns_are_known_by_their_headers_in_several_languages_or_by_their_values()
    {
        string[] headers =
        [
            "Vorname",
            "Nachname",
            "correo electrónico",
            "Mobile Number",
            "Größe der Flotte",
            "column 6",
            "E-Mail",
            "created_at",
        ];
        string[][] rows =
        [
            [
                "Jörg",
                "Müller",
                "j@example.org",
                "0113 496 0001",
                "4–9",
                "j2@example.org",
                "other@example.org",
                "2026-11-25",
            ],
        ];
        var columns = FileLook.Columns(headers, rows, "GB");
        Assert.Equal(
            ["first_name", "last_name", "email", "phone", "grosse_der_flotte", "column_6", "e_mail", "sent_at"],
            columns.Select(c => c.LeadField)
        );
        Assert.Equal(
            "email",
            FileLook
                .Columns(
                    ["x"],
                    [
                        ["a@example.org"],
                        ["b@example.org"],
                    ],
                    "GB"
                )[0]
                .LeadField
        );
        Assert.Equal(
            "phone",
            FileLook
                .Columns(
                    ["x"],
                    [
                        ["0113 496 0001"],
                        ["+44 7700 900512"],
                    ],
                    "GB"
                )[0]
                .LeadField
        );
        Assert.True(FileLook.HasHeader([headers, rows[0]]));
        Assert.False(FileLook.HasHeader([rows[0]]));
    }
}

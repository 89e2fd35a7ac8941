using System.Globalization;
using LitFuse.Bench;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fields;
using LitFuse.Core.Figures;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Replies;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>How what people type is read: replies, forms, junk, values, names, numbers, files, words.</summary>
public sealed class ReadingRecordings
{
    private static IEnumerable<string> Labelled(string file) =>
        File.ReadLines(Path.Combine(Root.Path, file)).Where(l => l.Length > 0 && l[0] != '#');

    private static string Lines(params object?[] parts) => string.Join(" │ ", parts.Select(Say));

    [Fact]
    public void Replies()
    {
        string[] more =
        [
            "1",
            "2.",
            "the first",
            "the second one please",
            "der zweite",
            "option b",
            "tuesday",
            "not tuesday",
            "wednesday works, tuesday does not",
            "stop stopping",
            "unstoppable",
            "please stop",
            "STOPP",
            "arrêt",
            "can you stop by at 3?",
            "no no no",
            "no problem",
            "nope, wrong number",
            "who is this?",
            "yes but when?",
            "yes and no",
            "ok",
            "👎",
            "🙏",
            "",
            "   ",
            "…",
            "I would like it, however our boss said that we should really not do it this year or the next or ever, thank you",
            "one two three four five six seven eight nine ten eleven twelve thirteen fourteen yes",
            "yes one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen",
        ];
        string[][] offers =
        [
            [],
            ["Tuesday", "Wednesday"],
            ["Tuesday at 10:00", "Tuesday at 15:00", "Friday at 9:30"],
        ];
        Hold(
            "replies",
            Labelled("bench/replies/replies.txt")
                .Select(l => l.Split('\t')[2])
                .Concat(more)
                .SelectMany(text =>
                    offers
                        .Take(more.Contains(text) ? 3 : 1)
                        .Select((offered, i) => Lines(text, i, ReplyReader.Read(text, offered)))
                )
        );
    }

    [Fact]
    public void Maps()
    {
        static SeenField Field(string text)
        {
            var words = text[..text.LastIndexOf('=')].Trim();
            var type = Enum.GetValues<FormFieldType>()
                .FirstOrDefault(t => words.EndsWith(":" + t, StringComparison.OrdinalIgnoreCase));
            if (words.EndsWith(":" + type, StringComparison.OrdinalIgnoreCase))
                words = words[..words.LastIndexOf(':')];
            var parts = words.Split('|', 2);
            return new(parts[0], parts[^1], type, type == FormFieldType.Choice ? ["one", "another"] : [], null, []);
        }

        var forms = Labelled("bench/maps/forms.txt")
            .Select(l => (Language: l[..2].ToUpperInvariant(), Fields: l[4..].Split("; ").Select(Field).ToList()))
            .ToList();
        LeadField[] own =
        [
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "10–24", "25+"]),
            new("start_month", "Start month", LeadFieldType.Date, []),
        ];
        Precedent[] before =
        [
            new("Test ride", "q7", "q7", "fleet_size"),
            new("Callback", "msg", "Anything else?", "message"),
            new("Callback", "wann", "Wann?", "start_month"),
        ];
        // What was typed before tells more than a name that says nothing.
        SeenField[] sampled =
        [
            new("a", "a", FormFieldType.Text, [], null, ["ines@example.com", "hal@example.org"]),
            new("b", "b", FormFieldType.Text, [], null, ["+44 7700 900123", "0113 496 0001"]),
            new("c", "c", FormFieldType.Text, [], null, ["LS1 4DY", "M1 1AE"]),
            new("d", "d", FormFieldType.Text, [], null, ["https://brackenwheel.example"]),
            new("e", "e", FormFieldType.Email, [], null, []),
            new("f", "f", FormFieldType.Text, ["1–3", "4–9"], null, ["4–9"]),
            new("g", "g", FormFieldType.Text, [], "phone", []),
            new("h", "h", FormFieldType.Text, [], null, ["Ines Calloway", "Hal Wetherby"]),
            new("i", "i", FormFieldType.YesNo, [], null, ["yes"]),
            new("fleet_size", "How many?", FormFieldType.Choice, ["1–3", "25+"], null, []),
        ];
        var suggested = forms
            .Select(f => (f.Fields, Found: MapSuggester.Suggest(f.Fields, [], [], f.Language)))
            .Concat([
                (Fields: sampled.ToList(), Found: MapSuggester.Suggest(sampled, own, before, "GB")),
                (Fields: forms[2].Fields, Found: MapSuggester.Suggest(forms[2].Fields, own, before, "GB")),
            ]);
        Assert.All(suggested.SelectMany(f => f.Found), s => Assert.InRange(s.Confidence, 0, 1));
        Hold(
            "maps",
            suggested
                .SelectMany(f =>
                    f.Found.Select(s =>
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{s.FormField} → {s.LeadField ?? "–"} {s.Confidence:0.00} {s.Because}"
                        )
                    )
                )
                .Distinct()
        );
    }

    [Fact]
    public void Junk()
    {
        var map = CompiledMap.From(
            new([
                new("name", "full_name"),
                new("email", "email"),
                new("phone", "phone"),
                new("company", "company"),
                new("message", "message"),
            ]),
            "GB",
            []
        );
        IEnumerable<LabelledSubmission> made =
        [
            .. LabelledJunk.Make(160, 17),
            .. Enumerable
                .Range(0, 12)
                .Select(i => new LabelledSubmission(
                    false,
                    Payload.FromPairs([
                        new("name", "Ines Calloway"),
                        new("email", "ines@example.com"),
                        new("message", "Six bikes, please, and soon."),
                    ]),
                    i,
                    i / 3,
                    "person"
                )),
        ];
        string[] texts =
        [
            "qwrtzpsdf",
            "Schwarzkopf",
            "Przybylski",
            "XkQzRtWvBn",
            "aaaaaaaaaa",
            "asdfasdf",
            "hjkl hjkl",
            "ABCDEFGH",
            "iPhone15ProMax",
            "fjwoqpzmvbx",
            "Nguyễn Thị Hương",
            "strengths",
            "tvrgjklm",
            "WGrTYbNq",
            "zzzzzz",
            "KPTZ Bydgoszcz",
            "rhythms",
            "x1y2z3w4v5",
            "lorem ipsum dolor",
        ];
        Hold(
            "junk",
            made.Select(one =>
                {
                    var door = JunkScore.Of(one.Payload, one.Lately);
                    var all = JunkScore.OfAnswers(door, one.Payload, map.Read(one.Payload.Answers), one.SameWords);
                    return Lines(
                        string.Join(" · ", one.Payload.Answers.Select(a => a.Value)),
                        door.Score,
                        all.Score,
                        all.Because,
                        Short(JunkScore.OwnWords(one.Payload) ?? "–", 40)
                    );
                })
                .Concat(texts.Select(t => Lines(t, GibberishSigns.Of(t))))
        );
    }

    [Fact]
    public void Values()
    {
        string[] typed =
        [
            "",
            " ",
            "x",
            "yes",
            "No",
            "ja",
            "nein",
            "true",
            "0",
            "1",
            "12",
            "-3",
            "1,200",
            "1.200",
            "1.200,50",
            "1,200.50",
            "1 200",
            "1'200",
            "£1,200",
            "1200 €",
            "EUR 12",
            "12k",
            "twelve",
            "3.14",
            "3,14",
            "12.345.678,9",
            "1e5",
            "½",
            "2026-11-30",
            "30.11.2026",
            "11/30/2026",
            "30/11/2026",
            "3/4/26",
            "30 Nov 2026",
            "Nov 30, 2026",
            "30. November",
            "2026-02-30",
            "31/11/2026",
            "00/00/0000",
            "2026-11-30T09:41:00Z",
            "2026",
            "March",
            "tomorrow",
            "29.2.2027",
            "29.2.2028",
            "1/1/0001",
            "31-12-1999",
            "20261130",
            "ines@example.com",
            "Ines <ines@example.com>",
            "ines@example",
            "ines@@example.com",
            "mailto:ines@example.com",
            "INES@EXAMPLE.COM ",
            "a@b.c, d@e.example",
            "ines@example.com; hal@example.org / x",
            "ines.calloway+bikes@sub.example.org",
            "ünal@example.com",
            "@example.com",
            "ines at example dot com",
            "07700 900123",
            "+44 7700 900123",
            "0044 7700 900123",
            "(0113) 496 0123",
            "0113 496 0123 or 07700 900123",
            "00000",
            "1234",
            "0800",
            "999",
            "+1 604 555 0123",
            "604-555-0123",
            "+49 30 123456",
            "030 123456",
            "12345678901234567890",
            "+999 123",
            "phone",
            "07700 900123 ext 5",
            "+81 3-1234-5678",
            "٠١٢٣٤٥٦٧٨٩",
            "brackenwheel.example",
            "https://brackenwheel.example/a?b=c",
            "http://x",
            "www.example.com/a b",
            "javascript:alert(1)",
            "ftp://example.com",
            "example",
            "4–9",
            "4-9",
            "4 to 9",
            "10–24 bikes",
            "25+",
            "25",
            "one",
            "AN OTHER",
            "another",
            "a\nb\tc",
            "  spaced   out  ",
            "สมชาย ใจดี",
            "\u202Eabc\u200B",
            "\0",
        ];
        var fields = Enum.GetValues<LeadFieldType>()
            .Select(t => new LeadField(
                "f",
                "F",
                t,
                t is LeadFieldType.Choice ? ["1–3", "4–9", "10–24", "25+", "Another"] : []
            ))
            .ToList();
        (string? Tag, string Country)[] places = [(null, "GB"), ("de", "DE"), ("en-US", "US"), (null, "JP")];
        Hold(
            "values",
            typed
                .Select(t =>
                    Lines(
                        t,
                        string.Join(
                            " ; ",
                            fields.Select(f =>
                                $"{f.Type}: {string.Join(" / ", places.Select(p => Say(ValueReader.Read(t, f, ReadingLocale.For(p.Tag, p.Country)))).Distinct())}"
                            )
                        )
                    )
                )
                .Concat(
                    typed.Select(t =>
                        Lines(
                            t,
                            ValueReader.YesNo(t),
                            EmailReader.Read(t),
                            EmailReader.ReadAll(t).Emails,
                            EmailReader.ReadAll(t).Fault,
                            string.Join(
                                " / ",
                                places
                                    .Select(p =>
                                        $"{Say(PhoneReader.Read(t, p.Country))} {Say(PhoneReader.ReadAll(t, p.Country).Phones)} {PhoneReader.ReadAll(t, p.Country).Fault}"
                                    )
                                    .Distinct()
                            )
                        )
                    )
                )
        );
    }

    [Fact]
    public void People()
    {
        string[] names =
        [
            "Ines Calloway",
            "ines",
            "Dr. Ines Calloway",
            "Mr Hal Wetherby Jr.",
            "Ludwig van der Berg",
            "María José García López",
            "Anna-Lena Müller-Schmidt",
            "Calloway, Ines",
            "INES CALLOWAY",
            "Frau Prof. Dr. Imke Sandoval",
            "山田 太郎",
            "김민준",
            "สมชาย ใจดี",
            "Nguyễn Văn Đức",
            "O'Brien",
            "J. R. Hartley",
            "Ines & Hal Wetherby",
            "Ines Maria Calloway",
            "de la Cruz Ana",
            "Jean-Pierre",
            "  ",
            "Ines  Calloway ",
            "محمد علي",
            "Ines (Brackenwheel)",
            "Kovács Anna",
            "Sandoval Imke Maria van Dyke",
            "Sir Hal",
            "Ines Calloway MSc",
            "ben al Rashid",
            "Ms",
        ];
        string[] countries = ["", "GB", "HU", "JP", "ES", "CN"];
        PersonSketch[] people =
        [
            new("Ines", "Calloway", "ines@example.com"),
            new("Ines", "Calloway", null),
            new("I", "Calloway", "i@example.com"),
            new("Hal", "Wetherby", "hal@example.org"),
            new("Hal", "Calloway", "hal@example.com"),
            new(null, null, null),
            new("Ine", null, "x@example.com"),
            new("INES", "CALLOWAY", "INES@example.com"),
            new("Calloway", "Ines", "a@example.com"),
        ];
        (string Number, string Country, string? Zone, string? Postcode)[] zones =
        [
            ("+447700900123", "GB", null, null),
            ("+16045550123", "CA", null, "V6B"),
            ("+16045550123", "CA", null, null),
            ("+12125550123", "US", null, "90210"),
            ("+12125550123", "US", null, null),
            ("+18085550123", "US", null, null),
            ("+18085550123", "US", "America/New_York", null),
            ("+61291234567", "AU", null, null),
            ("+61891234567", "AU", null, "2000"),
            ("+5511912345678", "BR", null, null),
            ("+73952123456", "RU", null, null),
            ("+34922123456", "ES", null, null),
            ("+12125550123", "US", "Nowhere/Land", "10001"),
            ("+12125550123", "US", null, "123"),
            ("+14165550123", "CA", null, "x"),
            ("+493012345", "DE", null, "10115"),
        ];
        Hold(
            "people",
            names
                .SelectMany(n =>
                    countries
                        .Select(c => PersonNames.Split(n, c))
                        .Distinct()
                        .Select(s => Lines(n, s.First, s.Last, PersonNames.Join(s.First, s.Last)))
                )
                .Concat(people.SelectMany(a => people.Select(b => Lines(a, b, a.Contradicts(b)))))
                .Concat(
                    zones.Select(z =>
                        Lines(
                            z.Number,
                            z.Country,
                            LeadZone.Read(
                                z.Number,
                                z.Country,
                                new Dictionary<string, string?> { ["time_zone"] = z.Zone, ["postcode"] = z.Postcode }
                                    .Where(p => p.Value is not null)
                                    .ToDictionary(p => p.Key, p => p.Value!),
                                "Europe/London"
                            ),
                            LeadZone.For(z.Country, "Europe/London"),
                            FictionalNumbers.CountryOf(z.Number)
                        )
                    )
                )
        );
    }

    [Fact]
    public void Files()
    {
        string[] heads =
        [
            "name,email\nInes,ines@example.com",
            "name;email;size\nInes;i@example.com;4,5",
            "name\temail",
            "a|b|c\n1|2|3",
            "one column",
            "\"a,b\";c\n\"d;e\";f",
            "",
            "x,y;z\n1,2;3\n4,5;6",
        ];
        string[][][] tables =
        [
            [
                ["Name", "Email", "When"],
                ["Ines", "ines@example.com", "3/4/2026"],
                ["Hal", "hal@example.org", "25/4/2026"],
            ],
            [
                ["Ines", "ines@example.com", "04/25/2026"],
                ["Hal", "hal@example.org", "04/03/2026"],
            ],
            [
                ["Vorname", "E-Mail", "Datum", "Umsatz"],
                ["Ines", "i@example.com", "30.11.2026", "1.200,50"],
            ],
            [
                ["1", "2"],
                ["3", "4"],
            ],
            [
                ["created", "phone number", "notes"],
                ["2026-11-30 09:41", "07700 900123", "x"],
            ],
            [
                ["a"],
            ],
            [
                [],
                [],
            ],
            [
                ["Name", "Name", ""],
                ["x", "y", "z"],
            ],
        ];
        string[] moments =
        [
            "2026-11-30",
            "2026-11-30 09:41",
            "2026-11-30T09:41:05Z",
            "30.11.2026 09:41",
            "11/30/2026 9:41 AM",
            "30/11/2026 21:05",
            "1764495660",
            "1764495660000",
            "soon",
            "",
            "2026-11-30T09:41:05+02:00",
            "45991",
            "45991.5",
        ];
        Hold(
            "files",
            heads
                .Select(h => Lines(h, FileLook.DelimiterOf(h).ToString()))
                .Concat(
                    tables.SelectMany(t =>
                        new[] { "GB", "US", "DE" }.Select(c =>
                            Lines(
                                t,
                                c,
                                FileLook.HasHeader(t),
                                FileLook.DatesOf(t, c).ToString(),
                                FileLook.Columns(t[0], t[1..], c)
                            )
                        )
                    )
                )
                .Concat(
                    moments.SelectMany(m =>
                        Enum.GetValues<DateOrder>().Select(o => Lines(m, o.ToString(), FileLook.Moment(m, o)))
                    )
                )
                .Concat(
                    new[] { "Start month", "", "Ünal's größe", "1st", "a b  c!", new string('x', 80) }.Select(
                        (h, i) => Lines(h, FileLook.OwnName(h, i))
                    )
                )
                .Concat(
                    new byte[][]
                    {
                        [0xEF, 0xBB, 0xBF, 65],
                        [0xFF, 0xFE, 65, 0],
                        [0xFE, 0xFF, 0, 65],
                        [0xE4, 0xF6],
                        "äö"u8.ToArray(),
                        [],
                    }.Select(b => Lines(Convert.ToHexString(b), FileLook.CharsetOf(b)))
                )
        );
    }

    [Fact]
    public void Words()
    {
        string[] values =
        [
            "",
            "Ines Calloway",
            "ludwig VAN der berg",
            "mcallister",
            "o'brien",
            "1200",
            "1200.5",
            "-3",
            "£1,200",
            "12,5",
            "2026-11-30",
            "2026-11-30T23:30:00Z",
            "9999-12-31",
            "+447700900123",
            "07700 900123",
            "a, b, c",
            "food\ntools\npeople",
            "<b>x</b> & \"y\"",
            "🔥 Ines",
            "สมชาย ใจดี",
        ];
        string[] uses =
        [
            .. Templates
                .Filters.Select(f =>
                    f switch
                    {
                        "default" => "default: \"there\"",
                        "add_days" or "add_working_days" => f + ": 3",
                        "in_zone" => "in_zone: \"America/Toronto\"",
                        "slice" => "slice: 1, 3",
                        "truncate" or "truncatewords" => f + ": 5",
                        "replace" or "replace_first" or "replace_last" => f + ": \"a\", \"o\"",
                        "split" => "split: \",\" | join: \"+\"",
                        "append" or "prepend" or "remove" or "remove_first" or "remove_last" => f + ": \"e\"",
                        "plus" or "minus" or "times" or "divided_by" or "modulo" or "at_least" or "at_most" => f
                            + ": 7",
                        "date" => "date: \"%d %B %Y\"",
                        _ => f,
                    }
                )
                .Order(StringComparer.Ordinal),
        ];
        static string Render(string words, string value) =>
            MessageWords.Parse(words) is (Words: { } parsed, _)
                ? Say(
                    parsed.Render(
                        Lead().Words with
                        {
                            Lead = new Dictionary<string, string> { ["x"] = value },
                            Now = At("27 16:30:00"),
                        }
                    )
                )
                : MessageWords.Parse(words).Fault!;
        string[] spoken = ["Hello\n\nthere\t!", "a\u202Eb\u200Bc", new string('w', 1300), " x ", "one. Two? Three!"];
        var typed = values
            .Concat(spoken)
            .Concat(["a\0b", "line\r\nnext", "x  y", "e\u0301", "\uFEFFx", new string('é', 90)])
            .ToList();
        Hold(
            "words",
            uses.Select(use => Lines(use, values.Select(v => Render($"{{{{ lead.x | {use} }}}}", v)).ToList()))
                .Select(l => Short(l, 700))
                .Concat(
                    typed.SelectMany(t =>
                        new[]
                        {
                            Lines("plain", t, PlainText.Of(t)),
                            Lines("line", t, PlainText.Line(t, 20)),
                            Lines("spoken", Short(t, 60), Short(SpokenWords.Of(t), 60)),
                            Lines("sms", Short(t, 60), TextSegments.Count(t)),
                            Lines("tokens", Short(t, 60), Tokens.Of(t)),
                            Lines("html", t, HtmlText.Of(t)),
                        }
                    )
                )
                .Concat(
                    Enumerable
                        .Range(0, 12)
                        .SelectMany(i =>
                            new[] { 69, 70, 71, 133, 134, 135, 152, 153, 154, 159, 160, 161 }[i] is var n
                                ? new[]
                                {
                                    Lines(
                                        n,
                                        TextSegments.Count(new string('a', n)),
                                        TextSegments.Count(new string('€', n / 2)),
                                        TextSegments.Count(new string('щ', n)),
                                        TextSegments.Count(new string('a', n - 1) + "🔥")
                                    ),
                                }
                                : []
                        )
                )
                .Concat([
                    Lines(
                        LetterHtml.Of(
                            new("Hello <Ines>,\n\nsee https://brackenwheel.example/a?b=1&c=2.\nThanks", "A <title>")
                            {
                                From = "Imke",
                                Unsubscribe = "https://brackenwheel.example/u",
                                Blocks = [new("How many?", "25+ & more")],
                            }
                        )
                    ),
                    Lines(
                        LetterHtml.TextOf(
                            new("Hello", "T")
                            {
                                From = "Imke",
                                Unsubscribe = "https://x.example/u",
                                Blocks = [new("How many?", "25+\nand more")],
                            }
                        )
                    ),
                ])
        );
    }

    [Fact]
    public void Payloads()
    {
        string[] bodies =
        [
            "{\"a\":1,\"b\":{\"c\":[1,2,{\"d\":\"x\"}]},\"e\":null,\"f\":true}",
            "[1,2]",
            "[{\"name\":\"email\",\"value\":\"x\"},{\"name\":\"n\",\"value\":null}]",
            "\"text\"",
            "{",
            "",
            "{\"id\":\"own-1\",\"email\":\"x\"}",
            "{\"a\":1.50,\"b\":1e3,\"c\":12345678901234567890}",
            "{\"fields\":{\"email\":{\"value\":\"x\"}}}",
            "{\"a\":\"\\u0000x\"}",
            "{\"A\":1,\"a\":2}",
            "{\"a\":[]}",
            "{\"a\":{}}",
            "null",
            "{\"items\":[{\"sku\":\"a\"},{\"sku\":\"b\"}],\"odd name\":\"y\"}",
        ];
        string[] paths =
        [
            "$.a",
            "$.items[*].sku",
            "$['odd name']",
            "$.items[1].sku",
            "$.items[0]",
            "$",
            "a",
            "$.b.c[2].d",
            "$..a",
            "$.items[x]",
            "$.e",
            "$.f",
        ];
        string[] pointers = ["/a", "/b/c/2/d", "/items/1/sku", "a", "", "/none", "/b/c/9", "/odd name", "/a~1b", "/e"];
        string[] letters =
        [
            "Yes please\n\nOn Monday Imke wrote:\n> Hello",
            "Thanks\n--\nInes",
            "> quoted only",
            "Am 30.11. schrieb Imke:\n> x",
            "top\n\n-----Original Message-----\nFrom: x",
            "",
            "a\n> b\nc",
            "Sent from my phone",
            "Hi\n\n____\nFrom: Imke",
            "Le lun. a écrit :\n> x\nok",
        ];
        static string Of(Payload p) => Lines(p.Answers, p.OwnId, p.Unreadable);
        Hold(
            "payloads",
            bodies
                .Select(b => Lines(b, Of(Payload.FromJson(System.Text.Encoding.UTF8.GetBytes(b)))))
                .Concat(
                    paths.Select(p =>
                        Lines(
                            p,
                            Picks.Fault(p),
                            bodies
                                .Select(b => Of(Picks.Read([new(p, "x")], System.Text.Encoding.UTF8.GetBytes(b))))
                                .Distinct()
                                .ToList()
                        )
                    )
                )
                .Concat(bodies.Select(b => Lines(b, Picks.Paths(System.Text.Encoding.UTF8.GetBytes(b)))))
                .Concat(
                    pointers.SelectMany(p =>
                        bodies
                            .Where(b => b.StartsWith('{') && b.Length > 1)
                            .Select(b =>
                                Lines(
                                    p,
                                    JsonPath.Fault(p),
                                    JsonPath.Fault(p) is null
                                        ? JsonPath.Find(System.Text.Json.JsonDocument.Parse(b).RootElement, p)
                                        : "–"
                                )
                            )
                            .Distinct()
                    )
                )
                .Concat(letters.Select(l => Lines(l, LetterReply.WordsOf(l))))
                .Concat(
                    Enumerable
                        .Range(0, 40)
                        .Select(s =>
                            Lines(
                                "made up",
                                Enum.GetValues<FormFieldType>()
                                    .SelectMany(t =>
                                        MadeUpAnswers.For(
                                            [
                                                new(
                                                    s % 3 == 0 ? "postcode" : "f",
                                                    "F",
                                                    t,
                                                    s % 2 == 0,
                                                    t == FormFieldType.Choice ? ["a", "b", "c"] : [],
                                                    s % 4 == 0 ? "first_name" : null
                                                ),
                                            ],
                                            s % 5 == 0 ? "CA" : "GB",
                                            new Random(s)
                                        )
                                    )
                                    .ToList()
                            )
                        )
                )
        );
    }

    [Fact]
    public void Spans_percentiles_waits_and_statuses()
    {
        double[] seconds =
        [
            0,
            0.0004,
            0.02,
            0.5,
            0.999,
            1,
            1.5,
            9.99,
            10,
            59,
            59.6,
            60,
            61,
            119,
            125,
            3599,
            3600,
            3661,
            7199,
            36000,
            86399,
            86400,
            90000,
            172800,
            259200,
            1e6,
            1e7,
            4e7,
            -5,
        ];
        Hold(
            "figures",
            seconds
                .Select(s => Lines(s, Spans.Say(Duration.FromSeconds(s))))
                .Concat(
                    Enumerable
                        .Range(1, 9)
                        .Select(n =>
                            Lines(
                                n,
                                new[] { 0.0, 0.1, 0.5, 0.9, 0.95, 0.99, 1.0 }
                                    .Select(p =>
                                        Percentiles.At([.. Enumerable.Range(1, n).Select(i => (double)(i * i))], p)
                                    )
                                    .ToList()
                            )
                        )
                )
                .Concat(
                    Enum.GetValues<Fuses.Definition.RetryProfile>()
                        .SelectMany(p =>
                            Enumerable
                                .Range(1, 80)
                                .Where(n => n < 14 || n > 74)
                                .Select(n =>
                                    Lines(
                                        p.ToString(),
                                        n,
                                        Trouble.WaitAfter(n, 0, null, p),
                                        Trouble.WaitAfter(n, 0.75, null, p),
                                        Trouble.WaitAfter(n, 1, Duration.FromHours(n), p)
                                    )
                                )
                        )
                )
                .Concat(
                    Enumerable
                        .Range(100, 500)
                        .GroupBy(Trouble.OfStatus)
                        .Select(g => Lines(g.Key.ToString(), g.ToList()))
                )
                .Concat(
                    new[]
                    {
                        "BEGIN:VCARD\r\nVERSION:4.0\r\nUID:u\r\nFN:Old Name\r\nTEL;TYPE=work:+4411\r\nNOTE:a long note that a colleague wrote and that goes on\r\n  and on\r\nURL:https://x.example\r\nEND:VCARD\r\n",
                        null,
                    }.SelectMany(before =>
                        new[] { true, false }.Select(v3 =>
                            VCard.Write(
                                new CardOf("u", "Ines Calloway", "Ines", "Calloway")
                                {
                                    Phones = ["+447700900123", "+441134960001"],
                                    Tags = ["hot", "a,b"],
                                    Url = "https://brackenwheel.example/l",
                                    Email = "ines@example.com",
                                    Company = "Pemberton; Bakes, Ltd",
                                    Note = "Line\nand line, with a comma",
                                },
                                At("24 12:00:00"),
                                before,
                                v3
                            )
                        )
                    )
                )
        );
    }
}

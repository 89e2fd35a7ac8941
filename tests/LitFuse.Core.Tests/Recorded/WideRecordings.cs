using System.Globalization;
using System.Text;
using CsCheck;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Replies;
using LitFuse.Core.Tests.Continuity;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>
/// Thousands of made-up inputs to each judgement, put together from its own vocabulary and from what stands at its
/// bounds; of each fifty only the mark is kept. What a mark says has changed is found by looking at that lot.
/// </summary>
public sealed class WideRecordings
{
    private const int Lot = 50;

    private static readonly string[] ReplyWords =
    [
        .. File.ReadLines(Path.Combine(Root.Path, "bench/replies/replies.txt"))
            .Where(l => l.Length > 0 && l[0] != '#')
            .SelectMany(l => l.Split('\t')[2].Split(' '))
            .Distinct()
            .Order(StringComparer.Ordinal),
    ];

    private static readonly string[] FieldWords =
    [
        .. File.ReadLines(Path.Combine(Root.Path, "bench/maps/forms.txt"))
            .Where(l => l.Length > 0 && l[0] != '#')
            .SelectMany(l => l[4..].Split("; "))
            .Select(f => f[..f.LastIndexOf('=')].Trim())
            .SelectMany(f => f.Split('|', ' ', ':', '_'))
            .Where(w => w.Length > 0)
            .Distinct()
            .Order(StringComparer.Ordinal),
    ];

    // Each case has its own chance, so that one that draws more often leaves the others as they are.
    private static IEnumerable<string> Many(string of, int lots, Func<Random, object?> one) =>
        Enumerable
            .Range(0, lots)
            .Select(lot =>
                $"{of} {lot * Lot:0000} {Mark(string.Join('\n', Enumerable.Range(lot * Lot, Lot).Select(i => Say(one(new Random((i * 7919) + of.Length))))))}"
            );

    private static T Of<T>(Random chance, params T[] from) => from[chance.Next(from.Length)];

    private static string Text(Random chance, int most, params string[] parts) =>
        string.Concat(Enumerable.Range(0, chance.Next(0, most + 1)).Select(_ => Of(chance, parts)));

    private static string Letters(
        Random chance,
        int least,
        int most,
        string from = "aeioustrnlhcdmpgbkvwfzxqyjaeinrst"
    ) => string.Concat(Enumerable.Range(0, chance.Next(least, most + 1)).Select(_ => from[chance.Next(from.Length)]));

    [Fact]
    public void What_is_typed()
    {
        string[] names =
        [
            "Ines",
            "Calloway",
            "van",
            "der",
            "de",
            "la",
            "Dr.",
            "Mr",
            "Prof",
            "Jr.",
            "MSc",
            "III",
            "O'Brien",
            "McAllister",
            "Anna-Lena",
            "J.",
            "J",
            ",",
            "(",
            ")",
            "山田",
            "太郎",
            "김",
            "민준",
            "Nguyễn",
            "HAL",
            "hal",
            "&",
            "Sir",
            "y",
            "bin",
            "al",
            "Ms",
            "Frau",
            ";",
            "\"Bo\"",
        ];
        string[] digits =
        [
            "0",
            "00",
            "07700",
            "900",
            "9001",
            "+44",
            "+1",
            "604",
            "555",
            "01",
            "0113",
            "496",
            "12",
            "123",
            "1234",
            " ",
            "-",
            "(",
            ")",
            "/",
            " or ",
            ".",
            "ext",
            "+49",
            "30",
            "+",
            "#",
            ",",
        ];
        string[] mails =
        [
            "ines",
            "hal",
            ".",
            "+",
            "@",
            "@",
            "example.com",
            "example",
            ".org",
            " ",
            ",",
            ";",
            "<",
            ">",
            "mailto:",
            "ÜNAL",
            "münchen.example",
            "\"",
            "..",
            "a",
            "/",
            "|",
        ];
        string[] values =
        [
            "1",
            "12",
            "30",
            "31",
            "29",
            "2",
            "02",
            "2026",
            "2028",
            "26",
            "99",
            "1900",
            "69",
            "70",
            ".",
            "/",
            "-",
            " ",
            ",",
            "Nov",
            "November",
            "Mai",
            "août",
            "£",
            "€",
            "k",
            "%",
            "yes",
            "no",
            "T",
            ":",
            "00",
            "+",
            "x",
            "1.200",
            "1,200",
            "'",
            "bikes",
            "–",
        ];
        string[] pieces =
        [
            "a",
            "Bc",
            "DE",
            "ﬁ",
            "ä",
            "É",
            "1",
            "23",
            "_",
            " ",
            "-",
            "'",
            "’",
            ".",
            "山",
            "ü",
            "iPhone",
            "e\u0301",
            "\u202e",
            "\u200b",
            "\ud83d\udd25",
            "\ud83d",
            "\udd25",
            "\n",
            "\r\n",
            "\t",
            "\0",
            "\u2028",
            "€",
            "[",
            "\\",
            "щ",
        ];
        LeadField[] fields =
        [
            .. Enum.GetValues<LeadFieldType>()
                .Select(t => new LeadField(
                    "f",
                    "F",
                    t,
                    t is LeadFieldType.Choice or LeadFieldType.Choices ? ["1–3", "4–9", "25+", "12"] : []
                )),
        ];
        string[] countries = ["GB", "US", "DE", "FR", "JP", "HU", "CN", ""];
        Hold(
            "wide-typed",
            Many("names", 40, c =>
                    Enumerable.Range(0, c.Next(1, 6)).Select(_ => Of(c, names)).ToList() is var n
                        ? new object?[]
                        {
                            PersonNames.Split(string.Join(' ', n), Of(c, countries)),
                            PersonNames.Join(n[0], n.Count > 1 ? n[1] : null),
                        }.Select(x => x?.ToString())
                        : null
                )
                .Concat(Many("numbers", 40, c => Text(c, 8, digits) is var t
                        && Of(c, "GB", "US", "DE", "CA", "IE") is var at
                            ? new
                            {
                                one = PhoneReader.Read(t, at),
                                all = PhoneReader.ReadAll(t, at).Phones,
                                PhoneReader.ReadAll(t, at).Fault,
                            }
                            : null))
                .Concat(Many("emails", 40, c => Text(c, 9, mails) is var t
                            ? new
                            {
                                one = EmailReader.Read(t),
                                EmailReader.ReadAll(t).Emails,
                                EmailReader.ReadAll(t).Fault,
                            }
                            : null))
                .Concat(
                    Many("values", 120, c =>
                        Text(c, 6, values) is var t
                            ? new
                            {
                                read = ValueReader.Read(
                                    t,
                                    Of(c, fields),
                                    ReadingLocale.For(Of(c, null, "de", "en-US", "fr"), Of(c, "GB", "US", "DE"))
                                ),
                                sure = ValueReader.YesNo(t),
                            }
                            : null
                    )
                )
                .Concat(Many("text", 60, c => Text(c, 14, pieces) is var t
                            ? new
                            {
                                tokens = Tokens.Of(t),
                                of = PlainText.Of(t),
                                line = PlainText.Line(t, c.Next(0, 12)),
                                spoken = SpokenWords.Of(t),
                                sms = TextSegments.Count(string.Concat(Enumerable.Repeat(t, c.Next(1, 40)))),
                                flat = Blocks.Write([new(t, t)]),
                            }
                            : null))
                .Concat(
                    Many("html", 30, c =>
                        HtmlText.Of(
                            Text(
                                c,
                                14,
                                "<p>",
                                "</p>",
                                "<br>",
                                "<br/>",
                                "<a href=\"https://x.example\">",
                                "</a>",
                                "&amp;",
                                "&nbsp;",
                                "&#65;",
                                "&bogus;",
                                "<script>",
                                "</script>",
                                "<style>",
                                "</style>",
                                "<li>",
                                "x",
                                " ",
                                "\n",
                                "<",
                                ">",
                                "<!--",
                                "-->",
                                "<td>",
                                "<h1>",
                                "</h1>",
                                "<img alt=\"q\">"
                            )
                        )
                    )
                )
        );
    }

    [Fact]
    public void What_is_junk_and_what_is_asked()
    {
        var map = CompiledMap.From(
            new([
                new("name", "full_name"),
                new("email", "email"),
                new("phone", "phone"),
                new("company", "company"),
                new("message", "message"),
                new("site", "website"),
            ]),
            "GB",
            []
        );
        string[] said =
        [
            "Six bikes, please. ",
            "https://x.example ",
            "www.x.example ",
            "[url=x] ",
            "<a href=x> ",
            "buy now ",
            "casino ",
            "cheap ",
            "seo ",
            "we offer ",
            "rank your site ",
            "click here ",
            "asdf ",
            "QwErTyUi ",
            "xkcd ",
            "4 to 9 ",
            "Brackenwheel ",
            "crypto ",
            "investment ",
        ];
        string[] fields =
        [
            "name",
            "email",
            "phone",
            "company",
            "message",
            "site",
            "landing_page",
            "utm_source",
            "lf_website",
            "lf_took",
            "other",
        ];
        string Answer(Random c, string field) =>
            field switch
            {
                "name" => Of(
                    c,
                    "Ines Calloway",
                    Letters(c, 1, 14),
                    Letters(c, 1, 10) + " " + Letters(c, 1, 10),
                    "ines ines",
                    "1234 5",
                    "12a",
                    "https://x.example",
                    Letters(c, 3, 12, "aBcDeFgHxZ")
                ),
                "email" => Of(
                    c,
                    "ines@example.com",
                    Letters(c, 1, 14) + "@example.com",
                    "x@mailinator.com",
                    "nobody",
                    "calloway.ines@example.org"
                ),
                "phone" => Of(
                    c,
                    "07700 900123",
                    "1234",
                    "123",
                    "0",
                    "+447000000000",
                    "+447111111111",
                    "011111111",
                    "none",
                    "+44 20 7946 0000"
                ),
                "lf_took" => Of(c, "0", "1499", "1500", "1501", "60000", "x"),
                "company" => Of(c, "Pemberton Bakes", Letters(c, 4, 12), "www.x.example", "12345"),
                _ => Text(c, 9, said),
            };
        string[] labels =
        [
            .. FieldWords,
            "您的",
            "姓名",
            "电话",
            "邮箱",
            "お名前",
            "メール",
            "電話番号",
            "ชื่อ",
            "อีเมล",
            "이메일",
            "전화번호",
            "이름",
            "_",
            "1",
            "?",
            "(",
            ")",
            "*",
        ];
        SeenField Seen(Random c)
        {
            string Some(int most) =>
                string.Join(
                    Of(c, " ", "_", "", "-"),
                    Enumerable.Range(0, c.Next(1, most + 1)).Select(_ => Of(c, labels))
                );
            var name = Some(3);
            return new(
                name,
                c.Next(3) == 0 ? name : Some(6),
                Of(c, Enum.GetValues<FormFieldType>()),
                c.Next(4) == 0 ? ["1–3", "4–9"] : [],
                c.Next(20) == 0 ? "phone" : null,
                [.. Enumerable.Range(0, c.Next(0, 4)).Select(_ => Answer(c, Of(c, fields)))]
            );
        }

        LeadField[] own =
        [
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "25+"]),
            new("start_month", "Start month", LeadFieldType.Date, []),
        ];
        Precedent[] before =
        [
            new("One", "q7", "Anything else?", "message"),
            new("Two", "telefon", "Wann?", "start_month"),
        ];
        string[] offered = ["Tuesday at 10:00", "Wednesday at 15:00", "Friday at 9:30"];
        Hold(
            "wide-judged",
            Many("gibberish", 60, c =>
                    GibberishSigns.Of(
                        Of(
                            c,
                            Letters(c, 1, 14),
                            Letters(c, 3, 10, "aBcDeFgHxZqkrt"),
                            Letters(c, 20, 45, "asdfgh jkl"),
                            Letters(c, 1, 8) + "-" + Letters(c, 1, 8),
                            Letters(c, 3, 9, "bcdfghszctrk")
                        )
                    )
                )
                .Concat(Many("junk", 80, c =>
                    {
                        var payload = Payload.FromPairs([
                            .. fields.Where(_ => c.Next(3) > 0).Select(f => KeyValuePair.Create(f, Answer(c, f))),
                        ]);
                        var (door, mapped) = (JunkScore.Of(payload, c.Next(0, 40)), map.Read(payload.Answers));
                        return new
                        {
                            door,
                            all = JunkScore.OfAnswers(door, payload, mapped, c.Next(0, 6)),
                            own = JunkScore.OwnWords(payload),
                            mapped.Values,
                            mapped.Unmapped,
                            mapped.Faults,
                        };
                    }))
                .Concat(
                    Many("fields", 60, c =>
                        MapSuggester
                            .Suggest(
                                [.. Enumerable.Range(0, c.Next(1, 5)).Select(_ => Seen(c))],
                                c.Next(3) == 0 ? own : [],
                                c.Next(3) == 0 ? before : [],
                                Of(c, "GB", "DE", "JP")
                            )
                            .Select(s =>
                                string.Create(
                                    CultureInfo.InvariantCulture,
                                    $"{s.FormField} {s.LeadField} {s.Confidence:0.0000} {s.Because}"
                                )
                            )
                    )
                )
                .Concat(
                    Many("replies", 100, c =>
                        ReplyReader.Read(
                            string.Join(' ', Enumerable.Range(0, c.Next(1, 18)).Select(_ => Of(c, ReplyWords))),
                            c.Next(3) == 0 ? offered : []
                        )
                    )
                )
                .Concat(
                    Many("short replies", 100, c =>
                        ReplyReader.Read(
                            string.Join(' ', Enumerable.Range(0, c.Next(1, 4)).Select(_ => Of(c, ReplyWords)))
                                + Of(c, "", "!", "?", ".", " 1"),
                            c.Next(2) == 0 ? offered : []
                        )
                    )
                )
                .Concat(
                    Many("letters", 30, c =>
                        LetterReply.WordsOf(
                            Text(
                                c,
                                10,
                                "Yes please\n",
                                "> quoted\n",
                                "\n",
                                "On Monday Imke wrote:\n",
                                "Am 30.11. schrieb Imke:\n",
                                "-- \n",
                                "--\n",
                                "-----Original Message-----\n",
                                "From: Imke\n",
                                "Le lun. Imke a écrit :\n",
                                "a\n",
                                "wrote:\n",
                                "On Monday, the 30th,\n"
                            )
                        )
                    )
                )
        );
    }

    [Fact]
    public void What_is_sent_in_and_out()
    {
        string Json(Random c, int deep) =>
            c.Next(deep > 3 ? 5 : 8) switch
            {
                0 => "null",
                1 => Of(c, "true", "1", "1.50", "-3", "1e3", "12345678901234567890"),
                2 or 3 or 4 => "\""
                    + Of(c, "x", "", "ines@example.com", "a\\\"b", "\\u00e4", new string('l', c.Next(0, 300)))
                    + "\"",
                5 => "[" + string.Join(",", Enumerable.Range(0, c.Next(0, 4)).Select(_ => Json(c, deep + 1))) + "]",
                6 when c.Next(2) == 0 => "[{\"name\":\"email\",\"value\":"
                    + Json(c, deep + 1)
                    + "},{\"name\":\"n\",\"values\":["
                    + Json(c, deep + 1)
                    + "]}]",
                _ => "{"
                    + string.Join(
                        ",",
                        Enumerable
                            .Range(0, c.Next(0, 5))
                            .Select(n =>
                                $"\"{Of(c, "a", "id", "email", "odd name", "b'c", "fields", "items", "value", "lf_page", "data")}\":{Json(c, deep + 1)}"
                            )
                    )
                    + "}",
            };
        string Path(Random c) =>
            "$"
            + Text(
                c,
                4,
                ".a",
                ".items",
                "[*]",
                "[0]",
                "[1]",
                "['odd name']",
                "['b\\'c']",
                ".email",
                "..",
                "[x]",
                ".data",
                "['a"
            );
        string[] cells =
        [
            "Ines",
            "ines@example.com",
            "07700 900123",
            "1234567",
            "123456",
            "31/12/2026",
            "12/31/2026",
            "2026-11-30",
            "30.11.26",
            "1,5",
            "\"a;b\"",
            "\"x,y\"",
            "",
            " ",
            "Name",
            "Email",
            "When",
            "a\nb",
            "\"q\nr\"",
            "2026-11-30 09:41",
            "1764495660",
            "45991",
        ];
        string Short(Random c) =>
            Of(
                c,
                "Ines",
                "Pemberton; Bakes, Ltd",
                "Line\nand \\ line",
                new string('n', c.Next(60, 90)),
                new string('é', c.Next(30, 45)),
                string.Concat(Enumerable.Repeat("\ud83d\udd25", c.Next(15, 24))),
                ""
            );
        Hold(
            "wide-sent",
            Many("bodies", 60, c =>
                    Encoding.UTF8.GetBytes(Json(c, 0)) is var b && Payload.FromJson(b) is var read
                        ? $"{Say(read.Answers)} {read.OwnId} {read.Unreadable} {Say(Picks.Paths(b))} {Picks.Fault(Path(c))} {Say(Picks.Read([new(Path(c), "x"), new(Path(c), "y")], b).Answers)}"
                        : ""
                )
                .Concat(Many("files", 40, c =>
                    {
                        var rows = Enumerable
                            .Range(0, c.Next(0, 5))
                            .Select(_ => Enumerable.Range(0, c.Next(0, 5)).Select(_ => Of(c, cells)).ToList())
                            .ToList();
                        var head = string.Join(
                            Of(c, "\n", "\r\n"),
                            rows.Select(r => string.Join(Of(c, ",", ";", "\t", "|"), r))
                        );
                        return new
                        {
                            delimiter = FileLook.DelimiterOf(head),
                            header = FileLook.HasHeader(rows),
                            dates = FileLook.DatesOf(rows, Of(c, "GB", "US")),
                            columns = rows.Count > 0 ? FileLook.Columns(rows[0], rows[1..], "GB") : [],
                            moment = FileLook.Moment(Of(c, cells), Of(c, Enum.GetValues<DateOrder>())),
                        };
                    }))
                .Concat(Many("cards", 30, c => VCard.Write(
                            new CardOf("u", Short(c), Of(c, null, Short(c)), Of(c, null, Short(c)))
                            {
                                Phones = c.Next(2) == 0 ? ["+447700900123"] : [],
                                Tags = c.Next(2) == 0 ? [Short(c)] : [],
                                Url = Of(c, null, "https://brackenwheel.example/" + Short(c)),
                                Email = Of(c, null, "ines@example.com"),
                                Company = Of(c, null, Short(c)),
                                Note = Of(c, null, Short(c)),
                            },
                            At("24 12:00:00"),
                            c.Next(2) == 0
                                ? null
                                : "BEGIN:VCARD\r\nVERSION:4.0\r\nUID:u\r\nFN:Old\r\nNOTE:"
                                    + new string('o', c.Next(0, 90))
                                    + "\r\n  more\r\nitem1.URL:https://x.example\r\nEND:VCARD\r\n",
                            c.Next(2) == 0
                        )))
                .Concat(
                    Many("pointers", 10, c =>
                        Text(c, 4, "/a", "/items", "/0", "/1", "/odd name", "/a~1b", "~", "a", "/data", "/-1") is var p
                            ? JsonPath.Fault(p)
                                ?? JsonPath.Find(
                                    System
                                        .Text.Json.JsonDocument.Parse(
                                            "{"
                                                + "\"a\":"
                                                + Json(c, 1)
                                                + ",\"items\":"
                                                + Json(c, 1)
                                                + ",\"odd name\":1,\"data\":{\"a\":"
                                                + Json(c, 2)
                                                + "}}"
                                        )
                                        .RootElement,
                                    p
                                )
                            : null
                    )
                )
                .Concat(Many("refills", 30, c =>
                    {
                        Dictionary<string, string> Some() =>
                            new[] { "phone", "email", "company", "fleet_size" }
                                .Where(_ => c.Next(3) > 0)
                                .ToDictionary(f => f, _ => Of(c, "a", "b", "c", ""));
                        var (there, before, says, chosen) = (Some(), Some(), Some(), c.Next(27));
                        FillRule Rule(string field) => (FillRule)((chosen / (field.Length % 3 + 1)) % 3);
                        var (later, again) = (Refill.Later(there, says, Rule), Refill.Again(there, before, says, Rule));
                        return $"{Say(later.Values)} {Say(later.Changes)} {Say(again.Values)} {Say(again.Changes)}";
                    }))
        );
    }

    [Fact]
    public void When_one_may_and_what_is_wrong()
    {
        DateTimeZone[] zones =
        [
            London,
            DateTimeZoneProviders.Tzdb["America/Vancouver"],
            DateTimeZoneProviders.Tzdb["Pacific/Honolulu"],
            DateTimeZoneProviders.Tzdb["Asia/Kathmandu"],
            DateTimeZoneProviders.Tzdb["Europe/Warsaw"],
        ];
        Instant Time(Random c) =>
            Instant.FromUtc(2026, 1, 1, 0, 0)
            + Duration.FromMinutes(c.Next(0, 365 * 24) * 60 + Of(c, 0, 0, 1, 29, 30, 59));
        OpenHours Hours(Random c) =>
            new(
                new(c.Next(0, 24), Of(c, 0, 30)),
                new(c.Next(0, 24), Of(c, 0, 30)),
                [.. OpenHours.EveryDay.Where(_ => c.Next(3) > 0)]
            );
        StepHours? Own(Random c) =>
            Of(
                c,
                null,
                new StepHours(HoursKind.None),
                new(HoursKind.Working, Of(c, Enum.GetValues<OutsideHours>())),
                new(
                    HoursKind.Own,
                    Of(c, Enum.GetValues<OutsideHours>()),
                    $"{c.Next(0, 24):00}:00",
                    $"{c.Next(0, 24):00}:30",
                    c.Next(2) == 0 ? null : [c.Next(1, 8)]
                ),
                new(HoursKind.Send, OutsideHours.Skip)
            );
        string[] countries = ["GB", "US", "CA", "AU", "FR", "IT", "BR", "DE", "XX"];
        string[] ops = ["25+", "5", "12", "7", "4–9", "hot", "yes", "2026-11-24", ""];
        Rule Rule(Random c) =>
            Of(c, Enum.GetValues<RuleOp>()) is var op
                ? new(
                    Of(c, "fleet_size", "company", "score", "steps.b0s0.status", Facts.Tags, Facts.Weekday),
                    op,
                    RuleOps.NeedsValues(op)
                        ? [.. Enumerable.Range(0, op == RuleOp.Between ? 2 : c.Next(0, 3)).Select(_ => Of(c, ops))]
                        : []
                )
                : null!;
        RuleSet Rules(Random c, int deep = 0) =>
            new(
                Of(c, Enum.GetValues<RuleMatch>()),
                [.. Enumerable.Range(0, c.Next(0, 4)).Select(_ => Rule(c))],
                deep < 1 && c.Next(3) == 0 ? [Rules(c, 1)] : null
            );
        FuseDefinition Fuse(Random c)
        {
            var fuse = GenFuses.GenFuse.Generate(new PCG((uint)c.Next(1, 5000), 7), null, out var _);
            List<Band> bands =
            [
                .. fuse.Bands.Select(b =>
                    c.Next(3) == 0
                        ? b with
                        {
                            Entry = new(EntryKind.When, Rules(c)),
                            Name = Of(c, b.Name, "", "Same"),
                        }
                        : b
                ),
            ];
            var n = c.Next(12);
            return fuse with
            {
                Name =
                    n == 1 ? ""
                    : n == 2 ? new string('n', 119 + c.Next(3))
                    : "A fuse",
                AgeLimitHours = n == 3 ? Of(c, 0, 1, 720, 721) : fuse.AgeLimitHours,
                HearsForDays = n == 4 ? Of(c, -1, 0, 90, 91) : fuse.HearsForDays,
                BandChoice = c.Next(2) == 0 ? BandChoice.First : BandChoice.All,
                Bands =
                    n == 5 && bands.Count > 0
                        ?
                        [
                            .. Enumerable
                                .Range(0, 49 + c.Next(3))
                                .Select(i => bands[0] with { Id = $"m{i}", Steps = [] }),
                        ]
                    : n == 6
                        ?
                        [
                            .. bands.Select(b =>
                                b with
                                {
                                    Id = Of(
                                        c,
                                        b.Id,
                                        "",
                                        "a b",
                                        "a.b",
                                        "b0",
                                        "a\u0001",
                                        new string('i', 40 + c.Next(2))
                                    ),
                                }
                            ),
                        ]
                    : n == 7 && bands.Count > 0
                        ?
                        [
                            bands[0] with
                            {
                                Steps = [.. Enumerable.Range(0, 99 + c.Next(103)).Select(i => Post($"p{i}"))],
                            },
                        ]
                    : bands,
                LitBy =
                    n == 8
                        ?
                        [
                            new(
                                Of(
                                    c,
                                    EventKeys.Submission,
                                    EventKeys.DateReached,
                                    EventKeys.CameToMatch,
                                    EventKeys.FieldChanged
                                ),
                                null,
                                Rules(c),
                                new(
                                    Of(c, "09:00", "x", ""),
                                    Of(c, "start", ""),
                                    Of(c, -400, 0, 399, 400, 401),
                                    [c.Next(0, 9)]
                                )
                            ),
                        ]
                        : fuse.LitBy,
            };
        }

        static string Faults(IEnumerable<FuseFault> faults) =>
            string.Join("; ", faults.Select(f => $"{f.BandId}/{f.StepId} {f.Code} {f.About}: {f.What} {f.Mend}"));
        var facts = new LineFacts();
        Hold(
            "wide-allowed",
            Many("gate", 80, c =>
                    ContactPolicy
                        .Ask(
                            Lead(zone: Of(c, zones), hasPhone: c.Next(9) > 0, optedOut: c.Next(12) == 0) with
                            {
                                SendHours = Hours(c),
                                WorkHours = Hours(c),
                                PhoneCountry = Of(c, countries),
                                ClientZone = Of(c, zones),
                                HasEmail = c.Next(9) > 0,
                                EmailBounces = c.Next(9) == 0,
                                MostADay = c.Next(4),
                            },
                            Time(c) is var at ? at - Duration.FromHours(c.Next(0, 30)) : default,
                            Duration.FromHours(c.Next(1, 40)),
                            at,
                            Of(c, Enum.GetValues<Voice>()),
                            Own(c)
                        )
                        .ToString()
                )
                .Concat(
                    Many("hours", 60, c =>
                        Hours(c) is var h && Of(c, zones) is var z && Time(c) is var at
                            ? $"{h.IsOpen(at, z)} {h.NextOpen(at, z)} {OpenTimes.Next(h, z, HoursLaw.For(Of(c, Enum.GetValues<Voice>()), Of(c, countries))?.Hours, Of(c, zones), at)}"
                            : ""
                    )
                )
                .Concat(
                    Many("zones", 20, c =>
                        LeadZone
                            .Read(
                                Of(
                                    c,
                                    null,
                                    "+16045550123",
                                    "+12125550123",
                                    "+18085550123",
                                    "+447700900123",
                                    "+61291234567"
                                ),
                                Of(c, null, "US", "CA", "GB", "AU", "BR"),
                                new Dictionary<string, string>
                                {
                                    [Of(c, "postcode", "x")] = Of(c, "90210", "V6B 1A1", "2000", "10001", "x", ""),
                                    [Of(c, "time_zone", "y")] = Of(c, "Asia/Tokyo", "Nowhere", " Europe/Paris "),
                                },
                                "Europe/London"
                            )
                            .ToString()
                    )
                )
                .Concat(Many("rules", 60, c => Rules(c) is var r && Rules(c) is var o
                            ? new
                            {
                                guard = Guard
                                    .Compile(r)
                                    .Guard?.Ask(
                                        new GuardFacts(
                                            f => f.Length % 2 == 0 ? Of(c, ops) : null,
                                            new LocalDate(2026, 11, 24)
                                        )
                                    )
                                    .ToString(),
                                Guard.Compile(r).Faults,
                                said = Guard.Say(r),
                                against = RuleSense.Contradiction([r, o], f => f == Facts.Tags),
                                taken = RuleSense.Taken(r, "fleet_size", ops),
                            }
                            : null))
                .Concat(
                    Many("fuses", 40, c =>
                        Fuse(c) is var f && Fuse(c) is var o
                            ? $"{Faults(FuseFaults.Find(f, Around()))} ▸ {Faults(FuseDoubts.Find(f, Around().Fields, new HashSet<string> { Facts.Tags }, [new("Other", o)]))} ▸ {FuseSentence.Say(f)} ▸ {Say(FuseComparer.Compare(f, o, StepCatalog.Plain, EventCatalog.Plain).Select(d => $"{d.Where} {d.What}: {d.Before} → {d.After}"))}"
                            : ""
                    )
                )
                .Concat(
                    Many("lines", 60, c =>
                        Break
                            .All.OrderBy(_ => c.Next())
                            .Take(c.Next(0, 2))
                            .Aggregate(
                                facts with
                                {
                                    Form = facts.Form with
                                    {
                                        Waiting = c.Next(0, 3),
                                        Missing = c.Next(0, 3),
                                        Visits = c.Next(3) == 0 ? null : (c.Next(0, 8), c.Next(0, 12)),
                                        Refused =
                                            c.Next(3) == 0
                                                ? new(
                                                    c.Next(0, 6),
                                                    LineFacts.Now - Duration.FromMinutes(c.Next(0, 90)),
                                                    LineFacts.Now - Duration.FromMinutes(c.Next(0, 30)),
                                                    "no key"
                                                )
                                                : null,
                                    },
                                },
                                (f, b) => b.Do(f)
                            )
                            .Line()
                            is var line
                            ? $"{line.State} {Say(line.Joints)} {Say(line.Cuts)}"
                            : ""
                    )
                )
        );
    }
}

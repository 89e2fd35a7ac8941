using System.Globalization;
using System.Text;
using LitFuse.Core.Arrivals;
using LitFuse.Core.Drift;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
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

/// <summary>
/// Every text of a small alphabet up to some length, every mix of a few levels: where a judgement turns, some case
/// stands on either side. Of each lot only the mark is kept, behind its first case.
/// </summary>
public sealed class GridRecordings
{
    private const int Lot = 400;

    private static IEnumerable<string> Grid<T>(string of, IEnumerable<T> cases, Func<T, object?> one)
        where T : notnull =>
        cases
            .Chunk(Lot)
            .Select(lot =>
                $"{of} │ {Short(Label(lot[0]), 60)} │ {Mark(string.Join('\n', lot.Select(c => Say(one(c)))))}"
            );

    // Half a character is none in a file.
    private static string Label(object first) =>
        string.Concat(
            (first is List<string> row ? string.Join(' ', row) : first.ToString()!).Select(c =>
                char.IsSurrogate(c) ? '?' : c
            )
        );

    // All rows of up to so many of these, the short ones first.
    private static IEnumerable<List<string>> Rows(int most, params string[] parts)
    {
        List<List<string>> last =
        [
            [],
        ];
        for (var n = 0; n < most; n++)
        {
            last = [.. last.SelectMany(row => parts.Select(p => (List<string>)[.. row, p]))];
            foreach (var row in last)
                yield return row;
        }
    }

    private static IEnumerable<string> Texts(int most, params string[] parts) =>
        Rows(most, parts).Select(row => string.Concat(row));

    [Fact]
    public void Dates_and_numbers()
    {
        string[] small = ["0", "1", "2", "02", "9", "11", "12", "13", "29", "30", "31", "32", "123"],
            years =

            [
                "0",
                "1",
                "9",
                "26",
                "31",
                "32",
                "69",
                "70",
                "99",
                "100",
                "999",
                "1899",
                "1900",
                "2026",
                "2028",
                "2200",
                "2201",
                "12345",
            ];
        string[] months =
        [
            .. "jan januar feb fevrier mar märz brezen apr avril may mai mayo kveten jun juin cerven jul juillet aug août srpen sep sept eylul oct okt ottobre nov listopad dec dez prosinec xyz".Split(
                ' '
            ),
        ];
        string[] after = ["", " 10:30", "T10:30:00Z", " 10:30 pm", " 10", " at noon", ".", " x y"];
        LeadField date = new("d", "D", LeadFieldType.Date, []),
            number = new("n", "N", LeadFieldType.Number, []),
            money = new("m", "M", LeadFieldType.Money, []);
        ReadingLocale[] locales =
        [
            ReadingLocale.For(null, "GB"),
            ReadingLocale.For("en-US", "US"),
            ReadingLocale.For("de", "DE"),
            ReadingLocale.For("hu", "HU"),
        ];
        string Of(string typed, LeadField field) =>
            string.Join(
                ' ',
                locales.Select(l => ValueReader.Read(typed, field, l)).Select(r => r.Fault is null ? r.Value : "–")
            );
        var plain = (
            from a in small
            from b in small
            from c in years
            from mark in new[] { ".", "/", " " }
            select a + mark + b + mark + c
        )
            .Concat(from y in years from b in small from c in small select $"{y}-{b}-{c}")
            .ToList();
        Hold(
            "grid-dates",
            Grid("dates", plain, d => Of(d, date))
                .Concat(
                    Grid(
                        "in words",
                        from m in months
                        from d in small
                        from y in years
                        from shape in new[] { 0, 1, 2 }
                        select shape switch
                        {
                            0 => $"{d} {m} {y}",
                            1 => $"{m} {d}, {y}",
                            _ => $"{y} {m} {d}",
                        },
                        d => Of(d, date)
                    )
                )
                .Concat(
                    Grid(
                        "with more",
                        from d in new[]
                        {
                            "24/12/2026",
                            "1/2/26",
                            "2026-12-24",
                            "20261224",
                            "2026122",
                            "24 Dec 2026",
                            "the 24th of Dec 2026",
                            "2026年12月24日",
                            "24 de dez de 2026",
                        }
                        from a in after
                        select d + a,
                        d => Of(d, date)
                    )
                )
                .Concat(Grid("in files", plain.Where((_, i) => i % 3 == 0), d => string.Join(
                            ' ',
                            Enum.GetValues<DateOrder>().Select(o => FileLook.Moment(d, o))
                        )
                        + FileLook.DatesOf(
                            [
                                ["x", d],
                            ],
                            "US"
                        )
                        + FileLook.DatesOf(
                            [
                                [d, "13/14/2026"],
                            ],
                            "GB"
                        )))
                .Concat(Grid("numbers", Texts(6, "1", "000", ",", ".", "-"), n => Of(n, number)))
                .Concat(
                    Grid("amounts", Texts(5, "1", "000", ",", "k", "€", " ", "usd", "zł", "us$"), n => Of(n, money))
                )
                .Concat(
                    Grid("links", Texts(5, "a", ".", "://", " ", "http", "@"), n =>
                        Of(n, new("l", "L", LeadFieldType.Link, []))
                    )
                )
        );
    }

    [Fact]
    public void Texts_and_names()
    {
        string[] languages = ["GB", "DE", "JP", "HU"];
        Hold(
            "grid-texts",
            Grid("tokens", Texts(5, "a", "B", "c", "1", "'", "_", "e\u0301"), t =>
                    Tokens.PlainOf(t) + "│" + Tokens.PlainOf("x" + t)
                )
                .Concat(
                    Grid(
                        "cut",
                        from t in Texts(4, "a", " ", "\ud83d\udd25", "\ud83d", "é", "\n")
                        from most in new[] { 1, 2, 3, 4, 5 }
                        select (t, most),
                        c =>
                            $"{Clip.To(c.t, c.most)}│{Clip.Short(c.t, c.most)}│{PlainText.Line(c.t, c.most)}│{PlainText.Of(c.t)}"
                    )
                )
                .Concat(
                    Grid("spoken", Texts(4, "a", "1", "12", " ", "£", ".", "/", "&", "@", ":", "+44"), SpokenWords.Of)
                )
                .Concat(
                    Grid(
                        "html",
                        Texts(
                            4,
                            "<p>",
                            "</p>",
                            "<br>",
                            "a",
                            " ",
                            "\n",
                            "&amp;",
                            "<script>",
                            "</script>",
                            "<!--",
                            "-->"
                        ),
                        HtmlText.Of
                    )
                )
                .Concat(
                    Grid(
                        "names",
                        from n in Rows(
                            4,
                            "Ines",
                            "CALLOWAY",
                            "van",
                            "de",
                            "Dr.",
                            "Jr.",
                            "J.",
                            "O'NEILL",
                            ",",
                            "III",
                            "(Hal)"
                        )
                        from at in new[] { "GB", "HU" }
                        select (n, at),
                        c => $"{PersonNames.Split(string.Join(' ', c.n), c.at)}"
                    )
                )
                .Concat(
                    Grid(
                        "names of the east",
                        from n in Texts(4, "山", "田", "か", "김", " ", "a")
                        from at in languages
                        select (n, at),
                        c => $"{PersonNames.Split(c.n, c.at)}"
                    )
                )
                .Concat(
                    Grid(
                        "sketches",
                        from a in Rows(2, "ines", "in", "i", "hal", "")
                        from b in Rows(2, "ines", "in", "i", "hal", "")
                        select (a, b),
                        c =>
                            new PersonSketch(c.a[0], c.a.ElementAtOrDefault(1), null).Contradicts(
                                new(c.b[0], c.b.ElementAtOrDefault(1), null)
                            )
                    )
                )
                .Concat(
                    Grid("emails", Texts(5, "a", "@", ".", "b", " ", "<", ">", ","), e =>
                        $"{EmailReader.Read(e)} {Say(EmailReader.ReadAll(e).Emails)} {EmailReader.ReadAll(e).Fault}"
                    )
                )
                .Concat(
                    Grid(
                        "segments",
                        from c in new[] { "a", "€", "é", "ß", "山", "\ud83d\udd25", "{" }
                        from n in Enumerable.Range(0, 330)
                        select (c, n),
                        c => TextSegments.Count(string.Concat(Enumerable.Repeat(c.c, c.n))).ToString()
                    )
                )
                .Concat(
                    Grid(
                        "segments at their ends",
                        from a in Enumerable.Range(148, 16)
                        from b in Enumerable.Range(0, 4)
                        from more in new[] { 0, 1, 150, 153 }
                        select (a, b, more),
                        c =>
                            TextSegments
                                .Count(new string('a', c.a) + new string('€', c.b) + new string('a', c.more))
                                .ToString()
                    )
                )
        );
    }

    [Fact]
    public void Junk_and_replies()
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
        var mixes =
            from name in new[]
            {
                "Ines Calloway",
                "ines ines",
                "in in",
                "xkcdfgh brr",
                "123 4a",
                "https://x.example",
                "",
            }
            from email in new[]
            {
                "ines@example.com",
                "x@mailinator.com",
                "xkcdfghw@example.com",
                "xkcdfgh@example.com",
                "",
            }
            from phone in new[] { "07700 900123", "123a", "1234a", "+447111111111", "" }
            from message in new[]
            {
                "",
                "Six bikes, please.",
                "https://a.example",
                "www.a.example www.b.example",
                "a.example http://b.example http://c.example http://d.example",
                "we offer cheap seo",
                "we offer cheap seo, buy now, casino",
                "asdf qwertz",
            }
            from door in new[] { 0, 1, 2, 3, 4 }
            select (name, email, phone, message, door);
        string[] offered = ["Tuesday at 10:00", "Wednesday at 15:00", "Friday at 9:30"];
        Hold(
            "grid-judged",
            Grid("junk", mixes, m =>
                {
                    var payload = Payload.FromPairs([
                        new("name", m.name),
                        new("email", m.email),
                        new("phone", m.phone),
                        new("message", m.message),
                        .. m.door == 1 ? [new("lf_website", "x")]
                        : m.door == 2 ? [new("lf_took", "1499")]
                        : m.door == 3 ? [KeyValuePair.Create("lf_took", "1500")]
                        : Array.Empty<KeyValuePair<string, string>>(),
                    ]);
                    var door = JunkScore.Of(payload, m.door == 4 ? 12 : 0);
                    var all = JunkScore.OfAnswers(door, payload, map.Read(payload.Answers), m.message.Length % 5);
                    return $"{door.Score} {all.Score} {string.Join(';', all.Because)} {JunkScore.OwnWords(payload)}";
                })
                .Concat(
                    Grid("lately", Enumerable.Range(0, 120), n =>
                        JunkScore.Of(Payload.FromPairs([new("a", "b")]), n).ToString()
                    )
                )
                .Concat(
                    Grid("gibberish", Texts(6, "a", "b", "c", "h", "s", "z").Where(t => t.Length > 3), t =>
                        GibberishSigns.Of(t)
                    )
                )
                .Concat(
                    Grid("gibberish, odd", Texts(4, "sch", "cz", "qx", "b", "a", "t", "-", "ngth"), t =>
                        GibberishSigns.Of(t)
                    )
                )
                .Concat(
                    Grid("gibberish, cased", Texts(8, "a", "B", "e").Where(t => t.Length > 3), t =>
                        GibberishSigns.Of(t)
                    )
                )
                .Concat(
                    Grid(
                        "replies",
                        Rows(
                            3,
                            "yes",
                            "no",
                            "stop",
                            "not",
                            "please",
                            "ring",
                            "me",
                            "why",
                            "tomorrow",
                            "ok",
                            "later",
                            "the",
                            "tuesday",
                            "first",
                            "2",
                            "thanks",
                            "but"
                        ),
                        r =>
                            ReplyReader.Read(string.Join(' ', r), offered) is var a
                                ? $"{a.Meaning} {a.Choice} {a.Because}"
                                : ""
                    )
                )
                .Concat(
                    Grid(
                        "choices",
                        Rows(
                            3,
                            "tue",
                            "wed",
                            "fri",
                            "10",
                            "15",
                            "9:30",
                            "10:00",
                            "first",
                            "2",
                            "3",
                            "4",
                            "the",
                            "please",
                            "or",
                            "wednesday"
                        ),
                        r => ReplyReader.Read(string.Join(' ', r), offered).Choice
                    )
                )
                .Concat(
                    Grid(
                        "letters",
                        Rows(
                            4,
                            "Yes please",
                            "> quoted",
                            "",
                            "On Monday Imke",
                            "wrote:",
                            "On Monday Imke wrote:",
                            "-- ",
                            "--",
                            "a",
                            "_____________________"
                        ),
                        r => LetterReply.WordsOf(string.Join('\n', r))
                    )
                )
                .Concat(
                    Grid(
                        "long letters",
                        from n in new[] { 7999, 8000, 8001, 31998, 31999, 32000, 32001 }
                        from tail in new[] { "z", "\nz", "\n>q\nz" }
                        select (n, tail),
                        l =>
                            Mark(
                                LetterReply.WordsOf(
                                    new string('y', l.n % 8000 + 10)
                                        + string.Concat(
                                            Enumerable.Repeat("\n>", Math.Max(0, (l.n - (l.n % 8000) - 10) / 2))
                                        )
                                        + l.tail
                                )
                            )
                    )
                )
        );
    }

    [Fact]
    public void Bodies_paths_and_files()
    {
        var body = "{\"a\":[{\"b\":1,\"'\":2},{\"b\":\"x\"},3],\"b\":{\"a\":{\"b\":null}},\"\":4}"u8.ToArray();
        Hold(
            "grid-sent",
            Grid(
                    "paths",
                    Texts(6, "$", ".a", ".b", "[0]", "[*]", "['b']", "[", "'", "\\").Where(p => p.StartsWith('$')),
                    p =>
                        $"{Picks.Fault(p)} {string.Join(',', Picks.Read([new(p, "x")], body).Answers.Select(a => a.Value))}"
                )
                .Concat(
                    Grid("bodies", Texts(5, "{", "}", "[", "]", "\"a\"", ":", ",", "1"), b =>
                        Payload.FromJson(Encoding.UTF8.GetBytes(b)) is var read
                            ? $"{read.Unreadable} {Say(read.Answers)}"
                            : ""
                    )
                )
                .Concat(
                    Grid(
                        "wide bodies",
                        from width in new[] { 199, 200, 201, 299, 300, 301, 499, 500, 501, 999, 1000, 1001 }
                        from deep in new[] { 0, 1 }
                        select (width, deep),
                        w =>
                            Encoding.UTF8.GetBytes(
                                "{"
                                    + string.Join(
                                        ',',
                                        Enumerable
                                            .Range(0, w.width)
                                            .Select(i =>
                                                w.deep == 0 ? $"\"f{i}\":{i}" : $"\"f{i}\":[{i},{{\"a\":{i}}}]"
                                            )
                                    )
                                    + "}"
                            )
                                is var wide
                            && Payload.FromJson(wide) is var read
                                ? $"{read.Unreadable} {read.Answers.Count} {read.Answers.LastOrDefault()} {Picks.Paths(wide).Count} {Picks.Read([new("$[*]", "all")], wide).Answers.Sum(a => a.Value.Length)}"
                                : ""
                    )
                )
                .Concat(
                    Grid(
                        "pairs",
                        Rows(
                            3,
                            "referrer",
                            "landing_path",
                            "page",
                            "pages_seen",
                            "my_url",
                            "website",
                            "utm_source",
                            "lf_page",
                            "id",
                            "name"
                        ),
                        r =>
                            Payload.FromPairs([.. r.Select((f, i) => KeyValuePair.Create(f, $"v{i}"))]) is var read
                                ? $"{Say(read.Answers)} {Say(read.Signs)} {read.OwnId} {r.Count(Payload.IsAddressField)}"
                                : ""
                    )
                )
                .Concat(
                    Grid("delimiters", Texts(6, "a", ",", ";", "\"", "\n", "\t"), h =>
                        FileLook.DelimiterOf(h).ToString()
                    )
                )
                .Concat(
                    Grid(
                        "headers",
                        Rows(
                            3,
                            "Name",
                            "ines@example.com",
                            "1234567",
                            "123456",
                            "07700 900123",
                            "",
                            " ",
                            "+441234567",
                            "12345678x"
                        ),
                        r => FileLook.HasHeader([r])
                    )
                )
        );
    }

    [Fact]
    public void Hours_and_zones()
    {
        DateTimeZone[] zones =
        [
            London,
            DateTimeZoneProviders.Tzdb["America/St_Johns"],
            DateTimeZoneProviders.Tzdb["Pacific/Honolulu"],
        ];
        LocalTime[] times = [new(0, 0), new(1, 0), new(1, 30), new(2, 0), new(8, 0), new(20, 30), new(23, 59)];
        IReadOnlyList<IsoDayOfWeek>[] weeks =
        [
            OpenHours.EveryDay,
            [.. OpenHours.EveryDay.Take(5)],
            [IsoDayOfWeek.Sunday],
            [],
        ];
        // Round both changes of clocks, and a turn of the year.
        var moments = new[]
        {
            Instant.FromUtc(2026, 3, 28, 22, 0),
            Instant.FromUtc(2026, 10, 24, 22, 0),
            Instant.FromUtc(2026, 12, 31, 18, 0),
        }
            .SelectMany(m => Enumerable.Range(0, 60).Select(i => m + Duration.FromMinutes(15 * i)))
            .ToList();
        var laws = HoursLaw
            .Calls.Values.Concat(HoursLaw.Texts.Values)
            .Append(HoursLaw.DecentCalls)
            .Append(HoursLaw.DecentTexts)
            .ToList();
        Hold(
            "grid-hours",
            Grid("hours", from f in times from t in times from w in weeks from z in zones select (f, t, w, z), c =>
                    new OpenHours(c.f, c.t, c.w) is var h
                        ? moments
                            .Where((_, i) => i % 5 == 0)
                            .Select(m =>
                                $"{h.IsOpen(m, c.z)} {h.NextOpen(m, c.z)} {(h with { Closed = new HashSet<LocalDate> { new(2026, 3, 29), new(2027, 1, 1) } }).NextOpen(m, c.z)}"
                            )
                            .ToList()
                        : []
                )
                .Concat(
                    Grid(
                        "times",
                        from law in laws
                        from z in zones
                        from own in new[] { 0, 1, 2 }
                        select (law, z, own),
                        c =>
                            moments
                                .Select(m =>
                                    OpenTimes
                                        .Next(
                                            c.own == 0
                                                ? null
                                                : new(times[c.own * 2], times[c.own + 4], weeks[c.own - 1]),
                                            London,
                                            c.law.Hours,
                                            c.z,
                                            m
                                        )
                                        .ToString()
                                )
                                .ToList()
                    )
                )
                .Concat(
                    Grid(
                        "steps",
                        from after in new[] { 0, 59, 3600, 90_000 }
                        from days in new[] { 0, 1, 2, 6 }
                        from working in new[] { true, false }
                        from at in new[] { null, "08:00", "01:30" }
                        from z in zones
                        select new
                        {
                            after,
                            days,
                            working,
                            at,
                            z,
                        },
                        c =>
                            new StepMoment
                            {
                                AfterSeconds = c.after,
                                Days = c.days,
                                Working = c.working,
                                At = c.at,
                            }
                                is var step
                                ? moments
                                    .Where((_, i) => i % 4 == 0)
                                    .Select(m =>
                                        step.On(m, m - Duration.FromHours(30), c.z, new(times[4], times[5], weeks[1]))
                                            .ToString()
                                    )
                                    .ToList()
                                : []
                    )
                )
                .Concat(
                    Grid(
                        "zones",
                        from phone in new[]
                        {
                            null,
                            "+16045550123",
                            "+12125550123",
                            "+18085550123",
                            "+447700900123",
                            "+61291234567",
                            "+55112345678",
                        }
                        from country in new[] { null, "US", "CA", "GB", "AU", "BR", "XX" }
                        from post in new[] { "", "90210", "9021", "V6B 1A1", "v6b", "10001", "x", "6" }
                        select (phone, country, post),
                        c =>
                            LeadZone
                                .Read(
                                    c.phone,
                                    c.country,
                                    new Dictionary<string, string> { ["postcode"] = c.post },
                                    "Europe/London"
                                )
                                .ToString()
                    )
                )
        );
    }

    [Fact]
    public void Guards_on_everything()
    {
        string?[] typed =
        [
            null,
            "",
            " ",
            "a",
            "A",
            "á",
            "a,b",
            "b,a",
            "10-24",
            "10–24",
            "5",
            "5.0",
            "05",
            "-5",
            "1,200",
            "1200 usd",
            "usd",
            "x usd",
            "2026-11-24",
            "2026-11-24T10:00:00Z",
            "2026-11-23",
            "2026-11-25",
            "2026-11-2",
            "today",
            "yes",
            "no",
            "1",
            "true",
            new string('a', 101),
        ];
        string[] values = ["a", "b", "a,b", "10–24", "5", "4", "6", "1200", "2026-11-24", "today", "yes", "0", "1", ""];
        var single =
            from op in Enum.GetValues<RuleOp>()
            from a in values
            from b in op == RuleOp.Between ? values : [""]
            select new Rule(
                "x",
                op,
                RuleOps.NeedsValues(op)
                    ? op == RuleOp.Between
                        ? [a, b]
                        : [a]
                    : []
            );
        var sense = (
            from one in single
            from other in single
            where
                one.Values.All(v => v is "a" or "4" or "5" or "a,b")
                && other.Values.All(v => v is "a" or "b" or "5" or "6")
            select (one, other)
        ).ToList();
        Hold(
            "grid-guards",
            Grid("rules", single, r =>
                    Guard.Compile(new(RuleMatch.All, [r])) is var made && made.Guard is { } guard
                        ? string.Concat(
                            typed.Select(t =>
                                guard.Holds(new GuardFacts(_ => t, new LocalDate(2026, 11, 24))) ? '1' : '0'
                            )
                        ) + Guard.Say(r)
                        : string.Join(';', made.Faults)
                )
                .Concat(
                    Grid("sense", sense, s =>
                        string.Join(
                            '│',
                            new[] { RuleMatch.All, RuleMatch.Any }
                                .SelectMany(m =>
                                    new[] { false, true }.Select(many =>
                                        RuleSense.Contradiction([new(m, [s.one, s.other])], _ => many)
                                    )
                                )
                                .Append(
                                    RuleSense.Contradiction(
                                        [new(RuleMatch.All, [s.one]), new(RuleMatch.All, [s.other])],
                                        _ => false
                                    )
                                )
                        )
                        + string.Join(',', RuleSense.Taken(new(RuleMatch.All, [s.one, s.other]), "x", ["a", "b", "5"]))
                    )
                )
        );
    }

    [Fact]
    public void Fields_of_forms()
    {
        string[] words =
        [
            .. "your name first last email mail phone tel mobile company work post code city message vor nach telefon firma question field how many number address contact full preferred best time of ? you we when".Split(
                ' '
            ),
        ];
        string Of(string name, string label) =>
            string.Create(
                CultureInfo.InvariantCulture,
                $"{MapSuggester.Suggest([new(name, label, FormFieldType.Text, [], null, [])], [], [], "GB").Select(s => $"{s.LeadField} {s.Confidence:0.0000} {s.Because}").Single()}"
            );
        string[] glyphs =
        [
            "您的",
            "姓名",
            "电话",
            "号码",
            "邮箱",
            "公司",
            "お名前",
            "メール",
            "電話番号",
            "会社",
            "이메일",
            "전화번호",
            "이름",
            "ก",
            "อีเมล",
            "a",
        ];
        Hold(
            "grid-fields",
            Grid("two words", Rows(2, words), r =>
                    Of(string.Join('_', r), string.Join(' ', r)) + Of("q1", string.Join(' ', r))
                )
                .Concat(
                    Grid("three words", Rows(3, words).Where((r, i) => r.Count == 3 && i % 9 == 0), r =>
                        Of("q1", string.Join(' ', r)) + Of(string.Concat(r), string.Concat(r))
                    )
                )
                .Concat(Grid("without blanks", Rows(3, glyphs), r => Of("q1", string.Concat(r))))
        );
    }

    [Fact]
    public void Habits_and_drifts()
    {
        var noon = At("24 12:00:00");
        var paces =
            from every in new[] { 7, 13, 15, 16, 20, 59, 60, 61, 62, 90, 121, 300, 1200 }
            from days in new[] { 13, 14, 15, 56, 60 }
            from burst in new[] { 0, 1, 5 }
            select (every, days, burst);
        LeadField[] own =
        [
            new("size", "Size", LeadFieldType.Choice, ["S", "L"]),
            new("cargo", "Cargo", LeadFieldType.Choices, ["food", "tools"]),
            new("start", "Start", LeadFieldType.Date, []),
        ];
        FieldMap[] maps =
        [
            new([
                new("mail", "email"),
                new("size", "size"),
                new("size", "company"),
                new("cargo", "cargo"),
                new("start", "start"),
            ]),
            new([
                new("size", "company"),
                new("size", "size", Choices: new Dictionary<string, string> { ["small"] = "S" }),
                new("mail", "email"),
                new("mail2", "email"),
            ]),
            new([
                new("mail", "email", With: ["mail2"]),
                new("utm_source", "source_word"),
                new("start", "start"),
                new("", "company", Constant: "x"),
            ]),
        ];
        var histories =
            from map in new[] { 0, 1, 2 }
            from tells in new[] { 0, 1, 2 }
            from before in new[] { 3, 4, 5, 8, 20 }
            from run in new[] { 0, 1, 2, 3, 5, 9 }
            from what in Enumerable.Range(0, 8)
            select (map, tells, before, run, what);
        Hold(
            "grid-habits",
            Grid("habits", paces, p =>
                {
                    var came = Enumerable
                        .Range(0, p.days * 1440 / p.every)
                        .Select(i => noon - Duration.FromMinutes(i * p.every))
                        .SelectMany(at => Enumerable.Repeat(at, at.InUtc().Hour == 9 ? 1 + p.burst : 1))
                        .ToList();
                    var habit = ArrivalHabit.Learn(
                        came,
                        p.burst == 5
                            ? [new(noon - Duration.FromHours(7), noon - Duration.FromHours(6.5)), new(noon, null)]
                            : [],
                        London,
                        noon
                    );
                    return string.Join(
                            '│',
                            new[] { 0.0, 0.5, 1, 3, 6, 24, 72 }.Select(h =>
                                $"{habit.Look(noon + Duration.FromHours(h))}"
                            )
                        )
                        + string.Create(
                            CultureInfo.InvariantCulture,
                            $"{habit.Expected(noon - Duration.FromHours(9.3), noon + Duration.FromHours(1.2)):0.0000}"
                        );
                })
                .Concat(Grid("drifts", histories, h =>
                    {
                        Dictionary<string, string> Answers(int n, int what)
                        {
                            var answers = new Dictionary<string, string>
                            {
                                ["mail"] = "i@example.com",
                                ["mail2"] = "j@example.com",
                                ["size"] = n % 2 == 0 ? "S" : "small",
                                ["cargo"] = "food, tools",
                                ["start"] = "2026-12-24",
                                ["utm_source"] = "plaza",
                            };
                            _ = what switch
                            {
                                1 => answers.Remove("mail"),
                                2 => answers.Remove("size"),
                                3 => answers.TryAdd("fresh", "x"),
                                4 => answers.Remove("utm_source"),
                                _ => false,
                            };
                            if (what == 5)
                                answers["size"] = "XL";
                            if (what == 6)
                                answers["start"] = "soon";
                            if (what == 7)
                                answers["mail"] = "";
                            return answers;
                        }

                        DriftSample[] samples =
                        [
                            .. Enumerable
                                .Range(0, h.run + h.before)
                                .Select(n => new DriftSample(
                                    noon - Duration.FromMinutes(n),
                                    Answers(n, n < h.run ? h.what : 0)
                                )),
                        ];
                        FormField[] told =
                            h.tells == 2
                                ? []
                                :
                                [
                                    .. new[] { "mail", "size", "size", "cargo", "start", "utm_source" }
                                        .Where(f => !(h.what is 1 && f == "mail"))
                                        .Select(
                                            (f, i) =>
                                                new FormField(
                                                    f,
                                                    i == 2 ? "Other" : f,
                                                    f == "size" ? FormFieldType.Choice : FormFieldType.Text,
                                                    i % 2 == 0,
                                                    f == "size"
                                                        ? i == 2
                                                            ? ["M"]
                                                            : ["S", "XL"]
                                                        : []
                                                )
                                        ),
                                ];
                        var found = DriftFinder.Find(
                            new(told, h.tells > 0, maps[h.map], own, "GB", new HashSet<string>()),
                            samples
                        );
                        return string.Join(
                            ';',
                            found.Select(f =>
                                $"{f.Key} {f.After} {f.Lost} {f.LeadField} {f.Suggested} {Say(f.Values)} {f.Words} {f.Mend}"
                            )
                        );
                    }))
        );
    }
}

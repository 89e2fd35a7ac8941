using LitFuse.Core.Arrivals;
using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
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
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>
/// Small cases in great number, at bounds and just beside them: every kind of setting with every kind of value, every
/// word of order, short histories.
/// </summary>
public sealed class EdgeRecordings
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static string Lines(params object?[] parts) => string.Join(" │ ", parts.Select(Say));

    [Fact]
    public void Choices_by_number_by_order_and_by_words()
    {
        string[] orders =
        [
            .. (
                "first 1st second 2nd third 3rd fourth 4th one two three four erste ersten zweite zweiten dritte dritten eins zwei drei premier premiere deuxieme troisieme un deux trois primero primera segundo segunda tercero tercera uno dos tres "
                + "primo prima secondo seconda terzo terza due tre eerste tweede derde een twee drie primeiro primeira terceiro terceira dois duas pierwszy pierwsza drugi druga trzeci trzecia jeden dwa trzy forsta andra tredje forste anden a b c 0 1 2 3 4 5 6 05 last st nd"
            ).Split(' '),
        ];
        string[] five =
        [
            "Monday at 09:00",
            "Tuesday at 10:00",
            "Wednesday at 10:30",
            "Thursday at 15:00",
            "Friday at 15:30",
        ];
        string[] words =
        [
            "tue",
            "tu",
            "tues",
            "tuesdays",
            "wednesday please",
            "fri or thu",
            "10",
            "10:30",
            "1030",
            "15:00 thursday",
            "15:30",
            "15",
            "tuesday wednesday",
            "09",
            "9",
            "mon day",
            "monday at",
            "at",
            "monday monday",
            "th",
            "thu",
            "thursday friday",
            "weds",
            "10:00 tue",
            "not tue",
        ];
        string[][] offers =
        [
            five,
            ["2 bikes", "25 bikes", "more"],
            ["Yes, ring me", "No, write to me"],
            ["one", "two"],
            ["Only this"],
            ["a", "bb", "ccc"],
            ["2026-11-30", "2026-12-01"],
        ];
        Hold(
            "choices",
            orders
                .SelectMany(o => new[] { o, $"the {o}", $"{o} please", $"{o} works for me", $"nehme die {o}" })
                .Select(said => Lines(said, offers.Take(2).Select(f => Of(said, f))))
                .Concat(
                    words
                        .Concat(orders)
                        .SelectMany(said => offers.Select(f => Of(said, f)).Distinct().Select(r => Lines(said, r)))
                )
                .Concat(
                    Enumerable
                        .Range(11, 7)
                        .SelectMany(n =>
                            new[] { "yes", "no", "ja", "stop" }.Select(said =>
                                Lines(
                                    n,
                                    said,
                                    ReplyReader.Read(said + string.Concat(Enumerable.Repeat(" kraft", n)), [])
                                )
                            )
                        )
                )
        );
        static string Of(string said, string[] offered) =>
            ReplyReader.Read(said, offered) is var read ? $"{read.Meaning} {read.Choice}: {read.Because}" : "";
    }

    [Fact]
    public void Drift_of_short_histories()
    {
        var chance = new Random(17);
        FormField Field(
            string name,
            FormFieldType type = FormFieldType.Text,
            bool required = false,
            string[]? choices = null
        ) => new(name, name == "tel" ? "Your telephone" : name, type, required, choices ?? []);
        LeadField[] own =
        [
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "25+"]),
            new("cargo", "Cargo", LeadFieldType.Choices, ["food", "tools"]),
            new("start", "Start", LeadFieldType.Date, []),
        ];
        FieldMap map = new([
            new("name", "full_name"),
            new("mail", "email"),
            new("tel", "phone"),
            new("size", "fleet_size", Choices: new Dictionary<string, string> { ["a few"] = "1–3" }),
            new("cargo", "cargo"),
            new("start", "start"),
            new("street", "address", With: ["town"]),
            new("", "company", Constant: "Brackenwheel"),
        ]);
        string[] fresh = ["mobile", "Your telephone", "e_mail", "comments", "utm_source", "tel2"];
        var found = new List<DriftFinding>();
        var told = new List<string>();
        for (var i = 0; i < 900; i++)
        {
            // A history: until some time as the map knows it, then changed in one way or in none.
            var (before, after, what) = (chance.Next(0, 14), chance.Next(0, 12), i % 15);
            DriftSample Sample(bool changed, int n)
            {
                var answers = new Dictionary<string, string>
                {
                    ["name"] = "Ines Calloway",
                    ["mail"] = $"i{n}@example.com",
                    ["size"] = n % 3 == 0 ? "a few" : "25+",
                    ["cargo"] = n % 2 == 0 ? "food, tools" : "food",
                    ["start"] = "2026-12-24",
                    ["street"] = "1 Long Lane",
                    ["town"] = "Leeds",
                };
                if (what != 0 || n % 10 != 0)
                    answers["tel"] = "07700 900123";
                if (!changed)
                    return new(Noon - Duration.FromMinutes(n), answers);
                switch (what)
                {
                    case 1:
                        answers.Remove("tel");
                        break;
                    case 2:
                        answers["tel"] = "";
                        break;
                    case 3:
                        answers.Remove("tel", out var tel);
                        answers[fresh[i / 15 % fresh.Length]] = tel ?? "";
                        break;
                    case 4:
                        answers["size"] = n % (1 + (i / 15 % 4)) == 0 ? "100+" : "25+";
                        break;
                    case 5:
                        answers["start"] = "soon";
                        break;
                    case 6:
                        answers[fresh[i / 15 % fresh.Length]] = n % (1 + (i / 15 % 3)) == 0 ? "x" : "y";
                        break;
                    case 7:
                        answers["cargo"] = "parcels, food";
                        break;
                    case 8:
                        answers.Remove("town");
                        break;
                    case 9:
                        answers["mail"] = "none";
                        break;
                    case 10:
                        answers.Remove("tel");
                        answers.Remove("mail");
                        break;
                    case 11:
                        if (n % 2 == 0)
                            answers["note"] = new string('z', 39 + (i / 15 % 4));
                        break;
                    case 12:
                        answers["size"] = new string('q', 39 + (i / 15 % 4));
                        break;
                }

                return new(Noon - Duration.FromMinutes(n), answers);
            }

            List<DriftSample> samples =
            [
                .. Enumerable.Range(0, after).Select(n => Sample(true, n)),
                .. Enumerable.Range(after, before).Select(n => Sample(false, n)),
            ];
            var tells = i % 4 == 3;
            DriftForm form = new(
                [
                    Field("name"),
                    Field("mail", FormFieldType.Email, true),
                    Field("tel", FormFieldType.Phone, i % 3 == 0),
                    Field("size", FormFieldType.Choice, false, ["a few", "25+"]),
                    Field("cargo", FormFieldType.Choices, false, ["food", "tools"]),
                    Field("start", FormFieldType.Date),
                    Field("street"),
                    Field("town"),
                    .. tells && i % 8 == 3 ? new[] { Field("comments"), Field("hid", FormFieldType.Hidden) } : [],
                ],
                tells,
                map,
                own,
                "GB",
                i % 11 == 0 ? new HashSet<string> { "gone.tel", "fresh.comments" } : new HashSet<string>()
            );
            var now = DriftFinder.Find(form, samples);
            var again = DriftFinder.Find(
                form,
                [.. Enumerable.Range(0, chance.Next(0, 8)).Select(n => Sample(i % 2 == 0, n)), .. samples],
                found.Count > 5 && i % 5 == 0 ? [.. found.TakeLast(5), .. now] : now
            );
            found.AddRange(now);
            told.Add($"{Words(now)} ▸ {Words(again)}");
        }

        Assert.All(found, f => Assert.Equal(f, f with { Values = null }));
        Hold("drift", told.Chunk(5).Select((five, i) => $"{i * 5:000} {Short(string.Join(" ‖ ", five), 300)}"));
        static string Words(IReadOnlyList<DriftFinding> found) =>
            string.Join(
                "; ",
                found.Select(f =>
                    $"{f.Key} {f.After}{(f.Lost ? " lost" : "")} {f.LeadField} {f.Suggested} {Say(f.Values)} {f.Words} {f.Mend}"
                )
            );
    }

    [Fact]
    public void Habits_of_short_histories()
    {
        var chance = new Random(23);
        DateTimeZone[] zones =
        [
            London,
            DateTimeZoneProviders.Tzdb["Asia/Kathmandu"],
            DateTimeZoneProviders.Tzdb["Pacific/Honolulu"],
        ];
        Hold(
            "arrivals",
            Enumerable
                .Range(0, 400)
                .Select(i =>
                {
                    var (count, days, night) = (i < 40 ? i : chance.Next(8, 300), 1 + chance.Next(1, 60), i % 3 == 0);
                    var came = Enumerable
                        .Range(0, count)
                        .Select(_ => Noon - Duration.FromSeconds(chance.Next(0, days * 86_400)))
                        .Where(at => !night || at.InUtc().Hour is >= 8 and < 18)
                        .ToList();
                    if (i % 6 == 0)
                        came.AddRange(came.Take(count / 4).Select(at => at + Duration.FromSeconds(20)).ToList());
                    QuietTime[] quiet = (i % 5) switch
                    {
                        1 => [new(Noon - Duration.FromDays(3), Noon - Duration.FromDays(2))],
                        2 => [new(Noon - Duration.FromHours(5), null)],
                        3 => [new(Noon - Duration.FromHours(1), Noon)],
                        4 => [new(Noon, null)],
                        _ => [],
                    };
                    var habit = ArrivalHabit.Learn(came, quiet, zones[i % 3], Noon);
                    return Lines(
                        i,
                        came.Count,
                        new[] { 0, 1, 5, 20, 60, 240 }
                            .Select(h => habit.Look(Noon + Duration.FromHours(h)).ToString())
                            .Distinct()
                            .ToList(),
                        Math.Round(habit.Expected(Noon - Duration.FromHours(30.3), Noon + Duration.FromHours(3)), 3)
                    );
                })
                .Select(l => Short(l, 400))
        );
    }

    [Fact]
    public void Settings_of_steps_with_every_kind_of_value()
    {
        const string Me = "01a20fdf-0000-7000-8000-000000000001";
        var kinds = Enum.GetValues<SettingType>()
            .Select(t => new StepKind(
                "k" + t,
                t.ToString(),
                Lane.Systems,
                "ridgeboard",
                [
                    new("it", "Setting", t)
                    {
                        List = "l",
                        Choices = [new("one", "One"), new(StepKinds.Nobody, "Nobody")],
                    },
                    new("may", "Other", t, Optional: true) { List = "l", OnlyIf = new("it", "one") },
                ],
                ["url"]
            )
            {
                ResultsFrom = t == SettingType.Pairs ? "it" : null,
            })
            .ToList();
        var around = Around() with
        {
            Steps = new(kinds),
            Files = ["f1", "f2"],
            Fuses = ["fu"],
            Connections =
            [
                new("c1", "ridgeboard", "Ride desk"),
                new("c2", "copperline", "Copperline", "its key was taken back"),
                new("c3", "copperline", "Second"),
            ],
            Lists = new Dictionary<string, IReadOnlyList<ListItem>>
            {
                ["s.it"] = [new("a", "A", Required: true), new("b", "B")],
            },
        };
        string[] values =
        [
            "",
            " ",
            "x",
            "one",
            StepKinds.Nobody,
            "owner",
            "team",
            "owner, team",
            Me,
            Me + ", x",
            "#ride-desk",
            "imke.sandoval",
            "fleet_size",
            "fleet_size, answers",
            "name,nothing",
            "answers",
            "f1",
            "f1, f2",
            "f1,f9",
            "fu",
            "Spoken",
            "a",
            "one,two",
            "one, one",
            new string('t', 40),
            new string('t', 41),
            "a,b",
            "{{ lead.first_name }}",
            "{{ lead.none }}",
            "{{ lead.first_name",
            "{\"a\":\"{{ lead.first_name }}\"}",
            "{\"a\":",
            "{{ steps.s.url }}",
            "{{ steps.t.url }}",
            "{{ steps.t.n }}",
            "{{ steps.q.url }}",
            "{{ tracking.gclid }}",
            "{{ reply.choice }} {{ choices }}",
        ];
        Step Made(string id, string kind, params (string, string)[] settings) =>
            new(id, "A step", kind, StepMoment.AtOnce, settings.ToDictionary(s => s.Item1, s => s.Item2));
        IEnumerable<(string Name, Step Step)> steps =
        [
            .. kinds.SelectMany(k => values.Select(v => ($"{k.Key} {v}", Made("s", k.Key, ("it", v), ("may", v))))),
            .. kinds.SelectMany(k =>
                new[] { "a", "b", "c" }.Select(c =>
                    ($"{k.Key} .{c}", Made("s", k.Key, ("it." + c, "{{ lead.first_name }}")))
                )
            ),
            .. new[]
            {
                StepKinds.Email,
                StepKinds.TeamEmail,
                StepKinds.Text,
                StepKinds.ChannelPost,
                StepKinds.RingThrough,
                StepKinds.DirectPost,
            }.SelectMany(k =>
                new[]
                {
                    "from",
                    "reply",
                    "picture",
                    "team-sees",
                    "lead-sees",
                    StepKinds.Copies,
                    "subject",
                    "words",
                    "links",
                    "attempts",
                    StepKinds.Connection,
                }.SelectMany(s =>
                    new[]
                    {
                        "x",
                        "imke@brackenwheel.example",
                        "Imke <imke@brackenwheel.example>",
                        "a@example.com; b",
                        "a@example.com, b@example.com",
                        "+447700900512",
                        "https://brackenwheel.example/b.png",
                        "ftp://b",
                        "/b.png",
                        "c2",
                        "c1",
                        "{{ lead.none }}",
                    }.Select(v =>
                        (
                            $"{k} {s}={v}",
                            Made(
                                "s",
                                k,
                                ("words", "Hello"),
                                ("subject", "S"),
                                ("channel", "#ride-desk"),
                                ("person", "imke.sandoval"),
                                ("colleague", "owner"),
                                ("colleagues", "owner")
                            )
                                is var step
                                ? step with
                                {
                                    Settings = new Dictionary<string, string>(step.Settings) { [s] = v },
                                }
                                : step
                        )
                    )
                )
            ),
            .. Enumerable
                .Range(0, 12)
                .Select(n =>
                    (
                        $"choices {n}",
                        Text("s", words: n % 2 == 0 ? "{{ choices }}" : "x") with
                        {
                            Choices =
                            [
                                .. Enumerable.Range(0, n).Select(c => $"c{c}{(c == 3 ? "{{ lead.none }}" : "")}"),
                            ],
                        }
                    )
                ),
            ("choices of a post", Post("s") with { Choices = ["a"] }),
            (
                "instead of itself",
                Post("s") with
                {
                    OnFailure = new(RetryProfile.Usual, FailureThen.Instead, Step: "s"),
                }
            ),
            ("instead of none", Post("s") with { OnFailure = new(RetryProfile.Usual, FailureThen.Instead, Step: "q") }),
            (
                "instead of another",
                Post("s") with
                {
                    OnFailure = new(RetryProfile.Usual, FailureThen.Instead, Step: "t"),
                }
            ),
            (
                "tell somebody gone",
                Post("s") with
                {
                    OnFailure = new(RetryProfile.Usual, FailureThen.Tell, Person: "gone"),
                }
            ),
            (
                "tell the owner",
                Post("s") with
                {
                    OnFailure = new(RetryProfile.Usual, FailureThen.Tell, Person: "owner"),
                }
            ),
            (
                "when it waits for itself",
                Post("s") with
                {
                    When = new(RuleMatch.All, [new("steps.s.status", RuleOp.OneOf, ["done"])]),
                }
            ),
            .. new[] { "+447700900512", "2 bikes" }.Select(v =>
                (
                    $"rules of {v}",
                    Post("s") with
                    {
                        When = new(
                            RuleMatch.All,
                            [
                                .. Enumerable
                                    .Range(0, 49 + v.Length % 3)
                                    .Select(_ => new Rule("fleet_size", RuleOp.OneOf, [v])),
                            ]
                        ),
                    }
                )
            ),
        ];
        var other = Made("t", "kPairs", ("it.n", "1"));
        Hold(
            "settings",
            steps
                .SelectMany(one =>
                {
                    var fuse = Fuse(Whenever(one.Step, other));
                    var faults = FuseFaults
                        .Find(fuse, around)
                        .Where(f => f.StepId == "s")
                        .Select(f => $"{f.Code} {f.About}: {f.What}")
                        .ToList();
                    var line = FuseLine.Of(
                        Guid.Empty,
                        null,
                        FuseStanding.Armed,
                        fuse,
                        around,
                        new(SendHours, SendHours, London, "GB"),
                        Noon
                    );
                    return new[]
                    {
                        faults.Count == 0 ? "" : Lines(one.Name, Short(Say(faults), 300)),
                        line.Needs.Count + line.Asks.Count == 0
                            ? ""
                            : Lines(one.Name, "needs", line.Needs.Select(n => $"{n.Field} {n.Why} {n.AtOnce?.Count}")),
                        Lines(one.Name, FuseFaults.UsesOf(one.Step, around.Steps)) is var uses
                        && uses.EndsWith("[]", StringComparison.Ordinal)
                            ? ""
                            : uses,
                        Mark(Say(line.Services.Select(s => $"{s.Name} {Say(s.Connections)} {Say(s.Cuts)}"))),
                    };
                })
                .Where(l => l.Length > 0)
                .Chunk(3)
                .Select(three => string.Join(" ‖ ", three))
        );
    }

    [Fact]
    public void Sentences_of_every_event_with_and_without_details()
    {
        string[] details = ["form", "source", "meaning", "choice", "tag", "stage", "field", "connection"];
        Hold(
            "events",
            EventCatalog
                .Plain.All.SelectMany(e =>
                    details.SelectMany(d =>
                        new[] { 0, 1, 2, 3 }.Select(n =>
                        {
                            var only = new Dictionary<string, IReadOnlyList<string>>
                            {
                                [d] = [.. new[] { "one", "two", "three" }.Take(n)],
                                ["other"] = n == 1 ? ["x"] : [],
                            };
                            var fuse = new FuseDefinition
                            {
                                Name = "A fuse",
                                LitBy = [new(e.Key, only)],
                                Bands =
                                [
                                    new(
                                        "b",
                                        "Band",
                                        new(EntryKind.On, Event: e.Key, Only: only),
                                        [
                                            Text("a"),
                                            Post("p"),
                                            .. Enumerable
                                                .Range(0, n)
                                                .Select(i =>
                                                    Text($"t{i}", 60 * i, new string('w', 40)) with
                                                    {
                                                        Kind = StepKinds.Email,
                                                    }
                                                ),
                                        ]
                                    ),
                                ],
                            };
                            return Lines(
                                e.Key,
                                d,
                                n,
                                Short(FuseSentence.Say(fuse), 200),
                                FuseSentence.Name(fuse, EventCatalog.Plain, k => k + new string('n', 80 + (n * 5)))
                            );
                        })
                    )
                )
                .Distinct()
                .Chunk(4)
                .Select(four => Short(string.Join(" ‖ ", four), 500))
                .Concat(
                    new[] { "", "New" }.SelectMany(b =>
                        new[] { "", "Won", "New" }.Select(a =>
                            Lines(
                                b,
                                a,
                                LeadChanging.FieldChanged("stage", b, a, Noon),
                                LeadChanging.StageReached(b, a, Noon)
                            )
                        )
                    )
                )
        );
    }

    [Fact]
    public void What_silent_steps_make_of_a_lead()
    {
        LeadStanding lead = new(
            new Dictionary<string, string>
            {
                ["phone"] = "+447700900123",
                ["company"] = "Pemberton",
                ["fleet_size"] = "25+",
            },
            ["hot", "vip"],
            "New"
        );
        LeadField[] own =
        [
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "25+"]),
            new("start", "Start", LeadFieldType.Date, []),
            new("bikes", "Bikes", LeadFieldType.Number, []),
        ];
        string[] values =
        [
            "",
            " ",
            "HOT",
            "hot",
            "vip",
            "cold",
            "New",
            "Won",
            "25+",
            "1-3",
            "07700 900 123",
            "07700 900999",
            "00000",
            "Ines@Example.com ",
            "no mail",
            "24.12.2026",
            "1,200",
            "twelve",
            "Pemberton",
        ];
        string[] kinds = [StepKinds.Tag, StepKinds.Untag, StepKinds.SetStage, StepKinds.SetField, StepKinds.Text];
        string[] fields = ["phone", "email", "company", "fleet_size", "start", "bikes", "nobody_described"];
        Hold(
            "changes",
            (
                from kind in kinds
                from value in values
                from field in kind == StepKinds.SetField ? fields : [""]
                from minds in new[] { 0, 1, 2 }
                select Lines(
                    kind,
                    field,
                    value,
                    minds,
                    LeadChanging.Decide(
                        kind,
                        new Dictionary<string, string>
                        {
                            ["tag"] = value,
                            ["stage"] = value,
                            ["field"] = field,
                            ["value"] = value,
                        },
                        lead,
                        k => own.FirstOrDefault(f => f.Key == k),
                        "GB",
                        Noon,
                        minds switch
                        {
                            0 => null,
                            1 => _ => true,
                            _ => _ => false,
                        }
                    )
                        is { } change
                        ? $"{change.Words} {Mark(Say(change.Now))} {Say(change.Happened.Select(h => h.Because))}"
                        : "–"
                )
            )
                .Chunk(3)
                .Select(three => string.Join(" ‖ ", three))
        );
    }

    [Fact]
    public void Fields_by_their_names_their_neighbours_and_what_was_typed()
    {
        string[] parts =
        [
            "your",
            "name",
            "first",
            "last",
            "email",
            "mail",
            "phone",
            "tel",
            "mobile",
            "company",
            "contact",
            "full",
            "work",
            "post",
            "code",
            "city",
            "message",
            "vor",
            "nach",
            "telefon",
            "firma",
            "question",
            "field",
            "input",
            "q",
            "number",
        ];
        string[] shapes =
        [
            .. parts,
            .. parts.SelectMany(a => parts.Where(b => b != a).SelectMany(b => new[] { a + b, a + "_" + b })),
            "f1",
            "field_12",
            "q7",
            "input_3",
            "x",
            "entry.123",
            "name[first]",
            "vorname",
            "nachname",
            "strasse",
            "größe",
        ];
        IReadOnlyList<string>[] typed =
        [
            ["ines@example.com"],
            ["ines@example.com", "x", "y", "z", "hal@example.org"],
            ["a@example.com", "b@example.com", "c@example.com", "d@example.com", "not at all"],
            ["a@example.com", "b@example.com", "c@example.com", "no", "none"],
            ["07700 900123", "0113 496 0001"],
            ["07700 900123", "07700 900124", "07700 900125", "07700 900126", "x"],
            ["07700 900123", "x", "y"],
            ["1234567", "12345678"],
            ["+441134960001 ext"],
            ["24/12/2026", "25/12/2026"],
            ["", ""],
            ["12345"],
            ["123456"],
            ["@"],
            ["LS1 4DY"],
            ["Ines Calloway"],
            ["077009001234567", "0770090012345678"],
        ];
        LeadField[] own =
        [
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "25+"]),
            new("start_month", "Start month", LeadFieldType.Date, []),
        ];
        Precedent[] before =
        [
            new("One", "q7", "Anything else?", "message"),
            new("Two", "q7", "Anything else?", "company"),
            new("Three", "xy", "Wann?", "start_month"),
            new("Four", "zz", "Wann?", "message"),
            new("Five", "ab", "a", "phone"),
        ];
        static SeenField Seen(string name, string? label = null, IReadOnlyList<string>? samples = null) =>
            new(name, label ?? name, FormFieldType.Text, [], null, samples ?? []);
        string Of(params SeenField[] fields) =>
            string.Join(
                " ",
                MapSuggester
                    .Suggest(fields, own, before, "GB")
                    .Select(s =>
                        string.Create(
                            System.Globalization.CultureInfo.InvariantCulture,
                            $"{s.LeadField ?? "–"} {s.Confidence:0.000}"
                        )
                    )
            );
        Hold(
            "fields",
            shapes
                .Select(s => $"{s} {Of(Seen(s))}")
                .Chunk(6)
                .Select(six => string.Join(" │ ", six))
                .Concat(
                    typed.SelectMany(t =>
                        new[] { "q", "email", "phone", "contact", "xy" }.Select(n =>
                            Lines(n, t, Of(Seen(n, samples: t)))
                        )
                    )
                )
                .Concat(
                    new[]
                    {
                        "name",
                        "nom",
                        "first_name",
                        "prenom",
                        "vorname",
                        "last_name",
                        "email",
                        "e-mail 2",
                        "phone",
                        "mobile",
                    }
                        is var names
                        ? names.SelectMany(a => names.Where(b => b != a).Select(b => Lines(a, b, Of(Seen(a), Seen(b)))))
                        : []
                )
                .Concat(
                    new[]
                    {
                        "q7",
                        "Anything else?",
                        "Wann?",
                        "a",
                        "ab",
                        "abc",
                        "How large is your fleet?",
                        "fleet size",
                        "start month",
                        "start",
                    }.Select(l => Lines(l, Of(Seen("n1", l)), Of(Seen(l)), Of(Seen("q7", l))))
                )
                .Concat(
                    new[]
                    {
                        "Start month",
                        "",
                        "1",
                        "a",
                        "Ünal's größe",
                        new string('k', 59),
                        new string('k', 60),
                        new string('k', 61),
                        new string('k', 59) + " x",
                        "9 lives",
                        "_x_",
                        "日本",
                    }.Select(l => Lines(l, LeadField.KeyFor(l)))
                )
        );
    }

    [Fact]
    public void Numbers_kept_free_and_rows_that_are_ragged()
    {
        string[] prefixes =
        [
            "+447700900",
            "+442079460",
            "+441134960",
            "+441174960",
            "+442920180",
            "+441632960",
            "+3532091",
            "+1604555",
            "+1212555",
            "+49301234",
            "+4420794",
        ];
        string[][][] tables =
        [
            [
                ["Name", "Email", "Phone"],
                ["Ines"],
                ["Hal", "hal@example.org"],
                ["Bo", "bo@example.com", "07700 900123", "more"],
                [],
            ],
            [
                ["31/12/2026"],
                ["1/2/2026"],
                ["32/1/2026"],
            ],
            [
                ["When"],
                ["31.12.26"],
                ["99/1/2"],
                ["1/2/32"],
            ],
            [
                ["a", "b"],
                ["1899-01-01", "2200-01-01"],
                ["1900-01-01", "2201-01-01"],
            ],
        ];
        string[] junk =
        [
            new string('a', 29),
            string.Concat(Enumerable.Repeat("six bikes ", 3)).Trim(),
            string.Concat(Enumerable.Repeat("six bikes ", 3)),
            string.Concat(Enumerable.Repeat("six bikes ", 3)) + "x",
            "asdfghjkl " + new string('x', 29),
            "asdfghjkl " + new string('x', 30),
            "qwertz" + new string(' ', 33),
            "qwertz" + new string('-', 34),
        ];
        static bool Open(HoursLaw law, int day, int minute) =>
            law.Hours.Any(h => h.IsOpen(new LocalDate(2026, 11, 22 + day).At(new(minute / 60, minute % 60))));
        Hold(
            "bounds",
            prefixes
                .SelectMany(p =>
                    Enumerable
                        .Range(1, 5)
                        .Select(n => p + "012345"[..n])
                        .Select(e => Lines(e, FictionalNumbers.CountryOf(e), PhoneReader.Read(e, "GB").Phone))
                )
                .Concat(
                    tables.SelectMany(t =>
                        new[] { "GB", "US" }.Select(c =>
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
                    new[] { "name;\"a;b\nc,d,e,f\";x\n1;2;3", "\"a,b\nc\";d\n\"e,f\ng\";h", "a,b\n\"1;2;3\",x" }.Select(
                        h => Lines(h, FileLook.DelimiterOf(h).ToString())
                    )
                )
                .Concat(
                    from law in HoursLaw.Calls.Concat(HoursLaw.Texts)
                    from day in Enumerable.Range(1, 7)
                    select Lines(
                        law.Key,
                        day,
                        law.Value.Name,
                        Enumerable
                            .Range(0, 24 * 60 + 1)
                            .Where(m => Open(law.Value, day, m % 1440) != Open(law.Value, day, (m + 1439) % 1440))
                            .Select(m => $"{m / 60}:{m % 60:00}")
                    )
                )
                .Concat(
                    Enumerable
                        .Range(0, 20)
                        .Select(s =>
                            Lines(
                                s,
                                MadeUpAnswers.For(
                                    [
                                        new("c", "C", FormFieldType.Choice, true, [], null),
                                        new("cs", "Cs", FormFieldType.Choices, true, ["one"], null),
                                        new("no", "No", FormFieldType.Choices, true, [], null),
                                        new("d", "D", FormFieldType.Date, true, [], null),
                                        new("n", "N", FormFieldType.Number, true, [], null),
                                    ],
                                    "GB",
                                    new Random(s)
                                )
                            )
                        )
                )
                .Concat(
                    new[]
                    {
                        "31/12/2026",
                        "32/1/2026",
                        "31/1/2",
                        "12/31/99",
                        "1/2/100",
                        "2026/2/29",
                        "2028/2/29",
                        "0/1/2026",
                        "1/0/2026",
                        "1/13/2026",
                        "12345/1/2",
                        "1/2",
                        "31.12.2026 25:00",
                        "31.12.2026 23:59:59Z",
                    }.SelectMany(m =>
                        Enum.GetValues<DateOrder>().Select(o => Lines(m, o.ToString(), FileLook.Moment(m, o)))
                    )
                )
                .Concat(
                    junk.Select(j =>
                        Lines(
                            j,
                            JunkScore.OwnWords(
                                Payload.FromPairs([new("message", j), new("landing_page", j + " and more words")])
                            ),
                            GibberishSigns.Of(j)
                        )
                    )
                )
                .Concat(
                    new[] { "$['a\\'b']", "$['a\\\\b'].c", "$['a", "$['a']['b\\'']", "$['']", "$[''", "$['a\\" }.Select(
                        p =>
                            Lines(
                                p,
                                Picks.Fault(p),
                                Picks
                                    .Read(
                                        [new(p, "x")],
                                        "{\"a'b\":1,\"a\\\\b\":{\"c\":2},\"a\":{\"b'\":3},\"\":4}"u8.ToArray()
                                    )
                                    .Answers
                            )
                    )
                )
                .Concat(
                    new[]
                    {
                        "a\n--\nb",
                        "On x wrote:\nb",
                        "a\nOn Monday Imke\nwrote:\nb",
                        "a\n\nb",
                        ">x\na",
                        "\nOn Monday Imke wrote:",
                        "a\n-- \nb",
                        "a\n---\nb",
                        new string('l', 30000),
                    }.Select(l => Lines(Short(l, 40), Short(LetterReply.WordsOf(l), 60)))
                )
        );
    }
}

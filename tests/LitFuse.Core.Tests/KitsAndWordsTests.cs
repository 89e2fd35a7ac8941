using LitFuse.Bench;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Kits;
using LitFuse.Core.Replies;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

public sealed class KitsAndWordsTests
{
    private const string Imke = "01a20fdf-0000-7000-8000-000000000001";

    private static readonly KitSurroundings Brackenwheel = new(
        ["brackenwheel-test-ride"],
        [
            new("fleet_size", "Fleet size", ["1–3", "4–9", "10–24", "25+"], FactType.Choice),
            new("start_month", "Start month", [], FactType.Date),
        ],
        ["#ride-desk"],
        ["imke.sandoval"],
        [Imke],
        ["New", "Spoken", "Won"]
    );

    public static TheoryData<string> Keys() => [.. StarterKits.All.Select(k => k.Key)];

    [Theory]
    [MemberData(nameof(Keys))]
    public void Each_kit_can_be_armed_as_it_is_made(string key)
    {
        var around = Around() with { };
        around = around with
        {
            Fields = [.. around.Fields, new("start_month", []), new("phone", []), new("last_name", [])],
        };
        Assert.Empty(FuseFaults.Find(StarterKits.Find(key)!.Build(Brackenwheel), around));
    }

    [Theory]
    [MemberData(nameof(Keys))]
    public void Each_kit_is_made_also_for_a_client_that_has_nothing(string key)
    {
        var fuse = StarterKits.Find(key)!.Build(new([], [], [], [], [], []));
        Assert.NotEmpty(fuse.Name);
        CompiledFuse.From(fuse);
    }

    [Fact]
    public void There_are_ten_and_they_have_names_of_their_own()
    {
        Assert.Equal(10, StarterKits.All.Count);
        Assert.Equal(10, StarterKits.All.Select(k => k.Build(Brackenwheel).Name).Distinct().Count());
        Assert.Null(StarterKits.Find("none"));
        Assert.Equal(
            "Large and small by fleet size ask different people",
            StarterKits.Find("by-size")!.Build(Brackenwheel).Name
        );
    }

    [Theory]
    [InlineData("24 12:00:00", "open-post,open-text")] // a Tuesday at noon
    [InlineData("24 23:00:00", "night,morning,morning-text")]
    [InlineData("28 12:00:00", "night,morning,morning-text")] // a Saturday
    public void Out_of_hours_keeps_its_promise(string at, string sent)
    {
        var life = new BurnLife(StarterKits.Find("out-of-hours")!.Build(Brackenwheel), At(at)).Pass(
            Duration.FromDays(4)
        );
        Assert.Equal(sent, string.Join(',', life.Sent));
    }

    [Fact]
    public void Four_letters_over_nine_days_end_with_the_first_reply()
    {
        var fuse = StarterKits.Find("four-letters")!.Build(Brackenwheel);
        Assert.Equal(["l1", "l2", "l3", "l4"], new BurnLife(fuse, At("04 12:00:00")).Pass(Duration.FromDays(12)).Sent);
        var life = new BurnLife(fuse, At("04 12:00:00")).Pass(Duration.FromDays(3));
        Assert.Equal(["l1", "l2"], life.Replies("Could we meet?").Pass(Duration.FromDays(12)).Sent);
    }

    private static string Render(string words, WordFacts? facts = null) =>
        MessageWords
            .Parse(words)
            .Words!.Render(
                facts
                    ?? Lead().Words with
                    {
                        Now = At("24 09:41:00"),
                        Zone = London,
                        WorkDays = [.. OpenHours.EveryDay.Take(5)],
                        Currency = "GBP",
                        Country = "GB",
                        Lead = new Dictionary<string, string>
                        {
                            ["name"] = "ines van der berg",
                            ["phone"] = "+447700900123",
                            ["budget"] = "1200",
                            ["paid"] = "99.5 EUR",
                            ["day"] = "2026-12-04",
                            ["cargo"] = "food, tools, people",
                            ["empty"] = "",
                        },
                    }
            )
            .Text;

    [Theory]
    [InlineData("{{ now | day }}", "Tuesday 24 November")]
    [InlineData("{{ now | clock }}", "09:41")]
    [InlineData("{{ now | add_working_days: 4 | day }}", "Monday 30 November")]
    [InlineData("{{ now | add_days: 2 | day }}", "Thursday 26 November")]
    [InlineData("{{ now | in_zone: \"America/Toronto\" }}", "24 November, 04:41")]
    [InlineData("{{ lead.day | day }}", "Friday 4 December")]
    [InlineData("{{ lead.day | add_days: -7 }}", "2026-11-27")]
    [InlineData("{{ lead.budget | money }}", "£1,200")]
    [InlineData("{{ lead.paid | money }}", "€99.50")]
    [InlineData("{{ lead.budget | money: \"CAD\" }}", "CA$1,200")]
    [InlineData("{{ lead.name | name_case }}", "Ines van der Berg")]
    [InlineData("{{ lead.name | first_name | name_case }}", "Ines")]
    [InlineData("{{ lead.name | initials }}", "IVDB")]
    [InlineData("{{ lead.phone | phone }}", "07700 900123")]
    [InlineData("{{ lead.phone | phone: \"CA\" }}", "+44 7700 900123")]
    [InlineData("{{ lead.cargo | list }}", "food, tools and people")]
    [InlineData(
        "{{ lead.empty | day }}{{ lead.gone | money }}{{ lead.gone | phone }}|{{ lead.gone | default: \"there\" }}",
        "|there"
    )]
    [InlineData("{{ lead.name | day }}", "ines van der berg")] // what cannot be read stays as it was
    public void Filters(string words, string rendered) => Assert.Equal(rendered, Render(words));

    [Fact]
    public void Answers_are_a_tidy_block_with_empties_left_out()
    {
        var facts = Lead().Words with
        {
            Answers = [new("How many bikes?", "25+"), new("Depot", ""), new("What do you carry", "food")],
            Choices = ["Tuesday", "Friday"],
        };
        Assert.Equal("Asked:\nHow many bikes? 25+\nWhat do you carry: food", Render("Asked:\n{{ answers }}", facts));
        Assert.Equal("25+;food;", Render("{% for a in answers %}{{ a.value }};{% endfor %}", facts));
        Assert.Equal("1) Tuesday\n2) Friday", Render("{{ choices }}", facts));
        Assert.Equal("2", Render("{{ answers.size }}", facts));
    }

    [Theory]
    [InlineData("tags", RuleOp.HasAll, "vip|big", "Big, VIP, new", true)]
    [InlineData("tags", RuleOp.HasAll, "vip|big", "vip", false)]
    [InlineData("tags", RuleOp.OneOf, "vip", "big, vip", true)]
    [InlineData("x", RuleOp.NotContains, "food", "hot food", false)]
    [InlineData("x", RuleOp.StartsWith, "zürich", "Zurich West", true)] // without accents
    [InlineData("x", RuleOp.Between, "5|10", "7.5", true)]
    [InlineData("x", RuleOp.AtLeast, "1000", "1200 USD", true)]
    [InlineData("x", RuleOp.Before, "today", "2026-11-23", true)]
    [InlineData("x", RuleOp.After, "2026-11-24", "2026-11-24", false)]
    [InlineData("x", RuleOp.InNextDays, "7", "2026-12-01", true)]
    [InlineData("x", RuleOp.InNextDays, "7", "2026-12-02", false)]
    [InlineData("x", RuleOp.InLastDays, "7", "2026-11-20", true)]
    [InlineData("x", RuleOp.InLastDays, "7", "2026-11-25", false)]
    [InlineData("x", RuleOp.Yes, "", "ja", true)]
    [InlineData("x", RuleOp.No, "", null, true)]
    public void Every_way_of_comparing(string field, RuleOp op, string values, string? value, bool holds)
    {
        var guard = Guard
            .Compile(new(RuleMatch.All, [new(field, op, values.Split('|', StringSplitOptions.RemoveEmptyEntries))]))
            .Guard!;
        Assert.Equal(holds, guard.Ask(new GuardFacts(_ => value, new LocalDate(2026, 11, 24))).Holds);
    }

    [Fact]
    public void Groups_stand_in_groups_and_say_why()
    {
        var rules = new RuleSet(
            RuleMatch.All,
            [new("fleet_size", RuleOp.Filled, [])],
            [
                new(
                    RuleMatch.Any,
                    [new(Facts.Weekday, RuleOp.OneOf, ["Saturday", "Sunday"]), new(Facts.WorkingHours, RuleOp.No, [])]
                ),
            ]
        );
        var answer = Guard.Compile(rules).Guard!.Ask(Lead().ForGuards(At("28 12:00:00")));
        Assert.True(answer.Holds);
        Assert.Equal(
            "fleet size was 25+, filled in; (weekday was Saturday, one of Saturday, Sunday; it is working hours was no, no)",
            answer.Because
        );
        Assert.Equal(
            "fleet size is filled in and (weekday is one of Saturday, Sunday or it is working hours is no, or empty)",
            Guard.Say(rules)
        );
        var deep = Enumerable
            .Range(0, 8)
            .Aggregate(new RuleSet(RuleMatch.All, [new("a", RuleOp.Filled, [])]), (inner, _) =>
                new(RuleMatch.All, [], [inner])
            );
        Assert.Contains("too deep", Guard.Compile(deep).Faults[0], StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("+16045550123", "CA", null, null, "America/Vancouver", "by their number's area code")]
    [InlineData("+14165550123", "CA", "V6B 1A1", null, "America/Vancouver", "by their postcode")]
    [InlineData("+13125550123", "US", "90210", null, "America/Los_Angeles", "by their postcode")]
    [InlineData("+447700900123", "GB", "L1 1AA", null, "Europe/London", "by their number's country")]
    [InlineData(null, null, null, "Asia/Tokyo", "Asia/Tokyo", "they said so")]
    [InlineData(null, null, "L1 1AA", null, "Europe/Dublin", "the client's own")]
    public void The_zone_says_what_told_it(
        string? phone,
        string? country,
        string? postcode,
        string? said,
        string zone,
        string because
    )
    {
        var fields = new Dictionary<string, string>();
        if (postcode is not null)
            fields["postcode"] = postcode;
        if (said is not null)
            fields["time_zone"] = said;
        Assert.Equal(new ZoneReading(zone, because), LeadZone.Read(phone, country, fields, "Europe/Dublin"));
    }

    [Theory]
    [InlineData("US", "24 13:30:00", true)] // 08:30 in New York
    [InlineData("US", "24 12:30:00", false)]
    [InlineData("CA", "28 14:30:00", false)] // a Saturday, 09:30 in Toronto
    [InlineData("GB", "24 11:30:00", false)]
    public void The_law_s_hours_by_country(string country, string at, bool open) =>
        Assert.Equal(
            open,
            OpenTimes.AnyOpen(
                HoursLaw.For(Voice.Text, country).Hours,
                At(at).InZone(DateTimeZoneProviders.Tzdb["America/New_York"]).LocalDateTime
            )
        );

    [Fact]
    public void Several_sides_open_together_or_never_each_on_its_own_clock()
    {
        OpenHours early = new(new(6, 0), new(9, 0), OpenHours.EveryDay),
            late = new(new(8, 0), new(20, 0), [IsoDayOfWeek.Friday]),
            night = new(new(21, 0), new(22, 0), OpenHours.EveryDay);
        Assert.Equal(At("27 08:00:00"), OpenTimes.Next(early, London, [late], London, At("24 12:00:00")));
        Assert.Null(OpenTimes.Next(early, London, [night], London, At("24 12:00:00")));
        Assert.Null(OpenTimes.Next(early with { Days = [] }, London, null, London, At("24 12:00:00")));
        Assert.Equal(
            At("25 13:00:00"),
            OpenTimes.Next(
                new(new(6, 0), new(18, 0), OpenHours.EveryDay),
                London,
                [new(new(8, 0), new(12, 30), OpenHours.EveryDay)],
                DateTimeZoneProviders.Tzdb["America/New_York"],
                At("24 18:30:00")
            )
        );
        Assert.Equal(At("24 21:00:00"), OpenTimes.Next(null, London, [night], London, At("24 12:00:00")));
    }

    [Fact]
    public void The_next_time_a_clock_shows_an_hour_is_after_now_whatever_the_clock_skips()
    {
        // London, 29 March 2026: 01:00 is followed by 02:00, which is 01:00 in UTC.
        LocalTime half = new(1, 30);
        var jump = Instant.FromUtc(2026, 3, 29, 1, 0);
        Assert.Equal(jump, London.NextAt(half, jump - Duration.FromSeconds(1)));
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 30), London.NextAt(half, jump));
        Assert.Equal(Instant.FromUtc(2026, 3, 28, 1, 30), London.NextAt(half, Instant.FromUtc(2026, 3, 28, 1, 29)));
        Assert.Equal(jump, London.NextAt(half, Instant.FromUtc(2026, 3, 28, 1, 30)));
    }

    [Fact]
    public void A_clock_shows_what_it_shows_on_the_days_it_is_put_forward_and_back_too()
    {
        foreach (
            var zone in new[]
            {
                London,
                DateTimeZoneProviders.Tzdb["America/St_Johns"],
                DateTimeZoneProviders.Tzdb["Australia/Lord_Howe"],
                DateTimeZone.Utc,
            }
        )
        {
            for (var hour = 0; hour < 366 * 24; hour++)
            {
                var local = new LocalDateTime(2026, 1, 1, 0, 30).PlusHours(hour);
                var shown = zone.MapLocal(local);
                Assert.Equal(shown.Count == 0 ? shown.EarlyInterval.End : shown.First().ToInstant(), zone.Shows(local));
            }
        }
    }

    [Theory]
    [InlineData(ReplyMeaning.Yes)]
    [InlineData(ReplyMeaning.No)]
    [InlineData(ReplyMeaning.Stop)]
    public void What_replies_mean_is_read_rightly_on_the_half_held_out(ReplyMeaning meaning)
    {
        var (replies, languages, scores, _) = LabelledReplies.Score(
            System.IO.Path.Combine(Root.Path, "bench/replies/replies.txt"),
            heldOut: true
        );
        Assert.True(replies >= 300 && languages >= 6);
        var score = scores.Single(s => s.Meaning == meaning);
        Assert.True(
            score.Precision >= 0.97 && score.Recall >= 0.9,
            $"{score} {score.Precision:0.000} {score.Recall:0.000}"
        );
    }

    [Theory]
    [InlineData("", "other")]
    [InlineData("no problem", "yes")]
    [InlineData("yes but not before noon", "other")]
    [InlineData("stop by on friday", "other")]
    [InlineData("No, it is fine, thanks", "no")]
    public void Replies_that_could_be_taken_wrongly(string text, string meaning) =>
        Assert.Equal(meaning, ReplyReader.Read(text, []).Meaning.ToString().ToLowerInvariant());
}

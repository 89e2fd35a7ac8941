using System.Text.Json;
using LitFuse.Core.Continuity;
using LitFuse.Core.Delivering;
using LitFuse.Core.Drift;
using LitFuse.Core.Files;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Tests.Continuity;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>Each limit of the core at what is just allowed and at what is just too much; each text at its last character.</summary>
public sealed class BoundTests
{
    private static readonly Dictionary<string, string> Empty = [];

    [Fact]
    public void Hours_that_the_clock_skips_are_no_hours_of_that_day()
    {
        // London, 29 March 2026: 01:00 is followed by 02:00.
        OpenHours skipped = new(new(1, 0), new(2, 0), OpenHours.EveryDay), half = new(new(1, 30), new(2, 30), OpenHours.EveryDay);
        var night = Instant.FromUtc(2026, 3, 28, 23, 0);
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 0), skipped.NextOpen(night, London));
        Assert.Equal(Instant.FromUtc(2026, 3, 29, 1, 0), half.NextOpen(night, London));
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 45), skipped.AfterOpenTime(night, Duration.FromMinutes(45), London));
        Assert.Equal(Instant.FromUtc(2026, 3, 30, 0, 45), half.AfterOpenTime(night, Duration.FromMinutes(45), London));
    }

    [Fact]
    public void Time_that_is_open_is_counted_from_opening_to_closing()
    {
        OpenHours sunday = new(new(10, 0), new(12, 0), [IsoDayOfWeek.Sunday]);
        var closed = Instant.FromUtc(2026, 11, 22, 12, 0);
        Assert.Equal(Instant.FromUtc(2026, 11, 29, 10, 0), sunday.NextOpen(closed, London));
        Assert.Equal(Instant.FromUtc(2026, 11, 29, 12, 0), sunday.AfterOpenTime(closed, Duration.FromHours(2), London));
        Assert.Equal(Instant.FromUtc(2026, 12, 6, 10, 1), sunday.AfterOpenTime(closed, Duration.FromMinutes(121), London));
        Assert.Equal(closed + Duration.FromHours(2), (sunday with { Days = [] }).AfterOpenTime(closed, Duration.FromHours(2), London));
        Assert.Null((sunday with { To = new(10, 0) }).NextOpen(closed, London));
        Assert.Equal(Instant.FromUtc(2026, 12, 6, 10, 0), (sunday with { Closed = new HashSet<LocalDate> { new(2026, 11, 29) } }).NextOpen(closed, London));
    }

    [Theory]
    [InlineData(null, null, "Europe/London", "the client's own")]
    [InlineData(null, "GB", "Europe/London", "by their number's country")]
    [InlineData("+442079460000", "GB", "Europe/London", "by their number's country")]
    [InlineData("+16045550123", "CA", "America/Toronto", "by their postcode")]
    public void A_zone_is_told_by_the_first_that_tells_it(string? phone, string? country, string zone, string because)
    {
        var read = LeadZone.Read(phone, country, new Dictionary<string, string> { ["postcode"] = "M5V 3L9" }, "Europe/London");
        Assert.Equal((zone, because), (read.Zone, read.Because));
    }

    [Fact]
    public void What_is_not_readable_as_json_is_said_with_its_place() =>
        Assert.StartsWith("not readable as JSON at line 2, byte 4", Payload.FromJson("{\n\"a\"x}"u8.ToArray()).Unreadable, StringComparison.Ordinal);

    [Fact]
    public void A_number_stands_for_no_word()
    {
        Assert.Throws<JsonException>(() => JsonSerializer.Deserialize<EntryKind>("1", CoreJson.Options));
        Assert.Equal(EntryKind.Otherwise, JsonSerializer.Deserialize<EntryKind>("\"otherwise\"", CoreJson.Options));
    }

    [Theory]
    [InlineData(75, 1)]
    [InlineData(76, 2)]
    [InlineData(149, 2)]
    [InlineData(150, 3)]
    public void A_line_of_a_card_has_seventy_five_octets(int octets, int lines)
    {
        const string Property = "litfuse.NOTE:";
        var card = VCard.Write(new CardOf("u", "Ines", null, null) { Note = new string('n', octets - Property.Length) }, At("24 12:00:00")).Split("\r\n");
        var folded = card.SkipWhile(l => !l.StartsWith(Property, StringComparison.Ordinal)).TakeWhile((l, i) => i == 0 || l.StartsWith(' ')).ToList();
        Assert.Equal(lines, folded.Count);
        Assert.All(folded.SkipLast(1), l => Assert.Equal(75, l.Length));
    }

    [Fact]
    public void A_letter_without_blocks_has_no_box_for_them()
    {
        Assert.DoesNotContain("border-top", LetterHtml.Of(new LetterParts("Hello", "T")), StringComparison.Ordinal);
        Assert.Contains("border-top", LetterHtml.Of(new LetterParts("Hello", "T") { Blocks = [new("a", "b")] }), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("a\n  b", "a\nb")]
    [InlineData("a  b", "a b")]
    [InlineData("a , b", "a, b")]
    [InlineData("a \nb", "a\nb")]
    [InlineData("{{ lead.none }} b", "b")]
    [InlineData("a\n{{ lead.none }} b", "a\nb")]
    public void Blanks_that_nobody_sees_are_not_sent(string words, string sent) => Assert.Equal(sent, MessageWords.Parse(words).Words!.Render(Lead().Words).Text);

    [Fact]
    public void Words_may_be_as_long_as_the_longest()
    {
        Assert.Null(MessageWords.Parse(new string('w', MessageWords.Longest)).Fault);
        Assert.NotNull(MessageWords.Parse(new string('w', MessageWords.Longest + 1)).Fault);
    }

    [Theory]
    [InlineData("01.01.69", "2069-01-01")]
    [InlineData("01.01.70", "1970-01-01")]
    [InlineData("1 January 2026", "2026-01-01")]
    [InlineData("31 December 2026", "2026-12-31")]
    [InlineData("1.1.1900", "1900-01-01")]
    [InlineData("1.1.1899", null)]
    [InlineData("1.1.2200", "2200-01-01")]
    [InlineData("1.1.2201", null)]
    [InlineData("29.2.2027", null)]
    [InlineData("0.2.2027", null)]
    public void A_date_is_read_up_to_its_bounds(string typed, string? date)
    {
        var read = ValueReader.Read(typed, new LeadField("start", "Start", LeadFieldType.Date, []), ReadingLocale.For(null, "GB"));
        Assert.Equal(date, read.Fault is null ? read.Value : null);
    }

    [Theory]
    [InlineData("", null)]
    [InlineData("brackenwheel.example", "https://brackenwheel.example")]
    [InlineData("brackenwheel", null)]
    [InlineData("ride desk.example", null)]
    public void An_address_on_the_web_may_come_without_its_beginning(string typed, string? url)
    {
        var read = ValueReader.Read(typed, new LeadField("site", "Site", LeadFieldType.Link, []), ReadingLocale.For(null, "GB"));
        Assert.Equal(url, read.Fault is null ? read.Value : null);
    }

    [Theory]
    [InlineData("xkcd", null)]
    [InlineData("bcdfgx", "bcdfgx")]
    [InlineData("bcd", null)]
    [InlineData("Strengths", null)]
    [InlineData("Schwartz", null)]
    [InlineData("aGeHeR", "aGeHeR")]
    [InlineData("aGeHer", null)]
    [InlineData("McDonald", null)]
    [InlineData("qwerty", "qwerty")]
    public void What_is_no_word_of_any_language_has_signs_of_it(string typed, string? said)
    {
        var why = GibberishSigns.Of(typed);
        if (said is null) Assert.Null(why);
        else Assert.Contains(said, why, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("12a", false, 35)]
    [InlineData("123a", false, 35)]
    [InlineData("1234a", false, 25)]
    [InlineData("12a", true, 25)]
    public void A_number_that_cannot_be_one_weighs_less_where_somebody_tried(string typed, bool email, int score)
    {
        var map = CompiledMap.From(new([new("phone", "phone"), new("email", "email")]), "GB", []);
        var payload = Payload.FromPairs([new("phone", typed), .. email ? [KeyValuePair.Create("email", "ines@example.com")] : Array.Empty<KeyValuePair<string, string>>()]);
        Assert.Equal(score, JunkScore.OfAnswers(JunkReading.Clean, payload, map.Read(payload.Answers), 0).Score);
    }

    [Theory]
    [InlineData("AB", "ab")]
    [InlineData("ABc", "a bc")]
    [InlineData("aB", "a b")]
    [InlineData("a1", "a 1")]
    [InlineData("1a", "1 a")]
    [InlineData("don't", "dont")]
    [InlineData("l'entreprise", "l entreprise")]
    [InlineData("'", "")]
    public void A_text_falls_into_words(string text, string words) => Assert.Equal(words, Tokens.PlainOf(text));

    [Theory]
    [InlineData("a_b", "$.a_b")]
    [InlineData("a1", "$.a1")]
    [InlineData("a b", "$['a b']")]
    [InlineData("a.b", "$['a.b']")]
    [InlineData("", "$['']")]
    [InlineData("a'b", "$['a\\'b']")]
    public void A_place_in_a_body_is_named_as_it_is_read_again(string name, string path)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(new Dictionary<string, string> { [name] = "x" });
        Assert.Equal(path, Assert.Single(Picks.Paths(body)).Field);
        Assert.Equal("x", Assert.Single(Picks.Read([new(path, "it")], body).Answers).Value);
    }

    [Fact]
    public void As_many_answers_are_read_at_one_place_as_a_submission_may_have()
    {
        int Of(int count) => Assert.Single(Picks.Read([new("$.all[*]", "it")], JsonSerializer.SerializeToUtf8Bytes(new { all = Enumerable.Range(0, count) })).Answers).Value.Split(", ").Length;
        Assert.Equal(20, Of(20));
        Assert.Equal(Payload.MostAnswers, Of(Payload.MostAnswers));
        Assert.Equal(Of(Payload.MostAnswers + 1), Of(Payload.MostAnswers + 2));
    }

    [Theory]
    [InlineData("1/2/99", "US", DateOrder.MonthDayYear)]
    [InlineData("25/1/99", "US", DateOrder.DayMonthYear)]
    [InlineData("1/25/99", "GB", DateOrder.MonthDayYear)]
    [InlineData("13/1/31", "US", DateOrder.MonthDayYear)]
    [InlineData("13/1/32", "US", DateOrder.DayMonthYear)]
    [InlineData("13/1/0031", "US", DateOrder.DayMonthYear)]
    [InlineData("12/12/2026", "US", DateOrder.MonthDayYear)]
    [InlineData("12/12/2026", "GB", DateOrder.DayMonthYear)]
    [InlineData("31/1/2026", "US", DateOrder.DayMonthYear)]
    public void Years_of_two_digits_tell_how_dates_stand_where_they_can_be_no_day(string date, string country, DateOrder order) => Assert.Equal(order, FileLook.DatesOf([[date]], country));

    [Fact]
    public void A_campaign_without_a_value_is_none()
    {
        var map = CompiledMap.From(new([new("email", "email")]), "GB", []);
        var read = map.Read([new("utm_source", " "), new("utm_medium", "cpc"), new("other", " "), new("more", "x")]);
        Assert.Equal(["utm_medium"], read.Values.Keys);
        Assert.Equal("x", read.Unmapped["more"]);
    }

    [Theory]
    [InlineData(0, "whatever comes")]
    [InlineData(1, "1 submission waits")]
    [InlineData(2, "2 submissions wait")]
    public void What_waits_for_a_form_is_counted_where_anything_does(int waiting, string says)
    {
        var facts = new Continuity.LineFacts();
        IEnumerable<string> Said(LineForm form) => (facts with { Form = form }).Line().Cuts.Select(c => c.Cause);
        Assert.Contains(Said(facts.Form with { Standing = FormStanding.Paused, Waiting = waiting }), w => w.Contains(says, StringComparison.Ordinal));
        Assert.Contains(Said(facts.Form with { MapVersion = null, Waiting = waiting }), w => w.Contains(says, StringComparison.Ordinal));
    }

    [Fact]
    public void A_network_that_tells_no_fields_says_nothing_of_them()
    {
        FieldMap map = new([new("email", "email"), new("utm_source", "company"), new("", "message", Constant: "x")]);
        DriftSample[] samples = [.. Enumerable.Range(0, 20).Select(n => new DriftSample(At("24 12:00:00") - Duration.FromMinutes(n), new Dictionary<string, string> { ["email"] = "i@example.com" }))];
        DriftForm form = new([], Tells: true, map, [], "GB", new HashSet<string>());
        Assert.Empty(DriftFinder.Find(form, samples));
        Assert.Single(DriftFinder.Find(form with { Fields = [new("other", "Other", FormFieldType.Hidden, false, [])] }, samples), f => f is { Kind: DriftKind.Gone, Field: "email" });
    }

    [Fact]
    public void A_fuse_has_at_most_so_many_bands_and_steps()
    {
        IEnumerable<FuseFaultCode> Of(int bands, int steps) => FuseFaults.Find(Fuse([.. Enumerable.Range(0, bands).Select(b => new Band($"b{b}", $"B{b}", new(EntryKind.Always), [.. Enumerable.Range(0, steps).Select(s => Post($"s{b}_{s}"))]))]), Around()).Select(f => f.Code);
        Assert.DoesNotContain(FuseFaultCode.TooManyBands, Of(50, 1));
        Assert.Contains(FuseFaultCode.TooManyBands, Of(50 + 1, 1));
        Assert.DoesNotContain(FuseFaultCode.TooManySteps, Of(1, 200));
        Assert.Contains(FuseFaultCode.TooManySteps, Of(1, 200 + 1));
    }

    [Theory]
    [InlineData("step", true)]
    [InlineData("a b", false)]
    [InlineData("a\u0001", false)]
    [InlineData("a.b", false)]
    [InlineData("", false)]
    public void An_id_is_written_without_blanks_and_dots(string id, bool good) =>
        Assert.Equal(good, !FuseFaults.Find(Fuse(Whenever(Post(id))), Around()).Any(f => f.Code == FuseFaultCode.Id));

    [Theory]
    [InlineData("A <a@brackenwheel.example>", true)]
    [InlineData("<a@brackenwheel.example>", true)]
    [InlineData("a@brackenwheel.example", true)]
    [InlineData("A <@brackenwheel.example>", false)]
    public void An_address_may_stand_in_angles_behind_its_name(string reply, bool good)
    {
        var step = new Step("s", "Letter", StepKinds.Letter, StepMoment.AtOnce, new Dictionary<string, string> { ["subject"] = "S", ["words"] = "W", ["reply"] = reply });
        Assert.Equal(good, !FuseFaults.Find(Fuse(Whenever(step)), Around()).Any(f => f.StepId == "s"));
    }

    [Fact]
    public void Two_bands_with_the_same_rules_are_doubted_and_with_others_are_not()
    {
        RuleSet rules = new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]), grouped = rules with { Groups = [new(RuleMatch.Any, [new("company", RuleOp.Filled, [])])] };
        Band Of(string id, RuleSet when) => new(id, id, new(EntryKind.When, when), [Post("p" + id)]);
        int Doubts(RuleSet one, RuleSet other) => FuseDoubts.Find(Fuse(Of("a", one), Of("b", other)) with { BandChoice = BandChoice.First }, Around().Fields, new HashSet<string>(), []).Count;
        Assert.True(Doubts(rules, rules) > Doubts(rules, grouped));
        Assert.Equal(Doubts(rules, grouped), Doubts(grouped, rules));
        Assert.Equal(Doubts(rules, grouped), Doubts(rules, rules with { Match = RuleMatch.Any, Rules = [.. rules.Rules, .. rules.Rules] }));
    }

    [Fact]
    public void Each_number_in_words_chooses_its_place()
    {
        string[] five = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday"];
        string[] places =
        [
            "first 1st one erste ersten eins premier premiere un primero primera uno primo prima eerste een primeiro primeira pierwszy pierwsza jeden forsta forste a",
            "second 2nd two zweite zweiten zwei deuxieme deux segundo segunda dos secondo seconda due tweede twee dois duas drugi druga dwa andra anden b",
            "third 3rd three dritte dritten drei troisieme trois tercero tercera tres terzo terza tre derde drie terceiro terceira trzeci trzecia trzy tredje c",
            "fourth 4th four",
        ];
        for (var i = 0; i < places.Length; i++) Assert.All(places[i].Split(' '), word => Assert.Equal(five[i], Replies.ReplyReader.Read(word, five).Choice));
    }

    [Fact]
    public void A_made_up_answer_of_several_is_always_one_of_them()
    {
        FormField cargo = new("cargo", "Cargo", FormFieldType.Choices, true, ["food", "tools"]), one = cargo with { Choices = ["food"] };
        var answers = Enumerable.Range(0, 60).Select(s => MadeUpAnswers.For([cargo], "GB", new Random(s)).Single().Value).Distinct().Order(StringComparer.Ordinal).ToList();
        Assert.Equal(["food", "food, tools", "tools"], answers);
        Assert.All(Enumerable.Range(0, 20), s => Assert.Equal("food", MadeUpAnswers.For([one], "GB", new Random(s)).Single().Value));
    }

    [Fact]
    public void A_constant_of_one_letter_is_a_value() =>
        Assert.Equal("x", CompiledMap.From(new([new("", "company", Constant: "x")]), "GB", []).Read([]).Values["company"]);

    [Theory]
    [InlineData("x")]
    [InlineData("company_size")]
    public void A_field_that_no_form_gives_is_said(string field) =>
        Assert.Contains(FuseFaults.Find(Fuse(new Band("b", "B", new(EntryKind.When, new(RuleMatch.All, [new(field, RuleOp.Filled, [])])), [Post("p")])), Around()), f => f.Code == FuseFaultCode.FieldGone);

    [Fact]
    public void A_failure_with_rules_is_said_with_them() =>
        Assert.Equal("When “A” fails, and company is filled in", FuseSentence.SayEntry(new(EntryKind.Failed, new(RuleMatch.All, [new("company", RuleOp.Filled, [])]), Of: "a"), Fuse(Whenever(Post("a") with { Name = "A" }))));

    [Fact]
    public void A_fuse_of_a_source_is_lit_by_its_forms_and_one_of_a_form_by_that_alone()
    {
        FuseLine Of(params (string, string)[] only) => FuseLine.Of(Guid.Empty, null, FuseStanding.Armed, Fuse(Whenever(Post("p"))) with { LitBy = [new(EventKeys.Submission, only.ToDictionary(o => o.Item1, o => (IReadOnlyList<string>)[o.Item2]))] }, Around(), new(SendHours, SendHours, London, "GB"), At("24 12:00:00"));
        Assert.Equal(["s"], Of(("source", "s")).Sources);
        Assert.Empty(Of(("source", "s"), ("form", "f")).Sources);
        Assert.True(Of(("page", "p")).ByAnyForm);
        Assert.False(Of(("source", "s")).ByAnyForm);
        Assert.False(Of(("form", "f")).ByAnyForm);
    }

    [Fact]
    public void Of_two_steps_with_choices_the_later_is_answered()
    {
        Step Asks(string id, int after, string choice) => Text(id, after, "{{ choices }}") with { Choices = [choice, "Neither " + id] };
        foreach (var (first, second) in new[] { (0, 60), (60, 0) })
        {
            var life = new BurnLife(Fuse(Whenever(Asks("a", first, "Tuesday"), Asks("b", second, "Wednesday")), new Band("r", "R", new(EntryKind.On, Event: EventKeys.Replied), [Post("d")])), At("24 12:00:00"));
            life.Pass(Duration.FromMinutes(5)).Replies("1");
            Assert.Contains(life.Told, t => t.StartsWith(second == 60 ? "they chose Wednesday" : "they chose Tuesday", StringComparison.Ordinal));
        }
    }

    [Fact]
    public void The_end_of_a_delivery_is_that_of_the_step_it_was_made_for()
    {
        Band each = new("t", "T", new(EntryKind.On, Event: EventKeys.Tagged), [Post("p")]) { EachTime = true };
        var life = new BurnLife(Fuse(each), At("24 12:00:00"));
        life.Do(On(EventKeys.Tagged, "tagged", life.Now, ("tag", "a"))).Do(On(EventKeys.Tagged, "tagged", life.Now, ("tag", "b")));
        var keys = life.All.OfType<BurnEffect.Deliver>().Select(d => d.Key).ToList();
        Assert.Equal(2, keys.Distinct().Count());
        life.Do(new BurnEvent.StepEnded("p", StepStatus.Failed, "it did not go", null, keys[1]));
        Assert.Equal([StepStatus.Sent, StepStatus.Failed], life.State.Steps.Select(s => s.Status));
        life.Do(new BurnEvent.StepEnded("p", StepStatus.Done, "it went", null, "another"));
        Assert.Equal([StepStatus.Sent, StepStatus.Failed], life.State.Steps.Select(s => s.Status));
    }

    [Theory]
    [InlineData(59, 0)]
    [InlineData(60, 1)]
    [InlineData(61, 1)]
    public void A_rehearsal_ends_with_its_last_moment(int until, int sent)
    {
        var run = Rehearsal.Run(CompiledFuse.From(Fuse(Whenever(Post("p", 60)))), NewBurn(At("24 12:00:00")), Lead(), [], (_, _) => new(Duration.Zero, StepStatus.Done, "done"), At("24 12:00:00") + Duration.FromSeconds(until));
        Assert.Equal(sent, run.Moments.Count(m => m.Effect is BurnEffect.Deliver));
    }

    [Fact]
    public void A_lead_that_enters_no_band_is_marked_so()
    {
        foreach (var (fleet, none) in new[] { ("1–3", true), ("25+", false), ("1–3", true) })
        {
            var test = new Backtest(CompiledFuse.From(Fuse(Big(Post("p")))), words: false, Duration.FromDays(1), (_, _) => new(Duration.Zero, StepStatus.Done, "done"));
            Assert.Equal(none, test.Put(new(Lead(fleet), At("24 12:00:00"), null, []), out _).Has(BacktestMarks.NoBand));
        }
    }

    [Theory]
    [InlineData(86_399, typeof(GateAnswer.Wait))]
    [InlineData(86_400, typeof(GateAnswer.Go))]
    [InlineData(86_401, typeof(GateAnswer.Go))]
    public void A_message_counts_for_a_day(int secondsAgo, Type answer)
    {
        var now = At("24 12:00:00");
        Assert.IsType(answer, LeadGate.Ask(Lead() with { MostADay = 1, Sent = [now - Duration.FromSeconds(secondsAgo)] }, now, Duration.FromDays(1), now));
    }

    [Theory]
    [InlineData(EventKeys.Submission, "Choose among")]
    [InlineData(EventKeys.CameToMatch, "Take it out")]
    public void A_detail_that_an_event_does_not_have_is_taken_out_or_chosen_anew(string key, string mend)
    {
        var fault = FuseFaults.Find(Fuse(Whenever(Post("p"))) with { LitBy = [new(key, new Dictionary<string, IReadOnlyList<string>> { ["nothing"] = ["x"] })] }, Around()).First(f => f.Code == FuseFaultCode.EventDetail);
        Assert.StartsWith(mend, fault.Mend, StringComparison.Ordinal);
    }

    [Fact]
    public void Nothing_is_waited_for_while_no_map_is_confirmed()
    {
        var facts = new Continuity.LineFacts();
        DriftFinding lost = new("gone.phone", DriftKind.Gone, "phone", "phone", "lost", "mend", 5) { Lost = true };
        var drifted = facts with { Form = facts.Form with { Drift = [lost] } };
        Assert.Contains("phone", drifted.Line().Waits.Select(w => w.Field));
        Assert.Empty((drifted with { Form = drifted.Form with { MapVersion = null } }).Line().Waits);
    }

    [Fact]
    public void A_kit_takes_the_field_that_tells_the_size()
    {
        Core.Kits.KitField Of(string key, params string[] choices) => new(key, key, choices, FactType.Choice);
        Core.Kits.KitSurroundings With(params Core.Kits.KitField[] fields) => new([], fields, [], [], [], []);
        Assert.Equal("fleet_size", With(Of("colour", "red", "blue"), Of("fleet_size", "1–3", "25+")).Size?.Key);
        Assert.Equal("colour", With(Of("colour", "red", "blue"), Of("fleet_size", "any")).Size?.Key);
        Assert.Null(With(Of("colour", "red"), Of("fleet_size")).Size);
    }
}

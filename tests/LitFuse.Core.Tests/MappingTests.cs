using CsCheck;
using LitFuse.Bench;
using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>Field maps: what they make of answers, and how they suggest themselves.</summary>
public sealed class MappingTests
{
    private static readonly LeadField[] Own =
    [
        new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "10–24", "25+"]),
        new("carries", "Carries", LeadFieldType.Choices, ["parcels", "food", "tools", "people"]),
        new("start", "Start", LeadFieldType.Date, []),
        new("budget", "Budget", LeadFieldType.Money, []),
        new("bikes", "Bikes", LeadFieldType.Number, []),
        new("has_shed", "Has a shed", LeadFieldType.YesNo, []),
        new("plan", "Plan", LeadFieldType.Link, []),
    ];

    public static TheoryData<string, string, string, string?> Typed() =>
        new()
        {
            { "fleet_size", "10-24", "10–24", null },
            { "fleet_size", " 25 + ", "25+", null },
            { "fleet_size", "25", "25", "this is none of the field's choices" },
            { "carries", "Food, tools", "food, tools", null },
            { "carries", "food; pianos", "food, pianos", "“pianos” is none of the field's choices" },
            { "start", "14/6/2027", "2027-06-14", null },
            { "start", "soon", "soon", "this is not a date" },
            { "budget", "£1,200.50", "1200.50 GBP", null },
            { "budget", "$20k", "20000", null },
            { "budget", "1200 eur", "1200 EUR", null },
            { "budget", "plenty", "plenty", "this is not an amount" },
            { "bikes", "twelve", "twelve", "this is not a number" },
            { "bikes", "1,200", "1200", null },
            { "has_shed", "Oui", "yes", null },
            { "has_shed", "off", "no", null },
            { "has_shed", "maybe", "maybe", "this is neither yes nor no" },
            { "plan", "plans.example.com/depot", "https://plans.example.com/depot", null },
            { "plan", "in the post", "in the post", "this is not an address on the web" },
        };

    [Theory]
    [MemberData(nameof(Typed))]
    public void An_answer_is_read_as_what_its_field_holds(string field, string typed, string value, string? fault)
    {
        var read = MapReader.Apply(new([new("q", field)]), [new("q", typed)], "GB", Own);
        Assert.Equal((value, fault), (read.Values[field], read.Faults.GetValueOrDefault("q")));
    }

    [Fact]
    public void Fields_are_joined_fixed_left_out_and_kept_apart()
    {
        FieldMap map = new([
            new("code", "phone", ["number"], ""),
            new("day", "start", ["month", "year"], "-"),
            new("town", "message", ["street"]),
            new("secret", null),
            new("", "company", Constant: "Pemberton Bakes"),
            new("size", "fleet_size", Choices: new Dictionary<string, string> { ["a lot"] = "25+" }),
        ]);
        var read = MapReader.Apply(
            map,
            [
                new("code", "+44"),
                new("number", "7700 900123"),
                new("day", "14"),
                new("month", "6"),
                new("year", "2027"),
                new("town", "Leeds"),
                new("secret", "x"),
                new("size", "a lot"),
                new("hill", "Box Hill"),
            ],
            "GB",
            Own
        );
        Assert.Equal("+447700900123", read.Phone?.E164);
        Assert.Equal(
            ("2027-06-14", "Leeds", "Pemberton Bakes", "25+", "Box Hill"),
            (
                read.Values["start"],
                read.Values["message"],
                read.Values["company"],
                read.Values["fleet_size"],
                read.Unmapped["hill"]
            )
        );
        Assert.DoesNotContain("hill", read.Values.Keys);
        Assert.DoesNotContain("secret", read.Values.Keys);
        Assert.DoesNotContain("number", read.Values.Keys);
        Assert.Empty(read.Faults);
    }

    [Fact]
    public void Of_two_fields_for_one_the_first_answered_is_taken_and_all_addresses_are_known()
    {
        var read = MapReader.Apply(
            new([
                new("a", "company"),
                new("b", "company"),
                new("m", "phone"),
                new("l", "phone"),
                new("e", "email"),
                new("w", "email"),
            ]),
            [
                new("a", ""),
                new("b", "Nook"),
                new("l", "0113 496 0012"),
                new("m", "07700 900123"),
                new("e", "ines@example.com"),
                new("w", "work@example.com"),
            ],
            "GB"
        );
        Assert.Equal("Nook", read.Values["company"]);
        Assert.Equal(("+441134960012", "+447700900123"), (read.Values["phone"], read.Values["other_phones"]));
        Assert.Equal(
            ["ines@example.com", "work@example.com", "+441134960012", "+447700900123"],
            read.Keys().Select(k => k.Value)
        );
    }

    [Theory]
    [InlineData(FillRule.NewestWins, "new", "new")]
    [InlineData(FillRule.FillEmpties, "old", "new")]
    [InlineData(FillRule.Keep, "old", null)]
    public void A_later_answer_goes_by_its_field_s_rule(FillRule rule, string over, string? empty)
    {
        var (values, changes) = Refill.Later(
            new Dictionary<string, string> { ["a"] = "old", ["same"] = "x" },
            new Dictionary<string, string>
            {
                ["a"] = "new",
                ["b"] = "new",
                ["same"] = "x",
            },
            _ => rule
        );
        Assert.Equal((over, empty), (values["a"], values.GetValueOrDefault("b")));
        Assert.Equal(2, changes.Count);
        Assert.Equal(new FieldChange("a", "old", "new", rule == FillRule.NewestWins), changes[0]);
    }

    [Fact]
    public void Another_map_takes_back_only_what_this_very_submission_had_said()
    {
        var there = new Dictionary<string, string>
        {
            ["bad"] = "07700 900123",
            ["company"] = "put there by hand",
            ["kept"] = "1",
        };
        var before = new Dictionary<string, string>
        {
            ["bad"] = "07700 900123",
            ["company"] = "Nook",
            ["kept"] = "1",
        };
        var says = new Dictionary<string, string> { ["phone"] = "+447700900123", ["kept"] = "1" };
        var (values, changes) = Refill.Again(there, before, says, _ => FillRule.NewestWins);
        Assert.Equal(
            new Dictionary<string, string>
            {
                ["company"] = "put there by hand",
                ["kept"] = "1",
                ["phone"] = "+447700900123",
            },
            values
        );
        Assert.Equal(["bad", "phone"], changes.Select(c => c.Field));
    }

    [Fact]
    public void Reading_again_through_the_same_map_changes_nothing() =>
        Gen.Dictionary(Gen.String[Gen.Char.AlphaNumeric, 1, 6], Gen.String[Gen.Char.AlphaNumeric, 0, 6])
            .Sample(said =>
            {
                var (values, changes) = Refill.Again(said, said, said, _ => FillRule.NewestWins);
                return changes.Count == 0 && values.Count == said.Count;
            });

    private static Suggestion One(
        string name,
        string label,
        FormFieldType type = FormFieldType.Text,
        string? means = null,
        params string[] samples
    ) =>
        MapSuggester.Suggest(
            [new(name, label, type, [], means, samples)],
            Own,
            [new("Test ride", "mobil_nr", "Where can we ring you?", "phone")],
            "GB"
        )[0];

    [Fact]
    public void Each_suggestion_says_why()
    {
        Assert.Equal(
            ("email", "the form's maker says what it is"),
            (One("x", "x", means: "email").LeadField, One("x", "x", means: "email").Because)
        );
        Assert.Equal(
            ("phone", "as confirmed on Test ride"),
            (One("mobil_nr", "x").LeadField, One("mobil_nr", "x").Because)
        );
        Assert.Equal(
            ("phone", "the same question as on Test ride"),
            (One("f_9", "Where can we ring you?").LeadField, One("f_9", "Where can we ring you?").Because)
        );
        Assert.Equal(
            ("fleet_size", "it is called as your own field “Fleet size”"),
            (One("Fleet-Size", "Size").LeadField, One("Fleet-Size", "Size").Because)
        );
        Assert.Equal(
            ("utm_source", "a tracking value, by its name"),
            (One("utm_source", "utm_source").LeadField, One("utm_source", "utm_source").Because)
        );
        Assert.Equal("email", One("field_7", "field_7", samples: ["a@example.com", "b@example.org"]).LeadField);
        Assert.Equal("phone", One("field_8", "field_8", samples: ["07700 900123", "0113 496 0012"]).LeadField);
        Assert.Contains(
            "what came in it looks like",
            One("field_8", "field_8", samples: ["07700 900123"]).Because,
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("confirm_email", "Confirm your email", FormFieldType.Email)] // repeated
    [InlineData("friend_phone", "Your friend's phone", FormFieldType.Phone)] // somebody else's
    [InlineData("email", "Email", FormFieldType.Date)] // asked as something else
    [InlineData("company_size", "How many people work in your company?", FormFieldType.Text)]
    [InlineData("call_time", "Best time to call", FormFieldType.Choice)]
    [InlineData("event_name", "Name of the event", FormFieldType.Text)]
    public void Rather_nothing_than_something_wrong(string name, string label, FormFieldType type)
    {
        var none = One(name, label, type);
        Assert.Null(none.LeadField);
        Assert.NotEmpty(none.Because);
    }

    [Fact]
    public void What_came_may_speak_against_a_name() =>
        Assert.Null(One("email", "Email", samples: ["yes", "no"]).LeadField);

    [Fact]
    public void A_name_beside_a_first_name_is_the_family_s()
    {
        SeenField Field(string label) => new(label, label, FormFieldType.Text, [], null, []);
        var french = MapSuggester.Suggest([Field("Prénom"), Field("Nom"), Field("Nom de la société")], [], [], "FR");
        Assert.Equal(["first_name", "last_name", "company"], french.Select(s => s.LeadField));
        Assert.Equal("full_name", MapSuggester.Suggest([Field("Nom")], [], [], "FR")[0].LeadField);
    }

    [Theory]
    [InlineData("How many desks?", "how_many_desks")]
    [InlineData("Größe in m²", "grosse_in_m")]
    [InlineData("2nd depot", "field_2_nd_depot")]
    public void A_field_s_key_is_made_of_its_label(string label, string key) =>
        Assert.Equal(key, LeadField.KeyFor(label));

    /// <summary>The figure that the rules are held to: on forms they were not made for.</summary>
    [Fact]
    public void On_the_forms_held_out_suggestions_are_right_97_times_in_100_and_find_90()
    {
        var score = LabelledForms.Score(Path.Combine(Root.Path, "bench/maps/forms.txt"), heldOut: true);
        Assert.True(
            score.Forms >= 75 && score.Precision >= 0.97 && score.Recall >= 0.90,
            $"{score.Forms} forms, precision {score.Precision:0.000}, recall {score.Recall:0.000}"
        );
    }

    [Fact]
    public void Junk_is_caught_8_times_in_10_with_at_most_one_false_alarm_in_a_hundred()
    {
        foreach (var seed in new[] { 20261125, 7, 99 })
        {
            var result = LabelledJunk.Score(600, seed);
            Assert.True(
                result.FalseAlarms <= 0.01 * result.Clean && result.Caught >= 0.8 * result.Junk,
                $"seed {seed}: {result.FalseAlarms} of {result.Clean} alarmed, {result.Caught} of {result.Junk} caught: {string.Join('\n', result.Wrong.Take(5))}"
            );
        }
    }

    public static TheoryData<string, (string Field, string Value)[], int, string> JunkSigns() =>
        new()
        {
            {
                "nothing odd",
                [
                    ("name", "Ines Calloway"),
                    ("email", "ines@example.com"),
                    ("message", "Do you deliver to Bradford, and what does it cost?"),
                ],
                0,
                ""
            },
            {
                "a throw-away address",
                [("email", "x@tempmail.example")],
                45,
                "tempmail.example gives out addresses to throw away"
            },
            {
                "keys side by side",
                [("name", "Asdf Oduya"), ("email", "a@example.com")],
                40,
                "“Asdf” is keys side by side (asdf)"
            },
            {
                "letters of no language",
                [("name", "Ines QxZvKpWq"), ("email", "a@example.com")],
                40,
                "“QxZvKpWq” is no word of any language"
            },
            {
                "a telephone number that is none",
                [("email", "a@example.com"), ("phone", "123")],
                25,
                "123 cannot be a telephone number"
            },
            {
                "one digit again and again",
                [("phone", "+49 30 1111111")],
                40,
                "+49301111111 is one digit again and again"
            },
            {
                "a link for a name",
                [("name", "see https://x.example"), ("email", "a@example.com")],
                65,
                "there is a link where a name belongs"
            },
            {
                "three links",
                [("email", "a@example.com"), ("message", "https://a.example https://b.example https://c.example")],
                60,
                "there are 3 links in the answers"
            },
            {
                "one link",
                [("email", "a@example.com"), ("message", "our bay: https://depot.example.org/bay")],
                15,
                "there is a link in the answers"
            },
            {
                "a seller",
                [
                    ("email", "a@example.com"),
                    ("message", "We offer guest post and backlink packages on sites of high authority."),
                ],
                60,
                "it offers something, rather than asks"
            },
        };

    [Theory]
    [MemberData(nameof(JunkSigns))]
    public void Junk_is_explained(string why, (string Field, string Value)[] answers, int score, string because)
    {
        var payload = Payload.FromPairs(answers.Select(a => KeyValuePair.Create(a.Field, a.Value)));
        var mapped = MapReader.Apply(
            new([new("name", "full_name"), new("email", "email"), new("phone", "phone"), new("message", "message")]),
            payload.Answers,
            "GB"
        );
        var reading = JunkScore.OfAnswers(JunkReading.Clean, payload, mapped, 0);
        Assert.True(reading.Score == score, $"{why}: {reading.Score}, {string.Join("; ", reading.Because)}");
        if (because.Length > 0)
            Assert.Contains(because, reading.Because);
    }

    [Fact]
    public void The_same_words_from_others_count_and_one_s_own_do_not()
    {
        var payload = Payload.FromPairs([new("message", "We run parcels out of two depots in Leeds.")]);
        Assert.Equal("We run parcels out of two depots in Leeds.", JunkScore.OwnWords(payload));
        Assert.Null(JunkScore.OwnWords(Payload.FromPairs([new("message", "Price?")])));
        var mapped = MapReader.Apply(new([]), payload.Answers, "GB");
        Assert.Equal(0, JunkScore.OfAnswers(JunkReading.Clean, payload, mapped, 1).Score);
        Assert.Equal(60, JunkScore.OfAnswers(JunkReading.Clean, payload, mapped, 5).Score);
    }

    [Theory]
    [InlineData("Schwarzschild")]
    [InlineData("Wszędobylski")]
    [InlineData("Lindqvist")]
    [InlineData("Brzęczyszczykiewicz")]
    [InlineData("Ng")]
    [InlineData("McAllister")]
    [InlineData("Nguyễn")]
    [InlineData("Llewellyn Gwynfryn")]
    public void Rare_names_are_names(string name) => Assert.Null(GibberishSigns.Of(name));

    [Fact]
    public void A_hold_rule_says_why_and_a_senseless_one_what_is_wrong()
    {
        var values = new Dictionary<string, string> { ["fleet_size"] = "25+" };
        Guards.RuleSet big = new(Guards.RuleMatch.All, [new("fleet_size", Guards.RuleOp.OneOf, ["25+"])]);
        Assert.Null(HoldRule.Usual.Why(new(59, ["odd"]), values));
        Assert.Equal("junk 60: odd; odder", HoldRule.Usual.Why(new(60, ["odd", "odder"]), values));
        Assert.Equal(
            "everything on this form waits for approval",
            new HoldRule(HoldKind.All, 60, null).Why(JunkReading.Clean, values)
        );
        Assert.Equal("fleet size was 25+, 25+", new HoldRule(HoldKind.Rules, 60, big).Why(JunkReading.Clean, values));
        Assert.Null(new HoldRule(HoldKind.Nothing, 60, big).Why(new(100, ["odd"]), values));
        Assert.Equal("A junk score is between 1 and 100.", new HoldRule(HoldKind.Junk, 0, null).Fault());
        Assert.StartsWith(
            "Say which submissions",
            new HoldRule(HoldKind.Rules, 60, new(Guards.RuleMatch.All, [])).Fault(),
            StringComparison.Ordinal
        );
        Assert.Null(HoldRule.Usual.Fault());
    }
}

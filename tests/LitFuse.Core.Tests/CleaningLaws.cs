using System.Globalization;
using CsCheck;
using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Identity;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>What holds of cleaning whatever people and programs send.</summary>
public sealed class CleaningLaws
{
    private static Gen<T> One<T>(params T[] of) => Gen.Int[0, of.Length - 1].Select(i => of[i]);

    private static Gen<Dictionary<string, string>> Values(params string[] keys) =>
        Gen.Int[0, 2]
            .Array[keys.Length]
            .Select(picked =>
                keys.Zip(picked)
                    .Where(p => p.Second > 0)
                    .ToDictionary(
                        p => p.First,
                        p => p.Second.ToString(CultureInfo.InvariantCulture),
                        StringComparer.Ordinal
                    )
            );

    private static readonly Gen<string> Anything = Gen.OneOf(
        Gen.String[0, 40],
        Gen.String[Gen.Char[' ', '\u024f'], 0, 40],
        One(
            "",
            " ",
            "Ines Calloway",
            "山田 太郎",
            "07700 900123",
            "ines@example.com",
            "25+",
            "1.234,5",
            "14/6/27",
            "https://x.example",
            "a,b;c|d",
            "\u0000",
            "\ud83d\ude00",
            "Dr.",
            ",",
            ", ,",
            "von",
            "Jr",
            "@",
            "+",
            "--",
            "()"
        )
    );

    private static readonly LeadField[] Own =
    [
        .. LeadField.OwnTypes.Select(t => new LeadField(
            "own_" + t.ToString().ToLowerInvariant(),
            t.ToString(),
            t,
            t is LeadFieldType.Choice or LeadFieldType.Choices ? ["1–3", "4–9", "25+"] : []
        )),
    ];

    private static readonly string[] Targets = [.. LeadField.Standard.Select(f => f.Key), .. Own.Select(f => f.Key)];

    [Fact]
    public void Reading_never_throws_and_loses_no_answer() =>
        Gen.Select(Anything, One(Targets), One("GB", "DE", "US", "ES", "HU", "JP", "XX", ""))
            .Sample(
                (typed, target, country) =>
                {
                    var value = typed.Trim();
                    var read = MapReader.Apply(new([new("q", target)]), [new("q", value)], country, Own);
                    // Of what nobody can see nothing is put on a lead.
                    if (string.IsNullOrWhiteSpace(PlainText.Line(value, 4000)))
                        return read.Values.Count == 0;
                    // It is there as what it was read as, or as typed with the fault beside it. A name of signs alone
                    // is no name.
                    return read.Values.Count > 0 || (target == "full_name" && !value.Any(char.IsLetterOrDigit));
                }
            );

    [Fact]
    public void What_cannot_be_read_stays_as_typed_on_one_line_with_its_fault() =>
        Gen.Select(
                Anything,
                One(
                    Own.Where(f => f.Type is not (LeadFieldType.Text or LeadFieldType.LongText))
                        .Select(f => f.Key)
                        .ToArray()
                )
            )
            .Sample(
                (typed, target) =>
                {
                    var value = typed.Trim();
                    var read = MapReader.Apply(new([new("q", target)]), [new("q", value)], "GB", Own);
                    return value.Length == 0
                        || !read.Faults.ContainsKey("q")
                        || read.Values[target] == PlainText.Line(value, 4000)
                        || target == "own_choices";
                }
            );

    [Fact]
    public void Suggesting_never_throws_and_says_why_for_each_field_in_order() =>
        Gen.Select(Anything, Anything, One(Enum.GetValues<FormFieldType>()), Anything.List[0, 4])
            .List[0, 8]
            .Sample(fields =>
            {
                var seen = fields.Select(f => new SeenField(f.Item1, f.Item2, f.Item3, [], null, f.Item4)).ToList();
                var suggested = MapSuggester.Suggest(seen, Own, [], "GB");
                return suggested.Count == seen.Count
                    && suggested
                        .Zip(seen)
                        .All(p =>
                            p.First.FormField == p.Second.Name
                            && p.First.Because.Length > 0
                            && p.First.Confidence is >= 0 and <= 1
                            && p.First.LeadField is null == p.First.Confidence < MapSuggester.Least
                        );
            });

    [Fact]
    public void A_suggestion_does_not_depend_on_what_stands_around_it_but_for_names_and_rivals() =>
        Gen.Shuffle(new[] { "email", "phone", "postcode", "favourite_hill", "city" })
            .Sample(
                (string[] order) =>
                {
                    var alone = order.ToDictionary(
                        n => n,
                        n =>
                            MapSuggester
                                .Suggest([new(n, n, FormFieldType.Text, [], null, [])], [], [], "GB")[0]
                                .LeadField
                    );
                    var together = MapSuggester.Suggest(
                        [.. order.Select(n => new SeenField(n, n, FormFieldType.Text, [], null, []))],
                        [],
                        [],
                        "GB"
                    );
                    return together.All(s => s.LeadField == alone[s.FormField]);
                }
            );

    [Fact]
    public void A_day_is_read_as_it_was_written_in_the_order_of_the_place()
    {
        var days = Gen.Int[0, 60_000].Select(n => new LocalDate(1940, 1, 1).PlusDays(n));
        Gen.Select(days, One('/', '.', '-', ' '))
            .Sample(
                (day, mark) =>
                {
                    var (d, m, y) = (
                        day.Day.ToString(CultureInfo.InvariantCulture),
                        day.Month.ToString(CultureInfo.InvariantCulture),
                        day.Year.ToString(CultureInfo.InvariantCulture)
                    );
                    return Dates.Read($"{d}{mark}{m}{mark}{y}", DateOrder.DayMonthYear) == day
                        && Dates.Read($"{m}{mark}{d}{mark}{y}", DateOrder.MonthDayYear) == day
                        && Dates.Read($"{y}{mark}{m}{mark}{d}", DateOrder.YearMonthDay) == day
                        && Dates.Read(NodaTime.Text.LocalDatePattern.Iso.Format(day), DateOrder.DayMonthYear) == day;
                }
            );
    }

    [Fact]
    public void A_number_is_read_as_it_was_written_with_the_signs_of_the_place() =>
        Gen.Select(Gen.Int[-9_999_999, 9_999_999], Gen.Int[0, 99])
            .Sample(
                (whole, cents) =>
                {
                    var number = whole + ((whole < 0 ? -1 : 1) * cents / 100m);
                    var english = number.ToString("#,##0.00", CultureInfo.InvariantCulture);
                    var german = english.Replace(',', '_').Replace('.', ',').Replace('_', '.');
                    var french = english.Replace(',', '\u202f').Replace('.', ',');
                    return ValueReader.Number(english, ReadingLocale.For(null, "GB")) == number
                        && ValueReader.Number(german, ReadingLocale.For(null, "DE")) == number
                        && ValueReader.Number(french, ReadingLocale.For(null, "FR")) == number;
                }
            );

    [Fact]
    public void Splitting_a_name_loses_none_of_its_words()
    {
        var word = One(
            "Ines",
            "Bram",
            "van",
            "der",
            "Calloway",
            "Tillotson",
            "García",
            "López",
            "O'Neill",
            "Ashdown-Hart",
            "de",
            "la",
            "María"
        );
        Gen.Select(word.Array[1, 5], One("GB", "ES", "HU", "DE", "PT"))
            .Sample(
                (words, country) =>
                {
                    var (first, last) = PersonNames.Split(string.Join(' ', words), country);
                    var kept = $"{first} {last}"
                        .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                        .Order(StringComparer.Ordinal);
                    return kept.SequenceEqual(words.Order(StringComparer.Ordinal));
                }
            );
    }

    [Fact]
    public void Filling_twice_is_filling_once() =>
        Gen.Select(Values("a", "b", "c"), Values("a", "b", "c"), One(Enum.GetValues<FillRule>()))
            .Sample(
                (there, said, rule) =>
                {
                    var once = Refill.Later(there, said, _ => rule);
                    var twice = Refill.Later(once.Values, said, _ => rule);
                    return once.Values.OrderBy(v => v.Key, StringComparer.Ordinal)
                            .SequenceEqual(twice.Values.OrderBy(v => v.Key, StringComparer.Ordinal))
                        && !twice.Changes.Any(c => c.Taken);
                }
            );

    [Fact]
    public void Reading_again_and_back_again_is_where_it_was() =>
        Gen.Select(Values("a", "b", "c"), Values("b", "c", "d"))
            .Sample(
                (old, now) =>
                {
                    var (there, _) = Refill.Again(old, old, now, _ => FillRule.NewestWins);
                    var (back, _) = Refill.Again(there, now, old, _ => FillRule.NewestWins);
                    return back.OrderBy(v => v.Key, StringComparer.Ordinal)
                        .SequenceEqual(old.OrderBy(v => v.Key, StringComparer.Ordinal));
                }
            );

    [Fact]
    public void Junk_is_a_score_with_its_reasons_and_the_door_s_count_is_never_taken_back() =>
        Gen.Select(Anything, Anything, Anything, Gen.Int[0, 100])
            .Sample(
                (name, email, message, door) =>
                {
                    var payload = Payload.FromPairs([new("name", name), new("email", email), new("message", message)]);
                    var mapped = MapReader.Apply(
                        new([new("name", "full_name"), new("email", "email"), new("message", "message")]),
                        payload.Answers,
                        "GB"
                    );
                    var reading = JunkScore.OfAnswers(new(door, door > 0 ? ["the door's"] : []), payload, mapped, 0);
                    return reading.Score >= door
                        && reading.Score <= 100
                        && reading.Score > 0 == (reading.Because.Count > 0);
                }
            );

    [Theory]
    [InlineData("txtEmailAdresse2", "txt email adresse 2")]
    [InlineData("LEAD_FIRST_NM", "lead first nm")]
    [InlineData("contact[first]", "contact first")]
    [InlineData("XMLHttpId", "xml http id")]
    [InlineData("Prénom de l'élève", "prenom de l eleve")]
    [InlineData("Straße & Nr.", "strasse nr")]
    [InlineData("Œuvre Łódź Ørsted", "oeuvre lodz orsted")]
    [InlineData("氏名", "氏名")]
    [InlineData("***", "")]
    public void Names_of_fields_are_cut_into_plain_words(string text, string words) =>
        Assert.Equal(words, Tokens.PlainOf(text));

    [Theory]
    [InlineData("Yes", true)]
    [InlineData("ja", true)]
    [InlineData("はい", true)]
    [InlineData("I agree", true)]
    [InlineData("on", true)]
    [InlineData("nein", false)]
    [InlineData("Não", false)]
    [InlineData("0", false)]
    [InlineData("perhaps", null)]
    [InlineData("", null)]
    public void Yes_and_no_are_known_in_many_languages(string typed, bool? meant) =>
        Assert.Equal(meant, ValueReader.YesNo(typed));

    [Theory]
    [InlineData("field_3", true)]
    [InlineData("input_12", true)]
    [InlineData("q7", true)]
    [InlineData("email", false)]
    [InlineData("contact_name", false)]
    public void Names_that_programs_give_say_nothing(string name, bool anonymous)
    {
        // A precedent by such a name would map every form's third field alike.
        var suggested = MapSuggester.Suggest(
            [new(name, "Something else", FormFieldType.Text, [], null, [])],
            [],
            [new("Another form", name, "Asked otherwise", "company")],
            "GB"
        )[0];
        Assert.Equal(anonymous ? null : "company", suggested.LeadField);
    }

    [Fact]
    public void Two_rivals_for_one_field_leave_it_to_the_surer_and_say_so()
    {
        var suggested = MapSuggester.Suggest(
            [
                new("org", "Your company's name, if any", FormFieldType.Text, [], null, []),
                new("company", "Company", FormFieldType.Text, [], null, []),
            ],
            [],
            [],
            "GB"
        );
        Assert.Equal("company", suggested[1].LeadField);
        Assert.Null(suggested[0].LeadField);
        var numbers = MapSuggester.Suggest(
            [
                new("mobile", "Mobile", FormFieldType.Phone, [], null, []),
                new("landline", "Landline", FormFieldType.Phone, [], null, []),
            ],
            [],
            [],
            "GB"
        );
        Assert.Equal(["phone", "phone"], numbers.Select(s => s.LeadField));
    }

    [Fact]
    public void The_mark_of_a_consent_is_its_words_and_where_the_notice_lies_on_its_site()
    {
        var mark = FormConsent.MarkOf("We use your answers.", "https://rides.example.com/privacy");
        Assert.Equal(12, mark.Length);
        Assert.Equal(mark, FormConsent.MarkOf(" We use your answers. ", "https://www.example.org/privacy"));
        Assert.NotEqual(mark, FormConsent.MarkOf("We use your answers.", "https://rides.example.com/terms"));
        Assert.NotEqual(mark, FormConsent.MarkOf("We sell your answers.", "https://rides.example.com/privacy"));
        Assert.Equal(FormConsent.MarkOf("Words", null), FormConsent.MarkOf("Words", ""));
    }
}

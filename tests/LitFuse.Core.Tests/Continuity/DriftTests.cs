using LitFuse.Core.Drift;
using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests.Continuity;

public sealed class DriftTests
{
    private static readonly FieldMap Map = new([
        new("full_name", "full_name"),
        new("mail", "email"),
        new("phone", "phone"),
        new("fleet", "fleet_size"),
        new("company", "company"),
        new("utm_campaign", "utm_campaign"),
    ]);
    private static readonly LeadField Fleet = new(
        "fleet_size",
        "Fleet size",
        LeadFieldType.Choice,
        ["1–3", "4–9", "10–24", "25+"]
    );

    private static DriftForm Form(params string[] accepted) => new([], false, Map, [Fleet], "GB", accepted.ToHashSet());

    private static Dictionary<string, string> Answers(int n, params (string Field, string? Value)[] but)
    {
        var answers = new Dictionary<string, string>
        {
            ["full_name"] = "Ines Calloway",
            ["mail"] = $"ines.{n}@example.com",
            ["phone"] = $"0113 496 0{n % 1000:000}",
            ["fleet"] = Fleet.Choices[n % 4],
            ["utm_campaign"] = "depots",
        };
        if (n % 3 != 0)
            answers["company"] = "Calloway Couriers";
        foreach (var (field, value) in but)
        {
            if (value is null)
                answers.Remove(field);
            else
                answers[field] = value;
        }

        return answers;
    }

    // Newest first: so many as they are to be, after so many as they were.
    private static List<DriftSample> After(int before, int since, params (string Field, string? Value)[] changed) =>
        [
            .. Enumerable.Range(0, since).Select(i => Sample(before + since - i, Answers(before + since - i, changed))),
            .. Enumerable.Range(0, before).Select(i => Sample(before - i, Answers(before - i))),
        ];

    private static DriftSample Sample(int n, Dictionary<string, string> answers) =>
        new(Instant.FromUnixTimeSeconds(n * 600), answers);

    // How many submissions after a change it is found.
    private static int FoundAfter(
        Func<int, List<DriftSample>> samples,
        Func<DriftFinding, bool> which,
        DriftForm? form = null
    )
    {
        for (var since = 0; since <= 20; since++)
        {
            if (DriftFinder.Find(form ?? Form(), samples(since)).Any(which))
                return since;
        }

        return int.MaxValue;
    }

    [Fact]
    public void A_form_that_is_as_it_was_has_no_drift() => Assert.Empty(DriftFinder.Find(Form(), After(60, 0)));

    [Fact]
    public void A_field_that_was_always_there_is_missed_after_two_submissions()
    {
        Assert.InRange(FoundAfter(n => After(60, n, ("phone", null)), f => f.Kind == DriftKind.Gone), 1, 5);
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("phone", null))));
        Assert.Equal(("gone.phone", "phone", "Take it out of the map"), (finding.Key, finding.LeadField, finding.Mend));
        Assert.Equal(
            "“phone” has not come in the last 3 submissions; it was in 57 of 57 of those before.",
            finding.Words
        );
    }

    [Fact]
    public void A_field_that_comes_empty_is_missed_too_and_is_not_lost()
    {
        Assert.InRange(
            FoundAfter(n => After(60, n, ("phone", "")), f => f is { Kind: DriftKind.Gone, Field: "phone" }),
            1,
            5
        );
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("phone", ""))));
        Assert.False(finding.Lost);
        Assert.StartsWith("“phone” was left empty in the last 3 submissions;", finding.Words, StringComparison.Ordinal);
        Assert.True(Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("phone", null)))).Lost);
    }

    [Fact]
    public void A_field_that_two_in_three_fill_is_missed_only_when_that_can_be_no_chance() =>
        Assert.InRange(
            FoundAfter(n => After(60, n, ("company", null)), f => f is { Kind: DriftKind.Gone, Field: "company" }),
            6,
            12
        );

    [Fact]
    public void A_renamed_field_is_found_with_its_new_name_and_where_it_goes()
    {
        (string, string?)[] renamed = [("phone", null), ("mobile_number", "07700 900123")];
        Assert.InRange(FoundAfter(n => After(60, n, renamed), f => f.Kind == DriftKind.Renamed), 1, 5);
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 4, renamed)));
        Assert.Equal(("phone", "mobile_number", "phone"), (finding.Field, finding.NewField, finding.LeadField));
        Assert.Equal("Map “mobile_number” to phone instead", finding.Mend);
    }

    [Fact]
    public void A_new_field_is_found_with_where_it_seems_to_go()
    {
        Assert.InRange(
            FoundAfter(n => After(60, n, ("job_title", "Depot manager")), f => f.Kind == DriftKind.Fresh),
            1,
            5
        );
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("job_title", "Depot manager"))));
        Assert.Equal(
            ("fresh.job_title", "job_title", "Map it to job title"),
            (finding.Key, finding.Suggested, finding.Mend)
        );
    }

    [Fact]
    public void What_comes_along_now_and_then_is_not_new()
    {
        var samples = After(60, 0)
            .Select(
                (s, i) =>
                    i % 9 == 2
                        ? s with
                        {
                            Answers = new Dictionary<string, string>(s.Answers) { ["gift_code"] = "A1" },
                        }
                        : s
            )
            .ToList();
        Assert.DoesNotContain(DriftFinder.Find(Form(), samples), f => f.Kind == DriftKind.Fresh);
    }

    [Fact]
    public void Answers_that_are_no_choices_are_found_and_named()
    {
        Assert.InRange(FoundAfter(n => After(60, n, ("fleet", "25 and more")), f => f.Kind == DriftKind.Choices), 1, 5);
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("fleet", "25 and more"))));
        Assert.Equal(["25 and more"], finding.Values!);
        Assert.Equal("“fleet” is answered with “25 and more”, which is no choice of fleet size.", finding.Words);
        // A single one is somebody who typed.
        Assert.Empty(DriftFinder.Find(Form(), After(60, 1, ("fleet", "25 and more"))));
    }

    [Fact]
    public void Values_of_another_kind_are_found()
    {
        Assert.InRange(FoundAfter(n => After(60, n, ("phone", "any time")), f => f.Kind == DriftKind.OtherKind), 1, 5);
        var finding = Assert.Single(DriftFinder.Find(Form(), After(60, 3, ("phone", "any time"))));
        Assert.Equal("kind.phone", finding.Key);
        Assert.StartsWith("“phone” holds something else than phone:", finding.Words, StringComparison.Ordinal);
    }

    [Fact]
    public void What_a_network_tells_needs_no_submission()
    {
        IReadOnlyList<FormField> told =
        [
            new("full_name", "Your name", FormFieldType.Text, true, []),
            new("mail", "Email", FormFieldType.Email, true, []),
            new("mobile", "Your mobile", FormFieldType.Phone, true, []),
            new("fleet", "How many?", FormFieldType.Choice, true, ["1–3", "4–9", "10–24", "25 and more"]),
            new("company", "Company", FormFieldType.Text, false, []),
        ];
        var findings = DriftFinder.Find(Form() with { Fields = told, Tells = true }, After(20, 0));
        Assert.Equal(["renamed.phone.mobile", "choices.fleet.25 and more"], findings.Select(f => f.Key));
        Assert.All(findings, f => Assert.Equal(0, f.After));
    }

    [Fact]
    public void An_optional_question_that_a_network_still_asks_may_be_left_out()
    {
        IReadOnlyList<FormField> told =
        [
            .. Map
                .Rows.Take(5)
                .Select(r => new FormField(r.FormField, r.FormField, FormFieldType.Text, r.FormField != "phone", [])),
        ];
        Assert.Empty(DriftFinder.Find(Form() with { Fields = told, Tells = true }, After(50, 10, ("phone", null))));
        Assert.Single(DriftFinder.Find(Form() with { Fields = told, Tells = true }, After(50, 10, ("mail", null))));
    }

    [Fact]
    public void A_name_that_a_field_once_had_is_not_missed_where_the_map_knows_the_one_it_has_now()
    {
        var both = Map with { Rows = [new("name", "full_name"), .. Map.Rows] };
        IReadOnlyList<FormField> told =
        [
            .. Map.Rows.Take(5).Select(r => new FormField(r.FormField, r.FormField, FormFieldType.Text, false, [])),
        ];
        Assert.Empty(DriftFinder.Find(Form() with { Fields = told, Tells = true, Map = both }, []));
    }

    public static TheoryData<string, (string, string?)[]> Changes() =>
        new()
        {
            { "gone.phone", [("phone", null)] },
            { "gone.mail", [("mail", "")] },
            { "renamed.phone.mobile_number", [("phone", null), ("mobile_number", "07700 900123")] },
            { "fresh.job_title", [("job_title", "Depot manager")] },
            { "choices.fleet.25 and more", [("fleet", "25 and more")] },
            { "kind.phone", [("phone", "any time")] },
        };

    [Theory]
    [MemberData(nameof(Changes))]
    public void What_was_found_stands_with_its_mend_until_it_is_as_it_was_or_mended(
        string key,
        (string, string?)[] changed
    )
    {
        IReadOnlyList<DriftFinding> found = [];
        // Long enough for everything from before to be out of sight.
        for (var since = 1; since <= 80; since++)
        {
            found = DriftFinder.Find(Form(), [.. After(60, since, changed).Take(DriftFinder.Looks)], found);
            if (since >= 5)
                Assert.Equal(key, Assert.Single(found).Key);
        }

        Assert.Empty(DriftFinder.Find(Form(key), After(60, 80, changed), found));
        var mended = Map with
        {
            Rows =
            [
                .. Map.Rows.Where(r => r.FormField is not ("phone" or "mail" or "fleet")),
                new("mobile_number", "phone"),
                new("job_title", "job_title"),
            ],
        };
        Assert.Empty(DriftFinder.Find(Form() with { Map = mended }, After(0, 80, changed), found));
        // As it was again: at once, but for choices, which some may still give.
        var again = After(60, 80, changed)
            .Prepend(Sample(200, Answers(200)))
            .Prepend(Sample(201, Answers(201)))
            .ToList();
        Assert.Equal(
            key.StartsWith("choices", StringComparison.Ordinal),
            DriftFinder.Find(Form(), again, found).Count > 0
        );
    }

    [Fact]
    public void Looked_at_late_a_renamed_field_is_found_with_its_new_name_all_the_same()
    {
        var finding = Assert.Single(
            DriftFinder.Find(Form(), After(60, 30, ("phone", null), ("mobile_number", "07700 900123")))
        );
        Assert.Equal("renamed.phone.mobile_number", finding.Key);
        Assert.Equal(
            "choices.fleet.25 and more",
            Assert.Single(DriftFinder.Find(Form(), After(60, 30, ("fleet", "25 and more")))).Key
        );
    }

    [Fact]
    public void What_is_gone_is_called_renamed_once_its_new_name_is_seen()
    {
        var gone = DriftFinder.Find(Form(), After(60, 3, ("phone", null)));
        Assert.Equal(DriftKind.Gone, Assert.Single(gone).Kind);
        var renamed = DriftFinder.Find(
            Form(),
            [.. After(60, 5, ("phone", null), ("mobile_number", "07700 900123"))],
            gone
        );
        Assert.Equal(DriftKind.Renamed, Assert.Single(renamed).Kind);
    }

    [Fact]
    public void What_a_person_has_said_is_right_is_not_said_again() =>
        Assert.Empty(DriftFinder.Find(Form("gone.phone"), After(60, 3, ("phone", null))));

    [Fact]
    public void With_few_submissions_nothing_is_compared() =>
        Assert.Empty(DriftFinder.Find(Form(), After(6, 3, ("phone", null))));

    /// <summary>Made-up histories of forms that do not change: how often they are said to have.</summary>
    [Fact]
    public void A_form_that_does_not_change_is_seldom_said_to_have_changed()
    {
        var (findings, submissions) = DriftHistories.FalseAlarms(forms: 60, each: 200, seed: 20261126);
        Assert.True(findings * 2000.0 / submissions <= 1, $"{findings} findings in {submissions} submissions");
    }
}

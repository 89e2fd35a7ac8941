using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>Forms that are built: what is missing, and what their maps say.</summary>
public sealed class FormsTests
{
    private static readonly FormDesign Whole = FormDesign.Fresh with
    {
        Consent = new("We ring you back.", "https://rides.example.com/privacy", false),
    };

    private static DesignField Field(
        string name,
        FormFieldType type = FormFieldType.Text,
        string label = "A question",
        string[]? choices = null,
        HiddenValue? hidden = null
    ) => new(name, label, type, false, choices ?? [], null, hidden);

    private static FormDesign With(params DesignField[] more) => Whole with { Fields = [.. Whole.Fields, .. more] };

    public static TheoryData<string, FormDesign, string[]> Gaps() =>
        new()
        {
            { "a whole one has none", Whole, [] },
            { "the fresh one lacks its privacy notice", FormDesign.Fresh, ["consent.privacyUrl"] },
            {
                "nothing said about the answers",
                Whole with
                {
                    Consent = null,
                },
                ["consent.words", "consent.privacyUrl"]
            },
            {
                "a script is no web address",
                Whole with
                {
                    Consent = new("x", "javascript:alert(1)", false),
                },
                ["consent.privacyUrl"]
            },
            { "nobody to be reached", Whole with { Fields = [Whole.Fields[0]] }, ["fields"] },
            { "a question without words", With(Field("a", label: " ")), ["fields.3.label"] },
            { "a name no form can use", With(Field("A b")), ["fields.3.name"] },
            { "a name kept for the form", With(Field("id"), Field("lf_x")), ["fields.3.name", "fields.4.name"] },
            { "a name that stands twice", With(Field("email")), ["fields.3.name"] },
            { "one choice is none", With(Field("a", FormFieldType.Choice, choices: ["one"])), ["fields.3.choices"] },
            {
                "the same choice twice",
                With(Field("a", FormFieldType.Choices, choices: ["one", "One"])),
                ["fields.3.choices"]
            },
            { "hidden and empty", With(Field("a", FormFieldType.Hidden)), ["fields.3.hidden"] },
            { "hidden and tracking", With(Field("a", FormFieldType.Hidden, hidden: new(null, "utm_source"))), [] },
            {
                "an opening without a headline, its picture without words",
                Whole with
                {
                    Opening = new("", "", "https://x.example/p.png", null),
                },
                ["opening.headline", "opening.pictureWords"]
            },
            { "onwards to nowhere", Whole with { Ending = new(EndingKind.GoTo, "", null, null) }, ["ending.url"] },
            {
                "a download without one",
                Whole with
                {
                    Ending = new(EndingKind.Download, "Here it is", "ftp://x", null),
                },
                ["ending.url"]
            },
            {
                "a call without a number, for who is known",
                Whole with
                {
                    EndingIfKnown = new(EndingKind.Call, "Ring us", null, ""),
                },
                ["endingIfKnown.phone"]
            },
            {
                "an ending that says nothing",
                Whole with
                {
                    Ending = new(EndingKind.Message, " ", null, null),
                },
                ["ending.words"]
            },
            { "no host name", Whole with { Hosts = ["rides.example.com", "https://x/"] }, ["hosts.1"] },
            { "a button without words", Whole with { SendWords = "" }, ["sendWords"] },
        };

    [Theory]
    [MemberData(nameof(Gaps))]
    public void What_is_missing_is_listed_with_its_place_and_its_mend(string why, FormDesign design, string[] places)
    {
        var faults = DesignFaults.Of(design);
        Assert.True(
            places.SequenceEqual(faults.Select(f => f.Place)),
            $"{why}: {string.Join(", ", faults.Select(f => f.Place))}"
        );
        Assert.All(faults, f => Assert.True(f.What.EndsWith('.') && f.Mend.EndsWith('.')));
    }

    [Fact]
    public void Fields_that_say_what_they_are_make_a_map_and_others_do_not()
    {
        var map = ObviousMap.Of([.. Whole.AsFields(), new("size", "Fleet size", FormFieldType.Choice, false, [])])!;
        Assert.Equal(["full_name", "email", "phone", "size"], map.Rows.Take(4).Select(r => r.LeadField));
        Assert.Contains(map.Rows, r => r is { FormField: "utm_source", LeadField: "utm_source" });
        Assert.Null(ObviousMap.Of([new("mail", "Email", FormFieldType.Email, true, [])]));
        Assert.Null(ObviousMap.Of([]));
    }
}

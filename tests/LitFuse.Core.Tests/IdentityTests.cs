using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using Xunit;

namespace LitFuse.Core.Tests;

public sealed class IdentityTests
{
    [Theory]
    [InlineData("07700 900512", "GB", "+447700900512", "GB", true)] // Ofcom's numbers for drama
    [InlineData("+44 (0)7700 900512", "IE", "+447700900512", "GB", true)] // a country code wins over the client's country
    [InlineData("0044 7700 900512", "GB", "+447700900512", "GB", true)]
    [InlineData("020 7946 0123", "GB", "+442079460123", "GB", true)]
    [InlineData("0113 496 0007", "GB", "+441134960007", "GB", true)]
    [InlineData("(416) 555-0142", "CA", "+14165550142", "CA", true)] // NANPA: 555-0100 to 0199
    [InlineData("+1 212 555 0199", "CA", "+12125550199", "US", true)]
    [InlineData("020 911 2345", "IE", "+353209112345", "IE", true)] // ComReg's numbers for drama
    [InlineData("+1 416 555 0242", "CA", "+14165550242", "CA", false)] // beyond the range kept for fiction
    public void A_typed_phone_number_becomes_E164(
        string typed,
        string country,
        string e164,
        string from,
        bool fictional
    )
    {
        var read = PhoneReader.Read(typed, country);
        Assert.Null(read.Fault);
        Assert.Equal(new Phone(e164, from, fictional), read.Phone);
    }

    [Theory]
    [InlineData("ring me", "this is not a telephone number")]
    [InlineData("12", "the number of digits does not fit its country")]
    [InlineData("+999 1234567", "the country code is missing or unknown; write it as +44 7700 900512")]
    [InlineData("07700 9005120000000000", "too long for a telephone number")]
    public void What_is_no_phone_number_says_why(string typed, string fault)
    {
        var read = PhoneReader.Read(typed, "GB");
        Assert.Null(read.Phone);
        Assert.Equal(fault, read.Fault);
    }

    [Theory]
    [InlineData(null)]
    [InlineData("  ")]
    public void An_empty_phone_or_email_is_neither_there_nor_wrong(string? typed)
    {
        Assert.Equal(new PhoneReading(null, null), PhoneReader.Read(typed, "GB"));
        Assert.Equal(new EmailReading(null, null), EmailReader.Read(typed));
    }

    [Theory]
    [InlineData(" Ines.Calloway@Example.COM ", "ines.calloway@example.com")]
    [InlineData("mailto:ines@example.org", "ines@example.org")]
    [InlineData("<ines@example.net>;", "ines@example.net")]
    [InlineData("ines+ride@example.com", "ines+ride@example.com")] // only some providers ignore what follows a plus
    [InlineData("ines@exämple.com", "ines@xn--exmple-cua.com")]
    public void A_typed_email_is_cleaned_for_matching(string typed, string email) =>
        Assert.Equal(new EmailReading(email, null), EmailReader.Read(typed));

    [Theory]
    [InlineData("ines")]
    [InlineData("ines@")]
    [InlineData("@example.com")]
    [InlineData("ines@example")]
    [InlineData("ines calloway@example.com")]
    [InlineData("ines@@example.com")]
    public void What_is_no_email_says_why(string typed)
    {
        var read = EmailReader.Read(typed);
        Assert.Null(read.Email);
        Assert.False(string.IsNullOrEmpty(read.Fault));
    }

    [Theory]
    [InlineData("Ines Calloway", "Ines", "Calloway")]
    [InlineData("Ines van der Calloway", "Ines", "van der Calloway")] // particles go with the last name
    [InlineData("Calloway, Ines", "Ines", "Calloway")]
    [InlineData("Dr. Ines Maria Calloway", "Ines Maria", "Calloway")]
    [InlineData("Ines", "Ines", null)]
    [InlineData("", null, null)]
    public void A_full_name_is_split(string full, string? first, string? last) =>
        Assert.Equal((first, last), PersonNames.Split(full));

    private static readonly PersonSketch Nobody = new(null, null, null);

    private static readonly ContactKey Email = new(ContactKind.Email, "ines@example.com"),
        Phone = new(ContactKind.Phone, "+447700900512");

    [Fact]
    public void The_email_decides_whose_a_submission_is_and_the_conflict_is_told()
    {
        var (ines, hal) = (new object(), new object());
        var both = LeadMatcher.Match<object>([Phone, Email], Nobody, k => [k == Email ? ines : hal], _ => Nobody);
        Assert.Same(ines, both.Lead);
        Assert.Same(hal, both.Conflict);
        Assert.Empty(both.NewKeys);

        var phoneOnly = LeadMatcher.Match<object>([Email, Phone], Nobody, k => k == Phone ? [hal] : [], _ => Nobody);
        Assert.Same(hal, phoneOnly.Lead);
        Assert.Null(phoneOnly.Conflict);
        Assert.Equal([Email], phoneOnly.NewKeys);

        var nobody = LeadMatcher.Match<object>([Email], Nobody, _ => [], _ => Nobody);
        Assert.Null(nobody.Lead);
        Assert.Equal([Email], nobody.NewKeys);
    }

    [Theory]
    [InlineData("Ines", "Calloway", "ines@example.com", "Bram", "Varga", "bram@example.com", true)] // two strangers
    [InlineData("Ines", "Calloway", "ines@example.com", "Bram", "Calloway", "bram@example.com", true)] // a couple
    [InlineData("Ines", "Calloway", "ines@example.com", "Ines", "Calloway", "ines@work.example.com", false)] // one person, two mailboxes
    [InlineData("Ines", "Calloway", "ines@example.com", "I.", "Calloway", "ic@example.com", false)]
    [InlineData("Ines", "Calloway", "ines@example.com", "Calloway", "Ines", "ic@example.com", false)] // swapped
    [InlineData("Inès", "Calloway", "ines@example.com", "INES", null, "ic@example.com", false)]
    [InlineData("Ines", "Calloway", "ines@example.com", "Bram", "Varga", "INES@example.com", false)] // one mailbox
    [InlineData("Ines", "Calloway", null, "Bram", "Varga", null, true)]
    [InlineData("Ines", "Calloway", null, "Bram", null, "bram@example.com", false)] // too little to say
    [InlineData(null, null, "ines@example.com", "Bram", "Varga", "bram@example.com", false)]
    [InlineData("สมชาย", "ใจดี", "s@example.com", "สมหญิง", "รักดี", "r@example.com", true)]
    [InlineData("Steph", "Moreau", "s@example.com", "Stephanie", "Moreau", "sm@example.com", false)]
    public void Two_who_share_a_number_are_told_apart_by_what_else_they_say(
        string? first,
        string? last,
        string? email,
        string? otherFirst,
        string? otherLast,
        string? otherEmail,
        bool two
    )
    {
        PersonSketch a = new(first, last, email),
            b = new(otherFirst, otherLast, otherEmail);
        Assert.Equal((two, two), (a.Contradicts(b), b.Contradicts(a)));
        var there = new object();
        var match = LeadMatcher.Match<object>([Phone], a, _ => [there], _ => b);
        Assert.Equal(two, match.Lead is null);
        Assert.Equal(two ? [Phone] : [], match.Shared);
        Assert.Equal(two ? there : null, match.Conflict);
    }

    [Fact]
    public void Of_several_who_share_a_number_the_one_of_that_name_is_meant()
    {
        var (ines, bram) = (
            new PersonSketch("Ines", "Calloway", "ines@example.com"),
            new PersonSketch("Bram", "Varga", "bram@example.com")
        );
        Assert.Same(
            bram,
            LeadMatcher.Match<PersonSketch>([Phone], new("Bram", "Varga", null), _ => [ines, bram], l => l).Lead
        );
        var third = LeadMatcher.Match<PersonSketch>(
            [Phone],
            new("Ada", "Lund", "ada@example.com"),
            _ => [ines, bram],
            l => l
        );
        Assert.Null(third.Lead);
        Assert.Equal([Phone], third.Shared);
    }

    [Theory]
    [InlineData("00000", "GB")]
    [InlineData("1234", "GB")]
    [InlineData("0800", "GB")]
    [InlineData("2026-11-24", "GB")]
    [InlineData("24112026", "GB")]
    [InlineData("0000000000", "US")]
    [InlineData("1111111111", "US")]
    [InlineData("0000000000", "GB")]
    [InlineData("+44 0000 000000", "GB")]
    [InlineData("999", "GB")]
    [InlineData("12345", "CA")]
    public void What_only_looks_like_a_number_is_nobodys(string typed, string country)
    {
        var read = PhoneReader.Read(typed, country);
        Assert.Null(read.Phone);
        Assert.False(string.IsNullOrEmpty(read.Fault));
    }

    [Theory]
    [InlineData("GB", "Europe/London", "Europe/London")]
    [InlineData("CA", "Europe/London", "America/St_Johns")] // another country's number: that country's first zone
    [InlineData("CA", "America/Toronto", "America/Toronto")]
    [InlineData(null, "Europe/Dublin", "Europe/Dublin")]
    public void A_lead_lives_by_the_clock_of_its_phone(string? country, string client, string zone) =>
        Assert.Equal(zone, LeadZone.For(country, client));
}

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
    public void A_typed_phone_number_becomes_E164(string typed, string country, string e164, string from, bool fictional)
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
    public void A_typed_email_is_cleaned_for_matching(string typed, string email) => Assert.Equal(new EmailReading(email, null), EmailReader.Read(typed));

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
    public void A_full_name_is_split(string full, string? first, string? last) => Assert.Equal((first, last), PersonNames.Split(full));

    [Fact]
    public void The_email_decides_whose_a_submission_is_and_the_conflict_is_told()
    {
        var ines = new object();
        var hal = new object();
        ContactKey email = new(ContactKind.Email, "ines@example.com"), phone = new(ContactKind.Phone, "+447700900512");
        var both = LeadMatcher.Match([phone, email], k => k == email ? ines : hal);
        Assert.Same(ines, both.Lead);
        Assert.Same(hal, both.Conflict);
        Assert.Empty(both.NewKeys);

        var phoneOnly = LeadMatcher.Match([email, phone], k => k == phone ? hal : null);
        Assert.Same(hal, phoneOnly.Lead);
        Assert.Null(phoneOnly.Conflict);
        Assert.Equal([email], phoneOnly.NewKeys);

        var nobody = LeadMatcher.Match<object>([email], _ => null);
        Assert.Null(nobody.Lead);
        Assert.Equal([email], nobody.NewKeys);
    }

    [Theory]
    [InlineData("GB", "Europe/London", "Europe/London")]
    [InlineData("CA", "Europe/London", "America/St_Johns")] // another country's number: that country's first zone
    [InlineData("CA", "America/Toronto", "America/Toronto")]
    [InlineData(null, "Europe/Dublin", "Europe/Dublin")]
    public void A_lead_lives_by_the_clock_of_its_phone(string? country, string client, string zone) => Assert.Equal(zone, LeadZone.For(country, client));
}

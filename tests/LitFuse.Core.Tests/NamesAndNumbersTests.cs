using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using PhoneNumbers;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>Names, telephone numbers, dates, amounts as people of many countries write them.</summary>
public sealed class NamesAndNumbersTests
{
    // ITU-T E.164 and the national plans, as libphonenumber keeps them: its own example numbers, so that nobody's is
    // used.
    public static TheoryData<string> Countries() =>
        [
            .. new[]
            {
                "AT",
                "AU",
                "BE",
                "BR",
                "CH",
                "CZ",
                "DE",
                "DK",
                "ES",
                "FI",
                "FR",
                "GR",
                "HU",
                "IN",
                "IT",
                "JP",
                "MX",
                "NL",
                "NO",
                "NZ",
                "PL",
                "PT",
                "RO",
                "SE",
                "SK",
                "TR",
                "ZA",
            },
        ];

    [Theory]
    [MemberData(nameof(Countries))]
    public void A_number_of_each_country_is_the_same_however_it_is_written(string country)
    {
        var util = PhoneNumberUtil.GetInstance();
        foreach (var type in new[] { PhoneNumberType.MOBILE, PhoneNumberType.FIXED_LINE })
        {
            var example = util.GetExampleNumberForType(country, type);
            var e164 = util.Format(example, PhoneNumberFormat.E164);
            var national = util.Format(example, PhoneNumberFormat.NATIONAL);
            foreach (
                var typed in new[]
                {
                    national,
                    util.Format(example, PhoneNumberFormat.INTERNATIONAL),
                    e164,
                    "00" + e164[1..],
                    " " + national.Replace(' ', '-') + " ",
                    "tel: " + e164,
                }
            )
            {
                // Where 00 is not how one dials abroad, nobody writes it so.
                if (typed.StartsWith("00", StringComparison.Ordinal) && country is "AU" or "BR" or "JP")
                    continue;
                var read = PhoneReader.Read(typed, country);
                Assert.True(
                    read.Phone?.E164 == e164,
                    $"{country} {typed}: {read.Phone?.E164 ?? read.Fault}, not {e164}"
                );
            }
        }
    }

    [Theory]
    [InlineData("0113 496 0012 / 07700 900123", "+441134960012 +447700900123")]
    [InlineData("07700 900123 or 0113 496 0012", "+447700900123 +441134960012")]
    [InlineData("07700 900123; 07700 900123", "+447700900123")]
    [InlineData("0113 496 0012 oder fragen Sie nach mir", "+441134960012")]
    [InlineData("ring me in the morning, or not", "")]
    public void Several_numbers_in_one_answer_are_all_known(string typed, string numbers)
    {
        var (phones, fault) = PhoneReader.ReadAll(typed, "GB");
        Assert.Equal(numbers, string.Join(' ', phones.Select(p => p.E164)));
        Assert.Equal(numbers.Length == 0, fault is not null);
    }

    [Theory]
    [InlineData("Ines Calloway <ines@example.com>", "ines@example.com")]
    [InlineData("ines@example.com, office@example.org", "ines@example.com office@example.org")]
    [InlineData("INES@EXAMPLE.COM ines@example.com", "ines@example.com")]
    [InlineData("no mail please", "")]
    public void Several_emails_in_one_answer_are_all_known(string typed, string emails)
    {
        var (read, fault) = EmailReader.ReadAll(typed);
        Assert.Equal(emails, string.Join(' ', read));
        Assert.Equal(emails.Length == 0, fault is not null);
    }

    [Theory]
    [InlineData("Ines Calloway", "", "Ines", "Calloway")]
    [InlineData("Dr. Ines Calloway", "", "Ines", "Calloway")]
    [InlineData("Prof Dr Ines Calloway, PhD", "", "Ines", "Calloway")]
    [InlineData("Mr Bram Tillotson Jr.", "", "Bram", "Tillotson")]
    [InlineData("Calloway, Ines", "", "Ines", "Calloway")]
    [InlineData("van der Calloway, Ines", "", "Ines", "van der Calloway")]
    [InlineData("Ines Maria van der Calloway", "", "Ines Maria", "van der Calloway")]
    [InlineData("Johanna von der Heydt", "DE", "Johanna", "von der Heydt")]
    [InlineData("Siobhán Ní Dhomhnaill", "IE", "Siobhán", "Ní Dhomhnaill")]
    [InlineData("María José García López", "ES", "María José", "García López")]
    [InlineData("Ana García López", "ES", "Ana", "García López")]
    [InlineData("Juan Carlos Ruiz", "MX", "Juan Carlos", "Ruiz")]
    [InlineData("João Pedro Alves dos Santos", "PT", "João Pedro", "Alves dos Santos")]
    [InlineData("Ana García López", "GB", "Ana García", "López")]
    [InlineData("Kovács Anna", "HU", "Anna", "Kovács")]
    [InlineData("山田 太郎", "JP", "太郎", "山田")]
    [InlineData("김민준", "KR", "민준", "김")]
    [InlineData("INES O'NEILL-HART", "GB", "Ines", "O'Neill-Hart")]
    [InlineData("ines calloway", "GB", "ines", "calloway")] // as they wrote it: bell hooks is a name too
    [InlineData("Ludovic de la Fenwick", "FR", "Ludovic", "de la Fenwick")]
    [InlineData("Tomasz", "PL", "Tomasz", null)]
    [InlineData("  ", "GB", null, null)]
    [InlineData("Herr Dipl.-Ing. Jorun Ashdown", "DE", "Dipl.-Ing. Jorun", "Ashdown")]
    public void A_full_name_falls_into_first_and_last_by_the_habits_of_the_place(
        string full,
        string country,
        string? first,
        string? last
    ) => Assert.Equal((first, last), PersonNames.Split(full, country));

    [Fact]
    public void Both_parts_are_joined_as_people_of_the_place_write_them()
    {
        Assert.Equal("Ines Calloway", PersonNames.Join("Ines", "Calloway"));
        Assert.Equal("山田 太郎", PersonNames.Join("太郎", "山田"));
        Assert.Equal("Tomasz", PersonNames.Join("Tomasz", null));
        Assert.Null(PersonNames.Join("", null));
    }

    [Theory]
    [InlineData("14/06/2027", "GB", "2027-06-14")]
    [InlineData("06/14/2027", "GB", "2027-06-14")] // a part over 12 is the day, whatever the order
    [InlineData("06/05/2027", "US", "2027-06-05")]
    [InlineData("06/05/2027", "GB", "2027-05-06")]
    [InlineData("14.6.27", "DE", "2027-06-14")]
    [InlineData("2027-06-14", "US", "2027-06-14")]
    [InlineData("2027-06-14T10:30:00Z", "GB", "2027-06-14")]
    [InlineData("14 June 2027", "GB", "2027-06-14")]
    [InlineData("June 14th, 2027", "US", "2027-06-14")]
    [InlineData("14. März 2027", "DE", "2027-03-14")]
    [InlineData("3 août 2027", "FR", "2027-08-03")]
    [InlineData("14 de junio de 2027", "ES", "2027-06-14")]
    [InlineData("27/6/14", "JP", "2027-06-14")]
    [InlineData("20270614", "GB", "2027-06-14")]
    [InlineData("31/02/2027", "GB", null)]
    [InlineData("next summer", "GB", null)]
    public void A_date_is_read_in_the_order_of_its_place(string typed, string country, string? day) =>
        Assert.Equal(
            day,
            Dates.Read(typed, ReadingLocale.For(null, country).Dates) is { } read
                ? NodaTime.Text.LocalDatePattern.Iso.Format(read)
                : null
        );

    [Theory]
    [InlineData("1,234.5", "GB", "1234.5")]
    [InlineData("1.234,5", "DE", "1234.5")]
    [InlineData("1.234", "DE", "1234")]
    [InlineData("1.234", "GB", "1.234")]
    [InlineData("1,234", "GB", "1234")]
    [InlineData("1,234", "DE", "1.234")]
    [InlineData("1 234,50", "FR", "1234.50")]
    [InlineData("1'234.50", "CH", "1234.50")]
    [InlineData("12.345.678", "GB", "12345678")]
    [InlineData("-3", "GB", "-3")]
    [InlineData("25+", "GB", "25")]
    [InlineData("about ten", "GB", null)]
    public void A_number_is_read_with_the_signs_of_its_place(string typed, string country, string? number) =>
        Assert.Equal(
            number,
            ValueReader
                .Number(typed, ReadingLocale.For(null, country))
                ?.ToString(System.Globalization.CultureInfo.InvariantCulture)
        );

    [Theory]
    [InlineData("de-AT", "GB", true, DateOrder.DayMonthYear)]
    [InlineData("en-US", "DE", false, DateOrder.MonthDayYear)]
    [InlineData("sv", "GB", true, DateOrder.YearMonthDay)]
    [InlineData("fr-CA", "CA", true, DateOrder.YearMonthDay)]
    [InlineData("en", "IE", false, DateOrder.DayMonthYear)]
    [InlineData(null, "DE", true, DateOrder.DayMonthYear)]
    public void A_form_s_own_locale_wins_over_its_client_s_country(
        string? tag,
        string country,
        bool comma,
        DateOrder dates
    ) => Assert.Equal(new ReadingLocale(comma, dates), ReadingLocale.For(tag, country));
}

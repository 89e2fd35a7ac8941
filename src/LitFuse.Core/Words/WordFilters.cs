using System.Globalization;
using Fluid;
using Fluid.Values;
using LitFuse.Core.Hours;
using LitFuse.Core.Identity;
using NodaTime;
using NodaTime.Text;
using PhoneNumbers;

namespace LitFuse.Core.Words;

/// <summary>
/// The filters of words beside Liquid's own. All are blank-safe: an empty value stays empty, and what cannot be read
/// stays as it was.
/// </summary>
public static class WordFilters
{
    /// <summary>The furthest that days are moved, either way.</summary>
    internal const int MostDays = 4000;

    /// <summary>Each filter with what it makes, for the page that explains them.</summary>
    public static IReadOnlyList<(string Name, string Example, string Makes)> Known { get; } =
    [
        ("default", """{{ lead.first_name | default: "there" }}""", "the field, or the word where it is empty"),
        ("day", "{{ now | day }}", "Wednesday 25 November"),
        ("clock", "{{ now | clock }}", "09:41, on the lead's clock"),
        ("add_days", "{{ now | add_days: 2 | day }}", "the day after tomorrow"),
        ("add_working_days", "{{ now | add_working_days: 3 | day }}", "three of the client's working days on"),
        ("in_zone", """{{ now | in_zone: "America/Toronto" }}""", "25 November, 04:41"),
        ("money", "{{ lead.budget | money }}", "£1,200, in the client's currency or the amount's own"),
        ("first_name", "{{ lead.name | first_name }}", "the first name of a whole name"),
        ("initials", "{{ lead.name | initials }}", "IC"),
        ("name_case", "{{ lead.last_name | name_case }}", "McAllister, van der Berg"),
        ("phone", "{{ lead.phone | phone }}", "07700 900123: as it is dialled in the client's country"),
        (
            "as_number",
            "{{ lead.budget | as_number }}",
            "as it is; alone in a string of JSON, a number instead of the string"
        ),
        ("list", "{{ lead.cargo | list }}", "food, tools and people"),
    ];

    internal static void AddTo(FilterCollection filters)
    {
        foreach (var name in new[] { "date", "format_date", "time_zone" })
        {
            if (filters.TryGetValue(name, out var theirs))
                filters.AddFilter(name, OnTheirClock(theirs));
        }

        AddMoments(filters);
        AddTexts(filters);
    }

    private static void AddMoments(FilterCollection filters)
    {
        filters.AddFilter("day", (input, _, context) =>
            Dated(input, context, date => $"{date.DayOfWeek} {date.Day} {MonthOf(date.Month)}")
        );
        filters.AddFilter("clock", (input, _, context) =>
            On(input, context, Facts(context).Zone, local =>
                LocalTimePattern.CreateWithInvariantCulture("HH:mm").Format(local.TimeOfDay)
            )
        );
        filters.AddFilter("add_days", (input, arguments, context) =>
            Moved(input, context, (int)Math.Clamp(arguments.At(0).ToNumberValue(), -MostDays, MostDays), working: false)
        );
        filters.AddFilter("add_working_days", (input, arguments, context) =>
            Moved(input, context, (int)Math.Clamp(arguments.At(0).ToNumberValue(), -MostDays, MostDays), working: true)
        );
        filters.AddFilter("in_zone", (input, arguments, context) =>
            On(
                input,
                context,
                DateTimeZoneProviders.Tzdb.GetZoneOrNull(arguments.At(0).ToStringValue()) ?? Facts(context).Zone,
                local =>
                    $"{local.Day} {MonthOf(local.Month)}, {LocalTimePattern.CreateWithInvariantCulture("HH:mm").Format(local.TimeOfDay)}"
            )
        );
    }

    private static void AddTexts(FilterCollection filters)
    {
        filters.AddFilter("money", (input, arguments, context) =>
            Text(input, text =>
                Money(text, arguments.At(0).ToStringValue() is { Length: 3 } named ? named : Facts(context).Currency)
            )
        );
        filters.AddFilter("first_name", (input, _, _) => Text(input, text => PersonNames.Split(text).First ?? text));
        filters.AddFilter("initials", (input, _, _) =>
            Text(input, text =>
                string.Concat(
                    text.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(w => char.ToUpperInvariant(w[0]))
                )
            )
        );
        filters.AddFilter("name_case", (input, _, _) => Text(input, NameCase));
        filters.AddFilter("phone", (input, arguments, context) =>
            Text(input, text =>
                Dialled(text, arguments.At(0).ToStringValue() is { Length: 2 } named ? named : Facts(context).Country)
            )
        );
        filters.AddFilter("as_number", (input, _, _) => Text(input, text => text));
        filters.AddFilter("list", (input, _, _) =>
            new ValueTask<FluidValue>(
                new StringValue(
                    Listed(
                        input is BlockValue block
                            ? block.ToStringValue().Split('\n')
                            : input
                                .ToStringValue()
                                .Split(
                                    [',', '\n'],
                                    StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
                                )
                    )
                )
            )
        );
    }

    // The library's own read a day without a year by this machine's clock, and say a moment in this machine's zone.
    private static FilterDelegate OnTheirClock(FilterDelegate ofMoments) =>
        (input, arguments, context) =>
            input is DateTimeValue ? ofMoments(input, arguments, context)
            : MomentOf(input.ToStringValue().Trim(), Facts(context)) is { } at
                ? ofMoments(new DateTimeValue(at), arguments, context)
            : Text(input, text => text);

    private static DateTimeOffset? MomentOf(string text, WordFacts facts) =>
        text is "now" or "today" ? facts.Now.InZone(facts.Zone).ToDateTimeOffset()
        : InstantPattern.ExtendedIso.Parse(text) is { Success: true, Value: var at }
            ? at.InZone(facts.Zone).ToDateTimeOffset()
        : DateOf(text, facts.Zone) is { } date ? date.AtMidnight().WithOffset(Offset.Zero).ToDateTimeOffset()
        : null;

    private static WordFacts Facts(TemplateContext context) => Templates.FactsOf(context);

    private static ValueTask<FluidValue> Text(FluidValue input, Func<string, string> change)
    {
        var text = input.ToStringValue().Trim();
        return new(text.Length == 0 ? NilValue.Instance : new StringValue(change(text)));
    }

    private static ValueTask<FluidValue> Dated(
        FluidValue input,
        TemplateContext context,
        Func<LocalDate, string> say
    ) => Text(input, text => DateOf(text, Facts(context).Zone) is { } date ? say(date) : text);

    private static ValueTask<FluidValue> On(
        FluidValue input,
        TemplateContext context,
        DateTimeZone zone,
        Func<LocalDateTime, string> say
    ) =>
        Text(input, text =>
            InstantPattern.ExtendedIso.Parse(text) is { Success: true, Value: var at }
                ? say(at.InZone(zone).LocalDateTime)
                : text
        );

    // A moment stays a moment, a day a day.
    private static ValueTask<FluidValue> Moved(FluidValue input, TemplateContext context, int days, bool working) =>
        Text(input, text =>
        {
            var facts = Facts(context);
            // Near either end of the calendar there is no day to go to; what cannot be moved stays as it was.
            if (DateOf(text, facts.Zone) is not { } from || from.Year is < 100 or > 9900)
                return text;
            var to = working && facts.WorkDays.Count > 0 ? Working(from, days, facts.WorkDays) : from.PlusDays(days);
            if (InstantPattern.ExtendedIso.Parse(text) is { Success: true, Value: var at })
                return InstantPattern.ExtendedIso.Format(facts.Zone.Shows(to + at.InZone(facts.Zone).TimeOfDay));
            return LocalDatePattern.Iso.Format(to);
        });

    private static LocalDate Working(LocalDate from, int days, IReadOnlyList<IsoDayOfWeek> workDays)
    {
        var step = Math.Sign(days);
        for (var left = Math.Abs(days); left > 0; )
        {
            from = from.PlusDays(step);
            if (workDays.Contains(from.DayOfWeek))
                left--;
        }

        return from;
    }

    private static LocalDate? DateOf(string text, DateTimeZone zone) =>
        InstantPattern.ExtendedIso.Parse(text) is { Success: true, Value: var at } ? at.InZone(zone).Date
        : text.Length >= 10 && LocalDatePattern.Iso.Parse(text[..10]) is { Success: true, Value: var date } ? date
        : null;

    private static string Money(string text, string currency)
    {
        var parts = text.Split(' ');
        if (!decimal.TryParse(parts[0], NumberStyles.Number, CultureInfo.InvariantCulture, out var amount))
            return text;
        var code = parts.Length > 1 ? parts[^1].ToUpperInvariant() : currency;
        var figure =
            amount == Math.Truncate(amount)
                ? amount.ToString("#,0", CultureInfo.InvariantCulture)
                : amount.ToString("#,0.00", CultureInfo.InvariantCulture);
        return code switch
        {
            "GBP" => "£" + figure,
            "EUR" => "€" + figure,
            "USD" => "$" + figure,
            "CAD" => "CA$" + figure,
            "" => figure,
            _ => $"{figure} {code}",
        };
    }

    private static string NameCase(string text) =>
        string.Join(
            ' ',
            text.Split(' ', StringSplitOptions.RemoveEmptyEntries)
                .Select(
                    (word, i) =>
                    {
                        var small = word.ToLowerInvariant();
                        if (
                            i > 0
                            && small
                                is "van"
                                    or "von"
                                    or "der"
                                    or "den"
                                    or "de"
                                    or "da"
                                    or "di"
                                    or "la"
                                    or "du"
                                    or "ten"
                                    or "ter"
                                    or "y"
                        )
                            return small;
                        var cased = string.Join('-', small.Split('-').Select(Capital));
                        return cased.StartsWith("Mc", StringComparison.Ordinal) && cased.Length > 3
                                ? "Mc" + Capital(cased[2..])
                            : cased.Length > 2 && cased[1] is '\'' or '’' ? cased[..2] + Capital(cased[2..])
                            : cased;
                    }
                )
        );

    private static string Capital(string word) => word.Length == 0 ? word : char.ToUpperInvariant(word[0]) + word[1..];

    private static string Dialled(string text, string country)
    {
        try
        {
            var util = PhoneNumberUtil.GetInstance();
            var number = util.Parse(text, country.Length == 2 ? country : null);
            return util.Format(
                number,
                util.GetCountryCodeForRegion(country.Length == 2 ? country : "ZZ") == number.CountryCode
                    ? PhoneNumberFormat.NATIONAL
                    : PhoneNumberFormat.INTERNATIONAL
            );
        }
        catch (NumberParseException)
        {
            return text;
        }
    }

    private static string Listed(IReadOnlyList<string> parts) =>
        parts.Count switch
        {
            0 => "",
            1 => parts[0],
            _ => string.Join(", ", parts.Take(parts.Count - 1)) + " and " + parts[^1],
        };

    private static string MonthOf(int month) => CultureInfo.InvariantCulture.DateTimeFormat.GetMonthName(month);
}

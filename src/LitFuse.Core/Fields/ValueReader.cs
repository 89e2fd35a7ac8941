using System.Globalization;
using LitFuse.Core.Forms;
using LitFuse.Core.Texts;
using NodaTime;

namespace LitFuse.Core.Fields;

/// <summary>What became of one answer: the value, or the answer as typed with the fault beside it.</summary>
public readonly record struct ValueReading(string Value, string? Fault);

/// <summary>Reads an answer as what its lead field holds.</summary>
public static class ValueReader
{
    private static readonly HashSet<string> Yes = new(StringComparer.Ordinal)
    {
        "yes",
        "y",
        "true",
        "1",
        "on",
        "ok",
        "checked",
        "agree",
        "agreed",
        "i agree",
        "accept",
        "accepted",
        "ja",
        "oui",
        "si",
        "sim",
        "tak",
        "kylla",
        "ano",
        "evet",
        "igen",
        "da",
        "да",
        "はい",
        "x",
        "opt in",
        "granted",
    };

    private static readonly HashSet<string> No = new(StringComparer.Ordinal)
    {
        "no",
        "n",
        "false",
        "0",
        "off",
        "unchecked",
        "disagree",
        "declined",
        "nein",
        "non",
        "nao",
        "nie",
        "nej",
        "nee",
        "nei",
        "ei",
        "ne",
        "hayir",
        "nem",
        "nu",
        "нет",
        "いいえ",
        "opt out",
        "denied",
    };

    private static readonly Dictionary<string, string> Currencies = new(StringComparer.OrdinalIgnoreCase)
    {
        ["£"] = "GBP",
        ["€"] = "EUR",
        ["$"] = "",
        ["¥"] = "JPY",
        ["zł"] = "PLN",
        ["kč"] = "CZK",
        ["₺"] = "TRY",
        ["us$"] = "USD",
        ["ca$"] = "CAD",
        ["c$"] = "CAD",
        ["a$"] = "AUD",
        ["r$"] = "BRL",
        ["ft"] = "HUF",
    };

    /// <summary>Reads <paramref name="typed"/> for <paramref name="field"/>.</summary>
    public static ValueReading Read(string typed, LeadField field, ReadingLocale locale) =>
        field.Type switch
        {
            LeadFieldType.Number => Number(typed, locale) is { } n
                ? new(Plain(n), null)
                : new(typed, "this is not a number"),
            LeadFieldType.Money => Money(typed, locale),
            LeadFieldType.Date => Dates.Read(typed, locale.Dates) is { } day
                ? new(NodaTime.Text.LocalDatePattern.Iso.Format(day), null)
                : new(typed, "this is not a date"),
            LeadFieldType.YesNo => YesNo(typed) is { } b
                ? new(b ? "yes" : "no", null)
                : new(typed, "this is neither yes nor no"),
            LeadFieldType.Link => Link(typed),
            LeadFieldType.Choice => Choice(typed, field.Choices),
            LeadFieldType.Choices => Choices(typed, field.Choices),
            _ => new(typed, null),
        };

    /// <summary>Whether it says yes, in any of several languages; <c>null</c> when it says neither.</summary>
    public static bool? YesNo(string typed)
    {
        var plain = Tokens.PlainOf(typed);
        return Yes.Contains(plain) ? true
            : No.Contains(plain) ? false
            : null;
    }

    /// <summary>
    /// A number as written there. Where both signs are in it, the last is the decimal one; one sign alone that is
    /// followed by exactly three digits groups, unless the locale says that it is the decimal sign.
    /// </summary>
    public static decimal? Number(string typed, ReadingLocale locale)
    {
        var text = typed
            .Trim()
            .TrimEnd('%', '+')
            .Replace("\u00a0", "", StringComparison.Ordinal)
            .Replace("\u202f", "", StringComparison.Ordinal)
            .Replace(" ", "", StringComparison.Ordinal)
            .Replace("'", "", StringComparison.Ordinal)
            .Replace("\u2019", "", StringComparison.Ordinal)
            .Replace('\u2212', '-');
        if (text.Length is 0 or > 30 || text.Any(c => !char.IsAsciiDigit(c) && c is not ('.' or ',' or '-')))
            return null;
        var (comma, point) = (text.LastIndexOf(','), text.LastIndexOf('.'));
        var mark =
            comma >= 0 && point >= 0 ? (comma > point ? ',' : '.')
            : comma >= 0 ? Alone(text, ',', locale.DecimalComma)
            : point >= 0 ? Alone(text, '.', !locale.DecimalComma)
            : '\0';
        var clean = new string([
            .. text.Where(c => char.IsAsciiDigit(c) || c == '-' || c == mark).Select(c => c == mark ? '.' : c),
        ]);
        return decimal.TryParse(
            clean,
            NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
            CultureInfo.InvariantCulture,
            out var n
        )
            ? n
            : null;
    }

    private static char Alone(string text, char sign, bool isDecimal)
    {
        if (text.Count(c => c == sign) > 1)
            return '\0';
        var after = text.Length - 1 - text.IndexOf(sign, StringComparison.Ordinal);
        return isDecimal || after != 3 ? sign : '\0';
    }

    private static string Plain(decimal n) =>
        (n == Math.Truncate(n) ? Math.Truncate(n) : n).ToString(CultureInfo.InvariantCulture);

    private static ValueReading Money(string typed, ReadingLocale locale)
    {
        var text = typed.Trim();
        var letters = new string([
            .. text.Where(c => char.IsLetter(c) || char.GetUnicodeCategory(c) == UnicodeCategory.CurrencySymbol),
        ]).ToLowerInvariant();
        var times = 1m;
        if (letters is "k" || letters.EndsWith('k') && Currencies.ContainsKey(letters[..^1]))
            (times, letters) = (1000m, letters[..^1]);
        var digits = new string([
            .. text.Where(c => !char.IsLetter(c) && char.GetUnicodeCategory(c) != UnicodeCategory.CurrencySymbol),
        ]);
        if (Number(digits, locale) is not { } amount)
            return new(typed, "this is not an amount");
        var currency =
            letters.Length == 0 ? ""
            : Currencies.TryGetValue(letters, out var known) ? known
            : letters.Length == 3 ? letters.ToUpperInvariant()
            : null;
        if (currency is null)
            return new(typed, "this is not an amount");
        return new(Plain(amount * times) + (currency.Length > 0 ? " " + currency : ""), null);
    }

    private static ValueReading Link(string typed)
    {
        var text = typed.Trim();
        if (
            text.Length > 0
            && !text.Contains("://", StringComparison.Ordinal)
            && text.Contains('.', StringComparison.Ordinal)
            && !text.Contains(' ', StringComparison.Ordinal)
        )
            text = "https://" + text;
        return DesignFaults.IsWeb(text) && text.Contains('.', StringComparison.Ordinal)
            ? new(text, null)
            : new(typed, "this is not an address on the web");
    }

    /// <summary>The choice that an answer means: equal but for case, accents, spaces and the kind of dash.</summary>
    public static ValueReading Choice(string typed, IReadOnlyList<string> choices)
    {
        if (choices.Count == 0)
            return new(typed, null);
        return Match(typed, choices) is { } choice
            ? new(choice, null)
            : new(typed, "this is none of the field's choices");
    }

    private static string? Match(string typed, IReadOnlyList<string> choices)
    {
        var plain = Marked(typed);
        return choices.FirstOrDefault(c => c == typed) ?? choices.FirstOrDefault(c => Marked(c) == plain);
    }

    // A plus or a less-than sign is all that tells “25+” from “25”.
    private static string Marked(string text) =>
        Tokens.PlainOf(text)
        + (text.Contains('+', StringComparison.Ordinal) ? "+" : "")
        + (text.Contains('<', StringComparison.Ordinal) ? "<" : "");

    private static ValueReading Choices(string typed, IReadOnlyList<string> choices)
    {
        if (choices.Count == 0)
            return new(typed, null);
        if (Match(typed, choices) is { } whole)
            return new(whole, null);
        var (found, strange) = (new List<string>(), new List<string>());
        foreach (
            var part in typed.Split(
                [',', ';', '|', '\n'],
                StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            if (Match(part, choices) is { } choice)
                found.Add(choice);
            else
                strange.Add(part);
        }

        var value = string.Join(", ", found.Concat(strange).Distinct(StringComparer.Ordinal));
        return new(value, strange.Count == 0 ? null : $"“{strange[0]}” is none of the field's choices");
    }
}

/// <summary>Dates as people write them.</summary>
public static class Dates
{
    // The months' names as they begin, in the languages that forms here come in.
    private static readonly Dictionary<string, int> Months = Named(
        "jan januar january janvier enero gennaio januari styczen stycznia ocak leden jen ene gen",
        "feb februar february fevrier fev febrero febbraio februari luty lutego subat unor",
        "mar mars march marz maerz marzo maart marzec marca mart brezen mrt",
        "apr april avril avr abril aprile kwiecien kwietnia nisan duben",
        "may mai mayo maggio mei maj mayis kveten mag",
        "jun juni june juin junio giugno czerwiec czerwca haziran cerven giu",
        "jul juli july juillet juil julio luglio lipiec lipca temmuz lug",
        "aug august aout agosto augustus sierpien sierpnia agustos srpen ago",
        "sep sept september septembre septiembre settembre wrzesien wrzesnia eylul zari set setembro",
        "oct okt october oktober octobre octubre ottobre pazdziernik ekim rijen ott outubro out",
        "nov november novembre noviembre listopad listopada kasim novembro",
        "dec dez december dezember decembre diciembre dicembre grudzien grudnia aralik prosinec dic dezembro"
    );

    /// <summary>
    /// The day that is meant, or <c>null</c>. A part over 12 is the day and one of four digits the year, whatever the
    /// order.
    /// </summary>
    public static LocalDate? Read(string typed, DateOrder order)
    {
        var text = typed.Trim();
        // A time behind the day says nothing about the day.
        var t = text.IndexOf('T', StringComparison.Ordinal);
        if (t == 10)
            text = text[..10];
        var parts = Tokens
            .Of(text)
            .Where(p =>
                p
                    is not (
                        "de"
                        or "of"
                        or "st"
                        or "nd"
                        or "rd"
                        or "th"
                        or "den"
                        or "the"
                        or "le"
                        or "年"
                        or "月"
                        or "日"
                    )
            )
            .ToList();
        if (parts.Count > 3 && parts.Skip(3).All(p => p.All(char.IsAsciiDigit) || p is "am" or "pm" or "z"))
            parts = parts[..3];
        if (parts.Count == 1 && parts[0].Length == 8 && parts[0].All(char.IsAsciiDigit))
            parts = [parts[0][..4], parts[0][4..6], parts[0][6..]];
        if (parts.Count != 3)
            return null;
        var month = parts.FindIndex(Months.ContainsKey);
        if (month >= 0)
        {
            var rest = parts.Where((_, i) => i != month).ToList();
            if (!rest.All(r => r.Length <= 4 && r.All(char.IsAsciiDigit)))
                return null;
            return rest[0].Length == 4
                ? Of(rest[0], Months[parts[month]], rest[1])
                : Of(rest[1], Months[parts[month]], rest[0]);
        }

        if (!parts.All(p => p.Length <= 4 && p.All(char.IsAsciiDigit)))
            return null;
        if (parts[0].Length == 4)
            return Of(parts[0], int.Parse(parts[1], CultureInfo.InvariantCulture), parts[2]);
        var (a, b) = (
            int.Parse(parts[0], CultureInfo.InvariantCulture),
            int.Parse(parts[1], CultureInfo.InvariantCulture)
        );
        if (order == DateOrder.YearMonthDay && parts[2].Length < 4)
            return Of(parts[0], b, parts[2]);
        var monthFirst = a <= 12 && (b > 12 || order == DateOrder.MonthDayYear);
        return monthFirst ? Of(parts[2], a, parts[1]) : Of(parts[2], b, parts[0]);
    }

    private static LocalDate? Of(string year, int month, string day)
    {
        var (y, d) = (int.Parse(year, CultureInfo.InvariantCulture), int.Parse(day, CultureInfo.InvariantCulture));
        // Two digits: a century ago at most, half a century ahead at most, about now.
        if (year.Length <= 2)
            y += y < 70 ? 2000 : 1900;
        if (y is < 1900 or > 2200 || month is < 1 or > 12 || d < 1 || d > CalendarSystem.Iso.GetDaysInMonth(y, month))
            return null;
        return new LocalDate(y, month, d);
    }

    private static Dictionary<string, int> Named(params string[] byMonth)
    {
        var names = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var i = 0; i < byMonth.Length; i++)
            foreach (var name in byMonth[i].Split(' '))
                names.TryAdd(name, i + 1);
        return names;
    }
}

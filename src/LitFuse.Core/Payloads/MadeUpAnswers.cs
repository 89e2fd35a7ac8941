using System.Globalization;
using LitFuse.Core.Forms;

namespace LitFuse.Core.Payloads;

/// <summary>
/// Realistic answers of nobody, for test leads: invented names, example addresses, numbers kept for fiction.
/// </summary>
public static class MadeUpAnswers
{
    private static readonly string[] Firsts =
    [
        "Odalys",
        "Jorun",
        "Casimir",
        "Perpetua",
        "Tamsin",
        "Emeric",
        "Fenella",
        "Hesper",
        "Osric",
        "Rosalba",
        "Senan",
        "Thora",
        "Wystan",
        "Elowen",
        "Lorcan",
        "Sunniva",
    ];
    private static readonly string[] Lasts =
    [
        "Tillotson",
        "Brambleton",
        "Penhallow",
        "Quarrie",
        "Trevanion",
        "Underhay",
        "Winterbourne",
        "Birtwhistle",
        "Hathersage",
        "Micklethwait",
        "Netherwood",
        "Threlkeld",
    ];
    private static readonly string[] Trades =
    [
        "Deliveries",
        "Larder",
        "Works",
        "Bakery",
        "Couriers",
        "Studios",
        "Kitchens",
        "Flowers",
    ];
    private static readonly string[] Sayings =
    [
        "Could somebody ring me this week?",
        "We have a narrow yard and two gates.",
        "Please say what it costs to begin small.",
    ];

    /// <summary>Answers to <paramref name="fields"/>, in their order.</summary>
    /// <param name="fields">The form's.</param>
    /// <param name="country">ISO 3166-1 alpha-2; decides where the telephone number is from.</param>
    /// <param name="chance">Draws all that is drawn.</param>
    public static IReadOnlyList<Answer> For(IReadOnlyList<FormField> fields, string country, Random chance)
    {
        var (first, last) = (Draw(Firsts, chance), Draw(Lasts, chance));
        var mark = chance.Next(1000, 10_000).ToString(CultureInfo.InvariantCulture);
        return [.. fields.Select(f => new Answer(f.Name, One(f, first, last, mark, country, chance)))];
    }

    private static string One(FormField field, string first, string last, string mark, string country, Random chance)
    {
        switch (field.Means ?? field.Name)
        {
            case "first_name":
                return first;
            case "last_name":
                return last;
            case "full_name" or "name":
                return $"{first} {last}";
            case "company":
                return $"{last} {Draw(Trades, chance)}";
            case "landing_path":
                return "/";
            default:
                break;
        }

        return field.Type switch
        {
            FormFieldType.Email => $"{first}.{last}.{mark}@example.com".ToLowerInvariant(),
            FormFieldType.Phone => PhoneOf(country, chance),
            FormFieldType.Choice when field.Choices.Count > 0 => field.Choices[chance.Next(field.Choices.Count)],
            FormFieldType.Choices when field.Choices.Count > 0 => string.Join(
                ", ",
                field.Choices.Where(_ => chance.Next(2) == 0).DefaultIfEmpty(field.Choices[0])
            ),
            FormFieldType.Number => chance.Next(1, 40).ToString(CultureInfo.InvariantCulture),
            FormFieldType.Date => string.Create(
                CultureInfo.InvariantCulture,
                $"2027-{chance.Next(1, 13):00}-{chance.Next(1, 29):00}"
            ),
            FormFieldType.YesNo => chance.Next(2) == 0 ? "yes" : "no",
            FormFieldType.LongText => Draw(Sayings, chance),
            _ when field.Name.Contains("postcode", StringComparison.Ordinal) => string.Create(
                CultureInfo.InvariantCulture,
                $"QX{chance.Next(1, 20)} {chance.Next(1, 10)}ZX"
            ),
            _ => "test",
        };
    }

    // Ofcom, NANPA and ComReg keep these for drama.
    private static string PhoneOf(string country, Random chance) =>
        country switch
        {
            "CA" or "US" => string.Create(CultureInfo.InvariantCulture, $"+1 416 555 01{chance.Next(0, 100):00}"),
            "IE" => string.Create(
                CultureInfo.InvariantCulture,
                $"+353 20 91{chance.Next(0, 10)} {chance.Next(0, 10_000):0000}"
            ),
            _ => string.Create(CultureInfo.InvariantCulture, $"+44 7700 900{chance.Next(0, 1000):000}"),
        };

    private static string Draw(string[] from, Random chance) => from[chance.Next(from.Length)];
}

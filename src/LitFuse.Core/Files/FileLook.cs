using System.Globalization;
using System.Text;
using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Files;

/// <summary>Finds out how a file of leads is written, from its first bytes and rows.</summary>
public static class FileLook
{
    private static readonly char[] Delimiters = [',', ';', '\t', '|'];

    // Header words by lead field, in the languages that the clients' tools export in.
    private static readonly (string Field, string[] Words)[] HeaderWords =
    [
        (
            "email",
            [
                "email",
                "e-mail",
                "email address",
                "mail",
                "e-mail-adresse",
                "adresse e-mail",
                "correo",
                "correo electrónico",
                "e-mailadres",
                "work_email",
                "work email",
            ]
        ),
        (
            "phone",
            [
                "phone",
                "phone number",
                "mobile",
                "mobile number",
                "telephone",
                "tel",
                "telefon",
                "telefonnummer",
                "handy",
                "téléphone",
                "teléfono",
                "telefoon",
                "cell",
            ]
        ),
        (
            "first_name",
            [
                "first name",
                "first_name",
                "firstname",
                "given name",
                "forename",
                "vorname",
                "prénom",
                "nombre",
                "voornaam",
            ]
        ),
        (
            "last_name",
            [
                "last name",
                "last_name",
                "lastname",
                "surname",
                "family name",
                "nachname",
                "nom de famille",
                "apellido",
                "apellidos",
                "achternaam",
            ]
        ),
        (
            "full_name",
            ["full name", "full_name", "name", "your name", "contact", "contact name", "nom", "naam", "nombre completo"]
        ),
        (
            "company",
            [
                "company",
                "business",
                "organisation",
                "organization",
                "employer",
                "firma",
                "société",
                "empresa",
                "bedrijf",
                "company name",
            ]
        ),
        ("message", ["message", "comments", "comment", "notes", "question", "nachricht", "mensaje", "bericht"]),
        ("id", ["id", "lead id", "lead_id", "submission", "submission id", "response id", "reference"]),
        (
            "sent_at",
            [
                "submitted",
                "submitted at",
                "sent at",
                "created",
                "created at",
                "date",
                "timestamp",
                "pressed_at",
                "datum",
                "fecha",
                "time",
            ]
        ),
    ];

    /// <summary>
    /// The charset of a text: by its byte order mark, else UTF-8 where it is that, else Windows-1252.
    /// </summary>
    /// <param name="head">The first bytes; a character cut at the end is no fault.</param>
    public static string CharsetOf(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith("\uFEFF"u8))
            return "utf-8";
        if (head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
            return "utf-16";
        if (head.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]))
            return "utf-16BE";
        var cut = head.Length;
        for (var back = 0; back < 4 && cut > 0 && (head[cut - 1] & 0x80) != 0; back++)
            cut--;
        return System.Text.Unicode.Utf8.IsValid(head[..cut]) ? "utf-8" : "windows-1252";
    }

    /// <summary>The delimiter that divides the most lines into the same number of cells, more than one.</summary>
    public static char DelimiterOf(string head)
    {
        var lines = Lines(head);
        var (best, bestScore) = (',', 0.0);
        foreach (var delimiter in Delimiters)
        {
            var counts = lines.ConvertAll(l => Count(l, delimiter));
            var usual = counts
                .GroupBy(c => c)
                .OrderByDescending(g => g.Count())
                .ThenByDescending(g => g.Key)
                .Select(g => (g.Key, Share: g.Count() / (double)counts.Count))
                .FirstOrDefault();
            var score = usual.Key == 0 ? 0 : usual.Share + (usual.Key * 0.001);
            if (score > bestScore)
                (best, bestScore) = (delimiter, score);
        }

        return best;
    }

    /// <summary>True when the first row holds names rather than a person.</summary>
    public static bool HasHeader(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (rows.Count == 0)
            return false;
        var first = rows[0];
        if (
            first.Any(c =>
                EmailReader.Read(c).Email is not null
                || (c.Count(char.IsAsciiDigit) >= 7 && c.All(d => char.IsAsciiDigit(d) || " +-()/.:TZ".Contains(d)))
            )
        )
            return false;
        return first.Count(c => c.Trim().Length > 0) > 0;
    }

    /// <summary>How dates stand in these columns; <paramref name="country"/> decides where the values do not.</summary>
    public static DateOrder DatesOf(IReadOnlyList<IReadOnlyList<string>> rows, string country)
    {
        foreach (var cell in rows.SelectMany(r => r))
        {
            var parts = cell.Split(' ', 'T')[0].Split('/', '.', '-');
            if (
                parts.Length != 3
                || !parts.All(p => int.TryParse(p, NumberStyles.None, CultureInfo.InvariantCulture, out _))
            )
                continue;
            var numbers = Array.ConvertAll(parts, p => int.Parse(p, CultureInfo.InvariantCulture));
            if (numbers[0] > 31)
                return DateOrder.YearMonthDay;
            if (numbers[2] < 32 && parts[2].Length < 4)
                continue;
            if (numbers[0] > 12)
                return DateOrder.DayMonthYear;
            if (numbers[1] > 12)
                return DateOrder.MonthDayYear;
        }

        return country is "US" ? DateOrder.MonthDayYear
            : rows.SelectMany(r => r).Any(c => c.Length >= 10 && c[4] == '-' && c[7] == '-') ? DateOrder.YearMonthDay
            : DateOrder.DayMonthYear;
    }

    /// <summary>Reads a date or a moment written in <paramref name="order"/>; a moment without zone is UTC.</summary>
    public static NodaTime.Instant? Moment(string text, DateOrder order)
    {
        var trimmed = text.Trim();
        if (trimmed.Length < 6)
            return null;
        if (NodaTime.Text.OffsetDateTimePattern.ExtendedIso.Parse(trimmed) is { Success: true } offset)
            return offset.Value.ToInstant();
        if (NodaTime.Text.InstantPattern.ExtendedIso.Parse(trimmed) is { Success: true } instant)
            return instant.Value;
        var halves = trimmed.Split([' ', 'T'], 2);
        var parts = halves[0].Split('/', '.', '-');
        if (parts.Length != 3 || !parts.All(p => p.Length is > 0 and <= 4 && p.All(char.IsAsciiDigit)))
            return null;
        var n = Array.ConvertAll(parts, p => int.Parse(p, CultureInfo.InvariantCulture));
        var (year, month, day) =
            n[0] > 31 ? (n[0], n[1], n[2])
            : order == DateOrder.MonthDayYear ? (n[2], n[0], n[1])
            : (n[2], n[1], n[0]);
        if (year < 100)
            year += 2000;
        if (year is < 1900 or > 2200 || month is < 1 or > 12 || day < 1 || day > DateTime.DaysInMonth(year, month))
            return null;
        var time =
            halves.Length == 2 && TimeOnly.TryParse(halves[1].TrimEnd('Z'), CultureInfo.InvariantCulture, out var t)
                ? t
                : TimeOnly.MinValue;
        return NodaTime.Instant.FromUtc(year, month, day, time.Hour, time.Minute, time.Second);
    }

    /// <summary>What each column is likely to be, by its header and its values.</summary>
    public static IReadOnlyList<FileColumn> Columns(
        IReadOnlyList<string> headers,
        IReadOnlyList<IReadOnlyList<string>> rows,
        string country
    )
    {
        var taken = new HashSet<string>(StringComparer.Ordinal);
        var columns = new FileColumn[headers.Count];
        for (var i = 0; i < headers.Count; i++)
        {
            var values = rows.Select(r => i < r.Count ? r[i].Trim() : "").Where(v => v.Length > 0).Take(50).ToList();
            var (field, because) = Guess(headers[i], values, country);
            if (field is not null && !taken.Add(field))
                (field, because) = (OwnName(headers[i], i), "another column is that already");
            columns[i] = new(
                i,
                headers[i],
                field,
                because,
                values.Count > 0
                    && values.TrueForAll(v =>
                        Moment(v, DateOrder.DayMonthYear) is not null || Moment(v, DateOrder.MonthDayYear) is not null
                    )
            );
        }

        return columns;
    }

    private static (string? Field, string? Because) Guess(string header, List<string> values, string country)
    {
        var name = header.Trim().ToLowerInvariant().Replace('_', ' ');
        foreach (var (field, words) in HeaderWords)
        {
            if (words.Any(w => w.Replace('_', ' ') == name))
                return (field, $"its header says so");
        }

        if (values.Count > 0 && values.Count(v => EmailReader.Read(v).Email is not null) >= values.Count * 0.8)
            return ("email", "its values are email addresses");
        if (
            values.Count > 0
            && values.Count(v => v.Count(char.IsAsciiDigit) >= 8 && PhoneReader.Read(v, country).Phone is not null)
                >= values.Count * 0.8
        )
            return ("phone", "its values are telephone numbers");
        return (OwnName(header, 0), null);
    }

    /// <summary>A lead field's key made from a header.</summary>
    public static string OwnName(string header, int index)
    {
        var key = new StringBuilder();
        foreach (
            var c in header
                .Trim()
                .ToLowerInvariant()
                .Replace("ß", "ss", StringComparison.Ordinal)
                .Normalize(NormalizationForm.FormD)
        )
        {
            // Accents stand apart now, and are left out.
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
                continue;
            if (c is (>= 'a' and <= 'z') or (>= '0' and <= '9'))
                key.Append(c);
            else if (key.Length > 0 && key[^1] != '_')
                key.Append('_');
        }

        var text = key.ToString().Trim('_');
        return text.Length == 0
            ? string.Create(CultureInfo.InvariantCulture, $"column_{index + 1}")
            : Clip.To(text, 60);
    }

    private static List<string> Lines(string head)
    {
        var lines = new List<string>();
        var line = new StringBuilder();
        var quoted = false;
        foreach (var c in head)
        {
            if (c == '"')
                quoted = !quoted;
            if (c is '\n' && !quoted)
            {
                lines.Add(line.ToString());
                line.Clear();
                if (lines.Count == 60)
                    break;
            }
            else
            {
                line.Append(c);
            }
        }

        if (lines.Count == 0)
            lines.Add(line.ToString());
        return lines;
    }

    private static int Count(string line, char delimiter)
    {
        var (count, quoted) = (0, false);
        foreach (var c in line)
        {
            if (c == '"')
                quoted = !quoted;
            else if (c == delimiter && !quoted)
                count++;
        }

        return count;
    }
}

using System.Globalization;
using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Identity;
using LitFuse.Core.Texts;

namespace LitFuse.Core.Mapping;

/// <summary>A field as far as it is known: what its form tells, and what came in it.</summary>
/// <param name="Samples">Answers given lately; may be none.</param>
public sealed record SeenField(
    string Name,
    string Label,
    FormFieldType Type,
    IReadOnlyList<string> Choices,
    string? Means,
    IReadOnlyList<string> Samples
);

/// <summary>A map that a person has confirmed elsewhere.</summary>
/// <param name="FormName">Whose it is.</param>
public sealed record Precedent(string FormName, string FormField, string Label, string LeadField);

/// <summary>Where a field seems to go.</summary>
/// <param name="LeadField">The key, or <c>null</c>: nothing is suggested, and it is kept under its own name.</param>
/// <param name="Confidence">0 to 1.</param>
/// <param name="Because">In words.</param>
public sealed record Suggestion(string FormField, string? LeadField, double Confidence, string Because);

/// <summary>
/// Suggests a field map from names, labels, types, sample values and what was confirmed before. It would rather say
/// nothing than something wrong: a wrong suggestion is confirmed by someone in a hurry.
/// </summary>
public static class MapSuggester
{
    /// <summary>Below this nothing is suggested.</summary>
    public const double Least = 0.6;

    private static readonly MapLexicon Lexicon = MapLexicon.Load();

    /// <summary>One suggestion for each field, in their order.</summary>
    /// <param name="fields">The form's.</param>
    /// <param name="own">The client's own lead fields.</param>
    /// <param name="before">Confirmed before, on the client's other forms.</param>
    /// <param name="country">ISO 3166-1 alpha-2, for telephone numbers.</param>
    public static IReadOnlyList<Suggestion> Suggest(
        IReadOnlyList<SeenField> fields,
        IReadOnlyList<LeadField> own,
        IReadOnlyList<Precedent> before,
        string country
    )
    {
        var best = fields.Select(f => Best(f, own, before, country)).ToList();
        NameBesideFirstName(fields, best);
        OneForEach(best);
        return best;
    }

    private static Suggestion Best(
        SeenField field,
        IReadOnlyList<LeadField> own,
        IReadOnlyList<Precedent> before,
        string country
    )
    {
        if (field.Means is { } means)
            return new(field.Name, means, 0.99, "the form's maker says what it is");
        if (ObviousMap.Tracking.Contains(field.Name))
            return new(field.Name, field.Name, 0.99, "a tracking value, by its name");
        var (nameTokens, labelTokens) = (Lexicon.Tokens(field.Name), Lexicon.Tokens(field.Label));
        var plain = string.Join(' ', labelTokens);
        if (before.FirstOrDefault(b => b.FormField == field.Name && !MapLexicon.IsAnonymous(field.Name)) is { } same)
            return new(field.Name, same.LeadField, 0.96, $"as confirmed on {same.FormName}");
        if (
            before.FirstOrDefault(b => plain.Length > 2 && Tokens.PlainOf(b.Label) == Tokens.PlainOf(field.Label)) is
            { } alike
        )
            return new(field.Name, alike.LeadField, 0.94, $"the same question as on {alike.FormName}");
        foreach (var mine in own)
        {
            var key = Tokens.PlainOf(mine.Key);
            if (
                Tokens.PlainOf(field.Name) == key
                || Tokens.PlainOf(field.Label) == key
                || Tokens.PlainOf(field.Label) == Tokens.PlainOf(mine.Label)
            )
                return new(field.Name, mine.Key, 0.95, $"it is called as your own field “{mine.Label}”");
        }

        return FromWords(field, nameTokens, labelTokens, country);
    }

    private static Suggestion FromWords(
        SeenField field,
        IReadOnlyList<string> nameTokens,
        IReadOnlyList<string> labelTokens,
        string country
    )
    {
        var (byName, byLabel) = (
            Lexicon.Look(nameTokens, field.Name),
            field.Label == field.Name ? null : Lexicon.Look(labelTokens, field.Label)
        );
        var said = labelTokens.Count > 0 && field.Label != field.Name;
        // The question is what the person answered; a name may be left over from an older one.
        if (said && byLabel is null && !MapLexicon.IsAnonymous(field.Name) && Lexicon.IsQuestion(field.Label))
            byName = null;
        var vetoed = Lexicon.IsVetoed(nameTokens) || Lexicon.IsVetoed(labelTokens);
        var found = Stronger(byName, byLabel);
        var values = OfValues(field.Samples, country);
        var typed = field.Type switch
        {
            FormFieldType.Email => "email",
            FormFieldType.Phone => "phone",
            _ => null,
        };
        if (vetoed)
            return Nothing(field, "its words ask for something repeated, or about somebody else");
        if (typed is not null && (found is null || found.Value.Field == typed))
            return new(
                field.Name,
                typed,
                found is null ? 0.93 : 0.98,
                $"it is asked as {(typed == "email" ? "an email address" : "a telephone number")}"
                    + (found is null ? "" : $", and called “{found.Value.Phrase}”")
            );
        if (found is { } hit)
            return FromHit(field, hit, byName, byLabel, values);
        if (values.Field is { } seen)
            return new(
                field.Name,
                seen,
                values.Confidence,
                "what came in it looks like " + (seen == "email" ? "email addresses" : "telephone numbers")
            );
        return Nothing(field, "a question of its own");
    }

    // Its words say what it is, and what came does not speak against it.
    private static Suggestion FromHit(
        SeenField field,
        MapLexicon.Hit hit,
        MapLexicon.Hit? byName,
        MapLexicon.Hit? byLabel,
        ValueSigns values
    )
    {
        if (!Fits(field, hit.Field))
            return Nothing(
                field,
                $"“{hit.Phrase}” is in its words, but it is asked as {LeadField.WordsOf(field.Type.ToString().ToLowerInvariant())}"
            );
        var where =
            byName?.Field == byLabel?.Field ? "name and label"
            : hit == byLabel ? "label"
            : "name";
        var sure = Math.Min(0.98, hit.Score + (byName?.Field == byLabel?.Field ? 0.02 : 0));
        if (values.Field == hit.Field)
            return new(
                field.Name,
                hit.Field,
                Math.Min(0.99, sure + 0.03),
                $"“{hit.Phrase}” by its {where}, and what came looks like it"
            );
        // What came speaks against it, where it can: an address has an @, a number has digits.
        if (
            field.Samples.Count > 0
            && hit.Field is "email" or "phone"
            && values.Field != hit.Field
            && values.Against(hit.Field)
        )
            return Nothing(field, $"called “{hit.Phrase}”, but what came is none");
        return sure >= Least
            ? new(field.Name, hit.Field, sure, $"“{hit.Phrase}” by its {where}")
            : Nothing(field, $"“{hit.Phrase}” is in its words, among others");
    }

    private static Suggestion Nothing(SeenField field, string because) => new(field.Name, null, 0, because);

    private static MapLexicon.Hit? Stronger(MapLexicon.Hit? name, MapLexicon.Hit? label)
    {
        if (name is null || label is null)
            return label ?? name;
        if (name.Value.Field == label.Value.Field)
            return name.Value.Score > label.Value.Score ? name : label;
        // They disagree: what people read decides, unless it is the weaker by far.
        return label.Value.Score + 0.15 >= name.Value.Score ? label : name;
    }

    private static bool Fits(SeenField field, string leadField) =>
        field.Type switch
        {
            FormFieldType.Choice => field.Choices.Count is 0
                || leadField is "country" or "region" or "job_title" or "city" or "consent",
            FormFieldType.Choices => leadField == "consent",
            FormFieldType.YesNo => leadField == "consent",
            FormFieldType.Number => leadField is "phone" or "postcode",
            FormFieldType.Date => false,
            FormFieldType.Email => leadField == "email",
            FormFieldType.Phone => leadField == "phone",
            _ => true,
        };

    private readonly record struct ValueSigns(string? Field, double Confidence, bool AnyAt, bool AnyDigits)
    {
        public bool Against(string field) => field == "email" ? !AnyAt : !AnyDigits;
    }

    private static ValueSigns OfValues(IReadOnlyList<string> samples, string country)
    {
        var given = samples.Where(s => s.Length > 0).Take(12).ToList();
        if (given.Count == 0)
            return default;
        var (at, digits) = (
            given.Exists(s => s.Contains('@', StringComparison.Ordinal)),
            given.Exists(s => s.Count(char.IsDigit) >= 6)
        );
        if (at && given.Count(s => EmailReader.Read(s).Email is not null) >= 0.8 * given.Count)
            return new("email", 0.9, at, digits);
        var phones = given.Count(s =>
            s.Count(char.IsDigit) is >= 8 and <= 15
            && s.All(c => char.IsDigit(c) || " +-()./".Contains(c, StringComparison.Ordinal))
            && (s[0] is '0' or '+' or '(')
            && PhoneReader.Read(s, country).Phone is not null
        );
        return phones >= 0.8 * given.Count ? new("phone", 0.78, at, digits) : new(null, 0, at, digits);
    }

    // “Name” beside “Vorname”, “Nom” beside “Prénom”: it is the family's.
    private static void NameBesideFirstName(IReadOnlyList<SeenField> fields, List<Suggestion> best)
    {
        var firsts = best.FindIndex(s => s.LeadField == "first_name");
        var lasts = best.Exists(s => s.LeadField == "last_name");
        var name = best.FindIndex(s => s.LeadField == "full_name");
        if (name < 0)
            return;
        if (firsts >= 0 && !lasts && Lexicon.IsBareName(fields[name]))
            best[name] = best[name] with
            {
                LeadField = "last_name",
                Confidence = Math.Min(best[name].Confidence, 0.9),
                Because = "a name beside a first name",
            };
        else if (firsts < 0 && lasts && Lexicon.IsBareName(fields[name]))
            best[name] = best[name] with
            {
                LeadField = "first_name",
                Confidence = Math.Min(best[name].Confidence, 0.88),
                Because = "a name beside a last name",
            };
    }

    // Telephone numbers and emails may be several; of the others the surest has it, the earlier of two as sure.
    private static void OneForEach(List<Suggestion> best)
    {
        foreach (
            var field in best.Select(s => s.LeadField)
                .OfType<string>()
                .Where(f => f is not ("phone" or "email" or "consent"))
                .Distinct(StringComparer.Ordinal)
                .ToList()
        )
        {
            var rivals = best.Where(s => s.LeadField == field).OrderByDescending(s => s.Confidence).ToList();
            foreach (var rival in rivals.Skip(1))
            {
                best[best.IndexOf(rival)] = rival with
                {
                    LeadField = null,
                    Confidence = 0,
                    Because = string.Create(
                        CultureInfo.InvariantCulture,
                        $"“{rivals[0].FormField}” is {LeadField.WordsOf(field)} more surely"
                    ),
                };
            }
        }
    }
}

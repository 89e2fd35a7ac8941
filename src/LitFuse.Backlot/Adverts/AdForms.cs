using System.Globalization;

namespace LitFuse.Backlot.Adverts;

/// <summary>One thing a form asks.</summary>
/// <param name="Kind"><c>full-name</c>, <c>first-name</c>, <c>last-name</c>, <c>email</c>, <c>phone</c>,
/// <c>company</c>, <c>short</c>, <c>long</c>, <c>choice</c> or <c>choices</c>.</param>
public sealed record Ask(string Name, string Kind, string Words, bool Must, IReadOnlyList<string> Choices);

/// <summary>A page, an ad account: whose forms they are.</summary>
public sealed record AdPlace(string Id, string Name);

/// <summary>A form of an advertising service, with the ad that carries it.</summary>
/// <param name="Ad"><c>running</c>, <c>waiting</c> (for approval) or <c>stopped</c>.</param>
/// <param name="Hidden">Tracking values that the ad's address carries.</param>
/// <param name="Event">It takes sign-ups for an event of this name.</param>
public sealed record AdForm(
    string Id,
    string PlaceId,
    string Title,
    string Campaign,
    string Ad,
    bool Archived,
    IReadOnlyList<Ask> Asks,
    IReadOnlyDictionary<string, string> Hidden,
    string? Event = null
)
{
    /// <summary>
    /// What a test answers, as the form is now: another person each time, by <paramref name="number"/>.
    /// </summary>
    public IReadOnlyDictionary<string, string> TestAnswers(int number) =>
        Asks.ToDictionary(a => a.Name, a => TestAnswer(a, number), StringComparer.Ordinal);

    private static string TestAnswer(Ask ask, int number) =>
        ask.Kind switch
        {
            "email" => string.Create(CultureInfo.InvariantCulture, $"trial.{number}@example.com"),
            "phone" => string.Create(CultureInfo.InvariantCulture, $"+44 7700 900{(999 - (number % 500)):000}"),
            "full-name" => "Trial Person",
            "first-name" => "Trial",
            "last-name" => "Person",
            _ when ask.Choices.Count > 0 => ask.Choices[0],
            _ => "trial",
        };

    /// <summary>An id of a field that is not taken.</summary>
    public string FreeName(string words)
    {
        var name = string.Concat(words.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : '_'))
            .Trim('_');
        name =
            name.Length == 0 ? "question"
            : name.Length > 40 ? name[..40]
            : name;
        for (var n = 2; Asks.Any(a => a.Name == name); n++)
            name = string.Create(
                CultureInfo.InvariantCulture,
                $"{name.TrimEnd('0', '1', '2', '3', '4', '5', '6', '7', '8', '9')}{n}"
            );
        return name;
    }
}

/// <summary>The forms of one service, made and changed by people with a mouse.</summary>
public sealed class AdForms(IReadOnlyList<AdPlace> places, IReadOnlyList<AdForm> seeds, string prefix)
{
    private readonly Lock turn = new();
    private readonly List<AdForm> forms = [.. seeds];
    private int made;

    /// <summary>Whose forms there are.</summary>
    public IReadOnlyList<AdPlace> Places { get; } = places;

    /// <summary>Forms of a place, or all.</summary>
    public IReadOnlyList<AdForm> Of(string? placeId = null)
    {
        lock (turn)
            return forms.Where(f => placeId is null || f.PlaceId == placeId).ToList();
    }

    /// <summary>One form.</summary>
    public AdForm? Find(string id)
    {
        lock (turn)
            return forms.Find(f => f.Id == id);
    }

    /// <summary>Makes one that asks for name, email and phone.</summary>
    public AdForm Make(string placeId, string title) =>
        Add(
            new(
                NewId(),
                placeId,
                title,
                title,
                "running",
                false,
                AskedEverywhere.People,
                new Dictionary<string, string>(StringComparer.Ordinal)
            )
        );

    /// <summary>Copies one.</summary>
    public AdForm Copy(AdForm form) => Add(form with { Id = NewId(), Title = "Copy of " + form.Title });

    /// <summary>Puts a changed one in its place.</summary>
    public void Put(AdForm form)
    {
        lock (turn)
            forms[forms.FindIndex(f => f.Id == form.Id)] = form;
    }

    private AdForm Add(AdForm form)
    {
        lock (turn)
            forms.Add(form);
        return form;
    }

    private string NewId() =>
        string.Create(CultureInfo.InvariantCulture, $"{prefix}-made-{Interlocked.Increment(ref made):000}");
}

/// <summary>What is asked in many places.</summary>
public static class AskedEverywhere
{
    /// <summary>Who somebody is.</summary>
    public static IReadOnlyList<Ask> People { get; } =
    [
        new("full_name", "full-name", "Your name", true, []),
        new("email", "email", "Email", true, []),
        new("phone", "phone", "Mobile number", false, []),
        new("company", "company", "Business", false, []),
    ];

    /// <summary>What Brackenwheel asks.</summary>
    public static IReadOnlyList<Ask> Bikes { get; } =
    [
        .. People,
        new("fleet_size", "choice", "How many bikes would your fleet need?", true, ["1–3", "4–9", "10–24", "25+"]),
        new("cargo", "choice", "What do you carry?", true, ["parcels", "food", "tools", "people"]),
        new(
            "start_month",
            "choice",
            "When would you like to start?",
            false,
            [
                "January",
                "February",
                "March",
                "April",
                "May",
                "June",
                "July",
                "August",
                "September",
                "October",
                "November",
                "December",
            ]
        ),
        new("depot_postcode", "short", "Depot postcode", false, []),
    ];

    /// <summary>What Hollin Vane asks.</summary>
    public static IReadOnlyList<Ask> Booths { get; } =
    [
        .. People,
        new("booths", "choice", "How many booths?", true, ["one", "2–5", "six or more"]),
        new("floors", "choice", "On how many floors?", false, ["one", "two", "three or more"]),
        new(
            "needed_by",
            "choice",
            "When do you need them?",
            true,
            ["this week", "this month", "this quarter", "just looking"]
        ),
    ];

    /// <summary>What Tarn Valley asks.</summary>
    public static IReadOnlyList<Ask> Dates { get; } =
    [
        .. People.Take(3),
        new("event_date", "short", "Your date", true, []),
        new("guests", "choice", "How many guests?", true, ["up to 50", "50–120", "more than 120"]),
    ];

    /// <summary>What an advertisement's address carries.</summary>
    public static IReadOnlyDictionary<string, string> Tracked(string source, string campaign) =>
        new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["utm_source"] = source,
            ["utm_medium"] = "paid",
            ["utm_campaign"] = campaign,
        };
}

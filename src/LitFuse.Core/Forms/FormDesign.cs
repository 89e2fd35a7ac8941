namespace LitFuse.Core.Forms;

/// <summary>What stands above the first field.</summary>
/// <param name="Picture">The address of a picture kept with the form, or <c>null</c>.</param>
/// <param name="PictureWords">What it shows, for who cannot see it.</param>
public sealed record FormOpening(string Headline, string Words, string? Picture, string? PictureWords);

/// <summary>
/// What a hidden field carries: a fixed value, or one that is tracked (<c>utm_source</c>, <c>referrer</c>…).
/// </summary>
public sealed record HiddenValue(string? Fixed, string? Tracked);

/// <summary>One field of a form that is built here.</summary>
/// <param name="Name">As submitted.</param>
/// <param name="Means">The standard lead field it is, or <c>null</c> for a question of their own.</param>
/// <param name="Hidden">Only for <see cref="FormFieldType.Hidden"/>.</param>
public sealed record DesignField(
    string Name,
    string Label,
    FormFieldType Type,
    bool Required,
    IReadOnlyList<string> Choices,
    string? Means,
    HiddenValue? Hidden
);

/// <summary>The consent asked for.</summary>
/// <param name="Words">What the person agrees to.</param>
/// <param name="PrivacyUrl">Where it is said in full; required.</param>
/// <param name="MustAgree">A box that must be ticked, rather than words beside the button.</param>
public sealed record FormConsent(string Words, string PrivacyUrl, bool MustAgree)
{
    /// <summary>
    /// Tells these words from any others: a page sends it along, so that it is known which words stood on it.
    /// </summary>
    public string Mark => MarkOf(Words, PrivacyUrl);

    /// <summary>
    /// The first 12 hexadecimal digits of the SHA-256 of the words and the path of the address: a notice that moves
    /// with its site is the same one.
    /// </summary>
    public static string MarkOf(string words, string? privacyUrl)
    {
        var path = Uri.TryCreate(privacyUrl?.Trim(), UriKind.Absolute, out var url)
            ? url.PathAndQuery
            : privacyUrl?.Trim();
        return Convert.ToHexStringLower(
            System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(words.Trim() + "\n" + path))
        )[..12];
    }
}

/// <summary>What happens after sending.</summary>
public enum EndingKind
{
    /// <summary>Words on the page.</summary>
    Message,

    /// <summary>On to an address.</summary>
    GoTo,

    /// <summary>Words and something to download.</summary>
    Download,

    /// <summary>Words and a number to call.</summary>
    Call,
}

/// <summary>An ending.</summary>
/// <param name="Words">Said on the page; not for <see cref="EndingKind.GoTo"/>.</param>
/// <param name="Url">For <see cref="EndingKind.GoTo"/> and <see cref="EndingKind.Download"/>.</param>
/// <param name="Phone">For <see cref="EndingKind.Call"/>.</param>
public sealed record FormEnding(EndingKind Kind, string Words, string? Url, string? Phone);

/// <summary>A form that is built here, whole.</summary>
/// <param name="Opening">Where wanted.</param>
/// <param name="Consent">Required before publishing.</param>
/// <param name="LookOver">Shows the answers once more before they are sent: fewer, surer leads.</param>
/// <param name="EndingIfKnown">Another ending for somebody this client knows already.</param>
/// <param name="AmendLink">Hands out a signed link to amend the answers later.</param>
/// <param name="Hosts">Host names it may stand on; none means any.</param>
/// <param name="SendWords">On the button.</param>
public sealed record FormDesign(
    FormOpening? Opening,
    IReadOnlyList<DesignField> Fields,
    FormConsent? Consent,
    bool LookOver,
    FormEnding Ending,
    FormEnding? EndingIfKnown,
    bool AmendLink,
    IReadOnlyList<string> Hosts,
    string SendWords
)
{
    /// <summary>A sensible beginning: name, email, phone.</summary>
    public static FormDesign Fresh { get; } =
        new(
            null,
            [
                new("full_name", "Your name", FormFieldType.Text, true, [], "full_name", null),
                new("email", "Email", FormFieldType.Email, true, [], "email", null),
                new("phone", "Mobile number", FormFieldType.Phone, false, [], "phone", null),
            ],
            new("We use your answers to get back to you about this, and for nothing else.", "", false),
            false,
            new(EndingKind.Message, "Thank you. Your answers have arrived.", null, null),
            null,
            false,
            [],
            "Send"
        );

    /// <summary>Its fields as any form's.</summary>
    public IReadOnlyList<FormField> AsFields() =>
        [.. Fields.Select(f => new FormField(f.Name, f.Label, f.Type, f.Required, f.Choices, f.Means))];
}

/// <summary>Something missing, and where.</summary>
/// <param name="Place">A path into the design: <c>fields.2.choices</c>.</param>
public sealed record DesignFault(string Place, string What, string Mend);

/// <summary>Lists what keeps a form from being published.</summary>
public static class DesignFaults
{
    private const int MostFields = 40;

    /// <summary>All of it, in the order of the form.</summary>
    public static IReadOnlyList<DesignFault> Of(FormDesign design)
    {
        var faults = new List<DesignFault>();
        OfOpening(design.Opening, faults);
        OfAsking(design, faults);
        OfConsent(design.Consent, faults);
        OfEnding("ending", design.Ending, faults);
        if (design.EndingIfKnown is { } known)
            OfEnding("endingIfKnown", known, faults);
        for (var i = 0; i < design.Hosts.Count; i++)
        {
            if (
                design.Hosts[i].Contains('/', StringComparison.Ordinal)
                || Uri.CheckHostName(design.Hosts[i].Split(':')[0]) == UriHostNameType.Unknown
            )
                faults.Add(
                    new(
                        $"hosts.{i}",
                        $"“{design.Hosts[i]}” is not a host name.",
                        "Write it as in rides.example.com, without https:// and path."
                    )
                );
        }

        if (string.IsNullOrWhiteSpace(design.SendWords))
            faults.Add(new("sendWords", "The button has no words.", "Write what it does, such as Send."));
        return faults;
    }

    private static void OfOpening(FormOpening? opening, List<DesignFault> faults)
    {
        if (opening is not null)
        {
            if (string.IsNullOrWhiteSpace(opening.Headline))
                faults.Add(
                    new("opening.headline", "The opening has no headline.", "Write one, or take the opening out.")
                );
            if (opening.Picture is not null && string.IsNullOrWhiteSpace(opening.PictureWords))
                faults.Add(
                    new(
                        "opening.pictureWords",
                        "The picture has no words for people who cannot see it.",
                        "Say in a few words what it shows."
                    )
                );
        }
    }

    private static void OfAsking(FormDesign design, List<DesignFault> faults)
    {
        if (design.Fields.Count > MostFields)
            faults.Add(
                new(
                    "fields",
                    $"There are {design.Fields.Count} fields.",
                    $"Keep at most {MostFields}; every field costs some people."
                )
            );
        if (!design.Fields.Any(f => f.Means is "email" or "phone"))
            faults.Add(
                new(
                    "fields",
                    "Nobody could be reached: the form asks neither for an email address nor for a telephone number.",
                    "Add one of the two."
                )
            );
        for (var i = 0; i < design.Fields.Count; i++)
            OfField(design, i, faults);
    }

    private static void OfConsent(FormConsent? consent, List<DesignFault> faults)
    {
        if (consent is null || string.IsNullOrWhiteSpace(consent.Words))
            faults.Add(
                new(
                    "consent.words",
                    "Nothing is said about what happens with the answers.",
                    "Write the consent's words."
                )
            );
        if (!IsWeb(consent?.PrivacyUrl))
            faults.Add(
                new(
                    "consent.privacyUrl",
                    "The link to the privacy notice is missing.",
                    "Give its address, beginning with https://."
                )
            );
    }

    private static void OfField(FormDesign design, int i, List<DesignFault> faults)
    {
        var (field, place) = (design.Fields[i], $"fields.{i}");
        var called = string.IsNullOrWhiteSpace(field.Label) ? $"Field {i + 1}" : $"“{field.Label}”";
        if (string.IsNullOrWhiteSpace(field.Label))
            faults.Add(new(place + ".label", $"{called} asks nothing.", "Write the question."));
        if (!IsName(field.Name))
            faults.Add(
                new(
                    place + ".name",
                    $"{called} has no usable name.",
                    "Use small letters, digits and underscores, beginning with a letter."
                )
            );
        else if (field.Name == "id" || field.Name.StartsWith("lf_", StringComparison.Ordinal))
            faults.Add(new(place + ".name", $"“{field.Name}” is kept for the form itself.", "Choose another name."));
        else if (design.Fields.Take(i).Any(f => f.Name == field.Name))
            faults.Add(new(place + ".name", $"Two fields are named “{field.Name}”.", "Give each a name of its own."));
        if (field.Type is FormFieldType.Choice or FormFieldType.Choices)
        {
            if (field.Choices.Count(c => !string.IsNullOrWhiteSpace(c)) < 2)
                faults.Add(
                    new(
                        place + ".choices",
                        $"{called} offers fewer than two choices.",
                        "Write at least two, one a line."
                    )
                );
            else if (field.Choices.Distinct(StringComparer.OrdinalIgnoreCase).Count() < field.Choices.Count)
                faults.Add(new(place + ".choices", $"{called} offers the same choice twice.", "Take one out."));
        }

        if (
            field.Type == FormFieldType.Hidden
            && string.IsNullOrWhiteSpace(field.Hidden?.Fixed)
            && string.IsNullOrWhiteSpace(field.Hidden?.Tracked)
        )
        {
            faults.Add(
                new(
                    place + ".hidden",
                    $"{called} is hidden and carries nothing.",
                    "Give it a fixed value, or choose what it tracks."
                )
            );
        }
    }

    private static void OfEnding(string place, FormEnding ending, List<DesignFault> faults)
    {
        if (ending.Kind is EndingKind.GoTo or EndingKind.Download && !IsWeb(ending.Url))
        {
            faults.Add(
                new(
                    place + ".url",
                    ending.Kind == EndingKind.GoTo
                        ? "The ending leads on to no address."
                        : "The ending has nothing to download.",
                    "Give the address, beginning with https://."
                )
            );
        }

        if (ending.Kind == EndingKind.Call && string.IsNullOrWhiteSpace(ending.Phone))
            faults.Add(new(place + ".phone", "The ending has no number to call.", "Write it as +44 7700 900512."));
        if (ending.Kind != EndingKind.GoTo && string.IsNullOrWhiteSpace(ending.Words))
            faults.Add(
                new(place + ".words", "The ending says nothing.", "Write a sentence: what happens now, and how soon.")
            );
    }

    /// <summary>True for an absolute http or https address without credentials.</summary>
    public static bool IsWeb(string? url) =>
        Uri.TryCreate(url, UriKind.Absolute, out var parsed)
        && parsed.Scheme is "https" or "http"
        && parsed.UserInfo.Length == 0
        && url!.Length <= 2000;

    private static bool IsName(string name) =>
        name.Length is > 0 and <= 60
        && name[0] is >= 'a' and <= 'z'
        && name.All(c => c is (>= 'a' and <= 'z') or (>= '0' and <= '9') or '_');
}

using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Mapping;
using LitFuse.Data;

namespace LitFuse.Server.Demo;

/// <summary>A person of the demonstration.</summary>
/// <param name="Clients">Keys of the clients, or <c>null</c> for all.</param>
/// <param name="Phone">Their own, from ranges kept for fiction that no lead of the demonstration has.</param>
public sealed record DemoPerson(
    string Name,
    string Email,
    Role Role,
    IReadOnlyList<string>? Clients,
    string? Phone = null
);

/// <summary>A form of the demonstration.</summary>
/// <param name="External">Its sender's own id.</param>
/// <param name="Share">Of its client's submissions.</param>
/// <param name="Map">Confirmed; <c>null</c> where nobody has confirmed one.</param>
/// <param name="CostPerLeadMinor">In the currency's minor unit; 0 where nothing is paid.</param>
public sealed record DemoForm(
    string Key,
    string SourceKind,
    string SourceName,
    string Name,
    string? External,
    string Campaign,
    double Share,
    int CostPerLeadMinor,
    IReadOnlyList<FormField> Fields,
    FieldMap? Map
);

/// <summary>A client of the demonstration, with everything set up.</summary>
public sealed record DemoClient(
    Client Client,
    int People,
    IReadOnlyList<DemoForm> Forms,
    IReadOnlyList<FuseDefinition> Fuses,
    IReadOnlyList<LeadFieldDef> Fields,
    string Channel,
    string Sender,
    IReadOnlyList<string> Reps
);

/// <summary>Who and what there is in the demonstration: all made up.</summary>
public static partial class DemoCast
{
    /// <summary>Everybody's password; printed by <c>./demo</c> and in the README.</summary>
    public const string Password = "strike-a-light-5080";

    /// <summary>The form that the Backlot's landing page carries.</summary>
    public const string TestRideForm = "brackenwheel-test-ride";

    private static readonly string[] FleetSizes = ["1–3", "4–9", "10–24", "25+"];
    private static readonly string[] Cargoes = ["parcels", "food", "tools", "people"];
    private static readonly string[] Months =
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
    ];

    private static readonly FormField First = new(
        "first_name",
        "First name",
        FormFieldType.Text,
        true,
        [],
        "first_name"
    );
    private static readonly FormField Last = new("last_name", "Last name", FormFieldType.Text, true, [], "last_name");
    private static readonly FormField FullName = new(
        "full_name",
        "Your name",
        FormFieldType.Text,
        true,
        [],
        "full_name"
    );
    private static readonly FormField Email = new("email", "Email", FormFieldType.Email, true, [], "email");
    private static readonly FormField Phone = new("phone", "Mobile number", FormFieldType.Phone, false, [], "phone");
    private static readonly FormField Company = new("company", "Business", FormFieldType.Text, false, [], "company");

    /// <summary>The people with accounts.</summary>
    public static IReadOnlyList<DemoPerson> People { get; } =
    [
        new(
            "Noor Abernathy-Voss",
            "noor@quillonstreet.example",
            Role.Marketer,
            ["brackenwheel", "hollin-vane", "tarn-valley"]
        ),
        new("Lucan Thistlewood", "lucan@quillonstreet.example", Role.AgencyLead, null),
        new("Imke Sandoval", "imke@brackenwheel.example", Role.Rep, ["brackenwheel"], "+442920180101"),
        new("Tobias Renn", "tobias@brackenwheel.example", Role.Rep, ["brackenwheel"], "+442920180102"),
        new("Adaeze Whitlock", "adaeze@brackenwheel.example", Role.Rep, ["brackenwheel"], "+442920180103"),
        new("Marguerite Oyelaran", "marguerite@hollinvane.example", Role.Rep, ["hollin-vane"], "+19055550101"),
        new("Pim Castellan", "pim@hollinvane.example", Role.Rep, ["hollin-vane"], "+19055550102"),
        new("Siobhra Quill", "siobhra@tarnvalley.example", Role.Rep, ["tarn-valley"], "+353209140001"),
    ];

    private static FieldMap Straight(IEnumerable<FormField> fields) =>
        new([
            .. fields.Select(f => new MapRow(f.Name, f.Name)),
            new("name", "full_name"),
            .. ObviousMap.Tracking.Select(t => new MapRow(t, t)),
        ]);

    /// <summary>The landing page's form, as it is built here.</summary>
    /// <param name="site">Where the Backlot's website is.</param>
    public static FormDesign TestRideDesign(IReadOnlyList<FormField> fields, string site) =>
        new(
            null,
            [.. fields.Select(f => new DesignField(f.Name, f.Label, f.Type, f.Required, f.Choices, f.Means, null))],
            new(
                "We use your answers to arrange your ride, and for nothing else.",
                site + "/pagewright/brackenwheel/privacy",
                false
            ),
            false,
            new(EndingKind.GoTo, "", site + "/pagewright/brackenwheel/thank-you", null),
            null,
            true,
            [],
            "Send"
        );

    private static IReadOnlyList<LitBy> OnForms(IReadOnlyList<string> forms) =>
        [
            new(
                EventKeys.Submission,
                new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["form"] = forms }
            ),
        ];

    private static Dictionary<string, string> Words(
        string key,
        string value,
        string? words = null,
        string? links = null
    )
    {
        var settings = new Dictionary<string, string>(StringComparer.Ordinal) { [key] = value };
        if (words is not null)
            settings["words"] = words;
        if (links is not null)
            settings["links"] = links;
        return settings;
    }
}

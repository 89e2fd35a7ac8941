using LitFuse.Core.Forms;
using LitFuse.Core.Fuses;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.Clients;
using LitFuse.Server.Features.Mapping;

namespace LitFuse.Server.Features.Demo;

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
public static class DemoCast
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

    /// <summary>The clients.</summary>
    public static IReadOnlyList<DemoClient> Clients() => [Brackenwheel(), HollinVane(), TarnValley()];

    private static DemoClient Brackenwheel()
    {
        FormField[] asked =
        [
            First,
            Last,
            Email,
            Phone,
            Company,
            new("fleet_size", "How many bikes would your fleet need?", FormFieldType.Choice, true, FleetSizes),
            new("cargo", "What do you carry?", FormFieldType.Choice, true, Cargoes),
            new("start_month", "When would you like to start?", FormFieldType.Choice, false, Months),
            new("depot_postcode", "Depot postcode", FormFieldType.Text, false, []),
        ];
        FormField[] adAsked = [FullName, .. asked[2..]];
        FormField[] sheetAsked = [FullName, Email, Company, asked[5]];
        DemoForm[] forms =
        [
            new(
                "brackenwheel-plaza-test-ride",
                "plaza",
                "Plaza",
                "Test ride",
                "pf-brackenwheel-ride",
                "Depots, spring",
                0.34,
                2900,
                adAsked,
                Straight(adAsked)
            ),
            new(
                "brackenwheel-tradehall-fleet",
                "tradehall",
                "Tradehall",
                "Fleet enquiry",
                "tf-brackenwheel-fleet",
                "Operations managers",
                0.14,
                5400,
                adAsked,
                Straight(adAsked)
            ),
            new(
                "brackenwheel-lanternfind-lease",
                "lanternfind",
                "Lanternfind",
                "Lease a cargo bike",
                "lf-brackenwheel-lease",
                "cargo bike lease",
                0.22,
                3600,
                adAsked,
                Straight(adAsked)
            ),
            new(
                TestRideForm,
                "website",
                "Pagewright",
                "Book a test ride",
                null,
                "Landing page",
                0.2,
                1900,
                asked,
                Straight(asked)
            ),
            new(
                "brackenwheel-running-costs",
                "formbench",
                "Formbench",
                "Send me the running-cost sheet",
                "fb-brackenwheel-costs",
                "Running costs",
                0.1,
                900,
                sheetAsked,
                Straight(sheetAsked)
            ),
            new(
                "brackenwheel-callback",
                "formbench",
                "Formbench",
                "Call me back",
                null,
                "Call back",
                0,
                0,
                [FullName, Email, Phone],
                Straight([FullName, Email, Phone])
            ),
            new(
                "brackenwheel-second-hand",
                "website",
                "Pagewright",
                "Second-hand bikes",
                null,
                "Second hand",
                0,
                0,
                [],
                new([
                    new("contact[first]", "first_name"),
                    new("contact[last]", "last_name"),
                    new("contact[mail]", "email"),
                    new("wants", "message"),
                    new("yard", "yard_picture"),
                ])
            ),
            new(
                "brackenwheel-visit",
                "website",
                "Pagewright",
                "Visit the workshop",
                null,
                "Visits",
                0,
                0,
                [],
                new([
                    new("who", "full_name"),
                    new("mail", "email"),
                    new("day", "visit_day"),
                    .. ObviousMap.Tracking.Select(t => new MapRow(t, t)),
                ])
            ),
        ];
        var testRide = new FuseDefinition
        {
            Name = "Test ride: tell the desk, text the big fleets",
            LitBy = OnForms([.. forms.Take(4).Select(f => f.Key)]),
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "desk",
                            "Post to the ride desk",
                            StepKinds.ChannelPost,
                            StepMoment.After(0),
                            Words(
                                "channel",
                                "#ride-desk",
                                "{{ lead.name }} asked for a test ride ({{ form.name }}).\n{% for a in answers %}{{ a.label }}: {{ a.value }}\n{% endfor %}{{ lead.link }}",
                                "take"
                            )
                        ),
                    ]
                ),
                new(
                    "big",
                    "Big fleets",
                    new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["10–24", "25+"])])),
                    [
                        new(
                            "text",
                            "Text: someone is on it",
                            StepKinds.Text,
                            StepMoment.After(0),
                            Words(
                                "words",
                                "{{ lead.first_name | default: \"Hello\" }}, thank you for asking about {{ lead.fleet_size }} cargo bikes. Imke from {{ client.name }} will ring you in a few minutes."
                            )
                        ),
                        new(
                            "imke",
                            "Tell Imke directly",
                            StepKinds.DirectPost,
                            StepMoment.After(0),
                            Words(
                                "person",
                                "imke.sandoval",
                                "A big one: {{ lead.name }}{% if lead.company %} of {{ lead.company }}{% endif %}, {{ lead.fleet_size }} bikes for {{ lead.cargo }}, depot {{ lead.depot_postcode | default: \"not said\" }}, start {{ lead.start_month | default: \"not said\" }}. Ring {{ lead.phone | default: \"(no phone)\" }}. {{ lead.link }}"
                            )
                        ),
                    ]
                ),
            ],
        };
        var costs = new FuseDefinition
        {
            Name = "Running-cost sheet: tell the desk",
            LitBy = OnForms([forms[4].Key]),
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "desk",
                            "Post to the ride desk",
                            StepKinds.ChannelPost,
                            StepMoment.After(0),
                            Words(
                                "channel",
                                "#ride-desk",
                                "{{ lead.name }} wants the running-cost sheet, {{ lead.fleet_size }} bikes. {{ lead.email }} {{ lead.link }}"
                            )
                        ),
                    ]
                ),
            ],
        };
        var callBack = new FuseDefinition
        {
            Name = "Call me back: ring through",
            LitBy = OnForms(["brackenwheel-callback"]),
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "ring",
                            "Ring through to them",
                            StepKinds.RingThrough,
                            StepMoment.After(0),
                            new Dictionary<string, string>(StringComparer.Ordinal)
                            {
                                ["colleagues"] = "team",
                                ["order"] = "in-turn",
                                ["words"] = "{{ lead.name }} asks to be called back.",
                            }
                        ),
                        new(
                            "letter",
                            "Letter: we ring you",
                            StepKinds.Letter,
                            StepMoment.After(0),
                            new Dictionary<string, string>(StringComparer.Ordinal)
                            {
                                ["subject"] = "We ring you back, {{ lead.first_name | default: \"in a moment\" }}",
                                ["words"] =
                                    "{{ lead.first_name | default: \"Hello\" }},\n\nthank you for asking. One of us rings you in a few minutes, and sees what you wrote:",
                                [StepKinds.BlocksKey] = "answers",
                                [StepKinds.Pdf] = "yes",
                            }
                        ),
                    ]
                ),
                new(
                    "nobody",
                    "On nobody answered",
                    new(
                        EntryKind.On,
                        Event: EventKeys.RangThrough,
                        Only: new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                        {
                            ["outcome"] = ["nobody"],
                        }
                    ),
                    [
                        new(
                            "desk",
                            "Post to the ride desk",
                            StepKinds.ChannelPost,
                            StepMoment.After(0),
                            Words(
                                "channel",
                                "#ride-desk",
                                "Nobody could be rung for {{ lead.name }}, who asks to be called back. {{ lead.phone }} {{ lead.link }}",
                                "take"
                            )
                        ),
                    ]
                ),
                new(
                    "missed",
                    "On no answer",
                    new(
                        EntryKind.On,
                        Event: EventKeys.RangThrough,
                        Only: new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                        {
                            ["outcome"] = ["no-answer", "machine"],
                        }
                    ),
                    [
                        new(
                            "text",
                            "Text: we tried",
                            StepKinds.Text,
                            StepMoment.After(0),
                            Words(
                                "words",
                                "{{ lead.first_name | default: \"Hello\" }}, we have just tried to ring you back. When is a good time? {{ client.name }}"
                            )
                        ),
                    ]
                ),
            ],
        };
        return new(
            new()
            {
                Key = "brackenwheel",
                Name = "Brackenwheel Cargo Cycles",
                ShortName = "Brackenwheel",
                Zone = "Europe/London",
                Country = "GB",
                Currency = "GBP",
                TargetSeconds = 300,
                SendFrom = new(8, 0),
                SendTo = new(20, 30),
                WorkFrom = new(8, 0),
                WorkTo = new(18, 0),
                WorkDays = [1, 2, 3, 4, 5, 6],
            },
            3300,
            forms,
            [testRide, costs, callBack],
            [
                new()
                {
                    Key = "fleet_size",
                    Label = "Fleet size",
                    Type = LeadFieldType.Choice,
                    Choices = FleetSizes,
                },
            ],
            "#ride-desk",
            "+447700900512",
            ["Imke Sandoval", "Tobias Renn", "Adaeze Whitlock"]
        );
    }

    private static DemoClient HollinVane()
    {
        FormField[] asked =
        [
            FullName,
            Email,
            Phone,
            Company,
            new("booths", "How many booths?", FormFieldType.Choice, true, ["one", "2–5", "six or more"]),
            new("floors", "On how many floors?", FormFieldType.Choice, false, ["one", "two", "three or more"]),
            new(
                "needed_by",
                "When do you need them?",
                FormFieldType.Choice,
                true,
                ["this week", "this month", "this quarter", "just looking"]
            ),
        ];
        DemoForm[] forms =
        [
            new(
                "hollin-vane-tradehall-quote",
                "tradehall",
                "Tradehall",
                "Quote for booths",
                "tf-hollin-vane-quote",
                "Workplace leads",
                0.4,
                6100,
                asked,
                Straight(asked)
            ),
            new(
                "hollin-vane-lanternfind-booths",
                "lanternfind",
                "Lanternfind",
                "Soundproof booths",
                "lf-hollin-vane-booths",
                "office booth",
                0.35,
                4700,
                asked,
                Straight(asked)
            ),
            new(
                "hollin-vane-site-survey",
                "website",
                "Pagewright",
                "Ask for a site survey",
                null,
                "Landing page",
                0.25,
                2100,
                asked,
                Straight(asked)
            ),
        ];
        var fuse = new FuseDefinition
        {
            Name = "Quote: tell the team, thank them",
            LitBy = OnForms([.. forms.Select(f => f.Key)]),
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "post",
                            "Post to booth quotes",
                            StepKinds.ChannelPost,
                            StepMoment.After(0),
                            Words(
                                "channel",
                                "#booth-quotes",
                                "{{ lead.name }} ({{ lead.company | default: \"no business named\" }}): {{ lead.booths }} booths, {{ lead.needed_by }}. {{ lead.phone }} {{ lead.link }}"
                            )
                        ),
                        new(
                            "thanks",
                            "Text: thank you",
                            StepKinds.Text,
                            StepMoment.After(10),
                            Words(
                                "words",
                                "{{ lead.first_name | default: \"Hello\" }}, {{ client.name }} here: we have your question about {{ lead.booths }} booths and will be in touch shortly."
                            )
                        ),
                    ]
                ),
                new(
                    "soon",
                    "This week",
                    new(EntryKind.When, new(RuleMatch.All, [new("needed_by", RuleOp.OneOf, ["this week"])])),
                    [
                        new(
                            "marguerite",
                            "Tell Marguerite directly",
                            StepKinds.DirectPost,
                            StepMoment.After(0),
                            Words(
                                "person",
                                "marguerite.oyelaran",
                                "Needed this week: {{ lead.name }}, {{ lead.booths }} booths. {{ lead.phone }} {{ lead.link }}"
                            )
                        ),
                    ]
                ),
            ],
        };
        return new(
            new()
            {
                Key = "hollin-vane",
                Name = "Hollin Vane Acoustics",
                ShortName = "Hollin Vane",
                Zone = "America/Toronto",
                Country = "CA",
                Currency = "CAD",
                TargetSeconds = 600,
                SendFrom = new(8, 30),
                SendTo = new(20, 0),
                WorkFrom = new(8, 30),
                WorkTo = new(17, 30),
                WorkDays = [1, 2, 3, 4, 5],
            },
            1700,
            forms,
            [fuse],
            [
                new()
                {
                    Key = "booths",
                    Label = "Booths",
                    Type = LeadFieldType.Choice,
                    Choices = asked[4].Choices,
                },
            ],
            "#booth-quotes",
            "+14165550142",
            ["Marguerite Oyelaran", "Pim Castellan"]
        );
    }

    private static DemoClient TarnValley()
    {
        FormField[] asked =
        [
            FullName,
            Email,
            Phone,
            new("event_date", "Your date", FormFieldType.Text, true, []),
            new("guests", "How many guests?", FormFieldType.Choice, true, ["up to 50", "50–120", "more than 120"]),
        ];
        DemoForm[] forms =
        [
            new(
                "tarn-valley-plaza-date",
                "plaza",
                "Plaza",
                "Is your date free?",
                "pf-tarn-valley-date",
                "Summer parties",
                0.65,
                1400,
                asked,
                Straight(asked)
            ),
            new(
                "tarn-valley-date",
                "website",
                "Pagewright",
                "Ask about a date",
                null,
                "Landing page",
                0.35,
                700,
                asked,
                Straight(asked)
            ),
            new(
                DemoLooseEnds.NotConfirmed,
                "website",
                "Pagewright",
                "School fairs",
                null,
                "School fairs",
                0,
                0,
                [],
                null
            ),
        ];
        var fuse = new FuseDefinition
        {
            Name = "Date enquiry: tell Siobhra, thank them",
            LitBy = OnForms([.. forms.Select(f => f.Key)]),
            Bands =
            [
                new(
                    "always",
                    "Always",
                    new(EntryKind.Always),
                    [
                        new(
                            "siobhra",
                            "Tell Siobhra directly",
                            StepKinds.DirectPost,
                            StepMoment.After(0),
                            Words(
                                "person",
                                "siobhra.quill",
                                "{{ lead.name }}: is {{ lead.event_date }} free, {{ lead.guests }} guests? {{ lead.phone | default: lead.email }} {{ lead.link }}"
                            )
                        ),
                        new(
                            "thanks",
                            "Text: looking at the diary",
                            StepKinds.Text,
                            StepMoment.After(0),
                            Words(
                                "words",
                                "{{ lead.first_name | default: \"Hello\" }}, Siobhra from {{ client.name }} is looking at the diary for {{ lead.event_date }} and will ring you."
                            )
                        ),
                    ]
                ),
            ],
        };
        return new(
            new()
            {
                Key = "tarn-valley",
                Name = "Tarn Valley Marquees",
                ShortName = "Tarn Valley",
                Zone = "Europe/Dublin",
                Country = "IE",
                Currency = "EUR",
                TargetSeconds = 900,
                SendFrom = new(9, 0),
                SendTo = new(20, 0),
                WorkFrom = new(9, 0),
                WorkTo = new(18, 0),
                WorkDays = [1, 2, 3, 4, 5, 6],
            },
            950,
            forms,
            [fuse],
            [
                new()
                {
                    Key = "guests",
                    Label = "Guests",
                    Type = LeadFieldType.Choice,
                    Choices = asked[4].Choices,
                },
            ],
            "#marquee-dates",
            "+353209101234",
            ["Siobhra Quill"]
        );
    }

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

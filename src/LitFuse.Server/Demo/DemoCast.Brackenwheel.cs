using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Mapping;

namespace LitFuse.Server.Demo;

public static partial class DemoCast
{
    private static FormField[] RideAsked =>
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
    private static FormField[] RideAdAsked => [FullName, .. RideAsked[2..]];
    private static FormField[] SheetAsked => [FullName, Email, Company, RideAsked[5]];

    /// <summary>The clients.</summary>
    public static IReadOnlyList<DemoClient> Clients() => [Brackenwheel(), HollinVane(), TarnValley()];

    private static DemoClient Brackenwheel()
    {
        DemoForm[] forms = [.. RideAds(), .. RideForms(), .. LooseForms()];
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
            [TestRide([.. forms.Take(4).Select(f => f.Key)]), Costs(forms[4].Key), CallBack()],
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

    private static DemoForm[] RideAds() =>
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
                RideAdAsked,
                Straight(RideAdAsked)
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
                RideAdAsked,
                Straight(RideAdAsked)
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
                RideAdAsked,
                Straight(RideAdAsked)
            ),
        ];

    private static DemoForm[] RideForms() =>
        [
            new(
                TestRideForm,
                "website",
                "Pagewright",
                "Book a test ride",
                null,
                "Landing page",
                0.2,
                1900,
                RideAsked,
                Straight(RideAsked)
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
                SheetAsked,
                Straight(SheetAsked)
            ),
        ];

    private static DemoForm[] LooseForms() =>
        [
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

    private static FuseDefinition TestRide(string[] forms) =>
        new()
        {
            Name = "Test ride: tell the desk, text the big fleets",
            LitBy = OnForms(forms),
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
                BigFleets(),
            ],
        };

    private static Band BigFleets() =>
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
        );

    private static FuseDefinition Costs(string form) =>
        new()
        {
            Name = "Running-cost sheet: tell the desk",
            LitBy = OnForms([form]),
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

    private static FuseDefinition CallBack() =>
        new()
        {
            Name = "Call me back: ring through",
            LitBy = OnForms(["brackenwheel-callback"]),
            Bands = [RingBack(), NobodyRung(), NoAnswer()],
        };

    private static Band RingBack() =>
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
                    StepKinds.Email,
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
        );

    private static Band NobodyRung() =>
        new(
            "nobody",
            "On nobody answered",
            new(
                EntryKind.On,
                Event: EventKeys.RangThrough,
                Only: new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["outcome"] = ["nobody"] }
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
        );

    private static Band NoAnswer() =>
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
        );
}

using LitFuse.Core.Fields;
using LitFuse.Core.Forms;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;

namespace LitFuse.Server.Demo;

public static partial class DemoCast
{
    private static FormField[] QuoteAsked =>
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

    private static DemoClient HollinVane()
    {
        var forms = QuoteForms();
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
            [Quote([.. forms.Select(f => f.Key)])],
            [
                new()
                {
                    Key = "booths",
                    Label = "Booths",
                    Type = LeadFieldType.Choice,
                    Choices = QuoteAsked[4].Choices,
                },
            ],
            "#booth-quotes",
            "+14165550142",
            ["Marguerite Oyelaran", "Pim Castellan"]
        );
    }

    private static FormField[] DateAsked =>
        [
            FullName,
            Email,
            Phone,
            new("event_date", "Your date", FormFieldType.Text, true, []),
            new("guests", "How many guests?", FormFieldType.Choice, true, ["up to 50", "50–120", "more than 120"]),
        ];

    private static DemoForm[] QuoteForms() =>
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
                QuoteAsked,
                Straight(QuoteAsked)
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
                QuoteAsked,
                Straight(QuoteAsked)
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
                QuoteAsked,
                Straight(QuoteAsked)
            ),
        ];

    private static FuseDefinition Quote(string[] forms) =>
        new()
        {
            Name = "Quote: tell the team, thank them",
            LitBy = OnForms(forms),
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

    private static DemoClient TarnValley()
    {
        var forms = DateForms();
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
            [DateEnquiry([.. forms.Select(f => f.Key)])],
            [
                new()
                {
                    Key = "guests",
                    Label = "Guests",
                    Type = LeadFieldType.Choice,
                    Choices = DateAsked[4].Choices,
                },
            ],
            "#marquee-dates",
            "+353209101234",
            ["Siobhra Quill"]
        );
    }

    private static DemoForm[] DateForms() =>
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
                DateAsked,
                Straight(DateAsked)
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
                DateAsked,
                Straight(DateAsked)
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

    private static FuseDefinition DateEnquiry(string[] forms) =>
        new()
        {
            Name = "Date enquiry: tell Siobhra, thank them",
            LitBy = OnForms(forms),
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
}

using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using static LitFuse.Core.Kits.KitParts;

namespace LitFuse.Core.Kits;

/// <summary>The fuses to begin from, each complete, each made for what the client has.</summary>
public static partial class StarterKits
{
    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<Kit> All { get; } =
    [
        new(
            "pick-a-slot",
            "Offer two times, take the reply, hand over after silence",
            "somebody should ring at a time that the lead picked",
            PickASlot
        ),
        new("by-size", "Large and small ask different people", "the size of the job decides who rings", BySize),
        new(
            "out-of-hours",
            "Answer at night, keep the promise in the morning",
            "people ask after hours and should hear when they will be rung",
            OutOfHours
        ),
        new("chase", "Ask again until somebody reaches out", "a lead must not lie about", Chase),
        new(
            "four-letters",
            "Four letters over nine days, until they reply",
            "an offer takes some thinking",
            FourLetters
        ),
        new(
            "task",
            "A task with a due date, and its link to whoever does it",
            "something must be prepared for each lead",
            TaskWithLink
        ),
        new("weekend", "Weekend cover", "somebody else is on duty outside working hours", Weekend),
        new("nurture", "Keep in touch with who is tagged nurture", "not now, but perhaps in spring", Nurture),
        new(
            "welcome-back",
            "Welcome back who asks again",
            "they know you, and should notice that you know them",
            WelcomeBack
        ),
        new("before-the-day", "A word before the day, and one after", "a form asks for a date", BeforeTheDay),
    ];

    /// <summary>The kit with this key, or <c>null</c>.</summary>
    public static Kit? Find(string key) => All.FirstOrDefault(k => k.Key == key);

    private static FuseDefinition PickASlot(KitSurroundings has) =>
        OnSubmission(
            has,
            "Offer two times, take the reply, hand over after silence",
            [Offer(has), .. Answers(has), .. NoReply(has)]
        );

    private static readonly string[] TwoTimes =
    [
        "{{ now | add_working_days: 1 | day }} at 10:00",
        "{{ now | add_working_days: 1 | day }} at 15:00",
    ];

    private static Band Offer(KitSurroundings has) =>
        Always(
            Text(
                "offer",
                "Offer two times",
                0,
                "Hi {{ lead.first_name | default: \"there\" }}, {{ client.name }} here. When may we ring you?\n{{ choices }}\nJust send the number."
            ) with
            {
                Choices = TwoTimes,
            },
            Post(
                has,
                "told",
                "Tell the desk",
                0,
                "{{ lead.name }} asked through {{ form.name }} and was offered two times to be rung.\n{{ answers }}"
            )
        );

    private static Band[] Answers(KitSurroundings has) =>
        [
            On(
                "chose",
                "They chose a time",
                EventKeys.Replied,
                new() { ["meaning"] = ["choice"] },
                Text(
                    "booked",
                    "Confirm the time",
                    0,
                    "Noted: we will ring on {{ reply.choice }}. Should it change, just write here."
                ),
                Post(
                    has,
                    "booked-post",
                    "Tell the desk the time",
                    0,
                    "{{ lead.name }} will be rung on {{ reply.choice }}."
                ),
                Tag("slot", "Tag: time chosen", "time chosen")
            ),
            On(
                "asked",
                "They asked something",
                EventKeys.Replied,
                new() { ["meaning"] = ["question", "other"] },
                Post(
                    has,
                    "asked-post",
                    "Pass the question on",
                    0,
                    "{{ lead.name }} wrote: “{{ reply.text }}” Please answer."
                )
            ) with
            {
                EachTime = true,
            },
            On(
                "declined",
                "They declined",
                EventKeys.Replied,
                new() { ["meaning"] = ["no"] },
                Post(
                    has,
                    "declined-post",
                    "Say they declined",
                    0,
                    "{{ lead.name }} does not want to be rung: “{{ reply.text }}”"
                )
            ),
        ];

    private static Band[] NoReply(KitSurroundings has) =>
        [
            Silence(
                "remind",
                "No reply: one reminder",
                "offer",
                3 * Hour,
                Text(
                    "reminder",
                    "One reminder",
                    0,
                    "{{ lead.first_name | default: \"Hello\" }}, still glad to ring you. Which suits?\n{{ choices }}"
                ) with
                {
                    Choices = TwoTimes,
                }
            ),
            Silence(
                "hand-over",
                "Still none: hand over",
                "reminder",
                20 * Hour,
                Direct(
                    has,
                    0,
                    "hand",
                    "Hand over to a person",
                    0,
                    "{{ lead.name }} has not replied to two texts. Please ring: {{ lead.link }}"
                ),
                Tag("silent", "Tag: no reply", "no reply")
            ),
        ];

    private static FuseDefinition BySize(KitSurroundings has)
    {
        var size = has.Size;
        var large = size is null ? new List<string> { "yes" } : [.. size.Choices.Skip(size.Choices.Count / 2)];
        var field = size?.Key ?? Facts.CameBefore;
        var rules = size is null
            ? new RuleSet(RuleMatch.All, [new(field, RuleOp.Yes, [])])
            : new RuleSet(RuleMatch.All, [new(field, RuleOp.OneOf, large)]);
        return OnSubmission(
            has,
            size is null
                ? "Known and new ask different people"
                : $"Large and small by {size.Label.ToLowerInvariant()} ask different people",
            [
                new(
                    "large",
                    size is null ? "Known already" : $"Large: {string.Join(", ", large)}",
                    new(EntryKind.When, rules),
                    [
                        Direct(
                            has,
                            0,
                            "large-tell",
                            "Tell who takes large ones",
                            0,
                            "{{ lead.name }} asked through {{ form.name }}. Please ring at once.\n{{ answers }}"
                        ),
                        Text(
                            "large-text",
                            "Text: a name and a promise",
                            20,
                            "Hi {{ lead.first_name | default: \"there\" }}, thank you for asking {{ client.name }}. Somebody who knows will ring you in a few minutes."
                        ),
                        Direct(has, 0, "large-again", "Ask again", 600, "{{ lead.name }} still waits."),
                    ]
                ),
                new(
                    "small",
                    "All others",
                    new(EntryKind.Otherwise),
                    [
                        Direct(
                            has,
                            1,
                            "small-tell",
                            "Tell who takes the others",
                            0,
                            "{{ lead.name }} asked through {{ form.name }}.\n{{ answers }}"
                        ),
                        Text(
                            "small-text",
                            "Text: we have it",
                            60,
                            "Hi {{ lead.first_name | default: \"there\" }}, thank you for asking {{ client.name }}. We will be in touch today."
                        ),
                    ]
                ),
            ]
        ) with
        {
            BandChoice = BandChoice.First,
        };
    }

    private static FuseDefinition OutOfHours(KitSurroundings has) =>
        OnSubmission(
            has,
            "Answer at night, keep the promise in the morning",
            [
                When(
                    "open",
                    "In working hours",
                    new(Facts.WorkingHours, RuleOp.Yes, []),
                    Post(
                        has,
                        "open-post",
                        "Tell the desk",
                        0,
                        "{{ lead.name }} asked through {{ form.name }}.\n{{ answers }}"
                    ),
                    Text(
                        "open-text",
                        "Text: somebody is on it",
                        15,
                        "Hi {{ lead.first_name | default: \"there\" }}, {{ client.name }} here. Somebody rings you shortly."
                    )
                ),
                new(
                    "shut",
                    "After hours",
                    new(EntryKind.Otherwise),
                    [
                        Letter(
                            "night",
                            "Letter: when we will ring",
                            StepMoment.AtOnce,
                            "We have your request",
                            "Hello {{ lead.first_name | default: \"there\" }},\n\nthank you for asking {{ client.name }}. We are not at our desks just now, and will ring you on {{ now | add_working_days: 1 | day }} in the morning.\n\n{{ answers }}"
                        ) with
                        {
                            Hours = new(HoursKind.None),
                        },
                        Post(
                            has,
                            "morning",
                            "Tell the desk in the morning",
                            new StepMoment(Days: 0, Working: true, At: "08:30"),
                            "{{ lead.name }} asked last night and was promised a call this morning.\n{{ answers }}"
                        ),
                        Text(
                            "morning-text",
                            "Text in the morning",
                            new StepMoment(Days: 0, Working: true, At: "09:00"),
                            "Good morning {{ lead.first_name | default: \"\" }}, as promised: {{ client.name }} rings you today."
                        ),
                    ]
                ),
            ]
        ) with
        {
            AgeLimitHours = 80,
        };

    private static FuseDefinition Chase(KitSurroundings has) =>
        OnSubmission(
            has,
            "Ask again until somebody reaches out",
            [
                Always(
                    Post(
                        has,
                        "first",
                        "Tell the desk",
                        0,
                        "{{ lead.name }} asked through {{ form.name }}.\n{{ answers }}"
                    ),
                    Direct(
                        has,
                        0,
                        "second",
                        "Ask one person",
                        180,
                        "{{ lead.name }} has waited three minutes. Can you take it? {{ lead.link }}"
                    ),
                    Direct(
                        has,
                        1,
                        "third",
                        "Ask the next",
                        420,
                        "{{ lead.name }} has waited seven minutes. Please take it: {{ lead.link }}"
                    ),
                    Notice(
                        has,
                        "fourth",
                        "Notice to whoever answers for them",
                        900,
                        "{{ lead.name }} has waited a quarter of an hour."
                    )
                ),
            ]
        ) with
        {
            StopOn =
            [
                new(EventKeys.Touched),
                new(EventKeys.Replied),
                new(EventKeys.OptedOut),
                new(
                    EventKeys.Tagged,
                    new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["tag"] = ["junk"] }
                ),
            ],
        };
}

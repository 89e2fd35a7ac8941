using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using static LitFuse.Core.Kits.KitParts;

namespace LitFuse.Core.Kits;

public static partial class StarterKits
{
    private static FuseDefinition FourLetters(KitSurroundings has) =>
        OnSubmission(
            has,
            "Four letters over nine days, until they reply",
            [
                Always(
                    Letter(
                        "l1",
                        "Letter 1: thank you",
                        StepMoment.After(300),
                        "Thank you for asking {{ client.name }}",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nthank you for asking. This is what you told us:\n\n{{ answers }}\n\nIs anything missing? Just write back."
                    ),
                    Letter(
                        "l2",
                        "Letter 2: how it works",
                        OnDay(2, "09:30"),
                        "How it works",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nin three steps: we ring you, we come by, you decide. Nothing is signed before you have tried it."
                    ),
                    Letter(
                        "l3",
                        "Letter 3: what others ask",
                        OnDay(5, "09:30"),
                        "What others ask us",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nhow long does it take, what does it cost, what if it does not suit? Write to us and we answer for your case."
                    ),
                    Letter(
                        "l4",
                        "Letter 4: shall we close it?",
                        OnDay(9, "09:30"),
                        "Shall we close your request?",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nwe have not heard from you and will leave you in peace. One word is enough to take it up again."
                    ),
                    Tag("cold", "Tag: not answered", "not answered", OnDay(10, "09:30"))
                ),
            ]
        );

    private static FuseDefinition TaskWithLink(KitSurroundings has) =>
        OnSubmission(
            has,
            "A task with a due date, and its link to whoever does it",
            [
                Always(
                    Post(
                        has,
                        "task",
                        "The task, with a due date",
                        0,
                        "To do by {{ now | add_working_days: 3 | day }}: prepare an offer for {{ lead.name }}.\n{{ answers }}"
                    ),
                    Direct(
                        has,
                        0,
                        "told",
                        "Its link to whoever does it",
                        0,
                        "New task for {{ lead.name }}, due {{ now | add_working_days: 3 | day }}: {{ steps.task.url }}"
                    ),
                    Direct(
                        has,
                        0,
                        "due",
                        "On the day it is due",
                        new StepMoment(Days: 3, Working: true, At: "09:00", From: MomentFrom.Submission),
                        "Due today, for {{ lead.name }}: {{ steps.task.url }}"
                    )
                ),
                new(
                    "broken",
                    "The task could not be posted",
                    new(EntryKind.Failed, Of: "task"),
                    [
                        Notice(
                            has,
                            "notice",
                            "Notice: post it by hand",
                            0,
                            "The task for {{ lead.name }} could not be posted."
                        ),
                    ]
                ),
            ]
        ) with
        {
            StopOn = [new(EventKeys.OptedOut)],
        };

    private static FuseDefinition Weekend(KitSurroundings has) =>
        OnSubmission(
            has,
            "Weekend cover",
            [
                When(
                    "week",
                    "In working hours",
                    new(Facts.WorkingHours, RuleOp.Yes, []),
                    Post(
                        has,
                        "week-post",
                        "Tell the desk",
                        0,
                        "{{ lead.name }} asked through {{ form.name }}.\n{{ answers }}"
                    )
                ),
                When(
                    "weekend",
                    "On Saturday and Sunday",
                    new(Facts.Weekday, RuleOp.OneOf, ["Saturday", "Sunday"]),
                    Colleague(
                        StepKinds.TeamText,
                        has,
                        "duty-text",
                        "Text whoever is on duty",
                        0,
                        "{{ lead.name }} asked through {{ form.name }}: {{ lead.phone | phone }}"
                    ),
                    Colleague(
                        StepKinds.Ring,
                        has,
                        "duty-ring",
                        "Ring whoever is on duty",
                        300,
                        "A new lead, {{ lead.name }}, has waited five minutes."
                    )
                ),
                new(
                    "night",
                    "On a weekday, after hours",
                    new(EntryKind.Otherwise),
                    [
                        Post(
                            has,
                            "night-post",
                            "Tell the desk when it opens",
                            new StepMoment(Working: true, At: "08:30"),
                            "{{ lead.name }} asked after hours.\n{{ answers }}"
                        ),
                    ]
                ),
            ]
        ) with
        {
            BandChoice = BandChoice.First,
        };

    private static FuseDefinition Nurture(KitSurroundings has) =>
        new()
        {
            Name = "Keep in touch with who is tagged nurture",
            LitBy =
            [
                new(
                    EventKeys.Tagged,
                    new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["tag"] = ["nurture"] }
                ),
            ],
            Relight = Relight.OnceInDays,
            RelightDays = 90,
            StopOn =
            [
                new(EventKeys.Replied),
                new(EventKeys.OptedOut),
                new(EventKeys.Submission),
                new(
                    EventKeys.Tagged,
                    new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["tag"] = ["ready"] }
                ),
            ],
            Bands =
            [
                Always(
                    Letter(
                        "n1",
                        "After two weeks",
                        OnDay(14, "10:00"),
                        "Still thinking about it?",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nyou asked us a while ago. If it is on your desk again, one line is enough."
                    ),
                    Letter(
                        "n2",
                        "After six weeks",
                        OnDay(42, "10:00"),
                        "What is new here",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\na short word from {{ client.name }}: we have added dates, and would be glad to show you."
                    ),
                    Letter(
                        "n3",
                        "After three months",
                        OnDay(90, "10:00"),
                        "Shall we talk?",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nthree months have passed. Shall we talk for ten minutes?"
                    ),
                    Untag("end", "Take the tag off", "nurture", OnDay(91, "10:00"))
                ),
                On(
                    "ready",
                    "They became ready",
                    EventKeys.Tagged,
                    new() { ["tag"] = ["ready"] },
                    Post(has, "ready-post", "Tell the desk", 0, "{{ lead.name }} is ready now.")
                ),
            ],
        };

    private static FuseDefinition WelcomeBack(KitSurroundings has)
    {
        var fuse = OnSubmission(
            has,
            "Welcome back who asks again",
            [
                Always(
                    Post(
                        has,
                        "back",
                        "Tell the desk that they are back",
                        0,
                        "{{ lead.name }} is back, now through {{ form.name }}. {{ owner.name | default: \"Nobody\" }} answered for them before.\n{{ answers }}"
                    ),
                    Text(
                        "hello",
                        "Text: good to hear from you again",
                        10,
                        "Hi {{ lead.first_name | default: \"there\" }}, good to hear from you again. {{ owner.first_name | default: \"Somebody\" }} of {{ client.name }} rings you shortly."
                    ),
                    Tag("returning", "Tag: returning", "returning")
                ),
            ]
        );
        return fuse with
        {
            LitBy =
            [
                .. fuse.LitBy.Select(l =>
                    l with
                    {
                        When = new(RuleMatch.All, [new(Facts.CameBefore, RuleOp.Yes, [])]),
                    }
                ),
            ],
        };
    }

    private static FuseDefinition BeforeTheDay(KitSurroundings has)
    {
        var field = has.Date?.Key;
        IReadOnlyList<LitBy> lit = field is null
            ? [new(EventKeys.ByHand)]
            : [new(EventKeys.DateReached, Timer: new("09:00", field, -7))];
        return new()
        {
            Name = has.Date is { } date
                ? $"A word before {date.Label.ToLowerInvariant()}, and one after"
                : "A word before the day, and one after",
            LitBy = lit,
            Relight = Relight.OnceInDays,
            RelightDays = 30,
            Bands =
            [
                Always(
                    Letter(
                        "before",
                        "A week before",
                        StepMoment.AtOnce,
                        "One week to go",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\none week to go. Is all as you need it? Write back and we see to it."
                    ),
                    Post(has, "desk", "Tell the desk", 0, "{{ lead.name }} has one week to go."),
                    Letter(
                        "after",
                        "The day after",
                        OnDay(8, "10:00"),
                        "How was it?",
                        "Hello {{ lead.first_name | default: \"there\" }},\n\nhow was it? One line helps us."
                    )
                ),
            ],
        };
    }
}

using LitFuse.Core.Continuity;
using LitFuse.Core.Drift;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using NodaTime;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests.Continuity;

/// <summary>All that the line of Brackenwheel's ad form hangs on, whole.</summary>
internal sealed record LineFacts
{
    public static readonly Guid FormId = Guid.Parse("01a20fdf-0000-7000-8000-0000000000f1"),
        SourceId = Guid.Parse("01a20fdf-0000-7000-8000-0000000000a1"),
        FuseId = Guid.Parse("01a20fdf-0000-7000-8000-0000000000e1"),
        VersionId = Guid.Parse("01a20fdf-0000-7000-8000-0000000000e2");
    public static readonly Instant Now = At("24 09:41:00");
    private const string Key = "brackenwheel-test-ride";

    public LineForm Form { get; init; } =
        new(FormId, Key, "Test ride", SourceId, "Plaza, Brackenwheel", "Plaza")
        {
            NeedsAccess = true,
            Access = new(AccessStanding.Whole, []),
            AdState = "running",
            Thanks = new("https://brackenwheel.example/thank-you", Now - Duration.FromMinutes(2), null),
            Visits = (12, 1),
            MapVersion = 3,
            Fills = new HashSet<string> { "first_name", "last_name", "email", "phone", "fleet_size" },
            Filled = new Dictionary<string, Filled> { ["phone"] = new(19, 20), ["email"] = new(20, 20) },
            Offers = new Dictionary<string, IReadOnlyList<string>> { ["fleet_size"] = ["1–3", "4–9", "10–24", "25+"] },
            Proof = new(Now - Duration.FromHours(2), false, Guid.Empty, 4, 0.18, 3, [VersionId]),
        };

    public FuseStanding Standing { get; init; } = FuseStanding.Armed;

    public FuseDefinition Fuse { get; init; } =
        Fixtures.Fuse(
            Whenever(
                Post("post"),
                Text("text"),
                new Step(
                    "letter",
                    "Letter: what happens now",
                    StepKinds.Email,
                    StepMoment.AtOnce,
                    new Dictionary<string, string> { ["subject"] = "Your test ride", ["words"] = "Hello" }
                ),
                new Step(
                    "row",
                    "Row for the depot",
                    "gridlet-row",
                    StepMoment.AtOnce,
                    new Dictionary<string, string> { ["sheet"] = "Rides", ["columns.mail"] = "{{ lead.email }}" }
                )
            ),
            Big(
                new Step(
                    "spoken",
                    "Stage: New",
                    StepKinds.SetStage,
                    StepMoment.AtOnce,
                    new Dictionary<string, string> { ["stage"] = "New" }
                )
            )
        );

    public FuseSurroundings Around { get; init; } = Surroundings();

    public LineHours Hours { get; init; } =
        new(SendHours, new(new(8, 0), new(18, 0), [.. OpenHours.EveryDay.Take(5)]), London, "GB");

    public LineClient Client { get; init; } = new(Guid.Empty, "Brackenwheel Cargo Cycles", null, null);

    public IReadOnlyDictionary<string, LineConnection> Connections { get; init; } =
        new Dictionary<string, LineConnection>
        {
            ["c-chat"] = new("c-chat", "Ridgeboard"),
            ["c-phone"] = new("c-phone", "Copperline"),
            ["c-mail"] = new("c-mail", "Pillarpost"),
            ["c-sheet"] = new("c-sheet", "Gridlet"),
        };

    public FuseLine FuseLine() =>
        Core.Continuity.FuseLine.Of(
            FuseId,
            Standing == FuseStanding.Armed ? VersionId : null,
            Standing,
            Fuse,
            Around,
            Hours,
            Now
        );

    public FormLine Line() =>
        LineCheck.Of(Form, FuseLine() is var fuse && fuse.LitBy(Form) ? [fuse] : [], Connections, Client, Now);

    public static FuseSurroundings Surroundings()
    {
        var row = new StepKind(
            "gridlet-row",
            "Row in a sheet",
            Lane.Systems,
            "gridlet",
            [
                new("sheet", "Sheet", SettingType.Listed) { List = "sheets" },
                new("columns", "Columns", SettingType.Columns) { List = "columns" },
            ],
            []
        );
        return Around() with
        {
            Fields =
            [
                new("fleet_size", ["1–3", "4–9", "10–24", "25+"]),
                new("first_name", []),
                new("email", []),
                new("phone", []),
            ],
            Services = ["ridgeboard", "copperline", "pillarpost", "gridlet"],
            Steps = new StepCatalog([row]),
            Connections =
            [
                new("c-chat", "ridgeboard", "Ridgeboard"),
                new("c-phone", "copperline", "Copperline"),
                new("c-mail", "pillarpost", "Pillarpost"),
                new("c-sheet", "gridlet", "Gridlet"),
            ],
            Lists = new Dictionary<string, IReadOnlyList<ListItem>>
            {
                ["row.sheet"] = [new("Rides", "Rides")],
                ["row.columns"] = [new("mail", "Mail", Required: true)],
            },
        };
    }
}

/// <summary>One way in which a line is cut.</summary>
/// <param name="Name">In words.</param>
/// <param name="Joint">The joint that it cuts.</param>
/// <param name="Do">Cuts it.</param>
/// <param name="Says">A part of the cause as it is told.</param>
/// <param name="Mend">Where it is mended.</param>
internal sealed record Break(string Name, JointKind Joint, Func<LineFacts, LineFacts> Do, string Says, MendPlace Mend)
{
    /// <summary>No fuse burns with it: what fuses need is not asked for.</summary>
    public bool Disarms { get; init; }

    /// <summary>What it touches; two that touch the same do not go together.</summary>
    public string Of { get; init; } = Name;

    /// <summary>Every one there is.</summary>
    public static IReadOnlyList<Break> All { get; } =
    [
        new(
            "not connected",
            JointKind.Access,
            f => f with { Form = f.Form with { Access = null } },
            "is not connected to Plaza any more",
            MendPlace.Source
        )
        {
            Of = "access",
        },
        new(
            "access ran out",
            JointKind.Access,
            f => Accessed(f, AccessStanding.RanOut),
            "The access to Plaza ran out.",
            MendPlace.Source
        )
        {
            Of = "access",
        },
        new(
            "access taken back",
            JointKind.Access,
            f => Accessed(f, AccessStanding.TakenBack),
            "The access was taken back at Plaza.",
            MendPlace.Source
        )
        {
            Of = "access",
        },
        new(
            "network does not answer",
            JointKind.Access,
            f => Accessed(f, AccessStanding.Unreachable),
            "Plaza does not answer.",
            MendPlace.Source
        )
        {
            Of = "access",
        },
        new(
            "what it sends is refused",
            JointKind.Access,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Refused = new(
                            4,
                            LineFacts.Now - Duration.FromMinutes(40),
                            LineFacts.Now,
                            "There is no Lantern-Key header."
                        ),
                    },
                },
            "refused again and again, and nothing was taken in between: There is no Lantern-Key header.",
            MendPlace.Source
        ),
        new(
            "a permission is missing",
            JointKind.Permissions,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Access = f.Form.Access is { } a
                            ? a with
                            {
                                Missing =
                                [
                                    ("read the answers", "we hear that somebody answered and cannot fetch what"),
                                ],
                            }
                            : null,
                    },
                },
            "“read the answers” was not given",
            MendPlace.Source
        ),
        new(
            "not chosen",
            JointKind.Form,
            f => f with { Form = f.Form with { Standing = FormStanding.NotChosen } },
            "The form is not chosen",
            MendPlace.Source
        )
        {
            Of = "standing",
        },
        new(
            "not published",
            JointKind.Form,
            f => f with { Form = f.Form with { Standing = FormStanding.NotPublished } },
            "is not published",
            MendPlace.Form
        )
        {
            Of = "standing",
        },
        new(
            "paused",
            JointKind.Form,
            f => f with { Form = f.Form with { Standing = FormStanding.Paused, Waiting = 4 } },
            "The form is paused, and 4 submissions wait.",
            MendPlace.Form
        )
        {
            Of = "standing",
        },
        new(
            "archived",
            JointKind.Form,
            f => f with { Form = f.Form with { ArchivedAt = LineFacts.Now } },
            "is archived at Plaza",
            MendPlace.Source
        ),
        new(
            "ad stopped",
            JointKind.Form,
            f => f with { Form = f.Form with { AdState = "stopped" } },
            "Its ad is stopped",
            MendPlace.Source
        )
        {
            Of = "ad",
        },
        new(
            "ad not approved",
            JointKind.Form,
            f => f with { Form = f.Form with { AdState = "waiting" } },
            "Its ad waits for approval",
            MendPlace.Source
        )
        {
            Of = "ad",
        },
        new(
            "thank-you does not answer",
            JointKind.ThankYou,
            f => f with { Form = f.Form with { Thanks = f.Form.Thanks! with { Fault = "answered 404" } } },
            "does not answer: it answered 404.",
            MendPlace.Form
        ),
        new(
            "visits bring nothing",
            JointKind.Visits,
            f => f with { Form = f.Form with { Visits = (2, 6) } },
            "without their answers: 6 of 8 this week",
            MendPlace.Form
        ),
        new(
            "some are missing",
            JointKind.Arrivals,
            f => f with { Form = f.Form with { Missing = 2 } },
            "Plaza has 2 submissions that we have not.",
            MendPlace.Source
        ),
        new(
            "silent",
            JointKind.Arrivals,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Silent = "This form usually has a lead every 40 min at these hours; none for 5 h.",
                    },
                },
            "none for 5 h",
            MendPlace.Form
        ),
        new(
            "map not confirmed",
            JointKind.Map,
            f => f with { Form = f.Form with { MapVersion = null, Waiting = 4 } },
            "Nobody has confirmed the map, and 4 submissions wait.",
            MendPlace.Map
        ),
        new(
            "no field for the phone",
            JointKind.Fields,
            f => f with { Form = f.Form with { Fills = f.Form.Fills.Where(x => x != "phone").ToHashSet() } },
            "No field goes to phone",
            MendPlace.Map
        )
        {
            Of = "phone",
        },
        new(
            "phone never filled",
            JointKind.Fields,
            f => Fills(f, "phone", 0),
            "Phone was empty in the last 20 submissions",
            MendPlace.Map
        )
        {
            Of = "phone",
        },
        new(
            "phone stopped coming",
            JointKind.Fields,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Filled = new Dictionary<string, Filled>(f.Form.Filled) { ["phone"] = new(14, 20, 6) },
                    },
                },
            "Phone was empty in the last 6 submissions",
            MendPlace.Map
        )
        {
            Of = "phone",
        },
        new(
            "no field for the email",
            JointKind.Fields,
            f => f with { Form = f.Form with { Fills = f.Form.Fills.Where(x => x != "email").ToHashSet() } },
            "No field goes to email",
            MendPlace.Map
        )
        {
            Of = "email",
        },
        new(
            "the phone's field was renamed",
            JointKind.Fields,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Drift =
                        [
                            .. f.Form.Drift,
                            new(
                                "renamed.phone.mobile",
                                DriftKind.Renamed,
                                "phone",
                                "phone",
                                "“phone” does not come any more; “mobile” comes in its place.",
                                "Map “mobile” to phone instead",
                                2,
                                NewField: "mobile"
                            ),
                        ],
                    },
                },
            "“mobile” comes in its place",
            MendPlace.Form
        )
        {
            Of = "phone",
        },
        new(
            "a choice a band waits for is gone",
            JointKind.Fields,
            f =>
                f with
                {
                    Form = f.Form with
                    {
                        Offers = new Dictionary<string, IReadOnlyList<string>>
                        {
                            ["fleet_size"] = ["1–3", "4–9", "10–24", "25 and more"],
                        },
                    },
                },
            "“25+” is no choice of fleet size any more",
            MendPlace.Fuse
        ),
        new(
            "no fuse is lit by it",
            JointKind.Fuse,
            f => f with { Fuse = f.Fuse with { LitBy = [new(EventKeys.Submission, OnForm("another"))] } },
            "No fuse is lit by it",
            MendPlace.NewFuse
        )
        {
            Of = "fuse",
            Disarms = true,
        },
        new(
            "its fuse is disarmed",
            JointKind.Fuse,
            f => f with { Standing = FuseStanding.Disarmed },
            "“Test ride: tell the desk” is disarmed.",
            MendPlace.Fuse
        )
        {
            Of = "fuse",
            Disarms = true,
        },
        new(
            "its fuse is a draft",
            JointKind.Fuse,
            f => f with { Standing = FuseStanding.Draft },
            "“Test ride: tell the desk” is a draft.",
            MendPlace.Fuse
        )
        {
            Of = "fuse",
            Disarms = true,
        },
        new(
            "the chat is down",
            JointKind.Service,
            f => Down(f, "c-chat", "Ridgeboard answered 500, and 3 posts wait."),
            "Ridgeboard answered 500",
            MendPlace.Connection
        )
        {
            Of = "chat",
        },
        new(
            "the chat is not connected",
            JointKind.Service,
            f =>
                f with
                {
                    Around = f.Around with
                    {
                        Services = [.. f.Around.Services.Where(s => s != "ridgeboard")],
                        Connections = [.. f.Around.Connections.Where(c => c.Id != "c-chat")],
                    },
                },
            "has no connection to send through",
            MendPlace.NewConnection
        )
        {
            Of = "chat",
        },
        new(
            "the chat is paused",
            JointKind.Service,
            f => With(f, f.Connections["c-chat"] with { Paused = true }),
            "Ridgeboard is paused",
            MendPlace.Connection
        )
        {
            Of = "chat",
        },
        new(
            "the channel is gone",
            JointKind.Service,
            f => f with { Around = f.Around with { Channels = ["#another"] } },
            "'#ride-desk' is not there.",
            MendPlace.Fuse
        ),
        new(
            "the phone carrier is down",
            JointKind.Service,
            f => Down(f, "c-phone", "The access to Copperline was taken back."),
            "Copperline was taken back",
            MendPlace.Connection
        ),
        new(
            "the mail server is down",
            JointKind.Service,
            f => Down(f, "c-mail", "Pillarpost could not be reached."),
            "Pillarpost could not be reached",
            MendPlace.Connection
        ),
        new(
            "the sheet is gone",
            JointKind.Service,
            f => Listed(f, "row.sheet", []),
            "'Rides' is not there.",
            MendPlace.Fuse
        ),
        new(
            "the sheet demands another column",
            JointKind.Service,
            f => Listed(f, "row.columns", [new("mail", "Mail", Required: true), new("depot", "Depot", Required: true)]),
            "puts nothing into “Depot”, which is demanded there.",
            MendPlace.Fuse
        )
        {
            Of = "columns",
        },
        new(
            "the sheet's column is gone",
            JointKind.Service,
            f => Listed(f, "row.columns", []),
            "fills “mail”, which is not there any more.",
            MendPlace.Fuse
        )
        {
            Of = "columns",
        },
        new(
            "the stage is gone",
            JointKind.Service,
            f => f with { Around = f.Around with { Stages = ["Spoken", "Won"] } },
            "'New' is not there.",
            MendPlace.Fuse
        ),
        new(
            "everything is held",
            JointKind.Hours,
            f => f with { Client = f.Client with { HeldAt = LineFacts.Now, HeldBy = "Noor Abernathy-Voss" } },
            "Everything is held for Brackenwheel Cargo Cycles, by Noor",
            MendPlace.Held
        ),
        new(
            "send hours never open",
            JointKind.Hours,
            f => f with { Hours = f.Hours with { Send = f.Hours.Send with { Days = [] } } },
            "keeps the send hours, which never open",
            MendPlace.Hours
        ),
        new(
            "send hours lie in the night",
            JointKind.Hours,
            f => f with { Hours = f.Hours with { Send = new(new(23, 0), new(23, 30), OpenHours.EveryDay) } },
            "never open within the night's rest from texts",
            MendPlace.Hours
        )
        {
            Of = "send hours never open",
        },
    ];

    private static LineFacts Accessed(LineFacts f, AccessStanding standing) =>
        f with
        {
            Form = f.Form with { Access = f.Form.Access! with { Standing = standing } },
        };

    private static LineFacts Fills(LineFacts f, string field, int times) =>
        f with
        {
            Form = f.Form with { Filled = new Dictionary<string, Filled>(f.Form.Filled) { [field] = new(times, 20) } },
        };

    private static LineFacts Down(LineFacts f, string connection, string fault) =>
        With(f, f.Connections[connection] with { Fault = fault });

    private static LineFacts With(LineFacts f, LineConnection connection) =>
        f with
        {
            Connections = new Dictionary<string, LineConnection>(f.Connections) { [connection.Id] = connection },
        };

    private static LineFacts Listed(LineFacts f, string list, IReadOnlyList<ListItem> items) =>
        f with
        {
            Around = f.Around with
            {
                Lists = new Dictionary<string, IReadOnlyList<ListItem>>(f.Around.Lists) { [list] = items },
            },
        };

    public override string ToString() => Name;
}

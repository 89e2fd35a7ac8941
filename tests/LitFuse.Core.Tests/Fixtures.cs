using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Words;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Core.Tests;

/// <summary>The demonstration's fuse and lead, for tests of the engine.</summary>
internal static class Fixtures
{
    public static readonly DateTimeZone London = DateTimeZoneProviders.Tzdb["Europe/London"];

    public static readonly OpenHours SendHours = new(new LocalTime(8, 0), new LocalTime(20, 30), OpenHours.EveryDay);

    /// <summary>A moment on London's clock, in November: <c>24 09:41:00</c>.</summary>
    public static Instant At(string text) =>
        InstantPattern.ExtendedIso.Parse($"2026-11-{text.Replace(' ', 'T')}Z").GetValueOrThrow();

    public static Step Post(string id, int after = 0) =>
        new(
            id,
            "Post to the ride desk",
            StepKinds.ChannelPost,
            StepMoment.After(after),
            new Dictionary<string, string> { ["channel"] = "#ride-desk", ["words"] = "{{ lead.name }} asked." }
        );

    public static Step Text(string id, int after = 0, string words = "{{ lead.first_name }}, we have it.") =>
        new(
            id,
            "Text: someone is on it",
            StepKinds.Text,
            StepMoment.After(after),
            new Dictionary<string, string> { ["words"] = words }
        );

    public static Band Whenever(params Step[] steps) => new("always", "Always", new(EntryKind.Always), steps);

    public static Band Big(params Step[] steps) =>
        new(
            "big",
            "Big fleets",
            new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["10–24", "25+"])])),
            steps
        );

    public static Band Otherwise(params Step[] steps) => new("other", "Otherwise", new(EntryKind.Otherwise), steps);

    public static FuseDefinition Fuse(params Band[] bands) =>
        new()
        {
            Name = "Test ride: tell the desk",
            LitBy = [new(EventKeys.Submission, OnForm("brackenwheel-test-ride"))],
            Bands = bands,
        };

    public static Dictionary<string, string> Posting(string words) =>
        new() { ["channel"] = "#ride-desk", ["words"] = words };

    public static Dictionary<string, IReadOnlyList<string>> OnForm(params string[] forms) => new() { ["form"] = forms };

    /// <summary>Something that happens to the lead.</summary>
    public static BurnEvent.Happened On(string key, string because, Instant at, params (string, string)[] details) =>
        new(LeadEvent.Of(key, at, because, details));

    public static LeadFacts Lead(
        string fleet = "25+",
        bool hasPhone = true,
        bool optedOut = false,
        OpenHours? hours = null,
        DateTimeZone? zone = null
    )
    {
        var fields = new Dictionary<string, string>
        {
            ["first_name"] = "Ines",
            ["last_name"] = "Calloway",
            ["fleet_size"] = fleet,
            ["name"] = "Ines Calloway",
        };
        var words = new WordFacts(
            fields,
            new Dictionary<string, string> { ["name"] = "Brackenwheel Cargo Cycles" },
            new Dictionary<string, string> { ["name"] = "Book a test ride" },
            [new("How many bikes?", fleet)]
        );
        return new(fields, words, hasPhone, optedOut, zone ?? London, hours ?? SendHours)
        {
            HasEmail = true,
            PhoneCountry = "GB",
            WorkHours = new(new(8, 0), new(18, 0), [.. OpenHours.EveryDay.Take(5)]),
        };
    }

    public static BurnState NewBurn(Instant at, Instant? lit = null) =>
        BurnState.New(Guid.Parse("01a20fdf-9ae5-78c5-bc7b-b98a165a069e"), at, lit ?? at);

    public static FuseSurroundings Around(IReadOnlyList<string>? channels = null) =>
        new(
            ["brackenwheel-test-ride"],
            [new("fleet_size", ["1–3", "4–9", "10–24", "25+"]), new("first_name", []), new("company", [])],
            channels ?? ["#ride-desk"],
            ["imke.sandoval"],
            ["ridgeboard", "copperline", "pillarpost"]
        )
        {
            Colleagues = ["01a20fdf-0000-7000-8000-000000000001"],
            Stages = ["New", "Spoken", "Won"],
            Fuses = [],
        };
}

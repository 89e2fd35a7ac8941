namespace LitFuse.Shape.Tests;

/// <summary>
/// A layer of the house: its rooms are folders. A room knows rooms of lower layers, and none beside or above it.
/// </summary>
/// <param name="Rooms">Namespaces, without the project's own name where they lie in one.</param>
/// <param name="What">What is done there.</param>
public sealed record HouseLayer(string[] Rooms, string What);

/// <summary>
/// Where everything lies, and who may know whom. The tests hold it against the compiled code; docs/architecture.md is
/// made from it.
/// </summary>
public static class House
{
    /// <summary>Rooms of the core, from the bottom up.</summary>
    public static IReadOnlyList<HouseLayer> Core { get; } =
    [
        new(
            ["Core", "Core.Texts", "Core.Figures", "Core.Hours", "Core.Stories", "Core.Calling"],
            "texts and their length, figures, working hours and clocks, kinds of story line, how a call goes"
        ),
        new(
            ["Core.Forms", "Core.Identity", "Core.Arrivals", "Core.Replies"],
            "forms, telephone numbers and addresses, how often leads come, what a reply means"
        ),
        new(["Core.Fields", "Core.Payloads"], "lead fields and how a value is read, what a body says"),
        new(
            ["Core.Guards", "Core.Words", "Core.Mapping", "Core.Files"],
            "rules, words with fields in them, from answers to lead fields, files of rows"
        ),
        new(["Core.Junk", "Core.Fuses.Definition"], "what is junk, and what a fuse says"),
        new(["Core.Fuses.Engine", "Core.Fuses.Checks"], "what a fuse does and when, and what is wrong with one"),
        new(
            ["Core.Fuses.Rehearsal", "Core.Kits", "Core.Drift", "Core.Delivering"],
            "dry runs and backtests, ready-made fuses, forms that change under us, bringing things outside"
        ),
        new(["Core.Continuity"], "whether a line from the ad to the last step is whole"),
    ];

    /// <summary>Projects and rooms of the server, from the bottom up.</summary>
    public static IReadOnlyList<HouseLayer> Server { get; } =
    [
        new(
            ["Platform"],
            "settings, clock, secrets, outbound rules, public address, signed links, refusals; what a part of the server is"
        ),
        new(["Data"], "rows and their enums, the database, the client filter, bulk copy, change notes, migrations"),
        new(
            ["Connectors", "Server.Access", "Server.Ways"],
            "outside services that are sent to, a folder each; who may do what; kinds of source, a folder each"
        ),
        new(
            ["Server.Intake", "Server.Engine", "Server.Live"],
            "what arrives is kept; what happens to leads and burns; what screens are told"
        ),
        new(["Server.Delivery"], "the outbox and its lines"),
        new(["Server.Features"], "what people and programs see and do, a folder each, each registering itself"),
        new(["Server.Demo"], "the demonstration"),
        new(["Server"], "composition and nothing else"),
    ];

    /// <summary>Folders of the front end, from the bottom up; features know each other without a circle.</summary>
    public static IReadOnlyList<HouseLayer> Web { get; } =
    [
        new(["api"], "the API's types and its client"),
        new(["ui"], "what several pages use: parts, colours, times and distances"),
        new(["app"], "who is signed in, which client is chosen, keys, what the frame counts"),
        new(["features"], "pages, a folder a feature"),
        new(["routes"], "which address shows which page"),
    ];

    /// <summary>Which feature knows which other one; there is no circle in it.</summary>
    public static IReadOnlyDictionary<string, string[]> Features { get; } =
        new Dictionary<string, string[]>(StringComparer.Ordinal)
        {
            ["Backtests"] = ["Fuses"],
            ["Connections"] = ["Sources"],
            ["Consent"] = ["Door"],
            ["Continuity"] = ["Fuses", "Mapping", "Sources"],
            ["Deliveries"] = ["Fuses", "Leads"],
            ["Fuses"] = ["Leads", "ReadyWords"],
            ["Mapping"] = ["Sources"],
            ["OwnForms"] = ["Door"],
            ["Receiving"] = ["Calls", "Replies"],
            ["Sheets"] = ["Leads"],
            ["Sources"] = ["OwnForms"],
            ["Visits"] = ["Door"],
            ["Watch"] = ["Continuity", "Leads"],
        };

    /// <summary>
    /// The room of a type: the folder it lies in; a feature, a connector and a kind of source are rooms of their own.
    /// </summary>
    public static string Of(string fullName)
    {
        var parts = fullName.Split('.')[1..^1];
        return parts switch
        {
            ["Core", "Fuses", ..] => string.Join('.', parts.Take(3)),
            ["Core", ..] => string.Join('.', parts.Take(2)),
            ["Server", "Features", ..] or ["Server", "Ways", "Kinds", ..] => string.Join('.', parts),
            ["Connectors", _, ..] => string.Join('.', parts.Take(2)),
            ["Server", ..] => string.Join('.', parts.Take(2)),
            _ => parts[0],
        };
    }

    /// <summary>The layer that a room lies in, from the bottom; −1 where it has none.</summary>
    public static int LayerOf(IReadOnlyList<HouseLayer> layers, string room)
    {
        for (var i = layers.Count - 1; i >= 0; i--)
        {
            if (
                layers[i]
                    .Rooms.Any(r =>
                        room == r
                        || (r is not ("Core" or "Server") && room.StartsWith(r + ".", StringComparison.Ordinal))
                    )
            )
                return i;
        }

        return -1;
    }
}

using System.Text.RegularExpressions;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>The layers of <see cref="House"/>, held against the compiled code.</summary>
public sealed class HouseTests
{
    private static readonly string[] Assemblies =
    [
        "LitFuse.Core",
        "LitFuse.Platform",
        "LitFuse.Data",
        "LitFuse.Connectors",
        "LitFuse.Server",
    ];
    private static readonly IReadOnlySet<Use> Uses = TypeGraph.Read(AppContext.BaseDirectory, Assemblies);
    private static readonly ILookup<(string From, string To), Use> Rooms = Uses.Concat(ByConstant())
        .Where(u => House.Of(u.From) != House.Of(u.To))
        .ToLookup(u => (House.Of(u.From), House.Of(u.To)));

    // A constant is written into who uses it, and the compiled code forgets whose it was: the sources say.
    private static IEnumerable<Use> ByConstant()
    {
        var constants = TypeGraph
            .ConstantsIn(AppContext.BaseDirectory, Assemblies)
            .GroupBy(c => c.Type.Split('.')[^1], StringComparer.Ordinal)
            .Where(g => g.Select(c => c.Type).Distinct().Count() == 1)
            .ToDictionary(
                g => g.Key,
                g => (g.First().Type, Names: g.Select(c => c.Name).ToHashSet(StringComparer.Ordinal)),
                StringComparer.Ordinal
            );
        var named = new Regex(
            @"\b(?<type>[A-Z]\w*)\.(?<name>[A-Z]\w*)\b",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(5)
        );
        foreach (var project in Assemblies)
        {
            foreach (var (_, text) in Tree.Sources("src/" + project))
            {
                var at = Regex
                    .Match(
                        text,
                        @"^namespace (?<at>[\w.]+);",
                        RegexOptions.ExplicitCapture | RegexOptions.Multiline,
                        TimeSpan.FromSeconds(1)
                    )
                    .Groups["at"]
                    .Value;
                if (at.Length == 0)
                    continue;
                foreach (Match match in named.Matches(text))
                {
                    if (
                        constants.TryGetValue(match.Groups["type"].Value, out var of)
                        && of.Names.Contains(match.Groups["name"].Value)
                    )
                        yield return new(at + ".Somebody", of.Type);
                }
            }
        }
    }

    private static string Shown(IEnumerable<Use> uses) =>
        string.Join(", ", uses.Take(5).Select(u => $"{u.From.Split('.')[^1]} → {u.To.Split('.')[^1]}"));

    [Fact]
    public void The_graph_sees_what_there_is()
    {
        // Or everything below holds because nothing was read.
        Assert.Contains(
            new Use("LitFuse.Core.Fuses.Definition.FuseDefinition", "LitFuse.Core.Fuses.Definition.Band"),
            Uses
        );
        Assert.True(Uses.Count > 5000, $"only {Uses.Count} uses were read");
        Assert.Contains(ByConstant(), u => u.To.EndsWith(".StepKinds", StringComparison.Ordinal));
    }

    [Fact]
    public void Every_room_has_its_layer_and_every_room_of_a_layer_is_there()
    {
        var rooms = Uses.SelectMany(u => new[] { House.Of(u.From), House.Of(u.To) }).ToHashSet(StringComparer.Ordinal);
        Assert.All(rooms, r =>
            Assert.True(
                House.LayerOf(r.StartsWith("Core", StringComparison.Ordinal) ? House.Core : House.Server, r) >= 0,
                r + " lies in no layer"
            )
        );
        Assert.All(House.Core.Concat(House.Server).SelectMany(l => l.Rooms), r =>
            Assert.True(rooms.Any(x => x == r || x.StartsWith(r + ".", StringComparison.Ordinal)), r + " is empty")
        );
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void A_room_knows_only_rooms_below_it(bool core)
    {
        var layers = core ? House.Core : House.Server;
        foreach (var edge in Rooms.Where(e => e.Key.From.StartsWith("Core", StringComparison.Ordinal) == core))
        {
            var (from, to) = edge.Key;
            if (!core && to.StartsWith("Core", StringComparison.Ordinal))
                continue;
            Assert.False(core && !to.StartsWith("Core", StringComparison.Ordinal), $"{from} knows {to}: {Shown(edge)}");
            if (IsInside(from, to) || BothFeatures(from, to))
                continue;
            Assert.True(
                House.LayerOf(layers, from) > House.LayerOf(layers, to),
                $"{from} knows {to}, which does not lie below it: {Shown(edge)}"
            );
        }
    }

    [Fact]
    public void Features_know_each_other_along_the_listed_lines_alone()
    {
        var found = Rooms
            .Where(e => BothFeatures(e.Key.From, e.Key.To))
            .ToDictionary(e => (e.Key.From["Server.Features.".Length..], e.Key.To["Server.Features.".Length..]), Shown);
        var listed = House.Features.SelectMany(f => f.Value.Select(to => (f.Key, to))).ToHashSet();
        Assert.All(found, f => Assert.True(listed.Contains(f.Key), $"{f.Key.Item1} knows {f.Key.Item2}: {f.Value}"));
        Assert.All(listed, l =>
            Assert.True(found.ContainsKey(l), $"{l.Key} does not know {l.to} any more: take it off the list")
        );
    }

    [Fact]
    public void There_is_no_circle_of_rooms()
    {
        var known = Rooms.ToLookup(e => e.Key.From, e => e.Key.To, StringComparer.Ordinal);
        Assert.Empty(Circles.In(known.Select(k => k.Key), r => known[r]).Select(c => string.Join(" – ", c)));
    }

    [Fact]
    public void Every_feature_registers_itself_and_the_host_names_none()
    {
        var features = Directory
            .GetDirectories(Path.Combine(Tree.Root, "src/LitFuse.Server/Features"))
            .Select(f => Path.GetFileName(f)!)
            .ToList();
        var parts = typeof(Server.Host)
            .Assembly.GetTypes()
            .Where(t => typeof(Platform.IPart).IsAssignableFrom(t))
            .Select(t => t.Namespace)
            .ToHashSet(StringComparer.Ordinal);
        Assert.All(features, f => Assert.Contains("LitFuse.Server.Features." + f, parts));
        Assert.DoesNotContain(Rooms, e =>
            e.Key.From == "Server"
            && (
                e.Key.To.StartsWith("Server.Features", StringComparison.Ordinal)
                || e.Key.To.StartsWith("Connectors.", StringComparison.Ordinal)
            )
        );
    }

    [Fact]
    public void Parts_start_in_the_order_of_the_house()
    {
        var parts = new[]
        {
            typeof(Platform.IPart),
            typeof(Data.AppDb),
            typeof(Connectors.IConnector),
            typeof(Server.Host),
        }
            .SelectMany(t => t.Assembly.GetTypes())
            .Where(t => t.IsClass && typeof(Platform.IPart).IsAssignableFrom(t))
            .Select(t =>
                (
                    Name: t.FullName!,
                    ((Platform.IPart)Activator.CreateInstance(t)!).Layer,
                    Lies: House.LayerOf(House.Server, House.Of(t.FullName!))
                )
            )
            .ToList();
        Assert.True(parts.Count > 30, "too few parts were found");
        foreach (var lower in parts)
        {
            foreach (var upper in parts.Where(p => p.Lies > lower.Lies))
                Assert.True(
                    lower.Layer < upper.Layer,
                    $"{lower.Name} lies below {upper.Name} and does not start before it"
                );
        }
    }

    [Fact]
    public void The_page_of_the_architecture_shows_the_house_as_it_is()
    {
        var path = Path.Combine(Tree.Root, "docs/architecture.md");
        HousePage.Hold(path, "layers", HousePage.Tables());
        HousePage.Hold(
            Path.Combine(Tree.Root, "docs/house-server.svg"),
            HousePicture.Of(
                House.Server,
                Rooms
                    .Select(e => e.Key)
                    .Where(e =>
                        !e.From.StartsWith("Core", StringComparison.Ordinal)
                        && !e.To.StartsWith("Core", StringComparison.Ordinal)
                    )
            )
        );
        HousePage.Hold(
            Path.Combine(Tree.Root, "docs/house-core.svg"),
            HousePicture.Of(
                House.Core,
                Rooms.Select(e => e.Key).Where(e => e.From.StartsWith("Core", StringComparison.Ordinal))
            )
        );
        HousePage.Hold(Path.Combine(Tree.Root, "docs/house-web.svg"), HousePicture.Of(House.Web, WebEdges()));
    }

    [Fact]
    public void Folders_of_the_front_end_know_only_those_below_them_and_go_in_no_circle()
    {
        var edges = WebEdges().Distinct().ToList();
        Assert.True(edges.Count > 50, "too few imports were read");
        foreach (var (from, to) in edges)
        {
            var (above, below) = (House.LayerOf(House.Web, from), House.LayerOf(House.Web, to));
            Assert.True(above >= 0 && below >= 0, $"{from} or {to} lies in no layer");
            Assert.True(
                above > below || (above == below && from.StartsWith("features", StringComparison.Ordinal)),
                $"web: {from} knows {to}, which does not lie below it"
            );
        }

        var known = edges.ToLookup(e => e.From, e => e.To, StringComparer.Ordinal);
        Assert.Empty(Circles.In(known.Select(k => k.Key), f => known[f]).Select(c => string.Join(" – ", c)));
    }

    // Folders as rooms; what lies in none is where the addresses are.
    private static IEnumerable<(string From, string To)> WebEdges()
    {
        const string Base = "web/src/";
        var import = new Regex(
            @"(from|import)\s*\(?\s*""(?<path>(@/|\.)[^""]+)""",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        foreach (var (path, text) in Tree.Sources(Base, "*.ts*"))
        {
            var folder = Path.GetDirectoryName(path[Base.Length..])!;
            foreach (Match match in import.Matches(text))
            {
                var named = match.Groups["path"].Value;
                var at = named.StartsWith("@/", StringComparison.Ordinal)
                    ? named[2..]
                    : Path.GetRelativePath("/", Path.GetFullPath(Path.Combine("/", folder, named)));
                var (from, to) = (Room(folder), Room(Path.GetDirectoryName(at)!));
                if (from != to)
                    yield return (from, to);
            }
        }

        static string Room(string folder) => folder.Length == 0 ? "routes" : folder.Replace('/', '.');
    }

    // A connector knows the contract in the folder above it, and a kind of source the ways it is one of.
    private static bool IsInside(string from, string to) =>
        from.StartsWith(to + ".", StringComparison.Ordinal) && to is not "Server";

    private static bool BothFeatures(string from, string to) =>
        from.StartsWith("Server.Features.", StringComparison.Ordinal)
        && to.StartsWith("Server.Features.", StringComparison.Ordinal);
}

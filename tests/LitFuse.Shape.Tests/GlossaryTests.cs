using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using LitFuse.Core;
using LitFuse.Core.Calling;
using LitFuse.Core.Continuity;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Data;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>
/// <c>docs/glossary.md</c> against the code: what it names is there, and each state says what sets and what ends it.
/// </summary>
public sealed partial class GlossaryTests
{
    private static readonly (Type State, string Of)[] States =
    [
        (typeof(SubmissionStatus), "A submission"),
        (typeof(FormState), "A form"),
        (typeof(NoticeStatus), "A network's notice"),
        (typeof(ReprocessingStatus), "Reading earlier submissions again"),
        (typeof(ConflictState), "Two leads that may be one person"),
        (typeof(ImportStatus), "An import"),
        (typeof(FuseState), "A fuse"),
        (typeof(BurnStatus), "A burn"),
        (typeof(StepStatus), "A step of a burn"),
        (typeof(DeliveryStatus), "A delivery"),
        (typeof(CallStage), "A call"),
        (typeof(LegState), "One telephone of a call"),
        (typeof(ConnectionState), "A connection"),
        (typeof(LineState), "A line"),
        (typeof(ProofState), "A proof"),
        (typeof(BacktestStatus), "A backtest"),
    ];
    private static readonly string Page = Path.Combine(Tree.Root, "docs/glossary.md");

    private static IEnumerable<Type> Types =>
        new[]
        {
            typeof(CoreJson),
            typeof(Platform.Problems),
            typeof(AppDb),
            typeof(Server.Host),
            typeof(Connectors.IConnector),
            typeof(Backlot.Outside),
        }
            .Select(t => t.Assembly)
            .Distinct()
            .SelectMany(a => a.GetTypes());

    [Fact]
    public void Every_state_says_what_sets_it_and_what_ends_it()
    {
        foreach (var (state, name, _, life) in Members())
            Assert.True(
                life.StartsWith("Set ", StringComparison.Ordinal)
                    && (
                        life.Contains("Ends ", StringComparison.Ordinal)
                        || life.Contains("For good", StringComparison.Ordinal)
                    ),
                $"{state}.{name}: “{life}”"
            );
    }

    [Fact]
    public void States_of_the_glossary_are_those_of_the_code()
    {
        var page = File.ReadAllText(Page);
        var made = Between().Replace(page, _ => $"<!-- states -->\n{Written()}<!-- /states -->");
        if (Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1")
            File.WriteAllText(Page, made);
        else
            Assert.Equal(made, page);
    }

    [Fact]
    public void Types_and_tables_that_the_glossary_names_are_there()
    {
        var types = Types.Select(t => t.Name.Split('`')[0]).ToHashSet(StringComparer.Ordinal);
        var tables = Directory
            .EnumerateFiles(Path.Combine(Tree.Root, "src/LitFuse.Data/Migrations"), "*ModelSnapshot.cs")
            .SelectMany(f => Table().Matches(File.ReadAllText(f)).Select(m => m.Groups["name"].Value))
            .ToHashSet(StringComparer.Ordinal);
        var rows = File.ReadAllLines(Page).Where(l => Word().IsMatch(l)).Select(l => l.Split('|')).ToList();
        Assert.True(rows.Count > 40, $"only {rows.Count} words were read");
        foreach (var row in rows)
        {
            Assert.All(Quoted().Matches(row[3]), m => Assert.Contains(m.Groups["name"].Value, types));
            Assert.All(Quoted().Matches(row[4]), m => Assert.Contains(m.Groups["name"].Value, tables));
        }
    }

    [Fact]
    public void Files_that_the_how_to_names_are_there()
    {
        var named = Quoted()
            .Matches(File.ReadAllText(Path.Combine(Tree.Root, "docs/how-to.md")))
            .Select(m => m.Groups["name"].Value)
            .Where(n => n.Contains('/', StringComparison.Ordinal))
            .ToList();
        Assert.True(named.Count > 15, $"only {named.Count} paths were read");
        Assert.All(named, n => Assert.True(Path.Exists(Path.Combine(Tree.Root, n)), n));
    }

    private static IEnumerable<(Type State, string Name, string Means, string Life)> Members()
    {
        var documents = States
            .Select(s => s.State.Assembly.GetName().Name!)
            .Distinct(StringComparer.Ordinal)
            .SelectMany(a => XDocument.Load(Path.Combine(AppContext.BaseDirectory, a + ".xml")).Descendants("member"))
            .ToDictionary(m => m.Attribute("name")!.Value, StringComparer.Ordinal);
        foreach (var (state, _) in States)
        foreach (var name in Enum.GetNames(state))
        {
            var member = documents[$"F:{state.FullName}.{name}"];
            yield return (state, name, Flat(member.Element("summary")), Flat(member.Element("remarks")));
        }
    }

    private static string Flat(XElement? text) =>
        text is null ? "" : Spaces().Replace(string.Concat(text.Nodes().Select(Plain)), " ").Trim();

    private static string Plain(XNode node) =>
        node switch
        {
            XText text => text.Value,
            XElement e => e.Attribute("cref")?.Value.Split('.')[^1] ?? e.Value,
            _ => "",
        };

    private static string Written()
    {
        var text = new StringBuilder("\n## States and their lives\n");
        var members = Members().ToLookup(m => m.State);
        foreach (var (state, of) in States)
        {
            text.Append($"\n### {of} (`{state.Name}`)\n\n| state | means | life |\n| --- | --- | --- |\n");
            foreach (var (_, name, means, life) in members[state])
                text.Append($"| {JsonNamingPolicy.KebabCaseLower.ConvertName(name)} | {means} | {life} |\n");
        }

        return text.Append('\n').ToString();
    }

    [GeneratedRegex("<!-- states -->.*<!-- /states -->", RegexOptions.Singleline | RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Between();

    [GeneratedRegex(@"ToTable\(""(?<name>[a-z_]+)""", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Table();

    [GeneratedRegex(@"^\| (?!word|---|state)[^|]+\|[^|]+\|[^|]+\|[^|]+\|[^|]+\|$", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Word();

    [GeneratedRegex("`(?<name>[^`]+)`", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Quoted();

    [GeneratedRegex(@"\s+", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Spaces();
}

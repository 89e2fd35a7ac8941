using System.Reflection;
using System.Text.RegularExpressions;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>What the compiler cannot hold.</summary>
public sealed class ShapeTests
{
    private static readonly string Root = Find(AppContext.BaseDirectory);
    private static readonly Assembly Core = typeof(Core.CoreJson).Assembly,
        Server = typeof(Server.Host).Assembly;

    private static string Find(string from) =>
        File.Exists(Path.Combine(from, "LitFuse.slnx")) ? from : Find(Directory.GetParent(from)!.FullName);

    private static IEnumerable<(string Path, string Text)> Sources(string folder, string pattern = "*.cs") =>
        Directory
            .EnumerateFiles(Path.Combine(Root, folder), pattern, SearchOption.AllDirectories)
            .Where(p =>
                !p.Contains("/Migrations/", StringComparison.Ordinal)
                && !p.Contains("/obj/", StringComparison.Ordinal)
                && !p.EndsWith("schema.d.ts", StringComparison.Ordinal)
            )
            .Select(p => (Path.GetRelativePath(Root, p), File.ReadAllText(p)));

    [Fact]
    public void The_core_knows_no_database_no_web_and_no_front_end() =>
        Assert.DoesNotContain(Core.GetReferencedAssemblies(), a =>
            a.Name!.StartsWith("Microsoft.", StringComparison.Ordinal)
            || a.Name.StartsWith("Npgsql", StringComparison.Ordinal)
            || a.Name.StartsWith("LitFuse", StringComparison.Ordinal)
            || a.Name is "System.Net.Http" or "System.IO.FileSystem"
        );

    [Fact]
    public void The_core_has_no_clock_no_chance_and_waits_for_nothing()
    {
        var forbidden = new Regex(
            @"\bDateTime(Offset)?\.(Utc)?Now\b|\bSystemClock\b|\bTimeProvider\b|\bnew Random\b|\bRandom\.Shared\b|\bGuid\.(NewGuid|CreateVersion7)\b|\basync\b|\bawait\b|\bTask\b|\bEnvironment\.",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src/LitFuse.Core"), s =>
            Assert.False(forbidden.IsMatch(s.Text), $"{s.Path}: {forbidden.Match(s.Text).Value}")
        );
    }

    [Fact]
    public void The_server_reads_the_clock_in_one_place()
    {
        var forbidden = new Regex(
            @"\bDateTime(Offset)?\.(Utc)?Now\b|\bSystemClock\b|\bStopwatch\b",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src/LitFuse.Server"), s =>
            Assert.False(forbidden.IsMatch(s.Text), $"{s.Path}: {forbidden.Match(s.Text).Value}")
        );
    }

    [Fact]
    public void A_stored_body_is_read_by_its_kind_of_source_and_by_nobody_raw()
    {
        // The door and pages of our own read what arrives; what is stored goes through SubmissionReader, and by kind.
        string[] arriving = ["RawBody.cs", "SourceKind.cs", "HookKind.cs", "VisitEndpoint.cs", "HostedForm.cs"];
        Assert.All(
            Sources("src/LitFuse.Server").Where(s => s.Text.Contains("RawBody.ReadAsync(", StringComparison.Ordinal)),
            s => Assert.Contains(Path.GetFileName(s.Path), arriving)
        );
        Assert.All(Sources("src/LitFuse.Server"), s =>
            Assert.DoesNotMatch(
                new Regex(@"RawBody\.ReadAsync\([^)]*\.Raw\)", RegexOptions.None, TimeSpan.FromSeconds(1)),
                s.Text
            )
        );
    }

    [Fact]
    public void Screens_know_every_kind_of_thing_that_can_change()
    {
        var heard = File.ReadAllText(Path.Combine(Root, "web/src/features/frame/useLive.ts"));
        Assert.All(Enum.GetNames<LitFuse.Server.Platform.ChangeKind>(), kind =>
            Assert.Contains(
                $"case \"{System.Text.Json.JsonNamingPolicy.KebabCaseLower.ConvertName(kind)}\":",
                heard,
                StringComparison.Ordinal
            )
        );
    }

    [Fact]
    public void Nothing_is_decided_by_a_sentence()
    {
        // A sentence may be worded anew; what is decided by it hangs on a code. (What a framework says has no code.)
        var byWords = new Regex(
            @"\.(What|Reason|Because|Why|Mend|Detail|Cause|Sentence|Says)!?\??\.(Contains|StartsWith|EndsWith|IndexOf|Equals)\(|\.(What|Reason|Because|Why|Mend|Cause) (==|!=|is|is not) \$?""",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src/LitFuse.Core").Concat(Sources("src/LitFuse.Server")), s =>
            Assert.False(byWords.IsMatch(s.Text), $"{s.Path}: {byWords.Match(s.Text).Value}")
        );
    }

    [Fact]
    public void Texts_are_cut_in_one_place_alone()
    {
        // Clip never halves a character; the database takes no half of one.
        var cuts = new Regex(
            @"(?<text>[A-Za-z][A-Za-z0-9.]*)\.Length > [A-Za-z0-9.]+ \? \k<text>\[\.\.|\.Substring\(0,",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        // The beginning of a body is bytes, and a key is shown by its first four letters or not at all.
        string[] others = ["DoorBody.cs", "LanternfindKind.cs"];
        Assert.Equal(
            others,
            Sources("src/LitFuse.Core")
                .Concat(Sources("src/LitFuse.Server"))
                .Where(s => cuts.IsMatch(s.Text))
                .Select(s => Path.GetFileName(s.Path))
                .Order()
        );
    }

    [Fact]
    public void What_a_clock_shows_is_made_a_moment_in_one_place_alone()
    {
        // On a night when clocks are put forward, two ways of doing it are an hour apart.
        var ways = new Regex(
            @"\.(AtLeniently|AtStrictly|InZoneLeniently|InZoneStrictly|ResolveLocal|InZone\([^()]*Resolver)",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.Equal(
            ["Clocks.cs"],
            Sources("src/LitFuse.Core")
                .Concat(Sources("src/LitFuse.Server"))
                .Where(s => ways.IsMatch(s.Text))
                .Select(s => Path.GetFileName(s.Path))
        );
    }

    [Fact]
    public void Leads_and_burns_are_locked_in_one_place_alone()
    {
        // The type HeldLead is the promise; whoever locks a row beside it breaks it.
        var locks = new Regex(
            @"(from|join) (leads|burns)\b[^""]*for (no key )?update",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.Equal(
            ["HeldLead.cs"],
            Sources("src/LitFuse.Server").Where(s => locks.IsMatch(s.Text)).Select(s => Path.GetFileName(s.Path))
        );
    }

    // Who may know whom, from the bottom up. Demo knows all of them; nobody knows Demo but where it is loaded.
    private static readonly Dictionary<string, string[]> MayKnow = new(StringComparer.Ordinal)
    {
        ["Accounts"] = ["Clients"],
        ["Clients"] = [],
        ["Connections"] = ["Accounts", "Leads", "Sources"],
        ["Sources"] = ["Accounts", "Connections", "Intake", "Leads", "Mapping", "OwnForms"],
        ["Mapping"] = ["Accounts", "Intake", "Leads", "Sources"],
        ["OwnForms"] = ["Accounts", "Intake", "Mapping", "Sources"],
        ["Intake"] = ["Accounts", "OwnForms", "Sources"],
        ["Pen"] = ["Accounts", "Intake", "Leads", "Sources"],
        ["Consent"] = ["Accounts", "Intake", "Leads"],
        ["Merging"] = ["Accounts", "Intake", "Leads", "Sources"],
        ["TestLeads"] = ["Accounts", "Connections", "Leads"],
        ["Visits"] = ["Accounts", "Intake"],
        ["Leads"] = ["Accounts", "Clients", "Connections", "Consent", "Intake", "Merging", "Sources"],
        ["Imports"] = ["Accounts", "Clients", "Intake", "Leads", "Mapping", "Sources"],
        ["ApiKeys"] = ["Accounts", "Leads", "Sources"],
        ["Hours"] = ["Accounts", "Clients"],
        ["Library"] = ["Accounts", "Leads"],
        ["Calls"] = ["Accounts", "Connections", "Leads"],
        ["Deliveries"] = ["Accounts", "Connections", "Fuses", "Leads"],
        ["Sheets"] = ["Accounts", "Connections", "Leads"],
        ["Backtests"] = ["Accounts", "Fuses", "Intake", "Leads", "Replies", "Sources"],
        ["Fuses"] = ["Accounts", "Clients", "Connections", "Intake", "Leads", "Mapping", "ReadyWords", "Sources"],
        ["ReadyWords"] = ["Accounts", "Leads"],
        ["Notices"] = ["Accounts", "Leads", "Sources"],
        ["Replies"] = ["Accounts", "Connections", "Leads"],
        ["Continuity"] =
        [
            "Accounts",
            "Clients",
            "Connections",
            "Fuses",
            "Intake",
            "Leads",
            "Mapping",
            "Notices",
            "Sources",
        ],
        ["Watch"] =
        [
            "Accounts",
            "Clients",
            "Connections",
            "Continuity",
            "Intake",
            "Leads",
            "Mapping",
            "Merging",
            "Sources",
        ],
        ["Demo"] = ["Accounts", "Clients", "Connections", "Consent", "Fuses", "Intake", "Leads", "Mapping", "Sources"],
    };

    [Fact]
    public void Each_feature_knows_only_those_it_may()
    {
        var folders = Directory
            .GetDirectories(Path.Combine(Root, "src/LitFuse.Server/Features"))
            .Select(f => Path.GetFileName(f)!)
            .Order()
            .ToList();
        Assert.Equal(MayKnow.Keys.Order(), folders);
        foreach (var (path, text) in Sources("src/LitFuse.Server/Features"))
        {
            var own = path.Split('/')[3];
            foreach (
                Match use in Regex.Matches(
                    text,
                    @"using LitFuse\.Server\.Features\.(?<name>\w+);",
                    RegexOptions.ExplicitCapture,
                    TimeSpan.FromSeconds(1)
                )
            )
            {
                Assert.True(
                    use.Groups["name"].Value == own || MayKnow[own].Contains(use.Groups["name"].Value),
                    $"{path} knows {use.Groups["name"].Value}"
                );
            }
        }
    }

    [Fact]
    public void Connectors_are_known_by_nobody_but_where_they_are_listed() =>
        Assert.All(
            Sources("src/LitFuse.Server")
                .Where(s =>
                    !s.Path.Contains("/Connectors/", StringComparison.Ordinal)
                    && !s.Path.EndsWith("/Host.cs", StringComparison.Ordinal)
                ),
            s => Assert.DoesNotContain("Delivery.Connectors", s.Text, StringComparison.Ordinal)
        );

    [Fact]
    public void Wire_records_have_names_of_their_own()
    {
        // Two records of one name would collapse into one schema of the API's description.
        var records = Core.GetExportedTypes()
            .Concat(Server.GetExportedTypes())
            .Where(t => t.GetMethod("<Clone>$") is not null && t.DeclaringType is null)
            .GroupBy(t => t.Name, StringComparer.Ordinal);
        Assert.DoesNotContain(records, g => g.Count() > 1);
    }

    [Fact]
    public void Every_row_of_a_client_passes_the_filter()
    {
        using var db = new DesignTime().CreateDbContext([]);
        foreach (
            var type in db
                .Model.GetEntityTypes()
                .Where(t => t.FindProperty("ClientId") is { ClrType: var clr } && clr == typeof(Guid))
        )
        {
            Assert.True(
                typeof(IOfClient).IsAssignableFrom(type.ClrType) && type.GetDeclaredQueryFilters().Count > 0,
                type.ClrType.Name
            );
        }
    }

    [Fact]
    public void Nothing_is_called_by_what_it_is_instead_of_what_it_does()
    {
        var vague = new Regex(
            "(Common|Utils?|Helpers?|Managers?|Misc|Shared)(/|\\.cs$|\\.tsx?$)",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src").Concat(Sources("web/src", "*.ts*")), s =>
            Assert.False(vague.IsMatch(s.Path), s.Path)
        );
    }

    [Fact]
    public void Files_stay_short_enough_to_be_read() =>
        Assert.All(Sources("src").Concat(Sources("web/src", "*.ts*")), s =>
            Assert.True(s.Text.Split('\n').Length <= 350, s.Path)
        );

    [Fact]
    public void Nothing_half_done_is_left_in_the_code()
    {
        var marks = new Regex(
            @"\b(TODO|FIXME|HACK|NotImplementedException|coming soon)\b",
            RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src").Concat(Sources("web/src", "*.ts*")), s =>
            Assert.False(marks.IsMatch(s.Text), s.Path)
        );
    }
}

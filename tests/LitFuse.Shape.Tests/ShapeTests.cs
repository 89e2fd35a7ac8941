using System.Reflection;
using System.Text.RegularExpressions;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>What the compiler cannot hold.</summary>
public sealed class ShapeTests
{
    private static readonly Assembly Core = typeof(Core.CoreJson).Assembly,
        Server = typeof(Server.Host).Assembly;

    private static IEnumerable<(string Path, string Text)> Sources(string folder, string pattern = "*.cs") =>
        Tree.Sources(folder, pattern);

    // Every project of ours beside the core that runs in the server.
    private static IEnumerable<(string Path, string Text)> OfServer() =>
        new[] { "Platform", "Data", "Connectors", "Server" }.SelectMany(p => Sources("src/LitFuse." + p));

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
        Assert.All(OfServer(), s =>
            Assert.False(forbidden.IsMatch(s.Text), $"{s.Path}: {forbidden.Match(s.Text).Value}")
        );
    }

    [Fact]
    public void A_stored_body_is_read_by_its_kind_of_source_and_by_nobody_raw()
    {
        // The door and pages of our own read what arrives; what is stored goes through SubmissionReader, and by kind.
        string[] arriving = ["RawBody.cs", "SourceKind.cs", "HookKind.cs", "VisitEndpoint.cs", "HostedForm.cs"];
        Assert.All(OfServer().Where(s => s.Text.Contains("RawBody.ReadAsync(", StringComparison.Ordinal)), s =>
            Assert.Contains(Path.GetFileName(s.Path), arriving)
        );
        Assert.All(OfServer(), s =>
            Assert.DoesNotMatch(
                new Regex(@"RawBody\s*\.ReadAsync\([^)]*\.Raw\s*\)", RegexOptions.None, TimeSpan.FromSeconds(1)),
                s.Text
            )
        );
    }

    [Fact]
    public void Screens_know_every_kind_of_thing_that_can_change()
    {
        var heard = File.ReadAllText(Path.Combine(Tree.Root, "web/src/features/frame/useLive.ts"));
        Assert.All(Enum.GetNames<ChangeKind>(), kind =>
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
            @"\.(What|Reason|Because|Why|Mend|Detail|Cause|Sentence|Says)!?\??\s*\.(Contains|StartsWith|EndsWith|IndexOf|Equals)\(|\.(What|Reason|Because|Why|Mend|Cause)\s+(==|!=|is|is not)\s+\$?""",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        Assert.All(Sources("src/LitFuse.Core").Concat(OfServer()), s =>
            Assert.False(byWords.IsMatch(s.Text), $"{s.Path}: {byWords.Match(s.Text).Value}")
        );
    }

    [Fact]
    public void Texts_are_cut_in_one_place_alone()
    {
        // Clip never halves a character; the database takes no half of one.
        var cuts = new Regex(
            @"(?<text>[A-Za-z][A-Za-z0-9.]*)\.Length > [A-Za-z0-9.]+\s+\? \k<text>\[\.\.|\.Substring\(0,",
            RegexOptions.ExplicitCapture,
            TimeSpan.FromSeconds(1)
        );
        // The beginning of a body is bytes, and a key is shown by its first four letters or not at all.
        string[] others = ["DoorBody.cs", "LanternfindKind.cs"];
        Assert.Equal(
            others,
            Sources("src/LitFuse.Core")
                .Concat(OfServer())
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
                .Concat(OfServer())
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
            OfServer().Where(s => locks.IsMatch(s.Text)).Select(s => Path.GetFileName(s.Path))
        );
    }

    [Fact]
    public void Wire_records_have_names_of_their_own()
    {
        // Two records of one name would collapse into one schema of the API's description.
        var records = new[]
        {
            Core,
            Server,
            typeof(LitFuse.Platform.IPart).Assembly,
            typeof(LitFuse.Data.AppDb).Assembly,
            typeof(LitFuse.Connectors.IConnector).Assembly,
        }
            .SelectMany(a => a.GetExportedTypes())
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
            Assert.True(s.Text.Split('\n').Length <= 500, s.Path)
        );

    [Fact]
    public void A_method_is_at_most_sixty_lines_long()
    {
        var methods = MethodLengths.Read(
            AppContext.BaseDirectory,
            [
                "LitFuse.Core",
                "LitFuse.Platform",
                "LitFuse.Data",
                "LitFuse.Connectors",
                "LitFuse.Server",
                "LitFuse.Backlot",
            ]
        );
        Assert.True(methods.Count > 3000, $"only {methods.Count} methods were read");
        Assert.True(methods.Max(m => m.Lines) > 40, "none is long: were lines read at all?");
        Assert.Empty(methods.Where(m => m.Lines > 60).OrderByDescending(m => m.Lines));
    }

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

using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using LitFuse.Mutants;

// Which changes to the core do its tests notice?
// tools/mutants/run [count] [seed] [quick | reach] [in=Fuses/Burn] from the project's root; 200 and a seed that is
// printed where they are left out All mutants are compiled at once into a copy of the core, each behind a switch. Each
// class of the core's tests is run once by itself, to see which switches it comes by; then, for each mutant, the
// classes that come by it are run with it on, until the first that fails: the quick ones first. What none notices is
// listed, with its place and how many classes came by. With "quick", classes that take more than half a minute are left
// out. With "reach" nothing is changed: it lists what no class comes by, of as many places as are asked for. With "in="
// only files whose path has that in it are changed.
const double Handful = 6,
    Slow = 30;
var root = Directory.GetCurrentDirectory();
var count = args.Length > 0 ? int.Parse(args[0], CultureInfo.InvariantCulture) : 200;
var seed = args.Length > 1 ? int.Parse(args[1], CultureInfo.InvariantCulture) : Random.Shared.Next(1_000_000);
var place = Path.Combine(Path.GetTempPath(), $"litfuse-mutants-{seed}");
Console.WriteLine($"{count} mutants of the core, seed {seed}, in {place}");
if (Directory.Exists(place))
    Directory.Delete(place, recursive: true);
Run("git", $"clone -q \"{root}\" \"{place}\"", root);

var core = Path.Combine(place, "src/LitFuse.Core");
File.WriteAllText(
    Path.Combine(core, "Mutants.cs"),
    """
    namespace LitFuse.Core;
    internal static class Mutants
    {
        private static readonly int Which = int.Parse(System.Environment.GetEnvironmentVariable("LITFUSE_MUTANT") ?? "-1", System.Globalization.CultureInfo.InvariantCulture);
        private static readonly bool[] Reached = new bool[20000];
        private static readonly string? Note = Noted();
        public static bool On(int which)
        {
            Reached[which] = true;
            return which == Which;
        }

        private static string? Noted()
        {
            var note = System.Environment.GetEnvironmentVariable("LITFUSE_REACHED");
            if (note is not null) System.AppDomain.CurrentDomain.ProcessExit += (_, _) => System.IO.File.WriteAllLines(note, System.Linq.Enumerable.Select(System.Linq.Enumerable.Where(System.Linq.Enumerable.Range(0, Reached.Length), i => Reached[i]), i => i.ToString(System.Globalization.CultureInfo.InvariantCulture)));
            return note;
        }
    }
    """
);
var originals = Directory
    .EnumerateFiles(core, "*.cs", SearchOption.AllDirectories)
    .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && Path.GetFileName(f) != "Mutants.cs")
    .Order(StringComparer.Ordinal)
    .ToDictionary(f => f, File.ReadAllText);
var all = originals.SelectMany(f => Mutation.In(Path.GetRelativePath(place, f.Key), f.Value)).ToList();

// More than are wanted: some do not compile, as a variable that is set in one half of a condition alone.
var chance = new Random(seed);
if (Array.Find(args, a => a.StartsWith("in=", StringComparison.Ordinal)) is { } among)
    all.RemoveAll(m => !m.File.Contains(among[3..], StringComparison.Ordinal));
var drawn = all.OrderBy(_ => chance.Next()).Take(count * 3 / 2).ToList();

// One within another would hide it.
drawn.RemoveAll(m => drawn.Exists(o => o != m && o.File == m.File && m.Span.Contains(o.Span)));
Console.WriteLine($"{all.Count} places; {drawn.Count} drawn");
for (var tries = 0; ; tries++)
{
    foreach (var (file, text) in originals)
        File.WriteAllText(
            file,
            Mutation.Apply(
                text,
                [.. drawn.Select((m, i) => (m, i)).Where(m => m.m.File == Path.GetRelativePath(place, file))]
            )
        );
    var (code, said) = Run(
        "dotnet",
        "build tests/LitFuse.Core.Tests -c Release -v q -nologo -p:RunAnalyzers=false -p:TreatWarningsAsErrors=false -p:GenerateDocumentationFile=false",
        place,
        mayFail: true
    );
    if (code == 0)
        break;
    if (tries == 12)
        throw new InvalidOperationException(said);
    var bad = CompilerFault
        .Place()
        .Matches(said)
        .Select(m =>
            (
                File: Path.GetRelativePath(place, m.Groups["file"].Value),
                Line: int.Parse(m.Groups["line"].Value, CultureInfo.InvariantCulture)
            )
        )
        .ToHashSet();
    var before = drawn.Count;
    drawn.RemoveAll(m => bad.Any(b => b.File == m.File && m.From <= b.Line && b.Line <= m.To));
    // Said of another line than the change is on.
    if (before == drawn.Count)
        drawn.RemoveAll(m => bad.Any(b => b.File == m.File && Math.Abs(m.From - b.Line) <= 10));
    Console.WriteLine($"{before - drawn.Count} do not compile");
    if (before == drawn.Count)
        throw new InvalidOperationException(said);
}

drawn = [.. drawn.Take(count)];
var tests = Path.Combine(place, "artifacts/bin/LitFuse.Core.Tests/release/LitFuse.Core.Tests");
var classes = Run(tests, "-list classes", place)
    .Said.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
    .Where(c => c.StartsWith("LitFuse.", StringComparison.Ordinal))
    .ToList();
var two = new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount };
var seen = new ConcurrentDictionary<string, (double Seconds, HashSet<int> Reached)>(StringComparer.Ordinal);
await Parallel.ForEachAsync(classes, two, (name, _) =>
{
    var note = Path.Combine(place, name + ".reached");
    var (noticed, lasted) = Notices(-1, [name], note);
    if (noticed)
        throw new InvalidOperationException($"{name} fails with no mutant on.");
    seen[name] = (
        lasted.TotalSeconds,
        [.. File.ReadAllLines(note).Select(l => int.Parse(l, CultureInfo.InvariantCulture))]
    );
    return ValueTask.CompletedTask;
});
Console.WriteLine(
    string.Create(
        CultureInfo.InvariantCulture,
        $"{classes.Count} classes of tests; slow: {string.Join(", ", seen.Where(c => c.Value.Seconds > Slow).Select(c => $"{c.Key} {c.Value.Seconds:0} s"))}"
    )
);
if (args.Contains("reach", StringComparer.Ordinal))
{
    var never = drawn
        .Where((_, i) => !seen.Values.Any(c => c.Reached.Contains(i)))
        .OrderBy(m => m.File, StringComparer.Ordinal)
        .ThenBy(m => m.From)
        .ToList();
    Console.WriteLine($"No class comes by {never.Count} of {drawn.Count}:");
    foreach (var one in never)
        Console.WriteLine("  " + one);
    return 0;
}

if (args.Contains("quick", StringComparer.Ordinal))
    foreach (var (name, one) in seen)
        if (one.Seconds > Slow)
            seen.TryRemove(name, out var _);
var survivors = new List<(Mutation Mutation, int Classes)>();
var done = 0;
await Parallel.ForAsync(0, drawn.Count, two, (i, _) =>
{
    var asked = seen.Where(c => c.Value.Reached.Contains(i)).OrderBy(c => c.Value.Seconds).ToList();
    var (noticed, spent) = (false, 0.0);
    for (var from = 0; from < asked.Count && !noticed; )
    {
        var lot = asked.Skip(from).Take(1).ToList();
        while (from + lot.Count < asked.Count && lot.Sum(c => c.Value.Seconds) < Handful)
            lot.Add(asked[from + lot.Count]);
        from += lot.Count;
        (noticed, var lasted) = Notices(i, [.. lot.Select(c => c.Key)], null);
        spent += lasted.TotalSeconds;
    }

    lock (survivors)
    {
        if (!noticed)
            survivors.Add((drawn[i], asked.Count));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{++done, 4}/{drawn.Count} {(noticed ? "noticed " : "SURVIVES")} {spent, 4:0} s  {drawn[i]}{(noticed ? "" : $"  ({asked.Count} classes come by)")}"
            )
        );
    }

    return ValueTask.CompletedTask;
});
Console.WriteLine(
    string.Create(
        CultureInfo.InvariantCulture,
        $"\n{drawn.Count - survivors.Count} of {drawn.Count} noticed ({100.0 * (drawn.Count - survivors.Count) / drawn.Count:0.0} %), seed {seed}"
    )
);
foreach (
    var (mutation, by) in survivors.OrderBy(s => s.Mutation.File, StringComparer.Ordinal).ThenBy(s => s.Mutation.From)
)
    Console.WriteLine($"  {mutation}  ({by} classes come by)");
Directory.Delete(place, recursive: true);
return 0;

(bool Noticed, TimeSpan Took) Notices(int mutant, IReadOnlyList<string> of, string? note)
{
    var began = Stopwatch.GetTimestamp();
    var start = new ProcessStartInfo(tests, "-noColor -stopOnFail " + string.Join(' ', of.Select(c => "-class " + c)))
    {
        WorkingDirectory = place,
        UseShellExecute = false,
        RedirectStandardOutput = true,
        RedirectStandardError = true,
        Environment = { ["LITFUSE_MUTANT"] = mutant.ToString(CultureInfo.InvariantCulture) },
    };
    if (note is not null)
        start.Environment["LITFUSE_REACHED"] = note;
    using var process = Process.Start(start)!;
    process.OutputDataReceived += static (_, _) => { };
    process.ErrorDataReceived += static (_, _) => { };
    process.BeginOutputReadLine();
    process.BeginErrorReadLine();
    // One that goes round for ever is noticed too.
    if (process.WaitForExit(TimeSpan.FromMinutes(mutant < 0 ? 15 : 4)))
        return (process.ExitCode != 0, Stopwatch.GetElapsedTime(began));
    process.Kill(entireProcessTree: true);
    return (true, Stopwatch.GetElapsedTime(began));
}

static (int Code, string Said) Run(string program, string arguments, string at, bool mayFail = false)
{
    using var process = Process.Start(
        new ProcessStartInfo(program, arguments)
        {
            WorkingDirectory = at,
            UseShellExecute = false,
            RedirectStandardOutput = true,
        }
    )!;
    var said = process.StandardOutput.ReadToEnd();
    process.WaitForExit();
    return process.ExitCode == 0 || mayFail
        ? (process.ExitCode, said)
        : throw new InvalidOperationException($"{program} {arguments}: {said}");
}

using System.Diagnostics;
using System.Globalization;
using System.Xml.Linq;
using LitFuse.Mutants;

// Which changes to the core do its tests notice?
//   tools/mutants/run [count] [seed] [quick]     from the project's root; 200 and a seed that is printed where they are left out
// All mutants are compiled at once into a copy of the core, each behind a switch, and the core's tests are run once for
// each with that switch on, until the first that fails: the quick classes first, and those that take long only where no
// quick one noticed; with "quick", not at all. What none notices is listed, with its place.
// Of all the time that the tests take together: a machine under load makes every class slow.
const double SlowShare = 0.1;
var root = Directory.GetCurrentDirectory();
var count = args.Length > 0 ? int.Parse(args[0], CultureInfo.InvariantCulture) : 200;
var seed = args.Length > 1 ? int.Parse(args[1], CultureInfo.InvariantCulture) : Random.Shared.Next(1_000_000);
var place = Path.Combine(Path.GetTempPath(), $"litfuse-mutants-{seed}");
Console.WriteLine($"{count} mutants of the core, seed {seed}, in {place}");
if (Directory.Exists(place)) Directory.Delete(place, recursive: true);
Run("git", $"clone -q \"{root}\" \"{place}\"", root);

var core = Path.Combine(place, "src/LitFuse.Core");
File.WriteAllText(Path.Combine(core, "Mutants.cs"), "namespace LitFuse.Core;\ninternal static class Mutants\n{\n    private static readonly int Which = int.Parse(System.Environment.GetEnvironmentVariable(\"LITFUSE_MUTANT\") ?? \"-1\", System.Globalization.CultureInfo.InvariantCulture);\n    public static bool On(int which) => which == Which;\n}\n");
var originals = Directory.EnumerateFiles(core, "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && Path.GetFileName(f) != "Mutants.cs").Order(StringComparer.Ordinal).ToDictionary(f => f, File.ReadAllText);
var all = originals.SelectMany(f => Mutation.In(Path.GetRelativePath(place, f.Key), f.Value)).ToList();
// More than are wanted: some do not compile, as a variable that is set in one half of a condition alone.
var chance = new Random(seed);
var drawn = all.OrderBy(_ => chance.Next()).Take(count * 3 / 2).ToList();
// One within another would hide it.
drawn.RemoveAll(m => drawn.Exists(o => o != m && o.File == m.File && m.Span.Contains(o.Span)));
Console.WriteLine($"{all.Count} places; {drawn.Count} drawn");
for (var tries = 0; ; tries++)
{
    foreach (var (file, text) in originals) File.WriteAllText(file, Mutation.Apply(text, [.. drawn.Select((m, i) => (m, i)).Where(m => m.m.File == Path.GetRelativePath(place, file))]));
    var (code, said) = Run("dotnet", "build tests/LitFuse.Core.Tests -c Release -v q -nologo -p:RunAnalyzers=false -p:TreatWarningsAsErrors=false -p:GenerateDocumentationFile=false", place, mayFail: true);
    if (code == 0) break;
    if (tries == 12) throw new InvalidOperationException(said);
    var bad = CompilerFault.Place().Matches(said).Select(m => (File: Path.GetRelativePath(place, m.Groups["file"].Value), Line: int.Parse(m.Groups["line"].Value, CultureInfo.InvariantCulture))).ToHashSet();
    var before = drawn.Count;
    drawn.RemoveAll(m => bad.Any(b => b.File == m.File && m.From <= b.Line && b.Line <= m.To));
    Console.WriteLine($"{before - drawn.Count} do not compile");
    if (before == drawn.Count) throw new InvalidOperationException(said);
}

drawn = [.. drawn.Take(count)];
var tests = Path.Combine(place, "artifacts/bin/LitFuse.Core.Tests/release/LitFuse.Core.Tests");
var report = Path.Combine(place, "clean.xml");
if (Notices(-1, $"-result-xml \"{report}\"").Noticed) throw new InvalidOperationException("The tests fail with no mutant on.");
var took = XDocument.Load(report).Descendants("test").GroupBy(t => (string)t.Attribute("type")!, t => (double)t.Attribute("time")!, StringComparer.Ordinal).ToDictionary(c => c.Key, c => c.Sum(), StringComparer.Ordinal);
var slow = took.Where(c => c.Value > SlowShare * took.Values.Sum()).Select(c => c.Key).ToList();
Console.WriteLine($"Asked last, as they take long: {string.Join(", ", slow)}");
var slowToo = slow.Count > 0 && !args.Contains("quick", StringComparer.Ordinal);
var quickOnes = string.Join(' ', slow.Select(c => $"-class- {c}"));
var slowOnes = string.Join(' ', slow.Select(c => $"-class {c}"));
var survivors = new List<Mutation>();
var done = 0;
await Parallel.ForAsync(0, drawn.Count, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, (i, _) =>
{
    var (noticed, lasted) = Notices(i, quickOnes);
    if (!noticed && slowToo) (noticed, lasted) = Notices(i, slowOnes);
    lock (survivors)
    {
        if (!noticed) survivors.Add(drawn[i]);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{++done,4}/{drawn.Count} {(noticed ? "noticed " : "SURVIVES")} {lasted.TotalSeconds,4:0} s  {drawn[i]}"));
    }

    return ValueTask.CompletedTask;
});
Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"\n{drawn.Count - survivors.Count} of {drawn.Count} noticed ({100.0 * (drawn.Count - survivors.Count) / drawn.Count:0.0} %), seed {seed}"));
foreach (var survivor in survivors.OrderBy(s => s.File, StringComparer.Ordinal).ThenBy(s => s.From)) Console.WriteLine("  " + survivor);
Directory.Delete(place, recursive: true);
return 0;

(bool Noticed, TimeSpan Took) Notices(int mutant, string which)
{
    var began = Stopwatch.GetTimestamp();
    using var process = Process.Start(new ProcessStartInfo(tests, "-noColor -stopOnFail " + which) { WorkingDirectory = place, UseShellExecute = false, RedirectStandardOutput = true, RedirectStandardError = true, Environment = { ["LITFUSE_MUTANT"] = mutant.ToString(CultureInfo.InvariantCulture) } })!;
    process.OutputDataReceived += static (_, _) => { };
    process.ErrorDataReceived += static (_, _) => { };
    process.BeginOutputReadLine();
    process.BeginErrorReadLine();
    // One that goes round for ever is noticed too.
    if (process.WaitForExit(TimeSpan.FromMinutes(mutant < 0 ? 15 : 4))) return (process.ExitCode != 0, Stopwatch.GetElapsedTime(began));
    process.Kill(entireProcessTree: true);
    return (true, Stopwatch.GetElapsedTime(began));
}

static (int Code, string Said) Run(string program, string arguments, string at, bool mayFail = false)
{
    using var process = Process.Start(new ProcessStartInfo(program, arguments) { WorkingDirectory = at, UseShellExecute = false, RedirectStandardOutput = true })!;
    var said = process.StandardOutput.ReadToEnd();
    process.WaitForExit();
    return process.ExitCode == 0 || mayFail ? (process.ExitCode, said) : throw new InvalidOperationException($"{program} {arguments}: {said}");
}

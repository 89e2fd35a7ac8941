using Mono.Cecil;
using Mono.Cecil.Cil;

namespace LitFuse.Shape.Tests;

/// <summary>
/// How many lines each method has, by what the debugger is told: from the line of its first statement to that of its
/// last. Local functions, lambdas and what is written to be awaited are counted with the method they stand in.
/// </summary>
public static class MethodLengths
{
    private const int Hidden = 0xfeefee;

    /// <summary>Methods of assemblies that were built from our sources, with where each stands.</summary>
    /// <param name="folder">Where the assemblies lie, with their symbols.</param>
    /// <param name="names">Without <c>.dll</c>.</param>
    public static IReadOnlyList<(string Where, int Lines)> Read(string folder, IEnumerable<string> names) =>
        [
            .. names.SelectMany(name =>
            {
                using var assembly = AssemblyDefinition.ReadAssembly(
                    Path.Combine(folder, name + ".dll"),
                    new ReaderParameters { ReadSymbols = true }
                );
                return assembly.MainModule.GetTypes().SelectMany(t => t.Methods).SelectMany(Spans).ToList();
            }),
        ];

    // What a field begins with is compiled into the constructors, wherever it stands: those are left out.
    private static IEnumerable<(string Where, int Lines)> Spans(MethodDefinition method)
    {
        if (!method.HasBody || method.IsConstructor)
            return [];
        var points = method
            .DebugInformation.SequencePoints.Where(p => p.StartLine != Hidden && IsOurs(p.Document))
            .ToList();
        if (points.Count == 0)
            return [];
        var (first, last) = (points.Min(p => p.StartLine), points.Max(p => p.EndLine));
        // The brace that closes it is a point of its own.
        var braces = points.Exists(p => p.StartLine == last && p.EndColumn - p.StartColumn == 1) ? 1 : 0;
        return [($"{Path.GetFileName(points[0].Document.Url)}:{first}", last - first + 1 - braces)];
    }

    private static bool IsOurs(Document document) =>
        document.Url.Contains("/src/", StringComparison.Ordinal)
        && !document.Url.Contains("/obj/", StringComparison.Ordinal)
        && !document.Url.Contains("/Migrations/", StringComparison.Ordinal);
}

namespace LitFuse.Shape.Tests;

/// <summary>The sources as they lie in the repository.</summary>
public static class Tree
{
    /// <summary>Where it lies.</summary>
    public static string Root { get; } = Find(AppContext.BaseDirectory);

    /// <summary>Files of a folder, generated ones left out: the path from the root, and the text.</summary>
    public static IEnumerable<(string Path, string Text)> Sources(string folder, string pattern = "*.cs") =>
        Directory
            .EnumerateFiles(Path.Combine(Root, folder), pattern, SearchOption.AllDirectories)
            .Where(p =>
                !p.Contains("/Migrations/", StringComparison.Ordinal)
                && !p.Contains("/obj/", StringComparison.Ordinal)
                && !p.EndsWith("schema.d.ts", StringComparison.Ordinal)
            )
            .Order(StringComparer.Ordinal)
            .Select(p => (Path.GetRelativePath(Root, p), File.ReadAllText(p)));

    private static string Find(string from) =>
        File.Exists(Path.Combine(from, "LitFuse.slnx")) ? from : Find(Directory.GetParent(from)!.FullName);
}

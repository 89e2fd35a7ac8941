namespace LitFuse.Core.Tests;

/// <summary>The project's root folder.</summary>
internal static class Root
{
    public static string Path { get; } = Find(AppContext.BaseDirectory);

    private static string Find(string from) =>
        File.Exists(System.IO.Path.Combine(from, "LitFuse.slnx")) ? from : Find(Directory.GetParent(from)!.FullName);
}

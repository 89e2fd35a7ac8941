namespace LitFuse.Server.Tests;

/// <summary>The project's root folder.</summary>
internal static class Root
{
    public static string Path { get; } = Find(AppContext.BaseDirectory);

    // As the server does before anything else.
    [System.Runtime.CompilerServices.ModuleInitializer]
    internal static void KnowAllCharsets() =>
        System.Text.Encoding.RegisterProvider(System.Text.CodePagesEncodingProvider.Instance);

    private static string Find(string from) =>
        File.Exists(System.IO.Path.Combine(from, "LitFuse.slnx")) ? from : Find(Directory.GetParent(from)!.FullName);
}

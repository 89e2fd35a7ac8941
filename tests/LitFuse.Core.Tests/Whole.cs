namespace LitFuse.Core.Tests;

/// <summary>
/// How long a test of many cases goes on: <c>./test</c> runs a share of them, <c>./test --whole</c> all.
/// </summary>
internal static class Whole
{
    /// <summary>All of them where the whole is asked for, else as many as usual.</summary>
    public static int Of(int usual, int whole) =>
        Environment.GetEnvironmentVariable("LITFUSE_WHOLE") == "1" ? whole : usual;
}

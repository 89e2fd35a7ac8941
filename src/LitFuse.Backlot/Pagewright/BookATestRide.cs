namespace LitFuse.Backlot.Pagewright;

/// <summary>The embedded form, pasted into the page as Lit Fuse gives it out; a test compares the two.</summary>
public static class BookATestRide
{
    /// <summary>The HTML.</summary>
    public static string Snippet { get; } = Read();

    private static string Read()
    {
        using var stream = typeof(BookATestRide).Assembly.GetManifestResourceStream("book-a-test-ride.html")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}

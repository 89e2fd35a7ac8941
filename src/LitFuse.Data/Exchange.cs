namespace LitFuse.Data;

/// <summary>One thing that was said to a service, and what it said back.</summary>
/// <param name="Asked">Method and address, as in <c>PUT https://…</c>.</param>
/// <param name="Headers">Sent along, secrets masked.</param>
/// <param name="Sent">The body, bounded; <c>null</c> where there was none.</param>
/// <param name="Status">What it answered; 0 when it did not.</param>
/// <param name="Answer">What came back, bounded.</param>
/// <param name="TookMs">From asking to the end of the answer.</param>
public sealed record Exchange(
    string Asked,
    IReadOnlyDictionary<string, string> Headers,
    string? Sent,
    int Status,
    string? Answer,
    int TookMs
);

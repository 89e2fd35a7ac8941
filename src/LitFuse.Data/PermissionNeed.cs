namespace LitFuse.Data;

/// <summary>A permission that a network can give or keep back.</summary>
/// <param name="Key">The network's own word.</param>
/// <param name="Name">As people say it.</param>
/// <param name="Without">What does not work without it.</param>
public sealed record PermissionNeed(string Key, string Name, string Without);

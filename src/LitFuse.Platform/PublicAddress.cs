namespace LitFuse.Platform;

/// <summary>Where people and services reach this server.</summary>
public sealed record PublicAddress(string Url)
{
    /// <summary>A lead's page.</summary>
    public string OfLead(Guid id) => $"{Url}/leads/{id:N}";

    /// <summary>A fuse's run sheet.</summary>
    public string OfFuse(Guid id) => $"{Url}/fuses/{id:N}";

    /// <summary>Where a connection's service sends its notices.</summary>
    public string OfNotices(Guid connectionId) => $"{Url}/receive/{connectionId:N}";
}

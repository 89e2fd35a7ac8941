using LitFuse.Platform;

namespace LitFuse.Server.Features.Notices;

/// <summary>Registers what is in this folder.</summary>
public sealed class NoticesPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => NoticesEndpoints.Map(app);
}

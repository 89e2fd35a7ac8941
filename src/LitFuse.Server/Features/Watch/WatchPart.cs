using LitFuse.Platform;

namespace LitFuse.Server.Features.Watch;

/// <summary>Registers what is in this folder.</summary>
public sealed class WatchPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => WatchEndpoint.Map(app);
}

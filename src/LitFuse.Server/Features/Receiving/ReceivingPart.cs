using LitFuse.Platform;

namespace LitFuse.Server.Features.Receiving;

/// <summary>Registers what is in this folder.</summary>
public sealed class ReceivingPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => ReceiveNotices.Map(app);
}

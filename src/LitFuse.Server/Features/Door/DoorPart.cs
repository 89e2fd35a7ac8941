using LitFuse.Platform;

namespace LitFuse.Server.Features.Door;

/// <summary>Registers what is in this folder.</summary>
public sealed class DoorPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => IntakeEndpoint.Map(app);
}

using LitFuse.Platform;

namespace LitFuse.Server.Features.Pen;

/// <summary>Registers what is in this folder.</summary>
public sealed class PenPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => PenEndpoints.Map(app);
}

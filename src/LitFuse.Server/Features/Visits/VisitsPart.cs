using LitFuse.Platform;

namespace LitFuse.Server.Features.Visits;

/// <summary>Registers what is in this folder.</summary>
public sealed class VisitsPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => VisitEndpoint.Map(app);
}

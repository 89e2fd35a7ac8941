using LitFuse.Platform;

namespace LitFuse.Server.Features.Hours;

/// <summary>Registers what is in this folder.</summary>
public sealed class HoursPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => HoursEndpoints.Map(app);
}

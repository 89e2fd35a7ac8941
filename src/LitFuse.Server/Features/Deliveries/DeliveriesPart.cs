using LitFuse.Platform;

namespace LitFuse.Server.Features.Deliveries;

/// <summary>Registers what is in this folder.</summary>
public sealed class DeliveriesPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<DeliveryRows>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => DeliveriesEndpoints.Map(app);
}

using LitFuse.Platform;

namespace LitFuse.Server.Features.Merging;

/// <summary>Registers what is in this folder.</summary>
public sealed class MergingPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<LeadRegrouper>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => MergingEndpoints.Map(app);
}

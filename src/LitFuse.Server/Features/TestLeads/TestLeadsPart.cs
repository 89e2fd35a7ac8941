using LitFuse.Platform;

namespace LitFuse.Server.Features.TestLeads;

/// <summary>Registers what is in this folder.</summary>
public sealed class TestLeadsPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => TestLeadsEndpoints.Map(app);
}

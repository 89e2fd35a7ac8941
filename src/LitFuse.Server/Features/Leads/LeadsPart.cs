using LitFuse.Platform;

namespace LitFuse.Server.Features.Leads;

/// <summary>Registers what is in this folder.</summary>
public sealed class LeadsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<LeadContextReader>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        LeadListEndpoints.Map(app);
        LeadsEndpoints.Map(app);
        TakingEndpoints.Map(app);
    }
}

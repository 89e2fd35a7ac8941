using LitFuse.Platform;

namespace LitFuse.Server.Features.Mapping;

/// <summary>Registers what is in this folder.</summary>
public sealed class MappingPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<MapDetailReader>();
        to.Services.AddScoped<Reprocessor>();
        to.Work<ReprocessLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        LeadFieldsEndpoints.Map(app);
        MapEndpoints.Map(app);
        ReprocessEndpoints.Map(app);
    }
}

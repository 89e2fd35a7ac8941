using LitFuse.Platform;
using LitFuse.Server.Access;

namespace LitFuse.Server.Features.ApiKeys;

/// <summary>Registers what is in this folder.</summary>
public sealed class ApiKeysPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<IKeyAccess, ApiKeyAccess>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => ApiKeysEndpoints.Map(app);
}

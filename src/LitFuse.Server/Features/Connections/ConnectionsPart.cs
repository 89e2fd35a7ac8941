using LitFuse.Platform;

namespace LitFuse.Server.Features.Connections;

/// <summary>Registers what is in this folder.</summary>
public sealed class ConnectionsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<ConnectionRows>();
        to.Services.AddScoped<ConnectionVerifier>();
        to.Work<VerifyLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => ConnectionsEndpoints.Map(app);
}

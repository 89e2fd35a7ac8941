using LitFuse.Platform;

namespace LitFuse.Server.Features.Replies;

/// <summary>Registers what is in this folder.</summary>
public sealed class RepliesPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<MessagesIn>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => TrayEndpoints.Map(app);
}

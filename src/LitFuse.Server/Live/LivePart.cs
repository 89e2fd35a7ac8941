using LitFuse.Platform;
using LitFuse.Server.Access;

namespace LitFuse.Server.Live;

/// <summary>Registers what is in this folder.</summary>
public sealed class LivePart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Engine;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        if (!to.Describing)
            to.Services.AddHostedService<LiveListener>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => app.MapHub<LiveHub>("/live").Needs(Act.SeeWatch);
}

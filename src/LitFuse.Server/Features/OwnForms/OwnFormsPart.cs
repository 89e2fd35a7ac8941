using LitFuse.Platform;

namespace LitFuse.Server.Features.OwnForms;

/// <summary>Registers what is in this folder.</summary>
public sealed class OwnFormsPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        EmbedScripts.Map(app);
        HostedForm.Map(app);
        DesignEndpoints.Map(app);
    }
}

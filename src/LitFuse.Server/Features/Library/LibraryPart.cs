using LitFuse.Platform;

namespace LitFuse.Server.Features.Library;

/// <summary>Registers what is in this folder.</summary>
public sealed class LibraryPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => LibraryEndpoints.Map(app);
}

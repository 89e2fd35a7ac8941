using LitFuse.Platform;

namespace LitFuse.Server.Features.ReadyWords;

/// <summary>Registers what is in this folder.</summary>
public sealed class ReadyWordsPart : IPart
{
    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => ReadyWordsEndpoints.Map(app);
}

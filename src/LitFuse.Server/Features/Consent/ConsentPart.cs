using LitFuse.Platform;

namespace LitFuse.Server.Features.Consent;

/// <summary>Registers what is in this folder.</summary>
public sealed class ConsentPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => to.Work<OptInLoop>();

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        DoNotContactEndpoints.Map(app);
        ConfirmPages.Map(app);
        UnsubscribePages.Map(app);
    }
}

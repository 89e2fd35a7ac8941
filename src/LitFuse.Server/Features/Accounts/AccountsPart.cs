using LitFuse.Platform;

namespace LitFuse.Server.Features.Accounts;

/// <summary>Registers what is in this folder.</summary>
public sealed class AccountsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to) => AccountServices.Add(to.Services);

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => Session.Map(app);
}

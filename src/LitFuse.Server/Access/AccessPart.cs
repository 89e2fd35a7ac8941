using LitFuse.Platform;

namespace LitFuse.Server.Access;

/// <summary>Registers what is in this folder.</summary>
public sealed class AccessPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Ways;

    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddScoped<ClientAccess>();
}

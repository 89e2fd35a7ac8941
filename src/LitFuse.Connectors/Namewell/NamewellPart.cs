using LitFuse.Platform;

namespace LitFuse.Connectors.Namewell;

/// <summary>Registers what the connector leans on.</summary>
public sealed class NamewellPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Connectors;

    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddSingleton<CardDav>();
}

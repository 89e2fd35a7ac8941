using LitFuse.Platform;

namespace LitFuse.Connectors.Pillarpost;

/// <summary>Registers what the connector leans on.</summary>
public sealed class PillarpostPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Connectors;

    /// <inheritdoc />
    public void Add(PartServices to) => to.Services.AddSingleton<LetterMaking>();
}

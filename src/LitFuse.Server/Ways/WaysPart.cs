using LitFuse.Platform;

namespace LitFuse.Server.Ways;

/// <summary>Registers what is in this folder.</summary>
public sealed class WaysPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Ways;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddHttpClient<NetworkHttp>(c => c.Timeout = TimeSpan.FromSeconds(10))
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));
        to.Services.AddSingleton<SourceKinds>();
        to.AddAll<SourceKind>(typeof(SourceKind).Assembly);
    }
}

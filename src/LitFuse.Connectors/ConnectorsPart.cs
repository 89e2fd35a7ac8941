using LitFuse.Platform;

namespace LitFuse.Connectors;

/// <summary>Registers what is in this folder.</summary>
public sealed class ConnectorsPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Connectors;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddHttpClient(ConnectorHttp.Name, c => c.Timeout = TimeSpan.FromSeconds(10))
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));
        to.Services.AddSingleton<ConnectorHttp>();
        to.Services.AddSingleton<ConnectorKinds>();
        to.Services.AddSingleton<ConnectionOpener>();
        to.AddAll<IConnector>(typeof(IConnector).Assembly);
    }
}

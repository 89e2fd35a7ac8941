using LitFuse.Platform;

namespace LitFuse.Server.Demo;

/// <summary>Registers what is in this folder.</summary>
public sealed class DemoPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Demonstration;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<DemoLoader>();
        if (!to.Describing && to.Settings.Demo)
            to.Services.AddHostedService<DemoMail>();
    }
}

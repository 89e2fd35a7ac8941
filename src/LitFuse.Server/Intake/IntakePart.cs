using LitFuse.Platform;

namespace LitFuse.Server.Intake;

/// <summary>Registers what is in this folder.</summary>
public sealed class IntakePart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Intake;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddSingleton<FormsFound>();
        to.Services.AddSingleton<EndingChooser>();
        to.Services.AddSingleton<AmendLinks>();
        to.Services.AddSingleton<FormDirectory>();
        to.Services.AddSingleton<IntakeRateLimiter>();
        to.Services.AddSingleton<IntakeWriter>();
        to.Services.AddSingleton<DoorCounts>();
        // Workers store too: what they poll and fetch goes through the same writer.
        to.EverywhereOf<IntakeWriter>();
        if (to.Settings.ServesWeb)
            to.EverywhereOf<DoorCounts>();
    }
}

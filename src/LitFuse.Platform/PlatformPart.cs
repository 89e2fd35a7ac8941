namespace LitFuse.Platform;

/// <summary>Registers what is in this folder.</summary>
public sealed class PlatformPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Platform;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddSingleton(to.Settings);
        to.Services.AddSingleton(to.Settings.Intake);
        to.Services.AddSingleton(new OutboundRules { AllowPrivate = to.Settings.AllowPrivate });
        to.Services.AddSingleton(new PublicAddress(to.Settings.PublicUrl!));
        to.Services.AddSingleton<TimeProvider>(_ => new ShiftedTime(TimeSpan.FromSeconds(to.Settings.ClockShift)));
        to.Services.AddSingleton(WorkerName.New());
        to.Services.AddSingleton(_ => Database.Open(to.Settings.Db));
        to.Services.AddSingleton<Secrets>();
        to.Services.AddSingleton<Signals>();
        to.Services.AddSingleton<TakeLinks>();
        to.Services.AddSingleton<UnsubscribeLinks>();
        to.Services.AddSingleton<SlidingWindowCounter>();
    }
}

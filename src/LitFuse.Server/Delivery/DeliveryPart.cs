using LitFuse.Platform;

namespace LitFuse.Server.Delivery;

/// <summary>Registers what is in this folder.</summary>
public sealed class DeliveryPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Delivery;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<ServiceNewsReceiver>();
        to.Services.AddScoped<DeliveryClaim>();
        to.Services.AddSingleton<DeliveryAttempt>();
        to.Services.AddScoped<DeliveryContextReader>();
        to.Services.AddScoped<OutcomeRecorder>();
        to.Services.AddSingleton<OutcomeWriter>();
        to.Services.AddScoped<ConnectionThrottle>();
        to.Services.AddScoped<RecordRecall>();
        to.Services.AddSingleton<ServiceLists>();
        // Stopped in the other order: what is under way is still written down.
        to.WorkOf<OutcomeWriter>();
        to.Work<DeliveryLoop>();
    }
}

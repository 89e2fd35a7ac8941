using LitFuse.Connectors;
using LitFuse.Core.Delivering;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Carries out the steps of one kind that take more than one request to a service, such as a ring-through.
/// </summary>
public interface IStepCarrier
{
    /// <summary>The kind of step.</summary>
    string Kind { get; }

    /// <summary>Begins it; what becomes of it is told later, by events.</summary>
    Task<AttemptResult> CarryAsync(DeliveryToMake one, Outgoing outgoing, CancellationToken stop);
}

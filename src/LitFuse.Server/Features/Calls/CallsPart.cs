using LitFuse.Platform;
using LitFuse.Server.Delivery;

namespace LitFuse.Server.Features.Calls;

/// <summary>Registers what is in this folder.</summary>
public sealed class CallsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddSingleton<CallCommands>();
        to.Services.AddSingleton<CallBegin>();
        to.Services.AddSingleton<IStepCarrier>(p => p.GetRequiredService<CallBegin>());
        to.Services.AddScoped<CallService>();
        to.Work<CallLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => CallsEndpoints.Map(app);
}

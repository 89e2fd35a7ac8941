using LitFuse.Platform;

namespace LitFuse.Server.Features.Backtests;

/// <summary>Registers what is in this folder.</summary>
public sealed class BacktestsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<Backtester>();
        to.Work<BacktestLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app) => BacktestsEndpoints.Map(app);
}

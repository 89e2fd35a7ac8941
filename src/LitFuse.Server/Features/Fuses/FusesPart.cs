using LitFuse.Platform;

namespace LitFuse.Server.Features.Fuses;

/// <summary>Registers what is in this folder.</summary>
public sealed class FusesPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<FuseContextReader>();
        to.Services.AddScoped<CatchUp>();
        to.Work<CatchUpLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        FusesEndpoints.Map(app);
        WordsPreviewing.Map(app);
        KitsEndpoints.Map(app);
        LightingEndpoints.Map(app);
        BurnsEndpoints.Map(app);
        BurnList.Map(app);
        TryStep.Map(app);
        DryRun.Map(app);
        VersionsEndpoints.Map(app);
        HoldEndpoints.Map(app);
        CatchUp.Map(app);
        Presence.Map(app);
    }
}

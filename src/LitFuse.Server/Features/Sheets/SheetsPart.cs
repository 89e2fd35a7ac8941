using LitFuse.Platform;

namespace LitFuse.Server.Features.Sheets;

/// <summary>Registers what is in this folder.</summary>
public sealed class SheetsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<NightlyExporter>();
        to.Work<NightlyLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        SheetsEndpoints.Map(app);
        NightlyEndpoints.Map(app);
    }
}

using LitFuse.Platform;

namespace LitFuse.Server.Features.Imports;

/// <summary>Registers what is in this folder.</summary>
public sealed class ImportsPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<ImportKeeping>();
        to.Services.AddScoped<ImportPreviewer>();
        to.Services.AddScoped<ImportProcessor>();
        to.Services.AddScoped<ImportUndo>();
        to.Services.AddScoped<DailyFile>();
        to.Work<ImportLoop>();
        to.Work<DailyFileLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        ImportsEndpoints.Map(app);
        DailyFile.Map(app);
    }
}

using LitFuse.Platform;
using LitFuse.Server.Live;

namespace LitFuse.Server.Features.Continuity;

/// <summary>Registers what is in this folder.</summary>
public sealed class ContinuityPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddSingleton<LineBoards>();
        to.Services.AddSingleton<IChangeListener>(p => p.GetRequiredService<LineBoards>());
        to.Services.AddScoped<LineReader>();
        to.Services.AddScoped<SampleEvaluator>();
        to.Services.AddScoped<ProofReader>();
        to.Services.AddScoped<LineEvaluator>();
        to.Services.AddScoped<NetworkReconciler>();
        to.Services.AddScoped<LineProver>();
        to.Services.AddSingleton<ThanksAsker>();
        to.Services.AddHttpClient(ThanksAsker.Name, c =>
            {
                c.Timeout = TimeSpan.FromSeconds(10);
                c.DefaultRequestHeaders.UserAgent.ParseAdd("LitFuse-continuity/1.0");
            })
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));
        to.Work<LineLoop>();
        to.Work<ThanksLoop>();
        to.Work<CompareLoop>();
        to.Work<ProofLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        LinesEndpoints.Map(app);
        ComparingEndpoints.Map(app);
        ProofEndpoints.Map(app);
        DriftEndpoints.Map(app);
    }
}

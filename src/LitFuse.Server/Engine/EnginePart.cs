using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Platform;

namespace LitFuse.Server.Engine;

/// <summary>Registers what is in this folder.</summary>
public sealed class EnginePart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Engine;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddScoped<FirstTouch>();
        to.Services.AddSingleton<ClientConfigCache>();
        to.Services.AddScoped<StoryWriter>();
        to.Services.AddScoped<LeadEventRouter>();
        to.Services.AddScoped<ClockService>();
        to.Services.AddScoped<OptInAsker>();
        to.Services.AddSingleton<SameWordsCounter>();
        to.Services.AddScoped<SubmissionProcessor>();
        to.Services.AddScoped<BurnService>();
        to.Services.AddScoped<PostsOfLead>();
        to.Services.AddSingleton<SubmissionReader>();
        to.Services.AddSingleton(p => new EventCatalog(p.GetServices<EventKind>()));
        to.Services.AddSingleton(p => new StepCatalog(
            p.GetRequiredService<ConnectorKinds>().All.SelectMany(c => c.Steps)
        ));
        to.Work<SubmissionLoop>();
        to.Work<BurnLoop>();
        to.Work<ClockLoop>();
    }
}

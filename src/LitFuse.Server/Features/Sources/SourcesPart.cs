using LitFuse.Platform;

namespace LitFuse.Server.Features.Sources;

/// <summary>Registers what is in this folder.</summary>
public sealed class SourcesPart : IPart
{
    /// <inheritdoc />
    public void Add(PartServices to)
    {
        to.Services.AddSingleton<NetworkConsent>();
        to.Services.AddSingleton<NetworkIntake>();
        to.Services.AddScoped<NetworkLook>();
        to.Services.AddScoped<NetworkPoll>();
        to.Services.AddScoped<NoticeFetch>();
        to.Services.AddScoped<FormDetailReader>();
        to.Services.AddScoped<TestSender>();
        to.Work<LookLoop>();
        to.Work<PollLoop>();
        to.Work<NoticeLoop>();
    }

    /// <inheritdoc />
    public void Map(IEndpointRouteBuilder app)
    {
        ToldEndpoint.Map(app);
        SourcesEndpoints.Map(app);
        FormsEndpoints.Map(app);
        NetworkConsent.Map(app);
        AddLead.Map(app);
    }
}

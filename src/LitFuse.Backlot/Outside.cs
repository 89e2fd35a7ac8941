using LitFuse.Backlot.Calling;
using LitFuse.Backlot.Copperline;
using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;
using LitFuse.Backlot.Pagewright;
using LitFuse.Backlot.Pillarpost;
using LitFuse.Backlot.Ridgeboard;

namespace LitFuse.Backlot;

/// <summary>Where the Backlot stands and whom it knows.</summary>
/// <param name="Url">Where it listens.</param>
/// <param name="ServerUrl">Where pages send their forms.</param>
/// <param name="Secret">Tokens and signatures are made from it.</param>
public sealed record Grounds(string Url, string ServerUrl, string Secret)
{
    /// <summary>The token that opens a service's API.</summary>
    public string TokenOf(string service) => $"{Secret}-{service}";
}

/// <summary>Composes the Backlot: the outside world in one small process.</summary>
public static class Outside
{
    /// <summary>Runs it until it is stopped.</summary>
    public static async Task<int> RunAsync(string[] args)
    {
        try
        {
            await Build(args).RunAsync();
            return 0;
        }
        catch (IOException e) when (e.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
        {
            await Console.Error.WriteLineAsync(
                $"The Backlot cannot start: {e.InnerException.Message}. Something else has that port; stop it, or choose another with --url http://127.0.0.1:PORT."
            );
            return 2;
        }
    }

    /// <summary>Composes it without starting it.</summary>
    /// <param name="args">As on the command line.</param>
    /// <param name="replace">Replaces services; for tests that move the clock.</param>
    public static WebApplication Build(string[] args, Action<IServiceCollection>? replace = null)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions { Args = args, ContentRootPath = AppContext.BaseDirectory }
        );
        string Setting(string name, string fallback) =>
            builder.Configuration[name]
            ?? builder.Configuration["BACKLOT_" + name.Replace("-", "", StringComparison.Ordinal).ToUpperInvariant()]
            ?? fallback;
        var grounds = new Grounds(
            Setting("url", "http://127.0.0.1:5090").TrimEnd('/'),
            Setting("server-url", "http://127.0.0.1:5080").TrimEnd('/'),
            Setting("secret", "backlot-demo")
        );
        builder.Logging.ClearProviders().AddSimpleConsole(o => o.SingleLine = true).SetMinimumLevel(LogLevel.Warning);
        builder.WebHost.UseUrls(grounds.Url).ConfigureKestrel(k => k.AddServerHeader = false);
        builder.Services.AddSingleton(grounds);
        builder.Services.AddSingleton<TimeProvider>(
            new MovedTime(
                TimeSpan.FromSeconds(
                    double.Parse(Setting("clock-shift", "0"), System.Globalization.CultureInfo.InvariantCulture)
                )
            )
        );
        builder.Services.AddSingleton(
            new MailDoor(
                int.Parse(
                    Setting(
                        "smtp-port",
                        (new Uri(grounds.Url).Port + 1).ToString(System.Globalization.CultureInfo.InvariantCulture)
                    ),
                    System.Globalization.CultureInfo.InvariantCulture
                )
            )
        );
        AddServices(builder.Services);
        replace?.Invoke(builder.Services);
        var app = builder.Build();
        app.UseMiddleware<FaultMiddleware>();
        Map(app);
        return app;
    }

    private static void AddServices(IServiceCollection services)
    {
        services.AddSingleton<FaultBoard>();
        services.AddSingleton<Board>();
        services.AddSingleton<Carrier>();
        services.AddSingleton<Switchboard>();
        services.AddSingleton<Incoming>();
        services.AddSingleton<Caller>();
        services.AddSingleton<Inboxes>();
        services.AddHostedService<SmtpDoor>();
        services.AddSingleton<Ledgerhouse.Ledger>();
        services.AddSingleton<Gridlet.Grids>();
        services.AddSingleton<Jobrack.Rack>();
        services.AddSingleton<Namewell.Books>();
        services.AddSingleton<Ringbarrow.DialLists>();
        services.AddSingleton<Earwick.Ear>();
        services.AddSingleton<PastedPages>();
        services.AddSingleton<Plaza.PlazaNetwork>();
        services.AddSingleton<Tradehall.TradehallNetwork>();
        services.AddSingleton<Lanternfind.LanternfindAds>();
        services.AddSingleton<Formbench.FormbenchTool>();
        services.AddHttpClient();
        services.ConfigureHttpJsonOptions(o =>
            o.SerializerOptions.Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping
        );
        services.AddHostedService(p => p.GetRequiredService<Carrier>());
    }

    private static void Map(WebApplication app)
    {
        FaultBoard.Map(app);
        RidgeboardApi.Map(app);
        TextsApi.Map(app);
        CallsApi.Map(app);
        Phones.Map(app);
        PillarpostPages.Map(app);
        PagewrightPages.Map(app);
        Plaza.PlazaNetwork.Map(app);
        Tradehall.TradehallNetwork.Map(app);
        Lanternfind.LanternfindAds.Map(app);
        Formbench.FormbenchTool.Map(app);
        Ledgerhouse.LedgerhouseApi.Map(app);
        Gridlet.GridletApi.Map(app);
        Jobrack.JobrackApi.Map(app);
        Namewell.DavApi.Map(app);
        Namewell.NamewellPages.Map(app);
        Ringbarrow.RingbarrowApi.Map(app);
        Earwick.Ear.Map(app);
        FrontPage.Map(app);
    }
}

/// <summary>Real time, moved by as much as the server's.</summary>
public sealed class MovedTime(TimeSpan shift) : TimeProvider
{
    /// <inheritdoc />
    public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + shift;
}

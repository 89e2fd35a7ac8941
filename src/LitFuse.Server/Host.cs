using System.IO.Compression;
using LitFuse.Core;
using LitFuse.Core.Fuses;
using LitFuse.Server.Delivery;
using LitFuse.Server.Delivery.Connectors.AnyApi;
using LitFuse.Server.Delivery.Connectors.Copperline;
using LitFuse.Server.Delivery.Connectors.Gridlet;
using LitFuse.Server.Delivery.Connectors.Jobrack;
using LitFuse.Server.Delivery.Connectors.Ledgerhouse;
using LitFuse.Server.Delivery.Connectors.Namewell;
using LitFuse.Server.Delivery.Connectors.Pillarpost;
using LitFuse.Server.Delivery.Connectors.Ridgeboard;
using LitFuse.Server.Delivery.Connectors.Ringbarrow;
using LitFuse.Server.Delivery.Connectors.SignedEvents;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.ApiKeys;
using LitFuse.Server.Features.Backtests;
using LitFuse.Server.Features.Calls;
using LitFuse.Server.Features.Connections;
using LitFuse.Server.Features.Consent;
using LitFuse.Server.Features.Continuity;
using LitFuse.Server.Features.Deliveries;
using LitFuse.Server.Features.Demo;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Imports;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.Merging;
using LitFuse.Server.Features.OwnForms;
using LitFuse.Server.Features.Replies;
using LitFuse.Server.Features.Sheets;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Features.Sources.Kinds.ByHand;
using LitFuse.Server.Features.Sources.Kinds.Files;
using LitFuse.Server.Features.Sources.Kinds.Formbench;
using LitFuse.Server.Features.Sources.Kinds.Hook;
using LitFuse.Server.Features.Sources.Kinds.Lanternfind;
using LitFuse.Server.Features.Sources.Kinds.Plaza;
using LitFuse.Server.Features.Sources.Kinds.Tradehall;
using LitFuse.Server.Features.Sources.Kinds.Website;
using LitFuse.Server.Platform;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Scalar.AspNetCore;

namespace LitFuse.Server;

/// <summary>Composes the server.</summary>
public static partial class Host
{
    // The build runs the program once to write down its API; then nothing is started and no database is there.
    private static bool OnlyDescribing =>
        System.Reflection.Assembly.GetEntryAssembly()?.GetName().Name == "GetDocument.Insider";

    // Japanese, Chinese and Korean programs write in charsets that .NET knows only when they are asked for, and what reads
    // letters looks once, at its first, which there are: so this comes before anything else in here, whoever calls it.
    [System.Runtime.CompilerServices.ModuleInitializer]
    internal static void KnowCharsets() =>
        System.Text.Encoding.RegisterProvider(System.Text.CodePagesEncodingProvider.Instance);

    /// <summary>Runs it until it is stopped.</summary>
    /// <returns>The exit code: 0 when asked to stop, 2 when it could not start, with a sentence that says why.</returns>
    public static async Task<int> RunAsync(string[] args)
    {
        try
        {
            var app = Build(args);
            if (!OnlyDescribing)
                await Startup.PrepareAsync(app.Services, CancellationToken.None);
            await app.RunAsync();
            return 0;
        }
        catch (SettingsException e)
        {
            await Console.Error.WriteLineAsync("Lit Fuse cannot start: " + e.Message);
            return 2;
        }
        catch (IOException e) when (e.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
        {
            await Console.Error.WriteLineAsync(
                $"Lit Fuse cannot start: {e.InnerException.Message}. Something else has that port; stop it, or choose another with --url http://127.0.0.1:PORT."
            );
            return 2;
        }
        catch (Exception e) when (Problems.IsDatabaseDown(e))
        {
            await Console.Error.WriteLineAsync(
                $"Lit Fuse cannot start: PostgreSQL does not answer ({e.GetBaseException().Message}). Start it (./demo does), or set LITFUSE_DB to where it is."
            );
            return 2;
        }
    }

    /// <summary>Composes the application without starting it.</summary>
    /// <param name="args">As on the command line.</param>
    /// <param name="replace">Replaces services; for tests that move the clock.</param>
    public static WebApplication Build(string[] args, Action<IServiceCollection>? replace = null)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions { Args = args, ContentRootPath = AppContext.BaseDirectory }
        );
        var settings = Settings.Read(builder.Configuration, args);
        builder
            .Logging.ClearProviders()
            .AddSimpleConsole(o => o.SingleLine = true)
            .SetMinimumLevel(LogLevel.Warning)
            .AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error)
            // A statement that fails is told by whoever sent it; asking an empty database for its migrations is no failure.
            .AddFilter("Microsoft.EntityFrameworkCore.Database.Command", LogLevel.Critical);
        builder
            .WebHost.UseUrls(settings.Url)
            .ConfigureKestrel(k =>
            {
                k.AddServerHeader = false;
                k.Limits.MaxRequestBodySize = 2 * 1024 * 1024;
            });
        AddServices(builder.Services, settings);
        replace?.Invoke(builder.Services);
        var app = builder.Build();
        Use(app, settings);
        return app;
    }

    private static void AddServices(IServiceCollection services, Settings settings)
    {
        services.AddSingleton(settings);
        services.AddSingleton(settings.Intake);
        services.AddSingleton(new OutboundRules { AllowPrivate = settings.AllowPrivate });
        services.AddSingleton(new PublicAddress(settings.PublicUrl!));
        services.AddSingleton<TimeProvider>(_ => new ShiftedTime(TimeSpan.FromSeconds(settings.ClockShift)));

        services.AddSingleton(_ => Database.Open(settings.Db));
        services.AddDbContext<AppDb>(
            (provider, options) =>
                options
                    .UseNpgsql(provider.GetRequiredService<NpgsqlDataSource>(), o => o.UseNodaTime())
                    .UseSnakeCaseNamingConvention()
                    .AddInterceptors(provider.GetRequiredService<TellOnCommit>()),
            optionsLifetime: ServiceLifetime.Singleton
        );
        services.AddSingleton<Teller>();
        services.AddSingleton<TellOnCommit>();
        services.AddScoped<ClientScope>();
        var protection = services.AddDataProtection().SetApplicationName("LitFuse");
        if (!OnlyDescribing)
            protection.PersistKeysToDbContext<AppDb>();
        services.AddSingleton<Secrets>();

        AccountServices.Add(services);
        services.AddScoped<Access>();
        services.AddScoped<IKeyAccess, ApiKeyAccess>();
        services.AddScoped<FirstTouch>();
        services.AddScoped<FuseAroundReader>();
        services.AddScoped<DemoLoader>();

        services.AddSingleton<Signals>();
        services.AddSingleton<ClientSetups>();
        services.AddScoped<BurnWriter>();
        services.AddScoped<LeadEvents>();
        services.AddScoped<ClockRun>();
        services.AddScoped<MessagesIn>();
        services.AddScoped<ServiceNewsRun>();
        services.AddSingleton(p => new EventCatalog(p.GetServices<EventKind>()));
        services.AddScoped<OptInAsker>();
        services.AddSingleton<SameWordsCounter>();
        services.AddScoped<SubmissionRun>();
        services.AddScoped<BurnRun>();
        services.AddScoped<DeliveryClaim>();
        services.AddSingleton<DeliveryAttempt>();
        services.AddSingleton<LetterMaking>();
        services.AddSingleton<CallCommands>();
        services.AddSingleton<CallBegin>();
        services.AddScoped<CallRun>();
        services.AddScoped<DeliveryAround>();
        services.AddScoped<OutcomeRun>();
        services.AddSingleton<OutcomeWriter>();
        services.AddScoped<ConnectionThrottle>();
        services.AddSingleton(WorkerName.New());
        services
            .AddHttpClient(ConnectorHttp.Name, c => c.Timeout = TimeSpan.FromSeconds(10))
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));
        services.AddSingleton<ConnectorHttp>();
        services.AddSingleton<CardDav>();
        services.AddScoped<ConnectionRows>();
        services.AddScoped<DeliveryRows>();
        services.AddScoped<NightlyRun>();
        services.AddScoped<TakingBack>();
        services.AddScoped<PostsOfLead>();
        services.AddSingleton<TakeLinks>();
        services.AddSingleton<UnsubscribeLinks>();
        services.AddScoped<ConnectionVerifier>();
        services.AddSingleton<ConnectorKinds>();
        services.AddSingleton<ConnectionOpener>();
        services.AddSingleton<ServiceLists>();
        services.AddSingleton(p => new StepCatalog(p.GetServices<IConnector>().SelectMany(c => c.Steps)));
        services.AddSingleton<IConnector, RidgeboardConnector>();
        services.AddSingleton<IConnector, CopperlineConnector>();
        services.AddSingleton<IConnector, PillarpostConnector>();
        services.AddSingleton<IConnector, LedgerhouseConnector>();
        services.AddSingleton<IConnector, GridletConnector>();
        services.AddSingleton<IConnector, JobrackConnector>();
        services.AddSingleton<IConnector, NamewellConnector>();
        services.AddSingleton<IConnector, RingbarrowConnector>();
        services.AddSingleton<IConnector, SignedEventsConnector>();
        services.AddSingleton<IConnector, AnyApiConnector>();

        services
            .AddHttpClient<NetworkHttp>(c => c.Timeout = TimeSpan.FromSeconds(10))
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));
        services.AddSingleton<SourceKind, PlazaKind>();
        services.AddSingleton<SourceKind, TradehallKind>();
        services.AddSingleton<SourceKind, LanternfindKind>();
        services.AddSingleton<SourceKind, WebsiteKind>();
        services.AddSingleton<SourceKind, FormbenchKind>();
        services.AddSingleton<SourceKind, HookKind>();
        services.AddSingleton<SourceKind, FileKind>();
        services.AddSingleton<SourceKind, ByHandKind>();
        services.AddSingleton<SourceKind, ByKeyKind>();
        services.AddSingleton<SourceKinds>();
        services.AddSingleton<SubmissionReader>();
        services.AddSingleton<FormsFound>();
        services.AddSingleton<NetworkConsent>();
        services.AddSingleton<NetworkIntake>();
        services.AddSingleton<EndingChooser>();
        services.AddSingleton<AmendLinks>();
        services.AddScoped<NetworkLook>();
        services.AddScoped<NetworkPoll>();
        services.AddScoped<NoticeFetch>();
        services.AddScoped<FormWholes>();
        services.AddScoped<MapWholes>();
        services.AddScoped<ReprocessRun>();
        services.AddScoped<RegroupRun>();
        services.AddScoped<LeadAroundReader>();
        services.AddScoped<ImportKeeping>();
        services.AddScoped<ImportPreviewer>();
        services.AddScoped<ImportRun>();
        services.AddScoped<ImportUndo>();
        services.AddScoped<DailyFile>();
        services.AddScoped<BacktestRun>();
        services.AddScoped<CatchUp>();
        services.AddSingleton<LineBoards>();
        services.AddScoped<LineReader>();
        services.AddScoped<SampleRun>();
        services.AddScoped<ProofReader>();
        services.AddScoped<LineRun>();
        services.AddScoped<Comparing>();
        services.AddScoped<Proving>();
        services.AddScoped<TestSender>();
        services.AddSingleton<ThanksAsker>();
        services
            .AddHttpClient(ThanksAsker.Name, c =>
            {
                c.Timeout = TimeSpan.FromSeconds(10);
                c.DefaultRequestHeaders.UserAgent.ParseAdd("LitFuse-continuity/1.0");
            })
            .ConfigurePrimaryHttpMessageHandler(p => Outbound.Handler(p.GetRequiredService<OutboundRules>()));

        services.AddSingleton<FormDirectory>();
        services.AddSingleton<IntakeGate>();
        services.AddSingleton<IntakeWriter>();
        services.AddSingleton<LatelyCounter>();
        services.AddSingleton<DoorCounts>();
        if (!OnlyDescribing)
        {
            // Workers store too: what they poll and fetch goes through the same writer.
            services.AddHostedService(p => p.GetRequiredService<IntakeWriter>());
            if (settings.ServesWeb)
                services.AddHostedService(p => p.GetRequiredService<DoorCounts>());
            services.AddHostedService<LiveListener>();
            services.AddHostedService(p => p.GetRequiredService<Teller>());
            if (settings.Works)
            {
                services.AddHostedService<SubmissionLoop>();
                services.AddHostedService<BurnLoop>();
                // Stopped in the other order: what is under way is still written down.
                services.AddHostedService(p => p.GetRequiredService<OutcomeWriter>());
                services.AddHostedService<DeliveryLoop>();
                services.AddHostedService<LookLoop>();
                services.AddHostedService<PollLoop>();
                services.AddHostedService<VerifyLoop>();
                services.AddHostedService<NoticeLoop>();
                services.AddHostedService<ImportLoop>();
                services.AddHostedService<DailyFileLoop>();
                services.AddHostedService<ReprocessLoop>();
                services.AddHostedService<OptInLoop>();
                services.AddHostedService<ClockLoop>();
                services.AddHostedService<NightlyLoop>();
                services.AddHostedService<BacktestLoop>();
                services.AddHostedService<CatchUpLoop>();
                services.AddHostedService<CallLoop>();
                services.AddHostedService<LineLoop>();
                services.AddHostedService<ThanksLoop>();
                services.AddHostedService<CompareLoop>();
                services.AddHostedService<ProofLoop>();
            }

            if (settings.Demo)
                services.AddHostedService<DemoMail>();
        }

        services.AddProblemDetails();
        // In every environment: what cannot be read is answered with what and where, not with a bare 400.
        services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        services.ConfigureHttpJsonOptions(o =>
        {
            CoreJson.Apply(o.SerializerOptions);
            CoreJson.Guard(o.SerializerOptions);
            // The description says that a field is there and may be null; so it is.
            o.SerializerOptions.DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.Never;
        });
        services.AddSignalR().AddJsonProtocol(o => CoreJson.Apply(o.PayloadSerializerOptions));
        services.AddResponseCompression(o =>
        {
            o.EnableForHttps = true;
            o.Providers.Add<BrotliCompressionProvider>();
            o.Providers.Add<GzipCompressionProvider>();
        });
        services.Configure<GzipCompressionProviderOptions>(o => o.Level = CompressionLevel.Optimal);
        services.AddOpenApi("v1", ApiDescription.Configure);
        services.AddHealthChecks().AddCheck<DatabaseHealth>("database", tags: ["ready"]);
    }

    private static void Use(WebApplication app, Settings settings)
    {
        var setups = app.Services.GetRequiredService<ClientSetups>();
        app.Services.GetRequiredService<Teller>().AtOnce = (client, kind) =>
        {
            if (kind == ChangeKind.Connection)
                setups.Forget(client);
        };
        app.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                ExceptionHandler = Problems.OfException,
                SuppressDiagnosticsCallback = c =>
                    Problems.IsDatabaseDown(c.Exception) || c.Exception is BadHttpRequestException,
            }
        );
        app.UseRouting();
        app.UseResponseCompression();
        app.Use(Headers.AddAsync);
        app.UseStatusCodePages(static context =>
            context.HttpContext.Response.StatusCode switch
            {
                404 => Problems.NotThere.WriteAsync(context.HttpContext),
                400 => Problems.BadInput.WriteAsync(context.HttpContext),
                413 => Problems.TooBig.WriteAsync(context.HttpContext),
                _ => Task.CompletedTask,
            }
        );
        app.UseAuthentication();
        app.UseMiddleware<AccessMiddleware>();

        Watchers.Map(app);
        if (!settings.ServesWeb)
            return;
        MapEndpoints(app);
        app.MapHub<LiveHub>("/live").Needs(Act.SeeWatch);
        app.MapOpenApi("/openapi/{documentName}.json").OpenToAnyone("the API's description holds no data");
        app.MapScalarApiReference("/docs", o =>
                o.WithTitle("Lit Fuse API")
                    .WithOpenApiRoutePattern("/openapi/v1.json")
                    .DisableDefaultFonts()
                    .DisableTelemetry()
                    .DisableAgent()
                    .HideDeveloperTools()
                    .HideClientButton()
                    .DisableMcp()
            )
            .OpenToAnyone("the API's description holds no data");
        app.MapGet("/docs/errors", static () => TypedResults.Text(Problems.AsPage(), "text/html; charset=utf-8"))
            .OpenToAnyone("the catalogue of refusals holds no data")
            .ExcludeFromDescription();
        Pages.Map(app, settings.WebRoot);
    }
}

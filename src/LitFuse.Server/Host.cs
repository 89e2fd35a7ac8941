using System.IO.Compression;
using LitFuse.Connectors;
using LitFuse.Core;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Live;
using Microsoft.AspNetCore.ResponseCompression;
using Scalar.AspNetCore;

namespace LitFuse.Server;

/// <summary>Composes the server.</summary>
public static class Host
{
    // The build runs the program once to write down its API; then nothing is started and no database is there.
    private static bool OnlyDescribing =>
        System.Reflection.Assembly.GetEntryAssembly()?.GetName().Name == "GetDocument.Insider";

    // Every part there is, from the bottom up. Who adds one names it nowhere.
    private static readonly IReadOnlyList<IPart> Parts =
    [
        .. new[] { typeof(IPart), typeof(AppDb), typeof(IConnector), typeof(Host) }
            .SelectMany(t => t.Assembly.GetTypes())
            .Where(t => t is { IsClass: true, IsAbstract: false } && typeof(IPart).IsAssignableFrom(t))
            .Select(t => (IPart)Activator.CreateInstance(t)!)
            .OrderBy(p => p.Layer)
            .ThenBy(p => p.GetType().Name, StringComparer.Ordinal),
    ];

    // Japanese, Chinese and Korean programs write in charsets that .NET knows only when they are asked for, and what
    // reads letters looks once, at its first, which there are: so this comes before anything else in here, whoever
    // calls it.
    [System.Runtime.CompilerServices.ModuleInitializer]
    internal static void KnowCharsets() =>
        System.Text.Encoding.RegisterProvider(System.Text.CodePagesEncodingProvider.Instance);

    /// <summary>Runs it until it is stopped.</summary>
    /// <returns>
    /// The exit code: 0 when asked to stop, 2 when it could not start, with a sentence that says why.
    /// </returns>
    public static async Task<int> RunAsync(string[] args)
    {
        var version = args.Contains("--version");
        if (version || args.Contains("--help") || args.Contains("-h"))
        {
            await Console.Out.WriteLineAsync(version ? SettingsHelp.Version : SettingsHelp.Text());
            return 0;
        }

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
            // A statement that fails is told by whoever sent it; asking an empty database for its migrations is no
            // failure.
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
        var to = new PartServices(services, settings, OnlyDescribing);
        foreach (var part in Parts)
            part.Add(to);

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
        var setups = app.Services.GetRequiredService<ClientConfigCache>();
        app.Services.GetRequiredService<ChangeNotifier>().AtOnce = (client, kind) =>
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
        foreach (var part in Parts)
            part.Map(app);
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

using LitFuse.Server.Features.Intake;

namespace LitFuse.Server.Platform;

/// <summary>
/// How this process runs: from the command line (<c>--role worker</c>), the environment (<c>LITFUSE_ROLE</c>), or
/// defaults, in that order.
/// </summary>
public sealed class Settings
{
    /// <summary><c>all</c>, <c>web</c> or <c>worker</c>.</summary>
    public string Role { get; set; } = "all";

    /// <summary>Where to listen.</summary>
    public string Url { get; set; } = "http://127.0.0.1:5080";

    /// <summary>Where people and services reach us, when that differs.</summary>
    public string? PublicUrl { get; set; }

    /// <summary>Npgsql connection string.</summary>
    public string Db { get; set; } = "Host=127.0.0.1;Port=5432;Username=litfuse;Database=litfuse";

    /// <summary>Where the built front end lies.</summary>
    public string WebRoot { get; set; } = Path.Combine(AppContext.BaseDirectory, "wwwroot");

    /// <summary>Load the demonstration's data into an empty database.</summary>
    public bool Demo { get; set; }

    /// <summary>How much of the demonstration's people to load, from 0 to 1; tests need few.</summary>
    public double DemoShare { get; set; } = 1;

    /// <summary>Where the Backlot is, for the demonstration's data.</summary>
    public string BacklotUrl { get; set; } = "http://127.0.0.1:5090";

    /// <summary>Where the Backlot's mail door is; one port above its pages where nothing is said.</summary>
    public string? BacklotMail { get; set; }

    /// <summary>Addresses of networks by kind (<c>LITFUSE_NETWORKS__PLAZA</c>), where they are not the Backlot's.</summary>
    public Dictionary<string, string> Networks { get; set; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>What networks know this server by, and the secret that goes with it (RFC 6749 §2.3).</summary>
    public string AppId { get; set; } = "lit-fuse";

    /// <summary>See <see cref="AppId"/>.</summary>
    public string AppSecret { get; set; } = "backlot-demo-app";

    /// <summary>Where a network is.</summary>
    public Uri NetworkUrl(string kind) => new(Networks.GetValueOrDefault(kind, BacklotUrl).TrimEnd('/') + "/");

    /// <summary>Seconds by which the clock is moved, for demonstrations and tests.</summary>
    public double ClockShift { get; set; }

    /// <summary>See <see cref="OutboundRules.AllowPrivate"/>.</summary>
    public bool AllowPrivate { get; set; }

    /// <summary>See <see cref="IntakeLimits"/>.</summary>
    public IntakeLimits Intake { get; set; } = new();

    /// <summary>True where web pages and the door are served.</summary>
    public bool ServesWeb => Role is "all" or "web";

    /// <summary>True where the engine runs.</summary>
    public bool Works => Role is "all" or "worker";

    /// <summary>Reads them; says what is wrong in a sentence.</summary>
    /// <exception cref="SettingsException">A setting makes no sense.</exception>
    public static Settings Read(IConfiguration configuration, string[] args)
    {
        var settings = new Settings();
        var own = new ConfigurationBuilder()
            .AddInMemoryCollection(
                configuration
                    .AsEnumerable()
                    .Where(p => p.Key.StartsWith("LITFUSE_", StringComparison.Ordinal))
                    .Select(p =>
                        KeyValuePair.Create(
                            p.Key[8..]
                                .Replace("__", ":", StringComparison.Ordinal)
                                .Replace("_", "", StringComparison.Ordinal),
                            p.Value
                        )
                    )
            )
            .AddCommandLine(
                args,
                new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase)
                {
                    ["--urls"] = "Url",
                    ["--clock-shift"] = "ClockShift",
                    ["--public-url"] = "PublicUrl",
                    ["--backlot-url"] = "BacklotUrl",
                    ["--backlot-mail"] = "BacklotMail",
                    ["--web-root"] = "WebRoot",
                    ["--demo-share"] = "DemoShare",
                    ["--allow-private"] = "AllowPrivate",
                }
            )
            .Build();
        try
        {
            own.Bind(settings);
        }
        catch (InvalidOperationException e)
        {
            throw new SettingsException(e.Message);
        }

        if (settings.Role is not ("all" or "web" or "worker"))
            throw new SettingsException($"--role is 'all', 'web' or 'worker', not '{settings.Role}'.");
        if (!Uri.TryCreate(settings.Url, UriKind.Absolute, out _))
            throw new SettingsException($"--url needs an address such as http://127.0.0.1:5080, not '{settings.Url}'.");
        settings.PublicUrl = (settings.PublicUrl ?? settings.Url).TrimEnd('/');
        settings.BacklotUrl = settings.BacklotUrl.TrimEnd('/');
        if (
            string.IsNullOrEmpty(settings.BacklotMail)
            && Uri.TryCreate(settings.BacklotUrl, UriKind.Absolute, out var backlot)
        )
            settings.BacklotMail = string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"smtp://{backlot.Host}:{backlot.Port + 1}"
            );
        return settings;
    }
}

/// <summary>A setting that makes no sense.</summary>
public sealed class SettingsException(string message) : Exception(message);

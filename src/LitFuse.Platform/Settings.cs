namespace LitFuse.Platform;

/// <summary>
/// How this process runs: from the command line (<c>--role worker</c>), the environment (<c>LITFUSE_ROLE</c>), or
/// defaults, in that order.
/// </summary>
public sealed class Settings
{
    /// <summary><c>all</c>, <c>web</c> or <c>worker</c>.</summary>
    [Setting("What this process does: `all`, `web` (pages, API and the door) or `worker` (engine and deliveries).")]
    public string Role { get; set; } = "all";

    /// <summary>Where to listen.</summary>
    [Setting("Where it listens.", Unit = "address")]
    public string Url { get; set; } = "http://127.0.0.1:5080";

    /// <summary>Where people and services reach us, when that differs.</summary>
    [Setting(
        "Where people and services reach it, when that differs from where it listens; links in letters begin with it.",
        Unit = "address"
    )]
    public string? PublicUrl { get; set; }

    /// <summary>Npgsql connection string.</summary>
    [Setting("PostgreSQL, as an Npgsql connection string.", Unit = "connection string")]
    public string Db { get; set; } = "Host=127.0.0.1;Port=5432;Username=litfuse;Database=litfuse";

    /// <summary>Where the built front end lies.</summary>
    [Setting("Folder of the built front end.", Unit = "folder")]
    public string WebRoot { get; set; } = Path.Combine(AppContext.BaseDirectory, "wwwroot");

    /// <summary>Load the demonstration's data into an empty database.</summary>
    [Setting("Loads the demonstration into an empty database.")]
    public bool Demo { get; set; }

    /// <summary>How much of the demonstration's people to load, from 0 to 1; tests need few.</summary>
    [Setting("How much of the demonstration’s people are loaded, from 0 to 1.", Unit = "share, 0 to 1")]
    public double DemoShare { get; set; } = 1;

    /// <summary>Where the Backlot is, for the demonstration's data.</summary>
    [Setting("Where the Backlot is: the stand-ins for outside services.", Unit = "address")]
    public string BacklotUrl { get; set; } = "http://127.0.0.1:5090";

    /// <summary>Where the Backlot's mail door is; one port above its pages where nothing is said.</summary>
    [Setting("Where the Backlot’s mail door is.", Unit = "host:port")]
    public string? BacklotMail { get; set; }

    /// <summary>
    /// Addresses of networks by kind (<c>LITFUSE_NETWORKS__PLAZA</c>), where they are not the Backlot's.
    /// </summary>
    [Setting(
        "Where a network is, by its kind, when it is not the Backlot’s: `LITFUSE_NETWORKS__PLAZA` or `--networks:plaza`.",
        Unit = "address"
    )]
    public Dictionary<string, string> Networks { get; set; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>What networks know this server by, and the secret that goes with it (RFC 6749 §2.3).</summary>
    [Setting("What networks know this server by (RFC 6749 §2.3).")]
    public string AppId { get; set; } = "lit-fuse";

    /// <summary>See <see cref="AppId"/>.</summary>
    [Setting("The secret that goes with it.")]
    public string AppSecret { get; set; } = "backlot-demo-app";

    /// <summary>Where a network is.</summary>
    public Uri NetworkUrl(string kind) => new(Networks.GetValueOrDefault(kind, BacklotUrl).TrimEnd('/') + "/");

    /// <summary>Seconds by which the clock is moved, for demonstrations and tests.</summary>
    [Setting("Seconds by which the clock is moved; for demonstrations and tests.", Unit = "seconds")]
    public double ClockShift { get; set; }

    /// <summary>See <see cref="OutboundRules.AllowPrivate"/>.</summary>
    [Setting("Lets deliveries and webhooks go to private addresses, such as the Backlot’s on this machine.")]
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
            .AddCommandLine(args, SettingsHelp.Switches)
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

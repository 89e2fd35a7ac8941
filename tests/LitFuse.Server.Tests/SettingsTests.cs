using LitFuse.Platform;
using Microsoft.Extensions.Configuration;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>Each setting is explained where a person looks for it, and can be given in both ways.</summary>
public sealed class SettingsTests
{
    private static Settings Read(params string[] args) => Settings.Read(new ConfigurationBuilder().Build(), args);

    [Fact]
    public void The_addresses_are_fixed_unless_they_are_set()
    {
        Assert.Equal(
            ("http://127.0.0.1:5080", "http://127.0.0.1:5080", "http://127.0.0.1:5090"),
            (Read().Url, Read().PublicUrl, Read().BacklotUrl)
        );
        var moved = Read(
            "--url",
            "http://127.0.0.1:5180",
            "--public-url",
            "https://litfuse.example/",
            "--backlot-url",
            "http://127.0.0.1:5190/"
        );
        Assert.Equal(
            ("http://127.0.0.1:5180", "https://litfuse.example", "http://127.0.0.1:5190"),
            (moved.Url, moved.PublicUrl, moved.BacklotUrl)
        );
    }

    [Fact]
    public void The_environment_says_the_same_and_the_command_line_wins()
    {
        var environment = new ConfigurationBuilder()
            .AddInMemoryCollection([
                new("LITFUSE_ROLE", "worker"),
                new("LITFUSE_CLOCK_SHIFT", "60"),
                new("LITFUSE_INTAKE:PER_SECOND", "7"),
                new("ROLE", "boss"),
            ])
            .Build();
        var settings = Settings.Read(environment, []);
        Assert.Equal(("worker", 60d, 7), (settings.Role, settings.ClockShift, settings.Intake.PerSecond));
        Assert.Equal("web", Settings.Read(environment, ["--role", "web"]).Role);
    }

    [Theory]
    [InlineData("all", true, true)]
    [InlineData("web", true, false)]
    [InlineData("worker", false, true)]
    public void A_role_serves_pages_or_works_or_both(string role, bool serves, bool works) =>
        Assert.Equal((serves, works), (Read("--role", role).ServesWeb, Read("--role", role).Works));

    [Theory]
    [InlineData("--role", "boss")]
    [InlineData("--url", "somewhere")]
    [InlineData("--clock-shift", "soon")]
    public void What_makes_no_sense_is_refused(string name, string value) =>
        Assert.Throws<SettingsException>(() => Read(name, value));

    [Fact]
    public void The_page_of_settings_says_what_they_are()
    {
        var path = Path.Combine(Root.Path, "docs/settings.md");
        if (Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1")
            File.WriteAllText(path, SettingsHelp.Page());
        Assert.Equal(SettingsHelp.Page(), File.ReadAllText(path));
        Assert.All(SettingsHelp.Knobs, k => Assert.NotEmpty(k.What));
    }

    [Fact]
    public void Each_setting_is_taken_from_its_flag_and_from_its_variable()
    {
        foreach (var knob in SettingsHelp.Knobs.Where(k => k.Key != nameof(Settings.Networks)))
        {
            var other = knob.Default switch
            {
                "true" => "false",
                "false" => "true",
                _ => knob.Key switch
                {
                    nameof(Settings.Role) => "web",
                    _ when int.TryParse(knob.Default, out _) => "7",
                    _ => "http://127.0.0.1:7",
                },
            };
            var environment = new ConfigurationBuilder()
                .AddInMemoryCollection([KeyValuePair.Create<string, string?>(knob.Variable, other)])
                .Build();
            foreach (
                var read in new[]
                {
                    Settings.Read(new ConfigurationBuilder().Build(), [knob.Flag, other]),
                    Settings.Read(environment, []),
                }
            )
            {
                object of = read;
                foreach (var part in knob.Key.Split(':'))
                    of = of.GetType().GetProperty(part)!.GetValue(of)!;
                Assert.Equal(
                    other,
                    Convert.ToString(of, System.Globalization.CultureInfo.InvariantCulture),
                    ignoreCase: true
                );
            }
        }
    }

    [Theory]
    [InlineData("--help", "--intake-per-second")]
    [InlineData("--role web --help", "--intake-per-second")]
    [InlineData("--version", "Lit Fuse 0.9")]
    public async Task Who_asks_for_help_gets_it_and_nothing_starts(string asked, string said)
    {
        var before = Console.Out;
        try
        {
            using var told = new StringWriter();
            Console.SetOut(told);
            Assert.Equal(0, await Host.RunAsync(asked.Split(' ')));
            Assert.Contains(said, told.ToString(), StringComparison.Ordinal);
        }
        finally
        {
            Console.SetOut(before);
        }
    }
}

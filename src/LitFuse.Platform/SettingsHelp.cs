using System.Globalization;
using System.Reflection;
using System.Text;

namespace LitFuse.Platform;

/// <summary>Explains a setting to whoever runs the server.</summary>
/// <param name="what">What it does.</param>
[AttributeUsage(AttributeTargets.Property)]
public sealed class SettingAttribute(string what) : Attribute
{
    /// <summary>What it does.</summary>
    public string What { get; } = what;

    /// <summary>In what it is given: seconds, an address; empty for words.</summary>
    public string Unit { get; init; } = "";
}

/// <summary>One setting, as a person gives it.</summary>
/// <param name="Key">As configuration names it: <c>Intake:PerSecond</c>.</param>
/// <param name="Default">What it is where nobody says; empty: nothing, or worked out from another.</param>
/// <param name="Unit">In what it is given.</param>
/// <param name="What">What it does.</param>
public sealed record Knob(string Key, string Default, string Unit, string What)
{
    /// <summary>On the command line: <c>--intake-per-second</c>.</summary>
    public string Flag => "--" + string.Join('-', Words()).ToLowerInvariant();

    /// <summary>In the environment: <c>LITFUSE_INTAKE__PER_SECOND</c>.</summary>
    public string Variable =>
        "LITFUSE_" + string.Join("__", Key.Split(':').Select(part => string.Join('_', Split(part)))).ToUpperInvariant();

    private IEnumerable<string> Words() => Key.Split(':').SelectMany(Split);

    private static IEnumerable<string> Split(string name)
    {
        var begin = 0;
        for (var i = 1; i <= name.Length; i++)
        {
            if (i < name.Length && !char.IsUpper(name[i]))
                continue;
            yield return name[begin..i];
            begin = i;
        }
    }
}

/// <summary>
/// The settings in words, made from <see cref="Settings"/> itself: what <c>--help</c> prints, what stands in
/// <c>docs/settings.md</c>, and the flags that the command line knows. A setting without a description is not shown to
/// anybody, so a test holds that there is none.
/// </summary>
public static class SettingsHelp
{
    /// <summary>All of them, in the order in which they are declared.</summary>
    public static IReadOnlyList<Knob> Knobs { get; } = [.. Of(new Settings(), "")];

    /// <summary>Flags with dashes, as the command line is given them, and the keys they stand for.</summary>
    public static IDictionary<string, string> Switches { get; } =
        Knobs
            .Select(k => KeyValuePair.Create(k.Flag, k.Key))
            .Append(KeyValuePair.Create("--urls", nameof(Settings.Url)))
            .ToDictionary(StringComparer.OrdinalIgnoreCase);

    /// <summary>What <c>--version</c> prints.</summary>
    public static string Version =>
        "Lit Fuse "
        + (
            typeof(SettingsHelp)
                .Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()
                ?.InformationalVersion.Split('+')[0]
            ?? ""
        );

    /// <summary>What <c>--help</c> prints.</summary>
    public static string Text()
    {
        var text = new StringBuilder(
            $"{Version}: catches leads and sets off what follows.\n\nUsage: LitFuse.Server [--setting value]…   Each can also be given in the environment.\n\n"
        );
        foreach (var knob in Knobs)
        {
            text.Append(
                CultureInfo.InvariantCulture,
                $"  {knob.Flag}  ({knob.Variable})\n      {knob.What.Replace("`", "", StringComparison.Ordinal)}{(knob.Unit.Length > 0 ? $" ({knob.Unit})" : "")}\n"
            );
            if (knob.Default.Length > 0)
                text.Append(CultureInfo.InvariantCulture, $"      Default: {knob.Default}\n");
        }

        return text.Append("\n  --help, --version\n").ToString();
    }

    /// <summary>The page <c>docs/settings.md</c>.</summary>
    public static string Page()
    {
        var page = new StringBuilder(
            "# Settings\n\nMade from the settings themselves; a test holds it against them. The command line comes before the environment, and that before the default.\n\n| on the command line | in the environment | default | unit | what it does |\n| --- | --- | --- | --- | --- |\n"
        );
        foreach (var knob in Knobs)
            page.Append(
                CultureInfo.InvariantCulture,
                $"| `{knob.Flag}` | `{knob.Variable}` | {(knob.Default.Length > 0 ? $"`{knob.Default}`" : "")} | {knob.Unit} | {knob.What} |\n"
            );
        return page.ToString();
    }

    private static IEnumerable<Knob> Of(object of, string under)
    {
        foreach (var property in of.GetType().GetProperties().Where(p => p.CanWrite))
        {
            var value = property.GetValue(of);
            if (value is IntakeLimits inner)
            {
                foreach (var knob in Of(inner, under + property.Name + ":"))
                    yield return knob;
                continue;
            }

            // Where the program lies is another place on each machine.
            var shown =
                property.Name == nameof(Settings.WebRoot) ? "wwwroot, beside the program"
                : value is string or bool or int or double ? Convert.ToString(value, CultureInfo.InvariantCulture)!
                : "";
            var said = property.GetCustomAttribute<SettingAttribute>();
            yield return new(
                under + property.Name,
                value is bool yes
                    ? yes
                        ? "true"
                        : "false"
                    : shown,
                said?.Unit ?? "",
                said?.What ?? ""
            );
        }
    }
}

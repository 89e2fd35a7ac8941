using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;

namespace LitFuse.Server.Delivery;

/// <summary>
/// Where what a test sends goes: down the real line, said to be a test, or to one person's own addresses.
/// </summary>
public static class TestAim
{
    private const string Said = "TEST · ";

    /// <summary>The same thing as a test; or what is missing for sending it to <paramref name="me"/> alone.</summary>
    public static (Outgoing Aimed, string? Missing) At(Outgoing outgoing, User? me, bool onlyMe)
    {
        var settings = new Dictionary<string, string>(outgoing.Settings, StringComparer.Ordinal);
        // What has words says so in them; records are marked by their connector.
        var worded = settings.ContainsKey("subject") ? "subject" : "words";
        if (settings.TryGetValue(worded, out var said))
            settings[worded] = Said + said;
        if (!onlyMe)
            return (outgoing with { Settings = settings }, null);
        switch (outgoing.Kind)
        {
            case StepKinds.Text
            or StepKinds.TeamText
            or StepKinds.Ring
            or StepKinds.RingThrough
            or StepKinds.StopConfirmed:
                return me?.TestPhone is { } phone
                    ? (outgoing with { Settings = WithTo(settings, phone), To = phone }, null)
                    : (outgoing, Missing("telephone number", me));
            case StepKinds.ChannelPost or StepKinds.DirectPost:
                if (me?.TestPerson is not { } person)
                    return (outgoing, Missing("name in the team's chat", me));
                if (settings.TryGetValue("channel", out var channel))
                    settings[worded] = $"{Said}to {channel}: {outgoing.Settings.GetValueOrDefault("words")}";
                settings["person"] = person;
                return (outgoing with { Kind = StepKinds.DirectPost, Settings = settings }, null);
            case StepKinds.OptInEmail or StepKinds.Email or StepKinds.TeamEmail:
                if (me?.TestEmail is not { } email)
                    return (outgoing, Missing("email address", me));
                settings["to"] = email;
                settings.Remove(StepKinds.Copies);
                return (outgoing with { Settings = settings }, null);
            default:
                return (
                    outgoing,
                    $"a test for {me?.Name ?? "one person"} alone, and records are made for nobody alone"
                );
        }
    }

    private static Dictionary<string, string> WithTo(Dictionary<string, string> settings, string to)
    {
        settings["to"] = to;
        return settings;
    }

    private static string Missing(string what, User? me) =>
        $"a test for {me?.Name ?? "somebody"} alone, who has given no {what} under Setup";
}

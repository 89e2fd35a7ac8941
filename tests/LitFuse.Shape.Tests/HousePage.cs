using System.Globalization;
using System.Text;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>
/// Pages and pictures that are made from the house, and held against what is committed; <c>LITFUSE_WRITE=1</c> writes
/// them.
/// </summary>
public static class HousePage
{
    private static bool Writes => Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1";

    /// <summary>Holds a whole file.</summary>
    public static void Hold(string path, string made)
    {
        if (Writes)
            File.WriteAllText(path, made);
        Assert.True(
            File.Exists(path) && File.ReadAllText(path) == made,
            $"{Path.GetFileName(path)} is not as it would be made: run the test with LITFUSE_WRITE=1"
        );
    }

    /// <summary>Holds what stands between <c>&lt;!-- name --&gt;</c> and <c>&lt;!-- /name --&gt;</c>.</summary>
    public static void Hold(string path, string name, string made)
    {
        var (open, close, text) = ($"<!-- {name} -->\n", $"<!-- /{name} -->", File.ReadAllText(path));
        var from = text.IndexOf(open, StringComparison.Ordinal) + open.Length;
        var to = text.IndexOf(close, StringComparison.Ordinal);
        Assert.True(from >= open.Length && to >= from, $"{Path.GetFileName(path)} has no place for {name}");
        Hold(path, text[..from] + made + text[to..]);
    }

    /// <summary>The tables of layers and the list of features, from the top down.</summary>
    public static string Tables()
    {
        var page = new StringBuilder();
        foreach (
            var (title, layers) in new[]
            {
                ("The server's projects and rooms, from the top", House.Server),
                ("The core's rooms, from the top", House.Core),
                ("Folders of the front end (web/src), from the top", House.Web),
            }
        )
        {
            page.Append(
                CultureInfo.InvariantCulture,
                $"**{title}**\n\n| layer | rooms | what is done there |\n| --- | --- | --- |\n"
            );
            for (var i = layers.Count - 1; i >= 0; i--)
                page.Append(
                    CultureInfo.InvariantCulture,
                    $"| {i} | {string.Join(", ", layers[i].Rooms.Select(r => $"`{Shown(r)}`"))} | {layers[i].What} |\n"
                );
            page.Append('\n');
        }

        page.Append("**Features that know another one**\n\n| feature | knows |\n| --- | --- |\n");
        foreach (var (feature, known) in House.Features.OrderBy(f => f.Key, StringComparer.Ordinal))
            page.Append(
                CultureInfo.InvariantCulture,
                $"| `{feature}` | {string.Join(", ", known.Select(k => $"`{k}`"))} |\n"
            );
        return page.ToString();
    }

    private static string Shown(string room) =>
        room switch
        {
            "Core" => "LitFuse.Core",
            "Server" => "LitFuse.Server (Host)",
            "Server.Features" => "Features/*",
            "features" => "features/*",
            "api" or "ui" or "app" or "routes" => room,
            _ when room.Contains('.', StringComparison.Ordinal) => room[
                (room.IndexOf('.', StringComparison.Ordinal) + 1)..
            ],
            _ => "LitFuse." + room,
        };
}

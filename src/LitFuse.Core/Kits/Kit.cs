using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Kits;

/// <summary>A field as a kit looks at it.</summary>
public sealed record KitField(string Key, string Label, IReadOnlyList<string> Choices, FactType Type);

/// <summary>What a client has, for a kit to adapt itself to.</summary>
/// <param name="Forms">Keys of its forms, the busiest first.</param>
/// <param name="Fields">Lead fields that its forms fill.</param>
/// <param name="Channels">Of the team's chat.</param>
/// <param name="People">Of the team's chat.</param>
/// <param name="Colleagues">Ids of who works for it.</param>
/// <param name="Stages">Its stages.</param>
public sealed record KitSurroundings(
    IReadOnlyList<string> Forms,
    IReadOnlyList<KitField> Fields,
    IReadOnlyList<string> Channels,
    IReadOnlyList<string> People,
    IReadOnlyList<string> Colleagues,
    IReadOnlyList<string> Stages
)
{
    /// <summary>The first channel, or none.</summary>
    public string Channel => Channels.Count > 0 ? Channels[0] : "";

    /// <summary>A person of the chat, by place; the last for places beyond.</summary>
    public string Person(int place) => People.Count > 0 ? People[Math.Min(place, People.Count - 1)] : "";

    /// <summary>
    /// The choice field that tells small from large: one whose name says so, else the first with choices.
    /// </summary>
    public KitField? Size =>
        Fields.FirstOrDefault(f =>
            f.Choices.Count > 1 && SizeWords.Any(w => f.Key.Contains(w, StringComparison.Ordinal))
        ) ?? Fields.FirstOrDefault(f => f.Choices.Count > 1);

    /// <summary>A field that holds a day.</summary>
    public KitField? Date => Fields.FirstOrDefault(f => f.Type == FactType.Date);

    private static readonly string[] SizeWords = ["size", "fleet", "desks", "guests", "number", "how_many", "budget"];
}

/// <summary>A complete fuse to begin from.</summary>
/// <param name="Key">For the API.</param>
/// <param name="Name">What it does.</param>
/// <param name="For">When one wants it.</param>
/// <param name="Build">Makes it for a client.</param>
public sealed record Kit(string Key, string Name, string For, Func<KitSurroundings, FuseDefinition> Build);

using LitFuse.Core.Texts;
using LitFuse.Data;

namespace LitFuse.Server.Features.Sources;

/// <summary>Which pages of an account are a client's. An agency's account holds those of all its clients.</summary>
public static class ProposedPlaces
{
    /// <summary>
    /// Those whose names say the client's; where none does, those that no other client has. All of them (an empty list)
    /// where that tells nothing.
    /// </summary>
    /// <param name="client">The client's name.</param>
    /// <param name="places">All that the account shows.</param>
    /// <param name="elsewhere">Ids of those that sources of other clients have chosen.</param>
    public static IReadOnlyList<ChosenPlace> Of(
        string client,
        IReadOnlyList<ChosenPlace> places,
        IReadOnlySet<string> elsewhere
    )
    {
        var named = places.Where(p => !elsewhere.Contains(p.Id) && Names(p.Name, client)).ToList();
        if (named.Count == 0)
            named = [.. places.Where(p => !elsewhere.Contains(p.Id))];
        return named.Count == places.Count ? [] : named;
    }

    // The first word of a name is the one that tells it from others: what follows says what they do.
    private static bool Names(string place, string client) =>
        Tokens.Of(client) is [var first, ..] && Tokens.Of(place).Contains(first, StringComparer.Ordinal);
}
